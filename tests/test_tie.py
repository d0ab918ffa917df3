"""A panel that ties the rails, carries the rack and guards the sump: against an independent frame and by
hand, whichever way it faces, and in the window."""

from __future__ import annotations

import json
import math
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from nimble_cradle.cli.main import main
from nimble_cradle.design.first_panel import first_panel
from nimble_cradle.desk.stages.chassis.panels_room import PanelsRoom
from nimble_cradle.desk.window import Desk
from nimble_cradle.fit.chassis_frame import frame_shares
from nimble_cradle.fit.frame_parts import sorted_members
from nimble_cradle.fit.tie_panel import tie_of
from nimble_cradle.job import store
from nimble_cradle.job.base import JobError
from nimble_cradle.job.edits import added, with_value
from nimble_cradle.job.job import Job
from nimble_cradle.job.panel import Duty, Lip, Panel
from nimble_cradle.judge.panel_duty import duty_verdict
from nimble_cradle.judge.verdict import stage_states, verdict
from nimble_cradle.strength.tie_guard import guard_beam, guard_plate, rack_moves

from pressing import click, unfold_all


def test_the_rack_against_an_independent_frame() -> None:
    """PyNite: a beam on two hinges, a stiff stub half way up to the rack, pushed along the beam."""
    from Pynite import FEModel3D

    long, area, inertia, high, force = 800.0, 900.0, 2.2e5, 55.0, 5000.0
    model = FEModel3D()
    model.add_material("steel", 210e3, 81e3, 0.3, 0.0)
    model.add_section("tie", area, 1e9, inertia, 1e6)
    model.add_section("stub", 1e6, 1e12, 1e12, 1e12)
    for name, x, y in (("a", 0, 0), ("m", long / 2, 0), ("b", long, 0), ("t", long / 2, high)):
        model.add_node(name, x, y, 0)
    for one, other, section in (("a", "m", "tie"), ("m", "b", "tie"), ("m", "t", "stub")):
        model.add_member(one + other, one, other, "steel", section)
    for end in ("a", "b"):
        model.def_support(end, True, True, True, True, True, False)
    model.add_node_load("t", "FX", force)
    model.analyze(check_stability=False)
    moved, stiffness = rack_moves(force, long, area, inertia, high, 210e3)
    assert moved == pytest.approx(model.nodes["t"].DX["Combo 1"], rel=1e-3)
    assert stiffness == pytest.approx(force / moved)


def test_the_guard_by_hand() -> None:
    """8 kN on 80 mm of a beam 800 long of 5,000 mm3: 8000 x (200 - 10)/5000 = 304 MPa. A sheet of 4 mm
    between lips 152 apart: m = 235 x 4 = 940 N a mm; (80 + 152) mm bear at 38 - 10 mm: 7,789 N; under a point
    it is cautious against a fan of yield lines, 2 pi m."""
    assert guard_beam(8000.0, 800.0, 80.0, 5000.0) == pytest.approx(304.0)
    assert guard_plate(152.0, 80.0, 4.0, 235.0) == pytest.approx(940 * 232 / 28)
    assert guard_plate(152.0, 1e-9, 4.0, 235.0) == pytest.approx(4 * 940) and 2 * math.pi > 4
    assert guard_plate(152.0, 300.0, 4.0, 235.0) == pytest.approx(940 * 304 / 19)


@pytest.fixture
def tied(demo: Job) -> Job:
    """The truck with the tie that the program begins with, 40 mm lower and 60 mm back of it, crooked."""
    panel = first_panel(demo, "tie")
    x, y, z = panel.at
    assert panel.duty is not None
    looked = panel.duty.model_copy(update={"ends": "looked at"})
    return added(
        demo,
        "panels",
        panel.model_copy(update={"id": "tie", "name": "Tie", "at": (x - 60, y, z), "duty": looked}),
    )


class TestOnTheTruck:
    def test_the_first_one_holds_and_is_worked_by_hand(self, tied: Job) -> None:
        """Every figure of it from its sizes: a U of middle lines, 160 wide, its lips as high as they are."""
        (panel,) = [p for p in tied.panels if p.duty]
        duty, lips = panel.duty, [lip for lip in panel.lips if lip.edge in (0, 2)]
        assert duty is not None and len(lips) == 2
        t, w, h = panel.thick_mm, 160.0, lips[0].long_mm - panel.thick_mm / 2
        area = t * (w + 2 * h)
        down = 2 * t * h * h / 2 / area
        inertia = 2 * (t * h**3 / 12 + t * h * (h / 2 - down) ** 2) + w * t * down**2 + w * t**3 / 12
        long = panel.outline[1][0]
        told = {f.code: f for f in duty_verdict(tied).findings}
        assert set(told) == {"tie-rack", "tie-slip", "tie-guard", "tie-plate"}
        give = long / (4 * 210e3 * area) + 40.0**2 * long / (12 * 210e3 * inertia)
        assert told["tie-rack"].use == pytest.approx(10e3 * give, rel=5e-3)
        assert f"{math.degrees(math.atan(5000 * give / 120)):.2f} deg" in told["tie-rack"].what
        load = 5000 * tied.allowables.rare_factor
        stress = load * (long / 4 - 10) / (inertia / (h - down))
        assert told["tie-guard"].use == pytest.approx(stress / 235, rel=1e-2)
        clamp = 0.7 * 45e3 / (0.2 * 10) - load * 40 / long / 3
        assert told["tie-slip"].use == pytest.approx(load / 6 / (0.2 * clamp), rel=1e-6)
        assert told["tie-plate"].use == pytest.approx(
            load / (235 * t**2 / 4 * (80 + w - 2 * t) / ((w - 2 * t) / 4 - 10)), rel=1e-6
        )
        assert all(f.use <= 1 for f in told.values())
        assert not [q for q in duty_verdict(tied).problems if q.place.startswith("panels/tie/")]

    def test_facing_the_other_way_it_is_the_same_part(self, tied: Job) -> None:
        """Seen from above instead of from below, its lips towards him: the same section, line and uses."""
        (panel,) = [p for p in tied.panels if p.duty]
        x, y, z = panel.at
        over = panel.model_copy(
            update={
                "normal": (0.0, 0.0, 1.0),
                "at": (x, y + panel.outline[1][0], z + panel.thick_mm),
                "lips": tuple(lip.model_copy(update={"way": "towards"}) for lip in panel.lips),
            }
        )
        one, other = tie_of(panel), tie_of(over)
        assert one.line == pytest.approx(other.line, abs=1e-9) and one.lowest == pytest.approx(other.lowest)
        for name in ("area", "i_y", "i_z", "torsion", "w_y"):
            assert getattr(one.section, name) == pytest.approx(getattr(other.section, name), rel=1e-9)
        low = tie_of(panel.model_copy(update={"lips": over.lips}))
        assert low.lowest < one.lowest - 20 and low.section.i_y == pytest.approx(one.section.i_y)

    def test_it_ties_the_frame_once_it_is_put_in(self, demo: Job, tied: Job) -> None:
        """More of the twist is left than without it; as it was and cut it was not there."""
        without, there = frame_shares(demo), frame_shares(tied)
        assert there.twist["cut"] == without.twist["cut"]
        assert there.twist["mended"].low > without.twist["mended"].low + 1e-3
        assert "Tie" in there.members

    def test_what_is_open(self, tied: Job) -> None:
        (panel,) = [p for p in tied.panels if p.duty]
        x, y, z = panel.at
        for change, words in (
            ({"at": (x, y, z - 30)}, "hangs 28 mm below the left rail"),
            ({"at": (x, y - 60, z)}, "its left end is 6"),
            ({"held": "welded"}, "is bolted, so that it comes out"),
            ({"lips": panel.lips[:3]}, "a lip along both"),
            ({"duty": Duty()}, "the rails' walls at its bolts are not judged here"),
            ({"duty": Duty(countersunk=False), "at": (x, y, z - 1)}, "hangs 6 mm below"),
        ):
            others = [p for p in tied.panels if not p.duty]
            job = with_value(tied, "panels", (*others, panel.model_copy(update=change)))
            said = [q.sentence for q in duty_verdict(job).problems]
            assert any(words in s for s in said), (words, said)
            (state,) = [s for s in stage_states(job, verdict(job)) if s.id == "chassis"]
            assert any(words in q for q in state.questions)
        upright = panel.model_copy(update={"normal": (1.0, 0.0, 0.0), "up": (0.0, 0.0, 1.0)})
        short = ((0.0, 0.0), (200.0, 0.0), (200.0, 160.0), (0.0, 160.0))
        stubby = panel.model_copy(update={"outline": short, "lips": ()})
        for wrong, match in ((upright, "lies flat"), (stubby, "longer")):
            with pytest.raises(JobError, match=match):
                tie_of(wrong)

    def test_of_aluminium_it_gives_three_times_as_much(self, tied: Job) -> None:
        """70,000 for 210,000 MPa: of the same sizes, under the rack and in the frame."""
        soft = with_value(tied, "panels/tie/metal", "aluminium")
        rack = [next(f for f in duty_verdict(j).findings if f.code == "tie-rack") for j in (tied, soft)]
        assert rack[1].use == pytest.approx(3 * rack[0].use) and rack[1].what != rack[0].what
        assert frame_shares(soft).twist["mended"].low < frame_shares(tied).twist["mended"].low
        bars = [next(b for b in sorted_members(j)[1] if b.put_in) for j in (tied, soft)]
        assert np.array(bars[0].figures) == pytest.approx(3 * np.array(bars[1].figures))

    def test_what_does_not_hold_is_asked(self, tied: Job) -> None:
        weak = with_value(tied, "panels/tie/duty/stone_kn", 20.0)
        (state,) = [s for s in stage_states(weak, verdict(weak)) if s.id == "chassis"]
        assert [q for q in state.questions if q.startswith("Tie, as a beam on a stone: does not hold")]
        none = with_value(with_value(tied, "panels/tie/duty/stone_kn", 0.0), "panels/tie/duty/rack_kn", 0.0)
        assert duty_verdict(none).findings == ()
        soft = Panel(
            id="s",
            name="S",
            outline=((0.0, 0.0), (800.0, 0.0), (800.0, 150.0), (0.0, 150.0)),
            thick_mm=3.0,
            lips=(Lip(id="a", edge=0, long_mm=20.0),),
            metal="aluminium",
            up=(1.0, 0.0, 0.0),
            duty=Duty(),
        )
        assert tie_of(soft).yield_mpa < 150 and tie_of(soft).lips == 1
        with pytest.raises(JobError, match="left and a right rail"):
            first_panel(with_value(tied, "items", ()), "tie")


def test_on_the_command_line(tied: Job, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    store.write(tmp_path / "a.cradle", tied)
    assert main(["chassis", str(tmp_path / "a.cradle"), "--json"]) == 0
    rows = json.loads(capsys.readouterr().out)["ties"]
    assert {row["check"]: row["use"] for row in rows} == pytest.approx(
        {f.code: f.use for f in duty_verdict(tied).findings}, abs=1e-4
    )
    assert np.all([row["id"] == "tie" for row in rows])


def test_in_the_window(desk: Desk, qtbot: Any) -> None:
    desk.go("chassis")
    rooms = desk.sheets["chassis"].rooms
    rooms.go("panels")
    room = rooms.present
    assert isinstance(room, PanelsRoom)
    room.kinds.setCurrentIndex(room.kinds.findData("tie"))
    click(desk, "Make it")
    unfold_all(room)
    panel = desk.session.job.panels[-1]
    assert panel.duty is not None and "As a beam on a stone: holds" in room.fields.told.text()
    click(desk, "It does none of this")
    assert desk.session.job.panels[-1].duty is None
    unfold_all(room)
    click(desk, "It goes from rail to rail and does")
    assert desk.session.job.panels[-1].duty == Duty()
    desk.session.undo()
    assert desk.session.job.panels[-1].duty is None
