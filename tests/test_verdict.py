"""The whole judgement of a job: gaps, position, driveline, balance, tell-tales, and what is remembered."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from nimble_cradle.bay.position import (
    levelled,
    move_words,
    nudged,
    pivot_point,
    pose_of,
    position_of,
    position_words,
    turn_words,
)
from nimble_cradle.demo import demo_folder
from nimble_cradle.design.first_mounts import with_eye_on_plate
from nimble_cradle.desk.bars import stage_word
from nimble_cradle.families.arm_run import arm_run
from nimble_cradle.fit.balance import front_share
from nimble_cradle.fit.driveline import driveline
from nimble_cradle.fit.gaps import gaps_at_rest
from nimble_cradle.fit.joints import compound_angle, propshaft
from nimble_cradle.fit.lowest import lowest_point
from nimble_cradle.geometry.solids import ConvexPart
from nimble_cradle.job import store
from nimble_cradle.job.bay import Item
from nimble_cradle.job.edits import added, removed, with_value
from nimble_cradle.job.job import Job
from nimble_cradle.job.powertrain import Position
from nimble_cradle.job.setting import Propshaft
from nimble_cradle.job.shapes import Box
from nimble_cradle.job.survey import Survey
from nimble_cradle.judge.gaps import made_gaps, rest_gaps, running_gaps
from nimble_cradle.judge.verdict import stage_states, verdict
from nimble_cradle.shop.report import report_data
from nimble_cradle.survey.made import placed_items
from nimble_cradle.telltales import tell_tales
from nimble_cradle.units import Display

from narrowed import bonded


def untaped(job: Job) -> Job:
    """The job with its taped items as plain shapes, and no survey."""
    items = tuple(i.model_copy(update={"made": None}) for i in placed_items(job))
    return with_value(with_value(job, "items", items), "survey", Survey())


def margins(job: Job) -> dict[tuple[str, str], float]:
    return {(g.piece, g.item): g.margin for g in verdict(job).gaps}


class TestTheDemoStory:
    def test_it_starts_a_little_wrong(self, demo: Job) -> None:
        v = verdict(demo)
        states = {(g.piece, g.item): (g.state_at_rest, g.state) for g in v.gaps}
        assert states["fan", "radiator"] == ("fouls", "fouls")
        assert states["sump-shallow", "drag-link"][1] == "tight"
        assert states["sump-shallow", "front-crossmember"] == ("clear", "too tight")
        assert (
            v.hardest is not None
            and (v.hardest.part, v.hardest.code) == ("left", "strain")
            and v.hardest.use > 1
        )
        assert [f.use > 1 for f in v.findings].count(True) == 1 and not v.holds
        assert [(p.stage, "out of line" in p.sentence) for p in v.problems] == [("survey", True)]
        assert {m.mount: m.block_to_bush for m in v.mounts} == {
            "left": "does not hold",
            "right": "holds",
            "gearbox": "holds",
        }
        assert (
            v.driveline is not None and v.driveline.holds and v.lowest is not None and v.lowest.above_line > 0
        )

    def test_moving_back_and_a_harder_bush_put_it_right(self, demo: Job) -> None:
        moved = with_value(demo, "position", nudged(demo, (-27, 0, 0)))
        assert margins(moved)["fan", "radiator"] > 0 > margins(moved)["sump-shallow", "front-crossmember"]
        cured = with_value(moved, "mounts/left/bush/hardness_shore_a", 46.0)
        assert verdict(cured).open_questions, "a reading is still out of line"
        cured = with_value(cured, "position", nudged(cured, (0, 0, 4)))
        asked = [p.sentence for p in verdict(cured).problems if p.stage == "mounts"]
        assert len(asked) == 2 and "from its cross" in asked[0] and "off a 8 mm plate" in asked[1], asked
        cured = with_eye_on_plate(cured, cured.mounts[2])
        cured = with_value(cured, "survey/readings/r47/used", False)
        v = verdict(cured)
        assert v.block_to_bush and not v.open_questions, stage_states(cured, v)
        assert v.holds and [m.bush_to_rail for m in v.mounts] == ["holds", "holds", "holds"]
        loose = verdict(with_value(cured, "crossmember/plates", None))
        assert not loose.holds, "nothing is known of the crossmember's ends"
        assert [m.bush_to_rail for m in loose.mounts] == ["holds", "holds", "open"]
        assert v.rests_on[0] == "height of the centre of gravity" and not v.not_said
        assert all("yield strength of" in name for name in v.rests_on[1:])
        assert margins(with_value(cured, "position", nudged(cured, (-16, 0, 0))))["head", "wiper-motor"] < 0

    def test_tell_tales_speak_of_what_is_so(self, demo: Job) -> None:
        tales = {t.id: t for t in tell_tales(demo, verdict(demo))}
        assert list(tales) == ["margin", "lowest", "driveline", "share", "hardest", "idle"]
        assert (
            tales["margin"].word == "fouls"
            and "short" in tales["margin"].value
            and tales["hardest"].state == "fails"
        )
        states = {s.id: s for s in stage_states(demo, verdict(demo))}
        assert states["position"].state == states["mounts"].state == states["pack"].state == "open questions"
        assert states["bay"].state == states["powertrain"].state == "holds"
        assert states["crossmember"].state == "holds" and not states["crossmember"].questions
        bare = with_value(demo, "crossmember/plates", None)
        (crossmember,) = [s for s in stage_states(bare, verdict(bare)) if s.id == "crossmember"]
        assert crossmember.questions == (
            "Crossmember: its end plates and their bolts to the rails are not described yet.",
        )
        # the yield strengths of both rails are assumed, and asked for with the mounts that stand on them
        assert (states["crossmember"].leans, states["chassis"].leans, states["mounts"].leans) == (2, 2, 0)
        assert stage_word(states["chassis"]) == "on 2 assumed"
        known = with_value(demo, "said", {**demo.said, "items/rail-left/host/yield_mpa": "measured"})
        (chassis,) = [s for s in stage_states(known, verdict(known)) if s.id == "chassis"]
        assert stage_word(chassis) == "on 1 assumed"
        assert (states["bay"].measured, states["bay"].assumed, states["bay"].asked_for) == (10, 1, 11)
        assert tales["share"].word == "as wished" and tales["hardest"].word == "does not hold"


class TestGaps:
    def test_margin_is_what_the_design_says(self, demo: Job) -> None:
        for g in verdict(demo).gaps:
            running = g.still if g.running is None else g.running
            assert running <= g.gap + 1e-9
            assert g.margin == pytest.approx(g.gap - g.required - (g.gap - running) - g.give_or_take)
            made = "." in g.piece or "." in g.item
            assert g.running is not None or made, "only what moves together is not measured running"
        table = {c.id: c.required_mm for c in demo.clearances}

        def at_rest(job: Job) -> float:
            rows = {(g.piece, g.item): g for g in verdict(job).gaps}
            return rows["turbo", "battery-box"].margin_at_rest

        turbo = next(g for g in verdict(demo).gaps if (g.piece, g.item) == ("turbo", "battery-box"))
        assert turbo.required == max(table["hot"], table["sheet"])
        fan = next(g for g in verdict(demo).gaps if (g.piece, g.item) == ("fan", "radiator"))
        assert fan.give_or_take == pytest.approx(math.hypot(1.5, 1.5))
        wider = with_value(demo, "clearances/hot/required_mm", 40.0)
        assert at_rest(wider) == pytest.approx(turbo.margin_at_rest - 8)
        own = with_value(demo, "items/battery-box/required_mm", 5.0)
        assert at_rest(own) == pytest.approx(turbo.margin_at_rest + 27)

    def test_what_is_taken_out_or_left_off_has_no_gap(self, demo: Job) -> None:
        assert not any(
            g.item == "radiator" for g in verdict(with_value(demo, "items/radiator/fate", "remove")).gaps
        )
        assert not any(
            g.piece == "fan" for g in verdict(with_value(demo, "powertrain/pieces/fan/fitted", False)).gaps
        )
        assert not any(g.item == "radiator" for g in verdict(removed(demo, "items/radiator")).gaps)

    @given(st.floats(-25, 25), st.floats(-8, 8), st.floats(-8, 12), st.floats(-2, 2))
    def test_moving_bay_and_engine_together_changes_no_gap(
        self, x: float, y: float, z: float, roll: float
    ) -> None:
        job = untaped(store.read(demo_folder("light-truck")).job)
        job = with_value(job, "position", nudged(job, (x, y, z), roll))
        shift = np.array([130.0, -40.0, 70.0])
        items = tuple(
            i.model_copy(update={"shapes": tuple(_moved(s, shift) for s in i.shapes)}) for i in job.items
        )
        p = job.position
        other = with_value(
            with_value(job, "items", items),
            "position",
            p.model_copy(update={"x": p.x + shift[0], "y": p.y + shift[1], "z": p.z + shift[2]}),
        )
        for mount in job.mounts:
            path = f"mounts/{mount.id}/bush/centre"
            other = with_value(other, path, tuple(np.array(mount.bush.centre) + shift))
        first, second = rest_gaps(job), rest_gaps(other)
        one = {(g.piece, g.item): g.gap for g in first}
        for g in second:
            if (g.piece, g.item) in one:
                assert g.gap == pytest.approx(
                    one[g.piece, g.item], abs=0.05 if "tunnel" in g.item and g.gap < 0 else 5e-3
                )

    def test_left_and_right_swap(self, demo: Job) -> None:
        """The whole bay and engine mirrored give the same gaps."""
        demo = untaped(demo)
        flip = np.array([1.0, -1.0, 1.0])
        items = tuple(
            i.model_copy(update={"shapes": tuple(_mirrored(s, flip) for s in i.shapes)})
            for i in demo.items
            if i.id != "tunnel"
        )
        pieces = tuple(
            p.model_copy(update={"shapes": tuple(_mirrored(s, flip) for s in p.shapes)})
            for p in demo.powertrain.pieces
        )
        bare = with_value(with_value(demo, "crossmember", None), "mounts", ())
        other = with_value(with_value(bare, "items", items), "powertrain/pieces", pieces)
        plain = with_value(bare, "items", tuple(i for i in demo.items if i.id != "tunnel"))
        first = {(g.piece, g.item): g.gap for g in rest_gaps(plain)}
        second = {(g.piece, g.item): g.gap for g in rest_gaps(other)}
        assert first.keys() == second.keys() and all(
            second[k] == pytest.approx(first[k], abs=5e-3) for k in first
        )

    def test_what_is_remembered_is_what_a_fresh_start_says(self, demo: Job) -> None:
        job = demo
        for path, value in (
            ("position/x", -262.0),
            ("mounts/left/bush/hardness_shore_a", 47.0),
            ("items/radiator/fate", "remove"),
            ("loads/bump_g", 2.5),
            ("crossmember/section/wall_mm", 4.0),
            ("clearances/metal/required_mm", 9.0),
        ):
            job = with_value(job, path, value)
            warm = report_data(job)
            fresh = store.job_from_data(
                __import__("json").loads(store.job_text(job)), {m.name: m.data for m in job.meshes}
            )
            assert fresh == job and report_data(fresh) == warm

    def test_what_is_made_for_the_job_has_gaps_too(self, demo: Job) -> None:
        """A mount's plate, arm and eye move with the engine; an item put against the arm is told with the
        arm's name."""
        run = arm_run(demo.mounts[0], pose_of(demo.position))
        middle = (run.root + run.aim) / 2
        post = Item(
            id="post",
            name="Post",
            neighbour="metal",
            measured="calipers",
            shapes=(Box(centre=(middle[0] + 25 + 30, middle[1], middle[2]), size=(40, 8, 8)),),
        )
        job = added(demo, "items", post)
        gap = next(g for g in rest_gaps(job) if (g.piece, g.item) == ("left.arm", "post"))
        assert gap.gap == pytest.approx(55 - 57 / 2 - 20, abs=0.3) and "Left engine mount" in gap.piece_name
        ran = next(g for g in made_gaps(job) if (g.piece, g.item) == ("left.arm", "post"))
        assert ran.running is not None and ran.running < gap.gap
        back = with_value(job, "items/post/shapes/0/centre", (middle[0], middle[1], middle[2]))
        assert next(g for g in rest_gaps(back) if g.piece == "left.arm").gap < -20
        armless = with_value(job, "mounts/left/arm", None)
        assert not any(g.item == "post" and g.piece == "left.arm" and g.gap < 5 for g in rest_gaps(armless))

    def test_an_empty_bay_and_an_empty_powertrain_are_said(self, demo: Job) -> None:
        ids = {item.id for item in demo.items}
        assert not any(g.item in ids for g in verdict(with_value(demo, "items", ())).gaps)
        bare = with_value(
            demo,
            "powertrain/pieces",
            tuple(p.model_copy(update={"fitted": False}) for p in demo.powertrain.pieces),
        )
        said = [p.sentence for p in verdict(bare).problems]
        pieces = {piece.id for piece in demo.powertrain.pieces}
        assert any("mass" in s for s in said)
        assert not any(g.piece in pieces for g in verdict(bare).gaps)
        states = {s.id: s.state for s in stage_states(bare, verdict(bare))}
        assert states["mounts"] == "open questions"

    def test_a_mount_without_bolts_is_not_half_judged(self, demo: Job) -> None:
        v = verdict(with_value(untaped(demo), "mounts/right/pad/holes", ()))
        assert [p.place for p in v.problems] == ["mounts/right/pad/holes"] and not any(
            f.part == "right" for f in v.findings
        )
        assert any(f.part == "left" for f in v.findings) and not v.holds


def _moved(shape: Any, by: np.ndarray) -> Any:
    names = {"box": ("centre",), "bar": ("start", "end"), "prism": ("origin",), "mesh": ("at",), "slab": ()}[
        shape.kind
    ]
    update: dict[str, object] = {n: tuple(np.array(getattr(shape, n)) + by) for n in names}
    if shape.kind == "slab":
        update["corners"] = tuple(tuple(np.array(c) + by) for c in shape.corners)
    return shape.model_copy(update=update)


def _mirrored(shape: Any, flip: np.ndarray) -> object:
    kind = shape.kind
    names = {"box": ("centre",), "bar": ("start", "end"), "prism": ("origin", "along", "up"), "slab": ()}[
        kind
    ]
    update: dict[str, object] = {n: tuple(np.array(getattr(shape, n)) * flip) for n in names}
    if kind == "slab":
        update["corners"] = tuple(tuple(np.array(c) * flip) for c in shape.corners)
    if kind == "prism":
        update["outline"] = tuple((-u, v) for u, v in shape.outline)
    return shape.model_copy(update=update)


class TestPosition:
    @given(
        st.floats(-20, 20),
        st.floats(-20, 20),
        st.floats(-20, 20),
        st.floats(-3, 3),
        st.floats(-3, 3),
        st.floats(-3, 3),
        st.sampled_from(["crank-nose", "gearbox-mount", "engine-centre"]),
    )
    def test_a_nudge_and_back_is_where_it_was_and_the_pivot_stays(
        self, x: float, y: float, z: float, roll: float, pitch: float, yaw: float, pivot: str
    ) -> None:
        job = with_value(store.read(demo_folder("light-truck")).job, "position/pivot", pivot)
        there = with_value(job, "position", nudged(job, (x, y, z)))
        back = nudged(there, (-x, -y, -z))
        assert back.model_dump(exclude={"pivot"}) == pytest.approx(
            job.position.model_dump(exclude={"pivot"}), abs=2e-3
        )
        turned = with_value(job, "position", nudged(job, roll=roll, pitch=pitch, yaw=yaw))
        point = pivot_point(job)
        assert np.allclose(
            pose_of(turned.position).points(point), pose_of(job.position).points(point), atol=0.02
        )

    def test_words_and_signs_agree(self, demo: Job) -> None:
        up = nudged(demo, pitch=1.0)
        nose, tail = (
            pose_of(up).points(p)[2] - pose_of(demo.position).points(p)[2]
            for p in ((500.0, 0, 0), (-800.0, 0, 0))
        )
        assert nose > 0 > tail and up.pitch_deg > demo.position.pitch_deg
        right = pose_of(nudged(demo, roll=1.0)).points((0.0, 0, 400)) - pose_of(nudged(demo)).points(
            (0.0, 0, 400)
        )
        assert right[1] < 0, "clocked to the right: the top goes to the right"
        left = pose_of(nudged(demo, yaw=1.0)).points((500.0, 0, 0)) - pose_of(nudged(demo)).points(
            (500.0, 0, 0)
        )
        assert left[1] > 0, "nose to the left"
        assert move_words((-12, 3, -8), Display()) == "12.0 mm back, 3.0 mm left, 8.0 mm down"
        assert (
            turn_words(-1, 2.5, 0) == "nose up 2.50 deg, clocked 1.00 deg to the left"
            and turn_words(0, 0, 0) == "level and straight"
        )
        assert position_words(demo)[0] == "248.0 mm behind the front axle line"

    def test_levelling_takes_out_one_angle(self, demo: Job) -> None:
        crooked = with_value(
            demo, "position", Position(x=-248, y=3, z=22, roll_deg=2, pitch_deg=3, yaw_deg=-1)
        )
        across = levelled(crooked, "across")
        assert (across.roll_deg, across.pitch_deg, across.yaw_deg) == (0, 3, -1)
        assert levelled(crooked, "along").pitch_deg == 0 and levelled(crooked, "straight").yaw_deg == 0
        assert position_of(pose_of(crooked.position), "engine-centre") == crooked.position

    def test_lowest_point_is_the_lowest_of_all_points(self, demo: Job) -> None:
        from nimble_cradle.bay.bodies import powertrain_bodies

        pose = pose_of(demo.position)
        low = min(
            float(pose.points(part.triangles[0])[:, 2].min())
            for part in powertrain_bodies(demo).parts
            if isinstance(part, ConvexPart)
        )
        found = lowest_point(with_value(with_value(demo, "mounts", ()), "crossmember", None))
        assert (
            found is not None and found.z <= low + 1e-9 and found.z == pytest.approx(low, abs=0.7)
        )  # the drawn bar is a prism inside the round

    def test_lowest_point_counts_crossmember_eyes_and_arms(self, demo: Job) -> None:
        assert demo.crossmember is not None
        points = tuple((x, y, -140.0 - 30 * k) for k, (x, y, _) in enumerate(demo.crossmember.points))
        height = demo.crossmember.section.height_mm
        low = lowest_point(with_value(demo, "crossmember/points", points))
        assert low is not None and low.piece == "crossmember"
        slope = math.atan2(30, points[-2][1] - points[-1][1])
        assert low.z == pytest.approx(points[-1][2] - height / 2 * math.cos(slope), abs=0.7)
        left = demo.mounts[0]
        centre = (left.bush.centre[0], left.bush.centre[1], -160.0)
        sunk = with_value(demo, f"mounts/{left.id}/bush", left.bush.model_copy(update={"centre": centre}))
        sunk = with_value(sunk, f"mounts/{left.id}/bush/axis", (1.0, 0.0, 0.0))
        low = lowest_point(sunk)
        assert low is not None
        assert (low.piece, low.piece_name) == (f"mounts/{left.id}", f"{left.name}, eye")
        assert low.z == pytest.approx(
            -160.0 - bonded(left.bush).eye_bore_mm / 2 - bonded(left.bush).eye_wall_mm
        )
        v = verdict(sunk)
        assert not v.holds and next(t for t in tell_tales(sunk, v) if t.id == "lowest").state == "fails"
        hangs = f"{low.piece_name} hangs below the lowest chassis line"
        assert hangs in next(s for s in stage_states(sunk, v) if s.id == "mounts").questions


class TestDriveline:
    def test_angles_by_hand(self) -> None:
        # output 4 deg down, shaft 200 mm down over 2000 mm (5.711 deg), axle input 4.5 deg down
        front, rear, difference, length = propshaft(0, 0, 0, 4, 0, -2000, 0, -200, 4.5, 0)
        assert front == pytest.approx(math.degrees(math.atan(0.1)) - 4) and rear == pytest.approx(
            math.degrees(math.atan(0.1)) - 4.5
        )
        assert difference == pytest.approx(0.5) and length == pytest.approx(math.hypot(2000, 200))

    @given(st.floats(-20, 20), st.floats(-20, 20))
    def test_side_and_plan_join_as_published(self, side: float, plan: float) -> None:
        # tan2 = tan2 side + tan2 plan, exact where one shaft lies along the vehicle (SAE AE-7, from memory),
        # against the exact angle
        front, *_ = propshaft(
            0,
            0,
            0,
            0,
            0,
            -1000,
            1000 * math.tan(math.radians(plan)),
            -1000 * math.tan(math.radians(side)),
            0,
            0,
        )
        assert front == pytest.approx(compound_angle(side, plan), abs=1e-6)

    def test_verdict_against_the_jobs_limits(self, demo: Job) -> None:
        two = driveline(demo)
        assert two.holds and len(two.angles) == 3 and two.difference == two.residual
        plain = with_value(demo, "propshaft", Propshaft())
        line = driveline(plain)
        assert line.front == pytest.approx(2.5, abs=0.2) and len(line.angles) == 2
        assert len(line.faults) == 1 and "runs at 5309 rpm" in line.faults[0], "too long in one piece"
        steep = driveline(with_value(plain, "position", nudged(plain, pitch=-2.0)))
        assert (
            not steep.holds
            and any("over the limit" in f for f in steep.faults)
            and any("differ" in f for f in steep.faults)
        )
        assert driveline(with_value(demo, "joint_limits/most_deg", 1.0)).faults
        flat = with_value(demo, "vehicle/axle_input", (-2782.0, 0.0, -2.0))
        assert any("needles" in f or "over" in f for f in driveline(flat).faults)

    def test_nonsense_is_a_problem_not_a_crash(self, demo: Job) -> None:
        assert any(
            "rearwards" in p.sentence
            for p in verdict(with_value(demo, "vehicle/axle_input_direction", (1.0, 0.0, 0.0))).problems
        )


def test_front_share_by_moments() -> None:
    share, front, rear = front_share(700, 650, 300, -150, 3000)
    assert (
        front + rear == 1650 and rear == pytest.approx(650 + 15) and share == pytest.approx(100 * 985 / 1650)
    )
    assert front_share(700, 650, 300, 0, 3000)[2] == 650


def test_running_gaps_are_those_of_the_moved_engine(demo: Job) -> None:
    """The least over the cases, against each case measured by itself."""
    cases = verdict(demo).carried
    assert cases is not None
    found = {(g.piece, g.item): g for g in running_gaps(demo)}
    for key in (
        ("fan", "radiator"),
        ("turbo", "battery-box"),
        ("sump-shallow", "front-crossmember"),
        ("shifter", "tunnel"),
    ):
        each = {
            r.case.name: next(g.gap for g in gaps_at_rest(demo, r.pose) if (g.piece, g.item) == key)
            for r in cases.cases
        }
        worst = min(each, key=lambda name: each[name])
        if found[key].at_least:
            assert each[worst] - 12.0 < found[key].running < each[worst]  # type: ignore[operator]
            assert found[key].margin > 10.0
            continue
        assert found[key].running == pytest.approx(each[worst], abs=0.03) and found[key].running_case == worst


def test_of_many_overlaps_only_those_nearest_to_clear_are_followed_while_running(
    demo: Job, monkeypatch: pytest.MonkeyPatch
) -> None:
    """With room for none, the fan in the radiator keeps its figure at rest; no other gap changes, and it
    fouls all the same."""
    from nimble_cradle.fit import gaps_running

    whole = {(g.piece, g.item): g for g in verdict(demo).gaps}
    fouling = {key for key, g in whole.items() if g.still < 0}
    assert fouling == {("fan", "radiator")} and (whole["fan", "radiator"].running or 0.0) < -5
    monkeypatch.setattr(gaps_running, "MOST_OVERLAPS", 0)
    fresh = demo.model_copy(update={"position": demo.position.model_copy()})  # nothing is remembered of it
    few = {(g.piece, g.item): g for g in verdict(fresh).gaps}
    assert few.keys() == whole.keys()
    for key, g in few.items():
        assert g.running == pytest.approx(g.still if key in fouling else whole[key].running, abs=1e-6), key
    assert few["fan", "radiator"].state == "fouls"
