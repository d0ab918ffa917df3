"""A gutless mock-up from a dozen tape readings: believable pieces for an engine and gearbox, every one of
them then the user's to change.

Powertrain frame: x towards the pulleys from the rear face of the block, y left, z up, crank centre line at
y = z = 0.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

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
    shapes: dict[str, tuple[str, tuple[Shape, ...], str]] = {}
    shapes |= _engine(t)
    shapes |= _behind(t)
    total = sum(SHARES[k] for k in shapes)
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


def _engine(t: TapeReadings) -> dict[str, tuple[str, tuple[Shape, ...], str]]:
    half = t.block_long / 2
    out: dict[str, tuple[str, tuple[Shape, ...], str]] = {}
    if t.layout == "inline":
        lean = t.angle_deg
        middle = _turned((0.0, (t.block_high - t.block_deep) / 2), lean)
        out["block"] = (
            "Block",
            (
                Box(
                    centre=(half, *middle),
                    size=(t.block_long, t.block_wide * 0.85, t.block_high + t.block_deep),
                    turn=(-lean, 0, 0),
                ),
            ),
            "metal",
        )
        top = _turned((0.0, t.block_high + t.head_high / 2), lean)
        out["heads"] = (
            "Cylinder head and cover",
            (
                Box(
                    centre=(half, *top),
                    size=(t.block_long * 0.98, t.block_wide * 0.7, t.head_high),
                    turn=(-lean, 0, 0),
                ),
            ),
            "metal",
        )
    elif t.layout == "rotary":
        rotors = (t.block_high + t.block_deep) / 2
        out["block"] = (
            "Housings",
            (Bar(start=(0, 0, 0), end=(t.block_long, 0, 0), diameter=2 * rotors),),
            "metal",
        )
    else:
        turn = t.angle_deg / 2 if t.layout == "v" else 90.0
        bank_wide, high = t.block_wide * 0.42, t.block_high
        out["block"] = (
            "Crankcase",
            (
                Box(
                    centre=(half, 0, -t.block_deep / 4),
                    size=(t.block_long, t.block_wide * 0.6, t.block_deep * 1.5 + 60),
                ),
            ),
            "metal",
        )
        banks, heads = [], []
        for side in (1, -1):
            banks.append(
                Box(
                    centre=(half, *_turned((0.0, high / 2), side * turn)),
                    size=(t.block_long * 0.96, bank_wide, high),
                    turn=(-side * turn, 0, 0),
                )
            )
            top = _turned((0.0, high + t.head_high / 2), side * turn)
            heads.append(
                Box(
                    centre=(half, *top),
                    size=(t.block_long * 0.96, bank_wide * 1.1, t.head_high),
                    turn=(-side * turn, 0, 0),
                )
            )
        name, made, kind = out["block"]
        out["block"] = (name, (*made, *banks), kind)
        out["heads"] = ("Cylinder heads", tuple(heads), "metal")
    deep_from, deep_to = (0.0, t.sump_step) if t.deep_end == "rear" else (t.sump_step, t.block_long)
    flat_from, flat_to = (t.sump_step, t.block_long) if t.deep_end == "rear" else (0.0, t.sump_step)
    wide = t.block_wide * 0.8
    out["sump"] = (
        "Sump",
        tuple(
            Box(centre=((a + b) / 2, 0, -t.block_deep - d / 2), size=(b - a, wide, d))
            for a, b, d in ((deep_from, deep_to, t.sump_deep), (flat_from, flat_to, t.sump_shallow))
            if d > 0
        ),
        "metal",
    )
    out["front"] = (
        "Damper and front cover",
        (
            Box(centre=(t.block_long + 20, 0, 60), size=(40, t.block_wide * 0.7, 240)),
            Bar(start=(t.block_long + 40, 0, 0), end=(t.block_long + 85, 0, 0), diameter=165),
        ),
        "turning",
    )
    beside = t.block_wide / 2
    out["intake"] = (
        "Intake manifold",
        (
            (Box(centre=(half, beside * 0.9, t.block_high * 0.95), size=(t.block_long * 0.8, 140, 120)),)
            if t.layout != "v"
            else (
                Box(centre=(half, 0, t.block_high + t.head_high * 0.6), size=(t.block_long * 0.8, 220, 120)),
            )
        ),
        "metal",
    )
    out["exhaust"] = (
        "Exhaust manifold",
        (Box(centre=(half, -beside * 0.95, t.block_high * 0.8), size=(t.block_long * 0.75, 110, 120)),),
        "hot",
    )
    out["alternator"] = (
        "Alternator",
        (
            Bar(
                start=(t.block_long - 150, beside + 30, 110),
                end=(t.block_long + 10, beside + 30, 110),
                diameter=135,
            ),
        ),
        "metal",
    )
    out["starter"] = (
        "Starter",
        (Bar(start=(-10, -beside * 0.85, -30), end=(200, -beside * 0.85, -30), diameter=90),),
        "metal",
    )
    return out


def _turned(place: tuple[float, float], deg: float) -> tuple[float, float]:
    """(y, z) leaned to the left by degrees about the crank."""
    c, s = math.cos(math.radians(deg)), math.sin(math.radians(deg))
    return place[0] * c + place[1] * s, place[1] * c - place[0] * s


def _behind(t: TapeReadings) -> dict[str, tuple[str, tuple[Shape, ...], str]]:
    bell = Bar(start=(0, 0, 0), end=(-t.bell_long, 0, 0), diameter=t.bell_round)
    end = -t.bell_long - t.gearbox_long
    drop = -0.12 * t.gearbox_high
    out: dict[str, tuple[str, tuple[Shape, ...], str]] = {
        "bell": ("Bellhousing and clutch", (bell,), "metal")
    }
    case: tuple[Shape, ...] = (
        Box(
            centre=(-t.bell_long - t.gearbox_long / 2, 0, drop),
            size=(t.gearbox_long, t.gearbox_wide, t.gearbox_high),
        ),
    )
    if t.drive == "transaxle":
        near, far, y, z = _final_drive(t)
        case += (Bar(start=(near, y, z), end=(far, y, z), diameter=210),)
        out["gearbox"] = ("Transaxle", case, "metal")
        return out
    out["gearbox"] = ("Gearbox", case, "metal")
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
    out["tail"] = ("Transfer case" if t.drive == "transfer case" else "Gearbox tail", tail, "metal")
    return out
