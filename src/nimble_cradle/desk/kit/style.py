"""Our own look: a calm, light workbench sheet, one accent, a shipped open-licence font with even figures."""

from __future__ import annotations

from pathlib import Path
from string import Template

from PyQt6.QtGui import QFontDatabase
from PyQt6.QtWidgets import QApplication

from nimble_cradle.desk.kit.look import FONT, GLOVE_PX, TEXT_STEPS, Look, put_on
from nimble_cradle.desk.kit.settings import Settings, read_settings

_HERE = Path(__file__).parent


def dress(app: QApplication) -> None:
    """Load the font and the style sheet into the application."""
    for name in ("B612-Regular.otf", "B612-Bold.otf"):
        QFontDatabase.addApplicationFont(str(Path(__file__).parent / "fonts" / name))
    app.setStyle("Fusion")
    wear_settings(read_settings())


def wear_settings(settings: Settings) -> None:
    """Show everything as the user likes it."""
    app = QApplication.instance()
    assert isinstance(app, QApplication)
    wear(Look(settings.hall, TEXT_STEPS[settings.text], settings.gloves), app)


def wear(new: Look, app: QApplication) -> None:
    """Show everything in this look from now on."""
    put_on(new)
    app.setFont(new.font())
    app.setStyleSheet(style_sheet(new))


def style_sheet(worn: Look) -> str:
    """The toolkit's style sheet for a look."""
    values = {name: value for name, value in vars(worn.colours).items() if isinstance(value, str)}
    inks = {f"{state}_ink": ink for state, ink in worn.colours.inks.items()}
    pales = {f"{state}_pale": pale for state, pale in worn.colours.pales.items()}
    sizes = {
        "body": f"{11 * worn.text:g}pt",
        "large": f"{15 * worn.text:g}pt",
        "high": f"{GLOVE_PX if worn.gloves else worn.px(22)}px",
        "pad": f"{GLOVE_PX if worn.gloves else worn.px(28)}px",
        "small": f"{GLOVE_PX if worn.gloves else worn.px(22)}px",
        "wide": f"{worn.px(90)}px",
        "outline": f"{worn.colours.outline_px}px",
    }
    return Template((_HERE / "sheet.qss").read_text()).substitute(
        values | inks | pales | sizes, font=FONT, arrow=(_HERE / "icons" / "down.svg").as_posix()
    )
