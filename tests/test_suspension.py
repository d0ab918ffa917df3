"""Wheels on their linkage against closed forms, mirrored and moved; rods by the thread tables; the room by
hand."""

from __future__ import annotations

import json
import math
import time
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from nimble_cradle.bay.bodies import standing_items
from nimble_cradle.bay.position import pose_of
from nimble_cradle.cli.main import main
from nimble_cradle.design.first_suspension import (
    KINDS,
    first_suspension,
    mirrored,
    with_other_side,
    with_rack_up,
    without,
)
from nimble_cradle.desk.stages.chassis.rods_room import RodsRoom
from nimble_cradle.desk.stages.chassis.suspension_room import SuspensionRoom
from nimble_cradle.desk.window import Desk
from nimble_cradle.fit.linked_axle import axle_found, axles_found
from nimble_cradle.fit.part_travel import part_travel
from nimble_cradle.fit.pivots import pivots_of
from nimble_cradle.fit.real_shaft import real_shaft
from nimble_cradle.fit.suspension import corner_found, corners_found, places_of
from nimble_cradle.fit.travel import moving_items
from nimble_cradle.job import store
from nimble_cradle.job.adjustable_rod import AdjustableRod
from nimble_cradle.job.base import JobError
from nimble_cradle.job.edits import added, with_value
from nimble_cradle.job.from_points import Follows
from nimble_cradle.job.job import Job
from nimble_cradle.job.suspension import AxleLink, LinkedAxle, Pivot, StrutCorner, WishboneCorner
from nimble_cradle.judge.rods import rod_questions, setting_of
from nimble_cradle.judge.suspension import across_of, suspension_questions
from nimble_cradle.strength.threaded_rod import rod_buckles, root_diameter
from numpy.typing import NDArray
from pypdf import PdfReader

from pressing import click, unfold_all

UPS = np.array([-60.0, -35.0, 0.0, 25.0, 60.0])


def at(x: float, y: float, z: float, moved: tuple[float, float, float] = (0, 0, 0)) -> Pivot:
    return Pivot(at=(x, y, z), moved=moved)


LEFT = WishboneCorner(
    id="left",
    name="Left front wheel",
    side="left",
    measured="tape",
    toe_deg=0.2,
    camber_deg=-0.7,
    lower_front=at(120, 300, -150),
    lower_rear=at(-130, 312, -152),
    lower_ball=at(5, 640, -163),
    upper_front=at(90, 380, 60),
    upper_rear=at(-110, 387, 57),
    upper_ball=at(-12, 600, 92),
    rod_inner=at(130, 322, -110),
    rod_outer=at(141, 618, -116),
    wheel=at(0, 702, -60),
)
"""Nothing of it is parallel, level or straight."""


def planar(lower: float, upper: float, ball: float, top: float) -> WishboneCorner:
    """A corner of which all turns about lines along the car: a four-bar seen from the front. lower, upper:
    heights of the inner pivots; ball, top: of the outer ones. Its rod lies on the lower arm's line."""
    return LEFT.model_copy(
        update={
            "toe_deg": 0.0,
            "camber_deg": 0.0,
            "lower_front": at(100, 300, lower),
            "lower_rear": at(-100, 300, lower),
            "lower_ball": at(0, 640, ball),
            "upper_front": at(100, 380, upper),
            "upper_rear": at(-100, 380, upper),
            "upper_ball": at(0, 610, top),
            "rod_inner": at(150, 300, lower),
            "rod_outer": at(150, 640, ball),
            "wheel": at(0, 700, -40),
        }
    )


def four_bar(lower: float, upper: float, ball: float, top: float, turn: float) -> tuple[float, float, float]:
    """The lower arm turned up by so many radians: camber in degrees (top out), rise and outward move of the
    wheel's middle, by two circles that meet (any book of mechanisms)."""
    a, d = complex(300, lower), complex(380, upper)
    b0, c0, w0 = complex(640, ball), complex(610, top), complex(700, -40)
    b = a + (b0 - a) * complex(math.cos(turn), math.sin(turn))
    r, s = abs(c0 - b0), abs(c0 - d)
    gap = abs(d - b)
    along = (r * r - s * s + gap * gap) / (2 * gap)
    away = math.sqrt(r * r - along * along)
    one = (d - b) / gap
    # the ball stays on the side of the line from ball to inner pivot where it was at ride
    sides = [b + one * complex(along, sign * away) for sign in (1, -1)]
    side = ((c0 - b0) / ((d - b0) / abs(d - b0))).imag
    c = next(p for p in sides if ((p - b) / one).imag * side > 0)
    spin = (c - b) / (c0 - b0)
    w = b + (w0 - b0) * spin
    camber = -math.degrees(math.atan2(spin.imag, spin.real))
    return camber, (w - w0).imag, (w - w0).real


class TestAgainstClosedForms:
    @pytest.mark.parametrize("shape", [(-150, 60, -160, 90), (-120, 90, -170, 70), (-150, 75, -150, 100)])
    def test_planar_four_bar(self, demo: Job, shape: tuple[float, float, float, float]) -> None:
        """Camber within 1e-6 degrees and the wheel's middle within 1e-6 mm, without steering."""
        job = with_value(demo, "suspensions", (planar(*shape),))
        _, points = places_of(job, job.suspensions[0])
        for turn in (-0.15, -0.06, 0.04, 0.13):
            camber, rise, aside = four_bar(*shape, turn)
            travel = part_travel(
                with_value(with_value(job, "vehicle/wheel_up_mm", 80.0), "vehicle/wheel_down_mm", 80.0),
                Follows(suspension="left", part="upright"),
            )
            pose = travel.pose(rise)
            out = pose.vectors((0.0, 1.0, 0.0))
            assert math.degrees(math.asin(-out[2])) == pytest.approx(camber, abs=1e-6)
            moved = pose.points(points["wheel"]) - points["wheel"]
            assert moved == pytest.approx((0.0, aside, rise), abs=1e-6)
            assert pose.vectors((1.0, 0.0, 0.0)) == pytest.approx((1.0, 0.0, 0.0), abs=1e-9)

    def test_parallel_and_equal(self, demo: Job) -> None:
        """Arms and rod all parallel and equally long: the upright neither turns nor leans."""
        corner = planar(-150, 75, -150, 75).model_copy(update={"upper_ball": at(0, 720, 75)})
        found = corner_found(demo, corner)
        assert np.abs(found.before.toe).max() < 1e-9 and np.abs(found.before.camber).max() < 1e-9
        sweep = 340 * (np.cos(np.arcsin(found.before.up / 340)) - 1)
        assert found.before.aside == pytest.approx(sweep, abs=1e-9)

    def test_strut_by_hand(self, demo: Job) -> None:
        """In the plane: the ball on its circle, the strut's line through its top, one unknown angle."""
        strut = StrutCorner(
            **{
                k: v
                for k, v in planar(-185, 0, -205, 0).model_copy(update={"id": "s"})
                if not k.startswith("upper") and k != "kind"
            },
            strut_low=at(0, 606, -62),
            strut_top=at(0, 555, 330),
        )
        found = corner_found(demo, strut)
        a, b0, top = complex(300, -185), complex(640, -205), complex(555, 330)
        low0, w0 = complex(606, -62), complex(700, -40)
        for k in (0, 5, 20, 24):
            camber = math.radians(-found.before.camber[k])  # how far it has turned, front view, ride 0
            spin = complex(math.cos(camber), math.sin(camber))
            # the strut's line turned so, through the fixed top; the ball's circle about the inner pivot
            line = (top - low0) * spin
            off = (b0 - low0) * spin - line * (((b0 - low0) / (top - low0)).real)
            foot = top + off
            u = line / abs(line)
            back = ((foot - a) / u).real
            far = math.sqrt(abs(b0 - a) ** 2 - ((foot - a) / u).imag ** 2)
            b = min((foot + u * (-back + s * far) for s in (1, -1)), key=lambda p: abs(p - b0))
            w = b + (w0 - b0) * spin
            assert (w - w0).imag == pytest.approx(found.before.up[k], abs=1e-5)

    def test_axle_on_equal_links(self, demo: Job) -> None:
        """Four links, the long ones parallel, level and equal: the axle keeps its nose and comes ahead as one
        link does."""
        links = [
            AxleLink(id=f"l{k}", name=f"Link {k}", car=at(-1900, y, z), axle=at(-2400, y, z))
            for k, (y, z) in enumerate(((420, -120), (-420, -120), (30, 60)))
        ]
        cross = AxleLink(id="x", name="Cross rod", car=at(-2460, 500, 0), axle=at(-2460, -480, 0))
        axle = LinkedAxle(
            id="a",
            name="Rear axle",
            left_wheel=at(-2400, 710, -60),
            right_wheel=at(-2400, -690, -60),
            links=(*links, cross),
        )
        found = axle_found(demo, axle)
        up = found.before.up
        assert np.abs(found.before.nose).max() < 1e-9
        aside = 980 - np.sqrt(980**2 - up**2 - found.before.ahead**2)
        assert found.before.left == pytest.approx(aside, abs=1e-7)
        assert found.before.ahead == pytest.approx(500 - np.sqrt(500**2 - up**2 - aside**2), abs=1e-7)
        five = axle.model_copy(
            update={
                "links": (
                    *links,
                    cross,
                    AxleLink(id="y", name="Fifth", car=at(-2100, -60, 90), axle=at(-2390, -60, 90)),
                )
            }
        )
        forced = axle_found(demo, five).before.forced
        # the fifth is shorter: on its own it would come ahead by 6.3 mm, the others by 3.6
        assert 0.2 < forced < 2.7

    @settings(max_examples=12)
    @given(st.tuples(*[st.floats(-15, 15) for _ in range(6)]))
    def test_every_rod_keeps_its_length(self, by: tuple[float, ...]) -> None:
        corner = LEFT.model_copy(
            update={
                "lower_ball": at(5 + by[0], 640 + by[1], -163 + by[2]),
                "rod_inner": at(130 + by[3], 322 + by[4], -110 + by[5]),
            }
        )
        one = with_value(JOB, "suspensions", (corner,))
        _, p = places_of(one, corner)
        for part, inner, outer in (
            ("lower arm", "lower_front", "lower_ball"),
            ("upper arm", "upper_rear", "upper_ball"),
            ("tie rod", "rod_inner", "rod_outer"),
        ):
            upright = part_travel(one, Follows(suspension="left", part="upright"))
            own = part_travel(one, Follows(suspension="left", part=part))
            for up in (-55.0, 38.0):
                # the part's own pose takes its inner end nowhere and its outer end where the upright has it
                assert own.pose(up).points(p[inner]) == pytest.approx(p[inner], abs=1e-7)
                assert own.pose(up).points(p[outer]) == pytest.approx(
                    upright.pose(up).points(p[outer]), abs=1e-5
                )
                assert upright.pose(up).points(p["wheel"])[2] - p["wheel"][2] == pytest.approx(up, abs=1e-7)


JOB = store.read(Path(__file__).parents[1] / "src" / "nimble_cradle" / "demo" / "light_truck").job


class TestMoved:
    def test_signs(self, demo: Job) -> None:
        """A rod behind the axle whose outer ball comes in turns the wheel's front out; before the axle, in. A
        short upper arm leans the wheel in as it rises. As seen from the car, not from the code."""
        behind = planar(-150, 60, -150, 60).model_copy(
            update={"rod_inner": at(-150, 500, -150), "rod_outer": at(-150, 640, -150)}
        )
        # its short rod pulls its ball further in than the arm does, both ways: front out, so toe goes down
        found = corner_found(demo, behind).before
        assert found.toe[0] < -0.1 and found.toe[-1] < -0.1
        ahead = behind.model_copy(update={"rod_inner": at(150, 500, -150), "rod_outer": at(150, 640, -150)})
        assert corner_found(demo, ahead).before.toe[-1] > 0.1
        assert found.camber[-1] < -0.1 and found.camber[0] < 0.0  # 230 of the upper arm against 340

    def test_mirrored_car(self, demo: Job) -> None:
        left = LEFT.model_copy(update={"lower_front": at(120, 300, -150, (4, -25, -30))})
        right = mirrored(left, "right")
        one, two = corner_found(demo, left), corner_found(demo, right)
        for name in ("toe", "camber", "aside"):
            assert getattr(one.after, name) == pytest.approx(getattr(two.after, name), abs=1e-9)
        assert one.after.toe_doubt == pytest.approx(two.after.toe_doubt, rel=1e-3, abs=1e-9)
        assert one.rack_up == pytest.approx(two.rack_up) and right.wheel.at[1] == -702

    def test_rack_gives_the_old_steering_back(self, demo: Job) -> None:
        """Pivots 30 mm down; the rack moved as told, worked out anew, steers as before; and so the ball."""
        down = {key: LEFT.model_dump()[key] | {"moved": (0, 0, -30)} for key in ("lower_front", "lower_rear")}
        corner = LEFT.model_copy(update={k: Pivot(**v) for k, v in down.items()})
        found = corner_found(demo, corner)
        assert found.before.steers == pytest.approx(
            np.gradient(found.before.toe, found.before.up)[12] * 10, rel=0.02
        )
        assert abs(found.after.steers - found.before.steers) > 0.2
        assert found.rack_up is not None and found.ball_up is not None
        for key, by in (("rod_inner", found.rack_up), ("rod_outer", found.ball_up)):
            pivot = getattr(corner, key)
            mended = corner.model_copy(update={key: pivot.model_copy(update={"moved": (0, 0, by)})})
            assert corner_found(demo, mended).after.steers == pytest.approx(found.before.steers, abs=1e-6)
        right = mirrored(corner, "right")
        job = with_value(demo, "suspensions", (corner, right))
        both = with_rack_up(job, (corner, right), found.rack_up)
        assert not suspension_questions(both)

    def test_arms_to_cut(self, demo: Job) -> None:
        """A pivot 50 mm in and the wheel 25 mm out: the arm is longer by 75, its leg by Pythagoras."""
        moved = {
            key: getattr(LEFT, key).model_copy(update={"moved": (0, -50, 0)})
            for key in ("lower_front", "lower_rear")
        }
        corner = LEFT.model_copy(update={**moved, "wheel": at(0, 702, -60, (0, 25, 0))})
        found = corner_found(demo, corner)
        leg = next(r for r in found.rods if r.name == "Lower arm, front pivot to ball")
        assert leg.now == pytest.approx(math.dist((120, 250, -150), (5, 665, -163)))
        straight = next(r for r in found.rods if r.name.startswith("Lower arm, square"))
        assert straight.now - straight.was == pytest.approx(75, abs=0.2)
        rod = next(r for r in found.rods if r.name.startswith("Tie rod"))
        assert rod.now == pytest.approx(math.dist((130, 322, -110), (141, 643, -116)))

    def test_doubt_by_moving_every_point(self, demo: Job) -> None:
        """Each number of each point moved by 1.5 mm both ways, the whole worked out anew."""
        corner = LEFT.model_copy(update={"toe_deg": 0.0})
        base = corner_found(demo, corner).before
        total = np.zeros_like(base.toe)
        for key, (_, pivot) in pivots_of(corner).items():
            for axis in range(3):
                ends = []
                for by in (-1.5, 1.5):
                    there = tuple(v + by * (k == axis) for k, v in enumerate(pivot.at))
                    bent = corner.model_copy(update={key: Pivot(at=there)})
                    ends.append(corner_found(demo, bent).before.toe)
                total += ((ends[1] - ends[0]) / 2) ** 2
        assert base.toe_doubt == pytest.approx(np.sqrt(total), rel=0.01, abs=1e-6)

    def test_fast(self, demo: Job) -> None:
        """The asked 50 ms stand in bench; here only that nothing goes wild."""
        began = time.process_time()
        corner_found(demo, LEFT)
        assert time.process_time() - began < 1.0


class TestSaid:
    def test_topples(self, demo: Job) -> None:
        """An upper arm too short to reach all the travel is said, with how far it goes."""
        short = planar(-150, 60, -160, 90).model_copy(
            update={"upper_front": at(100, 585, 88), "upper_rear": at(-100, 585, 88)}
        )
        job = with_value(demo, "suspensions", (short,))
        (said,) = [p for p in suspension_questions(job) if "topples" in p.sentence]
        (found,) = corners_found(job)
        assert not isinstance(found, JobError)
        low, high = found.before.reach
        assert f"{low:.0f} and {high:+.0f}" in said.sentence and -60 < low < 0 < high < 60
        item = demo.items[0].id
        rider = with_value(job, f"items/{item}/motion", Follows(suspension="left"))
        with pytest.raises(JobError, match="topples"):
            moving_items(rider)

    @pytest.mark.parametrize(
        ("changed", "said"),
        [
            ({"rod_outer": at(130, 322, -110)}, "one place"),
            ({"lower_rear": at(120, 300, -150)}, "one place"),
            ({"wheel": Pivot(at=(0, 700, 0), point="nowhere")}, "not in the survey"),
        ],
    )
    def test_no_linkage(self, demo: Job, changed: dict[str, Any], said: str) -> None:
        job = with_value(demo, "suspensions", (LEFT.model_copy(update=changed),))
        (found,) = corners_found(job)
        assert isinstance(found, JobError) and said in found.message
        assert any(said in p.sentence for p in suspension_questions(job))

    def test_one_side_only(self, demo: Job) -> None:
        moved = LEFT.model_copy(update={"lower_front": at(120, 300, -150, (0, -9, 0))})
        alone = with_value(demo, "suspensions", (moved,))
        assert any("other side is not measured" in p.sentence for p in suspension_questions(alone))
        right = mirrored(LEFT, "right")
        unlike = with_value(demo, "suspensions", (moved, right))
        assert sum("pull to one side" in p.sentence for p in suspension_questions(unlike)) == 1
        alike = with_other_side(unlike, moved, right)
        assert pivots_of(alike.suspensions[1])["lower_front"][1].moved == (0, 9, 0)
        assert not any("side" in p.sentence for p in suspension_questions(alike))
        assert across_of(alike, moved) is alike.suspensions[1]
        made = with_other_side(alone, moved, None).suspensions[1]
        assert made.measured == "guess" and made.name == "Right front wheel"

    def test_links_that_fight(self, demo: Job) -> None:
        axle = first_suspension(demo, "live axle")
        assert isinstance(axle, LinkedAxle)
        lower = axle.links[0]
        fifth = AxleLink(id="fifth", name="Fifth", car=at(-2900, 0, 300), axle=at(-3080, 0, 100))
        job = with_value(demo, "suspensions", (axle.model_copy(update={"links": (*axle.links, fifth)}),))
        assert any("fight one another" in p.sentence for p in suspension_questions(job))
        fine = with_value(demo, "suspensions", (axle,))
        assert not any("fight" in p.sentence for p in suspension_questions(fine))
        assert lower.name == "Lower left link"

    @pytest.mark.parametrize("kind", list(KINDS))
    def test_what_is_begun_with_moves(self, demo: Job, kind: str) -> None:
        """What is added is a linkage that goes through its travel, told as a guess."""
        job = added(demo, "suspensions", first_suspension(demo, kind))
        found = [*corners_found(job), *axles_found(job)][0]
        assert not isinstance(found, JobError) and found.before.whole
        assert any("guesses" in p.sentence for p in suspension_questions(job))


class TestHalfShaft:
    def test_straight_up_by_hand(self, hatchback: Job) -> None:
        """A wheel that goes straight up, on equal parallel arms as long as the car: angle and plunge of the
        plain sum, which takes the joint straight up and down."""
        hubs, seats = hatchback.vehicle.hubs, hatchback.powertrain.gearbox.seats
        assert hubs is not None and seats is not None
        far = {
            key: at(x, -9000, z)
            for key, x, z in (
                ("lower_front", 120, -200),
                ("lower_rear", -130, -200),
                ("upper_front", 90, 60),
                ("upper_rear", -110, 60),
                ("rod_inner", 130, -100),
            )
        }
        near = {
            key: at(x, 640, z)
            for key, x, z in (("lower_ball", 0, -200), ("upper_ball", 0, 60), ("rod_outer", 130, -100))
        }
        corner = LEFT.model_copy(update={**far, **near, "wheel": at(0, 700, -138)})
        both = real_shaft(hatchback, corner)
        assert both is not None and both[0] == both[1]
        inner = pose_of(hatchback.position).points(seats[0])
        runs = [np.add(hubs[0], (0, 0, up)) - inner for up in np.linspace(-50, 50, 101)]
        angles = [math.degrees(math.atan2(math.hypot(r[0], r[2]), abs(r[1]))) for r in runs]
        longs = [float(np.linalg.norm(r)) for r in runs]
        assert both[0].most == pytest.approx(max(angles), abs=0.02)
        assert both[0].ride == pytest.approx(angles[50], abs=1e-9)
        assert both[0].plunge == pytest.approx(max(longs) - min(longs), abs=0.3)

    def test_which_wheel(self, demo: Job, hatchback: Job) -> None:
        left, right = hatchback.suspensions
        assert isinstance(left, StrutCorner) and isinstance(right, StrutCorner)
        one, two = real_shaft(hatchback, left), real_shaft(hatchback, right)
        assert one is not None and two is not None and one != two  # its transaxle is off the middle
        # an arm that swings draws the joint in at both ends: it plunges more than straight up
        assert one[1].plunge > 1.0
        behind = left.model_copy(update={"wheel": at(-2000, 702, -140)})
        assert real_shaft(hatchback, behind) is None and real_shaft(demo, LEFT) is None


class TestItemsThatFollow:
    def test_arms_of_the_demo(self, hatchback: Job) -> None:
        """The lower arms go with the linkage: at every height the ball of the arm is where the wheel has it,
        and no point goes faster than is said."""
        movers = {m.name: m for m in moving_items(hatchback)}
        arm = movers["Left lower arm"]
        corner = hatchback.suspensions[0]
        _, p = places_of(hatchback, corner)
        assert arm.span == (-50.0, 50.0)
        assert "wheel 30 mm up" in arm.words(30.0)
        was: NDArray[np.float64] | None = None
        body = np.vstack([part.triangles[0] for part in arm.bodies.parts])
        for up in np.linspace(-50, 50, 41):
            pose = arm.pose(float(up))
            ball = pose.points(p["lower_ball"])
            far = np.linalg.norm(ball - p["lower_front"]) - np.linalg.norm(p["lower_ball"] - p["lower_front"])
            assert abs(far) < 1e-6
            now = pose.points(body)
            if was is not None:
                assert np.linalg.norm(now - was, axis=1).max() <= arm.speed * 2.5 + 1e-9
            was = now
        assert arm.pose(50.0).points(p["lower_ball"])[2] > p["lower_ball"][2] + 40

    def test_taken_out_with_a_rider(self, hatchback: Job) -> None:
        with pytest.raises(JobError, match="Left lower arm goes with it"):
            without(hatchback, "wheel-left")
        free = with_value(hatchback, "items/arm-left/motion", None)
        assert len(without(free, "wheel-left").suspensions) == 1
        items = [i.id for i in standing_items(hatchback)]
        assert "arm-left" in items
        with pytest.raises(JobError, match="which is not in the job"):
            with_value(hatchback, "suspensions", ())


ROD = AdjustableRod(id="rod", name="Tie rod", rating_kn=40.0, jam_nuts="both")


class TestRods:
    def test_turns_and_range(self) -> None:
        """5/8-18: 25.4/18 a turn at each end; 15.875 of thread has to be in (1 d)."""
        s = setting_of(ROD)
        assert s.turn == pytest.approx(2 * 25.4 / 18)
        assert s.engaged == pytest.approx(63 - (320 - 240) / 2)
        assert s.longest == pytest.approx(240 + 2 * (63 - 15.875))
        assert s.shortest == pytest.approx(240 + 2 * (63 - (40 - 15.875 / 2)))
        assert s.turns_out == pytest.approx((s.longest - 320) / s.turn)
        light = ROD.model_copy(update={"of": "aluminium", "yield_mpa": 240.0})
        assert setting_of(light).longest == pytest.approx(240 + 2 * (63 - 1.5 * 15.875))

    def test_buckling_figures(self) -> None:
        """M16 x 1.5 has a root of 14.160 mm (ISO 724's table, from memory); Euler by hand on it, Johnson
        where that is more than half of what squashes it."""
        assert root_diameter("M16x1.5") == pytest.approx(14.160, abs=1e-3)
        for long in (200, 900):
            euler = math.pi**2 * 210e3 * math.pi / 64 * 14.160**4 / long**2
            squash = 600 * math.pi / 4 * 14.160**2
            want = euler if euler < squash / 2 else squash * (1 - squash / (4 * euler))
            carries, what = rod_buckles("M16x1.5", long, 40.0, 5.0, 600.0)
            assert carries == pytest.approx(want, rel=1e-3) and what == "thread"
            assert (euler < squash / 2) == (long == 900)
        thin, gives = rod_buckles("5/8-18", 600, 14.0, 1.0, 235.0)
        assert gives == "body" and thin < rod_buckles("5/8-18", 600, 40.0, 5.0, 235.0)[0]

    @pytest.mark.parametrize(
        ("changed", "said"),
        [
            ({"long_mm": 340.0}, "mm of thread is in its body"),
            ({"long_mm": 290.0}, "does not go in so far"),
            ({"hands": "both right"}, "right-hand"),
            ({"rating_kn": None}, "not known"),
            ({"rating_kn": 14.0}, "3 times 5"),
            ({"jam_nuts": "unsaid"}, "jam nut"),
            ({"load_kn": 20.0, "rating_kn": 99.0}, "buckles at"),
            ({"thread_mm": 20.0}, "no thread to set it by"),
        ],
    )
    def test_what_is_asked(self, demo: Job, changed: dict[str, Any], said: str) -> None:
        assert not rod_questions(with_value(demo, "rods", (ROD,)))
        (problem,) = rod_questions(with_value(demo, "rods", (ROD.model_copy(update=changed),)))
        assert said in problem.sentence

    def test_the_setting_sheet(
        self, demo: Job, desk: Desk, tmp_path: Path, capsys: pytest.CaptureFixture[str]
    ) -> None:
        """Both rods with their own figures, nothing clipped, the caution; the same by the command line and in
        the room; a job without rods says so."""
        other = ROD.model_copy(update={"id": "right", "name": "Right tie rod", "long_mm": 331.0})
        job = with_value(demo, "rods", (ROD, other))
        store.write(tmp_path / "r.cradle", job)
        sheet = tmp_path / "rods.pdf"
        assert main(["suspension", str(tmp_path / "r.cradle"), "--sheet", str(sheet)]) == 0
        text = PdfReader(sheet).pages[0].extract_text()
        for told in ("5/8-18", "320.0 mm", "331.0 mm", "2.82 mm", "23.0 mm of 15.9 mm", "17.5 mm of 15.9 mm"):
            assert told in text, told
        assert "..." not in text and "licensed engineer or inspector" in text and "Camber" in text
        desk.session.edit("Rods", with_value(desk.session.job, "rods", (ROD, other)))
        desk.go("chassis")
        rooms = desk.sheets["chassis"].rooms
        rooms.go("rods")
        assert isinstance(rooms.present, RodsRoom)
        rooms.present.print_to(tmp_path / "room.pdf")
        printed = PdfReader(tmp_path / "room.pdf").pages[0].extract_text()
        assert printed == text.replace(job.name, desk.session.job.name)
        store.write(tmp_path / "none.cradle", demo)
        capsys.readouterr()
        assert main(["suspension", str(tmp_path / "none.cradle"), "--sheet", str(tmp_path / "n.pdf")]) == 1
        assert "no adjustable rod" in capsys.readouterr().err


def test_command(hatchback: Job, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    path = tmp_path / "h.cradle"
    store.write(path, with_value(hatchback, "rods", (ROD,)))
    assert main(["suspension", str(path), "--json"]) == 0
    data = json.loads(capsys.readouterr().out)
    assert [w["id"] for w in data["wheels"]] == ["wheel-left", "wheel-right"]
    left = data["wheels"][0]
    assert 2 < left["rack_up_mm"] < 8 and len(left["after"]["toe_deg"]) == 25
    assert data["rods"][0]["turn_mm"] == pytest.approx(2.822, abs=1e-3)
    main(["suspension", str(path)])
    assert "licensed engineer" in capsys.readouterr().out


def test_room(desk: Desk, qtbot: Any) -> None:
    """By the mouse: a wheel is added, its point moved, the rack put right, the other side made, all taken
    out again."""
    desk.go("chassis")
    rooms = desk.sheets["chassis"].rooms
    rooms.go("suspension")
    room = rooms.present
    assert isinstance(room, SuspensionRoom)
    assert not room.fields.isVisible()
    room.kinds.setCurrentIndex(2)
    room.add()
    room = desk.sheets["chassis"].rooms.present
    assert isinstance(room, SuspensionRoom)
    unfold_all(room)
    one = desk.session.job.suspensions[0]
    assert isinstance(one, WishboneCorner)
    desk.session.set_value(f"suspensions/{one.id}/lower_front/moved", (0.0, 0.0, -25.0), "Moved")
    desk.session.set_value(f"suspensions/{one.id}/lower_rear/moved", (0.0, 0.0, -25.0), "Moved")
    assert room.rack_button.isVisible() and len(room.chart.curves) == 2
    click(desk, "Other side the same")
    assert len(desk.session.job.suspensions) == 2
    room._choose(one.id)
    click(desk, "Move the rack so")
    left, right = desk.session.job.suspensions
    assert isinstance(left, WishboneCorner) and isinstance(right, WishboneCorner)
    assert left.rod_inner.moved[2] == right.rod_inner.moved[2] != 0
    assert not room.rack_button.isVisible()
    room.fields._choose("wheel")
    assert "wheel" in room.fields.chosen
    click(desk, "Take it out")
    click(desk, "Take it out")
    assert not desk.session.job.suspensions and not room.fields.isVisible()
