"""Wheels at lock: against plane geometry about an upright post, mirrored, at its dead point; what goes with
the steering measured over all of travel and lock."""

from __future__ import annotations

import json
import math
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from nimble_cradle.bay.bodies import powertrain_bodies, standing_items
from nimble_cradle.bay.position import pose_of
from nimble_cradle.cli.main import main
from nimble_cradle.desk.stages.chassis.suspension_room import SuspensionRoom
from nimble_cradle.desk.window import Desk
from nimble_cradle.fit.gaps import required_gaps
from nimble_cradle.fit.links import links
from nimble_cradle.fit.part_travel import part_travel
from nimble_cradle.fit.real_shaft import real_shaft
from nimble_cradle.fit.steering import LockFound, both_locked, locks_found
from nimble_cradle.fit.suspension import places_of
from nimble_cradle.fit.travel import moving_items
from nimble_cradle.geometry.distance import nearest
from nimble_cradle.job import store
from nimble_cradle.job.bay import Item
from nimble_cradle.job.edits import added, with_value
from nimble_cradle.job.from_points import Follows
from nimble_cradle.job.job import Job
from nimble_cradle.job.shapes import Bar
from nimble_cradle.job.suspension import Corner, Pivot, WishboneCorner
from nimble_cradle.judge.gaps import running_gaps, shaft_gaps
from nimble_cradle.judge.suspension import axle_at_lock, suspension_questions
from numpy.typing import NDArray

from pressing import unfold_all


def at(x: float, y: float, z: float, moved: tuple[float, float, float] = (0, 0, 0)) -> Pivot:
    return Pivot(at=(x, y, z), moved=moved)


UPRIGHT = WishboneCorner(
    id="left",
    name="Left front wheel",
    side="left",
    measured="tape",
    toe_deg=0.3,
    lower_front=at(120, 300, -163),
    lower_rear=at(-130, 300, -163),
    lower_ball=at(7, 640, -163),
    upper_front=at(90, 380, 92),
    upper_rear=at(-110, 380, 92),
    upper_ball=at(7, 640, 92),
    rod_inner=at(-120, 322, -110),
    rod_outer=at(-131, 618, -86),
    wheel=at(0, 702, -60),
    rack_travel_mm=66.0,
)
"""Both balls over one another, so that the wheel turns about an upright line and stays at its height."""


def lock_of(job: Job, *corners: Corner) -> list[LockFound]:
    found = locks_found(with_value(job, "suspensions", corners))
    assert all(isinstance(one, LockFound) for one in found)
    return [one for one in found if isinstance(one, LockFound)]


def turned_by(rack: float) -> tuple[float, float]:
    """By the law of cosines in plan: degrees to the left, and between rod and arm."""
    post, inner, outer = complex(7, 640), complex(-120, 322 + rack), complex(-131, 618)
    arm, reach = outer - post, inner - post
    long2 = abs(complex(-131, 618) - complex(-120, 322)) ** 2  # its height never changes
    cosine = (abs(arm) ** 2 + abs(reach) ** 2 - long2) / (2 * abs(arm) * abs(reach))
    way = reach / abs(reach)
    ends = [way * complex(cosine, s * math.sqrt(1 - cosine**2)) * abs(arm) for s in (1, -1)]
    ball = min(ends, key=lambda b: abs(b / arm - 1))
    rod = reach - ball
    between = math.degrees(math.acos(((rod * ball.conjugate()).real) / abs(rod) / abs(ball)))
    return math.degrees(math.atan2((ball / arm).imag, (ball / arm).real)), between


class TestAtLock:
    def test_about_an_upright_post(self, demo: Job) -> None:
        (found,) = lock_of(demo, UPRIGHT)
        turned = found.before
        want = np.array([turned_by(float(s)) for s in turned.rack])
        assert turned.rack[0] == -66 and turned.rack[-1] == 66 and len(want) > 30
        assert turned.turns == pytest.approx(want[:, 0], abs=1e-6)
        assert turned.lever == pytest.approx(want[:, 1], abs=1e-6)
        # the rod is behind the axle: pushed to the left it turns the wheel's front to the right
        assert turned.turns[-1] < -20 and turned.turns[0] > 20
        assert turned.locks == (turned.turns[0], -turned.turns[-1])

    def test_mirrored_car(self, demo: Job) -> None:
        changed: dict[str, Any] = {
            key: pivot.model_copy(update={"at": (pivot.at[0], -pivot.at[1], pivot.at[2])})
            for key in type(UPRIGHT).model_fields
            if isinstance(pivot := getattr(UPRIGHT, key), Pivot)
        }
        other = UPRIGHT.model_copy(update={**changed, "id": "right", "side": "right", "name": "Right"})
        left, right = lock_of(demo, UPRIGHT, other)
        assert left.after.turns == pytest.approx(-right.after.turns[::-1], abs=1e-9)
        job = with_value(demo, "suspensions", (UPRIGHT, other))
        to_left, to_right = both_locked(job, left, right)
        assert (to_left.to, to_right.to) == ("left", "right")
        assert to_left.inner == pytest.approx(to_right.inner) and to_left.inner > to_left.outer
        # both roll about one point on the rear axle's line: inner radius is the posts' distance less
        apart, base = 1280.0, demo.vehicle.wheelbase_mm
        far = base / math.tan(math.radians(to_left.outer))
        wants = math.degrees(math.atan2(base, far - apart))
        share = 100 * (to_left.inner - to_left.outer) / (wants - to_left.outer)
        assert to_left.share == pytest.approx(share) and 0 < share < 100
        assert to_left.circle == pytest.approx(2 * math.hypot(base, far))
        # a note on one of them leaves them a pair
        noted = with_value(job, "suspensions/right/note", "new ball")
        (first, _) = [f for f in locks_found(noted) if isinstance(f, LockFound)]
        assert axle_at_lock(noted, first) == (to_left, to_right) == axle_at_lock(job, first)

    def test_dead_point(self, demo: Job) -> None:
        """A short arm: the law of cosines has no answer beyond some 50 and 70 mm; the last that it gets to on
        each side is told."""
        short = UPRIGHT.model_copy(
            update={"rod_outer": at(-53, 636, -86), "rod_inner": at(-50, 322, -110), "rack_travel_mm": 80.0}
        )
        reached = [0.0, 0.0]
        long, arm = abs(complex(-53, 636) - complex(-50, 322)), abs(complex(-53, 636) - complex(7, 640))
        for rack in np.arange(-80.0, 80.0, 0.25):
            if abs(long - arm) < abs(complex(-50, 322 + rack) - complex(7, 640)) < long + arm:
                reached = [min(reached[0], rack), max(reached[1], rack)]
        (found,) = lock_of(demo, short)
        there = found.after.rack[np.isfinite(found.after.turns)]
        assert not found.after.whole and math.isnan(found.after.nearest_dead)
        assert reached[0] - 0.25 <= there.min() < reached[0] + 3.0 and reached[0] > -60
        assert reached[1] - 3.0 < there.max() <= reached[1] + 0.25
        said = [q.sentence for q in suspension_questions(with_value(demo, "suspensions", (short,)))]
        assert any(f"over its dead point with the rack {-there.min():.0f} mm" in q for q in said)
        near = short.model_copy(update={"rack_travel_mm": -float(there.min())})
        said = [q.sentence for q in suspension_questions(with_value(demo, "suspensions", (near,)))]
        assert any("from the line of its arm; 20 are wanted" in q for q in said)

    def test_lock_at_ride_alone(self, demo: Job) -> None:
        """With 48 mm it gets to both ends at ride, but not with the wheel up or down; that is asked about,
        for what goes with it is then looked at straight ahead."""
        short = UPRIGHT.model_copy(update={"rod_outer": at(-53, 636, -86), "rod_inner": at(-50, 322, -110)})
        for rack, goes in ((44.0, True), (48.0, False)):
            job = with_value(demo, "suspensions", (short.model_copy(update={"rack_travel_mm": rack}),))
            (found,) = [f for f in locks_found(job) if isinstance(f, LockFound)]
            assert found.after.whole and found.after.nearest_dead > 20
            part = part_travel(job, Follows(suspension="left", part="upright"))
            assert (part.steered is not None) == goes
            said = [q.sentence for q in suspension_questions(job)]
            assert any("not all through the wheel's travel" in q for q in said) != goes

    def test_moved_so_that_it_turns_less(self, demo: Job) -> None:
        longer = UPRIGHT.model_copy(update={"rod_outer": at(-131, 618, -86, (-40, 0, 0))})
        (found,) = lock_of(demo, longer)
        assert found.moved and found.after.locks[0] < found.before.locks[0] - 4
        said = [q.sentence for q in suspension_questions(with_value(demo, "suspensions", (longer,)))]
        assert sum("the car will not turn as tightly" in q for q in said) == 2

    def test_outer_joint(self, hatchback: Job) -> None:
        """The shaft's line at ride with the wheel's axis turned as told at lock, by hand; over all of travel
        and lock it is a little more."""
        seats, hubs = hatchback.powertrain.gearbox.seats, hatchback.vehicle.hubs
        assert seats is not None and hubs is not None
        corner = hatchback.suspensions[0]
        unsaid = with_value(hatchback, "suspensions/wheel-left/rack_travel_mm", None)
        plain = real_shaft(unsaid, unsaid.suspensions[0])  # type: ignore[arg-type]
        both = real_shaft(hatchback, corner)  # type: ignore[arg-type]
        assert plain is not None and plain[1].lock is None and both is not None and both[1].lock is not None
        (left, _) = [f for f in locks_found(hatchback) if isinstance(f, LockFound)]
        run = np.subtract(hubs[0], pose_of(hatchback.position).points(seats[0]))
        by_hand = 0.0
        for turn in left.after.locks[0], -left.after.locks[1]:
            axis = np.array([-math.sin(math.radians(turn)), math.cos(math.radians(turn)), 0.0])
            cosine = float(run @ axis / np.linalg.norm(run))
            by_hand = max(by_hand, math.degrees(math.acos(cosine)))
        assert by_hand - 2.5 < both[1].lock < by_hand + 8.0
        tight = with_value(hatchback, "joint_limits/half_shaft_lock_deg", both[1].lock - 1.0)
        assert any("the outer joint of its half-shaft" in q.sentence for q in suspension_questions(tight))
        assert not any("outer joint" in q.sentence for q in suspension_questions(hatchback))


def tyre(job: Job) -> Job:
    """The hatchback with the left front tyre among the things of its bay, the wheel's linkage taking it
    along; standing a little nearer the engine than it would."""
    item = Item(
        id="tyre",
        name="Left front tyre",
        shapes=(Bar(start=(0.0, 480.0, -140.0), end=(0.0, 790.0, -140.0), diameter=580.0),),
        neighbour="moving",
        motion=Follows(suspension="wheel-left", part="upright"),
    )
    return added(job, "items", item)


class TestMeasured:
    def test_over_all_of_travel_and_lock(self, hatchback: Job) -> None:
        """The least that is found along the edges is no more than what any place of a grid over travel and
        lock has, measured by itself; and the place told is one of the edges."""
        job = tyre(hatchback)
        mover = next(m for m in moving_items(job) if m.name == "Left front tyre")
        assert mover.follows is not None and mover.follows.steered is not None
        path = mover.follows.steered
        rest = pose_of(job.position)
        engine = powertrain_bodies(job)
        grid = np.inf
        linkage_stops = [(u, s) for u in np.linspace(-50, 50, 5) for s in np.linspace(-68, 68, 9)]
        for up, rack in linkage_stops:
            pose = _upright_by_steps(path, up, rack)
            for near in nearest(
                engine, pose.inverse() @ rest, mover.bodies, np.full((engine.count, 1), 400.0)
            ):
                grid = min(grid, near.distance)
        straight = min(
            near.distance
            for up in np.linspace(-50, 50, 21)
            for near in nearest(
                engine, mover.pose(up).inverse() @ rest, mover.bodies, np.full((engine.count, 1), 400.0)
            )
        )
        found = min(gap.still for gap in running_gaps(job) if gap.item == "tyre")
        assert found < straight - 10.0  # straight ahead says far too much
        assert grid - 0.7 < found < grid + 0.25
        tight = min((g for g in running_gaps(job) if g.item == "tyre"), key=lambda g: g.still)
        assert "the rack" in tight.travel_at or "the rack" in tight.running_case

    @pytest.mark.parametrize("ahead", [105.0, -125.0])
    def test_a_half_shaft_at_lock(self, hatchback: Job, ahead: float) -> None:
        """What stands on the upright swings towards its own half-shaft at lock: the least that is told is
        that of a grid over travel and lock, both at the same height of the wheel, measured by itself;
        straight ahead says too much."""
        hub = places_of(hatchback, hatchback.suspensions[0])[1]["wheel"]
        at = hub + [ahead, -170.0, 0.0]
        arm = Item(
            id="arm-x",
            name="Arm on the upright",
            neighbour="metal",
            shapes=(Bar(start=tuple(at + [0, 0, 60.0]), end=tuple(at - [0, 0, 60.0]), diameter=20.0),),
            motion=Follows(suspension="wheel-left", part="upright"),
        )
        job = added(hatchback, "items", arm)
        mover = next(m for m in moving_items(job) if m.name == arm.name)
        path = mover.follows.steered  # type: ignore[union-attr]
        shaft = next(link for link in links(job) if link.id == "half-shaft.left")
        rest = pose_of(job.position)
        stops = [(u, s) for u in np.linspace(-50, 50, 5) for s in np.linspace(-68, 68, 9)]
        least: dict[tuple[float, float], float] = {}
        for up, rack in stops:
            pose, bodies = _upright_by_steps(path, up, rack), shaft.bodies(rest, float(up))
            found = nearest(bodies, pose.inverse(), mover.bodies, np.full((bodies.count, 1), 400.0))
            least[up, rack] = min(near.distance for near in found)
        grid, straight = min(least.values()), min(v for (_, rack), v in least.items() if rack == 0)
        (row,) = [g for g in shaft_gaps(job) if {g.piece, g.item} == {"half-shaft.left", "arm-x"}]
        assert grid < straight - 5.0 and row.travel is not None
        assert grid - 0.7 < row.travel < grid + 0.25
        assert "the rack" in row.travel_at
        assert row.running is not None and row.running <= row.travel + 0.2
        unsaid = with_value(job, "suspensions/wheel-left/rack_travel_mm", None)
        rows = [g for g in shaft_gaps(unsaid) if {g.piece, g.item} == {"half-shaft.left", "arm-x"}]
        assert [g.travel for g in rows] == [pytest.approx(straight, abs=1.0)] if rows else straight > 35.0

    def test_tie_rod_goes_with_the_rack(self, hatchback: Job) -> None:
        job = hatchback
        rod = part_travel(job, Follows(suspension="wheel-left", part="tie rod"))
        upright = part_travel(job, Follows(suspension="wheel-left", part="upright"))
        _, p = places_of(job, job.suspensions[0])
        body = np.array(
            [p["rod_inner"] + t * (p["rod_outer"] - p["rod_inner"]) for t in np.linspace(0, 1, 5)]
        )
        was: NDArray[np.float64] | None = None
        assert (
            rod.bends[0] == -50 and rod.bends[1] == 50 and rod.pose(0.0).points(body) == pytest.approx(body)
        )
        for place in np.arange(rod.span[0], rod.span[1], 2.0):
            up, rack = rod.stop(float(place))
            pose = rod.pose(float(place))
            assert pose.points(p["rod_inner"]) == pytest.approx(p["rod_inner"] + [0, rack, 0], abs=1e-6)
            outer = upright.pose(float(place)).points(p["rod_outer"])
            assert pose.points(p["rod_outer"]) == pytest.approx(outer, abs=1e-4)
            assert upright.pose(float(place)).points(p["wheel"])[2] - p["wheel"][2] == pytest.approx(
                up, abs=1e-6
            )
            now = pose.points(body)
            if was is not None:
                assert np.linalg.norm(now - was, axis=1).max() <= rod.speed(body) * 2.0 + 1e-9
            was = now

    def test_without_the_racks_travel_as_before(self, hatchback: Job) -> None:
        job = tyre(hatchback)
        plain = with_value(job, "suspensions/wheel-left/rack_travel_mm", None)
        mover = next(m for m in moving_items(plain) if m.name == "Left front tyre")
        assert mover.span == (-50.0, 50.0) and mover.words(30.0) == "the wheel 30 mm up"
        assert len(standing_items(plain)) == len(standing_items(job))
        assert (
            required_gaps(plain, job.powertrain.present).shape
            == required_gaps(job, job.powertrain.present).shape
        )


def _upright_by_steps(path: Any, up: float, rack: float) -> Any:
    """The upright at a height with the rack somewhere, gone to by small steps of its own."""
    from nimble_cradle.geometry.linkage import moved_along
    from nimble_cradle.geometry.pose import Pose

    steps = np.linspace(0.0, 1.0, 41)[:, None] * [up, rack]
    places = moved_along(path.linkage, steps)
    assert places.met.all()
    r, centre = places.rotation[0, -1], places.centre[0]
    return Pose(r, centre + places.translation[0, -1] - r @ centre)


def test_command_and_room(hatchback: Job, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    file = tmp_path / "a.cradle"
    store.write(file, hatchback)
    main(["suspension", str(file), "--json"])
    data = json.loads(capsys.readouterr().out)
    lock = data["wheels"][0]["lock"]
    assert (
        len(lock["after"]["rack_mm"]) == len(lock["after"]["turns_left_deg"]) and "At lock" in lock["words"]
    )
    assert data["wheels"][0]["half_shaft"]["after"]["lock"] > 25


def test_room(desk: Desk) -> None:
    """Said in its field, the rack's travel brings how far the wheel turns, and the curve of it."""
    desk.session.edit("Measured", with_value(desk.session.job, "suspensions", (UPRIGHT,)))
    desk.go("chassis")
    desk.sheets["chassis"].rooms.go("suspension")
    room = desk.sheets["chassis"].rooms.present
    assert isinstance(room, SuspensionRoom)
    unfold_all(room)
    desk.session.set_value("suspensions/left/rack_travel_mm", 40.0, "Rack")
    assert "At lock it turns" in room.said.text()
    room.which.setCurrentIndex(room.which.findData("turns"))
    room.refresh()
    assert room.chart.x_words == "rack to the left, mm" and room.chart.curves[0].x[-1] == 40.0
    desk.session.set_value("suspensions/left/rack_travel_mm", None, "Rack")
    assert "At lock" not in room.said.text() and room.which.findData("turns") == -1
