"""Two flat bars on edge as an arm: stress, tipping, buckling. N, mm, MPa, N mm; loads (k,) at once."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any

import numpy as np

from nimble_cradle.calc import Q, calculation
from nimble_cradle.geometry.pose import Array
from nimble_cradle.stock.steels import E_STEEL, G_STEEL

TIPPING, BUCKLING = 0.76, 0.49
"""Imperfection of curve d for tipping and of curve c for buckling of a solid bar (EN 1993-1-1 tables 6.1 to
6.4, from memory)."""


@dataclass(frozen=True)
class FlatPair:
    """Two bars, each ``thick`` by ``tall``, ``apart`` between them, ``free`` between two ties."""

    thick: float
    tall: float
    apart: float
    free: float
    length: float
    yield_mpa: float

    @property
    def spacing(self) -> float:
        """Between the middles of the bars."""
        return self.apart + self.thick

    @property
    def area(self) -> float:
        """Of one bar."""
        return self.thick * self.tall

    def tipping(self) -> float:
        """Share of its yield moment that one bar keeps before it tips over sideways."""
        second, turn = self.tall * self.thick**3 / 12, twist(self.tall, self.thick)
        critical = math.pi / self.free * math.sqrt(E_STEEL * second * G_STEEL * turn)
        return _reduction(math.sqrt(self.thick * self.tall**2 / 6 * self.yield_mpa / critical), TIPPING)

    def buckling(self) -> float:
        """Share of its yield load that one bar keeps before it buckles sideways."""
        critical = math.pi**2 * E_STEEL * self.tall * self.thick**3 / 12 / self.free**2
        return _reduction(math.sqrt(self.area * self.yield_mpa / critical), BUCKLING)


def twist(tall: float, thick: float) -> float:
    """Saint-Venant's constant of a rectangle, mm4 (Roark table 10.7, from memory)."""
    a, b = max(tall, thick), min(tall, thick)
    return a * b**3 * (1 / 3 - 0.21 * b / a * (1 - (b / a) ** 4 / 12))


def _reduction(slender: float, imperfection: float) -> float:
    """EN 1993-1-1, 6.3.1.2 and 6.3.2.2 (from memory)."""
    if slender <= 0.2:
        return 1.0
    phi = 0.5 * (1 + imperfection * (slender - 0.2) + slender**2)
    return min(1.0, 1 / (phi + math.sqrt(phi**2 - slender**2)))


@dataclass(frozen=True, eq=False)
class PairUse:
    """(k,) share used, and the stress MPa without tipping and buckling."""

    use: Array
    stress: Array


def flat_pair(
    pair: FlatPair,
    axial: Any,
    shear_tall: Any,
    shear_side: Any,
    bending_tall: Any,
    bending_side: Any,
    torsion: Any,
) -> PairUse:
    """What the harder-used bar meets. bending_tall bends both over their height; bending_side pulls one and
    presses the other; shear_side bends each between its ties; torsion bends one up, the other down."""
    s, t, h = pair.spacing, pair.thick, pair.tall
    n = np.abs(axial) / 2 + np.abs(bending_side) / s
    strong = np.abs(bending_tall) / 2 + np.abs(torsion) / s * pair.length / 2
    weak = np.abs(shear_side) / 2 * pair.free / 2
    v = np.abs(shear_tall) / 2 + np.abs(torsion) / s
    by_n, by_strong, by_weak = n / pair.area, 6 * strong / (t * h**2), 6 * weak / (h * t**2)
    stress = np.sqrt((by_n + by_strong + by_weak) ** 2 + 3 * (1.5 * v / pair.area) ** 2)
    stable = by_n / pair.buckling() + by_strong / pair.tipping() + by_weak
    return PairUse(np.asarray(np.maximum(stress, stable) / pair.yield_mpa), np.asarray(stress))


def _worked(
    thick: float, tall: float, apart: float, free: float, length: float, yield_mpa: float, **loads: float
) -> tuple[float, float, float, float]:
    pair = FlatPair(thick, tall, apart, free, length, yield_mpa)
    found = flat_pair(pair, **loads)
    return float(found.use), float(found.stress), pair.tipping(), pair.buckling()


FLAT_PAIR = calculation(
    "flat-pair",
    "Two flat bars on edge as an arm",
    inputs=(
        Q("thick", "mm", "thickness of each bar", above=0),
        Q("tall", "mm", "its height", above=0),
        Q("apart", "mm", "between the two", above=0),
        Q("free", "mm", "between two ties along them", above=0),
        Q("length", "mm", "plate to eye", above=0),
        Q("yield_mpa", "MPa", "yield strength", above=0),
        Q("axial", "N", "along them, with its factor", 0.0),
        Q("shear_tall", "N", "shear along their height", 0.0),
        Q("shear_side", "N", "shear across them", 0.0),
        Q("bending_tall", "N mm", "bending over their height", 0.0),
        Q("bending_side", "N mm", "bending across the pair", 0.0),
        Q("torsion", "N mm", "torsion", 0.0),
    ),
    outputs=(
        Q("use", "", "share used"),
        Q("stress", "MPa", "stress in the harder-used bar"),
        Q("tipping", "", "share of its yield moment left by tipping"),
        Q("buckling", "", "share of its yield load left by buckling"),
    ),
    formula=(
        "bar: N/2 + Ms/s, M/2 + T L/(2 s), Vs free/4;  sqrt(sum sigma^2 + 3 (1.5 V/A)^2);  tipping: Mcr ="
        " pi/free sqrt(E Iz G It), curve d;  buckling: pi^2 E Iz/free^2, curve c"
    ),
    source="statics of a pair tied at both ends; EN 1993-1-1:2005, 6.3.1 and 6.3.2.2 (from memory)",
    leaves_out="torsion in each bar by itself, and holes in the bars",
)(_worked)
