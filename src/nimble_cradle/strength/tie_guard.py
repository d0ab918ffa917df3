"""A folded plate from rail to rail that carries the steering rack and guards the sump. N, mm, MPa."""

from __future__ import annotations

from nimble_cradle.calc import Q, calculation


def rack_moves(
    force: float, length: float, area: float, inertia: float, high: float, e_mpa: float
) -> tuple[float, float]:
    """How far the rack goes sideways, mm, and N/mm: half way between the rails, ``high`` mm over the plate,
    which is pressed and drawn along, and bent as a beam on two hinges by the force's moment."""
    give = length / (4 * e_mpa * area) + high**2 * length / (12 * e_mpa * inertia)
    return force * give, 1 / give


RACK_MOVES = calculation(
    "rack-on-a-tie",
    "How far a steering rack goes sideways on the tie that carries it",
    inputs=(
        Q("force", "N", "along the rack", low=0),
        Q("length", "mm", "from rail to rail", above=0),
        Q("area", "mm2", "of the tie's section", above=0),
        Q("inertia", "mm4", "of it, bent up and down", above=0),
        Q("high", "mm", "the rack over it", low=0),
        Q("e_mpa", "MPa", "Young's modulus", 210_000.0, above=0),
        Q("least", "N/mm", "stiffness that is wanted", above=0),
    ),
    outputs=(
        Q("use", "", "wanted over there"),
        Q("moved", "mm", "sideways"),
        Q("stiffness", "N/mm", "of the tie at the rack"),
    ),
    formula="1/k = L/(4 E A) + h^2 L/(12 E I): along it to both rails, and turned in the middle by F h",
    source="beams on two hinges under a force and a moment half way (statics; Roark table 8.1, from memory)",
    leaves_out="give of the rails, of the rack's clamps and of its rubbers",
)(lambda least, **given: (least / rack_moves(**given)[1], *rack_moves(**given)))


def guard_beam(load: float, length: float, patch: float, modulus: float) -> float:
    """MPa in the tie as a beam, the stone half way between the rails."""
    return load * max(length / 4 - patch / 8, 0.0) / modulus


GUARD_BEAM = calculation(
    "guard-beam",
    "A guard thrown on a stone, as a beam from rail to rail",
    inputs=(
        Q("load", "N", "on the stone, with its factor", low=0),
        Q("length", "mm", "from rail to rail", above=0),
        Q("patch", "mm", "the stone, along it", above=0),
        Q("modulus", "mm3", "elastic modulus, bent up and down", above=0),
        Q("yield_mpa", "MPa", "yield strength", above=0),
    ),
    outputs=(Q("use", "", "share used"), Q("stress", "MPa", "bending")),
    formula="sigma = P (L/4 - c/8)/W",
    source="beam on two hinges, load over a length in the middle (statics)",
    leaves_out="what the ends hold, and that a stone bends it for good and is still kept off",
)(
    lambda load, length, patch, modulus, yield_mpa: (
        guard_beam(load, length, patch, modulus) / yield_mpa,
        guard_beam(load, length, patch, modulus),
    )
)


def guard_plate(wide: float, patch: float, thick: float, yield_mpa: float) -> float:
    """N that the sheet carries between its two lips on a square patch half way, a strip as wide as the patch
    and once the width between the lips bearing as a beam."""
    across = wide / 4 - min(patch, wide) / 8
    return yield_mpa * thick**2 / 4 * (min(patch, wide) + wide) / max(across, 1e-9)


GUARD_PLATE = calculation(
    "guard-plate",
    "The sheet of a guard between its lips, thrown on a stone",
    inputs=(
        Q("load", "N", "on the stone, with its factor", low=0),
        Q("wide", "mm", "between the lips", above=0),
        Q("patch", "mm", "the stone", above=0),
        Q("thick", "mm", "sheet", above=0),
        Q("yield_mpa", "MPa", "yield strength", above=0),
    ),
    outputs=(Q("use", "", "share used"), Q("carries", "N", "till it yields right across")),
    formula="P = fy t^2/4 (c + w)/(w/4 - c/8)",
    source=(
        "plastic strip on two hinges (statics); for a point 4 m against 2 pi m of a fan of yield lines"
        " (Johansen, from memory)"
    ),
    leaves_out="what the sheet carries as a net once it is dished",
)(
    lambda load, wide, patch, thick, yield_mpa: (
        load / guard_plate(wide, patch, thick, yield_mpa),
        guard_plate(wide, patch, thick, yield_mpa),
    )
)
