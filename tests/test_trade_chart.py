"""A hardness dragged on the chart: tried, taken, put back."""

from __future__ import annotations

import math
from typing import Any

import pytest
from nimble_cradle.desk.stages.mounts.sheet import MountsSheet
from nimble_cradle.desk.stages.mounts.trade_chart import TradeChart
from nimble_cradle.desk.window import Desk
from nimble_cradle.job.edits import with_value
from nimble_cradle.job.job import Job
from nimble_cradle.judge.carried import carried
from nimble_cradle.judge.quieter import quieter, quieter_words
from nimble_cradle.judge.studies import trades_of, trial_of
from nimble_cradle.units import Display
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest

from narrowed import bonded
from pressing import click


def test_a_trial_is_the_job_with_that_hardness(demo: Job) -> None:
    """Between the chart's own points, and at one of them."""
    rows = {p.hardness: p for p in trades_of(demo, "right")}
    assert trial_of(demo, "right", 50.0) == rows[50.0]
    between = trial_of(demo, "right", 53.0)
    idle = carried(with_value(demo, "mounts/right/bush/hardness_shore_a", 53.0)).idle
    assert (between.shake, between.worst) == (idle.nominal, idle.transmitted)
    low, high = sorted((rows[50.0].moved, rows[55.0].moved))
    assert low <= between.moved <= high


def test_dragged_taken_and_put_back(desk: Desk, qtbot: Any) -> None:
    desk.go("mounts")
    sheet = desk.sheets["mounts"]
    assert isinstance(sheet, MountsSheet)
    desk.session.select("mount", "right")
    sheet.rooms.go("trade")
    qtbot.waitUntil(lambda: len(sheet.trade.points) > 5, timeout=20000)
    chart, before = sheet.trade.chart, desk.session.job
    places = {p.hardness: chart.at(p) for p in sheet.trade.points}
    start, end = places[40.0], (places[55.0] + places[60.0]) / 2
    qtbot.mousePress(
        chart,
        Qt.MouseButton.LeftButton,
        Qt.KeyboardModifier.NoModifier,
        QPoint(round(start.x()), round(start.y())),
    )
    assert chart.trial is not None and chart.trial.hardness == pytest.approx(40, abs=1)
    qtbot.mouseMove(chart, QPoint(round(end.x()), round(end.y())))
    chart.hold(end)
    assert chart.trial.hardness == pytest.approx(57.5, abs=1.0)
    assert desk.session.job is before, "nothing is changed before it is taken"
    qtbot.mouseRelease(
        chart,
        Qt.MouseButton.LeftButton,
        Qt.KeyboardModifier.NoModifier,
        QPoint(round(end.x()), round(end.y())),
    )
    qtbot.waitUntil(lambda: "Hardest used" in sheet.trade.tried.text(), timeout=20000)
    click(desk, "Put back")
    assert chart.trial is None and desk.session.job is before and not sheet.trade.tried.text()
    chart.hold(chart.at(next(p for p in sheet.trade.points if p.hardness == 45.0)))
    assert chart.trial is not None and chart.trial.hardness == 45
    QTest.keyClick(chart, Qt.Key.Key_Right)
    assert chart.trial is not None and chart.trial.hardness == 46
    click(desk, "Take this hardness")
    assert bonded(desk.session.job.mounts[1].bush).hardness_shore_a == 46 and chart.trial is None


def test_dots_of_another_mount_are_never_shown_under_this_ones_name(desk: Desk, qtbot: Any) -> None:
    desk.go("mounts")
    sheet = desk.sheets["mounts"]
    assert isinstance(sheet, MountsSheet)
    room = sheet.trade
    desk.session.select("mount", "right")
    sheet.rooms.go("trade")
    desk.session.select("mount", "left")
    assert "Left engine mount" in room.said.text(), "though the right one's are still being worked out"
    desk.session.select("mount", "right")
    qtbot.waitUntil(lambda: len(room.points) > 5, timeout=20000)
    right = room.points
    desk.session.select("mount", "left")
    assert "Left engine mount" in room.said.text()
    assert room.points != right and (room.points or "Being worked out" in room.tried.text())
    qtbot.waitUntil(lambda: len(room.points) > 5, timeout=20000)
    assert room.points == trades_of(desk.session.job, "left") and not room.tried.text()


def test_every_dot_stands_by_its_own_figures(hatchback: Job, qtbot: Any) -> None:
    """None is pressed against the frame, where 100 and 600 % look alike; equal ratios, equal heights."""
    points = trades_of(hatchback, "right")
    assert max(p.shake for p in points) > 2.5 * min(p.shake for p in points)
    chart = TradeChart()
    qtbot.addWidget(chart)
    chart.resize(700, 240)
    chart.show_points(points, 46.0, 0.5, Display())
    places = [chart.at(p) for p in points]
    room = chart._room()
    assert all(room.top() + 5 < q.y() < room.bottom() - 5 for q in places)
    assert all(room.left() + 5 < q.x() < room.right() - 5 for q in places)
    assert max(q.x() for q in places) - min(q.x() for q in places) > 0.6 * room.width()
    rise = [
        (math.log(a.shake / b.shake), chart.at(b).y() - chart.at(a).y())
        for a, b in zip(points, points[1:], strict=False)
        if abs(a.shake - b.shake) > 0.05 * b.shake
    ]
    assert len(rise) > 3
    for ratio, high in rise:
        assert high / ratio == pytest.approx(rise[0][1] / rise[0][0], rel=1e-6)


def test_what_else_would_bring_the_shake_down(hatchback: Job) -> None:
    """No hardness of the right bush does, at the demo's wish or a mild one; what is told is what the changed
    job itself comes to, and the least change that does it is taken."""
    own = trades_of(hatchback, "right")
    assert min(p.worst for p in own) > hatchback.allowables.idle_transmitted
    right = next(m for m in hatchback.mounts if m.id == "right")
    said = quieter_words(hatchback, own, right, lambda: quieter(hatchback))
    assert "65 Shore comes nearest" in said and "Right engine mount at" not in said
    assert "By itself nothing tried does; nearest: all bushes at a hardness of 60, 72 %" in said
    mild = with_value(hatchback, "allowables/idle_transmitted", 0.78)
    rows = quieter(mild)
    assert [row.enough for row in rows] == sorted((row.enough for row in rows), reverse=True)
    rear = next(row for row in rows if row.of == "rear")
    hardness = float(rear.what.split()[-2])
    at = [with_value(mild, "mounts/rear/bush/hardness_shore_a", h) for h in (hardness, hardness - 5)]
    assert carried(at[0]).idle.transmitted == pytest.approx(rear.worst) and rear.worst <= 0.78
    assert carried(at[1]).idle.transmitted > 0.78
    assert all(row.worst < carried(mild).idle.transmitted for row in rows)
    assert "By itself would: " in quieter_words(mild, own, right, lambda: rows)
    easy = with_value(hatchback, "allowables/idle_transmitted", 2.0)
    assert quieter_words(easy, own, right, lambda: pytest.fail("nobody asked")) == ""
