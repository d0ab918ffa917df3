"""Rocking: torque struts, and bushes corrected by a push."""

from __future__ import annotations

import json
import math
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from nimble_cradle.bay.position import pose_of
from nimble_cradle.cli.main import main
from nimble_cradle.design.bush_kinds import with_bush_kind
from nimble_cradle.design.first_strut import with_strut
from nimble_cradle.desk.stages.mounts.sheet import MountsSheet
from nimble_cradle.desk.window import Desk
from nimble_cradle.families.law import Law, Linear
from nimble_cradle.geometry.pose import Array, Pose, unit
from nimble_cradle.job import store
from nimble_cradle.job.base import JobError
from nimble_cradle.job.edits import with_value
from nimble_cradle.job.job import Job
from nimble_cradle.job.strut import Strut
from nimble_cradle.judge.carried import carried
from nimble_cradle.judge.studies import captures, pushed_at, rocked_of, with_rocked
from nimble_cradle.judge.verdict import verdict
from nimble_cradle.mounts.equilibrium import large_rest
from nimble_cradle.mounts.push import WAYS, Push, PushWay
from nimble_cradle.mounts.rocked import moved_by
from nimble_cradle.mounts.springs import Spring, in_series
from nimble_cradle.mounts.struts import strut_spring
from nimble_cradle.shop.cutlist import cut_list
from nimble_cradle.strength.strut import rod_use
from scipy.optimize import minimize
from scipy.spatial.transform import Rotation

from pressing import click, type_in

ENGINE, CHASSIS = (120.0, -35.0, 240.0), (160.0, 265.0, 215.0)
"""Askew in all three ways."""


def struck(job: Job, **fields: Any) -> Job:
    """The job with one strut, askew; chassis_at is where the engine's frame puts CHASSIS."""
    place = tuple(float(c) for c in pose_of(job.position).points(CHASSIS))
    strut = Strut.model_validate(
        {"id": "rod", "name": "Rod", "engine_at": ENGINE, "chassis_at": place} | fields
    )
    return with_value(job, "struts", (strut,))


class TestRod:
    def test_by_hand(self) -> None:
        """Tube 22 x 3 of fy 235, 300 long: A = pi/4 (22^2 - 16^2), r = sqrt(I / A)."""
        area, inertia = math.pi / 4 * (22**2 - 16**2), math.pi / 64 * (22**4 - 16**4)
        slender = 300 / math.sqrt(inertia / area)
        assert slender == pytest.approx(44.1, abs=0.05)
        short = area * (235 - (235 * slender / (2 * math.pi)) ** 2 / 210e3)
        assert rod_use(4000.0, 300.0, 22.0, 3.0, 235.0) == pytest.approx((4000 / short, short, slender))

    def test_a_long_one_buckles_where_a_bar_of_short_pieces_does(self) -> None:
        """-E I w'' = F w by differences over 400 pieces: the least eigenvalue."""
        long, n = 1400.0, 400
        inertia = math.pi / 64 * (22**4 - 16**4)
        h = long / n
        bent = (2 * np.eye(n - 1) - np.eye(n - 1, k=1) - np.eye(n - 1, k=-1)) * 210e3 * inertia / h**2
        assert rod_use(1.0, long, 22.0, 3.0, 235.0)[1] == pytest.approx(
            float(np.linalg.eigvalsh(bent)[0]), rel=1e-4
        )

    def test_long_and_short_meet_at_half_the_yield_and_run_on_smoothly(self) -> None:
        area = math.pi / 4 * (22**2 - 16**2)
        edge = math.sqrt(2 * math.pi**2 * 210e3 / 235) * math.sqrt(22**2 + 16**2) / 4
        carries = [rod_use(1.0, edge + d, 22.0, 3.0, 235.0)[1] for d in (-1.0, -1e-6, 1e-6, 1.0)]
        assert carries[1] == pytest.approx(carries[2], rel=1e-6) == pytest.approx(area * 235 / 2, rel=1e-6)
        assert carries[0] - carries[1] == pytest.approx(carries[2] - carries[3], rel=0.02)


def stored(moved: float, gap: float, stiffness: float) -> float:
    """What a rod past its gap has stored, N mm: it stiffens over the first millimetre past the gap."""
    past = max(abs(moved) - gap, 0.0)
    if not gap:
        return stiffness * moved**2 / 2
    return stiffness * (past**3 / 6 if past < 1 else 1 / 6 + (past - 1) / 2 + (past - 1) ** 2 / 2)


@pytest.mark.parametrize("gap", [0.0, 1.5])
def test_it_rests_where_the_least_is_stored(gap: float) -> None:
    """Three plain bushes and a rod, against scipy's minimiser of what all four have stored."""
    strut = Strut(
        id="rod", name="Rod", engine_at=ENGINE, chassis_at=CHASSIS, gap_mm=gap, stiffness_along=500.0
    )
    law, k = Law((Linear(300.0, 200.0),)), (300.0, 200.0)
    places = [np.array(p) for p in ((210.0, 230.0, -60.0), (190.0, -240.0, -80.0), (-620.0, 20.0, -150.0))]
    axis = np.array([1.0, 0.0, 0.0])
    matrix = k[0] * (np.eye(3) - np.outer(axis, axis)) + k[1] * np.outer(axis, axis)
    springs = [Spring(f"{i}", p, axis, matrix, None, 0.1, 1.3, None, law) for i, p in enumerate(places)]  # type: ignore[arg-type]
    load = np.array([300.0, -400.0, -2500.0, -7e5, 2e5, 1e5])
    rest = large_rest(
        (*springs, strut_spring(strut, Pose.still())),
        np.zeros(3),
        load[None],
        np.zeros((1, 3)),
        np.zeros((1, 3)),
    )
    along = unit(np.subtract(ENGINE, CHASSIS))

    def total(x: Array) -> float:
        turn = Rotation.from_rotvec(x[3:] / 300).as_matrix()
        out = -float(load[:3] @ x[:3] + load[3:] @ x[3:] / 300)
        for p in places:
            u = x[:3] + turn @ p - p
            out += (k[0] * (u[1] ** 2 + u[2] ** 2) + k[1] * u[0] ** 2) / 2
        u = x[:3] + turn @ np.array(ENGINE) - ENGINE
        return (out + stored(float(u @ along), gap, 500.0)) / 1e4

    best = minimize(total, np.zeros(6), method="BFGS", options={"gtol": 1e-9, "maxiter": 4000})
    assert np.allclose(best.x[:3], rest.move[0], atol=5e-3)
    assert np.allclose(best.x[3:] / 300, rest.turn[0], atol=2e-5)
    assert abs(float(rest.own[3, 0] @ along)) > gap + 0.5  # it acts


class TestInTheCar:
    def test_it_keeps_the_engine_from_rocking_and_carries_no_weight(self, demo: Job) -> None:
        plain, held, tight = (
            {c.case.id: c for c in carried(job).cases}
            for job in (demo, struck(demo, gap_mm=2.0), struck(demo, gap_mm=0.0, stiffness_along=2000.0))
        )
        rock = [cases["first-gear"].rock_deg for cases in (tight, held, plain)]
        assert rock[0] < 0.9 * rock[2] and rock[0] < rock[1] < rock[2]
        at_rest = next(m for m in held["weight"].mounts if m.mount == "rod")
        assert at_rest.size < 1e-6
        weight = np.sum([m.force for m in held["weight"].mounts], axis=0)
        assert weight[2] == pytest.approx(-carried(demo).mass.mass_kg * 9.80665, rel=1e-5)

    def test_its_force_lies_along_its_line_and_goes_to_its_checks(self, demo: Job) -> None:
        job = struck(demo, rod_outside_mm=14.0, rod_wall_mm=1.5, bolt="M8")
        line = unit(np.subtract(ENGINE, CHASSIS))
        line = pose_of(job.position).rotation @ line
        worst = 0.0
        for case in carried(job).cases:
            force = next(m.force for m in case.mounts if m.mount == "rod")
            assert np.linalg.norm(np.cross(force, line)) < 0.06 * np.linalg.norm(force) + 1e-6
            factor = {"rare": 1.5}.get(case.case.kind, 2.5)
            worst = max(worst, factor * float(np.linalg.norm(force)))
        assert worst > 1000
        found = {f.code: f for f in verdict(job).findings if f.part == "rod"}
        long = math.dist(ENGINE, CHASSIS)
        assert found["strut-rod"].use == pytest.approx(rod_use(worst, long, 14.0, 1.5, 235.0)[0], rel=1e-9)
        shear = 2 * 0.6 * 800 * 36.6 / 1.25  # M8 8.8, As of ISO 898-1
        assert found["strut-bolt"].use == pytest.approx(worst / shear, rel=2e-3)

    def test_its_lever_is_measured_from_the_crank_way_through_the_mass(self, demo: Job) -> None:
        job = struck(demo)
        pose = pose_of(job.position)
        centre = pose.inverse().points(carried(job).centre)
        e, c = np.array(ENGINE[1:]), np.array(CHASSIS[1:])  # seen along the crank
        way = (c - e) / np.linalg.norm(c - e)
        lever = abs(float(way[0] * (centre[2] - e[1]) - way[1] * (centre[1] - e[0])))
        found = next(f for f in verdict(job).findings if f.code == "strut-lever")
        assert found.use == pytest.approx(50 / lever, rel=1e-6)
        through = struck(demo, engine_at=(0.0, float(centre[1]), float(centre[2])))
        assert next(f for f in verdict(through).findings if f.code == "strut-lever").use > 1

    def test_what_it_is_bolted_to_stays_a_question_until_somebody_looked(self, demo: Job) -> None:
        def asked(job: Job) -> list[str]:
            return [p.sentence for p in verdict(job).problems if p.place == "struts/rod/ends"]

        assert ["look at both ends" in s for s in asked(struck(demo))] == [True]
        assert asked(struck(demo, ends="looked at")) == []

    def test_no_mount_holds_on_a_strut_that_does_not_or_that_nobody_looked_at(self, hatchback: Job) -> None:
        def told(job: Job) -> set[str]:
            return {m.block_to_bush for m in verdict(job).mounts}

        assert told(hatchback) == {"holds"}
        base = f"struts/{hatchback.struts[0].id}"
        assert told(with_value(hatchback, f"{base}/ends", "unsaid")) == {"open"}
        assert told(struck(hatchback, ends="looked at")) == {"open"}  # its rod runs through the cylinder head
        thin = with_value(with_value(hatchback, f"{base}/rod_wall_mm", 0.2), f"{base}/gap_mm", 0.0)
        thin = with_value(thin, f"{base}/rod_outside_mm", 4.0)
        assert next(f for f in verdict(thin).findings if f.code == "strut-rod").use > 1
        assert told(thin) == {"open"}

    def test_eyes_in_one_place_are_one_sentence_and_the_rest_is_judged(self, demo: Job) -> None:
        place = tuple(float(c) for c in pose_of(demo.position).points(ENGINE))
        told = verdict(struck(demo, chassis_at=place))
        words = [p.sentence for p in told.problems if "two eyes are in one place" in p.sentence]
        assert len(words) == 1 and "Traceback" not in words[0]
        with pytest.raises(JobError, match="nothing is left inside"):
            with_value(struck(demo), "struts/rod/rod_wall_mm", 11.0)
        with pytest.raises(JobError, match="mount or strut"):
            struck(demo, id="left")

    def test_it_is_in_the_cut_list_and_the_study_of_torn_rubbers(self, demo: Job) -> None:
        job = struck(demo)
        row = next(r for r in cut_list(job) if r.part == "Rod: rod")
        assert row.mass_kg == pytest.approx(
            math.pi / 4 * (22**2 - 16**2) * math.dist(ENGINE, CHASSIS) * 7.85e-6, rel=0.02
        )
        assert [c.mount for c in captures(job)] == [m.id for m in job.mounts]


def test_the_room_adds_sets_and_takes_out(desk: Desk) -> None:
    desk.go("mounts")
    sheet = desk.sheets["mounts"]
    assert isinstance(sheet, MountsSheet)
    sheet.rooms.go("strut")
    click(desk, "Add a torque strut")
    (strut,) = desk.session.job.struts
    assert sheet.rooms.present is sheet.strut
    type_in(desk, f"struts/{strut.id}/gap_mm", "3.5")
    type_in(desk, f"struts/{strut.id}/chassis_at/2", "120 up")
    (strut,) = desk.session.job.struts
    assert (strut.gap_mm, strut.chassis_at[2]) == (3.5, 120.0)
    assert len(sheet.strut.bars[strut.id].findings) == 3
    click(desk, "Take this strut out")
    assert desk.session.job.struts == ()


def test_a_first_strut_is_level_across_the_engine(hatchback: Job) -> None:
    """Across the crank also where the engine stands across the car."""
    strut = with_strut(hatchback).struts[-1]
    pose = pose_of(hatchback.position)
    way = np.array(strut.chassis_at) - pose.points(strut.engine_at)
    assert abs(float(unit(way) @ pose.rotation[:, 0])) < 1e-3


PUSHED = (150.0, -90.0, 280.0)


def pushed(
    job: Job, moved: float, within: float = 0.1, way: PushWay = "left", newtons: float = 600.0
) -> Push:
    return Push(newtons, pushed_at(job, PUSHED), way, moved, within)


class TestRocked:
    def test_small_pushes_as_the_stiffness_matrix_says(self) -> None:
        """d = w' C w F with C the inverse of the six by six of plain springs, at the pushed point."""
        law = Law((Linear(300.0, 200.0),))
        places = [
            np.array(p) for p in ((210.0, 230.0, -60.0), (190.0, -240.0, -80.0), (-620.0, 20.0, -150.0))
        ]
        axis, centre = np.array([1.0, 0.0, 0.0]), np.array([-20.0, 5.0, 10.0])
        k = np.diag([200.0, 300.0, 300.0])
        springs = [Spring(f"{i}", p, axis, k, None, 0.1, 1.3, None, law) for i, p in enumerate(places)]  # type: ignore[arg-type]

        def lines(p: Array) -> Array:
            x, y, z = p - centre
            return np.array([[1, 0, 0, 0, z, -y], [0, 1, 0, -z, 0, x], [0, 0, 1, y, -x, 0]])

        whole = sum((lines(p).T @ k @ lines(p) for p in places), np.zeros((6, 6)))
        at = lines(np.array(PUSHED))
        flex = at @ np.linalg.inv(whole) @ at.T
        for way, w in (("left", flex[1, 1]), ("down", flex[2, 2]), ("forward", flex[0, 0])):
            moved = moved_by(springs, centre, 1e-6, Push(50.0, PUSHED, way, 1.0, 0.1))  # type: ignore[arg-type]
            assert moved == pytest.approx(50.0 * w, rel=2e-3)

    @pytest.mark.parametrize(("times", "explained"), [(1.1, True), (0.6, False), (1.7, False)])
    def test_what_the_bushes_really_are_is_found(self, demo: Job, times: float, explained: bool) -> None:
        """Another job, whose bushes are stiffer by figures, is pushed; by its movement the first is told."""
        other = demo
        for spring in carried(demo).springs:
            for name, value in (("radial", spring.bush.radial), ("axial", spring.bush.axial)):
                other = with_value(other, f"mounts/{spring.mount}/bush/stiffness_{name}", value * times)
        held = carried(other)
        moved = moved_by(held.springs, held.centre, held.mass.mass_kg, pushed(demo, 1.0))
        found = rocked_of(demo, pushed(demo, moved, 0.05))
        assert found.times == pytest.approx(times, rel=2e-3) and found.least < times < found.most
        assert found.is_hardness is explained
        after = with_rocked(demo, found)
        left = carried(after).springs[0]
        assert left.bush.radial == pytest.approx(carried(demo).springs[0].bush.radial * times, rel=3e-3)
        assert after.said["mounts/left/bush/stiffness_radial"] == "measured"

    def test_on_the_throttle(self, demo: Job) -> None:
        """Half of first gear's torque lifts the left side: against the flexibility of the six by six of the
        springs as they are, told apart from a push by nothing but the couple."""
        found, other = carried(demo), demo
        for spring in found.springs:
            for name, value in (("radial", spring.bush.radial), ("axial", spring.bush.axial)):
                other = with_value(other, f"mounts/{spring.mount}/bush/stiffness_{name}", value * 1.2)
        at = pushed_at(demo, (0.0, 300.0, 0.0))
        held, couple = carried(other), carried(demo).case("first-gear").case.moment
        half = Push(0.0, at, "up", 1.0, 0.1, throttle=0.5)
        moved = moved_by(held.springs, held.centre, held.mass.mass_kg, half, couple)
        whole = np.zeros((6, 6))
        for spring in held.springs:
            r = spring.centre - held.centre
            lines = np.hstack([np.eye(3), np.array([[0, r[2], -r[1]], [-r[2], 0, r[0]], [r[1], -r[0], 0]])])
            whole += lines.T @ in_series(spring.matrix, spring.give) @ lines
        way = np.linalg.solve(whole, np.concatenate([np.zeros(3), 0.5 * couple]))
        r = np.array(at) - held.centre
        assert moved == pytest.approx(way[2] + (np.cross(way[3:], r))[2], rel=0.05)  # the turn is not small
        assert moved > 0
        seen = Push(0.0, at, "up", moved, 0.05, throttle=0.5)
        assert rocked_of(demo, seen).times == pytest.approx(1.2, rel=5e-3)
        with pytest.raises(JobError, match="the other way than down"):
            rocked_of(demo, Push(0.0, at, "down", 1.0, 0.1, throttle=0.5))
        with pytest.raises(JobError, match="more than 0"):
            Push(0.0, at, "up", 1.0, 0.1)

    def test_what_no_bush_explains_is_said(self, demo: Job) -> None:
        with pytest.raises(JobError, match="look for what is loose"):
            rocked_of(demo, pushed(demo, 60.0))
        with pytest.raises(JobError, match="surer"):
            pushed(demo, 1.0, within=1.0)
        solid = demo
        for mount in demo.mounts:
            solid = with_bush_kind(solid, next(m for m in solid.mounts if m.id == mount.id), "solid")
        with pytest.raises(JobError, match="no bonded bush"):
            rocked_of(solid, pushed(demo, 1.0))

    def test_on_the_command_line(self, demo_path: Path, capsys: Any, tmp_path: Path) -> None:
        words = ["rock", str(demo_path), "--push", "600", "--at", "150", "-90", "280", "--way", "left"]
        out = tmp_path / "rocked.cradle"
        assert main([*words, "--moved", "1.4", "--json", "-o", str(out)]) == 0
        told = json.loads(capsys.readouterr().out)
        assert "nobody stands before" in told["caution"]
        radial = told["mounts"]["left"][0]
        assert store.read(out).job.mounts[0].bush.stiffness_radial == pytest.approx(radial, rel=1e-3)  # type: ignore[union-attr]
        assert main([*words, "--moved", "60"]) != 0
        assert "look for what is loose" in capsys.readouterr().err

    def test_in_the_window(self, desk: Desk, qtbot: Any) -> None:
        desk.go("mounts")
        sheet = desk.sheets["mounts"]
        assert isinstance(sheet, MountsSheet)
        sheet.rooms.go("strut")
        group = sheet.strut.rock
        group.force.setText("600")
        group.at.setText("150 forward, 90 right")
        click(desk, "Compare")
        assert "Three places" in group.refusal.text()
        group.at.setText("150 forward, 90 right, 280 up")
        group.way.setCurrentIndex(tuple(WAYS).index("left"))
        group.moved.setText("1.4 mm")
        assert group.push() == Push(600.0, pushed_at(desk.session.job, PUSHED), "left", 1.4, 0.2)
        click(desk, "Compare")
        qtbot.waitUntil(lambda: group.take.isVisibleTo(group), timeout=60000)
        assert "times as stiff as said" in group.said.text()
        desk.session.set_value("name", "Other", "another name")
        assert not group.take.isVisibleTo(group) and "compare again" in group.said.text()
        click(desk, "Compare")
        qtbot.waitUntil(lambda: group.take.isVisibleTo(group), timeout=60000)
        before = desk.session.job
        click(desk, "Make the bushes so stiff")
        after = desk.session.job
        assert all(m.bush.stiffness_radial for m in after.mounts)  # type: ignore[union-attr]
        desk.session.undo()
        assert desk.session.job == before
