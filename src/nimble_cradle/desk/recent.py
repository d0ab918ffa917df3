"""What the start page knows of jobs that were open: name, what is open in them, and a picture of the bay."""

from __future__ import annotations

import hashlib
import json
from datetime import UTC, datetime
from pathlib import Path
from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field, ValidationError
from PyQt6.QtCore import QBuffer, Qt
from PyQt6.QtGui import QImage

from nimble_cradle.errors import JobError
from nimble_cradle.files import data_folder, read_file, read_text, replace_file, there

MOST = 12
"""Jobs that are remembered: as many as the start page shows without scrolling far."""
WIDE, HIGH = 300, 190
"""Pixels of a picture."""
MOST_BYTES = 1_000_000
"""No list and no picture of ours is larger."""
Word = Annotated[str, Field(max_length=4096)]


class Recent(BaseModel):
    """A job that was open. path; name; open: what is open in it, in a few words; when: UTC."""

    model_config = ConfigDict(frozen=True, extra="ignore")

    path: Word
    name: Word
    open: Word = ""
    when: Word = ""

    @property
    def picture(self) -> Path:
        """Where its picture is kept."""
        return _folder() / f"{hashlib.sha256(self.path.encode()).hexdigest()[:24]}.png"


def _folder() -> Path:
    return data_folder() / "pictures"


def _list() -> Path:
    return data_folder() / "recent.json"


def recent_jobs() -> tuple[Recent, ...]:
    """Those whose file is still there, the last first; none where the list cannot be read."""
    try:
        rows = json.loads(read_text(_list(), MOST_BYTES))
        every = [Recent.model_validate(row) for row in rows[:MOST]]
    except (JobError, OSError, ValueError, ValidationError, TypeError):
        return ()
    return tuple(row for row in every if there(Path(row.path)))


def remember(path: Path, name: str, open_: str, picture: QImage | None = None) -> None:
    """A job was open: it comes first. Where that cannot be written it is not remembered."""
    row = Recent(
        path=str(path.absolute())[:4096],
        name=name[:200],
        open=open_[:200],
        when=datetime.now(UTC).isoformat(timespec="seconds"),
    )
    others = [other for other in recent_jobs() if other.path != row.path]
    try:
        _folder().mkdir(parents=True, exist_ok=True)
        rows = [each.model_dump() for each in (row, *others)[:MOST]]
        replace_file(_list(), json.dumps(rows, indent=1).encode())
        if picture is not None and not picture.isNull():
            replace_file(row.picture, _png(picture))
    except OSError:
        return


def _png(image: QImage) -> bytes:
    small = image.scaled(
        WIDE, HIGH, Qt.AspectRatioMode.KeepAspectRatioByExpanding, Qt.TransformationMode.SmoothTransformation
    )
    small.setDevicePixelRatio(1.0)
    at = (small.width() - WIDE) // 2, (small.height() - HIGH) // 2
    buffer = QBuffer()
    buffer.open(QBuffer.OpenModeFlag.WriteOnly)
    small.copy(*at, WIDE, HIGH).save(buffer, "PNG")
    return bytes(buffer.data().data())


def picture_of(row: Recent) -> QImage:
    """Its picture, or an empty one."""
    try:
        return QImage.fromData(read_file(row.picture, MOST_BYTES))
    except (JobError, OSError):
        return QImage()
