"""The job file ``name.cradle``: a ZIP read with limits and written so that a pulled plug never costs a job.

Save: temporary file in the same folder, fsync, the last save kept as ``name.cradle.previous``, rename,
fsync of the folder.
"""

from __future__ import annotations

import contextlib
import hashlib
import json
import os
import re
import zipfile
import zlib
from dataclasses import dataclass
from pathlib import Path
from typing import Any
from weakref import WeakValueDictionary

from pydantic import ValidationError

from nimble_cradle.job.base import JobError
from nimble_cradle.job.job import SCHEMA, Job, MeshFile, all_faults
from nimble_cradle.job.migrate import migrate

MOST_ENTRIES = 2000
MOST_JSON = 20_000_000
MOST_LOG = 50_000_000
MOST_FILE = 512_000_000
MOST_TOTAL = 2_000_000_000
_ALLOWED = re.compile(
    r"job\.json|log\.jsonl|(?:meshes|photos)/[A-Za-z0-9][A-Za-z0-9_.-]{0,79}|(?:meshes|photos)/"
)
_FIXED_TIME = (2020, 1, 1, 0, 0, 0)
_OPEN: WeakValueDictionary[tuple[Any, ...], Job] = WeakValueDictionary()
"""Jobs in use, by the bytes that they were read from: the same bytes opened again are the same value, and
whatever is remembered of it holds."""


@dataclass(frozen=True)
class Opened:
    """A job as read from a file. ``digest`` names the bytes of job.json; ``read_only`` says why where it
    must not be saved."""

    job: Job
    log: tuple[dict[str, Any], ...]
    photos: tuple[tuple[str, bytes], ...]
    digest: str
    read_only: str = ""
    migrated_from: int | None = None


def job_text(job: Job) -> str:
    """job.json as a person can read it: keys in the model's order, two spaces, points on one line."""
    text = json.dumps(job.model_dump(mode="json", by_alias=True), indent=2, ensure_ascii=False)
    number = r"-?\d+(?:\.\d+)?(?:e[+-]?\d+)?"
    text = re.sub(
        rf"\[\s+({number}(?:,\s+{number})*)\s+\]", lambda m: "[" + re.sub(r"\s+", " ", m[1]) + "]", text
    )
    return text + "\n"


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
            if name not in meshes:
                raise JobError(f"The mesh “{name}” is listed in job.json but not in the file.", "meshes")
            found = MeshFile.of(name, meshes[name])
            if entry.get("sha256") not in (None, found.sha256):
                raise JobError(
                    f"The mesh “{name}” is not the one this job was saved with (its sum differs).", "meshes"
                )
            filled.append(found)
        data = {**data, "meshes": filled}
    try:
        return Job.model_validate(data)
    except ValidationError as error:
        raise all_faults(error, data) from None


def _entries(archive: zipfile.ZipFile, path: Path) -> dict[str, zipfile.ZipInfo]:
    """Names and sizes, checked against the limits before anything is unpacked. Raises JobError."""
    infos = archive.infolist()
    if len(infos) > MOST_ENTRIES:
        raise JobError(f"{path.name} holds {len(infos)} entries; a job holds at most {MOST_ENTRIES}.")
    total = 0
    out: dict[str, zipfile.ZipInfo] = {}
    for info in infos:
        plain = info.compress_type in (zipfile.ZIP_STORED, zipfile.ZIP_DEFLATED) and not info.flag_bits & 1
        if not plain or not _ALLOWED.fullmatch(info.filename) or info.filename in out:
            raise JobError(f"{path.name} is not a job of this program: it holds “{info.filename[:60]}”.")
        limit = {"job.json": MOST_JSON, "log.jsonl": MOST_LOG}.get(info.filename, MOST_FILE)
        total += info.file_size
        if info.file_size > limit or total > MOST_TOTAL:
            raise JobError(f"{path.name}: “{info.filename}” is too large ({info.file_size / 1e6:.0f} MB).")
        out[info.filename] = info
    return out


def _parse_json(text: bytes, path: Path) -> Any:
    try:
        return json.loads(text.decode("utf-8"))
    except UnicodeDecodeError:
        raise JobError(f"{path.name}: job.json is not text.") from None
    except json.JSONDecodeError as error:
        raise JobError(
            f"{path.name}: job.json stops making sense at line {error.lineno}, column {error.colno}:"
            f" {error.msg}."
        ) from None
    except RecursionError:
        raise JobError(f"{path.name}: job.json is nested too deep to be a job.") from None


def _log_lines(text: bytes) -> tuple[dict[str, Any], ...]:
    rows = []
    for line in text.decode("utf-8", "replace").splitlines():
        with contextlib.suppress(json.JSONDecodeError, RecursionError):
            row = json.loads(line)
            if isinstance(row, dict):
                rows.append(row)
    return tuple(rows)


def _build(
    path: Path, text: bytes, meshes: dict[str, bytes], log: bytes, photos: tuple[tuple[str, bytes], ...]
) -> Opened:
    data = _parse_json(text, path)
    schema = data.get("schema") if isinstance(data, dict) else None
    if not isinstance(schema, int) or isinstance(schema, bool) or schema < 1:
        raise JobError(
            f"{path.name}: job.json has no schema number, so it is not a job of this program.", "schema"
        )
    read_only = ""
    migrated = None
    if schema > SCHEMA:
        read_only = (
            f"it was saved by a newer Nimble Cradle (schema {schema}, this one knows {SCHEMA}); it opens to"
            " look at only"
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
    return Opened(job, _log_lines(log), photos, digest, read_only, migrated)


def _known_fields(data: dict[str, Any]) -> dict[str, Any]:
    """A newer job's top-level fields that this program knows; deeper unknown names still refuse the file
    by name."""
    known = {f.alias or name for name, f in Job.model_fields.items()}
    return {key: value for key, value in data.items() if key in known}


def read(path: Path) -> Opened:
    """Read a ``.cradle`` file, or a folder laid out like one. Raises JobError with one sentence."""
    if path.is_dir():
        return _read_folder(path)
    try:
        with zipfile.ZipFile(path) as archive:
            entries = _entries(archive, path)
            if "job.json" not in entries:
                raise JobError(f"{path.name} is not a job of this program: it has no job.json.")
            parts = {name: _take(archive, info) for name, info in entries.items() if not name.endswith("/")}
    except FileNotFoundError:
        raise JobError(f"There is no file {path}.") from None
    except IsADirectoryError:
        raise JobError(f"{path} is a folder.") from None
    except PermissionError:
        raise JobError(f"{path.name} may not be read by you.") from None
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
        kept = path.with_name(path.name + ".previous")
        hint = f" The save before it is kept as {kept.name}." if kept.exists() else ""
        raise JobError(
            f"{path.name} is damaged or not a job of this program: it cannot be unpacked.{hint}"
        ) from None
    meshes = {n.split("/", 1)[1]: b for n, b in parts.items() if n.startswith("meshes/")}
    photos = tuple((n.split("/", 1)[1], b) for n, b in sorted(parts.items()) if n.startswith("photos/"))
    return _build(path, parts["job.json"], meshes, parts.get("log.jsonl", b""), photos)


def _take(archive: zipfile.ZipFile, info: zipfile.ZipInfo) -> bytes:
    """Unpack one entry, never more than it said it holds (a lying header is cut off and refused)."""
    with archive.open(info) as stream:
        data = stream.read(info.file_size + 1)
    if len(data) != info.file_size:
        raise zipfile.BadZipFile("sizes differ")
    return data


def _read_folder(path: Path) -> Opened:
    text = path / "job.json"
    if not text.is_file():
        raise JobError(f"{path} is a folder without a job.json.")
    meshes = {p.name: p.read_bytes() for p in sorted((path / "meshes").glob("*")) if p.is_file()}
    log = path / "log.jsonl"
    return _build(path, text.read_bytes(), meshes, log.read_bytes() if log.is_file() else b"", ())


def write(
    path: Path, job: Job, log: tuple[dict[str, Any], ...] = (), photos: tuple[tuple[str, bytes], ...] = ()
) -> str:
    """Write the job to ``path`` and give the digest of its job.json. Raises JobError; the old file then
    still stands."""
    text = job_text(job).encode()
    temporary = path.with_name(f".{path.name}.{os.getpid()}.saving")
    try:
        with open(temporary, "wb") as stream:
            with zipfile.ZipFile(stream, "w", zipfile.ZIP_DEFLATED) as archive:
                _put(archive, "job.json", text)
                _put(
                    archive,
                    "log.jsonl",
                    "".join(json.dumps(row, ensure_ascii=False) + "\n" for row in log).encode(),
                )
                for mesh in job.meshes:
                    _put(archive, f"meshes/{mesh.name}", mesh.data)
                for name, data in photos:
                    _put(archive, f"photos/{name}", data)
            stream.flush()
            os.fsync(stream.fileno())
        if path.exists():
            _keep_previous(path)
        os.replace(temporary, path)
        sync_folder(path.parent)
    except OSError as error:
        with contextlib.suppress(OSError):
            temporary.unlink()
        raise JobError(
            f"{path.name} could not be saved: {error.strerror or error}. The last save still stands."
        ) from None
    return hashlib.sha256(text).hexdigest()


def _put(archive: zipfile.ZipFile, name: str, data: bytes) -> None:
    info = zipfile.ZipInfo(name, _FIXED_TIME)
    info.compress_type = zipfile.ZIP_DEFLATED
    info.external_attr = 0o644 << 16
    archive.writestr(info, data)


def _keep_previous(path: Path) -> None:
    """Give the present save a second name, so that there is never a moment without a whole file under
    ``path``."""
    previous = path.with_name(path.name + ".previous")
    stand_in = path.with_name(f".{path.name}.{os.getpid()}.previous")
    with contextlib.suppress(FileNotFoundError):
        stand_in.unlink()
    try:
        os.link(path, stand_in)
    except OSError:
        stand_in.write_bytes(path.read_bytes())
    os.replace(stand_in, previous)


def sync_folder(folder: Path) -> None:
    """Make renames in ``folder`` survive a power cut, where the system allows it."""
    with contextlib.suppress(OSError):
        handle = os.open(folder or Path("."), os.O_RDONLY)
        try:
            os.fsync(handle)
        finally:
            os.close(handle)
