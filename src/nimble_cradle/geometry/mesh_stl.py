"""Meshes in STL."""

from __future__ import annotations

import re

import numpy as np

from nimble_cradle.geometry.mesh_limits import MOST_TRIANGLES, Points, Read, too_many
from nimble_cradle.geometry.mesh_text import numbers_in

_VERTEX = re.compile(rb"(?im)^\s*vertex\s+(\S{1,40})\s+(\S{1,40})\s+(\S{1,40})\s")
_VERTEX_WORD = re.compile(rb"(?im)^\s*vertex\b")
_PIECE = 1 << 24
"""Bytes of a text file that are looked through at once, so that little memory is held beside it."""


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
    numbers = numbers_in(text)
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
