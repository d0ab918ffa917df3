"""Jobs read from a file or a folder, with limits first."""

from __future__ import annotations

import hashlib
import json
import os
import re
import zipfile
import zlib
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import IO, Any
from weakref import WeakValueDictionary

import numpy as np
from pydantic import ValidationError

from nimble_cradle.files import beside, open_to_read, printable, read_file, why
from nimble_cradle.job.base import JobError
from nimble_cradle.job.job import SCHEMA, Job, MeshFile, all_faults
from nimble_cradle.job.migrate import migrate

MOST_ENTRIES = 2000
"""Files in a job file: four times the photos that it may hold."""
MOST_JSON = 20_000_000
"""Bytes of the job itself: two hundred times that of the hatchback demo."""
MOST_LOG = 50_000_000
"""Bytes of the logbook: a hundred thousand rows of half a kilobyte."""
MOST_ROWS = 100_000
"""So many rows of the logbook are read and written; older ones are counted."""
MOST_FILE = 512_000_000
"""Bytes of one photo or mesh once it is unpacked."""
MOST_TOTAL = 2_000_000_000
"""Bytes of all together: read whole into memory, as much as a small computer has to spare."""
LEAST_TOTAL, MOST_PACKED = 300_000_000, 8
"""What a file holds may come to so much in any case, and to so many times its own size."""
MOST_LISTED = 2_000_000
"""Bytes of an archive's own list of what is in it."""
MOST_DEPTH = 200
"""Brackets within brackets in job.json; a job has about ten."""
MOST_VALUES = 1_000_000
"""Values in job.json; a large job has some ten thousand."""
_ALLOWED = re.compile(
    r"job\.json|log\.jsonl|(?:meshes|photos)/[A-Za-z0-9][A-Za-z0-9_.-]{0,79}|(?:meshes|photos)/"
)
_OPEN: WeakValueDictionary[tuple[Any, ...], Job] = WeakValueDictionary()
"""Jobs in use, by the bytes that they were read from: the same bytes opened again are the same value, and
whatever is remembered of it holds."""
Row = dict[str, Any]


@dataclass(frozen=True)
class Opened:
    """A job as read from a file. ``digest`` names all that was in it (job, logbook, photographs),
    ``job_digest`` the bytes of job.json; ``read_only`` says why where it must not be saved."""

    job: Job
    log: tuple[Row, ...]
    photos: tuple[tuple[str, bytes], ...]
    digest: str
    job_digest: str
    read_only: str = ""
    migrated_from: int | None = None


def job_from_data(data: Any, meshes: dict[str, bytes]) -> Job:
    """A job from parsed job.json and its meshes by name. Raises JobError with the place of the first
    fault."""
    if not isinstance(data, dict):
        raise JobError(
            "job.json does not hold a job: it should be an object with a name, a vehicle and a powertrain."
        )
    listed = data.get("meshes", [])
    if isinstance(listed, list):
        filled = []
        for entry in listed:
            entry = dict(entry) if isinstance(entry, dict) else {}
            name = str(entry.get("name", ""))
            shown = printable(name, 80)
            if name not in meshes:
                raise JobError(f"The mesh “{shown}” is listed in job.json but not in the file.", "meshes")
            found = MeshFile.of(name, meshes[name])
            if entry.get("sha256") not in (None, found.sha256):
                raise JobError(
                    f"The mesh “{shown}” is not the one this job was saved with (its sum differs).", "meshes"
                )
            filled.append(found)
        data = {**data, "meshes": filled}
    try:
        return Job.model_validate(data)
    except ValidationError as error:
        raise all_faults(error, data) from None
    except (OverflowError, RecursionError):
        raise JobError("job.json holds a number that is too large for anything in a car.") from None


def _check_list(stream: IO[bytes], name: str) -> int:
    """Refuse an archive whose list of contents is larger than any job's, before that is read; gives the size
    of the archive. Raises JobError."""
    size = os.fstat(stream.fileno()).st_size
    stream.seek(max(0, size - 66_000))
    tail = stream.read()
    at = tail.rfind(b"PK\5\6")
    if at >= 0 and len(tail) >= at + 22 and int.from_bytes(tail[at + 12 : at + 16], "little") > MOST_LISTED:
        raise JobError(f"{name} holds more entries than any job (at most {MOST_ENTRIES}).")
    stream.seek(0)
    return size


def _entries(archive: zipfile.ZipFile, name: str, packed: int) -> dict[str, zipfile.ZipInfo]:
    """Names and sizes, checked against the limits before anything is unpacked. packed: size of the archive.
    Raises JobError."""
    most = min(MOST_TOTAL, max(LEAST_TOTAL, MOST_PACKED * packed))
    infos = archive.infolist()
    if len(infos) > MOST_ENTRIES:
        raise JobError(f"{name} holds {len(infos)} entries; a job holds at most {MOST_ENTRIES}.")
    total = 0
    out: dict[str, zipfile.ZipInfo] = {}
    for info in infos:
        plain = info.compress_type in (zipfile.ZIP_STORED, zipfile.ZIP_DEFLATED) and not info.flag_bits & 1
        if not plain or not _ALLOWED.fullmatch(info.filename) or info.filename in out:
            raise JobError(f"{name} is not a job of this program: it holds “{printable(info.filename)}”.")
        limit = {"job.json": MOST_JSON, "log.jsonl": MOST_LOG}.get(info.filename, MOST_FILE)
        total += info.file_size
        if info.file_size > limit or total > most:
            raise JobError(
                f"{name}: “{info.filename}” is too large ({info.file_size / 1e6:.0f} MB, {total / 1e6:.0f}"
                " with what is before it)."
            )
        out[info.filename] = info
    return out


def _check_size(text: bytes, name: str) -> None:
    """Refuse what would cost far more to read than any job does, before it is read. Raises JobError."""
    letters = np.frombuffer(text, dtype=np.uint8)
    opens = (letters == ord("[")) | (letters == ord("{"))
    closes = (letters == ord("]")) | (letters == ord("}"))
    values = int(opens.sum()) + int((letters == ord(",")).sum())
    if values > MOST_VALUES:
        raise JobError(f"{name}: job.json holds {values:,} values; a job holds at most {MOST_VALUES:,}.")
    depth = np.cumsum(opens.view(np.int8) - closes.view(np.int8), dtype=np.int32)
    if len(depth) and depth.max() > MOST_DEPTH:  # brackets in names are counted too
        raise JobError(f"{name}: job.json is nested too deep to be a job.")


def _parse_json(text: bytes, name: str) -> Any:
    _check_size(text, name)
    try:
        return json.loads(text.decode("utf-8-sig"))
    except UnicodeDecodeError:
        raise JobError(f"{name}: job.json is not text.") from None
    except json.JSONDecodeError as error:
        raise JobError(
            f"{name}: job.json stops making sense at line {error.lineno}, column {error.colno}: {error.msg}."
        ) from None
    except RecursionError:
        raise JobError(f"{name}: job.json is nested too deep to be a job.") from None
    except ValueError:  # a whole number of thousands of digits
        raise JobError(f"{name}: job.json holds a number of more digits than any figure has.") from None


def whole_lines(text: bytes) -> Iterator[bytes]:
    """The lines of a file of rows: they end at a line feed and at nothing else."""
    start = 0
    while (end := text.find(b"\n", start)) >= 0:
        yield text[start:end]
        start = end + 1
    if start < len(text):
        yield text[start:]


def row_of(line: bytes) -> Row | None:
    """One row of a logbook or journal; None for what is none."""
    try:
        row = json.loads(line.decode("utf-8", "replace"))
    except (ValueError, RecursionError):
        return None
    return row if isinstance(row, dict) else None


def line_of(row: Row) -> bytes:
    """A row as its line; half a letter (a lone surrogate) is written by its number."""
    return json.dumps(row, ensure_ascii=False).encode("utf-8", "backslashreplace") + b"\n"


def _log_rows(text: bytes) -> tuple[Row, ...]:
    """The newest rows that say something."""
    older, start = max(0, text.count(b"\n") - MOST_ROWS), 0
    if older:
        start = len(text) if text.endswith(b"\n") else text.rfind(b"\n") + 1
        for _ in range(MOST_ROWS):
            start = text.rfind(b"\n", 0, start - 1) + 1
    rows: list[Row] = []
    for line in whole_lines(text[start:] if start else text):
        row = row_of(line) if len(line) > 2 else None
        if row is not None and isinstance(row.get("what"), str):
            rows.append(row)
    if older:
        rows.insert(0, {"time": "", "what": f"{older:,} older lines of the logbook are left out"})
    return tuple(rows)


def _build(name: str, parts: dict[str, bytes]) -> Opened:
    """A job from its parts by their names in the file."""
    text, log = parts["job.json"], parts.get("log.jsonl", b"")
    meshes = {n.split("/", 1)[1]: b for n, b in parts.items() if n.startswith("meshes/")}
    photos = tuple((n.split("/", 1)[1], b) for n, b in sorted(parts.items()) if n.startswith("photos/"))
    data = _parse_json(text, name)
    schema = data.get("schema") if isinstance(data, dict) else None
    if not isinstance(schema, int) or isinstance(schema, bool) or schema < 1:
        raise JobError(
            f"{name}: job.json has no schema number, so it is not a job of this program.", "schema"
        )
    read_only = ""
    migrated = None
    if schema > SCHEMA:
        read_only = (
            f"it was saved by a newer Nimble Cradle (schema {min(schema, 10**6)}, this one knows {SCHEMA});"
            " it opens to look at only"
        )
        data = _known_fields(data)
    elif schema < SCHEMA:
        migrated, data = schema, migrate(data)
    digest = hashlib.sha256(text).hexdigest()
    key = (digest, *((name, hashlib.sha256(meshes[name]).digest()) for name in sorted(meshes)))
    job = _OPEN.get(key) if migrated is None else None
    if job is None:
        job = job_from_data(data, meshes)
        if migrated is None:
            _OPEN[key] = job
    return Opened(job, _log_rows(log), photos, digest_of(text, log, photos), digest, read_only, migrated)


def _known_fields(data: dict[str, Any]) -> dict[str, Any]:
    """A newer job's top-level fields that this program knows; deeper unknown names still refuse the file
    by name."""
    known = {f.alias or name for name, f in Job.model_fields.items()}
    return {key: value for key, value in data.items() if key in known}


def read(path: Path) -> Opened:
    """Read a ``.cradle`` file, or a folder laid out like one. Raises JobError with one sentence."""
    if os.path.isdir(path):
        return _read_folder(path)
    with open_to_read(path) as stream:
        return read_stream(stream, path)


def read_stream(stream: IO[bytes], path: Path) -> Opened:
    """A job from an open file. Raises JobError."""
    name = printable(path.name, 45)
    try:
        packed = _check_list(stream, name)
        with zipfile.ZipFile(stream) as archive:
            entries = _entries(archive, name, packed)
            if "job.json" not in entries:
                raise JobError(f"{name} is not a job of this program: it has no job.json.")
            parts = {key: _take(archive, info) for key, info in entries.items() if not key.endswith("/")}
    except (
        zipfile.BadZipFile,
        zlib.error,
        EOFError,
        OSError,
        ValueError,
        NotImplementedError,
        RuntimeError,
    ) as error:
        if isinstance(error, JobError):
            raise
        kept = beside(path, ".previous")
        hint = f" The save before it is kept as {printable(kept.name, 45)}." if kept.exists() else ""
        raise JobError(
            f"{name} is damaged or not a job of this program: it cannot be unpacked.{hint}"
        ) from None
    return _build(name, parts)


def _take(archive: zipfile.ZipFile, info: zipfile.ZipInfo) -> bytes:
    """Unpack one entry, never more than it said it holds (a lying header is cut off and refused)."""
    with archive.open(info) as stream:
        data = stream.read(info.file_size + 1)
    if len(data) != info.file_size:
        raise zipfile.BadZipFile("sizes differ")
    return data


def _read_folder(path: Path) -> Opened:
    """A job from a folder; the same limits hold. Raises JobError."""
    name = printable(path.name or str(path))
    try:
        if not (path / "job.json").is_file():
            raise JobError(f"{name} is a folder without a job.json.")
        parts = {"job.json": read_file(path / "job.json", MOST_JSON)}
        if (path / "log.jsonl").is_file():
            parts["log.jsonl"] = read_file(path / "log.jsonl", MOST_LOG)
        total = 0
        for folder in ("meshes", "photos"):
            for file in sorted((path / folder).glob("*")) if (path / folder).is_dir() else ():
                key = f"{folder}/{file.name}"
                if file.is_file() and _ALLOWED.fullmatch(key):
                    parts[key] = read_file(file, min(MOST_FILE, MOST_TOTAL - total))
                    total += len(parts[key])
                if len(parts) > MOST_ENTRIES:
                    raise JobError(f"{name} holds over {MOST_ENTRIES} files; a job holds no more.")
    except OSError as error:
        raise JobError(f"{name} cannot be read: {why(error)}.") from None
    return _build(name, parts)


def digest_of(text: bytes, log: bytes, photos: tuple[tuple[str, bytes], ...]) -> str:
    """What names a save: job.json (which names the meshes by their sums), logbook and photographs."""
    whole = hashlib.sha256(hashlib.sha256(text).digest() + hashlib.sha256(log).digest())
    for name, data in photos:
        whole.update(name.encode() + b"\0" + hashlib.sha256(data).digest())
    return whole.hexdigest()
