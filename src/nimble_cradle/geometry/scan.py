"""Scans: clean, scale, crop, split, thin out, and how far points are from a surface. Open and dirty
surfaces are normal. mm."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from nimble_cradle.geometry.pose import Array, crosses
from nimble_cradle.geometry.solids import ShapeError, Triangles
from nimble_cradle.geometry.surface import Surface

MOST_SPAN = 20_000.0
"""A bay is never longer than this, mm; a scan that is has the wrong unit."""
LEAST_SPAN = 5.0
"""A scan that is smaller than this in every direction, mm, is in another unit."""
UNITS: dict[str, float] = {"mm": 1.0, "cm": 10.0, "m": 1000.0, "inch": 25.4, "foot": 304.8}


@dataclass(frozen=True, eq=False)
class Scan:
    """vertices (n, 3) mm, faces (m, 3), and what was put right on reading, in words."""

    vertices: Array
    faces: Triangles
    notes: tuple[str, ...] = ()

    @property
    def span(self) -> Array:
        """Size (3,) of the box that holds it."""
        return np.asarray(self.vertices.max(0) - self.vertices.min(0))


def merged(points: Array, step: float = 1e-4) -> tuple[Array, Triangles]:
    """Points without repeats (to ``step`` of their own unit, at least a two-millionth of their span) and
    each one's number."""
    low = points.min(0)
    grid = max(step, float((points.max(0) - low).max()) / 2_000_000)
    cells = np.round((points - low) / grid).astype(np.int64)
    key = (cells[:, 0] << 42) | (cells[:, 1] << 21) | cells[:, 2]
    _, first, number = np.unique(key, return_index=True, return_inverse=True)
    return points[first], number.reshape(-1)


def cleaned(points: Array, faces: Triangles, name: str = "The mesh") -> Scan:
    """Drop points that are not numbers, triangles without area and repeated ones, and points that nothing
    uses; say how many.

    points: in mm. Raises ShapeError with a sentence where nothing is left or the size cannot be a bay's.
    """
    notes = []
    whole = np.asarray(np.isfinite(points).all(axis=1))
    if not whole.all():
        bad = ~whole[faces].all(1)
        notes.append(f"{int(bad.sum()):,} triangles with points that are not numbers were left out")
        faces = faces[~bad]
        points = np.where(whole[:, None], points, 0.0)
    if not len(faces):
        raise ShapeError(f"{name} holds no triangles.")
    used = np.zeros(len(points), dtype=bool)
    used[faces] = True
    with np.errstate(over="ignore"):
        span = np.ptp(points[used], axis=0)
    if not span.max() <= MOST_SPAN:
        far = f"{span.max() / 1000:,.0f} m" if span.max() < 1e12 else "past all measure"
        raise ShapeError(f"{name} would be {far} long: its unit is another.")
    if span.max() < LEAST_SPAN:
        raise ShapeError(f"{name} would be only {span.max():.2g} mm long: its unit is another.")
    points, number = merged(points)
    faces = number[faces]
    a, b, c = (points[faces[:, k]] for k in range(3))
    flat = np.sqrt((crosses(b - a, c - a) ** 2).sum(1)) < 1e-6
    if flat.any():
        notes.append(f"{int(flat.sum()):,} triangles without area were left out")
        faces = faces[~flat]
    ordered = np.sort(faces, axis=1)
    n = len(points)
    key = (
        (ordered[:, 0] * n + ordered[:, 1]) * n + ordered[:, 2]
        if n < 2_000_000
        else ordered[:, 0] * 7919 + ordered[:, 1] * 104729 + ordered[:, 2]
    )
    _, first = np.unique(key, return_index=True)
    if len(first) < len(faces):
        notes.append(f"{len(faces) - len(first):,} triangles that were there twice were left out")
        faces = faces[np.sort(first)]
    if not len(faces):
        raise ShapeError(f"{name} holds only triangles without area.")
    return Scan(*_compact(points, faces), tuple(notes))


def _compact(points: Array, faces: Triangles) -> tuple[Array, Triangles]:
    """Only the points that triangles use."""
    used = np.zeros(len(points), dtype=bool)
    used[faces] = True
    number = np.cumsum(used) - 1
    return points[used], number[faces]


def cropped(scan: Scan, low: Array, high: Array, keep_inside: bool = True) -> Scan:
    """The triangles whose middle lies inside the box (or outside it). Raises ShapeError where none is."""
    middle = scan.vertices[scan.faces].mean(1)
    inside = ((middle >= low) & (middle <= high)).all(1)
    faces = scan.faces[inside if keep_inside else ~inside]
    if not len(faces):
        raise ShapeError(
            "Nothing of the scan would be left."
            if keep_inside or inside.all()
            else "Nothing of the scan lies there."
        )
    return Scan(*_compact(scan.vertices, faces))


def clustered(scan: Scan, cell: float) -> Scan:
    """A coarse stand-in for drawing: all points of a cell become their mean. Not for measuring."""
    cells = np.floor((scan.vertices - scan.vertices.min(0)) / cell).astype(np.int64)
    key = (cells[:, 0] << 42) | (cells[:, 1] << 21) | cells[:, 2]
    _, number, count = np.unique(key, return_inverse=True, return_counts=True)
    number = number.reshape(-1)
    points = np.column_stack([np.bincount(number, scan.vertices[:, k]) for k in range(3)]) / count[:, None]
    faces = number[scan.faces]
    faces = faces[(faces[:, 0] != faces[:, 1]) & (faces[:, 1] != faces[:, 2]) & (faces[:, 2] != faces[:, 0])]
    if not len(faces):
        return scan
    ordered = np.sort(faces, axis=1)
    _, first = np.unique(
        ordered[:, 0] * (len(points) + 1) ** 2 + ordered[:, 1] * (len(points) + 1) + ordered[:, 2],
        return_index=True,
    )
    return Scan(points, faces[first])


def thinned(
    scan: Scan, deviation: float, progress: Callable[[str], None] | None = None
) -> tuple[Scan, float]:
    """Fewer triangles, with every old point within ``deviation`` mm of the new surface, and the greatest
    distance found, mm.

    Quadric edge collapse (fast-simplification), to fewer and fewer triangles while the deviation is kept;
    every point of the old mesh is measured against the new surface. Raises ShapeError where not even a
    tenth can go.
    """
    import fast_simplification

    points_in, faces_in, hem = _hemmed(scan)
    old = Surface(scan.vertices, scan.faces, max(deviation, 1.0)) if hem else None
    best: tuple[Scan, float] | None = None
    low, high = 0.0, 1.0
    for share in (0.9, None, None, None, None):
        share = share if share is not None else (low + high) / 2
        if progress is not None:
            progress(f"Trying {100 * (1 - share):.0f} % of the triangles")
        points, faces = fast_simplification.simplify(points_in, faces_in, target_reduction=share)
        points, faces = np.asarray(points, dtype=float), np.asarray(faces, dtype=np.int64)
        if old is not None and len(faces):
            faces = faces[(old.distances(points) < min(hem / 2, 2 * deviation))[faces].all(1)]
        if not len(faces):
            high = share
            continue
        tried = Scan(*_compact(points, faces))
        worst = float(
            Surface(tried.vertices, tried.faces, max(deviation, 1.0)).distances(scan.vertices).max()
        )
        if worst <= deviation:
            best, low = (tried, worst), share
        else:
            high = share
        if high - low < 0.06:
            break
    if best is None or len(best[0].faces) > 0.95 * len(scan.faces):
        raise ShapeError(
            f"It cannot be thinned out within {deviation:g} mm: the surface is too rough for that."
        )
    return best


def _hemmed(scan: Scan) -> tuple[np.ndarray, np.ndarray, float]:
    """Points and triangles for the thinning, with a hem folded down square along every open edge so that
    the edge is held where it is (the library would let it creep inwards in its own plane), and the hem's
    height mm (0: no open edge)."""
    edges = np.concatenate([scan.faces[:, [0, 1]], scan.faces[:, [1, 2]], scan.faces[:, [2, 0]]])
    ordered = np.sort(edges, axis=1)
    _, first, count = np.unique(
        ordered[:, 0] * len(scan.vertices) + ordered[:, 1], return_index=True, return_counts=True
    )
    rim = edges[first[count == 1]]
    points, faces = (
        np.ascontiguousarray(scan.vertices, dtype=np.float32),
        np.ascontiguousarray(scan.faces, dtype=np.int32),
    )
    if not len(rim):
        return points, faces, 0.0
    corners = scan.vertices[scan.faces]
    normals = crosses(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    at = np.zeros_like(scan.vertices)
    for k in range(3):
        np.add.at(at, scan.faces[:, k], normals)
    at /= np.maximum(np.linalg.norm(at, axis=1), 1e-12)[:, None]
    height = 4 * float(np.linalg.norm(scan.vertices[rim[:, 0]] - scan.vertices[rim[:, 1]], axis=1).mean())
    used = np.unique(rim)
    number = np.zeros(len(points), dtype=np.int64)
    number[used] = np.arange(len(used)) + len(points)
    a, b = rim[:, 0], rim[:, 1]
    hem = np.vstack([np.column_stack([b, a, number[a]]), np.column_stack([b, number[a], number[b]])])
    below = scan.vertices[used] - height * at[used]
    return np.vstack([points, below]).astype(np.float32), np.vstack([faces, hem]).astype(np.int32), height


PLY_HEADER = (
    "ply\nformat binary_little_endian 1.0\ncomment mm, points merged\nelement vertex {}\nproperty float"
    " x\nproperty float y\nproperty float z\nelement face {}\nproperty list uchar int"
    " vertex_indices\nend_header\n"
)
ROW = np.dtype([("n", "u1"), ("v", "<i4", 3)])
