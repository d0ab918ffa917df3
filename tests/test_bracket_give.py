"""How far plate, arm, cheeks and wall give beside the rubber; bolts' heads; why a plate needs no prying."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from nimble_cradle.bay.position import pose_of
from nimble_cradle.families.arm_give import arm_give
from nimble_cradle.families.arm_run import arm_run
from nimble_cradle.families.on_wall import wall_gives
from nimble_cradle.geometry.pose import unit
from nimble_cradle.job.edits import with_value
from nimble_cradle.job.flats_arm import FlatsArm
from nimble_cradle.job.job import Job
from nimble_cradle.job.kinked_arm import KinkedArm
from nimble_cradle.job.tube_arm import Tube
from nimble_cradle.judge.carried import carried
from nimble_cradle.made.foot_seats import foot_seats
from nimble_cradle.strength.head_bearing import head_bearing
from nimble_cradle.strength.plate import plate_capacity
from nimble_cradle.strength.plate_root import plate_root
from nimble_cradle.strength.rail_wall import wall_give

E = 210e3


@pytest.mark.parametrize(
    ("share", "alpha"), [(0.20, 0.595), (0.30, 0.320), (0.40, 0.167), (0.50, 0.081), (0.60, 0.035)]
)
def test_a_trunnion_on_a_plate_as_in_the_handbook(share: float, alpha: float) -> None:
    """Roark's Formulas, table of circular plates, trunnion loaded by a couple, outer edge fixed: theta =
    alpha M/(E t^3), nu = 0.3 (from memory)."""
    turn, _ = plate_root(80.0, 80.0 * share, 6.0)
    assert turn * E * 6**3 == pytest.approx(alpha, abs=0.0015)


def test_a_push_on_a_small_hub_is_the_plate_with_a_point_load() -> None:
    """Timoshenko and Woinowsky-Krieger, 5.19: clamped, P in the middle: P a^2/(16 pi D)."""
    _, push = plate_root(80.0, 0.05, 6.0)
    rigidity = E * 6**3 / (12 * 0.91)
    assert push == pytest.approx(80**2 / (16 * math.pi * rigidity), rel=1e-3)


class TestArm:
    def frame_give(self, job: Job) -> np.ndarray:
        """The left arm by PyNite, held at its root: (3, 3) movement of the bush's centre, mm/N. Its legs in
        their own places, the eye a stiff end."""
        from Pynite import FEModel3D

        run = arm_run(job.mounts[0], pose_of(job.position))
        last = run.at_eye
        nodes = [run.root, *([] if run.last is None else [last.root])]
        nodes += [last.aim - last.eye_radius * last.way, np.array(job.mounts[0].bush.centre)]
        area = math.pi / 4 * (57**2 - 47**2)
        second = math.pi / 64 * (57**4 - 47**4)
        out = np.zeros((3, 3))
        for k in range(3):
            model = FEModel3D()
            model.add_material("steel", E, 81e3, 0.3, 0.0)
            model.add_section("tube", area, second, second, 2 * second)
            model.add_section("stiff", 1e6, 1e11, 1e11, 1e11)
            for i, p in enumerate(nodes):
                model.add_node(f"N{i}", *p)
            model.def_support("N0", *[True] * 6)
            for i in range(len(nodes) - 1):
                kind = "stiff" if i == len(nodes) - 2 else "tube"
                model.add_member(f"M{i}", f"N{i}", f"N{i + 1}", "steel", kind)
            end = f"N{len(nodes) - 1}"
            model.add_node_load(end, ("FX", "FY", "FZ")[k], 1000.0)
            model.analyze(check_stability=False)
            node = model.nodes[end]
            out[:, k] = [node.DX["Combo 1"], node.DY["Combo 1"], node.DZ["Combo 1"]]
        return out / 1000

    @pytest.mark.parametrize("aside", [None, (12.0, -6.0, -17.0)])
    def test_against_an_independent_frame(self, demo: Job, aside: tuple[float, float, float] | None) -> None:
        """Straight and kinked; the plate by itself is taken off: as thick as a block it gives nothing."""
        job = with_value(demo, "mounts/left/arm/offset_mm", 4.0)
        pose = pose_of(job.position)
        if aside is not None:
            run, arm = arm_run(job.mounts[0], pose), job.mounts[0].arm
            assert arm is not None
            kink = pose.inverse().points(run.root + 0.35 * (run.aim - run.root) + np.array(aside))
            fields = {name: getattr(arm, name) for name in Tube.model_fields} | {
                "kind": "kinked",
                "kink": tuple(float(c) for c in kink),
            }
            job = with_value(job, "mounts/left/arm", KinkedArm(**fields))
        mount = job.mounts[0]
        run = arm_run(mount, pose)
        plate = with_value(job, "mounts/left/pad/plate_mm", 10.0).mounts[0]
        ours = arm_give(mount, run)
        assert np.allclose(_without_plate(job), self.frame_give(job), rtol=1e-4, atol=1e-9)
        assert np.linalg.eigvalsh(ours).min() > 0 and np.allclose(ours, ours.T)
        thick = arm_give(plate, run)
        assert thick[2, 2] < ours[2, 2]

    def test_flats_give_more_across_than_over_their_height(self, demo: Job) -> None:
        arm = FlatsArm(tall_mm=60, tall_at_eye_mm=60, thick_mm=5, apart_mm=30, battens=0)
        mount = with_value(demo, "mounts/left/arm", arm).mounts[0]
        tied = with_value(demo, "mounts/left/arm", arm.model_copy(update={"battens": 2})).mounts[0]
        run = arm_run(mount, pose_of(demo.position))
        side = unit(np.array(mount.bush.axis) - (np.array(mount.bush.axis) @ run.way) * run.way)
        tall = np.cross(run.way, side)
        loose, held = arm_give(mount, run), arm_give(tied, run)
        assert side @ loose @ side > 2 * side @ held @ side
        assert tall @ loose @ tall == pytest.approx(tall @ held @ tall, rel=1e-6)


def _without_plate(job: Job) -> np.ndarray:
    """The left arm's own give: the plate made so thick that it gives nothing, the root left where it was."""
    mount = job.mounts[0]
    run = arm_run(mount, pose_of(job.position))
    thick = mount.model_copy(update={"pad": mount.pad.model_copy(update={"plate_mm": 1e5})})
    return arm_give(thick, run)


class TestWall:
    def test_strips_of_wall_by_an_independent_frame(self) -> None:
        """Both strips as beams of their plate's stiffness, from the side walls to a stiff foot."""
        from Pynite import FEModel3D

        face, across, along, wall = 80.0, 40.0, 60.0, 2.5
        free = (face - across) / 2
        long = along + 2 * free
        second = long * wall**3 / 12 / 0.91  # as a plate: no narrowing sideways
        moved = {}
        for load, kind in ((("FY", 1000.0), "force"), (("MZ", 1e5), "turn")):
            model = FEModel3D()
            model.add_material("steel", E, 81e3, 0.3, 0.0)
            model.add_section("strip", long * wall, second, second, second)
            model.add_section("stiff", 1e5, 1e10, 1e10, 1e10)
            for i, x in enumerate((0.0, free, free + across / 2, free + across, face)):
                model.add_node(f"N{i}", x, 0, 0)
            for node in ("N0", "N4"):
                model.def_support(node, *[True] * 6)
            for i in range(4):
                section = "strip" if i in (0, 3) else "stiff"
                model.add_member(f"M{i}", f"N{i}", f"N{i + 1}", "steel", section)
            model.add_node_load("N2", *load)
            model.analyze(check_stability=False)
            node = model.nodes["N2"]
            moved[kind] = (node.DY if kind == "force" else node.RZ)["Combo 1"] / load[1]
        force, along_turn, across_turn = wall_give(face, across, along, wall)
        assert force == pytest.approx(moved["force"], rel=1e-4)
        assert across_turn == pytest.approx(moved["turn"], rel=1e-4)
        assert along_turn == pytest.approx(12 * force / long**2)
        assert wall_give(face, 0.9 * face, along, wall) == (0.0, 0.0, 0.0)

    def test_a_thin_wall_lets_the_bolt_sway_across_the_rail(self, demo: Job) -> None:
        """The truck's left foot: force square to the wall, and sway by the lever over it; turned with the
        seat's own axes."""
        seat = foot_seats(demo).of("left")
        assert seat is not None
        give = seat.axes.T @ wall_gives(seat, 40.0, 40.0) @ seat.axes
        host = seat.host
        assert host.wall_mm is not None
        force, along_turn, across_turn = wall_give(
            seat.face_mm, 40.0, 40.0, math.hypot(host.wall_mm, host.second_mm)
        )
        along_rail = 0 if seat.rail_along_bolt else 1
        assert np.allclose(give, np.diag(np.diag(give)))
        assert give[2, 2] == pytest.approx(force)
        assert give[along_rail, along_rail] == pytest.approx(along_turn * seat.height**2)
        assert give[1 - along_rail, 1 - along_rail] == pytest.approx(across_turn * seat.height**2)


def test_it_is_counted(demo: Job) -> None:
    """A thinner plate lets the engine sag more; nothing else changed."""
    thin = with_value(demo, "mounts/left/pad/plate_mm", 4.0)
    moved = {m.mount: m for m in carried(demo).cases[0].mounts}["left"].movement
    more = {m.mount: m for m in carried(thin).cases[0].mounts}["left"].movement
    assert abs(more[2]) > abs(moved[2])


def test_a_head_by_hand() -> None:
    """M10 with a plain washer: 14.5 + 2.4 = 16.9 mm over an 11 mm hole: 129.3 mm2; 24 kN: 186 MPa of 490."""
    use, pressure, most = head_bearing(24000, "M10", 11.0, 360.0)
    assert pressure == pytest.approx(185.6, abs=0.5) and most == pytest.approx(490)
    assert use == pytest.approx(pressure / 490)
    assert head_bearing(24000, "M10", 15.0, 360.0)[0] > 0.9  # a hole that swallows the head


@given(st.floats(3, 15), st.floats(5, 60), st.floats(8, 60), st.floats(200, 400), st.floats(5e3, 1e5))
def test_where_plate_and_bolt_hold_so_do_the_modes_with_prying(
    thick: float, lever: float, edge: float, fy: float, bolt: float
) -> None:
    """EN 1993-1-8, 6.2.4 for one bolt beside the arm, half a T-stub: F1 = 2 Mpl/m, F2 = (Mpl + n Ft)/(m + n),
    F3 = Ft, n = min(e, 1.25 m): none is under the smaller of our plate and the bolt."""
    ours, width = plate_capacity(thick, lever, edge, fy)
    plastic = width * thick**2 * fy / 4
    n = min(edge, 1.25 * lever)
    modes = (2 * plastic / lever, (plastic + n * bolt) / (lever + n), bolt)
    assert min(modes) >= min(ours, bolt) * (1 - 1e-12)
