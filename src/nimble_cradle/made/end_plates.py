"""The end plates of the crossmember: where each lies on its rail, and the plates as made parts."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from nimble_cradle.bay.bodies import standing_items
from nimble_cradle.bay.member import member_of, open_side, whole_items
from nimble_cradle.bay.nearest import nearest_item
from nimble_cradle.families.foot_seat import side_walls
from nimble_cradle.families.part import Joint, MadePart, Owner, Stock
from nimble_cradle.geometry.pose import Array, crosses, unit
from nimble_cradle.geometry.solid_makers import box
from nimble_cradle.job.base import JobError
from nimble_cradle.job.bay import Item
from nimble_cradle.job.end_plate import EndPlates
from nimble_cradle.job.job import Job
from nimble_cradle.job.mounts import Crossmember
from nimble_cradle.job.remember import remembered
from nimble_cradle.stock.form import Form
from nimble_cradle.stock.steels import DENSITY_STEEL

SEARCHED = 600.0
"""A rail is looked for within so many mm of an end."""
LEFT, RIGHT = "left", "right"


def end_holes(plates: EndPlates) -> tuple[tuple[float, float], ...]:
    """(along, the other way) mm from the plate's middle."""
    half = plates.pitch_mm / 2
    if plates.bolts == 2:
        return (-half, 0.0), (half, 0.0)
    rows = plates.rows_mm / 2
    return (-half, -rows), (half, -rows), (half, rows), (-half, rows)


@dataclass(frozen=True, eq=False)
class EndSeat:
    """Where an end plate lies on its rail. centre: (3,) its middle on the rail's face; axes: (3, 3) columns
    along the rail, the other way, and off the rail; node: (3,) end of the tube's axis; vehicle frame, mm.
    face: how wide the rail's wall is the other way, off: how far the plate's middle is from that wall's
    middle; depth: of the rail behind it; open_mm: what stands open between tube and plate, or their overlap
    where negative. from_start: of the plate's middle along the rail, long: the rail, mm. side_walls: behind
    that wall's edges, one under a flange of an open rail."""

    word: str
    item: Item
    centre: Array
    axes: Array
    node: Array
    face: float
    off: float
    depth: float
    open_mm: float
    from_start: float
    long: float
    side_walls: int


@remembered("crossmember", "items", "survey", "meshes", "openings")
def end_seats(job: Job) -> tuple[EndSeat | JobError, ...]:
    """Both ends' seats, the left one first, or why there is none; nothing without end plates."""
    cross = job.crossmember
    if cross is None or cross.plates is None:
        return ()
    out: list[EndSeat | JobError] = []
    for word, k, inner in ((LEFT, 0, 1), (RIGHT, -1, -2)):
        try:
            out.append(_seat(job, cross, cross.plates, word, cross.points[k], cross.points[inner]))
        except JobError as error:
            out.append(error)
    return tuple(out)


def _seat(job: Job, cross: Crossmember, plates: EndPlates, word: str, end: object, inner: object) -> EndSeat:
    node, next_to = np.asarray(end, dtype=float), np.asarray(inner, dtype=float)
    chassis = [i for i in standing_items(job) if i.chassis]
    found = nearest_item(job, node, chassis, SEARCHED)
    if found is None:
        raise JobError(f"The crossmember's {word} end plate finds no rail.", "crossmember/points")
    item = next(i for i in whole_items(job) if i.id == found[0].id)
    member = member_of(job, item)
    along = (member.end - member.start) / member.length
    at = member.start + float((node - member.start) @ along) * along
    half = cross.section.height_mm / 2
    if plates.where == "beside":
        normal = member.across if (next_to - at) @ member.across > 0 else -member.across
        wall = at + member.wide / 2 * normal
        centre = wall + ((node - at) @ member.up + plates.up_mm) * member.up
        face, depth = member.tall, member.wide
        off = float((centre - at) @ member.up)
        stands = float((node - wall) @ normal) - plates.plate_mm
    else:
        normal = member.up if plates.where == "top" else -member.up
        wall = at + member.tall / 2 * normal
        centre, off = wall, 0.0
        face, depth = member.wide, member.tall
        stands = float((node - wall) @ normal) - half - plates.plate_mm
    axes = np.column_stack([along, crosses(normal, along), normal])
    from_start = float((node - member.start) @ along)
    walls = side_walls(open_side(item, job.meshes), normal)
    return EndSeat(word, item, centre, axes, node, face, off, depth, stands, from_start, member.length, walls)


def plate_solid(seat: EndSeat, plates: EndPlates) -> Array:
    """Its corners' frame: middle of the plate, (3,), vehicle frame."""
    return np.asarray(seat.centre + plates.plate_mm / 2 * seat.axes[:, 2])


def end_plate_part(job: Job) -> tuple[MadePart, ...]:
    """Both end plates as one part; none where they are not described."""
    cross = job.crossmember
    if cross is None or cross.plates is None:
        return ()
    plates = cross.plates
    seats = [seat for seat in end_seats(job) if isinstance(seat, EndSeat)]
    size = (plates.along_mm, plates.other_mm, plates.plate_mm)
    gone = sum(np.pi / 4 * plates.hole_mm**2 + plates.slot_mm * plates.hole_mm for _ in end_holes(plates))
    mass = (plates.along_mm * plates.other_mm - gone) * plates.plate_mm * DENSITY_STEEL
    how = (
        "bolts in crush sleeves through the rail" if plates.through == "sleeves" else "nuts held in the wall"
    )
    return (
        MadePart(
            Owner("crossmember"),
            "end plates",
            "Crossmember: end plates",
            tuple(box(plate_solid(seat, plates), size, seat.axes) for seat in seats),
            stock=Stock(
                f"plate {plates.plate_mm:g}",
                plates.steel,
                f"{plates.along_mm:g} x {plates.other_mm:g}",
                round(float(mass), 2),
                f"{len(end_holes(plates))} holes {plates.hole_mm:g}"
                + (f", slots {plates.slot_mm:g} longer outwards" if plates.slot_mm else "")
                + f"; {plates.bolts} {plates.bolt} {plates.bolt_class} each, {how}",
                Form("sheet", (plates.plate_mm,)),
                quantity=2,
            ),
            joints=(Joint("welded to", "tube"), Joint("bolted to", "rails")),
            version=(cross, tuple(unit(seat.axes[:, 2]).tobytes() + seat.centre.tobytes() for seat in seats)),
        ),
    )
