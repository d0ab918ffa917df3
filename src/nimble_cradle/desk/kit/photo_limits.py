"""Photographs as they are shown: their size is looked at before anything of them is unpacked."""

from __future__ import annotations

from PyQt6.QtCore import QBuffer, QByteArray, QIODevice, QSize, Qt
from PyQt6.QtGui import QImage, QImageReader

from nimble_cradle.files import printable
from nimble_cradle.job.base import JobError

MOST_POINTS = {"png": 60_000_000, "jpeg": 120_000_000}
"""Points of a photograph that is read: a PNG is unpacked whole, a JPEG in the size that is wanted."""
MOST_MB = 600
"""Memory that a picture may take when unpacked, MB: a camera of 100 megapixels takes 400."""


def picture_of(name: str, data: bytes, wide: int = 5000, high: int = 5000) -> QImage:
    """A photograph no larger than so many points, upright. Raises JobError with a sentence."""
    shown = printable(name)
    held = QByteArray(data)
    buffer = QBuffer(held)
    buffer.open(QIODevice.OpenModeFlag.ReadOnly)
    reader = QImageReader(buffer)
    kind = bytes(reader.format().data()).decode("ascii", "replace")
    size = reader.size()
    if kind not in MOST_POINTS or not size.isValid() or size.isEmpty():
        raise JobError(f"{shown} could not be read as a photograph: JPEG and PNG are.")
    points = size.width() * size.height()
    if points > MOST_POINTS[kind]:
        raise JobError(
            f"{shown} has {points / 1e6:,.0f} million points; at most {MOST_POINTS[kind] / 1e6:.0f} are read."
            " Save it smaller."
        )
    QImageReader.setAllocationLimit(MOST_MB)
    reader.setAutoTransform(True)
    if size.width() > wide or size.height() > high:
        reader.setScaledSize(size.scaled(QSize(wide, high), Qt.AspectRatioMode.KeepAspectRatio))
    image = reader.read()
    if image.isNull():
        raise JobError(f"{shown} could not be read as a photograph: it is damaged.")
    return image
