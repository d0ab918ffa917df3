"""A cradle of several tubes: against an independent frame, by statics, and as what a mount stands on."""

from __future__ import annotations

import json
import math
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from nimble_cradle.cli.main import main
from nimble_cradle.design.first_cradle import (
    with_cradle,
    with_cradle_point,
    with_cradle_tube,
    without_cradle_point,
)
from nimble_cradle.desk.stages.mounts.sheet import MountsSheet
from nimble_cradle.desk.window import Desk
from nimble_cradle.geometry.pose import Array, rotation_about
from nimble_cradle.job import store
from nimble_cradle.job.base import JobError
from nimble_cradle.job.cradle import Cradle, CradlePoint, CradleTube
from nimble_cradle.job.edits import with_value
from nimble_cradle.job.foot import TabsFoot
from nimble_cradle.job.hollow_section import HollowSection
from nimble_cradle.job.job import Job
from nimble_cradle.judge.carried import carried
from nimble_cradle.judge.verdict import verdict
from nimble_cradle.made.foot_seats import foot_seats
from nimble_cradle.mounts.cradles import cradle_give
from nimble_cradle.mounts.give import standing_on
from nimble_cradle.shop.cutlist import cut_list
from nimble_cradle.stock.tubes import rectangular_tube, round_tube
from nimble_cradle.strength.bolts import bolt_capacity
from nimble_cradle.strength.cradle_frame import cradle_response, held_use

from pressing import click, unfold_all

PLACES = {
    "a": (30.0, 340.0, -160.0),
    "b": (-20.0, -350.0, -150.0),
    "c": (-260.0, 330.0, -170.0),
    "d": (-240.0, -345.0, -165.0),
    "e": (-10.0, 20.0, -120.0),
}
PAIRS = (("a", "e"), ("e", "b"), ("c", "d"), ("a", "c"), ("b", "d"), ("e", "d"))


def odd(**held: str) -> Cradle:
    """Crooked in all three ways; no two tubes alike in length."""
    return Cradle(
        id="cradle",
        name="Cradle",
        points=tuple(CradlePoint(id=k, at=at, held=held.get(k, "free")) for k, at in PLACES.items()),
        tubes=tuple(CradleTube(id=f"t{i}", start=a, end=b) for i, (a, b) in enumerate(PAIRS)),
        section=HollowSection(shape="round", height_mm=45, wall_mm=3),
    )


HELD = {"a": "bolts", "b": "one bolt", "c": "rubber", "d": "one bolt"}
STANDS = (-255.0, 120.0, -100.0)
"""Over the tube from c to d."""


def pynite(cradle: Cradle, at: Array, load: Array) -> tuple[Array, float]:
    """PyNite, an independent frame library: movement of the loaded place, and the greatest axial force plus
    bending stress of any tube's end. Its own members, cut at the load."""
    from Pynite import FEModel3D

    p = round_tube(45, 3)
    model = FEModel3D()
    model.add_material("steel", 210e3, 81e3, 0.3, 0.0)
    model.add_section("tube", p.area, p.i_lying, p.i_lying, p.torsion)
    for point in cradle.points:
        model.add_node(point.id, *point.at)
        if point.held == "rubber":
            for way, k in (("DX", 1500.0), ("DY", 1500.0), ("DZ", 3000.0)):
                model.def_support_spring(point.id, way, k)
        elif point.held != "free":
            model.def_support(point.id, True, True, True, *[point.held == "bolts"] * 3)
    model.add_node("load", *at)
    rows = [(t.start, t.end) for t in cradle.tubes if (t.start, t.end) != ("c", "d")]
    for i, (a, b) in enumerate([*rows, ("c", "load"), ("load", "d")]):
        model.add_member(f"M{i}", a, b, "steel", "tube")
    for way, value in zip(("FX", "FY", "FZ", "MX", "MY", "MZ"), load, strict=True):
        model.add_node_load("load", way, float(value))
    model.analyze(check_stability=False)
    worst = 0.0
    for member in model.members.values():
        for x in (0.0, member.L()):
            bent = math.hypot(member.moment("My", x), member.moment("Mz", x))
            worst = max(worst, abs(member.axial(x)) / p.area + bent / p.w_lying)
    node = model.nodes["load"]
    return np.array([node.DX["Combo 1"], node.DY["Combo 1"], node.DZ["Combo 1"]]), worst


class TestFrame:
    def test_against_an_independent_library(self) -> None:
        cradle = odd(**HELD)
        response = cradle_response(cradle, (STANDS,))
        load = np.array([400.0, -900.0, -3000.0, 1.5e5, -2e5, 0.7e5])
        moved, stress = pynite(cradle, response.at[0], load)
        assert load @ response.moved[:, 0, :3] == pytest.approx(moved, rel=1e-4, abs=1e-6)
        ends = np.einsum("l,lmsc->msc", load, response.ends)
        p = round_tube(45, 3)
        ours = np.abs(ends[..., 0]) / p.area + np.hypot(ends[..., 4], ends[..., 5]) / p.w_lying
        assert ours.max() == pytest.approx(stress, rel=1e-3)

    def test_what_holds_it_balances_what_stands_on_it(self) -> None:
        cradle = odd(**HELD)
        response = cradle_response(cradle, (STANDS, (-10.0, 22.0, -60.0)))
        at = {point.id: np.array(point.at) for point in cradle.points}
        for k in range(12):
            unit_load = np.zeros(6)
            unit_load[k % 6] = 1.0
            held = response.held[k]
            gripped = [p.id for p in cradle.points if p.held != "free"]
            force = held[:, :3].sum(0) + unit_load[:3]
            turn = sum(np.cross(at[g], h[:3]) + h[3:] for g, h in zip(gripped, held, strict=True))
            turn = turn + np.cross(response.at[k // 6], unit_load[:3]) + unit_load[3:]
            assert np.abs(force).max() < 1e-8 and np.abs(turn).max() < 1e-5, k
        assert np.allclose(held[gripped.index("b"), 3:], 0, atol=1e-6)  # one bolt turns

    def test_what_is_not_held_is_said(self) -> None:
        with pytest.raises(JobError, match="not held"):
            cradle_response(odd(a="one bolt", b="one bolt"), (STANDS,))

    def test_bolts_by_hand(self) -> None:
        """Two M12 80 apart under 8 kN and 0.4 kNm: 4 kN each and 400/0.08 = 5 kN more in pull."""
        pull, shear, _ = bolt_capacity("M12", "8.8")
        use, most = held_use(8000.0, 4e5, "M12", "8.8", 2.0, 80.0)
        assert most == pytest.approx(9000)
        assert use == pytest.approx(4000 / shear + 9000 / (1.4 * pull))


def stood(job: Job, **changes: Any) -> Job:
    """The truck's left mount on a bar of a cradle right under its bush, a little askew."""
    x, y, z = job.mounts[0].bush.centre
    cradle = Cradle(
        id="cradle",
        name="Front cradle",
        points=(
            CradlePoint(id="l", at=(x + 8, y + 90, z - 95), held="bolts"),
            CradlePoint(id="r", at=(x - 6, y - 96, z - 92), held="bolts"),
            CradlePoint(id="b", at=(x - 190, y + 84, z - 95), held="bolts"),
        ),
        tubes=(CradleTube(id="t1", start="l", end="r"), CradleTube(id="t2", start="l", end="b")),
        section=HollowSection(shape="rectangle", height_mm=50, width_mm=110, wall_mm=4),
        looked_at="looked at",
    ).model_copy(update=changes)
    job = with_value(job, "cradles", (cradle,))
    foot = TabsFoot(host="cradle", way=(0.0, 0.0, -1.0), weld_inside=True, cheek_foot_mm=90)
    return with_value(job, "mounts/left/foot", foot)


def lines_at(place: Array) -> Array:
    """(3, 6): how a place moves with a body, by its move and turn about nought."""
    x, y, z = place
    return np.array([[1, 0, 0, 0, z, -y], [0, 1, 0, -z, 0, x], [0, 0, 1, y, -x, 0]], dtype=float)


class TestInTheCar:
    def test_a_mount_stands_on_it_and_is_judged_with_it(self, demo: Job) -> None:
        job = stood(demo)
        found = verdict(job)
        seat = foot_seats(job).of("left")
        assert seat is not None and seat.host.name == "Front cradle"
        told = {f.code: f for f in found.findings if f.part == "cradle"}
        assert {code.removeprefix("cradle-") for code in told} == {
            *("stress", "weld", "joint", "held", "move", "retention")
        }
        mount = next(m for m in found.mounts if m.mount == "left")
        assert mount.chain[-1].part == "Front cradle" and mount.chain[-1].finding is not None
        assert not [q for q in mount.rail_questions if "cradle" in q.lower()]
        small = tuple(p.model_copy(update={"bolt": "M6", "pitch_mm": 40.0}) for p in job.cradles[0].points)
        loose = verdict(stood(demo, points=small))
        assert next(f for f in loose.findings if f.code == "cradle-held").use > 1
        assert next(f for f in loose.findings if (f.part, f.code) == ("left", "foot-wall")).use < 1
        assert next(m for m in loose.mounts if m.mount == "left").bush_to_rail == "does not hold"
        weak = stood(demo, section=HollowSection(shape="rectangle", height_mm=25, width_mm=110, wall_mm=1.5))
        mount = next(m for m in verdict(weak).mounts if m.mount == "left")
        assert (
            mount.bush_to_rail == "does not hold"
            and mount.block_to_bush == next(m for m in found.mounts if m.mount == "left").block_to_bush
        )

    def test_unsaid_or_unheld_it_is_open(self, demo: Job) -> None:
        for change, words in (
            ({"looked_at": "unsaid"}, "not judged here"),
            (
                {
                    "points": tuple(
                        p.model_copy(update={"held": "free"}) for p in stood(demo).cradles[0].points
                    )
                },
                "nothing holds it",
            ),
        ):
            job = stood(demo, **change)
            found = verdict(job)
            mount = next(m for m in found.mounts if m.mount == "left")
            assert mount.bush_to_rail == "open", change
            assert any(words in p.sentence for p in found.problems)

    def test_its_stress_by_hand(self, demo: Job) -> None:
        """The hardest case by hand from the unit loads: sigma of a rectangle's two bendings and its pull, tau
        by torsion and shear of its walls."""
        job = stood(demo)
        cradle = job.cradles[0]
        ((mount, seat),) = standing_on(job, cradle)
        response = cradle_response(cradle, (tuple(seat.centre),))
        p, worst = rectangular_tube(50, 110, 4), 0.0
        for case in carried(job).cases:
            factor = 1.5 if case.case.kind == "rare" else 2.5
            force = -factor * next(m.force for m in case.mounts if m.mount == "left")
            load = np.concatenate([force, np.cross(np.array(mount.bush.centre) - response.at[0], force)])
            n, v_across, v_up, t, m_across, m_up = (
                np.abs(np.einsum("l,lmsc->msc", load, response.ends)).reshape(-1, 6).T
            )
            sigma = n / p.area + m_across / p.w_lying + m_up / p.w_standing
            tau = t / p.torsion_modulus + v_up / (2 * 4 * 42) + v_across / (2 * 4 * 102)
            worst = max(worst, float(np.sqrt(sigma**2 + 3 * tau**2).max()))
        told = next(f for f in verdict(job).findings if f.code == "cradle-stress")
        assert told.use == pytest.approx(worst / 235, rel=1e-6)

    def test_it_gives_beside_the_rubber(self, demo: Job) -> None:
        """A lighter tube lets the engine sag more there; by the frame's own flexibility at the bush."""
        heavy, light = (
            stood(demo),
            stood(demo, section=HollowSection(shape="square", height_mm=40, wall_mm=2)),
        )
        for job in (heavy, light):
            ((mount, seat),) = standing_on(job, job.cradles[0])
            response = cradle_response(job.cradles[0], (tuple(seat.centre),))
            lever = np.array(mount.bush.centre) - response.at[0]
            down = np.concatenate([[0, 0, -1.0], np.cross(lever, [0, 0, -1.0])])
            moved = down @ response.moved[:, 0]
            assert (moved[:3] + np.cross(moved[3:], lever))[2] < 0
        sag = [carried(j).case("weight").mounts[0].movement[2] for j in (heavy, light)]
        assert sag[1] < sag[0] < 0

    def test_what_one_mount_bears_lowers_the_other(self, demo: Job) -> None:
        """Both of the truck's front mounts on one heavy cradle on soft rubbers: it sinks and turns as a stiff
        body under both forces, by a six by six assembled here; the bushes move by so much more."""
        spots = [m.bush.centre for m in demo.mounts[:2]]
        x, z = sum(s[0] for s in spots) / 2, min(s[2] for s in spots) - 190
        spread = {"a": (10, 300), "b": (10, -320), "c": (-280, 300), "d": (-280, -320)}
        corners = {key: (x + back, y, z) for key, (back, y) in spread.items()}
        points = [
            CradlePoint(id=k, at=at, held="rubber", stiffness_up=160, stiffness_flat=120)
            for k, at in corners.items()
        ]
        pairs = ("ab", "cd", "ac", "bd", "ad", "bc")
        tubes = [CradleTube(id=f"t{p}", start=p[0], end=p[1]) for p in pairs]
        big = HollowSection(shape="square", height_mm=200, width_mm=200, wall_mm=20)
        cradle = Cradle(id="cradle", name="Cradle", points=points, tubes=tubes, section=big)
        job = with_value(demo, "cradles", (cradle,))
        for mount in demo.mounts[:2]:
            foot = TabsFoot(host="cradle", way=(0.0, 0.0, -1.0), cheek_foot_mm=90)
            job = with_value(job, f"mounts/{mount.id}/foot", foot)
        rows = standing_on(job, cradle)
        assert len(rows) == 2
        stiff = np.zeros((6, 6))
        for at in corners.values():
            lines = lines_at(np.array(at))
            stiff += lines.T @ np.diag([120.0, 120.0, 160.0]) @ lines
        give, soft = cradle_give(cradle, rows), np.linalg.inv(stiff)
        arms = [lines_at(np.array(mount.bush.centre)) for mount, _ in rows]
        for i in (0, 1):
            for j in (0, 1):
                assert np.allclose(give[i, j], arms[i] @ soft @ arms[j].T, atol=2e-5), (i, j)
        case = carried(job).case("first-gear")
        forces = [load.force for load in case.mounts[:2]]
        sinks = soft @ sum(a.T @ f for a, f in zip(arms, forces, strict=True))
        for arm, load in zip(arms, case.mounts, strict=False):
            assert np.allclose(load.movement - load.own, arm @ sinks, atol=0.3)  # arm and cheeks give too
            assert np.linalg.norm(arm @ sinks) > 3

    def test_turned_the_car_it_is_the_same(self) -> None:
        """Frame and loads turned a quarter about the vertical: the same stresses at every end."""
        turn = rotation_about((0.0, 0.0, 1.0), math.pi / 2)
        cradle = odd(a="bolts", b="bolts", d="bolts")
        turned = cradle.model_copy(
            update={
                "points": tuple(
                    p.model_copy(update={"at": tuple(float(c) for c in turn @ np.array(p.at))})
                    for p in cradle.points
                )
            }
        )
        load = np.array([400.0, -900.0, -3000.0, 0.0, 0.0, 0.0])
        one = cradle_response(cradle, (STANDS,))
        other = cradle_response(turned, (tuple(float(c) for c in turn @ np.array(STANDS)),))
        turned_load = np.concatenate([turn @ load[:3], turn @ load[3:]])
        ends = [np.einsum("l,lmsc->msc", f, r.ends) for f, r in ((load, one), (turned_load, other))]
        assert np.allclose(np.abs(ends[0]), np.abs(ends[1]), rtol=1e-6, atol=1e-3)

    def test_it_is_listed_and_comes_near(self, demo: Job) -> None:
        job = stood(demo)
        rows = [r for r in cut_list(job) if r.part.startswith("Front cradle")]
        assert len(rows) == 2 and all("meets tubes at" in r.note for r in rows)
        through = stood(demo)
        points = tuple(
            p.model_copy(update={"at": (p.at[0] - 150, p.at[1] - 250, p.at[2] + 160)})
            for p in through.cradles[0].points
        )
        said = [p.sentence for p in verdict(with_value(through, "cradles/cradle/points", points)).problems]
        assert any("Cylinder block and Front cradle, tube 2 are" in s for s in said), said


class TestEdits:
    def test_begun_parted_tied_and_saved(self, demo: Job, tmp_path: Path, capsys: Any) -> None:
        job = with_cradle(demo)
        key = job.cradles[0].id
        more = with_cradle_tube(with_cradle_point(job, key), key)
        cradle = more.cradles[0]
        assert len(cradle.points) == 5 and len(cradle.tubes) == 6
        less = without_cradle_point(more, key, cradle.points[-1].id).cradles[0]
        assert len(less.points) == 4 and all(t.end != cradle.points[-1].id for t in less.tubes)
        path = tmp_path / "c.cradle"
        store.write(path, more)
        assert store.read(path).job.cradles == more.cradles
        assert main(["report", str(path), "--json"]) == 0
        assert json.loads(capsys.readouterr().out)["problems"]

    def test_what_cannot_be_is_refused(self) -> None:
        data = odd().model_dump()
        for change in (
            {"tubes": [{"id": "t", "start": "a", "end": "nowhere"}]},
            {"tubes": [{"id": "t", "start": "a", "end": "a"}]},
        ):
            with pytest.raises(ValueError, match=r"no point of the cradle|shorter"):
                Cradle.model_validate(data | change)

    def test_in_the_window(self, desk: Desk, qtbot: Any) -> None:
        sheet = desk.sheets["mounts"]
        assert isinstance(sheet, MountsSheet)
        desk.go("mounts")
        sheet.rooms.go("cradle")
        click(desk, "Add a cradle")
        assert len(desk.session.job.cradles) == 1
        unfold_all(sheet)
        click(desk, "Add a point")
        unfold_all(sheet)
        click(desk, "Add a tube")
        unfold_all(sheet)
        cradle = desk.session.job.cradles[0]
        assert len(cradle.points) == 5 and len(cradle.tubes) == 6
        click(desk, "Take point 5 out")
        assert len(desk.session.job.cradles[0].points) == 4
        unfold_all(sheet)
        click(desk, "Take this cradle out")
        assert not desk.session.job.cradles
