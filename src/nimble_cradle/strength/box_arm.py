"""A box of four walls as an arm: stress, and whether its walls are stout enough. N, mm, MPa, N mm; loads (k,)
at once."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any

import numpy as np

from nimble_cradle.calc import Q, calculation
from nimble_cradle.geometry.pose import Array

STOUT = 42.0
"""Width of a pressed wall over its thickness up to which all of it counts, times eps (EN 1993-1-1 table 5.2,
class 3, from memory)."""


@dataclass(frozen=True)
class Box:
    """A box with sharp corners: outside height and width, wall, mm."""

    tall: float
    wide: float
    wall: float

    @property
    def area(self) -> float:
        """mm2."""
        return self.tall * self.wide - self._inner_tall * self._inner_wide

    @property
    def second_tall(self) -> float:
        """Second moment against bending over its height, mm4."""
        return (self.wide * self.tall**3 - self._inner_wide * self._inner_tall**3) / 12

    @property
    def second_side(self) -> float:
        """Second moment against bending over its width, mm4."""
        return (self.tall * self.wide**3 - self._inner_tall * self._inner_wide**3) / 12

    @property
    def torsion(self) -> float:
        """Bredt's torsion constant, mm4."""
        middle = self._middle
        return 4 * middle**2 * self.wall / (2 * (self.tall + self.wide - 2 * self.wall))

    @property
    def _middle(self) -> float:
        return (self.tall - self.wall) * (self.wide - self.wall)

    @property
    def _inner_tall(self) -> float:
        return self.tall - 2 * self.wall

    @property
    def _inner_wide(self) -> float:
        return self.wide - 2 * self.wall

    def slenderness(self, yield_mpa: float) -> float:
        """Its widest wall against what is stout; over 1 not all of it counts."""
        widest = max(self._inner_tall, self._inner_wide) / self.wall
        return widest / (STOUT * math.sqrt(235 / yield_mpa))

    def stress(
        self, axial: Any, shear_tall: Any, shear_side: Any, bending_tall: Any, bending_side: Any, torsion: Any
    ) -> Array:
        """(k,) MPa in its hardest-used corner, shear of its hardest-used wall with it."""
        sigma = np.abs(axial) / self.area + np.abs(bending_tall) * self.tall / 2 / self.second_tall
        sigma = sigma + np.abs(bending_side) * self.wide / 2 / self.second_side
        walls = np.maximum(np.abs(shear_tall) / self._inner_tall, np.abs(shear_side) / self._inner_wide)
        tau = 0.75 * walls / self.wall + np.abs(torsion) / (2 * self._middle * self.wall)
        return np.asarray(np.sqrt(sigma**2 + 3 * tau**2))

    def use(self, stress: Any, yield_mpa: float) -> Array:
        """(k,) share used: a wall that is too slender counts as worn out."""
        slender = self.slenderness(yield_mpa)
        return np.asarray(np.maximum(np.asarray(stress) / yield_mpa, slender if slender > 1 else 0.0))


def _worked(
    tall: float, wide: float, wall: float, yield_mpa: float, **loads: float
) -> tuple[float, float, float]:
    box = Box(tall, wide, wall)
    stress = float(box.stress(**loads))
    return float(box.use(stress, yield_mpa)), stress, box.slenderness(yield_mpa)


BOX_ARM = calculation(
    "box-arm",
    "A box of four walls as an arm",
    inputs=(
        Q("tall", "mm", "outside height", above=0),
        Q("wide", "mm", "outside width", above=0),
        Q("wall", "mm", "wall", above=0),
        Q("yield_mpa", "MPa", "yield strength", above=0),
        Q("axial", "N", "along it, with its factor", 0.0),
        Q("shear_tall", "N", "shear along its height", 0.0),
        Q("shear_side", "N", "shear along its width", 0.0),
        Q("bending_tall", "N mm", "bending over its height", 0.0),
        Q("bending_side", "N mm", "bending over its width", 0.0),
        Q("torsion", "N mm", "torsion", 0.0),
    ),
    outputs=(
        Q("use", "", "share used"),
        Q("stress", "MPa", "stress in its hardest-used corner"),
        Q("slender", "", "widest wall against what is stout"),
    ),
    formula=(
        "sigma = N/A + M h/(2 I) both ways;  tau = 1.5 V/(2 h t) + T/(2 Am t);  sqrt(sigma^2 + 3 tau^2) <="
        " fy;  c/t <= 42 sqrt(235/fy)"
    ),
    source="elastic beam theory, Bredt's formula; EN 1993-1-1:2005, 6.2.1 (5) and table 5.2 (from memory)",
    leaves_out="round corners, the warping of its ends, and what of a slender wall would still work",
)(_worked)
