"""The least distance through cases and a travel at once: against every case and place measured by itself, a
bar that swings past a block by hand, and what is not asked for."""

from __future__ import annotations

import math
from itertools import product

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from nimble_cradle.fit.link_course import BarCourse, FromCourse, bars_of, ends_of
from nimble_cradle.fit.links import Link
from nimble_cradle.geometry.bodies import Bodies
from nimble_cradle.geometry.courses import Places, Track
from nimble_cradle.geometry.distance import nearest
from nimble_cradle.geometry.least_through import Asked, least_between
from nimble_cradle.geometry.pose import Array, Pose, rotation_about
from nimble_cradle.geometry.solid_makers import bar, box, hull
from nimble_cradle.geometry.solids import ConvexPart
from scipy.spatial.transform import Rotation

from thinned import some_of

WITHIN = 0.2


def enough(distance: float) -> float:
    return WITHIN + 0.04 * max(0.0, -distance)


def swing(about: Array, axis: Array, t: float) -> Pose:
    turned = rotation_about(axis, math.radians(t))
    return Pose(turned, about - turned @ about)


def track_of(parts: list[ConvexPart], about: Array, axis: Array, span: tuple[float, float], n: int) -> Track:
    points = np.vstack([part.triangles[0] for part in parts])
    corners = np.array(list(product(*zip(points.min(0), points.max(0), strict=True))))
    off = np.linalg.norm(np.cross(points - about, axis / np.linalg.norm(axis)), axis=1).max()
    stops = tuple(np.linspace(*span, n).tolist())
    return Track(stops, lambda t: swing(about, axis, t), corners, float(off) * math.pi / 180)


def solid_of(rng: np.random.Generator, at: Array, size: float) -> ConvexPart:
    kind = int(rng.integers(3))
    if kind == 0:
        return box(
            at,
            rng.uniform(0.2, 1.0, 3) * size,
            Rotation.random(random_state=int(rng.integers(1_000_000))).as_matrix(),
        )
    if kind == 1:
        return bar(at, at + rng.normal(size=3) * size, float(rng.uniform(0.1, 0.4) * size))
    return hull(at + rng.uniform(-0.6, 0.6, (9, 3)) * size)


@pytest.mark.parametrize("seed", some_of(range(24), 4))
def test_as_every_case_and_place_by_itself(seed: int) -> None:
    """Two bodies that sway in seven cases against two on one carrier that swings: the least as 7 x 241
    measurements find it, clear of and in one another."""
    rng = np.random.default_rng(seed)
    far = 90.0 if seed % 3 == 0 else 260.0
    sways = [[solid_of(rng, rng.uniform(-60, 60, 3), 90.0) for _ in range(2)] for _ in range(2)]
    parts = [solid_of(rng, np.array([far, 0, 0]) + rng.uniform(-70, 70, 3), 80.0) for _ in range(2)]
    about, axis = rng.uniform(-40, 40, 3) + [far, 0, 300.0], rng.normal(size=3)
    axis /= np.linalg.norm(axis)
    span = -float(rng.uniform(2, 30)), float(rng.uniform(2, 30))
    cases = [
        Pose(rotation_about(rng.normal(size=3), float(rng.uniform(0, 0.06))), rng.normal(size=3) * 8.0)
        for _ in range(7)
    ]
    moving, fixed = Bodies(sways), Bodies([parts])
    track = track_of(parts, about, axis, span, 9)
    asked = {(k, 0): Asked(1e4) for k in range(2)}
    found = least_between(moving, Places(cases), fixed, track, asked, enough)
    reach = np.full((2, 1), 1e5)
    every: dict[int, list[float]] = {0: [], 1: []}
    for pose, t in product(cases, np.linspace(*span, 161)):
        for near in nearest(moving, swing(about, axis, t).inverse() @ pose, fixed, reach):
            every[near.a].append(near.distance)
    for k in range(2):
        least = min(every[k])
        got = found[k, 0]
        assert -0.1 < got.distance - least < enough(least) + 0.02, (got.distance, least)
        at = nearest(moving, swing(about, axis, got.at).inverse() @ cases[got.case], fixed, reach)
        assert next(n.distance for n in at if n.a == k) == pytest.approx(got.distance, abs=2e-3)


@pytest.mark.parametrize("stations", [2, 3, 9])
def test_a_bar_that_swings_past_a_block(stations: int) -> None:
    """A bar of 20 mm on an arm of 400 mm swings 40 deg about the upright axis past a block whose near face is
    415 mm out at 13 deg, between two stations: 5 mm are left, by hand."""
    arm = bar((400.0, 0.0, -50.0), (400.0, 0.0, 50.0), 20.0)
    turn = math.radians(13.0)
    out = np.array([math.cos(turn), math.sin(turn), 0.0])
    block = box(out * 425.0, (20.0, 20.0, 20.0), rotation_about((0, 0, 1), turn))
    track = track_of([arm], np.zeros(3), np.array([0.0, 0.0, 1.0]), (0.0, 40.0), stations)
    found = least_between(
        Bodies([[block]]),
        Places([Pose.still()]),
        Bodies([[arm]]),
        track,
        {(0, 0): Asked(100.0)},
        lambda d: 0.01,
    )
    assert found[0, 0].distance == pytest.approx(5.0, abs=0.02)
    assert found[0, 0].at == pytest.approx(13.0, abs=1.5)
    assert found[0, 0].way == pytest.approx(out, abs=0.03)


@pytest.mark.parametrize("stations", [2, 4])
def test_a_bar_that_swings_towards_a_wall(stations: int) -> None:
    """The same before a wall 415 mm out, from 20 deg on one side to 25 on the other: at both ends one plane,
    the wall, leaves 29 and 42 mm; between them 5 are left."""
    arm = bar((400.0, 0.0, -50.0), (400.0, 0.0, 50.0), 20.0)
    wall = box((425.0, 0.0, 0.0), (20.0, 900.0, 300.0))
    track = track_of([arm], np.zeros(3), np.array([0.0, 0.0, 1.0]), (-20.0, 25.0), stations)
    sets = Bodies([[wall]]), Places([Pose.still()]), Bodies([[arm]])
    found = least_between(*sets, track, {(0, 0): Asked(100.0)}, lambda d: 0.01)
    assert found[0, 0].distance == pytest.approx(5.0, abs=0.02)
    assert found[0, 0].at == pytest.approx(0.0, abs=0.6)


@settings(max_examples=40)
@given(st.floats(1.0, 60.0), st.floats(-30.0, 30.0), st.floats(0.0, 25.0))
def test_only_what_undercuts_is_told(gap: float, sideways: float, nearer: float) -> None:
    """Boxes face to face, moved towards one another in the second of three cases: the gap by hand, and none
    where it does not undercut what is asked for."""
    one, other = box((0, 0, 0), (100, 100, 100)), box((100.0 + gap, sideways, 0), (100, 100, 100))
    cases = [Pose(np.eye(3), np.array(by)) for by in ((0.0, 3, 0), (nearer, 0, 2.0), (-4.0, 0, 0))]
    for least in (gap - nearer + 0.5, gap - nearer - 0.5):
        found = least_between(Bodies([[one]]), Places(cases), Bodies([[other]]), None, {(0, 0): Asked(least)})
        if least > gap - nearer:
            assert found[0, 0].distance == pytest.approx(gap - nearer, abs=2e-3)
            assert found[0, 0].case == 1 or nearer < 0.01
        else:
            assert not found


def test_a_floor_spares_the_cases_that_cannot_matter() -> None:
    """A case of which is known elsewhere that it is far is left out, as it says."""
    one, other = box((0, 0, 0), (100, 100, 100)), box((130, 0, 0), (100, 100, 100))
    cases = [Pose(np.eye(3), np.array([x, 0.0, 0])) for x in (5.0, 20.0)]
    sets = Bodies([[one]]), Places(cases), Bodies([[other]]), None
    assert least_between(*sets, {(0, 0): Asked(30.0)})[0, 0].distance == pytest.approx(10.0, abs=1e-3)
    floored = least_between(*sets, {(0, 0): Asked(30.0, np.array([0.0, 40.0]))})
    assert floored[0, 0].distance == pytest.approx(25.0, abs=1e-3)


@pytest.mark.parametrize("seen_from", ["the car", "an arm"])
@pytest.mark.parametrize("joint_long", [40.0, 900.0])
def test_a_link_reaches_as_far_as_its_bars(joint_long: float, seen_from: str) -> None:
    """Every bar of a link, in every case and at every station (one put in half-way), as the solid that is
    measured there, seen from the car and from an arm that rises with it; its surface goes no further from one
    station to the next than is said, and leaves the straight way no more."""
    hub = np.array([30.0, 700.0, 40.0])
    link = Link(
        "link",
        "Link",
        lambda pose, t: (pose.points((20.0, 150.0, 90.0)), hub + np.array([0.0, -(t**2) / 900, t])),
        34.0,
        88.0,
        joint_long,
        (frozenset(), frozenset()),
        True,
        (-70.0, 90.0),
        bends=True,
    )
    rng = np.random.default_rng(3)
    poses = [Pose(rotation_about(rng.normal(size=3), 0.05), rng.normal(size=3) * 9) for _ in range(4)]
    ways = rng.normal(size=(40, 3))
    ways /= np.linalg.norm(ways, axis=1)[:, None]
    ends = ends_of(link, poses)
    arm, about, axis = (
        bar((0, 200, -90), (0, 690, -60), 40.0),
        np.array([0, 200.0, -90]),
        np.array([1.0, 0.1, 0]),
    )
    points = arm.triangles[0]
    corners = np.array(list(product(*zip(points.min(0), points.max(0), strict=True))))
    track = Track(ends.stops, lambda t: swing(about, axis, 0.12 * t + 2e-4 * t * t), corners, 1.5)
    for _, one in bars_of(ends):
        course: BarCourse | FromCourse = one if seen_from == "the car" else FromCourse(one, track)
        course = course.halved(2)
        reach = course.reach(ways)
        for k, t in np.ndindex(*reach.shape[1:]):
            assert reach[:, k, t] == pytest.approx(course.at(k, t)[0].support(ways), abs=0.06)
        for k, t in np.ndindex(reach.shape[1], reach.shape[2] - 1):
            assert np.abs(reach[:, k, t + 1] - reach[:, k, t]).max() < course.gone[t] + 0.06
            chord = (reach[:, k, t] + reach[:, k, t + 1]) / 2
            assert (course.halved(t).reach(ways)[:, k, t + 1] - chord).max() < course.bent[t] + 0.06
    if seen_from == "an arm":
        there = track.pose(ends.stops[4])
        seen, stood = FromCourse(one, track).at(1, 4)[0], one.at(1, 4)[0]
        assert there.points(seen.pose.translation) == pytest.approx(stood.pose.translation, abs=1e-9)
