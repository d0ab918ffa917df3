"""Files as strangers leave them: only plain ones are read, with a limit; and written so that nothing else is
touched.

A name in a sentence is shortened and holds no letter that cannot be shown.
"""

from __future__ import annotations

import contextlib
import errno
import hashlib
import os
import re
import stat
from pathlib import Path
from typing import IO

from nimble_cradle.errors import JobError

MOST_NAME = 255
"""Bytes that a file's name may have on the usual drives."""
_KINDS = (
    (stat.S_ISDIR, "a folder"),
    (stat.S_ISFIFO, "a pipe"),
    (stat.S_ISSOCK, "a socket"),
    (stat.S_ISCHR, "a device"),
    (stat.S_ISBLK, "a device"),
)
_WHY = {
    errno.EACCES: "you may not",
    errno.EPERM: "you may not",
    errno.EROFS: "its drive is read-only",
    errno.ENOSPC: "the drive is full",
    errno.EDQUOT: "your share of the drive is full",
    errno.EFBIG: "the drive takes no file of that size",
    errno.ENAMETOOLONG: "its name is too long for the drive",
    errno.ELOOP: "it is a link that is not followed",
    errno.EISDIR: "it is a folder",
    errno.ENOTDIR: "its folder is a file",
    errno.ENOENT: "its folder is not there",
    errno.EEXIST: "there is a file of that name",
    errno.EIO: "the drive does not answer",
    errno.ESTALE: "the network drive does not answer",
    errno.ENXIO: "it is no plain file",
}


def printable(text: str, most: int = 60) -> str:
    """A name as a sentence can hold it: short, on one line, without letters that cannot be shown."""
    plain = "".join(c if c.isprintable() else "\ufffd" for c in text)
    return plain if len(plain) <= most else f"{plain[: most // 2]}…{plain[-(most - most // 2 - 1) :]}"


def why(error: OSError) -> str:
    """What the system says, in words."""
    return _WHY.get(error.errno or 0) or str(error.strerror or error)


def real(path: Path) -> Path:
    """The file itself, where ``path`` is a link to it."""
    with contextlib.suppress(OSError, RuntimeError, ValueError):
        return Path(os.path.realpath(path))
    return path


def beside(path: Path, ending: str, hidden: bool = False) -> Path:
    """The name of what is kept beside a file: its own name and ``ending``, cut short and told apart by its
    sum where the drive would not take it."""
    name = f"{'.' if hidden else ''}{path.name}{ending}"
    raw = os.fsencode(name)
    if len(raw) > MOST_NAME:
        mark = f"~{hashlib.sha256(os.fsencode(path.name)).hexdigest()[:10]}{ending}"
        raw = raw[: MOST_NAME - len(os.fsencode(mark))]
        name = raw.decode("utf-8", "ignore") + mark
    return path.with_name(name)


def open_plain(path: Path, flags: int = os.O_RDONLY, follow: bool = True) -> int:
    """A file descriptor of a plain file; never waits for one that is none. Raises OSError, and JobError where
    it is a folder, a pipe, a socket or a device."""
    flags |= os.O_NONBLOCK | os.O_CLOEXEC | (0 if follow else os.O_NOFOLLOW)
    if "\0" in str(path):
        raise JobError(f"{printable(path.name)} is no name of a file.")
    handle = os.open(path, flags, 0o644)
    kind = os.fstat(handle).st_mode
    if not stat.S_ISREG(kind):
        os.close(handle)
        word = next((word for is_a, word in _KINDS if is_a(kind)), "no plain file")
        raise JobError(f"{printable(path.name)} is {word}, not a file that can be read.")
    return handle


def open_to_read(path: Path) -> IO[bytes]:
    """A plain file to read from. Raises JobError with one sentence."""
    name = printable(path.name)
    try:
        return os.fdopen(open_plain(path), "rb")
    except FileNotFoundError:
        raise JobError(f"There is no file {printable(str(path), 120)}.") from None
    except OSError as error:
        raise JobError(f"{name} cannot be read: {why(error)}.") from None


def read_file(path: Path, most: int) -> bytes:
    """The bytes of a plain file of at most so many. Raises JobError with one sentence."""
    with open_to_read(path) as stream:
        if os.fstat(stream.fileno()).st_size <= most:
            try:
                data = stream.read(most + 1)
            except OSError as error:
                raise JobError(f"{printable(path.name)} cannot be read: {why(error)}.") from None
            if len(data) <= most:
                return data
    raise JobError(f"{printable(path.name)} is too large: at most {most / 1e6:,.0f} MB are read.")


def read_text(path: Path, most: int) -> str:
    """The text of a plain file, UTF-8 or else Latin-1 as older spreadsheets write. Raises JobError."""
    data = read_file(path, most)
    if b"\0" in data:
        if data[:2] in (b"\xff\xfe", b"\xfe\xff"):
            with contextlib.suppress(UnicodeDecodeError):
                return data.decode("utf-16")
        raise JobError(f"{printable(path.name)} is not text.")
    try:
        return data.decode("utf-8-sig")
    except UnicodeDecodeError:
        return data.decode("latin-1")


def there(path: Path) -> bool:
    """Whether the name is taken, a link that leads nowhere included."""
    return os.path.lexists(path)


def write_new(path: Path, data: bytes) -> None:
    """Write a file that was not there, whole and on the disk. Raises OSError, FileExistsError among them."""
    handle = os.open(path, os.O_WRONLY | os.O_CREAT | os.O_EXCL | os.O_NOFOLLOW | os.O_CLOEXEC, 0o644)
    try:
        with os.fdopen(handle, "wb") as stream:
            stream.write(data)
            stream.flush()
            os.fsync(stream.fileno())
    except OSError:
        with contextlib.suppress(OSError):
            os.unlink(path)
        raise


def replace_file(path: Path, data: bytes) -> None:
    """Write a file at once under its name, in place of what stood there. Raises OSError."""
    stand_in = beside(path, f".{os.getpid()}.part", hidden=True)
    with contextlib.suppress(FileNotFoundError):
        os.unlink(stand_in)
    write_new(stand_in, data)
    try:
        os.replace(stand_in, path)
    except OSError:
        with contextlib.suppress(OSError):
            os.unlink(stand_in)
        raise
    sync_folder(path.parent)


def sync_folder(folder: Path) -> None:
    """Make renames in ``folder`` survive a power cut, where the system allows it."""
    with contextlib.suppress(OSError):
        handle = os.open(folder or Path("."), os.O_RDONLY | os.O_DIRECTORY | os.O_CLOEXEC)
        try:
            os.fsync(handle)
        finally:
            os.close(handle)


_LITTER = re.compile(r"\.(\d{1,10})\.(?:part|saving|previous)$")


def sweep(path: Path) -> None:
    """Take away what a killed save of this file left beside it (of processes that are no more)."""
    start, mark = f".{path.name}.", f"~{hashlib.sha256(os.fsencode(path.name)).hexdigest()[:10]}."
    with contextlib.suppress(OSError):
        for entry in os.scandir(path.parent):
            found = _LITTER.search(entry.name)
            if (
                (entry.name.startswith(start) or mark in entry.name)
                and found is not None
                and not _runs(int(found[1]))
            ):
                with contextlib.suppress(OSError):
                    os.unlink(entry.path)


def _runs(process: int) -> bool:
    try:
        os.kill(process, 0)
    except ProcessLookupError:
        return False
    except OSError:
        return True
    return process != os.getpid()


_FORMULA = re.compile(r"'*[=+\-@\t\r]")
_FIGURE = re.compile(r"[-+]?[\d.,]+(?: ?[A-Za-z\"/ ]{0,12})?")


def cell(value: object) -> object:
    """A value for a table that other programs open: text that they would take for a formula has an apostrophe
    before it."""
    formula = isinstance(value, str) and _FORMULA.match(value) and not _FIGURE.fullmatch(value)
    return f"'{value}" if formula else value


def from_cell(text: str) -> str:
    """The text of a cell as ``cell`` was given it."""
    return text[1:] if text[:1] == "'" and _FORMULA.match(text[1:]) else text


def data_folder() -> Path:
    """The user's folder for what the program keeps beside the jobs."""
    base = os.environ.get("XDG_DATA_HOME")
    try:
        return Path(base or Path.home() / ".local" / "share") / "nimble-cradle"
    except RuntimeError:  # a user without a home
        return Path(os.devnull) / "nimble-cradle"
