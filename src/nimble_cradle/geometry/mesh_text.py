"""Meshes in OFF, PLY and OBJ, and what the library reads."""

from __future__ import annotations

import io
import re
import warnings

import numpy as np

from nimble_cradle.geometry.mesh_limits import MOST_POINTS, MOST_TRIANGLES, Read, too_many

_PLY_SIZES = {
    b"char": 1, b"uchar": 1, b"int8": 1, b"uint8": 1, b"short": 2, b"ushort": 2, b"int16": 2, b"uint16": 2,
    b"int": 4, b"uint": 4, b"int32": 4, b"uint32": 4, b"float": 4, b"float32": 4, b"double": 8, b"float64": 8,
}  # fmt: skip
_OBJ_LINES = {word: re.compile(rb"(?m)^[ \t]*" + word + rb"[ \t]([^\n]*)") for word in (b"v", b"f")}


def numbers_in(text: bytes) -> np.ndarray | None:
    """All numbers of a text that holds nothing else; None for another."""
    with warnings.catch_warnings():
        warnings.simplefilter("error")
        try:
            return np.fromstring(text, sep=" ")
        except (DeprecationWarning, ValueError):
            return None


def _triangles_only(numbers: np.ndarray, points: int, wide: int, faces: int) -> Read | None:
    """Points of ``wide`` numbers and faces that say 3 and three corners; None where it is not that."""
    if len(numbers) != points * wide + 4 * faces:
        return None
    rows = numbers[points * wide :].reshape(-1, 4)
    if not (rows[:, 0] == 3).all():
        return None
    return numbers[: points * wide].reshape(points, wide)[:, :3].copy(), rows[:, 1:].astype(np.int64)


def _check_counts(points: int, faces: int, room: int, least: int) -> None:
    """Refuse what says that it holds more than it can, or than is read. least: bytes that each takes."""
    if faces > MOST_TRIANGLES:
        raise too_many(faces)
    if points > MOST_POINTS:
        raise ValueError(f"has {points:,} points; at most {MOST_POINTS:,} are read")
    if (points + faces) * least > room:
        raise ValueError("is cut off: it says that it holds more than it does")


def off(data: bytes) -> Read:
    """OFF; text without colours is read here, since the library takes six times as long."""
    head = re.match(rb"\s*OFF\s+(?:#[^\n]*\n\s*)*(\d{1,9})\s+(\d{1,9})\s+\d{1,9}\s", data)
    if head is None:
        raise ValueError("could not be read as OFF: it does not begin with OFF and its counts")
    points, faces = int(head[1]), int(head[2])
    _check_counts(points, faces, len(data), 6)
    numbers = numbers_in(data[head.end() :])
    plain = _triangles_only(numbers, points, 3, faces) if numbers is not None else None
    return plain if plain is not None else by_library("off", data)


def ply(data: bytes) -> Read:
    """PLY; text with triangles only is read here, since the library takes six times as long."""
    end = re.search(rb"\nend_header[ \t]*\r?\n", data[:100_000])
    if not data.startswith(b"ply") or end is None:
        raise ValueError("could not be read as PLY: its heading is not there")
    head = data[: end.end()].replace(b"\r", b"")
    counts: dict[bytes, int] = {}
    lines: dict[bytes, list[bytes]] = {}
    room, text = 0, b"format ascii" in head
    for line in head.split(b"\n"):
        word = line.split()
        if word[:1] == [b"element"]:
            if len(word) != 3 or not re.fullmatch(rb"\d{1,12}", word[2]) or len(counts) > 20:
                raise ValueError("could not be read as PLY: its heading makes no sense")
            name = word[1]
            counts[name], lines[name] = int(word[2]), []
        elif word[:1] == [b"property"] and counts:
            lines[name].append(line)
            if len(lines[name]) > 200:
                raise ValueError("could not be read as PLY: its heading makes no sense")
            list_ = word[1:2] == [b"list"]
            room += counts[name] * (
                2 if text else _PLY_SIZES.get(word[2 if list_ else 1] if len(word) > 2 else b"", 1)
            )
    points, faces = counts.get(b"vertex", 0), counts.get(b"face", 0)
    _check_counts(points, faces, len(data), 1)
    if room > len(data) + 8:
        raise ValueError("is cut off: it says that it holds more than it does")
    if text and list(counts) == [b"vertex", b"face"] and len(lines[b"face"]) == 1:
        first = [line.split()[-1] for line in lines[b"vertex"][:3]]
        numbers = numbers_in(data[end.end() :]) if first == [b"x", b"y", b"z"] else None
        if numbers is not None:
            plain = _triangles_only(numbers, points, len(lines[b"vertex"]), faces)
            if plain is not None:
                return plain
    return by_library("ply", data)


def obj(data: bytes) -> Read:
    """OBJ: points and faces, nothing else of it. Plain ones of triangles are read here, the library takes
    faces of more corners and corners counted backwards."""
    data = data.replace(b"\r", b"\n").replace(b"\\\n", b" ")
    rows: dict[bytes, list[bytes]] = {}
    for word, line in _OBJ_LINES.items():
        rows[word] = []
        for found in line.finditer(data):
            if found.end() - found.start() > 100_000:
                raise ValueError("could not be read as OBJ: a line of it has no end")
            rows[word].append(found[1])
            if len(rows[word]) > MOST_POINTS:
                _check_counts(len(rows[b"v"]), len(rows.get(b"f", [])), len(data), 1)
    _check_counts(len(rows[b"v"]), len(rows[b"f"]), len(data), 4)
    if not rows[b"v"] or not rows[b"f"]:
        raise ValueError("holds no triangles")
    points = numbers_in(b"\n".join(rows[b"v"]))
    corners = numbers_in(re.sub(rb"/[^ \t\n]*", b"", b"\n".join(rows[b"f"])))
    wide = len(points) // len(rows[b"v"]) if points is not None else 0
    if points is not None and corners is not None and 3 <= wide <= 7:
        plain = len(points) == wide * len(rows[b"v"]) and len(corners) == 3 * len(rows[b"f"])
        if plain and (corners >= 1).all() and all(len(r.split()) == 3 for r in rows[b"f"][:1000]):
            return points.reshape(-1, wide)[:, :3].copy(), corners.astype(np.int64).reshape(-1, 3) - 1
    return by_library("obj", b"\n".join([*(b"v " + r for r in rows[b"v"]), *(b"f " + r for r in rows[b"f"])]))


def by_library(kind: str, data: bytes) -> Read:
    """By the library; whatever goes wrong in it means that the file is no mesh of its kind."""
    import trimesh

    try:
        loaded = trimesh.load_mesh(io.BytesIO(data), file_type=kind, process=False)
        if not hasattr(loaded, "faces"):
            return np.zeros((0, 3)), np.zeros((0, 3), dtype=np.int64)
        return np.asarray(loaded.vertices, dtype=float), np.asarray(loaded.faces, dtype=np.int64)
    except MemoryError:
        raise
    except Exception:
        raise ValueError(f"could not be read as {kind.upper()}") from None
