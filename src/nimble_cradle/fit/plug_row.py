"""The row of plug welds that ties a panel over a cut to the member: how far apart they may be."""

from __future__ import annotations

import math

from shapely.geometry import LineString
from shapely.ops import polygonize, unary_union

from nimble_cradle.fit.opened_member import OpenedMember
from nimble_cradle.strength.opened import covered
from nimble_cradle.strength.plug_welds import plug_pitch


def pitch_over(
    found: OpenedMember, thick: float, twist_nm: float, shear_kn: float, diameter: float
) -> float | None:
    """How far apart plugs may be, mm, by the member as it is closed again; None where no plate closes it."""
    state = found.mended
    if state is None or state.section is None:
        return None
    try:
        cover = covered(found.cut.walls, thick)
    except ValueError:
        return None
    lines = [LineString([wall.start, wall.end]) for wall in (*found.cut.walls, cover)]
    enclosed = sum(cell.area for cell in polygonize(unary_union(lines)))
    if enclosed < 1.0:
        return None
    axis, _ = found.member.way(found.opening.side)
    middle = [(a + b) / 2 for a, b in zip(cover.start, cover.end, strict=True)]
    away = abs(middle[axis] - float(state.section.centroid[axis]))
    first = math.dist(cover.start, cover.end) * thick * away
    second = (state.section.i_z, state.section.i_y)[axis]
    return plug_pitch(1e3 * twist_nm, enclosed, 1e3 * shear_kn, first, second, diameter)[2]
