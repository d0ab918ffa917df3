"""A part of a job as the kind that a test knows it to be."""

from __future__ import annotations

from typing import Any

from nimble_cradle.job.bonded_bush import BondedBush


def bonded(bush: Any) -> BondedBush:
    """The bush, which is a bonded one."""
    assert isinstance(bush, BondedBush)
    return bush
