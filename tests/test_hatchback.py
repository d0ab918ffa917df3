"""The second demo job: a transverse engine in a unibody, with a temporary datum, a scan, moving arms and
an adapter plate."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from nimble_cradle.bay.mass import powertrain_mass
from nimble_cradle.cli.main import main
from nimble_cradle.demo import demo_folder, make_bay_scan, write_demo
from nimble_cradle.desk.window import Desk
from nimble_cradle.geometry.scan_ply import from_own_ply
from nimble_cradle.geometry.surface import Surface
from nimble_cradle.job import store
from nimble_cradle.job.edits import with_value
from nimble_cradle.job.job import Job
from nimble_cradle.job.open_job import OpenJob
from nimble_cradle.judge.carried import carried
from nimble_cradle.judge.stages import STAGES
from nimble_cradle.judge.verdict import verdict
from nimble_cradle.shop.pack import write_pack
from nimble_cradle.survey.adapter import adapter_plate
from nimble_cradle.survey.network import network
from nimble_cradle.survey.scans import refined, scan_of
from nimble_cradle.telltales import tell_tales
from nimble_cradle.units import G_STANDARD
from PyQt6.QtWidgets import QApplication

from conftest import ask_nothing


def test_it_is_written_as_a_save_would(hatchback: Job) -> None:
    assert (demo_folder("hatchback") / "job.json").read_text() == store.job_text(hatchback)
    assert (
        len(hatchback.items) >= 14 and len(hatchback.powertrain.pieces) >= 12 and len(hatchback.mounts) == 3
    )


def test_it_starts_a_little_wrong_and_can_be_put_right(hatchback: Job) -> None:
    """One foul, one gap that only fails when running, one soft bush, one misread distance; each has its
    cure."""
    v = verdict(hatchback)
    states = {(g.piece, g.item): (g.state_at_rest, g.state) for g in v.gaps}
    assert states["gearbox", "battery"][0] == "fouls" and states["turbo", "brake-pipes"] == (
        "clear",
        "too tight",
    )
    assert v.block_to_bush and len(v.mounts) == 3 and {m.bush_to_rail for m in v.mounts} == {"holds"}
    assert ["out of line" in p.sentence for p in v.problems] == [True]
    wrong = next(r.id for r in network(hatchback).readings if r.state == "out of line")
    job = with_value(hatchback, f"survey/readings/{wrong}/used", False)
    job = with_value(
        with_value(job, "items/battery/fate", "remove"), "position/x", hatchback.position.x + 1.0
    )
    v = verdict(job)
    assert v.block_to_bush and not v.open_questions and v.holds, v.problems
    bare = with_value(job, "mounts/rear/foot", None)
    assert not verdict(bare).holds


def test_the_transaxle_is_reacted_by_gear_times_final_drive(hatchback: Job) -> None:
    """By hand: the tyres' limit at the wheels, and the mounts' moments about the shaft line balance it."""
    c = carried(hatchback)
    v, share = hatchback.vehicle, c.share
    grip = hatchback.loads.tyre_grip
    total = share.value("front") + share.value("rear")
    kg, mass = v.front_axle_kg + v.rear_axle_kg, c.mass.mass_kg
    high = (kg * v.cog_height_mm + mass * (float(c.centre[2]) - v.ground_z_mm)) / (kg + mass)
    force = grip * share.value("front") * G_STANDARD / (1 + grip * high / v.wheelbase_mm)
    assert c.reacted[0] == pytest.approx(force * v.tyre_radius_mm / 1000)
    assert c.reacted[1] == "at the half-shafts"
    assert c.reacted[0] < hatchback.powertrain.engine.torque_nm * 3.42 * 3.94 and total > 900
    first, rest = c.case("first-gear"), c.case("weight")
    moment = np.zeros(3)
    places = [m.bush.centre for m in hatchback.mounts]
    places += [strut.chassis_at for strut in hatchback.struts]
    for place, load, still in zip(places, first.mounts, rest.mounts, strict=True):
        moment += np.cross(np.array(place), np.array(load.force) - np.array(still.force))
    moment -= np.cross(c.centre, first.case.force - rest.case.force)  # the engine's own acceleration
    assert moment[1] == pytest.approx(-c.reacted[0] * 1000, rel=0.015), "the chassis feels it backwards"


def test_half_shafts_and_words(hatchback: Job) -> None:
    tales = {t.id: t for t in tell_tales(hatchback, verdict(hatchback))}
    assert tales["driveline"].title == "Half-shafts" and "with the wheels" in tales["driveline"].cause
    high = with_value(hatchback, "position/z", hatchback.position.z + 60)
    faults = verdict(high).driveline.faults  # type: ignore[union-attr]
    assert any("over the limit of 8 deg" in f for f in faults) and any(
        "through the wheel's travel" in f for f in faults
    )


def test_survey_of_the_hatchback(hatchback: Job) -> None:
    net = network(hatchback)
    assert (
        [t.name for t in net.ties] == ["Slam panel datum"]
        and net.ties[0].rms < 1.5
        and net.ties[0].fault == ""
    )
    assert not any(p.free for p in net.points) and net.dof > 25
    plate = adapter_plate(hatchback)
    assert plate is not None and not plate.questions and plate.ligaments[0].ligament > 5
    assert {g.item for g in verdict(hatchback).gaps if g.travel is not None} >= {"rack"}


def test_the_scan_ships_as_its_script_makes_it(hatchback: Job) -> None:
    """The shipped mesh lies on the bay that the script invents, within the scanner's noise and the
    thinning."""
    data = hatchback.mesh("bay-scan.ply").data
    assert from_own_ply(data) is not None and len(data) < 400_000
    found = scan_of(hatchback, "bay-scan")
    points, faces = make_bay_scan.bay()
    off = Surface(points, faces, 5.0).distances(found.placed.vertices)
    assert np.median(off) < 0.5 and off.max() < 4.0
    patch = np.array([-260.0, -560, 190]), np.array([-190.0, -260, 450])
    after, fine = refined(hatchback, "bay-scan", patch)
    assert fine.rms < 0.6 and after.items[-1].give_or_take == 2.0
    assert any(w.startswith("sliding") for w in fine.loose), (
        "a flat patch does not hold it sideways, and that is told"
    )


def test_report_and_pack(hatchback: Job, tmp_path: Path, capsys: Any) -> None:
    assert main(["report", str(demo_folder("hatchback")), "--json", "--strict"]) == 1
    data = json.loads(capsys.readouterr().out)
    assert data["driveline"]["kind"] == "half-shafts" and data["survey"]["ties"][0]["id"] == "slam"
    assert data["powertrain"]["mass_kg"] == pytest.approx(powertrain_mass(hatchback).mass_kg)
    names = {p.name for p in write_pack(hatchback, tmp_path)}
    assert {
        "adapter.dxf",
        "pattern-engine-face.svg",
        "plate-rear.dxf",
        "cope-left.svg",
        "shop-pack.pdf",
    } <= names


def test_every_stage_and_room_shows_it(qtbot: Any, tmp_path: Path) -> None:
    desk = Desk(OpenJob(write_demo("hatchback", tmp_path / "h.cradle")))
    qtbot.addWidget(desk, before_close_func=ask_nothing)
    desk.show()
    qtbot.waitExposed(desk)
    for stage in STAGES:
        desk.go(stage.id)
        QApplication.processEvents()
        rooms: Any = getattr(desk.sheets[stage.id], "rooms", None)
        for room in rooms.rooms if rooms is not None else ():
            rooms.go(room.key)
            QApplication.processEvents()
    desk.go("position")
    before = desk.session.verdict.gaps[0].gap
    desk.session.nudge((-6.0, 0.0, 0.0))
    qtbot.waitUntil(lambda: desk.session.verdict.gaps[0].gap != before, timeout=3000)
    for cell in desk.tales.cells:
        assert cell.tale is not None
        desk.open_door(cell.tale)
        assert desk.drawer.isVisible() and desk.drawer.title.text()
