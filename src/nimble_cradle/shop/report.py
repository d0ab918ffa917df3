"""The report: everything the program says about a job, as data (for scripts) and as text (for a person)."""

from __future__ import annotations

from typing import Any

import numpy as np

from nimble_cradle import __version__
from nimble_cradle.bay.position import position_words
from nimble_cradle.job.edits import figures
from nimble_cradle.job.job import Job
from nimble_cradle.judge.found import Verdict, standing_words
from nimble_cradle.judge.stages import NOT_APPROVED
from nimble_cradle.judge.verdict import stage_states, verdict
from nimble_cradle.survey.level import job_lean, trims
from nimble_cradle.survey.network import network
from nimble_cradle.telltales import tell_tales
from nimble_cradle.units import show

REPORT = 2
"""Number of the report's form; it changes when a name in ``report --json`` changes its meaning or goes."""


def _round(value: Any, places: int = 4) -> Any:
    if isinstance(value, (float, np.floating)):
        return round(float(value), places)
    if isinstance(value, np.ndarray):
        return [_round(v, places) for v in value.tolist()]
    if isinstance(value, (tuple, list)):
        return [_round(v, places) for v in value]
    if isinstance(value, dict):
        return {k: _round(v, places) for k, v in value.items()}
    return value


def _survey(job: Job) -> dict[str, Any]:
    net, lean = network(job), job_lean(job)
    return {
        "across_deg": lean.across_deg,
        "along_deg": lean.along_deg,
        "trims": [{"stand": t.stand.id, "lift_mm": t.lift} for t in trims(job.survey.level)],
        "points": [
            {"id": p.id, "name": p.name, "at_mm": p.at, "plus_minus_mm": p.plus_minus, "free": p.free}
            for p in net.points
        ],
        "readings": [
            {
                "id": r.id,
                "words": r.words,
                "residual_mm": r.residual,
                "w": r.w,
                "redundancy": r.redundancy,
                "state": r.state,
            }
            for r in net.readings
        ],
        "ties": [
            {"id": t.id, "rms_mm": t.rms, "residuals_mm": dict(t.residuals), "fault": t.fault}
            for t in net.ties
        ],
        "questions": net.questions,
    }


def report_data(job: Job, v: Verdict | None = None) -> dict[str, Any]:
    """Plain data in mm, N, kg, deg, MPa, Hz. Documented in docs/command-line.md; names are kept from one
    version to the next."""
    v = v or verdict(job)
    data: dict[str, Any] = {
        "report": REPORT,
        "program": __version__,
        "job": job.name,
        "holds": v.holds,
        "block_to_bush": v.block_to_bush,
        "rests_on": list(v.rests_on),
        "not_said": [{"path": f.path, "name": f.name} for f in v.not_said],
        "mount_verdicts": [
            {
                "mount": m.mount,
                "name": m.name,
                "block_to_bush": m.block_to_bush,
                "bush_to_rail": m.bush_to_rail,
                "questions": list(m.questions),
                "rail": m.rail,
            }
            for m in v.mounts
        ],
        "caution": NOT_APPROVED,
        "figures": figures(job),
        "position": {**job.position.model_dump(), "words": list(position_words(job))},
        "tell_tales": [
            {
                "id": t.id,
                "title": t.title,
                "value": t.value,
                "cause": t.cause,
                "state": t.state,
                "word": t.word,
            }
            for t in tell_tales(job, v)
        ],
        "stages": [
            {
                "id": s.id,
                "name": s.name,
                "state": s.state,
                "questions": list(s.questions),
                "measured": s.measured,
                "assumed": s.assumed,
                "asked_for": s.asked_for,
            }
            for s in stage_states(job, v)
        ],
        "problems": [{"stage": p.stage, "place": p.place, "sentence": p.sentence} for p in v.problems],
        "gaps": [
            {
                "piece": g.piece,
                "item": g.item,
                "gap_mm": g.gap,
                "required_mm": g.required,
                "give_or_take_mm": g.give_or_take,
                "travel_mm": g.travel,
                "travel_at": g.travel_at,
                "margin_at_rest_mm": g.margin_at_rest,
                "running_mm": g.running,
                "running_case": g.running_case,
                "margin_mm": g.margin,
                "state": g.state,
                "on_piece": g.on_piece,
                "on_item": g.on_item,
                "way_out": g.way,
            }
            for g in v.gaps
        ],
        "lowest_point": (
            None
            if v.lowest is None
            else {
                "piece": v.lowest.piece,
                "z_mm": v.lowest.z,
                "above_line_mm": v.lowest.above_line,
                "to_ground_mm": v.lowest.to_ground,
            }
        ),
        "driveline": (
            None
            if v.driveline is None
            else {
                "kind": v.driveline.kind,
                "plus_minus_deg": v.driveline.plus_minus,
                "most_deg": v.driveline.most,
                "plunge_mm": v.driveline.plunge,
                "front_deg": v.driveline.front,
                "rear_deg": v.driveline.rear,
                "difference_deg": v.driveline.difference,
                "length_mm": v.driveline.length,
                "angles_deg": v.driveline.angles,
                "joints": list(v.driveline.names),
                "residual_deg": v.driveline.residual,
                "acceleration_rad_s2": v.driveline.acceleration,
                "holds": v.driveline.holds,
                "faults": list(v.driveline.faults),
            }
        ),
        "front_axle_share_percent": None if v.share is None else v.share.percent,
        "front_axle_share_plus_minus": None if v.share is None else v.share.plus_minus,
        "survey": _survey(job),
        "powertrain": None,
        "mounts": [],
        "modes": [],
        "idle": None,
        "findings": [
            {
                "part": f.part,
                "part_name": f.part_name,
                "code": f.code,
                "what": f.what,
                "load": f.load,
                "capacity": f.capacity,
                "kind": f.kind,
                "use": f.use,
                "case": f.case,
                "factor": f.factor,
                "state": f.state,
                "working": f.worked.as_dict(),
            }
            for f in v.findings
        ],
    }
    if v.carried is not None:
        c = v.carried
        data["powertrain"] = {
            "mass_kg": c.mass.mass_kg,
            "centre_mm": c.centre,
            "inertia_kg_mm2": c.mass.inertia,
            "first_gear_torque_nm": c.torque.value("torque"),
            "reacted_nm": c.reacted[0],
            "reverse_reacted_nm": c.reverse.value("reacted"),
            "torque_by_engine_nm": c.torque.value("by_engine"),
            "torque_by_grip_nm": c.torque.value("by_grip"),
        }
        data["mounts"] = [
            {
                "mount": s.mount,
                "radial_n_mm": s.bush.radial,
                "axial_n_mm": s.bush.axial,
                "cases": [
                    {"case": r.case.id, "name": r.case.name, "force_n": m.force, "movement_mm": m.movement}
                    for r in c.cases
                    for m in r.mounts
                    if m.mount == s.mount
                ],
            }
            for s in c.springs
        ]
        data["cases"] = [
            {"case": r.case.id, "name": r.case.name, "move_mm": r.move, "turn_deg": np.degrees(r.turn)}
            for r in c.cases
        ]
        data["modes"] = [{"hz": m.frequency, "mostly": m.word, "share": m.share} for m in c.modes]
        data["idle"] = {
            "firing_hz": c.idle.frequency,
            "transmitted": c.idle.transmitted,
            "nominal": c.idle.nominal,
            "least": c.idle.least,
        }
    return dict(_round(data))


def report_text(job: Job, v: Verdict | None = None) -> str:
    """The report for a person."""
    v = v or verdict(job)
    d = job.show.display
    lines = [
        job.name,
        "=" * len(job.name),
        "",
        NOT_APPROVED,
        "",
        "The engine stands " + "; ".join(position_words(job)) + ".",
        "",
    ]
    for t in tell_tales(job, v):
        lines.append(f"  {t.title:24} {t.value:>22}  {t.word:18} {t.cause}")
    lines += ["", "Mounts, and what this rests on", *(f"  {line}" for line in standing_words(v))]
    if v.problems:
        lines += ["", "Open questions"]
        lines += [f"  {p.sentence}" for p in v.problems]
    lines += [
        "",
        f"Gaps (tightest first)      {'gap':>9} {'required':>9} {'± ':>7} {'running':>9} {'margin':>9}",
    ]
    for g in v.gaps:
        values = [
            show(x, "length", d)
            for x in (g.gap, g.required, g.give_or_take, g.gap if g.running is None else g.running, g.margin)
        ]
        lines.append(
            f"  {values[0]:>12} {values[1]:>9} {values[2]:>8} {values[3]:>9} {values[4]:>9}  {g.state:9}"
            f" {g.piece_name} – {g.item_name}" + (f" ({g.running_case})" if g.running_case else "")
        )
    lines += ["", "Strength (use of capacity)"]
    for f in sorted(v.findings, key=lambda f: -f.use):
        lines.append(
            f"  {100 * f.use:5.0f} %  {f.state:13} {f.part_name}: {f.what}, {show(f.load, f.kind, d)} of"
            f" {show(f.capacity, f.kind, d)} ({f.case})"
        )
    if v.carried is not None:
        lines += [
            "",
            "Natural frequencies: "
            + ", ".join(f"{m.word} {m.frequency:.1f} Hz" for m in v.carried.modes)
            + ".",
        ]
    return "\n".join(lines) + "\n"
