"""The command about the suspension: curves before and after, rods to make, the rack's place."""

from __future__ import annotations

import argparse
from dataclasses import asdict
from pathlib import Path
from typing import Any

import numpy as np

from nimble_cradle.cli.output import json_text, written
from nimble_cradle.job import store
from nimble_cradle.job.base import JobError


def add_suspension_command(rows: Any) -> None:
    """``suspension``."""
    wheels = rows.add_parser(
        "suspension", help="wheels through their travel on their linkage, before and after pivots are moved"
    )
    wheels.add_argument("job", type=Path)
    wheels.add_argument("--json", action="store_true")
    wheels.add_argument("--sheet", type=Path, default=None, metavar="FILE", help="setting of the rods, PDF")
    wheels.set_defaults(run=_suspension)


def _suspension(a: argparse.Namespace) -> int:
    from nimble_cradle.judge.cautions import PIVOTS
    from nimble_cradle.judge.suspension import SUSPENSION_LEFT_OUT

    job = store.read(a.job).job
    if a.sheet is not None:
        from nimble_cradle.shop.rod_sheet import rods_pdf

        if not job.rods:
            raise JobError("There is no adjustable rod in the job, so there is nothing to set.", "rods")
        return written(a.sheet, rods_pdf(job))
    data = suspension_data(job)
    if a.json:
        print(json_text(data))
    else:
        print("\n".join([*_lines(data), "", SUSPENSION_LEFT_OUT, PIVOTS]))
    return 1 if data["questions"] else 0


def suspension_data(job: Any) -> dict[str, Any]:
    """Every wheel and axle as plain data: mm, degrees."""
    from nimble_cradle.fit.linked_axle import axles_found
    from nimble_cradle.fit.suspension import corners_found
    from nimble_cradle.judge.rods import rod_questions
    from nimble_cradle.judge.suspension import suspension_questions

    wheels, axles = [], []
    named = [one for one in job.suspensions if one.kind != "live axle"]
    for one, found in zip(named, corners_found(job), strict=True):
        row: dict[str, Any] = {"id": one.id, "name": one.name, "kind": one.kind}
        if isinstance(found, JobError):
            wheels.append(row | {"not_known": found.message})
            continue
        row |= {
            "moved": found.moved,
            "before": _curves(found.before),
            "after": _curves(found.after),
            "rods": _rods(found.rods),
            "rack_up_mm": _rounded(found.rack_up),
            "outer_ball_up_mm": _rounded(found.ball_up),
            "half_shaft": _shaft(job, one),
            "lock": _lock(job, one),
        }
        wheels.append(row)
    for one, axle in zip(
        [s for s in job.suspensions if s.kind == "live axle"], axles_found(job), strict=True
    ):
        row = {"id": one.id, "name": one.name, "kind": one.kind}
        if isinstance(axle, JobError):
            axles.append(row | {"not_known": axle.message})
            continue
        row |= {"moved": axle.moved, "rods": _rods(axle.rods)}
        for key, curves in (("before", axle.before), ("after", axle.after)):
            row[key] = {
                "up_mm": _list(curves.up),
                "nose_deg": _list(curves.nose),
                "ahead_mm": _list(curves.ahead),
                "left_mm": _list(curves.left),
                "lean_deg": _list(curves.lean),
                "steers_deg": _list(curves.steers),
                "aside_mm": _list(curves.aside),
                "forced_mm": round(curves.forced, 4),
            }
        axles.append(row)
    return {
        "rods": [_set(rod) for rod in job.rods],
        "wheels": wheels,
        "axles": axles,
        "questions": [problem.sentence for problem in (*suspension_questions(job), *rod_questions(job))],
    }


def _set(rod: Any) -> dict[str, Any]:
    """An adjustable rod, mm and kN."""
    from nimble_cradle.judge.rods import buckles_at, setting_of

    carries, what = buckles_at(rod)
    told = {f"{key}_mm": round(value, 3) for key, value in asdict(setting_of(rod)).items()}
    for key in ("turns_in", "turns_out"):
        told[key] = told.pop(f"{key}_mm")
    return {"id": rod.id, "name": rod.name, **told, "buckles_kn": round(carries, 3), "gives": what}


def _shaft(job: Any, corner: Any) -> dict[str, Any] | None:
    """Its half-shaft before and after, degrees and mm."""
    from nimble_cradle.fit.real_shaft import real_shaft

    try:
        both = real_shaft(job, corner)
    except JobError:
        return None
    if both is None:
        return None
    return {
        when: {k: _rounded(v) for k, v in asdict(s).items()}
        for when, s in zip(("before", "after"), both, strict=True)
    }


def _lock(job: Any, corner: Any) -> dict[str, Any] | None:
    """How far it turns, degrees, with the rack to the left, mm; None where the rack's travel is not said."""
    from nimble_cradle.fit.steering import locks_found
    from nimble_cradle.judge.suspension import axle_at_lock, locks_words

    for found in locks_found(job):
        if not isinstance(found, JobError) and found.corner.id == corner.id:
            both = {
                key: {
                    "rack_mm": _list(one.rack),
                    "turns_left_deg": _list(one.turns),
                    "rod_from_arm_deg": _list(one.lever),
                }
                for key, one in (("before", found.before), ("after", found.after))
            }
            pairs = [
                {
                    "to": pair.to,
                    "inner_deg": round(pair.inner, 3),
                    "outer_deg": round(pair.outer, 3),
                    "of_rolling_without_slip_percent": round(pair.share, 2),
                    "circle_mm": round(pair.circle, 1),
                }
                for pair in axle_at_lock(job, found)
            ]
            return {**both, "with_the_other_wheel": pairs, "words": locks_words(found)}
    return None


def _curves(curves: Any) -> dict[str, Any]:
    return {
        "up_mm": _list(curves.up),
        "toe_deg": _list(curves.toe),
        "toe_doubt_deg": _list(curves.toe_doubt),
        "camber_deg": _list(curves.camber),
        "aside_mm": _list(curves.aside),
        "steers_deg_on_10_mm": round(curves.steers, 5),
        "caster_deg": round(curves.caster, 4),
        "reach_mm": list(curves.reach),
    }


def _rods(rods: Any) -> list[dict[str, Any]]:
    return [{k: v if isinstance(v, str) else round(v, 3) for k, v in asdict(rod).items()} for rod in rods]


def _list(values: Any) -> list[float | None]:
    return [round(float(v), 5) if np.isfinite(v) else None for v in values]


def _rounded(value: float | None) -> float | None:
    return None if value is None else round(value, 3)


def _lines(data: dict[str, Any]) -> list[str]:
    lines = []
    for row in [*data["wheels"], *data["axles"]]:
        lines.append(f"{row['name']}, {row['kind']}:")
        if "not_known" in row:
            lines.append(f"  {row['not_known']}")
            continue
        for key in ("before", "after") if row["moved"] else ("before",):
            c = row[key]
            told = (
                f"nose {_ends(c['nose_deg'])} deg, steers {_ends(c['steers_deg'])} deg leaning"
                if "nose_deg" in c
                else f"toe {_ends(c['toe_deg'])} deg, camber {_ends(c['camber_deg'])} deg, foot outwards"
                f" {_ends(c['aside_mm'])} mm; steers {c['steers_deg_on_10_mm']:+.3f} deg on 10 mm at ride"
            )
            lines.append(f"  {key}, down and up: {told}")
        if row.get("lock"):
            lines.append(f"  {row['lock']['words']}")
        for rod in row["rods"]:
            by = f", now {rod['now']:.1f} ({rod['now'] - rod['was']:+.1f})" if row["moved"] else ""
            lines.append(f"  {rod['name']}: {rod['was']:.1f} mm{by}")
        for key, word in (("rack_up_mm", "rack"), ("outer_ball_up_mm", "rod's outer ball")):
            if row.get(key) is not None:
                lines.append(f"  {word} {row[key]:+.1f} mm up gives the old steering at ride back")
    for rod in data["rods"]:
        lines.append(
            f"{rod['name']}: a turn {rod['turn_mm']:.2f} mm, {rod['shortest_mm']:.1f} to"
            f" {rod['longest_mm']:.1f} mm, {rod['engaged_mm']:.1f} mm of thread in it at each end,"
            f" {rod['need_mm']:.1f} has to be"
        )
    if not lines:
        lines = ["No wheel's suspension is measured in this job."]
    return [*lines, *([""] if data["questions"] else []), *data["questions"]]


def _ends(values: list[float | None]) -> str:
    low, high = values[0], values[-1]
    return " and ".join("not reached" if v is None else f"{v:+.2f}" for v in (low, high))
