"""Cut lines: by hand for a ball's and a box's room, and by cutting the model and measuring it again."""

from __future__ import annotations

import json
import math
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st
from nimble_cradle.bay.bodies import solid_of
from nimble_cradle.bay.position import pose_of
from nimble_cradle.cli.main import main
from nimble_cradle.desk.stages.chassis.cut_lines_group import CUT_LINES
from nimble_cradle.desk.stages.chassis.panels_room import PanelsRoom
from nimble_cradle.desk.window import Desk
from nimble_cradle.fit.cut_lines import CutLine, asking_of, cut_line, sheets_of
from nimble_cradle.geometry.bodies import Bodies
from nimble_cradle.geometry.distance import nearest
from nimble_cradle.geometry.near_region import near_region
from nimble_cradle.geometry.point_distance import point_distances
from nimble_cradle.geometry.pose import Pose, rotation_xyz
from nimble_cradle.geometry.solid_makers import bar, box, hull, pushed
from nimble_cradle.geometry.solids import MeshPart, SolidPart, placed_part
from nimble_cradle.job import store
from nimble_cradle.job.base import JobError
from nimble_cradle.job.edits import with_value
from nimble_cradle.job.job import Job
from nimble_cradle.judge.gaps import standing_poses
from shapely.geometry.base import BaseGeometry

from pressing import click, unfold_all


def pushed_back(job: Job, back: float, up: float = 0.0) -> Job:
    """The engine so far back and up that the firewall is in its way."""
    job = with_value(job, "position/x", job.position.x - back)
    return with_value(job, "position/z", job.position.z + up)


def worst_after(job: Job, line: CutLine, poses: list[Pose]) -> float:
    """What is to spare, mm, once the sheet is cut: what is left of it as triangles with its thickness,
    measured by the program's exact distances, which the line was not made with."""
    left: BaseGeometry = line.sheet.outline
    for piece in line.pieces:
        left = left.difference(piece)
    thick = line.sheet.thick
    parts = []
    for triangle in shapely.get_parts(shapely.constrained_delaunay_triangles(left)):
        ring = np.asarray(triangle.exterior.coords)[:-1]
        if triangle.area > 1e-6:
            at = line.sheet.pose.points(np.column_stack([ring, np.full(3, -thick / 2)]))
            parts.append(pushed(at, thick * line.sheet.pose.rotation[:, 2]))
    asking = asking_of(job, line.sheet.item)
    moving, sheet = Bodies([solids for _, _, solids in asking]), Bodies([parts])
    need = [mm for _, mm, _ in asking]
    return min(
        near.distance - need[near.a]
        for pose in poses
        for near in nearest(moving, pose, sheet, np.full((moving.count, 1), 80.0))
    )


class TestRegions:
    def test_a_bar_along_the_sheet(self) -> None:
        """A bar of 40 across, 30 over a thin sheet's face, 12 wanted: half-width sqrt(32^2 - 30^2), round
        ends."""
        region = near_region(bar((-50, 0, 30.5), (50, 0, 30.5), 40.0), 1.0, 12.0)
        assert region is not None
        half = math.sqrt(32**2 - 30**2)
        x0, y0, x1, y1 = region.bounds
        assert (y0, y1) == pytest.approx((-half, half), abs=0.03)
        # over its flat ends the rim is nearest: 12 from the edge at height 10 straight below the rim
        assert x1 == pytest.approx(50 + math.sqrt(12**2 - 10**2), abs=0.05) and x0 == pytest.approx(
            -x1, abs=0.02
        )

    def test_a_box_through_the_sheet(self) -> None:
        """What goes through needs its own outline and 10 mm round it, with round corners."""
        region = near_region(box((5, -7, 3), (60, 40, 90)), 2.0, 10.0)
        assert region is not None
        want = shapely.box(-25, -27, 35, 13).buffer(10, quad_segs=64)
        assert region.symmetric_difference(want).area < 0.002 * want.area
        assert region.area <= want.area * (1 + 1e-6) and region.hausdorff_distance(want) < 0.05

    def test_nowhere(self) -> None:
        assert near_region(box((0, 0, 40), (20, 20, 20)), 2.0, 28.9) is None
        assert near_region(box((0, 0, 40), (20, 20, 20)), 2.0, 29.1) is not None

    @given(
        st.tuples(*[st.floats(-180, 180) for _ in range(3)]),
        st.tuples(st.floats(-30, 30), st.floats(-30, 30), st.floats(-45, 45)),
        st.sampled_from(["box", "bar", "hull", "mesh"]),
    )
    def test_the_border_is_as_far_as_is_wanted(
        self, turn: tuple[float, float, float], at: tuple[float, float, float], kind: str
    ) -> None:
        """At every corner of the border the part is just so far from the sheet, by exact distances of a
        needle through it."""
        own = {
            "box": box((0, 0, 0), (30, 18, 24)),
            "bar": bar((0, 0, -20), (0, 0, 20), 22.0),
            "hull": hull(np.array([[0, 0, 0], [40, 5, 0], [0, 30, 4], [6, 3, 33], [20, 20, 20]])),
        }
        part: SolidPart = own.get(kind, own["hull"])
        if kind == "mesh":
            part = MeshPart(own["hull"].local[0], own["hull"].local[1])
        part = placed_part(part, Pose(rotation_xyz(*turn), np.asarray(at)))
        region = near_region(part, 3.0, 9.0)
        if region is None:
            return
        body = Bodies([[part]])
        rings = np.vstack([np.asarray(g.exterior.coords) for g in shapely.get_parts(region)])
        for x, y in rings[:: max(1, len(rings) // 12)]:
            needle = Bodies([[box((x, y, 0.0), (1e-3, 1e-3, 3.0))]])
            (near,) = nearest(needle, Pose.still(), body, np.full((1, 1), 60.0))
            assert 8.9 < near.distance < 9.2

    def test_point_distances(self) -> None:
        """Against the exact distances of the program's library, inside and out."""
        rng = np.random.default_rng(5)
        solid = hull(rng.normal(size=(30, 3)) * [30, 12, 20])
        for part in (
            box((3, 4, 5), (20, 30, 8), rotation_xyz(20, 30, 50)),
            bar((0, 0, 0), (30, 20, 9), 14.0),
            solid,
        ):
            points = rng.normal(size=(60, 3)) * 40
            found = point_distances(part, points)
            body = Bodies([[part]])
            for point, mm in zip(points, found, strict=True):
                ball = Bodies([[box(point, (1e-4, 1e-4, 1e-4))]])
                (near,) = nearest(ball, Pose.still(), body, np.full((1, 1), 500.0))
                assert near.distance == pytest.approx(mm, abs=2e-3)


class TestOnTheTruck:
    @pytest.mark.parametrize(("back", "up", "margin"), [(140.0, 20.0, 0.0), (165.0, -15.0, 7.0)])
    def test_cut_and_measured_again(self, demo: Job, back: float, up: float, margin: float) -> None:
        """The firewall cut along its line has what is wanted, and hardly more."""
        job = pushed_back(demo, back, up)
        poses = standing_poses(job)[::5]
        line = cut_line(job, "firewall", poses, margin)
        assert line.pieces and line.may is not None and line.may < 0
        spare = worst_after(job, line, poses)
        assert margin - 0.1 < spare < margin + 0.1

    def test_how_far_a_wall_may_come(self, demo: Job) -> None:
        """Moved in by what is told it lacks nothing and has nothing to spare; the other way round where the
        engine is in it already."""
        for job in (demo, pushed_back(demo, 150.0)):
            poses = standing_poses(job)[::7]
            line = cut_line(job, "firewall", poses)
            assert line.may is not None
            way = line.sheet.pose.rotation[:, 2]
            moved = tuple(float(v) for v in line.may * way)
            there = with_value(job, "items/firewall/moved", moved)
            plain = CutLine(sheets_of(there)[0], (), (), None, "")
            assert plain.sheet.item.id == "firewall"
            assert worst_after(there, plain, poses) == pytest.approx(0.0, abs=0.02)
            assert line.by in [name for name, _, _ in asking_of(job, line.sheet.item)]

    def test_rest_and_every_case(self, demo: Job) -> None:
        """The engine as it stands comes first, then wherever a case takes it: more has to go for all of them
        than at rest."""
        job = pushed_back(demo, 150.0)
        poses = standing_poses(job)
        assert np.allclose(poses[0].translation, pose_of(job.position).translation) and len(poses) > 20
        moved = [float(np.linalg.norm(p.translation - poses[0].translation)) for p in poses]
        farthest = poses[int(np.argmax(moved))]
        assert max(moved) > 0.5
        one = cut_line(job, "firewall", poses[:1]).area
        assert cut_line(job, "firewall", [poses[0], farthest]).area > one + 1.0

    def test_nothing_to_cut(self, demo: Job) -> None:
        line = cut_line(demo, "bonnet", standing_poses(demo)[:3])
        assert not line.pieces and line.may is not None and line.may > 0

    def test_seen_from_the_engine(self, demo: Job) -> None:
        """Who faces the firewall from the engine looks back: right is the car's left... as he stands, his
        right hand is at the car's right when he looks forward, so it is at its left here."""
        (firewall,) = [s for s in sheets_of(demo) if s.item.id == "firewall"]
        x, y, z = firewall.pose.rotation.T
        assert z[0] > 0.9 and y[2] > 0.9  # towards the engine, up
        assert x @ np.cross(y, z) == pytest.approx(1.0)
        # he looks along -z, to the back: his right is the car's right seen by the driver turned round: left
        assert x[1] > 0.9
        engine = pose_of(demo.position).translation
        assert (engine - firewall.pose.translation) @ z > 0

    @pytest.mark.parametrize("item", ["rail-left", "tunnel", "nowhere"])
    def test_no_sheet(self, demo: Job, item: str) -> None:
        with pytest.raises(JobError, match="Only what is flat"):
            cut_line(demo, item, [pose_of(demo.position)])


def test_command(
    demo: Job, tmp_path: Path, capsys: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    poses = standing_poses(pushed_back(demo, 150.0))[:2]
    monkeypatch.setattr("nimble_cradle.judge.gaps.standing_poses", lambda _: poses)
    path = tmp_path / "back.cradle"
    store.write(path, pushed_back(demo, 150.0))
    assert main(["cut-lines", str(path), "--json"]) == 0
    rows = {row["item"]: row for row in json.loads(capsys.readouterr().out)}
    assert rows["firewall"]["pieces"] >= 1 and rows["bonnet"]["pieces"] == 0
    solid = solid_of(next(i for i in demo.items if i.id == "firewall"), demo.meshes, "items")
    corners = np.vstack([p.triangles[0] for p in solid])
    low, high = corners.min(0), corners.max(0)
    ring = np.array(rows["firewall"]["outlines"][0])
    assert (ring >= low - 1e-3).all() and (ring <= high + 1e-3).all()
    out = tmp_path / "lines"
    assert main(["cut-lines", str(path), "-o", str(out)]) == 0
    told = capsys.readouterr().out
    assert "Firewall: " in told and "must go for" in told and "Brace before" in told
    assert {"cut-line-firewall.dxf", "cut-line-firewall.svg"} <= {f.name for f in out.iterdir()}
    assert main(["cut-lines", str(path), "-o", str(out)]) == 2


def test_room(desk: Desk, qtbot: Any, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """By the mouse: worked out on a thread, told with what stops the sheet, gone when the job changes."""
    monkeypatch.setattr(
        "nimble_cradle.desk.stages.chassis.cut_lines_group.standing_poses",
        lambda job: [pose_of(job.position)],
    )
    desk.session.edit("Back", pushed_back(desk.session.job, 150.0))
    desk.go("chassis")
    rooms = desk.sheets["chassis"].rooms
    rooms.go("panels")
    unfold_all(rooms.present)
    click(desk, "Work them out")
    qtbot.waitUntil(lambda: not desk.session.tasks.running(CUT_LINES), timeout=30000)
    room = rooms.present
    assert isinstance(room, PanelsRoom)
    group = room.cut_lines
    assert group.table.isVisible() and group.preview.drawing is not None
    assert "must" not in group.refusal.text() and "Moved towards the engine" in group.why.text()
    group.write(tmp_path / "line.dxf")
    assert "POLYLINE" in (tmp_path / "line.dxf").read_text()
    group.write(tmp_path / "nowhere" / "line.dxf")
    assert "could not be written" in group.refusal.text()
    assert desk.session.cut_lines is not None and desk.session.cut_lines[0] is desk.session.job
    desk.session.set_value("position/x", desk.session.job.position.x - 1, "One more")
    assert not group.table.isVisible() and "changed" in group.said.text()
