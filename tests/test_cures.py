"""What would cure a verdict: each cure is put in by hand and judged again, and the step before it is not
enough."""

from __future__ import annotations

import json
from dataclasses import replace
from pathlib import Path
from typing import Any

import pytest
from nimble_cradle.cli.main import main
from nimble_cradle.cures.cures import cures_of
from nimble_cradle.cures.lack import Subject, looked_at, worst
from nimble_cradle.desk.window import Desk
from nimble_cradle.findings.finding import Problem
from nimble_cradle.job import store
from nimble_cradle.job.edits import with_value
from nimble_cradle.job.job import Job
from nimble_cradle.judge.found import Verdict
from nimble_cradle.judge.verdict import verdict
from PyQt6.QtCore import Qt

from narrowed import bonded
from pressing import CTRL, Key, press
from thinned import some_of

GAP = "turbo/brake-pipes"
"""Of the hatchback: 0.7 mm short."""


def use(job: Job, part: str, code: str) -> float:
    return next(f.use for f in verdict(job).findings if (f.part, f.code) == (part, code))


def margin_of(job: Job, key: str) -> float:
    return next(g.margin for g in verdict(job).gaps if f"{g.piece}/{g.item}" == key)


class TestAPart:
    """The truck's left bush is used up sideways, 129 %."""

    def test_harder_rubber_by_hand(self, demo: Job) -> None:
        found = cures_of(demo, Subject("finding", "left/strain"))
        harder = next(cure for cure in found if cure.what.startswith("rubber"))
        assert harder.what == "rubber of Shore A 40 instead of 30"
        by_hand = with_value(demo, "mounts/left/bush/hardness_shore_a", 40.0)
        assert harder.job == by_hand and use(by_hand, "left", "strain") <= 1
        assert harder.after == f"{100 * use(by_hand, 'left', 'strain'):.0f} %" and harder.before == "129 %"
        before = with_value(demo, "mounts/left/bush/hardness_shore_a", 36.0)
        assert use(before, "left", "strain") > 1, "one step less is not enough"

    def test_what_it_costs_is_told(self, demo: Job) -> None:
        """Harder rubber passes on more at idle than was wished: the tell-tale says so, and so does the
        cure."""
        harder = cures_of(demo, Subject("finding", "left/strain"))[0]
        before, after = verdict(demo).carried, verdict(harder.job).carried
        assert before is not None and after is not None
        most = demo.allowables.idle_transmitted
        assert before.idle.transmitted <= most < after.idle.transmitted
        assert harder.costs == ("the shake at idle is beyond its limit",)

    @pytest.mark.parametrize(
        ("path", "value", "part", "code", "said"),
        some_of(
            [
                ("mounts/right/arm/wall_mm", 2.0, "right", "arm", "wall of the arm"),
                ("mounts/right/pad/plate_mm", 4.0, "right", "plate", "plate"),
                ("mounts/left/cross_bolt/cheek_mm", 0.5, "left", "cheeks", "each cheek"),
                ("mounts/right/pad/edge_mm", 9.0, "right", "edge", "edge round its holes"),
                ("mounts/right/arm/weld_throat_mm", 2.0, "right", "root-weld", "throat of the arm's weld"),
            ],
            2,
        ),
    )
    def test_a_part_made_too_weak_is_cured_by_that_part(
        self, demo: Job, path: str, value: float, part: str, code: str, said: str
    ) -> None:
        weak = with_value(demo, path, value)
        assert use(weak, part, code) > 1
        found = cures_of(weak, Subject("finding", f"{part}/{code}"))
        assert any(cure.what.startswith(said) for cure in found), [cure.what for cure in found]
        assert all(use(cure.job, part, code) <= 1 for cure in found)

    @pytest.mark.parametrize(
        ("path", "value", "code", "said"),
        [
            ("mounts/left/foot/plate_mm", 2.5, "foot-overhang", "foot plate"),
            ("mounts/left/cross_bolt/cheek_mm", 2.4, "foot-cheeks", "each cheek"),
            ("items/rail-left/host/wall_mm", 2.7, "foot-wall", "foot across"),
        ],
    )
    def test_a_chassis_side_is_cured_by_itself(
        self, demo: Job, path: str, value: float, code: str, said: str
    ) -> None:
        weak = with_value(demo, path, value)
        assert use(weak, "left", code) > 1
        found = cures_of(weak, Subject("finding", f"left/{code}"))
        assert any(cure.what.startswith(said) for cure in found), [cure.what for cure in found]
        assert all(use(cure.job, "left", code) <= 1 for cure in found)

    def test_the_crossmember_by_a_heavier_section(self, demo: Job) -> None:
        weak = with_value(demo, "crossmember/most_sag_mm", 0.2)
        key = next(f"{f.part}/{f.code}" for f in verdict(weak).findings if f.code == "crossmember-sag")
        found = cures_of(weak, Subject("finding", key))
        assert found and all(use(cure.job, "crossmember", "crossmember-sag") <= 1 for cure in found)
        assert all("kg a metre more" in cure.what for cure in found)


class TestAGap:
    def test_moves_by_hand(self, hatchback: Job) -> None:
        found = cures_of(hatchback, Subject("gap", GAP))
        moves = {cure.what: cure for cure in found}
        assert "engine 1.0 mm forward" in moves, list(moves)
        for axis, name in (("x", "engine 1.0 mm forward"),):
            now = getattr(hatchback.position, axis)
            by_hand = with_value(hatchback, f"position/{axis}", now + 1.0)
            assert margin_of(by_hand, GAP) == pytest.approx(margin_of(moves[name].job, GAP), abs=1e-6)
            assert margin_of(by_hand, GAP) >= 0 > margin_of(hatchback, GAP)
            less = with_value(hatchback, f"position/{axis}", now + 0.4)
            assert margin_of(less, GAP) < 0, "so much less is not enough"

    def test_harder_bushes_move_less(self, hatchback: Job) -> None:
        harder = next(c for c in cures_of(hatchback, Subject("gap", GAP)) if "Shore A harder" in c.what)
        more = float(harder.what.split(" points")[0].split()[-1])
        assert more >= 1
        for before, after in zip(hatchback.mounts, harder.job.mounts, strict=True):
            if before.bush.kind == "donor":
                assert after == before
                continue
            assert bonded(after.bush).hardness_shore_a == bonded(before.bush).hardness_shore_a + more
        assert harder.job.position == hatchback.position and margin_of(harder.job, GAP) >= 0

    def test_what_lacks_nothing_has_no_cure(self, hatchback: Job) -> None:
        clear = next(g for g in verdict(hatchback).gaps if g.margin > 0)
        assert cures_of(hatchback, Subject("gap", f"{clear.piece}/{clear.item}")) == ()
        assert cures_of(hatchback, Subject("gap", "no/such")) == ()


def test_a_share_over_the_wish_is_cured_by_going_back(demo: Job) -> None:
    heavy = with_value(demo, "vehicle/want_front_share_percent", 59.0)
    found = cures_of(heavy, Subject("share"))
    back = next(cure for cure in found if cure.what.endswith("back"))
    share = verdict(back.job).share
    assert share is not None and share.percent <= 59.0 and back.before == "59.4 %"


def test_the_worst_comes_first(demo: Job) -> None:
    v = verdict(demo)
    assert worst(demo, v) == Subject("gap", f"{v.gaps[0].piece}/{v.gaps[0].item}") and v.gaps[0].margin < 0


def test_a_share_over_the_wish_is_no_job_in_which_nothing_lacks(hatchback: Job) -> None:
    """All gaps and parts of it put right; only the share is over what is wished."""
    v = replace(verdict(hatchback), gaps=(), findings=())
    left = with_value(hatchback, "vehicle/want_front_share_percent", 50.0)
    assert worst(left, v) == Subject("share")


def test_where_nothing_lacks_it_is_said_what_nobody_looked_at(demo: Job) -> None:
    assert looked_at(Verdict()) == "Nothing is judged yet: no gap, no part."
    whole = verdict(demo)
    gap, finding = whole.gaps[-1], whole.findings[0]
    problem = Problem("mounts", "mounts/left", "The bush is not described.")
    told = looked_at(Verdict(gaps=(gap,), findings=(finding,), problems=(problem,)))
    assert told == "Judged: gaps 1, checks of parts 1. Not judged: The bush is not described."


def test_on_the_command_line(demo_path: Path, capsys: Any) -> None:
    assert main(["cures", str(demo_path), "--of", "finding:left/strain", "--json"]) == 0
    told = json.loads(capsys.readouterr().out)
    assert told["of"] == "Left engine mount, rubber used up sideways"
    assert told["cures"][0]["before"] == "129 %" and told["cures"][0]["costs"]
    assert main(["cures", str(demo_path), "--of", "finding:nobody/nothing"]) == 2
    assert "nothing that is judged" in capsys.readouterr().err


def test_in_the_window_on_one_key(desk: Desk, qtbot: Any) -> None:
    """Asked of the hardest-used part through its tell-tale, shown before it is taken, taken with one key,
    undone with another."""
    began = desk.session.job
    desk.open_door(next(c.tale for c in desk.tales.cells if c.tale and c.tale.id == "hardest"))
    press(desk, Key.Key_K, CTRL)
    assert "Left engine mount, rubber used up sideways" in desk.cures.title.text()
    qtbot.waitUntil(lambda: bool(desk.cures.cures), timeout=60_000)
    assert desk.session.job is began, "nothing is changed before one is taken"
    press(desk, Key.Key_1, Qt.KeyboardModifier.AltModifier)
    assert bonded(desk.session.job.mounts[0].bush).hardness_shore_a == 40 and not desk.cures.isVisible()
    assert "129 % → 88 %" in desk.session.place.log[-1]["what"]
    press(desk, Key.Key_Z, CTRL)
    assert desk.session.job == began
    again = store.read(desk.session.place.path).job
    assert again == began


def test_the_chosen_mount_is_cured_before_what_is_worst(desk: Desk) -> None:
    """Both of the truck's engine mounts lack; whichever is chosen is asked about, after a gap was too."""
    k = next(k for k, m in enumerate(desk.session.job.mounts) if m.id == "right")
    desk.session.set_value(f"mounts/{k}/bush/hardness_shore_a", 30.0, "softer rubber")
    assert min(use(desk.session.job, m, "strain") for m in ("left", "right")) > 1
    desk.open_door(next(c.tale for c in desk.tales.cells if c.tale and c.tale.id == "margin"))
    for chosen in ("left", "right"):
        desk.session.select("mount", chosen)
        press(desk, Key.Key_K, CTRL)
        assert desk.cures.title.text().startswith(f"What would cure {chosen.title()}")


def test_a_cure_for_a_job_that_has_changed_is_dropped(desk: Desk, qtbot: Any) -> None:
    press(desk, Key.Key_K, CTRL)
    desk.session.set_value("vehicle/wheelbase_mm", 3001.0, "another wheelbase")
    qtbot.waitUntil(lambda: not desk.session.tasks.running("cures"), timeout=60_000)
    assert desk.cures.cures == () and (not desk.cures.isVisible() or "look again" in desk.cures.said.text())
