"""The engine raised at its mounts: where it then stands, and what every chassis side asks."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from nimble_cradle.bay.position import pose_of
from nimble_cradle.cli.main import main
from nimble_cradle.design.raising import raised
from nimble_cradle.desk.stages.mounts.sheet import MountsSheet
from nimble_cradle.desk.window import Desk
from nimble_cradle.job import store
from nimble_cradle.job.base import JobError
from nimble_cradle.job.edits import with_value
from nimble_cradle.job.foot import PlateFoot
from nimble_cradle.job.job import Job
from nimble_cradle.judge.verdict import verdict
from nimble_cradle.made.foot_seats import foot_seats

from pressing import click, unfold_all


@given(st.tuples(*[st.floats(-20, 20)] * 3))
@settings(max_examples=20, deadline=None)
def test_every_mount_is_as_much_higher_as_was_asked(demo: Job, by: tuple[float, float, float]) -> None:
    """The powertrain stays whole: distances from every bush to the engine stay; heights change as asked, but
    for what a turned lever takes (under 1 %)."""
    asked = dict(zip((m.id for m in demo.mounts), by, strict=True))
    found = raised(demo, asked)
    before, after = pose_of(demo.position).inverse(), pose_of(found.job.position).inverse()
    for old, new in zip(demo.mounts, found.job.mounts, strict=True):
        own = before.points(np.array(old.bush.centre)), after.points(np.array(new.bush.centre))
        assert np.allclose(own[0], own[1], atol=0.03)  # rounded to 0.01 mm
        assert new.bush.centre[2] - old.bush.centre[2] == pytest.approx(
            asked[old.id], abs=0.02 + 0.012 * max(map(abs, by))
        )


def test_square_up_it_only_rises(demo: Job) -> None:
    found = raised(demo, {m.id: 9.5 for m in demo.mounts})
    old, new = demo.position, found.job.position
    assert (new.x, new.y, new.z) == pytest.approx((old.x, old.y, old.z + 9.5), abs=1e-3)
    assert (new.roll_deg, new.pitch_deg) == pytest.approx((old.roll_deg, old.pitch_deg), abs=1e-3)
    assert found.tilt_deg == pytest.approx((0, 0), abs=1e-6)


def test_one_side_up_it_leans_to_the_other(demo: Job) -> None:
    """The left mount 10 mm up over a track of the two engine mounts: by asin."""
    found = raised(demo, {"left": 10.0})
    assert found.job.position.roll_deg != demo.position.roll_deg
    pose, old = pose_of(found.job.position), pose_of(demo.position)
    left = np.array([0.0, 100.0, 0.0])
    assert (pose.vectors(left) - old.vectors(left))[2] > 0  # its left side is higher


class TestChassisSide:
    def test_a_bolted_foot_gets_a_plate_and_longer_bolts(self, hatchback: Job) -> None:
        job = hatchback
        bolted = next(m for m in job.mounts if isinstance(m.foot, PlateFoot) and m.foot.fixing == "bolted")
        assert isinstance(bolted.foot, PlateFoot)
        for mm, words in ((6.0, "washers at most"), (25.0, "they are a column")):
            found = raised(job, {m.id: mm for m in job.mounts})
            said = next(row for row in found.done if row.startswith(bolted.name))
            foot = next(m for m in found.job.mounts if m.id == bolted.id).foot
            assert isinstance(foot, PlateFoot)
            assert foot.patch_mm == pytest.approx(bolted.foot.patch_mm + mm, abs=0.02)
            assert words in said or foot.patch_mm > 10
            assert f"bolts {mm:.1f} mm longer" in said

    def test_welded_cheeks_are_made_higher_or_cut(self, demo: Job) -> None:
        heights = {m.id: s.height for m in demo.mounts if (s := foot_seats(demo).of(m.id)) is not None}
        up = raised(demo, {m.id: 8.0 for m in demo.mounts})
        gearbox = next(row for row in up.done if row.startswith("Gearbox mount"))
        assert "8.0 mm higher" in gearbox and "template cheek-gearbox" in gearbox
        seat = foot_seats(up.job).of("gearbox")
        assert seat is not None and seat.height == pytest.approx(heights["gearbox"] + 8.0, abs=0.05)
        down = raised(demo, {m.id: -8.0 for m in demo.mounts})
        assert "cut 8.0 mm off" in next(row for row in down.done if row.startswith("Gearbox mount"))

    def test_what_cannot_be_is_said(self, demo: Job) -> None:
        with pytest.raises(JobError, match="no mount “nobody”"):
            raised(demo, {"nobody": 1.0})
        with pytest.raises(JobError, match="At most"):
            raised(demo, {"left": 500.0})
        with pytest.raises(JobError, match="no mount to raise"):
            raised(with_value(with_value(demo, "crossmember", None), "mounts", ()), {})


def test_worn_rubber_is_a_question(demo: Job) -> None:
    for path, value, words in (("worn", "used", "has sagged"), ("play_mm", 1.5, "1.5 mm of play")):
        found = verdict(with_value(demo, f"mounts/right/bush/{path}", value))
        assert any(words in p.sentence for p in found.problems)
        assert next(m for m in found.mounts if m.mount == "right").block_to_bush == "open"


def test_on_the_command_line(demo_path: Path, tmp_path: Path, capsys: Any) -> None:
    out = tmp_path / "up.cradle"
    assert main(["raise", str(demo_path), "--by", "5", "--mount", "left=8", "-o", str(out), "--json"]) == 0
    told = json.loads(capsys.readouterr().out)
    assert "never by a manifold" in told["caution"]
    assert told["by"]["left"] == pytest.approx(8, abs=0.1) and told["done"]
    assert store.read(out).job.position.z > store.read(demo_path).job.position.z
    assert main(["raise", str(demo_path), "--mount", "left"]) != 0
    assert "ID=MM" in capsys.readouterr().err


def test_in_the_window(desk: Desk) -> None:
    desk.go("mounts")
    sheet = desk.sheets["mounts"]
    assert isinstance(sheet, MountsSheet)
    sheet.rooms.go("all")
    unfold_all(sheet)
    before = desk.session.job
    sheet.all.raising.by.setText("3/8 in up")
    click(desk, "At every mount")
    assert desk.session.job.position.z == pytest.approx(before.position.z + 9.525, abs=2e-3)
    assert "higher" in sheet.all.raising.said.text()
    sheet.all.raising.by.setText("somewhat")
    now = desk.session.job
    click(desk, "At this mount")
    assert desk.session.job is now and not sheet.all.raising.refusal.isHidden()
