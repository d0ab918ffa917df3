"""Traced drawings in SVG."""

from __future__ import annotations

import io
import re
from collections import Counter
from collections.abc import Iterator
from typing import Any
from xml.etree import ElementTree

import numpy as np

from nimble_cradle.files import printable
from nimble_cradle.geometry.pose import Array
from nimble_cradle.geometry.solids import ShapeError
from nimble_cradle.survey.traced_limits import CHORD, MOST_POINTS, MOST_THINGS, TOO_MANY, UNITS, TracedLines
from nimble_cradle.survey.traced_lines import joined, split_line

_NUMBER = r"[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?"


_SVG_KEPT = frozenset(
    [
        "d",
        "points",
        "x",
        "y",
        "x1",
        "y1",
        "x2",
        "y2",
        "cx",
        "cy",
        "r",
        "rx",
        "ry",
        "width",
        "height",
        "transform",
        "id",
        "href",
        "viewBox",
        "display",
    ]
)
"""What is read of an element: where it is. How it looks is nobody's business here."""
_TRANSFORM = re.compile(r"[\s,]*([A-Za-z]{4,9})\s*\(([^()]*)\)")
_FIGURES = {
    "matrix": (6,),
    "translate": (1, 2),
    "scale": (1, 2),
    "rotate": (1, 3),
    "skewx": (1,),
    "skewy": (1,),
}


def _laid_bare(root: ElementTree.Element, left_out: Counter[str]) -> None:
    """Leave of a drawing only what says where its lines are. Raises ShapeError for a figure without end."""
    for element in root.iter():
        style = element.get("style", "")[:5000].replace(" ", "")
        if element.get("display") == "none" or "display:none" in style:
            left_out["hidden thing"] += 1  # the library leaves these out by itself
            element.set("display", "none")
        tag = str(element.tag).rsplit("}", 1)[-1]
        if tag == "style":
            element.text = ""
        elif tag not in ("text", "tspan"):
            element.text = None
        element.tail = None
        for key in list(element.attrib):
            bare = key.rsplit("}", 1)[-1]
            if bare not in _SVG_KEPT or (bare != key and bare != "href"):
                del element.attrib[key]
            elif bare not in ("d", "points") and len(element.attrib[key]) > 2000:
                raise ShapeError(f"has a {bare} that goes on without end.")
            elif bare == "transform" and not _makes_sense(element.attrib[key]):
                raise ShapeError(
                    f"has a transform that makes no sense (“{printable(element.attrib[key], 40)}”)."
                )


def _makes_sense(transform: str) -> bool:
    """Whether a transform is a row of turns, moves and the like, each with as many figures as it takes."""
    at = 0
    for found in _TRANSFORM.finditer(transform):
        count = len(re.findall(_NUMBER, found[2]))
        if found.start() != at or count not in _FIGURES.get(found[1].lower(), ()):
            return False
        at = found.end()
    return not transform[at:].strip(" ,\t\r\n")


def read_svg(data: bytes, unit_mm: float | None) -> TracedLines:
    """The lines of an SVG drawing. Raises ShapeError."""
    left_out: Counter[str] = Counter()
    closed: list[Array] = []
    open_: list[Array] = []
    try:
        if b"<!ENTITY" in data:
            raise ValueError("entities are not read")
        root = ElementTree.fromstring(data)
        _laid_bare(root, left_out)
        scale, unit = _svg_scale(root)
        _count_out(root)
        one = unit_mm or scale or 1.0
        for line in _lines(_in_own_unit(root), one, left_out):
            split_line(line, closed, open_)
        open_ = joined(open_, closed, 0.05 / one)
    except (ShapeError, MemoryError):
        raise
    except ElementTree.ParseError as error:
        raise ShapeError(
            f"could not be read as SVG: it stops making sense at line {error.position[0]}."
        ) from None
    except Exception:  # any reader's failure on a foreign file means the same to the user
        raise ShapeError("could not be read as SVG.") from None
    return TracedLines(closed, open_, scale, unit, left_out)


def _in_own_unit(root: ElementTree.Element) -> Any:
    """The drawing as the library has it, in the file's own unit and from its own nought: the size on paper
    is in the scale."""
    from svgelements import SVG

    box = [float(v) for v in re.findall(_NUMBER, root.get("viewBox", ""))]
    wide, high = (box[2], box[3]) if len(box) == 4 else (1000.0, 1000.0)
    root.set("width", f"{wide:g}")
    root.set("height", f"{high:g}")
    root.set("viewBox", f"0 0 {wide:g} {high:g}")
    return SVG.parse(io.BytesIO(ElementTree.tostring(root)), reify=True, ppi=96, width=wide, height=high)


def _lines(drawn: Any, one: float, left_out: Counter[str]) -> Iterator[Array]:
    """Every line (n, 2) of a drawing, curves as chords, up where paper has it down. Raises ShapeError."""
    from svgelements import Path, Shape

    points = 0
    for element in drawn.elements():
        if not isinstance(element, Shape):
            word = {"Text": "text", "Image": "picture"}.get(type(element).__name__)
            if word is not None:
                left_out[word] += 1
            continue
        for part in Path(element).as_subpaths():
            line = np.array(list(_followed(Path(part), CHORD / one))).reshape(-1, 2) * (1.0, -1.0)
            points += len(line)
            if points > MOST_POINTS:
                raise ShapeError(TOO_MANY)
            if not np.isfinite(line).all():
                raise ShapeError("has a line with a figure that is no number.")
            if len(line) > 1:
                yield line


def _svg_scale(root: ElementTree.Element) -> tuple[float | None, str]:
    """mm to one unit of an SVG drawing, and the unit of its size in words. Raises ShapeError where across
    and up differ."""
    box = [float(v) for v in re.findall(_NUMBER, root.get("viewBox", ""))]
    scales = []
    unit = ""
    for key, k in (("width", 2), ("height", 3)):
        size = re.fullmatch(rf"\s*({_NUMBER})\s*([a-z]*)\s*", root.get(key, ""))
        if size is None or size[2] not in UNITS:
            continue
        unit = size[2]
        own = box[k] if len(box) == 4 and box[k] > 0 else float(size[1])
        scales.append(float(size[1]) * UNITS[unit] / own if own else 0.0)
    if len(scales) == 2 and abs(scales[0] - scales[1]) > 0.01 * max(scales):
        raise ShapeError("has one scale across and another up, so no size of it can be believed.")
    return (scales[0] if scales and scales[0] > 0 else None), unit or "none"


def _count_out(root: ElementTree.Element) -> None:
    """Refuse a drawing that uses its parts so often, or in a ring, that it would grow without end. Raises
    ShapeError."""
    ids = {e.get("id"): e for e in root.iter() if e.get("id")}
    known: dict[int, int] = {}
    inside: set[int] = set()

    def count(element: ElementTree.Element) -> int:
        """Things that an element becomes, those it uses counted in."""
        key = id(element)
        if key in known:
            return known[key]
        if key in inside or len(inside) > 400:
            raise ShapeError("uses parts of itself in a ring.")
        inside.add(key)
        total = 1 + sum(count(child) for child in element)
        if element.tag.rsplit("}", 1)[-1] == "use":
            link = next((v for k, v in element.attrib.items() if k.rsplit("}", 1)[-1] == "href"), "")
            target = ids.get(link.removeprefix("#"))
            total += count(target) if target is not None else 0
        inside.discard(key)
        known[key] = total
        return total

    if count(root) > MOST_THINGS:
        raise ShapeError(TOO_MANY)


def _followed(path: Any, chord: float) -> Iterator[tuple[float, float]]:
    """Points along one line of an SVG drawing, curves within ``chord`` of their own unit."""
    from svgelements import Arc, Close, CubicBezier, Line, Move, QuadraticBezier

    for segment in path:
        if isinstance(segment, Move):
            yield segment.end.x, segment.end.y
        elif isinstance(segment, (Line, Close)):
            if segment.end is not None:
                yield segment.end.x, segment.end.y
        elif isinstance(segment, (CubicBezier, QuadraticBezier, Arc)):
            reach = segment.length(error=1e-3)
            # an arc of sagitta s and radius r takes a chord of sqrt(8 r s); r is at most about the length of
            # the curve
            n = int(np.clip(np.ceil(reach / max(np.sqrt(8 * chord * max(reach / 7, chord)), 1e-9)), 8, 400))
            for t in np.linspace(0, 1, n + 1)[1:]:
                p = segment.point(float(t))
                yield p.x, p.y
        else:
            raise ValueError("a segment that is not known")
