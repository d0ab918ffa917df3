"""The crossmember comes out: straight down, aside, tipped; what stops it; proved by moving it in small
steps."""

from __future__ import annotations

import json
from typing import Any

import numpy as np
import pytest
from nimble_cradle.bay.position import pose_of
from nimble_cradle.cli.main import main
from nimble_cradle.demo import demo_folder
from nimble_cradle.desk.stages.crossmember.drop_group import DROP, DropGroup
from nimble_cradle.desk.window import Desk
from nimble_cradle.geometry.bodies import Bodies
from nimble_cradle.geometry.distance import nearest
from nimble_cradle.geometry.pose import Pose, rotation_about
from nimble_cradle.geometry.solids import placed_part
from nimble_cradle.job.base import JobError
from nimble_cradle.job.bay import Item
from nimble_cradle.job.edits import with_value
from nimble_cradle.job.job import Job
from nimble_cradle.job.powertrain import Piece
from nimble_cradle.job.shapes import Box
from nimble_cradle.seat.drop_out import KISS, DropOut, _both, drop_out

from pressing import click, unfold_all


def with_block(job: Job, *boxes: tuple[tuple[float, float, float], tuple[float, float, float]]) -> Job:
    """The job with blocks in its bay: (centre, size)."""
    items = tuple(
        Item(id=f"block-{k}", name=f"Block {k}", neighbour="metal", shapes=(Box(centre=c, size=s),))
        for k, (c, s) in enumerate(boxes)
    )
    return with_value(job, "items", (*job.items, *items))


def stepped(job: Job, found: DropOut) -> float:
    """How deep it gets into anything on its way, in steps of 4 mm and half a degree: poses, no sweep."""
    moving, still = _both(job)
    parts = [part for body in moving for part in body.solids]
    fixed = Bodies([solids for _, solids in still])
    start = _deep(parts, fixed)
    worst = 0.0
    for leg in found.legs:
        many = max(1, int(np.linalg.norm(leg.by) / 4), int(abs(leg.deg) / 0.5))
        for _ in range(many):
            if leg.about is None:
                pose = Pose(np.eye(3), leg.by / many)
            else:
                r = rotation_about((1, 0, 0), np.radians(leg.deg / many))
                pose = Pose(r, leg.about - r @ leg.about)
            parts = [placed_part(part, pose) for part in parts]
            worst = max(worst, _deep(parts, fixed) - start)
    return worst


def _deep(parts: list[Any], fixed: Bodies) -> float:
    moving = Bodies([parts])
    return max(
        (-n.distance for n in nearest(moving, Pose.still(), fixed, np.full((1, fixed.count), 0.05))),
        default=0.0,
    )


def test_the_demo_drops_straight_out(demo: Job) -> None:
    found = drop_out(demo)
    assert found.found and found.words == "Down." and found.tried == 1
    assert stepped(demo, found) <= KISS + 1e-6


def test_a_pipe_under_its_left_half(demo: Job) -> None:
    """A pipe along the car under its left end stops it straight down: another way is found, and is free in
    small steps too."""
    job = with_block(demo, ((-880.0, 330.0, -300.0), (500.0, 40.0, 40.0)))
    found = drop_out(job)
    assert found.found and found.tried > 1, found.words
    assert found.legs[0].words != "down" and stepped(job, found) <= KISS + 1e-6


def test_not_through_its_own_engine(demo: Job) -> None:
    """An exhaust of the engine's own, level under the whole of it: it stops the way down, by its name."""
    pose = pose_of(demo.position)
    box = Box(centre=(0.0, 0.0, 0.0), size=(300.0, 700.0, 30.0))
    place = pose.inverse().points((-880.0, 0.0, -260.0))
    x, y, z = (float(c) for c in place)
    box = box.model_copy(update={"centre": (x, y, z)})
    piece = Piece(id="pipe", name="Own pipe", mass_kg=1.0, shapes=(box,))
    job = with_value(demo, "powertrain/pieces", (*demo.powertrain.pieces, piece))
    found = drop_out(job)
    assert found.words != "Down." and (not found.found or stepped(job, found) <= KISS + 1e-6)
    assert found.found or "Own pipe" in found.stops


def test_ahead_past_a_plate(demo: Job) -> None:
    """A plate right under all of it, as wide as the car, from its middle backwards: ahead first."""
    job = with_block(demo, ((-960.0, 0.0, -240.0), (200.0, 900.0, 4.0)))
    found = drop_out(job)
    assert found.found and "ahead" in found.legs[0].words and stepped(job, found) <= KISS + 1e-6


def test_shut_in(demo: Job) -> None:
    """A floor under everything: not found, and said what stopped it, not called impossible."""
    found = drop_out(with_block(demo, ((-880.0, 0.0, -240.0), (2000.0, 2000.0, 4.0))))
    assert not found.found and found.stops[0] == "Block 0"
    assert "there may be others" in found.words and "Block 0" in found.words and found.tried >= 30


def test_without_one(hatchback: Job) -> None:
    with pytest.raises(JobError, match="no crossmember"):
        drop_out(hatchback)


def test_command(capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["crossmember", str(demo_folder("light-truck")), "--drop-out", "--json"]) == 0
    assert json.loads(capsys.readouterr().out)["drop_out"]["legs"] == ["down"]
    main(["crossmember", str(demo_folder("light-truck")), "--drop-out"])
    assert "gearbox held up: Down." in capsys.readouterr().out


def test_group(desk: Desk, qtbot: Any) -> None:
    """By the mouse: looked for on a thread, told, and no longer told of another job."""
    desk.go("crossmember")
    unfold_all(desk.sheets["crossmember"])
    click(desk, "Look for a way")
    qtbot.waitUntil(lambda: not desk.session.tasks.running(DROP), timeout=30000)
    group = desk.sheets["crossmember"].findChild(DropGroup)
    assert group is not None and group.said.text() == "Down."
    desk.session.set_value("vehicle/wheelbase_mm", 3001.0, "another wheelbase")
    assert "changed" in group.said.text()
