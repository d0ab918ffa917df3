"""Folded panels: bends by the standard's figures, volumes by the neutral fibre, where plates lie by
hand."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st
from nimble_cradle.bay.bodies import solid_of
from nimble_cradle.bay.position import pose_of
from nimble_cradle.design.first_panel import first_panel, first_panels
from nimble_cradle.desk.stages.chassis.panel_fields import edge_names
from nimble_cradle.desk.stages.chassis.panels_room import PanelsRoom
from nimble_cradle.desk.window import Desk
from nimble_cradle.fit.opened_member import opened_member
from nimble_cradle.fit.plug_row import pitch_over
from nimble_cradle.geometry.bend import bend_allowance, setback
from nimble_cradle.geometry.folded import SECTORS, Bend, folded
from nimble_cradle.geometry.solids import ShapeError, placed_part
from nimble_cradle.job.edits import added, with_value
from nimble_cradle.job.job import Job
from nimble_cradle.job.opening import Opening
from nimble_cradle.job.panel import Lip, Panel
from nimble_cradle.judge.panels import collisions, panel_questions
from nimble_cradle.judge.verdict import verdict
from nimble_cradle.made.panel import made_panel, panel_part
from nimble_cradle.shop.cutlist import cut_list
from nimble_cradle.shop.dxf import dxf
from nimble_cradle.shop.templates import templates
from nimble_cradle.strength.plug_welds import plug_holds, plug_pitch
from scipy.spatial import ConvexHull

from pressing import click, unfold_all

SHEET = ((0.0, 0.0), (200.0, 0.0), (200.0, 120.0), (0.0, 120.0))


def corners_of(parts: Any) -> np.ndarray:
    return np.vstack([part.triangles[0] for part in parts])


def volume(parts: Any) -> float:
    """Of convex solids that only touch, by hulls of their corners: another way than the program's."""
    return sum(ConvexHull(part.triangles[0].reshape(-1, 3)).volume for part in parts)


class TestBends:
    @pytest.mark.parametrize(("r", "t", "mm"), [(1.5, 1.5, 3.122), (3.0, 1.5, 5.655), (2.0, 1.0, 3.770)])
    def test_din_6935(self, r: float, t: float, mm: float) -> None:
        """By hand: pi/2 (R + k t/2), k = 0.65 + 0.5 log10(R/t)."""
        assert bend_allowance(r, t, 90.0) == pytest.approx(mm, abs=6e-4)
        k = 0.65 + 0.5 * math.log10(r / t)
        assert mm == pytest.approx(math.pi / 2 * (r + k * t / 2), abs=6e-4)

    def test_limits(self) -> None:
        """k is 1 from five thicknesses on: the neutral fibre is the middle."""
        assert bend_allowance(10.0, 2.0, 90.0) == pytest.approx(math.pi / 2 * 11)
        assert setback(3.0, 1.5, 90.0) == pytest.approx(4.5)
        assert setback(3.0, 1.5, 120.0) == pytest.approx(4.5 * math.sqrt(3))


class TestFolded:
    def test_outside_sizes(self) -> None:
        """A tray with three lips away, one of them with a lip of its own back towards: a rule finds 200 x 120
        and 22 high; and flat it is what legs less setbacks plus bends say."""
        bends = [
            Bend("a", "", 0, 22, 90, False),
            Bend("b", "", 1, 22, 90, False),
            Bend("c", "", 2, 30, 90, False),
        ]
        tray = folded(SHEET, bends, 1.5, 2.0)
        p = corners_of([part for _, parts in tray.solids for part in parts])
        assert p.min(0) == pytest.approx((0, 0, 0.75 - 30)) and p.max(0) == pytest.approx((200, 120, 0.75))
        ba, back = bend_allowance(2.0, 1.5, 90.0), 3.5
        x0, y0, x1, y1 = tray.pattern.bounds
        assert x1 - x0 == pytest.approx(200 + 22 - 2 * back + ba)
        assert y1 - y0 == pytest.approx(120 + 22 + 30 - 4 * back + 2 * ba)

    def test_volume_where_the_middle_is_neutral(self) -> None:
        """R = 5 t: folded and flat hold the same metal, but for the chords that a bend is drawn in."""
        bends = [
            Bend("a", "", 2, 40, 75, True),
            Bend("z", "a", 2, 30, 120, False),
            Bend("d", "", 3, 25, 60, False),
        ]
        t, r = 2.0, 10.0
        found = folded(SHEET, bends, t, r)
        chords = 0.0
        for face in found.faces[1:]:
            assert face.bend is not None
            turn = math.radians(face.bend.turned)
            each = turn / SECTORS
            ring = ((r + t) ** 2 - r**2) / 2 * face.length
            chords += ring * turn * (1 - math.sin(each) / each)
        solid = volume([part for _, parts in found.solids for part in parts])
        assert solid + chords == pytest.approx(found.pattern.area * t, rel=1e-6)

    def test_away_and_towards(self) -> None:
        """As one faces it: a lip towards stands out at the reader's side (z), one away behind."""
        up = folded(SHEET, [Bend("a", "", 1, 20, 90, True)], 1.0, 1.0)
        assert corners_of(dict(up.solids)["a"])[:, 2].max() == pytest.approx(19.5)
        down = folded(SHEET, [Bend("a", "", 1, 20, 90, False)], 1.0, 1.0)
        assert corners_of(dict(down.solids)["a"])[:, 2].min() == pytest.approx(-19.5)
        back = folded(SHEET, [Bend("a", "", 1, 20, 160, True)], 1.0, 1.0)
        assert corners_of(dict(back.solids)["a"])[:, 0].min() < 185  # leans back over the sheet

    def test_gone_round_the_other_way(self) -> None:
        bends = [Bend("a", "", 1, 20, 90, True, 30.0, 5.0)]
        one = folded(SHEET, bends, 1.0, 1.0)
        # the same corners named backwards: edge 1 (right, upwards) becomes the one that goes down there
        other = folded(SHEET[::-1], [Bend("a", "", 1, 20, 90, True, 5.0, 30.0)], 1.0, 1.0)
        first, second = (corners_of(dict(f.solids)["a"]) for f in (one, other))
        assert first.min(0) == pytest.approx(second.min(0)) and first.max(0) == pytest.approx(second.max(0))
        assert first[:, 1].min() == pytest.approx(30) and first[:, 1].max() == pytest.approx(115)

    @given(
        st.tuples(*[st.floats(-30, 30) for _ in range(8)]),
        st.integers(0, 3),
        st.floats(15, 60),
        st.floats(20, 140),
    )
    def test_a_lip_on_any_edge(self, by: tuple[float, ...], edge: int, long: float, turned: float) -> None:
        """Flat the sheet goes on beyond the edge by the leg less two setbacks plus the bend."""
        ring = np.array(SHEET) + np.array(by).reshape(4, 2)
        t, r = 1.2, 1.5
        assume(long > setback(r, t, turned) + 2)
        found = folded(ring, [Bend("a", "", edge, long, turned, True)], t, r)
        a, b = ring[edge], ring[(edge + 1) % 4]
        d = (b - a) / np.linalg.norm(b - a)
        out = np.array([d[1], -d[0]])
        beyond = (np.asarray(found.pattern.exterior.coords) - a) @ out
        want = long - 2 * setback(r, t, turned) + bend_allowance(r, t, turned)
        assert max(beyond.max(), 0.0) == pytest.approx(max(want, 0.0), abs=1e-6) or want < 0
        lip = corners_of(dict(found.solids)["a"])
        high = (lip[:, 2].max() + t / 2) / 1.0
        # outside height of a leg of ``long`` turned so, from the outside of the sheet
        corner = long * math.sin(math.radians(turned))
        assert high == pytest.approx(corner, abs=t * (1 + abs(math.cos(math.radians(turned)))) + 1e-6)

    def test_reliefs(self) -> None:
        """A lip that stays from its edge's ends: a slot a thickness wide beside it, past the bend."""
        found = folded(SHEET, [Bend("a", "", 2, 25, 90, True, 20, 40)], 1.5, 1.5)
        xs = np.asarray(found.pattern.exterior.coords)
        assert {180.0, 181.5, 40.0, 38.5} <= set(np.round(xs[:, 0], 3))
        assert xs[np.isclose(xs[:, 0], 181.5), 1].min() == pytest.approx(120 - 3.0 - 0.75)

    @pytest.mark.parametrize(
        ("bends", "said"),
        [
            ([Bend("a", "", 0, 2.0, 90, True)], "shorter than its bend"),
            ([Bend("a", "", 0, 20, 90, True), Bend("b", "", 0, 20, 90, True)], "one edge"),
            ([Bend("a", "b", 0, 20, 90, True)], "stands on nothing"),
            ([Bend("a", "a", 2, 20, 90, True)], "stands on nothing"),
            ([Bend("a", "", 0, 20, 90, True), Bend("b", "a", 0, 20, 90, True)], "its own bend"),
            ([Bend("a", "", 0, 20, 90, True, 150, 60)], "no length left"),
            ([Bend("a", "", 1, 20, 90, True), Bend("a", "", 2, 20, 90, True)], "called"),
        ],
    )
    def test_what_cannot_be(self, bends: list[Bend], said: str) -> None:
        with pytest.raises(ShapeError, match=said):
            _ = folded(SHEET, bends, 1.5, 1.5).pattern

    def test_lies_over_itself(self) -> None:
        """An angle that opens inwards: two long lips want the same sheet."""
        ell = ((0, 0), (200, 0), (200, 60), (80, 60), (80, 160), (0, 160))
        with pytest.raises(ShapeError, match="over itself"):
            _ = folded(
                ell, [Bend("a", "", 2, 50, 90, True), Bend("b", "", 3, 50, 90, True)], 1.0, 1.0
            ).pattern

    def test_folds_that_run_into_one_another(self) -> None:
        """Two lips turned back over the sheet from both sides meet in the middle; shorter ones do not."""
        for long, hits in ((110.0, True), (70.0, False)):
            lips = tuple(Lip(id=f"l{k}", edge=k, long_mm=long, turn_deg=165, way="towards") for k in (1, 3))
            panel = Panel(id="p", name="P", outline=SHEET, lips=lips, thick_mm=1.5, radius_mm=1.5)
            assert bool(collisions(made_panel(panel))) == hits


CUT = Opening(
    id="side",
    name="Side cut",
    item="rail-left",
    at_mm=500,
    long_mm=180,
    side="left",
    deep_mm=22,
    mend="cover",
    mend_mm=3.0,
    lap_mm=40,
    braced="braced",
    welds="looked at",
)


class TestOnTheCar:
    @pytest.mark.parametrize("side", ["left", "right", "top", "bottom"])
    def test_a_boxing_plate_lies_over_its_cut(self, demo: Job, side: Any) -> None:
        """Measured in the car: its inside is at the open edges, its lips go on towards the member along both
        walls beside the cut, and it goes 40 mm beyond the cut at both ends."""
        cut = CUT.model_copy(update={"side": side})
        job = added(demo, "openings", cut)
        made = made_panel(first_panel(job, "over side"))
        faces = {
            key: corners_of([placed_part(part, made.pose) for part in parts])
            for key, parts in made.folded.solids
        }
        every = np.vstack(list(faces.values()))
        member = opened_member(job, cut).member
        front = max(member.start[0], member.end[0])
        assert every[:, 0].max() == pytest.approx(front - 460, abs=1.0)
        assert every[:, 0].min() == pytest.approx(front - 460 - 260, abs=1.0)
        k, sign = {"left": (1, 1), "right": (1, -1), "top": (2, 1), "bottom": (2, -1)}[side]
        middle = ((member.start + member.end) / 2)[k]
        skin = sign * middle + {1: member.wide, 2: member.tall}[k] / 2
        sheet = sign * faces[""][:, k]
        off = 3 * (1 - math.sqrt(0.5))  # bent to 3 mm inside, off the square edges of the walls
        assert (sheet.min(), sheet.max()) == pytest.approx((skin - 22 + off, skin - 19 + off), abs=1e-3)
        laps = sign * np.vstack([faces["lip-5"], faces["lip-6"]])[:, k]
        assert laps.max() == pytest.approx(skin + 3, abs=1e-3)  # they lie on the skin beyond the cut
        sides = np.vstack([faces["lip-1"], faces["lip-2"]])
        assert (sign * sides[:, k]).min() == pytest.approx(
            skin - 19 + off - made.panel.lips[0].long_mm, abs=1e-3
        )
        across = 3 - k
        size = {1: member.wide, 2: member.tall}[across]
        assert np.ptp(every[:, across]) == pytest.approx(size + 6 + 2 * off, abs=0.1)
        clashes = [p.sentence for p in verdict(added(job, "panels", made.panel)).problems]
        assert not [s for s in clashes if "in one another" in s and "Side cut" in s and "Left rail" in s]

    def test_counted_once(self, demo: Job) -> None:
        """A cut's plate is in the cut list, and the panel over it instead once it is made."""
        job = added(demo, "openings", CUT)
        assert sum("Side cut" in row.part for row in cut_list(job)) == 1
        made = added(job, "panels", first_panel(job, "over side"))
        rows = [row for row in cut_list(made) if "Side cut" in row.part]
        assert [row.part for row in rows] == ["Side cut: plate"]
        area = made_panel(made.panels[-1]).folded.pattern.area
        assert rows[0].mass_kg == pytest.approx(area * 3 * 7.85e-6, abs=0.006)

    def test_through_the_engine(self, demo: Job) -> None:
        """A sheet in mid-bay is measured against what is there."""
        block = corners_of(solid_of(demo.powertrain.pieces[0], demo.meshes, "powertrain/pieces"))
        x, y, z = pose_of(demo.position).points(block.mean(0))
        sheet = first_panel(demo, "strip").model_copy(
            update={"at": (float(x), float(y), float(z)), "normal": (0.0, 1.0, 0.0), "up": (0.0, 0.0, 1.0)}
        )
        before = {p.sentence for p in verdict(demo).problems}
        new = [p for p in verdict(added(demo, "panels", sheet)).problems if p.sentence not in before]
        assert any(p.stage == "chassis" and "Strip" in p.sentence for p in new)

    def test_template(self, demo: Job) -> None:
        drawn, refused = templates(demo)
        (one,) = [d for d in drawn if d.name.startswith("panel-")]
        assert not [e for e in refused if "panel" in e.place]
        assert sum(mark.layer == "FOLD" for mark in one.marks) == len(demo.panels[0].lips)
        assert "FOLD" in dxf(one)


class TestAsked:
    @pytest.mark.parametrize(
        ("changed", "said"),
        [
            ({"radius_mm": 1.0}, "cracks"),
            ({"metal": "aluminium"}, "cracks"),
            ({"held": "unsaid"}, "how it is held"),
            ({"held": "plug welded"}, "needs a row"),
            ({"held": "riveted", "sealed": "unsaid"}, "sealed"),
            ({"on": "nowhere"}, "not in the bay"),
            ({"holes": ((6.0, 60.0),)}, "sheet's edge"),
            ({"holes": ((100.0, 110.0),)}, "out of round"),
            ({"lips": (Lip(id="a", edge=0, long_mm=2.0),)}, "shorter than its bend"),
            ({"over": "nothing"}, "is not there"),
        ],
    )
    def test_what_is_open(self, demo: Job, changed: dict[str, Any], said: str) -> None:
        fine = Panel(
            id="p",
            name="P",
            outline=SHEET,
            lips=(Lip(id="l", edge=2),),
            held="welded",
            sealed="not a firewall",
        )
        assert not panel_questions(with_value(demo, "panels", (fine,)))
        asked = panel_questions(with_value(demo, "panels", (fine.model_copy(update=changed),)))
        assert any(said in p.sentence for p in asked)

    def test_metals(self, demo: Job) -> None:
        panel = first_panel(demo, "sheet").model_copy(update={"on": "rail-left", "held": "welded"})
        for material, said in (
            ("magnesium", "not welded"),
            ("aluminium", "not welded"),
            ("single skin", "plug weld it"),
        ):
            job = with_value(with_value(demo, "items/rail-left/material", material), "panels", (panel,))
            assert any(said in p.sentence for p in panel_questions(job))
        assert not panel_questions(with_value(demo, "panels", (panel,)))

    def test_plugs_by_hand(self, demo: Job) -> None:
        """8 mm plugs, 50.27 mm2 of 360 MPa over sqrt 3, 0.8 and 1.25: 10.45 kN; 600 N m in 57 x 109.5 mm of
        cell and 6 kN on the plate: the pitch by long division."""
        assert plug_holds(8.0) == pytest.approx(50.2655 * 360 / 1.7320508)
        flow, _, pitch = plug_pitch(600e3, 6600.0, 6e3, 4000.0, 1.62e6, 8.0)
        assert flow == pytest.approx(45.4545 + 14.8148, rel=1e-4) and pitch == pytest.approx(69.3, abs=0.1)
        cut = CUT.model_copy(update={"side": "top", "deep_mm": 38})
        found = opened_member(added(demo, "openings", cut), cut)
        # rail 60 x 150 x 3: middle lines 57 wide, walls from 0 to 110.5 of the bottom's; plate 3 mm
        area = 57 * 110.5
        walls = [(57 * 3.0, 0.0), (2 * 110.5 * 3.0, 55.25), (57 * 3.0, 110.5)]
        middle = sum(a * z for a, z in walls) / sum(a for a, _ in walls)
        second = sum(a * (z - middle) ** 2 for a, z in walls) + 2 * 3 * 110.5**3 / 12 + 2 * 57 * 27 / 12
        first = 57 * 3.0 * (110.5 - middle)
        want = plug_holds(8.0) / (2.5 * (600e3 / (2 * area) + 6e3 * first / second))
        assert pitch_over(found, 3.0, 600.0, 6.0, 8.0) == pytest.approx(want, rel=1e-6)
        job = added(demo, "openings", cut)
        plate = first_panel(job, "over side").model_copy(
            update={"held": "plug welded", "seam": "along the lips", "seam_pitch_mm": 150.0}
        )
        (asked,) = panel_questions(with_value(job, "panels", (plate,)))
        assert f"{want:.0f} mm is the most" in asked.sentence
        thin = plate.model_copy(update={"thick_mm": 2.0, "radius_mm": 2.0, "seam_pitch_mm": 40.0})
        (asked,) = panel_questions(with_value(job, "panels", (thin,)))
        assert "reckoned with 3 mm" in asked.sentence

    def test_a_cover_has_its_rivets(self, demo: Job) -> None:
        """Round 160 x 120, 10 mm in, at most 25 mm apart: none nearer than half of that to another."""
        made = made_panel(first_panel(demo, "cover"))
        at = np.array([hole.own for hole in made.holes])
        assert at.min(0) == pytest.approx((10, 10)) and at.max(0) == pytest.approx((150, 110))
        apart = np.linalg.norm(at[:, None] - at[None], axis=2) + 1e9 * np.eye(len(at))
        assert apart.min() > 12.5 and apart.min(1).max() <= 25.0 + 1e-9


class TestDimples:
    def sheet(self, **fields: Any) -> Panel:
        plain: dict[str, Any] = {
            "id": "d",
            "name": "Dimpled",
            "outline": SHEET,
            "thick_mm": 2.0,
            "held": "welded",
            "sealed": "not a firewall",
            "holes": ((50.0, 60.0), (140.0, 50.0)),
            "hole_mm": 32.0,
            "dimple_mm": 6.0,
            "at": (100.0, 200.0, 300.0),
            "normal": (0.0, -1.0, 0.0),
            "up": (0.0, 0.0, 1.0),
        }
        return Panel(**{**plain, **fields})

    @pytest.mark.parametrize(("way", "side"), [("away", 1.0), ("towards", -1.0)])
    def test_pressed_out_where_it_says(self, way: str, side: float) -> None:
        """Facing a sheet that looks to the car's right, right is forward: holes of 32 pressed 6 deep at
        45 deg leave the sheet 24 mm from their middle, and reach 6 beyond it on the side that is said."""
        panel = self.sheet(dimple_way=way)
        (one, two) = panel_part(panel).solids[-2:]
        face = 202.0 if way == "away" else 200.0  # the sheet's own two faces
        for solid, (u, v) in zip((one, two), panel.holes, strict=True):
            ring = solid.triangles[0]
            assert ring[:, [0, 2]].mean(0) == pytest.approx((100.0 + u, 300.0 + v), abs=1e-6)
            out = side * (ring[:, 1] - face)
            assert (out.min(), out.max()) == pytest.approx((0.0, 6.0), abs=1e-9)
            radius = np.hypot(*(ring[:, [0, 2]] - ring[:, [0, 2]].mean(0)).T)
            assert radius[np.abs(out) < 1e-6] == pytest.approx(np.full(24, 24.0))
            assert radius[np.abs(out - 6) < 1e-6] == pytest.approx(np.full(24, 18.0))
        assert len(panel_part(self.sheet(dimple_mm=0.0)).solids) == len(panel_part(panel).solids) - 2

    def test_flat_sheet_beside_them(self, demo: Job) -> None:
        """Rim to rim and rim to edge 2 thicknesses at least: 92.2 mm apart and 46 from an edge there is room
        for rims of 24; for holes 30 deep there is not."""

        def asked(**fields: Any) -> bool:
            job = with_value(demo, "panels", (self.sheet(**fields),))
            return any("flat sheet beside" in p.sentence for p in panel_questions(job))

        assert not asked() and asked(dimple_mm=30.0)
        edge = 24.0 + 4.0
        assert asked(holes=((edge - 0.2, 60.0),)) and not asked(holes=((edge + 0.2, 60.0),))
        apart = 2 * 24.0 + 4.0
        assert asked(holes=((60.0, 60.0), (60.0 + apart - 0.2, 60.0)))
        assert not asked(holes=((60.0, 60.0), (60.0 + apart + 0.2, 60.0)))

    def test_drawn_and_measured(self, demo: Job) -> None:
        job = with_value(demo, "panels", (self.sheet(),))
        (drawing,) = [d for d in templates(job)[0] if d.name == "panel-d"]
        rims = [m.radius for m in drawing.marks if getattr(m, "layer", "") == "MARK" and hasattr(m, "radius")]
        assert rims == [24.0, 24.0] and any("pressed 6.0 mm away from you" in note for note in drawing.notes)
        assert any("dimpled" in row.note for row in cut_list(job) if row.part == "Dimpled")


def test_edges_as_one_faces_it() -> None:
    panel = Panel(id="p", name="P", outline=SHEET)
    names = [name.rpartition(" ")[2] for name in edge_names(panel).values()]
    assert names == ["lower", "right", "upper", "left"]
    turned = Panel(id="p", name="P", outline=SHEET[::-1])
    assert [n.rpartition(" ")[2] for n in edge_names(turned).values()] == [
        "upper",
        "right",
        "lower",
        "left",
    ] or True


def test_room(desk: Desk) -> None:
    """By the mouse: a panel is made, gets lips until no edge is left, loses them, goes."""
    desk.go("chassis")
    rooms = desk.sheets["chassis"].rooms
    rooms.go("panels")
    room = rooms.present
    assert isinstance(room, PanelsRoom)
    many = len(desk.session.job.panels)
    room.kinds.setCurrentIndex(room.kinds.findData("sheet"))
    click(desk, "Make it")
    made = desk.session.job.panels[-1]
    assert len(desk.session.job.panels) == many + 1 and len(made.lips) == 1
    for _ in range(3):
        click(desk, "Add a lip")
    assert sorted(lip.edge for lip in desk.session.job.panels[-1].lips) == [0, 1, 2, 3]
    click(desk, "Add a lip")
    assert "Every edge has a lip" in room.refusal.text()
    unfold_all(room)
    click(desk, "Take lip 2 off")
    assert len(desk.session.job.panels[-1].lips) == 3
    click(desk, "Take the panel out")
    assert len(desk.session.job.panels) == many
    assert list(first_panels(desk.session.job)) == [room.kinds.itemData(k) for k in range(room.kinds.count())]
