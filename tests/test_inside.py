"""A thing inside a thing is never clear, whichever moves, in one piece or many, large or small; and round
bars are round."""

from __future__ import annotations

import math

import numpy as np
import pytest
import trimesh
from nimble_cradle.geometry.bodies import Bodies
from nimble_cradle.geometry.cells import WHOLE, cut
from nimble_cradle.geometry.distance import clearance, nearest
from nimble_cradle.geometry.pose import Pose, rotation_xyz
from nimble_cradle.geometry.solid_makers import bar, box, hull
from nimble_cradle.geometry.solids import ConvexPart, MeshPart, SolidPart, placed_part

REACH = np.full((1, 1), 200.0)


def ball(radius: float, at: tuple[float, float, float], fine: int = 2) -> MeshPart:
    """A closed round mesh."""
    m = trimesh.creation.icosphere(subdivisions=fine, radius=radius)
    return MeshPart(np.asarray(m.vertices) + at, np.asarray(m.faces, dtype=np.int64))


def patch(at: tuple[float, float, float]) -> MeshPart:
    """An open sheet of two triangles, 20 mm wide."""
    v = np.array([[0, 0, 0], [20, 0, 0], [0, 20, 0], [20, 20, 1.0]]) + at
    return MeshPart(v, np.array([[0, 1, 2], [1, 3, 2]]))


HOLDERS: dict[str, SolidPart] = {
    "box": box((10, -5, 20), (240, 220, 260)),
    "bar": bar((-120, -5, 20), (140, -5, 20), 250),
    "slab": hull(
        [(-120, -120, -90), (140, -110, -95), (-100, 120, -90), (150, 100, -80), (10, -5, 180), (90, 90, 150)]
    ),
    "closed mesh": ball(135.0, (10, -5, 20), 3),
    "large closed mesh": ball(150.0, (10, -5, 20), 5),
}
THINGS: dict[str, SolidPart] = {
    "closed mesh": ball(18.0, (20, 5, 10)),
    "open mesh": patch((10, 0, 15)),
    "bar": bar((0, 0, 0), (30, 5, 10), 14),
    "box": box((15, 0, 10), (20, 24, 18)),
}


def parts_of(part: SolidPart) -> list[SolidPart]:
    """As the program builds it: a large mesh in cells."""
    if isinstance(part, MeshPart) and len(part.faces) > WHOLE:
        return list(cut(part.vertices, part.faces).parts(np.eye(3), np.zeros(3)))
    return [part]


@pytest.mark.parametrize("holder", HOLDERS)
@pytest.mark.parametrize("thing", THINGS)
def test_whatever_is_wholly_inside_overlaps(holder: str, thing: str) -> None:
    """Each inside each, either one moving, turned and carried about; and clear again well outside."""
    rng = np.random.default_rng(len(holder) * 7 + len(thing))
    pose = Pose(rotation_xyz(*rng.uniform(-180, 180, 3)), rng.uniform(-500, 500, 3))
    outer, inner = parts_of(HOLDERS[holder]), parts_of(THINGS[thing])
    fixed = [placed_part(p, pose) for p in outer]
    for moving, standing, at in ((inner, fixed, pose), (outer, [placed_part(p, pose) for p in inner], pose)):
        a, b = Bodies([moving]), Bodies([standing])
        found = nearest(a, at, b, REACH)
        assert len(found) == 1 and found[0].distance < 0, (holder, thing)
        assert clearance(a, at, b, 200.0)[0] == 0
        aside = Pose(at.rotation, at.translation + 420.0 * np.array([0.6, -0.64, 0.48]))
        far = nearest(a, aside, b, np.full((1, 1), 900.0))
        assert far and far[0].distance > 20
        again = nearest(a, at, b, REACH)
        assert again[0].distance < 0, "what was remembered from far away must not hide it"


def test_one_loose_patch_of_a_scan_is_enough() -> None:
    """An open scan all round a box, clear of it, with one loose patch in the middle of it."""
    around = trimesh.creation.icosphere(subdivisions=3, radius=300.0)
    keep = np.asarray(around.faces)[: len(around.faces) // 2]
    loose = patch((-8, -9, 3))
    scan = MeshPart(
        np.vstack([np.asarray(around.vertices), loose.vertices]),
        np.vstack([keep, loose.faces + len(around.vertices)]),
    )
    engine = box((0, 0, 0), (120, 100, 140))
    for a, b in (([engine], [scan]), ([scan], [engine])):
        assert nearest(Bodies([a]), Pose.still(), Bodies([b]), REACH)[0].distance < 0
    bare = MeshPart(np.asarray(around.vertices), keep)
    assert (
        nearest(Bodies([[engine]]), Pose.still(), Bodies([[bare]]), np.full((1, 1), 400.0))[0].distance > 100
    )


def test_inside_against_the_shapes_own_formula() -> None:
    """A dented closed mesh in cells, known by its radius in every direction: small boxes at random places."""
    rng = np.random.default_rng(4)
    sphere = trimesh.creation.icosphere(subdivisions=5, radius=1.0)

    def radius(ways: np.ndarray) -> np.ndarray:
        return np.asarray(160 * (1 - 0.45 * np.exp(-6 * (ways[:, 0] - 1) ** 2)))

    v = np.asarray(sphere.vertices)
    v = v * radius(v)[:, None]
    cells = Bodies([parts_of(MeshPart(v, np.asarray(sphere.faces, dtype=np.int64)))])
    assert len(cells.parts) > 4
    places = rng.uniform(-190, 190, (36, 3))
    away = np.linalg.norm(places, axis=1)
    over = away - radius(places / away[:, None])
    told = np.abs(over) > 14
    assert told.sum() > 20 and (over[told] < 0).sum() > 5
    for p, out in zip(places[told], over[told] > 0, strict=True):
        found = nearest(
            Bodies([[box((0, 0, 0), (4, 4, 4))]]), Pose(np.eye(3), p), cells, np.full((1, 1), 500.0)
        )
        assert (found[0].distance > 0) == out, p


@pytest.mark.parametrize("radius", [12.0, 55.0, 196.0])
def test_a_bar_against_a_scan_is_round(radius: float) -> None:
    """Distances of a turned bar to a fine uneven surface, against the cylinder's own formula at points 0.4
    mm apart."""
    rng = np.random.default_rng(int(radius))
    x, y = np.meshgrid(np.linspace(-60, 60, 31), np.linspace(-60, 60, 31))
    z = 6 * np.sin(x / 9) * np.cos(y / 13) + rng.normal(0, 0.3, x.shape)
    number = np.arange(31 * 31).reshape(31, 31)
    a, b, c, d = (number[i : i + 30, j : j + 30].ravel() for i, j in ((0, 0), (0, 1), (1, 0), (1, 1)))
    surface = MeshPart(
        np.column_stack([x.ravel(), y.ravel(), z.ravel()]),
        np.vstack([np.column_stack([a, b, c]), np.column_stack([b, d, c])]),
    )
    for _ in range(6):
        turn = rotation_xyz(*rng.uniform(-30, 30, 3))
        part = bar((-80, 0, 0), (80, 0, 0), 2 * radius)
        pose = Pose(turn @ rotation_xyz(float(rng.uniform(0, 360)), 0, 0), np.array([0, 0, radius + 90.0]))
        for bodies, at, other in (
            (Bodies([[part]]), pose, Bodies([[surface]])),
            (Bodies([[surface]]), pose.inverse(), Bodies([[part]])),
        ):
            found = nearest(bodies, at, other, REACH)[0].distance
            assert found == pytest.approx(cylinder_distance(part, pose, surface), abs=0.05)


def cylinder_distance(part: ConvexPart, pose: Pose, surface: MeshPart) -> float:
    """Least distance of the surface's points, its triangles sown with points, to a round bar."""
    corners = surface.vertices[surface.faces]
    share = np.array([(i / 10, j / 10) for i in range(11) for j in range(11 - i)])
    p = (
        corners[:, None, 0]
        + share[None, :, :1] * (corners[:, None, 1] - corners[:, None, 0])
        + share[None, :, 1:] * (corners[:, None, 2] - corners[:, None, 0])
    ).reshape(-1, 3)
    local = (pose @ part.pose).inverse().points(p)
    radius, length = part.size
    out = np.maximum(np.hypot(local[:, 0], local[:, 1]) - radius, 0.0)
    past = np.maximum(np.abs(local[:, 2]) - length / 2, 0.0)
    return float(np.hypot(out, past).min())


def test_the_roundness_that_is_claimed() -> None:
    """Half a chord's sagitta outside, half inside: R (1 - cos) / (1 + cos) of half a side's angle."""
    from nimble_cradle.geometry.bodies import ROUND_WITHIN, measured_mesh

    for radius in (5.0, 40.0, 196.0, 300.0):
        vertices, faces = measured_mesh(bar((0, 0, 0), (0, 0, 10), 2 * radius))
        rim = vertices[np.hypot(vertices[:, 0], vertices[:, 1]) > 1]
        sides = len(rim) // 2
        assert np.hypot(rim[:, 0], rim[:, 1]).max() - radius <= ROUND_WITHIN + 1e-9
        assert (
            radius - np.hypot(rim[:, 0], rim[:, 1]).min() * math.cos(math.pi / sides) <= ROUND_WITHIN + 1e-9
        )
        assert len(faces) == 4 * sides
