"""How a bush answers a movement: force, tangent and energy from one potential, so that tangents are
symmetric and work comes back.

Movements (k, 3) mm of the engine side in the bush's own axes: two across it, then along it. Forces (k, 3)
N are those of the engine side on the bush (and so on the chassis). A law is a sum of terms.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import NamedTuple, Protocol

import numpy as np

from nimble_cradle.geometry.pose import Array

METAL_STOP = 8000.0
"""How hard metal on metal, or rubber that is squeezed solid, meets: N/mm (common practice, no source)."""
LEAD_IN = 2.0
"""Over so many mm a stop comes to its full hardness (common practice, no source)."""
TINY = 1e-9


class Answer(NamedTuple):
    """force (k, 3) N, tangent (k, 3, 3) N/mm, energy (k,) N mm."""

    force: Array
    tangent: Array
    energy: Array

    def plus(self, other: Answer) -> Answer:
        """Two terms together."""
        return Answer(self.force + other.force, self.tangent + other.tangent, self.energy + other.energy)


class Term(Protocol):
    """One term of a law."""

    def answer(self, u: Array) -> Answer:
        """To movements (k, 3)."""


class Curve(NamedTuple):
    """One way's force N, slope N/mm and energy N mm for movements (k,) mm."""

    force: Array
    slope: Array
    energy: Array


def stop_curve(past: Array, hard: float, lead: float = LEAD_IN) -> Curve:
    """A stop that is met by ``past`` mm (k,): h o^2/(2 s) while o < s, then h (o - s/2)."""
    o = np.maximum(past, 0.0)
    early = o < lead
    return Curve(
        np.where(early, hard * o**2 / (2 * lead), hard * (o - lead / 2)),
        np.where(early, hard * o / lead, hard),
        np.where(early, hard * o**3 / (6 * lead), hard * (o**2 / 2 - lead * o / 2 + lead**2 / 6)),
    )


@dataclass(frozen=True)
class Linear:
    """Stiffness across (both ways alike) and along, N/mm."""

    across: float
    along: float

    def answer(self, u: Array) -> Answer:
        """Hooke's law."""
        k = np.array([self.across, self.across, self.along])
        force = u * k
        return Answer(force, np.broadcast_to(np.diag(k), (len(u), 3, 3)).copy(), (force * u).sum(1) / 2)


@dataclass(frozen=True)
class RadialStop:
    """Met after ``gap`` mm of movement across, whichever way."""

    gap: float
    hard: float = METAL_STOP

    def answer(self, u: Array) -> Answer:
        """f along the way moved; across that f/d."""
        d = np.linalg.norm(u[:, :2], axis=1)
        f, slope, energy = stop_curve(d - self.gap, self.hard)
        safe = np.maximum(d, TINY)
        way = np.zeros_like(u)
        way[:, :2] = u[:, :2] / safe[:, None]
        out = np.einsum("ki,kj->kij", way, way)
        flat = np.zeros_like(out)
        flat[:, [0, 1], [0, 1]] = 1.0
        tangent = slope[:, None, None] * out + (f / safe)[:, None, None] * (flat - out)
        return Answer(f[:, None] * way, tangent, energy)


@dataclass(frozen=True)
class AxialStop:
    """Met after ``ahead`` mm along the axis, or ``behind`` mm against it."""

    ahead: float
    behind: float
    hard: float = METAL_STOP
    lead: float = LEAD_IN

    def answer(self, u: Array) -> Answer:
        """Both stops; only one can be met."""
        a, b = (
            stop_curve(s * u[:, 2] - gap, self.hard, self.lead)
            for s, gap in ((1.0, self.ahead), (-1.0, self.behind))
        )
        return _along(Curve(a.force - b.force, a.slope + b.slope, a.energy + b.energy))


@dataclass(frozen=True)
class Along:
    """Any curve along the axis."""

    curve: Callable[[Array], Curve]

    def answer(self, u: Array) -> Answer:
        """The curve, nothing across."""
        return _along(self.curve(u[:, 2]))


def _along(curve: Curve) -> Answer:
    k = len(curve.force)
    force, tangent = np.zeros((k, 3)), np.zeros((k, 3, 3))
    force[:, 2], tangent[:, 2, 2] = curve.force, curve.slope
    return Answer(force, tangent, curve.energy)


@dataclass(frozen=True)
class Law:
    """Terms that are added. onset: below how many mm of movement across and along only its linear terms
    answer."""

    terms: tuple[Term, ...]
    onset: tuple[float, float] = (np.inf, np.inf)

    def answer(self, u: Array) -> Answer:
        """To movements (k, 3) mm."""
        out = self.terms[0].answer(u)
        for term in self.terms[1:]:
            out = out.plus(term.answer(u))
        return out

    @property
    def begins_linear(self) -> bool:
        """Whether it is linear about nought."""
        return min(self.onset) > 0.0

    def tangent(self) -> Array:
        """(3, 3) N/mm about nought."""
        return np.asarray(self.answer(np.zeros((1, 3))).tangent[0])

    def met(self, u: Array) -> np.ndarray:
        """(k,) whether a movement goes past what is linear."""
        across, along = np.linalg.norm(u[:, :2], axis=1), np.abs(u[:, 2])
        return np.asarray((across > self.onset[0]) | (along > self.onset[1]))
