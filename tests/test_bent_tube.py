"""A crossmember that is bent to a radius: its axis by hand and against the mitred one, what is cut, what is
asked, its strength."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from nimble_cradle.geometry.polyline import axis_length, rounded, turns_of
from nimble_cradle.job.edits import with_value
from nimble_cradle.job.job import Job
from nimble_cradle.judge.verdict import verdict
from nimble_cradle.made.crossmember import crossmember_solids
from nimble_cradle.shop.cutlist import cut_list
from nimble_cradle.strength.beam import axis_of, crossmember_under

DROP = ((0.0, 400.0, 0.0), (0.0, 200.0, -80.0), (30.0, -190.0, -80.0), (0.0, -400.0, 0.0))


def bent(job: Job, radius: float) -> Job:
    """The truck's crossmember dropped in the middle and bent."""
    assert job.crossmember is not None
    (x, y, z), (x2, y2, z2) = job.crossmember.points[0], job.crossmember.points[-1]
    points = ((x, y, z), (x, 170.0, z - 45), (x + 12, -160.0, z - 45), (x2, y2, z2))
    return with_value(with_value(job, "crossmember/points", points), "crossmember/bend_radius_mm", radius)


class TestItsAxis:
    def test_a_square_corner_by_hand(self) -> None:
        """Legs of 300 and 200 mm and a radius of 90: 90 off each leg, a quarter of a circle between."""
        line = rounded(((0.0, 0.0, 0.0), (300.0, 0.0, 0.0), (300.0, 200.0, 0.0)), 90.0)
        assert line[1] == pytest.approx((210.0, 0.0, 0.0)) and line[-2] == pytest.approx((300.0, 90.0, 0.0))
        arc = np.array(line[1:-1])
        assert np.hypot(arc[:, 0] - 210, arc[:, 1] - 90) == pytest.approx(90.0)
        assert axis_length(line) == pytest.approx(210 + 110 + math.pi / 2 * 90, rel=1e-3)

    @settings(max_examples=60)
    @given(st.lists(st.tuples(*[st.floats(-300, 300)] * 3), min_size=3, max_size=6), st.floats(1, 80))
    def test_it_touches_every_leg_and_turns_as_much(
        self, points: list[tuple[float, float, float]], radius: float
    ) -> None:
        """Every point of it lies within the legs' lines, no chord turns by more than an arc's step, and the
        ends stay; or it says which leg is too short."""
        if any(math.dist(a, b) < 5.0 for a, b in zip(points, points[1:], strict=False)):
            return
        if any(turn > 170.0 for turn in turns_of(points)):
            return
        try:
            line = rounded(points, radius)
        except ValueError as error:
            assert "leg" in str(error) and "bends take" in str(error)
            return
        assert line[0] == points[0] and line[-1] == points[-1]
        assert axis_length(line) <= axis_length(points) + 1e-6
        assert sum(turns_of(line)) == pytest.approx(sum(turns_of(points)), abs=0.05)
        assert max(turns_of(line), default=0.0) < 12.1

    def test_no_radius_is_the_mitred_line(self) -> None:
        assert rounded(DROP, 0.0) == DROP


class TestInTheJob:
    def test_what_is_cut(self, demo: Job) -> None:
        """One tube, its bends told from the left end as cut, by hand: legs less the tangents, arcs
        between."""
        job = bent(demo, 150.0)
        cross = job.crossmember
        assert cross is not None
        (row,) = [r for r in cut_list(job) if r.part == "Gearbox crossmember"]
        turns = turns_of(cross.points)
        takes = [150.0 * math.tan(math.radians(t) / 2) for t in turns]
        legs = [math.dist(a, b) for a, b in zip(cross.points, cross.points[1:], strict=False)]
        first = legs[0] - takes[0] + 5.0
        ends = first + math.radians(turns[0]) * 150.0
        second = ends + legs[1] - sum(takes)
        assert f"{first:.0f} to {ends:.0f} by {turns[0]:.1f} deg" in row.note
        assert (
            f"{second:.0f} to {second + math.radians(turns[1]) * 150:.0f} by {turns[1]:.1f} deg" in row.note
        )
        whole = sum(legs) - 2 * sum(takes) + math.radians(sum(turns)) * 150.0
        assert row.size == f"{math.ceil(whole) + 10:.0f} long" and "mitre" not in row.note
        mitred = [r for r in cut_list(bent(demo, 0.0)) if r.part == "Gearbox crossmember"]
        assert "mitre" in mitred[0].note and len(crossmember_solids(cross)) > 3

    def test_what_is_asked(self, demo: Job) -> None:
        def asked(radius: float) -> list[str]:
            place = "crossmember/bend_radius_mm"
            return [p.sentence for p in verdict(bent(demo, radius)).problems if p.place == place]

        assert not asked(0.0) and not asked(150.0)
        assert "kinks when it is bent to 20 mm" in asked(20.0)[0]
        short = asked(3000.0)
        assert short and "bends take" in short[0] and not verdict(bent(demo, 3000.0)).holds

    def test_its_strength_is_that_of_its_axis(self, demo: Job) -> None:
        """As a mitred one through the points of the arcs, whose frame is tested by itself; stiffer than
        through the corners."""
        job = bent(demo, 150.0)
        cross, corners = job.crossmember, bent(demo, 0.0).crossmember
        assert cross is not None and corners is not None
        mount = next(m for m in job.mounts if m.id == cross.carries)
        force = np.array([[300.0, 200.0, -4000.0]])
        found = crossmember_under(cross, mount.bush.centre, force)
        chords = cross.model_copy(update={"points": axis_of(cross), "bend_radius_mm": 0.0})
        same = crossmember_under(chords, mount.bush.centre, force)
        assert found.stress == pytest.approx(same.stress, rel=1e-9)
        assert found.moved == pytest.approx(same.moved, rel=1e-9)
        through = crossmember_under(corners, mount.bush.centre, force)
        assert abs(found.moved[0, 2]) < abs(through.moved[0, 2]) and found.moved[0, 2] < 0
