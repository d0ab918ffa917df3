"""Lines of a drawing, closed where their ends meet."""

from __future__ import annotations

import numpy as np

from nimble_cradle.geometry.pose import Array


def split_line(line: Array, closed: list[Array], open_: list[Array]) -> None:
    """A flattened line goes to the closed ones where its ends meet."""
    steps = np.linalg.norm(np.diff(line, axis=0), axis=1)
    line = line[np.concatenate([[True], steps > 1e-9 * max(1.0, float(np.ptp(line)))])]
    if len(line) > 3 and np.linalg.norm(line[0] - line[-1]) < 1e-3 * max(
        1e-6, float(np.ptp(line, axis=0).max())
    ):
        closed.append(line[:-1])
    elif len(line) > 1:
        open_.append(line)


def joined(loose: list[Array], closed: list[Array], tolerance: float) -> list[Array]:
    """Open lines whose ends meet, made closed ones: end to end where only two meet at each corner, else the
    outside of all that they enclose. Gives those that stay open."""
    open_ = _chained(loose, closed, tolerance)
    return _enclosed(open_, closed, tolerance) if len(open_) > 2 else open_


def _chained(loose: list[Array], closed: list[Array], tolerance: float) -> list[Array]:
    """Open lines whose ends meet, end to end, made closed ones; gives those that stay open."""
    from ezdxf import edgeminer
    from ezdxf.math import Vec3

    edges = [
        edgeminer.make_edge(Vec3(*line[0]), Vec3(*line[-1]), payload=k)
        for k, line in enumerate(loose)
        if np.linalg.norm(line[0] - line[-1]) > 1e-9
    ]
    if not edges:
        return loose
    used: set[int] = set()
    for chain in edgeminer.find_all_simple_chains(edgeminer.Deposit(edges, gap_tol=tolerance)):
        if len(chain) < 2 or not edgeminer.is_loop(chain, gap_tol=tolerance):
            continue
        pieces = [loose[e.payload][:: -1 if e.is_reverse else 1][:-1] for e in chain]
        closed.append(np.vstack(pieces))
        used.update(e.payload for e in chain)
    return [line for k, line in enumerate(loose) if k not in used]


def _enclosed(open_: list[Array], closed: list[Array], tolerance: float) -> list[Array]:
    """The outside of areas that open lines enclose, crossing or drawn twice, made closed ones; gives the
    lines that have no part in it."""
    import shapely
    from scipy.spatial import cKDTree

    ends = np.array([line[k] for line in open_ for k in (0, -1)])
    tree = cKDTree(ends)
    first = np.array([min(near) for near in tree.query_ball_point(ends, tolerance)])
    lines = []
    for k, line in enumerate(open_):
        line = line.copy()
        line[0], line[-1] = ends[first[2 * k]], ends[first[2 * k + 1]]
        lines.append(shapely.LineString(line))
    areas = shapely.polygonize(shapely.get_parts(shapely.unary_union(lines)))
    whole = shapely.unary_union(shapely.get_parts(areas))
    found = [p for p in shapely.get_parts(whole) if p.geom_type == "Polygon" and p.area > 0]
    if not found:
        return open_
    for area in found:
        closed.append(np.asarray(area.exterior.coords)[:-1])
        closed.extend(np.asarray(ring.coords)[:-1] for ring in area.interiors)
    near = shapely.buffer(whole, tolerance)
    return [line for line, drawn in zip(open_, lines, strict=True) if not near.contains(drawn)]
