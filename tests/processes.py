"""What the tests ask of other processes."""

from __future__ import annotations

import os
import subprocess
import time
from collections.abc import Iterable, Mapping, Sequence
from pathlib import Path
from typing import Any


def alive(pid: int) -> bool:
    """Whether a process runs; one that has ended and waits to be counted does not."""
    try:
        return Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()[0] != "Z"
    except OSError:
        return False


def left_after(pids: Iterable[int], seconds: float = 20.0) -> list[int]:
    """Those of some processes that are still there after a while."""
    left, until = list(pids), time.monotonic() + seconds
    while left and time.monotonic() < until:
        time.sleep(0.05)
        left = [p for p in left if alive(p)]
    return left


def children(pid: int) -> list[int]:
    """Processes that a process, or a thread of it, started."""
    try:
        return [
            int(c)
            for task in Path(f"/proc/{pid}/task").iterdir()
            for c in (task / "children").read_text().split()
        ]
    except OSError:
        return []


def child(
    command: Sequence[str], env: Mapping[str, str], text: bool = True
) -> subprocess.CompletedProcess[Any]:
    """Run a process to its end with some of the environment changed (an empty value takes a name out)."""
    whole = {**os.environ, **env}
    for name in [n for n, v in env.items() if not v]:
        del whole[name]
    return subprocess.run(list(command), env=whole, capture_output=True, text=text, timeout=120, check=False)
