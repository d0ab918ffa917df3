"""Readers of traced outlines (DXF, SVG); ``traced`` calls them where they can be stopped.

What goes wrong is a ShapeError with words that follow the file's name.
"""

from __future__ import annotations

import io
import re
from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import islice
from typing import Any
from xml.etree import ElementTree

import numpy as np

from nimble_cradle.files import printable
from nimble_cradle.geometry.pose import Array
from nimble_cradle.geometry.solids import ShapeError

MOST_REACH = 1e5
"""A traced outline never reaches further from its nought, mm."""
MOST_POINTS = 2_000_000
"""Points along all lines of one file."""
MOST_THINGS = 50_000
"""Lines, arcs and the like in one file, blocks and repeats counted out."""
CHORD = 0.01
"""Curves are followed to within so many mm."""
ROUND = 0.01
"""A closed line is a circle where no point of it is off by more than this share of its radius."""
_TOO_MANY = f"holds over {MOST_THINGS:,} lines: too many for a traced outline."
_TOO_FAR = "reaches over 100 m: its unit is not what it says."
_UNITS = {"px": 25.4 / 96, "mm": 1.0, "cm": 10.0, "in": 25.4, "pt": 25.4 / 72, "pc": 25.4 / 6}
_NUMBER = r"[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?"


@dataclass(frozen=True, eq=False)
class _Read:
    """Lines of a file in its own unit, y up: each (n, 2) points; closed ones do not repeat their first
    point."""

    closed: list[Array]
    open: list[Array]
    scale: float | None
    unit: str
    left_out: Counter[str]


def read_here(words: Sequence[Any], data: bytes) -> tuple[dict[str, Any], list[Array]]:
    """words: (``dxf`` or ``svg``, mm to one unit of the file or None). For ``guarded``: the unit that the
    file says and what was left out, in words; outline (n, 2) and holes (m, 3), mm. Raises ShapeError."""
    kind, unit_mm = words
    read = _dxf(data, unit_mm) if kind == "dxf" else _svg(data, unit_mm)
    if not read.closed:
        what = f" ({_counted(Counter({'open line': len(read.open)}))[0]})" if read.open else ""
        raise ShapeError(f"holds no circle and no closed line{what}.")
    scale = unit_mm or read.scale
    if scale is None:
        raise ShapeError("does not say its unit: say whether it is mm or inch.")
    rings = [r * scale for r in read.closed]
    if any(not np.isfinite(r).all() or np.abs(r).max() > MOST_REACH for r in rings):
        raise ShapeError(_TOO_FAR)
    circles = [(k, *found) for k, ring in enumerate(rings) if (found := _circle(ring)) is not None]
    others = [k for k in range(len(rings)) if k not in {c[0] for c in circles}]
    largest = max(range(len(rings)), key=lambda k: _area(rings[k]))
    flange = next((c for c in circles if c[0] == largest), None)
    if (
        flange is not None
        and len(circles) > 1
        and all(_inside(c, flange) for c in circles if c is not flange)
    ):
        circles.remove(flange)  # a round plate: the circle round all the others
        others = [largest]
    outline = _plain(max((rings[k] for k in others), key=_area, default=np.zeros((0, 2))))
    left_out = Counter(read.left_out)
    if read.open:
        left_out["open line"] += len(read.open)
    if len(others) > 1:
        left_out["closed line besides the outline"] += len(others) - 1
    return {"unit": read.unit, "left_out": _counted(left_out)}, [outline, _once([c[1:] for c in circles])]


def _counted(things: Counter[str]) -> list[str]:
    """``2 texts`` and the like, in order."""
    return [f"{n} {what}{'' if n == 1 or what.endswith('s') else 's'}" for what, n in sorted(things.items())]


def _area(ring: Array) -> float:
    x, y = ring[:, 0], ring[:, 1]
    return abs(float(x @ np.roll(y, -1) - y @ np.roll(x, -1))) / 2


def _plain(ring: Array) -> Array:
    """A line without the points that it does not need: within two chords of what it was."""
    if len(ring) < 4:
        return ring
    from shapely.geometry import Polygon

    plain = Polygon(ring).simplify(2 * CHORD)
    return np.asarray(plain.exterior.coords)[:-1] if isinstance(plain, Polygon) else ring


def _circle(ring: Array) -> tuple[float, float, float] | None:
    """Centre and diameter of a closed line that is round, by least squares through its points; None for
    another."""
    if len(ring) < 8:
        return None
    middle = ring.mean(0)
    p = ring - middle
    fit, *_ = np.linalg.lstsq(np.column_stack([2 * p, np.ones(len(p))]), (p**2).sum(1), rcond=None)
    radius = float(np.sqrt(max(fit[2] + fit[:2] @ fit[:2], 0.0)))
    both = np.vstack([p, (p + np.roll(p, -1, axis=0)) / 2]) - fit[:2]
    off = np.abs(np.hypot(*both.T) - radius).max()
    turned = abs(_area(ring) / max(np.pi * radius**2, 1e-12) - 1)
    if radius <= 0 or off > ROUND * radius or turned > 3 * ROUND:
        return None
    return float(middle[0] + fit[0]), float(middle[1] + fit[1]), 2 * radius


def _inside(circle: tuple[int, float, float, float], round_all: tuple[int, float, float, float]) -> bool:
    """Whether one circle lies within another: (number, x, y, diameter)."""
    apart = float(np.hypot(circle[1] - round_all[1], circle[2] - round_all[2]))
    return apart + circle[3] / 2 < round_all[3] / 2


def _once(circles: list[tuple[float, float, float]]) -> Array:
    """Circles (m, 3) without those that are drawn twice."""
    whole = np.array(circles, dtype=float).reshape(-1, 3)
    if len(whole) < 2:
        return whole
    from scipy.spatial import cKDTree

    again = (
        {int(b) for a, b in cKDTree(whole).query_pairs(0.05, p=np.inf)} if len(whole) < MOST_THINGS else set()
    )
    return whole[[k for k in range(len(whole)) if k not in again]]


def _split(line: Array, closed: list[Array], open_: list[Array]) -> None:
    """A flattened line goes to the closed ones where its ends meet."""
    steps = np.linalg.norm(np.diff(line, axis=0), axis=1)
    line = line[np.concatenate([[True], steps > 1e-9 * max(1.0, float(np.ptp(line)))])]
    if len(line) > 3 and np.linalg.norm(line[0] - line[-1]) < 1e-3 * max(
        1e-6, float(np.ptp(line, axis=0).max())
    ):
        closed.append(line[:-1])
    elif len(line) > 1:
        open_.append(line)


_DXF_UNITS = {4: (1.0, "mm"), 1: (25.4, "inch"), 5: (10.0, "cm"), 6: (1000.0, "m"), 2: (304.8, "foot")}
_DXF_WORDS = {
    "TEXT": "text", "MTEXT": "text", "ATTRIB": "text", "ATTDEF": "text", "HATCH": "hatch", "IMAGE": "picture",
    "POINT": "point", "3DFACE": "3-D face", "MESH": "3-D body", "3DSOLID": "3-D body", "BODY": "3-D body",
}  # fmt: skip


def _dxf_document(data: bytes) -> Any:
    """The drawing, from text or the binary kind; what can be saved of a damaged one."""
    import ezdxf
    from ezdxf import recover
    from ezdxf.document import Drawing
    from ezdxf.lldxf.tagger import binary_tags_loader

    if data[20:22] == b"\x1a\0":  # how the binary kind's first line ends
        return Drawing.load(binary_tags_loader(data))
    try:
        return ezdxf.read(io.StringIO(data.decode("utf-8").replace("\r\n", "\n")))
    except (UnicodeDecodeError, ezdxf.DXFError):
        document, _ = recover.read(io.BytesIO(data))
        if not len(document.modelspace()):
            raise ValueError("nothing of it could be recovered") from None
        return document


def _dxf(data: bytes, unit_mm: float | None) -> _Read:
    left_out: Counter[str] = Counter()
    closed: list[Array] = []
    loose: list[Array] = []
    try:
        from ezdxf import disassemble
        from ezdxf import path as dxf_path

        document = _dxf_document(data)
        scale, unit = _DXF_UNITS.get(document.units, (None, "none"))
        hidden = {layer.dxf.name.lower() for layer in document.layers if layer.is_off() or layer.is_frozen()}
        if any(e.mcount > MOST_THINGS for e in document.modelspace().query("INSERT")):
            raise ShapeError(_TOO_MANY)
        things = list(islice(disassemble.recursive_decompose(document.modelspace()), MOST_THINGS + 1))
        if len(things) > MOST_THINGS:
            raise ShapeError(_TOO_MANY)
        one = unit_mm or scale or 1.0
        points = 0
        for thing in things:
            kind = thing.dxftype()
            if str(thing.dxf.get("layer", "0")).lower() in hidden:
                left_out["thing on a hidden layer"] += 1
            elif kind in ("LINE", "ARC", "CIRCLE", "ELLIPSE", "SPLINE", "LWPOLYLINE", "POLYLINE"):
                whole = dxf_path.make_path(thing)
                if any(not abs(c) * one <= MOST_REACH for v in whole.control_vertices() for c in (v.x, v.y)):
                    raise ShapeError(_TOO_FAR)
                for part in whole.sub_paths():
                    line = np.array([(v.x, v.y) for v in part.flattening(CHORD / one, 16)]).reshape(-1, 2)
                    points += len(line)
                    if points > MOST_POINTS:
                        raise ShapeError(_TOO_MANY)
                    if len(line) > 1:
                        _split(line, closed, loose)
            elif kind != "VIEWPORT":
                left_out[_DXF_WORDS.get(kind, f"{kind.lower()[:30]} that is not read")] += 1
        open_ = _joined(loose, closed, 0.05 / one)
    except (ShapeError, MemoryError):
        raise
    except Exception:  # any reader's failure on a foreign file means the same to the user
        raise ShapeError("could not be read as DXF.") from None
    return _Read(closed, open_, scale, unit, left_out)


def _joined(loose: list[Array], closed: list[Array], tolerance: float) -> list[Array]:
    """Open lines whose ends meet, made closed ones: end to end where only two meet at each corner, else the
    outside of all that they enclose. Gives those that stay open."""
    open_ = _chained(loose, closed, tolerance)
    return _enclosed(open_, closed, tolerance) if len(open_) > 2 else open_


def _chained(loose: list[Array], closed: list[Array], tolerance: float) -> list[Array]:
    """Open lines whose ends meet, end to end, made closed ones; gives those that stay open."""
    from ezdxf import edgeminer
    from ezdxf.math import Vec3

    edges = [
        edgeminer.make_edge(Vec3(*line[0]), Vec3(*line[-1]), payload=k)
        for k, line in enumerate(loose)
        if np.linalg.norm(line[0] - line[-1]) > 1e-9
    ]
    if not edges:
        return loose
    used: set[int] = set()
    for chain in edgeminer.find_all_simple_chains(edgeminer.Deposit(edges, gap_tol=tolerance)):
        if len(chain) < 2 or not edgeminer.is_loop(chain, gap_tol=tolerance):
            continue
        pieces = [loose[e.payload][:: -1 if e.is_reverse else 1][:-1] for e in chain]
        closed.append(np.vstack(pieces))
        used.update(e.payload for e in chain)
    return [line for k, line in enumerate(loose) if k not in used]


def _enclosed(open_: list[Array], closed: list[Array], tolerance: float) -> list[Array]:
    """The outside of areas that open lines enclose, crossing or drawn twice, made closed ones; gives the
    lines that have no part in it."""
    import shapely
    from scipy.spatial import cKDTree

    ends = np.array([line[k] for line in open_ for k in (0, -1)])
    tree = cKDTree(ends)
    first = np.array([min(near) for near in tree.query_ball_point(ends, tolerance)])
    lines = []
    for k, line in enumerate(open_):
        line = line.copy()
        line[0], line[-1] = ends[first[2 * k]], ends[first[2 * k + 1]]
        lines.append(shapely.LineString(line))
    areas = shapely.polygonize(shapely.get_parts(shapely.unary_union(lines)))
    whole = shapely.unary_union(shapely.get_parts(areas))
    found = [p for p in shapely.get_parts(whole) if p.geom_type == "Polygon" and p.area > 0]
    if not found:
        return open_
    for area in found:
        closed.append(np.asarray(area.exterior.coords)[:-1])
        closed.extend(np.asarray(ring.coords)[:-1] for ring in area.interiors)
    near = shapely.buffer(whole, tolerance)
    return [line for line, drawn in zip(open_, lines, strict=True) if not near.contains(drawn)]


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


_TRANSFORM = re.compile(r"[\s,]*([A-Za-z]{4,9})\s*\(([^()]*)\)")
_FIGURES = {
    "matrix": (6,),
    "translate": (1, 2),
    "scale": (1, 2),
    "rotate": (1, 3),
    "skewx": (1,),
    "skewy": (1,),
}


def _makes_sense(transform: str) -> bool:
    """Whether a transform is a row of turns, moves and the like, each with as many figures as it takes."""
    at = 0
    for found in _TRANSFORM.finditer(transform):
        if found.start() != at or len(re.findall(_NUMBER, found[2])) not in _FIGURES.get(
            found[1].lower(), ()
        ):
            return False
        at = found.end()
    return not transform[at:].strip(" ,\t\r\n")


def _svg(data: bytes, unit_mm: float | None) -> _Read:
    from svgelements import SVG, Path, Shape

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
        box = [float(v) for v in re.findall(_NUMBER, root.get("viewBox", ""))]
        # in the file's own unit and from its own nought: the size on paper is in the scale
        wide, high = (box[2], box[3]) if len(box) == 4 else (1000.0, 1000.0)
        for key, value in (
            ("width", f"{wide:g}"),
            ("height", f"{high:g}"),
            ("viewBox", f"0 0 {wide:g} {high:g}"),
        ):
            root.set(key, value)
        one = unit_mm or scale or 1.0
        points = 0
        drawn = SVG.parse(io.BytesIO(ElementTree.tostring(root)), reify=True, ppi=96, width=wide, height=high)
        for element in drawn.elements():
            if isinstance(element, Shape):
                for part in Path(element).as_subpaths():
                    line = np.array(list(_followed(Path(part), CHORD / one))).reshape(-1, 2) * (1.0, -1.0)
                    points += len(line)
                    if points > MOST_POINTS:
                        raise ShapeError(_TOO_MANY)
                    if len(line) > 1:
                        if not np.isfinite(line).all():
                            raise ShapeError("has a line with a figure that is no number.")
                        _split(line, closed, open_)
            else:
                word = {"Text": "text", "Image": "picture"}.get(type(element).__name__)
                if word is not None:
                    left_out[word] += 1
        open_ = _joined(open_, closed, 0.05 / one)
    except (ShapeError, MemoryError):
        raise
    except ElementTree.ParseError as error:
        raise ShapeError(
            f"could not be read as SVG: it stops making sense at line {error.position[0]}."
        ) from None
    except Exception:  # any reader's failure on a foreign file means the same to the user
        raise ShapeError("could not be read as SVG.") from None
    return _Read(closed, open_, scale, unit, left_out)


def _svg_scale(root: ElementTree.Element) -> tuple[float | None, str]:
    """mm to one unit of an SVG drawing, and the unit of its size in words. Raises ShapeError where across
    and up differ."""
    box = [float(v) for v in re.findall(_NUMBER, root.get("viewBox", ""))]
    scales = []
    unit = ""
    for key, k in (("width", 2), ("height", 3)):
        size = re.fullmatch(rf"\s*({_NUMBER})\s*([a-z]*)\s*", root.get(key, ""))
        if size is None or size[2] not in _UNITS:
            continue
        unit = size[2]
        own = box[k] if len(box) == 4 and box[k] > 0 else float(size[1])
        scales.append(float(size[1]) * _UNITS[unit] / own if own else 0.0)
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
        raise ShapeError(_TOO_MANY)


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
