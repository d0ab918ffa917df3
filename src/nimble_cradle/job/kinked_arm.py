"""A tube in two legs from a mount's plate to its bush eye, round what stands between."""

from __future__ import annotations

from typing import Literal

from nimble_cradle.job.base import Vec3
from nimble_cradle.job.tube_arm import Tube


class KinkedArm(Tube):
    """Two legs, mitred together at the kink, which stands still on the engine: powertrain frame, mm."""

    kind: Literal["kinked"] = "kinked"
    kink: Vec3

    def facts(self) -> tuple[tuple[str, str], ...]:
        """Its figures that findings rest on, by field, and their names in a sentence."""
        return (*super().facts(), ("kink", "place of its kink"))
