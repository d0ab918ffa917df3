"""Walks at random over the real window for as long as it is let, and tells the first faults, what led to
them, and how the memory grew. Run by hand, never in CI:

    python tests/long/walk.py [--hours 2] [--seed 1] [--steps 400] [--job light-truck]

Each walk begins with a fresh copy of a job; walk N of seed S is the same each time.
"""

from __future__ import annotations

import argparse
import random
import resource
import sys
import tempfile
import time
import traceback
from pathlib import Path

sys.path.insert(0, str(Path(__file__).resolve().parent.parent))

from nimble_cradle.demo import DEMOS, write_demo
from nimble_cradle.desk.opened import open_desk
from nimble_cradle.desk.start import application, ensure_screen
from nimble_cradle.job import store
from nimble_cradle.job.new import new_job

from walking import Walk, at_rest, no_dialogs


def main() -> int:
    """Gives 1 where there was a fault."""
    parser = argparse.ArgumentParser(
        description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter
    )
    parser.add_argument("--hours", type=float, default=1.0)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--steps", type=int, default=400)
    parser.add_argument("--job", choices=(*DEMOS, "blank"))
    a = parser.parse_args()
    ensure_screen()
    app = application()
    no_dialogs(setattr)
    faults: list[str] = []
    sys.excepthook = lambda kind, error, trace: faults.append("".join(traceback.format_exception(error)))
    until, seed, failed = time.monotonic() + 3600 * a.hours, a.seed, 0
    with tempfile.TemporaryDirectory() as folder:
        while time.monotonic() < until:
            name = a.job or random.Random(seed).choice((*DEMOS, "blank"))
            path = Path(folder) / f"{seed}.cradle"
            if name == "blank":
                store.write(path, new_job("Blank"))
            else:
                write_demo(name, path)
            desk = open_desk(path)
            desk.activateWindow()
            app.processEvents()
            walk = Walk(desk, seed)
            try:
                for _ in range(a.steps):
                    walk.step()
                    if faults or time.monotonic() > until:
                        break
            except Exception:
                faults.append(traceback.format_exc())
            at_rest(desk)
            desk.session.place.count_as_saved()
            desk.close()
            desk.deleteLater()
            app.processEvents()
            megabytes = _resident()
            print(f"walk {seed} on {name}: {len(walk.done)} steps, {megabytes:.0f} MB", flush=True)
            for fault in faults[:2]:
                failed += 1
                print("  …", *walk.done[-8:], sep="\n  ")
                print(fault, flush=True)
            faults.clear()
            seed += 1
    print(f"{failed} faults; peak {resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024:.0f} MB")
    return 1 if failed else 0


def _resident() -> float:
    """Memory in use, MB."""
    pages = int(Path("/proc/self/statm").read_text().split()[1])
    return pages * resource.getpagesize() / 1e6


if __name__ == "__main__":
    sys.exit(main())
