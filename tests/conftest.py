"""Shared ground: a screen for the window's tests, and the demo job."""

from __future__ import annotations

import os
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from hypothesis import settings
from nimble_cradle import workers
from nimble_cradle.demo import demo_folder, write_demo
from nimble_cradle.desk.bay_view.canvas import Canvas
from nimble_cradle.desk.kit.look import Look, worn
from nimble_cradle.desk.kit.settings import Settings, settings_file
from nimble_cradle.desk.kit.style import wear_settings
from nimble_cradle.desk.start import application, ensure_screen
from nimble_cradle.desk.window import Desk
from nimble_cradle.job import store
from nimble_cradle.job.edits import with_value
from nimble_cradle.job.job import Job
from nimble_cradle.job.open_job import OpenJob
from nimble_cradle.seat.settle import settle
from nimble_cradle.seat.settled import Settled
from PyQt6.QtWidgets import QApplication

settings.register_profile("house", deadline=None, max_examples=20, derandomize=True)
settings.load_profile("house")
if "PYTEST_XDIST_WORKER" in os.environ:
    workers.cores = lambda: 1  # the other cores have tests of their own; those of the workers ask for two
    os.environ.pop(
        "DISPLAY", None
    )  # a screen each, so that windows of two workers do not take each other's focus
ensure_screen(last=True)
os.environ.setdefault("QT_QPA_PLATFORM", "xcb")


@pytest.fixture(scope="session")
def qapp() -> Any:
    """The application, dressed as the program dresses it."""
    return application()


@pytest.fixture(autouse=True)
def coarse_pictures(request: pytest.FixtureRequest, monkeypatch: pytest.MonkeyPatch) -> None:
    """The bay is drawn with a quarter of its points each way, which takes a fifth of the time; the tests
    that look at the picture itself are marked ``picture``."""
    if request.node.get_closest_marker("picture") is None:
        whole = Canvas.pixels
        monkeypatch.setattr(Canvas, "pixels", lambda self, share=1.0: whole(self, 0.25 * share))


@pytest.fixture
def desk(qtbot: Any, demo: Job, demo_path: Path) -> Iterator[Desk]:
    """The window on a fresh copy of the demo, shown and drawn."""
    window = Desk(OpenJob(demo_path))
    qtbot.addWidget(window, before_close_func=ask_nothing)
    window.show()
    qtbot.waitExposed(window)
    window.activateWindow()
    qtbot.waitUntil(window.isActiveWindow, timeout=5000)
    yield window


def ask_nothing(window: Desk) -> None:
    """So that closing after a test, or after one that failed, does not wait for an answer."""
    window.session.place.count_as_saved()


@pytest.fixture(autouse=True)
def own_cache(tmp_path_factory: pytest.TempPathFactory, monkeypatch: pytest.MonkeyPatch) -> None:
    """What the user keeps, and what can be made anew, is in folders of the tests' own."""
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path_factory.getbasetemp() / "cache"))
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path_factory.getbasetemp() / "data"))


@pytest.fixture(autouse=True)
def usual_look(own_cache: None) -> Iterator[None]:
    """No test sees what another one wished of the window."""
    settings_file().unlink(missing_ok=True)
    yield
    if worn() != Look() and QApplication.instance() is not None:
        wear_settings(Settings())


@pytest.fixture(scope="session")
def demo() -> Job:
    """The light-truck demo job: one value for all, so that what is remembered of it is worked out once."""
    return store.read(demo_folder("light-truck")).job


@pytest.fixture(scope="session")
def hatchback() -> Job:
    """The hatchback demo job: an engine across the car, a scan, an adapter."""
    return store.read(demo_folder("hatchback")).job


@pytest.fixture(scope="session")
def settled_truck(demo: Job) -> Settled:
    """The light truck's best seat, looked for once."""
    return settle(demo)


@pytest.fixture(scope="session")
def settled_hatchback(hatchback: Job) -> Settled:
    """The hatchback's best seat, looked for once."""
    return settle(hatchback)


@pytest.fixture(scope="session")
def small_bay(demo: Job) -> Job:
    """The light truck with five items and seven pieces, nothing for sale: what a search of many searches
    is tried on."""
    items = ("rail-left", "rail-right", "front-crossmember", "firewall", "tunnel")
    pieces = ("block", "sump-deep", "sump-low", "flywheel", "bellhousing", "gearbox", "output-flange")
    job = with_value(demo, "items", tuple(i for i in demo.items if i.id in items))
    job = with_value(job, "powertrain/pieces", tuple(p for p in demo.powertrain.pieces if p.id in pieces))
    return with_value(with_value(job, "wish/sales", ()), "candidates", ())


@pytest.fixture
def demo_path(tmp_path: Path) -> Iterator[Path]:
    """The same as a job file that a test may change."""
    yield write_demo("light-truck", tmp_path / "truck.cradle")
