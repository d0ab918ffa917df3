"""Readers of traced outlines (DXF, SVG); ``traced`` calls them where they can be stopped.

What goes wrong is a ShapeError with words that follow the file's name.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from typing import Any

import numpy as np

from nimble_cradle.geometry.pose import Array
from nimble_cradle.geometry.solids import ShapeError
from nimble_cradle.survey.traced_dxf import read_dxf
from nimble_cradle.survey.traced_limits import CHORD, MOST_REACH, MOST_THINGS, ROUND, TOO_FAR
from nimble_cradle.survey.traced_svg import read_svg


def read_here(words: Sequence[Any], data: bytes) -> tuple[dict[str, Any], list[Array]]:
    """words: (``dxf`` or ``svg``, mm to one unit of the file or None). For ``guarded``: the unit that the
    file says and what was left out, in words; outline (n, 2) and holes (m, 3), mm. Raises ShapeError."""
    kind, unit_mm = words
    read = read_dxf(data, unit_mm) if kind == "dxf" else read_svg(data, unit_mm)
    if not read.closed:
        what = f" ({_counted(Counter({'open line': len(read.open)}))[0]})" if read.open else ""
        raise ShapeError(f"holds no circle and no closed line{what}.")
    scale = unit_mm or read.scale
    if scale is None:
        raise ShapeError("does not say its unit: say whether it is mm or inch.")
    rings = [r * scale for r in read.closed]
    if any(not np.isfinite(r).all() or np.abs(r).max() > MOST_REACH for r in rings):
        raise ShapeError(TOO_FAR)
    circles = [(k, *found) for k, ring in enumerate(rings) if (found := _circle(ring)) is not None]
    others = [k for k in range(len(rings)) if k not in {c[0] for c in circles}]
    largest = max(range(len(rings)), key=lambda k: _area(rings[k]))
    flange = next((c for c in circles if c[0] == largest), None)
    if (
        flange is not None
        and len(circles) > 1
        and all(_inside(c, flange) for c in circles if c is not flange)
    ):
        circles.remove(flange)  # a round plate: the circle round all the others
        others = [largest]
    outline = _plain(max((rings[k] for k in others), key=_area, default=np.zeros((0, 2))))
    left_out = Counter(read.left_out)
    if read.open:
        left_out["open line"] += len(read.open)
    if len(others) > 1:
        left_out["closed line besides the outline"] += len(others) - 1
    return {"unit": read.unit, "left_out": _counted(left_out)}, [outline, _once([c[1:] for c in circles])]


def _counted(things: Counter[str]) -> list[str]:
    """``2 texts`` and the like, in order."""
    return [f"{n} {what}{'' if n == 1 or what.endswith('s') else 's'}" for what, n in sorted(things.items())]


def _area(ring: Array) -> float:
    x, y = ring[:, 0], ring[:, 1]
    return abs(float(x @ np.roll(y, -1) - y @ np.roll(x, -1))) / 2


def _plain(ring: Array) -> Array:
    """A line without the points that it does not need: within two chords of what it was."""
    if len(ring) < 4:
        return ring
    from shapely.geometry import Polygon

    outline = getattr(Polygon(ring).simplify(2 * CHORD), "exterior", None)
    return ring if outline is None else np.asarray(outline.coords)[:-1]


def _circle(ring: Array) -> tuple[float, float, float] | None:
    """Centre and diameter of a closed line that is round, by least squares through its points; None for
    another."""
    if len(ring) < 8:
        return None
    middle = ring.mean(0)
    p = ring - middle
    fit, *_ = np.linalg.lstsq(np.column_stack([2 * p, np.ones(len(p))]), (p**2).sum(1), rcond=None)
    radius = float(np.sqrt(max(fit[2] + fit[:2] @ fit[:2], 0.0)))
    both = np.vstack([p, (p + np.roll(p, -1, axis=0)) / 2]) - fit[:2]
    off = np.abs(np.hypot(*both.T) - radius).max()
    turned = abs(_area(ring) / max(np.pi * radius**2, 1e-12) - 1)
    if radius <= 0 or off > ROUND * radius or turned > 3 * ROUND:
        return None
    return float(middle[0] + fit[0]), float(middle[1] + fit[1]), 2 * radius


def _inside(circle: tuple[int, float, float, float], round_all: tuple[int, float, float, float]) -> bool:
    """Whether one circle lies within another: (number, x, y, diameter)."""
    apart = float(np.hypot(circle[1] - round_all[1], circle[2] - round_all[2]))
    return apart + circle[3] / 2 < round_all[3] / 2


def _once(circles: list[tuple[float, float, float]]) -> Array:
    """Circles (m, 3) without those that are drawn twice."""
    whole = np.array(circles, dtype=float).reshape(-1, 3)
    if len(whole) < 2:
        return whole
    from scipy.spatial import cKDTree

    again = (
        {int(b) for a, b in cKDTree(whole).query_pairs(0.05, p=np.inf)} if len(whole) < MOST_THINGS else set()
    )
    return whole[[k for k in range(len(whole)) if k not in again]]
