"""A gutless mock-up from a dozen tape readings: believable pieces for an engine and gearbox, every one of
them then the user's to change.

Powertrain frame: x towards the pulleys from the rear face of the block, y left, z up, crank centre line at
y = z = 0.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal, NamedTuple

from nimble_cradle.job.base import JobError, Vec3
from nimble_cradle.job.powertrain import Piece
from nimble_cradle.job.shapes import Bar, Box, Shape

Layout = Literal["inline", "v", "flat", "rotary"]
Drive = Literal["gearbox", "transaxle", "transfer case"]

SHARES = {
    "block": 0.30,
    "heads": 0.16,
    "sump": 0.04,
    "front": 0.05,
    "bell": 0.07,
    "gearbox": 0.20,
    "tail": 0.04,
    "starter": 0.025,
    "alternator": 0.03,
    "intake": 0.03,
    "exhaust": 0.045,
    "flywheel": 0.01,
}
"""Share of the whole mass of each piece (common practice, no source); the rest is spread over what is there.
"""


@dataclass(frozen=True)
class TapeReadings:
    """What is taped, mm: the block's length (rear face to front face), width at the crank, height over and
    depth under the crank line; the heads' height over the block; the sump's depth under the block at its
    deep and shallow end and where the step is from the rear face; the bellhousing's length and diameter;
    the gearbox's length, width and height; the tail's length. deep_end: which end is deep. angle_deg:
    between the banks (v), or the lean of an inline block to the left. mass_kg: of everything."""

    layout: Layout = "inline"
    drive: Drive = "gearbox"
    block_long: float = 480.0
    block_wide: float = 300.0
    block_high: float = 260.0
    block_deep: float = 80.0
    head_high: float = 150.0
    sump_deep: float = 110.0
    sump_shallow: float = 50.0
    sump_step: float = 240.0
    deep_end: Literal["front", "rear"] = "rear"
    bell_long: float = 160.0
    bell_round: float = 360.0
    gearbox_long: float = 420.0
    gearbox_wide: float = 240.0
    gearbox_high: float = 250.0
    tail_long: float = 180.0
    angle_deg: float = 0.0
    mass_kg: float = 210.0


def mock_up(t: TapeReadings) -> tuple[tuple[Piece, ...], Vec3]:
    """Pieces, and where the output joint is. Raises JobError in words for readings that make no engine."""
    for name, value in (
        ("length of the block", t.block_long),
        ("width of the block", t.block_wide),
        ("length of the gearbox", t.gearbox_long),
        ("mass", t.mass_kg),
    ):
        if value <= 0:
            raise JobError(f"The {name} must be more than nought.")
    if not 0 <= t.sump_shallow <= t.sump_deep:
        raise JobError("The sump's shallow end must not be deeper than its deep end.")
    if not 0 < t.sump_step < t.block_long:
        raise JobError(f"The step of the sump must lie within the block's length of {t.block_long:g} mm.")
    shapes: dict[str, Made] = {}
    shapes |= _engine(t)
    shapes |= _behind(t)
    total = sum(SHARES[shape] for shape in shapes)
    pieces = tuple(
        Piece(
            id=key, name=name, shapes=made, neighbour=kind, mass_kg=round(t.mass_kg * SHARES[key] / total, 1)
        )
        for key, (name, made, kind) in shapes.items()
    )
    back = -(t.bell_long + t.gearbox_long + t.tail_long)
    output: Vec3 = (
        (back, 0.0, 0.0) if t.drive != "transaxle" else (-t.bell_long * 0.5, 0.0, -0.35 * t.gearbox_high)
    )
    return pieces, output


def first_seats(t: TapeReadings, pulleys_right: bool) -> tuple[Vec3, Vec3]:
    """Half-shaft seats (left, right as they stand in the car) at the two ends of the final drive as
    ``mock_up`` draws it; to be typed over."""
    near, far, y, z = _final_drive(t)
    gearbox_side, pulley_side = (far, y, z), (near, y, z)
    return (gearbox_side, pulley_side) if pulleys_right else (pulley_side, gearbox_side)


def _final_drive(t: TapeReadings) -> tuple[float, float, float, float]:
    """Its two ends along the powertrain, and its centre to the left and above the crank."""
    return -10.0, -t.bell_long - 110.0, -t.gearbox_wide / 2 - 70.0, -0.12 * t.gearbox_high - 50.0


class Made(NamedTuple):
    """A piece as it is mocked up: name, shapes in the powertrain frame, class of neighbour."""

    name: str
    shapes: tuple[Shape, ...]
    neighbour: str = "metal"


def _engine(t: TapeReadings) -> dict[str, Made]:
    """The pieces of the engine by id, in the order in which they are listed."""
    blocks = {"inline": _inline_block, "rotary": _rotary_block}.get(t.layout, _banked_block)(t)
    return {
        **blocks,
        "sump": _sump(t),
        "front": _front(t),
        "intake": _intake(t),
        "exhaust": _exhaust(t),
        "alternator": _alternator(t),
        "starter": _starter(t),
    }


def _inline_block(t: TapeReadings) -> dict[str, Made]:
    """Block and head, leaned about the crank."""
    half, lean = t.block_long / 2, t.angle_deg
    middle = _turned((0.0, (t.block_high - t.block_deep) / 2), lean)
    top = _turned((0.0, t.block_high + t.head_high / 2), lean)
    block = Box(
        centre=(half, *middle),
        size=(t.block_long, t.block_wide * 0.85, t.block_high + t.block_deep),
        turn=(-lean, 0, 0),
    )
    head = Box(
        centre=(half, *top), size=(t.block_long * 0.98, t.block_wide * 0.7, t.head_high), turn=(-lean, 0, 0)
    )
    return {"block": Made("Block", (block,)), "heads": Made("Cylinder head and cover", (head,))}


def _rotary_block(t: TapeReadings) -> dict[str, Made]:
    """Housings, round about the shaft."""
    rotors = (t.block_high + t.block_deep) / 2
    housings = Bar(start=(0, 0, 0), end=(t.block_long, 0, 0), diameter=2 * rotors)
    return {"block": Made("Housings", (housings,))}


def _banked_block(t: TapeReadings) -> dict[str, Made]:
    """A crankcase with a bank and a head to each side, upright or lying."""
    half, turn = t.block_long / 2, t.angle_deg / 2 if t.layout == "v" else 90.0
    bank_wide, high = t.block_wide * 0.42, t.block_high
    case = Box(
        centre=(half, 0, -t.block_deep / 4), size=(t.block_long, t.block_wide * 0.6, t.block_deep * 1.5 + 60)
    )
    banks, heads = [], []
    for side in (1, -1):
        lean = side * turn
        middle, top = _turned((0.0, high / 2), lean), _turned((0.0, high + t.head_high / 2), lean)
        banks.append(
            Box(centre=(half, *middle), size=(t.block_long * 0.96, bank_wide, high), turn=(-lean, 0, 0))
        )
        heads.append(
            Box(
                centre=(half, *top),
                size=(t.block_long * 0.96, bank_wide * 1.1, t.head_high),
                turn=(-lean, 0, 0),
            )
        )
    return {"block": Made("Crankcase", (case, *banks)), "heads": Made("Cylinder heads", tuple(heads))}


def _sump(t: TapeReadings) -> Made:
    """Deep at one end, shallow at the other."""
    rear, front = (0.0, t.sump_step), (t.sump_step, t.block_long)
    deep, flat = (rear, front) if t.deep_end == "rear" else (front, rear)
    wide = t.block_wide * 0.8
    parts = tuple(
        Box(centre=((a + b) / 2, 0, -t.block_deep - d / 2), size=(b - a, wide, d))
        for (a, b), d in ((deep, t.sump_deep), (flat, t.sump_shallow))
        if d > 0
    )
    return Made("Sump", parts)


def _front(t: TapeReadings) -> Made:
    cover = Box(centre=(t.block_long + 20, 0, 60), size=(40, t.block_wide * 0.7, 240))
    damper = Bar(start=(t.block_long + 40, 0, 0), end=(t.block_long + 85, 0, 0), diameter=165)
    return Made("Damper and front cover", (cover, damper), "turning")


def _intake(t: TapeReadings) -> Made:
    """Between the banks of a V, beside any other."""
    half, long = t.block_long / 2, t.block_long * 0.8
    if t.layout == "v":
        box = Box(centre=(half, 0, t.block_high + t.head_high * 0.6), size=(long, 220, 120))
    else:
        box = Box(centre=(half, t.block_wide / 2 * 0.9, t.block_high * 0.95), size=(long, 140, 120))
    return Made("Intake manifold", (box,))


def _exhaust(t: TapeReadings) -> Made:
    box = Box(
        centre=(t.block_long / 2, -t.block_wide / 2 * 0.95, t.block_high * 0.8),
        size=(t.block_long * 0.75, 110, 120),
    )
    return Made("Exhaust manifold", (box,), "hot")


def _alternator(t: TapeReadings) -> Made:
    beside = t.block_wide / 2 + 30
    ends = (t.block_long - 150, beside, 110), (t.block_long + 10, beside, 110)
    return Made("Alternator", (Bar(start=ends[0], end=ends[1], diameter=135),))


def _starter(t: TapeReadings) -> Made:
    beside = -t.block_wide / 2 * 0.85
    return Made("Starter", (Bar(start=(-10, beside, -30), end=(200, beside, -30), diameter=90),))


def _turned(place: tuple[float, float], deg: float) -> tuple[float, float]:
    """(y, z) leaned to the left by degrees about the crank."""
    c, s = math.cos(math.radians(deg)), math.sin(math.radians(deg))
    return place[0] * c + place[1] * s, place[1] * c - place[0] * s


def _behind(t: TapeReadings) -> dict[str, Made]:
    bell = Bar(start=(0, 0, 0), end=(-t.bell_long, 0, 0), diameter=t.bell_round)
    end = -t.bell_long - t.gearbox_long
    drop = -0.12 * t.gearbox_high
    out: dict[str, Made] = {"bell": Made("Bellhousing and clutch", (bell,))}
    case: tuple[Shape, ...] = (
        Box(
            centre=(-t.bell_long - t.gearbox_long / 2, 0, drop),
            size=(t.gearbox_long, t.gearbox_wide, t.gearbox_high),
        ),
    )
    if t.drive == "transaxle":
        near, far, y, z = _final_drive(t)
        case += (Bar(start=(near, y, z), end=(far, y, z), diameter=210),)
        out["gearbox"] = Made("Transaxle", case)
        return out
    out["gearbox"] = Made("Gearbox", case)
    tail: tuple[Shape, ...] = (
        Bar(
            start=(end, 0, 0),
            end=(end - t.tail_long, 0, 0),
            diameter=min(t.gearbox_wide, t.gearbox_high) * 0.5,
        ),
    )
    if t.drive == "transfer case":
        tail = (
            Box(
                centre=(end - t.tail_long / 2, -t.gearbox_wide * 0.4, -60),
                size=(t.tail_long, t.gearbox_wide * 1.7, t.gearbox_high * 0.9),
            ),
        )
    out["tail"] = Made("Transfer case" if t.drive == "transfer case" else "Gearbox tail", tail)
    return out
