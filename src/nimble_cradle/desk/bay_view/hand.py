"""What the hand does in the bay besides turning it: a tape between two places, and the engine dragged one
way."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np

from nimble_cradle.bay.position import nudged, pose_of
from nimble_cradle.desk.bay_view.tags import Overlay
from nimble_cradle.desk.kit.session import Session
from nimble_cradle.geometry.direction import WAY_VECTORS
from nimble_cradle.geometry.pose import Array
from nimble_cradle.job.base import JobError
from nimble_cradle.job.edits import with_value
from nimble_cradle.units import show

OnScreen = Callable[[Any], tuple[float, float]]
"""Widget pixels of a point in the vehicle frame."""
FINE = 0.5
"""A dragged engine moves in steps of so many mm: finer than a hand can hold a mouse."""
TURNS_AT = 6.0
"""Pixels that a drag must go before it is told which way it goes."""


class Tape:
    """Two clicks, and what is between them."""

    def __init__(self, session: Session) -> None:
        self.session, self.on = session, False
        self.places: list[Array] = []

    def turn(self, on: bool) -> None:
        """Take it in hand, or put it away."""
        self.on, self.places = on, []

    def put(self, place: Array) -> None:
        """The next end; a third click begins anew."""
        self.places = [place] if len(self.places) >= 2 else [*self.places, place]

    def words(self) -> str:
        """What it reads: straight, and along each way."""
        a, b = self.places
        display = self.session.display
        whole = show(float(np.linalg.norm(b - a)), "length", display)
        ways = zip(b - a, ("lengthwise", "across", "in height"), strict=True)
        parts = ", ".join(f"{show(abs(float(v)), 'length', display)} {way}" for v, way in ways)
        return f"{whole}: {parts}"

    def overlay(self, on_screen: OnScreen) -> Overlay | None:
        """The line and its figure, or None."""
        if len(self.places) < 2:
            return None
        a, b = (on_screen(place) for place in self.places)
        length = float(np.linalg.norm(self.places[1] - self.places[0]))
        return Overlay(a, b, show(length, "length", self.session.display))


class Drag:
    """The engine dragged along one way of the car: shown at the hand, one edit when let go."""

    def __init__(self, session: Session) -> None:
        self.session = session
        self.way, self.mm = "", 0.0
        self.line: Overlay | None = None

    @property
    def on(self) -> bool:
        """Whether something is being dragged."""
        return bool(self.way)

    def go(self, a: tuple[float, float], b: tuple[float, float], on_screen: OnScreen) -> None:
        """From a to b, widget pixels: the way of the car that lies nearest to the first pixels of it."""
        pull = np.subtract(b, a)
        if not self.way:
            if np.hypot(*pull) < TURNS_AT:
                return
            self.way = _way_along(pull, self._steps(on_screen))
        if not self.way:
            return
        step = self._steps(on_screen)[self.way]
        mm = float(pull @ step) / float(step @ step)
        self.mm = max(0.0, round(mm / FINE) * FINE)
        try:
            self.session.show_film(pose_of(self._position()))
        except JobError:
            return
        words = f"{show(self.mm, 'length', self.session.display)} {self.way}"
        self.line = Overlay(a, b, words)

    def _steps(self, on_screen: OnScreen) -> dict[str, Array]:
        """Pixels that a millimetre each way is long on the screen."""
        at = pose_of(self.session.job.position).translation
        here = np.array(on_screen(at))
        return {
            way: (np.array(on_screen(at + 10.0 * np.array(vector))) - here) / 10.0
            for way, vector in WAY_VECTORS.items()
        }

    def _position(self) -> Any:
        vector = next(v for way, v in WAY_VECTORS.items() if way == self.way)
        return nudged(self.session.job, self.mm * np.array(vector))

    def drop(self) -> None:
        """Let go: one edit."""
        way, mm = self.way, self.mm
        position = self._position() if way else None
        self.stop()
        if position is not None and mm:
            said = f"Dragged {show(mm, 'length', self.session.display)} {way}"
            self.session.edit(said, with_value(self.session.job, "position", position))

    def stop(self) -> None:
        """Back where it was."""
        self.way, self.mm, self.line = "", 0.0, None
        self.session.show_film(None)


def _way_along(pull: Array, steps: dict[str, Array]) -> str:
    """The way whose line on the screen lies nearest to a pull; empty where none is seen at its length."""
    shares = {}
    for way, step in steps.items():
        length = float(np.hypot(*step))
        if length > 0.05:
            shares[way] = float(pull @ step) / length / float(np.hypot(*pull))
    best = max(shares, key=lambda way: shares[way], default="")
    return best if best and shares[best] > 0.5 else ""
