"""Torque struts: as springs, and their checks."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np

from nimble_cradle.calc import Q, calculation
from nimble_cradle.families.arm_run import arm_run
from nimble_cradle.families.family import BushStiffness, LoadPath, bracket_family, foot_family
from nimble_cradle.families.foot_seat import FootSeat
from nimble_cradle.families.law import AxialStop, Law, Linear
from nimble_cradle.families.strut_ears import (
    LOAD_PATH,
    as_on_chassis,
    as_on_plate,
    ears_on_plate,
    of_ears,
    told_of_ears,
)
from nimble_cradle.families.strut_stand import least_eye, on_chassis, told_of
from nimble_cradle.findings.finding import Finding, Problem
from nimble_cradle.findings.worst import Cases, Check, MountCase, alone, worst
from nimble_cradle.geometry.pose import Array, Pose, crosses, unit
from nimble_cradle.job.base import JobError
from nimble_cradle.job.loads import Allowables, Loads
from nimble_cradle.job.strut import Strut
from nimble_cradle.mounts.fatigue_checks import foot_fatigue
from nimble_cradle.mounts.mount_checks import can_be_bolted, check_foot
from nimble_cradle.mounts.plate_checks import plate_checks
from nimble_cradle.mounts.springs import Spring
from nimble_cradle.stock.steels import STEELS
from nimble_cradle.strength.strut import STRUT_BOLT, STRUT_LEVER, STRUT_ROD, STRUT_SQUARE, rod_use, strut_bolt

LEAD_IN = 1.0
"""Over so many mm it comes to its full stiffness past its gap."""
LEAST_LENGTH = 20.0

STRUT_STIFFNESS = calculation(
    "strut-force",
    "Force of a torque strut",
    inputs=(
        Q("moved", "mm", "along it", low=0),
        Q("gap", "mm", "before it acts", low=0),
        Q("stiffness", "N/mm", "of both its rubbers together", above=0),
    ),
    outputs=(Q("force", "N", "along it"),),
    formula="k (x - gap) past the gap, less half a mm of lead-in",
    source="Hooke's law",
    leaves_out="rubbers that stiffen",
)(lambda moved, gap, stiffness: stiffness * max(moved - gap - (LEAD_IN / 2 if gap else 0.0), 0.0))


def ends_of(strut: Strut, pose: Pose) -> tuple[Array, Array]:
    """Centres (3,) of its eyes on the engine and on the chassis, vehicle frame. Raises JobError."""
    engine, chassis = pose.points(strut.engine_at), np.asarray(strut.chassis_at, dtype=float)
    if float(np.linalg.norm(engine - chassis)) < LEAST_LENGTH:
        raise JobError(
            f"{strut.name}: its two eyes are in one place; move one of them.", f"struts/{strut.id}/chassis_at"
        )
    return engine, chassis


def strut_spring(strut: Strut, pose: Pose) -> Spring:
    """It acts along its line as that is at rest. Raises JobError."""
    engine, chassis = ends_of(strut, pose)
    axis, k = unit(engine - chassis), strut.stiffness_along
    gap = strut.gap_mm
    law = Law((AxialStop(gap, gap, k, LEAD_IN),), (np.inf, gap)) if gap > 0 else Law((Linear(0.0, k),))
    worked = STRUT_STIFFNESS.work({"stiffness": "strut"}, moved=gap + 1.0, gap=gap, stiffness=k)
    matrix = np.outer(axis, axis) * (0.0 if gap > 0 else k)
    return Spring(strut.id, engine, axis, matrix, BushStiffness(0.0, k, worked), 0.1, 1.3, None, law)


def strut_questions(strut: Strut) -> list[Problem]:
    """What is open about it; its ears and its bracket are asked about by themselves."""
    bare = [
        where
        for where, held in (("on the engine", strut.ears), ("on the chassis", strut.bracket))
        if held is None
    ]
    if strut.ends == "looked at" or not bare:
        return []
    said = "what it is bolted to is not judged here; look at both ends and say so"
    if len(bare) == 1:
        said = f"what it is bolted to {bare[0]} is not judged here; look at it and say so"
    return [Problem("mounts", f"struts/{strut.id}/ends", f"{strut.name}: {said}.")]


def ears_path(strut: Strut) -> LoadPath:
    """The parts that hold it on the engine, and the findings that each must have; none where that is not
    described."""
    return () if strut.ears is None else LOAD_PATH


def bracket_path(strut: Strut, seat: FootSeat) -> LoadPath:
    """The parts of its bracket on the way to the rail, and the findings that each must have."""
    stand = on_chassis(strut)
    assert stand.foot is not None
    return (*bracket_family(stand.cross_bolt).LOAD_PATH, *foot_family(stand.foot).load_path(stand, seat))


def bracket_questions(strut: Strut, seat: FootSeat) -> list[Problem]:
    """What is open about how its bracket is held, and about what that stands on."""
    stand = on_chassis(strut)
    assert stand.foot is not None
    return [told_of(strut, said) for said in foot_family(stand.foot).questions(stand, seat)]


def eye_questions(strut: Strut) -> list[Problem]:
    """Whether its eyes have room for their bolts, where something is made for them."""
    if strut.eye_outside_mm >= least_eye(strut) or (strut.bracket is None and strut.ears is None):
        return []
    said = f"{strut.name}: its eyes are {strut.eye_outside_mm:g} mm outside, too small for {strut.bolt}"
    place = f"struts/{strut.id}/eye_outside_mm"
    return [Problem("mounts", place, f"{said}; they are drawn {least_eye(strut):g}.")]


def bracket_checks(
    strut: Strut, seat: FootSeat, rows: list[MountCase], allow: Allowables, loads: Loads
) -> list[Finding]:
    """Bolt, cheeks, foot, wall. Raises JobError."""
    stand, rows = on_chassis(strut), in_eyes(strut, rows)
    try:
        own = bracket_family(stand.cross_bolt).checks(stand, Cases.of(rows, allow), allow)
        return [*own, *check_foot(stand, seat, rows, allow, loads)]
    except JobError as error:
        raise told_of(strut, error) from None


def in_eyes(strut: Strut, rows: list[MountCase]) -> list[MountCase]:
    """What an eye meets: it moves on its bolt along the rod alone, by its gap and half of what both rubbers
    give; what else the engine does turns the rod."""
    out = []
    for row in rows:
        size = float(np.linalg.norm(row.force))
        moved = size / (2 * strut.stiffness_along) + strut.gap_mm
        out.append(replace(row, movement=-row.force / max(size, 1e-9) * moved))
    return out


def ears_checks(
    strut: Strut, pose: Pose, rows: list[MountCase], allow: Allowables, loads: Loads
) -> list[Finding]:
    """Bolts to the engine, plate, ears, and the bolt through its eye there; none where it has none. Raises
    JobError."""
    if strut.ears is None:
        return []
    back, rows = pose.rotation.T, in_eyes(strut, rows)
    try:
        mount, ears = ears_on_plate(strut)
        can_be_bolted(mount)
        run, still = arm_run(mount, Pose.still()), Cases.of(as_on_chassis(rows, back), allow)
        own = [
            *ears.checks(still),
            *foot_fatigue(mount, ears, still, loads),
            *bracket_family(mount.cross_bolt).checks(mount, still, allow),
            *plate_checks(mount, run, Cases.of(as_on_plate(rows, back), allow), allow),
        ]
    except JobError as error:
        raise told_of_ears(strut, error) from None
    return [of_ears(found) for found in own]


def strut_checks(
    strut: Strut, pose: Pose, centre: Array, crank: Array, rows: list[MountCase], allow: Allowables
) -> list[Finding]:
    """Rod, bolts, lever. centre: of gravity (3,), crank: way (3,), vehicle frame. Raises JobError."""
    engine, chassis = ends_of(strut, pose)
    cases = Cases.of(rows, allow)
    load = np.linalg.norm(cases.forces, axis=1)
    length = float(np.linalg.norm(engine - chassis))
    rod = {
        "length": length,
        "outside": strut.rod_outside_mm,
        "wall": strut.rod_wall_mm,
        "yield_mpa": STEELS[strut.steel].yield_mpa,
    }
    bolt = {"size": strut.bolt, "grade": strut.bolt_class}
    along = crosses(crank, unit(engine - chassis))
    size = float(np.linalg.norm(along))
    lever = abs(float((engine - centre) @ along)) / size if size > 1e-6 else 0.0
    rod_way = unit(engine - chassis)
    square = []
    if strut.bracket is not None:
        square.append(_square(strut, "strut-square", "its bracket", rod_way, unit(strut.bolt_way)))
    if strut.ears is not None:
        way = pose.vectors(unit(strut.ears.bolt_way))
        square.append(_square(strut, "ear-square", "its ears", rod_way, way))
    return [
        *square,
        worst(
            strut,
            Check("strut-rod", "rod of the strut pushed", "force", "a thicker rod, or a shorter one"),
            cases,
            np.array([rod_use(float(x), **rod)[0] for x in load]),
            load,
            STRUT_ROD,
            lambda k: {"load": float(load[k]), **rod},
            {"load": "equilibrium"},
        ),
        worst(
            strut,
            Check("strut-bolt", "bolts through the strut's eyes", "force", "larger bolts"),
            cases,
            np.array([strut_bolt(float(x), **bolt)[0] for x in load]),
            load,
            STRUT_BOLT,
            lambda k: {"load": float(load[k]), **bolt},
            {"load": "equilibrium"},
        ),
        alone(
            strut,
            Check("strut-lever", "lever of the strut", "length", "a line farther from the crank"),
            lever,
            STRUT_LEVER,
            {"lever": "the job"},
            "as drawn",
            lever=lever,
        ),
    ]


def _square(strut: Strut, code: str, where: str, rod: Array, bolt: Array) -> Finding:
    """How far the rod (3,) stands off square to a bolt (3,), unit both."""
    off = math.degrees(math.asin(min(abs(float(rod @ bolt)), 1.0)))
    return alone(
        strut,
        Check(code, f"rod square to the bolt of {where}", "angle", "turn its bolt"),
        off,
        STRUT_SQUARE,
        {"off_deg": "the job"},
        "as drawn",
        off_deg=off,
    )
