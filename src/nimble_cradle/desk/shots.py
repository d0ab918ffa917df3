"""The pictures of docs/screenshots: one for each main view, taken from the demo jobs as a user would come
to it."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING, Any

from nimble_cradle.desk.kit.working_room import WorkingRoom
from nimble_cradle.desk.stages import stage_desks
from nimble_cradle.desk.window_picture import picture, settle

if TYPE_CHECKING:
    from PyQt6.QtWidgets import QApplication

    from nimble_cradle.desk.stages.mounts.this_room import Shown
    from nimble_cradle.desk.window import Desk


@dataclass(frozen=True, eq=False)
class Shot:
    """A picture: its name, the stage and room it shows, where one stands, what is chosen, and what is
    done before; ``then`` puts it away again."""

    name: str
    stage: str
    room: str = ""
    stand: str = ""
    chosen: tuple[str, str] = ("", "")
    act: Callable[[Desk], Any] = lambda desk: None
    then: Callable[[Desk], Any] = lambda desk: None


def _alone(desk: Desk, how: Shown) -> None:
    """One mount by itself, or all in the car again."""
    from nimble_cradle.desk.stages.mounts.sheet import MountsSheet

    sheet = desk.sheets["mounts"]
    assert isinstance(sheet, MountsSheet)
    sheet.this.show_as(how)


def _remark(desk: Desk) -> None:
    desk.session.place.note("The fan touches the radiator; try further back before the shroud is cut.")
    desk.session.changed.emit()


def _margin(desk: Desk) -> None:
    tale = desk.tales.cells[0].tale
    assert tale is not None
    desk.open_door(tale)


def _room(desk: Desk, method: str) -> None:
    """Long work of the room in sight."""
    getattr(desk.sheets[desk.stage].rooms.present, method)()


def _film(desk: Desk) -> None:
    """The way out, a quarter of the way along."""
    _room(desk, "find_way")
    _wait(desk)
    slider = desk.sheets["position"].rooms.present.slider  # type: ignore[attr-defined]
    slider.setValue(slider.maximum() // 4)


TRUCK: tuple[Shot, ...] = (
    Shot("survey", "survey", "points"),
    Shot("bay", "bay", chosen=("item", "front-crossmember")),
    Shot("powertrain", "powertrain", "pieces", "corner", ("piece", "turbo")),
    Shot("position", "position", "hand", "corner"),
    Shot("mounts", "mounts", chosen=("mount", "left")),
    Shot(
        "one-mount",
        "mounts",
        "this",
        chosen=("mount", "right"),
        act=lambda desk: _alone(desk, "whole"),
        then=lambda desk: _alone(desk, ""),
    ),
    Shot("crossmember", "crossmember"),
    Shot("chassis", "chassis"),
    Shot("pack", "pack"),
    Shot("logbook", "logbook", act=_remark),
    Shot("working", "position", "hand", "corner", act=_margin, then=lambda desk: desk.drawer.hide()),
    Shot(
        "cures",
        "mounts",
        chosen=("mount", "left"),
        act=lambda desk: desk.cures.look(),
        then=lambda desk: desk.cures.put_away(),
    ),
    Shot("settle", "position", "settle", "corner", act=lambda desk: _room(desk, "settle")),
    Shot("trades", "position", "trades", "corner", act=lambda desk: _room(desk, "work_out")),
)
HATCHBACK: tuple[Shot, ...] = (
    Shot("scans", "survey", "scans", "corner"),
    Shot("adapter", "survey", "adapter", "front"),
    Shot("seat across", "position", "settle", "over", act=lambda desk: _room(desk, "settle")),
    Shot("way-out", "position", "exit", "front", act=_film, then=lambda desk: _room(desk, "home")),
)
"""A name with a blank in it is a step on the way: nothing is written."""


def _wait(desk: Desk) -> None:
    """Until no long work is under way."""
    from PyQt6.QtWidgets import QApplication

    app = QApplication.instance()
    assert isinstance(app, QApplication)
    rooms = [room for sheet in desk.sheets.values() for room in sheet.findChildren(WorkingRoom)]
    while any(room.working for room in rooms) or desk.session.tasks.running("cures"):
        settle(app, 0.1)


def take(app: QApplication, desk: Desk, shots: tuple[Shot, ...], folder: Path) -> Iterator[Path]:
    """Walk through and give each picture's path."""
    desk.session.wait_first()
    settle(app, 1.0)
    for shot in shots:
        desk.go(shot.stage)
        if shot.room:
            desk.sheets[shot.stage].rooms.go(shot.room)
        desk.view.stand(shot.stand or stage_desks()[shot.stage].standpoint)
        desk.session.select(*shot.chosen)
        shot.act(desk)
        settle(app, 0.3)
        _wait(desk)
        settle(app, 1.2)
        if " " not in shot.name:
            path = folder / f"{shot.name}.png"
            picture(desk, path)
            yield path
        shot.then(desk)


def take_door(app: QApplication, folder: Path, work: Path) -> Iterator[Path]:
    """The start page with the demos on it, and a new job."""
    from nimble_cradle.design.begin import Answers
    from nimble_cradle.desk.opened import begin_desk, open_desk
    from nimble_cradle.desk.start_window import StartWindow

    window = StartWindow(open_desk, begin_desk, lambda name: None)
    window.show()
    settle(app, 0.6)
    picture(window, folder / "start.png")
    yield folder / "start.png"
    window.close()
    desk = begin_desk(work / "my-job.cradle", Answers())
    settle(app, 1.2)
    picture(desk, folder / "left.png")
    yield folder / "left.png"
    desk.session.place.count_as_saved()
    desk.close()
