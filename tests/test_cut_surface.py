"""Cut lines on what is no flat sheet: by hand on a cylinder and a plane, laid flat and mirrored, and measured
again on the car."""

from __future__ import annotations

import json
import math
from pathlib import Path

import numpy as np
import pytest
import shapely
from nimble_cradle.bay.bodies import solid_of
from nimble_cradle.bay.position import pose_of
from nimble_cradle.cli.main import main
from nimble_cradle.fit.cut_lines import asking_of
from nimble_cradle.fit.cut_surface import SurfaceCut, surface_cut, surfaces_of
from nimble_cradle.geometry.bodies import Bodies
from nimble_cradle.geometry.distance import nearest
from nimble_cradle.geometry.near_region import near_region
from nimble_cradle.geometry.near_surface import near_patch
from nimble_cradle.geometry.point_distance import point_distances, to_triangles
from nimble_cradle.geometry.pose import Array, Pose, rotation_xyz
from nimble_cradle.geometry.solid_makers import bar, box
from nimble_cradle.geometry.solids import placed_part
from nimble_cradle.geometry.unroll import unrolled
from nimble_cradle.job import store
from nimble_cradle.job.base import JobError
from nimble_cradle.job.edits import with_value
from nimble_cradle.job.job import Job
from nimble_cradle.judge.gaps import standing_poses
from nimble_cradle.shop.cut_line_template import cut_line_drawing
from nimble_cradle.units import Display


def grid(place: object, nu: int, nv: int) -> Array:
    """Triangles (2 nu nv, 3, 3) of a surface given over the unit square, unevenly parted."""
    assert callable(place)
    u, v = np.linspace(0, 1, nu + 1) ** 1.1, np.linspace(0, 1, nv + 1)
    p = np.array([[place(a, b) for b in v] for a in u])
    a, b, c, d = p[:-1, :-1], p[1:, :-1], p[1:, 1:], p[:-1, 1:]
    return np.concatenate(
        [np.stack([a, b, c], -2).reshape(-1, 3, 3), np.stack([a, c, d], -2).reshape(-1, 3, 3)]
    )


def test_on_a_plane_it_is_the_sheet_s_own_line() -> None:
    """A leaning bar over a plane, turned away: against the exact border of the flat sheets."""
    turn = Pose(rotation_xyz(20.0, -35.0, 50.0), np.array([3.0, -40.0, 11.0]))
    part = bar((-30, 10, 12.0), (44, -8, 30.0), 24.0)
    plane = grid(lambda a, b: (200 * a - 100, 180 * b - 90, 0.0), 3, 2)
    there = placed_part(part, turn)
    patch = near_patch(
        turn.points(plane.reshape(-1, 3)).reshape(-1, 3, 3), lambda p: point_distances(there, p) - 9.0
    )
    region = near_region(part, 0.0, 9.0)
    assert region is not None and patch.area == pytest.approx(region.area, rel=2e-3)
    ((ring, _),) = patch.rings()
    assert np.allclose(ring[0], ring[-1], atol=0.5)
    mine = shapely.Polygon(turn.inverse().points(ring)[:, :2])
    assert mine.hausdorff_distance(region) < 0.05


def tunnel_ring(radius: float, hole: float, mirrored: bool = False) -> tuple[SurfaceCut, Array]:
    """Half a tube along x with a ball's room cut from it at 50 deg, and a flag beside it so that left is not
    right."""
    side = -1.0 if mirrored else 1.0

    def place(a: float, b: float) -> tuple[float, float, float]:
        angle = math.pi * b
        return 300 * a - 100, side * radius * math.cos(angle), radius * math.sin(angle)

    corners = grid(place, 40, 400)
    at = np.array([20.0, side * radius * math.cos(math.radians(50)), radius * math.sin(math.radians(50))])
    flag = at + [30.0, 0.0, 0.0]

    def field(p: Array) -> Array:
        beside = np.linalg.norm(p - flag, axis=1) - hole / 3
        return np.asarray(np.minimum(np.linalg.norm(p - at, axis=1) - hole, beside))

    patch = near_patch(corners, field)
    item = None
    return SurfaceCut(item, corners, patch, (), np.zeros(3)), at  # type: ignore[arg-type]


def test_a_ball_s_room_on_a_tube_laid_flat() -> None:
    """On a tube of 120 mm: where x is h from the ball's middle the outline's arc is 2 R asin(sqrt(r2 -
    h2)/2R), which is its breadth on the paper; seen from within, forward runs to one hand, and mirrored to
    the other."""
    radius, hole = 120.0, 45.0
    hands = []
    for mirrored in (False, True):
        cut, _ = tunnel_ring(radius, hole, mirrored)
        (piece,) = cut.flat
        assert len(piece.rings) == 1 and piece.off < 0.05
        ring = piece.rings[0]
        # along x, as it lies on the paper: the mean way of places that differ in x alone
        line = cut.outlines()[0]
        frame, *_ = np.linalg.lstsq(
            np.column_stack([line[:, 0], np.degrees(np.arctan2(line[:, 2], line[:, 1])), np.ones(len(line))]),
            ring,
            rcond=None,
        )
        forward = frame[0] / np.linalg.norm(frame[0])
        assert np.linalg.norm(frame[0]) == pytest.approx(1.0, abs=2e-3)
        round_it = np.array([-forward[1], forward[0]])
        for h in (-30.0, 0.0):
            near = np.abs(line[:, 0] - (20.0 + h)) < 0.3
            reach = ring[near] @ round_it
            want = 2 * radius * 2 * math.asin(math.sqrt(hole**2 - h**2) / (2 * radius))
            assert np.ptp(reach) == pytest.approx(want, abs=0.6)
        # the small flag is forward: which way is up from there as one sees it from within?
        hands.append(float(forward[0] * piece.up[1] - forward[1] * piece.up[0]))
    assert abs(hands[0]) > 0.9 and hands[0] == pytest.approx(-hands[1], abs=0.02)
    # from within, on the left half of the car, up is at the left hand of who looks forward along the tube
    assert hands[0] > 0


def test_what_cannot_be_flat_says_so() -> None:
    """A cap of a ball, 60 deg wide, cannot: Gauss. A cone can, to the last."""
    ball = grid(
        lambda a, b: (
            100 * math.sin(a * 1.05) * math.cos(2 * math.pi * b),
            100 * math.sin(a * 1.05) * math.sin(2 * math.pi * b),
            100 * math.cos(a * 1.05),
        ),
        8,
        24,
    )
    cone = grid(lambda a, b: ((30 + 80 * a) * math.cos(b), (30 + 80 * a) * math.sin(b), 90 * a), 6, 16)
    for corners, low, high in ((ball, 0.02, 0.5), (cone, 0.0, 1e-6)):
        _, first, back = np.unique(
            np.round(corners.reshape(-1, 3), 6), axis=0, return_index=True, return_inverse=True
        )
        t = back.reshape(-1, 3)
        t = t[(t[:, 0] != t[:, 1]) & (t[:, 1] != t[:, 2]) & (t[:, 0] != t[:, 2])]
        found = unrolled(corners.reshape(-1, 3)[first], t)
        assert low <= found.strain <= high


class TestOnTheCar:
    @pytest.mark.parametrize(
        ("name", "item", "dx", "dz"),
        [("truck", "front-crossmember", 0, -14), ("truck", "tunnel", -150, 0), ("hatch", "scan", -40, 0)],
    )
    def test_cut_and_measured_again(
        self, demo: Job, hatchback: Job, name: str, item: str, dx: float, dz: float
    ) -> None:
        """Places all over the thing: those that stay have what is wanted by the program's exact distances,
        those that go lack it; a place on the line has just that."""
        job = demo if name == "truck" else hatchback
        job = with_value(job, "position/x", job.position.x + dx)
        job = with_value(job, "position/z", job.position.z + dz)
        key = next(i.id for i in surfaces_of(job) if item in (i.id, i.measured))
        poses = standing_poses(job)[::6]
        cut = surface_cut(job, key, poses)
        assert cut.area > 100 and cut.why
        asking = asking_of(job, cut.item)
        moving, need = Bodies([solids for _, _, solids in asking]), np.array([mm for _, mm, _ in asking])

        def spare(points: Array) -> Array:
            """What is to spare at each, mm, by needles of no size."""
            needles = Bodies([[box(tuple(p), (1e-3, 1e-3, 1e-3))] for p in points])
            best = np.full(len(points), 30.0)
            for pose in poses:
                reach = np.full((moving.count, len(points)), 60.0)
                for near in nearest(moving, pose, needles, reach):
                    best[near.b] = min(best[near.b], near.distance - need[near.a])
            return best

        rng = np.random.default_rng(4)
        line = np.vstack(cut.outlines())
        some = line[rng.choice(len(line), 40)]
        left = spare(some)  # 0.05 are left standing on purpose
        assert left.min() > -0.03 and left.max() < 0.1
        gone = cut.patch.triangles.mean(1)
        assert spare(gone[rng.choice(len(gone), 12)]).max() < 0.1
        # places of the whole thing that are no part of what goes
        corners = cut.corners
        near = np.linalg.norm(corners.mean(1) - line.mean(0), axis=1) < 400
        chosen = corners[near][rng.choice(int(near.sum()), 60)]
        share = rng.dirichlet((1, 1, 1), 60)
        places = (share[:, :, None] * chosen).sum(1)
        kept = places[to_triangles(cut.patch.triangles, places) > 0.02]
        assert len(kept) > 20 and spare(kept).min() > -0.02

    def test_more_margin_more_goes_and_nothing_where_nothing_is_near(self, demo: Job) -> None:
        demo = with_value(demo, "position/z", demo.position.z - 14)
        poses = standing_poses(demo)[:2]
        less, more = (surface_cut(demo, "front-crossmember", poses, mm) for mm in (0.0, 6.0))
        assert more.area > less.area > 0
        none = surface_cut(demo, "rail-left", poses)
        assert none.area == 0 and none.outlines() == [] and none.why == ()
        with pytest.raises(JobError, match="nothing of that name"):
            surface_cut(demo, "firewall", poses)

    def test_paper_says_how_true_it_is(self, hatchback: Job) -> None:
        job = with_value(hatchback, "position/x", hatchback.position.x - 40)
        poses = standing_poses(job)[:1]
        scan = next(i.id for i in surfaces_of(job) if i.measured == "scan")
        cut = surface_cut(job, scan, poses)
        drawing = cut_line_drawing(cut, Display("mm"))
        off = max(piece.off for piece in cut.flat)
        assert any("outline true to" in note for note in drawing.notes)
        for piece in cut.flat:  # its cross is a place of the scan that has to go, and is told as such
            assert np.linalg.norm(cut.patch.triangles.mean(1) - piece.at, axis=1).min() < 1e-9
            x = f"{abs(piece.at[0]):.0f} mm {'forward of' if piece.at[0] >= 0 else 'behind'} the datum"
            assert any(x in note for note in drawing.notes)
        assert (off > 0.5) == any("trace the line on the car" in w for w in drawing.warnings)


def test_on_the_command_line(
    demo: Job, tmp_path: Path, capsys: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("nimble_cradle.judge.gaps.standing_poses", lambda job: [pose_of(job.position)])
    job = with_value(demo, "position/z", demo.position.z - 25)
    store.write(tmp_path / "a.cradle", job)
    assert main(["cut-lines", str(tmp_path / "a.cradle"), "-o", str(tmp_path / "o"), "--json"]) == 0
    text = capsys.readouterr().out
    rows = {row["item"]: row for row in json.loads(text[: text.rindex("]") + 1])}
    front = rows["front-crossmember"]
    assert front["area_cm2"] > 5 and "may_go_in_mm" not in front and front["paper_off_mm"] < 0.5
    (solid,) = solid_of(next(i for i in job.items if i.id == "front-crossmember"), job.meshes, "items")
    at = np.vstack([np.array(ring) for ring in front["outlines"]])
    assert np.abs(point_distances(solid, at)).max() < 0.01
    assert (tmp_path / "o" / "cut-line-front-crossmember.dxf").exists()
