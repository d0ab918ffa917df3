"""A job's file dropped on a window."""

from __future__ import annotations

from pathlib import Path
from typing import Any

ENDINGS = (".cradle", ".previous")


def dropped_job(event: Any) -> Path | None:
    """The job among the files that are dragged here, or None."""
    data = event.mimeData()
    if data is None or not data.hasUrls():
        return None
    paths = [Path(url.toLocalFile()) for url in data.urls() if url.isLocalFile()]
    return next((path for path in paths if path.name.endswith(ENDINGS)), None)
