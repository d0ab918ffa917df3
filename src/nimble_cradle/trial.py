"""A job tried in a process of its own, where it can harm nobody: whether the program lives through judging
it.

Used for edits that no verdict had come back for when the program ended.
"""

from __future__ import annotations

import resource
import signal
import subprocess
import sys
import tempfile
from collections.abc import Sequence
from pathlib import Path

from nimble_cradle.errors import JobError
from nimble_cradle.guarded import at_most
from nimble_cradle.job import store
from nimble_cradle.job.job import Job
from nimble_cradle.judge.verdict import stage_states, verdict
from nimble_cradle.telltales import tell_tales

CPU_SECONDS = 60
"""Computing time that a job may take to be judged on trial: many times what the demos take."""
MEMORY = 3_000_000_000
"""What judging a job may take; the largest tried took a tenth of both."""


def tried(job: Job, command: Sequence[str] = (sys.executable, "-m", "nimble_cradle.trial")) -> str:
    """What became of the program when it judged the job, in words that follow "which"; empty where all was
    well. command: what is run on the job's file."""
    with tempfile.TemporaryDirectory(prefix="nimble-cradle-") as folder:
        path = Path(folder) / "tried.cradle"
        try:
            store.write(path, job)
        except JobError as error:
            return f"cannot be saved ({error.message.rstrip('.')})"
        code = subprocess.run(
            [*command, str(path)],
            stdin=subprocess.DEVNULL,
            stdout=subprocess.DEVNULL,
            stderr=subprocess.DEVNULL,
            check=False,
        ).returncode
    if code == 0:
        return ""
    if code in (-signal.SIGXCPU, -signal.SIGKILL):
        return f"was still being judged after {CPU_SECONDS} s"
    return "ended the program" if code < 0 else "the program could not judge"


def _limit() -> None:
    """No more than a job takes; what goes beyond ends this process."""
    at_most(resource.RLIMIT_CPU, CPU_SECONDS)
    at_most(resource.RLIMIT_DATA, MEMORY)
    at_most(resource.RLIMIT_CORE, 0)


if __name__ == "__main__":
    _limit()
    judged = store.read(Path(sys.argv[1])).job
    found = verdict(judged)
    tell_tales(judged, found)
    stage_states(judged, found)
