"""A face of a thing or of a piece pulled out or pushed in along its own normal: its outline where it would
stand is shown at the hand, one edit when let go."""

from __future__ import annotations

from typing import Any

import numpy as np

from nimble_cradle.bay.position import pose_of
from nimble_cradle.desk.bay_view.hand import FINE, OnScreen
from nimble_cradle.desk.bay_view.tags import Overlay
from nimble_cradle.desk.kit.session import Session
from nimble_cradle.geometry.pose import Array, Pose, unit
from nimble_cradle.job.base import JobError
from nimble_cradle.job.bay import Item
from nimble_cradle.job.edits import value_at, with_value
from nimble_cradle.job.job import Job
from nimble_cradle.survey.faces import Face, pulled, seen
from nimble_cradle.units import show

LEAST_STEP = 0.08
"""Pixels that a millimetre along the normal must be long: less, and the face is looked at square on."""


class Pull:
    """The face that is pulled. fault: in words why none is; empty while one is.

    What a hand pulled in a picture was not measured: its owner counts as a guess until it is.
    """

    def __init__(self, session: Session) -> None:
        self.session = session
        self.mm, self.fault = 0.0, ""
        self.line: Overlay | None = None
        self._path, self._name = "", ""
        self._face: Face | None = None
        self._pose = Pose.still()
        self._from: Array = np.zeros(3)
        self._next: Job | None = None

    @property
    def on(self) -> bool:
        """Whether a face is held."""
        return self._face is not None

    def take(self, key: tuple[str, str] | None, eye: Array, place: Array) -> None:
        """Take hold of the face that is seen at a place (vehicle frame, mm) of a body."""
        self.stop()
        job = self.session.job
        base = {"item": "items", "piece": "powertrain/pieces"}.get(key[0] if key else "", "")
        if key is None or not base:
            self.fault = "Only faces of things in the bay and of pieces of the powertrain are pulled."
            return
        owner = value_at(job, f"{base}/{key[1]}")
        self.fault = _not_pulled(owner)
        if self.fault:
            return
        pose = _pose_of(owner, job)
        way = unit(place - eye)
        hit = seen(owner.shapes, pose.inverse().points(eye), pose.inverse().vectors(way))
        if hit is None:
            self.fault = (
                f"{owner.name} has no flat face there. Taped sizes (Ctrl+D) show it as it is calculated."
            )
            return
        which, self._face = hit
        self._path, self._name, self._pose = f"{base}/{key[1]}/shapes/{which}", owner.name, pose
        self._from = pose.points(self._face.ring.mean(0))

    def go(self, a: tuple[float, float], b: tuple[float, float], on_screen: OnScreen) -> None:
        """From a to b, widget pixels: the face follows as far as its shape lets it."""
        if self._face is None:
            return
        normal = self._pose.vectors(self._face.normal)
        step = np.subtract(on_screen(self._from + 10.0 * normal), on_screen(self._from)) / 10.0
        if float(np.hypot(*step)) < LEAST_STEP:
            self.fault = "That face is looked at square on: turn the bay, so that its way is seen."
            self.stop()
            return
        mm = round(float(np.subtract(b, a) @ step) / float(step @ step) / FINE) * FINE
        try:
            shape = pulled(value_at(self.session.job, self._path), self._face.key, mm)
            self._next = self._guessed(with_value(self.session.job, self._path, shape))
        except JobError as error:
            self.fault = error.args[0]
            return
        self.mm, self.fault = mm, ""
        ring = [on_screen(corner) for corner in self._pose.points(self._face.ring) + mm * normal]
        self.line = Overlay(a, b, f"{self._told()}: {self._name}", tuple(ring))

    def _guessed(self, job: Job) -> Job:
        owner, _, _ = self._path.partition("/shapes/")
        return with_value(with_value(job, f"{owner}/measured", "guess"), f"{owner}/plus_minus_mm", None)

    def _told(self) -> str:
        way = "out" if self.mm >= 0 else "in"
        return f"{show(abs(self.mm), 'length', self.session.display)} {way}"

    def drop(self) -> None:
        """Let go: one edit."""
        job, told, name, moved = self._next, self._told(), self._name, self.mm
        self.stop()
        if job is not None and moved:
            self.session.edit(f"{name}: a face pulled {told}, a guess until it is measured", job)

    def stop(self) -> None:
        """Nothing is held."""
        self._face, self._next, self.line, self.mm = None, None, None, 0.0


def _not_pulled(owner: Any) -> str:
    """Why no face of a thing can be pulled, in words; empty where one can."""
    if not isinstance(owner, Item):
        return ""
    if owner.made is not None:
        return f"{owner.name} is made from measured points: its faces go where these are."
    if owner.motion is not None:
        return f"{owner.name} moves: it is drawn all along its way, and no face of that is pulled."
    if owner.cuts:
        return f"{owner.name} is drawn as it is cut: its faces are pulled before it is."
    return ""


def _pose_of(owner: Any, job: Job) -> Pose:
    """From the frame of its shapes to the vehicle frame."""
    if isinstance(owner, Item):
        return Pose(np.eye(3), np.array(owner.moved))
    return pose_of(job.position)
