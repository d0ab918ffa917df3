"""A large surface cut into cells, so that what is far from a piece costs nothing; the cut can be kept beside
a job and read back.

What is kept is only ever a saving of time: it is named by the digest of the mesh that it was cut from,
anything wrong with it means that it is cut anew, and it may be thrown away at will.
"""

from __future__ import annotations

import contextlib
import io
import threading
import zipfile
from collections import OrderedDict
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from nimble_cradle.geometry.inside import Whole
from nimble_cradle.geometry.pose import Array
from nimble_cradle.geometry.solids import MeshPart, Triangles

WHOLE = 4000
"""A surface of no more triangles stays in one piece."""
CELL = 140.0
"""Size of a cell, mm."""
MOST_CELLS = 5000
MOST_BYTES = 400_000_000


@dataclass(frozen=True, eq=False)
class Cells:
    """A surface cut up, in the mesh's own frame, mm. vertices (n, 3) and faces (m, 3) stand cell by cell;
    corners are counted within their cell; ends (c, 2): where the vertices and the faces of each cell end.
    closed: whether the mesh was, before it was cut."""

    vertices: Array
    faces: np.ndarray
    ends: np.ndarray
    closed: bool = False

    def parts(self, rotation: Array, at: Array) -> list[MeshPart]:
        """Every cell as a part, the mesh's frame turned by ``rotation`` and standing at ``at`` (3,)."""
        placed = self.vertices @ rotation.T + at
        faces = self.faces.astype(np.int64)
        spans = zip([(0, 0), *self.ends[:-1].tolist()], self.ends.tolist(), strict=True)
        cells = tuple((placed[a:c], faces[b:d]) for (a, b), (c, d) in spans)
        whole = Whole(cells) if self.closed else None
        return [MeshPart(v, f, whole, whole is not None and k == 0) for k, (v, f) in enumerate(cells)]

    @property
    def sound(self) -> bool:
        """Whether it is a surface cut up at all."""
        v, f, e = self.vertices, self.faces, self.ends
        if not (
            v.ndim == f.ndim == e.ndim == 2
            and v.shape[1] == f.shape[1] == 3
            and e.shape[1] == 2
            and len(e)
            and v.dtype.kind == "f"
            and f.dtype.kind == e.dtype.kind == "i"
        ):
            return False
        sizes = np.diff(e, axis=0, prepend=np.zeros((1, 2), dtype=e.dtype))
        if (sizes <= 0).any() or tuple(e[-1]) != (len(v), len(f)) or not np.isfinite(v).all():
            return False
        return bool((f >= 0).all() and (f.max(1) < np.repeat(sizes[:, 0], sizes[:, 1])).all())


def cut(vertices: Array, faces: Triangles) -> Cells:
    """A surface cut into cells of CELL mm, or larger ones where it is so scattered that they would be too
    many."""
    middle = vertices[faces].mean(1)
    size = max(CELL, float(np.ptp(middle, axis=0).max()) / 2**19)
    while True:
        cell = np.floor((middle - middle.min(0)) / size).astype(np.int64)
        used_, number = np.unique((cell[:, 0] << 40) | (cell[:, 1] << 20) | cell[:, 2], return_inverse=True)
        if len(used_) <= MOST_CELLS:
            break
        size *= 2
    order = np.argsort(number, kind="stable")
    number = number[order]
    used, corner = np.unique(number[:, None] * len(vertices) + faces[order], return_inverse=True)
    counts = np.arange(1, number[-1] + 2)
    ends = np.column_stack([np.searchsorted(used, counts * len(vertices)), np.searchsorted(number, counts)])
    first = np.concatenate([[0], ends[:-1, 0]])
    return Cells(
        vertices[used % len(vertices)],
        (corner.reshape(-1, 3) - first[number][:, None]).astype(np.int32),
        ends,
        MeshPart(vertices, faces).closed,
    )


_lock = threading.Lock()
_known: OrderedDict[str, Cells] = OrderedDict()
_MOST = 12


def cells_of(digest: str, read: Callable[[], tuple[Array, Triangles]]) -> Cells:
    """The cells of the mesh with that digest; ``read`` gives the mesh where they are not known yet."""
    with _lock:
        found = _known.get(digest)
    if found is None:
        found = cut(*read())
        remember({digest: found})
    return found


def remember(cells: Mapping[str, Cells]) -> None:
    """Cells by the digest of their mesh, so that these need not be cut."""
    with _lock:
        _known.update(cells)
        while len(_known) > _MOST:
            _known.popitem(last=False)


def packed(digests: Iterable[str]) -> bytes:
    """Those of some meshes' cells that are known, as a NumPy archive; empty where there are none."""
    with _lock:
        found = {d: _known[d] for d in digests if d in _known}
    if not found:
        return b""
    arrays: dict[str, np.ndarray] = {}
    for digest, c in found.items():
        short = c.vertices.astype(np.float32)
        arrays |= {
            f"{digest}.vertices": short if np.array_equal(short, c.vertices) else c.vertices,
            f"{digest}.faces": c.faces,
            f"{digest}.ends": c.ends,
            f"{digest}.closed": np.array(c.closed),
        }
    out = io.BytesIO()
    np.savez(out, allow_pickle=False, **arrays)
    return out.getvalue()


def unpacked(data: bytes) -> dict[str, Cells]:
    """What ``packed`` gave; nothing of it that is not whole."""
    out = {}
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            if sum(i.file_size for i in archive.infolist()) > MOST_BYTES:
                return {}
        with np.load(io.BytesIO(data), allow_pickle=False) as arrays:
            for digest in {name.partition(".")[0] for name in arrays.files}:
                found = Cells(
                    arrays[f"{digest}.vertices"].astype(float),
                    arrays[f"{digest}.faces"],
                    arrays[f"{digest}.ends"],
                    bool(arrays[f"{digest}.closed"]),
                )
                if found.sound:
                    out[digest] = found
    except (
        zipfile.BadZipFile,
        ValueError,
        KeyError,
        OSError,
        EOFError,
        NotImplementedError,
        RuntimeError,
        MemoryError,
    ):
        return out
    return out


def beside(job_file: Path) -> Path:
    """Where the cells of a job's scans are kept."""
    return job_file.with_name(f"{job_file.name}.cells")


def fetch(job_file: Path) -> int:
    """Take up the cells that are kept beside a job; how many meshes they are of."""
    try:
        found = unpacked(beside(job_file).read_bytes())
    except OSError:
        return 0
    remember(found)
    return len(found)


def keep(job_file: Path, digests: Iterable[str]) -> None:
    """Keep the cells of some meshes beside a job, as far as they are known; where that cannot be done
    nothing is lost but time."""
    place, there = beside(job_file), set[str]()
    with contextlib.suppress(OSError, zipfile.BadZipFile), zipfile.ZipFile(place) as archive:
        there = {name.partition(".")[0] for name in archive.namelist()}
    with _lock:
        wanted = {d for d in digests if d in _known}
    if wanted == there:
        return
    with contextlib.suppress(OSError):
        if not wanted:
            place.unlink(missing_ok=True)
            return
        part = place.with_name(f"{place.name}.part")
        part.write_bytes(packed(wanted))
        part.replace(place)
