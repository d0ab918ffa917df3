"""The command about the chassis: sections before, cut and mended, and ways to put them back."""

from __future__ import annotations

import argparse
from dataclasses import asdict
from pathlib import Path
from typing import Any

from nimble_cradle.cli.output import UseError, json_text, new_file
from nimble_cradle.job import store
from nimble_cradle.job.base import JobError


def add_chassis_command(rows: Any) -> None:
    """``chassis``."""
    chassis = rows.add_parser(
        "chassis", help="rails and members, what cuts leave of them, and ways to put them back"
    )
    chassis.add_argument("job", type=Path)
    chassis.add_argument(
        "--keep-piece", metavar="CUT", help="what that cut, by its id, takes out becomes a thing of the bay"
    )
    chassis.add_argument("--panel", metavar="KIND", help="make a panel, one of panels_to_begin")
    chassis.add_argument("-o", "--out", type=Path, metavar="OUT", help="the job file with what was asked for")
    chassis.add_argument("--json", action="store_true")
    chassis.set_defaults(run=_chassis)
    cross = rows.add_parser("crossmember", help="its strength; the lightest section at hand that will do")
    cross.add_argument("job", type=Path)
    cross.add_argument(
        "--lightest", action="store_true", help="try every section at hand, the lightest first"
    )
    cross.add_argument(
        "--shapes", action="store_true", help="try other shapes too, each with every section at hand"
    )
    cross.add_argument("--drop-out", action="store_true", help="look how it comes out with the engine in")
    cross.add_argument("-o", "--out", type=Path, metavar="OUT", help="a job file with the lightest put in")
    cross.add_argument("--json", action="store_true")
    cross.set_defaults(run=_crossmember)


def _crossmember(a: argparse.Namespace) -> int:
    from nimble_cradle.design.lightest_crossmember import (
        candidates_of,
        candidates_of_shapes,
        with_candidate_section,
    )
    from nimble_cradle.judge.crossmember import crossmember_findings
    from nimble_cradle.seat.drop_out import drop_out
    from nimble_cradle.stock.rack import read_rack

    new_file(a.out, "a job file")
    opened = store.read(a.job)
    found = crossmember_findings(opened.job)
    look = candidates_of_shapes if a.shapes else candidates_of
    tried = look(opened.job, read_rack()) if a.lightest or a.shapes or a.out else ()
    best = next((row for row in tried if row.will_do), None)
    data: dict[str, Any] = {
        "findings": [{"check": f.code, "use": round(f.use, 4), "case": f.case} for f in found.findings],
        "questions": [problem.sentence for problem in found.problems],
        "sections": [
            {
                "name": row.name,
                "kg": round(row.kg, 3),
                "uses": {word: round(use, 4) for word, use in row.uses.items()},
                "stops": row.stops,
                "will_do": row.will_do,
                "points": row.points,
            }
            for row in tried
        ],
        "lightest": None if best is None else best.name,
    }
    out = drop_out(opened.job) if a.drop_out else None
    if out is not None:
        data["drop_out"] = {
            "found": out.found,
            "legs": [leg.words for leg in out.legs],
            "tried": out.tried,
            "stops": list(out.stops),
        }
    if a.json:
        print(json_text(data))
    else:
        lines = [f"{f.part_name}, {f.what}: {100 * f.use:.0f} %, {f.case}" for f in found.findings]
        for row in tried[: tried.index(best) + 1] if best is not None and not a.shapes else tried:
            lines.append(f"  {row.name}, {row.kg:.2f} kg: {row.words}")
        if out is not None:
            lines.append(f"Out with the engine in, bolts out, gearbox held up: {out.words}")
        print("\n".join([*lines, *(problem.sentence for problem in found.problems)]))
    if a.out is not None and best is not None:
        store.write(a.out, with_candidate_section(opened.job, best), opened.log, opened.photos, fresh=True)
    return 0 if best is not None or not (a.lightest or a.shapes or a.out) else 1


def _chassis(a: argparse.Namespace) -> int:
    from nimble_cradle.design.first_panel import first_panels, with_first_panels
    from nimble_cradle.judge.cautions import CUTTING
    from nimble_cradle.judge.chassis import FRAME_LEFT_OUT, LEFT_OUT
    from nimble_cradle.stock.rack import read_rack

    new_file(a.out, "a job file")
    opened = store.read(a.job)
    job, kept, made = opened.job, None, None
    if (a.keep_piece is None and a.panel is None) != (a.out is None):
        raise UseError("A piece is kept, or a panel made, with --keep-piece CUT or --panel KIND and -o OUT.")
    if a.keep_piece is not None:
        from nimble_cradle.design.kept_piece import with_piece_kept

        job, piece = with_piece_kept(job, a.keep_piece)
        kept = {"item": piece.id, "name": piece.name, "file": str(a.out)}
    if a.panel is not None:
        job, panel = with_first_panels(job, a.panel)
        made = {"panel": panel.id, "name": panel.name, "file": str(a.out)}
    if a.out is not None:
        store.write(a.out, job, opened.log, opened.photos, fresh=True)
    data = chassis_data(job, read_rack()) | {"kept": kept, "made": made, "panels_to_begin": first_panels(job)}
    if a.json:
        print(json_text(data))
    else:
        print("\n".join([*chassis_lines(data), "", LEFT_OUT, FRAME_LEFT_OUT, CUTTING]))
    return 0 if all(row["enough"] for row in data["openings"]) else 1


def chassis_data(job: Any, rack: Any) -> dict[str, Any]:
    """Members and openings as plain data: mm, cm2, cm4, shares of one."""
    from nimble_cradle.bay.member import members_of
    from nimble_cradle.design.mending import ways_to_mend
    from nimble_cradle.fit.opened_member import opened_members, walls_of_member
    from nimble_cradle.judge.chassis import opening_questions
    from nimble_cradle.judge.cracks import again_on, crack_questions
    from nimble_cradle.judge.panel_duty import duty_verdict
    from nimble_cradle.strength.section import thin_walled, works_pressed

    members, faults = members_of(job)
    rows = []
    for member in members:
        row: dict[str, Any] = {
            "item": member.item.id,
            "name": member.item.name,
            "long_mm": round(member.length, 1),
            "wide_mm": round(member.wide, 1),
            "tall_mm": round(member.tall, 1),
        }
        try:
            walls = walls_of_member(member)
            s = thin_walled(walls)
            row |= {
                "area_cm2": round(s.area / 100, 3),
                "bending_cm4": round(s.i_y / 1e4, 3),
                "sideways_cm4": round(s.i_z / 1e4, 3),
                "twist_cm4": round(s.torsion / 1e4, 4),
                "works_pressed": round(works_pressed(walls, member.item.host.yield_mpa), 4),
            }
        except (JobError, ValueError) as error:
            row["not_known"] = str(error)
        rows.append(row)
    cuts = []
    for opening, found in zip(job.openings, opened_members(job), strict=True):
        cut: dict[str, Any] = {"id": opening.id, "name": opening.name, "item": opening.item}
        if isinstance(found, JobError):
            cuts.append(cut | {"not_known": found.message, "enough": False})
            continue
        cut |= {
            "cut": _shares(found.shares(found.cut)),
            "cut_whole": _shares(found.whole(found.cut)),
            "mended": None if found.mended is None else _shares(found.shares(found.mended)),
            "mended_whole": None if found.mended is None else _shares(found.whole(found.mended)),
            "mend_kg": round(found.mend_kg, 3),
            "weld_mm": round(found.weld_mm, 1),
            "enough": found.enough,
            "brace": _brace(job, opening, rack),
            "ways": [
                {
                    "mend": way.mend,
                    "thick_mm": way.thick,
                    "kg": round(way.kg, 3),
                    "weld_mm": round(way.weld_mm, 1),
                    "leaves": _shares(way.shares),
                    "enough": way.enough,
                }
                for way in ways_to_mend(job, opening, rack)
            ],
        }
        cuts.append(cut)
    return {
        "members": rows,
        "frame": frame_data(job),
        "under_mounts": under_data(job),
        "ties": [
            {"id": f.part, "name": f.part_name, "check": f.code, "what": f.what, "use": round(f.use, 4)}
            for f in duty_verdict(job).findings
        ],
        "no_members": {key: error.message for key, error in faults.items()},
        "openings": cuts,
        "cracks": [
            {
                "id": c.id,
                "name": c.name,
                "item": c.item,
                "long_mm": c.long_mm,
                "done": c.done,
                "again_on": str(again_on(c) or ""),
            }
            for c in job.cracks
        ],
        "questions": [
            problem.sentence
            for problem in (*opening_questions(job), *crack_questions(job), *duty_verdict(job).problems)
        ],
    }


def _brace(job: Any, opening: Any, rack: Any) -> str:
    """What braces the frame while it is cut, in words."""
    from nimble_cradle.design.bracing import brace_for, brace_words

    try:
        return brace_words(brace_for(job, opening, rack))
    except JobError as error:
        return error.message


def frame_data(job: Any) -> dict[str, Any]:
    """The whole frame's shares as plain data, or why they are not known."""
    from nimble_cradle.fit.chassis_frame import frame_shares

    try:
        found = frame_shares(job)
    except JobError as error:
        return {"not_known": error.message}

    def bands(rows: Any) -> dict[str, list[float]]:
        return {when: [round(band.low, 4), round(band.high, 4)] for when, band in rows.items()}

    return {
        "members": list(found.members),
        "left_out": list(found.left_out),
        "twist": bands(found.twist),
        "bending": bands(found.bending),
        "one_more": [{"station_mm": x, "twist": round(share, 4)} for x, share in found.one_more],
    }


def under_data(job: Any) -> dict[str, Any]:
    """Every rail and member under the mounts as plain data, or why that is not known."""
    from nimble_cradle.judge.rails import NOT_IN_IT, one_more, rails_judged, station_words

    try:
        found, more = rails_judged(job), one_more(job)
    except JobError as error:
        return {"not_known": error.message}
    front, rear = found.use.rests
    return {
        "bars": [
            {"id": f.part, "name": f.part_name, "use": round(f.use, 4), "what": f.what, "case": f.case}
            for f in found.findings
        ],
        "rests_mm": {"front": round(front, 1), "rear": round(rear, 1), "assumed": found.use.assumed},
        "one_more": {
            "now": round(more.now, 4),
            "places": [
                {name: round(v, 4) for name, v in asdict(row).items()}
                | {"where": station_words(row.station, job.show.display)}
                for row in more.places
            ],
        },
        "left_out": [NOT_IN_IT, *found.use.left_out],
    }


def _shares(shares: Any) -> dict[str, float]:
    return {name: round(value, 4) for name, value in asdict(shares).items()}


def chassis_lines(data: dict[str, Any]) -> list[str]:
    """The same for a terminal."""
    lines = ["Rails and members:"]
    for row in data["members"]:
        told = row.get("not_known") or (
            f"bending {row['bending_cm4']:.1f} cm4, sideways {row['sideways_cm4']:.1f}, twist"
            f" {row['twist_cm4']:.2f}"
        )
        lines.append(f"  {row['name']}, {row['wide_mm']:.0f} x {row['tall_mm']:.0f} mm: {told}")
    lines += [f"  {message}" for message in data["no_members"].values()]
    whole = data["frame"]
    if "not_known" in whole:
        lines += ["", whole["not_known"]]
    else:
        lines += ["", f"The whole frame, of {', '.join(whole['members'])}:"]
        for when, word in (("cut", "cut"), ("mended", "put back")):
            (low, high), (soft, stiff) = whole["twist"][when], whole["bending"][when]
            lines.append(
                f"  {word}: twist {100 * low:.0f} to {100 * high:.0f} %, bending {100 * soft:.0f} to"
                f" {100 * stiff:.0f} % of what it was"
            )
        lines += [f"  not in it: {message}" for message in whole["left_out"]]
    lines += _under_lines(data["under_mounts"])
    for row in data["ties"]:
        lines.append(f"  {row['name']}, {row['what']}: used {100 * row['use']:.0f} %")
    for cut in data["openings"]:
        lines += ["", f"{cut['name']}:"]
        if "not_known" in cut:
            lines.append(f"  {cut['not_known']}")
            continue
        for key, word in (("cut", "where it is cut"), ("mended", "there, put back")):
            if cut[key] is not None:
                lines.append(f"  {word}: {_told(cut[key])} of what it was")
        lines.append(f"  before it is cut: {cut['brace']}")
        for way in cut["ways"]:
            lines.append(
                f"  put back with {way['mend']}, {way['thick_mm']:g} mm, {way['kg']:.1f} kg,"
                f" {way['weld_mm']:.0f} mm of weld: {_told(way['leaves'])}"
                f"{'' if way['enough'] else ', not enough'}"
            )
    asked: list[str] = data["questions"]
    return [*lines, *([""] if asked else []), *asked]


def _under_lines(under: dict[str, Any]) -> list[str]:
    """What the mounts ask of rails and members."""
    lines = ["", under.get("not_known") or "Under the mounts:"]
    for row in under.get("bars", ()):
        lines.append(f"  {row['name']}, {row['what']}: used {100 * row['use']:.0f} %, {row['case']}")
    if more := under.get("one_more"):
        best = min(more["places"], key=lambda row: max(row["rest"], row["itself"]), default=None)
        if best is not None:
            lines.append(
                f"  one more member across, {best['where']}: the others at most"
                f" {100 * best['rest']:.0f} %, without it {100 * more['now']:.0f} %; itself"
                f" {100 * best['itself']:.0f} %"
            )
    lines += [f"  not in it: {message}" for message in under.get("left_out", ())]
    return lines


def _told(shares: dict[str, float]) -> str:
    low, high = sorted((shares["twist_free"], shares["twist_held"]))
    return f"bending {100 * shares['up']:.0f} %, twist {100 * low:.1f} to {100 * high:.1f} %"
