"""Seats and pushes on bays whose answer is known, linear gaps against finite differences, and an
exhaustive search."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace
from itertools import product

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from nimble_cradle.bay.position import pose_of
from nimble_cradle.geometry.bodies import Bodies
from nimble_cradle.geometry.distance import nearest
from nimble_cradle.geometry.near_parts import near_parts
from nimble_cradle.geometry.pose import Pose, rotation_about, rotation_xyz
from nimble_cradle.geometry.reaches import Reaches
from nimble_cradle.geometry.solid_makers import bar, box, hull
from nimble_cradle.geometry.solids import ConvexPart, MeshPart, placed_part
from nimble_cradle.job.job import Job
from nimble_cradle.motion.aims import AimRow, aims_of
from nimble_cradle.motion.contacts import Obstacles, Rows, rows_at
from nimble_cradle.motion.descend import descend
from nimble_cradle.motion.linear_program import LinearProgram, linear_program
from nimble_cradle.motion.part_distance import from_parts
from nimble_cradle.motion.push import push, slide
from nimble_cradle.motion.rough_judging import separating, shortfall
from nimble_cradle.motion.search import search
from nimble_cradle.motion.seat_problem import LEVER, SeatProblem, moved_by, stand_at
from nimble_cradle.seat.seating import seating_of

INF = math.inf
DOWN, RIGHT = np.array([0, 0, -1.0, 0, 0, 0]), np.array([0, -1.0, 0, 0, 0, 0])


def problem(
    moving: Bodies,
    fixed: Bodies,
    need: float,
    weights: Sequence[float] = (0.0, 0.0, 1.0),
    reach: float = 200.0,
) -> SeatProblem:
    """Place a set so that weights . place is least, within ``reach`` of the origin and 3 degrees of
    upright."""
    tilt = math.radians(3) * LEVER

    def measure(poses: Sequence[Pose]) -> np.ndarray:
        turns = [p.rotation - p.rotation.T for p in poses]
        told = [LEVER / 2 * np.array([turn[2, 1], turn[0, 2], turn[1, 0]]) for turn in turns]
        return np.hstack([[p.translation for p in poses], told])

    rows = [AimRow("xyz"[k], weights[k], low=-reach, high=reach) for k in range(3)]
    rows += [AimRow(f"turn {k}", absolute=0.001, low=-tilt, high=tilt) for k in range(3)]
    return SeatProblem(
        moving,
        np.zeros(3),
        (Obstacles(fixed, np.full((moving.count, fixed.count), need)),),
        aims_of(rows, measure),
    )


def v_bay(slope_deg: float) -> Bodies:
    """Two thick walls that form a V along x with its apex at the origin."""
    walls = []
    for side in (1, -1):
        r = rotation_about((1, 0, 0), math.radians(side * slope_deg))
        walls.append([box(r @ np.array([0.0, side * 200.0, -50.0]), (600.0, 400.0, 100.0), r)])
    return Bodies(walls)


class TestKnownBays:
    @pytest.mark.parametrize("slope", (15.0, 30.0, 50.0))
    def test_a_round_bar_in_a_v(self, slope: float) -> None:
        """Centre over the apex by (radius + need) / cos(slope): two tangents and the bisector."""
        p = problem(Bodies([[bar((-100, 0, 0), (100, 0, 0), 60.0)]]), v_bay(slope), 8.0)
        for start in (
            Pose(np.eye(3), np.array([0, 25.0, 90.0])),
            Pose(np.eye(3), np.array([10.0, -30.0, 80.0])),
        ):
            found = descend(p, start)
            assert found.ok and found.stand.pose.translation[2] == pytest.approx(
                38.0 / math.cos(math.radians(slope)), abs=0.02
            )

    def test_a_peg_in_a_slot(self) -> None:
        """A block of 100 between walls 130 apart over a floor, 10 clear all round: 5 mm to each side, its
        middle 60 over the floor."""
        fixed = Bodies(
            [
                [box((0, 115, 0), (400, 100, 400))],
                [box((0, -115, 0), (400, 100, 400))],
                [box((0, 0, -150), (400, 400, 100))],
            ]
        )
        p = problem(Bodies([[box((0, 0, 0), (100, 100, 100))]]), fixed, 10.0, (0.0, 0.2, 1.0))
        found = search(
            p,
            [Pose(rotation_xyz(2, 2, 2), np.array([30.0, 2.0, 120.0]))],
            [np.eye(3)],
            np.full(3, -150.0),
            np.full(3, 150.0),
        )[0]
        assert found.ok
        np.testing.assert_allclose(found.stand.pose.translation[1:], (-5.0, -40.0), atol=0.03)

    def test_no_room_is_told_by_how_much(self) -> None:
        """A block of 100 between walls 110 apart, 10 clear wanted: 5 mm short on each side."""
        fixed = Bodies([[box((0, 105, 0), (600, 100, 600))], [box((0, -105, 0), (600, 100, 600))]])
        p = problem(Bodies([[box((0, 0, 0), (100, 100, 100))]]), fixed, 10.0, reach=20.0)
        found = descend(p, Pose(np.eye(3), np.array([0.0, 3.0, 0.0])))
        assert not found.ok and found.stand.worst == pytest.approx(5.0, abs=0.05)

    def test_multipliers_are_what_re_solving_gives(self) -> None:
        p = problem(Bodies([[bar((-100, 0, 0), (100, 0, 0), 60.0)]]), v_bay(30.0), 8.0)
        stand = descend(p, Pose(np.eye(3), np.array([0, 5.0, 60.0]))).stand
        program = linear_program(p, stand, 2.0)
        solved, used = program.solve(), program.gap_rows
        assert solved is not None
        for wall in (0, 1):
            told = sum(solved.multipliers[k] for k in range(len(used)) if stand.rows.b[used[k]] == wall)
            less = p.need()
            less[:, wall] -= 0.5
            gain = stand.cost - descend(p.with_need(less), stand.pose).stand.cost
            assert gain / 0.5 == pytest.approx(told, rel=0.02) and gain > 0.1

    def test_against_every_place_on_a_grid(self) -> None:
        """A cranked pair of blocks over steps: never worse than the best of all places 3 mm apart (turns
        left out: the search may be better)."""
        moving = Bodies([[box((0, 0, 0), (60, 60, 60)), box((60, 0, 30), (60, 40, 40))]])
        fixed = Bodies(
            [
                [box((-40, 0, -80), (120, 300, 60))],
                [box((90, 0, -40), (80, 300, 80))],
                [box((-120, 0, 40), (60, 300, 200))],
                [bar((20, -150, -45), (20, 150, -45), 30.0)],
            ]
        )
        p = problem(moving, fixed, 6.0, (0.7, 0.0, 1.0), reach=90.0)
        places = sorted(
            product(np.arange(-90, 91, 3.0), np.arange(-90, 91, 3.0)), key=lambda p: 0.7 * p[0] + p[1]
        )
        best = next(
            0.7 * x + z
            for x, z in places
            if not nearest(moving, Pose(np.eye(3), np.array([x, 0.0, z])), fixed, np.full((1, 4), 6.0))
        )
        found = search(
            p, [Pose(np.eye(3), np.array([0, 0, 80.0]))], [np.eye(3)], np.full(3, -90.0), np.full(3, 90.0)
        )[0]
        assert found.ok and math.isfinite(best) and found.stand.cost <= best + 1.0


class TestPush:
    fixed = Bodies(
        [
            [box((0, -200, 0), (400, 100, 400))],
            [box((0, 0, -100), (400, 400, 60), rotation_about((1, 0, 0), math.radians(20)))],
        ]
    )
    moving = Bodies([[box((0, 0, 0), (60, 60, 60))]])

    def test_it_stops_at_the_gap_and_names_the_wall(self) -> None:
        p = problem(self.moving, self.fixed, 12.0)
        there = push(p, Pose(np.eye(3), np.array([0, 0, 120.0])), RIGHT, 500.0)
        assert there.travelled == pytest.approx(150 - 30 - 12, abs=0.05) and there.stopped == ((0, 0),)

    def test_nothing_in_the_way(self) -> None:
        p = problem(self.moving, self.fixed, 12.0)
        there = push(p, Pose(np.eye(3), np.array([0, 0, 120.0])), -RIGHT, 77.0)
        assert there.travelled == pytest.approx(77.0) and there.stopped == ()

    def test_sliding_goes_down_the_slope_to_the_wall(self) -> None:
        p = problem(self.moving, self.fixed, 4.0)
        start = Pose(np.eye(3), np.array([0, 60.0, 60.0]))
        straight, slid = push(p, start, DOWN, 400.0), slide(p, start, DOWN, 400.0, aside=400.0)
        assert straight.stopped == ((0, 1),) and slid.travelled > straight.travelled + 20
        assert {b for _, b in slid.stopped} == {0, 1}

    def test_a_foul_may_be_left_but_not_deepened(self) -> None:
        p = problem(self.moving, self.fixed, 12.0)
        inside = Pose(np.eye(3), np.array([0, -125.0, 120.0]))
        assert push(p, inside, RIGHT, 50.0).travelled < 0.05
        assert push(p, inside, -RIGHT, 50.0).travelled == pytest.approx(50.0)

    def test_a_turn_stops_where_the_corner_meets_the_wall(self) -> None:
        """A long block turned about its middle beside a wall: the far corner comes near first."""
        fixed = Bodies([[box((0, -100, 0), (400, 100, 400))]])
        p = problem(Bodies([[box((0, 0, 0), (160, 40, 40))]]), fixed, 5.0)
        there = push(p, Pose.still(), np.array([0, 0, 0, 0, 0, 1.0]), LEVER)
        angle = there.travelled / LEVER
        assert 80 * math.sin(angle) + 20 * math.cos(angle) == pytest.approx(45.0, abs=0.1)


class TestRows:
    @given(st.integers(0, 10_000))
    def test_every_row_changes_as_the_linear_view_says(self, seed: int) -> None:
        """Turned a hair about a random axis, the nearest distance of each pair moves by its row (the least
        of them)."""
        rng = np.random.default_rng(seed)
        parts = [
            box((0, 0, 0), rng.uniform(30, 90, 3)),
            bar((0, 0, 0), rng.uniform(-80, 80, 3), 30.0),
            hull(rng.uniform(-40, 40, (9, 3))),
        ]
        moving, fixed = Bodies([[parts[rng.integers(3)]]]), Bodies([[parts[rng.integers(3)]]])
        pose = Pose(rotation_xyz(*rng.uniform(-180, 180, 3)), rng.uniform(90, 130, 3))
        reach = np.full((1, 1), 400.0)
        before = nearest(moving, pose, fixed, reach)[0]
        if before.distance < 2:
            return
        p = SeatProblem(
            moving,
            np.zeros(3),
            (Obstacles(fixed, np.zeros((1, 1))),),
            aims_of([AimRow("x", 1.0)], lambda poses: np.array([q.translation[:1] for q in poses])),
        )
        rows = rows_at(moving, pose, p.obstacles, 400.0)
        step = 0.02 * rng.normal(size=6)
        after = nearest(moving, moved_by(p, pose, step), fixed, reach)[0]
        foretold = (rows.gap + rows.matrix(pose.points(p.about), LEVER) @ step).min()
        assert after.distance == pytest.approx(foretold, abs=0.01)

    @given(st.integers(0, 10_000))
    def test_near_parts_hold_the_nearest(self, seed: int) -> None:
        rng = np.random.default_rng(seed)
        moving = Bodies([[box(rng.uniform(-50, 50, 3), (40, 30, 20)), bar((0, 0, 0), (60, 10, 5), 20.0)]])
        fixed = Bodies(
            [[box(rng.uniform(60, 120, 3), (50, 60, 40))], [bar((-100, 0, 90), (100, 0, 110), 24.0)]]
        )
        reach = np.full((1, 2), 150.0)
        whole = {(n.a, n.b): n.distance for n in nearest(moving, Pose.still(), fixed, reach)}
        parts: dict[tuple[int, int], float] = {}
        for _, _, n in near_parts(moving, Pose.still(), fixed, reach).rows:
            parts[n.a, n.b] = min(parts.get((n.a, n.b), INF), n.distance)
        assert parts == pytest.approx(whole, abs=1e-6)


@given(st.integers(0, 10_000))
def test_points_off_many_parts_at_once(seed: int) -> None:
    """Outside, as far as a speck is by another algorithm (GJK), and the way leads off; inside, no plane of
    two thousand is nearer, and moved that far the speck is out."""
    rng = np.random.default_rng(seed)
    parts = [
        box(rng.uniform(-50, 50, 3), rng.uniform(20, 80, 3), rotation_xyz(*rng.uniform(-180, 180, 3))),
        bar(rng.uniform(-50, 0, 3), rng.uniform(10, 60, 3), 30.0),
        hull(rng.uniform(-50, 50, (10, 3))),
    ]
    which, points = rng.integers(0, 3, 15), rng.uniform(-70, 70, (15, 3))
    gaps, ways = from_parts(Reaches(parts), which, points)
    for k, p, d, way in zip(which.tolist(), points, gaps.tolist(), ways, strict=True):
        speck = box((0, 0, 0), (0.002, 0.002, 0.002))
        assert np.linalg.norm(way) == pytest.approx(1.0)

        def off(at: np.ndarray, part: ConvexPart = parts[k], speck: ConvexPart = speck) -> float:
            there = Pose(np.eye(3), at)
            return nearest(Bodies([[speck]]), there, Bodies([[part]]), np.full((1, 1), 400.0))[0].distance

        if d > 0:
            assert off(p) == pytest.approx(d, abs=0.01)
        else:
            planes = rng.normal(size=(2000, 3))
            planes /= np.linalg.norm(planes, axis=1)[:, None]
            assert (parts[k].support(planes) - planes @ p).min() > -d - 1e-9
        assert off(p + way * (5.0 - d)) == pytest.approx(5.0, abs=0.01)


def test_a_bar_is_looked_at_where_something_beside_it_ends() -> None:
    """A long bar that stands 300 forward and 40 up, turned round, over a short block from 80 to 160, and a
    short bar that moves over a long one: rows at both ends of the shorter, with the gap that is there."""
    turned = Pose(rotation_xyz(0, 0, 180), np.array([300.0, 0.0, 40.0]))
    long, short = bar((-600, 0, 0), (600, 0, 0), 30.0), bar((-40, 0, 0), (40, 0, 0), 20.0)
    for moving, pose, fixed, gap in (
        (long, turned, box((120, 0, -20), (80, 60, 40)), 40 - 15.0),
        (short, Pose(np.eye(3), np.array([120.0, 0.0, 50.0])), long, 50 - 15 - 10.0),
    ):
        stand = (Obstacles(Bodies([[fixed]]), np.full((1, 1), 10.0)),)
        rows = rows_at(Bodies([[moving]]), pose, stand, 60.0)
        for end in (80.0, 160.0):
            k = int(np.abs(rows.place[:, 0] - end).argmin())
            assert rows.place[k, 0] == pytest.approx(end, abs=1e-6)
            assert rows.gap[k] == pytest.approx(gap, abs=1e-3) and rows.way[k, 2] == pytest.approx(1.0)


@given(st.integers(0, 10_000))
def test_linear_problems_are_solved_as_the_library_solves_them(seed: int) -> None:
    """Random looks of a seat's kind: gaps that lack or not, windows, targets, moves that are not allowed. The
    same cost by the simplex of our own as by HiGHS, everything kept, and multipliers that prove it: none
    below nought, and with those of the bounds they weigh up the cost (strong duality)."""
    rng = np.random.default_rng(seed)
    rows, targets = int(rng.integers(1, 60)), int(rng.integers(0, 4))
    n = 7 + targets
    matrix = np.zeros((rows + 2 * targets, n))
    matrix[:, :6] = rng.normal(size=(rows + 2 * targets, 6))
    matrix[:rows, 6] = -1.0
    limits = rng.normal(size=rows + 2 * targets) * 10
    for k in range(targets):
        matrix[rows + 2 * k + 1, :6] = -matrix[rows + 2 * k, :6]
        limits[rows + 2 * k + 1] = -limits[rows + 2 * k]
        matrix[rows + 2 * k : rows + 2 * k + 2, 7 + k] = -1.0
    cost = np.concatenate(
        [rng.normal(size=6) * rng.choice([0.0, 1.0], 6), [30.0], rng.uniform(0.01, 1, targets)]
    )
    middle, size = rng.normal(size=6), rng.uniform(1, 30) * rng.choice([0.0, 1.0], 6, p=[0.1, 0.9])
    bounds = np.full((n, 2), (0.0, INF))
    bounds[:6] = np.column_stack([middle - size, middle + size])
    program = LinearProgram(cost, matrix, limits, bounds, np.arange(rows), 7)
    own, theirs = program.from_corner(), program.by_library()
    assert theirs is not None and own is not None
    assert own.cost == pytest.approx(theirs.cost, abs=1e-6)
    assert (matrix @ own.x - limits).max() < 1e-6
    assert (own.x > bounds[:, 0] - 1e-6).all() and (own.x < bounds[:, 1] + 1e-6).all()
    assert own.multipliers.min() >= 0
    left = cost + matrix.T @ own.multipliers  # what the bounds must pay
    ends = np.where(left > 0, bounds[:, 0], np.where(np.isfinite(bounds[:, 1]), bounds[:, 1], 0.0))
    assert left[6:].min() > -1e-6
    assert left @ ends - own.multipliers @ limits == pytest.approx(own.cost, abs=1e-5)


class TestScreen:
    @given(st.integers(0, 10_000))
    def test_separating_axes_never_say_more_than_the_true_distance(self, seed: int) -> None:
        """And the very depth where two polyhedra overlap."""
        rng = np.random.default_rng(seed)
        a, b = box((0, 0, 0), rng.uniform(20, 80, 3)), hull(rng.uniform(-50, 50, (10, 3)))
        turn, at = rotation_xyz(*rng.uniform(-180, 180, 3)), rng.uniform(-80, 80, 3)
        n, c = separating(a, b, turn)
        true = nearest(Bodies([[a]]), Pose(turn, at), Bodies([[b]]), np.full((1, 1), 500.0))[0].distance
        rough = float((at @ n.T - c).max())
        assert rough <= true + 1e-6
        if true < 0:
            assert rough == pytest.approx(true, abs=1e-6)

    def test_a_sheet_is_seen_to_a_cell(self) -> None:
        v = np.array([[-200, -200, 0], [200, -200, 0], [200, 200, 0], [-200, 200, 0]], dtype=float)
        sheet = Bodies([[MeshPart(v, np.array([[0, 1, 2], [0, 2, 3]]))]])
        p = problem(Bodies([[box((0, 0, 0), (60, 60, 60))]]), sheet, 20.0)
        places = np.array([[0, 0, 30.0], [0, 0, 45.0], [0, 0, 50.0 + 24], [0, 0, 300.0]])
        np.testing.assert_allclose(shortfall(p, np.eye(3), places), (20, 5, 0, 0), atol=12.0)


def test_sways_are_kept_clear_of() -> None:
    """A block that drops 3 mm when it runs must stand 3 mm higher."""
    fixed = Bodies([[box((0, 0, -100), (400, 400, 100))]])
    p = problem(Bodies([[box((0, 0, 0), (60, 60, 60))]]), fixed, 10.0)
    still = descend(p, Pose(np.eye(3), np.array([0, 0, 40.0]))).stand
    swaying = replace(p, sways=np.array([[0, 0, -3.0, 0, 0, 0]]), swaying=np.array([True]))
    running = descend(swaying, Pose(np.eye(3), np.array([0, 0, 40.0]))).stand
    assert running.pose.translation[2] - still.pose.translation[2] == pytest.approx(3.0, abs=0.02)
    assert stand_at(swaying, still.pose, 30.0).worst == pytest.approx(3.0, abs=0.02)


class TestAllThatLacksTogether:
    """Two things each ask a block to be at 10 or more, a window asks for 0 or less."""

    def bay(self) -> SeatProblem:
        fixed = Bodies([[box((-70, 60, 0), (100, 40, 100))], [box((-70, -60, 0), (100, 40, 100))]])
        moving = Bodies([[box((40, 0, 0), (100, 200, 40))]])
        p = problem(moving, fixed, 20.0, (0.0, 0.0, 0.0), 100.0)
        high = p.aims.high.copy()
        high[0] = 0.0
        return replace(p, aims=replace(p.aims, high=high))

    def test_the_worst_is_shared_and_the_sum_breaks_the_one(self) -> None:
        p = self.bay()
        start = Pose(np.eye(3), np.array([-4.0, 3.0, 2.0]))
        shared = descend(p, start).stand
        assert shared.pose.translation[0] == pytest.approx(5.0, abs=0.05) and shared.worst == pytest.approx(
            5.0, abs=0.05
        )
        fewest = descend(replace(p, things=np.array([0, 1])), start).stand
        assert fewest.pose.translation[0] == pytest.approx(10.0, abs=0.05) and fewest.lack == pytest.approx(
            10.0, abs=0.1
        )
        assert fewest.short.max() <= 0.06, "both things are kept, the window alone gives"

    def test_two_bodies_of_one_thing_count_once(self) -> None:
        """As one thing, the two weigh as much as the window: the sum is 10 anywhere between, and no more."""
        p = self.bay()
        one = descend(replace(p, things=np.array([0, 0])), Pose(np.eye(3), np.array([-4.0, 0.0, 2.0]))).stand
        assert one.lack == pytest.approx(10.0, abs=0.1) and -0.1 <= one.pose.translation[0] <= 10.1

    def test_where_all_is_kept_both_ways_agree(self) -> None:
        p = problem(Bodies([[box((0, 0, 0), (60, 60, 60))]]), v_bay(30.0), 5.0)
        start = Pose(np.eye(3), np.array([0.0, 4.0, 120.0]))
        a, b = descend(p, start).stand, descend(replace(p, things=np.zeros(2, dtype=int)), start).stand
        assert a.cost == pytest.approx(b.cost, abs=0.02) and a.worst <= 0.01 and b.worst <= 0.01


def mirrored(bodies: Bodies) -> Bodies:
    """The bodies seen in a mirror across the plane y = 0."""
    s = np.diag([1.0, -1.0, 1.0])

    def part(p: ConvexPart | MeshPart) -> ConvexPart | MeshPart:
        if isinstance(p, MeshPart):
            return MeshPart(p.vertices @ s, p.faces[:, ::-1])
        at = Pose(s @ p.pose.rotation @ s, s @ p.pose.translation)
        return ConvexPart(p.kind, at, p.size, p.hull_vertices @ s, p.hull_triangles[:, ::-1])

    return Bodies(
        [
            [part(p) for p, o in zip(bodies.parts, bodies.owner, strict=True) if o == k]
            for k in range(bodies.count)
        ]
    )


def seen_in_a_mirror(p: SeatProblem) -> SeatProblem:
    """The whole problem in the mirror: what it measures of a pose is what the first measures of that
    pose's reflection."""
    s = np.diag([1.0, -1.0, 1.0])
    measure = p.aims.measure
    sways = p.sways * (1, -1, 1, -1, 1, -1)
    return replace(
        p,
        moving=mirrored(p.moving),
        about=s @ p.about,
        obstacles=tuple(Obstacles(mirrored(o.bodies), o.need) for o in p.obstacles),
        sways=sways,
        aims=replace(
            p.aims,
            measure=lambda poses: measure([Pose(s @ q.rotation @ s, s @ q.translation) for q in poses]),
        ),
    )


class TestInvariance:
    def test_the_seat_of_a_mirrored_bay_is_the_mirrored_seat(self, demo: Job) -> None:
        """The whole light truck, its mesh and its sways too, swapped left and right."""
        p, start = seating_of(demo).problem, pose_of(demo.position)
        s = np.diag([1.0, -1.0, 1.0])
        there = descend(p, start).stand
        other = descend(seen_in_a_mirror(p), Pose(s @ start.rotation @ s, s @ start.translation)).stand
        assert there.worst <= 0.01 and other.worst <= 0.01
        assert other.cost == pytest.approx(there.cost, abs=0.05)
        assert s @ other.pose.points(s @ p.about) == pytest.approx(there.pose.points(p.about), abs=0.3)

    def test_what_is_seen_from_a_pose_moves_with_the_bay(self, demo: Job) -> None:
        """Bay and powertrain carried to another place and turned: the same gaps, the same directions
        turned."""
        p, pose = seating_of(demo).problem, pose_of(demo.position)
        carry = Pose(rotation_xyz(8.0, -5.0, 31.0), np.array([400.0, -150.0, 90.0]))
        moved = tuple(
            Obstacles(
                Bodies(
                    [
                        [
                            placed_part(x, carry)
                            for x, o in zip(g.bodies.parts, g.bodies.owner, strict=True)
                            if o == k
                        ]
                        for k in range(g.bodies.count)
                    ]
                ),
                g.need,
            )
            for g in p.obstacles
        )
        here, there = (
            rows_at(p.moving, at, g, 30.0) for at, g in ((pose, p.obstacles), (carry @ pose, moved))
        )
        first, second = tightest(here), tightest(there)
        assert len(first) > 10 and first.keys() == second.keys()
        for pair, (gap, way) in first.items():
            assert second[pair][0] == pytest.approx(gap, abs=2e-3)
            if gap > 1:
                assert second[pair][1] @ carry.vectors(way) > 0.999


def tightest(rows: Rows) -> dict[tuple[int, int], tuple[float, np.ndarray]]:
    """Of each pair of bodies the least gap, and its direction."""
    out: dict[tuple[int, int], tuple[float, np.ndarray]] = {}
    for k in range(len(rows.a)):
        pair = int(rows.a[k]), int(rows.b[k])
        if pair not in out or rows.gap[k] < out[pair][0]:
            out[pair] = float(rows.gap[k]), rows.way[k]
    return out
