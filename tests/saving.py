"""A process that opens a job, works on it and is killed: what it said was done must be there afterwards.

Run as a program it keeps everything imported and forks a worker for each line ``path seed`` on its standard
input, so that a round costs no start. A worker tells after each step, once that is on the disk, what is in
its job then.
"""

from __future__ import annotations

import json
import os
import random
import signal
import subprocess
import sys
import time
from pathlib import Path
from typing import Any

from nimble_cradle.job.edits import with_value
from nimble_cradle.job.open_job import OpenJob


def state(place: OpenJob) -> dict[str, Any]:
    """What may not be lost of a job: the present figure, the remarks, the photographs."""
    return {
        "y": place.job.position.y,
        "notes": sum(str(row.get("what")).startswith("Note") for row in place.log),
        "photos": len(place.photos),
    }


def work(path: Path, seed: int) -> None:
    """Edit, remark, undo, keep photographs and save until killed."""
    chance = random.Random(seed)
    place = OpenJob(path)
    y = place.job.position.y
    while True:
        what = chance.choices(("edit", "note", "undo", "photo", "save"), (8, 2, 1, 2, 2))[0]
        if what == "edit":
            y += 1
            place.edit(f"to {y:g}\u2028", with_value(place.job, "position/y", y))
            place.judged()
        elif what == "note":
            place.note(f"remark {y:g}\u0085 with a line that is none")
        elif what == "undo" and place.undo():
            place.redo()
        elif what == "photo":
            place.add_photo("p.png", b"\x89PNG\r\n\x1a\n" + chance.randbytes(60_000))
        elif what == "save":
            place.save()
        place.flush()
        print(json.dumps(state(place)), flush=True)


class Nursery:
    """Workers one after another, each killed at a moment of the caller's choice."""

    def __init__(self) -> None:
        self._run = subprocess.Popen(
            [sys.executable, __file__], stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True
        )

    def killed(self, path: Path, seed: int, after: float) -> list[dict[str, Any]]:
        """What a worker said was on the disk before it was killed, ``after`` seconds from its first word."""
        assert self._run.stdin is not None and self._run.stdout is not None
        self._run.stdin.write(f"{seed} {path}\n")
        self._run.stdin.flush()
        worker = int(self._run.stdout.readline())
        told = [json.loads(self._run.stdout.readline())]
        time.sleep(after)
        os.kill(worker, signal.SIGKILL)
        for line in self._run.stdout:
            if line.endswith("gone\n"):  # perhaps behind half a word of the one that was killed
                break
            if line.endswith("}\n"):
                told.append(json.loads(line))
        return told

    def close(self) -> None:
        """No more workers."""
        self._run.kill()
        self._run.wait()
        for stream in (self._run.stdin, self._run.stdout):
            assert stream is not None
            stream.close()


if __name__ == "__main__":
    for order in sys.stdin:
        number, name = order.rstrip("\n").split(" ", 1)
        told, tell = os.pipe()
        child = os.fork()
        if child == 0:
            os.read(told, 1)  # not a word before its number has been told
            work(Path(name), int(number))
        print(child, flush=True)
        os.write(tell, b"x")
        os.close(told)
        os.close(tell)
        os.waitpid(child, 0)
        print("gone", flush=True)
