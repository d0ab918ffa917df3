"""Our own look: a calm, light workbench sheet, one accent, a shipped open-licence font with even figures."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QFont, QFontDatabase, QPainter, QPen, QPolygonF
from PyQt6.QtWidgets import QApplication, QSizePolicy, QWidget

PAPER = "#f4f1ea"
SHEET = "#fbfaf6"
LINE = "#d5cfc2"
INK = "#23272b"
SOFT = "#5c6168"
ACCENT = "#0b5f6b"
ACCENT_PALE = "#dbe9ea"
STATE_INK = {"holds": "#2c6636", "near": "#8a5600", "fails": "#ad2318", "open": "#6a6f76"}
STATE_PALE = {"holds": "#e3efe2", "near": "#f8ead0", "fails": "#f8dedb", "open": "#ebe9e4"}
FONT = "B612"
ARROW = (Path(__file__).parent / "icons" / "down.svg").as_posix()

GAP_STATE = {"fouls": "fails", "too tight": "fails", "tight": "near", "clear": "holds"}
FINDING_STATE = {"does not hold": "fails", "near": "near", "holds": "holds"}
STAGE_STATE = {"not begun": "open", "open questions": "near", "holds": "holds"}


def dress(app: QApplication) -> None:
    """Load the font and the style sheet into the application."""
    for name in ("B612-Regular.otf", "B612-Bold.otf"):
        QFontDatabase.addApplicationFont(str(Path(__file__).parent / "fonts" / name))
    font = QFont(FONT)
    font.setPointSizeF(11)
    app.setFont(font)
    app.setStyle("Fusion")
    app.setStyleSheet(_SHEET)


_SHEET = f"""
* {{ font-family: "{FONT}"; color: {INK}; }}
QMainWindow, QDialog {{ background: {PAPER}; }}
QWidget#sheet, QScrollArea, QScrollArea > QWidget > QWidget {{ background: {SHEET}; border: 0; }}
QLabel {{ background: transparent; }}
QLabel#heading {{ font-size: 15pt; font-weight: bold; }}
QLabel#part {{ font-size: 11pt; font-weight: bold; color: {ACCENT}; padding-top: 6px; }}
QLabel#soft {{ color: {SOFT}; }}
QLabel#refusal {{ color: {STATE_INK["fails"]}; background: {STATE_PALE["fails"]}; padding: 5px 8px;
  border-left: 4px solid {STATE_INK["fails"]}; }}
QLabel#alarm {{ background: {STATE_PALE["fails"]}; border-left: 4px solid {STATE_INK["fails"]};
    padding: 7px 9px; font-weight: 600; }}
QLabel#caution {{ background: #fdf3d6; border-left: 4px solid #c28a12; padding: 7px 9px; }}
QLabel#asked {{ background: {STATE_PALE["near"]}; border-left: 4px solid {STATE_INK["near"]};
  padding: 5px 8px; }}
QPushButton {{ background: #ffffff; border: 1px solid #b9b2a3; border-radius: 3px; padding: 6px 10px;
  min-height: 22px; }}
QPushButton:hover {{ border-color: {ACCENT}; background: {ACCENT_PALE}; }}
QPushButton:pressed, QPushButton:checked {{ background: {ACCENT}; color: #ffffff; border-color: {ACCENT}; }}
QPushButton:disabled {{ color: #9a9a96; background: #f0eee8; border-color: {LINE}; }}
QPushButton:focus {{ border: 2px solid {ACCENT}; padding: 5px 9px; }}
QPushButton#main {{ background: {ACCENT}; color: #ffffff; border-color: {ACCENT}; font-weight: bold;
  padding: 9px 14px; }}
QPushButton#main:hover {{ background: #0e7484; }}
QPushButton#main:disabled {{ background: #9db4b7; border-color: #9db4b7; }}
QPushButton#pad {{ padding: 2px 2px; min-height: 28px; min-width: 90px; font-size: 11pt; }}
QPushButton#room {{ padding: 6px 8px; }}
QPushButton#view {{ padding: 3px 7px; min-height: 22px; font-size: 11pt; }}
QLineEdit, QComboBox, QPlainTextEdit {{ background: #ffffff; border: 1px solid #b9b2a3; border-radius: 3px;
  padding: 4px 7px; min-height: 22px;
  selection-background-color: {ACCENT}; selection-color: #ffffff; }}
QLineEdit:focus, QComboBox:focus, QPlainTextEdit:focus {{ border: 2px solid {ACCENT}; padding: 3px 6px; }}
QLineEdit[refused="true"] {{ border: 2px solid {STATE_INK["fails"]}; background: #fff4f2; }}
QLineEdit:read-only {{ background: #f0eee8; }}
QComboBox::drop-down {{ border: 0; width: 24px; }}
QComboBox::down-arrow {{ image: url({ARROW}); width: 12px; height: 8px; }}
QComboBox QAbstractItemView {{ background: #ffffff; selection-background-color: {ACCENT};
  selection-color: #ffffff; border: 1px solid #b9b2a3; }}
QTableWidget {{ background: #ffffff; border: 1px solid {LINE}; gridline-color: #ece8df;
  selection-background-color: {ACCENT_PALE}; selection-color: {INK}; }}
QHeaderView::section {{ background: #ece8df; border: 0; border-right: 1px solid {LINE}; padding: 4px 5px;
  color: {SOFT}; font-size: 11pt; }}
QTableCornerButton::section {{ background: #ece8df; border: 0; }}
QScrollBar:vertical {{ background: {PAPER}; width: 12px; margin: 0; }}
QScrollBar::handle:vertical {{ background: #bdb6a7; border-radius: 5px; min-height: 30px; margin: 2px; }}
QScrollBar::add-line, QScrollBar::sub-line {{ height: 0; width: 0; }}
QScrollBar:horizontal {{ background: {PAPER}; height: 12px; }}
QScrollBar::handle:horizontal {{ background: #bdb6a7; border-radius: 5px; min-width: 30px; margin: 2px; }}
QToolTip {{ background: #fffbe9; color: {INK}; border: 1px solid #b9b2a3; padding: 4px; }}
QMenuBar {{ background: {PAPER}; border-bottom: 1px solid {LINE}; }}
QMenuBar::item {{ padding: 4px 10px; background: transparent; }}
QMenuBar::item:selected, QMenu::item:selected {{ background: {ACCENT}; color: #ffffff; }}
QMenu {{ background: #ffffff; border: 1px solid #b9b2a3; }}
QMenu::item {{ padding: 6px 26px 6px 16px; }}
QSlider:horizontal {{ min-height: 32px; }}
QSlider::groove:horizontal {{ height: 6px; background: {LINE}; border-radius: 3px; }}
QSlider::sub-page:horizontal {{ background: {ACCENT}; border-radius: 3px; }}
QSlider::handle:horizontal {{ width: 22px; height: 22px; margin: -10px 0; background: #ffffff;
  border: 2px solid {ACCENT}; border-radius: 13px; }}
QProgressBar {{ border: 1px solid {LINE}; background: #ffffff; text-align: center; min-height: 22px; }}
QProgressBar::chunk {{ background: {ACCENT}; }}
"""


def paint_mark(painter: QPainter, box: QRectF, state: str) -> None:
    """The shape of a state: disc with a tick (holds), triangle (near), square with a cross (fails), ring
    (open)."""
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    ink = QColor(STATE_INK[state])
    spot, r = box.center(), min(box.width(), box.height()) / 2 - 0.5
    white = QPen(
        QColor("#ffffff"),
        max(1.4, r / 4.2),
        Qt.PenStyle.SolidLine,
        Qt.PenCapStyle.RoundCap,
        Qt.PenJoinStyle.RoundJoin,
    )
    if state == "open":
        painter.setPen(QPen(ink, max(1.6, r / 4)))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawEllipse(spot, r - 1, r - 1)
        painter.restore()
        return
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(ink)
    if state == "holds":
        painter.drawEllipse(spot, r, r)
        painter.setPen(white)
        painter.drawPolyline(
            QPolygonF(
                [
                    spot + QPointF(-r * 0.45, 0.0),
                    spot + QPointF(-r * 0.1, r * 0.38),
                    spot + QPointF(r * 0.48, -r * 0.36),
                ]
            )
        )
    elif state == "near":
        painter.drawPolygon(
            QPolygonF([spot + QPointF(0, -r), spot + QPointF(r, r * 0.8), spot + QPointF(-r, r * 0.8)])
        )
        painter.setPen(white)
        painter.drawLine(spot + QPointF(0, -r * 0.35), spot + QPointF(0, r * 0.2))
        painter.drawPoint(spot + QPointF(0, r * 0.55))
    else:
        painter.drawRect(QRectF(spot.x() - r * 0.9, spot.y() - r * 0.9, 1.8 * r, 1.8 * r))
        painter.setPen(white)
        painter.drawLine(spot + QPointF(-r * 0.42, -r * 0.42), spot + QPointF(r * 0.42, r * 0.42))
        painter.drawLine(spot + QPointF(-r * 0.42, r * 0.42), spot + QPointF(r * 0.42, -r * 0.42))
    painter.restore()


class Mark(QWidget):
    """A state's shape as a small widget."""

    def __init__(self, state: str = "open", size: int = 16) -> None:
        super().__init__()
        self.state = state
        self._size = size
        self.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Fixed)

    def sizeHint(self) -> QSize:
        return QSize(self._size, self._size)

    def paintEvent(self, event: object) -> None:
        painter = QPainter(self)
        paint_mark(painter, QRectF(0, 0, self._size, self._size), self.state)
        painter.end()
