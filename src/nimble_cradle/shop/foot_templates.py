"""The templates of a mount's chassis side: its cheeks and its foot plate."""

from __future__ import annotations

import numpy as np

from nimble_cradle.families.cheeks import OnFoot
from nimble_cradle.families.family import foot_family
from nimble_cradle.families.foot_seat import FootSeat
from nimble_cradle.families.part import MadePart, Owner
from nimble_cradle.geometry.plate import Plate
from nimble_cradle.job.base import JobError
from nimble_cradle.job.job import Job
from nimble_cradle.job.mounts import Mount
from nimble_cradle.made.foot_seats import foot_seats, strut_seat
from nimble_cradle.made.parts import made
from nimble_cradle.shop.page import Circle, Drawing, Mark, Text, cross, path
from nimble_cradle.units import show


def _part(mount: Mount, job: Job, role: str) -> MadePart:
    """One part of a mount that is cut from sheet. Raises JobError."""
    every = made(job)
    for owner in (Owner("mount", mount.id), Owner("strut", mount.id)):
        for part in every.of(owner):
            if part.role == role and part.flat is not None:
                return part
    raise JobError(f"{mount.name}: it has no {role} to draw.", f"mounts/{mount.id}/foot")


def _flat(part: MadePart) -> Plate:
    assert part.flat is not None
    return part.flat


def _outline(plate: Plate, title: str) -> list[Mark]:
    """The outline, the holes with their crosses, the title under it."""
    left, low = plate.outline.min(0)
    marks: list[Mark] = [path(plate.outline, closed=True)]
    for hole, d in zip(plate.holes, plate.diameters, strict=True):
        marks += [Circle((float(hole[0]), float(hole[1])), float(d) / 2), *cross(hole, d / 2 + 3)]
    return [*marks, Text((float(left), float(low) - 7), title, 3.5)]


def cheek_drawing(mount: Mount, job: Job) -> Drawing:
    """A mount's cheek at 1:1, its foot below, seen by one whom the bolt's axis points at. Raises
    JobError."""
    part, seat = _part(mount, job, "cheeks"), _seat(mount, job)
    plate, display = _flat(part), job.show.display
    own = mount.cross_bolt
    hole = plate.holes[0]
    notes = (
        f"Two of {own.cheek_mm:g} mm {own.cheek_steel}, both alike. Hole"
        f" {show(float(plate.diameters[0]), 'length', display)} for {own.bolt}, its centre"
        f" {show(float(hole[1]), 'length', display)} over the foot.",
        "Seen with the bolt's axis pointing at you. Leave 3 mm at the foot and trim it to its face.",
        f"Stands on {seat.host.name}.",
    )
    title = f"{mount.name}: cheek, {own.cheek_mm:g} mm {own.cheek_steel}"
    return Drawing(f"cheek-{mount.id}", f"{mount.name}: cheek", tuple(_outline(plate, title)), notes, ())


def ear_drawing(mount: Mount, job: Job) -> Drawing:
    """An ear of a torque strut on the engine at 1:1, the plate below, seen by one whom its bolt points at.
    Raises JobError."""
    plate, own = _flat(_part(mount, job, "ears")), mount.cross_bolt
    display, hole = job.show.display, plate.holes[0]
    notes = (
        f"Two of {own.cheek_mm:g} mm {own.cheek_steel}, both alike. Hole"
        f" {show(float(plate.diameters[0]), 'length', display)} for {own.bolt}, its centre"
        f" {show(float(hole[1]), 'length', display)} over the plate.",
        "Seen with the bolt's axis pointing at you. Leave 3 mm at the plate and trim it to its face.",
        f"Where both stand is dashed on template plate-{mount.id}.",
    )
    title = f"{mount.name}: ear, {own.cheek_mm:g} mm {own.cheek_steel}"
    return Drawing(f"ear-{mount.id}", f"{mount.name}: ear", tuple(_outline(plate, title)), notes, ())


def base_drawing(mount: Mount, job: Job) -> Drawing:
    """A mount's foot plate at 1:1, seen from the bush, along the bolt to the right. Where the cheeks stand is
    dashed. Raises JobError."""
    part, seat = _part(mount, job, "foot"), _seat(mount, job)
    plate = _flat(part)
    marks = _outline(plate, f"{mount.name}: foot plate, {part.stock.stock if part.stock else ''}")
    stand = _cheeks(mount, seat)
    half, thick = stand.foot.cheek_foot_mm / 2, mount.cross_bolt.cheek_mm / 2
    middle = -stand.foot.shift[0]
    for side in (-1.0, 1.0):
        at = middle + side * stand.beside
        ring = np.array([(at - thick, -half), (at + thick, -half), (at + thick, half), (at - thick, half)])
        marks.append(path(ring, closed=True, layer="MARK"))
    notes = (
        "Seen from the bush, along its bolt to the right. Dashed: where the two cheeks stand.",
        f"On {seat.host.name}. {len(plate.holes)} holes." if len(plate.holes) else f"On {seat.host.name}.",
    )
    return Drawing(f"base-{mount.id}", f"{mount.name}: foot plate", tuple(marks), notes, ())


def _seat(mount: Mount, job: Job) -> FootSeat:
    strut = next((strut for strut in job.struts if strut.id == mount.id), None)
    seat = foot_seats(job).of(mount.id) if strut is None else strut_seat(job, strut)
    if seat is None:
        raise JobError(f"{mount.name}: it is not known where it stands.", f"mounts/{mount.id}/foot")
    return seat


def _cheeks(mount: Mount, seat: FootSeat) -> OnFoot:
    """The cheeks that stand on a foot plate."""
    assert mount.foot is not None
    stand = foot_family(mount.foot).cheeks(mount, seat)
    assert isinstance(stand, OnFoot)
    return stand
