"""The two bars that are always in sight: the stages in the order of the trade, and the six tell-tales."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QFont, QFontMetricsF, QPainter, QPen
from PyQt6.QtWidgets import QAbstractButton, QHBoxLayout, QSizePolicy, QWidget

from nimble_cradle.desk.kit.label import plain
from nimble_cradle.desk.kit.look import look, px, worn
from nimble_cradle.desk.kit.state_mark import STAGE_STATE, paint_mark
from nimble_cradle.judge.verdict import StageState
from nimble_cradle.telltales import TellTale

_MIDDLE = int(Qt.AlignmentFlag.AlignVCenter)


class _Cell(QAbstractButton):
    """A painted button. high, low: its heights in pixels in a window of the usual size and in a low one."""

    def __init__(self, high: int, low: int) -> None:
        super().__init__()
        self._heights = high, low
        self.low = False
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.dress()

    def sizeHint(self) -> QSize:
        return QSize(px(150), self.height())

    def minimumSizeHint(self) -> QSize:
        return QSize(90, self.height())

    def dress(self, low: bool | None = None) -> None:
        """As high as the look wants it; low: whether the window is."""
        self.low = self.low if low is None else low
        self.setFixedHeight(px(self._heights[self.low]))
        self.update()

    def _ground(self, painter: QPainter, colour: str) -> QRectF:
        """Paint what lies under the words, and the focus; gives the cell."""
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(self.rect())
        painter.fillRect(box, QColor(colour))
        painter.setPen(QPen(QColor(look().line), 1))
        painter.drawLine(box.topRight(), box.bottomRight())
        if self.hasFocus():
            painter.setPen(QPen(QColor(look().ink), 2))
            painter.drawRect(box.adjusted(2, 2, -2, -2))
        return box


def elided(text: str, font: QFont, width: float) -> str:
    """Text shortened with … to a width in pixels."""
    return QFontMetricsF(font).elidedText(text, Qt.TextElideMode.ElideRight, width)


def _write(painter: QPainter, room: QRectF, text: str, font: QFont, colour: str) -> None:
    """A line of words in the middle of a room, no longer than it."""
    painter.setFont(font)
    painter.setPen(QColor(colour))
    painter.drawText(room, _MIDDLE, elided(text, font, room.width()))


def stage_word(state: StageState) -> str:
    """How a stage stands, in two or three words: as long as figures are not said, how many are measured."""
    if state.state == "not begun":
        return "not begun"
    if state.measured + state.assumed < state.asked_for:
        return f"{state.measured} of {state.asked_for} measured"
    n = len(state.questions)
    if state.state == "holds":
        assumed = state.assumed + state.leans
        return f"on {assumed} assumed" if assumed else "holds"
    return f"{n} question{'s' if n != 1 else ''}"


def fitting_words(words: str, font: QFont, width: float) -> str:
    """Words, or their beginning that says the same more shortly where there is no room for the rest."""
    short = words.removeprefix("on ").removesuffix(" measured").removesuffix(" questions")
    return words if QFontMetricsF(font).horizontalAdvance(words) <= width else short


def fitting_title(title: str, font: QFont, width: float) -> str:
    """A title, or all but its first word where there is no room for that."""
    last = title.partition(" ")[2].capitalize()
    return title if not last or QFontMetricsF(font).horizontalAdvance(title) <= width else last


def fitting_font(words: str, width: float, most: float = 15) -> QFont:
    """The largest bold font, from ``most`` points down to 11 on the screen, in which words are not cut off;
    10 where even that would cut them."""
    sizes = [points for points in (15, 13, 12, 11) if points <= most]
    least = 11 / worn().text
    fonts = [worn().font(points, True) for points in (*sizes, (11 + least) / 2, least, least - 1)]
    return next((f for f in fonts if QFontMetricsF(f).horizontalAdvance(words) <= width), fonts[-1])


class StagePlate(_Cell):
    """One stage: its name and state."""

    def __init__(self, key: str, state: StageState) -> None:
        super().__init__(54, 46)
        self.state, self.chosen = state, False
        self.setToolTip(key)

    def paintEvent(self, event: object) -> None:
        painter = QPainter(self)
        ground = look().band if self.underMouse() else look().paper
        box = self._ground(painter, look().sheet if self.chosen else ground)
        if self.chosen:
            painter.fillRect(QRectF(0, 0, box.width(), 4), QColor(look().accent))
        narrow = box.width() < px(130)
        size, side = px(17), (5 if narrow else 10)
        mark = QRectF(side, (box.height() - size) / 2, size, size)
        paint_mark(painter, mark, STAGE_STATE[self.state.state])
        left = mark.right() + (5 if narrow else 9)
        line = box.height() * 0.4
        room = QRectF(left, box.height() * 0.12, box.width() - left - 2, line)
        ink = look().accent if self.chosen else look().ink
        _write(painter, room, self.state.name, fitting_font(self.state.name, room.width(), 11), ink)
        font = worn().font()
        words = fitting_words(stage_word(self.state), font, room.width())
        _write(painter, room.translated(0, line), words, font, look().soft)
        painter.end()


class StageBar(QWidget):
    """All stages, with the chosen one marked. keys: the function key of each by its id."""

    wanted = pyqtSignal(str)

    def __init__(self, states: Sequence[StageState], keys: dict[str, str]) -> None:
        super().__init__()
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        self.plates: dict[str, StagePlate] = {}
        for state in states:
            plate = StagePlate(keys.get(state.id, ""), state)
            plate.clicked.connect(lambda _=False, k=state.id: self.wanted.emit(k))
            self.plates[state.id] = plate
            layout.addWidget(plate)

    def dress(self, low: bool | None = None) -> None:
        """The look, or the height of the window, has changed."""
        for plate in self.plates.values():
            plate.dress(low)

    def show_states(self, states: Sequence[StageState], chosen: str) -> None:
        """Show how every stage stands."""
        for state in states:
            plate = self.plates[state.id]
            plate.state, plate.chosen = state, state.id == chosen
            plate.setAccessibleName(f"{state.name}: {state.state}")
            plate.setAccessibleDescription(stage_word(state) + (", in sight" if plate.chosen else ""))
            plate.update()


class TellTaleCell(_Cell):
    """One deciding number with its word, shape and colour; in a low window without its cause."""

    def __init__(self) -> None:
        super().__init__(112, 70)
        self.tale: TellTale | None = None

    def show_tale(self, tale: TellTale) -> None:
        """Show another number."""
        if tale != self.tale:
            self.tale = tale
            self.setAccessibleName(f"{tale.title}: {tale.value}, {tale.word}")
            self.setAccessibleDescription(tale.cause)
            self.setToolTip(plain(f"{tale.title}: {tale.value}, {tale.word}. {tale.cause}."))
            self.update()

    def paintEvent(self, event: object) -> None:
        painter = QPainter(self)
        state = self.tale.state if self.tale else "open"
        pale = state in ("fails", "near") or self.underMouse()
        box = self._ground(painter, look().pales[state] if pale else look().sheet)
        painter.fillRect(QRectF(0, 0, box.width(), 5), QColor(look().inks[state]))
        if self.tale is not None:
            self._words(painter, self.tale, QRectF(11, 6, box.width() - 17, box.height() - 8))
        painter.end()

    def _words(self, painter: QPainter, tale: TellTale, room: QRectF) -> None:
        """Title, figure, how it stands, and why."""
        line, ink = px(19), look().inks[tale.state]
        title = QRectF(room.x(), room.y(), room.width(), line)
        _write(
            painter,
            title,
            fitting_title(tale.title, worn().font(), title.width()),
            worn().font(),
            look().soft,
        )
        figure = title.translated(0, line)
        figure.setHeight(px(24))
        _write(painter, figure, tale.value, fitting_font(tale.value, figure.width()), look().ink)
        size = px(13)
        word = QRectF(room.x(), figure.bottom(), room.width(), line)
        paint_mark(painter, QRectF(word.x(), word.center().y() - size / 2, size, size), tale.state)
        word.setLeft(word.left() + size + 6)
        _write(painter, word, tale.word, worn().font(bold=True), ink)
        if self.low:
            return
        painter.setFont(worn().font())
        painter.setPen(QColor(look().soft))
        flags = int(Qt.AlignmentFlag.AlignTop | Qt.TextFlag.TextWordWrap)
        high = QFontMetricsF(painter.font()).lineSpacing()
        lines = max(1, int((room.bottom() - word.bottom()) / high))
        cause = QRectF(room.x(), word.bottom(), room.width(), lines * high)
        painter.drawText(cause, flags, tale.cause)


class TellTaleBar(QWidget):
    """The six, each a door to its cause."""

    wanted = pyqtSignal(object)

    def __init__(self) -> None:
        super().__init__()
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        self.cells = [TellTaleCell() for _ in range(6)]
        for cell in self.cells:
            cell.clicked.connect(lambda _=False, c=cell: self.wanted.emit(c.tale))
            layout.addWidget(cell)

    def dress(self, low: bool | None = None) -> None:
        """The look, or the height of the window, has changed."""
        for cell in self.cells:
            cell.dress(low)

    def show_tales(self, tales: Sequence[TellTale]) -> None:
        """Show the six numbers."""
        for cell, tale in zip(self.cells, tales, strict=True):
            cell.show_tale(tale)
