"""A hardness dragged on the chart: tried, taken, put back."""

from __future__ import annotations

from typing import Any

import pytest
from nimble_cradle.desk.stages.mounts.sheet import MountsSheet
from nimble_cradle.desk.window import Desk
from nimble_cradle.job.edits import with_value
from nimble_cradle.job.job import Job
from nimble_cradle.judge.carried import carried
from nimble_cradle.judge.studies import trades_of, trial_of
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
    chart.hold(places[45.0])
    QTest.keyClick(chart, Qt.Key.Key_Right)
    assert chart.trial is not None and chart.trial.hardness == 46
    click(desk, "Take this hardness")
    assert bonded(desk.session.job.mounts[1].bush).hardness_shore_a == 46 and chart.trial is None
