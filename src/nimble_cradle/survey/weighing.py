"""Mass, centre of gravity and inertia measured: two scales, tilted weighing, a swing on two or three
wires. Each with its plus-or-minus."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any

from nimble_cradle.calc import Q, calculation
from nimble_cradle.units import G_STANDARD

GILLESPIE = (
    "statics; the tilted weighing as for a vehicle's centre of gravity: Gillespie, Fundamentals of Vehicle"
    " Dynamics (1992), problem 1.6, ISO 10392 (from memory)"
)
SWING = (
    "small swings of a plate on wires: Den Hartog, Mechanical Vibrations (4th ed. 1956), ch. 2 (from memory)"
)


def spread(function: Callable[..., float], values: dict[str, float], doubts: dict[str, float]) -> float:
    """Plus-or-minus of a result by linear propagation: each input moved by its own doubt both ways, the
    effects added in squares."""
    total = 0.0
    for name, doubt in doubts.items():
        if doubt > 0:
            up, down = (function(**{**values, name: values[name] + sign * doubt}) for sign in (1, -1))
            total += ((up - down) / 2) ** 2
    return math.sqrt(total)


def place_between(front_kg: float, rear_kg: float, apart: float) -> float:
    """Distance of the centre of gravity from the rear support, mm, from the two scale readings (kg) and
    the supports' distance (mm)."""
    if front_kg + rear_kg <= 0:
        raise ValueError("the scales read nothing")
    return apart * front_kg / (front_kg + rear_kg)


def _two_scales(
    front_kg: float, rear_kg: float, apart: float, scale_plus_minus: float, tape_plus_minus: float
) -> tuple[float, float, float, float]:
    values = {"front_kg": front_kg, "rear_kg": rear_kg, "apart": apart}
    doubt = spread(
        place_between,
        values,
        {"front_kg": scale_plus_minus, "rear_kg": scale_plus_minus, "apart": tape_plus_minus},
    )
    return front_kg + rear_kg, place_between(**values), doubt, math.sqrt(2) * scale_plus_minus


_SCALE = Q("scale_plus_minus", "kg", "give or take of each scale", 0.5, low=0)
_TAPE = Q("tape_plus_minus", "mm", "give or take of the tape", 1.5, low=0)
TWO_SCALES = calculation(
    "weigh-two-scales",
    "Where the centre of gravity is, from two scales",
    inputs=(
        Q("front_kg", "kg", "scale under the front support", low=0),
        Q("rear_kg", "kg", "scale under the rear support", low=0),
        Q("apart", "mm", "between the supports, level", above=0),
        _SCALE,
        _TAPE,
    ),
    outputs=(
        Q("mass", "kg", "mass"),
        Q("ahead", "mm", "centre of gravity ahead of the rear support"),
        Q("plus_minus", "mm", "give or take"),
        Q("mass_plus_minus", "kg", "give or take of the mass"),
    ),
    formula="x = L Ff / (Ff + Fr)",
    source=GILLESPIE,
    leaves_out="supports that are not level with one another, and rubbing of the scales",
)(_two_scales)


def height_from_tilt(
    mass_kg: float, front_level_kg: float, front_tilted_kg: float, apart: float, raised: float
) -> float:
    """Height mm of the centre of gravity over the line through the two supports. The rear support is
    raised by ``raised`` mm; apart: along that line; the supports are pivots, so that loads stay upright."""
    if not 0 < abs(raised) < apart:
        raise ValueError("the lift must be more than nought and less than the distance of the supports")
    if max(front_level_kg, front_tilted_kg) > mass_kg:
        raise ValueError("a scale reads more than the whole mass")
    return _height(mass_kg, front_level_kg, front_tilted_kg, apart, raised)


def _height(
    mass_kg: float, front_level_kg: float, front_tilted_kg: float, apart: float, raised: float
) -> float:
    """The same of readings that may be a little past what can be, as their doubt takes them."""
    angle = math.asin(min(max(raised / apart, -0.999), 0.999))
    return (front_tilted_kg - front_level_kg) * apart / (mass_kg * math.tan(angle))


def _tilted(
    mass_kg: float,
    front_level_kg: float,
    front_tilted_kg: float,
    apart: float,
    raised: float,
    scale_plus_minus: float,
    tape_plus_minus: float,
) -> tuple[float, float, float]:
    values = {
        "mass_kg": mass_kg,
        "front_level_kg": front_level_kg,
        "front_tilted_kg": front_tilted_kg,
        "apart": apart,
        "raised": raised,
    }
    doubt = spread(
        _height,
        values,
        {
            "mass_kg": scale_plus_minus,
            "front_level_kg": scale_plus_minus,
            "front_tilted_kg": scale_plus_minus,
            "apart": tape_plus_minus,
            "raised": tape_plus_minus,
        },
    )
    return height_from_tilt(**values), doubt, math.degrees(math.asin(raised / apart))


TILTED = calculation(
    "weigh-tilted",
    "How high the centre of gravity is, from weighing it tilted",
    inputs=(
        Q("mass_kg", "kg", "mass", above=0),
        Q("front_level_kg", "kg", "front scale, level", low=0),
        Q("front_tilted_kg", "kg", "front scale with the rear raised", low=0),
        Q("apart", "mm", "between the supports", above=0),
        Q("raised", "mm", "the rear support raised by", above=0),
        _SCALE,
        _TAPE,
    ),
    outputs=(
        Q("height", "mm", "centre of gravity over the line through the supports"),
        Q("plus_minus", "mm", "give or take"),
        Q("tilt", "deg", "tilt"),
    ),
    formula="z = (Ff' - Ff) L / (m tan a);  sin a = h / L",
    source=GILLESPIE,
    leaves_out=(
        "oil and water that run to one end: drain them; a small tilt makes the result poor: raise it as far"
        " as is safe"
    ),
)(_tilted)


def bifilar_inertia(mass_kg: float, period: float, apart: float, wire: float) -> float:
    """Inertia kg m2 about the upright axis through the centre of gravity of a body hung on two equal
    wires. apart, wire in mm; period in s."""
    lever = apart / 1000
    weight = mass_kg * G_STANDARD
    return weight * lever**2 * period**2 / (16 * math.pi**2 * (wire / 1000))


def trifilar_inertia(mass_kg: float, period: float, radius: float, wire: float) -> float:
    """The same for three equal wires on a circle of ``radius`` mm round the upright through the centre of
    gravity."""
    return mass_kg * G_STANDARD * (radius / 1000) ** 2 * period**2 / (4 * math.pi**2 * (wire / 1000))


def _swing(inertia: Callable[..., float], size: str) -> Callable[..., tuple[float, float]]:
    def work(**given: Any) -> tuple[float, float]:
        """Inertia and its plus-or-minus; the time of many swings is taken, so its doubt is shared by them."""
        swings = float(given.pop("swings"))
        values = {
            "mass_kg": given["mass_kg"],
            "period": given["seconds"] / swings,
            size: given[size],
            "wire": given["wire"],
        }
        doubts = {
            "mass_kg": given["scale_plus_minus"],
            "period": given["watch_plus_minus"] / swings,
            size: given["tape_plus_minus"],
            "wire": given["tape_plus_minus"],
        }
        return inertia(**values), spread(inertia, values, doubts)

    return work


_WATCH = (Q("swings", "", "full swings counted", 20.0, low=1), Q("seconds", "s", "for all of them", above=0))
_SWUNG = (
    Q("wire", "mm", "length of the wires", above=0),
    _SCALE,
    _TAPE,
    Q("watch_plus_minus", "s", "give or take of the watch", 0.3, low=0),
)
_INERTIA = (
    Q("inertia", "kg m2", "about the upright through the centre of gravity"),
    Q("plus_minus", "kg m2", "give or take"),
)
BIFILAR = calculation(
    "swing-two-wires",
    "Inertia from a swing on two wires",
    inputs=(
        Q("mass_kg", "kg", "mass", above=0),
        *_WATCH,
        Q("apart", "mm", "between the wires, the centre of gravity midway", above=0),
        *_SWUNG,
    ),
    outputs=_INERTIA,
    formula="I = m g d^2 T^2 / (16 pi^2 l)",
    source=SWING,
    leaves_out="swings wider than 10 deg, and the air that moves along",
)(_swing(bifilar_inertia, "apart"))
TRIFILAR = calculation(
    "swing-three-wires",
    "Inertia from a swing on three wires",
    inputs=(
        Q("mass_kg", "kg", "mass, platform and all", above=0),
        *_WATCH,
        Q("radius", "mm", "circle of the wires", above=0),
        *_SWUNG,
    ),
    outputs=_INERTIA,
    formula="I = m g R^2 T^2 / (4 pi^2 l)",
    source=SWING,
    leaves_out="the empty platform: swing it alone and take that off",
)(_swing(trifilar_inertia, "radius"))
