"""The bay in 3-D: the real shapes, seen as one stands, with the tightest gaps tagged at their place."""

from __future__ import annotations

import time
from typing import Any

import numpy as np
import vtkmodules.vtkRenderingOpenGL2  # noqa: F401 - registers the drawing back end
from PyQt6.QtCore import QPoint, Qt, QTimer
from PyQt6.QtGui import QImage, QPainter
from PyQt6.QtWidgets import QButtonGroup, QHBoxLayout, QPushButton, QVBoxLayout, QWidget
from vtkmodules.util.numpy_support import vtk_to_numpy
from vtkmodules.vtkCommonCore import vtkUnsignedCharArray
from vtkmodules.vtkRenderingCore import vtkCellPicker, vtkLight, vtkRenderer, vtkRenderWindow

from nimble_cradle.desk.actors import CHASSIS, ITEM_LOOK, MOUNT, PIECE_LOOK, PLAIN, Body, MappedBody
from nimble_cradle.desk.mount_parts import drawn_mount
from nimble_cradle.desk.session import Session
from nimble_cradle.desk.style import FINDING_STATE, GAP_STATE
from nimble_cradle.desk.survey_marks import survey_tags, survey_things
from nimble_cradle.desk.tags import Tag, TagLayer
from nimble_cradle.fit.bodies import solid_of
from nimble_cradle.fit.position import move_words, pose_of
from nimble_cradle.geometry.solids import MeshPart
from nimble_cradle.job.base import JobError
from nimble_cradle.job.shapes import Mesh
from nimble_cradle.strength.arms import crossmember_solids
from nimble_cradle.survey.made import placed_items
from nimble_cradle.survey.scans import scan_of
from nimble_cradle.units import Display, show
from nimble_cradle.verdict import running_pose

MOST_TAGS = 4
MOVING = 0.4
"""Pictures that follow one another within this many seconds are of something that moves."""
SLOW = 0.045
"""A moving picture that takes longer, in seconds, is drawn with 45 % of its points each way until things
are still."""
LOAD_STAGES = ("mounts", "crossmember")
_UP = (0.0, 0.0, 1.0)
STANDPOINTS: dict[str, tuple[str, tuple[float, float, float], tuple[float, float, float]]] = {
    "left": ("Left side", (0.25, 1.0, 0.28), _UP),
    "right": ("Right side", (0.25, -1.0, 0.28), _UP),
    "over": ("Over the bonnet", (0.35, 0.0, 1.0), (-1.0, 0.0, 0.4)),
    "front": ("From the front", (1.0, 0.22, 0.3), _UP),
    "under": ("From underneath", (0.3, 0.25, -1.0), (1.0, 0.0, 0.3)),
    "corner": ("Front corner", (0.95, 0.8, 0.62), _UP),
}


def _body_of(owner: str) -> tuple[str, str]:
    """The drawn body of a gap's moving side: a piece, or a mount's own parts (``left.arm``)."""
    return (
        ("mount", owner.removesuffix(".arm"))
        if owner.endswith(".arm")
        else ("piece", owner.removesuffix(".room"))
    )


class Canvas(QWidget):
    """Draws a VTK scene off the screen and paints the picture, so that it composes with other widgets and
    needs no GL from Qt.

    Drag turns about the middle, drag with the right or middle button shifts, the wheel comes nearer.
    """

    def __init__(self, parent: BayView) -> None:
        super().__init__(parent)
        self.owner = parent
        self.scene = vtkRenderWindow()
        self.scene.SetOffScreenRendering(1)
        self.scene.SetMultiSamples(0)
        self.renderer = vtkRenderer()
        self.scene.AddRenderer(self.renderer)
        self.share = 1.0
        self._pixels = vtkUnsignedCharArray()
        self._image = QImage()
        self._press: QPoint | None = None
        self._last: QPoint | None = None
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("The bay in 3-D")

    def draw(self, share: float = 1.0) -> None:
        """Make the picture anew; with ``share`` of its points each way, for a machine that is too slow
        while things move."""
        self.share = share
        ratio = self.devicePixelRatioF() * share
        w, h = max(8, round(self.width() * ratio)), max(8, round(self.height() * ratio))
        if tuple(self.scene.GetSize()) != (w, h):
            self.scene.SetSize(w, h)
        self.renderer.ResetCameraClippingRange()
        self.scene.Render()
        self.scene.GetRGBACharPixelData(0, 0, w - 1, h - 1, 0, self._pixels)  # type: ignore[call-overload]
        rows = np.ascontiguousarray(vtk_to_numpy(self._pixels).reshape(h, w, 4)[::-1])
        self._image = QImage(rows.tobytes(), w, h, 4 * w, QImage.Format.Format_RGBX8888).copy()
        self._image.setDevicePixelRatio(ratio)
        self.update()

    def paintEvent(self, event: Any) -> None:
        painter = QPainter(self)
        painter.drawImage(0, 0, self._image)
        painter.end()

    def resizeEvent(self, event: Any) -> None:
        self.owner.redraw()

    def mousePressEvent(self, event: Any) -> None:
        self._press = self._last = event.position().toPoint()

    def mouseMoveEvent(self, event: Any) -> None:
        if self._last is None:
            return
        at = event.position().toPoint()
        step = at - self._last
        self._last = at
        camera = self.renderer.GetActiveCamera()
        if event.buttons() & Qt.MouseButton.LeftButton:
            camera.Azimuth(-0.4 * step.x())
            camera.Elevation(0.4 * step.y())
            camera.OrthogonalizeViewUp()
        else:
            self._shift(step)
        self.owner.turned_freely()

    def _shift(self, step: QPoint) -> None:
        camera = self.renderer.GetActiveCamera()
        focus, place = np.array(camera.GetFocalPoint()), np.array(camera.GetPosition())
        along = focus - place
        size = (
            2
            * float(np.linalg.norm(along))
            * np.tan(np.radians(camera.GetViewAngle()) / 2)
            / max(1, self.height())
        )
        up = np.array(camera.GetViewUp())
        right = np.cross(along, up)
        right = right / np.linalg.norm(right)
        up = np.cross(right, along) / np.linalg.norm(along)
        move = (-step.x() * right + step.y() * up) * size
        camera.SetFocalPoint(*(focus + move))
        camera.SetPosition(*(place + move))

    def mouseReleaseEvent(self, event: Any) -> None:
        at = event.position().toPoint()
        if self._press is not None and (at - self._press).manhattanLength() < 5:
            self.owner.choose_at(at)
        self._press = self._last = None

    def wheelEvent(self, event: Any) -> None:
        self.renderer.GetActiveCamera().Dolly(1.1 ** (event.angleDelta().y() / 120))
        self.owner.turned_freely()


class BayView(QWidget):
    """The view with its standpoint buttons. Redraws at most once for each turn of the event loop."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.gl = Canvas(self)
        self.renderer = self.gl.renderer
        self.renderer.SetBackground(0.955, 0.947, 0.925)
        self.renderer.SetBackground2(0.86, 0.885, 0.895)
        self.renderer.GradientBackgroundOn()
        self._light()
        self.layer = TagLayer(self.gl)
        bar = QHBoxLayout()
        bar.setContentsMargins(8, 6, 8, 6)
        bar.setSpacing(4)
        self._group = QButtonGroup(self)
        sides = ("Driver's side", "Passenger's side")
        for i, (key, (name, _, _)) in enumerate(STANDPOINTS.items()):
            if key in ("left", "right"):
                name = sides[0 if key == session.job.vehicle.driver_side else 1]
            b = QPushButton(name)
            b.setObjectName("view")
            b.setCheckable(True)
            b.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            b.setToolTip(f"Ctrl+{i + 1}. Drag to turn freely, wheel to come nearer.")
            b.clicked.connect(lambda _, k=key: self.stand(k))
            self._group.addButton(b, i)
            bar.addWidget(b)
        bar.addStretch(1)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addLayout(bar)
        layout.addWidget(self.gl, 1)
        self.bodies: dict[tuple[str, str], Body] = {}
        self._made: dict[tuple[str, str], Any] = {}
        self._drawn, self._share = 0.0, 1.0
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(0)
        self._timer.timeout.connect(self._draw)
        self._smooth = QTimer(self)
        self._smooth.setSingleShot(True)
        self._smooth.setInterval(280)
        self._smooth.timeout.connect(self._draw_smooth)
        self.stage = ""
        session.changed.connect(self.refresh)
        session.selected.connect(self.refresh)
        session.filmed.connect(self.refresh)
        self.refresh()
        self.stand("corner")

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
        job = self.session.job
        wanted: dict[tuple[str, str], tuple[Any, Any]] = {}
        shown = self.session.scan_map if self.stage == "survey" else None
        if shown is not None and any(
            getattr(shown[2], part) is not getattr(job, part) for part in ("items", "survey", "meshes")
        ):
            shown = self.session.scan_map = None  # measured in a job that has changed since
        for item in placed_items(job):
            if item.fate != "remove":
                by_distance = shown[1] if shown is not None and shown[0] == item.id else None
                wanted["item", item.id] = (
                    (item, id(by_distance) if by_distance is not None else 0),
                    (item, by_distance),
                )
        for piece in job.powertrain.present:
            wanted["piece", piece.id] = (piece, piece)
        for mount in job.mounts:
            wanted["mount", mount.id] = ((mount, job.position), mount)
        if job.crossmember is not None:
            wanted["crossmember", ""] = (job.crossmember, job.crossmember)
        marks = survey_things(self.session) if self.stage == "survey" else {}
        for key, (version, *_) in marks.items():
            wanted[key] = (version, marks[key])
        for key in [k for k in self.bodies if k not in wanted]:
            self._drop(key)
        for key, (version, thing) in wanted.items():
            if key in self.bodies and self._made[key] == version:
                continue
            self._drop(key)
            body = self._make(key, thing)
            if body is not None:
                self.bodies[key] = body
                self._made[key] = version
                for actor in body.actors:
                    self.renderer.AddActor(actor)
        pose = self.pose()
        loads = self.stage in LOAD_STAGES
        ghosts = loads or self.stage == "survey"
        failing = {
            key
            for g in self.session.verdict.gaps
            if g.margin < 0 and not ghosts
            for key in (_body_of(g.piece), ("item", g.item))
        }
        chosen = self._chosen()
        film, plan = self.session.film, job.way_out
        carried_along = (
            film @ pose_of(job.position).inverse() if film is not None and not plan.arms_off else None
        )
        gone = {(kind, key) for kind in ("item", "piece") for key in plan.off} if film is not None else set()
        failing = failing if film is None else set()
        for key, body in self.bodies.items():
            if key[0] == "piece":
                body.stand_at(pose)
            elif key[0] == "mount":
                body.stand_at(carried_along)
            body.mark(
                "chosen" if key in chosen else "fails" if key in failing else "",
                ghost=(ghosts and key[0] == "piece") or key in gone,
            )
        self.redraw()

    def pose(self) -> Any:
        """Where the powertrain is shown: as mocked up, or in the chosen load case."""
        if self.session.film is not None:
            return self.session.film
        case = self.session.shown_case
        return (running_pose(self.session.job, case) if case else None) or pose_of(self.session.job.position)

    def _make(self, key: tuple[str, str], thing: Any) -> Body | None:
        job = self.session.job
        if key[0] in ("point", "reading", "mark"):
            mark = Body(key, thing[1], thing[2], 1.0)
            mark.edges.VisibilityOff()
            return mark
        try:
            if key[0] == "item":
                thing, off = thing
                colour, opacity = ITEM_LOOK.get(thing.neighbour, PLAIN)
                if off is not None:
                    placed = scan_of(job, thing.id).placed
                    return MappedBody(key, [MeshPart(placed.vertices, placed.faces)], off, thing.give_or_take)
                if thing.measured == "scan" and isinstance(thing.shapes[0], Mesh):
                    placed = scan_of(job, thing.id).placed
                    return Body(key, [MeshPart(placed.vertices, placed.faces)], colour, max(opacity, 0.45))
                return Body(
                    key, solid_of(thing, job.meshes, "items"), CHASSIS if thing.chassis else colour, opacity
                )
            if key[0] == "piece":
                colour, opacity = PIECE_LOOK.get(thing.neighbour, PLAIN)
                return Body(key, solid_of(thing, job.meshes, "powertrain/pieces"), colour, opacity)
            solids = drawn_mount(thing, job) if key[0] == "mount" else crossmember_solids(job.crossmember)
            return Body(key, solids, MOUNT, 1.0) if solids else None
        except JobError:
            return None

    def _drop(self, key: tuple[str, str]) -> None:
        body = self.bodies.pop(key, None)
        self._made.pop(key, None)
        if body is not None:
            for actor in body.actors:
                self.renderer.RemoveActor(actor)

    def _chosen(self) -> set[tuple[str, str]]:
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
            bounds = np.array([b.surface.GetBounds() for b in pieces])
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
        """Show what a stage is about: on Mounts and Crossmember the engine is a ghost, and the tags tell
        loads."""
        if stage != self.stage:
            self.stage = stage
            self.refresh()

    def _tags(self) -> None:
        self.layer.setGeometry(self.gl.rect())
        ratio = self.gl.devicePixelRatioF() * self.gl.share
        height = self.gl.height()
        display = self.session.display
        if self.stage in LOAD_STAGES and self.session.verdict.carried is not None:
            self.layer.show_tags(self._load_tags(ratio, height), self._caption())
            return
        if self.stage == "survey":
            found = [(self._on_screen(at, ratio, height), rest) for at, rest in survey_tags(self.session)]
            self.layer.show_tags(
                [
                    Tag(x, y, *rest)
                    for (x, y), rest in found
                    if 0 <= x <= self.gl.width() and 0 <= y <= height
                ],
                "",
            )
            return
        if self.session.film is not None:
            self.layer.show_tags([], "Engine shown on its way out.")
            return
        gaps = list(self.session.verdict.gaps[:MOST_TAGS])
        chosen = self.session.chosen_gap()
        if chosen is not None and chosen not in gaps:
            gaps = [*gaps[: MOST_TAGS - 1], chosen]
        tags = []
        for gap in gaps:
            x, y = self._on_screen((np.array(gap.on_piece) + np.array(gap.on_item)) / 2, ratio, height)
            if not (0 <= x <= self.gl.width() and 0 <= y <= height):
                continue
            overlap = show(-gap.gap, "length", display)
            words = (
                show(gap.gap, "length", display)
                if gap.gap >= 0
                else "touches"
                if overlap.startswith("0 ")
                else f"overlap {overlap}"
            )
            if gap.running is not None and gap.state != gap.state_at_rest:
                words += f", running {show(gap.running, 'length', display)}"
            state = GAP_STATE[gap.state]
            tags.append(
                Tag(
                    x,
                    y,
                    f"{words}: {gap.state}",
                    f"{gap.piece_name} – {gap.item_name}",
                    state,
                    f"{gap.piece}/{gap.item}",
                    gap is chosen,
                )
            )
        self.layer.show_tags(tags, self._caption())

    def _on_screen(self, point: Any, ratio: float, height: int) -> tuple[float, float]:
        """Widget pixels of a point in the vehicle frame."""
        self.renderer.SetWorldPoint([float(c) for c in (*point, 1.0)])
        self.renderer.WorldToDisplay()
        x, y, _ = self.renderer.GetDisplayPoint()
        return x / ratio, height - y / ratio

    def _caption(self) -> str:
        case, carried = self.session.shown_case, self.session.verdict.carried
        if not case or carried is None:
            return ""
        result = carried.case(case)
        return (
            f"Engine shown {result.case.name}:"
            f" {move_words(result.move, Display(self.session.display.length))}."
        )

    def _load_tags(self, ratio: float, height: int) -> list[Tag]:
        """What each mount carries and gives in the shown case (at rest where none is chosen)."""
        v, d = (
            self.session.verdict,
            Display(self.session.display.length),
        )  # sixteenths would hide what a bush gives
        assert v.carried is not None
        result = v.carried.case(self.session.shown_case or "weight")
        kind, key = self.session.selection
        tags = []
        for mount, load in zip(self.session.job.mounts, result.mounts, strict=True):
            x, y = self._on_screen(np.array(mount.bush.centre), ratio, height)
            worst = max((f for f in v.findings if f.part == mount.id), key=lambda f: f.use, default=None)
            state = FINDING_STATE[worst.state] if worst else "open"
            word = f"{worst.state}, {100 * worst.use:.0f} %" if worst else "not judged"
            tags.append(
                Tag(
                    x,
                    y,
                    f"{show(load.size, 'force', d)}, gives {show(load.radial_mm, 'length', d)}",
                    f"{mount.name}: {word}",
                    state,
                    f"mount:{mount.id}",
                    (kind, key) == ("mount", mount.id),
                )
            )
        return tags

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
            kind, sign, name = key.partition(":")
            self.session.select(*((kind, name) if sign else ("gap", key)))
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
