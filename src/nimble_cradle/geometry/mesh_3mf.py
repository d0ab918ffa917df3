"""Meshes in 3MF."""

from __future__ import annotations

import contextlib
import io
import zipfile
import zlib
from array import array
from collections.abc import Callable, Sequence
from typing import Any
from xml.parsers import expat

import numpy as np

from nimble_cradle.geometry.mesh_limits import (
    MOST_MODEL,
    MOST_POINTS,
    MOST_THINGS,
    MOST_TRIANGLES,
    Faces,
    Points,
    Read,
    Told,
    too_many,
)


def _model(
    data: bytes, start: Callable[[str, dict[str, str]], None], check: Callable[[], None] = lambda: None
) -> None:
    """Read the model part of a 3MF archive as a stream, element by element; ``check`` is asked after each
    million bytes. Raises ValueError."""
    parser = expat.ParserCreate()
    parser.buffer_text = True

    def no_entities(*_: Any) -> None:
        raise ValueError

    parser.EntityDeclHandler = no_entities
    parser.StartElementHandler = start
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            part = next(i for i in archive.infolist() if i.filename.lower().endswith(".model"))
            if part.file_size > MOST_MODEL:
                raise Told(f"unpacks to {part.file_size / 1e6:,.0f} MB; that is more than is read")
            if part.file_size > 1000 * max(part.compress_size, 1):
                raise Told("unpacks to a thousand times its size, as no mesh does")
            with archive.open(part) as stream:
                done = 0
                while piece := stream.read(1 << 20):
                    done += len(piece)
                    if done > part.file_size:
                        raise ValueError
                    parser.Parse(piece, False)
                    check()
                parser.Parse(b"", True)
    except (
        zipfile.BadZipFile,
        zlib.error,
        StopIteration,
        expat.ExpatError,
        OSError,
        EOFError,
        ValueError,
        NotImplementedError,
        RuntimeError,
        KeyError,
    ) as error:
        raise error if isinstance(error, Told) else ValueError("could not be read as 3MF") from None


class _Parts:
    """Objects of a 3MF and where they are built, as its elements come by."""

    def __init__(self) -> None:
        self.points: dict[str, array[float]] = {}
        self.faces: dict[str, array[int]] = {}
        self.uses: dict[str, list[tuple[str, str]]] = {}
        self.built: list[tuple[str, str]] = []
        self.unit = "millimeter"
        self._here = ""
        self._corners: array[float] = array("d")
        self._triangles: array[int] = array("q")
        self._things = 0

    def start(self, name: str, words: dict[str, str]) -> None:
        """One element begins."""
        if name == "vertex":
            self._corners.extend((float(words["x"]), float(words["y"]), float(words["z"])))
            return
        if name == "triangle":
            self._triangles.extend((int(words["v1"]), int(words["v2"]), int(words["v3"])))
            return
        word = name.rsplit(":", 1)[-1]
        if word in ("vertex", "triangle"):
            self.start(word, words)
        elif word == "object":
            here = words["id"]
            if here in self.points:
                raise ValueError
            self.points[here], self.faces[here] = self._corners, self._triangles = array("d"), array("q")
            self.uses[here] = []
            self._here = here
        elif word in ("component", "item"):
            into = self.built if word == "item" else self.uses[self._here]
            into.append((words["objectid"], words.get("transform", "")))
        elif word == "model":
            self.unit = words.get("unit", "millimeter")
        self._things += word in ("object", "component", "item")
        if self._things > MOST_THINGS:
            raise ValueError

    def check(self) -> None:
        """Refuse what has become too large. Raises ValueError."""
        if sum(map(len, self.faces.values())) > 3 * MOST_TRIANGLES:
            raise Told(str(too_many(sum(map(len, self.faces.values())) // 3)))
        if sum(map(len, self.points.values())) > 3 * MOST_POINTS:
            raise Told(f"has over {MOST_POINTS:,} points; no more are read")

    def placed(self) -> Read:
        """Everything that is built, where it stands."""
        out: list[tuple[Points, Faces]] = []
        count = [0, 0]

        def put(key: str, turn: np.ndarray, at: np.ndarray, depth: int) -> None:
            """An object and what it is made of, turned and moved."""
            if depth > 20 or key not in self.points:
                raise ValueError
            points = np.array(self.points[key], dtype=float).reshape(-1, 3)
            faces = np.array(self.faces[key], dtype=np.int64).reshape(-1, 3)
            count[0] += len(faces)
            count[1] += 1
            if count[0] > MOST_TRIANGLES:
                raise Told(str(too_many(count[0])))
            if count[1] > MOST_THINGS:
                raise ValueError
            if len(faces) and (faces.min() < 0 or faces.max() >= len(points)):
                raise Told("has triangles whose corners are not there")
            if len(faces):
                out.append((points @ turn + at, faces))
            for other, text in self.uses[key]:
                own = _placement(text)
                put(other, own[:3] @ turn, own[3] @ turn + at, depth + 1)

        for key, text in self.built:
            own = _placement(text)
            put(key, own[:3], own[3], 0)
        if not out:
            return np.zeros((0, 3)), np.zeros((0, 3), dtype=np.int64)
        base = np.cumsum([0, *(len(p) for p, _ in out[:-1])])
        return np.vstack([p for p, _ in out]), np.vstack([f + b for (_, f), b in zip(out, base, strict=True)])


def _placement(text: str) -> np.ndarray:
    """Rows (4, 3) of a placement: turned by the first three, then moved by the last."""
    numbers = [float(n) for n in text.split()] if text.strip() else [1, 0, 0, 0, 1, 0, 0, 0, 1, 0, 0, 0]
    return np.array(numbers, dtype=float).reshape(4, 3)


def three_mf(data: bytes) -> Read:
    """All mesh objects of a 3MF as they are built, parts of parts with them, with their placements (3MF Core
    Specification 1.3, from memory)."""
    parts = _Parts()
    _model(data, parts.start, parts.check)
    try:
        return parts.placed()
    except ValueError as error:
        if isinstance(error, Told):
            raise
        raise ValueError("could not be read as 3MF") from None


def three_mf_unit(words: Sequence[str], data: bytes) -> tuple[str, list[np.ndarray]]:
    """The unit that a 3MF says it is in."""
    found: list[str] = []

    def start(name: str, said: dict[str, str]) -> None:
        found.append(said.get("unit", "millimeter") if name.rsplit(":", 1)[-1] == "model" else "")
        raise Told  # the first element says it; the rest need not be read

    with contextlib.suppress(ValueError):
        _model(data[:MOST_MODEL], start)
    return (found or [""])[0], []
