"""Checks of a cradle under the mounts that stand on it: its tubes, their welds, what holds it, its give."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from nimble_cradle.families.arm_loads import told_lines
from nimble_cradle.families.bar_arm import all_round
from nimble_cradle.families.foot_seat import FootSeat
from nimble_cradle.families.tube_extras import round_lines
from nimble_cradle.findings.finding import Finding, Problem
from nimble_cradle.findings.worst import Cases, Check, MountCase, worst
from nimble_cradle.geometry.pose import Array, crosses, lever
from nimble_cradle.job.base import Vec3
from nimble_cradle.job.cradle import Cradle
from nimble_cradle.job.hollow_section import HollowSection
from nimble_cradle.job.loads import Allowables
from nimble_cradle.job.mounts import Mount
from nimble_cradle.mounts.cradle_joints import has_joints, joint_finding, unjudged_words
from nimble_cradle.stock.steels import STEELS
from nimble_cradle.stock.tubes import properties
from nimble_cradle.strength.cradle_frame import (
    CRADLE_HELD,
    CRADLE_MOVE,
    CRADLE_STRESS,
    CradleResponse,
    cradle_response,
    held_use,
)
from nimble_cradle.strength.cross_section import station_stresses
from nimble_cradle.strength.weld import (
    WELD_GROUP,
    WeldLine,
    circle,
    effective_throat,
    force_per_mm,
    segments,
    weld_capacity,
)

CODES = ("cradle-stress", "cradle-weld", "cradle-held", "cradle-move", "cradle-retention")
"""The findings that a cradle always has."""
JOINT = "cradle-joint"
"""And that of the walls where its tubes meet, of one in which any do."""
HELD = ("size", "grade", "bolts", "pitch")


@dataclass(frozen=True, eq=False)
class Standing:
    """A mount that stands on a cradle, where, and what it meets in every case."""

    mount: Mount
    seat: FootSeat
    cases: Sequence[MountCase]


def stood_at(rows: Sequence[tuple[Mount, FootSeat]]) -> tuple[Vec3, ...]:
    """Where mounts stand on a cradle, vehicle frame."""
    return tuple(tuple(float(c) for c in seat.centre) for _, seat in rows)  # type: ignore[misc]


def cradle_give(cradle: Cradle, rows: Sequence[tuple[Mount, FootSeat]]) -> Array:
    """(m, m, 3, 3) mm/N: how far the bush of each mount on it moves under a force on that of each. Raises
    JobError where it is not held."""
    if not rows:
        return np.zeros((0, 0, 3, 3))
    response = cradle_response(cradle, stood_at(rows))
    arms = [np.asarray(m.bush.centre, dtype=float) - at for (m, _), at in zip(rows, response.at, strict=True)]
    to_foot = [np.vstack([np.eye(3), lever(arm)]) for arm in arms]
    n = len(rows)
    give = np.zeros((n, n, 3, 3))
    for i in range(n):
        for j in range(n):
            give[i, j] = to_foot[i].T @ response.moved[6 * j : 6 * j + 6, i].T @ to_foot[j]
    return (give + give.transpose(1, 0, 3, 2)) / 2


def cradle_checks(cradle: Cradle, standing: Sequence[Standing], allow: Allowables) -> list[Finding]:
    """Its findings under all its mounts together, case by case. Raises JobError where it is not held."""
    response = cradle_response(cradle, stood_at([(s.mount, s.seat) for s in standing]))
    loads = _loads(standing, response)
    cases = Cases.of(standing[0].cases, allow)
    ends = np.einsum("kl,lmsc->kmsc", loads, response.ends) * cases.factors[:, None, None, None]
    held = np.einsum("kl,lhc->khc", loads, response.held) * cases.factors[:, None, None]
    moved = np.einsum("kl,lmc->kmc", loads, response.moved)
    stress = _stresses(cradle, response, ends)
    return [
        _stress(cradle, cases, stress),
        _weld(cradle, cases, response, ends),
        *joint_finding(cradle, cases, response, ends, stress),
        _held(cradle, cases, held),
        _move(cradle, cases, moved),
    ]


def _loads(standing: Sequence[Standing], response: CradleResponse) -> Array:
    """(k, 6 m) forces and moments on the cradle where the mounts stand, in every case."""
    columns = []
    for m, row in enumerate(standing):
        force = -np.array([case.force for case in row.cases])
        reach = np.asarray(row.mount.bush.centre, dtype=float) - response.at[m]
        columns += [force, crosses(reach, force)]
    return np.hstack(columns)


def codes_of(cradle: Cradle) -> tuple[str, ...]:
    """The findings that one must have."""
    return (*CODES, JOINT) if has_joints(cradle) else CODES


def _stresses(cradle: Cradle, response: CradleResponse, ends: Array) -> Array:
    """(k, members) MPa, the greater of both ends of every piece of a tube."""
    order = [0, 2, 1, 3, 5, 4]  # as ``station_stresses`` wants them
    stress = np.zeros((len(ends), ends.shape[1]))
    for m, k in enumerate(response.of_tube):
        section = cradle.section_of(cradle.tubes[int(k)])
        p = properties(section)
        flat = ends[:, m][:, :, order].reshape(-1, 6)
        stress[:, m] = station_stresses(flat, p, section).reshape(-1, 2).max(1)
    return stress


def _stress(cradle: Cradle, cases: Cases, stress: Array) -> Finding:
    """The hardest place of all tubes."""
    most, fy = stress.max(1), STEELS[cradle.steel].yield_mpa
    return worst(
        cradle,
        Check("cradle-stress", "tubes of the cradle", "stress", "a taller section, one more tube"),
        cases,
        most / fy,
        most,
        CRADLE_STRESS,
        lambda k: {"stress": float(most[k]), "yield_mpa": fy},
        {"stress": "space frame, governing case"},
    )


def _line(section: HollowSection) -> tuple[WeldLine, str]:
    """The weld all round a section, across it and up it; and in words for a working."""
    if section.shape == "round":
        return circle(section.height_mm / 2), told_lines(round_lines(section.height_mm / 2, 24))
    wide = section.height_mm if section.shape == "square" else section.width_mm
    lines = all_round(wide, section.height_mm)
    return segments(lines), told_lines(lines)


def _weld(cradle: Cradle, cases: Cases, response: CradleResponse, ends: Array) -> Finding:
    """The weld at the end of a tube where others meet it."""
    steel = STEELS[cradle.steel]
    rows: list[tuple[Array, Array, str, float]] = []
    for m, k in enumerate(response.of_tube):
        section = cradle.section_of(cradle.tubes[int(k)])
        weld, told = _line(section)
        throat = effective_throat(cradle.weld_throat_mm, section.wall_mm)
        for side in (0, 1):
            if response.at_joint[m, side]:
                at = ends[:, m, side]
                force, moment = at[:, [1, 2, 0]], at[:, [4, 5, 3]]
                line = np.asarray(force_per_mm(weld, force, moment))
                capacity = weld_capacity(throat, steel.tensile, steel.weld_beta)
                rows.append((line / capacity, np.hstack([force, moment]), told, throat))
    none = (np.zeros(len(ends)), np.zeros((len(ends), 6)), told_lines(all_round(10.0, 10.0)), 1.0)
    use, at, told, throat = max(rows, key=lambda row: float(row[0].max()), default=none)
    names = ("force_u", "force_v", "force_n", "moment_u", "moment_v", "moment_n")
    return worst(
        cradle,
        Check("cradle-weld", "welds where its tubes meet", "line force", "a thicker weld, a larger section"),
        cases,
        use,
        use * weld_capacity(throat, steel.tensile, steel.weld_beta),
        WELD_GROUP,
        lambda k: {
            "lines": told,
            "throat": throat,
            "tensile": steel.tensile,
            "beta": steel.weld_beta,
            **dict(zip(names, (float(x) for x in at[k]), strict=True)),
        },
        {"force_n": "space frame"},
    )


def _held(cradle: Cradle, cases: Cases, held: Array) -> Finding:
    """The bolts of the hardest-used point; a rubber's one bolt too."""
    rows: list[tuple[Array, Array, dict[str, Any], Array]] = []
    points = [point for point in cradle.points if point.held != "free"]
    for h, point in enumerate(points):
        force, moment = np.linalg.norm(held[:, h, :3], axis=1), np.linalg.norm(held[:, h, 3:], axis=1)
        count = float(point.bolts) if point.held == "bolts" else 1.0
        size = point.bolt, point.bolt_class, count, point.pitch_mm
        used = [held_use(float(f), float(m), *size)[0] for f, m in zip(force, moment, strict=True)]
        rows.append((np.array(used), force, dict(zip(HELD, size, strict=True)), moment))
    use, force, given, moment = max(rows, key=lambda row: float(row[0].max()))
    return worst(
        cradle,
        Check(
            "cradle-held", "bolts that hold the cradle", "force", "larger bolts, a plate with more of them"
        ),
        cases,
        use,
        force,
        CRADLE_HELD,
        lambda k: {"force": float(force[k]), "moment": float(moment[k]), **given},
        {"force": "space frame", "moment": "space frame"},
    )


def _move(cradle: Cradle, cases: Cases, moved: Array) -> Finding:
    """A mount on it in everyday cases."""
    far = np.linalg.norm(moved[:, :, :3], axis=2).max(1)
    far = np.where([case.kind == "rare" for case in cases.rows], 0.0, far)
    return worst(
        cradle,
        Check("cradle-move", "give of the cradle at a mount", "length", "a taller section, one more tube"),
        cases,
        far / cradle.most_move_mm,
        far,
        CRADLE_MOVE,
        lambda k: {"moved": float(far[k]), "most": cradle.most_move_mm},
        {"moved": "space frame", "most": "job"},
        factored=False,
    )


def _unjudged(cradle: Cradle) -> str:
    """What of one only its maker can look at."""
    where = unjudged_words(cradle)
    rubber = any(point.held == "rubber" for point in cradle.points)
    own = [f"the walls at {where}"] if where else []
    own += ["its rubbers, and what metal stops it if one tears"] if rubber else []
    return f"{', '.join(own)}, and what it is bolted to, are" if own else "what it is bolted to is"


def cradle_questions(cradle: Cradle) -> list[Problem]:
    """What is open about one."""
    base = f"cradles/{cradle.id}"
    out = []
    if not any(point.held != "free" for point in cradle.points):
        out.append(Problem("mounts", f"{base}/points", f"{cradle.name}: nothing holds it yet."))
    if cradle.looked_at != "looked at":
        out.append(
            Problem(
                "mounts",
                f"{base}/looked_at",
                f"{cradle.name}: {_unjudged(cradle)} not judged here; look at it and say so.",
            )
        )
    return out
