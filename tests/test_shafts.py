"""Joints, chains, critical speed and balance against published formulas, exact kinematics and moments by
hand."""

from __future__ import annotations

import math

import numpy as np
import pytest
from nimble_cradle.fit.balance import BALANCE, balances
from nimble_cradle.fit.half_shafts import half_shafts
from nimble_cradle.fit.shafts import (
    axle_at,
    chain,
    critical_speed,
    joint_angles,
    joint_state,
    one_joint,
    residual_angle,
    top_speed,
)
from nimble_cradle.job.base import JobError
from nimble_cradle.job.bay import CameOut
from nimble_cradle.job.edits import with_value
from nimble_cradle.job.job import Job
from nimble_cradle.job.setting import Propshaft
from scipy.linalg import eigh


def joint_out(angle_in: float, joint_deg: float) -> float:
    """Angle of the driven yoke for the driving yoke at ``angle_in`` (rad), both from the plane square to
    the joint's own: tan out = tan in cos joint."""
    return math.atan2(math.sin(angle_in) * math.cos(math.radians(joint_deg)), math.cos(angle_in))


def swing(angles: list[float], phases: list[float]) -> float:
    """Half the swing of the last yoke's speed over the first one's, by turning the joints one after the
    other in fine steps."""
    turn = np.linspace(0, 2 * np.pi, 7201)
    at = turn.copy()
    for b, p in zip(angles, phases, strict=True):
        rel = at + math.radians(p)
        at = np.unwrap([joint_out(x, b) for x in rel]) - math.radians(p)
    speed = np.gradient(at, turn)
    return float(speed.max() - speed.min()) / 2


class TestJoints:
    @pytest.mark.parametrize("angle", (2.0, 5.0, 12.0, 25.0))
    def test_one_joint_by_its_formula_and_by_turning_it(self, angle: float) -> None:
        """tan b sin b (SAE AE-7, from memory); at 25 deg: 1.1034, 0.9063, 0.1971 worked by hand."""
        most, least, variation = one_joint(angle)
        assert variation == pytest.approx(most - least) and swing([angle], [0.0]) == pytest.approx(
            variation / 2, rel=2e-3
        )
        if angle == 25.0:
            assert (most, least, variation) == pytest.approx((1.1034, 0.9063, 0.1971), abs=1e-4)

    def test_two_equal_joints_in_phase_cancel_and_a_quarter_turn_off_double(self) -> None:
        assert residual_angle([4.0, 4.0], [0.0, -90.0]) == pytest.approx(0.0, abs=1e-6)
        assert residual_angle([4.0, 4.0], [0.0, 0.0]) == pytest.approx(4 * math.sqrt(2))
        assert swing([4.0, 4.0], [0.0, 90.0]) < 1e-4

    @pytest.mark.parametrize(
        "angles,phases",
        (
            ([3.0, 2.0], [0.0, 90.0]),
            ([4.0, 3.0, 2.5], [0.0, 90.0, 0.0]),
            ([3.0, 3.0], [0.0, 60.0]),
            ([5.0, 2.0, 4.0], [10.0, 75.0, 20.0]),
        ),
    )
    def test_the_residual_angle_of_a_chain_against_turning_it(
        self, angles: list[float], phases: list[float]
    ) -> None:
        """The chain's swing is that of a single joint at the residual angle (small angles)."""
        foretold = one_joint(residual_angle(angles, phases))[2] / 2
        assert swing(angles, phases) == pytest.approx(foretold, rel=0.03)


class TestCriticalSpeed:
    def test_against_a_beam_of_finite_elements(self) -> None:
        """First bending mode of a pinned tube from 24 beam elements, solved by scipy."""
        outside, wall, length = 76.0, 2.0, 1350.0
        inside = outside - 2 * wall
        area, inertia = math.pi / 4 * (outside**2 - inside**2), math.pi / 64 * (outside**4 - inside**4)
        n = 24
        h = length / n
        k, m = np.zeros((2 * n + 2,) * 2), np.zeros((2 * n + 2,) * 2)
        ke = (
            207e3
            * inertia
            / h**3
            * np.array(
                [
                    [12, 6 * h, -12, 6 * h],
                    [6 * h, 4 * h * h, -6 * h, 2 * h * h],
                    [-12, -6 * h, 12, -6 * h],
                    [6 * h, 2 * h * h, -6 * h, 4 * h * h],
                ]
            )
        )
        me = (
            7850e-12
            * area
            * h
            / 420
            * np.array(
                [
                    [156, 22 * h, 54, -13 * h],
                    [22 * h, 4 * h * h, 13 * h, -3 * h * h],
                    [54, 13 * h, 156, -22 * h],
                    [-13 * h, -3 * h * h, -22 * h, 4 * h * h],
                ]
            )
        )
        for e in range(n):
            s = slice(2 * e, 2 * e + 4)
            k[s, s] += ke
            m[s, s] += me
        free = [i for i in range(2 * n + 2) if i not in (0, 2 * n)]
        first = math.sqrt(eigh(k[np.ix_(free, free)], m[np.ix_(free, free)], eigvals_only=True)[0])
        assert critical_speed(outside, wall, length)[0] == pytest.approx(first * 30 / math.pi, rel=1e-4)

    def test_the_handbook_rule(self) -> None:
        """n = 1.22e8 sqrt(D^2 + d^2) / L^2 for steel tube in mm (handbook rule, from memory), within 1.5
        %."""
        assert critical_speed(76, 2, 1350)[0] == pytest.approx(
            1.22e8 * math.hypot(76, 72) / 1350**2, rel=0.015
        )


@pytest.fixture
def plain(demo: Job) -> Job:
    """The truck with a plain shaft in one piece."""
    return with_value(demo, "propshaft", Propshaft())


class TestChain:
    def test_the_demo_is_phased_and_holds(self, demo: Job) -> None:
        assert chain(demo).faults == () and len(chain(demo).ride.angles) == 3
        straight = chain(with_value(demo, "propshaft/phase_deg", (0.0, 0.0)))
        assert straight.ride.residual > 1.5 * chain(demo).ride.residual and any(
            "torsional" in f for f in straight.faults
        )

    def test_straight_shafts_have_no_residual_and_lengths_are_the_distance(self, plain: Job) -> None:
        c = chain(plain)
        assert c.ride.angles == pytest.approx((2.5, 2.5), abs=0.1) and c.ride.residual < 0.6
        out = np.linalg.norm(np.asarray(plain.vehicle.axle_input) - _output(plain))
        assert c.order_mm == pytest.approx((out,)) and c.rpm == pytest.approx(top_speed(plain))
        assert [s.slip for s in c.states if s.travel == 0] == [0.0]

    def test_yokes_a_quarter_turn_off_are_found(self, plain: Job) -> None:
        wrong = chain(with_value(plain, "propshaft/phase_deg", (90.0, 0.0)))
        assert wrong.ride.residual == pytest.approx(
            math.sqrt(sum(a * a for a in wrong.ride.angles)), rel=0.02
        )
        assert any("torsional acceleration" in f for f in wrong.faults)

    def test_two_pieces_and_a_long_thin_tube(self, plain: Job) -> None:
        middle = (_output(plain) + np.asarray(plain.vehicle.axle_input)) / 2
        two = chain(with_value(plain, "propshaft/centre", tuple(float(c) for c in middle)))
        one = chain(
            with_value(with_value(plain, "propshaft/tube_outside_mm", 40.0), "propshaft/tube_wall_mm", 1.5)
        )
        assert len(two.ride.angles) == 3 and two.critical[0][0] == pytest.approx(
            4 * chain(plain).critical[0][0], rel=0.05
        )
        assert any("its tube is kept under" in f for f in one.faults)

    def test_an_axle_on_a_pivot_keeps_its_radius(self, plain: Job) -> None:
        x, y, z = plain.vehicle.axle_input
        job = with_value(plain, "propshaft/axle_pivot", (x + 600.0, y, z + 20.0))
        at, way = axle_at(job, 50.0)
        assert at[2] == pytest.approx(z + 50) and math.hypot(
            at[0] - x - 600, at[2] - z - 20
        ) == pytest.approx(math.hypot(600, 20))
        _, level = axle_at(job, 0.0)
        assert math.degrees(math.acos(float(way @ level))) == pytest.approx(
            math.degrees(math.asin(30 / math.hypot(600, 20)) - math.asin(-20 / math.hypot(600, 20))), abs=1e-6
        )

    def test_a_slip_joint_that_comes_apart_is_told(self, plain: Job) -> None:
        job = with_value(with_value(plain, "propshaft/slip_mm", 30.0), "vehicle/wheel_down_mm", 180.0)
        assert any("slip joint keeps" in f for f in chain(job).faults)

    def test_half_shafts_through_travel(self, hatchback: Job) -> None:
        h = half_shafts(hatchback)
        seat = hatchback.powertrain.gearbox.seats
        assert seat is not None and len(h.states) == 13 and h.lengths[0] != pytest.approx(h.lengths[1], abs=1)
        spread = [
            max(r[3] for r in h.states) - min(r[3] for r in h.states),
            max(r[4] for r in h.states) - min(r[4] for r in h.states),
        ]
        assert sum(h.plunge[0]) == pytest.approx(spread[0], abs=0.6) and sum(h.plunge[1]) == pytest.approx(
            spread[1], abs=0.6
        )
        with pytest.raises(JobError, match="half-shafts"):
            chain(hatchback)


def _output(job: Job) -> np.ndarray:
    from nimble_cradle.bay.position import pose_of

    return pose_of(job.position).points(job.powertrain.gearbox.output)


class TestBalance:
    def test_moments_by_hand(self) -> None:
        """700 + 600 kg, L 2500, h 600; 200 kg at 250 behind the axle, 500 high: rear +20, h = (1300*600 +
        200*500) / 1500 = 586.67."""
        w = BALANCE.work(front_kg=700, rear_kg=600, height=600, kg=200, x=-250, z=500, wheelbase=2500)
        assert (w.value("front"), w.value("rear"), w.value("cog")) == pytest.approx(
            (880, 620, 586.6667), abs=1e-3
        )

    def test_out_and_in_again_is_as_it_was(self, demo: Job) -> None:
        job = with_value(demo, "vehicle/came_out", CameOut(mass_kg=310.0, centre=(-120.0, 0.0, 150.0)))
        was, bare, now = balances(job)
        back = BALANCE.work(
            front_kg=was.front_kg,
            rear_kg=was.rear_kg,
            height=was.height_mm,
            kg=-310.0,
            x=-120.0,
            z=150.0 - job.vehicle.ground_z_mm,
            wheelbase=job.vehicle.wheelbase_mm,
        )
        assert (back.value("front"), back.value("rear"), back.value("cog")) == pytest.approx(
            (bare.front_kg, bare.rear_kg, bare.height_mm)
        )
        assert was.total_kg == pytest.approx(bare.total_kg + 310) and now.name == "with this engine"
        assert len(balances(with_value(demo, "vehicle/came_out", None))) == 2


@pytest.mark.parametrize("centre", [None, (-900.0, 12.0, -35.0)])
def test_many_places_at_once_are_as_each_by_itself(centre: tuple[float, float, float] | None) -> None:
    """The joints that a search looks at, against the driveline's own, shafts turned and phased at random."""
    rng = np.random.default_rng(8)
    starts, ways = rng.normal(size=(12, 3)) * 40, rng.normal(size=(12, 3)) * 0.08 + [-1.0, 0, 0]
    ways /= np.linalg.norm(ways, axis=1)[:, None]
    end, last = np.array([-1700.0, 30.0, -80.0]), np.array([-0.998, 0.03, 0.05])
    middle = None if centre is None else np.array(centre)
    phases = (17.0, -8.0)
    angles, residual, lengths = joint_angles(starts, ways, middle, end, last, phases)
    for k in range(12):
        one = joint_state(starts[k], ways[k], middle, end, last, phases, 0.0)
        assert angles[k] == pytest.approx(one.angles, abs=1e-9)
        assert residual[k] == pytest.approx(one.residual, abs=1e-9)
        assert lengths[k] == pytest.approx(one.lengths, abs=1e-9)
