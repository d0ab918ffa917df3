"""A VTK scene drawn off the screen and painted by Qt."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

import numpy as np
from PyQt6.QtCore import QPoint, Qt, pyqtSignal
from PyQt6.QtGui import QImage, QPainter
from PyQt6.QtWidgets import QWidget
from vtkmodules.util.numpy_support import vtk_to_numpy
from vtkmodules.vtkCommonCore import vtkUnsignedCharArray
from vtkmodules.vtkRenderingCore import vtkRenderer, vtkRenderWindow

from nimble_cradle.desk.bay_view.still import Pixels
from nimble_cradle.geometry.pose import crosses


class Canvas(QWidget):
    """Draws a VTK scene off the screen and paints the picture, so that it composes with other widgets and
    needs no GL from Qt.

    Drag turns about the middle, drag with the right or middle button shifts, the wheel comes nearer.
    resized: the picture is to be made anew; turned: the eye has moved; clicked: where, in widget pixels.
    dragged: with Shift held, from where to where; pulled: with Ctrl held; dropped: and let go.
    """

    resized = pyqtSignal()
    turned = pyqtSignal()
    clicked = pyqtSignal(QPoint)
    dragged = pyqtSignal(QPoint, QPoint)
    pulled = pyqtSignal(QPoint, QPoint)
    dropped = pyqtSignal()

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.scene = vtkRenderWindow()
        self.scene.SetOffScreenRendering(1)
        self.scene.SetMultiSamples(0)
        self.renderer = vtkRenderer()
        self.scene.AddRenderer(self.renderer)
        self.share = 1.0
        self.bodies: Sequence[Callable[[Any], bool]] = ()
        """Each tells whether a place (3,) is inside a part."""
        self._pixels = vtkUnsignedCharArray()
        self._image = QImage()
        self._dragging = False
        self._press: QPoint | None = None
        self._last: QPoint | None = None
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("The bay in 3-D")

    def draw(self, share: float = 1.0) -> None:
        """Make the picture anew; with ``share`` of its points each way, for a machine that is too slow
        while things move."""
        self.show_pixels(self.pixels(share))

    def pixels(self, share: float = 1.0) -> Pixels:
        """Draw the scene; gives it as (h, w, 4) uint8, the top row first."""
        self.share = share
        ratio = self.devicePixelRatioF() * share
        w, h = max(8, round(self.width() * ratio)), max(8, round(self.height() * ratio))
        if tuple(self.scene.GetSize()) != (w, h):
            self.scene.SetSize(w, h)
        self.renderer.ResetCameraClippingRange()
        self.scene.Render()
        self.scene.GetRGBACharPixelData(0, 0, w - 1, h - 1, 0, self._pixels)  # type: ignore[call-overload]
        return np.ascontiguousarray(vtk_to_numpy(self._pixels).reshape(h, w, 4)[::-1])

    def show_pixels(self, rows: Pixels) -> None:
        """Paint a picture (h, w, 4) uint8."""
        h, w = rows.shape[:2]
        self._image = QImage(rows.tobytes(), w, h, 4 * w, QImage.Format.Format_RGBX8888).copy()
        self._image.setDevicePixelRatio(self.devicePixelRatioF() * self.share)
        self.update()

    def picture(self) -> QImage:
        """The picture as it was drawn last."""
        return self._image

    def paintEvent(self, event: Any) -> None:
        painter = QPainter(self)
        painter.drawImage(0, 0, self._image)
        painter.end()

    def resizeEvent(self, event: Any) -> None:
        self.resized.emit()

    def mousePressEvent(self, event: Any) -> None:
        self._press = self._last = event.position().toPoint()

    def mouseMoveEvent(self, event: Any) -> None:
        if self._last is None:
            return
        at = event.position().toPoint()
        step = at - self._last
        self._last = at
        held = {
            Qt.KeyboardModifier.ShiftModifier: self.dragged,
            Qt.KeyboardModifier.ControlModifier: self.pulled,
        }
        for key, signal in held.items():
            if event.modifiers() & key and self._press is not None:
                self._dragging = True
                signal.emit(self._press, at)
                return
        camera = self.renderer.GetActiveCamera()
        if event.buttons() & Qt.MouseButton.LeftButton:
            camera.Azimuth(-0.4 * step.x())
            camera.Elevation(0.4 * step.y())
            camera.OrthogonalizeViewUp()
        else:
            self._shift(step)
        self.turned.emit()

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
        right = crosses(along, up)
        right = right / np.linalg.norm(right)
        up = crosses(right, along) / np.linalg.norm(along)
        move = (-step.x() * right + step.y() * up) * size
        camera.SetFocalPoint(*(focus + move))
        camera.SetPosition(*(place + move))

    def mouseReleaseEvent(self, event: Any) -> None:
        at = event.position().toPoint()
        if self._dragging:
            self._dragging = False
            self.dropped.emit()
        elif self._press is not None and (at - self._press).manhattanLength() < 5:
            self.clicked.emit(at)
        self._press = self._last = None

    def wheelEvent(self, event: Any) -> None:
        camera = self.renderer.GetActiveCamera()
        before = camera.GetPosition()
        camera.Dolly(1.1 ** (event.angleDelta().y() / 120))
        if not self.may_stand(camera.GetPosition()):
            camera.SetPosition(*before)
        self.turned.emit()

    def may_stand(self, place: Any) -> bool:
        """Whether the eye may be there: told by who knows the bodies."""
        return all(not inside(place) for inside in self.bodies)
