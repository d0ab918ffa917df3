"""The report: everything the program says about a job, as data (for scripts) and as text (for a person)."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import asdict
from typing import Any

import numpy as np

from nimble_cradle import __version__
from nimble_cradle.bay.position import position_words
from nimble_cradle.findings.finding import Finding
from nimble_cradle.fit.driveline import Driveline
from nimble_cradle.fit.gap import Gap
from nimble_cradle.fit.lowest import LowestPoint
from nimble_cradle.job.edits import figures
from nimble_cradle.job.job import Job
from nimble_cradle.judge.carried import Carried
from nimble_cradle.judge.found import Verdict, standing_words
from nimble_cradle.judge.load_path import MountVerdict
from nimble_cradle.judge.stages import NOT_APPROVED
from nimble_cradle.judge.studies import rest_share_words, rest_shares_of
from nimble_cradle.judge.verdict import stage_states, verdict
from nimble_cradle.mounts.locked import forced_stiffness
from nimble_cradle.mounts.shares import RestShare
from nimble_cradle.mounts.springs import Spring
from nimble_cradle.survey.level import job_lean, trims
from nimble_cradle.survey.network import network
from nimble_cradle.telltales import TellTale, tell_tales
from nimble_cradle.units import Display, show

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
        "trims": [{"stand": trim.stand.id, "lift_mm": trim.lift} for trim in trims(job.survey.level)],
        "points": [
            {
                "id": point.id,
                "name": point.name,
                "at_mm": point.at,
                "plus_minus_mm": point.plus_minus,
                "free": point.free,
            }
            for point in net.points
        ],
        "readings": [
            {
                "id": reading.id,
                "words": reading.words,
                "residual_mm": reading.residual,
                "w": reading.w,
                "redundancy": reading.redundancy,
                "state": reading.state,
            }
            for reading in net.readings
        ],
        "ties": [
            {"id": tie.id, "rms_mm": tie.rms, "residuals_mm": dict(tie.residuals), "fault": tie.fault}
            for tie in net.ties
        ],
        "questions": net.questions,
    }


def report_data(job: Job, v: Verdict | None = None) -> dict[str, Any]:
    """Plain data in mm, N, kg, deg, MPa, Hz. Documented in docs/command-line.md; names are kept from one
    version to the next."""
    v = v or verdict(job)
    data = {
        **_standing(job, v),
        "gaps": [_gap(gap) for gap in v.gaps],
        "lowest_point": None if v.lowest is None else _lowest(v.lowest),
        "driveline": None if v.driveline is None else _driveline(v.driveline),
        "front_axle_share_percent": None if v.share is None else v.share.percent,
        "front_axle_share_plus_minus": None if v.share is None else v.share.plus_minus,
        "survey": _survey(job),
        "powertrain": None,
        "mounts": [],
        "struts": [],
        "modes": [],
        "idle": None,
        "findings": [_finding(finding) for finding in v.findings],
        **(
            {}
            if v.carried is None
            else _carried(v.carried, {s.id for s in job.struts}, rest_shares_of(job, v.carried))
        ),
    }
    return dict(_round(data))


def _standing(job: Job, v: Verdict) -> dict[str, Any]:
    """Where the job stands: verdicts, figures, the six, stages and problems."""
    return {
        "report": REPORT,
        "program": __version__,
        "job": job.name,
        "holds": v.holds,
        "block_to_bush": v.block_to_bush,
        "rests_on": list(v.rests_on),
        "not_said": [{"path": fact.path, "name": fact.name} for fact in v.not_said],
        "mount_verdicts": [_mount_verdict(mount) for mount in v.mounts],
        "caution": NOT_APPROVED,
        "figures": figures(job),
        "position": {**job.position.model_dump(), "words": list(position_words(job))},
        "tell_tales": [_tale(tale) for tale in tell_tales(job, v)],
        "stages": [{**asdict(state), "questions": list(state.questions)} for state in stage_states(job, v)],
        "problems": [asdict(problem) for problem in v.problems],
    }


def _mount_verdict(m: MountVerdict) -> dict[str, Any]:
    return {
        "mount": m.mount,
        "name": m.name,
        "block_to_bush": m.block_to_bush,
        "bush_to_rail": m.bush_to_rail,
        "questions": list(m.questions),
        "rail": m.rail,
        "rail_questions": list(m.rail_questions),
        "chain": [
            {
                "part": link.part,
                "use": link.use,
                "check": None if link.finding is None else link.finding.code,
                "case": None if link.finding is None else link.finding.case,
            }
            for link in m.chain
        ],
    }


def _tale(t: TellTale) -> dict[str, Any]:
    return {name: getattr(t, name) for name in ("id", "title", "value", "cause", "state", "word")}


def _gap(g: Gap) -> dict[str, Any]:
    return {
        "piece": g.piece,
        "item": g.item,
        "names": [g.piece_name, g.item_name],
        "stage": g.stage,
        "gap_mm": g.gap,
        "required_mm": g.required,
        "give_or_take_mm": g.give_or_take,
        "travel_mm": g.travel,
        "travel_at": g.travel_at,
        "margin_at_rest_mm": g.margin_at_rest,
        "running_mm": g.running,
        "running_case": g.running_case,
        "at_least": g.at_least,
        "margin_mm": g.margin,
        "state": g.state,
        "on_piece": g.on_piece,
        "on_item": g.on_item,
        "way_out": g.way,
    }


def _lowest(low: LowestPoint) -> dict[str, Any]:
    return {"piece": low.piece, "z_mm": low.z, "above_line_mm": low.above_line, "to_ground_mm": low.to_ground}


def _driveline(line: Driveline) -> dict[str, Any]:
    return {
        "kind": line.kind,
        "plus_minus_deg": line.plus_minus,
        "most_deg": line.most,
        "plunge_mm": line.plunge,
        "front_deg": line.front,
        "rear_deg": line.rear,
        "difference_deg": line.difference,
        "length_mm": line.length,
        "angles_deg": line.angles,
        "joints": list(line.names),
        "residual_deg": line.residual,
        "acceleration_rad_s2": line.acceleration,
        "holds": line.holds,
        "faults": list(line.faults),
    }


def _finding(f: Finding) -> dict[str, Any]:
    named = (
        "part",
        "part_name",
        "code",
        "what",
        "load",
        "capacity",
        "kind",
        "use",
        "case",
        "factor",
        "state",
    )
    return {**{name: getattr(f, name) for name in named}, "working": f.worked.as_dict()}


def _carried(c: Carried, struts: set[str], shares: Sequence[RestShare]) -> dict[str, Any]:
    """The powertrain on its mounts: mass, loads and movement case by case, natural frequencies."""
    return {
        "powertrain": {
            "mass_kg": c.mass.mass_kg,
            "centre_mm": c.centre,
            "inertia_kg_mm2": c.mass.inertia,
            "first_gear_torque_nm": c.torque.value("torque"),
            "reacted_nm": c.reacted[0],
            "reverse_reacted_nm": c.reverse.value("reacted"),
            "torque_by_engine_nm": c.torque.value("by_engine"),
            "torque_by_grip_nm": c.torque.value("by_grip"),
        },
        "mounts": [
            {**_mount(c, spring), "forced_n_mm": forced_stiffness(c.springs, i, c.centre)}
            for i, spring in enumerate(c.springs)
            if spring.mount not in struts
        ],
        "rest_shares": [
            {"mount": r.mount, "now_n": r.now, "least_n": r.least, "most_n": r.most} for r in shares
        ],
        "struts": [_mount(c, spring) for spring in c.springs if spring.mount in struts],
        "cases": [
            {
                "case": case.case.id,
                "name": case.case.name,
                "move_mm": case.move,
                "turn_deg": np.degrees(case.turn),
            }
            for case in c.cases
        ],
        "modes": [{"hz": mode.frequency, "mostly": mode.word, "share": mode.share} for mode in c.modes],
        "idle": {
            "firing_hz": c.idle.frequency,
            "transmitted": c.idle.transmitted,
            "nominal": c.idle.nominal,
            "least": c.idle.least,
        },
    }


def _mount(c: Carried, s: Spring) -> dict[str, Any]:
    """One mount: its stiffness, and what it carries and gives in every case."""
    return {
        "mount": s.mount,
        "radial_n_mm": s.bush.radial,
        "axial_n_mm": s.bush.axial,
        "cases": [
            {
                "case": case.case.id,
                "name": case.case.name,
                "force_n": mount.force,
                "movement_mm": mount.movement,
            }
            for case in c.cases
            for mount in case.mounts
            if mount.mount == s.mount
        ],
    }


def _chain_lines(v: Verdict) -> list[str]:
    """The way of the load of every mount, block first."""
    lines = []
    for mount in v.mounts:
        lines += ["", f"{mount.name}, from block to rail"]
        for link in mount.chain:
            told = (
                "not judged"
                if link.finding is None
                else f"{100 * link.finding.use:4.0f} %  {link.finding.what}"
            )
            lines.append(f"  {link.part:32} {told}")
    return lines


def report_text(job: Job, v: Verdict | None = None) -> str:
    """The report for a person."""
    v = v or verdict(job)
    lines = [
        *(job.name, "=" * len(job.name), "", NOT_APPROVED, ""),
        "The engine stands " + "; ".join(position_words(job)) + ".",
        "",
        *(f"  {tale.title:24} {tale.value:>22}  {tale.word:18} {tale.cause}" for tale in tell_tales(job, v)),
        "",
        "Mounts, and what this rests on",
        *(f"  {line}" for line in standing_words(v)),
        *_chain_lines(v),
    ]
    if v.problems:
        lines += ["", "Open questions", *(f"  {problem.sentence}" for problem in v.problems)]
    lines += _gap_lines(job, v)
    lines += ["", "Strength (use of capacity)"]
    lines += [_finding_line(f, job.show.display) for f in sorted(v.findings, key=lambda f: -f.use)]
    if v.carried is not None:
        told = ", ".join(f"{mode.word} {mode.frequency:.1f} Hz" for mode in v.carried.modes)
        lines += ["", f"Natural frequencies: {told}."]
        shared = rest_share_words(job, rest_shares_of(job, v.carried))
        lines += ["", shared] if shared else []
    return "\n".join(lines) + "\n"


def _gap_lines(job: Job, v: Verdict) -> list[str]:
    display = job.show.display
    lines = [
        "",
        f"Gaps (tightest first)      {'gap':>9} {'required':>9} {'± ':>7} {'running':>9} {'margin':>9}",
    ]
    for gap in v.gaps:
        running = gap.gap if gap.running is None else gap.running
        told = [
            show(x, "length", display) for x in (gap.gap, gap.required, gap.give_or_take, running, gap.margin)
        ]
        if gap.running is None:
            told[3] = "—"
        elif gap.at_least:
            told[3] = f"≥ {told[3]}"
        lines.append(
            f"  {told[0]:>12} {told[1]:>9} {told[2]:>8} {told[3]:>9} {told[4]:>9}  {gap.state:9}"
            f" {gap.piece_name} – {gap.item_name}" + (f" ({gap.running_case})" if gap.running_case else "")
        )
    return lines


def _finding_line(f: Finding, display: Display) -> str:
    return (
        f"  {100 * f.use:5.0f} %  {f.state:13} {f.part_name}: {f.what}, {show(f.load, f.kind, display)} of"
        f" {show(f.capacity, f.kind, display)} ({f.case})"
    )
