"""A push against the engine by hand or by its own torque, and how far it went."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from nimble_cradle.job.base import JobError

PushWay = Literal["forward", "back", "left", "right", "up", "down"]
WAYS: dict[PushWay, tuple[float, float, float]] = {
    "forward": (1.0, 0.0, 0.0),
    "back": (-1.0, 0.0, 0.0),
    "left": (0.0, 1.0, 0.0),
    "right": (0.0, -1.0, 0.0),
    "up": (0.0, 0.0, 1.0),
    "down": (0.0, 0.0, -1.0),
}


@dataclass(frozen=True)
class Push:
    """A push of ``newtons`` at a point (3,) of the engine, vehicle frame, and how far that point went
    ``way``, mm, read within ``within`` mm. throttle: the share of full torque in first gear that pushed
    instead of a hand."""

    newtons: float
    at: tuple[float, float, float]
    way: PushWay
    moved: float
    within: float
    throttle: float = 0.0

    def __post_init__(self) -> None:
        for ok, sentence in (
            (
                0 < self.newtons <= 20_000 or self.newtons == 0 < self.throttle,
                "The push must be more than 0 and at most 20 000 N.",
            ),
            (0 <= self.throttle <= 2, "The throttle must be at most 200 % of full torque in first gear."),
            (0 < self.moved <= 100, "It must have moved more than 0 and at most 100 mm."),
            (
                0 <= self.within < self.moved,
                "The reading must be surer than what was read: within less than it moved.",
            ),
        ):
            if not ok:
                raise JobError(sentence)
