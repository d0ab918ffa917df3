"""A surface of triangles laid flat: edges kept as long as they are, by least squares, and how far that
cannot be done."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from nimble_cradle.geometry.pose import Array
from nimble_cradle.geometry.solids import Triangles

ROUNDS, SETTLED = 60, 1e-5


@dataclass(frozen=True, eq=False)
class Unrolled:
    """Places (n, 2) of the vertices, mm. strain: the most that an edge is drawn or pressed, as a share of
    its length."""

    flat: Array
    strain: float


def unrolled(vertices: Array, triangles: Triangles) -> Unrolled:
    """Lay one connected surface flat, as one sees its outer side (corners run against the clock). Begun by
    laying triangle at triangle, then every edge's length by Gauss and Newton."""
    from scipy.sparse import coo_matrix  # their import is felt where they are not needed
    from scipy.sparse.linalg import lsmr

    flat = _laid(vertices, triangles)
    edges = np.unique(np.sort(triangles[:, [0, 1, 1, 2, 2, 0]].reshape(-1, 2), axis=1), axis=0)
    a, b = edges.T
    long = np.maximum(np.linalg.norm(vertices[a] - vertices[b], axis=1), 1e-9)
    rows = np.repeat(np.arange(len(edges)), 4)
    columns = np.column_stack([2 * a, 2 * a + 1, 2 * b, 2 * b + 1]).ravel()
    for _ in range(ROUNDS):
        run = flat[a] - flat[b]
        now = np.maximum(np.linalg.norm(run, axis=1), 1e-12)
        way = run / now[:, None]
        weight = 1 / np.sqrt(long)  # as springs, a long edge being softer
        values = np.column_stack([way, -way]) * weight[:, None]
        slope = coo_matrix((values.ravel(), (rows, columns)), shape=(len(edges), 2 * len(vertices)))
        step = lsmr(slope.tocsr(), (long - now) * weight, damp=1e-4, atol=1e-9, btol=1e-9)[0]
        flat = flat + step.reshape(-1, 2)
        if float(np.abs(step).max()) < SETTLED:
            break
    now = np.linalg.norm(flat[a] - flat[b], axis=1)
    return Unrolled(flat, float((np.abs(now - long) / long).max()))


def _laid(v: Array, t: Triangles) -> Array:
    """(n, 2) the surface laid triangle at triangle, each vertex where its first triangle puts it."""
    from scipy.sparse import coo_matrix
    from scipy.sparse.csgraph import breadth_first_order

    by_edge: dict[tuple[int, int], list[int]] = {}
    for k, row in enumerate(t.tolist()):
        for edge in ((row[0], row[1]), (row[1], row[2]), (row[2], row[0])):
            by_edge.setdefault((min(edge), max(edge)), []).append(k)
    pairs = np.array([(s[0], s[1]) for s in by_edge.values() if len(s) == 2]).reshape(-1, 2)
    links = coo_matrix((np.ones(len(pairs)), (pairs[:, 0], pairs[:, 1])), shape=(len(t), len(t)))
    middle = v[t].mean(1)
    first = int(np.argmin(np.linalg.norm(middle - middle.mean(0), axis=1)))
    order = breadth_first_order(links, first, directed=False, return_predecessors=False)
    flat, placed = np.zeros((len(v), 2)), np.zeros(len(v), dtype=bool)
    begin, next_to = int(t[first, 0]), int(t[first, 1])
    flat[next_to] = (float(np.linalg.norm(v[next_to] - v[begin])), 0.0)
    placed[[begin, next_to]] = True
    for number in order:
        corners = [int(n) for n in t[number]]
        for i in range(3):
            one, other, new = (corners[(i + j) % 3] for j in range(3))
            if placed[one] and placed[other] and not placed[new]:
                along = v[other] - v[one]
                size = max(float(np.linalg.norm(along)), 1e-12)
                up = v[new] - v[one]
                x = float(up @ along) / size
                y = float(np.sqrt(max(float(up @ up) - x**2, 0.0)))
                way = (flat[other] - flat[one]) / max(float(np.linalg.norm(flat[other] - flat[one])), 1e-12)
                flat[new] = flat[one] + x * way + y * np.array([-way[1], way[0]])
                placed[new] = True
                break
    return flat
