"""Measured mass properties against statics and a swing simulated independently; mock-ups against trimesh."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
import trimesh
from hypothesis import given
from hypothesis import strategies as st
from nimble_cradle.bay.mass import powertrain_mass
from nimble_cradle.bay.position import turn_words
from nimble_cradle.fit.driveline import driveline, joint_doubt
from nimble_cradle.fit.joints import COMPOUND, half_shaft, propshaft
from nimble_cradle.job.base import JobError
from nimble_cradle.job.edits import with_value
from nimble_cradle.job.job import Job
from nimble_cradle.job.powertrain import ScrewIn, Weighed
from nimble_cradle.job.setting import Propshaft
from nimble_cradle.judge.carried import carried
from nimble_cradle.judge.verdict import verdict
from nimble_cradle.survey.builder import TapeReadings, mock_up
from nimble_cradle.survey.shapes import solid
from nimble_cradle.survey.weighing import BIFILAR, TILTED, TRIFILAR, TWO_SCALES, bifilar_inertia, spread
from nimble_cradle.units import G_STANDARD
from scipy.integrate import solve_ivp


class TestWeighing:
    @given(
        st.floats(50, 400),
        st.floats(0.1, 0.9),
        st.floats(-300, 500),
        st.floats(400, 1500),
        st.floats(0.1, 0.5),
    )
    def test_statics_gives_the_place_back(
        self, mass: float, share: float, height: float, apart: float, lift: float
    ) -> None:
        """A body with a known centre on two pivots, level and tilted: moments about the rear pivot by hand
        give the scales; the two calculations give the centre back."""
        x = share * apart
        angle = math.asin(lift)
        level = mass * x / apart
        tilted = mass * (x * math.cos(angle) + height * math.sin(angle)) / (apart * math.cos(angle))
        if level < 0 or not 0 <= tilted <= mass:  # it would fall off its scales
            return
        two = TWO_SCALES.work(front_kg=level, rear_kg=mass - level, apart=apart)
        assert two.value("mass") == pytest.approx(mass) and two.value("ahead") == pytest.approx(x)
        t = TILTED.work(
            mass_kg=mass, front_level_kg=level, front_tilted_kg=tilted, apart=apart, raised=lift * apart
        )
        assert t.value("height") == pytest.approx(height, abs=1e-6) and t.value("tilt") == pytest.approx(
            math.degrees(angle)
        )

    def test_doubt_against_monte_carlo(self) -> None:
        given_ = {
            "mass_kg": 205.0,
            "front_level_kg": 118.0,
            "front_tilted_kg": 139.0,
            "apart": 880.0,
            "raised": 320.0,
        }
        told = TILTED.work(None, **given_, scale_plus_minus=0.6, tape_plus_minus=2.0).value("plus_minus")
        rng = np.random.default_rng(2)
        draws = [
            TILTED.work(
                None, **{k: v + rng.normal(0, (0.3 if k.endswith("_kg") else 1.0)) for k, v in given_.items()}
            ).value("height")
            for _ in range(4000)
        ]
        assert 2 * np.std(draws) == pytest.approx(told, rel=0.05)
        assert spread(lambda a, b: a - b, {"a": 5.0, "b": 3.0}, {"a": 0.3, "b": 0.4}) == pytest.approx(0.5)

    def test_a_swing_simulated_by_itself(self) -> None:
        """The full pendulum on two wires (height from the wires' geometry, energy, no small angles)
        integrated by scipy: its period gives the inertia back within 0.2 % for a 3 deg swing."""
        m, i, d, wire = 190.0, 14.0, 0.8, 2.2

        def height(a: float) -> float:
            return wire - math.sqrt(wire**2 - (d * math.sin(a / 2)) ** 2)

        def rate(_: float, y: Any) -> list[float]:
            e = 1e-5
            slope = (height(y[0] + e) - height(y[0] - e)) / (2 * e)
            curve = (height(y[0] + e) - 2 * height(y[0]) + height(y[0] - e)) / e**2
            return [y[1], (-m * G_STANDARD * slope - m * slope * curve * y[1] ** 2) / (i + m * slope**2)]

        hit: Any = lambda _, y: y[0]  # noqa: E731 - an event function for the solver
        hit.direction = -1
        swing = solve_ivp(rate, (0, 30), [math.radians(3), 0.0], events=hit, rtol=1e-10, atol=1e-12)
        period = float(np.diff(np.asarray(swing.t_events or [])[0]).mean())
        assert bifilar_inertia(m, period, d * 1000, wire * 1000) == pytest.approx(i, rel=2e-3)
        two = BIFILAR.work(mass_kg=m, swings=20, seconds=20 * period, apart=d * 1000, wire=wire * 1000)
        assert two.value("inertia") == pytest.approx(i, rel=2e-3) and 0.05 < two.value("plus_minus") < 1
        three = TRIFILAR.work(mass_kg=m, swings=20, seconds=20 * period, radius=d * 500, wire=wire * 1000)
        assert three.value("inertia") == pytest.approx(two.value("inertia")), (
            "two wires are two of three on the same circle"
        )

    def test_the_job_takes_what_was_weighed(self, demo: Job) -> None:
        before = powertrain_mass(demo)
        job = with_value(demo, "powertrain/weighed", Weighed(mass_kg=300.0))
        assert powertrain_mass(job).mass_kg == 300 and powertrain_mass(job).centre == pytest.approx(
            before.centre
        )
        assert powertrain_mass(job).inertia == pytest.approx(before.inertia * 300 / before.mass_kg)
        job = with_value(
            job,
            "powertrain/weighed",
            Weighed(mass_kg=300.0, centre=(90.0, -4, 70), inertia_kg_m2=(9.0, 28.0, 25.0)),
        )
        m = powertrain_mass(job)
        assert m.centre == pytest.approx((90, -4, 70)) and np.diag(m.inertia) == pytest.approx(
            (9e6, 28e6, 25e6)
        )
        rest = carried(job).case("weight")
        assert sum(load.force[2] for load in rest.mounts) == pytest.approx(-300 * G_STANDARD, rel=1e-6)


class TestMockUps:
    @pytest.mark.parametrize("layout", ["inline", "v", "flat", "rotary"])
    @pytest.mark.parametrize("drive", ["gearbox", "transaxle", "transfer case"])
    def test_every_kind_is_believable(self, layout: Any, drive: Any) -> None:
        """Masses add up; every piece is closed and its volume and centre are trimesh's; the sump is the
        lowest and hangs as deep as taped."""
        t = TapeReadings(layout=layout, drive=drive, angle_deg=90 if layout == "v" else 12, mass_kg=187.0)
        pieces, output = mock_up(t)
        assert sum(p.mass_kg for p in pieces) == pytest.approx(187, abs=0.6) and len(
            {p.id for p in pieces}
        ) == len(pieces)
        low: dict[str, float] = {}
        for p in pieces:
            for part in solid(p.shapes, ()):
                v, f = part.triangles
                mesh = trimesh.Trimesh(v, f)
                volume, centre, inertia = part.mass_properties()
                assert mesh.is_watertight and mesh.volume == pytest.approx(volume, rel=0.01)
                assert mesh.center_mass == pytest.approx(centre, abs=0.5)
                assert mesh.moment_inertia == pytest.approx(
                    inertia, rel=0.02, abs=2e-3 * float(np.abs(inertia).max())
                )
                low[p.id] = min(low.get(p.id, 1e9), v[:, 2].min())
        assert low["sump"] == pytest.approx(-(t.block_deep + t.sump_deep))
        assert output[0] < 0

    def test_readings_that_make_no_engine(self) -> None:
        for more, words in (
            ({"sump_shallow": 200.0}, "shallow end"),
            ({"sump_step": 900.0}, "step of the sump"),
            ({"mass_kg": 0.0}, "mass must be more"),
        ):
            with pytest.raises(JobError, match=words):
                mock_up(TapeReadings(**more))  # type: ignore[arg-type]

    def test_moved_deleted_and_screwed_in(self, demo: Job) -> None:
        base = powertrain_mass(demo).mass_kg
        turbo = next(p for p in demo.powertrain.pieces if p.id == "turbo")
        gone = with_value(demo, "powertrain/pieces/turbo/what", "delete")
        assert powertrain_mass(gone).mass_kg == pytest.approx(base - turbo.mass_kg)
        assert not any(g.piece == "turbo" for g in verdict(gone).gaps)
        other = turbo.model_copy(
            update={"id": "turbo-low", "name": "Turbo, low", "fitted": False, "mass_kg": turbo.mass_kg + 1}
        )
        pair = with_value(demo, "powertrain/pieces", (*demo.powertrain.pieces, other))
        moved = with_value(
            with_value(pair, "powertrain/pieces/turbo/instead", "turbo-low"),
            "powertrain/pieces/turbo/what",
            "move",
        )
        assert [p.id for p in pair.powertrain.present].count("turbo-low") == 0
        ids = [p.id for p in moved.powertrain.present]
        assert (
            "turbo-low" in ids
            and "turbo" not in ids
            and powertrain_mass(moved).mass_kg == pytest.approx(base + 1)
        )
        room = ScrewIn(at=(300, 0, 100), way=(1, 0, 0), sweep_mm=60, length_mm=1500)
        low = with_value(demo, f"powertrain/pieces/{demo.powertrain.pieces[0].id}/screw_in", room)
        rows = [g for g in verdict(low).gaps if g.piece.endswith(".room")]
        assert rows and all(g.required == 0 and "room to screw in" in g.piece_name for g in rows)
        assert all(g.running == g.still for g in rows), "it is only needed at rest"
        assert all(g.stage == "position" for g in rows if "." not in g.item)


class TestHalfShafts:
    def test_by_hand(self) -> None:
        """40 mm drop over 520: 4.40 deg; 70 more as the wheel drops: 11.95 deg; lengths by Pythagoras."""
        ride, most, length, longer, shorter = half_shaft(0, 100, 0, 0, 620, -40, 60, 70)
        assert ride == pytest.approx(math.degrees(math.atan(40 / 520))) and most == pytest.approx(
            math.degrees(math.atan(110 / 520))
        )
        assert (length, longer, shorter) == pytest.approx(
            (math.hypot(520, 40), math.hypot(520, 110) - math.hypot(520, 40), math.hypot(520, 40) - 520)
        )

    @given(st.floats(-6, 6), st.floats(-6, 6))
    def test_against_the_joint_formula(self, side: float, plan: float) -> None:
        """A shaft that is off across by two small slopes: the same compound angle as the side and plan
        views give."""
        ride = half_shaft(
            0, 0, 0, 500 * math.tan(math.radians(plan)), 500, 500 * math.tan(math.radians(side)), 0, 0
        )[0]
        assert ride == pytest.approx(COMPOUND.work(side_deg=side, plan_deg=plan).value("angle"), abs=1e-9)

    def test_doubt_of_the_propshaft_against_monte_carlo(self, demo: Job) -> None:
        demo = with_value(demo, "propshaft", Propshaft())
        demo = with_value(demo, "vehicle/axle_input_direction", (-1.0, 0.0175, -0.0664))
        d = driveline(demo)
        given_ = {q.name: float(v) for q, v, _ in d.worked.inputs}
        rng = np.random.default_rng(0)
        told = joint_doubt(demo, 1.5, 0.1)
        draws = np.array(
            [
                propshaft(
                    **{k: v + rng.normal(0, 0.05 if k.endswith("_deg") else 0.75) for k, v in given_.items()}
                )[:2]
                for _ in range(3000)
            ]
        )
        assert 2 * np.std(draws, axis=0) == pytest.approx(told[:2], rel=0.08)
        assert 2 * np.std(draws[:, 0] - draws[:, 1]) == pytest.approx(told[2], rel=0.08)

    def test_words_for_an_engine_across_the_car(self) -> None:
        assert turn_words(4.0, 0, -90) == "across the car, pulleys to the right, leaning back 4.00 deg"
        assert (
            turn_words(4.0, 1.0, 90)
            == "across the car, pulleys to the left, leaning forward 4.00 deg, pulleys up 1.00 deg"
        )
