"""A mount's stand-in whose bush hangs between two ears on its plate, with no arm: the engine's end of a
torque strut."""

from __future__ import annotations

from nimble_cradle.job.base import Positive, Vec2
from nimble_cradle.job.mounts import Mount


class EaredMount(Mount):
    """Both ears stand on the plate at ``pad.arm_at``, their welds along ``ear_way`` (2,) unit on the plate:
    each ``ear_long_mm`` long, ``ears_over_mm`` over both."""

    ear_way: Vec2
    ear_long_mm: Positive
    ears_over_mm: Positive
