"""The bay in 3-D: the real shapes, seen as one stands, with the tightest gaps tagged at their place."""

from __future__ import annotations

import time
from collections.abc import Callable
from typing import Any

import numpy as np
import vtkmodules.vtkRenderingOpenGL2  # noqa: F401 - registers the drawing back end
from PyQt6.QtCore import QPoint, Qt, QTimer
from PyQt6.QtWidgets import QButtonGroup, QHBoxLayout, QPushButton, QVBoxLayout, QWidget
from vtkmodules.vtkRenderingCore import vtkCellPicker, vtkLight

from nimble_cradle.desk.bay_view.actors import Body
from nimble_cradle.desk.bay_view.canvas import Canvas
from nimble_cradle.desk.bay_view.drawers import DRAWERS, Drawn, Key, shown_pose, things_drawn
from nimble_cradle.desk.bay_view.standpoints import STANDPOINTS
from nimble_cradle.desk.bay_view.tags import Tag, TagLayer
from nimble_cradle.desk.bay_view.told import TOLD, caption
from nimble_cradle.desk.kit.session import Session
from nimble_cradle.desk.kit.stage_desk import StageDesk
from nimble_cradle.desk.stages import stage_desks
from nimble_cradle.geometry.pose import Pose
from nimble_cradle.job.base import JobError

STILL_MS = 280
"""Nothing has moved for so long: the picture is drawn whole, with smoothed edges."""
MOVING = 0.4
"""Pictures that follow one another within this many seconds are of something that moves."""
SLOW = 0.045
"""A moving picture that takes longer, in seconds, is drawn with 45 % of its points each way until things
are still."""


def _body_of(owner: str) -> Key:
    """The drawn body of a gap's moving side: a piece, or a mount's own parts (``left.arm``)."""
    return (
        ("mount", owner.removesuffix(".arm"))
        if owner.endswith(".arm")
        else ("piece", owner.removesuffix(".room"))
    )


class BayView(QWidget):
    """The view with its standpoint buttons. Redraws at most once for each turn of the event loop."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.stage = "position"
        self.gl = Canvas(self)
        self.renderer = self.gl.renderer
        self.renderer.SetBackground(0.955, 0.947, 0.925)
        self.renderer.SetBackground2(0.86, 0.885, 0.895)
        self.renderer.GradientBackgroundOn()
        self._light()
        self.layer = TagLayer(self.gl)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addLayout(self._standpoint_bar())
        layout.addWidget(self.gl, 1)
        self.bodies: dict[Key, Body] = {}
        self._made: dict[Key, Any] = {}
        self._drawn, self._share = 0.0, 1.0
        self._timer = self._once(0, self._draw)
        self._smooth = self._once(STILL_MS, self._draw_smooth)
        self.gl.resized.connect(self.redraw)
        self.gl.turned.connect(self.turned_freely)
        self.gl.clicked.connect(self.choose_at)
        for signal in (session.changed, session.selected, session.filmed):
            signal.connect(self.refresh)
        self.refresh()
        self.stand("corner")

    def _once(self, after_ms: int, act: Callable[[], None]) -> QTimer:
        """A timer that acts once, so long after it was last started."""
        timer = QTimer(self)
        timer.setSingleShot(True)
        timer.setInterval(after_ms)
        timer.timeout.connect(act)
        return timer

    def _standpoint_bar(self) -> QHBoxLayout:
        bar = QHBoxLayout()
        bar.setContentsMargins(8, 6, 8, 6)
        bar.setSpacing(4)
        self._group = QButtonGroup(self)
        for i, key in enumerate(STANDPOINTS):
            b = QPushButton(self.standpoint_name(key))
            b.setObjectName("view")
            b.setCheckable(True)
            b.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            b.setToolTip(f"Ctrl+{i + 1}. Drag to turn freely, wheel to come nearer.")
            b.clicked.connect(lambda _, k=key: self.stand(k))
            self._group.addButton(b, i)
            bar.addWidget(b)
        bar.addStretch(1)
        return bar

    def standpoint_name(self, key: str) -> str:
        """What a standpoint is called in this vehicle."""
        if key in ("left", "right"):
            return "Driver's side" if key == self.session.job.vehicle.driver_side else "Passenger's side"
        return STANDPOINTS[key][0]

    def _light(self) -> None:
        """One lamp beside the eye, one over the bay."""
        lamp = vtkLight()
        lamp.SetLightTypeToCameraLight()
        lamp.SetPosition(0.4, 0.5, 1.0)
        lamp.SetFocalPoint(0, 0, 0)
        lamp.SetIntensity(0.75)
        sky = vtkLight()
        sky.SetLightTypeToSceneLight()
        sky.SetPosition(1500, 1200, 5000)
        sky.SetFocalPoint(0, 0, 0)
        sky.SetIntensity(0.35)
        self.renderer.AddLight(lamp)
        self.renderer.AddLight(sky)

    def refresh(self) -> None:
        """Bring the bodies in line with the job; only those that changed are made anew."""
        wanted = dict(things_drawn(self.session, self.desk.draws))
        for key in [k for k in self.bodies if k not in wanted]:
            self._drop(key)
        for key, thing in wanted.items():
            if key not in self.bodies or self._made[key] != thing.version:
                self._drop(key)
                self._make(key, thing)
        poses = {kind: drawer.pose(self.session) for kind, drawer in DRAWERS.items()}
        chosen, failing, gone = self._chosen(), self._failing(), self._gone()
        for key, body in self.bodies.items():
            body.stand_at(poses[key[0]])
            how = "chosen" if key in chosen else "fails" if key in failing else ""
            body.mark(how, ghost=key[0] in self.desk.ghosts or key in gone)
        self.redraw()

    def pose(self) -> Pose:
        """Where the powertrain is shown: as mocked up, in the chosen load case, or on its way out."""
        return shown_pose(self.session)

    @property
    def desk(self) -> StageDesk:
        """What the present stage wants to see."""
        return stage_desks()[self.stage]

    def _make(self, key: Key, thing: Drawn) -> None:
        try:
            body = thing.make(key)
        except JobError:  # said where it is judged
            return
        self.bodies[key] = body
        self._made[key] = thing.version
        for actor in body.actors:
            self.renderer.AddActor(actor)

    def _failing(self) -> set[Key]:
        """Both bodies of every gap that lacks, where gaps are what the stage is about."""
        if self.desk.ghosts or self.session.film is not None:
            return set()
        lacking = [gap for gap in self.session.verdict.gaps if gap.margin < 0]
        return {key for g in lacking for key in (_body_of(g.piece), ("item", g.item))}

    def _gone(self) -> set[Key]:
        """What comes off before the engine goes out, while that is shown."""
        if self.session.film is None:
            return set()
        return {(kind, key) for kind in ("item", "piece") for key in self.session.job.way_out.off}

    def _drop(self, key: Key) -> None:
        body = self.bodies.pop(key, None)
        self._made.pop(key, None)
        if body is not None:
            for actor in body.actors:
                self.renderer.RemoveActor(actor)

    def _chosen(self) -> set[Key]:
        kind, key = self.session.selection
        if kind == "gap":
            piece, _, item = key.partition("/")
            return {_body_of(piece), ("item", item)}
        return {(kind, key)} if kind else set()

    def stand(self, name: str) -> None:
        """Look from one of the standpoints at the whole engine bay."""
        _, way, up = STANDPOINTS[name]
        self._group.buttons()[list(STANDPOINTS).index(name)].setChecked(True)
        focus, reach = np.array([-130.0, 0.0, 90.0]), 560.0
        pieces = [b for k, b in self.bodies.items() if k[0] == "piece"]
        if pieces:
            bounds = np.array([piece.surface.GetBounds() for piece in pieces])
            low, high = bounds[:, 0::2].min(0), bounds[:, 1::2].max(0)
            focus, reach = (
                (low + high) / 2,
                float(np.linalg.norm(high - low)) / 2 * (1.1 if name in ("over", "under") else 0.92),
            )
        camera = self.renderer.GetActiveCamera()
        direction = np.array(way) / np.linalg.norm(way)
        camera.SetViewAngle(26)
        camera.SetFocalPoint(*focus)
        camera.SetPosition(*(focus + direction * reach / np.tan(np.radians(13))))
        camera.SetViewUp(*up)
        self.renderer.ResetCameraClippingRange()
        self.redraw()

    def redraw(self) -> None:
        """Ask for one more picture."""
        self._timer.start()

    def _draw(self) -> None:
        if not self.gl.isVisible():
            return
        self.renderer.SetUseFXAA(False)
        for body in self.bodies.values():
            body.show_fine(False)
        began = time.perf_counter()
        moving = began - self._drawn < MOVING
        self.gl.draw(self._share if moving else 1.0)
        self._drawn = time.perf_counter()
        if moving:
            spent = self._drawn - began
            self._share = 0.45 if spent > SLOW else 1.0 if spent < SLOW / 5 else self._share
        self._tags()
        self._smooth.start()

    def _draw_smooth(self) -> None:
        """Once nothing moves any more: the same picture with smoothed edges and whole scans (it takes
        longer)."""
        if self.gl.isVisible():
            self.renderer.SetUseFXAA(True)
            for body in self.bodies.values():
                body.show_fine(True)
            self.gl.draw()

    def look_for(self, stage: str) -> None:
        """Show what a stage is about."""
        if stage != self.stage:
            self.stage = stage
            self.refresh()

    def _tags(self) -> None:
        self.layer.setGeometry(self.gl.rect())
        ratio, height = self.gl.devicePixelRatioF() * self.gl.share, self.gl.height()
        tags = []
        for said in TOLD[self.desk.tags](self.session):
            x, y = self._on_screen(said.at, ratio, height)
            if 0 <= x <= self.gl.width() and 0 <= y <= height:
                tags.append(Tag(x, y, said.figure, said.title, said.state, said.key, said.chosen))
        self.layer.show_tags(tags, caption(self.session))

    def _on_screen(self, point: Any, ratio: float, height: int) -> tuple[float, float]:
        """Widget pixels of a point in the vehicle frame."""
        self.renderer.SetWorldPoint([float(c) for c in (*point, 1.0)])
        self.renderer.WorldToDisplay()
        x, y, _ = self.renderer.GetDisplayPoint()
        return x / ratio, height - y / ratio

    def turned_freely(self) -> None:
        """The user has left the fixed standpoints."""
        self._group.setExclusive(False)
        for b in self._group.buttons():
            b.setChecked(False)
        self._group.setExclusive(True)
        self.redraw()

    def choose_at(self, at: QPoint) -> None:
        """Choose the tag or the body under the mouse; or take the place there as a pick, where one is
        wanted."""
        x, y = at.x(), at.y()
        key = "" if self.session.picking else self.layer.at(x, y)
        if key:
            kind, _, name = key.partition(":")
            self.session.select(kind, name)
            return
        ratio = self.gl.devicePixelRatioF() * self.gl.share
        picker = vtkCellPicker()
        picker.SetTolerance(0.0005)
        picker.Pick(x * ratio, (self.gl.height() - y) * ratio, 0, self.renderer)
        actor = picker.GetActor()
        for found, body in self.bodies.items():
            if actor is not None and actor in (body.surface, body.fine):
                if self.session.picking:
                    self.session.picked.emit(
                        np.array(picker.GetPickPosition()), found[1] if found[0] == "item" else ""
                    )
                else:
                    self.session.select(*found)
                return

    def finish(self) -> None:
        """Let go of the drawing context before the widget goes."""
        self._timer.stop()
        self._smooth.stop()
        self.gl.scene.Finalize()
