"""Speed and memory, measured: medians as JSON. Never a test: machines differ.

Each figure is measured as a user meets it: a new job value each time, so that nothing is answered from memory that a real
edit would not leave there.
"""

from __future__ import annotations

import os
import platform
import resource
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

from nimble_cradle import __version__
from nimble_cradle.demo import demo_folder
from nimble_cradle.fit.position import nudged
from nimble_cradle.job import store
from nimble_cradle.job.edits import with_value
from nimble_cradle.job.job import Job
from nimble_cradle.verdict import rest_gaps, running_gaps, verdict


def _median_ms(act: Callable[[int], Any], times: int) -> float:
    """Median of ``times`` runs in ms, after two that are not counted."""
    taken = []
    for i in range(times + 2):
        start = time.perf_counter()
        act(i)
        taken.append(1000 * (time.perf_counter() - start))
    return round(statistics.median(taken[2:]), 2)


def _nudged_jobs(job: Job, count: int, side: float) -> list[Job]:
    return [with_value(job, "position", nudged(job, (-0.37 * i - 0.1, side, 0.0))) for i in range(count)]


def bench(window: bool = True) -> dict[str, Any]:
    """All figures by name, with the target where the issue sets one."""
    job = store.read(demo_folder("light-truck")).job
    verdict(job)
    near, far, full = _nudged_jobs(job, 32, 0.3), _nudged_jobs(job, 22, -0.2), _nudged_jobs(job, 22, 0.1)
    hard = [with_value(job, "mounts/left/bush/hardness_shore_a", 40.0 + 0.3 * i) for i in range(22)]
    sized = [with_value(job, "mounts/left/bush/length_mm", 50.0 + 0.3 * i) for i in range(12)]
    out: dict[str, Any] = {
        "program": __version__, "machine": f"{platform.machine()}, {os.cpu_count()} cores",
        "gaps at rest after a nudge, ms (wanted: under 10)": _median_ms(lambda i: rest_gaps(near[i]), 30),
        "gaps at rest and running after a nudge, ms": _median_ms(lambda i: running_gaps(far[i]), 20),
        "all findings after a nudge, ms (wanted: under 150)": _median_ms(lambda i: verdict(full[i]), 20),
        "all findings after a harder bush, ms (wanted: under 150)": _median_ms(lambda i: verdict(hard[i]), 20),
        "all findings after a bush of another size, ms (wanted: under 150)": _median_ms(lambda i: verdict(sized[i]), 10),
    }
    from nimble_cradle.shop.pack import write_pack

    with tempfile.TemporaryDirectory() as folder:
        out["shop pack, warm, ms (wanted: under 3000)"] = _median_ms(lambda i: write_pack(job, Path(folder) / str(i)), 3)
        path = Path(folder) / "save.cradle"
        out["save, ms"] = _median_ms(lambda i: store.write(path, near[i]), 10)
        out["open, ms"] = _median_ms(lambda i: store.read(path), 10)
        start = time.perf_counter()
        subprocess.run([sys.executable, "-m", "nimble_cradle", "pack", str(demo_folder("light-truck")), "-o", str(Path(folder) / "cold")], check=True,
                       stdout=subprocess.DEVNULL)
        out["shop pack from the command line, start included, ms"] = round(1000 * (time.perf_counter() - start))
    out["memory of the core, MB"] = round(resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024)
    if window:
        out.update(_window())
    return out


def _window() -> dict[str, Any]:
    """Start-up and memory of the real window, each start a program of its own."""
    from nimble_cradle.desk.start import ensure_screen

    ensure_screen(last=True)
    taken, memory = [], []
    with tempfile.TemporaryDirectory() as data:
        environment = {**os.environ, "NIMBLE_CRADLE_READY": "1", "XDG_DATA_HOME": data}
        for _ in range(5):
            start = time.perf_counter()
            run = subprocess.Popen([sys.executable, "-m", "nimble_cradle", "demo"], env=environment, stdout=subprocess.PIPE, text=True)
            assert run.stdout is not None
            line = run.stdout.readline()
            taken.append(1000 * (time.perf_counter() - start))
            if not line.startswith("ready"):
                return {"window": "did not start"}
            run.stdout.read()
            run.wait()
            memory.append(int(line.split()[1]))
    return {"window usable from the command, warm, ms (wanted: under 2000)": round(statistics.median(taken[1:])),
            "memory of the window, MB (wanted: under 500)": max(memory)}
