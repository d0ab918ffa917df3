"""Gaps between solids against closed forms, an independent optimiser, brute force, and invariances."""

from __future__ import annotations

import numpy as np
import pytest
import trimesh
from hypothesis import event, given, settings
from hypothesis import strategies as st
from nimble_cradle.geometry.bodies import SPLIT, Bodies, split
from nimble_cradle.geometry.distance import Nearest, against_sheets, clearance, nearest, no_ways
from nimble_cradle.geometry.near_parts import Roughly, near_parts
from nimble_cradle.geometry.overlap import SIX, separation_depth
from nimble_cradle.geometry.pose import Pose, angles_xyz, rotation_xyz
from nimble_cradle.geometry.reaches import Reaches, boxes_apart, sheets_apart
from nimble_cradle.geometry.solid_makers import bar, box, hull, prism, slab
from nimble_cradle.geometry.solids import ConvexPart, MeshPart, SolidPart, placed_part
from nimble_cradle.geometry.ways import ways_out
from nimble_cradle.geometry.winding import winding_number
from scipy.optimize import minimize, nnls
from scipy.spatial import ConvexHull
from scipy.spatial.transform import Rotation


def gap(a: SolidPart, b: SolidPart, pose: Pose | None = None) -> Nearest:
    return nearest(Bodies([[a]]), pose or Pose.still(), Bodies([[b]]), np.full((1, 1), 1e5))[0]


def random_pose(seed: int, spread: float) -> Pose:
    rng = np.random.default_rng(seed)
    return Pose(Rotation.random(random_state=seed).as_matrix(), rng.uniform(-spread, spread, 3))


def least_distance(a: np.ndarray, b: np.ndarray) -> float:
    """Distance of two hulls by non-negative least squares: an independent way (Lawson and Hanson)."""
    n, m, w = len(a), len(b), 1e6
    rows = np.vstack(
        [np.hstack([a.T, -b.T]), w * np.r_[np.ones(n), np.zeros(m)], w * np.r_[np.zeros(n), np.ones(m)]]
    )
    x, _ = nnls(rows, np.r_[0, 0, 0, w, w])
    return float(np.linalg.norm(a.T @ x[:n] - b.T @ x[n:]))


def test_closed_forms() -> None:
    cube = box((0, 0, 0), (100, 100, 100))
    assert gap(cube, box((120, 0, 0), (100, 100, 100))).distance == pytest.approx(20, abs=1e-3)
    assert gap(cube, box((150, 160, 0), (100, 100, 100))).distance == pytest.approx(
        np.hypot(50, 60), abs=1e-3
    )
    assert gap(
        bar((0, 0, 0), (0, 0, 300), 50), bar((-200, 100, 150), (200, 100, 150), 40)
    ).distance == pytest.approx(100 - 25 - 20, abs=2e-3)
    assert gap(
        cube, slab([(-40, -40, 90), (40, -40, 90), (40, 40, 90), (-40, 40, 90)], 10)[0]
    ).distance == pytest.approx(35, abs=1e-3)
    assert gap(bar((0, 0, 0), (0, 0, 100), 60), box((80, 0, 50), (40, 40, 40))).distance == pytest.approx(
        30, abs=1e-3
    )


@given(st.integers(0, 5000))
def test_distance_agrees_with_least_squares(seed: int) -> None:
    rng = np.random.default_rng(seed)
    a, b = box((0, 0, 0), rng.uniform(20, 500, 3)), hull(rng.uniform(-200, 200, (12, 3)))
    pose = random_pose(seed, 900)
    want = least_distance(pose.points(a.triangles[0]), b.triangles[0])
    got = gap(a, b, pose)
    if want > 0.01:
        assert got.distance == pytest.approx(want, abs=2e-3)
        assert np.linalg.norm(got.on_a - got.on_b) == pytest.approx(got.distance, abs=5e-3)
        assert got.way @ (got.on_a - got.on_b) == pytest.approx(got.distance, abs=5e-3)
    else:
        assert got.distance < 0.01


@given(st.integers(0, 5000))
def test_overlap_is_the_least_way_out(seed: int) -> None:
    """Depth against the hull of the Minkowski difference (Qhull), and moving out by it really separates."""
    rng = np.random.default_rng(seed)
    a, b = hull(rng.uniform(-100, 100, (10, 3))), box((0, 0, 0), rng.uniform(40, 300, 3))
    pose = random_pose(seed, 60)
    depth, way = separation_depth(a, b, pose)
    va, vb = pose.points(a.triangles[0]), b.triangles[0]
    faces = ConvexHull((vb[:, None] - va[None]).reshape(-1, 3)).equations
    inside = bool((faces[:, 3] < 0).all())
    if inside:
        assert depth == pytest.approx(float((-faces[:, 3]).min()), rel=1e-6, abs=1e-6)
        moved = Pose(pose.rotation, pose.translation + way * (depth + 0.05))
        assert gap(a, b, moved).distance == pytest.approx(0.05, abs=0.01)


def test_round_bar_overlap_is_not_faceted() -> None:
    for angle in np.linspace(0, 90, 7):
        upright = bar((0, 0, -200), (0, 0, 200), 80)
        turned = Pose(
            rotation_xyz(0, 0, angle),
            np.array([45.0 * np.cos(np.radians(angle)), 45.0 * np.sin(np.radians(angle)), 0]),
        )
        assert gap(upright, bar((0, 0, -300), (0, 0, 300), 60), turned).distance == pytest.approx(
            45 - 40 - 30, abs=1e-3
        )


@given(st.integers(0, 2000))
def test_turning_and_moving_everything_changes_nothing(seed: int) -> None:
    a, b = box((10, 0, 0), (60, 80, 100)), bar((150, 20, -40), (130, -60, 90), 44)
    inner, outer = random_pose(seed, 80), random_pose(seed + 7, 500)
    first = gap(a, b, inner)
    turned = nearest(Bodies([[a]]), outer @ inner, Bodies([[_moved(b, outer)]]), np.full((1, 1), 1e5))[0]
    assert turned.distance == pytest.approx(first.distance, abs=5e-3)
    assert np.allclose(turned.way, outer.vectors(first.way), atol=2e-2) or first.distance < 0


def _moved(part: SolidPart, pose: Pose) -> SolidPart:
    return type(part)(part.kind, pose @ part.pose, part.size, part.hull_vertices, part.hull_triangles)  # type: ignore[union-attr,call-arg,arg-type]


def test_concave_outline_is_not_filled() -> None:
    fork = prism(
        (0, 0, 0),
        (0, 0, 1),
        (0, 1, 0),
        [(0, 0), (100, 0), (100, 100), (80, 100), (80, 20), (20, 20), (20, 100), (0, 100)],
        40,
    )
    peg = box((0, 0, 0), (40, 40, 20))
    seat = Pose(np.eye(3), np.array([50.0, 60.0, 20.0]))  # u = up x along: +x here
    found = nearest(Bodies([[peg]]), seat, Bodies([fork]), np.full((1, 1), 1e3))[0]
    assert found.distance == pytest.approx(10.0, abs=1e-3)


def sheet_and_ball() -> tuple[MeshPart, MeshPart]:
    ball = trimesh.creation.icosphere(subdivisions=3, radius=50)
    sheet = trimesh.creation.box((400, 400, 1))
    return MeshPart(np.array(ball.vertices), np.array(ball.faces)), MeshPart(
        np.array(sheet.vertices), np.array(sheet.faces)
    )


def test_meshes_against_brute_force() -> None:
    ball, _ = sheet_and_ball()
    rng = np.random.default_rng(3)
    for seed in range(6):
        pose = Pose(Rotation.random(random_state=seed).as_matrix(), rng.uniform(150, 260, 3))
        other = box((0, 0, 0), (120, 60, 90))
        surface = trimesh.Trimesh(*other.triangles, process=False)
        brute = min(
            float(trimesh.proximity.closest_point_naive(surface, pose.points(ball.vertices))[1].min()),
            float(
                trimesh.proximity.closest_point_naive(
                    trimesh.Trimesh(pose.points(ball.vertices), ball.faces, process=False), other.triangles[0]
                )[1].min()
            ),
        )
        assert gap(ball, other, pose).distance == pytest.approx(
            brute, abs=0.35
        )  # edge-edge pairs may be nearer than vertex-face ones
        assert gap(ball, other, pose).distance <= brute + 1e-6


def test_a_small_closed_mesh_in_a_solid_overlaps() -> None:
    """And one that is longer than the solid, of two pieces of which one lies in it, does too."""
    small = MeshPart(*box((0, 0, 0), (20, 20, 20)).triangles)
    far = box((300, 0, 0), (20, 20, 20)).triangles
    pieces = MeshPart(np.vstack([small.vertices, far[0]]), np.vstack([small.faces, far[1] + 8]))
    for mesh in (small, pieces):
        for solid in (box((0, 0, 0), (100, 100, 100)), bar((0, 0, -60), (0, 0, 60), 110.0)):
            assert gap(solid, mesh).distance < -20
            assert gap(mesh, solid).distance < -20


def test_a_solid_swallowed_by_a_mesh_overlaps() -> None:
    ball, _ = sheet_and_ball()
    pebble = box((0, 0, 0), (10, 10, 10))
    inside = nearest(
        Bodies([[pebble]]), Pose(np.eye(3), np.array([20.0, 0, 0])), Bodies([[ball]]), np.full((1, 1), 1e3)
    )[0]
    assert inside.distance == pytest.approx(-(50 - 20 + 5), abs=1.0)
    assert winding_number(np.array([10.0, 0, 0]), ball.vertices, ball.faces) == pytest.approx(1, abs=1e-9)
    assert winding_number(np.array([90.0, 0, 0]), ball.vertices, ball.faces) == pytest.approx(0, abs=1e-9)


def test_open_sheet_overlap_has_a_way_out() -> None:
    _, sheet = sheet_and_ball()
    found = nearest(
        Bodies([[box((0, 0, 0), (60, 60, 40))]]),
        Pose(np.eye(3), np.array([0, 0, 15.0])),
        Bodies([[sheet]]),
        np.full((1, 1), 1e3),
    )[0]
    assert found.distance == pytest.approx(-5.5, abs=0.05) and found.way[2] == 1.0


def test_pruned_answer_is_the_slow_answer() -> None:
    rng = np.random.default_rng(11)
    moving = [[box(rng.uniform(-200, 200, 3), rng.uniform(20, 90, 3)) for _ in range(2)] for _ in range(5)]
    fixed = [
        [bar(p, p + rng.uniform(-150, 150, 3), 30) for p in rng.uniform(-600, 600, (2, 3))] for _ in range(9)
    ]
    pose = random_pose(5, 100)
    reach = np.full((5, 9), 150.0)
    quick = {(n.a, n.b): n.distance for n in nearest(Bodies(moving), pose, Bodies(fixed), reach)}
    for i, a in enumerate(moving):
        for j, b in enumerate(fixed):
            slow = min(gap(p, q, pose).distance for p in a for q in b)
            if slow < 150:
                assert quick[i, j] == pytest.approx(slow, abs=1e-6)
            else:
                assert (i, j) not in quick


@given(st.floats(-179, 179), st.floats(-89, 89), st.floats(-179, 179))
def test_angles_come_back(x: float, y: float, z: float) -> None:
    r = rotation_xyz(x, y, z)
    assert np.allclose(r, Rotation.from_euler("xyz", [x, y, z], degrees=True).as_matrix(), atol=1e-12)
    assert np.allclose(rotation_xyz(*angles_xyz(r)), r, atol=1e-9)


def test_depth_is_a_true_minimum_over_directions() -> None:
    a, b = bar((-60, 5, 0), (70, 12, 8), 36), box((0, 0, 0), (80, 50, 64))
    depth, _ = separation_depth(a, b, Pose.still())

    def reach(t: np.ndarray) -> float:
        n = np.array([[np.cos(t[0]) * np.cos(t[1]), np.sin(t[0]) * np.cos(t[1]), np.sin(t[1])]])
        return float(b.support(n)[0] + a.support(-n)[0])

    best = min(
        minimize(reach, [u, v], method="Nelder-Mead", options={"xatol": 1e-7, "fatol": 1e-7}).fun
        for u in np.linspace(-3, 3, 9)
        for v in np.linspace(-1.4, 1.4, 7)
    )
    assert depth == pytest.approx(best, abs=1e-3)


@given(st.integers(0, 10_000))
def test_what_is_remembered_never_changes_an_answer(seed: int) -> None:
    """A set that wanders, in steps small and large, measured by a pair of sets that remembers and by a new
    pair each time."""
    rng = np.random.default_rng(seed)
    ball = trimesh.creation.icosphere(subdivisions=2, radius=40)
    moving = [
        [box((0, 0, 0), (80, 50, 30)), bar((40, 0, 0), (120, 30, 20), 24.0)],
        [hull(rng.uniform(-40, 40, (9, 3)) + (0, 90, 0))],
    ]
    fixed: list[list[SolidPart]] = [
        [box(rng.uniform(-250, 250, 3), rng.uniform(20, 120, 3), random_pose(seed + 1, 0).rotation)]
        for _ in range(4)
    ]
    fixed.append([MeshPart(np.asarray(ball.vertices) + rng.uniform(-200, 200, 3), np.asarray(ball.faces))])
    a, b = Bodies(moving), Bodies(fixed)
    reach = rng.uniform(20, 200, (2, 5))
    pose = random_pose(seed, 150)
    for _ in range(8):
        size = rng.choice([0.2, 3.0, 60.0])
        pose = pose.moved(rng.normal(0, size, 3), rng.normal(0, size / 200, 3), pose.translation)
        anew = {(n.a, n.b): n for n in nearest(Bodies(moving), pose, Bodies(fixed), reach)}
        known = {(n.a, n.b): n for n in nearest(a, pose, b, reach)}
        assert set(known) == set(anew)
        for pair, n in known.items():
            assert n.distance == pytest.approx(anew[pair].distance, abs=1e-4)
        assert clearance(a, pose, b, 120.0)[0] == pytest.approx(
            clearance(Bodies(moving), pose, Bodies(fixed), 120.0)[0], abs=1e-4
        )


@given(st.integers(0, 10_000))
@settings(max_examples=25)
def test_six_ways_out_against_travelling_in_small_steps(seed: int) -> None:
    rng = np.random.default_rng(seed)

    def body() -> list[SolidPart]:
        return [
            box(
                rng.uniform(-40, 40, 3),
                rng.uniform(20, 90, 3),
                random_pose(int(rng.integers(10**6)), 0).rotation,
            ),
            bar(rng.uniform(-60, 0, 3), rng.uniform(10, 60, 3), float(rng.uniform(10, 40))),
            hull(rng.uniform(-50, 50, (8, 3))),
        ]

    a, b = Bodies([body()]), Bodies([body()])
    pose = random_pose(seed, 30)
    for way, travel in zip(SIX, ways_out(a, pose, b, 0, 0, 500.0), strict=True):

        def gone(t: float, way: np.ndarray = way) -> bool:
            return clearance(a, Pose(pose.rotation, pose.translation + t * way), b, 1.0)[0] > 1e-6

        first = next(t for t in np.arange(0.0, 500.0, 1.0) if gone(t))
        assert first - 1.05 <= travel <= first + 0.3, (
            "a bar is seen as the prism that holds it: 0.3 % of 20 mm and more where it leaves aslant"
        )
        assert gone(float(travel) + 0.05)


def test_ways_out_of_a_sheet_and_of_a_closed_mesh() -> None:
    """A box 20 deep in an open sheet leaves upwards by 20 or downwards by its other 100; a ball 40 in
    radius beside a ball leaves by the chord."""
    k = np.linspace(-400, 400, 81)
    gx, gy = (g.ravel() for g in np.meshgrid(k, k, indexing="ij"))
    n = np.arange(81 * 81).reshape(81, 81)
    q = [n[:-1, :-1].ravel(), n[1:, :-1].ravel(), n[1:, 1:].ravel(), n[:-1, 1:].ravel()]
    sheet = MeshPart(
        np.column_stack([gx, gy, 0 * gx]),
        np.vstack([np.column_stack([q[0], q[1], q[2]]), np.column_stack([q[0], q[2], q[3]])]),
    )
    piece = Bodies([[box((3, 4, 40), (200, 180, 120))]])
    found = ways_out(piece, Pose.still(), Bodies([[sheet]]), 0, 0)
    assert found[4:] == pytest.approx((20, 100), abs=1e-6) and np.isinf(found[:4]).all()
    corners = np.array([[-400, -400, 0], [400, -400, 0], [400, 400, 0], [-400, 400, 0]], dtype=float)
    coarse = Bodies([[MeshPart(corners, np.array([[0, 1, 2], [0, 2, 3]]))]])
    small = ways_out(Bodies([[box((50, -20, 30), (100, 100, 100))]]), Pose.still(), coarse, 0, 0)
    assert small[4:] == pytest.approx((20, 80), abs=0.05) and np.isinf(small[:4]).all(), (
        "no corner of the sheet is in it, and it is in the way all the same"
    )
    ball = trimesh.creation.icosphere(subdivisions=4, radius=40)
    one, other = (
        Bodies([[MeshPart(np.asarray(ball.vertices), ball.faces)]]),
        Bodies([[MeshPart(np.asarray(ball.vertices) + (0, 0, 60), ball.faces)]]),
    )
    chord = np.sqrt(80.0**2 - 60.0**2)
    assert ways_out(one, Pose.still(), other, 0, 0) == pytest.approx(
        (chord, chord, chord, chord, 140, 20), abs=0.5
    )


def crumpled(seed: int) -> tuple[list[MeshPart], list[SolidPart], np.random.Generator]:
    """Four crumpled sheets, turned anyhow; a bar, a box and a hull."""
    rng = np.random.default_rng(seed)
    grid = np.array(
        [(x, y, rng.normal(0, 6)) for x in np.arange(0, 90, 15.0) for y in np.arange(0, 120, 15.0)]
    )
    faces = [
        face
        for i in range(5)
        for k in range(7)
        for face in ((8 * i + k, 8 * i + k + 1, 8 * i + 8 + k), (8 * i + k + 1, 8 * i + 9 + k, 8 * i + 8 + k))
    ]
    sheets = [MeshPart(random_pose(seed + n, 150).points(grid), np.array(faces)) for n in range(4)]
    parts: list[SolidPart] = [
        bar((0, 0, 0), (40, 60, 20), 30.0),
        box((10, 0, 0), (160, 20, 30)),
        hull(rng.uniform(-40, 40, (12, 3))),
    ]
    return sheets, parts, rng


@given(st.integers(0, 5000))
@settings(max_examples=30)
def test_boxes_that_lie_as_sheets_do_never_hide_one(seed: int) -> None:
    """A crumpled sheet, turned anyhow, and a bar, a box and a hull turned too: what is told of pairs within a
    reach is what each pair has by itself, and the bound is never over it."""
    sheets, parts, rng = crumpled(seed)
    fixed = Bodies([[sheet] for sheet in sheets])
    moving, pose = Bodies([[part] for part in parts]), random_pose(seed + 9, 200)
    reach = float(rng.uniform(5, 120))
    told = {(n.a, n.b): n.distance for n in nearest(moving, pose, fixed, np.full((3, 4), reach))}
    plain = {(a, b): gap(parts[a], sheets[b], pose).distance for a in range(3) for b in range(4)}
    assert told == pytest.approx({k: d for k, d in plain.items() if d < reach}, abs=1e-6)
    bound = np.zeros((3, 4))
    against_sheets(moving, pose, fixed, bound, np.full((3, 4), 1e9))
    for pair, distance in plain.items():
        assert bound[pair] <= max(distance, 0.0) + 1e-9


@given(st.integers(0, 5000))
@settings(max_examples=30)
def test_planes_between_two_parts_are_no_farther_apart_than_they_are(seed: int) -> None:
    """Solids beside sheets and beside solids, looked at roughly from four poses one after another, each with
    what was known of the last: what is near is told to the micron; what is not, by planes no farther apart
    than the pair, on points of both; what is left out is too far; and the same comes of sets that were
    never asked before."""
    sheets, parts, rng = crumpled(seed)
    turned_parts = [placed_part(part, random_pose(seed + 50 + n, 150)) for n, part in enumerate(parts)]
    stand = [*sheets, *turned_parts]
    fixed, moving = Bodies([[part] for part in stand]), Bodies([[part] for part in parts])
    far, near_by = float(rng.uniform(45, 150)), float(rng.uniform(5, 40))
    reach, close = np.full((3, 7), far), np.full((3, 7), near_by)
    ways = no_ways()
    at, turned, left_out = random_pose(seed + 9, 110), 0, 0
    for step in range(4):
        pose = at.moved(rng.normal(0, 6, 3) * step, rng.normal(0, 0.02, 3) * step, at.translation)
        found = near_parts(moving, pose, fixed, reach, Roughly(close, ways))
        others = Bodies([[p] for p in parts]), Bodies([[s] for s in stand])
        anew = near_parts(others[0], pose, others[1], reach, Roughly(close, ways))
        measured = {(i, j): near for i, j, near in found.rows}
        assert {(i, j): n.distance for i, j, n in anew.rows} == {k: n.distance for k, n in measured.items()}
        assert all(np.array_equal(x, y) for x, y in zip(anew.planes, found.planes, strict=True))
        told = {
            (int(i), int(j)): (float(d), p, q, way) for i, j, d, p, q, way in zip(*found.planes, strict=True)
        }
        assert not told.keys() & measured.keys()
        for i, part in enumerate(parts):
            for j, other in enumerate(stand):
                true = gap(part, other, pose).distance
                if (i, j) in measured:
                    assert measured[i, j].distance == pytest.approx(true, abs=2e-6)
                elif (i, j) in told:
                    turned += 1
                    distance, on_a, on_b, way = told[i, j]
                    assert near_by < distance <= true + 1e-6
                    assert np.linalg.norm(way) == pytest.approx(1.0)
                    assert distance == pytest.approx(float((on_a - on_b) @ way), abs=0.021)
                    reach_a, reach_b = pose.points(part.triangles[0]) @ way, other.triangles[0] @ way
                    assert reach_a.min() > on_a @ way - 0.2  # a bar's triangles are about it
                    assert reach_b.max() <= on_b @ way + 0.2
                else:
                    left_out += 1
                    assert true > far - 1e-6
        ways = found.ways
    event(f"{min(turned, 3)} or more told by planes, {min(left_out, 3)} or more left out")


@given(st.integers(0, 5000))
@settings(max_examples=30)
def test_many_reaches_at_once_are_those_of_each_part(seed: int) -> None:
    """Of a bar, a box, a hull and a mesh, in random directions: on the part, as far as none of its corners is
    farther; least and most along each; and two boxes are no farther apart than they are."""
    sheets, parts, rng = crumpled(seed)
    both = [placed_part(part, random_pose(seed + n, 200)) for n, part in enumerate(parts)]
    reaches = Reaches([*both, sheets[0]])
    which, ways = rng.integers(0, 4, 12), rng.normal(size=(12, 3))
    ways /= np.linalg.norm(ways, axis=1)[:, None]
    for k, way, point in zip(which.tolist(), ways, reaches.farthest(which, ways), strict=True):
        part = reaches.parts[k]
        if isinstance(part, ConvexPart):
            assert point @ way == pytest.approx(part.support(way[None])[0], abs=1e-9)
            assert gap(part, box(point, (0.02, 0.02, 0.02)), Pose.still()).distance < 1e-6
            low, high = (v[0] for v in reaches.extent(np.array([k]), way[None]))
            assert (low, high) == pytest.approx((-part.support(-way[None])[0], point @ way), abs=1e-9)
        else:
            assert point @ way == pytest.approx((part.triangles[0] @ way).max(), abs=1e-9)
    pose = random_pose(seed + 77, 150)
    a = np.arange(3)
    apart, way = sheets_apart(Reaches(parts), a, pose, reaches, np.full(3, 3))
    for part, least, n in zip(parts, apart.tolist(), way, strict=True):
        sides = np.array([v for v in np.ndindex(3, 3, 3) if v != (1, 1, 1)]) - 1.0
        sides /= np.linalg.norm(sides, axis=1)[:, None]
        assert isinstance(part, ConvexPart)
        own = -np.array([part.support(-(side @ pose.rotation)[None])[0] for side in sides])
        all_apart = own + sides @ pose.translation - (sheets[0].triangles[0] @ sides.T).max(0)
        assert least == pytest.approx(all_apart.max(), abs=1e-9)
        assert (n @ sides.T).max() == pytest.approx(1.0)
        assert all_apart[(sides @ n).argmax()] == pytest.approx(least, abs=1e-9)
    a, b = (np.repeat(np.arange(3), 3), np.tile(np.arange(3), 3))
    apart, way = boxes_apart(Reaches(parts), a, pose, reaches, b)
    for i, j, least, n in zip(a.tolist(), b.tolist(), apart.tolist(), way, strict=True):
        assert least <= gap(parts[i], both[j], pose).distance + 1e-6 or least < 0
        if least > 0:
            low = pose.points(parts[i].triangles[0]) @ n
            assert low.min() - (both[j].triangles[0] @ n).max() >= least - 1e-6


def test_boxes_are_measured_in_small_triangles_that_are_the_same_surface() -> None:
    """None longer than is let, the same area and box, and as near to a sheet as in twelve."""
    whole = box((10, -20, 30), (700, 45, 300), rotation_xyz(10, 20, 30))
    v, t = split(*whole.triangles)
    corners = v[t]
    assert np.linalg.norm(np.roll(corners, 1, axis=1) - corners, axis=2).max() <= SPLIT
    area = np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1) / 2
    assert area.sum() == pytest.approx(2 * (700 * 45 + 45 * 300 + 700 * 300), rel=1e-9)
    assert v.min(0) == pytest.approx(whole.triangles[0].min(0))
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    assert ((corners.mean(1) - (10, -20, 30)) * normals).sum(1).min() > 0  # all still look outwards
