"""What a journal gives back after a program was killed."""

from __future__ import annotations

import base64
import binascii
import contextlib
import os
from dataclasses import dataclass, field
from pathlib import Path

from pydantic import ValidationError

from nimble_cradle.files import beside, open_plain, printable, replace_file, there, why, write_new
from nimble_cradle.job.base import JobError
from nimble_cradle.job.job import Job, MeshFile
from nimble_cradle.job.journal import (
    CUT_OFF,
    MOST_BYTES,
    MOST_WORDS,
    PHOTO_STARTS,
    Tried,
    aside_path,
    journal_path,
    now,
)
from nimble_cradle.job.read_archive import Row, line_of, read, row_of
from nimble_cradle.job.store import PHOTO_NAME


@dataclass
class Recovered:
    """What the journal brought back: the job, its photographs, and the logbook's rows. dropped: what could
    not be brought back, in words."""

    job: Job
    photos: dict[str, bytes]
    rows: list[Row] = field(default_factory=list)
    dropped: list[str] = field(default_factory=list)


@dataclass(frozen=True)
class _Line:
    """One edit of a journal: its line as it stands there, what it says, and whether it was judged."""

    line: bytes
    row: Row
    judged: bool = True


def recover(
    path: Path, job: Job, photos: dict[str, bytes], digests: tuple[str, ...], tried: Tried | None = None
) -> Recovered:
    """Replay the journal of ``path`` on the job as saved.

    digests: of the save, by which its journal knows it. tried: asked of edits that no verdict came back for;
    one that it cannot live through is left out. A line that was cut off is dropped, one that does not apply
    is put in ``….journal-aside``, and the others stand. A journal of another save is renamed
    ``….journal-old``. Raises JobError where a journal is there that cannot be read.
    """
    out = Recovered(job, dict(photos))
    where = journal_path(path)
    if not there(where):
        return out
    lines, torn = _lines(where)
    if not lines:  # killed while its first line was being written
        out.dropped += [CUT_OFF] if torn else []
        with contextlib.suppress(OSError):
            os.unlink(where)
        return out
    start = max((k for k, row in enumerate(lines) if row.row.get("base") in digests), default=None)
    if start is None:
        set_aside(path)
        return out
    edits = _edits(lines[start + 1 :])
    aside: list[bytes] = []
    taken: list[_Line] = []
    for edit in edits:
        try:
            _apply(out, edit.row)
            taken.append(edit)
        except (JobError, ValidationError, KeyError, TypeError, ValueError, OverflowError) as error:
            aside.append(edit.line)
            out.dropped.append(f"{_words(edit.row)}, which does not apply ({_short(error)})")
    if tried is not None and any(not e.judged for e in taken) and tried(out.job):
        out, taken = _tried_one_by_one(job, photos, taken, tried, aside, out.dropped)
    if torn:
        out.dropped.append(CUT_OFF)
    if aside:
        _keep_aside(path, aside)
    if torn or aside or start:
        rows = [line_of({"base": lines[start].row["base"]}), *(e.line + b"\n" for e in taken)]
        replace_file(where, b"".join([*rows, line_of({"judged": True})]))
    return out


def _lines(where: Path) -> tuple[list[_Line], bool]:
    """The whole lines of a journal, and whether its last one was cut off. Raises JobError."""
    name = printable(where.name)
    try:
        handle = open_plain(where, follow=False)
    except OSError as error:
        raise JobError(f"{name} cannot be read: {why(error)}.") from None
    with os.fdopen(handle, "rb") as stream:
        if os.fstat(handle).st_size > MOST_BYTES:
            raise JobError(f"{name} is larger than any journal.")
        out: list[_Line] = []
        for line in stream:  # ended by a line feed and by nothing else
            if not line.endswith(b"\n"):
                return out, True
            row = row_of(line[:-1])
            out.append(_Line(line[:-1], row if row is not None else {"what": "a line that makes no sense"}))
    return out, False


def _edits(lines: list[_Line]) -> list[_Line]:
    """The edits among some lines, each with whether a verdict came back after it."""
    out: list[_Line] = []
    judged = False
    for line in reversed(lines):
        if "judged" in line.row:
            judged = True
        elif "base" not in line.row:
            out.append(_Line(line.line, line.row, judged))
    return out[::-1]


def _apply(out: Recovered, row: Row) -> None:
    """One edit on what was brought back so far; nothing of it where it does not apply."""
    parts = dict(row["set"])
    pictures = {name: base64.b64decode(text) for name, text in dict(parts.pop("photo bytes", {})).items()}
    for name, data in pictures.items():
        if not PHOTO_NAME.fullmatch(name) or not data.startswith(PHOTO_STARTS):
            raise JobError(f"“{printable(str(name))}” is no photograph")
    fresh = {name: base64.b64decode(text) for name, text in dict(parts.pop("mesh bytes", {})).items()}
    if parts:
        out.job = with_parts(out.job, parts, fresh)
    out.photos |= pictures
    out.rows.append({"time": str(row.get("time", ""))[:40], "what": str(row.get("what", ""))[:MOST_WORDS]})


def with_parts(job: Job, parts: Row, fresh: dict[str, bytes]) -> Job:
    """The job with top-level parts, by their names in the file, replaced by plain data. fresh: bytes of
    meshes that it did not have. Raises JobError, ValidationError; what is not replaced is shared."""
    names = {f.alias or name: name for name, f in Job.model_fields.items()}
    unknown = [key for key in parts if key not in names]
    if unknown:
        raise JobError(f"“{printable(unknown[0])}” is no part of a job")
    values = {alias: getattr(job, name) for alias, name in names.items()}
    values |= parts
    if "meshes" in parts:
        had = {(mesh.name, mesh.sha256): mesh for mesh in job.meshes}
        values["meshes"] = [_mesh(had, fresh, dict(entry)) for entry in parts["meshes"]]
    made = Job.model_validate(values)
    for alias, name in names.items():
        if alias not in parts:
            made.__dict__[name] = getattr(job, name)
    return made


def _mesh(had: dict[tuple[str, str], MeshFile], fresh: dict[str, bytes], entry: Row) -> MeshFile:
    name = str(entry.get("name"))
    found = had.get((name, str(entry.get("sha256"))))
    if found is None:
        found = MeshFile.of(name, fresh[name])
        if found.sha256 != entry.get("sha256"):
            raise JobError(f"the mesh “{printable(name)}” is not the one that is meant")
    return found


def _tried_one_by_one(
    job: Job,
    photos: dict[str, bytes],
    edits: list[_Line],
    tried: Tried,
    aside: list[bytes],
    dropped: list[str],
) -> tuple[Recovered, list[_Line]]:
    """The edits again, each that was not judged tried; those that cannot be lived through are left out."""
    out = Recovered(job, dict(photos), dropped=dropped)
    taken: list[_Line] = []
    for edit in edits:
        before = Recovered(out.job, dict(out.photos), list(out.rows), out.dropped)
        try:
            _apply(out, edit.row)
        except (JobError, ValidationError, KeyError, TypeError, ValueError, OverflowError) as error:
            aside.append(edit.line)
            out.dropped.append(f"{_words(edit.row)}, which does not apply ({_short(error)})")
            continue
        fault = "" if edit.judged else tried(out.job)
        if fault:
            out = before
            aside.append(edit.line)
            out.dropped.append(f"{_words(edit.row)}, which {fault}")
        else:
            taken.append(edit)
    return out, taken


def _words(row: Row) -> str:
    return f"“{printable(str(row.get('what', 'an edit without words')), 80)}”"


def _short(error: Exception) -> str:
    if isinstance(error, JobError):
        return printable(error.message.rstrip("."), 100)
    return (
        "it is damaged"
        if isinstance(error, binascii.Error | KeyError | TypeError)
        else "its figures cannot be"
    )


def _keep_aside(path: Path, lines: list[bytes]) -> None:
    """Put lines where they are not lost; never through a link."""
    where = aside_path(path)
    data = b"".join(line + b"\n" for line in lines)
    try:
        handle = open_plain(where, os.O_WRONLY | os.O_CREAT | os.O_APPEND, follow=False)
    except (OSError, JobError):
        with contextlib.suppress(OSError):
            write_new(beside(path, f".journal-aside-{now().replace(':', '')}"), data)
        return
    with os.fdopen(handle, "ab") as stream, contextlib.suppress(OSError):
        stream.write(data)


def set_aside(path: Path) -> None:
    """Rename the journal so that it is neither replayed nor lost."""
    where = journal_path(path)
    for n in range(1, 100):
        old = beside(path, f".journal-old{'' if n == 1 else f'-{n}'}")
        if not there(old):
            with contextlib.suppress(FileNotFoundError):
                os.replace(where, old)
            return


def builds_on(path: Path, other: Path) -> bool:
    """Whether the journal of ``path`` builds on the save that is kept as ``other``."""
    try:
        opened = read(other)
        lines, _ = _lines(journal_path(path))
    except (JobError, OSError):
        return False
    digests = opened.digest, opened.job_digest
    return any(line.row.get("base") in digests for line in lines)
