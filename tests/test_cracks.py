"""Cracks and rust: steps in their order, plates by hand, mounts near, photographs, the room by the mouse."""

from __future__ import annotations

import json
import math
from datetime import date, timedelta
from pathlib import Path
from typing import Any, get_args

import numpy as np
import pytest
from nimble_cradle.bay.bodies import solid_of, standing_items
from nimble_cradle.cli.main import main
from nimble_cradle.design.first_panel import first_panel, first_panels
from nimble_cradle.desk.stages.chassis.cracks_room import CracksRoom
from nimble_cradle.desk.window import Desk
from nimble_cradle.job import store
from nimble_cradle.job.base import JobError
from nimble_cradle.job.crack import DONE_WORDS, Crack, Done
from nimble_cradle.job.edits import added, with_value
from nimble_cradle.job.job import Job
from nimble_cradle.judge.cracks import again_on, crack_plate, crack_questions, mounts_near, next_step
from nimble_cradle.judge.panels import panel_questions
from nimble_cradle.made.foot_seats import foot_seats
from nimble_cradle.made.panel import made_panel, panel_part
from PIL import Image

from pressing import click, refusal, type_in

CRACK = Crack(
    id="c", name="Crack", item="rail-right", at=(-900.0, -455.0, -60.0), run=(0.2, 0.0, 1.0), long_mm=24.0
)
"""In the outer wall of the right rail, leaning."""


def asked(job: Job, crack: Crack) -> list[str]:
    return [p.sentence for p in crack_questions(with_value(job, "cracks", (crack,)))]


def test_every_step_in_its_order(demo: Job) -> None:
    """From found to sound: one thing to do at each, none at the end."""
    steps = [next_step(CRACK.model_copy(update={"done": done}), 3.0) for done in get_args(Done)]
    words = (
        "stop hole 6 mm beyond",
        "vee of 60",
        "weld it",
        "dress",
        "plate it: 3 mm",
        "after 50 km",
        "after 500 km",
    )
    assert all(word in step for word, step in zip(words, steps, strict=False))
    assert steps[-1] == "" and list(DONE_WORDS) == list(get_args(Done))
    driven = CRACK.model_copy(update={"done": "plated", "welded_km": 84120.0})
    assert "at 84170 km" in next_step(driven, 3.0)
    assert "not measured" in next_step(CRACK.model_copy(update={"done": "dressed"}), None)
    assert not asked(demo, CRACK.model_copy(update={"done": "sound"}))
    assert asked(demo, CRACK) == ["Crack: drill a stop hole 6 mm beyond each tip."]


def test_the_plate_by_hand(demo: Job) -> None:
    """24 long, stop holes 6 beyond, 20 more: 76 straight; 50 wide, tapered 30 degrees: 43.3 at each end."""
    plate = crack_plate(CRACK, 3.0)
    assert plate.long == pytest.approx(24 + 2 * 26 + 2 * 25 / math.tan(math.radians(30)))
    ring = np.array(plate.outline)
    assert np.ptp(ring[:, 1]) == pytest.approx(plate.long) and np.ptp(ring[:, 0]) == 50
    sides = np.diff(np.vstack([ring, ring[:1]]), axis=0)
    leaning = [abs(math.degrees(math.atan2(dx, dy))) % 180 for dx, dy in sides]
    assert sorted(round(min(a, 180 - a)) for a in leaning) == [0, 0, 30, 30, 30, 30]


def test_the_plate_lies_on_its_wall(demo: Job) -> None:
    """On the outer side of the right rail: outside of it by its own thickness, its middle at the crack, its
    length along it."""
    job = with_value(demo, "cracks", (CRACK,))
    assert first_panels(job)["crack c"] == "Plate over: Crack"
    panel = first_panel(job, "crack c")
    p = np.vstack([part.triangles[0] for part in panel_part(panel).solids])
    assert (p[:, 1].min(), p[:, 1].max()) == pytest.approx((-455 - 3.0, -455.0), abs=1e-6)
    assert (p.min(0) + p.max(0))[[0, 2]] / 2 == pytest.approx((-900, -60), abs=1e-6)
    run = np.array([0.2, 0.0, 1.0]) / math.hypot(0.2, 1.0)
    assert np.ptp(p @ run) == pytest.approx(crack_plate(CRACK, 3.0).long, abs=0.2)
    assert not panel_questions(added(job, "panels", panel))
    assert made_panel(panel).kg == pytest.approx((76 * 50 + 25 * 2 * 43.3) * 3 * 7.85e-6, rel=2e-3)
    bare = with_value(job, "items/rail-right/host/wall_mm", None)
    with pytest.raises(JobError, match="not measured"):
        first_panel(bare, "crack c")


@pytest.mark.parametrize(
    ("changed", "said"),
    [
        ({"hole_mm": 5.0}, "replace the part"),
        ({"edge": "yes"}, "edge of a flange"),
        ({"item": "nowhere"}, "not in the bay"),
        ({"kind": "rust"}, "bright metal"),
        ({"kind": "rust", "left_mm": 2.2}, "let in a patch"),
    ],
)
def test_what_is_asked(demo: Job, changed: dict[str, Any], said: str) -> None:
    assert any(said in s for s in asked(demo, CRACK.model_copy(update=changed)))


def test_what_is_not(demo: Job) -> None:
    """6 mm from a hole in a wall of 3 is two walls; 2.3 of 3 mm is more than three quarters."""
    assert len(asked(demo, CRACK.model_copy(update={"hole_mm": 6.0}))) == 1
    assert not asked(demo, CRACK.model_copy(update={"kind": "rust", "left_mm": 2.3}))
    light = with_value(demo, "items/rail-right/material", "magnesium")
    assert any("magnesium" in s for s in asked(light, CRACK))


def test_a_mount_near(demo: Job) -> None:
    """Beside the right mount's foot it is told with how far it is; half a metre on it is not, nor on the
    other rail."""
    seat = foot_seats(demo).of("right")
    assert seat is not None
    there = tuple(float(v) for v in seat.centre + (110.0, 0.0, 0.0))
    near = CRACK.model_copy(update={"at": there, "run": (0.0, 0.0, 1.0), "long_mm": 10.0})
    ((name, away),) = mounts_near(demo, near)
    foot = next(m.foot for m in demo.mounts if m.id == "right")
    assert foot is not None and name == next(m.name for m in demo.mounts if m.id == "right")
    rail = next(i for i in standing_items(demo) if i.id == "rail-right")
    wall = np.vstack([part.triangles[0] for part in solid_of(rail, demo.meshes, "items")])
    assert wall[:, 0].min() < there[0] < wall[:, 0].max()
    assert 20 < away < 80  # 110 from the middle of a foot of about 130 by 110
    assert any("may be what made it" in s for s in asked(demo, near))
    assert not mounts_near(demo, near.model_copy(update={"at": (there[0] - 500, *there[1:])}))
    assert not mounts_near(demo, near.model_copy(update={"item": "rail-left"}))


def test_command(demo: Job, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    path = tmp_path / "c.cradle"
    store.write(path, with_value(demo, "cracks", (CRACK,)))
    main(["chassis", str(path), "--json"])
    data = json.loads(capsys.readouterr().out)
    want = {
        "id": "c",
        "name": "Crack",
        "item": "rail-right",
        "long_mm": 24.0,
        "done": "found",
        "again_on": "",
    }
    assert data["cracks"] == [want]
    assert any("stop hole" in s for s in data["questions"])


@pytest.mark.parametrize(
    ("done", "kind", "day"),
    [("plated", "crack", "2028-03-05"), ("seen once", "crack", "2028-08-20"), ("welded", "crack", None)]
    + [("sound", "crack", None), ("plated", "rust", None)],
)
def test_it_is_due_by_a_day_too(done: Done, kind: str, day: str | None) -> None:
    """Welded on 20 February of a leap year: counted on a calendar."""
    crack = CRACK.model_copy(
        update={"done": done, "kind": kind, "welded_on": "2028-02-20", "welded_km": 900.0}
    )
    assert again_on(crack) == (day and date.fromisoformat(day))
    assert (f"or on {day}, whichever is first" in next_step(crack, 3.0)) == (day is not None)
    assert again_on(crack.model_copy(update={"welded_on": ""})) is None


@pytest.mark.parametrize(
    "said", ["2026-02-30", "20260228", "28.2.2026", "0000-01-01", "9999-12-31", "٢٠٢٦-٠١-٠١"]
)
def test_what_is_no_date_is_refused(demo: Job, said: str) -> None:
    job = with_value(demo, "cracks", (CRACK,))
    with pytest.raises(JobError, match="year-month-day"):
        with_value(job, "cracks/c/welded_on", said)


def test_room_tells_what_is_due(desk: Desk) -> None:
    """Welded 20 days ago and plated: overdue by 6 days, in the list too; not by another day."""
    desk.go("chassis")
    desk.sheets["chassis"].rooms.go("cracks")
    room = desk.sheets["chassis"].rooms.present
    assert isinstance(room, CracksRoom)
    click(desk, "Add one")
    (crack,) = desk.session.job.cracks
    desk.session.set_value(f"cracks/{crack.id}/done", "plated", "Plated")
    assert "due" not in room.said.text()
    path = f"cracks/{crack.id}/welded_on"
    for ago, due in ((20, "; 6 days overdue"), (15, "; 1 day overdue"), (14, "; due today"), (13, "")):
        day = (date.today() - timedelta(days=ago)).isoformat()
        type_in(desk, path, day)
        assert desk.session.job.cracks[0].welded_on == day
        assert (due in room.said.text()) if due else ("due" not in room.said.text())
        cell = room.table.item(0, 2)
        assert cell is not None and ("due" in cell.text()) == bool(due)
    assert "year-month-day" in refusal(type_in(desk, path, "last week"))
    assert desk.session.job.cracks[0].welded_on == day


def test_room(desk: Desk, tmp_path: Path) -> None:
    """By the mouse: one is added, told what comes next, gets its photograph and loses it, goes."""
    desk.go("chassis")
    rooms = desk.sheets["chassis"].rooms
    rooms.go("cracks")
    room = rooms.present
    assert isinstance(room, CracksRoom) and not room.holder.isVisible()
    room.where.setCurrentIndex(1)
    click(desk, "Add one")
    (crack,) = desk.session.job.cracks
    assert crack.item == desk.session.job.items[1].id and "drill a stop hole" in room.said.text()
    desk.session.set_value(f"cracks/{crack.id}/done", "dressed", "Dressed")
    assert "plate it" in room.said.text() and "Panels" in room.said.text()
    Image.new("RGB", (80, 60), "#996633").save(tmp_path / "crack.png")
    room.attach(tmp_path / "crack.png")
    assert desk.session.job.cracks[0].photo and room.picture.isVisible()
    (tmp_path / "no.png").write_bytes(b"no picture")
    room.attach(tmp_path / "no.png")
    assert room.refusal.text() and desk.session.job.cracks[0].photo.startswith("crack")
    click(desk, "Take it off")
    assert not desk.session.job.cracks[0].photo and not room.picture.isVisible()
    click(desk, "Take it out of the list")
    assert not desk.session.job.cracks
