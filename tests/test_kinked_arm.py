"""An arm in two legs: its cuts looked at in space, its checks against a straight one, its proposal."""

from __future__ import annotations

import math

import numpy as np
import pytest
from nimble_cradle.bay.bodies import bay_bodies, solid_of
from nimble_cradle.bay.position import pose_of
from nimble_cradle.design.split_arm import ITEM_AIR, PIECE_AIR, with_split_arm
from nimble_cradle.families.arm_cut import arm_cut, plate_cut
from nimble_cradle.families.arm_run import arm_run
from nimble_cradle.families.family import arm_family
from nimble_cradle.geometry.bodies import Bodies
from nimble_cradle.geometry.distance import clearance
from nimble_cradle.geometry.pose import Array, Pose, unit
from nimble_cradle.job.base import JobError
from nimble_cradle.job.bay import Item
from nimble_cradle.job.edits import added, with_value
from nimble_cradle.job.job import Job
from nimble_cradle.job.kinked_arm import KinkedArm
from nimble_cradle.job.mounts import Mount
from nimble_cradle.job.shapes import Box
from nimble_cradle.job.tube_arm import Tube
from nimble_cradle.judge.verdict import verdict
from nimble_cradle.shop.cutlist import cut_list
from nimble_cradle.shop.templates import templates


def kinked(job: Job, aside: tuple[float, float, float]) -> Job:
    """The truck with its left arm kinked a third of the way along, so far off it, vehicle frame."""
    pose = pose_of(job.position)
    run = arm_run(job.mounts[0], pose)
    kink = pose.inverse().points(run.root + 0.35 * (run.aim - run.root) + np.array(aside))
    arm = job.mounts[0].arm
    assert arm is not None
    fields = {name: getattr(arm, name) for name in Tube.model_fields} | {
        "kind": "kinked",
        "kink": tuple(float(c) for c in kink),
    }
    return with_value(job, "mounts/left/arm", KinkedArm(**fields))


def uses(job: Job) -> dict[str, float]:
    return {f.code: f.use for f in verdict(job).findings if f.part == "left"}


def on_tube(wrap: Array, base: Array, way: Array, zero: Array, radius: float, sense: float) -> Array:
    """The edge of a wrap in space: each point of its round edge, cut so deep from ``base`` against ``way``.
    sense: 1 where it runs anticlockwise about the way, -1 clockwise."""
    angle = wrap[:, 0] / radius * sense
    side = np.cross(way, zero)
    out = radius * (np.cos(angle)[:, None] * zero + np.sin(angle)[:, None] * side)
    return np.asarray(base + out - wrap[:, 1:] * way)


class TestCuts:
    @pytest.mark.parametrize("aside", [(12.0, -6.0, -17.0), (-14.0, -8.0, 12.0)])
    def test_both_mitres_lie_in_one_plane_and_the_foot_on_its_plate(
        self, demo: Job, aside: tuple[float, float, float]
    ) -> None:
        """The wraps put round the legs in space: nothing of how they were computed is used but their own
        convention. The deeper of outer and inner wall is the outer one on one half, so those points are the
        cut itself."""
        job = kinked(demo, aside)
        mount, pose = job.mounts[0], pose_of(job.position)
        run = arm_run(mount, pose)
        last, radius = run.at_eye, 57 / 2
        kink = last.root
        first, second = plate_cut(mount, pose), arm_cut(mount, pose)
        plane = unit(run.way + last.way)
        end = on_tube(first.cope, kink, run.way, first.zero, radius, 1.0)
        begin = on_tube(second.mitre, kink, -last.way, second.zero, radius, 1.0)
        foot = on_tube(first.mitre, run.root, -run.way, first.zero, radius, 1.0)
        for edge, through, normal, wrap in (
            (end, kink, plane, first.cope),
            (begin, kink, plane, second.mitre),
            (foot, run.root, run.axes[:, 2], first.mitre),
        ):
            outer = wrap[:, 1] >= 0
            assert outer.sum() > 100
            assert np.abs((edge[outer] - through) @ normal).max() < 1e-6
        # both edges meet where both are outside: the same ellipse in that plane
        long = radius / math.cos(math.radians(run.kink_deg / 2))
        for edge, wrap in ((end, first.cope), (begin, second.mitre)):
            far = np.linalg.norm(edge[wrap[:, 1] >= 0] - kink, axis=1).max()
            assert far == pytest.approx(long, rel=1e-4)  # a wrap has 360 stations

    def test_it_is_listed_and_drawn(self, demo: Job) -> None:
        job = kinked(demo, (12.0, -6.0, -17.0))
        row = next(r for r in cut_list(job) if r.part == "Left engine mount: arm")
        assert " and " in row.size and "mitred" in row.note
        names = {d.name for d in templates(job)[0]}
        assert {"cope-left", "foot-left", "kink-left", "kinkeye-left", "plate-left"} <= names


class TestChecks:
    def test_kinked_by_nothing_it_is_the_straight_arm(self, demo: Job) -> None:
        straight, same = uses(demo), uses(kinked(demo, (0.0, 0.0, 0.0)))
        assert set(same) == set(straight) | {"kink", "kink-turn"}
        assert same["kink-turn"] == pytest.approx(0, abs=1e-6)
        for code, use in straight.items():
            assert same[code] == pytest.approx(use, rel=1e-6, abs=1e-9), code
        assert same["kink"] < straight["arm"]

    def test_the_kink_by_hand(self, demo: Job) -> None:
        """Force of the bush about the kink, along each leg: tube 57 x 5."""
        from nimble_cradle.judge.carried import carried

        job = kinked(demo, (12.0, -6.0, -17.0))
        run = arm_run(job.mounts[0], pose_of(job.position))
        found = carried(job)
        area, w = math.pi / 4 * (57**2 - 47**2), math.pi / 32 * (57**4 - 47**4) / 57
        worst = 0.0
        for case in found.cases:
            factor = 1.5 if case.case.kind == "rare" else 2.5
            force = factor * next(m.force for m in case.mounts if m.mount == "left")
            moment = np.cross(np.array(job.mounts[0].bush.centre) - run.at_eye.root, force)
            for way in (run.way, run.at_eye.way):
                n, t = force @ way, moment @ way
                bend, shear = np.linalg.norm(moment - t * way), np.linalg.norm(force - n * way)
                sigma, tau = abs(n) / area + bend / w, abs(t) / (2 * w) + 2 * shear / area
                worst = max(worst, math.hypot(sigma, math.sqrt(3) * tau))
        assert uses(job)["kink"] == pytest.approx(worst / 235, rel=1e-6)

    @pytest.mark.parametrize(
        ("aside", "words"),
        [((0, -38.0, 0), "too short"), ((0, 0, 90.0), "turns by"), ((0, 62.0, 0), "too short")],
    )
    def test_what_cannot_be_is_said(self, demo: Job, aside: tuple[float, float, float], words: str) -> None:
        job = kinked(demo, aside)
        said = [p.sentence for p in verdict(job).problems if p.place.startswith("mounts/left")]
        assert any(words in sentence for sentence in said), said
        assert not verdict(job).holds

    def test_a_sharp_turn_does_not_hold(self, demo: Job) -> None:
        assert uses(kinked(demo, (18.0, -6.0, 0.0)))["kink-turn"] > 1


class TestProposal:
    def test_straight_where_that_is_clear_else_round_it(self, demo: Job) -> None:
        """On the truck's right a longer starter is in the way, on its left nothing."""
        demo = with_value(demo, "powertrain/pieces/starter/shapes/0/end", (190.0, -172.0, -28.0))
        assert with_split_arm(demo, demo.mounts[0]).mounts[0].arm == demo.mounts[0].arm
        pose = pose_of(demo.position)

        def starter(mount: Mount) -> float:
            """From the legs past the plate to the starter, mm."""
            run = arm_run(mount, pose)
            assert mount.arm is not None
            legs = Bodies([list(arm_family(mount.arm).beyond_plate(mount, run))])
            piece = next(p for p in demo.powertrain.pieces if p.id == "starter")
            solids = [s.placed(pose) for s in solid_of(piece, demo.meshes, "x")]  # type: ignore[union-attr]
            return clearance(legs, Pose.still(), Bodies([solids]), 50.0)[0]

        mount = with_split_arm(demo, demo.mounts[1]).mounts[1]
        assert isinstance(mount.arm, KinkedArm) and arm_run(mount, pose).kink_deg <= 30
        assert starter(demo.mounts[1]) < PIECE_AIR and starter(mount) >= PIECE_AIR - 0.5
        legs = Bodies([list(arm_family(mount.arm).beyond_plate(mount, arm_run(mount, pose)))])
        assert clearance(legs, Pose.still(), bay_bodies(demo), 50.0)[0] >= ITEM_AIR - 0.5

    def test_walled_in_it_is_said_and_nothing_changes(self, demo: Job) -> None:
        run = arm_run(demo.mounts[0], pose_of(demo.position))
        x, y, z = (run.root + run.aim) / 2
        wall = Item(
            id="wall", name="Wall", neighbour="metal", shapes=(Box(centre=(x, y, z), size=(900, 6, 900)),)
        )
        job = added(demo, "items", wall)
        with pytest.raises(JobError, match="no arm with one kink is clear"):
            with_split_arm(job, job.mounts[0])
