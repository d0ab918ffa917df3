"""Whether a solid lies wholly inside another: where two surfaces are apart, every connected piece of one
is wholly inside the other or wholly outside it, so one point of each piece tells."""

from __future__ import annotations

import numpy as np

from nimble_cradle.geometry.pose import Array, Pose
from nimble_cradle.geometry.solids import ConvexPart, MeshPart, SolidPart
from nimble_cradle.geometry.winding import winding_number


def one_of_each(part: SolidPart) -> Array:
    """A point (k, 3) of each connected piece of a part's surface, owner's frame."""
    return part.piece_points if isinstance(part, MeshPart) else part.triangles[0][:1]


def inside(part: SolidPart, points: Array) -> bool:
    """Whether any of points (k, 3), owner's frame, lies inside a part; of an open surface nothing does."""
    if isinstance(part, ConvexPart):
        local = (points - part.pose.translation) @ part.pose.rotation
        if part.kind == "bar":
            radius, length = part.size
            return bool(
                ((np.hypot(local[:, 0], local[:, 1]) < radius) & (np.abs(local[:, 2]) < length / 2)).any()
            )
        if part.kind == "box":
            return bool((np.abs(local) < np.array(part.size) / 2).all(1).any())
        normals, offsets = part.sides
        return bool((local @ normals.T < offsets).all(1).any())
    answers = part.whole is not None and part.for_whole
    if not answers and (part.whole is not None or not part.closed):
        return False
    centre, half = part.whole.box if part.whole is not None else part.box
    near = points[(np.abs(points - centre) < half).all(1)]
    if part.whole is not None:
        return any(abs(part.whole.winding(p)) > 0.5 for p in near)
    return any(abs(winding_number(p, part.vertices, part.faces)) > 0.5 for p in near)


def may_hold(outer: SolidPart, inner: SolidPart) -> bool:
    """Whether a connected piece of ``inner`` could lie in a part: not in an open surface, nor in a solid that
    is shorter across than a piece is long."""
    if isinstance(outer, MeshPart):
        return outer.for_whole if outer.whole is not None else outer.closed
    in_one_piece = isinstance(inner, ConvexPart) or len(inner.piece_points) == 1
    return not in_one_piece or inner.longest < outer.across


def swallowed(a: SolidPart, b: SolidPart, pose: Pose) -> bool:
    """Whether a connected piece of either part lies inside the other, where the surfaces of ``a``, at
    ``pose``, and ``b`` are apart and distance alone would call them clear."""
    return (may_hold(b, a) and inside(b, pose.points(one_of_each(a)))) or (
        may_hold(a, b) and inside(a, pose.inverse().points(one_of_each(b)))
    )
