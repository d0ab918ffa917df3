"""Outlines with holes traced elsewhere and brought in as DXF or SVG. mm, y up.

Every closed line that is round is a hole, however it was drawn (circle, arcs, curves, bulges, in blocks or
used again); the largest closed line is the outline. What was in the file and could not be used is told.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from nimble_cradle.files import printable
from nimble_cradle.geometry.pose import Array
from nimble_cradle.geometry.solids import ShapeError
from nimble_cradle.guarded import Refused, guarded

MOST_BYTES = 20_000_000
"""Bytes of a traced outline: a photo of it would be about as large."""


@dataclass(frozen=True, eq=False)
class Traced:
    """outline (n, 2) or empty; holes: (m, 3) x, y and diameter, all mm, y up. unit: the unit the file
    says, in words. left_out: what the file holds besides, in words (``2 texts``)."""

    outline: Array
    holes: Array
    unit: str
    left_out: tuple[str, ...] = ()


def read_traced(
    name: str, data: bytes, unit_mm: float | None = None, say: Callable[[str], None] = lambda _: None
) -> Traced:
    """Read a traced file, where it can be stopped. unit_mm: mm to one unit of the file; None takes what the
    file says. say: may raise to stop it. Raises ShapeError with a sentence, and where the file says no unit.
    """
    shown, kind = printable(name), name.rsplit(".", 1)[-1].lower()
    if len(data) > MOST_BYTES:
        raise ShapeError(f"“{shown}” is too large for a traced outline ({len(data) / 1e6:.0f} MB).")
    if kind not in ("dxf", "svg"):
        raise ShapeError(f"“{shown}” is neither DXF nor SVG.")
    try:
        told, (outline, holes) = guarded(
            "nimble_cradle.survey.traced_readers:read_here", [kind, unit_mm], data, say
        )
    except Refused as error:
        raise ShapeError(f"“{shown}” {str(error).rstrip('.')}.") from None
    return Traced(outline.reshape(-1, 2), holes.reshape(-1, 3), told["unit"], tuple(told["left_out"]))
