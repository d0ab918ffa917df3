"""The plate on the block: bosses left free, spacers, a side cut off; the engine off the road with a rubber
gone."""

from __future__ import annotations

import math

import numpy as np
import pytest
from nimble_cradle.bay.corners import powertrain_corners
from nimble_cradle.bay.position import pose_of
from nimble_cradle.families.arm_run import arm_run
from nimble_cradle.families.plate import bolt_places, mount_plate, plate_solid
from nimble_cradle.geometry.pose import frame
from nimble_cradle.job.edits import with_value
from nimble_cradle.job.job import Job
from nimble_cradle.judge.verdict import verdict
from nimble_cradle.made.mount import mount_parts
from nimble_cradle.mounts.captured import HARD_G, comes_down, free_down
from nimble_cradle.shop.cutlist import cut_list
from nimble_cradle.shop.plate_template import plate_drawing
from nimble_cradle.strength.bolts import group_loads
from shapely.geometry import Point, Polygon


def asked(job: Job, path: str) -> list[str]:
    return [p.sentence for p in verdict(job).problems if p.place == f"mounts/left/pad/{path}"]


def uses(job: Job, mount: str = "left") -> dict[str, float]:
    return {f.code: f.use for f in verdict(job).findings if f.part == mount}


class TestBosses:
    def test_two_bolts_of_four_is_a_question_until_it_is_answered(self, demo: Job) -> None:
        holes = demo.mounts[0].pad.holes
        assert len(holes) == 4 and not asked(demo, "more_bosses")
        two = with_value(demo, "mounts/left/pad/holes", (holes[0], holes[2]))
        assert asked(two, "more_bosses") and "more bosses" in asked(two, "more_bosses")[0]
        assert not asked(with_value(two, "mounts/left/pad/more_bosses", "none"), "more_bosses")
        named = with_value(two, "mounts/left/pad/free_holes", (holes[1], holes[3]))
        assert "2 of 4 bosses" in asked(named, "more_bosses")[0] and not verdict(named).holds
        assert not asked(with_value(named, "mounts/left/pad/more_bosses", "other thread"), "more_bosses")

    def test_a_boss_that_another_part_needs_is_not_covered(self, demo: Job) -> None:
        """The free boss stands 30 mm over the top of the pattern, under its plate's rim or clear of it."""
        job = with_value(demo, "mounts/left/pad/more_bosses", "other part")
        top = max(v for _, v in demo.mounts[0].pad.holes)
        edge = mount_plate(demo.mounts[0], pose_of(demo.position)).outline[:, 1].max()
        near = with_value(job, "mounts/left/pad/free_holes", ((5.0, top - 4.0),))
        assert "another part" in asked(near, "free_holes")[0]
        clear = with_value(job, "mounts/left/pad/free_holes", ((5.0, float(edge) + 30.0),))
        assert not asked(clear, "free_holes")


class TestCutOff:
    @pytest.mark.parametrize(("side", "way"), [("left", (-1, 0)), ("top", (0, 1)), ("right", (1, 0))])
    def test_nothing_of_the_plate_lies_beyond_the_cut(
        self, demo: Job, side: str, way: tuple[int, int]
    ) -> None:
        holes = np.array(demo.mounts[0].pad.holes)
        far = float((holes @ way).max()) + 12.0  # nearer than the rim of 18
        job = with_value(demo, "mounts/left/pad/trim_mm", far)
        job = with_value(job, "mounts/left/pad/trim", side)
        mount, pose = job.mounts[0], pose_of(job.position)
        before, plate = mount_plate(demo.mounts[0], pose), mount_plate(mount, pose)
        assert (before.outline @ way).max() > far + 1 and (plate.outline @ way).max() == pytest.approx(far)
        assert plate.area < before.area - 50
        whole = Polygon(plate.outline)
        assert all(whole.contains(Point(*h).buffer(5.4)) for h in holes)
        # what is judged is the metal that is left: 12 mm from hole to edge, of 1.2 x 11
        assert uses(job)["edge"] == pytest.approx(1.2 * mount.pad.hole_mm / 12.0)
        solid = plate_solid(mount, arm_run(mount, pose))
        flat = (solid.pose.points(solid.hull_vertices) - mount.pad.centre) @ frame(
            mount.pad.normal, mount.pad.up
        )
        assert (flat[:, :2] @ way).max() == pytest.approx(far, abs=0.11)

    def test_a_cut_through_a_hole_or_the_weld_is_said(self, demo: Job) -> None:
        holes = np.array(demo.mounts[0].pad.holes)
        right, low = float(holes[:, 0].max()), float(-holes[:, 1].min())
        for side, far, words in (
            ("right", right + 2.0, "through a hole"),
            ("right", 1.0, "through a hole"),
            ("bottom", low + 12.0, "through the weld"),
        ):
            job = with_value(demo, "mounts/left/pad/trim_mm", far)
            job = with_value(job, "mounts/left/pad/trim", side)
            said = [p.sentence for p in verdict(job).problems if p.place.startswith("mounts/left")]
            assert any(words in s for s in said), said
            assert not verdict(job).holds


class TestSpacers:
    def test_they_move_the_plate_out_and_lengthen_no_bolts_lever_unseen(self, demo: Job) -> None:
        job = with_value(demo, "mounts/left/pad/spacer_mm", 7.0)
        pose, mount = pose_of(job.position), job.mounts[0]
        normal = pose.rotation @ frame(mount.pad.normal, mount.pad.up)[:, 2]
        moved = arm_run(mount, pose).root - arm_run(demo.mounts[0], pose).root
        assert np.allclose(moved, 7.0 * normal)
        heads = bolt_places(mount, pose) - bolt_places(demo.mounts[0], pose)
        assert np.allclose(heads, 7.0 * normal)
        assert uses(job)["spacer"] == pytest.approx(0.7)  # M10
        parts = [p for p in mount_parts(mount, pose) if p.role == "spacers"]
        assert len(parts[0].solids) == 4
        row = next(r for r in cut_list(job) if "spacers" in r.part)
        assert row.quantity == 4 and row.size == "7 long"
        # a plate on four spacers holds like one on four bosses
        bosses = with_value(demo, "mounts/left/pad/rests", "bosses")
        assert uses(job)["bolts"] == pytest.approx(uses(bosses)["bolts"], rel=0.1)
        assert uses(with_value(job, "mounts/left/pad/spacer_mm", 14.0))["spacer"] > 1


class TestOffTheRoad:
    def test_it_turns_about_the_two_others(self, demo: Job) -> None:
        """A rigid body whose points at the two other mounts stay and whose point at this one goes down: by
        solving for its three small motions (down, roll, pitch)."""
        corners = powertrain_corners(demo)
        places = np.array([m.bush.centre for m in demo.mounts])
        for k in range(3):
            rows = np.column_stack([np.ones(3), places[:, 1], -places[:, 0]])
            want = np.zeros(3)
            want[k] = -20.0
            down, roll, pitch = np.linalg.solve(rows, want)
            rise = down + roll * corners[:, 1] - pitch * corners[:, 0]
            assert np.allclose(comes_down(demo.mounts, k, 20.0, corners), rise, atol=1e-9)

    def test_a_low_road_and_a_high_one(self, demo: Job) -> None:
        """By hand for the left mount: how far its eye goes down, and the lowest corner with it."""
        found = verdict(demo)
        assert found.carried is not None
        corners = powertrain_corners(demo)
        way = free_down(demo.mounts[0], HARD_G * 9.80665 * found.carried.mass.mass_kg)
        drop = corners[:, 2].min() - (corners[:, 2] + comes_down(demo.mounts, 0, way, corners)).min()
        lowest = float(corners[:, 2].min())
        for over in (2 * drop, 0.5 * drop):
            job = with_value(demo, "vehicle/ground_z_mm", lowest - over)
            assert uses(job)["captured-road"] == pytest.approx(drop / max(over, 1.0), rel=1e-6)
        assert math.isfinite(way) and drop > 0


def test_a_torch_reaches_round_the_arm(demo: Job) -> None:
    """The bush brought along the arm until 10 mm, then 25 mm are free on the side it leans to."""
    pose, mount = pose_of(demo.position), demo.mounts[0]
    run = arm_run(mount, pose)
    lean = 57 / 2 * math.tan(math.radians(run.plate_angle_deg))
    for free, asked_for in ((10.0, True), (25.0, False)):
        eye = run.root + (run.eye_radius + lean + free) * run.way
        job = with_value(demo, "mounts/left/bush/centre", tuple(float(c) for c in eye))
        said = [p.sentence for p in verdict(job).problems if "torch" in p.sentence]
        assert bool(said) is asked_for, said
        if said:
            assert "10 mm" in said[0]


def parted(job: Job, numbers: tuple[int, ...], **other: object) -> Job:
    """The left plate with some of its holes for another bolt."""
    pad = job.mounts[0].pad
    mine = tuple(h for k, h in enumerate(pad.holes) if k not in numbers)
    job = with_value(job, "mounts/left/pad/holes", mine)
    job = with_value(job, "mounts/left/pad/other_holes", tuple(pad.holes[k] for k in numbers))
    for name, value in other.items():
        job = with_value(job, f"mounts/left/pad/{name}", value)
    return job


class TestTwoSortsOfBolt:
    def test_the_same_bolt_by_another_name_changes_nothing(self, demo: Job) -> None:
        pad = demo.mounts[0].pad
        job = parted(
            demo,
            (1, 2),
            other_bolt=pad.bolt,
            other_class=pad.bolt_class,
            other_tightening_nm=pad.tightening_nm,
            other_hole_mm=pad.hole_mm,
        )
        assert uses(job) == pytest.approx(uses(demo), rel=1e-9)

    @pytest.mark.parametrize("rests", ["bosses", "flat"])
    def test_bolts_share_by_their_areas(self, rests: str) -> None:
        """Against a stiff plate on springs as stiff as the bolts' areas, six unknowns solved at once; on
        a flat pad, as far spread as these, the pulled ones."""
        rng = np.random.default_rng(5)
        holes = np.array([[-52.0, -31.0], [47.0, -36.0], [60.0, 44.0], [-35.0, 52.0], [5.0, 63.0]])
        sizes = np.array([84.3, 84.3, 84.3, 36.6, 36.6])
        force, moment = rng.normal(size=(6, 3)) * 4000, rng.normal(size=(6, 3)) * 60_000
        found = group_loads(holes, 18.0, rests == "bosses", force, moment, sizes)
        for k in range(6):
            total, rows = np.zeros((6, 6)), []
            for (u, v), area in zip(holes, sizes, strict=True):
                b = np.zeros((3, 6))  # movement of the plate there from (move, turn)
                b[:, :3] = np.eye(3)
                b[:, 3:] = [[0, 0, -v], [0, 0, u], [v, -u, 0]]
                total += area * b.T @ b
                rows.append((area, b))
            q = np.linalg.solve(total, np.concatenate([force[k], moment[k]]))
            want = np.array([area * b @ q for area, b in rows])
            assert found.shear[k] == pytest.approx(np.hypot(want[:, 0], want[:, 1]), rel=1e-9)
            pulled = want[:, 2] if rests == "bosses" else np.maximum(want[:, 2], 0.0)
            assert found.signed[k] == pytest.approx(pulled, rel=1e-9, abs=1e-6)

    def test_each_sort_is_judged_at_its_own_figures(self, demo: Job) -> None:
        """Two M10 and two M8 by hand: tightening, thread, edge and pitch are told of the sort that is used
        most; the list has a row of each, the template says which holes."""
        pad = demo.mounts[0].pad
        assert (pad.bolt, pad.bolt_class, len(pad.holes)) == ("M10", "10.9", 4)
        job = parted(
            demo, (0, 3), other_bolt="M8", other_class="8.8", other_tightening_nm=29.0, other_hole_mm=9.0
        )
        job = with_value(
            with_value(job, "mounts/left/pad/thread_in", "cast aluminium"),
            "mounts/left/pad/thread_deep_mm",
            16.0,
        )
        nut = job.allowables.nut_factor
        by_hand = {  # clamp T / (K d) over nine tenths of the proof load, ISO 898-1: 580 and 830 MPa
            "M8": 29_000 / (nut * 8) / (0.9 * 580 * 36.6),
            "M10": pad.tightening_nm * 1000 / (nut * 10) / (0.9 * 830 * 58.0),
        }
        told = uses(job)
        assert by_hand["M8"] > by_hand["M10"] and told["tightening"] == pytest.approx(by_hand["M8"], rel=2e-3)
        looser = with_value(job, "mounts/left/pad/other_tightening_nm", 10.0)
        assert uses(looser)["tightening"] == pytest.approx(by_hand["M10"], rel=2e-3)
        assert uses(looser)["slip"] > told["slip"] > uses(demo)["slip"]
        rows = [r for r in cut_list(job) if r.part.startswith(f"{job.mounts[0].name}: block bolts")]
        assert [(r.stock, r.quantity) for r in rows] == [("M10", 2), ("M8", 2)]
        note = plate_drawing(job.mounts[0], job).notes[0]
        assert "2 holes (1 to 2) of 11.0 mm for M10, 2 holes (3 to 4) of 9.0 mm for M8" in note
        assert mount_plate(job.mounts[0], pose_of(job.position)).diameters.tolist() == [11, 11, 9, 9]

    def test_a_bolt_that_does_not_go_into_its_hole_is_told_at_its_field(self, demo: Job) -> None:
        job = parted(demo, (0,), other_bolt="M12", other_hole_mm=11.0)
        assert "M12 bolt does not go into a 11 mm hole" in asked(job, "other_hole_mm")[0]
