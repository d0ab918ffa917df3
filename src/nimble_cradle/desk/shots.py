"""The pictures of docs/screenshots: one for each stage, taken from the demo job."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import TYPE_CHECKING

from nimble_cradle.desk.kit.working_room import WorkingRoom
from nimble_cradle.desk.stages import stage_desks
from nimble_cradle.desk.stages.mounts.sheet import MountsSheet
from nimble_cradle.desk.stages.position.removal import RemovalRoom
from nimble_cradle.desk.stages.position.sheet import PositionSheet
from nimble_cradle.desk.stages.survey.sheet import SurveySheet
from nimble_cradle.desk.window_picture import picture, settle

if TYPE_CHECKING:
    from PyQt6.QtWidgets import QApplication

    from nimble_cradle.desk.window import Desk


def take_shots(app: QApplication, desk: Desk, folder: Path) -> Iterator[Path]:
    """Walk through the stages as a user would and give each picture's path."""
    desk.session.wait_first()
    settle(app, 1.0)
    for stage, shown in stage_desks().items():
        desk.go(stage)
        desk.view.stand(shown.standpoint)
        desk.session.select("", "")
        if stage == "survey":
            sheet = desk.sheets["survey"]
            assert isinstance(sheet, SurveySheet)
            sheet.rooms.go("points")
        elif stage == "bay":
            desk.session.select("item", "front-crossmember")
        elif stage == "powertrain":
            desk.session.select("piece", "turbo")
        elif stage == "mounts":
            sheet = desk.sheets["mounts"]
            assert isinstance(sheet, MountsSheet)
            sheet.choose("left")
        elif stage == "logbook":
            desk.session.place.note(
                "The fan touches the radiator; try further back before the shroud is cut."
            )
            desk.session.changed.emit()
        settle(app, 0.8)
        path = folder / f"{stage}.png"
        picture(desk, path)
        yield path
    desk.go("position")
    desk.view.stand("corner")
    desk.open_door(desk.tales.cells[0].tale)  # type: ignore[arg-type]
    settle(app, 0.8)
    path = folder / "working.png"
    picture(desk, path)
    yield path


def _worked(app: QApplication, room: WorkingRoom) -> None:
    """Wait until a room's long work is over and shown."""
    while room.working:
        settle(app, 0.1)
    settle(app, 0.8)


def take_seat_shots(app: QApplication, desk: Desk, folder: Path) -> Iterator[Path]:
    """Position's rooms on the truck: the seat found, what each cut buys, the driveline, candidates, a
    section."""
    sheet = desk.sheets["position"]
    assert isinstance(sheet, PositionSheet)
    desk.go("position")
    desk.drawer.hide()
    desk.view.stand("corner")
    desk.session.select("", "")
    sheet.rooms.go("settle")
    sheet.settling.settle()
    _worked(app, sheet.settling)
    yield _taken(desk, folder, "settle")
    sheet.rooms.go("trades")
    sheet.trading.work_out()
    _worked(app, sheet.trading)
    yield _taken(desk, folder, "trades")
    sheet.rooms.go("driveline")
    desk.view.stand("left")
    settle(app, 0.8)
    yield _taken(desk, folder, "driveline")
    sheet.rooms.go("section")
    settle(app, 0.8)
    yield _taken(desk, folder, "section")


def take_exit_shot(app: QApplication, desk: Desk, folder: Path) -> Iterator[Path]:
    """The hatchback's engine on its way out, from its seat."""
    sheet = desk.sheets["position"]
    assert isinstance(sheet, PositionSheet)
    desk.go("position")
    sheet.rooms.go("settle")
    sheet.settling.settle()
    _worked(app, sheet.settling)
    sheet.rooms.go("exit")
    desk.view.stand("front")
    room = sheet.rooms.present
    assert isinstance(room, RemovalRoom)
    room.find_way()
    _worked(app, room)
    room.slider.setValue(room.slider.maximum() // 4)
    settle(app, 0.8)
    yield _taken(desk, folder, "way-out")
    room.home()


def _taken(desk: Desk, folder: Path, name: str) -> Path:
    path = folder / f"{name}.png"
    picture(desk, path)
    return path


def take_survey_shots(app: QApplication, desk: Desk, folder: Path) -> Iterator[Path]:
    """The hatchback: its scanned bay, its adapter plate, and the engine across the car."""
    desk.session.wait_first()
    settle(app, 1.0)
    sheet = desk.sheets["survey"]
    assert isinstance(sheet, SurveySheet)
    for name, stage, room, stand in (
        ("scans", "survey", "scans", "corner"),
        ("adapter", "survey", "adapter", "front"),
        ("hatchback", "position", "", "over"),
    ):
        desk.go(stage)
        desk.view.stand(stand)
        if room:
            sheet.rooms.go(room)
        settle(app, 0.8)
        path = folder / f"{name}.png"
        picture(desk, path)
        yield path
