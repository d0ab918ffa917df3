"""The survey: adjustment against a textbook and an independent solver, blunders, what is not pinned down,
level, datums."""

from __future__ import annotations

from functools import partial
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from nimble_cradle.geometry.align import rigid_fit
from nimble_cradle.geometry.pose import Pose, rotation_xyz
from nimble_cradle.geometry.solids import ShapeError
from nimble_cradle.job.base import JobError
from nimble_cradle.job.edits import with_value
from nimble_cradle.job.job import Job
from nimble_cradle.job.survey import (
    AxleStand,
    DatumFit,
    Level,
    LevelReading,
    Reading,
    Survey,
    SurveyPoint,
    TemporaryDatum,
)
from nimble_cradle.survey.adjust import COVER, Observed
from nimble_cradle.survey.level import lean_of, trims
from nimble_cradle.survey.network import adjusted
from nimble_cradle.survey.network_types import Network
from nimble_cradle.survey.next_reading import next_readings
from nimble_cradle.survey.observations import Unknowns
from scipy.optimize import least_squares
from scipy.spatial.transform import Rotation

UP = np.array([0.0, 0.0, 1.0])


def survey_of(points: list[SurveyPoint], rows: list[tuple[Any, ...]], **more: Any) -> Survey:
    """rows: kind, point, other or "", value, plus-or-minus."""
    readings = tuple(
        Reading(id=f"r{k}", kind=r[0], point=r[1], other=r[2], value_mm=r[3], plus_minus_mm=r[4])
        for k, r in enumerate(rows)
    )
    return Survey(points=tuple(points), readings=readings, **more)


def point(key: str, **more: Any) -> SurveyPoint:
    return SurveyPoint(id=key, name=key.upper(), **more)


def bay(rng: np.random.Generator, noise: float = 1.0) -> tuple[Survey, dict[str, np.ndarray]]:
    """Ten points of a bay, braced with distances and heights, tape good to 1.5 mm and level to 1 (two
    sigma)."""
    true = {f"p{k}": rng.uniform([-900, -420, -250], [500, 420, 550]) for k in range(10)}
    points = [
        point(k, roughly=tuple(float(c) for c in np.round(v / 50) * 50) if i > 2 else None)
        for i, (k, v) in enumerate(true.items())
    ]
    rows: list[tuple[Any, ...]] = []
    for k in ("p0", "p1", "p2"):
        for axis, kind in enumerate(("forward", "left", "up")):
            rows.append((kind, k, "", float(true[k][axis] + noise * rng.normal(0, 0.75)), 1.5))
    keys = list(true)
    for i, a in enumerate(keys):
        for b in keys[i + 1 :]:
            if rng.random() < 0.75:
                d = float(np.linalg.norm(true[a] - true[b]) + noise * rng.normal(0, 0.75))
                rows.append(("distance", a, b, d, 1.5))
        if i > 2:
            rise = float(true[a][2] - true["p0"][2] + noise * rng.normal(0, 0.5))
            rows.append(("rise", a, "p0", rise, 1.0))
    return survey_of(points, rows), true


def _off(rows: list[Observed], x: np.ndarray) -> list[float]:
    """How far each reading is off, in sigmas."""
    return [float((r.model(x)[0] - r.measured) / r.sigma) for r in rows]


class TestAdjustment:
    def test_levelling_net_of_a_textbook(self) -> None:
        """Ghilani, Adjustment Computations (5th ed. 2010), levelling example with two bench marks and
        seven lines, unweighted and weighted by distance (from memory; the normal equations are solved by
        hand below as well). Metres stand as mm here.
        """
        lines = [
            ("a", "x", 5.10, 4),
            ("y", "a", 2.34, 3),
            ("c", "y", -1.25, 2),
            ("x", "c", -6.13, 3),
            ("b", "a", -0.68, 2),
            ("y", "b", 3.00, 2),
            ("c", "b", 1.70, 2),
        ]
        marks = {"x": 100.0, "y": 107.5}
        for weighted, book in ((False, (105.141, 104.483, 106.188)), (True, (105.150, 104.489, 106.197))):
            points = [point(k, given=(0, 0, z), given_plus_minus_mm=0.0) for k, z in marks.items()]
            points += [point(k) for k in "abc"]
            rows: list[tuple[Any, ...]] = [
                ("rise", to, frm, v, 20 * (d**0.5 if weighted else 1)) for to, frm, v, d in lines
            ]
            rows += [(kind, k, "", 0.0, 1.0) for k in "abc" for kind in ("forward", "left")]
            net = adjusted(survey_of(points, rows), UP)
            assert [net.point(k).at[2] for k in "abc"] == pytest.approx(book, abs=0.0006)
            a = np.array([[(to == k) - (frm == k) for k in "abc"] for to, frm, _, _ in lines], dtype=float)
            b = np.array([v - marks.get(to, 0) + marks.get(frm, 0) for to, frm, v, _ in lines])
            w = np.diag([1 / d if weighted else 1.0 for *_, d in lines])
            assert [net.point(k).at[2] for k in "abc"] == pytest.approx(
                np.linalg.solve(a.T @ w @ a, a.T @ w @ b), abs=2e-4
            )

    def test_against_an_independent_solver(self) -> None:
        for seed in range(4):
            survey, true = bay(np.random.default_rng(seed))
            net = adjusted(survey, UP)
            unknowns = Unknowns(survey, UP, {})
            rows = unknowns.rows()
            start = np.concatenate(list(true.values()))
            other = least_squares(partial(_off, rows), start, xtol=1e-14)
            mine = np.concatenate([p.at for p in net.points])
            assert mine == pytest.approx(other.x, abs=2e-3)
            assert net.covariance == pytest.approx(
                np.linalg.inv(np.asarray(other.jac).T @ np.asarray(other.jac)), rel=2e-3, abs=1e-4
            )

    def test_the_doubt_is_what_repetition_shows(self) -> None:
        """Plus-or-minus is two sigma: over 200 seeded surveys of one bay about 95 % of the coordinates lie
        within it."""
        inside = []
        for seed in range(200):
            rng = np.random.default_rng(1)
            survey, true = bay(rng, noise=0.0)
            noise = np.random.default_rng(1000 + seed)
            readings = tuple(
                r.model_copy(update={"value_mm": r.value_mm + noise.normal(0, r.give_or_take / COVER)})
                for r in survey.readings
            )
            net = adjusted(survey.model_copy(update={"readings": readings}), UP)
            for p in net.points:
                inside += list(np.abs(p.at - true[p.id]) < p.plus_minus)
        assert 0.93 < np.mean(inside) < 0.97

    def test_moving_and_turning_everything(self) -> None:
        """Given points moved and turned: every point goes with them, distances and judgements stay."""
        survey, true = bay(np.random.default_rng(5))
        rng = np.random.default_rng(6)
        pose = Pose(rotation_xyz(3, -4, 70), np.array([400.0, -150, 90]))
        fixed = {k: adjusted(survey, UP).point(k).at for k in ("p0", "p1", "p2")}

        def net(place: Any, up: np.ndarray) -> Network:
            kept = tuple(r for r in survey.readings if r.kind in ("distance", "rise"))
            points = tuple(
                (
                    point(k, given=tuple(place(fixed[k])))
                    if k in fixed
                    else point(k, roughly=tuple(place(true[k] + rng.normal(0, 3, 3))))
                )
                for k in true
            )
            return adjusted(Survey(points=points, readings=kept), up)

        here, there = net(lambda p: p, UP), net(pose.points, pose.vectors(UP))
        for k in true:
            assert there.point(k).at == pytest.approx(pose.points(here.point(k).at), abs=1e-3)
        assert [r.w for r in there.readings] == pytest.approx([r.w for r in here.readings], abs=1e-3)


class TestBlunders:
    def test_one_bad_distance_is_named_and_measured(self) -> None:
        """A planted 12 mm among tape readings of 1.5: named first in 57 or more of 60 seeded bays where
        the others check it."""
        named = 0
        for seed in range(60):
            survey, _ = bay(np.random.default_rng(seed))
            clean = adjusted(survey, UP)
            k = next(
                i
                for i, (r, c) in enumerate(zip(survey.readings, clean.readings, strict=True))
                if r.kind == "distance" and c.redundancy > 0.4
            )
            bad = survey.readings[k].model_copy(update={"value_mm": survey.readings[k].value_mm + 12})
            net = adjusted(
                survey.model_copy(
                    update={"readings": (*survey.readings[:k], bad, *survey.readings[k + 1 :])}
                ),
                UP,
            )
            wrong = [c for c in net.readings if c.state == "out of line"]
            named += [c.id for c in wrong][:1] == [bad.id] and abs(wrong[0].off - 12) < 6
        assert named >= 57, named

    def test_nothing_is_blamed_without_redundancy(self) -> None:
        """Three distances pin one point exactly: a wrong one cannot be seen, and none is blamed."""
        known = [
            point("a", given=(0, 0, 0)),
            point("b", given=(800, 0, 0)),
            point("c", given=(0, 600, 0)),
            point("d", roughly=(300, 200, 400)),
        ]
        d = [538.5, 678.2, 640.3]
        for bad in range(3):
            values = [v + (15 if i == bad else 0) for i, v in enumerate(d)]
            net = adjusted(
                survey_of(known, [("distance", "d", k, v, 1.5) for k, v in zip("abc", values, strict=True)]),
                UP,
            )
            assert {r.state for r in net.readings} == {"unchecked"} and not net.questions

    def test_two_that_cannot_be_told_apart(self) -> None:
        """A height taken twice, 20 mm apart: one of the two, and the program does not say which."""
        rows: list[tuple[Any, ...]] = [("forward", "a", "", 10, 1), ("left", "a", "", 20, 1)]
        net = adjusted(survey_of([point("a")], [*rows, ("up", "a", "", 100, 1), ("up", "a", "", 120, 1)]), UP)
        assert [r.state for r in net.readings] == ["unchecked", "unchecked", "doubtful", "doubtful"]
        assert any("no other reading tells which" in q for q in net.questions)

    def test_a_triangle_that_cannot_be(self) -> None:
        rows = [
            ("distance", "a", "b", 900.0, 1.5),
            ("distance", "b", "c", 400.0, 1.5),
            ("distance", "a", "c", 1400.0, 1.5),
        ]
        net = adjusted(survey_of([point(k) for k in "abc"], rows), UP)
        assert any("1 A to 3 C (1400 mm) is longer than by way of 2 B (1300 mm)" in q for q in net.questions)

    def test_a_mirror_image_is_asked_about(self) -> None:
        known = [point("a", given=(0, 0, 0)), point("b", given=(800, 0, 0)), point("c", given=(0, 600, 0))]
        rows = [
            ("distance", "d", k, float(np.linalg.norm(np.array([300, 200, 400]) - p.given)), 1.5)
            for k, p in zip("abc", known, strict=True)
        ]
        asked = adjusted(survey_of([*known, point("d")], rows), UP)
        assert any("4 D could as well be 800 mm" in q for q in asked.questions)
        for z in (380, -380):
            told = adjusted(survey_of([*known, point("d", roughly=(310, 180, z))], rows), UP)
            assert told.point("d").at == pytest.approx((300, 200, np.sign(z) * 400), abs=1e-3)
            assert not told.questions


class TestPinning:
    def test_what_is_free_is_said_and_the_next_reading_mends_it(self) -> None:
        rows: list[tuple[Any, ...]] = [("forward", "a", "", 100.0, 1.5), ("left", "a", "", 50.0, 1.5)]
        net = adjusted(survey_of([point("a")], rows), UP)
        assert net.point("a").free == ("up and down",)
        assert net.questions == ("1 A is not pinned down up and down",)

    def test_points_that_move_together(self) -> None:
        rows = [("distance", a, b, 500.0, 1.5) for a, b in (("a", "b"), ("b", "c"), ("a", "c"))]
        net = adjusted(survey_of([point(k) for k in "abc"], rows), UP)
        assert net.free.shape[1] == 6, "a triangle alone keeps six freedoms"
        assert any("can still move together" in q for q in net.questions)

    def test_the_next_reading_is_the_one_that_helps_most(self) -> None:
        """Against trying every candidate: add it, adjust again, and look at the doubt of one height."""
        survey, _ = bay(np.random.default_rng(11))
        survey = survey.model_copy(
            update={"readings": tuple(r for k, r in enumerate(survey.readings) if k < 9 or k % 4)}
        )
        net = adjusted(survey, UP)
        wanted = np.zeros(3 * len(net.points))
        wanted[3 * 7 + 1] = 1.0
        best = next_readings(survey, net, wanted, most=400)
        doubt = {}
        for n in best:
            extra = n.reading.model_copy(
                update={"value_mm": n.value_mm if n.reading.kind != "plumb" else 0.0}
            )
            after = adjusted(survey.model_copy(update={"readings": (*survey.readings, extra)}), UP)
            doubt[n.reading.id] = 2 * float(wanted @ after.covariance @ wanted) ** 0.5
            assert doubt[n.reading.id] == pytest.approx(n.doubt_after_mm, rel=0.02, abs=0.01)
        assert min(doubt, key=lambda k: doubt[k]) == best[0].reading.id and len(doubt) > 5

    def test_an_unpinned_point_is_pinned_by_the_proposals(self) -> None:
        survey, true = bay(np.random.default_rng(3), noise=0.0)
        lost = survey.model_copy(
            update={"readings": tuple(r for r in survey.readings if "p9" not in (r.point, r.other))}
        )
        for _ in range(3):
            net = adjusted(lost, UP)
            wanted = np.zeros(3 * len(net.points))
            wanted[27:30] = 1.0
            proposal = next_readings(lost, net, wanted, most=1)[0].reading
            at = true[proposal.point]
            value = (
                float(np.linalg.norm(at - true[proposal.other]))
                if proposal.kind == "distance"
                else float(at[{"forward": 0, "left": 1, "up": 2}[proposal.kind]])
            )
            lost = lost.model_copy(
                update={"readings": (*lost.readings, proposal.model_copy(update={"value_mm": value}))}
            )
        assert not adjusted(lost, UP).point("p9").free


class TestDatums:
    def test_a_temporary_datum_is_tied_in_and_its_worst_point_named(self) -> None:
        rng = np.random.default_rng(2)
        survey, true = bay(rng, noise=0.0)
        bench = Pose(rotation_xyz(2, -1, 35), np.array([-600.0, 200, -80]))
        extra = np.array([-1200.0, 60, 20])
        local = {
            k: bench.inverse().points(v)
            for k, v in {**{k: true[k] for k in ("p3", "p4", "p5", "p6")}, "t": extra}.items()
        }
        local["p4"] = local["p4"] + [0, 0, 30.0]
        readings = [
            Reading(id=f"b{k}{axis}", kind=kind, point=k, value_mm=float(v[axis]), datum="bench")
            for k, v in local.items()
            for axis, kind in enumerate(("forward", "left", "up"))
        ]
        both = survey.model_copy(
            update={
                "points": (*survey.points, point("t")),
                "datums": (TemporaryDatum(id="bench", name="Bench datum"),),
                "readings": (*survey.readings, *readings),
            }
        )
        net = adjusted(both, UP)
        assert net.ties[0].residuals[0][0] == "p4" and net.ties[0].residuals[0][1] > 12
        assert [c.id for c in net.readings if c.state == "out of line"] == ["bp42"]
        mended = both.model_copy(update={"readings": tuple(r for r in both.readings if r.id != "bp42")})
        assert adjusted(mended, UP).point("t").at == pytest.approx(extra, abs=0.05)

    def test_two_common_points_do_not_tie(self) -> None:
        readings = tuple(
            Reading(id=f"{d}{k}{kind}", kind=kind, point=k, value_mm=v, datum="" if d == "m" else "b")
            for d in "mb"
            for k, v in (("a", 100.0), ("c", 300.0))
            for kind in ("forward", "left", "up")
        )
        net = adjusted(
            Survey(
                points=(point("a"), point("c")),
                readings=readings,
                datums=(TemporaryDatum(id="b", name="Bench"),),
            ),
            UP,
        )
        assert "Bench is not tied in" in net.questions[0]

    def test_walls_halve_to_the_centre_line(self) -> None:
        survey = survey_of(
            [point("a")],
            [("forward", "a", "", 5, 1), ("up", "a", "", 5, 1), ("from-left-wall", "a", "", 406.4, 1.5)],
            width_mm=812.8,
        )
        net = adjusted(survey, UP)
        assert net.point("a").at[1] == pytest.approx(0.0, abs=1e-6)
        assert net.point("a").plus_minus[1] == pytest.approx(np.hypot(1.5, 0.75), rel=1e-3)

    def test_a_datum_fitted_to_points(self) -> None:
        """Points of a known car, seen from a skewed frame: fitting gives the car's own frame back."""
        car = {
            "fl": (0, 400, 0),
            "fr": (0, -400, 0),
            "rl": (-1500, 380, 0),
            "rr": (-1500, -380, 0),
            "q": (-600, 120, 250),
        }
        pose = Pose(rotation_xyz(1.5, -2, 8), np.array([250.0, -90, 40]))
        rows = [
            (kind, k, "", float(pose.points(v)[axis]), 0.2)
            for k, v in car.items()
            for axis, kind in enumerate(("forward", "left", "up"))
        ]
        survey = survey_of(
            [point(k) for k in car],
            rows,
            fit=DatumFit(
                tops=("fl", "fr", "rl", "rr"), pairs=(("fl", "fr"), ("rl", "rr")), front=("fl", "fr")
            ),
        )
        net = adjusted(survey, UP)
        for k, v in car.items():
            assert net.point(k).at == pytest.approx(v, abs=1e-6)
        assert max(abs(r) for _, r in net.datum_residuals) < 1e-9


class TestLevel:
    def readings(self, across: float, along: float, own: float = 0.0) -> tuple[LevelReading, ...]:
        def one(key: str, way: Any, value: float, turned: bool) -> LevelReading:
            return LevelReading(
                id=key, where=key, way=way, angle_deg=value + (-own if turned else own), turned=turned
            )

        return (
            one("a", "across", across, False),
            one("b", "across", across, True),
            one("c", "along", along, False),
            one("d", "along", along, True),
        )

    @given(st.floats(-4, 4), st.floats(-4, 4), st.floats(-0.8, 0.8))
    def test_trimmed_stands_make_it_level(self, across: float, along: float, own: float) -> None:
        """Lifting each stand as told, every stand foot comes to one height; the level's own fault drops
        out."""
        stands = tuple(
            AxleStand(id=f"s{k}", name=f"S{k}", at=at)
            for k, at in enumerate(((300, 450), (300, -450), (-2300, 470), (-2300, -470)))
        )
        level = Level(readings=self.readings(across, along, own), stands=stands)
        lean = lean_of(level)
        assert (lean.across_deg, lean.along_deg, lean.own_fault_deg) == pytest.approx(
            (across, along, own), abs=1e-9
        )
        told = trims(level)
        up = lean.up / lean.up[2]
        heights = [t.lift + up[:2] @ np.array(t.stand.at) for t in told]
        assert max(heights) - min(heights) < 1e-6 and min(t.lift for t in told) == pytest.approx(0, abs=1e-9)

    def test_bubble_over_a_length(self) -> None:
        r = LevelReading(id="a", where="towers", way="across", rise_mm=6, over_mm=600)
        assert r.reads_deg == pytest.approx(0.5729, abs=1e-4), "arctan 0.01"

    def test_heights_are_corrected_for_the_lean(self) -> None:
        """The car left leaning: true heights by level are turned into heights in the car's own frame."""
        lean = lean_of(Level(readings=self.readings(2.0, 1.0)))
        points = [point("o", given=(0, 0, 0), given_plus_minus_mm=0.1), point("q")]
        at = np.array([700.0, 350.0, 120.0])
        rows = [
            ("forward", "q", "", 700.0, 0.1),
            ("left", "q", "", 350.0, 0.1),
            ("rise", "q", "o", float(lean.up @ at), 0.1),
        ]
        assert adjusted(survey_of(points, rows), lean.up).point("q").at == pytest.approx(at, abs=1e-6)
        assert abs(adjusted(survey_of(points, rows), UP).point("q").at[2] - 120) > 20

    def test_a_reading_that_does_not_fit(self) -> None:
        rows = (
            *self.readings(1.0, 0.5),
            LevelReading(id="e", where="left tower", way="across", angle_deg=3.0),
        )
        assert any(
            "left tower reads 3.00 deg, the others say 1.0" in w for w in lean_of(Level(readings=rows)).odd
        )


class TestAlign:
    @given(st.integers(0, 10_000), st.floats(0.2, 5.0))
    def test_against_scipy_and_a_known_case(self, seed: int, scale: float) -> None:
        rng = np.random.default_rng(seed)
        p = rng.normal(0, 300, (6, 3))
        known = Rotation.from_rotvec(rng.normal(0, 1, 3))
        q = scale * known.apply(p) + [10, -20, 30]
        fit = rigid_fit(p, q, with_scale=True)
        assert fit.scale == pytest.approx(scale, rel=1e-9) and fit.rms < 1e-6
        noisy = q / scale + rng.normal(0, 2, q.shape)
        mine = rigid_fit(p, noisy)
        other, rssd = Rotation.align_vectors(noisy - noisy.mean(0), p - p.mean(0))
        assert mine.pose.rotation == pytest.approx(other.as_matrix(), abs=1e-6)
        assert mine.rms * 6**0.5 == pytest.approx(rssd, rel=1e-6)

    @pytest.mark.parametrize(
        ("points", "words"),
        [
            (((0, 0, 0), (1, 0, 0)), "Three pairs"),
            (((0, 0, 0), (500, 0, 0), (900, 0, 0)), "on one line"),
            (((5, 5, 5),) * 3, "all one place"),
        ],
    )
    def test_what_cannot_be_fitted_is_said(self, points: Any, words: str) -> None:
        with pytest.raises(ShapeError, match=words):
            rigid_fit(points, ((0, 0, 0), (1, 0, 0), (0, 1, 0))[: len(points)])


class TestRefusals:
    @pytest.mark.parametrize(
        ("reading", "words"),
        [
            ({"kind": "distance", "point": "a", "other": "b", "value_mm": -40}, "more than nought, not -40"),
            ({"kind": "distance", "point": "a", "other": "a", "value_mm": 40}, "two different points"),
            ({"kind": "distance", "point": "a", "value_mm": 40}, "from one point to another"),
            ({"kind": "up", "point": "a", "other": "b", "value_mm": 40}, "one point only"),
            ({"kind": "up", "point": "zz", "value_mm": 40}, "“zz”, which is not in the survey"),
            (
                {"kind": "from-left-wall", "point": "a", "value_mm": 40},
                "width from wall to wall is not there",
            ),
            ({"kind": "up", "point": "a", "value_mm": float("nan")}, "finite"),
        ],
    )
    def test_one_sentence_and_the_job_untouched(self, demo: Job, reading: dict[str, Any], words: str) -> None:
        bare = with_value(with_value(demo, "items", ()), "survey", Survey(points=(point("a"), point("b"))))
        with pytest.raises((JobError, ValueError), match=words):
            with_value(bare, "survey/readings", (Reading(id="r", **reading),))
        assert bare.survey.readings == ()


def junk_survey(rng: np.random.Generator) -> Survey:
    """Anything that a survey may hold: few points or many, readings that repeat, contradict or reach a
    kilometre."""
    n = int(rng.integers(1, 7))
    points = tuple(
        SurveyPoint(
            id=f"p{i}",
            name=f"P{i}",
            given=(
                tuple(float(v) for v in rng.integers(-3, 3, 3) * rng.choice([0, 100.0]))
                if rng.random() < 0.3
                else None
            ),
            roughly=tuple(float(v) for v in rng.integers(-300, 300, 3)) if rng.random() < 0.3 else None,
            given_plus_minus_mm=float(rng.choice([0, 1])),
        )
        for i in range(n)
    )
    datums = (TemporaryDatum(id="d", name="D"),) if rng.random() < 0.4 else ()
    readings = []
    for k in range(int(rng.integers(0, 22))):
        kind: Any = str(rng.choice(["forward", "left", "up", "distance", "rise", "plumb", "from-left-wall"]))
        a, b = rng.integers(0, n, 2)
        both = kind in ("distance", "rise", "plumb")
        if both and a == b:
            continue
        readings.append(
            Reading(
                id=f"r{k}",
                kind=kind,
                point=f"p{a}",
                other=f"p{b}" if both else "",
                value_mm=float(
                    rng.choice([0.001, 1, 100, 500, 1e6])
                    if kind in ("distance", "from-left-wall")
                    else rng.choice([0, -100, 100, 3e5])
                ),
                datum="d" if datums and kind in ("forward", "left", "up") and rng.random() < 0.5 else "",
                plus_minus_mm=float(rng.choice([0, 0.5, 1.5])),
                used=bool(rng.random() < 0.9),
            )
        )
    return Survey(points=points, readings=tuple(readings), datums=datums, width_mm=900.0)


def test_whatever_a_survey_holds_it_is_answered() -> None:
    """60 seeded heaps of readings: never a fault or a number that is none, and every reading has its
    state."""
    for seed in range(60):
        survey = junk_survey(np.random.default_rng(seed))
        net = adjusted(survey, UP)
        assert all(np.isfinite(p.at).all() and np.isfinite(p.plus_minus).all() for p in net.points)
        assert len(net.readings) == len(survey.readings) and {c.state for c in net.readings} <= {
            "agrees",
            "out of line",
            "doubtful",
            "unchecked",
            "not used",
        }
