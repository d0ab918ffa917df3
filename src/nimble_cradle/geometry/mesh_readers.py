"""Readers of mesh files, each a function of bytes that may take much; ``mesh`` calls them where they can be
stopped. What a file would cost is known, and limited, before anything of it is expanded.

Each gives points (n, 3) and triangles (m, 3) as written in the file, and raises ValueError with what is wrong
in words that follow the file's name.
"""

from __future__ import annotations

import contextlib
import io
import json
import re
import struct
import warnings
import zipfile
import zlib
from array import array
from collections.abc import Callable, Sequence
from typing import Any
from xml.parsers import expat

import numpy as np

MOST_TRIANGLES = 2_000_000
MOST_POINTS = 4_000_000
MOST_MODEL = 400_000_000
MOST_THINGS = 4000
"""Parts and placements of parts in one file."""
MOST_JSON = 10_000_000

Points = np.ndarray
Faces = np.ndarray
Read = tuple[Points, Faces]


def too_many(triangles: int) -> ValueError:
    """What is said of a mesh that is too fine."""
    return ValueError(
        f"has {triangles:,} triangles; at most {MOST_TRIANGLES:,} are read: thin it out in the program that"
        " made it"
    )


def read_by_kind(words: Sequence[str], data: bytes) -> tuple[Any, list[np.ndarray]]:
    """words: (kind). For ``guarded``: nothing to tell, and (points, triangles)."""
    points, faces = READERS[words[0]](data)
    return None, [np.asarray(points, dtype=float), np.asarray(faces, dtype=np.int64)]


def stl(data: bytes) -> Read:
    """Corner points (3 n, 3) of a binary or text STL, each triangle its own."""
    count = int.from_bytes(data[80:84], "little") if len(data) >= 84 else 0
    head = data[:2000].lstrip().lower()
    text = head.startswith(b"solid") and (b"facet" in head or b"endsolid" in head)
    if count and len(data) >= 84 + 50 * count and not (text and len(data) != 84 + 50 * count):
        if count > MOST_TRIANGLES:
            raise too_many(count)
        rows = np.frombuffer(data, dtype=np.uint8, offset=84, count=50 * count).reshape(count, 50)[:, 12:48]
        with np.errstate(invalid="ignore"):  # a number that is none is refused later
            points = np.ascontiguousarray(rows).view("<f4").reshape(-1, 3).astype(float)
    elif text:
        points = _text_stl(data)
    elif len(data) > 84 + 50 and 0 < count <= MOST_TRIANGLES:
        raise ValueError(f"is cut off: it says {count:,} triangles and holds {(len(data) - 84) // 50:,}")
    else:
        raise ValueError(
            "is not an STL mesh: it is neither whole binary STL nor text that begins with “solid”"
        )
    return points, np.arange(len(points), dtype=np.int64).reshape(-1, 3)


def stl_left_over(data: bytes) -> int:
    """Bytes behind the last triangle of a binary STL."""
    count = int.from_bytes(data[80:84], "little") if len(data) >= 84 else 0
    head = data[:2000].lstrip().lower()
    if not count or len(data) < 84 + 50 * count or (head.startswith(b"solid") and b"facet" in head):
        return 0
    return len(data) - 84 - 50 * count


_VERTEX = re.compile(rb"(?im)^\s*vertex\s+(\S{1,40})\s+(\S{1,40})\s+(\S{1,40})\s")
_VERTEX_WORD = re.compile(rb"(?im)^\s*vertex\b")
_PIECE = 1 << 24


def _text_stl(data: bytes) -> Points:
    """The corners of a text STL, read in pieces that end between facets."""
    if data.count(b"\n") + data.count(b"\r") > 40 * MOST_TRIANGLES:
        raise ValueError("has more lines than any mesh that is read")
    pieces: list[np.ndarray] = []
    start = total = 0
    lower = data[: 1 << 16].lower().count(b"facet") == data[: 1 << 16].count(b"facet")
    end_word = b"endfacet" if lower else b"ENDFACET"
    while start < len(data):
        end = len(data)
        if end - start > _PIECE:
            end = data.rfind(end_word, start, start + _PIECE)
            if end <= start:
                raise ValueError("is a text STL without an end of a facet")
            end += len(end_word)
        piece = _plain_facets(data[start:end])
        if piece is None:
            piece = _corners(data, start, end)
        total += len(piece) // 3
        if total > MOST_TRIANGLES:
            raise too_many(total)
        pieces.append(piece)
        start = end
    return np.vstack(pieces) if pieces else np.zeros((0, 3))


def _plain_facets(piece: bytes) -> Points | None:
    """Corners of text that is facets and nothing else, as most programs write it (it is read ten times as
    fast so); None for another."""
    begin = piece.find(b"facet normal")
    close = piece.rfind(b"endfacet")
    if begin < 0 or close < 0:
        return None
    facets = piece.count(b"endfacet", begin, close + 8)
    text = piece[begin : close + 8].replace(b"endfacet", b"").replace(b"endloop", b"")
    for word in (b"facet normal", b"outer loop", b"vertex"):
        if text.count(word) != (3 if word == b"vertex" else 1) * facets:
            return None
        text = text.replace(word, b" ")
    if b"vertex" in piece[:begin] or b"vertex" in piece[close:]:
        return None
    numbers = _numbers(text)
    if numbers is None or len(numbers) != 12 * facets:
        return None
    return numbers.reshape(-1, 12)[:, 3:].reshape(-1, 3)


def _corners(data: bytes, start: int, end: int) -> Points:
    """Corners of a piece of text STL, word by word."""
    found = _VERTEX.findall(data, start, end)
    if sum(1 for _ in _VERTEX_WORD.finditer(data, start, end)) > len(found):
        raise ValueError("is a text STL with a corner that is not three numbers")
    try:
        points = np.array(found, dtype=bytes).astype(float).reshape(-1, 3)
    except ValueError:
        raise ValueError("is a text STL with a corner that is not three numbers") from None
    if len(points) % 3:
        raise ValueError("is a text STL that stops inside a triangle")
    return points


def _numbers(text: bytes) -> np.ndarray | None:
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
    numbers = _numbers(data[head.end() :])
    plain = _triangles_only(numbers, points, 3, faces) if numbers is not None else None
    return plain if plain is not None else by_library("off", data)


_PLY_SIZES = {
    b"char": 1, b"uchar": 1, b"int8": 1, b"uint8": 1, b"short": 2, b"ushort": 2, b"int16": 2, b"uint16": 2,
    b"int": 4, b"uint": 4, b"int32": 4, b"uint32": 4, b"float": 4, b"float32": 4, b"double": 8, b"float64": 8,
}  # fmt: skip


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
        numbers = _numbers(data[end.end() :]) if first == [b"x", b"y", b"z"] else None
        if numbers is not None:
            plain = _triangles_only(numbers, points, len(lines[b"vertex"]), faces)
            if plain is not None:
                return plain
    return by_library("ply", data)


_OBJ_LINES = {word: re.compile(rb"(?m)^[ \t]*" + word + rb"[ \t]([^\n]*)") for word in (b"v", b"f")}


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
    points = _numbers(b"\n".join(rows[b"v"]))
    corners = _numbers(re.sub(rb"/[^ \t\n]*", b"", b"\n".join(rows[b"f"])))
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


def glb(data: bytes) -> Read:
    """GLB (glTF 2.0), its scene as it stands. Pictures, materials and movements are taken out before the
    library sees it, and what its parts come to is counted."""
    try:
        magic, version, _ = struct.unpack("<4sII", data[:12])
        size, kind = struct.unpack("<I4s", data[12:20])
        if magic != b"glTF" or version != 2 or kind != b"JSON" or size > MOST_JSON or 20 + size > len(data):
            raise ValueError
        tree = json.loads(data[20 : 20 + size])
        rest = data[20 + size :]
        room = len(rest) - 8
        _count_glb(tree, room)
    except (
        ValueError,
        KeyError,
        TypeError,
        IndexError,
        AttributeError,
        RecursionError,
        struct.error,
    ) as error:
        raise ValueError(str(error) if isinstance(error, _Told) else "could not be read as GLB") from None
    for word in (
        "images",
        "textures",
        "materials",
        "samplers",
        "animations",
        "skins",
        "cameras",
        "extensions",
    ):
        tree.pop(word, None)
    for mesh in tree.get("meshes", []):
        for part in mesh["primitives"]:
            part.pop("material", None)
            part.pop("targets", None)
            part["attributes"] = {"POSITION": part["attributes"]["POSITION"]}
    text = json.dumps(tree).encode()
    text += b" " * (-len(text) % 4)
    whole = struct.pack("<4sII", b"glTF", 2, 20 + len(text) + len(rest))
    return by_library("glb", whole + struct.pack("<I4s", len(text), b"JSON") + text + rest)


class _Told(ValueError):
    """A refusal with its own words."""


_GLB_SIZES = {5120: 1, 5121: 1, 5122: 2, 5123: 2, 5125: 4, 5126: 4}
_GLB_WIDE = {"SCALAR": 1, "VEC2": 2, "VEC3": 3, "VEC4": 4, "MAT2": 4, "MAT3": 9, "MAT4": 16}


def _count_glb(tree: dict[str, Any], room: int) -> None:
    """Refuse a GLB whose parts claim more than the file holds, or come to more than is read. Raises what a
    tree of another build raises."""
    views, accessors = tree.get("bufferViews", []), tree.get("accessors", [])
    if len(tree.get("buffers", [])) > 1 or "uri" in tree.get("buffers", [{}])[0]:
        raise _Told("keeps its points in another file; only what is in the GLB itself is read")
    for view in views:
        if not 0 <= int(view.get("byteOffset", 0)) + int(view["byteLength"]) <= room:
            raise _Told("is cut off: it says that it holds more than it does")
    for a in accessors:
        long = int(a["count"]) * _GLB_SIZES[a["componentType"]] * _GLB_WIDE[a["type"]]
        if "sparse" in a or "bufferView" not in a:
            raise _Told("has points that are written in a way that is not read (sparse)")
        if not 0 <= long <= int(views[a["bufferView"]]["byteLength"]):
            raise _Told("is cut off: it says that it holds more than it does")
    if any("KHR_draco" in str(e) or "meshopt" in str(e) for e in tree.get("extensionsRequired", [])):
        raise _Told("is packed in a way that is not read; write it without compression")
    costs = []
    for mesh in tree.get("meshes", []):
        cost = 0
        if len(mesh["primitives"]) > MOST_THINGS:
            raise _Told("has more parts than are read")
        for part in mesh["primitives"]:
            source = part.get("indices", part["attributes"]["POSITION"])
            cost += int(accessors[source]["count"]) // 3 + 1
        costs.append(cost)
    nodes = tree.get("nodes", [])
    known: dict[int, int] = {}

    def cost_of(k: int, depth: int) -> int:
        """Triangles that a node comes to, those under it counted in."""
        if depth > 100:
            raise _Told("has parts within parts without end")
        if k not in known:
            node = nodes[k]
            below = sum(cost_of(int(c), depth + 1) for c in node.get("children", []))
            known[k] = 1 + below + (costs[int(node["mesh"])] if "mesh" in node else 0)
        return known[k]

    if any(k < 0 for node in nodes for k in node.get("children", [])):
        raise _Told("could not be read as GLB")
    if len(nodes) > MOST_THINGS or len(costs) > MOST_THINGS:
        raise _Told("has more parts than are read")
    below = {c for node in nodes for c in node.get("children", [])}
    total = sum(cost_of(k, 0) for k in range(len(nodes)) if k not in below)
    if max(total, sum(costs)) > MOST_TRIANGLES + len(nodes) + len(costs):
        raise too_many(max(total, sum(costs)))


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
                raise _Told(f"unpacks to {part.file_size / 1e6:,.0f} MB; that is more than is read")
            if part.file_size > 1000 * max(part.compress_size, 1):
                raise _Told("unpacks to a thousand times its size, as no mesh does")
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
        raise error if isinstance(error, _Told) else ValueError("could not be read as 3MF") from None


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
            raise _Told(str(too_many(sum(map(len, self.faces.values())) // 3)))
        if sum(map(len, self.points.values())) > 3 * MOST_POINTS:
            raise _Told(f"has over {MOST_POINTS:,} points; no more are read")

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
                raise _Told(str(too_many(count[0])))
            if count[1] > MOST_THINGS:
                raise ValueError
            if len(faces) and (faces.min() < 0 or faces.max() >= len(points)):
                raise _Told("has triangles whose corners are not there")
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
        if isinstance(error, _Told):
            raise
        raise ValueError("could not be read as 3MF") from None


def three_mf_unit(words: Sequence[str], data: bytes) -> tuple[str, list[np.ndarray]]:
    """The unit that a 3MF says it is in."""
    found: list[str] = []

    def start(name: str, said: dict[str, str]) -> None:
        found.append(said.get("unit", "millimeter") if name.rsplit(":", 1)[-1] == "model" else "")
        raise _Told  # the first element says it; the rest need not be read

    with contextlib.suppress(ValueError):
        _model(data[:MOST_MODEL], start)
    return (found or [""])[0], []


READERS: dict[str, Callable[[bytes], Read]] = {
    "stl": stl,
    "obj": obj,
    "ply": ply,
    "off": off,
    "glb": glb,
    "3mf": three_mf,
}
