"""Panels that tie the rails, carry the steering rack and guard the sump: whether they do."""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import Any

from nimble_cradle.bay.cut_solids import solid_of
from nimble_cradle.bay.member import Member, members_of
from nimble_cradle.calc import Calculation
from nimble_cradle.findings.finding import Finding, Problem
from nimble_cradle.fit.tie_panel import TiePanel, tie_of
from nimble_cradle.geometry.solids import ConvexPart
from nimble_cradle.job.base import JobError
from nimble_cradle.job.job import Job
from nimble_cradle.job.panel import Duty
from nimble_cradle.job.remember import remembered
from nimble_cradle.judge.found import Verdict
from nimble_cradle.judge.guard import problem_of
from nimble_cradle.stock.threads import thread
from nimble_cradle.strength.bolts import FRICTION, SLIP, preload
from nimble_cradle.strength.tie_guard import GUARD_BEAM, GUARD_PLATE, RACK_MOVES, rack_moves

HEAD = 0.65
"""A hexagon head is so many diameters high (ISO 4014, from memory: 0.64 at M10)."""
RACK, STONE = "greatest force along the rack", "thrown on a stone"
REACH = 15.0
"""A tie ends no farther than so many mm from the wall of a rail."""


@remembered("panels", "items", "survey", "meshes", "allowables")
def duty_verdict(job: Job) -> Verdict:
    """Findings of every panel with such a duty, and what is open about it."""
    findings: list[Finding] = []
    problems: list[Problem] = []
    rails = _rails(job) if any(panel.duty for panel in job.panels) else []
    for panel in job.panels:
        if panel.duty is None:
            continue
        try:
            tie = tie_of(panel)
        except JobError as error:
            problems.append(problem_of("chassis", error))
            continue
        findings += _rack(job, tie, panel.duty) + _guard(job, tie, panel.duty)
        problems += _asked(job, tie, panel.duty, rails)
    return Verdict(findings=tuple(findings), problems=tuple(problems))


def _rails(job: Job) -> list[Member]:
    return [m for m in members_of(job)[0] if abs(m.end[0] - m.start[0]) > abs(m.end[1] - m.start[1])]


def _finding(
    tie: TiePanel,
    code: str,
    what: str,
    load: float,
    case: str,
    factor: float,
    calc: Calculation,
    given: Mapping[str, Any],
    cure: str,
) -> Finding:
    worked = calc.work({"length": "the panel", "load": "the panel", "force": "the panel"}, **given)
    use = float(worked.value("use"))
    return Finding(
        code,
        "chassis",
        tie.panel.id,
        tie.panel.name,
        what,
        load,
        load / use if use > 1e-12 else 0.0,
        "force",
        use,
        case,
        factor,
        worked,
        cure,
    )


def _rack(job: Job, tie: TiePanel, duty: Duty) -> list[Finding]:
    force = 1000.0 * duty.rack_kn
    if force <= 0:
        return []
    factor = job.allowables.rare_factor
    high = duty.rack_high_mm
    moved, _ = rack_moves(force, tie.length, tie.section.area, tie.section.i_y, high, tie.e_mpa)
    toe = math.degrees(math.atan2(moved, duty.steering_arm_mm))
    clamp = preload(duty.tightening_nm, thread(duty.bolt).diameter, job.allowables.nut_factor)
    return [
        _finding(
            tie,
            "tie-rack",
            f"stiffness under the rack, which moves {moved:.2f} mm: {toe:.2f} deg of toe",
            force,
            RACK,
            1.0,
            RACK_MOVES,
            {
                "force": force,
                "length": tie.length,
                "area": tie.section.area,
                "inertia": tie.section.i_y,
                "high": high,
                "e_mpa": tie.e_mpa,
                "least": 1000.0 * duty.rack_least_kn_mm,
            },
            "higher lips, a thicker sheet, the rack nearer to it",
        ),
        _finding(
            tie,
            "tie-slip",
            "bolts to the rails against the rack",
            force * factor,
            RACK,
            factor,
            SLIP,
            {
                "shear": force * factor / (2 * duty.bolts),
                "tension": force * factor * high / tie.length,
                "bolts": duty.bolts,
                "clamp": clamp,
                "friction": FRICTION,
            },
            "more bolts, larger ones, tightened more",
        ),
    ]


def _guard(job: Job, tie: TiePanel, duty: Duty) -> list[Finding]:
    load = 1000.0 * duty.stone_kn * job.allowables.rare_factor
    if load <= 0:
        return []
    factor, patch = job.allowables.rare_factor, duty.stone_mm
    beam = {
        "load": load,
        "length": tie.length,
        "patch": patch,
        "modulus": tie.modulus,
        "yield_mpa": tie.yield_mpa,
    }
    out = [
        _finding(
            tie, "tie-guard", "as a beam on a stone", load, STONE, factor, GUARD_BEAM, beam, "higher lips"
        )
    ]
    if tie.lips == 2:
        plate = {
            "load": load,
            "wide": tie.wide,
            "patch": patch,
            "thick": tie.panel.thick_mm,
            "yield_mpa": tie.yield_mpa,
        }
        cure = "a thicker sheet, lips nearer to one another"
        what = "its sheet between the lips on a stone"
        out.append(_finding(tie, "tie-plate", what, load, STONE, factor, GUARD_PLATE, plate, cure))
    return out


def _asked(job: Job, tie: TiePanel, duty: Duty, rails: list[Member]) -> list[Problem]:
    """Whether it reaches both rails, its heads and itself stay above their bottoms, and it is bolted."""
    panel, out = tie.panel, []
    base = f"panels/{panel.id}"

    def ask(field: str, sentence: str) -> None:
        out.append(Problem("chassis", f"{base}/{field}", f"{panel.name}: {sentence}."))

    ends = {"left": tie.line[0], "right": tie.line[1]}
    for word, end in ends.items():
        near = [m for m in rails if (m.start[1] > 0) == (word == "left") and _beside(m, float(end[0]))]
        away = min((abs(float(end[1] - _at(m, float(end[0]))[1])) - m.wide / 2 for m in near), default=None)
        if away is None:
            ask("outline", f"there is no {word} rail of known section where it ends")
        elif away > REACH:
            ask("outline", f"its {word} end is {away:.0f} mm from the rail that it is to tie")
        bottoms = [_bottom(job, m, float(end[0])) for m in near]
        hangs = tie.lowest - (0.0 if duty.countersunk else HEAD * thread(duty.bolt).diameter)
        if bottoms and hangs < min(bottoms) - 0.5:
            below = min(bottoms) - hangs
            ask("at", f"it hangs {below:.0f} mm below the {word} rail, so it meets the stone first; raise it")
    if panel.held not in ("bolted", "unsaid"):
        ask("held", f"a tie with a rack on it is bolted, so that it comes out; it is said to be {panel.held}")
    if duty.ends == "unsaid":
        ask("duty/ends", "the rails' walls at its bolts are not judged here; look at them and say so")
    if duty.stone_kn > 0 and tie.lips < 2:
        ask("lips", "a guard needs a lip along both of its long edges")
    return out


def _beside(m: Member, x: float) -> bool:
    return bool(min(m.start[0], m.end[0]) - 1 <= x <= max(m.start[0], m.end[0]) + 1)


def _at(m: Member, x: float) -> Any:
    """(3,) the rail's middle at a station."""
    t = (x - m.start[0]) / (m.end[0] - m.start[0])
    return m.start + t * (m.end - m.start)


def _bottom(job: Job, m: Member, x: float) -> float:
    """z of the rail's underside at a station."""
    parts = [p for p in solid_of(m.item, job.meshes, "items") if isinstance(p, ConvexPart)]
    lows = [
        float(p.triangles[0][:, 2].min())
        for p in parts
        if p.triangles[0][:, 0].min() - 1 <= x <= p.triangles[0][:, 0].max() + 1
    ]
    return min(lows, default=float(_at(m, x)[2] - m.tall / 2))
