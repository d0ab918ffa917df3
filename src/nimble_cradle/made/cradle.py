"""The tubes of a cradle: their solids, and how each is cut."""

from __future__ import annotations

import math
from contextlib import suppress
from dataclasses import replace

import numpy as np

from nimble_cradle.calc import CalcError
from nimble_cradle.families.part import Joint, MadePart, Owner, Stock
from nimble_cradle.geometry.pose import unit
from nimble_cradle.geometry.solids import ConvexPart
from nimble_cradle.job.base import Vec3
from nimble_cradle.job.cradle import Cradle, CradleTube
from nimble_cradle.job.remember import of_same
from nimble_cradle.made.crossmember import TRIM, hollow_solid
from nimble_cradle.stock.form import Form
from nimble_cradle.stock.tubes import properties


def tube_ends(cradle: Cradle, tube: CradleTube) -> tuple[Vec3, Vec3]:
    """Both ends of a tube's axis, vehicle frame."""
    at = {point.id: point.at for point in cradle.points}
    return at[tube.start], at[tube.end]


def cradle_solids(cradle: Cradle) -> list[ConvexPart]:
    """All its tubes, from point to point, vehicle frame."""
    return [hollow_solid(*tube_ends(cradle, tube), cradle.section_of(tube)) for tube in cradle.tubes]


@of_same()
def cradle_parts(cradle: Cradle) -> tuple[MadePart, ...]:
    """A part for each tube."""
    out = []
    for k, tube in enumerate(cradle.tubes):
        section = cradle.section_of(tube)
        part = MadePart(
            Owner("cradle", cradle.id),
            f"tube {k + 1}",
            f"{cradle.name}: tube {k + 1}",
            (hollow_solid(*tube_ends(cradle, tube), section),),
            joints=(Joint("welded to", "the tubes at its ends"),),
            version=cradle,
        )
        with suppress(CalcError):  # it is drawn though there is no such section
            part = replace(part, stock=_stock(cradle, tube))
        out.append(part)
    return tuple(out)


def _stock(cradle: Cradle, tube: CradleTube) -> Stock:
    """Its row of the cut list: as long as its axis, and the angle at which it meets what is thickest there.
    Raises CalcError."""
    section, (start, end) = cradle.section_of(tube), tube_ends(cradle, tube)
    long = math.ceil(math.dist(start, end) - 1e-6) + 2 * TRIM
    angles = ", ".join(f"{word} {angle:.1f} deg" for word, angle in _meets(cradle, tube) if angle is not None)
    told = f"meets tubes at {angles}; " if angles else ""
    return Stock(
        section.stock
        or f"{section.shape} {section.height_mm:g} x {section.width_mm:g} x {section.wall_mm:g}",
        cradle.steel,
        f"{long:.0f} long",
        round(long / 1000 * properties(section).kg_per_m, 2),
        f"{told}{TRIM:g} mm to trim at each end; cope or mitre it to fit",
        Form("section", (section.height_mm, section.width_mm, section.wall_mm), section.shape),
    )


def _meets(cradle: Cradle, tube: CradleTube) -> list[tuple[str, float | None]]:
    """The sharpest angle between a tube and another at both its ends, deg; None where it ends alone."""
    start, end = (np.asarray(p, dtype=float) for p in tube_ends(cradle, tube))
    out: list[tuple[str, float | None]] = []
    for word, point, way in (("one end", tube.start, end - start), ("the other", tube.end, start - end)):
        angles = []
        for other in cradle.tubes:
            if other is tube or point not in (other.start, other.end):
                continue
            a, b = (np.asarray(p, dtype=float) for p in tube_ends(cradle, other))
            off = b - a if other.start == point else a - b
            angles.append(math.degrees(math.acos(float(np.clip(unit(way) @ unit(off), -1.0, 1.0)))))
        out.append((word, min(angles, default=None)))
    return out
