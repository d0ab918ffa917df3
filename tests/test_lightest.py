"""The lightest crossmember of the stock: against every section tried one by one, and in the window."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import pytest
from nimble_cradle.cli.main import main
from nimble_cradle.design.lightest_crossmember import Candidate, candidates_of, with_candidate_section
from nimble_cradle.desk.stages.crossmember.sheet import CrossmemberSheet
from nimble_cradle.desk.window import Desk
from nimble_cradle.job import store
from nimble_cradle.job.base import JobError
from nimble_cradle.job.edits import with_value
from nimble_cradle.job.job import Job
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


def test_no_lighter_one_holds_in_the_car(roomy: Job, tried: tuple[Candidate, ...]) -> None:
    """Every third lighter section put in and judged as a whole: each makes something fail that holds now."""
    best = next(row for row in tried if row.will_do)
    assert [row.kg for row in tried] == sorted(row.kg for row in tried)
    now = fails(roomy)
    assert not fails(with_candidate_section(roomy, best)) - now
    lighter = tried[: tried.index(best)]
    assert len(lighter) > 10
    for row in lighter[::-3]:
        assert fails(with_candidate_section(roomy, row)) - now, row.name
        assert row.stops


def test_one_that_is_strong_enough_and_hits_something_will_not_do(demo: Job) -> None:
    """Under the truck's gearbox only a low section has room."""
    rows = candidates_of(demo, Rack())
    best = next(row for row in rows if row.will_do)
    hits = [row for row in rows[: rows.index(best)] if max(row.uses.values()) <= 1]
    assert hits and all(row.looked and "Gearbox crossmember" in row.stops for row in hits)
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


def test_on_the_command_line(roomy: Job, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    path, out = tmp_path / "roomy.cradle", tmp_path / "out.cradle"
    store.write(path, roomy, fresh=True)
    assert main(["crossmember", str(path), "--lightest", "--json", "-o", str(out)]) == 0
    data = json.loads(capsys.readouterr().out)
    after = store.read(out).job.crossmember
    best = next(row for row in data["sections"] if row["will_do"])
    assert data["lightest"] == best["name"] and after is not None and after.section.stock == best["name"]


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
