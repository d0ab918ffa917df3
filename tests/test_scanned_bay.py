"""A bay with a large scan in it: seats, pushes, ways out and sections against it, checked with an
independent library."""

from __future__ import annotations

import numpy as np
import pytest
import trimesh
import trimesh.intersections
from nimble_cradle.bay.bodies import bay_bodies, fitted_pieces, powertrain_bodies, standing_items
from nimble_cradle.bay.position import nudged, pose_of
from nimble_cradle.cli.bench_seats import scanned
from nimble_cradle.fit.gap import Gap
from nimble_cradle.fit.gaps import gaps_at_rest, required_gaps, ways_out_of
from nimble_cradle.fit.section import plane_at, section
from nimble_cradle.geometry.distance import nearest
from nimble_cradle.geometry.mesh import read_mesh
from nimble_cradle.geometry.pose import Pose
from nimble_cradle.geometry.slice import cut
from nimble_cradle.geometry.solids import MeshPart
from nimble_cradle.job.edits import with_value
from nimble_cradle.job.job import Job
from nimble_cradle.seat.pushes import pushed
from nimble_cradle.seat.settle import settle
from nimble_cradle.seat.settled import BROKEN, Settled
from nimble_cradle.seat.stops import stops_of
from scipy.spatial import cKDTree

TROUGH = "trough"


@pytest.fixture(scope="module")
def bay() -> Job:
    """The light truck with a dented trough of 31,000 triangles a hand's breadth round its powertrain."""
    from nimble_cradle.demo import demo_folder
    from nimble_cradle.job import store

    return scanned(store.read(demo_folder("light-truck")).job, 126)


@pytest.fixture(scope="module")
def tight(bay: Job) -> Job:
    """The same with the trough risen until it is what stops the engine going down."""
    key = next(i.id for i in bay.items if i.name == TROUGH)
    return with_value(bay, f"items/{key}/moved", (0.0, 0.0, 12.0))


def surface(job: Job) -> trimesh.Trimesh:
    """The scan as it stands, for the independent library."""
    item = next(i for i in job.items if i.name == TROUGH)
    mesh = next(m for m in job.meshes if m.name == item.shapes[0].file)  # type: ignore[union-attr]
    vertices, faces = read_mesh(mesh.name, mesh.data)
    return trimesh.Trimesh(vertices + item.moved, faces, process=False)


def of_the_scan(job: Job) -> list[Gap]:
    key = next(i.id for i in job.items if i.name == TROUGH)
    return [g for g in gaps_at_rest(job, pose_of(job.position), 60.0) if g.item == key]


def nearest_of_points(job: Job, piece: str) -> float:
    """The least distance between points all over the scan, 4 mm apart or less, and points all over the
    piece: never less than the true one, and by so little more as points so dense can miss (sideways by 7
    mm: edges of 4 and 8 mm, each over the root of 3).
    """
    mesh, mine = surface(job), points_of(job, piece)
    near = ((mesh.triangles_center > mine.min(0) - 70) & (mesh.triangles_center < mine.max(0) + 70)).all(1)
    close = np.nonzero(near)[0][cKDTree(mine).query(mesh.triangles_center[near])[0] < 70.0]
    points = trimesh.remesh.subdivide_to_size(mesh.vertices, mesh.faces[close], 4.0)[0]
    return float(np.min(cKDTree(points).query(mine, distance_upper_bound=70.0)[0]))


def points_of(job: Job, piece: str) -> np.ndarray:
    """Points all over the surface of a piece where it stands, 8 mm apart or less, vehicle frame."""
    bodies, pose = powertrain_bodies(job), pose_of(job.position)
    number = [p.id for p in fitted_pieces(job)].index(piece)
    out = []
    for part, owner in zip(bodies.parts, bodies.owner, strict=True):
        if owner == number:
            v, t = part.triangles
            out.append(trimesh.remesh.subdivide_to_size(pose.points(v), t, 8.0)[0])
    return np.vstack(out)


class TestGaps:
    def test_against_an_independent_library(self, bay: Job) -> None:
        """Every gap to the scan against the nearest of many points of the piece: never larger than theirs,
        nor smaller than points 5 mm apart can miss."""
        rows = [g for g in of_the_scan(bay) if g.gap > 5][:6]
        assert len(rows) > 3
        for g in rows:
            theirs = nearest_of_points(bay, g.piece)
            assert np.sqrt(max(theirs**2 - 7.0**2, 0.0)) - 0.05 <= g.gap <= theirs + 1e-3, (
                g.piece_name,
                g.gap,
                theirs,
            )

    def test_the_table_is_that_of_the_scan_in_one_piece(self, bay: Job) -> None:
        mesh = surface(bay)
        whole = MeshPart(np.asarray(mesh.vertices), np.asarray(mesh.faces))
        need = required_gaps(bay, bay.powertrain.present) + 60
        column = [i.name for i in standing_items(bay)].index(TROUGH)
        many = {
            n.a: n.distance
            for n in nearest(powertrain_bodies(bay), pose_of(bay.position), bay_bodies(bay), need)
            if n.b == column
        }
        one = type(bay_bodies(bay))([[whole]])
        assert len(many) > 5
        for n in nearest(powertrain_bodies(bay), pose_of(bay.position), one, need[:, [column]]):
            assert many[n.a] == pytest.approx(n.distance, abs=1e-6)

    def test_out_of_it_is_out_of_it(self, bay: Job) -> None:
        """Sunk into the scan: every way out that is told is one, and a little less is not enough."""
        sunk = with_value(bay, "position", nudged(bay, (0.0, 0.0, -60.0)))
        deep = [g for g in of_the_scan(sunk) if g.gap <= 0]
        assert deep
        signs = {
            "forward": (1, 0, 0),
            "back": (-1, 0, 0),
            "left": (0, 1, 0),
            "right": (0, -1, 0),
            "up": (0, 0, 1),
            "down": (0, 0, -1),
        }
        for g in deep:
            way, travel = ways_out_of(sunk, g)[0]
            assert way == "up", "the trough is left by its open side"
            for more, clear in ((-1.5, False), (0.6, True)):
                move = tuple((travel + more) * s for s in signs[way])
                there = with_value(sunk, "position", nudged(sunk, move))
                found = [n for n in of_the_scan(there) if n.piece == g.piece]
                assert (not found or found[0].gap > 0) is clear, (g.piece_name, travel, more)


@pytest.fixture(scope="module")
def seat(tight: Job) -> Settled:
    return settle(tight)


class TestSeats:
    def test_the_seat_over_a_scan_keeps_its_gap_and_stands_on_it(self, seat: Settled) -> None:
        found = seat
        assert found.ok and found.margin >= -BROKEN
        stops = stops_of(found)
        assert any(s.name.endswith(TROUGH) for s in stops), [s.name for s in stops]
        rows = of_the_scan(found.job)
        assert rows
        for g in rows[:3]:
            theirs = nearest_of_points(found.job, g.piece)
            assert theirs >= g.required - BROKEN, "the points find the gap kept at rest"
            assert np.sqrt(max(theirs**2 - 7.0**2, 0.0)) - 0.05 <= g.gap <= theirs + 1e-3
        lower = with_value(found.job, "position", nudged(found.job, (0.0, 0.0, -2.0)))
        assert min(g.margin_at_rest for g in of_the_scan(lower)) < min(g.margin_at_rest for g in rows) - 1.0

    def test_a_push_down_stops_at_the_scan_and_names_it(self, seat: Settled) -> None:
        high = with_value(seat.job, "position", nudged(seat.job, (0.0, 0.0, 6.0)))
        down = pushed(high, "down")
        assert 4 < down.distance < 6.5 and any(
            key == next(i.id for i in seat.job.items if i.name == TROUGH) for _, key in down.stops
        )
        assert min(g.margin_at_rest for g in of_the_scan(down.job)) > -BROKEN


def test_a_section_of_the_cells_is_the_section_of_the_whole(bay: Job) -> None:
    plane = plane_at("across", -400.0)
    found = section(bay, plane, "across")
    cells = [line.outline.points for line in found.lines if line.name == TROUGH]
    mesh = surface(bay)
    whole = cut(MeshPart(np.asarray(mesh.vertices), np.asarray(mesh.faces)), Pose.still(), plane)
    assert cells and whole

    def length(lines: list[np.ndarray]) -> float:
        return sum(float(np.linalg.norm(np.diff(p, axis=0), axis=1).sum()) for p in lines)

    theirs = trimesh.intersections.mesh_plane(mesh, plane.axes[:, 2], plane.origin)
    assert length(cells) == pytest.approx(length([o.points for o in whole]), rel=1e-6)
    assert length(cells) == pytest.approx(
        float(np.linalg.norm(theirs[:, 1] - theirs[:, 0], axis=1).sum()), rel=1e-6
    )
