"""How large surfaces are cut up, kept in the user's own cache folder, never beside a job, and read back.

What is kept is only ever a saving of time: it is named by the digest of the mesh that it was cut from and
compared with that mesh, anything wrong with it means that it is cut anew, and it may be thrown away at will.
"""

from __future__ import annotations

import contextlib
import io
import os
import threading
import zipfile
import zlib
from collections import OrderedDict
from collections.abc import Callable, Mapping
from pathlib import Path

import numpy as np

from nimble_cradle.errors import JobError
from nimble_cradle.files import read_file, replace_file
from nimble_cradle.geometry.cells import Cells, agree, cut
from nimble_cradle.geometry.pose import Array
from nimble_cradle.geometry.solids import Triangles

MOST_BYTES = 400_000_000
"""A kept cutting that is larger is not read."""
MOST_KEPT = 30
"""Meshes whose cells are kept on the disk."""
_lock = threading.Lock()
_known: OrderedDict[str, Cells] = OrderedDict()
_MOST = 12
"""Cuttings kept in memory; the oldest is let go."""


def cells_of(digest: str, read: Callable[[], tuple[Array, Triangles]]) -> Cells:
    """The cells of the mesh with that digest, as they are known or kept, else cut anew; ``read`` gives the
    mesh."""
    with _lock:
        found = _known.get(digest)
    if found is None:
        mesh = read()
        found = _fetched(digest, *mesh)
        if found is None:
            found = cut(*mesh)
        remember({digest: found})
    return found


def remember(cells: Mapping[str, Cells]) -> None:
    """Cells by the digest of their mesh, so that these need not be cut."""
    with _lock:
        _known.update(cells)
        while len(_known) > _MOST:
            _known.popitem(last=False)


def packed(found: Cells) -> bytes:
    """Cells as a NumPy archive."""
    short = found.vertices.astype(np.float32)
    out = io.BytesIO()
    np.savez(
        out,
        vertices=short if np.array_equal(short, found.vertices) else found.vertices,
        faces=found.faces,
        ends=found.ends,
        closed=np.array(found.closed),
    )
    return out.getvalue()


def unpacked(data: bytes) -> Cells | None:
    """What ``packed`` gave; None where it is not whole."""
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            if sum(i.file_size for i in archive.infolist()) > MOST_BYTES:
                return None
        with np.load(io.BytesIO(data), allow_pickle=False) as arrays:
            found = Cells(
                arrays["vertices"].astype(float), arrays["faces"], arrays["ends"], bool(arrays["closed"])
            )
        return found if found.sound else None
    except (
        zipfile.BadZipFile,
        zlib.error,
        ValueError,
        TypeError,
        KeyError,
        OSError,
        EOFError,
        NotImplementedError,
        RuntimeError,
        MemoryError,
    ):
        return None


def cache_folder() -> Path:
    """The user's folder for what can be made anew; one that is not there, where the user has no home."""
    base = os.environ.get("XDG_CACHE_HOME")
    try:
        return Path(base or Path.home() / ".cache") / "nimble-cradle" / "cells"
    except RuntimeError:
        return Path(os.devnull) / "cells"


def place_of(digest: str) -> Path:
    """Where the cells of a mesh are kept."""
    return cache_folder() / f"{digest}.npz"


def _fetched(digest: str, vertices: Array, faces: Triangles) -> Cells | None:
    """The cells of a mesh that are kept, where they are its own; what is there and is not right is taken
    away."""
    place = place_of(digest)
    try:
        found = unpacked(read_file(place, MOST_BYTES))
    except JobError:
        return None
    if found is not None and agree(found, vertices, faces):
        with contextlib.suppress(OSError):
            os.utime(place)
        return found
    with contextlib.suppress(OSError):
        place.unlink()
    return None


def keep(digest: str) -> None:
    """Keep the cells of a mesh, where they are known; where that cannot be done nothing is lost but time. The
    oldest go when there are too many."""
    with _lock:
        found = _known.get(digest)
    place = place_of(digest)
    if found is None or place.exists():
        return
    with contextlib.suppress(OSError):
        place.parent.mkdir(parents=True, exist_ok=True)
        replace_file(place, packed(found))
        rest = sorted(place.parent.glob("*.npz"), key=lambda p: p.stat().st_mtime, reverse=True)
        for old in rest[MOST_KEPT:]:
            old.unlink()
