"""Traced outlines and holes from drawings: the same bracket drawn in every way a drawing program may write
it."""

from __future__ import annotations

import io
import math
from pathlib import Path

import ezdxf
import numpy as np
import pytest
from nimble_cradle.geometry.solids import ShapeError
from nimble_cradle.survey.traced import Traced, read_traced
from shapely.geometry import Polygon

OUTLINE = [(0.0, 0.0), (120.0, 0.0), (120.0, 30.0), (45.0, 80.0), (0.0, 80.0)]
HOLES = [(16.0, 14.0, 11.0), (100.0, 12.0, 13.5), (22.0, 60.0, 9.0)]


def as_drawn(traced: Traced, holes: list[tuple[float, float, float]] = HOLES, abs_: float = 0.02) -> None:
    """The bracket, whichever hole came first."""
    assert len(traced.holes) == len(holes), traced.holes
    found = traced.holes[np.lexsort(traced.holes.T[::-1])]
    assert found == pytest.approx(np.array(sorted(holes)), abs=abs_)
    if len(traced.outline):
        assert Polygon(traced.outline).symmetric_difference(Polygon(OUTLINE)).area < 5.0


def svg(inside: str, size: str = 'width="200mm" height="100mm" viewBox="0 -100 200 100"') -> bytes:
    return (
        '<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" '
        + size
        + ">"
        + inside
        + "</svg>"
    ).encode()


POLYGON = f'<polygon points="{" ".join(f"{x},{-y}" for x, y in OUTLINE)}"/>'


def circles(draw: str) -> str:
    """Every hole drawn by a pattern with {x} {y} (y down), {r} and {d}."""
    return "".join(draw.format(x=x, y=-y, r=d / 2, d=d, l=x - d / 2, q=x + d / 2) for x, y, d in HOLES)


@pytest.mark.parametrize(
    "inside",
    [
        circles('<circle cx="{x}" cy="{y}" r="{r}"/>'),
        circles('<ellipse cx="{x}" cy="{y}" rx="{r}" ry="{r}"/>'),
        circles('<path d="M {l} {y} a {r} {r} 0 1 0 {d} 0 a {r} {r} 0 1 0 -{d} 0 Z"/>'),
        circles('<g transform="translate({x},{y})"><g transform="scale({r})"><circle r="1"/></g></g>'),
        '<defs><circle id="c" r="1"/></defs>'
        + circles('<use xlink:href="#c" transform="translate({x},{y}) scale({r})"/>'),
        '<defs><g id="c"><circle r="5.5" cx="1"/></g></defs><use href="#c" x="15" y="-14"/>'
        + circles('<circle cx="{x}" cy="{y}" r="{r}"/>').split("/>", 1)[1],
        circles('<circle cx="{x}" cy="{y}" r="{r}"/>') * 2,
        circles(
            '<path d="M {q} {y} c 0 K{r} -L{r} M{r} -{r} M{r} c -K{r} 0 -M{r} -L{r} -M{r} -{r}'
            ' c 0 -K{r} L{r} -M{r} {r} -M{r} c K{r} 0 M{r} L{r} M{r} {r} z"/>'
        ),
    ],
    ids=["circle", "ellipse", "arcs", "groups", "use", "use with x", "twice", "curves"],
)  # fmt: skip
def test_svg_however_it_is_drawn(inside: str) -> None:
    import re

    # the usual four cubic curves of a circle: handles of 0.5523 r
    for key, share in (("K", 0.5522847), ("L", 0.4477153), ("M", 1.0)):
        inside = re.sub(rf"(-?){key}([\d.]+)", lambda m, s=share: f"{m[1]}{float(m[2]) * s:.6f}", inside)  # type: ignore[misc]
    as_drawn(read_traced("b.svg", svg(POLYGON + inside)))


def test_svg_units_and_what_is_not_read() -> None:
    inside = (
        POLYGON
        + circles('<circle cx="{x}" cy="{y}" r="{r}"/>')
        + '<text x="3">a</text><path d="M 1 1 L 5 5"/>'
    )
    traced = read_traced("b.svg", svg(inside))
    assert traced.left_out == ("1 open line", "1 text") and traced.unit == "mm"
    as_drawn(read_traced("b.svg", svg(inside, 'viewBox="0 -100 200 100"'), unit_mm=1.0))
    tenth = read_traced("b.svg", svg(inside, 'width="20mm" height="10mm" viewBox="0 -100 200 100"'))
    assert np.sort(tenth.holes[:, 2]) == pytest.approx([0.9, 1.1, 1.35], abs=0.005)
    inches = read_traced("b.svg", svg(inside, 'width="2in" height="1in" viewBox="0 -100 200 100"'))
    assert np.sort(inches.holes[:, 2]) == pytest.approx(np.array([9, 11, 13.5]) * 50.8 / 200, abs=0.005)
    with pytest.raises(ShapeError, match="does not say its unit"):
        read_traced("b.svg", svg(inside, 'viewBox="0 -100 200 100"'))
    with pytest.raises(ShapeError, match="one scale across"):
        read_traced("b.svg", svg(inside, 'width="200mm" height="150mm" viewBox="0 -100 200 100"'))
    hidden = read_traced("b.svg", svg(inside + '<circle cx="60" cy="-30" r="6" display="none"/>'))
    as_drawn(hidden)
    assert "1 hidden thing" in hidden.left_out


def test_a_rounded_corner_of_the_outline_is_an_arc() -> None:
    """A slot-ended plate: area of 80 by 40 and two half rounds."""
    body = '<path d="M 20 -50 h 80 a 20 20 0 0 0 0 -40 h -80 a 20 20 0 0 0 0 40 z"/>'
    traced = read_traced("b.svg", svg(body))
    assert not len(traced.holes)
    assert Polygon(traced.outline).area == pytest.approx(80 * 40 + math.pi * 400, rel=2e-3)


def test_a_round_plate_is_an_outline_and_a_lone_circle_a_hole() -> None:
    flange = (
        '<circle cx="60" cy="-50" r="45"/><circle cx="60" cy="-20" r="5"/><circle cx="60" cy="-80" r="5"/>'
    )
    traced = read_traced("b.svg", svg(flange))
    assert len(traced.holes) == 2 and Polygon(traced.outline).area == pytest.approx(math.pi * 45**2, rel=2e-3)
    assert len(read_traced("b.svg", svg('<circle cx="60" cy="-50" r="45"/>')).holes) == 1


@pytest.mark.parametrize(
    ("inside", "words"),
    [
        ('<g id="a"><use href="#a"/></g>', "in a ring"),
        (
            '<defs><circle id="u0" r="1"/>'
            + "".join(f'<g id="u{k + 1}">' + f'<use href="#u{k}"/>' * 20 + "</g>" for k in range(6))
            + '</defs><use href="#u6"/>',
            "too many",
        ),
        ("<path d='M 0 0 L 5", "could not be read"),
        ("<path d='M 0 0 L 5 z'/>", "no circle and no closed line"),
    ],
)
def test_svg_that_would_never_end_is_refused(inside: str, words: str) -> None:
    with pytest.raises(ShapeError, match=words):
        read_traced("b.svg", svg(inside))


def dxf(draw: str) -> bytes:
    """The bracket as DXF, its holes drawn one way or another."""
    document = ezdxf.new("R2010", units=4)
    space = document.modelspace()
    if draw == "loose lines":
        for k in (3, 1, 4, 0, 2):
            a, b = OUTLINE[k], OUTLINE[(k + 1) % 5]
            space.add_line(*((b, a) if k % 2 else (a, b)))
    else:
        space.add_lwpolyline(OUTLINE, close=True)
    block = document.blocks.new("HOLE")
    block.add_circle((0.25, 0), 0.5)
    for x, y, d in HOLES:
        if draw == "arcs":
            space.add_arc((x, y), d / 2, 30, 200)
            space.add_arc((x, y), d / 2, 200, 30)
        elif draw == "bulges":
            space.add_lwpolyline([(x - d / 2, y, 1.0), (x + d / 2, y, 1.0)], format="xyb", close=True)
        elif draw == "blocks":
            space.add_blockref("HOLE", (x - 0.25 * d, y), dxfattribs={"xscale": d, "yscale": d})
        elif draw == "splines":
            t = np.linspace(0, 2 * math.pi, 25)
            space.add_spline(np.column_stack([x + d / 2 * np.cos(t), y + d / 2 * np.sin(t), 0 * t]))
        elif draw == "turned over":
            space.add_circle((-x, y), d / 2, dxfattribs={"extrusion": (0, 0, -1)})
        else:
            space.add_circle((x, y), d / 2)
    stream = io.StringIO()
    document.write(stream)
    return stream.getvalue().encode()


@pytest.mark.parametrize(
    "draw", ["circles", "arcs", "bulges", "blocks", "splines", "turned over", "loose lines"]
)
def test_dxf_however_it_is_drawn(draw: str) -> None:
    traced = read_traced("b.dxf", dxf(draw))
    as_drawn(traced, abs_=0.06 if draw == "splines" else 0.02)
    assert len(traced.outline) == 5 and traced.left_out == ()


def test_dxf_left_out_hidden_and_too_much(tmp_path: Path) -> None:
    document = ezdxf.new("R2010", units=1, setup=True)
    space = document.modelspace()
    space.add_circle((1, 2), 0.25)
    space.add_text("deep")
    document.layers.add("HELP").off()
    space.add_circle((5, 2), 0.25, dxfattribs={"layer": "HELP"})
    stream = io.StringIO()
    document.write(stream)
    traced = read_traced("b.dxf", stream.getvalue().encode())
    assert traced.holes == pytest.approx(np.array([[25.4, 50.8, 12.7]]), abs=3e-3)
    assert traced.left_out == ("1 text", "1 thing on a hidden layer")
    block = document.blocks.new("ONE")
    block.add_circle((0, 0), 1)
    space.add_blockref(
        "ONE",
        (0, 0),
        dxfattribs={"row_count": 9000, "column_count": 9000, "row_spacing": 3, "column_spacing": 3},
    )
    stream = io.StringIO()
    document.write(stream)
    with pytest.raises(ShapeError, match="too many"):
        read_traced("b.dxf", stream.getvalue().encode())
    with pytest.raises(ShapeError, match="could not be read as DXF"):
        read_traced("b.dxf", b"no drawing at all")
