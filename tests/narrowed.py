"""A part of a job as the kind that a test knows it to be."""

from __future__ import annotations

from typing import Any

from nimble_cradle.job.bonded_bush import BondedBush
from nimble_cradle.job.tube_arm import Tube


def bonded(bush: Any) -> BondedBush:
    """The bush, which is a bonded one."""
    assert isinstance(bush, BondedBush)
    return bush


def tube(arm: Any) -> Tube:
    """The arm, which is of tube."""
    assert isinstance(arm, Tube)
    return arm
