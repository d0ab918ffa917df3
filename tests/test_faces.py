"""Faces of shapes: found by a line of sight and pulled. What a pulled shape has to be is told by its solid:
farther in the face's own way by so much, and nowhere else. And what hangs together in a mesh."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from nimble_cradle.geometry.solids import connected
from nimble_cradle.job.base import JobError
from nimble_cradle.job.shapes import Bar, Box, Prism, Shape, Slab
from nimble_cradle.survey.faces import faces_of, pulled, seen
from nimble_cradle.survey.shapes import parts_of
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components

WEDGE = ((-40.0, -25.0), (70.0, -25.0), (30.0, 55.0), (-40.0, 15.0))
"""Four sides, none alike, none square to all others."""
turns = st.tuples(*[st.floats(-170, 170)] * 3)
places = st.tuples(*[st.floats(-900, 900)] * 3)
sizes = st.tuples(*[st.floats(20, 400)] * 3)


def directions(at_least: float = 0.2) -> st.SearchStrategy[tuple[float, float, float]]:
    return st.tuples(*[st.floats(-1, 1)] * 3).filter(lambda v: float(np.linalg.norm(v)) > at_least)


@st.composite
def shapes(draw: st.DrawFn) -> Shape:
    """Odd, turned shapes of every kind that has flat faces."""
    kind = draw(st.sampled_from(("box", "bar", "prism", "slab")))
    at = np.array(draw(places))
    if kind == "box":
        return Box(centre=tuple(at), size=draw(sizes), turn=draw(turns))
    along = np.array(draw(directions()))
    along = along / np.linalg.norm(along)
    if kind == "bar":
        return Bar(start=tuple(at), end=tuple(at + draw(st.floats(30, 500)) * along), diameter=33.0)
    up = np.cross(along, (0.3, -0.5, 0.8))
    if np.linalg.norm(up) < 0.05:
        up = np.cross(along, (1.0, 0.0, 0.0))
    outline = WEDGE if draw(st.booleans()) else WEDGE[::-1]
    if kind == "prism":
        return Prism(origin=tuple(at), along=tuple(along), up=tuple(up), outline=outline, length=120.0)
    across = np.cross(up, along)
    corners = tuple(
        tuple(at + u * across / np.linalg.norm(across) + v * up / np.linalg.norm(up)) for u, v in outline
    )
    return Slab(corners=corners, thickness=40.0)


def corners(shape: Shape) -> np.ndarray:
    return np.vstack([part.triangles[0] for part in parts_of(shape, {})])


def volume(shape: Shape) -> float:
    """By the divergence theorem over the solid's own triangles, mm³."""
    total = 0.0
    for part in parts_of(shape, {}):
        v, t = part.triangles
        about = v - v.mean(0)
        total += abs(np.einsum("ij,ij->", about[t[:, 0]], np.cross(about[t[:, 1]], about[t[:, 2]]))) / 6
    return float(total)


@given(shapes(), st.integers(0, 5), st.floats(-8, 60))
def test_a_face_goes_out_by_so_much_and_the_others_stay_in_their_planes(
    shape: Shape, which: int, mm: float
) -> None:
    faces = faces_of(shape)
    face = faces[which % len(faces)]
    after = pulled(shape, face.key, mm)
    reach = (corners(after) @ face.normal).max() - (corners(shape) @ face.normal).max()
    assert reach == pytest.approx(mm, abs=0.01)
    for old, new in zip(faces, faces_of(after), strict=True):
        moved = (new.ring - old.ring[0]) @ old.normal
        assert moved == pytest.approx(mm if old.key == face.key else 0.0, abs=0.01)


@given(shapes(), st.integers(0, 5))
def test_the_metal_gained_is_the_face_times_the_way(shape: Shape, which: int) -> None:
    """For a small pull: dV = A ds, with the area from the face's own corners (shoelace in space)."""
    face = faces_of(shape)[which % len(faces_of(shape))]
    area = float(
        np.linalg.norm(sum(np.cross(a, b) for a, b in zip(face.ring, np.roll(face.ring, -1, 0), strict=True)))
        / 2
    )
    if isinstance(shape, Bar):
        area = math.pi * shape.diameter**2 / 4
    gained = volume(pulled(shape, face.key, 0.4)) - volume(shape)
    assert gained == pytest.approx(0.4 * area, rel=0.03)


@given(shapes(), directions())
def test_the_face_seen_is_where_the_solid_ends(shape: Shape, way: tuple[float, float, float]) -> None:
    """From far off towards the middle: nothing of the solid stands before the face that is met, measured by
    its triangles (Möller and Trumbore, 1997)."""
    ahead = np.array(way) / np.linalg.norm(way)
    eye = corners(shape).mean(0) - 3000 * ahead
    first = float("inf")
    for part in parts_of(shape, {}):
        v, t = part.triangles
        a, e, f = v[t[:, 0]], v[t[:, 1]] - v[t[:, 0]], v[t[:, 2]] - v[t[:, 0]]
        p = np.cross(ahead, f)
        det = np.einsum("ij,ij->i", e, p)
        ok = np.abs(det) > 1e-9
        inv = 1 / np.where(ok, det, 1)
        s = eye - a
        u = np.einsum("ij,ij->i", s, p) * inv
        q = np.cross(s, e)
        w = q @ ahead * inv
        far = np.einsum("ij,ij->i", f, q) * inv
        first = min(first, float(far[ok & (u >= 0) & (w >= 0) & (u + w <= 1)].min(initial=np.inf)))
    hit = seen((shape,), eye, ahead)
    if hit is None:
        assert isinstance(shape, Bar), "only the round of a bar is no flat face"
        return
    far = hit[1].met(eye, ahead)
    assert far == pytest.approx(first, abs=0.2 if isinstance(shape, Bar) else 0.01)


@pytest.mark.parametrize("mm", [-60.0, -500.0])
def test_no_face_goes_through_the_part(mm: float) -> None:
    for shape in (
        Box(centre=(0, 0, 0), size=(50, 50, 50)),
        Bar(start=(0, 0, 0), end=(0, 0, 50), diameter=20),
        Slab(corners=((0, 0, 0), (50, 0, 0), (50, 50, 0), (0, 50, 0)), thickness=50),
    ):
        for face in faces_of(shape):
            with pytest.raises(JobError, match="no further"):
                pulled(shape, face.key, mm)


@given(st.integers(1, 40), st.lists(st.tuples(st.integers(0, 39), st.integers(0, 39)), max_size=60))
def test_what_is_joined_by_links(n: int, links: list[tuple[int, int]]) -> None:
    """As SciPy's connected_components has it."""
    pairs = np.array([(a % n, b % n) for a, b in links], dtype=np.int64).reshape(-1, 2)
    lowest = connected(n, pairs)
    graph = coo_matrix((np.ones(len(pairs)), (pairs[:, 0], pairs[:, 1])), shape=(n, n))
    count, piece = connected_components(graph, directed=False)
    assert len(np.unique(lowest)) == count
    for k in range(count):
        assert set(lowest[piece == k]) == {np.flatnonzero(piece == k)[0]}
