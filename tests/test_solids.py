"""Mass properties and meshes against trimesh; outlines; mesh files good and bad."""

from __future__ import annotations

import numpy as np
import pytest
import trimesh
from hypothesis import given
from hypothesis import strategies as st
from nimble_cradle.bay.mass import combined
from nimble_cradle.geometry.mesh import read_mesh
from nimble_cradle.geometry.outlines import convex_outlines
from nimble_cradle.geometry.pose import Pose
from nimble_cradle.geometry.solid_makers import bar, box, hull, prism, slab
from nimble_cradle.geometry.solids import ConvexPart, MeshPart, ShapeError
from scipy.spatial.transform import Rotation

ELBOW = [(0, 0), (100, 0), (100, 20), (20, 20), (20, 100), (0, 100)]


@given(st.integers(0, 3000))
def test_mass_properties_agree_with_trimesh(seed: int) -> None:
    part = hull(np.random.default_rng(seed).uniform(-100, 150, (14, 3)))
    want = trimesh.Trimesh(*part.triangles, process=False)
    volume, centre, inertia = part.mass_properties()
    assert volume == pytest.approx(want.volume, rel=1e-9)
    assert np.allclose(centre, want.center_mass, atol=1e-8)
    assert np.allclose(inertia, want.moment_inertia, rtol=1e-7, atol=1e-3)


def test_round_bar_is_exact_and_turns() -> None:
    # textbook: m r2 / 2 along, m (3 r2 + h2) / 12 across
    volume, centre, inertia = bar((0, 0, 0), (300, 0, 0), 80).mass_properties()
    m = np.pi * 40**2 * 300
    assert volume == pytest.approx(m)
    assert np.allclose(centre, [150, 0, 0])
    assert np.allclose(inertia, np.diag([m * 40**2 / 2, *[m * (3 * 40**2 + 300**2) / 12] * 2]))


def test_prism_and_slab_hold_what_they_should() -> None:
    parts = prism((5, 6, 7), (0.2, 1, 0.1), (0, 0, 1), ELBOW, 30)
    assert sum(p.mass_properties()[0] for p in parts) == pytest.approx(30 * (100 * 20 + 80 * 20), rel=1e-9)
    for p in parts:
        assert trimesh.Trimesh(*p.triangles).is_watertight and trimesh.Trimesh(*p.triangles).volume > 0
    sloped = slab([(0, 0, 0), (100, 0, 50), (100, 200, 50), (0, 200, 0)], 6)
    assert sum(p.mass_properties()[0] for p in sloped) == pytest.approx(6 * 200 * np.hypot(100, 50), rel=1e-9)


def test_prism_points_where_it_says() -> None:
    low, high = (
        f(
            prism((10, 0, 0), (1, 0, 0), (0, 0, 1), [(0, 0), (30, 0), (30, 50), (0, 50)], 200)[0].triangles[
                0
            ],
            axis=0,
        )
        for f in (np.min, np.max)
    )
    assert np.allclose(low, [10, 0, 0]) and np.allclose(
        high, [210, 30, 50]
    )  # u to the left (+y) looking forward


def test_outlines_are_cut_into_convex_ones() -> None:
    pieces = convex_outlines(ELBOW)
    assert len(pieces) == 2
    with pytest.raises(ShapeError, match="crosses itself"):
        convex_outlines([(0, 0), (10, 10), (10, 0), (0, 10)])
    with pytest.raises(ShapeError, match="one line"):
        slab([(0, 0, 0), (10, 0, 0), (20, 0, 0)], 5)
    with pytest.raises(ShapeError, match="out of one plane"):
        slab([(0, 0, 0), (100, 0, 0), (100, 100, 60), (0, 100, 0)], 5)
    with pytest.raises(ShapeError, match="no volume"):
        hull([(0, 0, 0), (1, 0, 0), (0, 1, 0), (1, 1, 0)])


@given(st.integers(0, 1000))
def test_parallel_axis_theorem_by_splitting_a_body(seed: int) -> None:
    """A box cut in two and put together again has the inertia of the whole, wherever it stands and however
    it is turned."""
    rng = np.random.default_rng(seed)
    size, cut = rng.uniform(50, 300, 3), rng.uniform(0.2, 0.8)
    pose = Pose(Rotation.random(random_state=seed).as_matrix(), rng.uniform(-500, 500, 3))

    def part(low: float, high: float) -> ConvexPart:
        middle = np.array([(low + high) / 2 * size[0] - size[0] / 2, 0, 0])
        return box(pose.points(middle), (size[0] * (high - low), size[1], size[2]), pose.rotation)

    whole = part(0, 1).mass_properties()
    halves = [part(0, cut).mass_properties(), part(cut, 1).mass_properties()]
    m, c, i = combined(
        np.array([h[0] for h in halves]), np.array([h[1] for h in halves]), np.array([h[2] for h in halves])
    )
    assert (
        m == pytest.approx(whole[0])
        and np.allclose(c, whole[1])
        and np.allclose(i, whole[2], rtol=1e-9, atol=1e-6 * whole[2].max())
    )


@pytest.mark.parametrize("kind", ["stl", "stl_ascii", "obj", "ply", "off"])
def test_mesh_files_are_read(kind: str) -> None:
    ball = trimesh.creation.icosphere(subdivisions=2, radius=30)
    data = ball.export(file_type=kind)
    vertices, faces = read_mesh(
        f"ball.{kind.split('_')[0]}", data if isinstance(data, bytes) else data.encode()
    )
    assert len(faces) == len(ball.faces)
    got = MeshPart(vertices, faces)
    assert got.closed and got.mass_properties()[0] == pytest.approx(ball.volume, rel=1e-4)


@pytest.mark.parametrize(
    ("name", "data"),
    [
        ("a.stl", b"this is a shopping list\n" * 20),
        ("a.stl", b""),
        ("a.stl", b"solid x\nfacet normal 0 0 1\nvertex 0 0 zero\n"),
        ("a.step", b"ISO"),
        ("a.stl", b"solid x\nfacet\nvertex 0 0 0\nvertex 1 0 0\n"),
        ("a.obj", b"v 0 0 0\nv 1 0 0\n"),
        ("a.ply", b"ply\nnonsense"),
        ("a.off", b"OFF\n1 1"),
        ("a.stl", b"solid flat\nfacet\nvertex 0 0 0\nvertex 1 0 0\nvertex 2 0 0\n"),
        ("a.stl", b"solid nan\nfacet\nvertex 0 0 nan\nvertex 1 0 0\nvertex 0 1 0\n"),
    ],
)
def test_what_is_no_mesh_is_one_sentence(name: str, data: bytes) -> None:
    with pytest.raises(ShapeError) as refused:
        read_mesh(name, data)
    assert name in str(refused.value) and "\n" not in str(refused.value)
