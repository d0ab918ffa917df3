"""Scans as this program keeps them: binary PLY."""

from __future__ import annotations

import re

import numpy as np

from nimble_cradle.geometry.scan import PLY_HEADER, ROW, Scan


def to_ply(scan: Scan) -> bytes:
    """Binary PLY of a clean mesh, mm; its comment tells ``from_own_ply`` that nothing is left to be
    merged."""
    rows = np.zeros(len(scan.faces), dtype=ROW)
    rows["n"], rows["v"] = 3, scan.faces
    head = PLY_HEADER.format(len(scan.vertices), len(scan.faces)).encode()
    return head + scan.vertices.astype("<f4").tobytes() + rows.tobytes()


def own_counts(data: bytes) -> tuple[int, int] | None:
    """How many points and triangles a mesh written by ``to_ply`` says it has, or None for any other bytes
    (or such a file that was cut off)."""
    end = data.find(b"end_header\n", 0, 400)
    if end < 0 or b"comment mm, points merged\n" not in data[:end]:
        return None
    counts = [int(w) for w in re.findall(rb"element (?:vertex|face) (\d{1,9})\n", data[:end])]
    start = end + len(b"end_header\n")
    if (
        len(counts) != 2
        or data[:start] != PLY_HEADER.format(*counts).encode()
        or len(data) != start + 12 * counts[0] + ROW.itemsize * counts[1]
    ):
        return None
    return counts[0], counts[1]


def from_own_ply(data: bytes) -> Scan | None:
    """A mesh written by ``to_ply``; None for any other bytes (or such a file that was cut off or meddled
    with)."""
    counts = own_counts(data)
    if counts is None:
        return None
    start = len(data) - 12 * counts[0] - ROW.itemsize * counts[1]
    points = np.frombuffer(data, dtype="<f4", count=3 * counts[0], offset=start).reshape(-1, 3).astype(float)
    rows = np.frombuffer(data, dtype=ROW, offset=start + 12 * counts[0])
    faces = rows["v"].astype(np.int64)
    if (
        not counts[1]
        or not np.isfinite(points).all()
        or (rows["n"] != 3).any()
        or faces.min() < 0
        or faces.max() >= counts[0]
    ):
        return None
    return Scan(points, faces)
