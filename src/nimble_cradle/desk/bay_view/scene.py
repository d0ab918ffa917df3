"""What is in the picture: bodies, lamps, the road; and the picture that tells bodies apart by number."""

from __future__ import annotations

from typing import Any

import numpy as np
from PyQt6.QtWidgets import QWidget
from vtkmodules.vtkRenderingCore import vtkActor, vtkLight

from nimble_cradle.desk.bay_view.actors import Body
from nimble_cradle.desk.bay_view.canvas import Canvas
from nimble_cradle.desk.bay_view.drawers import Drawn, Key
from nimble_cradle.desk.bay_view.ground import ground_actors
from nimble_cradle.desk.bay_view.looks import rgb
from nimble_cradle.desk.bay_view.still import Numbers, Pattern
from nimble_cradle.desk.kit.look import look
from nimble_cradle.desk.kit.session import Session
from nimble_cradle.job.base import JobError


class Scene(QWidget):
    """The scene of a view. bodies: everything that is drawn, by its key."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.gl = Canvas(self)
        self.renderer = self.gl.renderer
        self.bodies: dict[Key, Body] = {}
        self._made: dict[Key, Any] = {}
        self._ground: list[vtkActor] = []
        self._road = float("nan")
        self._set_background()
        self._light()

    def _set_background(self) -> None:
        self.renderer.SetBackground(*rgb(look().bay_foot))
        self.renderer.SetBackground2(*rgb(look().bay_top))
        self.renderer.GradientBackgroundOn()

    def _light(self) -> None:
        """A lamp by the eye, up and left, a fill from the right, and the sky."""
        for place, strength, by_the_eye in (
            ((-0.5, 0.7, 1.0), 0.62, True),
            ((0.9, 0.1, 0.6), 0.22, True),
            ((1500.0, 1200.0, 5000.0), 0.34, False),
        ):
            lamp = vtkLight()
            if by_the_eye:
                lamp.SetLightTypeToCameraLight()
            else:
                lamp.SetLightTypeToSceneLight()
            lamp.SetPosition(*place)
            lamp.SetFocalPoint(0, 0, 0)
            lamp.SetIntensity(strength)
            self.renderer.AddLight(lamp)

    def _lay_ground(self) -> None:
        """The road at its height, and the lines that all is measured from."""
        road = self.session.seen_job.vehicle.ground_z_mm
        if road == self._road:
            return
        self._road = road
        for actor in self._ground:
            self.renderer.RemoveActor(actor)
        self._ground = list(ground_actors(road))
        for actor in self._ground:
            self.renderer.AddActor(actor)

    def _make(self, key: Key, thing: Drawn) -> None:
        try:
            body = thing.make(key)
        except JobError:  # said where it is judged
            return
        self.bodies[key] = body
        self._made[key] = thing.version
        for actor in body.actors:
            self.renderer.AddActor(actor)

    def _drop(self, key: Key) -> None:
        body = self.bodies.pop(key, None)
        self._made.pop(key, None)
        if body is not None:
            for actor in body.actors:
                self.renderer.RemoveActor(actor)

    def _numbered(self) -> tuple[Numbers, dict[int, Pattern]]:
        """The body at each pixel (h, w), by its number from 1 on; and what is laid over each."""
        self.renderer.SetUseFXAA(False)
        self.renderer.GradientBackgroundOff()
        self.renderer.SetBackground(0, 0, 0)
        for actor in self._ground:
            actor.VisibilityOff()
        for k, body in enumerate(self.bodies.values(), start=1):
            body.number(k if body.solid else 0)
        rows = self.gl.pixels().astype(np.int32)
        for body in self.bodies.values():
            body.again()
        for actor in self._ground:
            actor.VisibilityOn()
        self._set_background()
        self.renderer.SetUseFXAA(True)
        patterns = {k: body.pattern for k, body in enumerate(self.bodies.values(), start=1)}
        return rows[:, :, 0] * 256 + rows[:, :, 1], patterns
