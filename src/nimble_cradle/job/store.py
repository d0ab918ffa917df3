"""The job file ``name.cradle``: a ZIP read with limits and written so that a pulled plug never costs a job.

Save: a temporary file in the same folder, fsync, read back with the reader's own limits, the last save kept
as ``name.cradle.previous``, rename, fsync of the folder.
"""

from __future__ import annotations

import contextlib
import json
import os
import re
import zipfile
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import IO

from nimble_cradle.files import (
    beside,
    open_plain,
    open_to_read,
    printable,
    real,
    replace_file,
    sync_folder,
    there,
    why,
)
from nimble_cradle.job.base import JobError
from nimble_cradle.job.job import Job
from nimble_cradle.job.read_archive import MOST_ROWS, Row, digest_of, line_of, read_stream
from nimble_cradle.job.read_archive import Opened as Opened
from nimble_cradle.job.read_archive import job_from_data as job_from_data
from nimble_cradle.job.read_archive import read as read

PHOTO_NAME = re.compile(r"[A-Za-z0-9][A-Za-z0-9_.-]{0,79}")
_FIXED_TIME = (2020, 1, 1, 0, 0, 0)
"""Time of every entry, so that the same job makes the same bytes."""


def job_text(job: Job) -> str:
    """job.json as a person can read it: keys in the model's order, two spaces, points on one line."""
    text = json.dumps(job.model_dump(mode="json", by_alias=True), indent=2, ensure_ascii=False)
    number = r"-?\d+(?:\.\d+)?(?:e[+-]?\d+)?"
    text = re.sub(
        rf"\[\s+({number}(?:,\s+{number})*)\s+\]", lambda m: "[" + re.sub(r"\s+", " ", m[1]) + "]", text
    )
    return text + "\n"


def write(
    path: Path,
    job: Job,
    log: tuple[Row, ...] = (),
    photos: tuple[tuple[str, bytes], ...] = (),
    fresh: bool = False,
    announce: Callable[[str], None] = lambda _: None,
) -> str:
    """Write the job to ``path`` and give the digest of the save. Raises JobError; the old file then still
    stands. fresh: only under a name that is free. announce: told the digest just before the file takes its
    name."""
    path = path if fresh else real(path)
    name = printable(path.name)
    if len(log) > MOST_ROWS:
        log = (
            {"time": "", "what": f"{len(log) - MOST_ROWS:,} older entries are left out"},
            *log[-MOST_ROWS:],
        )
    text = job_text(job).encode("utf-8", "backslashreplace")
    rows = b"".join(line_of(row) for row in log)
    digest = digest_of(text, rows, tuple(sorted(photos)))
    if fresh and there(path):
        raise JobError(f"{name} is there already; choose another name.")
    try:
        with _temporary(path) as stream:
            with zipfile.ZipFile(stream, "w", zipfile.ZIP_DEFLATED) as archive:
                _put(archive, "job.json", text)
                _put(archive, "log.jsonl", rows)
                for mesh in job.meshes:
                    _put(archive, f"meshes/{mesh.name}", mesh.data)
                for key, data in photos:
                    _put(archive, f"photos/{key}", data)
            stream.flush()
            os.fsync(stream.fileno())
            _check_back(stream, path, job, photos)
            announce(digest)
            _name(stream, path, fresh)
        sync_folder(path.parent)
    except FileExistsError:
        raise JobError(f"{name} is there already; choose another name.") from None
    except OSError as error:
        raise JobError(f"{name} could not be saved: {why(error)}. The last save still stands.") from None
    return digest


def _check_back(stream: IO[bytes], path: Path, job: Job, photos: tuple[tuple[str, bytes], ...]) -> None:
    """What is not read back as it was written does not take the name. Raises JobError."""
    stream.seek(0)
    try:
        found = read_stream(stream, path)
    except JobError as error:
        raise JobError(
            f"{printable(path.name)} was not saved, since it could not be opened again: {error.message} The"
            " last save still stands.",
            error.place,
        ) from None
    if found.job != job or dict(found.photos) != dict(photos):
        raise JobError(
            f"{printable(path.name)} was not saved: it is not read back as it is here. The last save still"
            " stands."
        )


@contextlib.contextmanager
def _temporary(path: Path) -> Iterator[IO[bytes]]:
    """A file in the same folder that has no name yet, where the drive can do that, so that nothing is left
    of a killed save; else one with a hidden name."""
    named = _saving(path)
    try:
        handle = os.open(path.parent, os.O_TMPFILE | os.O_RDWR | os.O_CLOEXEC, 0o644)
        nameless = True
    except OSError:
        nameless = False
        with contextlib.suppress(FileNotFoundError):
            os.unlink(named)
        handle = open_plain(named, os.O_RDWR | os.O_CREAT | os.O_EXCL, follow=False)
    try:
        with os.fdopen(handle, "r+b") as stream:
            yield stream
    finally:
        if not nameless:
            with contextlib.suppress(OSError):
                os.unlink(named)


def _saving(path: Path) -> Path:
    return beside(path, f".{os.getpid()}.saving", hidden=True)


def _name(stream: IO[bytes], path: Path, fresh: bool) -> None:
    """Give the written file its name. Raises OSError."""
    named = _saving(path)
    if not there(named):  # it had no name yet
        # told as seen from a folder, since the plain call would link the link
        os.link(f"/proc/self/fd/{stream.fileno()}", named, src_dir_fd=stream.fileno())
    try:
        if fresh:
            _take_free_name(named, path)
            return
        old = os.stat(path) if path.exists() else None
        if old is not None and old.st_nlink > 1:
            replace_file(beside(path, ".previous"), path.read_bytes())
            _write_through(stream, path)
            return
        if old is not None:
            _keep_previous(path)
            with contextlib.suppress(OSError):
                os.chmod(named, old.st_mode & 0o777)
        os.replace(named, path)
    finally:
        with contextlib.suppress(OSError):
            os.unlink(named)


def _take_free_name(named: Path, path: Path) -> None:
    """Put a written file under a name that is free; on drives without hard links (memory sticks) too. Raises
    OSError, FileExistsError among them."""
    try:
        os.link(named, path)
    except FileExistsError:
        raise
    except OSError:
        os.close(os.open(path, os.O_WRONLY | os.O_CREAT | os.O_EXCL | os.O_NOFOLLOW | os.O_CLOEXEC, 0o644))
        os.replace(named, path)


def restore(path: Path, previous: Path) -> None:
    """Bring back the save before, into the file itself, which was cut off while it was being written. Raises
    JobError."""
    name = printable(path.name)
    try:
        with open_to_read(previous) as stream:
            _write_through(stream, path)
    except OSError as error:
        raise JobError(f"{name} could not be put right: {why(error)}.") from None


def _write_through(stream: IO[bytes], path: Path) -> None:
    """Into the file itself, which has other names too (hard links) that must go on standing for it."""
    stream.seek(0)
    data = stream.read()
    handle = open_plain(path, os.O_WRONLY, follow=False)
    with os.fdopen(handle, "wb", buffering=0) as there_:
        written = 0
        while written < len(data):
            written += there_.write(memoryview(data)[written:]) or 0
        there_.truncate(len(data))
        os.fsync(handle)


def _put(archive: zipfile.ZipFile, name: str, data: bytes) -> None:
    info = zipfile.ZipInfo(name, _FIXED_TIME)
    info.compress_type = zipfile.ZIP_DEFLATED
    info.external_attr = 0o644 << 16
    archive.writestr(info, data)


def _keep_previous(path: Path) -> None:
    """Give the present save a second name, so that there is never a moment without a whole file under
    ``path``."""
    previous = beside(path, ".previous")
    stand_in = beside(path, f".{os.getpid()}.previous", hidden=True)
    with contextlib.suppress(FileNotFoundError):
        os.unlink(stand_in)
    try:
        os.link(path, stand_in, follow_symlinks=False)
    except OSError:
        replace_file(previous, path.read_bytes())
        return
    os.replace(stand_in, previous)
