"""A window as the user likes it: colours of the hall, size of the text, controls for gloves, width of the
sheet."""

from __future__ import annotations

from PyQt6.QtWidgets import QApplication

from nimble_cradle.desk.bars import StageBar, TellTaleBar
from nimble_cradle.desk.job_window import JobWindow
from nimble_cradle.desk.kit.divided import Divided
from nimble_cradle.desk.kit.look import HALLS, TEXT_STEPS, worn
from nimble_cradle.desk.kit.settings import changed_settings, read_settings
from nimble_cradle.desk.kit.sheet import Sheet
from nimble_cradle.desk.kit.style import wear_settings


class DressedWindow(JobWindow):
    """What is kept in the user's ``desk.json`` and worn by every window."""

    divided: Divided
    sheets: dict[str, Sheet]
    stage_bar: StageBar
    tales: TellTaleBar

    def widen_sheet(self) -> None:
        """Give the sheet its next wider place."""
        self.divided.step(1)

    def narrow_sheet(self) -> None:
        """Give the sheet its next narrower place."""
        self.divided.step(-1)

    def text_size(self, step: str) -> None:
        """Larger or smaller text, or as usual: 1, -1 or 0."""
        now = read_settings().text
        self._look_anew(text=0 if step == "0" else min(max(now + int(step), 0), len(TEXT_STEPS) - 1))

    def next_hall(self) -> None:
        """A light sheet, a dark one, one for bright sun, in turn."""
        names = list(HALLS)
        hall = names[(names.index(worn().hall) + 1) % len(names)]
        self._look_anew(hall=hall)
        self.say(f"{hall.capitalize()} sheet.")

    def turn_gloves(self) -> None:
        """Large controls, or as usual."""
        self._look_anew(gloves=not worn().gloves)
        self.say("Large controls, for gloves." if worn().gloves else "Controls as usual.")

    def _look_anew(self, **what: object) -> None:
        """Keep a wish and show everything so, in every window."""
        wear_settings(changed_settings(**what))
        for window in QApplication.topLevelWidgets():
            if isinstance(window, DressedWindow):
                window.dress_anew()

    def dress_anew(self) -> None:
        """The look has changed: sheets are made anew, the rest is painted anew."""
        for sheet in self.sheets.values():
            sheet.remake()
            if sheet.isVisible():
                sheet.refresh()
        self.stage_bar.dress()
        self.tales.dress()
        self.view.dress()
