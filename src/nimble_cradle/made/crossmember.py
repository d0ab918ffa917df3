"""The crossmember's tube: its axis, its solids, how its legs are cut."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np

from nimble_cradle.calc import CalcError
from nimble_cradle.families.part import Joint, MadePart, Owner, Stock
from nimble_cradle.geometry.polyline import axis_length, tangents_of, turns_of
from nimble_cradle.geometry.pose import Pose, crosses, unit
from nimble_cradle.geometry.solid_makers import bar, box
from nimble_cradle.geometry.solids import ConvexPart, SolidPart
from nimble_cradle.job.base import JobError, Vec3
from nimble_cradle.job.cross_section import BarSection, CrossSection, FoldedSection, told_of
from nimble_cradle.job.hollow_section import HollowSection
from nimble_cradle.job.mounts import Crossmember
from nimble_cradle.job.remember import of_same
from nimble_cradle.made.folded_channel import folded_flat
from nimble_cradle.stock.form import Form
from nimble_cradle.stock.steels import DENSITY_STEEL
from nimble_cradle.strength.beam import axis_of
from nimble_cradle.strength.cross_section import figures_of
from nimble_cradle.strength.frame import member_axes

TRIM = 5.0
"""Added to a straight tube for trimming at each end, mm (common practice, no source)."""


def hollow_solid(a: Vec3, b: Vec3, section: HollowSection) -> ConvexPart:
    """A length of a section from point to point, its height up; vehicle frame."""
    start, end = np.asarray(a, dtype=float), np.asarray(b, dtype=float)
    if section.shape == "round":
        return bar(start, end, section.height_mm)
    along = unit(end - start)
    up = np.array([0.0, 0.0, 1.0]) - along[2] * along
    if np.linalg.norm(up) < 1e-6:
        up = np.array([1.0, 0.0, 0.0])
    up = unit(up)
    rotation = np.column_stack([along, crosses(up, along), up])
    size = np.array([np.linalg.norm(end - start), section.wide_mm, section.height_mm])
    made = box((start + end) / 2, size)
    return ConvexPart("box", Pose(rotation, made.pose.translation), made.size)


def _leg_solids(a: Vec3, b: Vec3, section: CrossSection) -> list[SolidPart]:
    """A leg of a crossmember from point to point, its walls each by itself where it is open."""
    if isinstance(section, HollowSection):
        return [hollow_solid(a, b, section)]
    start, end = np.asarray(a, dtype=float), np.asarray(b, dtype=float)
    axes = member_axes(start, end, (0.0, 0.0, 1.0)).T
    long = float(np.linalg.norm(end - start))

    def wall(y: float, z: float, wide: float, high: float) -> SolidPart:
        made = box((start + end) / 2 + axes @ [0.0, y, z], np.array([long, wide, high]))
        return ConvexPart("box", Pose(axes, made.pose.translation), made.size)

    if isinstance(section, BarSection):
        return [wall(0.0, 0.0, section.width_mm, section.height_mm)]
    t, high, wide, lip = section.wall_mm, section.height_mm, section.width_mm, section.lip_mm
    out = [wall(0.0, (high - t) / 2, wide, t)]
    for side in (-1, 1):
        out.append(wall(side * (wide - t) / 2, 0.0, t, high))
        if lip:
            out.append(wall(side * (wide / 2 + (lip - 2 * t) / 2), (t - high) / 2, lip, t))
    return out


def crossmember_solids(cross: Crossmember | None) -> list[SolidPart]:
    """The crossmember, legs from point to point, in the vehicle frame."""
    if cross is None:
        return []
    try:
        axis = axis_of(cross)
    except JobError:  # told where it is judged
        axis = cross.points
    legs = zip(axis, axis[1:], strict=False)
    return [part for a, b in legs for part in _leg_solids(a, b, cross.section)]


def reach_in_bend(cross: Crossmember, k: int) -> float:
    """How far the section of the tube reaches from its axis in the plane of bend k, square to the tube
    before it, mm."""
    a, b, c = (np.asarray(point) for point in cross.points[k : k + 3])
    along, across, up = member_axes(a, b, (0.0, 0.0, 1.0))
    way = c - b - ((c - b) @ along) * along
    size = float(np.linalg.norm(way))
    if size < 1e-9:
        return 0.0
    section = cross.section
    if section.shape == "round":
        return section.height_mm / 2
    return float(abs(way @ up) * section.height_mm + abs(way @ across) * section.over_mm) / size / 2


@of_same()
def crossmember_part(cross: Crossmember) -> MadePart:
    """The tube from rail to rail; without a row of stock where its section cannot be."""
    part = MadePart(
        Owner("crossmember"),
        "tube",
        "Gearbox crossmember",
        tuple(crossmember_solids(cross)),
        joints=(Joint("bolted to", "rails"),),
        templates=("channel",) if isinstance(cross.section, FoldedSection) else (),
        version=cross,
    )
    try:
        return replace(part, stock=_stock(cross))
    except (CalcError, JobError):
        return part


def _stock(cross: Crossmember) -> Stock:
    """Its row of the cut list. Raises CalcError where its section cannot be."""
    section, angles = cross.section, turns_of(cross.points)
    length = axis_length(axis_of(cross))
    bent = cross.bend_radius_mm > 0 and bool(angles)
    if angles and not bent:
        pieces = _leg_lengths(cross, angles)
        total: float = sum(pieces)
        told = (
            f"cut {' + '.join(str(piece) for piece in pieces)} long point to long point, mitre"
            f" {', '.join(f'{a / 2:.1f} deg' for a in angles)}"
        )
    else:
        total = math.ceil(length - 1e-6) + 2 * TRIM
        told = f"square ends, {TRIM:g} mm to trim at each"
    if bent:
        marks = ", ".join(
            f"{begins + TRIM:.0f} to {ends + TRIM:.0f} by {angle:.1f} deg"
            for (begins, ends), angle in zip(_bends_at(cross), angles, strict=True)
        )
        told += f"; bent to a radius of {cross.bend_radius_mm:g} mm, from its left end as cut: {marks}"
    kg = round(total / 1000 * figures_of(section).own.kg_per_m, 2)
    note = f"{math.ceil(10 * length - 1e-6) / 10:g} mm along the axis; {told}"
    if isinstance(section, FoldedSection):
        wide, folds = folded_flat(section)
        at = ", ".join(f"{wide / 2 + y:.1f}" for y, _ in folds)
        return Stock(
            f"sheet {section.wall_mm:g} mm",
            cross.steel,
            f"{total:.0f} x {math.ceil(wide - 1e-6)}",
            round(total * wide * section.wall_mm * DENSITY_STEEL, 2),
            f"flat {wide:.1f} wide, folded square at {at} mm from one edge, radius {section.radius_mm:g} mm;"
            f" {note}",
            Form("sheet", (section.wall_mm,)),
        )
    if isinstance(section, BarSection):
        sizes = max(section.height_mm, section.width_mm), section.thin_mm
        return Stock(told_of(section), cross.steel, f"{total:.0f} long", kg, note, Form("flat", sizes))
    return Stock(
        section.stock
        or f"{section.shape} {section.height_mm:g} x {section.width_mm:g} x {section.wall_mm:g}",
        cross.steel,
        f"{total:.0f} long",
        kg,
        note,
        Form("section", (section.height_mm, section.width_mm, section.wall_mm), section.shape),
    )


def _bends_at(cross: Crossmember) -> list[tuple[float, float]]:
    """Where along the straight tube each bend begins and ends, mm from the left end of its axis: legs less
    what bends take of them, and the arcs between."""
    taken = [0.0, *tangents_of(cross.points, cross.bend_radius_mm), 0.0]
    out, at = [], 0.0
    for k, turn in enumerate(turns_of(cross.points), 1):
        at += math.dist(cross.points[k - 1], cross.points[k]) - taken[k - 1] - taken[k]
        arc = math.radians(turn) * cross.bend_radius_mm
        out.append((at, at + arc))
        at += arc
    return out


def _leg_lengths(cross: Crossmember, angles: list[float]) -> list[int]:
    """Length of each leg, long point to long point, whole mm rounded up: each mitre takes the long side half
    a height times tan(turn / 2) past the axis."""
    past = [reach_in_bend(cross, k) * math.tan(math.radians(a / 2)) for k, a in enumerate(angles)]
    ends = [0.0, *past, 0.0]
    legs = [math.dist(a, b) for a, b in zip(cross.points, cross.points[1:], strict=False)]
    return [math.ceil(leg + ends[k] + ends[k + 1] - 1e-6) for k, leg in enumerate(legs)]
