"""Walls of a cradle where its tubes meet: capacities worked by hand from the standard's tables, whole
cradles, turned ones, and joints that nobody judges."""

from __future__ import annotations

import math
from dataclasses import replace
from typing import Any

import numpy as np
import pytest
from nimble_cradle.findings.finding import Finding
from nimble_cradle.findings.worst import Cases
from nimble_cradle.geometry.pose import rotation_about
from nimble_cradle.job.cradle import Cradle, CradlePoint, CradleTube
from nimble_cradle.job.hollow_section import HollowSection
from nimble_cradle.job.job import Job
from nimble_cradle.judge.carried import carried, mount_cases
from nimble_cradle.judge.load_path import mount_verdict
from nimble_cradle.judge.verdict import verdict
from nimble_cradle.mounts.cradle_joints import joint_finding, joints_of, unjudged_words
from nimble_cradle.mounts.cradles import Standing, cradle_checks
from nimble_cradle.mounts.give import standing_on
from nimble_cradle.strength.cradle_frame import cradle_response
from nimble_cradle.strength.rail_wall import wall_capacity
from nimble_cradle.strength.tube_joint import Branch, Chord, corner_factor, joint_capacity

from test_cradle import stood

FY = 235.0


class TestByHand:
    """EN 1993-1-8:2005, section 7, worked here from its tables once more (from memory)."""

    def test_round_on_round(self) -> None:
        """A 48.3 tube on a 60.3 x 3.2 one at 60 deg: face drawn in, or punched through, at sin 0.866."""
        beta, gamma, sine = 48.3 / 60.3, 60.3 / 6.4, math.sin(math.pi / 3)
        got = joint_capacity(Chord("round", 60.3, 60.3, 3.2, 0.4), Branch("round", 48.3, 48.3, 3.0, 60.0), FY)
        kp = 1 - 0.3 * 0.4 * 1.4
        shear = FY * 3.2 / math.sqrt(3)
        drawn = kp * gamma**0.2 * FY * 3.2**2 * (2.8 + 14.2 * beta**2)
        punched = shear * math.pi * 48.3 * (1 + sine) / (2 * sine)
        assert got.force == pytest.approx(min(drawn, punched))
        assert got.in_plane == pytest.approx(
            min(
                kp * 4.85 * FY * 3.2**2 * 48.3 * math.sqrt(gamma) * beta / sine,
                shear * 48.3**2 * (1 + 3 * sine) / (4 * sine**2),
            )
        )
        assert got.out_of_plane == pytest.approx(
            min(
                kp * FY * 3.2**2 * 48.3 * 2.7 / (1 - 0.81 * beta) / sine,
                shear * 48.3**2 * (3 + sine) / (4 * sine**2),
            )
        )

    def test_narrow_box_on_a_box(self) -> None:
        """40 x 40 on the 80 face of 80 x 60 x 3, square: b 0.5, eta 0.5: N = fy t2/0.5 (1 + 4 sqrt 0.5)."""
        got = joint_capacity(Chord("box", 80.0, 60.0, 3.0, 0.0), Branch("box", 40.0, 40.0, 3.0, 90.0), FY)
        assert got.force == pytest.approx(FY * 9 / 0.5 * (1 + 4 * math.sqrt(0.5)))
        assert got.in_plane == pytest.approx(FY * 9 * 40 * (1 + 2 / math.sqrt(0.5) + 1.0))
        assert got.out_of_plane == pytest.approx(
            FY * 9 * (40 * 1.5 / 1.0 + math.sqrt(2 * 80 * 40 * 1.5 / 0.5))
        )
        round_one = joint_capacity(
            Chord("box", 80.0, 60.0, 3.0, 0.0), Branch("round", 40.0, 40.0, 3.0, 90.0), FY
        )
        assert np.array(round_one) == pytest.approx(np.array(got) * math.pi / 4)

    def test_box_as_wide_as_the_box_under_it(self) -> None:
        """A thin 50 x 50 x 1.5 on 50 x 50 x 2: of each of its two walls across 10 x 2/50 x 2/1.5 x 50 mm =
        26.7 mm count. Pull 1.5 (100 - 6 + 53.3) fy, under what the side walls carry."""
        got = joint_capacity(Chord("box", 50.0, 50.0, 2.0, 0.0), Branch("box", 50.0, 50.0, 1.5, 90.0), FY)
        part, w = 10 * 2 / 50 * 50 * 2 / 1.5, (50 * 50**2 - 47 * 47**2) / 4
        sides = wall_capacity(50.0, 50.0, 50.0, 50.0, 2.0, FY)
        assert got.force == pytest.approx(min(FY * 1.5 * (94 + 2 * part), sides.force))
        assert got.in_plane == pytest.approx(
            min(FY * (w - (1 - part / 50) * 50 * 48.5 * 1.5), sides.along_moment)
        )
        assert got.out_of_plane <= FY * (w - 0.5 * 1.5 * (50 - part) ** 2) + 1e-6

    def test_a_strained_chord_carries_less(self) -> None:
        """kn = 1.3 - 0.4 n/b of a box: at n 0.9 and b 0.5 that is 0.58 of the same joint unstrained."""
        rows = [
            joint_capacity(Chord("box", 80.0, 60.0, 3.0, n), Branch("box", 40.0, 40.0, 3.0, 90.0), FY)
            for n in (0.0, 0.9)
        ]
        assert rows[1].force / rows[0].force == pytest.approx(1.3 - 0.4 * 0.9 / 0.5)

    def test_corner(self) -> None:
        """50 x 50 x 4 at right angles: 3/(12.5^0.8) + 1/3 = 0.731; opened to 120 deg 1 - sqrt2/2 x 0.269."""
        assert corner_factor(50.0, 50.0, 4.0, 90.0) == pytest.approx(3 / 12.5**0.8 + 1 / 3)
        assert corner_factor(50.0, 50.0, 4.0, 120.0) == pytest.approx(
            1 - math.sqrt(2) / 2 * (1 - (3 / 12.5**0.8 + 1 / 3))
        )
        assert corner_factor(50.0, 50.0, 4.0, 180.0) == pytest.approx(1.0)


def tee(
    job: Job, shape: Any = "rectangle", wall: float = 4.0, thin: HollowSection | None = None, free: str = "m"
) -> Job:
    """The truck's left mount on the bar of a T: the bar goes through from l over m to r, askew; a strut goes
    from m back to b, 5 deg off square and held at its end. free: points that nothing holds."""
    x, y, z = job.mounts[0].bush.centre
    at = {
        "l": (x + 8, y + 90, z - 95),
        "m": (x + 1, y - 3, z - 93.5),
        "r": (x - 6, y - 96, z - 92),
        "b": (x - 190, y + 12, z - 95),
    }
    own = thin or HollowSection(shape="rectangle", height_mm=40, width_mm=60, wall_mm=3)
    return stood(
        job,
        points=tuple(
            CradlePoint(id=k, at=place, held="free" if k in free else "bolts") for k, place in at.items()
        ),
        tubes=(
            CradleTube(id="t1", start="l", end="m"),
            CradleTube(id="t2", start="m", end="r"),
            CradleTube(id="t3", start="b", end="m", section=own),
        ),
        section=HollowSection(shape=shape, height_mm=50, width_mm=110, wall_mm=wall),
    )


def _joint(job: Job) -> Finding:
    return next(f for f in verdict(job).findings if f.code == "cradle-joint")


class TestInTheCar:
    def test_a_tee_by_hand(self, demo: Job) -> None:
        """From the frame's own ends to the use, all over: the strut stands on the bar's 50 mm side, its 60
        along the bar; forces turned into bar, side and square to both, here by plain dot products."""
        job = tee(demo)
        cradle = job.cradles[0]
        (landing,), corners, unjudged = (
            joints_of(cradle).landings,
            joints_of(cradle).corners,
            joints_of(cradle).unjudged,
        )
        assert not corners and not unjudged
        assert (landing.face, landing.depth, landing.along, landing.across) == (50.0, 110.0, 60.0, 40.0)
        ((mount, seat),) = standing_on(job, cradle)
        response = cradle_response(cradle, (tuple(seat.centre),))
        piece = max(m for m, k in enumerate(response.of_tube) if k == 2)
        at = {p.id: np.array(p.at) for p in cradle.points}
        bar = (at["l"] - at["m"]) / np.linalg.norm(at["l"] - at["m"])
        level = np.cross((0, 0, 1.0), bar)
        side = level / np.linalg.norm(level)
        along = (at["m"] - at["b"]) / np.linalg.norm(at["m"] - at["b"])
        across = np.cross((0, 0, 1.0), along)
        across /= np.linalg.norm(across)
        axes = np.array([along, across, np.cross(along, across)])
        lean = math.degrees(math.acos(abs(along @ bar)))
        hardest = 0.0
        for case in carried(job).cases:
            factor = 1.5 if case.case.kind == "rare" else 2.5
            force = -factor * next(m.force for m in case.mounts if m.mount == "left")
            load = np.concatenate([force, np.cross(np.array(mount.bush.centre) - response.at[0], force)])
            end = np.einsum("l,lc->c", load, response.ends[:, piece, 1])
            pushed, turned = end[:3] @ axes, end[3:] @ axes
            chord = max(
                _stress(np.einsum("l,lc->c", load, response.ends[:, m, s]))
                for m, k in enumerate(response.of_tube)
                if k in (0, 1)
                for s in (0, 1)
                if _touches(response, m, k)
            )
            n, mi, mo = joint_capacity(
                Chord("box", 50.0, 110.0, 4.0, chord / FY), Branch("box", 60.0, 40.0, 3.0, lean), FY
            )
            use = abs(pushed @ side) / n + abs(turned @ np.cross(side, bar)) / mi + abs(turned @ bar) / mo
            hardest = max(hardest, use)
        assert _joint(job).use == pytest.approx(hardest, rel=1e-6)

    def test_thin_walls_do_not_hold_the_mount(self, demo: Job) -> None:
        """A narrow strut alone holds a bar of 1.5 mm: the bar's wall gives way, the mount is not held."""
        narrow = HollowSection(shape="square", height_mm=20, wall_mm=3)
        job = tee(demo, "square", 1.5, narrow, "lmr")
        found = verdict(job)
        assert _joint(job).use > 1
        # were this the only thing of it that gives way, the mount would still not be held
        rest = [
            replace(f, use=0.5) if f.part in ("cradle", "left") and f.code != "cradle-joint" else f
            for f in found.findings
        ]
        mount = mount_verdict(job, job.mounts[0], rest, ())
        assert mount.bush_to_rail == "does not hold"
        assert next(link for link in mount.chain if link.part == "Front cradle").use == _joint(job).use
        without = [f for f in rest if f.code != "cradle-joint"]
        assert mount_verdict(job, job.mounts[0], without, ()).bush_to_rail == "open"
        assert _joint(tee(demo, "square", 3.0, narrow, "lmr")).use < _joint(job).use / 2

    def test_turned_with_its_loads_it_is_the_same(self, demo: Job) -> None:
        """The whole T turned a quarter about the vertical, and mirrored: the same use."""
        job = tee(demo)
        cradle = job.cradles[0]
        rows = [Standing(m, seat, mount_cases(carried(job), m)) for m, seat in standing_on(job, cradle)]
        own = next(f for f in cradle_checks(cradle, rows, job.allowables) if f.code == "cradle-joint")
        response = cradle_response(cradle, (tuple(rows[0].seat.centre),))
        cases = Cases.of(rows[0].cases, job.allowables)
        forces = -np.array([case.force for case in rows[0].cases]) * cases.factors[:, None]
        reach = np.array(rows[0].mount.bush.centre) - response.at[0]
        load = np.hstack([forces, np.cross(reach, forces)])
        for turn in (rotation_about((0.0, 0.0, 1.0), math.pi / 2), np.diag([1.0, -1.0, 1.0])):
            moved = cradle.model_copy(
                update={
                    "points": tuple(
                        p.model_copy(update={"at": tuple(float(c) for c in turn @ np.array(p.at))})
                        for p in cradle.points
                    )
                }
            )
            other = cradle_response(moved, (tuple(float(c) for c in turn @ rows[0].seat.centre),))
            flip = float(np.linalg.det(turn))
            turned = np.hstack([load[:, :3] @ turn.T, flip * load[:, 3:] @ turn.T])
            ends = np.einsum("kl,lmsc->kmsc", turned, other.ends)
            same = np.einsum("kl,lmsc->kmsc", load, response.ends)
            stress = np.zeros(ends.shape[:2])
            (a,) = joint_finding(moved, cases, other, ends, stress)
            (b,) = joint_finding(cradle, cases, response, same, stress)
            assert a.use == pytest.approx(b.use, rel=1e-6)
            assert b.use <= own.use + 1e-9

    def test_what_is_not_judged_is_named(self, demo: Job) -> None:
        """A third tube at a mitred corner: no plain joint, so the question names the point."""
        job = stood(demo, looked_at="unsaid")
        said = next(p.sentence for p in verdict(job).problems if "not judged here" in p.sentence)
        assert said == "Front cradle: what it is bolted to is not judged here; look at it and say so."
        cradle = job.cradles[0]
        soft = tuple(p.model_copy(update={"held": "rubber"}) for p in cradle.points)
        said = next(
            p.sentence
            for p in verdict(stood(demo, looked_at="unsaid", points=soft)).problems
            if "not judged here" in p.sentence
        )
        assert "its rubbers, and what metal stops it if one tears, and what it is bolted to, are" in said
        x, y, z = cradle.points[0].at
        more = cradle.model_copy(
            update={
                "points": (*cradle.points, CradlePoint(id="up", at=(x + 20, y + 30, z + 150), held="bolts")),
                "tubes": (*cradle.tubes, CradleTube(id="t9", start="l", end="up")),
            }
        )
        assert unjudged_words(more) == "point 1"
        told = stood(demo, looked_at="unsaid", points=more.points, tubes=more.tubes)
        said = next(p.sentence for p in verdict(told).problems if "not judged here" in p.sentence)
        assert "the walls at point 1, and what it is bolted to, are" in said

    def test_a_box_turned_about_its_own_axis_is_left(self) -> None:
        """A bar that climbs at 45 deg in the car's middle plane, a level tube square to it: its walls stand
        at 45 deg to the bar; a round one has no walls to turn."""
        for shape, unjudged in (("square", (1,)), ("round", ())):
            cradle = Cradle(
                id="c",
                name="C",
                points=(
                    CradlePoint(id="a", at=(-200.0, 0.0, -200.0), held="bolts"),
                    CradlePoint(id="m", at=(0.0, 0.0, 0.0)),
                    CradlePoint(id="b", at=(210.0, 0.0, 210.0), held="bolts"),
                    CradlePoint(id="s", at=(0.0, 250.0, 0.0), held="bolts"),
                ),
                tubes=(
                    CradleTube(id="1", start="a", end="m"),
                    CradleTube(id="2", start="m", end="b"),
                    CradleTube(
                        id="3",
                        start="m",
                        end="s",
                        section=HollowSection.model_validate(
                            {"shape": shape, "height_mm": 40, "width_mm": 40, "wall_mm": 3}
                        ),
                    ),
                ),
                section=HollowSection(shape="square", height_mm=50, wall_mm=3),
            )
            assert joints_of(cradle).unjudged == unjudged

    @pytest.mark.parametrize(
        ("section", "other"),
        [
            (HollowSection(shape="round", height_mm=60, wall_mm=1.1), (0.0, 200.0, 0.0)),  # too slender
            (HollowSection(shape="square", height_mm=50, wall_mm=3), (180.0, 60.0, 0.0)),  # too flat
            (HollowSection(shape="square", height_mm=50, wall_mm=3), (0.0, 140.0, 140.0)),  # on an edge
        ],
    )
    def test_what_the_formulas_do_not_reach_is_left(
        self, section: HollowSection, other: tuple[float, float, float]
    ) -> None:
        cradle = Cradle(
            id="c",
            name="C",
            points=(
                CradlePoint(id="a", at=(-300.0, 0.0, 0.0), held="bolts"),
                CradlePoint(id="m", at=(0.0, 0.0, 0.0)),
                CradlePoint(id="b", at=(310.0, 0.0, 0.0), held="bolts"),
                CradlePoint(id="s", at=other, held="bolts"),
            ),
            tubes=(
                CradleTube(id="1", start="a", end="m"),
                CradleTube(id="2", start="m", end="b"),
                CradleTube(id="3", start="m", end="s"),
            ),
            section=section,
        )
        assert joints_of(cradle).unjudged == (1,)


def _touches(response: Any, member: int, tube: int) -> bool:
    """Whether a piece of the bar is the one at the T: its tubes are drawn l to m and m to r."""
    pieces = [m for m, k in enumerate(response.of_tube) if k == tube]
    return bool(member == (pieces[-1] if tube == 0 else pieces[0]))


def _stress(end: Any) -> float:
    """MPa in a 50 x 110 x 4 box from its end, by hand from the tables' moduli."""
    from nimble_cradle.stock.tubes import rectangular_tube

    p = rectangular_tube(50, 110, 4)
    n, v_across, v_up, t, m_across, m_up = np.abs(end)
    sigma = n / p.area + m_across / p.w_lying + m_up / p.w_standing
    tau = t / p.torsion_modulus + v_up / (2 * 4 * 42) + v_across / (2 * 4 * 102)
    return float(math.sqrt(sigma**2 + 3 * tau**2))
