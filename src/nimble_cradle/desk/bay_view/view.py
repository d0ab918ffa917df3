"""The bay in 3-D: the real shapes, seen as one stands, with the tightest gaps tagged at their place."""

from __future__ import annotations

import time
from collections.abc import Callable
from typing import Any

import numpy as np
import vtkmodules.vtkRenderingOpenGL2  # noqa: F401 - registers the drawing back end
from PyQt6.QtCore import QPoint, Qt, QTimer
from PyQt6.QtWidgets import QButtonGroup, QPushButton, QVBoxLayout, QWidget
from vtkmodules.vtkRenderingCore import vtkCellPicker

from nimble_cradle.bay.position import pose_of
from nimble_cradle.desk.bay_view.alone_drawn import alone_lengths, alone_way, mount_alone
from nimble_cradle.desk.bay_view.drawers import DRAWERS, Key, shown_pose, things_drawn
from nimble_cradle.desk.bay_view.foot import Foot, Told
from nimble_cradle.desk.bay_view.gap_bodies import drawn_bodies
from nimble_cradle.desk.bay_view.hand import Drag, Tape
from nimble_cradle.desk.bay_view.looks import FAINT, GHOST
from nimble_cradle.desk.bay_view.pull import Pull
from nimble_cradle.desk.bay_view.scene import Scene
from nimble_cradle.desk.bay_view.standpoints import STANDPOINTS
from nimble_cradle.desk.bay_view.still import dressed
from nimble_cradle.desk.bay_view.tag_places import Cover
from nimble_cradle.desk.bay_view.tags import Overlay, Tag, TagLayer
from nimble_cradle.desk.bay_view.told import TOLD, caption
from nimble_cradle.desk.kit.flow import flow
from nimble_cradle.desk.kit.look import look
from nimble_cradle.desk.kit.session import Session
from nimble_cradle.desk.kit.stage_desk import StageDesk
from nimble_cradle.desk.stages import stage_desks
from nimble_cradle.geometry.pose import Array, Pose, crosses

STILL_MS = 280
"""Nothing has moved for so long: the picture is drawn whole, with smoothed edges."""
MOVING = 0.4
"""Pictures that follow one another within this many seconds are of something that moves."""
SLOW = 0.045
"""A moving picture that takes longer, in seconds, is drawn with 45 % of its points each way until things
are still."""


class BayView(Scene):
    """The view with its standpoint buttons. Redraws at most once for each turn of the event loop."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.stage = "position"
        self.layer = TagLayer(self.gl)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addWidget(self._standpoint_bar())
        layout.addWidget(self.gl, 1)
        self.foot = Foot()
        layout.addWidget(self.foot)
        self.tape, self.drag, self.pull = Tape(session), Drag(session), Pull(session)
        self._pulling = False
        self.foot.tape.connect(self._turn_tape)
        self.foot.focus.connect(lambda _: self.refresh())
        self._drawn, self._share = 0.0, 1.0
        self._stood, self._seen = "corner", frozenset[Key]()
        self._cover: Cover | None = None
        self._timer = self._once(0, self._draw)
        self._smooth = self._once(STILL_MS, self._draw_smooth)
        self.gl.resized.connect(self.redraw)
        self.gl.turned.connect(self.turned_freely)
        self.gl.clicked.connect(self.choose_at)
        self.gl.dragged.connect(self._drag)
        self.gl.pulled.connect(self._pull)
        self.gl.dropped.connect(self._dropped)
        for signal in (session.selected, session.filmed, session.rested):
            signal.connect(self.refresh)
        session.changed.connect(self._changed)
        session.ahead.gone.connect(self.move_engine)
        self.refresh()
        self.stand("corner")

    def _once(self, after_ms: int, act: Callable[[], None]) -> QTimer:
        """A timer that acts once, so long after it was last started."""
        timer = QTimer(self)
        timer.setSingleShot(True)
        timer.setInterval(after_ms)
        timer.timeout.connect(act)
        return timer

    def _standpoint_bar(self) -> QWidget:
        self._group, made = QButtonGroup(self), []
        for i, key in enumerate(STANDPOINTS):
            b = QPushButton(self.standpoint_name(key))
            b.setObjectName("stand")
            b.setCheckable(True)
            b.setFocusPolicy(Qt.FocusPolicy.TabFocus)
            b.setToolTip(f"Ctrl+{i + 1}. Drag to turn freely, wheel to come nearer.")
            b.clicked.connect(lambda _, k=key: self.stand(k))
            self._group.addButton(b, i)
            made.append(b)
        bar = flow(made, 4)
        bar.setContentsMargins(6, 6, 6, 6)
        return bar

    def dress(self) -> None:
        """The colours of the hall have changed."""
        self._set_background()
        self._road = float("nan")
        self.refresh()

    def standpoint_name(self, key: str) -> str:
        """What a standpoint is called in this vehicle."""
        if key in ("left", "right"):
            return "Driver's side" if key == self.session.seen_job.vehicle.driver_side else "Passenger's side"
        return STANDPOINTS[key][0]

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
        self._lay_ground()
        self._mark_all(poses)
        self.gl.bodies = [b.holds for b in self.bodies.values() if b.opacity > 0.5]
        seen = frozenset(key for key in self.bodies if key[0] in ("item", "piece", "alone"))
        if seen != self._seen and self._stood:  # the bay has grown: it is seen whole again
            self._seen = seen
            self.stand(self._stood)
        self.redraw()

    def _mark_all(self, poses: dict[str, Pose | None]) -> None:
        """Stand every body and let it look as it should."""
        chosen, failing, gone = self._chosen(), self._failing(), self._gone()
        only = self.foot.focus_button.isChecked() and bool(chosen)
        for key, body in self.bodies.items():
            body.stand_at(poses[key[0]])
            words = (("chosen", key in chosen), ("fails", key in failing))
            how = " ".join(word for word, true in words if true)
            ghost = key[0] in self.desk.ghosts or key in gone
            faded = FAINT if only and key not in chosen else GHOST if ghost and not how else 1.0
            body.mark("" if only and key not in chosen else how, faded)

    def _changed(self) -> None:
        """Another job is there. While a key is held only looks and the engine's place follow; what is made
        for its place follows when it rests."""
        if self.session.moving:
            self._mark_all({kind: drawer.pose(self.session) for kind, drawer in DRAWERS.items()})
            self.redraw()
        else:
            self.refresh()

    def move_engine(self) -> None:
        """The engine is on its way: only that is drawn anew, until it is judged."""
        pose = shown_pose(self.session)
        for key, body in self.bodies.items():
            if key[0] == "piece":
                body.stand_at(pose)
        self.redraw()

    def pose(self) -> Pose:
        """Where the powertrain is shown: as mocked up, in the chosen load case, or on its way out."""
        return shown_pose(self.session)

    @property
    def desk(self) -> StageDesk:
        """What the present stage wants to see."""
        return stage_desks()[self.stage]

    def _failing(self) -> set[Key]:
        """Both bodies of every gap that lacks, where gaps are what the stage is about."""
        if self.desk.ghosts or self.session.film is not None:
            return set()
        lacking = [gap for gap in self.session.seen_verdict.gaps if gap.margin < 0]
        job = self.session.seen_job
        return {key for g in lacking for key in drawn_bodies(job, g.piece, g.item)}

    def _gone(self) -> set[Key]:
        """What comes off before the engine goes out, while that is shown."""
        if self.session.film is None:
            return set()
        return {(kind, key) for kind in ("item", "piece") for key in self.session.seen_job.way_out.off}

    def _chosen(self) -> set[Key]:
        kind, key = self.session.selection
        if kind == "gap":
            piece, _, item = key.partition("/")
            return drawn_bodies(self.session.seen_job, piece, item)
        return {(kind, key)} if kind else set()

    def stand(self, name: str) -> None:
        """Look from one of the standpoints at the whole engine bay."""
        _, way, up = STANDPOINTS[name]
        self._stood = name
        self._group.buttons()[list(STANDPOINTS).index(name)].setChecked(True)
        focus, reach = np.array([-130.0, 0.0, 90.0]), 560.0
        by_itself = alone_way(self.session) if "alone" in self.desk.draws else None
        if by_itself is not None and name == "corner":
            way = tuple(by_itself)
        wanted = "piece" if by_itself is None else "alone"
        pieces = [b for k, b in self.bodies.items() if k[0] == wanted]
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
        """Once nothing moves any more: the same picture with smoothed edges, whole scans, outlines and
        patterns, and tags where they hide least (it takes longer)."""
        if not self.gl.isVisible():
            return
        self.renderer.SetUseFXAA(True)
        for body in self.bodies.values():
            body.show_fine(True)
        picture = self.gl.pixels()
        ids, patterns = self._numbered()
        ratio = ids.shape[1] / max(1, self.gl.width())
        self.gl.show_pixels(dressed(picture, ids, patterns, look().ink, ratio))
        own = [
            k
            for k, key in enumerate(self.bodies, start=1)
            if key[0] in ("piece", "mount", "crossmember", "cradle", "panel")
        ]
        mask = np.where(np.isin(ids, own), 1.0, np.where(ids > 0, 0.25, 0.0))[::4, ::4]
        self._cover = Cover(mask, 4.0 / ratio)
        self._tags(self._cover)

    def look_for(self, stage: str) -> None:
        """Show what a stage is about."""
        if stage != self.stage:
            self.stage = stage
            self.refresh()

    def _tags(self, cover: Cover | None = None) -> None:
        self.layer.setGeometry(self.gl.rect())
        ratio, height = self.gl.devicePixelRatioF() * self.gl.share, self.gl.height()
        tags = []
        for said in TOLD[self.desk.tags](self.session):
            x, y = self._on_screen(said.at, ratio, height)
            if 0 <= x <= self.gl.width() and 0 <= y <= height:
                tags.append(Tag(x, y, said.figure, said.lines, said.state, said.key, said.chosen))
        self.layer.datum = self._seen_at((0.0, 0.0, 0.0))
        self.layer.overlay = self.drag.line or self.pull.line or self.tape.overlay(self._seen_at)
        alone = mount_alone(self.session) is not None and "alone" in self.desk.draws
        rows = alone_lengths(self.session) if alone else []
        self.layer.lengths = [Overlay(self._seen_at(a), self._seen_at(b), words) for a, b, words in rows]
        self.layer.show_tags([] if alone else tags, caption(self.session), cover)
        self._tell_foot()

    def _seen_at(self, point: Any) -> tuple[float, float]:
        """Widget pixels of a point in the vehicle frame."""
        return self._on_screen(point, self.gl.devicePixelRatioF() * self.gl.share, self.gl.height())

    def _tell_foot(self) -> None:
        """Scale at the crank line, and where the front is."""
        crank = pose_of(self.session.seen_job.position).translation
        camera = self.renderer.GetActiveCamera()
        away = np.array(camera.GetFocalPoint()) - np.array(camera.GetPosition())
        away = away / np.linalg.norm(away)
        side = crosses(away, np.array(camera.GetViewUp()))
        side = side / np.linalg.norm(side)
        a, b = (np.array(self._seen_at(crank + s * 50.0 * side)) for s in (-1, 1))
        tip = (np.array(self._seen_at(crank + (100.0, 0, 0))) - np.array(self._seen_at(crank))) / 100.0
        px_per_mm = float(np.hypot(*(b - a))) / 100.0
        front = tip / max(px_per_mm, 1e-6)
        told = Told(max(px_per_mm, 1e-6), (float(front[0]), float(front[1])), -float(away[0]))
        self.foot.tell(told, self.session.display)

    def turn_focus(self) -> None:
        """The chosen gap or part bright and the rest faint, or all alike again."""
        self.foot.focus_button.toggle()

    def turn_tape(self) -> None:
        """Take the tape in hand, or put it away."""
        self.foot.tape_button.toggle()

    def _turn_tape(self, on: bool) -> None:
        self.tape.turn(on)
        self.session.said.emit("Click two places: the tape reads what is between them." if on else "")
        self.redraw()

    def escape(self) -> bool:
        """End what the hand does, or show all alike again; False where there was nothing."""
        if self.drag.on:
            self.drag.stop()
        elif self.pull.on:
            self.pull.stop()
        elif self.tape.on:
            self.foot.tape_button.setChecked(False)
        elif self.foot.focus_button.isChecked():
            self.foot.focus_button.setChecked(False)
        else:
            return False
        self.redraw()
        return True

    def _drag(self, a: QPoint, b: QPoint) -> None:
        self.drag.go((a.x(), a.y()), (b.x(), b.y()), self._seen_at)
        self.redraw()

    def _pull(self, a: QPoint, b: QPoint) -> None:
        """The face where the mouse was pressed, from there to where it is."""
        if not self._pulling:
            self._pulling = True
            key, place = self._under(a)
            self.pull.take(key, np.array(self.renderer.GetActiveCamera().GetPosition()), place)
        self.pull.go((a.x(), a.y()), (b.x(), b.y()), self._seen_at)
        if self.pull.fault:
            self.session.said.emit(self.pull.fault)
        self.redraw()

    def _dropped(self) -> None:
        self._pulling = False
        self.drag.drop()
        self.pull.drop()
        self.redraw()

    def _on_screen(self, point: Any, ratio: float, height: int) -> tuple[float, float]:
        """Widget pixels of a point in the vehicle frame."""
        self.renderer.SetWorldPoint([float(c) for c in (*point, 1.0)])
        self.renderer.WorldToDisplay()
        x, y, _ = self.renderer.GetDisplayPoint()
        return x / ratio, height - y / ratio

    def turned_freely(self) -> None:
        """The user has left the fixed standpoints."""
        self._stood = ""
        self._group.setExclusive(False)
        for b in self._group.buttons():
            b.setChecked(False)
        self._group.setExclusive(True)
        self.redraw()

    def choose_at(self, at: QPoint) -> None:
        """Choose the tag or the body under the mouse; or take the place there as a pick, where one is
        wanted."""
        x, y = at.x(), at.y()
        key = "" if self.session.picking or self.tape.on else self.layer.at(x, y)
        if key:
            kind, _, name = key.partition(":")
            self.session.select(kind, name)
            return
        found, place = self._under(at)
        if found is None:
            return
        if self.tape.on:
            self._put_tape(place)
        elif self.session.picking:
            self.session.picked.emit(place, found[1] if found[0] == "item" else "")
        else:
            self.session.select(*found)

    def _under(self, at: QPoint) -> tuple[Key | None, Array]:
        """Which body is under the mouse, or None, and the place of it that is seen."""
        ratio = self.gl.devicePixelRatioF() * self.gl.share
        picker = vtkCellPicker()
        picker.SetTolerance(0.0005)
        picker.Pick(at.x() * ratio, (self.gl.height() - at.y()) * ratio, 0, self.renderer)
        actor = picker.GetActor()
        place = np.array(picker.GetPickPosition())
        for found, body in self.bodies.items():
            if actor is not None and actor in (body.surface, body.fine):
                return found, place
        return None, place

    def _put_tape(self, place: Array) -> None:
        self.tape.put(place)
        if len(self.tape.places) == 2:
            self.session.said.emit(self.tape.words())
        self.redraw()

    def finish(self) -> None:
        """Let go of the drawing context before the widget goes."""
        self._timer.stop()
        self._smooth.stop()
        self.gl.scene.Finalize()
