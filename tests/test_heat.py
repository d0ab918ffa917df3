"""Lines in the heat of what is welded in the car: how far by hand, which welds count, and that it is asked
until it is answered."""

from __future__ import annotations

from typing import Any

import pytest
from nimble_cradle.job.bay import Item
from nimble_cradle.job.edits import with_value
from nimble_cradle.job.job import Job
from nimble_cradle.job.shapes import Bar
from nimble_cradle.judge.heat import HEAT, heat_questions, in_heat
from nimble_cradle.judge.verdict import verdict


def hose(x: float, y: float, z: float, **other: Any) -> Item:
    """A hose of 20 mm that runs forward and back."""
    given = {"id": "hose-1", "name": "Heater hose", "neighbour": "hose", **other}
    return Item(shapes=(Bar(start=(x - 30, y, z), end=(x + 30, y, z), diameter=20.0),), **given)


def beside(job: Job, **other: Any) -> Job:
    """Only that hose as a line, on the outer side of the left rail."""
    foot = next(m for m in job.mounts if m.id == "left").foot
    assert foot is not None and foot.host == "rail-left"
    items = tuple(item for item in job.items if item.neighbour != "hose")
    return with_value(job, "items", (*items, hose(-38.0, 500.0, -75.0, **other)))


def test_how_far_by_hand(demo: Job) -> None:
    """The left foot's plate lies on the inner side of its rail, 395 mm from the middle of the car; a hose of
    20 mm at 500 mm has its near side at 490."""
    (found,) = in_heat(beside(demo))
    assert (found.item, found.stage) == ("hose-1", "mounts") and found.weld.startswith("Left")
    assert found.away == pytest.approx(490.0 - 395.0, abs=0.1)
    far = with_value(beside(demo), "items/hose-1/moved", (0.0, HEAT, 0.0))
    assert in_heat(far) == ()


def test_it_is_asked_until_it_is_answered(demo: Job) -> None:
    job = beside(demo)
    place = "items/hose-1/when_welding"
    (asked,) = [p for p in verdict(job).problems if p.place == place]
    assert asked.stage == "mounts" and "is welded: take it off or shield it" in asked.sentence
    assert not verdict(job).holds
    said = with_value(job, place, "out of the way")
    assert not [p for p in verdict(said).problems if p.place == place]
    assert heat_questions(with_value(job, "items/hose-1/fate", "remove"), "mounts") == ()


def test_only_what_burns_and_only_welds_in_the_car(demo: Job) -> None:
    assert in_heat(beside(demo, neighbour="metal")) == ()
    bolted = with_value(beside(demo), "mounts/left/foot/fixing", "bolted")
    assert in_heat(bolted) == ()
    # tabs of the gearbox mount are welded to the crossmember, on the bench
    near = with_value(beside(demo), "items/hose-1/moved", (-842.0, -500.0, -40.0))
    assert in_heat(near) == ()


def test_the_truck_has_its_fuel_line_there(demo: Job) -> None:
    """12 mm from the right foot's weld, as its bar and its plate are drawn; the demo says that it is off."""
    found = {row.item: row for row in in_heat(demo)}
    assert found["fuel-line"].away == pytest.approx(12.0, abs=0.1)
    assert not [p for p in verdict(demo).problems if p.place.endswith("when_welding")]
    unsaid = with_value(demo, "items/fuel-line/when_welding", "unsaid")
    assert [p.place for p in verdict(unsaid).problems if p.place.endswith("when_welding")] == [
        "items/fuel-line/when_welding"
    ]
