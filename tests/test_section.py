"""Sections: outlines against areas known by formula and by an independent library; gaps dimensioned in
their plane."""

from __future__ import annotations

import math

import numpy as np
import pytest
import trimesh
import trimesh.intersections
from hypothesis import given
from hypothesis import strategies as st
from nimble_cradle.fit.section import plane_at, plane_through, section
from nimble_cradle.geometry.pose import Pose, rotation_xyz
from nimble_cradle.geometry.slice import cut
from nimble_cradle.geometry.solid_makers import bar, hull
from nimble_cradle.geometry.solids import MeshPart
from nimble_cradle.job.base import JobError
from nimble_cradle.job.job import Job
from nimble_cradle.judge.gaps import running_gaps
from shapely import MultiPoint, Polygon


@given(st.integers(0, 1000))
def test_against_an_independent_slicer(seed: int) -> None:
    rng = np.random.default_rng(seed)
    part = hull(rng.uniform(-60, 60, (12, 3)))
    pose = Pose(rotation_xyz(*rng.uniform(-180, 180, 3)), rng.uniform(-20, 20, 3))
    plane = plane_at("across", float(rng.uniform(-20, 20)))
    outlines = cut(part, pose, plane)
    v, t = part.triangles
    theirs = trimesh.intersections.mesh_plane(
        trimesh.Trimesh(pose.points(v), t, process=False), plane.axes[:, 2], plane.origin
    )
    if not outlines or not len(theirs):
        assert not outlines and not len(theirs)
        return
    ring = MultiPoint(plane.flat(theirs.reshape(-1, 3))).convex_hull
    assert Polygon(outlines[0].points).area == pytest.approx(ring.area, rel=1e-6, abs=1e-6)


@pytest.mark.parametrize("tilt", (0.0, 30.0, 55.0))
def test_a_cylinder_cut_askew_is_an_ellipse(tilt: float) -> None:
    part = bar((0, 0, -300), (0, 0, 300), 50.0)
    outline = cut(part, Pose(rotation_xyz(0, tilt, 0), np.zeros(3)), plane_at("level", 5.0))[0]
    assert Polygon(outline.points).area == pytest.approx(
        math.pi * 25**2 / math.cos(math.radians(tilt)), rel=1e-3
    )


def test_a_mesh_gives_a_closed_line_round_a_ball_and_an_open_one_through_a_sheet() -> None:
    ball = trimesh.creation.icosphere(subdivisions=4, radius=40.0)
    lines = cut(
        MeshPart(np.asarray(ball.vertices), np.asarray(ball.faces)), Pose.still(), plane_at("along", 10.0)
    )
    assert len(lines) == 1 and lines[0].closed
    assert Polygon(lines[0].points).area == pytest.approx(math.pi * (40**2 - 10**2), rel=0.01)
    v = np.array([[-50, -20, 0], [50, -20, 0], [50, 20, 0], [-50, 20, 0]], dtype=float)
    open_line = cut(MeshPart(v, np.array([[0, 1, 2], [0, 2, 3]])), Pose.still(), plane_at("across", 7.0))
    assert len(open_line) == 1 and not open_line[0].closed
    assert np.ptp(open_line[0].points[:, 0]) == pytest.approx(40.0)


def test_the_tightest_gap_lies_in_its_plane_with_its_distance(demo: Job, hatchback: Job) -> None:
    for job in (demo, hatchback):
        gaps = [g for g in running_gaps(job) if not g.piece.endswith((".arm", ".room")) and g.gap > 1]
        plane, _ = plane_through(gaps[0])
        cut_open = section(job, plane, "", gaps)
        mine = next(d for d in cut_open.dimensions if d.gap is gaps[0])
        assert np.linalg.norm(mine.a - mine.b) == pytest.approx(gaps[0].gap, rel=0.1)
        names = {(line.kind, line.id) for line in cut_open.lines}
        assert ("piece", gaps[0].piece) in names and ("item", gaps[0].item) in names
    assert any(
        kind == "ghost"
        for kind, _ in {
            (line.kind, line.id) for line in section(hatchback, plane_at("along", 400.0), "").lines
        }
    )


def test_a_cut_past_everything_says_so(demo: Job) -> None:
    with pytest.raises(JobError, match="past everything"):
        section(demo, plane_at("across", 9000.0), "")
