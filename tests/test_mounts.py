"""The powertrain on its bushes: rubber, load cases, equilibrium, vibration."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from nimble_cradle.design.bush_kinds import with_bush_kind
from nimble_cradle.desk.stages.mounts.told import solid_words
from nimble_cradle.families.bonded_stiffness import (
    bush_stiffness,
    radial_beta,
    radial_beta_long,
    radial_beta_short,
    stiffness,
    youngs_modulus,
)
from nimble_cradle.families.family import BushStiffness
from nimble_cradle.geometry.pose import Array, Pose, unit
from nimble_cradle.job.base import JobError
from nimble_cradle.job.edits import with_value
from nimble_cradle.job.job import Job
from nimble_cradle.judge.carried import carried
from nimble_cradle.judge.studies import locked_in_of
from nimble_cradle.mounts.cases import Case, Drive, first_gear_torque, load_cases
from nimble_cradle.mounts.equilibrium import solve
from nimble_cradle.mounts.locked import forced_stiffness
from nimble_cradle.mounts.shares import rest_shares
from nimble_cradle.mounts.springs import Spring, body_stiffness, in_series, motion_at
from nimble_cradle.mounts.vibration import firing_frequency, idle_shake, modes, transmissibility
from nimble_cradle.shop.report import report_data, report_text
from nimble_cradle.units import G_STANDARD
from scipy import linalg
from scipy.spatial.transform import Rotation

from narrowed import bonded


def spring_matrix(axis: Array, radial: float, axial: float) -> Array:
    """(3, 3) by hand: radial across, axial along a unit axis."""
    along = np.outer(axis, axis)
    return np.asarray(radial * (np.eye(3) - along) + axial * along)


NO_BUSH = BushStiffness(1, 1, None)  # type: ignore[arg-type]


def spring(
    centre: tuple[float, float, float],
    radial: float,
    axial: float,
    axis: tuple[float, float, float] = (1, 0, 0),
    loss: float = 0.0,
) -> Spring:
    a = unit(axis)
    return Spring(
        f"{centre}", np.array(centre, dtype=float), a, spring_matrix(a, radial, axial), NO_BUSH, loss, 1.0
    )


class TestRubber:
    """Adkins and Gent 1954 and Gent 1958, as quoted by Horton, Gover and Tupholme 2000 (formulas from
    memory)."""

    @pytest.mark.parametrize(("a", "b"), [(10, 21), (8, 12), (11, 42), (20, 23)])
    def test_finite_length_tends_to_both_published_limits(self, a: float, b: float) -> None:
        assert radial_beta(a, b, 400 * b) == pytest.approx(radial_beta_long(a, b), rel=0.01)
        assert radial_beta(a, b, (b - a) / 60) == pytest.approx(
            radial_beta_short(a, b), rel=0.06
        )  # the limit itself is an approximation

    def test_finite_length_is_bracketed_and_rises(self) -> None:
        values = [radial_beta(10, 21, length) for length in (4, 10, 25, 60, 150, 600)]
        assert values == sorted(values)
        assert radial_beta_short(10, 21) < values[0] and values[-1] < radial_beta_long(10, 21)

    def test_finer_mesh_says_the_same(self) -> None:
        for length in (12, 40, 90):
            assert radial_beta(11, 42, length) == pytest.approx(
                radial_beta.__wrapped__(11, 42, length, 9, 14), rel=0.01
            )

    @given(st.floats(0.2, 5))
    def test_a_bush_of_another_size_scales(self, factor: float) -> None:
        radial, axial, *_ = bush_stiffness(20, 44, 50, 50, "short")
        again = bush_stiffness(20 * factor, 44 * factor, 50 * factor, 50, "short")
        assert again[0] == pytest.approx(radial * factor) and again[1] == pytest.approx(axial * factor)

    def test_axial_stiffness_by_direct_integration(self) -> None:
        # shear of concentric rings in series: 1/k = integral dr / (2 pi r L G)
        g = youngs_modulus(55) / 3
        r = np.linspace(10, 22, 20001)
        series = np.trapezoid(1 / (2 * np.pi * r * 50 * g), r)
        assert bush_stiffness(20, 44, 50, 55)[1] == pytest.approx(1 / series, rel=1e-6)

    def test_gents_relation(self) -> None:
        # worked by hand from the published relation: S = 50: 0.0981 * 437.168 / (0.137505 * 127) = 2.4558 MPa
        assert youngs_modulus(50) == pytest.approx(2.4558, abs=1e-4)
        assert youngs_modulus(70) > 2 * youngs_modulus(50)

    def test_an_impossible_bush_is_refused_at_its_place(self, demo: Job) -> None:
        with pytest.raises(JobError, match="does not go into the eye") as refused:
            with_value(demo, "mounts/left/bush/sleeve_mm", 90.0)
        assert refused.value.place == "mounts/left/bush"
        measured = with_value(demo, "mounts/left/bush/stiffness_radial", 321.0)
        assert stiffness(bonded(measured.mounts[0].bush)).radial == 321.0


class TestEquilibrium:
    def test_one_bounce_by_hand(self) -> None:
        springs = [spring((x, y, 0), 200, 100, (0, 0, 1)) for x in (-300, 300) for y in (-200, 200)]
        case = Case("w", "w", np.array([0, 0, -1000.0]), np.zeros(3), "everyday")
        result = solve(springs, np.zeros(3), Pose.still(), [case])[0]
        assert np.allclose(result.move, [0, 0, -1000 / 400]) and np.allclose(result.turn, 0)
        assert all(m.size == pytest.approx(250) for m in result.mounts)

    def test_roll_stiffness_by_hand(self) -> None:
        springs = [spring((x, y, 0), 200, 100, (0, 0, 1)) for x in (-300, 300) for y in (-200, 200)]
        moment = 1e5
        result = solve(
            springs,
            np.zeros(3),
            Pose.still(),
            [Case("t", "t", np.zeros(3), np.array([moment, 0, 0]), "everyday")],
        )[0]
        assert result.turn[0] == pytest.approx(moment / (4 * 100 * 200**2))
        assert result.mounts[0].force[2] == pytest.approx(
            -moment / 800
        )  # right-hand side goes down when the left rises

    @given(st.integers(0, 3000))
    def test_loads_balance_whatever_the_layout(self, seed: int) -> None:
        rng = np.random.default_rng(seed)
        springs = [
            spring(
                tuple(rng.uniform(-500, 500, 3)),
                float(rng.uniform(50, 3000)),
                float(rng.uniform(50, 3000)),
                tuple(rng.normal(size=3)),
            )
            for _ in range(4)
        ]
        centre, force, moment = (rng.uniform(-200, 200, 3), rng.uniform(-5, 5, 3), rng.uniform(-1e3, 1e3, 3))
        result = solve(springs, centre, Pose.still(), [Case("c", "c", force, moment, "everyday")])[0]
        total = sum((m.force for m in result.mounts), np.zeros(3))
        turning = sum(
            (np.cross(s.centre - centre, m.force) for s, m in zip(springs, result.mounts, strict=True)),
            np.zeros(3),
        )
        assert np.allclose(total, force, atol=1e-6 * 5) and np.allclose(turning, moment, atol=1e-3)

    @given(st.integers(0, 3000))
    def test_turning_the_whole_vehicle_turns_the_answer(self, seed: int) -> None:
        rng = np.random.default_rng(seed)
        r: Array = Rotation.random(random_state=seed).as_matrix()
        rows = [
            (rng.uniform(-500, 500, 3), unit(rng.normal(size=3)), *rng.uniform(100, 2000, 2))
            for _ in range(3)
        ]
        force, moment = rng.uniform(-3, 3, 3), rng.uniform(-3e2, 3e2, 3)

        def answer(turn: Array) -> tuple[Array, Array]:
            springs = [spring(tuple(turn @ c), k1, k2, tuple(turn @ a)) for c, a, k1, k2 in rows]
            result = solve(
                springs, np.zeros(3), Pose.still(), [Case("c", "c", turn @ force, turn @ moment, "everyday")]
            )[0]
            return result.move, result.turn

        (move, twist), (moved, twisted) = answer(np.eye(3)), answer(r)
        scale = max(1.0, float(np.abs(move).max()))
        assert np.allclose(r @ move, moved, atol=1e-5 * scale) and np.allclose(
            r @ twist, twisted, atol=1e-7 * scale
        )

    def test_left_and_right_swap(self, demo: Job) -> None:
        """A left-hand bend on the mirrored mounts is a right-hand bend on these."""
        results = carried(demo)
        left, right = results.case("left-bend"), results.case("right-bend")
        both = left.move + right.move
        assert np.allclose(both, 2 * results.case("weight").move, atol=1e-9)

    def test_two_mounts_do_not_hold_it(self, demo: Job) -> None:
        with pytest.raises(JobError, match="free to move"):
            carried(with_value(with_value(demo, "crossmember", None), "mounts", demo.mounts[:1]))
        with pytest.raises(JobError, match="no mount"):
            carried(with_value(with_value(demo, "crossmember", None), "mounts", ()))
        with pytest.raises(JobError, match="crossmember carries"):
            with_value(demo, "mounts", demo.mounts[:1])


class TestForced:
    """What a forced bolt locks in."""

    def test_against_a_bolt_that_is_moved(self) -> None:
        """Its hole pushed out by a millimetre in every direction of a fan, the engine free to follow on the
        other bushes: seven equations, and the greatest force of all."""
        spots = ((-310, 240, 30), (280, -190, -60), (40, 30, 210), (-100, -330, 0))
        give = np.diag([2e-4, 5e-5, 1e-4])
        springs = [replace(spring(p, 900 + 200 * i, 300, (1, i, 2)), give=give) for i, p in enumerate(spots)]
        for number, own in enumerate(springs):
            k = np.zeros((6, 6))
            for s in springs:
                k += motion_at(s.centre).T @ in_series(s.matrix, s.give) @ motion_at(s.centre)
            at, stiff = motion_at(own.centre), in_series(own.matrix, own.give)
            worst = 0.0
            for way in np.random.default_rng(2).normal(size=(4000, 3)):
                way = way / np.linalg.norm(way)
                q = np.linalg.solve(k, at.T @ stiff @ way)
                worst = max(worst, float(np.linalg.norm(stiff @ (way - at @ q))))
            assert forced_stiffness(springs, number, np.zeros(3)) == pytest.approx(worst, rel=5e-3)

    def test_a_bush_that_answers_one_way_only(self) -> None:
        """One that has lifted off: its stiffest way is the one that is left."""
        springs = [spring((x, y, 0.0), 700, 0, (0, 0, 1)) for x, y in ((0, 200), (310, -150), (-90, -260))]
        k = forced_stiffness(springs, 0, np.zeros(3))
        assert 0 < k < 700 and np.isfinite(k)

    def test_a_solid_mount_tells_its_price(self, demo: Job) -> None:
        """The truck's left bush of metal: what its arm and the rail's wall give is most of what gives; told
        with rubber beside it, and not with metal everywhere."""
        job = with_bush_kind(demo, demo.mounts[0], "solid")
        found = carried(job)
        k = forced_stiffness(found.springs, 0, found.centre)
        assert 100 < k < 1 / float(np.linalg.eigvalsh(found.springs[0].give)[0])
        words = solid_words(job, job.mounts[0], found)
        assert locked_in_of(found, "left").value("force") == pytest.approx(0.5 * k)
        assert f"{0.5 * k:,.0f} N" in words and "Solid here and rubber elsewhere" in words
        for mount in job.mounts[1:]:
            job = with_bush_kind(job, mount, "solid")
        assert report_data(job)["mounts"][1]["forced_n_mm"] == pytest.approx(
            forced_stiffness(carried(job).springs, 1, carried(job).centre)
        )
        assert "rubber elsewhere" not in solid_words(job, job.mounts[0], carried(job))


class TestShares:
    """What four mounts bear hangs on how stiff they are; what three bear does not."""

    def test_four_under_one_plate_in_closed_form(self) -> None:
        """Four equal springs at the corners bear W/4 each. One of them 20 % harder bears t more, as its
        diagonal does, and the two others t less: the plate stays plane, (W/4 + t)/(1.2 k) + (W/4 + t)/k =
        2 (W/4 - t)/k."""
        load = Case("weight", "at rest", np.array([0.0, 0.0, -2400.0]), np.zeros(3), "rest")
        springs = [spring((x, y, 0.0), 200, 100, (0, 0, 1)) for x in (-300, 300) for y in (-200, 200)]
        (rest,) = solve(springs, np.zeros(3), Pose.still(), [load])
        ids = [s.mount for s in springs]
        harder, softer = (600 * (1 - 1 / f) / (3 + 1 / f) for f in (1.2, 0.8))
        for row in rest_shares(springs, ids, np.zeros(3), rest):
            assert row.now == pytest.approx(600)
            assert row.most == pytest.approx(600 + max(harder, -softer), rel=1e-9)
            assert row.least == pytest.approx(600 - max(harder, -softer), rel=1e-9)
        assert not rest_shares(springs[:3], ids[:3], np.zeros(3), rest)

    def test_told_in_the_report(self, demo: Job) -> None:
        """The truck with its left mount twice, 150 apart: all four are told, and their sum is the weight."""
        assert report_data(demo)["rest_shares"] == [] and "share the weight" not in report_text(demo)
        one = demo.mounts[0]
        x, y, z = one.bush.centre
        bush = one.bush.model_copy(update={"centre": (x - 150.0, y, z)})
        pad = one.pad.model_copy(update={"centre": (one.pad.centre[0] - 150.0, *one.pad.centre[1:])})
        more = one.model_copy(update={"id": "rear", "name": "Left rear", "bush": bush, "pad": pad})
        job = with_value(demo, "mounts", (*demo.mounts, more))
        rows = {r["mount"]: r for r in report_data(job)["rest_shares"]}
        assert set(rows) == {"left", "right", "gearbox", "rear"}
        for r in rows.values():
            assert r["least_n"] < r["now_n"] < r["most_n"]
        weight = carried(job).mass.mass_kg * G_STANDARD
        assert sum(r["now_n"] for r in rows.values()) == pytest.approx(weight, rel=1e-3)
        assert "4 mounts share the weight by how stiff they are" in report_text(job)
        assert "Left rear" in report_text(job)


class TestCases:
    def test_left_side_rises_under_power_of_a_clockwise_crank(self, demo: Job) -> None:
        case = next(
            c for c in load_cases(demo, Pose.still(), 300, Drive(500, 0.4, 300, 0.25)) if c.id == "first-gear"
        )
        assert case.moment[0] == pytest.approx(500e3) and case.moment[1] == 0
        other = with_value(demo, "powertrain/engine/clockwise_from_front", False)
        assert next(
            c
            for c in load_cases(other, Pose.still(), 300, Drive(500, 0.4, 300, 0.25))
            if c.id == "first-gear"
        ).moment[0] == pytest.approx(-500e3)

    def test_grip_limits_torque_with_load_transfer(self) -> None:
        # by hand: W = 700 kg, mu 0.8, h/L = 0.25: F = 0.8 * 700 g / (1 - 0.2) = 700 g; T = F * 0.35 / 4
        torque, by_engine, by_grip = first_gear_torque(400, 4, 700, 1400, 700, 2800, 0.8, 350, 4.0)
        assert by_engine == 1600 and torque == by_grip == pytest.approx(700 * G_STANDARD * 0.35 / 4)
        assert first_gear_torque(100, 3, 700, 1400, 700, 2800, 0.8, 350, 4.0)[0] == 300
        front = first_gear_torque(400, 4, 700, 1400, 700, 2800, 0.8, 350, 4.0, "front")[2]
        assert front == pytest.approx(0.8 * 700 * G_STANDARD / 1.2 * 0.35 / 4)

    def test_bump_and_rebound_are_whole_load_factors(self, demo: Job) -> None:
        cases = {c.id: c for c in load_cases(demo, Pose.still(), 100, Drive(0, 0, 0, 0))}
        assert cases["bump"].force[2] == pytest.approx(-3 * 100 * G_STANDARD) and cases["rebound"].force[
            2
        ] == pytest.approx(1.5 * 100 * G_STANDARD)
        assert cases["braking"].force[0] > 0 and cases["left-bend"].force[1] < 0


class TestVibration:
    def layout(self, loss: float = 0.0) -> list[Spring]:
        return [spring((x, y, 0), 200, 100, (0, 0, 1), loss) for x in (-300, 300) for y in (-200, 200)]

    def test_decoupled_body_in_closed_form(self) -> None:
        # f = sqrt(k / m) / 2 pi for each motion (Rao, Mechanical Vibrations, ch. 2; from memory). m = 200 kg,
        # k_z = 400 N/mm = 4e5 N/m
        inertia = np.diag([8e6, 30e6, 33e6])  # kg mm2
        found = {m.word: m.frequency for m in modes(self.layout(), np.zeros(3), 200, inertia)}
        assert found["bounce"] == pytest.approx(np.sqrt(4e5 / 200) / (2 * np.pi))
        assert found["fore and aft"] == pytest.approx(np.sqrt(8e5 / 200) / (2 * np.pi))
        assert found["roll"] == pytest.approx(np.sqrt(4 * 1e5 * 0.2**2 / 8) / (2 * np.pi))
        assert found["pitch"] == pytest.approx(np.sqrt(4 * 1e5 * 0.3**2 / 30) / (2 * np.pi))
        assert found["yaw"] == pytest.approx(np.sqrt(4 * 2e5 * (0.2**2 + 0.3**2) / 33) / (2 * np.pi))

    @given(st.integers(0, 2000))
    def test_coupled_modes_against_scipy(self, seed: int) -> None:
        rng = np.random.default_rng(seed)
        springs = [
            spring(
                tuple(rng.uniform(-400, 400, 3)),
                float(rng.uniform(100, 2000)),
                float(rng.uniform(100, 2000)),
                tuple(rng.normal(size=3)),
            )
            for _ in range(3)
        ]
        root = rng.normal(size=(3, 3))
        inertia = 4e6 * (root @ root.T + 3 * np.eye(3))
        m = np.zeros((6, 6))
        m[:3, :3], m[3:, 3:] = 0.25 * np.eye(3), inertia / 1000
        want = np.sqrt(
            np.maximum(linalg.eigh(body_stiffness(springs, np.zeros(3)), m, eigvals_only=True), 0)
        ) / (2 * np.pi)
        got = modes(springs, np.zeros(3), 250, inertia)
        assert np.allclose([g.frequency for g in got], want, rtol=1e-6, atol=1e-4)
        assert all(sum(g.shares) == pytest.approx(1) for g in got)

    def test_idle_of_a_decoupled_body_is_the_textbook_curve(self) -> None:
        inertia = np.diag([8e6, 30e6, 33e6])
        springs = self.layout(0.12)
        natural = np.sqrt(4 * 1e5 * 0.2**2 / 8) / (2 * np.pi)
        for rpm in (300, 600, 780, 1500, 3000):
            got = idle_shake(springs, np.zeros(3), 200, inertia, np.array([1.0, 0, 0]), rpm, 4, 4)
            assert got.frequency == rpm / 30
            assert got.nominal == pytest.approx(transmissibility(rpm / 30, float(natural), 0.12), rel=1e-9)
            band = [
                transmissibility(n / 30, float(natural), 0.12) for n in np.linspace(rpm - 50, rpm + 50, 11)
            ]
            assert got.least == pytest.approx(min(band)) and got.transmitted == pytest.approx(max(band))

    def test_idle_over_a_band_of_hardness(self) -> None:
        """One degree of freedom: a bush 5 points harder or softer has a natural frequency by the root of
        its modulus."""
        inertia = np.diag([8e6, 30e6, 33e6])
        springs = [replace(s, hardness=50.0) for s in self.layout(0.12)]
        natural = np.sqrt(4 * 1e5 * 0.2**2 / 8) / (2 * np.pi)
        got = idle_shake(springs, np.zeros(3), 200, inertia, np.array([1.0, 0, 0]), 780, 4, 4)
        e = [youngs_modulus(50.0 + d) / youngs_modulus(50.0) for d in np.linspace(-5, 5, 11)]
        passed = []
        for share in e:
            for rpm in np.linspace(730, 830, 11):
                at = float(natural) * np.sqrt(share)
                passed.append(share * transmissibility(rpm / 30, at, 0.12) / share)
        assert got.transmitted == pytest.approx(max(passed), rel=1e-9) and got.least == pytest.approx(
            min(passed)
        )

    def test_firing_and_transmissibility(self) -> None:
        assert firing_frequency(800, 6) == 40 and firing_frequency(900, 1, 2) == 15
        assert transmissibility(0, 10, 0.1) == pytest.approx(1)
        assert transmissibility(10 * 2**0.5, 10, 0.0) == pytest.approx(1)  # isolation begins at root two
        assert transmissibility(30, 10, 0.0) == pytest.approx(1 / 8)
