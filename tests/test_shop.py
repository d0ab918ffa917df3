"""Templates, copes, sheets and files that leave the screen."""

from __future__ import annotations

import csv
import io
import math
import re
import xml.etree.ElementTree as ET
from pathlib import Path

import ezdxf
import manifold3d
import numpy as np
import pypdf
import pytest
from hypothesis import given
from hypothesis import strategies as st
from nimble_cradle.bay.position import pose_of
from nimble_cradle.families.arm_cut import arm_cut
from nimble_cradle.geometry.cope import cope, mitre
from nimble_cradle.geometry.plate import plate_round
from nimble_cradle.job.base import JobError
from nimble_cradle.job.edits import with_value
from nimble_cradle.job.job import Job
from nimble_cradle.judge.verdict import verdict
from nimble_cradle.shop.cutlist import cut_list, cut_list_csv
from nimble_cradle.shop.dxf import dxf
from nimble_cradle.shop.pack import write_pack
from nimble_cradle.shop.page import Drawing, path, ruler
from nimble_cradle.shop.pdf import MM
from nimble_cradle.shop.plate_template import plate_drawing
from nimble_cradle.shop.svg import svg
from nimble_cradle.shop.templates import templates
from nimble_cradle.shop.tiles import OVERLAP, tiles, window
from shapely.geometry import Point, Polygon

from narrowed import bonded


def cut_tube(outside: float, wall: float, receiver: float, angle: float, offset: float) -> np.ndarray:
    """Vertices (n, 3) of a tube along +w cut by a cylinder, by mesh boolean (manifold3d). Tube on z, from
    -200 up to the receiver."""
    m = manifold3d.Manifold
    tube = (
        m.cylinder(300, outside / 2, outside / 2, 720)
        - m.cylinder(300, outside / 2 - wall, outside / 2 - wall, 720)
    ).translate((0, 0, -300))
    # receiver axis: a = cos(angle) w + sin(angle) e1, past the tube's axis by -offset along e2 (e1 = x, e2 =
    # w x e1 = y)
    eye = (
        m.cylinder(900, receiver / 2, receiver / 2, 1440)
        .translate((0, 0, -450))
        .rotate((0, angle, 0))
        .translate((0, -offset, 0))
    )
    return np.asarray((tube - eye).to_mesh().vert_properties)[:, :3]


@pytest.mark.parametrize(
    ("outside", "wall", "receiver", "angle", "offset"),
    [
        (50, 4, 92, 90, 0),
        (40, 3, 60, 90, 0),
        (40, 5, 60, 62, 0),
        (42.4, 3.2, 92, 75, 12),
        (38, 3, 76, 55, -9),
    ],
)
def test_cope_is_the_mesh_boolean(
    outside: float, wall: float, receiver: float, angle: float, offset: float
) -> None:
    vertices = cut_tube(outside, wall, receiver, angle, offset)
    for fit, radius in (("outer", outside / 2), ("inner", outside / 2 - wall)):
        wrap = cope(outside, wall, receiver, angle, offset, fit)  # type: ignore[arg-type]
        r, t = (
            np.hypot(vertices[:, 0], vertices[:, 1]),
            np.arctan2(vertices[:, 1], vertices[:, 0]) % (2 * np.pi),
        )
        on_cut = (np.abs(r - radius) < 0.01) & (vertices[:, 2] > -290) & (vertices[:, 2] < 0)
        assert on_cut.sum() > 200
        want = -vertices[on_cut, 2]
        got = np.interp(t[on_cut], wrap[:, 0] / (outside / 2), wrap[:, 1])
        near = np.abs(want - got) < 0.15
        assert near.mean() > 0.99, (
            fit,
            np.abs(want - got).max(),
        )  # the far side of the eye leaves a few points of its own


def test_thick_wall_cuts_to_the_deeper_line() -> None:
    both, outer, inner = (cope(40, 6, 60, 70, 4, fit) for fit in ("both", "outer", "inner"))
    assert (both[:, 1] >= np.maximum(outer[:, 1], inner[:, 1]) - 1e-9).all()
    assert both[-1, 0] == pytest.approx(math.pi * 40) and both[0, 1] == pytest.approx(both[-1, 1])


def test_square_cope_by_hand() -> None:
    # 40 on 60, square: depth 30 in the plane of the axes, sqrt(30^2 - 20^2) a quarter round
    wrap = cope(40, 2, 60, 90, 0, "outer")
    assert (
        wrap[0, 1] == pytest.approx(30)
        and wrap[90, 1] == pytest.approx(math.sqrt(500))
        and wrap[180, 1] == pytest.approx(30)
    )


@given(st.floats(20, 60), st.floats(0.05, 0.3), st.floats(1.05, 3), st.floats(30, 90), st.floats(-1, 1))
def test_cope_mirrors_with_its_offset(
    outside: float, wall: float, ratio: float, angle: float, off: float
) -> None:
    receiver = outside * ratio
    offset = off * (receiver - outside) / 2
    one, other = (
        cope(outside, wall * outside, receiver, angle, offset),
        cope(outside, wall * outside, receiver, angle, -offset),
    )
    assert np.allclose(one[:, 1], other[::-1, 1], atol=1e-6)


@pytest.mark.parametrize(
    ("arguments", "words"),
    [
        ((40, 25, 60, 90, 0), "wall"),
        ((40, 3, 60, 10, 0), "20 to 90"),
        ((40, 3, 60, 90, 15), "reaches past"),
        ((70, 3, 60, 90, 0), "reaches past"),
    ],
)
def test_a_cope_that_cannot_be_is_said(arguments: tuple[float, ...], words: str) -> None:
    with pytest.raises(ValueError, match=words):
        cope(*arguments)  # type: ignore[arg-type]


def test_mitre_by_hand() -> None:
    wrap = mitre(50, 4, 30, "outer")
    assert (
        wrap[0, 1] == pytest.approx(25 * math.tan(math.radians(30)))
        and wrap[180, 1] == pytest.approx(-wrap[0, 1])
        and np.ptp(mitre(50, 4, 0)[:, 1]) == 0
    )


@given(st.integers(0, 2000))
def test_plate_keeps_its_edge_distance(seed: int) -> None:
    rng = np.random.default_rng(seed)
    holes = np.array([[i, j] for i in (0, 45, 90) for j in (0, 50)]) + rng.uniform(-12, 12, (6, 2))
    plate = plate_round(holes, 11, 18, [(10, 25), (40, -5), (70, 25), (40, 55)])
    outline = Polygon(plate.outline)
    for hole in holes:
        assert outline.exterior.distance(Point(hole)) >= 18 * math.cos(
            math.pi / 64
        ) - 1e-9 and outline.contains(Point(hole))
    assert plate.area == pytest.approx(outline.area - 6 * math.pi / 4 * 121)


def test_plates_that_cannot_be_are_said(demo: Job) -> None:
    for arguments, words in (
        (((), 11, 18), "needs holes"),
        (([(0, 0), (5, 0)], 11, 18), "run into"),
        (([(0, 0)], 11, 5), "does not even leave"),
    ):
        with pytest.raises(ValueError, match=words):
            plate_round(*arguments)
    drawn, refused = templates(with_value(demo, "mounts/left/pad/holes", ()))
    assert [d.name for d in drawn] == [
        "plate-right",
        "cope-right",
        "foot-right",
        "eye-right",
        "cheek-right",
        "base-right",
        "plate-gearbox",
        "cheek-gearbox",
        "end-plate",
        "panel-panel-1",
        "pattern-left-pad",
    ] and refused[0].place == "mounts/left/pad/holes"


class TestFiles:
    def test_dxf_passes_its_audit_and_measures_true(self, demo: Job) -> None:
        for drawing in templates(demo)[0]:
            document = ezdxf.read(io.StringIO(dxf(drawing)))
            assert not document.audit().has_errors and document.units == ezdxf.units.MM
            assert {"CUT", "MARK", "FOLD"} <= {layer.dxf.name for layer in document.layers}
        document = ezdxf.read(io.StringIO(dxf(plate_drawing(demo.mounts[0], demo))))
        circles = [c for c in document.modelspace().query("CIRCLE") if c.dxf.layer == "CUT"]
        assert len(circles) == 4 and all(c.dxf.radius == 5.5 for c in circles)
        apart = sorted(
            (a.dxf.center - b.dxf.center).magnitude for i, a in enumerate(circles) for b in circles[:i]
        )
        assert apart == pytest.approx([64, 64, 84, 84, math.hypot(64, 84), math.hypot(64, 84)])

    def test_svg_is_true_to_size(self, demo: Job) -> None:
        drawing = plate_drawing(demo.mounts[0], demo)
        root = ET.fromstring(svg(drawing))
        x0, _, x1, _ = drawing.extent()
        assert float(root.attrib["width"].removesuffix("mm")) == pytest.approx(x1 - x0 + 16, abs=0.01)
        assert root.attrib["viewBox"].split()[2] == root.attrib["width"].removesuffix("mm")
        assert len(root.findall(".//{*}circle")) == 4

    @given(st.floats(30, 900), st.floats(30, 900), st.sampled_from(["A4", "Letter"]))
    def test_sheets_cover_the_drawing_and_overlap(self, wide: float, high: float, paper: str) -> None:
        drawing = Drawing("d", "d", (path([(0, 0), (wide, 0), (wide, high), (0, high)], closed=True),))
        sheets = tiles(drawing, paper)  # type: ignore[arg-type]
        w, h = window(paper)  # type: ignore[arg-type]
        for x in np.linspace(0, wide, 7):
            for y in np.linspace(0, high, 7):
                assert any(t.left <= x <= t.left + w and t.bottom <= y <= t.bottom + h for t in sheets)
        lefts = sorted({round(t.left, 6) for t in sheets})
        assert all(b - a == pytest.approx(w - OVERLAP) for a, b in zip(lefts, lefts[1:], strict=False))

    def test_rulers_measure_100_mm_and_4_in(self) -> None:
        for length, name in ((100.0, "100 mm"), (101.6, "4 in")):
            x0, _, x1, _ = Drawing(
                "r", "r", tuple(m for m in ruler((7, 3), length, length / 10, name) if not hasattr(m, "text"))
            ).extent()
            assert x1 - x0 == pytest.approx(length)

    def test_pack_is_whole_and_its_pdf_is_at_1_to_1(self, demo: Job, tmp_path: Path) -> None:
        told: list[str] = []
        files = write_pack(demo, tmp_path / "pack", "A4", told.append)
        assert {f.name for f in files} >= {
            "shop-pack.pdf",
            "plate-left.dxf",
            "plate-left.svg",
            "cope-left.dxf",
            "cut-list.csv",
            "report.json",
            "report.txt",
        }
        assert all(f.stat().st_size > 100 for f in files) and told[0] == "Judging the job"
        reader = pypdf.PdfReader(tmp_path / "pack" / "shop-pack.pdf")
        text = [" ".join(page.extract_text().split()) for page in reader.pages]
        assert "does not approve" in text[0] and "battery off" in text[0].lower()
        assert "do not cut yet" in text[0], "the demo has open questions and its first page must say so"
        page = next(
            i
            for i, t in enumerate(text)
            if "Left engine mount: plate" in t
            and "100 mm" in t
            and "4 in" in t
            and "do not cut from this sheet" in t
        )
        assert [float(s) for s in reader.pages[page].mediabox[2:]] == pytest.approx(
            [210 * MM, 297 * MM], abs=0.01
        )
        content = reader.pages[page].get_contents()
        assert content is not None
        lines = re.findall(r"([\d.]+) ([\d.]+) m ([\d.]+) ([\d.]+) l", content.get_data().decode("latin-1"))
        lengths = {round(abs(float(x1) - float(x0)) / MM, 2) for x0, y0, x1, y1 in lines if y0 == y1}
        assert {100.0, 101.6} <= lengths

    def test_same_job_same_bytes_and_cancel_writes_nothing(self, demo: Job, tmp_path: Path) -> None:
        first, second = write_pack(demo, tmp_path / "a"), write_pack(demo, tmp_path / "b")
        assert [f.read_bytes() for f in first if f.suffix in (".pdf", ".svg", ".csv")] == [
            f.read_bytes() for f in second if f.suffix in (".pdf", ".svg", ".csv")
        ]

        class Enough(Exception):
            pass

        def say(words: str) -> None:
            if words == "Writing":
                raise Enough

        with pytest.raises(Enough):
            write_pack(demo, tmp_path / "c", say=say)
        assert not (tmp_path / "c").exists()
        with pytest.raises(JobError, match="no mounts and no hole pattern"):
            bare = with_value(
                with_value(with_value(demo, "crossmember", None), "mounts", ()), "survey/patterns", ()
            )
            bare = with_value(bare, "panels", ())
            write_pack(bare, tmp_path / "d")
        with pytest.raises(JobError, match="could not be written"):
            write_pack(demo, Path("/proc/pack"))

    def test_cut_list(self, demo: Job) -> None:
        rows = {r.part: r for r in cut_list(demo)}
        assert rows["Left engine mount: block bolts"].quantity == 4
        # by hand: two legs of 161.2 across and so much down, 460 between; 15 mm of section each side of the
        # axis
        wide = demo.crossmember.points[0][1] - 230.0  # type: ignore[union-attr]
        down = demo.crossmember.points[0][2] - demo.crossmember.points[1][2]  # type: ignore[union-attr]
        past = 15 * math.tan(math.atan(down / wide) / 2)
        ends, middle = math.ceil(math.hypot(wide, down) + past), math.ceil(460 + 2 * past)
        cross = rows["Gearbox crossmember"]
        along = math.ceil(10 * (460 + 2 * math.hypot(wide, down))) / 10
        assert (
            f"cut {ends} + {middle} + {ends} long point" in cross.note and f"{along:g} mm along" in cross.note
        )
        assert cross.size == f"{2 * ends + middle} long"
        arm = rows["Left engine mount: arm"]
        assert float(arm.size.split()[0]) >= arm_cut(demo.mounts[0], pose_of(demo.position)).long_mm + 10
        # an eye lifted by 9 mm off its plate stands on a piece as high; half its outside wide
        k = next(i for i, m in enumerate(demo.mounts) if m.arm is None)
        mount, pose = demo.mounts[k], pose_of(demo.position)
        up = pose.rotation @ np.asarray(mount.pad.normal) / np.linalg.norm(mount.pad.normal)
        lifted = tuple(float(v) for v in np.asarray(mount.bush.centre) + 9.0 * up)
        high = with_value(demo, f"mounts/{mount.id}/bush/centre", lifted)
        assert f"{mount.name}: packing piece" not in {r.part for r in cut_list(high)}
        high = with_value(high, f"mounts/{mount.id}/packing", True)
        piece = {r.part: r for r in cut_list(high)}[f"{mount.name}: packing piece"]
        wide = (bonded(mount.bush).eye_bore_mm + 2 * bonded(mount.bush).eye_wall_mm) / 2
        assert piece.stock == f"flat {math.ceil(wide)} x 9" or piece.stock == f"flat {math.ceil(wide)} x 10"
        heights = [float(w) for w in piece.size.replace(",", "").split() if w.replace(".", "").isdigit()][1:]
        assert all(h == pytest.approx(9.0, abs=0.15) for h in heights)
        assert piece.mass_kg == pytest.approx(9 * wide * bonded(mount.bush).length_mm * 7.85e-6, abs=0.02)
        read = list(csv.DictReader(io.StringIO(cut_list_csv(demo))))
        assert [r["part"] for r in read] == list(rows) and all(r["quantity"].isdigit() for r in read)


def test_a_crossmember_whose_section_cannot_be_is_left_out_of_the_list_and_asked_about(demo: Job) -> None:
    """A 30 x 7 mm tube with a 3 mm wall has no room for its corners."""
    assert demo.crossmember is not None
    section = demo.crossmember.section.model_copy(
        update={"shape": "rectangle", "height_mm": 30.0, "width_mm": 7.0, "wall_mm": 3.0}
    )
    job = with_value(demo, "crossmember/section", section)
    assert list(cut_list(job)) == [r for r in cut_list(demo) if r.part != "Gearbox crossmember"]
    assert any("no room for its corners" in p.sentence for p in verdict(job).problems)
