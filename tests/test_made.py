"""Items made from surveyed points, the doubt of their gaps, and items that move."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
from nimble_cradle.bay.bodies import powertrain_bodies
from nimble_cradle.bay.position import pose_of
from nimble_cradle.fit.gap import Gap
from nimble_cradle.fit.travel import MISSED, moving_items
from nimble_cradle.geometry.bodies import Bodies
from nimble_cradle.geometry.distance import nearest
from nimble_cradle.geometry.pose import rotation_about
from nimble_cradle.job.base import JobError
from nimble_cradle.job.bay import Item
from nimble_cradle.job.edits import with_value
from nimble_cradle.job.from_points import (
    BarFrom,
    BoxFrom,
    GridFrom,
    OutlineFrom,
    PanelFrom,
    RailFrom,
    ShaftFrom,
    Slide,
    Swing,
    TunnelFrom,
)
from nimble_cradle.job.job import Job
from nimble_cradle.job.new import new_job
from nimble_cradle.job.shapes import Bar, Box
from nimble_cradle.job.survey import Survey, SurveyPoint
from nimble_cradle.judge.gaps import piece_gaps
from nimble_cradle.judge.verdict import verdict
from nimble_cradle.survey.made import made_shapes, placed_items
from nimble_cradle.survey.shapes import solid

AT = {
    "a": np.array([0.0, 0, 0]),
    "b": np.array([400.0, 0, 0]),
    "c": np.array([400.0, 300, 0]),
    "d": np.array([0.0, 300, 0]),
    "e": np.array([700.0, 0, 120]),
    "f": np.array([400.0, 300, 200]),
}


def volume(recipe: Any) -> float:
    return sum(part.mass_properties()[0] for part in solid(made_shapes(recipe, AT), ()))


class TestShapes:
    def test_sizes_by_hand(self) -> None:
        assert volume(BoxFrom(points=("a", "f"))) == pytest.approx(400 * 300 * 200)
        kick = 400 + math.hypot(300, 120)
        assert volume(RailFrom(points=("a", "b", "e"), width_mm=50, height_mm=80)) == pytest.approx(
            kick * 4000
        )
        assert volume(BarFrom(points=("a", "b"), diameter_mm=20)) == pytest.approx(400 * math.pi * 100)
        shaft = volume(ShaftFrom(points=("a", "b", "e"), diameter_mm=20, joint_mm=60, joint_long_mm=70))
        assert shaft == pytest.approx(kick * math.pi * 100 + 70 * math.pi * 900)
        assert volume(PanelFrom(points=("a", "b", "c", "d"), thickness_mm=2)) == pytest.approx(400 * 300 * 2)
        outline = OutlineFrom(points=("a", "b"), outline=((0, 0), (60, 0), (0, 80)))
        assert volume(outline) == pytest.approx(400 * 60 * 80 / 2)

    def test_where_they_stand(self) -> None:
        rail = solid(made_shapes(RailFrom(points=("a", "b"), width_mm=50, height_mm=80), AT), ())[0]
        low, high = rail.triangles[0].min(0), rail.triangles[0].max(0)
        assert low == pytest.approx((0, -25, -80)) and high == pytest.approx((400, 25, 0)), (
            "it hangs under its top"
        )
        grid = GridFrom(points=("a",), forward=(0, 100), left=(-50, 0, 50), heights=((9, 8, 9), (7, 6, 7)))
        skin = solid(made_shapes(grid, AT), ())[0].triangles
        assert {tuple(v) for v in skin[0]} >= {(0, -50, 9), (100, 0, 6), (100, 50, 7)} and len(skin[1]) == 4
        half = tuple((150 * math.cos(t), 150 * math.sin(t)) for t in np.linspace(0, math.pi, 25))
        tunnel = TunnelFrom(points=("b", "a"), profiles=(half, ((140, 0), (0, 140), (-140, 0))))
        v, f = solid(made_shapes(tunnel, AT), ())[0].triangles
        assert len(v) == 50 and len(f) == 48 and np.abs(v[:, 1]).max() == pytest.approx(150)
        front = v[np.isclose(v[:, 0], 400)]
        assert np.hypot(front[:, 1], front[:, 2]) == pytest.approx(np.full(25, 150.0), abs=1e-3)

    @pytest.mark.parametrize(
        ("recipe", "words"),
        [
            (BarFrom(points=("a", "a"), diameter_mm=5), "same place"),
            (BoxFrom(points=("a", "b")), "do not span a box"),
        ],
    )
    def test_what_points_do_not_give(self, recipe: Any, words: str) -> None:
        job = job_with(Item(id="i", name="Thing", neighbour="metal", made=recipe))
        assert placed_items(job) == ()
        problems = verdict(job).problems
        assert any(
            "Thing is not measured against yet" in p.sentence and words in p.sentence for p in problems
        )

    def test_refusals_name_what_is_wrong(self) -> None:
        with pytest.raises(ValueError, match="2 rows of 3 heights are wanted"):
            GridFrom(points=("a",), forward=(0, 1), left=(0, 1, 2), heights=((1, 2, 3), (1, 2)))
        with pytest.raises(ValueError, match="each point wants one"):
            TunnelFrom(points=("a", "b", "c"), profiles=(((0, 0), (1, 1)), ((0, 0), (1, 1))))
        with pytest.raises(ValueError, match="not both"):
            Item(
                id="i",
                name="I",
                neighbour="metal",
                shapes=(Box(centre=(0, 0, 0), size=(1, 1, 1)),),
                made=BoxFrom(points=("a", "b")),
            )
        with pytest.raises(JobError, match="“zz”, which is not in the survey"):
            with_value(
                job_with(),
                "items",
                (Item(id="i", name="I", neighbour="metal", made=BoxFrom(points=("zz", "a"))),),
            )


def job_with(*items: Item, doubt: float = 2.0, at: dict[str, np.ndarray] | None = None) -> Job:
    points = tuple(
        SurveyPoint(id=k, name=k, given=(float(v[0]), float(v[1]), float(v[2])), given_plus_minus_mm=doubt)
        for k, v in (at or AT).items()
    )
    return with_value(with_value(new_job("Bench"), "survey", Survey(points=points)), "items", items)


def gap_of(job: Job, piece: str, item: str) -> Gap:
    return next(g for g in piece_gaps(job) if (g.piece, g.item) == (piece, item))


class TestDoubt:
    """The block of a new job spans x -250..210, y -160..160, z about -60..460 (nose up 3 deg)."""

    CASES = (
        (
            RailFrom(points=("p", "q"), width_mm=60, height_mm=90, size_plus_minus_mm=0.0),
            ((-700, 215, 60), (500, 200, 80), (0, 0, 900)),
        ),
        (
            BarFrom(points=("p", "q"), diameter_mm=40, size_plus_minus_mm=0.0),
            ((-400, -240, 300), (400, -205, 60), (0, 0, 900)),
        ),
        (
            PanelFrom(points=("p", "q", "r"), thickness_mm=2, size_plus_minus_mm=0.0),
            ((-600, -300, 520), (-500, 420, 535), (700, 40, 515)),
        ),
        (BoxFrom(points=("p", "q"), size_plus_minus_mm=0.0), ((230, -90, 50), (420, 110, 300), (0, 0, 900))),
    )

    @pytest.mark.parametrize(("recipe", "points"), CASES)
    def test_linear_doubt_against_monte_carlo(self, recipe: Any, points: Any) -> None:
        """400 seeded redrawings of the points: twice the spread of the gap is the give-or-take that was
        propagated."""
        at = dict(zip("pqr", (np.array(p, dtype=float) for p in points), strict=True))
        item = Item(id="i", name="I", neighbour="metal", made=recipe)
        told = gap_of(job_with(item, doubt=3.0, at=at), "block", "i")
        own = math.sqrt(told.give_or_take**2 - 1.5**2)
        assert told.gap > 5
        rng = np.random.default_rng(1)
        gaps = []
        for _ in range(400):
            moved = {k: v + rng.normal(0, 1.5, 3) for k, v in at.items()}
            gaps.append(gap_of(job_with(item, at=moved), "block", "i").gap)
        assert 2 * np.std(gaps) == pytest.approx(own, rel=0.12)

    def test_it_enters_the_margin(self) -> None:
        at = {"p": np.array([230.0, -90, 50]), "q": np.array([420.0, 110, 300])}
        item = Item(id="i", name="I", neighbour="metal", made=BoxFrom(points=("p", "q")))
        sure, unsure = (gap_of(job_with(item, doubt=d, at=at), "block", "i") for d in (0.2, 6.0))
        assert sure.gap == unsure.gap
        assert sure.margin - unsure.margin == pytest.approx(unsure.give_or_take - sure.give_or_take)
        assert unsure.give_or_take == pytest.approx(math.sqrt(6**2 + 0.5**2 + 1.5**2), abs=0.25)


class TestMotion:
    def rod(self, longer: float = 0.0, **motion: Any) -> Job:
        rod = Item(
            id="rod",
            name="Rod",
            neighbour="metal",
            motion=Swing(**motion),
            shapes=(Bar(start=(150, 700, -180), end=(150, 190 - longer, -180), diameter=24),),
        )
        return with_value(job_with(), "items", (rod,))

    def test_no_gap_between_samples_is_missed(self) -> None:
        """Against 333 even samples of each of nine travels, for rods that swing past, towards and into
        the engine."""
        rng, overlaps = np.random.default_rng(4), 0
        for n in range(9):
            longer = 0.0 if n < 5 else float(rng.uniform(70, 200))  # the last three swing right into it
            job = self.rod(
                longer,
                about=(150, 700 + float(rng.uniform(-80, 80)), -180),
                axis=(1.0, float(rng.uniform(-0.2, 0.2)), 0.0),
                least_deg=float(rng.uniform(-25, -1)),
                most_deg=float(rng.uniform(1, 25)),
            )
            m = moving_items(job)[0]
            bodies, pose = powertrain_bodies(job), pose_of(job.position)
            reach = np.full((bodies.count, 1), 900.0)
            swing = job.items[0].motion
            assert isinstance(swing, Swing)
            brute: dict[int, float] = {}
            for t in np.linspace(*m.span, 333):
                r = rotation_about(swing.axis, math.radians(t))
                about = np.array(swing.about)
                rod = job.items[0].shapes[0]
                assert isinstance(rod, Bar)
                ends = [tuple(r @ (np.array(p) - about) + about) for p in (rod.start, rod.end)]
                stood = Bodies([solid((Bar(start=ends[0], end=ends[1], diameter=24),), ())])
                for near in nearest(bodies, pose, stood, reach):
                    brute[near.a] = min(brute.get(near.a, np.inf), near.distance)
            for g in piece_gaps(job):
                a = [p.id for p in job.powertrain.pieces].index(g.piece)
                if g.travel is not None and brute[a] > 0:
                    assert -0.05 < g.travel - brute[a] < MISSED + 0.02, (g.travel, brute[a])
                elif g.travel is not None:  # within 4 % of how deep it is, a quarter of what is beyond 50 mm
                    deep = -brute[a]
                    missed = 0.2 + 0.04 * deep + 0.25 * max(0.0, deep - 50)
                    assert -1.0 < g.travel - brute[a] < missed + 0.02, (g.travel, brute[a])
                    overlaps += 1
        assert overlaps > 2

    def test_a_slide_by_hand(self) -> None:
        """A box 60 mm to the left of the block slides 45 mm towards it: 15 mm are left, and the margin is
        judged on that."""
        job = new_job("Rack")
        job = with_value(job, "position", job.position.model_copy(update={"pitch_deg": 0.0}))
        rack = Item(
            id="rack",
            name="Rack end",
            neighbour="metal",
            motion=Slide(along=(0, 2, 0), least_mm=-45, most_mm=30),
            shapes=(Box(centre=(-100, 320, 100), size=(200, 200, 60)),),
        )
        g = gap_of(with_value(job, "items", (rack,)), "block", "rack")
        assert g.gap == pytest.approx(60) and g.travel == pytest.approx(15)
        assert g.travel_at == "slid 45 mm against its line"
        assert g.margin == pytest.approx(15 - 10 - math.hypot(1.5, 1.5)) and g.movement == pytest.approx(45)

    def test_a_rod_that_is_clear_at_rest_and_fouls_in_bump(self) -> None:
        job = self.rod(about=(150, 700, -180), axis=(1, 0, 0), least_deg=-24, most_deg=0)
        g = next(g for g in piece_gaps(job) if g.piece == "block")
        assert (
            g.gap > 60
            and g.travel is not None
            and g.travel < g.gap - 60
            and g.travel_at.endswith("deg one way")
        )
