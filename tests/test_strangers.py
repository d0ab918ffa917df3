"""Strangers' files: what they may cost is limited before anything is expanded, each ends in one sentence, and
nothing in them is markup, a formula, a path or a format."""

from __future__ import annotations

import csv
import io
import json
import os
import random
import resource
import struct
import subprocess
import sys
import zipfile
import zlib
from collections.abc import Callable
from pathlib import Path
from typing import Any

import ezdxf
import numpy as np
import pytest
import trimesh
from nimble_cradle import guarded as guard
from nimble_cradle.cli.main import main
from nimble_cradle.desk.kit.label import BOLD, PLAIN, Label, plain
from nimble_cradle.desk.kit.photo_limits import picture_of
from nimble_cradle.desk.window import Desk
from nimble_cradle.files import cell, from_cell
from nimble_cradle.geometry import mesh_stl
from nimble_cradle.geometry.mesh import left_out, raw_mesh, read_mesh, unit_said
from nimble_cradle.geometry.solids import ShapeError
from nimble_cradle.guarded import Refused, guarded
from nimble_cradle.job import read_archive, store
from nimble_cradle.job.base import JobError
from nimble_cradle.job.edits import with_value
from nimble_cradle.job.job import Job
from nimble_cradle.judge.stages import STAGES
from nimble_cradle.judge.verdict import stage_states, verdict
from nimble_cradle.shop.cutlist import cut_list_csv
from nimble_cradle.shop.dxf import dxf
from nimble_cradle.shop.page import Drawing, Text
from nimble_cradle.survey.csv_readings import MOST_BYTES, to_csv, with_csv
from nimble_cradle.survey.traced import read_traced
from nimble_cradle.telltales import tell_tales
from shapely.geometry import Polygon

from damage import change_bytes, change_job
from test_traced import svg


def glb(tree: dict[str, Any], rest: bytes = b"") -> bytes:
    """A GLB of a tree and its bytes."""
    text = json.dumps(tree).encode()
    text += b" " * (-len(text) % 4)
    tail = struct.pack("<I4s", len(rest), b"BIN\0") + rest if rest else b""
    head = struct.pack("<4sII", b"glTF", 2, 20 + len(text) + len(tail))
    return head + struct.pack("<I4s", len(text), b"JSON") + text + tail


def scene(accessor: dict[str, Any], **more: Any) -> dict[str, Any]:
    """A glTF scene of one mesh."""
    one = {"primitives": [{"attributes": {"POSITION": 0}}]}
    tree = {"asset": {"version": "2.0"}, "scenes": [{"nodes": [0]}], "nodes": [{"mesh": 0}], "meshes": [one]}
    return {**tree, "accessors": [{"componentType": 5126, "type": "VEC3", **accessor}], **more}


SPACE = "http://schemas.microsoft.com/3dmanufacturing/core/2015/02"
TRIANGLE = (
    '<object id="{}"><mesh><vertices><vertex x="0" y="0" z="0"/><vertex x="9" y="0" z="0"/><vertex x="0"'
    ' y="9" z="{}"/></vertices><triangles><triangle v1="0" v2="1" v3="{}"/></triangles></mesh></object>'
)


def three_mf(inside: str, build: str = '<item objectid="1"/>', unit: str = "inch", before: str = "") -> bytes:
    """A 3MF of some objects."""
    packed = io.BytesIO()
    with zipfile.ZipFile(packed, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr(
            "3D/3dmodel.model",
            f'{before}<model unit="{unit}"'
            f' xmlns="{SPACE}"><resources>{inside}</resources><build>{build}</build></model>',
        )
    return packed.getvalue()


def parts_of_parts(deep: int, wide: int) -> str:
    """A triangle in a part, used ``wide`` times in the next, and so on."""
    return TRIANGLE.format(1, 0, 2) + "".join(
        "<object"
        f' id="{k + 2}"><components>{f"<component objectid={chr(34)}{k + 1}{chr(34)}/>" * wide}</components>'
        "</object>"
        for k in range(deep)
    )


PLY = (
    b"ply\nformat %s 1.0\nelement vertex %d\nproperty float x\nproperty float y\nproperty float z\nelement"
    b" face %d\nproperty list uchar int vertex_indices\nend_header\n"
)
STL = b"solid x\nfacet normal 0 0 1\nouter loop\n%s\nendloop\nendfacet\nendsolid x\n"
BUFFER = {"bufferViews": [{"buffer": 0, "byteLength": 36}], "buffers": [{"byteLength": 36}]}

BOMBS: dict[str, Callable[[], bytes]] = {
    "count.glb": lambda: glb(scene({"count": 200_000_000})),
    "sparse.glb": lambda: glb(scene({"count": 200_000_000, "sparse": {"count": 1}})),
    "doubling.glb": lambda: glb(
        scene(
            {"count": 3, "bufferView": 0},
            nodes=[{"mesh": 0}, *({"children": [k, k]} for k in range(40))],
            scenes=[{"nodes": [40]}],
            **BUFFER,
        ),
        bytes(36),
    ),
    "ring.glb": lambda: glb(
        scene({"count": 3, "bufferView": 0}, nodes=[{"mesh": 0, "children": [0]}], **BUFFER), bytes(36)
    ),
    "negative.glb": lambda: glb(scene({"count": -3, "bufferView": 0}, **BUFFER), bytes(36)),
    "elsewhere.glb": lambda: glb(
        scene({"count": 3, "bufferView": 0}, **{**BUFFER, "buffers": [{"uri": "/etc/passwd"}]})
    ),
    "cut.glb": lambda: glb(scene({"count": 3, "bufferView": 0}, **BUFFER), bytes(36))[:-30],
    "blank.3mf": lambda: three_mf(TRIANGLE.format(1, 0, 2) + " " * 30_000_000),
    "items.3mf": lambda: three_mf(TRIANGLE.format(1, 0, 2), '<item objectid="1"/>' * 100_000),
    "parts.3mf": lambda: three_mf(parts_of_parts(12, 10), '<item objectid="13"/>'),
    "ring.3mf": lambda: three_mf(
        '<object id="1"><components><component objectid="1"/></components></object>'
    ),
    "entity.3mf": lambda: three_mf("&a;", before='<!DOCTYPE m [<!ENTITY a "aaaa">]>'),
    "index.3mf": lambda: three_mf(TRIANGLE.format(1, 0, 10**11)),
    "digits.3mf": lambda: three_mf(TRIANGLE.format(1, 0, "9" * 5000)),
    "placement.3mf": lambda: three_mf(TRIANGLE.format(1, 0, 2), '<item objectid="1" transform="1 2"/>'),
    "cut.3mf": lambda: three_mf(TRIANGLE.format(1, 0, 2))[:-40],
    "count.ply": lambda: PLY % (b"binary_little_endian", 4_000_000, 2_000_000) + bytes(500),
    "billions.ply": lambda: PLY % (b"ascii", 10**12, 1),
    "list.ply": lambda: PLY % (b"binary_little_endian", 3, 1) + bytes(36) + b"\xff\x00\x00\x00\x00",
    "count.off": lambda: b"OFF\n4000000 2000000 0\n" + b"0 " * 999,
    "digits.off": lambda: b"OFF\n3 1 0\n0 0 0\n1 0 0\n0 1 0\n3 0 1 " + b"9" * 5000,
    "count.stl": lambda: bytes(80) + struct.pack("<I", 4_000_000_000) + bytes(100),
    "letter.stl": lambda: STL % (b"vertex " + b"1" * 1_000_000 + b" 0 0\n" + b"vertex 0 0 0\n" * 50_000),
    "far.stl": lambda: STL % b"vertex 1e300 0 0\nvertex -1e300 0 0\nvertex 0 1e300 0",
    "line.obj": lambda: b"v 0 0 0\nv 1 0 0\nv 0 1 0\nf " + b"1 2 3 " * 400_000,
    "backwards.obj": lambda: b"v 0 0 0\nv 1 0 0\nv 0 1 0\nf -1 -2 -99\n",
}


def grown() -> tuple[float, int]:
    """CPU seconds so far of this process, its ended children and the reader that is alive; and the most
    memory, MB, that this process and the reader have had, together."""
    both = [resource.getrusage(who) for who in (resource.RUSAGE_SELF, resource.RUSAGE_CHILDREN)]
    seconds, most = sum(u.ru_utime + u.ru_stime for u in both), both[0].ru_maxrss // 1024
    if guard._KEPT.reader is not None:
        here = Path(f"/proc/{guard._KEPT.reader._run.pid}")
        ticks = (here / "stat").read_text().rpartition(")")[2].split()[11:13]
        seconds += sum(map(int, ticks)) / os.sysconf("SC_CLK_TCK")
        peak = next(line for line in (here / "status").read_text().splitlines() if line.startswith("VmHWM"))
        most += int(peak.split()[1]) // 1024
    return seconds, most


class TestMeshes:
    @pytest.mark.parametrize("name", BOMBS)
    def test_a_bomb_is_one_sentence_at_little_cost(self, name: str) -> None:
        """Each comes to gigabytes, or to minutes, where it is simply unpacked; here a reader that may take
        900 MB and 5 s of computing is not even needed for it."""
        data = BOMBS[name]()
        before = grown()
        with pytest.raises(ShapeError) as refused:
            read_mesh(name, data)
        unit_said(name, data)
        after = grown()
        said = str(refused.value)
        assert 15 < len(said) < 200 and said.isprintable() and name in said and said.endswith(".")
        assert "too long" not in said and "memory" not in said, said
        assert after[0] - before[0] < 5.0 and after[1] - before[1] < 300, (before, after)

    def test_every_kind_says_what_another_library_says(self) -> None:
        """A made body, turned, moved and scaled, in each kind and both ways of writing text."""
        made = trimesh.creation.icosphere(subdivisions=3, radius=40)
        made.apply_transform(trimesh.transformations.rotation_matrix(0.7, (1, 2, 3)))
        made.apply_translation((10, -20, 35))
        files = {k: made.export(file_type=k) for k in ("stl", "obj", "off", "glb", "ply", "stl_ascii")}
        files["a.ply"] = made.export(file_type="ply", encoding="ascii")
        files["upper.stl"] = files["stl_ascii"].upper()
        files["quads.obj"] = (
            "v 0 0 0\nv 10 0 0\nv 10 10 0\nv 0 10 0\nvn 0 0 1\nf 1//1 2//1 3//1 4//1\nf -4 -3 -2\n"
        )
        for name, text in files.items():
            data = text if isinstance(text, bytes) else text.encode()
            v, f = read_mesh(f"b.{name.split('.')[-1].split('_')[0]}", data)
            if name == "quads.obj":
                assert len(f) == 3
            else:
                got = trimesh.Trimesh(v, f, process=False)
                assert got.volume == pytest.approx(made.volume, rel=1e-5), name
                assert got.center_mass == pytest.approx(made.center_mass, abs=1e-3), name

    def test_parts_of_parts_of_a_3mf_stand_where_they_are_placed(self) -> None:
        """Rows of a placement turn first and then move (3MF Core Specification 1.3, from memory): by hand."""
        inside = (
            TRIANGLE.format(1, 0, 2)
            + '<object id="2"><components><component objectid="1" transform="0 1 0 -1 0 0 0 0 1 100 0 0"/>'
            "</components></object>"
        )
        build = '<item objectid="2" transform="1 0 0 0 1 0 0 0 1 0 0 7"/><item objectid="1"/>'
        v, f = raw_mesh("p.3mf", three_mf(inside, build))
        assert len(f) == 2 and unit_said("p.3mf", three_mf(inside)) == "inch"
        # (9, 0, 0) is turned a quarter to (0, 9, 0), (0, 9, 0) to (-9, 0, 0); then 100 along x and 7 up
        assert v[:3] == pytest.approx(np.array([[100, 0, 7], [100, 9, 7], [91, 0, 7]]))
        assert v[3:] == pytest.approx(np.array([[0, 0, 0], [9, 0, 0], [0, 9, 0]]))

    def test_a_bad_mesh_in_a_job_is_read_once_and_told_each_time(
        self, demo: Job, monkeypatch: pytest.MonkeyPatch
    ) -> None:
        from nimble_cradle.geometry import mesh
        from nimble_cradle.job.edits import with_mesh
        from nimble_cradle.job.shapes import Mesh

        job = with_mesh(demo, "bad.glb", glb(scene({"count": 77_000_000})))
        job = with_value(job, "items/rail-left/shapes", (Mesh(file="bad.glb"),))
        asked: list[str] = []

        def counted(*a: Any) -> Any:
            asked.append(a[0])
            return guarded(*a)

        monkeypatch.setattr(mesh, "guarded", counted)
        for y in (0.0, 1.0, 2.0):
            v = verdict(with_value(job, "position/y", y))
            assert any("bad.glb" in p.sentence for p in v.problems)
        assert len(asked) == 1

    def test_an_stl_with_more_behind_it_is_read_and_told(self) -> None:
        whole = trimesh.creation.box((80, 50, 30)).export(file_type="stl")
        v, f = read_mesh("b.stl", whole + b"colours of some program")
        assert len(f) == 12 and np.ptp(v, axis=0) == pytest.approx((80, 50, 30))
        assert left_out("b.stl", whole + bytes(23)) == ("23 bytes behind its last triangle were left out",)
        assert left_out("b.stl", whole) == ()
        with pytest.raises(ShapeError, match="cut off: it says 12 triangles and holds 11"):
            read_mesh("b.stl", whole[:-20])

    def test_a_large_text_stl_is_read_in_pieces(self, monkeypatch: pytest.MonkeyPatch) -> None:
        """Pieces of any size give what one piece gives, in either way of reading."""
        made = trimesh.creation.icosphere(subdivisions=4, radius=40)
        text = made.export(file_type="stl_ascii").encode()
        odd = text.replace(b"facet normal", b"facet  normal")
        whole = mesh_stl.stl(text)[0]
        assert len(whole) == 3 * len(made.faces) and np.abs(mesh_stl.stl(odd)[0] - whole).max() == 0
        for size in (1000, 9999, 1 << 18):
            monkeypatch.setattr(mesh_stl, "_PIECE", size)
            for one in (text, odd):
                assert np.array_equal(mesh_stl.stl(one)[0], whole)
        monkeypatch.setattr(mesh_stl, "_PIECE", 50)
        with pytest.raises(ValueError, match="without an end of a facet"):
            mesh_stl.stl(text)

    def test_200_damaged_meshes(self) -> None:
        """Bytes changed, cut, doubled: read or refused with a sentence, and never left hanging."""
        chance = random.Random(5)
        made = trimesh.creation.icosphere(subdivisions=1, radius=40)
        files = {k: made.export(file_type=k) for k in ("stl", "obj", "off", "glb", "ply", "stl_ascii")}
        files["3mf"] = three_mf(TRIANGLE.format(1, 0, 2))
        read = refused = 0
        for n in range(210):
            kind = list(files)[n % len(files)]
            whole = files[kind] if isinstance(files[kind], bytes) else files[kind].encode()
            data = change_bytes(whole, chance)
            try:
                v, f = read_mesh(f"x.{kind.split('_')[0]}", data)
                assert np.isfinite(v).all() and f.min() >= 0 and f.max() < len(v)
                read += 1
            except ShapeError as error:
                assert len(str(error)) < 200 and str(error).isprintable()
                refused += 1
        assert read > 20 and refused > 60


class TestReader:
    """The process that reads: what it may take, and what becomes of those who ask."""

    def test_one_that_never_ends_is_ended_by_its_own_computing_time(
        self, monkeypatch: pytest.MonkeyPatch
    ) -> None:
        monkeypatch.setattr(guard, "CPU_SECONDS", 0.2)
        monkeypatch.setenv("PYTHONPATH", str(Path(__file__).parent))
        guard._KEPT.end()
        with pytest.raises(Refused, match="takes too long to read"):
            guarded("reading_faults:spin", [], b"")
        with pytest.raises(Refused, match="needs too much memory"):
            guarded("reading_faults:swell", [], b"")
        with pytest.raises(Refused, match="ended its reader"):
            guarded("reading_faults:die", [], b"")
        with pytest.raises(Refused, match=r"cannot be read \(KeyError\)"):
            guarded("reading_faults:fail", [], b"")
        assert guarded("reading_faults:echo", ["a"], b"xyz")[0] == ["a", 3], "and the next is served"
        guard._KEPT.end()

    def test_it_is_stopped_when_it_is_no_longer_wanted(self, monkeypatch: pytest.MonkeyPatch) -> None:
        monkeypatch.setenv("PYTHONPATH", str(Path(__file__).parent))
        guard._KEPT.end()
        asked: list[str] = []

        def say(words: str) -> None:
            asked.append(words)
            if len(asked) > 3:
                raise InterruptedError

        with pytest.raises(InterruptedError):
            guarded("reading_faults:spin", [], b"", say)
        assert guard._KEPT.reader is None

    def test_it_goes_with_the_program(self) -> None:
        code = (
            "import os; from nimble_cradle import guarded as g; g.guarded('json:x', [], b'') if 0 else None\n"
            "try: g.guarded('math:sqrt', [], b'')\nexcept g.Refused: pass\n"
            "print(g._KEPT.reader._run.pid, flush=True); os.kill(os.getpid(), 9)"
        )
        done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=False)
        from processes import left_after

        assert left_after([int(done.stdout)]) == []


def drawing(draw: Callable[[Any], Any], kind: str = "asc", version: str = "R2010") -> bytes:
    """A DXF with what ``draw`` puts in it, as text or of the binary kind."""
    document = ezdxf.new(version, units=4)
    draw(document.modelspace())
    stream = io.BytesIO() if kind == "bin" else io.StringIO()
    document.write(stream, fmt=kind)
    data = stream.getvalue()
    return data if isinstance(data, bytes) else data.encode()


def plate(space: Any) -> None:
    """A plate of loose lines, one of them drawn twice and one corner met by a third line, with a hole."""
    corners = [(0.0, 0.0), (100.0, 0.0), (100.0, 50.0), (40.0, 80.0), (0.0, 50.0)]
    for k in (3, 0, 4, 1, 2, 2):
        a, b = corners[k], corners[(k + 1) % 5]
        space.add_line(*((a, b) if k % 2 else (b, a)))
    space.add_line((100, 50), (130, 90))
    space.add_circle((30, 30), 5)


class TestDrawings:
    @pytest.mark.parametrize(
        ("kind", "version"), [("asc", "R2010"), ("bin", "R2010"), ("bin", "R2000"), ("bin", "R12")]
    )
    def test_lines_and_the_binary_kind_are_read(self, kind: str, version: str) -> None:
        traced = read_traced("p.dxf", drawing(plate, kind, version), 1.0)
        assert Polygon(traced.outline).area == pytest.approx(100 * 50 + 100 * 30 / 2, abs=0.5)
        assert traced.holes == pytest.approx(np.array([[30, 30, 10]]), abs=0.01)
        assert traced.left_out == ("1 open line",), "the line that leads away"

    @pytest.mark.parametrize(
        ("inside", "area"),
        [
            ('<path d="M0 0 H80 V40 A 40 20 0 0 1 0 40 Z"/>', 80 * 40 + np.pi * 40 * 20 / 2),
            (
                '<path d="M0 0 Q 30 60 60 0 T 120 0 V 90 H 0 Z"/>',
                120 * 90 - 60 * 30 * 2 / 3 + 60 * 30 * 2 / 3,
            ),
            ('<g transform="skewX(25)"><rect x="10" y="10" width="50" height="30"/></g>', 1500.0),
            ('<g transform="skewY(-10) rotate(33 5 6)"><rect width="50" height="30"/></g>', 1500.0),
            (
                (
                    '<g transform="rotate(30 50 50)"><g transform="scale(2,.5)"><rect width="50"'
                    ' height="30"/></g></g>'
                ),
                1500.0,
            ),
            (
                '<g transform="matrix(0.8 0.6 -0.6 0.8 5 9)"><ellipse cx="40" cy="20" rx="30" ry="10"/></g>',
                np.pi * 300,
            ),
            (
                "".join(
                    f'<line x1="{a}" y1="{b}" x2="{c}" y2="{d}"/>'
                    for a, b, c, d in ((0, 0, 60, 0), (60, 0, 60, 40), (60, 40, 0, 0))
                ),
                1200.0,
            ),
        ],
        ids=["arc", "curves", "skewed", "skewed and turned", "turned and stretched", "matrix", "lines"],
    )
    def test_arcs_curves_skewed_and_turned_groups(self, inside: str, area: float) -> None:
        """Areas by hand: a half ellipse, a parabola (two thirds of its box), what skewing and turning
        leave."""
        traced = read_traced("b.svg", svg(inside))
        assert Polygon(traced.outline).area == pytest.approx(area, rel=2e-3)

    @pytest.mark.parametrize(
        ("name", "data", "words"),
        [
            ("e.dxf", lambda: drawing(lambda s: s.add_ellipse((0, 0), (1e12, 0), 0.5)), "reaches over 100 m"),
            ("c.dxf", lambda: drawing(lambda s: s.add_circle((0, 0), 1e12)), "reaches over 100 m"),
            ("a.dxf", lambda: drawing(lambda s: s.add_arc((1e9, 0), 5, 0, 90)), "reaches over 100 m"),
            (
                "s.dxf",
                lambda: drawing(lambda s: s.add_spline([(0, 0), (1e9, 1e9), (1e9, 0)])),
                "reaches over 100 m",
            ),
            (
                "o.dxf",
                lambda: drawing(lambda s: s.add_line((0, 0), (5, 5))),
                r"no closed line \(1 open line\)",
            ),
            ("b.dxf", lambda: drawing(plate, "bin")[:22] + bytes(50), "could not be read as DXF"),
            (
                "t.svg",
                lambda: svg('<g transform="translate()"><rect width="5" height="5"/></g>'),
                "makes no sense",
            ),
            (
                "m.svg",
                lambda: svg('<g transform="matrix(1 0 0)"><rect width="5" height="5"/></g>'),
                "makes no sense",
            ),
            (
                "w.svg",
                lambda: svg(f'<g transform="rotate({" " * 300_000}1"><rect width="5" height="5"/></g>'),
                "without end",
            ),
            ("v.svg", lambda: svg("<rect/>", f'viewBox="{"1" * 90_000}{"." * 90_000}"'), "without end"),
            ("n.svg", lambda: svg('<path d="M 0 0 L 1e400 5 L 5 5 Z"/>'), "SVG|number|over 100 m"),
            ("d.svg", lambda: svg("<g>" * 3000 + "</g>" * 3000), "ring|could not be read"),
        ],
    )
    def test_what_cannot_be_read_says_why_at_once(
        self, name: str, data: Callable[[], bytes], words: str
    ) -> None:
        made = data()
        before = grown()
        with pytest.raises(ShapeError, match=words) as refused:
            read_traced(name, made, 1.0)
        assert len(str(refused.value)) < 200 and grown()[0] - before[0] < 3.0

    def test_styles_of_any_size_cost_nothing(self) -> None:
        inside = f'<rect style="{"a:b;" * 100_000}" width="50" height="30"/><style>{"x{} " * 100_000}</style>'
        before = grown()
        assert Polygon(read_traced("b.svg", svg(inside)).outline).area == pytest.approx(1500)
        assert grown()[0] - before[0] < 1.5

    def test_damaged_drawings(self) -> None:
        chance, read, refused = random.Random(8), 0, 0
        whole = {
            "d.dxf": drawing(plate),
            "b.dxf": drawing(plate, "bin"),
            "s.svg": svg(
                '<g transform="rotate(30)"><rect width="50" height="30" rx="4"/><circle r="3"/></g>'
            ),
        }
        for n in range(90):
            name = list(whole)[n % 3]
            try:
                traced = read_traced(name, change_bytes(whole[name], chance), 1.0)
                assert np.isfinite(traced.outline).all() and np.isfinite(traced.holes).all()
                read += 1
            except ShapeError as error:
                assert len(str(error)) < 200 and str(error).isprintable()
                refused += 1
        assert read > 15 and refused > 15


class TestJobFiles:
    @pytest.mark.parametrize(
        ("text", "words"),
        [
            ('{"schema":4,"clearances":[' + "{}," * 1_300_000 + "{}]}", "values; a job holds at most"),
            ('{"schema":4,"items":[' + "{}," * 200_000 + "{}]}", "faults"),
            ('{"schema":4,"name":' + "9" * 5000 + "}", "more digits"),
            ('{"schema":4,"name":' + "9" * 400 + ',"vehicle":{"wheelbase_mm":' + "9" * 400 + "}}", "faults"),
            ('{"schema":' + "9" * 3000 + "}", "faults|newer"),
            ("[" * 100_000, "nested too deep"),
            ('{"schema":3,"mounts":5,"items":{"a":1},"wish":{"sales":[{"of":[]}]},"candidates":7}', "faults"),
            ('{"schema":4,"' + "k" * 100_000 + '":1}', "faults"),
            ('{"schema":4,"name":"\\ud800"}', "faults"),
            ('\ufeff{"schema":4}', "faults"),
        ],
    )
    def test_a_job_that_would_cost_much_is_refused_first(self, tmp_path: Path, text: str, words: str) -> None:
        path = tmp_path / "b.cradle"
        with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as archive:
            archive.writestr("job.json", text)
        before = grown()
        with pytest.raises(JobError, match=words) as refused:
            store.read(path)
        after = grown()
        assert len(refused.value.message) < 200 and all(len(f) < 200 for f in refused.value.faults)
        assert after[0] - before[0] < 5.0 and after[1] - before[1] < 400

    def test_archives_that_would_swell(self, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
        """Meshes of noughts (a thousand times their packed size), and a list of entries without end."""
        path = tmp_path / "z.cradle"
        with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as archive:
            archive.writestr("job.json", "{}")
            for k in range(4):
                with archive.open(f"meshes/{k}.stl", "w") as stream:
                    stream.write(bytes(10_000_000))
        assert read_archive.LEAST_TOTAL == 300_000_000
        monkeypatch.setattr(read_archive, "LEAST_TOTAL", 30_000_000)
        assert path.stat().st_size < 1_000_000
        before = grown()
        with pytest.raises(JobError, match="too large"):
            store.read(path)
        with zipfile.ZipFile(path, "w") as archive:
            for k in range(30_000):
                archive.writestr(f"photos/{k:070d}.png", b"")
        with pytest.raises(JobError, match="more entries than any job"):
            store.read(path)
        assert grown()[1] - before[1] < 200

    def test_a_log_of_millions_of_rows(self) -> None:
        """Empty rows cost nothing; of those that say something the newest are kept and the rest counted."""
        for rows, kept in (
            (b"{}\n" * 5_000_000, 1),
            (b'{"what":"x"}\n' * 300_000, read_archive.MOST_ROWS + 1),
        ):
            before = grown()
            log = read_archive._log_rows(rows)
            assert len(log) == kept and "left out" in log[0]["what"] and grown()[0] - before[0] < 5.0

    def test_damaged_jobs_load_judge_save_and_come_back(
        self, demo: Job, hatchback: Job, tmp_path: Path
    ) -> None:
        """Figures changed at random in both demos, rare and gross: refused in a sentence, or judged, saved
        and read back the same."""
        chance, judged = random.Random(3), 0
        bases = [
            (json.loads(store.job_text(job)), {m.name: m.data for m in job.meshes})
            for job in (demo, hatchback)
        ]
        for n in range(24):
            data, meshes = bases[n % 2]
            bad = json.loads(json.dumps(data))
            change_job(bad, chance)
            try:
                job = store.job_from_data(bad, meshes)
            except JobError as error:
                assert len(error.message) < 200 and error.message.isprintable()
                continue
            v = verdict(job)
            tell_tales(job, v)
            stage_states(job, v)
            store.write(tmp_path / "f.cradle", job)
            assert store.read(tmp_path / "f.cradle").job == job
            judged += 1
        assert judged > 6


BAD_CSV = [
    ("kind,point,value\nforward,1," + "9" * 200_000, "without end|too long"),
    ("kind,point,value\n" + '"' + "x" * 200_000, "without end"),
    ("kind,point,value\nforward," + "p" * 500 + ",5", "is no point"),
    ("kind,point,value," + "c" * 500 + "\n", "is not known"),
    ("kind,point,value\n" + "k" * 500 + ",1,5", "no kind of reading"),
    ("kind,point,value\n" + "forward,1,5\n" * 3000, "over 2000 readings"),
    ("\0\0\0", "no heading line|not CSV|not text"),
]


class TestReadings:
    @pytest.mark.parametrize(("text", "words"), BAD_CSV)
    def test_bad_readings_are_one_sentence(self, hatchback: Job, text: str, words: str) -> None:
        with pytest.raises(JobError, match=words) as refused:
            with_csv(hatchback, text, "n" * 300 + ".csv")
        assert len(refused.value.message) < 200 and refused.value.message.isprintable()

    def test_latin_1_is_read_and_what_is_not_text_refused(
        self, demo_path: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
    ) -> None:
        (tmp_path / "l.csv").write_bytes("kind,point,value,note\nforward,1,5,Tür".encode("latin-1"))
        assert (
            main(
                [
                    "readings",
                    str(demo_path),
                    "--add",
                    str(tmp_path / "l.csv"),
                    "-o",
                    str(tmp_path / "o.cradle"),
                ]
            )
            == 0
        )
        assert store.read(tmp_path / "o.cradle").job.survey.readings[-1].note == "Tür"
        (tmp_path / "b.csv").write_bytes(b"kind\0point")
        (tmp_path / "large.csv").write_bytes(b"x" * (MOST_BYTES + 1))
        for bad, words in (("b.csv", "is not text"), ("large.csv", "too large"), ("none.csv", "no file")):
            capsys.readouterr()
            assert (
                main(
                    [
                        "readings",
                        str(demo_path),
                        "--add",
                        str(tmp_path / bad),
                        "-o",
                        str(tmp_path / "p.cradle"),
                    ]
                )
                == 1
            )
            assert words in capsys.readouterr().err


def png(wide: int, high: int, whole: bool = True) -> bytes:
    """A PNG that says it has so many points; grey, or with nothing of them."""

    def chunk(kind: bytes, data: bytes) -> bytes:
        return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))

    head = b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", struct.pack(">IIBBBBB", wide, high, 8, 0, 0, 0, 0))
    rows = zlib.compress(bytes((wide + 1) * high)) if whole else b"no rows"
    return head + chunk(b"IDAT", rows) + chunk(b"IEND", b"")


class TestPhotographs:
    @pytest.mark.parametrize(
        ("data", "words"),
        [
            (png(60_000, 60_000, False), "3,600 million points"),
            (png(40, 30, False), "damaged"),
            (b"\x89PNG\r\n\x1a\nnothing", "could not be read"),
            (b"\xff\xd8\xff\xe0" + bytes(200), "could not be read|damaged"),
            (b"<svg/>", "could not be read"),
            (b"", "could not be read"),
        ],
    )
    def test_what_is_none_or_too_large_is_one_sentence(self, qapp: Any, data: bytes, words: str) -> None:
        with pytest.raises(JobError, match=words):
            picture_of("p.png", data)

    def test_a_large_one_is_shown_smaller(self, qapp: Any) -> None:
        before = grown()
        image = picture_of("p.png", png(8000, 2000), 400, 400)
        assert (image.width(), image.height()) == (400, 100) and grown()[1] - before[1] < 200


TRAP = "<img src=http://localhost:9/x.png><b>&amp;%%c {0}"


class TestPlainText:
    def test_labels_show_every_letter(self, qapp: Any) -> None:
        from PyQt6.QtCore import Qt
        from PyQt6.QtGui import QTextDocument

        label = Label(TRAP)
        assert label.text() == TRAP and label.textFormat() == Qt.TextFormat.PlainText
        label.setText(f"{BOLD}{TRAP}{PLAIN}\nunder it")
        shown = QTextDocument()
        shown.setHtml(label.text())
        assert shown.toPlainText() == f"{TRAP}\nunder it" and "<img" not in label.text()
        shown.setHtml(plain(TRAP))
        assert shown.toPlainText() == TRAP and plain("a plain tip") == "a plain tip"

    def test_no_room_takes_a_name_for_markup(self, desk: Desk, qtbot: Any) -> None:
        """Every name in the job is a trap; every room is opened, and no text that the toolkit would take for
        markup holds it."""
        from PyQt6.QtCore import Qt
        from PyQt6.QtWidgets import QLabel, QTextEdit, QWidget

        job = desk.session.job
        for path in (
            *(f"items/{i.id}/name" for i in job.items),
            *(f"powertrain/pieces/{p.id}/name" for p in job.powertrain.pieces),
            *(f"mounts/{m.id}/name" for m in job.mounts),
            *(f"clearances/{c.id}/{w}" for c in job.clearances for w in ("name", "why")),
            *(f"survey/points/{p.id}/name" for p in job.survey.points),
            "powertrain/name",
            "vehicle/name",
            "name",
        ):
            job = with_value(job, path, TRAP)
        desk.session.edit("All names", job)
        desk.session.place.note(TRAP)
        seen = 0
        for stage in STAGES:
            desk.go(stage.id)
            desk.open_door(tell_tales(job, desk.session.verdict)[0])
            qtbot.wait(1)
            for widget in desk.findChildren(QWidget):
                tip = widget.toolTip()
                assert "<img" not in tip, tip
                if isinstance(widget, QLabel):
                    seen += "img src" in widget.text()
                    assert widget.textFormat() == Qt.TextFormat.PlainText or "<img" not in widget.text()
                elif isinstance(widget, QTextEdit):
                    assert "<img" not in widget.toHtml()
        assert seen > 3

    def test_nothing_in_the_pack_is_a_formula_a_tag_or_a_letter_code(self, demo: Job) -> None:
        import xml.etree.ElementTree as ET

        from nimble_cradle.shop.svg import svg as to_svg

        job = with_value(demo, "mounts/left/name", '=HYPERLINK("http://x")')
        rows = list(csv.reader(io.StringIO(cut_list_csv(job))))
        assert not any(c.startswith(("=", "+", "@")) for row in rows for c in row)
        assert any(c.startswith("'=HYPER") for row in rows for c in row)
        page = Drawing("t", TRAP, (Text((0.0, 0.0), TRAP + "\\U+0041", 3.0),))
        text = next(e.text for e in ET.fromstring(to_svg(page)).iter() if e.tag.endswith("text"))
        assert text == TRAP + "\\U+0041"
        document = ezdxf.read(io.StringIO(dxf(page)))
        (told,) = document.modelspace().query("TEXT")
        assert told.plain_text() == TRAP.replace("%%", "% %") + "\\ U+0041"

    @pytest.mark.parametrize(
        "text", ["=1+1", "+x", "-cmd", "@a", "'=1", "''x", "plain", "-12 mm", "+3.5", "", "\t=x"]
    )
    def test_cells_go_out_safe_and_come_back(self, text: str) -> None:
        out = str(cell(text))
        assert from_cell(out) == text or text in ("-12 mm", "+3.5")
        assert not out.startswith(("=", "@", "\t")) and (out[:1] not in ("+", "-") or out == text)

    def test_a_note_that_is_a_formula_goes_round(self, hatchback: Job) -> None:
        job = with_value(hatchback, "survey/readings/0/note", "=1+1")
        again, _ = with_csv(with_value(job, "survey/readings", ()), to_csv(job))
        assert "'=1+1" in to_csv(job) and again.survey.readings[0].note == "=1+1"
