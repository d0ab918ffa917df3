"""Commands about mounts: a first proposal, fit-up, movement against shake, rocking."""

from __future__ import annotations

import argparse
from dataclasses import asdict
from functools import cache
from pathlib import Path
from typing import Any

from nimble_cradle.cli.output import UseError, json_text, new_file
from nimble_cradle.job import store
from nimble_cradle.job.base import JobError
from nimble_cradle.mounts.push import WAYS, Push


def add_mount_commands(rows: Any) -> None:
    """``propose``, ``fit-up``, ``trade-off``, ``rock``, ``raise``."""
    propose = rows.add_parser("propose", help="three whole mounts from block to rail, sized from the rack")
    propose.add_argument("job", type=Path)
    propose.add_argument("-o", "--out", type=Path, metavar="OUT", help="a job file that is not there yet")
    propose.add_argument("--json", action="store_true")
    propose.set_defaults(run=_propose)

    fit = rows.add_parser("fit-up", help="whether the bolts go in by hand, and what reaches them")
    fit.add_argument("job", type=Path)
    fit.add_argument("--placed", type=float, default=1.0, metavar="MM", help="brackets are placed within")
    fit.add_argument("--json", action="store_true")
    fit.set_defaults(run=_fit_up)

    trade = rows.add_parser("trade-off", help="movement against shake, by the hardness of each bush")
    trade.add_argument("job", type=Path)
    trade.add_argument("--mount", help="of one mount only")
    trade.add_argument("--json", action="store_true")
    trade.set_defaults(run=_trade_off)

    rock = rows.add_parser("rock", help="how stiff the bushes are, by how far the engine moved when pushed")
    rock.add_argument("job", type=Path)
    how = rock.add_mutually_exclusive_group(required=True)
    how.add_argument("--push", type=float, default=0.0, metavar="N", help="how hard, by hand")
    how.add_argument(
        "--throttle", type=float, default=0.0, metavar="SHARE", help="of first gear's full torque"
    )
    rock.add_argument(
        "--at",
        type=float,
        nargs=3,
        required=True,
        metavar=("FORWARD", "LEFT", "UP"),
        help="where, mm from the block's rear face and the crank line",
    )
    rock.add_argument("--way", choices=tuple(WAYS), required=True)
    rock.add_argument("--moved", type=float, required=True, metavar="MM", help="how far it went there")
    rock.add_argument("--within", type=float, default=0.2, metavar="MM", help="how sure that is")
    rock.add_argument("-o", "--out", type=Path, metavar="OUT", help="a job file so corrected")
    rock.add_argument("--json", action="store_true")
    rock.set_defaults(run=_rock)
    _add_raise(rows)


def _add_raise(rows: Any) -> None:
    raising = rows.add_parser("raise", help="the engine raised or lowered at its mounts, and what that asks")
    raising.add_argument("job", type=Path)
    raising.add_argument("--by", type=float, default=0.0, metavar="MM", help="at every mount; below 0 lowers")
    raising.add_argument(
        "--mount",
        action="append",
        default=[],
        metavar="ID=MM",
        help="at one mount by its own; may be repeated",
    )
    raising.add_argument("-o", "--out", type=Path, metavar="OUT", help="a job file so changed")
    raising.add_argument("--json", action="store_true")
    raising.set_defaults(run=_raise)


def _raise(a: argparse.Namespace) -> int:
    from nimble_cradle.design.raising import raised
    from nimble_cradle.judge.cautions import LIFTING

    opened = store.read(a.job)
    if a.out is not None:
        new_file(a.out, "a job file")
    by = {mount.id: a.by for mount in opened.job.mounts}
    for row in a.mount:
        key, _, mm = row.partition("=")
        try:
            by[key] = float(mm)
        except ValueError:
            raise JobError(f"--mount wants ID=MM, for example left=9.5, not {row}.") from None
    found = raised(opened.job, by)
    if a.out is not None:
        store.write(a.out, found.job, opened.log, opened.photos, fresh=True)
    if a.json:
        told = {"by": dict(found.by), "done": list(found.done), "tilt_deg": list(found.tilt_deg)}
        print(json_text(told | {"caution": LIFTING, "out": a.out and str(a.out)}))
        return 0
    print("\n".join([*(found.done or ("Nothing changes.",)), LIFTING]))
    return 0


def _propose(a: argparse.Namespace) -> int:
    from nimble_cradle.design.propose import proposed
    from nimble_cradle.judge.verdict import verdict
    from nimble_cradle.stock.rack import read_rack

    opened = store.read(a.job)
    if a.out is not None:
        new_file(a.out, "a job file")
    found = proposed(opened.job, read_rack())
    if a.out is not None:
        store.write(a.out, found.job, opened.log, opened.photos, fresh=True)
    judged = verdict(found.job)
    mounts = [
        {"mount": m.mount, "block_to_bush": m.block_to_bush, "bush_to_rail": m.bush_to_rail}
        for m in judged.mounts
    ]
    if a.json:
        print(json_text({"done": list(found.done), "mounts": mounts, "out": a.out and str(a.out)}))
        return 0
    print("\n".join(found.done or ("Every mount has its chassis side.",)))
    for m in judged.mounts:
        print(f"{m.name}: block to bush {m.block_to_bush}, bush to rail {m.bush_to_rail}")
    return 0


def _fit_up(a: argparse.Namespace) -> int:
    from nimble_cradle.mounts.fit_up import fit_up, fitting_words
    from nimble_cradle.seat.hands import reaches

    if not 0 < a.placed <= 20:
        raise UseError("--placed: brackets are placed within more than 0 and at most 20 mm")
    job = store.read(a.job).job
    fit, bolts = fit_up(job, a.placed), reaches(job)
    if a.json:
        rows = [{"name": r.name, "mount": r.mount, "reached": r.reached, "how": r.words} for r in bolts]
        print(json_text({"fit_up": None if fit is None else asdict(fit), "bolts": rows}))
        return 0
    print("\n".join(fitting_words(fit)) if fit is not None else "Two mounts are needed for that.")
    for r in bolts:
        print(f"{r.name}: {r.words}")
    return 0


def _trade_off(a: argparse.Namespace) -> int:
    from nimble_cradle.judge.quieter import quieter, quieter_words
    from nimble_cradle.judge.studies import capture_words, captures, trades_of

    job = store.read(a.job).job
    ids = [m.id for m in job.mounts]
    if a.mount is not None and a.mount not in ids:
        raise UseError(f"there is no mount “{a.mount}”; the job has {', '.join(ids) or 'none'}")
    mounts = {m.id: m for m in job.mounts}
    rows = cache(lambda: quieter(job))
    found = {key: trades_of(job, key) for key in ids if a.mount in (None, key)}
    held = captures(job)
    if a.json:
        told = {key: [asdict(p) | {"narrow": p.narrow} for p in points] for key, points in found.items()}
        other = [asdict(row) for row in rows()]
        print(json_text({"mounts": told, "captured": [asdict(c) for c in held], "quieter": other}))
        return 0
    for key, points in found.items():
        print(f"{mounts[key].name}: hardness, movement, shake at idle, at worst")
        for p in points:
            narrow = "  narrow" if p.narrow else ""
            print(f"  {p.hardness:g}  {p.moved:.1f} mm  {100 * p.shake:.0f} %  {100 * p.worst:.0f} %{narrow}")
        if said := quieter_words(job, points, mounts[key], rows):
            print(f"  {said}")
    print("\n".join(capture_words(job, held)))
    return 0


def _rock(a: argparse.Namespace) -> int:
    from nimble_cradle.judge.cautions import ROCKING
    from nimble_cradle.judge.studies import pushed_at, rocked_of, with_rocked
    from nimble_cradle.mounts.rocked import rocked_words

    opened = store.read(a.job)
    if a.out is not None:
        new_file(a.out, "a job file")
    push = Push(a.push, pushed_at(opened.job, tuple(a.at)), a.way, a.moved, a.within, a.throttle)
    found = rocked_of(opened.job, push)
    if a.out is not None:
        store.write(a.out, with_rocked(opened.job, found), opened.log, opened.photos, fresh=True)
    if a.json:
        told = asdict(found) | {"is_hardness": found.is_hardness, "caution": ROCKING}
        print(json_text(told | {"out": a.out and str(a.out)}))
        return 0
    print("\n".join([*rocked_words(found, push), ROCKING]))
    return 0
