"""The lightest crossmember of the stock: against every section tried one by one, and in the window."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from nimble_cradle.cli.main import main
from nimble_cradle.design.crossmember_shapes import shapes_of
from nimble_cradle.design.lightest_crossmember import (
    Candidate,
    candidates_of,
    candidates_of_shapes,
    with_candidate_section,
)
from nimble_cradle.desk.stages.crossmember.sheet import CrossmemberSheet
from nimble_cradle.desk.window import Desk
from nimble_cradle.job import store
from nimble_cradle.job.base import JobError
from nimble_cradle.job.bay import Item
from nimble_cradle.job.cross_section import told_of
from nimble_cradle.job.edits import with_value
from nimble_cradle.job.job import Job
from nimble_cradle.job.shapes import Bar
from nimble_cradle.judge.verdict import verdict
from nimble_cradle.stock.rack import Rack, RackTube

from pressing import unfold_all


@pytest.fixture(scope="module")
def roomy(demo: Job) -> Job:
    """The truck with its crossmember 25 mm lower and the road farther off: room for other sections."""
    assert demo.crossmember is not None
    lower = tuple((x, y, z - 25.0) for x, y, z in demo.crossmember.points)
    job = with_value(demo, "crossmember/points", lower)
    return with_value(job, "vehicle/lowest_line_z_mm", demo.vehicle.lowest_line_z_mm - 60)


@pytest.fixture(scope="module")
def tried(roomy: Job) -> tuple[Candidate, ...]:
    return candidates_of(roomy, Rack())


def fails(job: Job) -> set[str]:
    """What fails of a job, by its own words."""
    found = verdict(job)
    out = {f.fails_words().split(":")[0] for f in found.findings if f.use > 1}
    out |= {f"{g.piece_name} {g.item_name}" for g in found.gaps if g.margin < 0}
    return out | ({"low"} if found.lowest is not None and found.lowest.above_line < 0 else set())


def asked(job: Job) -> set[str]:
    """What is open about the mounts and the crossmember."""
    return {p.sentence for p in verdict(job).problems if p.stage in ("mounts", "crossmember")}


def test_no_lighter_one_holds_in_the_car(roomy: Job, tried: tuple[Candidate, ...]) -> None:
    """Every third lighter section put in and judged as a whole: each makes something fail that holds now, or
    leaves something open that is not."""
    best = next(row for row in tried if row.will_do)
    assert [row.kg for row in tried] == sorted(row.kg for row in tried)
    now = fails(roomy)
    assert not fails(with_candidate_section(roomy, best)) - now
    lighter = tried[: tried.index(best)]
    assert len(lighter) > 10
    for row in lighter[::-3]:
        there = with_candidate_section(roomy, row)
        assert fails(there) - now or asked(there) - asked(roomy), row.name
        assert row.stops


def test_one_that_is_strong_enough_and_hits_something_will_not_do(demo: Job) -> None:
    """Under the truck's gearbox only a low section has room."""
    rows = candidates_of(demo, Rack())
    best = next(row for row in rows if row.will_do)
    hits = [row for row in rows[: rows.index(best)] if max(row.uses.values()) <= 1]
    assert hits and all("nearer than the eye" in row.stops for row in hits)
    assert best.section.height_mm == 30.0
    assert not fails(with_candidate_section(demo, best)) - fails(demo)


def test_what_stops_it_is_the_crossmembers_own_checks(roomy: Job, tried: tuple[Candidate, ...]) -> None:
    """Worked out anew for each that is not far too weak: a softer tube is loaded less."""
    weak = [row for row in tried if 1 < row.uses["stress"] < 2][:3]
    assert len(weak) == 3
    for row in weak:
        there = verdict(with_candidate_section(roomy, row))
        told = next(f.use for f in there.findings if f.code == "crossmember-stress")
        assert row.uses["stress"] == pytest.approx(told, rel=1e-9) and "stress" in row.stops


def test_only_what_is_in_the_rack(roomy: Job) -> None:
    rack = Rack(
        tubes=(
            RackTube(shape="round", height_mm=20.0, wall_mm=1.5),
            RackTube(shape="square", height_mm=60.0, wall_mm=4.0, steel="S355"),
        )
    )
    rows = candidates_of(roomy, rack)
    assert [row.section.height_mm for row in rows] == [20.0, 60.0]
    assert not rows[0].will_do and rows[1].will_do and rows[1].steel == "S355"
    with pytest.raises(JobError, match="no crossmember"):
        candidates_of(with_value(roomy, "crossmember", None), rack)


def test_a_tube_that_does_not_stand_on_its_plate_or_bears_no_mount_will_not_do(roomy: Job) -> None:
    """What is found has nothing open that was not open before: the end plates grow with the tube; a tube too
    narrow for the mount's tabs is stopped by that, in words."""
    rows = candidates_of(roomy, Rack())
    best = next(row for row in rows if row.will_do)
    assert not asked(with_candidate_section(roomy, best)) - asked(roomy)
    assert best.plates is not None and roomy.crossmember is not None and roomy.crossmember.plates is not None
    assert best.plates.other_mm > roomy.crossmember.plates.other_mm
    narrow = next(row for row in rows if row.name == "round 50x3")
    assert "its tabs hang" in narrow.stops and max(narrow.uses.values()) < 1


class TestShapes:
    def test_the_families(self, demo: Job) -> None:
        """All from the same left end to the same right one; straight is straight; each passes under the mount
        where the present one does, but the straight one; those led round are so far off on one side only."""
        cross, mount = demo.crossmember, next(m for m in demo.mounts if m.id == "gearbox")
        assert cross is not None
        rows = {shape.name: np.array(shape.points) for shape in shapes_of(cross, mount)}
        line = np.array(cross.points)
        assert all(np.array_equal(p[[0, -1]], line[[0, -1]]) for p in rows.values())
        assert len(rows["straight"]) == 2 and len(rows["to a point"]) == 3
        under = line[1:3].mean(0)  # the truck's mount is over the middle, where it is level
        for name, p in rows.items():
            hit = [a + t * (b - a) for a, b in zip(p, p[1:], strict=False) for t in np.linspace(0, 1, 401)]
            near = min(float(np.linalg.norm(h - under)) for h in hit)
            assert (near > 20) == (name == "straight"), name
        up = rows["led 60 mm up on the left"]
        assert up[1, 1] > 100 and up[1, 2] == pytest.approx((up[0, 2] + up[2, 2]) / 2 + 60)
        back = rows["led 30 mm back on the right"]
        assert back[-2, 1] < -100 and back[-2, 0] == pytest.approx(line[0, 0] - 30)

    def test_the_lightest_of_them_holds_in_the_car_and_is_no_heavier(self, roomy: Job) -> None:
        assert roomy.crossmember is not None
        steel = roomy.crossmember.steel
        sizes = ((30.0, 3.0), (40.0, 3.0), (40.0, 4.0))
        rack = Rack(
            tubes=tuple(
                RackTube(shape="rectangle", height_mm=h, width_mm=60.0, wall_mm=t, steel=steel)
                for h, t in sizes
            )
        )
        rows = candidates_of_shapes(roomy, rack)
        best, plain = rows[0], next(row for row in candidates_of(roomy, rack) if row.will_do)
        assert best.will_do and best.points is not None and best.kg <= plain.kg + 1e-9
        job = with_candidate_section(roomy, best)
        assert job.crossmember is not None and job.crossmember.points == best.points
        assert not fails(job) - fails(roomy)
        assert not any(row.name.startswith("led") for row in rows)  # others will do

    def test_one_whose_legs_are_too_short_for_its_bends_says_so(self, roomy: Job) -> None:
        """Bent to 900 mm in the middle: other shapes are tried all the same, and each that cannot be bent so
        tells why."""
        assert roomy.crossmember is not None
        job = with_value(roomy, "crossmember/bend_radius_mm", 900.0)
        steel = roomy.crossmember.steel
        tube = RackTube(shape="rectangle", height_mm=40.0, width_mm=60.0, wall_mm=3.0, steel=steel)
        rows = {row.name.split(":")[0]: row for row in candidates_of_shapes(job, Rack(tubes=(tube,)))}
        short = [row for row in rows.values() if "a smaller radius" in row.stops]
        assert short and not any(row.will_do for row in short)
        assert "a smaller radius" not in rows["straight"].stops

    def test_round_a_pipe_on_the_right(self, roomy: Job) -> None:
        """A pipe along the car where the tube goes by on the right: the present line hits it, and one led
        round it will do."""
        assert roomy.crossmember is not None
        (x, y, z), (_, y2, z2) = roomy.crossmember.points[-1], roomy.crossmember.points[-2]
        at = (x, (y + y2) / 2, (z + z2) / 2)
        pipe = Item(
            id="pipe",
            name="Pipe",
            neighbour="metal",
            shapes=(Bar(start=(at[0] - 150, *at[1:]), end=(at[0] + 150, *at[1:]), diameter=20.0),),
        )
        job = with_value(roomy, "items", (*roomy.items, pipe))
        steel = roomy.crossmember.steel
        tube = RackTube(shape="rectangle", height_mm=40.0, width_mm=60.0, wall_mm=3.0, steel=steel)
        rows = candidates_of_shapes(job, Rack(tubes=(tube,)))
        stopped = next(row for row in rows if row.name.startswith("as it is"))
        assert "Pipe" in stopped.stops and not stopped.will_do
        best = rows[0]
        assert best.will_do and best.name.startswith("led") and "right" in best.name
        assert not fails(with_candidate_section(job, best)) - fails(roomy)


def test_on_the_command_line(roomy: Job, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    path, out = tmp_path / "roomy.cradle", tmp_path / "out.cradle"
    store.write(path, roomy, fresh=True)
    assert main(["crossmember", str(path), "--lightest", "--json", "-o", str(out)]) == 0
    data = json.loads(capsys.readouterr().out)
    after = store.read(out).job.crossmember
    best = next(row for row in data["sections"] if row["will_do"])
    assert data["lightest"] == best["name"] and after is not None and told_of(after.section) == best["name"]


def test_in_the_window(desk: Desk, roomy: Job, qtbot: Any) -> None:
    desk.session.edit("More room", roomy)
    desk.go("crossmember")
    sheet = desk.sheets["crossmember"]
    assert isinstance(sheet, CrossmemberSheet)
    unfold_all(sheet)
    group = sheet.lightest
    group.look()
    qtbot.waitUntil(lambda: bool(group.found), timeout=60_000)
    best = next(row for row in group.found if row.will_do)
    assert group.table.chosen_key() == best.name and "nothing: it will do" in group.table.text()
    group.take()
    assert desk.session.job.crossmember is not None
    assert desk.session.job.crossmember.section == best.section
    assert not sheet.lightest.table.isVisible(), "what was found is of another job now"
