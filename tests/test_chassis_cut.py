"""Members cut open and put back: sections by hand, as they lie in the car, and the stage in its window."""

from __future__ import annotations

import json
import math
from typing import Any

import numpy as np
import pytest
import trimesh
from nimble_cradle.bay.bodies import bay_bodies, standing_items
from nimble_cradle.bay.cut_solids import solid_of
from nimble_cradle.bay.member import member_of, members_of
from nimble_cradle.cli.main import main
from nimble_cradle.design.bracing import brace_for, brace_words
from nimble_cradle.design.first_panel import first_panel, first_panels
from nimble_cradle.design.kept_piece import with_piece_kept
from nimble_cradle.design.mending import SHEETS, first_opening, ways_to_mend
from nimble_cradle.desk.stages.chassis.openings_room import OpeningsRoom
from nimble_cradle.desk.window import Desk
from nimble_cradle.fit.chassis_frame import Band, braced, frame_shares, stiffness
from nimble_cradle.fit.frame_parts import sorted_members
from nimble_cradle.fit.opened_member import OpenedMember, opened_member, opened_members
from nimble_cradle.job import store
from nimble_cradle.job.base import JobError
from nimble_cradle.job.bay import Cut, Item
from nimble_cradle.job.edits import added, with_value
from nimble_cradle.job.host import Host
from nimble_cradle.job.job import Job
from nimble_cradle.job.opening import Across, Opening
from nimble_cradle.job.shapes import Box
from nimble_cradle.judge.chassis import metal_words, opening_questions
from nimble_cradle.judge.verdict import verdict
from nimble_cradle.shop.cutlist import cut_list
from nimble_cradle.stock.rack import Rack, RackSheet
from nimble_cradle.stock.tubes import properties, stock
from nimble_cradle.strength.cross_section import figures_of
from nimble_cradle.strength.opened import laid, whole_share
from nimble_cradle.strength.section import thin_walled

from pressing import click, unfold_all

RAIL = "rail-left"
CUT = Opening(
    id="cut",
    name="Cut",
    item=RAIL,
    at_mm=700,
    long_mm=240,
    side="top",
    deep_mm=38,
    braced="braced",
    welds="looked at",
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


class TestBrace:
    def test_as_a_member_of_the_bay(self, demo: Job) -> None:
        """A square tube put into the bay as a member, by itself: the same share as the brace is told to
        keep."""
        deep = with_value(demo, "openings/fan/deep_mm", 52.0)
        brace = brace_for(deep, deep.openings[0], Rack())
        assert brace is not None and brace.enough and brace.found.without < 0.9 < brace.found.share
        tube = stock()[brace.name]
        wide = tube.height_mm if tube.shape == "square" else tube.width_mm
        bar = Item(
            id="brace",
            name="Brace",
            neighbour="metal",
            chassis=True,
            shapes=(Box(centre=(brace.station, 0.0, -75.0), size=(wide, 850.0, tube.height_mm)),),
            host=Host(section="box", wall_mm=tube.wall_mm),
        )
        there = with_value(deep, "items", (*deep.items, bar))
        cuts = [c for c in opened_members(there) if isinstance(c, OpenedMember)]
        rails, across, _ = sorted_members(there)
        joint = 200e6
        was = stiffness(rails, [b for b in across if b.item != "brace"], cuts, "was", joint, False)[0]
        now = stiffness(rails, across, cuts, "cut", joint, False)[0]
        # its section by middle lines here, by the standard's round corners there
        assert now / was == pytest.approx(brace.found.share, rel=0.02)

    def test_the_lightest_that_will_do(self, demo: Job) -> None:
        """Everything lighter either keeps too little or is bent for good; a cut that takes nothing asks for
        none; and where there are no two rails it is said."""
        deep = with_value(demo, "openings/fan/deep_mm", 52.0)
        best = brace_for(deep, deep.openings[0], Rack())
        assert best is not None and best.stress <= 235 and best.found.share >= 0.98
        for name, section in stock().items():
            p = properties(section)
            if p.kg_per_m * 0.85 < best.kg - 1e-6 and section.shape == "square":
                found = braced(deep, best.station, (p.area, p.i_lying, p.i_standing, p.torsion))
                turning = deep.vehicle.front_axle_kg * 9.80665 / 2 * 850
                stress = turning * (found.axial / p.area + found.bending / p.w_lying)
                assert found.share < 0.98 or stress > 235, name
        shallow = with_value(demo, "openings/fan/long_mm", 3.0)
        assert brace_for(shallow, shallow.openings[0], Rack()) is None
        assert "asks for no brace" in brace_words(None)
        alone = with_value(demo, "items", tuple(i for i in demo.items if i.id != "rail-right"))
        with pytest.raises(JobError, match="right rail"):
            brace_for(alone, alone.openings[0], Rack())


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


HOLE: dict[str, Any] = {"form": "hole", "hole_wide_mm": 26.0, "long_mm": 40.0, "lap_mm": 30.0}


class TestHoles:
    """In the rail of 60 x 150 x 3, of which the middle lines are 57 x 147."""

    def test_in_the_top_by_hand(self, demo: Job) -> None:
        found = opened(demo, **HOLE, side="top", hole_at_mm=22.0)
        # 22 from its left edge is 8 mm to the left of its middle
        webs, skin, top = 2 * 147 * 3, 57 * 3, (57 - 26) * 3
        up = bars((webs, 0, 2 * 3 * 147**3 / 12), (skin, -73.5, 57 * 27 / 12), (top, 73.5, 31 * 27 / 12))
        area = webs + skin + top
        left, right = 28.5 - (8 + 13), (8 - 13) + 28.5  # of the skin beside it
        y = 3 * (left * (28.5 - left / 2) - right * (28.5 - right / 2)) / area
        aside = (
            2 * (147 * 27 / 12)
            + 147 * 3 * ((28.5 - y) ** 2 + (28.5 + y) ** 2)
            + (3 * 57**3 / 12 + skin * y**2)
            + 3 * left**3 / 12
            + 3 * left * (28.5 - left / 2 - y) ** 2
            + 3 * right**3 / 12
            + 3 * right * (-28.5 + right / 2 - y) ** 2
        )
        now = found.cut.section
        assert now is not None and now.area == pytest.approx(area)
        assert now.i_y == pytest.approx(up, rel=1e-9) and now.i_z == pytest.approx(aside, rel=1e-9)
        # open, so twisted it is its strips, where its ends may warp
        assert now.torsion == pytest.approx((2 * 147 + 57 + 31) * 27 / 3, rel=1e-9)
        assert found.shares(found.cut).twist_held > 50 * found.shares(found.cut).twist_free
        other = opened(demo, **HOLE, side="top", hole_at_mm=38.0).cut.section
        assert other is not None and other.centroid[0] == pytest.approx(-now.centroid[0])
        assert now.centroid[0] < 0  # what is gone lay to the left, so what is left lies to the right

    def test_right_through(self, demo: Job) -> None:
        """Both webs: their middle is as it was, and what is left is two halves that bend as one."""
        one = opened(demo, **HOLE, side="left", hole_at_mm=75.0).cut.section
        both = opened(demo, **(HOLE | {"form": "hole right through"}), side="left", hole_at_mm=75.0)
        whole, now = both.before.section, both.cut.section
        assert one is not None and now is not None and whole is not None
        gone = 3 * 26**3 / 12
        assert one.i_y == pytest.approx(whole.i_y - gone, rel=1e-6)
        assert now.i_y == pytest.approx(whole.i_y - 2 * gone, rel=1e-4)
        assert now.centroid == pytest.approx(whole.centroid, abs=1e-3)
        assert now.torsion < 0.01 * whole.torsion
        high = opened(demo, **HOLE, side="left", hole_at_mm=40.0).cut.section
        assert high is not None and high.centroid[1] < -0.5  # it was over the middle

    def test_a_plate_over_it(self, demo: Job) -> None:
        found = opened(demo, **HOLE, side="top", mend="cover", mend_mm=3.0)
        shares = found.shares(found.at_last)
        assert shares.up == pytest.approx(1.0, rel=1e-9) and shares.twist_free == pytest.approx(1.0, rel=1e-6)
        (plate,) = found.plates
        assert plate.long == 40 + 60 and plate.wide == pytest.approx(60)  # no wider than its wall
        both = opened(demo, **(HOLE | {"form": "hole right through"}), side="left", mend="cover", mend_mm=3.0)
        assert both.shares(both.at_last).up == pytest.approx(1.0, rel=1e-6)
        assert both.shares(both.at_last).twist_free == pytest.approx(1.0, rel=1e-6)
        (plates,) = both.plates
        assert plates.quantity == 2 and plates.wide == pytest.approx(26 + 60)

    def test_what_is_no_hole_is_said(self, demo: Job) -> None:
        with pytest.raises(JobError, match="reaches over the edge of its wall"):
            opened(demo, **HOLE, side="top", hole_at_mm=10.0)
        bad = with_value(demo, "openings", (CUT.model_copy(update={**HOLE, "hole_wide_mm": 59.0}),))
        (asked,) = [q for q in opening_questions(bad) if q.place.endswith("hole_wide_mm")]
        assert "edge to edge" in asked.sentence

    def test_the_member_stays_in_the_bay(self, demo: Job) -> None:
        """A hole in its wall takes nothing of its outside; a cut of the same size does."""
        plain = with_value(demo, "openings", ())

        def corners(job: Job) -> int:
            item = next(i for i in standing_items(job) if i.id == RAIL)
            return sum(len(part.triangles[0]) for part in solid_of(item, job.meshes, "items"))

        holed = with_value(plain, "openings", (CUT.model_copy(update=HOLE),))
        assert corners(holed) == corners(plain) < corners(with_value(plain, "openings", (CUT,)))
        assert not any(key.startswith("over ") for key in first_panels(holed))
        with pytest.raises(JobError, match="a flat plate goes over it"):
            first_panel(holed, "over cut")

    def test_a_mount_does_not_stand_over_one(self, demo: Job) -> None:
        """The mount on the left rail: a hole where it stands is asked about in the mount, which then does not
        hold to the rail; one beside it is not."""
        mount = next(m for m in demo.mounts if m.foot is not None and m.foot.host == RAIL)
        member = member_of(demo, next(i for i in demo.items if i.id == RAIL))
        foot = float(member.start[0] - mount.bush.centre[0])

        def told(at: float) -> list[str]:
            hole = CUT.model_copy(update={**HOLE, "name": "Hole", "at_mm": at, "side": "left"})
            job = with_value(demo, "openings", (hole,))
            v = verdict(job)
            rail = next(m for m in v.mounts if m.mount == mount.id).bush_to_rail
            said = [p.sentence for p in v.problems if "where Hole is cut in its wall" in p.sentence]
            assert bool(said) == (rail != "holds")
            return said

        assert told(foot - 20.0) and not told(foot + 260.0)


class TestKeptPiece:
    def test_piece_and_member_are_the_whole(self, demo: Job) -> None:
        """On a rail that is turned and moved, cut in from its left: both together have the member's volume,
        the piece lies where it was, and it goes when it is moved."""
        plain = with_value(demo, "openings", ())
        turned = with_value(plain, f"items/{RAIL}/moved", (12.0, -3.0, 7.0))
        cut = CUT.model_copy(update={"side": "left", "deep_mm": 21.0})
        job = with_value(turned, "openings", (cut,))
        with_it, piece = with_piece_kept(job, "cut")

        def volume(job: Job, key: str) -> float:
            item = next(i for i in standing_items(job) if i.id == key)
            parts = solid_of(item, job.meshes, "items")
            return sum(float(trimesh.Trimesh(*part.triangles, process=False).volume) for part in parts)

        whole, left, own = volume(turned, RAIL), volume(with_it, RAIL), volume(with_it, piece.id)
        assert own == pytest.approx(240 * 21 * 150, rel=1e-6)
        assert left + own == pytest.approx(whole, rel=1e-9)
        at = np.vstack([p.triangles[0] for p in solid_of(piece, with_it.meshes, "items")])
        member = member_of(turned, next(i for i in turned.items if i.id == RAIL))
        first = float(((at - member.start) @ ((member.end - member.start) / member.length)).min())
        assert first == pytest.approx(700.0, abs=1e-6)
        assert at[:, 1].max() == pytest.approx(float(member.start[1]) + 30, abs=1e-6)  # the left face
        lower = with_value(with_it, f"items/{piece.id}/moved", (12.0, -3.0, -33.0))
        down = next(i for i in standing_items(lower) if i.id == piece.id)
        moved = np.vstack([p.triangles[0] for p in solid_of(down, lower.meshes, "items")])
        assert moved.min(0) == pytest.approx(at.min(0) + [0, 0, -40])
        assert not piece.chassis and piece.note == f"Cut out of {member.item.name}."

    def test_from_the_command_line(self, demo_path: Any, tmp_path: Any, capsys: Any) -> None:
        out = tmp_path / "kept.cradle"
        main(["chassis", str(demo_path), "--keep-piece", "fan", "-o", str(out), "--json"])
        kept = json.loads(capsys.readouterr().out)["kept"]
        assert any(item.id == kept["item"] for item in store.read(out).job.items)
        assert main(["chassis", str(demo_path), "--keep-piece", "fan"]) == 2

    def test_a_hole_gives_no_piece(self, demo: Job) -> None:
        job = with_value(demo, "openings", (CUT.model_copy(update=HOLE),))
        with pytest.raises(JobError, match="scrap"):
            with_piece_kept(job, "cut")


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
        """An open C on the left rail, open to the inside: cut from the left it loses its web and falls in
        two; from the right only the ends of its flanges. On the right rail the other way round."""
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

    def test_a_twist_that_is_not_sure_is_not_enough(self, hatchback: Job) -> None:
        """Plates beside the cut leave more than nine tenths of a leg's bending, and of its twist more than
        there was if its ends cannot warp, a sixth if they do."""
        opening = Opening(
            id="a", name="A", item="leg-left", at_mm=420, long_mm=120, side="top", deep_mm=12, want_percent=90
        )
        found = opened_member(hatchback, opening.model_copy(update={"mend": "sides", "mend_mm": 12.0}))
        assert found.mended is not None
        shares = found.shares(found.mended)
        assert shares.up > 0.9 and shares.twist_held > 0.9 and shares.twist_free < 0.3
        assert not found.enough

    def test_what_is_open_is_asked(self, demo: Job) -> None:
        job = added(demo, "openings", CUT.model_copy(update={"braced": "unsaid"}))
        told = [p.sentence for p in opening_questions(job)]
        assert any("is not put back" in s and "% of its bending" in s for s in told)
        assert any("brace it before" in s for s in told)
        state = next(m for m in verdict(job).problems if m.stage == "chassis")
        assert state.place.startswith("openings/cut/")
        unseen = CUT.model_copy(update={"mend": "cover and sides", "mend_mm": 8.0, "welds": "unsaid"})
        (welds,) = (p.sentence for p in opening_questions(added(demo, "openings", unseen)))
        assert "welds of its plates" in welds and "not judged here" in welds
        weak = added(demo, "openings", CUT.model_copy(update={"mend": "cover", "mend_mm": 1.0}))
        assert any("100 % is wanted" in p.sentence for p in opening_questions(weak))
        enough = added(demo, "openings", CUT.model_copy(update={"mend": "cover and sides", "mend_mm": 8.0}))
        assert opening_questions(enough) == ()

    def test_what_has_moved_since_before_the_cut_is_told(self, demo: Job) -> None:
        """Across from 850 to 847.5 is 2.5 mm; corners 12.0 apart before and 15.5 now are 3.5 out of square; a
        millimetre is the tape's."""
        mended = CUT.model_copy(update={"mend": "cover and sides", "mend_mm": 8.0})
        before = Across(across_mm=850.0, corner_mm=1212.0, other_mm=1200.0)

        def told(**tacked: float) -> list[str]:
            moved = mended.model_copy(update={"before": before, "tacked": Across(**tacked)})
            return [p.sentence for p in opening_questions(added(demo, "openings", moved))]

        assert told(across_mm=849.2, corner_mm=1212.5, other_mm=1199.8) == []
        (across,) = told(across_mm=847.5)
        assert "tacked: straight across it has gone -2.5 mm" in across
        skew = told(across_mm=850.0, corner_mm=1213.8, other_mm=1198.3)
        assert len(skew) == 1 and "3.5 mm out of square" in skew[0]

    def test_what_it_is_of_decides(self, demo: Job, hatchback: Job) -> None:
        mended = CUT.model_copy(update={"mend": "cover and sides", "mend_mm": 8.0})
        light = with_value(added(demo, "openings", mended), f"items/{RAIL}/material", "aluminium")
        (told,) = (p.sentence for p in opening_questions(light))
        assert "steel cannot be welded to Left rail" in told
        leg = opened_member(hatchback, hatchback.openings[0])
        assert metal_words(leg).startswith("Galvanised: grind") and "single skin" in metal_words(leg)
        assert metal_words(opened(demo)) == ""

    def test_its_plates_are_in_the_cut_list(self, demo: Job) -> None:
        """Cut 38 mm deep, 240 long, lap 60: a plate over 57 mm, two of 110.5 mm beside it, of the steel
        said."""
        mended = CUT.model_copy(update={"mend": "cover and sides", "mend_mm": 4.0, "steel": "S355"})
        rows = [r for r in cut_list(added(demo, "openings", mended)) if r.part.startswith("Cut:")]
        assert [(r.quantity, r.stock, r.material, r.size) for r in rows] == [
            (2, "sheet 4 mm", "S355", "360 x 110"),
            (1, "sheet 4 mm", "S355", "360 x 57"),
        ]
        assert rows[1].mass_kg == pytest.approx(0.36 * 0.057 * 0.004 * 7850, abs=0.01)

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
        standing = bay_bodies(job)  # what cannot be cut so stays whole, or loses what can
        assert standing.count == bay_bodies(demo).count

    def test_a_cut_by_hand_that_cannot_be(self, demo: Job) -> None:
        """Written into the file: along its own line, or between one place."""
        for between in (((620.0, 425.0, -75.0), (-100.0, 425.0, -75.0)), ((0.0, 425.0, -75.0),) * 2):
            cut = Cut(side="front", depth_mm=10.0, between=between)
            job = with_value(demo, f"items/{RAIL}/cuts", (cut,))
            with pytest.raises(JobError, match="one of its sides") as told:
                bay_bodies(job)
            assert told.value.place == f"items/{RAIL}/cuts" and not verdict(job).holds

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
    told = [p.sentence for p in desk.session.verdict.problems if p.stage == "chassis"]
    assert len(told) == 2 and told[1:] == asked[1:] and "are not judged here" in told[0]
    assert math.isfinite(found.mend_kg) and found.mend_kg > 0
    desk.session.undo()
    assert desk.session.job.openings[-1].mend == "open"


class TestFrame:
    """Two rails, a member across at the front, the gearbox crossmember."""

    def test_against_an_independent_frame(self, demo: Job) -> None:
        """PyNite, joints of one piece: the truck's twist and bending, its front member cut and as it was."""
        demo = with_value(demo, "openings/fan/at_mm", 120.0)  # far from the middle, nearer the left rail
        rails, across, _ = sorted_members(demo)
        cuts = tuple(found for found in opened_members(demo) if isinstance(found, OpenedMember))
        assert len(cuts) == 1 and len(across) == 2
        mine = {when: stiffness(rails, across, cuts, when, math.inf, False) for when in ("was", "cut")}
        for when in ("was", "cut"):
            theirs = by_pynite(demo, cuts[0] if when == "cut" else None)
            assert mine[when] == pytest.approx(theirs, rel=2e-3)

    def test_shares_are_bands_that_hang_together(self, demo: Job) -> None:
        found = frame_shares(demo)
        assert found.twist["was"] == found.bending["was"] == Band(1.0, 1.0)
        assert found.twist["cut"].high < 1 <= found.twist["mended"].low
        assert any("Front crossmember" in words for words in found.left_out)
        whole = with_value(demo, "openings", ())
        assert frame_shares(whole).twist["cut"] == Band(1.0, 1.0)
        assert all(share > 1 for _, share in frame_shares(whole).one_more)

    def test_a_mirrored_car_has_the_same_shares(self, demo: Job) -> None:
        items = []
        for item in demo.items:
            if item.id in ("rail-left", "rail-right"):
                (box,) = item.shapes
                assert isinstance(box, Box)
                x, y, z = box.centre
                box = box.model_copy(update={"centre": (x + (90.0 if item.id == "rail-left" else 0.0), y, z)})
                item = item.model_copy(update={"shapes": (box,)})
            items.append(item)
        odd = with_value(with_value(demo, "items", tuple(items)), "openings/fan/at_mm", 120.0)
        mirrored = []
        for item in odd.items:
            if item.id in ("rail-left", "rail-right"):
                other = next(i for i in odd.items if i.id.startswith("rail-") and i.id != item.id)
                (box,) = other.shapes
                assert isinstance(box, Box)
                x, y, z = box.centre
                item = item.model_copy(update={"shapes": (box.model_copy(update={"centre": (x, -y, z)}),)})
            mirrored.append(item)
        other_way = with_value(odd, "openings/fan/at_mm", 790.0 - 120 - 160)
        there, here = frame_shares(with_value(other_way, "items", tuple(mirrored))), frame_shares(odd)
        for when in ("cut", "mended"):
            for mirror, band in ((there.twist, here.twist), (there.bending, here.bending)):
                assert mirror[when].low == pytest.approx(band[when].low, rel=1e-6)
                assert mirror[when].high == pytest.approx(band[when].high, rel=1e-6)

    def test_a_frame_that_does_not_hang_together_says_so(self, demo: Job) -> None:
        lone = with_value(demo, "items/rail-right/host/wall_mm", None)
        with pytest.raises(JobError, match="waits for a left and a right rail"):
            frame_shares(lone)
        high = tuple((x, y, z + 500) for x, y, z in demo.crossmember.points)  # type: ignore[union-attr]
        air = with_value(demo, "crossmember/points", high)
        assert any("so it ties nothing" in words for words in frame_shares(air).left_out)


Diagonal = tuple[tuple[float, float, float], tuple[float, float, float]]


def add_cross(model: Any, cross: tuple[Diagonal, Diagonal]) -> None:
    """Four arms to where both bars cross."""
    model.add_section("arm", *bars_of(50, 60, 3))
    (a, b), (c, d) = ([np.array(p) for p in ends] for ends in cross)
    s, _ = np.linalg.solve(np.array([(b - a)[:2], (c - d)[:2]]).T, (c - a)[:2])
    model.add_node("crossing", *(float(v) for v in a + s * (b - a)))
    for end in ("lx0", "rx0", "lx1", "rx1"):
        model.add_member(f"arm {end}", end, "crossing", "steel", "arm")


def by_pynite(
    job: Job, cut: OpenedMember | None, cross: tuple[Diagonal, Diagonal] | None = None
) -> tuple[float, float]:
    """(twist, bending) of the truck's frame, its members placed by hand. cross: two bars of 50 x 60 x 3
    between the rails' middles, the first from the left in front, welded where they cross."""
    from Pynite import FEModel3D

    model = FEModel3D()
    model.add_material("steel", 210_000.0, 80_769.0, 0.3, 7.85e-6)
    front_x, gear = 470.0, job.crossmember
    assert gear is not None
    (gl, gr) = (np.array(p, dtype=float) for p in (gear.points[0], gear.points[-1]))
    rail = bars_of(60, 150, 3)
    model.add_section("rail", *rail)
    model.add_section("front", *bars_of(60, 60, 2))
    tube = figures_of(gear.section).own
    model.add_section("gear", tube.area, tube.i_lying, tube.i_standing, tube.torsion)
    model.add_section("stiff", 100 * rail[0], *(3 * [100 * max(rail[1:3])]))
    if cut is not None:
        s = cut.cut.section
        assert s is not None
        model.add_section("cut", s.area, s.i_y, s.i_z, s.torsion)
    for side, y in (("l", 425.0), ("r", -425.0)):
        stations = {
            "f": 620.0,
            "a": front_x,
            "m": -340.0,
            "g": float(gl[0] if side == "l" else gr[0]),
            "b": -1300.0,
        }
        for n, diagonal in enumerate(cross or ()):
            stations[f"x{n}"] = next(x for x, at, _ in diagonal if at == y)
        names = sorted(stations, key=lambda k: -stations[k])
        for k in names:
            model.add_node(side + k, stations[k], y, -75.0)
        for one, other in zip(names, names[1:], strict=False):
            model.add_member(f"rail {side}{one}", side + one, side + other, "steel", "rail")
    ends = {"l": 395.0, "r": -395.0}
    for side, y in ends.items():
        model.add_node(f"front {side}", front_x, y, -100.0)
        model.add_member(f"tie {side}", f"{side}a", f"front {side}", "steel", "stiff")
    if cut is None:
        model.add_member("front", "front l", "front r", "steel", "front")
    else:
        a, b = 395.0 - cut.opening.at_mm, 395.0 - cut.opening.at_mm - cut.opening.long_mm
        model.add_node("cut l", front_x, a, -100.0)
        model.add_node("cut r", front_x, b, -100.0)
        for name, one, other, section in (
            ("f1", "front l", "cut l", "front"),
            ("f2", "cut l", "cut r", "cut"),
            ("f3", "cut r", "front r", "front"),
        ):
            model.add_member(name, one, other, "steel", section)
    for side, point in (("l", gl), ("r", gr)):
        model.add_node(f"gear {side}", *(float(c) for c in point))
        model.add_member(f"hang {side}", f"{side}g", f"gear {side}", "steel", "stiff")
    model.add_member("gear", "gear l", "gear r", "steel", "gear")
    if cross is not None:
        add_cross(model, cross)
    model.def_support("lb", True, True, True, False, False, False)
    model.def_support("rb", True, False, True, False, False, False)
    model.def_support("rf", False, False, True, False, False, False)
    model.add_node_load("lf", "FZ", 1000.0)
    model.analyze(check_stability=False)
    twist = 1000.0 * 850.0**2 / model.nodes["lf"].DZ["Combo 1"]
    model.nodes["lf"].NodeLoads.clear()
    model.def_support("lf", False, False, True, False, False, False)
    for name in ("lm", "rm"):
        model.add_node_load(name, "FZ", -500.0)
    model.analyze(check_stability=False)
    down = -(model.nodes["lm"].DZ["Combo 1"] + model.nodes["rm"].DZ["Combo 1"]) / 2
    return float(twist), float(1000.0 / down)


def bars_of(wide: float, tall: float, wall: float) -> tuple[float, float, float, float]:
    """Area, second moments (up and down, sideways) and torsion constant of a box by its middle lines."""
    b, h = wide - wall, tall - wall
    area = 2 * (b + h) * wall
    up = bars(
        (b * wall, 0, b * wall**3 / 12),
        (b * wall, h, b * wall**3 / 12),
        (2 * h * wall, h / 2, h**3 * wall / 6),
    )
    aside = bars(
        (h * wall, 0, h * wall**3 / 12),
        (h * wall, b, h * wall**3 / 12),
        (2 * b * wall, b / 2, b**3 * wall / 6),
    )
    return area, up, aside, 4 * (b * h) ** 2 * wall / (2 * (b + h)) + 2 * (b + h) * wall**3 / 3


def arm(key: str, start: tuple[float, float, float], end: tuple[float, float, float]) -> Item:
    """A box of 50 x 60 x 3 between two places, as a member."""
    run = np.subtract(end, start)
    turn = math.degrees(math.atan2(run[1], run[0]))
    middle = tuple(float(v) for v in (np.array(start) + end) / 2)
    shape = Box(centre=middle, size=(float(np.linalg.norm(run)), 50.0, 60.0), turn=(0.0, 0.0, turn))
    host = Host(section="box", wall_mm=3.0)
    return Item(id=key, name=key, neighbour="metal", chassis=True, shapes=(shape,), host=host)


class TestCross:
    """A cross between the truck's rails, longer than it is wide, askew: from x 100 on the left and 60 on the
    right to -1080 and -1100."""

    ENDS = ((100.0, 425.0, -75.0), (-1100.0, -425.0, -75.0)), ((-1080.0, 425.0, -75.0), (60.0, -425.0, -75.0))

    def crossed(self, job: Job, lower: float = 0.0) -> Job:
        """Two bars through, the second one lower."""
        one, two = self.ENDS
        down = np.array([0.0, 0.0, lower])
        job = added(with_value(job, "openings", ()), "items", arm("one", *one))
        return added(job, "items", arm("two", *(tuple(np.subtract(p, down)) for p in two)))

    def in_arms(self, job: Job) -> Job:
        """The same of four arms that meet in the middle."""
        (a, b), (c, d) = (np.array(e) for e in self.ENDS)
        # where both cross, in plan
        s, _ = np.linalg.solve(np.column_stack([(b - a)[:2], (c - d)[:2]]), (c - a)[:2])
        middle = tuple(float(v) for v in a + s * (b - a))
        job = with_value(job, "openings", ())
        for key, end in (("a", a), ("b", b), ("c", c), ("d", d)):
            job = added(job, "items", arm(key, tuple(float(v) for v in end), middle))  # type: ignore[arg-type]
        return job

    def twist(self, job: Job) -> float:
        rails, across, _ = sorted_members(job)
        return stiffness(rails, across, (), "was", math.inf, False)[0]

    @pytest.mark.parametrize("lift", [0.0, 50.0])
    def test_against_an_independent_frame(self, demo: Job, lift: float) -> None:
        """lift: of the gearbox crossmember, which is bolted in: also where it is level with the cross it is
        not joined to it."""
        assert demo.crossmember is not None
        points = tuple((x, y, z + lift) for x, y, z in demo.crossmember.points)
        job = with_value(demo, "crossmember/points", points)
        mine = self.twist(self.crossed(job))
        plain = self.twist(with_value(job, "openings", ()))
        assert mine == pytest.approx(by_pynite(job, None, self.ENDS)[0], rel=2e-3)
        assert mine > 1.5 * plain

    def test_of_four_arms_it_is_the_same(self, demo: Job) -> None:
        job = self.in_arms(demo)
        _, across, left_out = sorted_members(job)
        assert {"a", "b", "c", "d"} <= {bar.item for bar in across}
        assert self.twist(job) == pytest.approx(self.twist(self.crossed(demo)), rel=5e-3)
        assert not any(word in said for said in left_out for word in ("a ends", "b ends", "c ends", "d ends"))

    def test_what_passes_over_is_not_joined(self, demo: Job) -> None:
        """41 mm apart in the middle they are two diagonals; 39 mm apart they are one cross. The gearbox
        crossmember, which is bolted in under it, is in neither joined to it."""
        near, far = (self.twist(self.crossed(demo, lower)) for lower in (39.0, 41.0))
        assert near > 1.02 * far

    def test_an_arm_to_nowhere_is_told(self, demo: Job) -> None:
        (a, b), _ = self.ENDS
        middle = tuple(float(v) for v in (np.array(a) + b) / 2)
        job = added(with_value(demo, "openings", ()), "items", arm("alone", a, middle))  # type: ignore[arg-type]
        _, across, left_out = sorted_members(job)
        assert "alone" not in {bar.item for bar in across}
        assert any("alone ends" in said and "ties nothing" in said for said in left_out)
