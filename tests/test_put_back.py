"""Panels that put a member back or hold its shape: patches over holes, doublers beside cuts, caps on ends,
ribs under mounts; each measured where it stands in the car, by hand."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from nimble_cradle.bay.member import Member, members_of
from nimble_cradle.cli.main import main
from nimble_cradle.demo import demo_folder
from nimble_cradle.design.first_panel import first_panels, with_first_panels
from nimble_cradle.desk.bay_view.told import openings_told
from nimble_cradle.desk.stages.chassis.panels_room import PanelsRoom
from nimble_cradle.desk.window import Desk
from nimble_cradle.findings.finding import Finding
from nimble_cradle.fit.opened_member import opened_member
from nimble_cradle.geometry.solids import placed_part
from nimble_cradle.job import store
from nimble_cradle.job.base import JobError
from nimble_cradle.job.edits import added, with_value
from nimble_cradle.job.job import Job
from nimble_cradle.job.opening import Opening
from nimble_cradle.job.panel import Panel
from nimble_cradle.judge.panels import panel_questions
from nimble_cradle.judge.verdict import verdict
from nimble_cradle.made.panel import made_panel
from nimble_cradle.shop.cutlist import cut_list

from pressing import unfold_all

RAIL = "items/rail-left/host"


def faces(panel: Panel) -> dict[str, np.ndarray]:
    """Corners (n, 3) of the sheet and of each lip where they stand in the car."""
    made = made_panel(panel)
    return {
        key: np.vstack([placed_part(part, made.pose).triangles[0] for part in parts])
        for key, parts in made.folded.solids
    }


def bare(job: Job) -> Job:
    """Without the demo's own cut and its plate."""
    return with_value(with_value(job, "openings", ()), "panels", ())


def holed(job: Job, **fields: Any) -> Job:
    plain: dict[str, Any] = {"form": "hole", "hole_wide_mm": 40.0, "side": "right", "hole_at_mm": 50.0}
    hole = Opening(
        id="h", name="Hole", item="rail-left", at_mm=500, long_mm=70, mend="cover", mend_mm=4.0, lap_mm=30.0,
        **{**plain, **fields},
    )  # fmt: skip
    return added(bare(job), "openings", hole)


def asked(job: Job) -> list[str]:
    return [p.sentence for p in panel_questions(job)]


class TestPatch:
    @pytest.mark.parametrize(
        ("side", "at"), [("right", 50.0), ("left", 100.0), ("top", 35.0), ("bottom", 20.0)]
    )
    def test_over_its_hole(self, demo: Job, side: str, at: int) -> None:
        """Flat on the wall that the hole is in, its lap beyond the hole along the rail, and across it as far
        as the wall goes."""
        job = holed(demo, side=side, hole_at_mm=float(at), hole_wide_mm=24.0)
        job, panel = with_first_panels(job, "patch h")
        member = opened_member(job, job.openings[0]).member
        corners = faces(panel)[""]
        k, sign = {"left": (1, 1), "right": (1, -1), "top": (2, 1), "bottom": (2, -1)}[side]
        middle, size = (member.start + member.end) / 2, {1: member.wide, 2: member.tall}
        out = sign * corners[:, k]
        skin = sign * middle[k] + size[k] / 2
        assert (out.min(), out.max()) == pytest.approx((skin, skin + 4.0), abs=1e-6)
        front = max(member.start[0], member.end[0])
        assert (front - corners[:, 0].max(), front - corners[:, 0].min()) == pytest.approx(
            (470, 600), abs=0.06
        )
        other = 3 - k  # counted from the left or the upper edge
        hole = middle[other] + size[other] / 2 - at
        low, high = middle[other] - size[other] / 2, middle[other] + size[other] / 2
        there = corners[:, other].min(), corners[:, other].max()
        assert there == pytest.approx((max(hole - 42, low), min(hole + 42, high)), abs=0.06)
        assert not asked(job)
        assert not [r for r in cut_list(job) if "plate over the hole" in r.part]

    def test_both_sides(self, demo: Job) -> None:
        job = holed(demo, form="hole right through")
        assert [r.quantity for r in cut_list(job) if "over the hole" in r.part] == [2]
        job, one = with_first_panels(job, "patch h")
        assert [r.quantity for r in cut_list(job) if "over the hole" in r.part] == [1]
        job, two = with_first_panels(job, "patch-behind h")
        assert not [r for r in cut_list(job) if "over the hole" in r.part]
        a, b = (faces(p)[""] for p in (one, two))
        member = opened_member(job, job.openings[0]).member
        assert a[:, 1].max() <= b[:, 1].min() - member.wide + 1e-6
        for k in (0, 2):
            assert (a[:, k].min(), a[:, k].max()) == pytest.approx((b[:, k].min(), b[:, k].max()), abs=1e-6)

    def test_through_both_skins(self, demo: Job) -> None:
        job = with_value(holed(demo), f"{RAIL}/second_skin_mm", 1.5)
        _, panel = with_first_panels(job, "patch h")
        assert panel.held == "plug welded" and panel.seam == "round the edge" and "outer skin" in panel.note

    def test_a_plate_with_holes_is_no_whole_plate(self, demo: Job) -> None:
        job, panel = with_first_panels(holed(demo), "patch h")
        job = with_value(job, f"panels/{panel.id}/holes", ((40.0, 60.0),))
        assert any("reckoned with a whole plate" in s for s in asked(job))


class TestDoublers:
    def cut(self, job: Job, **fields: Any) -> Job:
        cut = Opening(
            id="c", name="Cut", item="rail-left", at_mm=460, long_mm=180, side="top", deep_mm=50.0,
            mend="sides", mend_mm=3.0, lap_mm=60.0, **fields,
        )  # fmt: skip
        return added(bare(job), "openings", cut)

    def test_one_on_each_wall(self, demo: Job) -> None:
        """Of a box of 60 x 150 cut 50 deep from above: 100 high, on the outside of both walls, over
        the cut and both laps; its ends narrower by 30 deg within four fifths of a lap."""
        job, first = with_first_panels(self.cut(demo), "doublers c")
        two = [p for p in job.panels if p.over == "c"]
        assert [p.name for p in two] and first == two[0] and len(two) == 2
        member = opened_member(job, job.openings[0]).member
        middle, front = (member.start + member.end) / 2, max(member.start[0], member.end[0])
        for panel, sign in zip(two, (-1, 1) if "right" in two[0].name else (1, -1), strict=True):
            corners = faces(panel)[""]
            out = sign * corners[:, 1]
            skin = sign * middle[1] + member.wide / 2
            assert (out.min(), out.max()) == pytest.approx((skin, skin + 3.0), abs=1e-6)
            low = middle[2] - member.tall / 2
            assert (corners[:, 2].min(), corners[:, 2].max()) == pytest.approx(
                (low, low + member.tall - 50), abs=0.06
            )
            assert (front - corners[:, 0].max(), front - corners[:, 0].min()) == pytest.approx(
                (400, 700), abs=0.06
            )
            end = corners[np.abs(corners[:, 0] - corners[:, 0].max()) < 1e-6][:, 2]
            assert np.ptp(end) == pytest.approx(100 - 2 * 48 * np.tan(np.radians(30)), abs=0.3)
        assert not asked(job) and not [r for r in cut_list(job) if "beside the cut" in r.part]
        one = with_value(job, "panels", job.panels[:-1])
        assert [r.quantity for r in cut_list(one) if "beside the cut" in r.part] == [1]

    @pytest.mark.parametrize(
        ("field", "value", "said"),
        [
            ("thick_mm", 2.0, "is reckoned with 3 mm"),
            ("outline", ((0, 0), (100, 0), (100, 150), (0, 150)), "shorter than"),
            (
                "outline",
                ((30, 0), (70, 0), (100, 100), (100, 200), (70, 300), (30, 300), (0, 200), (0, 100)),
                "narrower",
            ),
            ("holes", ((50, 150),), "has holes"),
        ],
    )
    def test_what_is_less_than_reckoned(self, demo: Job, field: str, value: Any, said: str) -> None:
        job, panel = with_first_panels(self.cut(demo), "doublers c")
        assert any(said in s for s in asked(with_value(job, f"panels/{panel.id}/{field}", value)))
        covered = with_value(job, "openings/c/mend", "cover")
        assert any("not reckoned with plates beside it" in s for s in asked(covered))


class TestCaps:
    @pytest.mark.parametrize("end", ["first", "last"])
    def test_on_a_box(self, demo: Job, end: str) -> None:
        """Off the end by the round of its bends, its lips outside all four walls and 25 mm along them."""
        job, panel = with_first_panels(holed(demo), f"cap-{end} rail-left")
        member = opened_member(job, job.openings[0]).member
        at, way = (member.start, 1.0) if end == "first" else (member.end, -1.0)
        way *= float(np.sign(member.start[0] - member.end[0]))
        own = faces(panel)
        t = panel.thick_mm
        ease = t * (1 - np.sqrt(0.5))
        out = way * (own[""][:, 0] - at[0])
        assert (out.min(), out.max()) == pytest.approx((ease, ease + t), abs=2e-3)
        every = np.vstack(list(own.values()))
        assert len(panel.lips) == 4
        for k, size in ((1, member.wide), (2, member.tall)):
            assert np.ptp(every[:, k]) == pytest.approx(size + 2 * (t + ease), abs=0.11)
            assert (every[:, k].min() + every[:, k].max()) / 2 == pytest.approx(at[k], abs=0.06)
        assert (way * (every[:, 0] - at[0])).min() == pytest.approx(ease + t - 25 - t, abs=0.01)
        assert not asked(job)

    @pytest.mark.parametrize("opens", ["left", "right"])
    def test_on_an_open_rail(self, demo: Job, opens: str) -> None:
        """No lip where it has no wall."""
        job = with_value(with_value(holed(demo), f"{RAIL}/section", "open C"), f"{RAIL}/opens", opens)
        _, panel = with_first_panels(job, "cap-first rail-left")
        own = faces(panel)
        every = np.vstack([own[lip.id] for lip in panel.lips])
        middle = own[""][:, 1].mean()
        sides = {"left": (every[:, 1].max() - middle), "right": (middle - every[:, 1].min())}
        assert len(panel.lips) == 3
        walls = [np.ptp(own[lip.id][:, 1]) for lip in panel.lips]
        upright = [
            own[lip.id][:, 1].mean() - middle for lip, w in zip(panel.lips, walls, strict=True) if w < 20
        ]
        assert len(upright) == 1 and (upright[0] < 0) == (opens == "left"), sides


class TestRibs:
    @pytest.fixture
    def opened(self, demo: Job) -> Job:
        """The truck on open rails, their open sides inwards."""
        for side, opens in (("left", "right"), ("right", "left")):
            base = f"items/rail-{side}/host"
            demo = with_value(with_value(demo, f"{base}/section", "open C"), f"{base}/opens", opens)
        return bare(demo)

    def test_in_the_room_of_its_rail(self, opened: Job) -> None:
        """Under the mount's foot, within web and flanges by half a millimetre, its lip at the open side."""
        mount = next(m for m in opened.mounts if m.foot is not None and m.foot.host == "rail-left")
        kind = f"rib {mount.id}"
        assert first_panels(opened)[kind].startswith("Rib in Left rail under ")
        job, panel = with_first_panels(opened, kind)
        member = next(m for m in members(job) if m.item.id == "rail-left")
        wall = member.item.host.wall_mm
        assert wall is not None
        own = faces(panel)
        middle = (member.start + member.end) / 2
        sheet, every = own[""], np.vstack(list(own.values()))
        web, tip = middle[1] + member.wide / 2 - wall, middle[1] - member.wide / 2
        assert every[:, 1].max() == pytest.approx(web - 0.5, abs=0.06)
        assert every[:, 1].min() == pytest.approx(tip, abs=0.06)
        for low, sign in ((sheet[:, 2].max(), 1), (sheet[:, 2].min(), -1)):
            assert sign * (low - middle[2]) == pytest.approx(member.tall / 2 - wall - 0.5, abs=0.06)
        assert own["lip-1"][:, 1].mean() < middle[1]
        assert sheet[:, 0].mean() == pytest.approx(mount.bush.centre[0], abs=60)
        assert not [s for s in asked(job) if "rib" in s.lower()]
        clashes = [p.sentence for p in verdict(job).problems if "Rib under" in p.sentence]
        assert not [s for s in clashes if "in one another" in s], clashes

    def test_it_answers_the_question(self, opened: Job) -> None:
        """An open rail asks for a rib under the mount, until one stands there; one that stands elsewhere, is
        riveted, too small or askew is none, and is told."""

        def open_rails(job: Job) -> bool:
            return any(p.place == f"{RAIL}/ribbed" and "mount" in p.sentence for p in verdict(job).problems)

        mount = next(m for m in opened.mounts if m.foot is not None and m.foot.host == "rail-left")
        assert open_rails(opened)
        job, panel = with_first_panels(opened, f"rib {mount.id}")
        assert not open_rails(job)
        base = f"panels/{panel.id}"
        x, y, z = panel.at
        wide, tall = (max(c[k] for c in panel.outline) for k in (0, 1))
        triangle = ((0.0, 0.0), (wide, tall / 2), (0.0, tall))
        for field, value, said in (
            ("at", (x - 80.0, y, z), ""),
            ("held", "riveted", "welded in"),
            ("at", (x, y - 12.0, z), "lies along 0 mm of a wall"),
            ("outline", triangle, "of a wall of Left rail; half"),
            ("outline", (triangle[0], triangle[1], (wide, 0.0), triangle[2]), "crosses itself"),
            ("at", (x, y, z + 3.0), "into a wall"),
            ("normal", (0.8, 0.6, 0.0), "off square"),
            ("role", "sheet", ""),
            ("on", "rail-right", "of a wall"),
        ):
            other = with_value(job, f"{base}/{field}", value)
            assert open_rails(other), field
            assert not said or any(said in s for s in asked(other)), (field, asked(other))

    def test_nothing_stands_on_the_open_side(self, opened: Job) -> None:
        """A foot, and an end plate, where an open rail has no wall is asked about, and leaves the mount open;
        not where it is open on the other side, or boxed."""

        def told(job: Job, stage: str) -> list[str]:
            return [
                p.sentence
                for p in verdict(job).problems
                if p.stage == stage and "the open side of" in p.sentence
            ]

        mount = next(m for m in opened.mounts if m.foot is not None and m.foot.host == "rail-left")
        assert mount.foot is not None
        side = np.array(mount.foot.way) @ [0.0, 1.0, 0.0] > 0.7  # it stands against the inner side
        for opens, boxed in (("right", False), ("left", False), ("top", False), ("right", True)):
            job = with_value(with_value(opened, f"{RAIL}/opens", opens), f"{RAIL}/boxed", boxed)
            there = opens == ("right" if side else "top") and not boxed
            assert any(mount.name in s for s in told(job, "mounts")) == there, opens
            if there:
                assert next(m for m in verdict(job).mounts if m.mount == mount.id).bush_to_rail == "open"
        ends = {
            where: with_value(opened, "crossmember/plates/where", where)
            for where in ("beside", "under", "top")
        }
        assert {w for w, job in ends.items() if told(job, "crossmember")} == {"beside"}

    def test_not_into_a_box(self, demo: Job) -> None:
        assert not [k for k in first_panels(demo) if k.startswith("rib ")]
        mount = next(m for m in demo.mounts if m.foot is not None and m.foot.host == "rail-left")
        with pytest.raises(JobError):
            with_first_panels(demo, f"rib {mount.id}")


def members(job: Job) -> list[Member]:
    return members_of(job)[0]


def test_in_the_room(desk: Desk, demo: Job) -> None:
    job = TestDoublers().cut(demo)
    desk.session.edit("Cut", job)
    desk.go("chassis")
    sheet: Any = desk.sheets["chassis"]
    sheet.rooms.go("panels")
    room = sheet.rooms.present
    assert isinstance(room, PanelsRoom)
    unfold_all(room)
    before = len(desk.session.job.panels)
    room.kinds.setCurrentIndex(room.kinds.findData("doublers c"))
    room.add()
    assert len(desk.session.job.panels) == before + 2
    assert room.table.rowCount() == before + 2


def test_from_the_command_line(demo: Job, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    own, out = tmp_path / "a.cradle", tmp_path / "b.cradle"
    store.write(own, TestDoublers().cut(demo))
    assert main(["chassis", str(own), "--json"]) in (0, 1)
    offered = json.loads(capsys.readouterr().out)["panels_to_begin"]
    assert offered["doublers c"] == "Doublers beside: Cut"
    assert main(["chassis", str(own), "--panel", "doublers c", "-o", str(out), "--json"]) in (0, 1)
    told = json.loads(capsys.readouterr().out)["made"]
    panels = store.read(out).job.panels
    assert len(panels) == 2 and told["panel"] == panels[0].id
    assert main(["chassis", str(own), "--panel", "doublers c"]) == 2
    assert main(["chassis", str(own), "--panel", "nonsense", "-o", str(tmp_path / "c.cradle")]) == 1
    assert "is not to be made" in capsys.readouterr().err and not (tmp_path / "c.cradle").exists()


def test_a_cut_s_tag_tells_welds_that_nobody_looked_at(desk: Desk, demo: Job) -> None:
    cut = with_value(TestDoublers().cut(demo, want_percent=10.0), "openings/c/mend", "cover and sides")
    for welds, state, said in (("unsaid", "open", True), ("looked at", "holds", False)):
        desk.session.edit(welds, with_value(cut, "openings/c/welds", welds))
        (tag,) = openings_told(desk.session)
        assert tag.state == state and any("nobody looked" in line for line in tag.lines) == said


class TestOneSideWall:
    """A flange of an open rail has a wall along one edge only, and what is boxed has two."""

    @pytest.fixture
    def swapped(self) -> Job:
        return bare(store.read(demo_folder("hatchback")).job)

    @staticmethod
    def on(job: Job, leg: str, **host: object) -> Job:
        for name, value in {"section": "open C", **host}.items():
            job = with_value(job, f"items/{leg}/host/{name}", value)
        return job

    def test_half_of_a_box(self, swapped: Job) -> None:
        """The right foot stands on the leg's top: a flange where the leg opens to a side, its web where it
        opens below. By hand: one wall that crumples, EN 1993-1-3, 6.1.7.3 (from memory)."""

        def wall(job: Job) -> Finding:
            return next(f for f in verdict(job).findings if f.code == "foot-wall" and f.part == "right")

        def force(job: Job) -> float:
            return float(wall(job).worked.value("force_capacity"))

        web = self.on(swapped, "leg-right", opens="bottom", ribbed=True)
        for opens in ("left", "right"):
            rib = self.on(swapped, "leg-right", opens=opens, ribbed=True)
            boxed = self.on(rib, "leg-right", boxed=True)
            assert force(rib) == pytest.approx(force(boxed) / 2, rel=1e-9)
            assert force(boxed) == pytest.approx(force(web), rel=1e-9)
            assert wall(rib).use > 1.9 * wall(boxed).use  # the engine stands a little otherwise
            given = {q.name: v for q, v, _ in wall(rib).worked.inputs}
            t, along = given["side"], given["along"]
            crumples = 0.115 * t**2 * (given["yield_mpa"] * 210e3) ** 0.5 * 0.9
            assert force(rib) == pytest.approx(crumples * (0.5 + (0.02 * along / t) ** 0.5) * 3.4, rel=1e-6)

    def test_a_leg_of_a_saddle_in_the_air(self, swapped: Job) -> None:
        """A saddle over a flange: one of its legs comes down where there is no wall."""

        def told(job: Job) -> bool:
            said = [p.sentence for p in verdict(job).problems]
            return any("one leg of its saddle hangs on the open side" in s for s in said)

        rib = self.on(swapped, "leg-left", opens="right", ribbed=True)
        assert told(rib)
        assert next(m for m in verdict(rib).mounts if m.mount == "left").bush_to_rail == "open"
        assert not told(self.on(rib, "leg-left", boxed=True))
        assert not told(self.on(rib, "leg-left", opens="bottom"))

    def test_a_sleeve_wants_a_far_wall(self, demo: Job) -> None:
        """Crush sleeves through the web of an open rail end in the air."""
        foot = next(m for m in demo.mounts if m.id == "left").foot
        assert foot is not None and foot.kind == "plate"
        sleeved = foot.model_copy(update={"fixing": "bolted", "holes": ((-30, 0), (30, 0)), "sleeves": True})
        job = with_value(bare(demo), "mounts/left/foot", sleeved)

        def told(job: Job) -> bool:
            return any("a crush sleeve has nothing to stand on" in p.sentence for p in verdict(job).problems)

        web = self.on(job, "rail-left", opens="left", ribbed=True)
        assert told(web) and not told(job)
        assert not told(self.on(web, "rail-left", boxed=True))
        assert not told(self.on(web, "rail-left", opens="top"))  # a flange at each end of the sleeve
