"""Every figure of a job has a place on a screen; a job that drives across is made from blank by the mouse;
directions as a gauge reads them; twins; candidates with meshes."""

from __future__ import annotations

import typing
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from nimble_cradle.bay.bodies import solid_of
from nimble_cradle.bay.position import pose_of
from nimble_cradle.design.arm_kinds import with_arm_kind
from nimble_cradle.design.beside import beside, duplicated
from nimble_cradle.design.bush_kinds import with_bush_kind
from nimble_cradle.design.first_cradle import with_cradle
from nimble_cradle.design.first_foot import with_foot_kind
from nimble_cradle.design.first_panel import first_panel
from nimble_cradle.design.first_strut import with_strut
from nimble_cradle.design.first_suspension import first_suspension
from nimble_cradle.desk.bay_view.canvas import Canvas
from nimble_cradle.desk.bay_view.view import BayView
from nimble_cradle.desk.kit import working_room
from nimble_cradle.desk.kit.rooms import Rooms
from nimble_cradle.desk.kit.table import Table
from nimble_cradle.desk.window import Desk
from nimble_cradle.families.arm_run import arm_run
from nimble_cradle.families.part import Owner
from nimble_cradle.fit.marks import proposed_marks
from nimble_cradle.fit.supports import first_supports
from nimble_cradle.geometry.direction import MOST_DEG, WAYS_OUT, direction, told
from nimble_cradle.geometry.pose import frame
from nimble_cradle.geometry.solids import ConvexPart
from nimble_cradle.job import store
from nimble_cradle.job.adjustable_rod import AdjustableRod
from nimble_cradle.job.base import JobError, Part
from nimble_cradle.job.bay import CameOut, Cut, Item
from nimble_cradle.job.boxed_arm import BoxedArm
from nimble_cradle.job.crack import Crack
from nimble_cradle.job.cross_section import reshaped
from nimble_cradle.job.edits import added, figures, with_mesh, with_value
from nimble_cradle.job.flats_arm import FlatsArm
from nimble_cradle.job.foot import PlateFoot
from nimble_cradle.job.from_points import Follows, OutlineFrom, ShaftFrom, Slide, Swing, TunnelFrom
from nimble_cradle.job.job import Job
from nimble_cradle.job.kinked_arm import KinkedArm
from nimble_cradle.job.new import new_job
from nimble_cradle.job.open_job import OpenJob
from nimble_cradle.job.opening import Opening
from nimble_cradle.job.own_case import OwnCase
from nimble_cradle.job.panel import Duty, Lip
from nimble_cradle.job.powertrain import Piece, Position, Weighed
from nimble_cradle.job.shapes import Bar, Box, Mesh, Prism, Slab
from nimble_cradle.job.strut import Ears
from nimble_cradle.job.tube_arm import TubeArm
from nimble_cradle.job.twins import mirrored_name, twin
from nimble_cradle.judge.verdict import verdict
from nimble_cradle.made.parts import made
from nimble_cradle.seat.candidates import offered, taken, with_candidate
from nimble_cradle.shop.report import report_data
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QApplication, QComboBox, QWidget

from conftest import ask_nothing
from narrowed import bonded
from pressing import click, press, type_in, unfold, unfold_all

Key = Qt.Key

ELSEWHERE: dict[str, str] = {
    "Job.schema_number": "the file's own",
    "Job.demo": "the file's own",
    "Job.said": "the marks beside the fields",
    "MeshFile": "comes with a mesh",
    "Show": "Ctrl+U",
    ".id": "made by the program, never shown",
    ".when": "the moment a reading is taken",
    ".kind": "chosen where a shape, a recipe or a motion is added",
    "LevelReading": "typed in the line on Level",
    "StrutCorner.side": "chosen when it is added",
    "WishboneCorner.side": "chosen when it is added",
    "AxleStand": "typed in the line on Level",
    "Reading": "typed in the line on Points, and taken again there",
    "TemporaryDatum": "typed in the line on Records",
    "DatumFit": "ticked on Records",
    "SurveyPoint.roughly": "typed in the line on Points",
    "Crack.photo": "attached in its room",
    "SurveyPoint.photo": "attached on Records",
    "HoleReading": "typed in the line on Hole patterns",
    "Hole.roughly": "picked on a photograph or traced",
    "Pattern.holes": "New hole",
    "Pattern.note": "no screen: from the file",
    "Adapter.engine": "chosen on Adapter",
    "Adapter.gearbox": "chosen on Adapter",
    "CradleTube.section": "of the whole cradle; another one from the file",
    "Cut.between": "laid by the cuts of the stage Chassis",
    "Mesh.file": "chosen as a file",
    "Skin": "made by scans and tunnels alone",
    "WayOut.off": "ticked on Way out",
    "Candidate.position": "where the other job held it",
    "Candidate.powertrain": "comes with the other job",
    "Pad.holes_confirmed": "one button, where it is open",
    "HollowSection.stock": "chosen from stock, which sets the sizes",
    "Support.stack_mm": "built by the shims on Bring it there",
    ".points": "typed by number under Made from surveyed points",
    "GridFrom": "typed as lines under the item",
    "TunnelFrom.profiles": "typed as lines under the item",
}
"""Fields without a field of their own on a screen, and why; a class alone stands for all of its own."""


def models(kind: Any) -> list[type[Part]]:
    """The parts that an annotation names."""
    if isinstance(kind, type) and issubclass(kind, Part):
        return [kind]
    return [m for a in typing.get_args(kind) for m in models(a)]


def every_field(kind: type[Part], out: dict[str, set[str]] | None = None) -> dict[str, set[str]]:
    """Leaf fields of a job by class: those that hold no further part."""
    out = {} if out is None else out
    if kind.__name__ not in out:
        out[kind.__name__] = set()
        for name, field in kind.model_fields.items():
            within = models(field.annotation)
            if not within:
                out[kind.__name__].add(name)
            for m in within:
                every_field(m, out)
    return out


def field_at(job: Job, path: str) -> tuple[str, str] | None:
    """The class and name of the field that a path leads to."""
    here: Any = job
    last = None
    for key in path.split("/"):
        if isinstance(here, Part):
            last = type(here).__name__, key
            here = getattr(here, key, None)
        elif isinstance(here, tuple):
            by_id = next((row for row in here if getattr(row, "id", None) == key), None)
            here = (
                by_id
                if by_id is not None
                else here[int(key)]
                if key.isdigit() and int(key) < len(here)
                else None
            )
    return last


def rich(job: Job) -> Job:
    """A job with everything in it that is there only when somebody asked for it."""
    x, y, z = job.vehicle.axle_input
    for path, value in (
        ("vehicle/came_out", CameOut(mass_kg=250, centre=(-100, 0, 100))),
        ("setting/supports", first_supports(job)),
        ("setting/now", Position(**job.position.model_dump())),
        ("propshaft/centre", (x + 700, y, z)),
        ("propshaft/axle_pivot", (x + 600, y, z)),
        ("marks", proposed_marks(job)[:2]),
        ("mounts/left/pad/holes_confirmed", False),
        ("mounts/left/pad/trim", "top"),
        ("mounts/left/pad/other_holes", ((0.0, 60.0),)),
        ("loads/own_cases", (OwnCase(id="own", name="Own"),)),
        ("items/rail-left/host/section", "open C"),
    ):
        job = with_value(job, path, value)
    for k, (bush, foot) in enumerate((("donor", "factory"), ("greased", "tabs"), ("puck", "plate"))):
        job = with_bush_kind(job, job.mounts[k], bush)  # type: ignore[arg-type]
        job = with_foot_kind(job, job.mounts[k], foot)  # type: ignore[arg-type]
    job = with_value(job, "mounts/left/bush/table", ((2.0, 300.0), (4.0, 700.0)))
    for kind, at in (("flats", 0), ("boxed", 1)):
        job = with_arm_kind(job, job.mounts[at], kind)  # type: ignore[arg-type]
    job = with_cradle(with_strut(job))
    job = with_value(job, f"struts/{job.struts[0].id}/ears", Ears(pad=job.mounts[0].pad))
    job = with_value(
        job, f"struts/{job.struts[0].id}/bracket", PlateFoot(host=job.items[0].id, fixing="both")
    )
    job = with_value(job, "mounts/gearbox/arm", TubeArm(outside_mm=40, wall_mm=3, scallop_deep_mm=4))
    first_point = job.survey.points[0].id
    job = with_value(job, f"survey/points/{first_point}/given", (1.0, 2.0, 3.0))
    weighed = Weighed(mass_kg=200, centre=(0, 0, 0), inertia_kg_m2=(5, 10, 12))
    job = with_value(job, "powertrain/weighed", weighed)
    job = with_value(job, "powertrain/pieces/sump-shallow/what", "move")
    block = job.powertrain.pieces[0].id
    job = with_value(job, f"powertrain/pieces/{block}/centre_of_gravity", (1.0, 2.0, 3.0))
    first = job.items[0].id
    job = with_value(job, f"items/{first}/cuts", (Cut(side="top", depth_mm=1.0),))
    job = with_value(
        job, f"items/{first}/motion", Swing(about=(0, 0, 0), axis=(1, 0, 0), least_deg=-1, most_deg=1)
    )
    second = job.items[1].id
    job = with_value(job, f"items/{second}/motion", Slide(along=(0, 0, 1), least_mm=-1, most_mm=1))
    for kind in ("two wishbones right", "live axle"):
        job = added(job, "suspensions", first_suspension(job, kind))
    sheet = first_panel(job, "sheet")
    lips = (*sheet.lips, Lip(id="more", on="lip-1", edge=2))
    job = added(job, "panels", sheet.model_copy(update={"lips": lips, "duty": Duty()}))
    job = added(job, "openings", Opening(id="hole", name="Hole", item="rail-left", form="hole"))
    job = added(job, "cracks", Crack(id="crack", name="Crack", item="rail-left"))
    job = added(job, "rods", AdjustableRod(id="rod", name="Rod"))
    third = job.items[2].id
    job = with_value(job, f"items/{third}/motion", Follows(suspension=job.suspensions[0].id))
    points = tuple(p.id for p in job.survey.points)
    for k, recipe in enumerate(
        (
            OutlineFrom(points=points[:2], outline=((-40, 0), (40, 0), (0, 60))),
            ShaftFrom(points=points[:3], diameter_mm=22, joint_mm=60),
            TunnelFrom(points=points[:2], profiles=(((150, -120), (0, 130), (-150, -120)),) * 2),
        )
    ):
        item = job.items[5 + k].model_copy(update={"made": recipe, "shapes": (), "motion": None})
        job = with_value(job, "items", tuple(item if i.id == item.id else i for i in job.items))
    return job


def one_of_each(items: tuple[Item, ...]) -> list[Item]:
    """One item of every make: its shapes, its recipe, its motion."""
    kinds = {
        (*(s.kind for s in i.shapes), i.made and i.made.kind, i.motion and i.motion.kind): i for i in items
    }
    return list(kinds.values())


def convex(solid: Any) -> ConvexPart:
    """A solid that is one convex one."""
    assert isinstance(solid, ConvexPart)
    return solid


OF_A_MOUNT = frozenset({"this", "plate", "bush", "foot"})
"""Rooms of the mounts that are otherwise with each family of its parts."""
CHOOSE = ("For sale", "Candidates", "Holes", "Wheels and axles", "Points of the suspension", "Panels")
"""Tables of which each row is chosen on the walk."""


class Walk:
    """A walk through a desk, taking note of every field of the job model that is met on the way."""

    def __init__(self, desk: Desk) -> None:
        self.desk = desk
        self.met: set[tuple[str, str]] = set()

    def room(self) -> QWidget:
        """The stage that is before us."""
        page = self.desk.stack.currentWidget()
        assert page is not None
        return page

    def look(self, inside: QWidget | None = None) -> None:
        """Take note of what is seen; inside: the only part of the page that has changed."""
        page = self.room() if inside is None else inside
        unfold_all(page)
        QApplication.processEvents()
        for w in page.findChildren(QWidget):
            path = getattr(w, "path", None)
            if isinstance(path, str) and path and w.isVisibleTo(self.desk):
                found = field_at(self.desk.session.job, path)
                if found is not None:
                    self.met.add(found)

    def every_room(self, only: frozenset[str] = frozenset()) -> None:
        """Every room, or some of them by key."""
        self.look()
        for rooms in self.room().findChildren(Rooms)[:1]:
            for k, room in enumerate(rooms.rooms):
                if only and room.key not in only:
                    continue
                rooms.group.buttons()[k].click()
                self.look(rooms.present)
                for table in rooms.present.findChildren(Table):
                    self.rows(table, rooms.present)

    def rows(self, table: Table, inside: QWidget) -> None:
        if table.accessibleName() in CHOOSE and table.isVisibleTo(self.desk):
            for r in range(min(table.rowCount(), 9)):
                table.selectRow(r)
                self.look(inside)

    def chosen_things(self, stage: str) -> None:
        job = self.desk.session.job
        chosen = {
            "bay": [("item", i.id) for i in one_of_each(job.items)],
            "powertrain": [("piece", p.id) for p in job.powertrain.pieces[:9]],
            "mounts": [("mount", m.id) for m in job.mounts],
            "survey": [("point", p.id) for p in job.survey.points[:2]],
        }.get(stage, [])
        if stage == "crossmember" and job.crossmember is not None:
            for shape in ("bar", "folded"):
                section = reshaped(job.crossmember.section, shape)
                self.desk.session.edit(shape, with_value(job, "crossmember/section", section))
                self.look()
            return
        back = {"powertrain": 0, "survey": 2}.get(stage)
        if back is not None:
            self.room().findChildren(Rooms)[0].group.buttons()[back].click()
        for kind, key in chosen:
            self.desk.session.select(kind, key)
            self.look()
            if stage == "mounts":  # each of another family, in every room
                self.every_room(OF_A_MOUNT)
            for box in self.room().findChildren(QComboBox):
                self.each_of(box)

    def each_of(self, box: QComboBox) -> None:
        if box.isVisibleTo(self.desk) and box.count() and box.itemText(0).startswith("1: "):
            for k in range(box.count()):
                box.setCurrentIndex(k)
                box.activated.emit(k)
                self.look()


def test_every_field_has_its_place(
    qtbot: Any, tmp_path: Path, demo: Job, hatchback: Job, monkeypatch: pytest.MonkeyPatch
) -> None:
    """All rooms of both demos, with everything in them, are walked through; every field of the job model is
    met there or is on the list above with its reason."""
    monkeypatch.setattr(working_room, "warm", lambda *_: None)
    monkeypatch.setattr(Canvas, "draw", lambda *_: None)
    monkeypatch.setattr(BayView, "_draw_smooth", lambda _: None)
    met: set[tuple[str, str]] = set()
    solid = with_bush_kind(hatchback, hatchback.mounts[1], "solid")
    solid = with_bush_kind(solid, solid.mounts[2], "cast")
    for name, job in (("truck", rich(demo)), ("hatchback", solid)):
        path = tmp_path / f"{name}.cradle"
        store.write(path, job)
        desk = Desk(OpenJob(path))
        qtbot.addWidget(desk)
        desk.show()
        walk = Walk(desk)
        for stage in desk.stage_bar.plates:
            desk.go(stage)
            walk.every_room()
            walk.chosen_things(stage)
        met |= walk.met
        ask_nothing(desk)
        desk.close()
    leaves = {(c, f) for c, fields in every_field(Job).items() for f in fields}
    listed = {(c, f) for c, f in leaves if {c, f"{c}.{f}", f".{f}"} & set(ELSEWHERE)}
    lost = leaves - met - listed
    assert not lost, "; ".join(f"{c}.{f}" for c, f in sorted(lost))


class TestAcrossFromBlank:
    def test_by_the_mouse(self, qtbot: Any, tmp_path: Path) -> None:
        """A blank job becomes one with a transaxle: kind, seats, outer joints, gears, two strokes, the engine
        placed by typing; its half-shafts are then judged, and the report holds what was typed."""
        path = tmp_path / "own.cradle"
        store.write(path, new_job("Own"))
        desk = Desk(OpenJob(path))
        qtbot.addWidget(desk, before_close_func=lambda w: w.session.place.count_as_saved())
        desk.show()
        desk.activateWindow()
        qtbot.waitUntil(desk.isActiveWindow, timeout=5000)
        press(desk, Key.Key_F4)
        click(desk, "Engine, gearbox")
        choose(desk, "powertrain/gearbox/kind", "transaxle")
        box = desk.session.job.powertrain.gearbox
        assert box.kind == "transaxle" and box.seats is not None and desk.session.job.vehicle.hubs is not None
        typed = {
            "powertrain/gearbox/seats/0/0": ("180 back", -180.0),
            "powertrain/gearbox/seats/0/1": ("120 left", 120.0),
            "powertrain/gearbox/seats/1/0": ("180 back", -180.0),
            "powertrain/gearbox/seats/1/1": ("140 right", -140.0),
            "vehicle/hubs/0/1": ("620 left", 620.0),
            "vehicle/hubs/1/1": ("620 right", -620.0),
            "vehicle/hubs/1/2": ("6 in down", -152.4),
            "powertrain/gearbox/ratios/0": ("3.45", 3.45),
            "powertrain/engine/torque_nm": ("120", 120.0),
            "powertrain/engine/cylinders": ("3", 3),
        }
        for where, (text, _) in typed.items():
            type_in(desk, where, text)
        choose(desk, "powertrain/engine/strokes", "two")
        count = len(desk.session.job.powertrain.gearbox.ratios)
        click(desk, "One more gear")
        type_in(desk, f"powertrain/gearbox/ratios/{count}", "0.71")
        press(desk, Key.Key_F5)
        for where, text, value in (
            ("position/x", "3/8 in back", -9.525),
            ("position/z", "140 up", 140.0),
            ("position/pitch_deg", "3 up", 3.0),
            ("position/roll_deg", "10 left", -10.0),
        ):
            type_in(desk, where, text)
            typed[where] = text, value
        job = desk.session.job
        held = report_data(job)["figures"]
        for where, (text, value) in typed.items():
            assert held[where] == pytest.approx(value, abs=1e-9), (where, text)
        assert held["powertrain/engine/strokes"] == 2 and held[f"powertrain/gearbox/ratios/{count}"] == 0.71
        line = verdict(job).driveline
        assert line is not None and line.kind == "half-shafts"
        desk.session.undo()
        assert desk.session.job.position.roll_deg == 0.0
        press(desk, Key.Key_F4)
        for kind in ("gearbox", "transaxle", "transfer case"):
            choose(desk, "powertrain/gearbox/kind", kind)
            box = desk.session.job.powertrain.gearbox
            assert box.kind == kind and (box.seats is not None) == (kind == "transaxle"), "there and back"


def choose(desk: Desk, path: str, text: str) -> None:
    """Choose an entry of the box that edits a path."""
    box = desk.stack.currentWidget().findChild(QComboBox, path)  # type: ignore[union-attr]
    assert isinstance(box, QComboBox), path
    unfold(box)
    assert box.isVisible(), path
    at = box.findText(text)
    box.setCurrentIndex(at)
    box.activated.emit(at)
    QApplication.processEvents()


class TestDirections:
    @given(st.tuples(*[st.floats(-1, 1)] * 3).filter(lambda v: sum(c * c for c in v) > 1e-4))
    def test_told_and_read_again_is_the_same_direction(self, v: tuple[float, float, float]) -> None:
        again = np.array(direction(*told(v)))
        assert np.linalg.norm(again - np.array(v) / np.linalg.norm(v)) < 1e-6

    def test_as_the_gauge_reads(self) -> None:
        """A level on a rod that runs forward reads its slope whatever way the rod heads in plan; two plumb
        lines beside an upright one give its lean in both views."""
        for side in (0.0, 20.0, -35.0):
            v = np.array(direction("forward", 3.0, side))
            assert np.degrees(np.arctan2(v[2], np.hypot(v[0], v[1]))) == pytest.approx(3.0, abs=1e-5)
            assert np.degrees(np.arctan2(v[1], v[0])) == pytest.approx(side, abs=1e-5)
        v = np.array(direction("down", 4.0, -7.0))
        assert v[2] < 0 and v[0] / -v[2] == pytest.approx(np.tan(np.radians(4)), abs=1e-6)
        assert v[1] / -v[2] == pytest.approx(-np.tan(np.radians(7)), abs=1e-6)
        assert direction("left", 0, 20)[0] > 0.3 and direction("right", 0, 20)[0] > 0.3

    def test_nothing_is_told_past_its_reach(self) -> None:
        for way in WAYS_OUT:
            with pytest.raises(ValueError, match="choose another way"):
                direction(way, MOST_DEG + 1, 0.0)

    def test_typed_in_the_window(self, desk: Desk) -> None:
        press(desk, Key.Key_F6)
        path = "mounts/left/bush/axis"
        choose(desk, f"{path}/way", "forward")
        type_in(desk, f"{path}/angle-0", "3 up")
        type_in(desk, f"{path}/angle-1", "20 left")
        axis = np.array(desk.session.value(path))
        assert np.degrees(np.arcsin(axis[2])) == pytest.approx(3, abs=1e-4)
        assert np.degrees(np.arctan2(axis[1], axis[0])) == pytest.approx(20, abs=1e-4)
        line = type_in(desk, f"{path}/angle-1", "120 left")
        assert "at most 89 deg" in line.parentWidget().refusal.text()  # type: ignore[union-attr]


ODD: tuple[Any, ...] = (
    Box(centre=(10, 70, -5), size=(80, 30, 20), turn=(12, -25, 40)),
    Bar(start=(0, 40, 0), end=(90, 75, 33), diameter=17),
    Slab(corners=((0, 30, 0), (60, 40, 0), (55, 90, 12), (-5, 80, 12)), thickness=3),
    Prism(origin=(5, 60, 7), along=(0.2, 1, 0.3), up=(0.1, -0.2, 1), outline=((0, 0), (44, 0), (0, 18)),
          length=35),
)  # fmt: skip


class TestTwins:
    @pytest.mark.parametrize("shape", ODD, ids=lambda s: s.kind)
    def test_a_mirrored_solid_is_the_mirror_image_of_the_solid(self, demo: Job, shape: Any) -> None:
        """Reach in a thousand directions: of the twin along the mirrored direction, as of the first."""
        item = Item(
            id="odd", name="Left odd one", neighbour=demo.clearances[0].id, shapes=(shape,), moved=(3, 8, 1)
        )
        job = with_value(demo, "items", (*demo.items, item))
        after, key = twin(job, "items/odd", mirror=True)
        other = next(i for i in after.items if i.id == key)
        assert other.name == "Right odd one"
        directions = np.random.default_rng(1).normal(size=(1000, 3))
        mirrored = directions * (1, -1, 1)

        def reach(of: Item, along: np.ndarray) -> np.ndarray:
            parts = solid_of(of, after.meshes, "items")
            return np.asarray(np.max([p.support(along) for p in parts], axis=0))  # type: ignore[union-attr]

        np.testing.assert_allclose(reach(other, mirrored), reach(item, directions), atol=1e-9)

    def test_a_mirrored_mount_is_the_mirror_image(self, demo: Job) -> None:
        """Its holes, arm and bush, laid out in space by hand; asymmetric and turned."""
        job = with_value(demo, "mounts/left/pad/holes", ((-40, -28), (44, -20), (31, 35)))
        job = with_value(job, "mounts/left/pad/normal", (0.2, 0.9, -0.3))
        job = with_value(job, "mounts/left/pad/up", (0.4, 0.1, 0.8))
        job = with_value(job, "mounts/left/pad/arm_at", (9.0, -4.0))
        job = with_value(job, "mounts/left/bush/axis", (0.9, 0.2, 0.1))
        after, key = twin(job, "mounts/left", mirror=True)
        a, b = (next(m for m in after.mounts if m.id == k) for k in ("left", key))

        def spots(mount: Any) -> np.ndarray:
            axes = frame(mount.pad.normal, mount.pad.up)
            flat = np.array([*mount.pad.holes, mount.pad.arm_at])
            return np.asarray(mount.pad.centre) + flat @ axes[:, :2].T

        np.testing.assert_allclose(spots(b), spots(a) * (1, -1, 1), atol=1e-9)
        np.testing.assert_allclose(b.bush.centre, np.array(a.bush.centre) * (1, -1, 1))
        assert abs(np.array(b.bush.axis) @ (np.array(a.bush.axis) * (1, -1, 1))) == pytest.approx(0.86)

    @pytest.mark.parametrize("kind", ["tube", "kinked", "flats", "boxed"])
    def test_all_that_is_made_of_it_is_mirrored(self, demo: Job, kind: str) -> None:
        """Plate with a side cut off, arm with all that may be on it, eye, cheeks and foot: reach in 300
        directions, of the twin along the mirrored one. The engine stands straight in the middle; the rails
        are each other's mirror image."""
        job = with_value(
            demo, "position", demo.position.model_copy(update={"y": 0.0, "roll_deg": 0.0, "yaw_deg": 0.0})
        )
        job = with_value(job, "mounts/left/pad/trim_mm", 70.0)
        job = with_value(job, "mounts/left/pad/trim", "right")
        job = with_value(job, "mounts/left/pad/free_holes", ((-60.0, 12.0),))
        job = with_value(job, "mounts/left/bush/axis", (0.98, 0.1, 0.05))
        job = with_value(job, "mounts/left/foot/shift", (4.0, -55.0))
        mount = job.mounts[0]
        arms = {
            "tube": TubeArm(
                outside_mm=44,
                wall_mm=3,
                offset_mm=5,
                gussets=2,
                scallop_deep_mm=6,
                scallop_long_mm=20,
                scallop_way=(0.6, 0.1, -0.8),
            ),
            "flats": FlatsArm(tall_mm=60, tall_at_eye_mm=40, apart_mm=24),
            "boxed": BoxedArm(tall_mm=55, tall_at_eye_mm=40, wide_mm=36),
        }
        if kind == "kinked":
            run = arm_run(mount, pose_of(job.position))
            kink = pose_of(job.position).inverse().points(0.6 * run.root + 0.4 * run.aim + (6.0, -4.0, -9.0))
            arms["kinked"] = KinkedArm(
                outside_mm=44, wall_mm=3, offset_mm=4, kink=tuple(float(c) for c in kink)
            )
        job = with_value(job, "mounts/left/arm", arms[kind])
        after, key = twin(with_value(job, "items", job.items), "mounts/left", mirror=True)
        ways = np.random.default_rng(4).normal(size=(300, 3))
        one, other = made(after).of(Owner("mount", "left")), made(after).of(Owner("mount", key))
        assert [p.role for p in one] == [p.role for p in other] and len(one) >= 6
        pose = pose_of(after.position)
        for a, b in zip(one, other, strict=True):
            if not a.solids:
                continue
            reach = [
                np.max([convex(s).support(d) for s in part.in_vehicle(pose)], axis=0)
                for part, d in ((a, ways), (b, ways * (1, -1, 1)))
            ]
            loose = 0.4 if a.role == "plate" else 0.02  # its rounded corners are drawn within 0.1 mm
            np.testing.assert_allclose(reach[0], reach[1], rtol=0, atol=loose, err_msg=a.role)
        twin_pad = next(m for m in after.mounts if m.id == key).pad
        assert twin_pad.trim == "left" and twin_pad.free_holes == ((60.0, 12.0),)

    def test_a_mount_of_an_engine_across_the_car_has_no_mirror_image(self, hatchback: Job) -> None:
        with pytest.raises(JobError, match="across the car"):
            twin(hatchback, f"mounts/{hatchback.mounts[0].id}", mirror=True)

    def test_what_swings_one_way_swings_the_other(self, demo: Job) -> None:
        swing = Swing(about=(0, 50, 0), axis=(1, 0.5, 0.2), least_deg=-5, most_deg=20)
        item = Item(id="odd", name="Odd", neighbour=demo.clearances[0].id, shapes=(ODD[0],), motion=swing)
        after, key = twin(with_value(demo, "items", (item,)), "items/odd", mirror=True)
        other = after.items[-1].motion
        assert isinstance(other, Swing) and other.about == (0, -50, 0) and other.most_deg == 20
        from nimble_cradle.geometry.pose import rotation_about

        flip = np.diag([1.0, -1.0, 1.0])
        np.testing.assert_allclose(
            rotation_about(other.axis, 0.3), flip @ rotation_about(swing.axis, 0.3) @ flip, atol=1e-12
        )
        assert key != "odd" and mirrored_name("Odd") == "Odd, mirrored"

    @pytest.mark.parametrize("path", ("items/radiator", "powertrain/pieces/block"))
    def test_doubled_stands_beside_and_touches_not(self, demo: Job, path: str) -> None:
        after, key = duplicated(demo, path)
        where = path.rpartition("/")[0]
        rows: tuple[Item | Piece, ...] = after.items if where == "items" else after.powertrain.pieces
        one, two = (next(r for r in rows if r.id == k) for k in (path.rpartition("/")[2], key))
        spans = [
            np.vstack([p.triangles[0] for p in solid_of(r, after.meshes, where)])[:, 1] for r in (one, two)
        ]
        assert spans[1].min() > spans[0].max() and two.name != one.name

    def test_what_is_new_is_beside_the_bay(self, demo: Job) -> None:
        left = max(
            float(p.triangles[0][:, 1].max()) for i in demo.items for p in solid_of(i, demo.meshes, "items")
        )
        assert beside(demo, "items")[1] > left + 50
        with pytest.raises(JobError, match="Only an item"):
            twin(demo, "wish/sales/wiper", mirror=True)


def test_a_candidate_brings_its_meshes(demo: Job) -> None:
    """Another job's block drawn by a mesh whose name is taken here by another: both stay, each its own."""
    corners = (
        ("0 0 0", "0 90 0", "90 0 0"),
        ("0 0 0", "90 0 0", "0 0 90"),
        ("0 0 0", "0 0 90", "0 90 0"),
        ("90 0 0", "0 90 0", "0 0 90"),
    )
    faces = "".join(
        "facet normal 0 0 0\nouter loop\n" + "".join(f"vertex {c}\n" for c in face) + "endloop\nendfacet\n"
        for face in corners
    )
    cube = f"solid c\n{faces}endsolid c\n"
    here = with_mesh(demo, "block.stl", cube.replace("90", "70").encode())
    here = with_value(here, "items/radiator/shapes", (Mesh(file="block.stl", at=(0, 900, 0)),))
    there = with_mesh(demo, "block.stl", cube.encode())
    block = there.powertrain.pieces[0].id
    there = with_value(there, f"powertrain/pieces/{block}/shapes", (Mesh(file="block.stl"),))
    after = offered(here, there)
    held = with_candidate(after, after.candidates[-1])
    drawn = solid_of(held.powertrain.pieces[0], held.meshes, "powertrain/pieces")
    assert max(float(p.triangles[0].max()) for p in drawn) == 90.0
    radiator = next(i for i in after.items if i.id == "radiator")
    assert min(float(p.triangles[0][:, 1].max()) for p in solid_of(radiator, after.meshes, "items")) == 970.0
    assert verdict(taken(after, after.candidates[-1].id)).gaps


def test_figures_are_paths_that_can_be_set(demo: Job) -> None:
    held = figures(demo)
    assert held["mounts/left/bush/hardness_shore_a"] == bonded(demo.mounts[0].bush).hardness_shore_a
    rng = np.random.default_rng(2)
    for path in rng.choice([p for p, v in held.items() if isinstance(v, float)], 40, replace=False):
        assert figures(with_value(demo, str(path), held[path])) == held


def test_a_kind_of_neighbour_is_added_named_and_dropped(desk: Desk) -> None:
    press(desk, Key.Key_F3)
    click(desk, "Add a kind")
    key = desk.session.job.clearances[-1].id
    type_in(desk, f"clearances/{key}/name", "Cables")
    type_in(desk, f"clearances/{key}/required_mm", "3/8 in")
    row = desk.session.job.clearances[-1]
    assert row.name == "Cables" and row.required_mm == pytest.approx(9.525)
    sheet: Any = desk.sheets["bay"]
    assert sheet.rows[-1].label.text() == "Cables" and sheet.kind_box.currentText() == "Cables"
    click(desk, "Drop it")
    assert key not in {c.id for c in desk.session.job.clearances}
    before = desk.session.job
    sheet.kind_box.setCurrentIndex(0)
    click(desk, "Drop it")
    assert sheet.refusal.text() and desk.session.job is before, "things of that kind are still there"
