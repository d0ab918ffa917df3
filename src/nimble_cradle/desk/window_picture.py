"""A picture of the window as it stands on the screen."""

from __future__ import annotations

import time
from pathlib import Path

from PyQt6.QtWidgets import QApplication, QMainWindow

from nimble_cradle.files import open_to_read, printable, replace_file, there, why
from nimble_cradle.job.base import JobError


def settle(app: QApplication, seconds: float = 0.6) -> None:
    """Let the window draw itself."""
    until = time.monotonic() + seconds
    while time.monotonic() < until:
        app.processEvents()
        time.sleep(0.01)


def picture(desk: QMainWindow, path: Path) -> None:
    """A PNG of the window as it stands on the screen, the 3-D part in it; over nothing but another such
    picture. Raises JobError."""
    from PyQt6.QtCore import QBuffer

    screen = desk.screen()
    if screen is None:
        raise JobError("There is no screen to take a picture of.")
    place = desk.frameGeometry()
    shot = screen.grabWindow(0, place.x(), place.y(), place.width(), place.height())  # type: ignore[arg-type]
    image, buffer = shot.toImage(), QBuffer()
    image.setText("Software", _MARK)
    buffer.open(QBuffer.OpenModeFlag.WriteOnly)
    image.save(buffer, "PNG")
    if there(path) and not _is_ours(path):
        raise JobError(
            f"{printable(str(path), 100)} is there already, and no picture of this program: nothing is"
            " written over."
        )
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        replace_file(path, bytes(buffer.data().data()))
    except OSError as error:
        raise JobError(
            f"The picture could not be written to {printable(str(path), 100)}: {why(error)}."
        ) from None


_MARK = "Nimble Cradle"


def _is_ours(path: Path) -> bool:
    """Whether a file is a picture that this program made."""
    try:
        with open_to_read(path) as stream:
            head = stream.read(4000)
    except JobError:
        return False
    return head.startswith(b"\x89PNG") and _MARK.encode() in head
