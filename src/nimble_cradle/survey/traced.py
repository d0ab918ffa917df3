"""Outlines with holes traced elsewhere and brought in as DXF or SVG: circles are holes, the largest closed
line is the outline. mm."""

from __future__ import annotations

import io
import math
import re
from dataclasses import dataclass
from xml.etree import ElementTree

import numpy as np

from nimble_cradle.geometry.pose import Array
from nimble_cradle.geometry.solids import ShapeError

MOST_BYTES = 20_000_000
_UNITS = {"": 1.0, "px": 25.4 / 96, "mm": 1.0, "cm": 10.0, "in": 25.4, "pt": 25.4 / 72}
_NUMBER = r"[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?"


@dataclass(frozen=True, eq=False)
class Traced:
    """outline (n, 2) or empty; holes: (m, 3) x, y and diameter, all mm, y up. unit: the unit the file
    says, in words."""

    outline: Array
    holes: Array
    unit: str


def read_traced(name: str, data: bytes, unit_mm: float | None = None) -> Traced:
    """Read a traced file. unit_mm: mm to one unit of the file; None takes what the file says. Raises
    ShapeError with a sentence, and where the file says no unit."""
    if len(data) > MOST_BYTES:
        raise ShapeError(f"“{name}” is too large for a traced outline ({len(data) / 1e6:.0f} MB).")
    kind = name.rsplit(".", 1)[-1].lower()
    if kind not in ("dxf", "svg"):
        raise ShapeError(f"“{name}” is neither DXF nor SVG.")
    rings, holes, said, unit = _dxf(name, data) if kind == "dxf" else _svg(name, data)
    scale = unit_mm or said
    if scale is None:
        raise ShapeError(f"“{name}” does not say its unit: say whether it is mm or inch.")
    if not rings and not len(holes):
        raise ShapeError(f"“{name}” holds no circle and no closed line.")
    rings = [np.asarray(r, dtype=float) * scale for r in rings]
    outline = max(rings, key=_area, default=np.zeros((0, 2)))
    found = np.asarray(holes, dtype=float).reshape(-1, 3) * scale
    if (
        not np.isfinite(outline).all()
        or not np.isfinite(found).all()
        or np.abs(outline).max(initial=0.0) > 1e5
        or np.abs(found).max(initial=0.0) > 1e5
    ):
        raise ShapeError(f"“{name}” reaches over 100 m: its unit is not what it says.")
    return Traced(outline, found, unit)


def _area(ring: Array) -> float:
    x, y = ring[:, 0], ring[:, 1]
    return abs(float(x @ np.roll(y, -1) - y @ np.roll(x, -1))) / 2


def _dxf(name: str, data: bytes) -> tuple[list[Array], list[tuple[float, float, float]], float | None, str]:
    import ezdxf
    from ezdxf import path as dxf_path

    try:
        document = ezdxf.read(io.StringIO(data.decode("utf-8", "replace").replace("\r\n", "\n")))
        scale = {4: 1.0, 1: 25.4, 5: 10.0, 6: 1000.0, 2: 304.8}.get(document.units)
        rings, holes = [], []
        for entity in document.modelspace():
            if entity.dxftype() == "CIRCLE":
                holes.append(
                    (float(entity.dxf.center.x), float(entity.dxf.center.y), 2 * float(entity.dxf.radius))
                )
            elif entity.dxftype() in ("LWPOLYLINE", "POLYLINE", "SPLINE", "ELLIPSE"):
                line = np.array([(v.x, v.y) for v in dxf_path.make_path(entity).flattening(0.05)])
                if len(line) > 3 and np.linalg.norm(line[0] - line[-1]) < 1e-3 * max(
                    1.0, float(np.ptp(line))
                ):
                    rings.append(line[:-1])
    except Exception:  # any reader's failure on a foreign file means the same to the user
        raise ShapeError(f"“{name}” could not be read as DXF.") from None
    return rings, holes, scale, {1.0: "mm", 25.4: "inch"}.get(scale or 0.0, "other")


def _svg(name: str, data: bytes) -> tuple[list[Array], list[tuple[float, float, float]], float | None, str]:
    try:
        if b"<!ENTITY" in data[:4000]:
            raise ValueError("entities are not read")
        root = ElementTree.fromstring(data)
        size = re.fullmatch(rf"\s*({_NUMBER})\s*(\w*)\s*", root.get("width", ""))
        box = [float(v) for v in re.findall(_NUMBER, root.get("viewBox", ""))]
        scale = None
        if size and size[2] in _UNITS and size[2]:
            scale = (
                float(size[1]) * _UNITS[size[2]] / (box[2] if len(box) == 4 and box[2] else float(size[1]))
            )
        rings: list[Array] = []
        holes: list[tuple[float, float, float]] = []
        _walk(root, np.eye(3), rings, holes)
    except (ElementTree.ParseError, ValueError, KeyError, ZeroDivisionError, OverflowError):
        raise ShapeError(f"“{name}” could not be read as SVG.") from None
    return rings, holes, scale, (size[2] if size else "") or "none"


def _walk(
    element: ElementTree.Element, matrix: Array, rings: list[Array], holes: list[tuple[float, float, float]]
) -> None:
    """Collect circles and closed lines; y is turned upwards."""
    matrix = matrix @ _transform(element.get("transform", ""))
    tag = element.tag.rsplit("}", 1)[-1]

    def place(points: Array) -> Array:
        moved = np.column_stack([points, np.ones(len(points))]) @ matrix.T
        return np.column_stack([moved[:, 0], -moved[:, 1]])

    if tag == "circle":
        scale = math.sqrt(abs(float(np.linalg.det(matrix[:2, :2]))))
        x, y = place(np.array([[float(element.get("cx", 0)), float(element.get("cy", 0))]]))[0]
        holes.append((float(x), float(y), 2 * float(element.get("r", 0)) * scale))
    elif tag in ("polygon", "polyline"):
        line = np.array([float(v) for v in re.findall(_NUMBER, element.get("points", ""))]).reshape(-1, 2)
        if len(line) > 2:
            rings.append(place(line))
    elif tag == "rect":
        x, y, w, h = (float(element.get(k, 0)) for k in ("x", "y", "width", "height"))
        rings.append(place(np.array([[x, y], [x + w, y], [x + w, y + h], [x, y + h]])))
    elif tag == "path":
        rings += [place(line) for line in _path(element.get("d", "")) if len(line) > 2]
    for child in element:
        _walk(child, matrix, rings, holes)


def _transform(text: str) -> Array:
    out = np.eye(3)
    for name, inside in re.findall(r"(\w+)\s*\(([^)]*)\)", text):
        v = [float(n) for n in re.findall(_NUMBER, inside)]
        step = np.eye(3)
        if name == "translate":
            step[0, 2], step[1, 2] = v[0], v[1] if len(v) > 1 else 0.0
        elif name == "scale":
            step[0, 0], step[1, 1] = v[0], v[1] if len(v) > 1 else v[0]
        elif name == "rotate" and len(v) == 1:
            c, s = math.cos(math.radians(v[0])), math.sin(math.radians(v[0]))
            step[:2, :2] = [[c, -s], [s, c]]
        elif name == "matrix":
            step[:2] = np.array(v).reshape(3, 2).T
        else:
            raise ValueError(f"{name} is not read")
        out = out @ step
    return out


def _path(d: str) -> list[Array]:
    """Closed lines of an SVG path; curves of third degree are drawn with 16 chords. Raises ValueError for
    arcs and other commands."""
    rings: list[Array] = []
    line: list[Array] = []
    at = start = np.zeros(2)
    for command, inside in re.findall(r"([A-Za-z])([^A-Za-z]*)", re.sub(r"(?<=\d)e", "E", d)):
        v = np.array([float(n) for n in re.findall(_NUMBER, inside)])
        base = command.upper()
        if base == "Z":
            if len(line) > 2:
                rings.append(np.array(line))
            at, line = start, []
            continue
        if base in ("H", "V"):
            for c in v:
                step = at.copy()
                k = 0 if base == "H" else 1
                step[k] = c + (at[k] if command.islower() else 0.0)
                at = step
                line.append(at)
            continue
        if base not in ("M", "L", "C"):
            raise ValueError(f"the path command {command} is not read")
        for block in v.reshape(-1, 6 if base == "C" else 2):
            p = block.reshape(-1, 2) + (at if command.islower() else 0.0)
            if base == "C":
                t = np.linspace(0, 1, 17)[1:, None]
                line += list(
                    (1 - t) ** 3 * at + 3 * (1 - t) ** 2 * t * p[0] + 3 * (1 - t) * t**2 * p[1] + t**3 * p[2]
                )
            else:
                if base == "M" and not line:
                    start = p[0]
                line.append(p[0])
            at = p[-1]
    if len(line) > 3 and np.linalg.norm(line[0] - line[-1]) < 1e-6:
        rings.append(np.array(line[:-1]))
    return rings
