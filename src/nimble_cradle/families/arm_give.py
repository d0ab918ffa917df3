"""How far plate and arm give at the bush's centre. Vehicle frame; mm/N."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from nimble_cradle.families.arm_run import ArmRun
from nimble_cradle.families.bar_arm import BarRun
from nimble_cradle.families.eye import eye_spacing
from nimble_cradle.families.family import eye_of
from nimble_cradle.geometry.pose import Array, cross, lever, unit
from nimble_cradle.job.boxed_arm import BoxedArm
from nimble_cradle.job.flats_arm import FlatsArm
from nimble_cradle.job.mounts import Mount
from nimble_cradle.job.tube_arm import Tube
from nimble_cradle.stock.steels import E_STEEL, G_STEEL
from nimble_cradle.stock.tubes import round_tube
from nimble_cradle.strength.box_arm import Box
from nimble_cradle.strength.flat_pair import twist
from nimble_cradle.strength.plate_root import plate_root

PLACES, WEIGHTS = np.polynomial.legendre.leggauss(6)
Gives = tuple[float, float, float, float, float]
"""Per mm of arm: turn per bending about its first and its second way, twist, way along it, and across its
first way by shear."""


@dataclass(frozen=True, eq=False)
class _Leg:
    """A straight piece of arm. axes: (3, 3) columns two ways square to it, and its way. gives: of the share
    of its length."""

    start: Array
    axes: Array
    length: float
    gives: Callable[[float], Gives]


def arm_give(mount: Mount, run: ArmRun) -> Array:
    """(3, 3) mm/N: movement of the bush's centre under a force there, by the plate's bending about its bolts
    and the arm's along its length. The eye is stiff."""
    centre = np.asarray(mount.bush.centre, dtype=float)
    out = _plate(mount, run, centre)
    for leg in _legs(mount, run):
        for place, weight in zip((PLACES + 1) / 2, WEIGHTS * leg.length / 2, strict=True):
            reach = centre - (leg.start + place * leg.length * leg.axes[:, 2])
            first, second, torsion, axial, shear = leg.gives(float(place))
            turn = leg.axes.T @ lever(reach)
            bent = turn.T @ np.diag([first, second, torsion]) @ turn
            pulled = leg.axes @ np.diag([shear, 0.0, axial]) @ leg.axes.T
            out = out + weight * (bent + pulled)
    return np.asarray((out + out.T) / 2)


def _plate(mount: Mount, run: ArmRun, centre: Array) -> Array:
    """The plate between its bolts and what is welded on."""
    pad = mount.pad
    if not pad.every_hole:
        return np.zeros((3, 3))  # said elsewhere
    away = np.linalg.norm(np.asarray(pad.every_hole).reshape(-1, 2) - np.asarray(pad.arm_at), axis=1)
    turn, push = plate_root(float(away.mean()), _hub(mount), pad.plate_mm)
    lean = run.axes.T @ lever(centre - run.root)
    out = run.axes[:, 2]
    return np.asarray(lean.T @ np.diag([turn, turn, 0.0]) @ lean + push * np.outer(out, out))


def _hub(mount: Mount) -> float:
    """Radius of what is welded to the plate, mm: of a rectangle the round one of the same area."""
    arm = mount.arm
    if isinstance(arm, Tube):
        return arm.outside_mm / 2
    if arm is None:
        eye = eye_of(mount.bush)
        return float(np.sqrt(eye.length_mm * eye_spacing(mount) / np.pi))
    wide = arm.wide_mm if isinstance(arm, BoxedArm) else arm.apart_mm + 2 * arm.thick_mm
    return float(np.sqrt(wide * arm.tall_mm / np.pi))


def _legs(mount: Mount, run: ArmRun) -> list[_Leg]:
    arm = mount.arm
    if arm is None:
        return []
    if isinstance(arm, Tube):
        return _tube_legs(arm, run)
    bar = BarRun.of(mount, run)
    long = run.length - run.eye_radius

    def tall(share: float) -> float:
        return arm.tall_mm + share * (arm.tall_at_eye_mm - arm.tall_mm)

    def boxed(share: float) -> Gives:
        assert isinstance(arm, BoxedArm)
        box = Box(tall(share), arm.wide_mm, arm.wall_mm)
        return (
            1 / (E_STEEL * box.second_tall),
            1 / (E_STEEL * box.second_side),
            1 / (G_STEEL * box.torsion),
            1 / (E_STEEL * box.area),
            0.0,
        )

    def flats(share: float) -> Gives:
        """Across the pair: the bars as chords, and bent between their ties (EN 1993-1-1, 6.4.3.1)."""
        assert isinstance(arm, FlatsArm)
        high, t, apart = tall(share), arm.thick_mm, arm.apart_mm + arm.thick_mm
        weak, strong, free = high * t**3 / 12, t * high**3 / 12, long / (arm.battens + 1)
        stiff = min(24 * E_STEEL * weak / free**2, 2 * np.pi**2 * E_STEEL * weak / free**2)
        twisted = 2 * G_STEEL * twist(high, t) + 6 * E_STEEL * strong * apart**2 / long**2
        return (
            1 / (2 * E_STEEL * strong),
            1 / (E_STEEL * high * t * apart**2 / 2),
            1 / twisted,
            1 / (2 * E_STEEL * high * t),
            1 / stiff,
        )

    return [_Leg(run.root, bar.axes, long, boxed if isinstance(arm, BoxedArm) else flats)]


def _tube_legs(arm: Tube, run: ArmRun) -> list[_Leg]:
    p = round_tube(arm.outside_mm, arm.wall_mm)
    bending = 1 / (E_STEEL * p.i_lying)
    gives = (bending, bending, 1 / (G_STEEL * p.torsion), 1 / (E_STEEL * p.area), 0.0)
    legs = [run] if run.last is None else [run, run.last]
    out = []
    for leg in legs:
        side = unit(cross(leg.way, np.eye(3)[int(np.abs(leg.way).argmin())]))
        axes = np.column_stack([side, cross(leg.way, side), leg.way])
        short = leg.eye_radius if leg is legs[-1] else 0.0
        out.append(_Leg(leg.root, axes, max(leg.length - short, 0.0), lambda _: gives))
    return out
