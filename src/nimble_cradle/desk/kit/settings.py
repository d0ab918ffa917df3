"""How the user likes the window, kept in ``desk.json`` of the user's data folder. It is no part of a job:
a file that cannot be read is as good as none, and nothing is said of it."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from nimble_cradle.errors import JobError
from nimble_cradle.files import data_folder, read_text, replace_file

MOST_BYTES = 100_000
"""No file of this program's is longer."""


class Settings(BaseModel):
    """hall: colours. text: step of the text size. gloves: large controls. sheet_share: of the window's
    width that the sheet takes; None as long as it was never dragged."""

    model_config = ConfigDict(frozen=True, extra="ignore")

    hall: Literal["light", "dark", "bright"] = "light"
    text: Annotated[int, Field(ge=0, le=2)] = 0
    gloves: bool = False
    sheet_share: Annotated[float, Field(ge=0.2, le=0.8)] | None = None


def settings_file() -> Path:
    """Where they are kept."""
    return data_folder() / "desk.json"


def read_settings() -> Settings:
    """What was kept; as new where that cannot be read."""
    try:
        return Settings.model_validate(json.loads(read_text(settings_file(), MOST_BYTES)))
    except (JobError, OSError, ValueError, ValidationError):
        return Settings()


def keep_settings(settings: Settings) -> None:
    """Write them; where that cannot be done they last as long as the window."""
    path = settings_file()
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        replace_file(path, settings.model_dump_json(indent=1).encode())
    except OSError:
        return


def changed_settings(**what: object) -> Settings:
    """Keep some of them changed, the others as another window may have left them; gives them all."""
    new = read_settings().model_copy(update=what)
    keep_settings(new)
    return new
