"""The rooms of the house against each other: tables of stages, kinds, families and keys, and the user's
rack."""

from __future__ import annotations

import ast
import json
from pathlib import Path
from typing import Annotated, Any, Literal, get_args, get_origin

import pytest
from nimble_cradle import calc
from nimble_cradle.cli.main import main
from nimble_cradle.design.first_crossmember import first_crossmember
from nimble_cradle.design.first_mounts import first_mount
from nimble_cradle.desk.bay_view.drawers import DRAWERS, things_drawn
from nimble_cradle.desk.bay_view.standpoints import STANDPOINTS
from nimble_cradle.desk.bay_view.told import TOLD
from nimble_cradle.desk.keymap import every_group, menu_rows, stage_keys
from nimble_cradle.desk.kit import look
from nimble_cradle.desk.kit.keymap import FREE, KeyGroup
from nimble_cradle.desk.kit.look import FONT
from nimble_cradle.desk.kit.sheet import Sheet
from nimble_cradle.desk.stages import stage_desks
from nimble_cradle.desk.stages.position.sheet import PositionSheet
from nimble_cradle.desk.stages.survey.points import PointsRoom
from nimble_cradle.desk.window import Desk
from nimble_cradle.families.family import arm_family, bracket_family, bush_family
from nimble_cradle.job.base import JobError, Part, Vec3
from nimble_cradle.job.bonded_bush import BondedBush
from nimble_cradle.job.edits import with_value
from nimble_cradle.job.job import Job, as_job_error
from nimble_cradle.job.kinds import ByKind, every_kind, kind_of
from nimble_cradle.job.mounts import AnyArm, AnyBush, CrossBolt
from nimble_cradle.job.said import facts
from nimble_cradle.job.stock_names import BoltClass, BoltSize, SteelName
from nimble_cradle.judge.stages import STAGES
from nimble_cradle.judge.verdict import verdict
from nimble_cradle.made.parts import made
from nimble_cradle.shop.cutlist import cut_list
from nimble_cradle.stock.bolts import bolt_class
from nimble_cradle.stock.bushes import BushSize
from nimble_cradle.stock.clearance_holes import clearance_hole
from nimble_cradle.stock.nuts import HEXAGON
from nimble_cradle.stock.rack import Rack, read_rack
from nimble_cradle.stock.steels import STEELS
from nimble_cradle.stock.threads import SIZES, thread
from nimble_cradle.stock.washers import PLAIN, washer_radius
from pydantic import BaseModel, Field, ValidationError
from PyQt6.QtGui import QFontDatabase, QFontInfo

from narrowed import bonded, tube

DOCS = Path(__file__).parent.parent / "docs"


class TestStages:
    def test_every_stage_has_its_judge_its_desk_and_its_sheet(self, desk: Desk) -> None:
        assert list(stage_desks()) == [stage.id for stage in STAGES]
        assert len({stage.id for stage in STAGES}) == len(STAGES)
        for stage in STAGES:
            sheet = desk.sheets[stage.id]
            assert isinstance(sheet, Sheet) and sheet.stage == stage.id and sheet.title
        folders = {p.parent.name for p in Path(stage_file()).parent.glob("*/sheet.py")}
        assert folders == set(stage_desks()), "a folder of a stage that is in no table"

    def test_what_a_stage_asks_to_see_can_be_drawn(self) -> None:
        homes: list[str] = []
        for shown in stage_desks().values():
            assert (shown.draws | shown.ghosts | shown.home | shown.keeps) <= set(DRAWERS)
            assert shown.tags in TOLD and shown.standpoint in STANDPOINTS
            homes += shown.home
        assert len(homes) == len(set(homes)), "one kind with two homes"

    def test_a_kind_without_a_drawer_is_named(self, desk: Desk) -> None:
        with pytest.raises(KeyError, match="“ladder”"):
            dict(things_drawn(desk.session, frozenset({"ladder"})))

    def test_problems_findings_and_figures_name_stages_that_there_are(
        self, demo: Job, hatchback: Job
    ) -> None:
        known = {stage.id for stage in STAGES}
        for job in (demo, hatchback, with_value(demo, "mounts/left/bush/axis", (0.0, 1.0, 0.2))):
            v = verdict(job)
            assert v.findings and {f.stage for f in v.findings} <= known
            assert {p.stage for p in v.problems} <= known
            assert {f.stage for f in facts(job)} <= known
        assert {f.stage for f in verdict(demo).findings} == {"mounts", "crossmember", "chassis"}


def stage_file() -> str:
    from nimble_cradle.desk import stages

    assert stages.__file__ is not None
    return stages.__file__


class TestKeys:
    def test_no_key_does_two_things_in_one_place(self) -> None:
        menu = [row.key for row in menu_rows()]
        assert len(menu) == len(set(menu))
        for stage, shown in stage_desks().items():
            bound = [key for group in shown.keys if group.place == stage for key, _ in group.bound()]
            assert len(bound) == len(set(bound)) and not set(bound) & set(menu), stage

    def test_the_desktop_keeps_its_keys(self) -> None:
        every = {key for group in every_group() for row in group.rows for key in row.keys}
        every |= {row.key for row in menu_rows()}
        assert not every & set(FREE) and set(stage_keys().values()) <= every

    def test_every_key_of_the_menus_is_on_the_page(self) -> None:
        page = {key for group in every_group() for row in group.rows for key in row.keys}
        assert {row.key for row in menu_rows()} <= page

    def test_every_act_is_a_method_of_what_it_is_bound_to(self) -> None:
        owners: dict[str, type[Any]] = {"position": PositionSheet, "survey": PointsRoom}
        groups: list[KeyGroup] = [g for shown in stage_desks().values() for g in shown.keys]
        assert {g.place for g in groups} == set(owners)
        for group in groups:
            for _, act in group.bound():
                assert callable(getattr(owners[group.place], act.partition(" ")[0])), act
        for row in menu_rows():
            assert callable(getattr(Desk, row.act.partition(" ")[0])), row.act


class TestFamilies:
    def test_each_has_its_module(self, demo: Job) -> None:
        mount = demo.mounts[0]
        assert mount.arm is not None
        for family in (bush_family(mount.bush), arm_family(mount.arm), bracket_family(mount.cross_bolt)):
            assert family.LOAD_PATH
        assert kind_of(type(mount.bush)) == "bonded" and kind_of(CrossBolt) == "cheeks"
        for row in (AnyBush, AnyArm):
            (of, by) = get_args(row)
            assert isinstance(by, ByKind) and by.first in (of, *get_args(of))

    def test_a_second_family_beside_the_first(self) -> None:
        """Files from before hold no kind; a fault is told at its place, without the kind."""

        class Block(Part):
            kind: Literal["block"] = "block"
            centre: Vec3
            height_mm: Annotated[float, Field(gt=0)]

        class Holder(BaseModel):
            bush: Annotated[BondedBush | Block, ByKind(BondedBush)]

        old = {
            "centre": (0, 0, 0), "axis": (1, 0, 0), "sleeve_mm": 20, "sleeve_bore_mm": 12, "eye_bore_mm": 50,
            "eye_wall_mm": 4, "length_mm": 40, "hardness_shore_a": 50,
        }  # fmt: skip
        assert isinstance(Holder.model_validate({"bush": old}).bush, BondedBush)
        new = Holder.model_validate({"bush": {"kind": "block", "centre": (0, 0, 0), "height_mm": 3}})
        assert isinstance(new.bush, Block) and Holder(bush=new.bush) == new
        assert "block" in every_kind(Part)
        with pytest.raises(ValidationError) as caught:
            Holder.model_validate({"bush": {"kind": "block", "centre": (0, 0, 0), "height_mm": -3}})
        assert caught.value.errors()[0]["loc"] == ("bush", "block", "height_mm")
        with pytest.raises(ValidationError, match="ladder"):
            Holder.model_validate({"bush": {"kind": "ladder"}})

    def test_kinds_in_the_place_of_a_fault_are_known_from_the_models(self) -> None:
        kinds = every_kind(Part)
        assert {"box", "skin", "rail", "tunnel", "swing", "slide", "bonded", "tube"} <= kinds
        assert not {"gearbox", "transaxle"} & kinds, "a choice is no kind"
        for model in all_parts(Part):
            field = model.model_fields.get("kind")
            if field is not None and get_origin(field.annotation) is Literal:
                words = get_args(field.annotation)
                assert (len(words) == 1) == (words[0] in kinds)
        with pytest.raises(ValidationError) as caught:
            Job.model_validate({"name": "x", "items": [{"shapes": [{"kind": "box", "size": 3}]}]})
        assert "box" not in as_job_error(caught.value).place.split("/")


def all_parts(base: type[Part]) -> list[type[Part]]:
    """Every model made from a base."""
    return [m for kind in base.__subclasses__() for m in (kind, *all_parts(kind))]


class TestMade:
    def test_every_part_is_listed_once_and_joined_to_what_there_is(self, demo: Job) -> None:
        every = made(demo)
        rows = [row.part for row in cut_list(with_value(demo, "openings", ()))]
        assert sorted(rows) == sorted(p.name for p in every.parts if p.stock is not None)
        for owner in {p.owner for p in every.parts}:
            roles = {p.role for p in every.of(owner)}
            outside = {"block", "chassis", "rails"}
            for part in every.of(owner):
                assert part.joints, part.name
                assert {j.to for j in part.joints} <= roles | outside, part.name

    def test_cheeks_are_described_once_by_the_users_own_figures(self, demo: Job) -> None:
        job = with_value(with_value(demo, "mounts/left/cross_bolt/cheek_mm", 9.0),
                         "mounts/left/cross_bolt/eye_gap_mm", 7.0)  # fmt: skip
        job = with_value(job, "mounts/left/foot", None)
        (cheeks,) = (p for p in made(job).parts if p.owner.id == "left" and p.role == "cheeks")
        assert cheeks.stands_in and cheeks.stock is None and not cheeks.moves
        bush = bonded(job.mounts[0].bush)
        axis = [c / sum(d * d for d in bush.axis) ** 0.5 for c in bush.axis]
        reach = sorted(
            sum((v - c) * a for v, c, a in zip(vertex, bush.centre, axis, strict=True))
            for solid in cheeks.solids
            for vertex in solid.triangles[0]
        )
        half = bush.length_mm / 2
        assert reach[-1] == pytest.approx(half + 7.0 + 9.0) and reach[0] == pytest.approx(-half - 16.0)
        assert min(abs(r) for r in reach) == pytest.approx(half + 7.0)


class TestStock:
    def test_names_of_a_job_and_tables_agree(self) -> None:
        assert set(get_args(BoltSize)) == set(SIZES) and set(get_args(SteelName)) == set(STEELS)
        for name in get_args(BoltClass):
            assert bolt_class(name, 10.0).proof > 0
        for size in SIZES:
            assert clearance_hole(size)[0] > thread(size).diameter

    def test_the_room_of_a_washer_is_that_of_the_standard_within_3_mm(self) -> None:
        for size, (outside, _) in PLAIN.items():
            assert abs(2 * washer_radius(size) - outside) <= 3.0 and HEXAGON[size][1] < outside

    def test_the_schema_of_the_rack_is_the_one_in_docs(self) -> None:
        assert json.loads((DOCS / "rack.schema.json").read_text()) == Rack.model_json_schema()


RACK = {
    "rack": 1,
    "tubes": [
        {"shape": "round", "height_mm": 48.3, "wall_mm": 4, "steel": "E235"},
        {"shape": "round", "height_mm": 50, "wall_mm": 2},
        {"shape": "square", "height_mm": 60, "wall_mm": 4, "steel": "S355"},
        {"shape": "rectangle", "height_mm": 60, "width_mm": 30, "wall_mm": 3, "steel": "S355"},
    ],
    "sheets": [{"thickness_mm": 8, "steel": "S355"}, {"thickness_mm": 10, "steel": "S235"}],
    "bushes": [
        {"sleeve_mm": 20, "sleeve_bore_mm": 12.2, "eye_bore_mm": 58, "eye_wall_mm": 4, "length_mm": 48,
         "hardness_shore_a": 60},
    ],
    "bolts": [{"size": "M10", "bolt_class": "10.9", "length_mm": 40, "pieces": 6}],
}  # fmt: skip


class TestRack:
    @pytest.fixture
    def rack(self, tmp_path: Path) -> Rack:
        (tmp_path / "rack.json").write_text(json.dumps(RACK))
        return read_rack(tmp_path / "rack.json")

    def test_proposals_take_what_is_at_hand(self, demo: Job, rack: Rack) -> None:
        mount = first_mount(with_value(demo, "mounts", ()), "first", rack)
        assert mount.arm is not None and (tube(mount.arm).outside_mm, tube(mount.arm).wall_mm) == (48.3, 4), (
            "not too thin"
        )
        assert (bonded(mount.bush).eye_bore_mm, bonded(mount.bush).hardness_shore_a) == (58, 60)
        cross = first_crossmember(demo, rack)
        assert (cross.section.height_mm, cross.steel) == (60, "S355")
        plain = first_mount(with_value(demo, "mounts", ()), "first")
        assert (
            plain.arm is not None
            and tube(plain.arm).outside_mm == 50
            and bonded(plain.bush).eye_bore_mm == 70
        )

    def test_the_cut_list_says_what_is_on_the_rack(self, demo: Job, rack: Rack) -> None:
        job = with_value(with_value(demo, "mounts/left/pad/plate_mm", 8.0), "mounts/left/pad/steel", "S355")
        notes = {row.part: row.note for row in cut_list(job, rack)}
        enough = "; such stock on the rack, whether enough is not looked at"
        assert notes["Left engine mount: plate"].endswith(enough)
        assert notes["Left engine mount: sleeve"].endswith("; not on the rack")
        lies = with_value(job, "crossmember/section/wall_mm", 3.0)
        notes = {row.part: row.note for row in cut_list(lies, rack)}
        assert notes["Gearbox crossmember"].endswith(enough), "it lies, and stands on the rack"
        bolts = "block bolts"
        assert notes[f"Left engine mount: {bolts}"].endswith("; on the rack, its length not looked at")
        assert notes[f"Right engine mount: {bolts}"].endswith("; 2 of 4 on the rack"), "six for ten holes"
        assert notes[f"Gearbox mount: {bolts}"].endswith("; not on the rack")
        assert not any("rack" in row.note for row in cut_list(job))

    def test_one_bush_at_hand_is_not_promised_twice(self, demo: Job) -> None:
        """Two mounts alike and one bush for them; a third of the same sizes but harder rubber has none."""
        like = {name: getattr(demo.mounts[0].bush, name) for name in BushSize._fields}
        rack = Rack.model_validate({"bushes": [like]})
        job = with_value(demo, "mounts/gearbox/bush", demo.mounts[0].bush)
        notes = [row.note.rpartition("; ")[2] for row in cut_list(job, rack) if row.part.endswith(": bush")]
        assert bonded(demo.mounts[1].bush).hardness_shore_a != bonded(demo.mounts[0].bush).hardness_shore_a
        assert notes == ["on the rack", "not on the rack", "not on the rack"]

    @pytest.mark.parametrize(
        ("text", "words"),
        [
            ("{", "not JSON"),
            ("[" * 100_000, "not"),
            ('{"rack": 2}', "rack"),
            ('{"rack": 1, "tubes": [{"shape": "oval"}]}', "tubes/0/shape"),
            ('{"rack": 1, "ladders": []}', "ladders"),
        ],
    )
    def test_a_file_that_is_no_rack_is_one_sentence(
        self, tmp_path: Path, capsys: pytest.CaptureFixture[str], text: str, words: str
    ) -> None:
        path = tmp_path / "rack.json"
        path.write_text(text)
        with pytest.raises(JobError, match=words):
            read_rack(path)
        assert main(["stock", "--rack", str(path)]) == 1
        assert len(capsys.readouterr().err.splitlines()) == 1

    def test_the_command_tells_tables_and_rack(
        self, tmp_path: Path, capsys: pytest.CaptureFixture[str]
    ) -> None:
        path = tmp_path / "rack.json"
        path.write_text(json.dumps(RACK))
        assert main(["stock", "--json", "--rack", str(path)]) == 0
        told = json.loads(capsys.readouterr().out)
        assert told["rack"]["bolts"][0]["pieces"] == 6 and len(told["bolts"]) == len(SIZES)
        assert main(["stock", "--rack", str(path)]) == 0
        text = capsys.readouterr().out
        assert "48.3 mm" in text and "yield 235 MPa" in text


def test_the_shipped_letters_and_pictures_are_found(desk: Desk) -> None:
    """A window without them still opens, in whatever letters there are, too wide for its screen."""
    assert (Path(look.__file__).parent / "icons" / "down.svg").exists()
    assert {FONT} <= set(QFontDatabase.families()) and QFontInfo(desk.font()).family() == FONT
    assert desk.minimumSizeHint().width() <= 1024 and desk.minimumSizeHint().height() <= 700


def test_no_module_reaches_for_what_is_another_ones_own() -> None:
    """A name that begins with an underscore is imported by nobody."""
    source = Path(calc.__file__).parent
    reached = [
        f"{path.relative_to(source)}: {alias.name}"
        for path in source.rglob("*.py")
        for node in ast.walk(ast.parse(path.read_text()))
        if isinstance(node, ast.ImportFrom)
        for alias in node.names
        if alias.name.startswith("_") and not alias.name.startswith("__")
    ]
    assert not reached
