"""What the exact check teaches the problem of a seat, kept for another problem much like it."""

from __future__ import annotations

from dataclasses import dataclass, replace

from nimble_cradle.geometry.pose import Array
from nimble_cradle.seat.seating import Seating


@dataclass(frozen=True, eq=False)
class Lessons:
    """What the exact check taught a problem: the needs (owners, columns), mm, by owner's id and item's id."""

    owners: tuple[str, ...]
    columns: tuple[str, ...]
    need: Array


def lessons_of(seating: Seating) -> Lessons:
    """The needs of a problem as the exact check corrected them."""
    return Lessons(seating.owners, seating.columns, seating.problem.need())


def learned(seating: Seating, old: Lessons | None) -> Seating:
    """A problem with the corrected needs of another one, for the pairs that both have: a better beginning,
    no more."""
    if old is None:
        return seating
    need = seating.problem.need()
    rows = {o: k for k, o in enumerate(old.owners)}
    columns: dict[str, list[int]] = {}
    for k, column in enumerate(old.columns):
        columns.setdefault(column, []).append(k)
    seen: dict[str, int] = {}
    for k, column in enumerate(seating.columns):
        n = seen[column] = seen.get(column, -1) + 1
        if n < len(columns.get(column, ())):
            for a, owner in enumerate(seating.owners):
                if owner in rows:
                    need[a, k] = old.need[rows[owner], columns[column][n]]
    return replace(seating, problem=seating.problem.with_need(need))
