"""Commands that open the window: the start page, a job, a new one, a demo, pictures."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import Any

from nimble_cradle.cli.output import UseError, json_text
from nimble_cradle.demo import DEMOS
from nimble_cradle.design.begin import CHASSIS, DRIVEN, ENGINES, UNITS, Answers
from nimble_cradle.files import there
from nimble_cradle.job import store


def add_window_commands(rows: Any) -> None:
    """The window: demo, open, pictures."""
    demo = rows.add_parser("demo", help="open a made-up job")
    demo.add_argument("--job", default="light-truck", help=f"which: {', '.join(DEMOS)}")
    demo.add_argument("--shot", metavar="FILE", help="take a picture of the window as PNG and close")
    demo.add_argument("--stage", default="position", help="stage to open at")
    demo.add_argument(
        "--fresh",
        action="store_true",
        help="begin the demo again; your copy so far is kept under another name",
    )
    demo.set_defaults(run=_demo)

    rows.add_parser("start", help="the start page (also without any command)").set_defaults(run=_start)

    beginner = rows.add_parser("new", help="begin a job of your own and open it")
    beginner.add_argument("file", type=Path)
    beginner.add_argument("--chassis", choices=tuple(CHASSIS), default="frame")
    beginner.add_argument("--engine", choices=tuple(ENGINES), default="along")
    beginner.add_argument("--driven", choices=tuple(DRIVEN), default="rear")
    beginner.add_argument("--units", choices=tuple(UNITS), default="mm")
    beginner.add_argument(
        "--fixed", metavar="THING", nargs="*", default=["rack"], help="what must stay as it is"
    )
    beginner.add_argument("--no-window", action="store_true", help="only write the file")
    beginner.add_argument(
        "--json", action="store_true", help="write the file and tell what is left to measure"
    )
    beginner.set_defaults(run=_new)

    opener = rows.add_parser("open", help="open a job file (also without the word open)")
    opener.add_argument("file", type=Path)
    opener.set_defaults(run=_open)

    shots = rows.add_parser("shots", help="one PNG of every stage, from the demo job")
    shots.add_argument("folder", type=Path)
    shots.set_defaults(run=_shots)


def _demo(a: argparse.Namespace) -> int:
    if a.job not in DEMOS:
        raise UseError(f"there is no demo job “{a.job}”; there is {', '.join(DEMOS)}")
    from nimble_cradle.desk.start import run_demo

    return run_demo(a.job, a.stage, Path(a.shot) if a.shot else None, a.fresh)


def _open(a: argparse.Namespace) -> int:
    store.read(a.file)
    from nimble_cradle.desk.start import run_file

    return run_file(a.file)


def _start(a: argparse.Namespace) -> int:
    from nimble_cradle.desk.start import run_start

    return run_start()


def _new(a: argparse.Namespace) -> int:
    from nimble_cradle.design.begin import things_of, write_new_job
    from nimble_cradle.design.to_measure import to_measure

    known = [thing.id for thing in things_of(a.chassis)]
    wrong = next((thing for thing in a.fixed if thing not in known), None)
    if wrong is not None:
        raise UseError(f"“{wrong[:40]}” is nothing that can be fixed there; there is {', '.join(known)}")
    path = a.file if a.file.suffix == ".cradle" else a.file.with_name(f"{a.file.name}.cradle")
    if there(path):
        raise UseError(f"{path.name} is there already: a new job never replaces a file")
    answers = Answers(a.chassis, a.engine, a.driven, a.units, tuple(a.fixed))
    if a.json or a.no_window:
        left = to_measure(write_new_job(path, answers))
        rows = [
            {"what": line.what, "left": line.left, "first": line.names, "stage": line.stage} for line in left
        ]
        print(json_text({"file": str(path), "left": rows}) if a.json else f"Written: {path}")
        return 0
    from nimble_cradle.desk.start import run_new

    return run_new(path, answers)


def _shots(a: argparse.Namespace) -> int:
    from nimble_cradle.desk.start import run_shots

    return run_shots(a.folder)
