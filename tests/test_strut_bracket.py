"""A torque strut's bracket on the chassis: worked by hand, made and measured as every part is, and no mount
holds whose strut stands on something open."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
from nimble_cradle.bay.position import pose_of
from nimble_cradle.design.first_strut import with_bracket, with_strut
from nimble_cradle.design.propose import proposed
from nimble_cradle.desk.stages.mounts.sheet import MountsSheet
from nimble_cradle.desk.window import Desk
from nimble_cradle.families.strut_stand import on_chassis
from nimble_cradle.findings.finding import Finding
from nimble_cradle.findings.worst import Cases
from nimble_cradle.fit.frame_loads import frame_use
from nimble_cradle.job.base import JobError, Vec3
from nimble_cradle.job.bay import Item
from nimble_cradle.job.cradle import Cradle, CradlePoint, CradleTube
from nimble_cradle.job.edits import added, with_value
from nimble_cradle.job.foot import PlateFoot, TabsFoot
from nimble_cradle.job.hollow_section import HollowSection
from nimble_cradle.job.job import Job
from nimble_cradle.job.mounts import Mount
from nimble_cradle.job.opening import Opening
from nimble_cradle.job.shapes import Box
from nimble_cradle.job.strut import Strut
from nimble_cradle.judge.carried import carried, mount_cases
from nimble_cradle.judge.gaps import made_gaps, shaft_gaps
from nimble_cradle.judge.rails import rail_findings
from nimble_cradle.judge.verdict import verdict
from nimble_cradle.made.foot_seats import strut_seat
from nimble_cradle.made.parts import made
from nimble_cradle.mounts.cradles import Standing, cradle_checks
from nimble_cradle.mounts.give import standing_on
from nimble_cradle.shop.cutlist import cut_list
from nimble_cradle.shop.templates import templates
from nimble_cradle.strength.cradle_frame import cradle_response

from pressing import click, unfold_all

HIGH = 47.0
"""The eye stands so far over the rail's top."""


def struck(job: Job, **fields: Any) -> Job:
    """The truck with a strut from high on the engine down to its left rail, askew in all three ways, on a
    welded foot plate; its box of 60 x 150 x 3."""
    engine = pose_of(job.position).inverse().points(np.array([-190.0, 130.0, 205.0]))
    x, y, z = (round(float(c), 2) for c in engine)
    job = with_strut(job)
    key = job.struts[0].id
    values = {"engine_at": (x, y, z), "chassis_at": (-150.0, 421.0, HIGH), "gap_mm": 0.0, **fields}
    for name, value in values.items():
        job = with_value(job, f"struts/{key}/{name}", value)
    job = with_bracket(job, job.struts[0], "plate")
    sizes = {"along_mm": 70.0, "across_mm": 40.0, "plate_mm": 6.0, "cheek_foot_mm": 38.0, "weld_inside": True}
    for name, value in sizes.items():
        job = with_value(job, f"struts/{key}/bracket/{name}", value)
    return with_value(job, f"struts/{key}/bracket/shift", (0.0, 0.0))


def of_strut(job: Job) -> dict[str, Finding]:
    return {f.code: f for f in verdict(job).findings if f.part == job.struts[0].id}


def pulls(job: Job) -> tuple[np.ndarray, np.ndarray]:
    """(cases, 3) force on the rail at the eye, N with its factor, along the car, across it and up; and the
    way from the chassis to the engine."""
    strut = job.struts[0]
    rows = Cases.of(mount_cases(carried(job), strut), job.allowables)
    run = pose_of(job.position).points(strut.engine_at) - np.array(strut.chassis_at)
    return -np.asarray(rows.forces), run / np.linalg.norm(run)


class TestByHand:
    def test_forces_run_along_the_rod(self, demo: Job) -> None:
        force, way = pulls(struck(demo))
        assert np.abs(force).max() > 500
        assert np.abs(np.cross(force, way)).max() < 0.2 * np.abs(force).max()

    def test_cheeks(self, demo: Job) -> None:
        """Two cheeks of 5 mm, 38 wide at their foot, 41 under the bolt: F/(2 w t), 6 M/(2 t w^2) of the
        pull across, and F h/2 of each of what is left along the bolt, the sleeve loose."""
        job = struck(demo)
        force, _ = pulls(job)
        bolt = np.array(job.struts[0].bolt_way)
        along = force @ bolt
        across = force - np.outer(along, bolt)
        side = np.hypot(across[:, 0], across[:, 1])
        h, w, t = HIGH - 6.0, 38.0, 5.0
        sigma = (
            np.abs(force[:, 2]) / (2 * w * t)
            + 6 * side * h / (2 * t * w**2)
            + 6 * np.abs(along) * h / 2 / (w * t**2)
        )
        use = np.sqrt(sigma**2 + 3 * (side / (2 * w * t)) ** 2) / 235
        assert of_strut(job)["foot-cheeks"].use == pytest.approx(float(use.max()), rel=1e-6)

    def test_wall_of_the_rail(self, demo: Job) -> None:
        """The chord's face of EN 1993-1-8, tables 7.11 and 7.14: 60 wide, the foot 40 across it and 70 along,
        wall 3 of 235 MPa; the pull at 47 over it tips it both ways."""
        job = struck(demo)
        force, _ = pulls(job)
        b, eta, plain = 40 / 60, 70 / 60, 235 * 9.0
        root = math.sqrt(1 - b)
        n = plain / (1 - b) * (2 * eta + 4 * root)
        fore = plain * 70 * (1 / (2 * eta) + 2 / root + eta / (1 - b))
        side = plain * (70 * (1 + b) / (2 * (1 - b)) + math.sqrt(2 * 60 * 40 * (1 + b) / (1 - b)))
        bolt = np.array(job.struts[0].bolt_way)
        square = np.array([-bolt[1], bolt[0], 0.0])
        along, across = np.abs(force @ bolt) * HIGH, np.abs(force @ square) * HIGH
        use = np.abs(force[:, 2]) / n + along / fore + across / side
        # the bolt is not quite along the rail; the foot is turned with it
        assert of_strut(job)["foot-wall"].use == pytest.approx(float(use.max()), rel=0.02)

    def test_square_to_its_bolt(self, demo: Job) -> None:
        """Begun square to the rod; with the bolt turned 25 deg about the upright it is off by what plain
        angles say, and does not hold."""
        job = struck(demo)
        assert of_strut(job)["strut-square"].use < 1e-3
        _, way = pulls(job)
        x, y, _ = job.struts[0].bolt_way
        c, s = math.cos(math.radians(25)), math.sin(math.radians(25))
        turned = (c * x - s * y, s * x + c * y, 0.0)
        off = 90 - math.degrees(math.acos(abs(float(way @ turned))))
        other = with_value(job, f"struts/{job.struts[0].id}/bolt_way", turned)
        assert off > 15 and of_strut(other)["strut-square"].use == pytest.approx(off / 10, rel=1e-6)

    @pytest.mark.parametrize(("bolt", "least"), [("M10", 24.0), ("M14", 28.0)])
    def test_eye_round_its_bolt(self, demo: Job, bolt: str, least: float) -> None:
        """An eye too small for its bolt, 3 of wall and 4 of sleeve and rubber all round, is asked about and
        leaves every mount's verdict open."""
        job = struck(demo, ends="looked at")
        base = f"struts/{job.struts[0].id}"
        for off, there in ((0.0, False), (-0.5, True)):
            tried = with_value(with_value(job, f"{base}/bolt", bolt), f"{base}/eye_outside_mm", least + off)
            asked = [p for p in verdict(tried).problems if p.place == f"{base}/eye_outside_mm"]
            assert bool(asked) is there
            said = [q for m in verdict(tried).mounts for q in m.questions if "of which something" in q]
            assert not there or len(said) == len(tried.mounts)

    def test_rail_as_a_beam(self, demo: Job) -> None:
        """The frame under the strut's pull is the frame under the same pull of a mount that stands there; and
        the rail's own finding knows of it."""
        job = struck(demo)
        strut = job.struts[0]
        force, _ = pulls(job)
        none = np.zeros_like(force)
        one = frame_use(job, {strut.id: force, **{m.id: none for m in job.mounts}})
        left = next(m for m in job.mounts if m.foot is not None and m.foot.host == "rail-left")
        instead = with_value(demo, f"mounts/{left.id}/bush/centre", strut.chassis_at)
        other = frame_use(instead, {m.id: force if m.id == left.id else none for m in demo.mounts})
        uses = [[row.use for row in sorted(f.bars, key=lambda r: str(r.bar.item))] for f in (one, other)]
        assert max(uses[0]) > 0 and uses[0] == pytest.approx(uses[1], rel=1e-9)
        bare = with_value(job, f"struts/{strut.id}/bracket", None)
        with_it, without = (
            next(f.use for f in rail_findings(j) if f.part == "rail-left") for j in (job, bare)
        )
        assert with_it != pytest.approx(without, rel=1e-6)


class TestWired:
    def test_what_is_open_keeps_the_mounts_open(self, demo: Job) -> None:
        """Ends that nobody looked at; a wall that is not said; a hole under the foot; a rail that does not
        bear it: each keeps every mount from holding, and is told at the strut."""
        looked = struck(demo, ends="looked at")
        key = looked.struts[0].id

        def open_for(job: Job) -> str:
            said = [q for m in verdict(job).mounts for q in m.questions if "Torque strut" in q]
            assert len(said) in (0, 3)
            return said[0] if said else ""

        assert open_for(looked) == ""
        assert "nobody looked" in open_for(struck(demo))
        thin = with_value(looked, "items/rail-left/host/wall_mm", None)
        assert "of which something is open" in open_for(thin)
        hole = Opening(id="h", name="Hole", item="rail-left", at_mm=750, long_mm=60, form="hole")
        holed = added(with_value(looked, "openings", ()), "openings", hole)
        assert "of which something is open" in open_for(holed)
        assert any(
            p.place.startswith(f"struts/{key}/") and "where Hole is cut" in p.sentence
            for p in verdict(holed).problems
        )
        weak = with_value(looked, f"struts/{key}/bracket/plate_mm", 0.6)
        assert of_strut(weak)["foot-overhang"].use > 1
        assert "does not hold" in open_for(weak)
        far = with_value(looked, f"struts/{key}/chassis_at", (-150.0, 421.0, 900.0))
        assert "does not hold" in open_for(far) or "open" in open_for(far)
        assert any(p.place.startswith(f"struts/{key}") for p in verdict(far).problems)

    def test_it_is_made_measured_listed_and_drawn(self, demo: Job) -> None:
        job = struck(demo)
        key = job.struts[0].id
        roles = {part.role for part in made(job).parts if part.owner.id == key}
        assert roles >= {"rod", "cheeks", "foot", "cross-bolt"}
        assert {f"cheek-{key}", f"base-{key}"} <= {drawing.name for drawing in templates(job)[0]}
        assert templates(job)[1] == ()
        listed = {row.part for row in cut_list(job) if row.part.startswith("Torque strut: ")}
        assert listed >= {"Torque strut: rod", "Torque strut: cheeks", "Torque strut: foot plate"}
        own = [g for g in shaft_gaps(job) if g.piece.startswith(key) and g.item.startswith(key)]
        assert own and all(g.margin > 0 for g in own)  # a rod between its own cheeks
        assert not [g for g in made_gaps(job) if g.margin < 0 and key in g.piece + g.item]
        low = with_value(job, f"struts/{key}/chassis_at", (-150.0, 421.0, 20.0))
        assert any(
            "stands" in p.sentence and p.place.startswith(f"struts/{key}/") for p in verdict(low).problems
        )
        pipe = Item(
            id="pipe",
            name="Pipe",
            neighbour="metal",
            shapes=(Box(centre=(-150.0, 421.0, 30.0), size=(200.0, 8.0, 8.0)),),
        )
        met = [g for g in made_gaps(added(job, "items", pipe)) if {g.piece, g.item} & {"pipe"}]
        assert met and met[0].margin < 0 and key in met[0].piece + met[0].item

    def test_kinds(self, demo: Job) -> None:
        job = struck(demo)
        tabs = with_bracket(job, job.struts[0], "tabs")
        assert isinstance(tabs.struts[0].bracket, TabsFoot) and "foot-wall" in of_strut(tabs)
        again = with_bracket(tabs, tabs.struts[0], "plate").struts[0].bracket
        assert isinstance(again, PlateFoot) and again.cheek_foot_mm == 38.0
        assert with_bracket(job, job.struts[0], None).struts[0].bracket is None
        nowhere = with_value(
            with_bracket(job, job.struts[0], None), f"struts/{job.struts[0].id}/chassis_at", (0, 0, 3000.0)
        )
        with pytest.raises(JobError, match="no part of the chassis") as told:
            with_bracket(nowhere, nowhere.struts[0], "plate")
        assert told.value.place == f"struts/{job.struts[0].id}/chassis_at"


def test_proposed(demo: Job) -> None:
    """A strut that stands on nothing gets a bracket of the thinnest sheet that holds; one that somebody
    looked at is left alone."""
    bare = struck(demo)
    key = bare.struts[0].id
    bare = with_value(bare, f"struts/{key}/bracket", None)
    found = proposed(bare)
    strut = found.job.struts[0]
    assert isinstance(strut.bracket, PlateFoot) and strut.bracket.host == "rail-left"
    assert any(words.startswith("Torque strut: a bracket on Left rail, of ") for words in found.done)
    own = of_strut(found.job)
    assert max(f.use for code, f in own.items() if code.startswith("foot-") or code == "cheeks") <= 1
    sheets = [3.0, 4.0, 5.0, 6.0, 8.0, 10.0, 12.0, 15.0]
    thinner = sheets.index(strut.cheek_mm) - 1
    if thinner >= 0:
        job = with_value(found.job, f"struts/{key}/bracket/plate_mm", sheets[thinner])
        less = of_strut(with_value(job, f"struts/{key}/cheek_mm", sheets[thinner]))
        assert max(less[c].use for c in ("foot-cheeks", "foot-overhang", "foot-cheek-end", "cheeks")) > 0.9
    looked = with_value(bare, f"struts/{key}/ends", "looked at")
    assert proposed(looked).job.struts[0].bracket is None


def test_by_the_mouse(desk: Desk, demo: Job) -> None:
    job = struck(demo)
    key = job.struts[0].id
    desk.session.edit("Struck", with_value(job, f"struts/{key}/bracket", None))
    desk.go("mounts")
    sheet = desk.sheets["mounts"]
    assert isinstance(sheet, MountsSheet)
    sheet.rooms.go("strut")
    unfold_all(sheet.strut)
    kind = sheet.strut.brackets[key].kind
    kind.take(1)
    assert isinstance(desk.session.job.struts[0].bracket, PlateFoot)
    assert len(sheet.strut.bars[key].findings) > 10 and sheet.strut.brackets[key].host.isVisible()
    kind.take(2)
    assert isinstance(desk.session.job.struts[0].bracket, TabsFoot)
    click(desk, "Take this strut out")
    assert desk.session.job.struts == ()


class TestOnWhatElse:
    """Its bracket on a cradle, and on the crossmember."""

    @staticmethod
    def on_bar(job: Job) -> Job:
        """The left mount and the strut on one bar of a cradle that two points hold, both askew of it."""
        x, y, z = job.mounts[0].bush.centre
        cradle = Cradle(
            id="cradle",
            name="Bar",
            points=(
                CradlePoint(id="a", at=(x + 4, y + 260, z - 95), held="bolts"),
                CradlePoint(id="b", at=(x - 6, y - 90, z - 92), held="bolts"),
            ),
            tubes=(CradleTube(id="t", start="a", end="b"),),
            section=HollowSection(shape="rectangle", height_mm=60, width_mm=110, wall_mm=4),
            looked_at="looked at",
        )
        job = with_value(job, "cradles", (cradle,))
        foot = TabsFoot(host="cradle", way=(0.0, 0.0, -1.0), weld_inside=True)
        job = with_value(job, "mounts/left/foot", foot)
        engine = pose_of(job.position).inverse().points(np.array([x + 30.0, y + 60.0, z + 190.0]))
        strut = Strut(
            id="strut",
            name="Strut",
            engine_at=tuple(round(float(c), 2) for c in engine),
            chassis_at=(x - 2.0, y + 150.0, z - 20.0),
            gap_mm=0.0,
            bracket=TabsFoot(host="cradle", way=(0.0, 0.0, -1.0), weld_inside=True, cheek_foot_mm=60),
        )
        return with_value(job, "struts", (strut,))

    def test_a_cradle_bears_it_too(self, demo: Job) -> None:
        """What the chassis does to the two ends of the bar is all that mount and strut put on it: by statics,
        without the frame, in every case; and its hardest-used hold by hand from that."""
        job = self.on_bar(demo)
        cradle, found = job.cradles[0], carried(job)
        stands: list[tuple[Mount | Strut, Vec3]] = [
            (job.mounts[0], job.mounts[0].bush.centre),
            (job.struts[0], job.struts[0].chassis_at),
        ]
        cases = mount_cases(found, job.mounts[0])
        force = np.array([[-c.force for c in mount_cases(found, m)] for m, _ in stands])
        assert np.abs(force[1]).max() > 300
        rows = [Standing(m, s, mount_cases(found, m)) for m, s in standing_on(job, cradle)]
        seat = strut_seat(job, job.struts[0])
        assert seat is not None
        rows.append(Standing(on_chassis(job.struts[0]), seat, mount_cases(found, job.struts[0])))
        told = {f.code: f for f in verdict(job).findings if f.part == "cradle"}
        want = {f.code: f for f in cradle_checks(cradle, rows, job.allowables)}
        alone = {f.code: f for f in cradle_checks(cradle, rows[:1], job.allowables)}
        for code in ("cradle-stress", "cradle-held", "cradle-move"):
            assert told[code].use == pytest.approx(want[code].use, rel=1e-9)
            assert abs(told[code].use / alone[code].use - 1) > 0.05, code
        response = cradle_response(cradle, tuple(tuple(float(c) for c in row.seat.centre) for row in rows))
        ends = np.array([p.at for p in cradle.points])
        for k in range(len(cases)):
            loads = np.hstack(
                [
                    np.concatenate([f[k], np.cross(np.array(at) - response.at[i], f[k])])
                    for i, (f, (_, at)) in enumerate(zip(force, stands, strict=True))
                ]
            )
            held = np.einsum("l,lhc->hc", loads, response.held)
            whole = force[:, k].sum(0)
            turn = sum(np.cross(np.array(at), f[k]) for f, (_, at) in zip(force, stands, strict=True))
            assert np.allclose(held[:, :3].sum(0), -whole, atol=1e-3)
            assert np.allclose(np.cross(ends, held[:, :3]).sum(0) + held[:, 3:].sum(0), -turn, atol=1.0)

    def test_beside_what_the_crossmember_carries_it_is_open(self, demo: Job) -> None:
        """The crossmember's sums bear its own mount alone: another mount on it, and a strut's bracket, are
        asked about, and hold nothing."""
        word = "whose sums bear Gearbox mount alone"

        def told(job: Job) -> list[str]:
            return [p.place for p in verdict(job).problems if word in p.sentence]

        assert not told(demo)
        foot = TabsFoot(host="crossmember", way=(0.0, 0.0, -1.0))
        other = with_value(demo, "mounts/left/foot", foot)
        assert told(other) == ["mounts/left/foot/host"]
        assert next(m for m in verdict(other).mounts if m.mount == "left").bush_to_rail == "open"
        job = struck(demo)
        key = job.struts[0].id
        job = with_value(job, f"struts/{key}/bracket", foot)
        assert told(job) == [f"struts/{key}/bracket/host"]
