"""Members cut open and put back: sections by hand, as they lie in the car, and the stage in its window."""

from __future__ import annotations

import json
import math
from typing import Any

import numpy as np
import pytest
from nimble_cradle.cli.main import main
from nimble_cradle.design.mending import SHEETS, first_opening, ways_to_mend
from nimble_cradle.desk.stages.chassis.openings_room import OpeningsRoom
from nimble_cradle.desk.window import Desk
from nimble_cradle.fit.member import member_of, members_of
from nimble_cradle.fit.opened_member import OpenedMember, opened_member, opened_members
from nimble_cradle.job.base import JobError
from nimble_cradle.job.edits import added, with_value
from nimble_cradle.job.job import Job
from nimble_cradle.job.opening import Opening
from nimble_cradle.job.shapes import Box
from nimble_cradle.judge.chassis import opening_questions
from nimble_cradle.judge.verdict import verdict
from nimble_cradle.stock.rack import Rack, RackSheet
from nimble_cradle.strength.opened import laid, whole_share
from nimble_cradle.strength.section import thin_walled

from pressing import click, unfold_all

RAIL = "rail-left"
CUT = Opening(
    id="cut", name="Cut", item=RAIL, at_mm=700, long_mm=240, side="top", deep_mm=38, braced="braced"
)


def opened(job: Job, **fields: Any) -> OpenedMember:
    """The left rail of the truck, a box of 60 x 150 x 3, with a cut."""
    return opened_member(job, CUT.model_copy(update=fields))


def bars(*parts: tuple[float, float, float]) -> float:
    """Second moment mm4 about their common middle of upright and level strips: (area, height of its middle,
    its own second moment)."""
    area = sum(a for a, _, _ in parts)
    middle = sum(a * z for a, z, _ in parts) / area
    return sum(own + a * (z - middle) ** 2 for a, z, own in parts)


class TestByHand:
    """Middle lines: 57 wide, 147 high, wall 3; cut 38 mm deep, so that 112 - 1.5 of each side is left."""

    def test_bending(self, demo: Job) -> None:
        found = opened(demo)
        floor = (57 * 3.0, 0.0, 57 * 3**3 / 12)
        roof = (57 * 3.0, 147.0, 57 * 3**3 / 12)
        side = (2 * 147 * 3.0, 73.5, 2 * 3 * 147**3 / 12)
        low = (2 * 110.5 * 3.0, 55.25, 2 * 3 * 110.5**3 / 12)
        whole, cut = bars(floor, roof, side), bars(floor, low)
        assert found.before.section is not None and found.cut.section is not None
        assert found.before.section.i_y == pytest.approx(whole, rel=1e-9)
        assert found.shares(found.cut).up == pytest.approx(cut / whole, rel=1e-9)
        thick = opened(demo, mend="cover", mend_mm=5.0)
        assert thick.mended is not None
        lid = (57 * 5.0, 110.5, 57 * 5**3 / 12)
        assert thick.shares(thick.mended).up == pytest.approx(bars(floor, low, lid) / whole, rel=1e-9)
        plated = opened(demo, mend="sides", mend_mm=4.0)
        assert plated.mended is not None
        doubled = (2 * 110.5 * 7.0, 55.25, 2 * 7 * 110.5**3 / 12)
        assert plated.shares(plated.mended).up == pytest.approx(bars(floor, doubled) / whole, rel=1e-9)
        # two plates of 4 mm, 110.5 high and 60 mm longer at each end, and their edges
        assert plated.mend_kg == pytest.approx(2 * 110.5 * 4 * 360 * 7.85e-6, rel=1e-3)
        assert plated.weld_mm == pytest.approx(4 * 360 + 4 * 110.5)

    def test_twist(self, demo: Job) -> None:
        """Bredt where it is closed, a third of l t^3 where it is open; between ends that cannot warp more."""
        found = opened(demo)
        closed = 4 * (57 * 147) ** 2 / (2 * (57 + 147) / 3) + 2 * (57 + 147) * 27 / 3
        open_ = (57 + 2 * 110.5) * 27 / 3
        shares = found.shares(found.cut)
        assert shares.twist_free == pytest.approx(open_ / closed, rel=1e-6)
        assert shares.twist_free < shares.twist_held < 0.2
        lid = opened(demo, mend="cover", mend_mm=5.0)
        assert lid.mended is not None
        ring = 4 * (57 * 110.5) ** 2 / ((57 + 2 * 110.5) / 3 + 57 / 5) + (57 + 221) * 27 / 3 + 57 * 125 / 3
        assert lid.shares(lid.mended).twist_free == pytest.approx(ring / closed, rel=1e-6)

    def test_the_whole_rail_as_springs_in_series(self, demo: Job) -> None:
        found = opened(demo)
        there = found.shares(found.cut).up
        softness = (1920 - 240) / 1 + 240 / there
        assert found.whole(found.cut).up == pytest.approx(1920 / softness)
        assert whole_share(1.0, 300, 900) == 1.0 and whole_share(0.0, 300, 900) == 0.0


class TestAsItLies:
    def test_an_open_section_turned_four_ways(self) -> None:
        """A C of 120 x 55 x 3: its shear centre lies 3 b2/(h + 6 b) behind its web, wherever that is."""
        b, h = 53.5, 117.0
        behind = 3 * b**2 / (h + 6 * b)
        flat = None
        for axis, sign in ((0, 1.0), (0, -1.0), (1, 1.0), (1, -1.0)):
            tall, wide = (120.0, 55.0) if axis == 0 else (55.0, 120.0)
            walls = laid("open C", tall, wide, 3.0, 0.0, (axis, sign))
            s = thin_walled(walls)
            web = min(sign * p[axis] for w in walls for p in (w.start, w.end))
            assert sign * s.shear_centre[axis] == pytest.approx(web - behind, rel=1e-6)
            pair = (s.i_y, s.i_z) if axis == 0 else (s.i_z, s.i_y)
            flat = flat or pair
            assert pair == pytest.approx(flat)

    def test_a_hats_skin_lies_where_it_is_said(self, hatchback: Job) -> None:
        """Cut from its top a leg loses its skin; from below, the hat's own roof, which is thicker."""
        job = with_value(hatchback, "items/leg-left/host/second_skin_mm", 0.8)
        opening = Opening(id="a", name="A", item="leg-left", at_mm=300, long_mm=100, side="top", deep_mm=5)
        top = opened_member(job, opening)
        below = opened_member(job, opening.model_copy(update={"side": "bottom"}))
        assert top.before.section is not None
        assert below.shares(below.cut).up != pytest.approx(top.shares(top.cut).up, rel=0.05)
        turned = with_value(job, "items/leg-left/host/opens", "bottom")
        under = opened_member(turned, opening.model_copy(update={"side": "bottom"}))
        assert under.shares(under.cut).up == pytest.approx(top.shares(top.cut).up)

    def test_left_and_right_are_the_cars(self, demo: Job) -> None:
        """An open C on the left rail, open to the inside: cut from the left it loses its web and falls in two;
        from the right only the ends of its flanges. On the right rail the other way round."""
        for rail, web, lips in (("rail-left", "left", "right"), ("rail-right", "right", "left")):
            job = with_value(demo, f"items/{rail}/host/section", "open C")
            there = opened(job, item=rail, side=web, deep_mm=10)
            assert there.cut.section is None and there.shares(there.cut).up == 0
            away = opened(job, item=rail, side=lips, deep_mm=10)
            assert away.cut.section is not None and away.shares(away.cut).up > 0.8

    def test_a_member_that_is_turned_and_moved(self, demo: Job) -> None:
        """Its size and length do not change; its front end is where it is."""
        turned = Box(centre=(-340.0, 425.0, -75.0), size=(1920.0, 60.0, 150.0), turn=(0.0, 3.0, 7.0))
        job = with_value(demo, f"items/{RAIL}/shapes", (turned,))
        item = next(i for i in job.items if i.id == RAIL)
        member = member_of(job, item)
        assert (member.length, member.wide, member.tall) == pytest.approx((1920, 60, 150))
        assert member.start[0] > member.end[0] and abs(member.across @ member.up) < 1e-9
        assert float(np.linalg.norm((member.start + member.end) / 2 - turned.centre)) < 1e-6
        assert opened(job).shares(opened(job).cut).up == pytest.approx(
            opened(demo).shares(opened(demo).cut).up
        )


class TestWays:
    def test_the_thinnest_that_is_enough(self, demo: Job) -> None:
        opening = CUT.model_copy(update={"deep_mm": 20.0})
        ways = ways_to_mend(demo, opening, Rack())
        assert len(ways) == 3 and ways[0].enough
        best = ways[0]
        thinner = SHEETS[SHEETS.index(best.thick) - 1]
        less = opened(demo, deep_mm=20.0, mend=best.mend, mend_mm=thinner)
        assert not less.enough and opened(demo, deep_mm=20.0, mend=best.mend, mend_mm=best.thick).enough
        own = ways_to_mend(demo, opening, Rack(sheets=(RackSheet(thickness_mm=7.0),)))
        assert {way.thick for way in own} == {7.0}

    def test_what_is_open_is_asked(self, demo: Job) -> None:
        job = added(demo, "openings", CUT.model_copy(update={"braced": "unsaid"}))
        told = [p.sentence for p in opening_questions(job)]
        assert any("is not put back" in s and "% of its bending" in s for s in told)
        assert any("brace it before" in s for s in told)
        state = next(m for m in verdict(job).problems if m.stage == "chassis")
        assert state.place.startswith("openings/cut/")
        weak = added(demo, "openings", CUT.model_copy(update={"mend": "cover", "mend_mm": 1.0}))
        assert any("100 % is wanted" in p.sentence for p in opening_questions(weak))
        enough = added(demo, "openings", CUT.model_copy(update={"mend": "cover and sides", "mend_mm": 8.0}))
        assert opening_questions(enough) == ()

    @pytest.mark.parametrize(
        ("fields", "said"),
        [
            ({"deep_mm": 150.0}, "nothing would be left"),
            ({"at_mm": 1800.0}, "mm long"),
            ({"side": "front"}, "is an end of it"),
            ({"item": "nowhere"}, "not there any more"),
            ({"item": "front-crossmember", "at_mm": 100.0}, "say what section it has"),
        ],
    )
    def test_what_cannot_be_is_said_at_its_place(self, demo: Job, fields: dict[str, Any], said: str) -> None:
        with pytest.raises(JobError, match=said):
            opened(demo, **fields)
        job = added(demo, "openings", CUT.model_copy(update=fields))
        assert isinstance(opened_members(job)[-1], JobError) and not verdict(job).holds

    def test_on_the_command_line(self, capsys: pytest.CaptureFixture[str], demo_path: Any) -> None:
        assert main(["chassis", str(demo_path), "--json"]) == 0
        data = json.loads(capsys.readouterr().out)
        (fan,) = data["openings"]
        assert fan["enough"] and fan["cut"]["up"] < 0.5 < fan["mended"]["up"]
        assert {row["item"] for row in data["members"]} >= {"rail-left", "rail-right"}
        assert main(["chassis", str(demo_path)]) == 0
        told = capsys.readouterr().out
        assert "Brace before a member is cut" in told and "of what it was" in told


def test_in_the_window(desk: Desk) -> None:
    """A cut added, made deeper, and put back as the first way says."""
    desk.go("chassis")
    sheet = desk.sheets["chassis"]
    unfold_all(sheet)
    click(desk, "Add a cut")
    job = desk.session.job
    new = job.openings[-1]
    assert new == first_opening(with_value(job, "openings", job.openings[:-1]), members_of(job)[0][0].item.id)
    room = sheet.rooms.present
    assert isinstance(room, OpeningsRoom)
    group = room.groups[new.id]
    asked = [p.sentence for p in desk.session.verdict.problems if p.stage == "chassis"]
    assert len(asked) == 2
    before = group.left.text()
    desk.session.set_value(f"openings/{new.id}/deep_mm", new.deep_mm / 2, "Less deep")
    assert group.left.text() != before
    group.take()
    after = desk.session.job.openings[-1]
    assert after.mend != "open" and len(group.left.text().splitlines()) == 5
    found = opened_members(desk.session.job)[-1]
    assert isinstance(found, OpenedMember) and found.enough
    assert [p.sentence for p in desk.session.verdict.problems if p.stage == "chassis"] == asked[1:]
    assert math.isfinite(found.mend_kg) and found.mend_kg > 0
    desk.session.undo()
    assert desk.session.job.openings[-1].mend == "open"
