"""Shared ground: a screen for the window's tests, and the demo job."""

from __future__ import annotations

import os
from collections.abc import Iterator
from pathlib import Path

import pytest
from hypothesis import settings
from nimble_cradle.demo import demo_folder, write_demo
from nimble_cradle.desk.start import ensure_screen
from nimble_cradle.job import store
from nimble_cradle.job.job import Job

settings.register_profile("house", deadline=None, max_examples=60, derandomize=True)
settings.load_profile("house")
ensure_screen()
os.environ.setdefault("QT_QPA_PLATFORM", "xcb")


@pytest.fixture
def demo() -> Job:
    """The light-truck demo job."""
    return store.read(demo_folder("light-truck")).job


@pytest.fixture
def demo_path(tmp_path: Path) -> Iterator[Path]:
    """The same as a job file that a test may change."""
    yield write_demo("light-truck", tmp_path / "truck.cradle")
