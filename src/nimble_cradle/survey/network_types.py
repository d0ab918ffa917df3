"""A network of points as it was adjusted."""

from __future__ import annotations

from dataclasses import dataclass

from nimble_cradle.calc import Worked
from nimble_cradle.geometry.pose import Array
from nimble_cradle.survey.adjust import State


@dataclass(frozen=True, eq=False)
class PlacedPoint:
    """A point: at (3,) mm in the datum frame, plus_minus (3,) mm, free: the ways in which it is not pinned
    down, in words."""

    id: str
    name: str
    at: Array
    plus_minus: Array
    free: tuple[str, ...]


@dataclass(frozen=True)
class CheckedReading:
    """A reading against all the others. residual: measured less computed, mm. off: by how much it is wrong
    if it is the wrong one. rivals: ids of readings it cannot be told from."""

    id: str
    words: str
    residual: float
    w: float
    redundancy: float
    state: State
    off: float
    rivals: tuple[str, ...] = ()
    worked: Worked | None = None


@dataclass(frozen=True)
class Tie:
    """A temporary datum tied to the main one by common points: their residuals mm, worst first; fault: why
    it is not tied in, or empty."""

    id: str
    name: str
    residuals: tuple[tuple[str, float], ...]
    rms: float
    fault: str = ""


@dataclass(frozen=True, eq=False)
class Network:
    """All points after adjustment. covariance (3 n, 3 n) sigma squared mm2, in the order of ``points``.
    factor: how the spread of the readings compares with their give-or-take (1: as said). free (3 n, k):
    directions not pinned down. datum_residuals: of a fitted datum.
    """

    points: tuple[PlacedPoint, ...]
    readings: tuple[CheckedReading, ...]
    covariance: Array
    free: Array
    ties: tuple[Tie, ...]
    questions: tuple[str, ...]
    factor: float
    dof: int
    datum_residuals: tuple[tuple[str, float], ...] = ()

    def number(self, key: str) -> int:
        """A point's place in ``points``. Raises KeyError."""
        for i, point in enumerate(self.points):
            if point.id == key:
                return i
        raise KeyError(key)

    def point(self, key: str) -> PlacedPoint:
        """A point by its id. Raises KeyError."""
        return self.points[self.number(key)]
