"""Scans: reading, cleaning, scale, placing, thinning, and gaps against open sheets."""

from __future__ import annotations

import io
import zipfile
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import trimesh
from hypothesis import given
from hypothesis import strategies as st
from nimble_cradle.geometry import cells, mesh_limits
from nimble_cradle.geometry.align import rigid_fit
from nimble_cradle.geometry.bodies import Bodies
from nimble_cradle.geometry.distance import nearest
from nimble_cradle.geometry.mesh import raw_mesh, read_mesh, unit_said
from nimble_cradle.geometry.pose import Pose, rotation_xyz
from nimble_cradle.geometry.refine import refine
from nimble_cradle.geometry.scan import Scan, cleaned, clustered, cropped, thinned
from nimble_cradle.geometry.scan_ply import from_own_ply, to_ply
from nimble_cradle.geometry.solid_makers import bar, box
from nimble_cradle.geometry.solids import MeshPart, ShapeError
from nimble_cradle.geometry.surface import Surface, closest_on_triangles
from nimble_cradle.survey import kept_cells


def bay_surface(fine: int = 60) -> tuple[np.ndarray, np.ndarray]:
    """An open, dented bay of our own: floor, two walls and a firewall with a bump, about 900 x 700 x 400
    mm."""

    def sheet(origin: Any, u: Any, v: Any, bump: float) -> tuple[np.ndarray, np.ndarray]:
        s, t = (
            g.ravel() for g in np.meshgrid(np.linspace(0, 1, fine), np.linspace(0, 1, fine), indexing="ij")
        )
        normal = np.cross(u, v) / np.linalg.norm(np.cross(u, v))
        lift = bump * np.exp(-(((s - 0.4) / 0.2) ** 2 + ((t - 0.6) / 0.15) ** 2)) + 3 * np.sin(
            9 * s
        ) * np.sin(7 * t)
        p = np.asarray(origin) + np.outer(s, u) + np.outer(t, v) + np.outer(lift, normal)
        k = np.arange(fine * fine).reshape(fine, fine)
        a, b, c, d = k[:-1, :-1].ravel(), k[1:, :-1].ravel(), k[1:, 1:].ravel(), k[:-1, 1:].ravel()
        return p, np.vstack([np.column_stack([a, b, c]), np.column_stack([a, c, d])])

    points, faces, base = [], [], 0
    for args in (
        ((-450, -350, -200), (900, 0, 0), (0, 700, 0), 60),
        ((-450, 350, -200), (900, 0, 0), (0, 0, 400), -50),
        ((-450, -350, -200), (0, 0, 400), (900, 0, 0), -40),
        ((-450, -350, -200), (0, 700, 0), (0, 0, 400), 70),
    ):
        p, f = sheet(*args)
        points.append(p)
        faces.append(f + base)
        base += len(p)
    return np.vstack(points), np.vstack(faces)


class TestReading:
    def test_every_kind_gives_the_same_mesh(self) -> None:
        made = trimesh.creation.box((80, 50, 30))
        model = (
            '<model unit="millimeter"'
            ' xmlns="http://schemas.microsoft.com/3dmanufacturing/core/2015/02"><resources><object'
            ' id="1"><mesh><vertices>'
            + "".join(f'<vertex x="{x}" y="{y}" z="{z}"/>' for x, y, z in made.vertices)
            + "</vertices><triangles>"
            + "".join(f'<triangle v1="{a}" v2="{b}" v3="{c}"/>' for a, b, c in made.faces)
            + '</triangles></mesh></object></resources><build><item objectid="1" transform="1 0 0 0 1 0 0 0 1'
            ' 5 0 0"/></build></model>'
        )
        packed = io.BytesIO()
        with zipfile.ZipFile(packed, "w") as archive:
            archive.writestr("3D/3dmodel.model", model)
        files = {k: made.export(file_type=k) for k in ("stl", "obj", "ply", "off", "glb", "stl_ascii")} | {
            "3mf": packed.getvalue()
        }
        for kind, data in files.items():
            raw = data.encode() if isinstance(data, str) else data
            v, f = read_mesh(f"b.{kind.removesuffix('_ascii')}", raw)
            assert len(f) == 12 and np.ptp(v, axis=0) == pytest.approx((80, 50, 30)), kind
        assert unit_said("b.3mf", packed.getvalue()) == "mm" and unit_said("b.glb", b"") == "m"
        own = to_ply(Scan(np.asarray(made.vertices), np.asarray(made.faces)))
        assert unit_said("b.ply", own) == "mm" and read_mesh("b.ply", own)[1].tolist() == made.faces.tolist()
        assert trimesh.load_mesh(io.BytesIO(own), file_type="ply").volume == pytest.approx(80 * 50 * 30), (
            "others read it too"
        )
        for broken in (
            own[:-1],
            own.replace(b"element face 12", b"element face 99"),
            own[:-4] + b"\xff\xff\xff\x7f",
        ):
            assert from_own_ply(broken) is None
        assert unit_said("b.stl", files["stl"]) == "" == unit_said("b.obj", b""), "then it must be asked"

    def test_dirt_is_put_right_and_told(self) -> None:
        v, f = bay_surface(12)
        v = np.vstack([v, [[np.nan, 0, 0]]])
        dirty = np.vstack([f, f[:7], [[0, 0, 5], [3, 3, 3]], [[0, 1, len(v) - 1]]])
        scan = cleaned(v, dirty)
        assert len(scan.faces) == len(f) and np.isfinite(scan.vertices).all()
        told = " ".join(scan.notes)
        assert (
            "1 triangles with points that are not numbers" in told
            and "2 triangles without area" in told
            and "7 triangles that were there twice" in told
        )

    @pytest.mark.parametrize(
        ("name", "data", "words"),
        [
            (
                "a.stl",
                b"dear diary, today I scanned the bay and it went well " * 3,
                "neither whole binary STL nor text",
            ),
            ("a.stl", b"", "is empty"),
            ("a.stl", b"\0" * 80 + (9).to_bytes(4, "little") + b"\0" * 50, "neither whole binary STL"),
            (
                "a.stl",
                b"solid x\nfacet\nouter loop\nvertex 0 0 0\nvertex 1 0 0\nendloop\nendfacet\nendsolid",
                "stops inside a triangle",
            ),
            ("a.stl", b"solid x\nfacet\nouter loop\nvertex 0 0 zero\nendloop\nendfacet", "not three numbers"),
            ("a.obj", b"v 0 0 0\nv 1 0 0\nv 0 1 0\n", "holds no triangles"),
            ("a.ply", b"ply?", "could not be read as PLY"),
            ("a.glb", b"glTF" + b"\0" * 40, "could not be read as GLB"),
            ("a.3mf", b"PK nonsense", "could not be read as 3MF"),
            ("a.step", b"ISO-10303", "is not a mesh this program reads"),
        ],
    )
    def test_what_is_no_mesh_gets_one_sentence(self, name: str, data: bytes, words: str) -> None:
        with pytest.raises(ShapeError, match=words) as refused:
            raw_mesh(name, data)
        assert str(refused.value).count(".") <= 3 and "Traceback" not in str(refused.value)

    def test_more_triangles_than_are_read(self, monkeypatch: pytest.MonkeyPatch) -> None:
        monkeypatch.setattr(mesh_limits, "MOST_TRIANGLES", 200)
        v, f = bay_surface(9)
        with pytest.raises(ShapeError, match="has 512 triangles; at most 200 are read"):
            raw_mesh("large.ply", to_ply(Scan(v, f)))

    def test_a_size_that_cannot_be_a_bay(self) -> None:
        v, f = bay_surface(6)
        for factor, words in ((1e6, "long: its unit is another"), (1e-5, "mm long: its unit is another")):
            with pytest.raises(ShapeError, match=words):
                cleaned(v * factor, f)


class TestSurface:
    def test_distances_against_an_independent_library(self) -> None:
        """Points near an open surface: our distances against fcl's between the mesh and a ball at each
        point."""
        import fcl

        v, f = bay_surface(14)
        model = fcl.BVHModel()
        model.beginModel(len(v), len(f))
        model.addSubModel(v, f)
        model.endModel()
        sheet = fcl.CollisionObject(model)
        rng = np.random.default_rng(1)
        points = rng.uniform(v.min(0), v.max(0), (150, 3))
        theirs = [
            fcl.distance(
                fcl.CollisionObject(fcl.Sphere(0.01), fcl.Transform(p)),
                sheet,
                fcl.DistanceRequest(),
                fcl.DistanceResult(),
            )
            for p in points
        ]
        assert Surface(v, f, 5.0).distances(points) == pytest.approx(np.array(theirs) + 0.01, abs=0.02)

    @given(st.lists(st.floats(-9, 9), min_size=12, max_size=12))
    def test_closest_point_by_brute_force(self, numbers: list[float]) -> None:
        p, corners = np.array(numbers[:3]), np.array(numbers[3:]).reshape(1, 3, 3)
        if np.linalg.norm(np.cross(corners[0, 1] - corners[0, 0], corners[0, 2] - corners[0, 0])) < 1e-2:
            return
        on = closest_on_triangles(p[None], corners)[0]
        w = np.array([(i, j, 40 - i - j) for i in range(41) for j in range(41 - i)]) / 40
        brute = np.linalg.norm(w @ corners[0] - p, axis=1).min()
        assert np.linalg.norm(on - p) <= brute + 1e-9
        assert np.linalg.norm(on - p) >= brute - 0.9, "no nearer than the grid allows"

    def test_thinning_keeps_its_word(self) -> None:
        v, f = bay_surface(90)
        scan = Scan(v, f)
        for deviation in (0.3, 2.0):
            thin, worst = thinned(scan, deviation)
            assert worst <= deviation and len(thin.faces) < 0.5 * len(f)
            assert Surface(thin.vertices, thin.faces, 1.5).distances(v[::7]).max() <= deviation + 1e-6
        assert len(clustered(scan, 30.0).faces) < 0.3 * len(f)
        rng = np.random.default_rng(0)
        with pytest.raises(ShapeError, match="too rough"):
            thinned(Scan(rng.uniform(0, 100, (600, 3)), rng.integers(0, 600, (900, 3))), 0.001)

    def test_crop_and_split(self) -> None:
        v, f = bay_surface(30)
        low, high = np.array([-200.0, -200, -300]), np.array([200.0, 200, 100])
        inside, outside = cropped(Scan(v, f), low, high), cropped(Scan(v, f), low, high, keep_inside=False)
        assert len(inside.faces) + len(outside.faces) == len(f) and inside.vertices[:, 0].max() < 240
        with pytest.raises(ShapeError, match="would be left"):
            cropped(Scan(v, f), low + 5000, high + 5000)


class TestPlacing:
    def test_a_scan_with_a_known_transform(self) -> None:
        """Noise 0.5 mm, picks good to 3 mm, scale 1.8 % off: placed within 0.3 mm and 0.1 % in three
        seeds."""
        v, f = bay_surface(60)
        for seed in range(3):
            rng = np.random.default_rng(seed)
            pose = Pose(rotation_xyz(*rng.uniform(-40, 40, 3)), rng.uniform(-500, 500, 3))
            seen = pose.inverse().points(v) / 1.018 + rng.normal(0, 0.5, v.shape)
            picks = rng.choice(len(v), 5, replace=False)
            rough = rigid_fit(seen[picks] + rng.normal(0, 3, (5, 3)), v[picks], with_scale=True)
            fine = refine(rough.points(seen), Surface(v, f, 8.0), keep=0.9, with_scale=True)
            placed = fine.points(rough.points(seen))
            assert np.linalg.norm((placed - v).mean(0)) < 0.3
            assert fine.scale * rough.scale == pytest.approx(1.018, rel=1e-3)
            corners = np.array([v.min(0), v.max(0)])
            back = fine.points(rough.points(pose.inverse().points(corners) / 1.018))
            assert np.abs(back - corners).max() < 0.6 and not fine.loose

    def test_strays_are_trimmed(self) -> None:
        v, f = bay_surface(50)
        rng = np.random.default_rng(3)
        seen = Pose(rotation_xyz(1, -1, 0.5), np.array([6.0, -4, 5])).points(v)
        seen = np.vstack([seen, rng.uniform(-150, 150, (1500, 3))])
        fine = refine(seen, Surface(v, f, 8.0), keep=0.8)
        assert np.abs(fine.points(seen)[: len(v)] - v).max() < 0.3

    def test_what_a_surface_does_not_hold_is_said(self) -> None:
        v, f = bay_surface(40)
        floor = f[: 2 * 39 * 39]
        flat = v.copy()
        flat[:, 2] = -200
        held = refine(flat[:1600] + [0, 0, 4], Surface(flat, floor, 10.0))
        assert "sliding forward and back" in held.loose and "sliding left and right" in held.loose
        with pytest.raises(ShapeError, match="place it by points first"):
            refine(v + 5000, Surface(v, f, 10.0))


class TestGapsToScans:
    def test_a_scan_in_chunks_measures_like_the_whole(self) -> None:
        v, f = bay_surface(50)
        whole, cut = Bodies([[MeshPart(v, f)]]), Bodies([cells.cut(v, f).parts(np.eye(3), np.zeros(3))])
        assert len(cut.parts) > 20
        for part in (box((0, 0, 60), (200, 150, 100)), bar((-100, 50, 90), (200, -80, 120), 60.0)):
            piece = Bodies([[part]])
            reach = np.full((1, 1), 900.0)
            a, b = (nearest(piece, Pose.still(), s, reach)[0] for s in (whole, cut))
            assert a.distance == pytest.approx(b.distance, abs=1e-6) and a.on_b == pytest.approx(
                b.on_b, abs=1e-3
            )

    def test_cells_kept_in_the_cache_come_back_alike_and_are_not_believed(
        self, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
    ) -> None:
        """Damaged, forged or another mesh's, they are cut anew; none lies beside a job."""
        monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path))
        v, f = bay_surface(50)
        digest = "ab" * 32
        cuts: list[int] = []
        whole_cut = cells.cut

        def counted(v: np.ndarray, f: np.ndarray) -> cells.Cells:
            cuts.append(1)
            return whole_cut(v, f)

        monkeypatch.setattr(kept_cells, "cut", counted)

        def opened() -> cells.Cells:
            monkeypatch.setattr(kept_cells, "_known", type(kept_cells._known)())
            return kept_cells.cells_of(digest, lambda: (v, f))

        made = opened()
        kept_cells.keep(digest)
        place = kept_cells.place_of(digest)
        data = place.read_bytes()
        back = opened()
        assert cuts == [1], "not cut anew"
        assert back.vertices == pytest.approx(made.vertices, abs=1e-3)
        nearer = cells.Cells(back.vertices + (0, 0, 40.0), back.faces, back.ends, back.closed)
        fewer = cells.Cells(*whole_cut(v, f[:-9]).__dict__.values())
        closed = cells.Cells(back.vertices, back.faces, back.ends, True)
        corner_too_many = cells.Cells(back.vertices, back.faces + 1, back.ends)
        turned_round = cells.Cells(back.vertices, back.faces, back.ends[::-1])
        assert not corner_too_many.sound and not turned_round.sound
        for n, wrong in enumerate(
            (
                b"",
                data[:-200],
                data[: len(data) // 2],
                b"PK" + data[2:100],
                data.replace(b"faces", b"fades"),
                *(kept_cells.packed(c) for c in (nearer, fewer, closed, corner_too_many, turned_round)),
            )
        ):
            place.write_bytes(wrong)
            again = opened()
            assert len(cuts) == 2 + n and np.array_equal(again.vertices, made.vertices), n
            assert not place.exists(), "what is not right is taken away"

    def test_a_scattered_surface_is_not_cut_into_more_cells_than_are_of_use(self) -> None:
        corner = np.random.default_rng(0).uniform(0, 20000, (9000, 1, 3))
        v = (corner + np.eye(3)).reshape(-1, 3)
        cut = cells.cut(v, np.arange(len(v)).reshape(-1, 3))
        assert len(cut.ends) <= cells.MOST_CELLS and cut.sound

    @given(st.floats(1, 45), st.floats(-30, 30), st.floats(-30, 30))
    def test_an_overlap_with_an_open_sheet_leaves_the_way_it_came(
        self, deep: float, x: float, y: float
    ) -> None:
        """A box pressed into a flat sheet by a known depth: that depth, and the way out is back, not
        through."""
        k = np.linspace(-400, 400, 81)
        gx, gy = (g.ravel() for g in np.meshgrid(k, k, indexing="ij"))
        n = np.arange(81 * 81).reshape(81, 81)
        a, b, c, d = n[:-1, :-1].ravel(), n[1:, :-1].ravel(), n[1:, 1:].ravel(), n[:-1, 1:].ravel()
        sheet = MeshPart(
            np.column_stack([gx, gy, 0 * gx]),
            np.vstack([np.column_stack([a, b, c]), np.column_stack([a, c, d])]),
        )
        piece = Bodies([[box((x, y, 60 - deep), (200, 180, 120))]])
        found = nearest(piece, Pose.still(), Bodies([[sheet]]), np.full((1, 1), 50.0))[0]
        assert found.distance == pytest.approx(-deep, abs=1e-6) and found.way == pytest.approx((0, 0, 1))
