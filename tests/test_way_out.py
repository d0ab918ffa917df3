"""Ways out of bays whose answer is known, each replayed through the exact distances; the demo's way out;
room for hands; cuts of solids."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from nimble_cradle import workers
from nimble_cradle.geometry.bodies import Bodies
from nimble_cradle.geometry.clip import clipped
from nimble_cradle.geometry.distance import clearance, nearest
from nimble_cradle.geometry.pose import Pose, rotation_xyz
from nimble_cradle.geometry.solid_makers import bar, box, hull
from nimble_cradle.geometry.solids import ConvexPart, MeshPart
from nimble_cradle.job.base import JobError
from nimble_cradle.job.bay import Item
from nimble_cradle.job.edits import with_value
from nimble_cradle.job.job import Job
from nimble_cradle.job.setting import WayOut
from nimble_cradle.job.shapes import Box
from nimble_cradle.motion.way_out import (
    Stretch,
    WayOutSearch,
    WayOutTask,
    between,
    film,
    proved,
    span,
    way_out,
)
from nimble_cradle.seat import removal
from nimble_cradle.seat.hands import Reach, reaches, socket_round
from nimble_cradle.seat.removal import _Attempt, find_removal
from nimble_cradle.seat.settled import Settled
from scipy.spatial import ConvexHull


def task(
    moving: Bodies, fixed: Bodies, goal: tuple[float, float, float], radius: float, air: float = 1.0
) -> WayOutTask:
    return WayOutTask(
        moving,
        fixed,
        Pose.still(),
        Pose(np.eye(3), np.array(goal, dtype=float)),
        np.zeros(3),
        radius,
        air,
        np.array([-250, -250, -250, -20, -40, -60.0]),
        np.array([700, 250, 500, 20, 40, 60.0]),
    )


def replayed(t: WayOutTask, found: WayOutSearch, step: float = 2.0) -> float:
    """The least distance along the path, looked at every ``step`` mm by the all-pairs measure."""
    least = math.inf
    reach = np.full((t.moving.count, t.fixed.count), 400.0)
    for a, b in zip(found.path, found.path[1:], strict=False):
        n = max(2, int(span(t, a, b)[0] / step))
        for k in range(n + 1):
            rows = nearest(t.moving, between(t, a, b, k / n), t.fixed, reach)
            least = min(least, min((r.distance for r in rows), default=math.inf))
    return least


def hooked() -> WayOutTask:
    """A block under a shelf: it must come forward before it can rise."""
    fixed = Bodies(
        [
            [box((-60, 0, 90), (200, 400, 20))],
            [box((-180, 0, 0), (20, 400, 300))],
            [box((0, 0, -70), (700, 400, 20))],
        ]
    )
    return task(Bodies([[box((0, 0, 0), (160, 120, 80))]]), fixed, (0, 0, 330), 120.0)


def slot() -> WayOutTask:
    """A long bar behind a wall with a window narrower than the bar is long: it must turn to go through."""
    wall = [
        box((150, 160, 0), (20, 200, 400)),
        box((150, -160, 0), (20, 200, 400)),
        box((150, 0, 150), (20, 400, 160)),
        box((150, 0, -150), (20, 400, 160)),
    ]
    return task(Bodies([[box((0, 0, 0), (40, 180, 40))]]), Bodies([wall]), (320, 0, 0), 100.0)


class TestKnownBays:
    @pytest.mark.parametrize("seed", range(4))
    @pytest.mark.parametrize("make", (hooked, slot))
    def test_found_from_every_seed_and_true_on_replay(self, make: object, seed: int) -> None:
        t = make()  # type: ignore[operator]
        found = way_out(t, seed)
        assert found.path and found.path[0] is t.start
        np.testing.assert_allclose(found.path[-1].translation, t.goal.translation, atol=1e-6)
        assert replayed(t, found) >= t.air / 2

    def test_a_closed_box_has_none_and_names_its_walls(self) -> None:
        walls = [
            [
                box(
                    (s * 120 * (k == 0), s * 120 * (k == 1), s * 120 * (k == 2)),
                    tuple(20.0 if k == j else 260.0 for j in range(3)),
                )
            ]
            for k in range(3)
            for s in (1, -1)
        ]
        found = way_out(
            task(Bodies([[box((0, 0, 0), (80, 80, 80))]]), Bodies(walls), (0, 0, 400), 70.0), looks=4000
        )
        assert not found.path and found.blocked and all(0 <= b < 6 for _, b in found.blocked)

    def test_a_start_that_touches_is_no_start(self) -> None:
        t = task(
            Bodies([[box((0, 0, 0), (80, 80, 80))]]),
            Bodies([[box((60, 0, 0), (50, 80, 80))]]),
            (0, 0, 400),
            70.0,
        )
        found = way_out(t, looks=15_000)
        assert not found.path and found.blocked == {(0, 0): 1} and found.checks == 1

    def test_the_film_tells_the_tightest_moment_as_an_exact_sweep_does(self) -> None:
        t = hooked()
        found = way_out(t, 1)
        moments = film(t, found.path, 3.0)
        assert (
            moments[0].at == 0.0
            and moments[-1].at == pytest.approx(1.0)
            and [m.at for m in moments] == sorted(m.at for m in moments)
        )
        assert min(m.gap for m in moments) == pytest.approx(replayed(t, found), abs=1.6)

    @given(st.integers(0, 500))
    @settings(max_examples=25)
    def test_a_proved_stretch_is_free_all_along(self, seed: int) -> None:
        rng = np.random.default_rng(seed)
        t = task(
            Bodies([[box((0, 0, 0), (60, 40, 30))]]),
            Bodies([[bar(rng.uniform(-150, 150, 3), rng.uniform(-150, 150, 3), 20.0)] for _ in range(3)]),
            (0, 0, 300),
            40.0,
        )
        a, b = (Pose(rotation_xyz(*rng.uniform(-60, 60, 3)), rng.uniform(-150, 150, 3)) for _ in range(2))
        if clearance(t.moving, a, t.fixed, 60.0)[0] <= t.air:
            return
        share, near = proved(Stretch(t, a, b), WayOutSearch())
        assert (near is None) == (share >= 1.0)
        for k in np.linspace(0, share, 40):
            assert clearance(t.moving, between(t, a, b, float(k)), t.fixed, 60.0)[0] >= t.air / 2


class TestJobs:
    def test_up_and_down_out_of_the_hatchback(self, settled_hatchback: Settled) -> None:
        seat = settled_hatchback.job
        up = find_removal(seat)
        assert (
            up.moments
            and up.tightest is not None
            and 1.0 < up.tightest.gap < 20
            and "It comes out" in up.words(seat.show.display)
        )
        assert replayed(up.task, up.search, 6.0) >= up.task.air / 2
        assert any("Half-shafts" in b for b in up.before) and "Radiator and fan off" in up.before

    def test_a_busy_machine_and_one_core_find_the_same(
        self, settled_hatchback: Settled, monkeypatch: pytest.MonkeyPatch
    ) -> None:
        """The lowest attempt that finds a way counts, in whatever order they end."""
        ways = {
            0: WayOutSearch(checks=9),
            1: WayOutSearch([Pose.still()], 5),
            2: WayOutSearch([Pose.still()], 1),
            3: WayOutSearch(),
        }
        plan = _Attempt(settled_hatchback.job, (), 1.0, 10)
        rows: list[Any] = [(k, ()) for k in ways]
        for order in ((2, 3, 1, 0), (0, 1, 2, 3), (3, 2, 0, 1)):
            ended: list[int] = []

            def side_by_side(*_: Any, order: tuple[int, ...] = order, ended: list[int] = ended) -> Any:
                for k in order:
                    ended.append(k)
                    yield k, ways[k]

            monkeypatch.setattr(removal, "side_by_side", side_by_side)
            assert removal._first_found(plan, rows, lambda _: None, "") == (1, ways[1])
            assert {0, 1} <= set(ended), "those before it are waited for"
        monkeypatch.undo()
        several = find_removal(settled_hatchback.job, attempts=3)
        monkeypatch.setattr(workers, "cores", lambda: 1)
        alone = find_removal(settled_hatchback.job, attempts=3)
        assert alone.search.checks == several.search.checks and len(alone.moments) == len(several.moments)
        for a, b in zip(alone.search.path, several.search.path, strict=True):
            np.testing.assert_array_equal(a.translation, b.translation)
            np.testing.assert_array_equal(a.rotation, b.rotation)

    def test_what_is_in_the_way_is_named(self, settled_hatchback: Settled) -> None:
        """With its bonnet shut it cannot rise, nor go forward past its radiator."""
        seat = settled_hatchback.job
        for mount in seat.mounts:  # settled, the engine has left its brackets behind
            seat = with_value(seat, f"mounts/{mount.id}/foot", None)
        shut = find_removal(with_value(seat, "way_out", WayOut(off=("battery",))), attempts=2, looks=2500)
        assert (
            not shut.moments and any("Bonnet" in f for f in shut.first) and shut.helps == "Bonnet's underside"
        )
        assert "With Bonnet's underside off it comes out" in shut.words(seat.show.display)

    def test_an_engine_alone_that_cannot_leave_its_gearbox(self, settled_truck: Settled) -> None:
        seat = settled_truck.job
        with pytest.raises(JobError, match="does not slide forward"):
            find_removal(
                with_value(
                    seat, "way_out", WayOut(engine_alone=True, arms_off=True, off=("bonnet", "radiator"))
                )
            )


class TestHands:
    def test_a_bolt_behind_a_wall_is_not_reached_and_the_wall_is_named(self, demo: Job) -> None:
        before = {r.name: r for r in reaches(demo)}
        bolt = before["Left engine mount, bolt 4 of its plate"]
        assert bolt.extension == 150
        x, y, z = bolt.place

        def walled(off: float, *more: Item) -> Reach:
            wall = Item(
                id="wall",
                name="A wall",
                neighbour="metal",
                shapes=(Box(centre=(x, y + off + 5.0, z), size=(600.0, 10.0, 600.0)),),
            )
            return next(
                r
                for r in reaches(with_value(demo, "items", (*demo.items, wall, *more)))
                if r.name == bolt.name
            )

        near = walled(40.0)
        assert near.extension is None and near.blocked == "A wall" and near.spanner
        assert near.words == "an open spanner reaches it, no socket (A wall)"
        close = walled(2.0)
        assert not close.reached and close.words == "not reached: A wall"
        posts = [
            Item(
                id=f"post-{k}",
                name="A post",
                neighbour="metal",
                shapes=(
                    Box(centre=(x + 60 * np.cos(t), y + 20.0, z + 60 * np.sin(t)), size=(8.0, 40.0, 8.0)),
                ),
            )
            for k, t in enumerate(np.radians(np.arange(0, 360, 30.0)))
        ]
        assert not walled(40.0, *posts).reached, "posts all round leave the spanner no swing"

    def test_unreached_come_first_and_a_socket_grows_with_its_bolt(self, hatchback: Job) -> None:
        rows = reaches(hatchback)
        assert [r.reached for r in rows] == sorted(r.reached for r in rows) and any(r.spanner for r in rows)
        assert any(r.mount == "" for r in rows) and socket_round(12) > socket_round(10) > 20


class TestCuts:
    @given(st.integers(0, 1000))
    def test_the_two_sides_of_a_cut_make_the_whole(self, seed: int) -> None:
        rng = np.random.default_rng(seed)
        part = hull(rng.uniform(-50, 50, (10, 3)))
        n = rng.normal(size=3)
        n /= np.linalg.norm(n)
        at = float(rng.uniform(-30, 30))
        pieces = [p for p in (clipped(part, n, at), clipped(part, -n, -at)) if p is not None]
        whole = ConvexHull(part.triangles[0]).volume
        assert sum(ConvexHull(p.triangles[0]).volume for p in pieces) == pytest.approx(whole, rel=1e-6)
        assert (
            all(
                (p.triangles[0] @ n * s <= at * s + 1e-6).all() for p, s in zip(pieces, (1, -1), strict=False)
            )
            or len(pieces) == 1
        )

    def test_a_sheet_keeps_its_area_on_one_side(self) -> None:
        v = np.array([[0, 0, 0], [100, 0, 0], [100, 50, 0], [0, 50, 0]], dtype=float)
        left = clipped(MeshPart(v, np.array([[0, 1, 2], [0, 2, 3]])), np.array([1.0, 0, 0]), 30.0)
        assert isinstance(left, MeshPart)
        c = left.vertices[left.faces]
        assert np.linalg.norm(
            np.cross(c[:, 1] - c[:, 0], c[:, 2] - c[:, 0]), axis=1
        ).sum() / 2 == pytest.approx(30 * 50)

    def test_a_bar_becomes_a_prism_within_a_third_of_a_per_cent(self) -> None:
        left = clipped(bar((-50, 0, 0), (50, 0, 0), 40.0), np.array([0, 0, 1.0]), 10.0)
        assert isinstance(left, ConvexPart)
        segment = math.pi * 400 - (400 * math.acos(0.5) - 10 * math.sqrt(300))
        assert ConvexHull(left.triangles[0]).volume == pytest.approx(100 * segment, rel=0.006)
