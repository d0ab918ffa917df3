"""The strip under the bay: a scale, which way is front, what the cross and the grid are; and the tape."""

from __future__ import annotations

from dataclasses import dataclass

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QFontMetricsF, QPainter, QPen, QPolygonF
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QSizePolicy, QWidget

from nimble_cradle.desk.kit.look import look, px, worn
from nimble_cradle.units import Display, show

ROUND_MM = (10.0, 20.0, 50.0, 100.0, 200.0, 500.0, 1000.0, 2000.0)
ROUND_IN = tuple(25.4 * inches for inches in (0.5, 1.0, 2.0, 4.0, 6.0, 12.0, 24.0, 48.0))
"""Lengths that a scale may have: those that a tape shows large."""
SHORTEST = 60.0
"""Least length of the scale in pixels; the next round one is at most two and a half times as long."""


@dataclass(frozen=True)
class Told:
    """What the strip tells. px_per_mm: at the crank line; front: the way to the front on the screen (x
    right, y down), about 1 long where it lies in the picture; towards: positive where the front is
    nearer to the eye."""

    px_per_mm: float
    front: tuple[float, float]
    towards: float


def scale_of(px_per_mm: float, display: Display) -> tuple[float, str]:
    """Pixels of the scale, and its length in words."""
    lengths = ROUND_MM if display.length == "mm" else ROUND_IN
    mm = next((length for length in lengths if length * px_per_mm >= SHORTEST), lengths[-1])
    return mm * px_per_mm, show(mm, "length", display, 0 if display.length == "mm" else -2)


class _Drawn(QWidget):
    """The drawn part of the strip."""

    def __init__(self) -> None:
        super().__init__()
        self.told: Told | None = None
        self.display = Display()
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)

    def minimumSizeHint(self) -> QSize:
        return QSize(120, px(28))

    def paintEvent(self, event: object) -> None:
        if self.told is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setFont(worn().font())
        painter.setPen(QPen(QColor(look().ink), 1.6))
        wide, words = scale_of(self.told.px_per_mm, self.display)
        middle = self.height() / 2
        painter.drawLine(QPointF(12, middle), QPointF(12 + wide, middle))
        for x in (12.0, 12.0 + wide):
            painter.drawLine(QPointF(x, middle - 5), QPointF(x, middle + 5))
        x = self._write(painter, 20 + wide, f"{words} at the crank")
        x = self._front(painter, x + 16)
        grid = show(100.0, "length", self.display, 0)
        self._write(painter, x + 16, f"cross: datum   grid: {grid} on the road")
        painter.end()

    def _write(self, painter: QPainter, x: float, text: str) -> float:
        """Words where there is room for all of them; gives where they end."""
        wide = QFontMetricsF(painter.font()).horizontalAdvance(text)
        if x + wide > self.width() - 4:
            return x
        painter.setPen(QColor(look().soft))
        painter.drawText(QRectF(x, 0, wide + 4, self.height()), Qt.AlignmentFlag.AlignVCenter, text)
        return x + wide

    def _front(self, painter: QPainter, x: float) -> float:
        """An arrow to the front as it lies in the picture, or a word where it points at the eye or away."""
        assert self.told is not None
        fx, fy = self.told.front
        if (fx * fx + fy * fy) ** 0.5 < 0.35:
            return self._write(
                painter, x, "front towards you" if self.told.towards > 0 else "front away from you"
            )
        length = (fx * fx + fy * fy) ** 0.5
        ux, uy = fx / length, fy / length
        spot, r = QPointF(x + 12, self.height() / 2), 10.0
        tip, tail = spot + QPointF(ux, uy) * r, spot - QPointF(ux, uy) * r
        painter.setPen(QPen(QColor(look().ink), 2))
        painter.drawLine(tail, tip)
        painter.setBrush(QColor(look().ink))
        back = tip - QPointF(ux, uy) * 7
        painter.drawPolygon(QPolygonF([tip, back + QPointF(-uy, ux) * 4, back - QPointF(-uy, ux) * 4]))
        return self._write(painter, x + 30, "front")


class Foot(QWidget):
    """The strip. ``tape``: two places are to be measured; ``focus``: the rest is to be faint."""

    tape = pyqtSignal(bool)
    focus = pyqtSignal(bool)

    def __init__(self) -> None:
        super().__init__()
        line = QHBoxLayout(self)
        line.setContentsMargins(0, 0, 6, 0)
        line.setSpacing(6)
        self.drawn = _Drawn()
        line.addWidget(self.drawn, 1)
        self.focus_button = _toggle("Chosen only", "Ctrl+B: the chosen gap or part bright, the rest faint")
        self.tape_button = _toggle("Tape", "Ctrl+T: click two places, read what is between them; Esc ends")
        self.focus_button.toggled.connect(self.focus)
        self.tape_button.toggled.connect(self.tape)
        for b in (self.focus_button, self.tape_button):
            line.addWidget(b)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)

    def tell(self, told: Told, display: Display) -> None:
        """Show this."""
        self.drawn.told, self.drawn.display = told, display
        self.drawn.update()


def _toggle(text: str, tip: str) -> QPushButton:
    made = QPushButton(text)
    made.setObjectName("stand")
    made.setCheckable(True)
    made.setToolTip(tip)
    made.setFocusPolicy(Qt.FocusPolicy.TabFocus)
    return made
