"""The ``nimble-cradle`` command. Every answer can be had as JSON; errors are one line on standard error.

Exit codes: 0 done, 1 a job that fails its checks in ``report --strict`` or cannot be worked on, 2 bad use, 70
a fault of the program itself.
"""

from __future__ import annotations

import argparse
import sys
from collections.abc import Sequence
from pathlib import Path
from typing import Any

from nimble_cradle import __version__
from nimble_cradle.calc import (
    KINDS,
    CalcError,
    Calculation,
    Worked,
    all_calculations,
    check_results,
    like,
    read,
)
from nimble_cradle.cli.chassis_command import add_chassis_command
from nimble_cradle.cli.cut_lines_command import add_cut_lines_command
from nimble_cradle.cli.edit_commands import add_edit_commands
from nimble_cradle.cli.mount_commands import add_mount_commands
from nimble_cradle.cli.output import OneLineParser, UseError, json_text, new_file, plain_output, written
from nimble_cradle.cli.seat_commands import add_seat_commands
from nimble_cradle.cli.stock_command import add_stock_command
from nimble_cradle.cli.suspension_command import add_suspension_command
from nimble_cradle.cli.window_commands import add_window_commands
from nimble_cradle.faults import fault_sentence, report_fault
from nimble_cradle.files import read_text
from nimble_cradle.job import store
from nimble_cradle.job.base import JobError
from nimble_cradle.units import imperial


def main(arguments: Sequence[str] | None = None) -> int:
    """Run the command line. Gives the exit code."""
    plain_output()
    try:
        parsed = _parser().parse_args(_spoken(sys.argv[1:] if arguments is None else arguments))
    except SystemExit as leave:
        return int(leave.code or 0)
    try:
        return int(parsed.run(parsed))
    except UseError as error:
        print(f"nimble-cradle: {error}", file=sys.stderr)
        return 2
    except JobError as error:
        place = f" [{error.place}]" if error.place else ""
        print(f"nimble-cradle: {error.message}{place}", *error.faults, sep="\n  ", file=sys.stderr)
        return 1
    except KeyboardInterrupt:
        print("nimble-cradle: stopped", file=sys.stderr)
        return 130
    except BrokenPipeError:
        return 0
    except Exception as error:  # a fault of the program itself: one line, the rest in a report
        print(f"nimble-cradle: {fault_sentence(error, report_fault(error))}", file=sys.stderr)
        return 70


def _spoken(arguments: Sequence[str]) -> list[str]:
    """Nothing at all is the start page; a file by itself is to be opened."""
    if not arguments:
        return ["start"]
    first = arguments[0]
    looks_like_a_file = first.endswith((".cradle", ".previous")) or "/" in first
    return ["open", *arguments] if looks_like_a_file and not first.startswith("-") else list(arguments)


def _parser() -> argparse.ArgumentParser:
    parser = OneLineParser(
        prog="nimble-cradle", description="Put an engine and gearbox into a chassis that never had them."
    )
    parser.add_argument("--version", action="version", version=f"nimble-cradle {__version__}")
    rows = parser.add_subparsers(dest="command", required=True, metavar="COMMAND", parser_class=OneLineParser)
    add_window_commands(rows)
    _add_answers(rows)
    add_seat_commands(rows)
    add_edit_commands(rows)
    add_mount_commands(rows)
    add_chassis_command(rows)
    add_suspension_command(rows)
    add_cut_lines_command(rows)
    add_stock_command(rows)
    _add_survey_commands(rows)
    _add_calc(rows)
    _add_bench(rows)
    return parser


def _add_answers(rows: Any) -> None:
    """What the program says of a job, and what leaves it."""
    report = rows.add_parser("report", help="everything the program says about a job")
    report.add_argument("job", type=Path)
    report.add_argument("--json", action="store_true")
    report.add_argument(
        "--strict", action="store_true", help="exit 1 where anything is open or does not hold"
    )
    report.set_defaults(run=_report)

    pack = rows.add_parser("pack", help="write templates, DXF, SVG, cut list and report")
    pack.add_argument("job", type=Path)
    pack.add_argument("-o", "--out", type=Path, required=True, metavar="DIR")
    pack.add_argument("--paper", choices=("A4", "Letter"), default="A4")
    pack.add_argument("--json", action="store_true")
    pack.set_defaults(run=_pack)


def _add_survey_commands(rows: Any) -> None:
    """The survey on paper and as CSV."""
    survey = rows.add_parser("survey", help="the survey sheet as PDF, blank or filled")
    survey.add_argument("job", type=Path)
    survey.add_argument("-o", "--out", type=Path, required=True, metavar="FILE")
    survey.add_argument("--blank", action="store_true", help="to take under the car and write on")
    survey.add_argument("--paper", choices=("A4", "Letter"), default="A4")
    survey.set_defaults(run=_survey)

    readings = rows.add_parser("readings", help="readings as CSV; with --add, a CSV file into a new job file")
    readings.add_argument("job", type=Path)
    readings.add_argument("--add", type=Path, metavar="CSV")
    readings.add_argument("-o", "--out", type=Path, metavar="JOB")
    readings.set_defaults(run=_readings)


def _add_calc(rows: Any) -> None:
    """One calculation by itself."""
    calc = rows.add_parser("calc", help="one calculation by itself")
    calc.add_argument("name", nargs="?")
    calc.add_argument("inputs", nargs="*", metavar="key=value")
    calc.add_argument("--list", action="store_true", help="all calculations")
    calc.add_argument("--inch", action="store_true", help="results in inches, pounds and what follows")
    calc.add_argument("--json", action="store_true")
    calc.set_defaults(run=_calc)


def _add_bench(rows: Any) -> None:
    """Speed and memory."""
    bench = rows.add_parser("bench", help="measure speed and memory; medians as JSON")
    bench.add_argument("--quick", action="store_true", help="leave out what starts a window")
    bench.add_argument(
        "--seats",
        type=int,
        nargs="?",
        const=10,
        metavar="BAYS",
        help="only the search for seats, trades and ways out, with so many shifted bays; takes minutes",
    )
    bench.set_defaults(run=_bench)


def _report(a: argparse.Namespace) -> int:
    from nimble_cradle.judge.verdict import verdict
    from nimble_cradle.shop.report import report_data, report_text

    job = store.read(a.job).job
    judged = verdict(job)
    print(
        json_text(report_data(job, judged)) if a.json else report_text(job, judged),
        end="\n" if a.json else "",
    )
    return 1 if a.strict and not judged.holds else 0


def _pack(a: argparse.Namespace) -> int:
    from nimble_cradle.shop.pack import write_pack
    from nimble_cradle.stock.rack import read_rack

    files = write_pack(store.read(a.job).job, a.out, a.paper, rack=read_rack())
    names = [str(file) for file in files]
    print(json_text({"files": names}) if a.json else "\n".join(names))
    return 0


def _survey(a: argparse.Namespace) -> int:
    from nimble_cradle.shop.survey_sheet import survey_sheet

    data = survey_sheet(store.read(a.job).job, a.blank, a.paper)
    return written(a.out, data)


def _readings(a: argparse.Namespace) -> int:
    from nimble_cradle.survey.csv_readings import MOST_BYTES, to_csv, with_csv

    opened = store.read(a.job)
    if a.add is None:
        print(to_csv(opened.job), end="")
        return 0
    if a.out is None:
        raise UseError(
            "say with -o a job file that is not there yet: readings are never added to a job that may be open"
        )
    new_file(a.out, "a job file")
    after, count = with_csv(opened.job, read_text(a.add, MOST_BYTES), a.add.name)
    store.write(a.out, after, opened.log, opened.photos, fresh=True)
    print(f"{count} readings added: {a.out}")
    return 0


def run_calculation(calc: Calculation, pairs: Sequence[str]) -> Worked:
    """Run a calculation from ``key=value`` texts. Raises UseError with one sentence."""
    known = {quantity.name: quantity for quantity in calc.inputs}
    given: dict[str, Any] = {}
    for pair in pairs:
        key, sign, text = pair.partition("=")
        if not sign or key not in known:
            hint = like(key, known)
            raise UseError(
                f"“{pair[:60]}” is not an input of {calc.name}; it takes {', '.join(known)}.{hint}"
            )
        if key in given:
            raise UseError(f"{key} is given twice")
        try:
            given[key] = read(known[key], text)
        except CalcError as error:
            raise UseError(str(error)) from None
    import numpy as np

    try:
        with np.errstate(over="raise", divide="raise", invalid="raise"):
            worked = calc.work(dict.fromkeys(given, "typed"), **given)
        check_results(worked)
        return worked
    except ArithmeticError:
        raise UseError(
            f"{calc.name}: with these figures something is divided by nought or too large to be told"
        ) from None
    except ValueError as error:
        raise UseError(f"{calc.name}: {error}") from None


def _calc(a: argparse.Namespace) -> int:
    everything = all_calculations()
    if a.list or not a.name:
        chosen = [calculation for calculation in everything.values() if a.name in (None, calculation.name)]
        if a.json:
            print(json_text([calculation.as_dict() for calculation in chosen]))
        else:
            print("\n".join(_listed(calculation) for calculation in chosen))
        return 0
    if a.name not in everything:
        raise UseError(
            f"there is no calculation “{a.name[:60]}”; nimble-cradle calc --list names them."
            f"{like(a.name, everything)}"
        )
    worked = run_calculation(everything[a.name], a.inputs)
    if not a.json:
        print(working_text(worked, a.inch))
        return 0
    data = worked.as_dict()
    if a.inch:
        for row in data["results"]:
            row["inch_value"], row["inch_unit"] = in_inches(row["value"], row["unit"])
    print(json_text(data))
    return 0


def _listed(c: Calculation) -> str:
    """A calculation with its inputs and results, for a person to read."""
    lines = [f"{c.name}: {c.title}"]
    for sign, rows in (("  ", c.inputs), ("→ ", c.outputs)):
        for quantity in rows:
            usual = "" if quantity.default is None else f"; {quantity.default} where not given"
            takes = f" ({quantity.takes})" if quantity.takes else ""
            lines.append(
                f"  {sign}{quantity.name}"
                f" {f'[{quantity.unit}] ' if quantity.unit else ''}{quantity.meaning}{takes}{usual}"
            )
    return "\n".join(lines)


def in_inches(value: Any, unit: str) -> tuple[Any, str]:
    """A result in inches, pounds and what follows from them; as it is where it has no such unit."""
    if unit not in KINDS or not isinstance(value, int | float):
        return value, unit
    return imperial(float(value), KINDS[unit])


def working_text(worked: Worked, inch: bool = False) -> str:
    """A worked calculation for a person to read."""
    calculation = worked.calculation
    lines = [calculation.title, f"  {calculation.formula}"]
    lines += [
        f"  {quantity.name} = {_number(v)} {quantity.unit}   {quantity.meaning}"
        for quantity, v, _ in worked.inputs
    ]
    for q, v in worked.outputs:
        value, unit = in_inches(v, q.unit) if inch else (v, q.unit)
        lines.append(f"→ {q.name} = {_number(value)} {unit}   {q.meaning}")
    return "\n".join([*lines, f"  Source: {calculation.source}", f"  Leaves out: {calculation.leaves_out}"])


def _number(v: Any) -> str:
    return f"{v + 0.0:.6g}" if isinstance(v, float) else str(v)


def _bench(a: argparse.Namespace) -> int:
    if a.seats is not None:
        from nimble_cradle.cli.bench_seats import bench_seats

        print(json_text(bench_seats(a.seats)))
        return 0
    from nimble_cradle.cli.bench import bench

    print(json_text(bench(window=not a.quick)))
    return 0
