"""Shims and blocks: trivial changes read trivially, the inverse undoes the plan, stacks against every
stack there is."""

from __future__ import annotations

from itertools import product

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from nimble_cradle.bay.position import pose_of
from nimble_cradle.fit.supports import first_supports, from_changes, heights, plan_of, stack_of, with_changes
from nimble_cradle.job.base import JobError
from nimble_cradle.job.edits import with_value
from nimble_cradle.job.job import Job
from nimble_cradle.job.setting import Setting, Support


def held(job: Job, **now: float) -> Job:
    """The job with its supports and the real engine off its place by so much."""
    there = job.position.model_copy(update={k: getattr(job.position, k) + v for k, v in now.items()})
    return with_value(
        job,
        "setting",
        Setting(
            now=there, supports=tuple(s.model_copy(update={"stack_mm": 12.0}) for s in first_supports(job))
        ),
    )


def test_raising_all_alike_reads_so(demo: Job) -> None:
    plan = plan_of(held(demo, z=-9.5))
    assert plan.words == "Raise every support by 9.5 mm."
    assert [c.up for c in plan.changes] == pytest.approx([9.5] * 3, abs=1e-6)
    assert all(c.stack is not None and sum(c.stack) - c.off == pytest.approx(21.5) for c in plan.changes)
    assert (
        plan_of(held(demo, x=4.0)).words == "Shift it 4.0 mm back."
        and plan_of(held(demo)).words == "It stands where it should."
    )


def test_a_tilt_by_the_rule_of_proportion(demo: Job) -> None:
    """Nose up by a small angle about the middle: each support rises by its distance ahead of the middle
    times the angle."""
    job = held(demo, pitch_deg=-0.6)
    plan = plan_of(job)
    at = heights(job.setting.supports, pose_of(job.position))
    pivot = np.array([demo.position.x, demo.position.y, demo.position.z])
    foretold = (at[:, 0] - pivot[0]) * np.sin(np.radians(0.6)) - (at[:, 2] - pivot[2]) * (
        1 - np.cos(np.radians(0.6))
    )
    assert [c.up for c in plan.changes] == pytest.approx(foretold, abs=0.02)
    assert "by itself" in plan.words


@given(st.integers(0, 1000))
def test_the_inverse_undoes_the_plan(seed: int) -> None:
    rng = np.random.default_rng(seed)
    supports = [
        Support(id=f"s-{k}", name="S", at=tuple(float(c) for c in p))
        for k, p in enumerate(([300, 180, -60], [300, -180, -50], [-650, 10, -80]))
    ]
    from nimble_cradle.geometry.pose import Pose, rotation_xyz

    start = Pose(rotation_xyz(*rng.uniform(-4, 4, 3)), rng.uniform(-300, 300, 3))
    ups = rng.uniform(-15, 15, 3)
    there, disagreement = from_changes(supports, start, ups)
    assert disagreement < 1e-5
    np.testing.assert_allclose(
        heights(supports, there)[:, 2] - heights(supports, start)[:, 2], ups, atol=1e-5
    )
    np.testing.assert_allclose(
        heights(supports, there)[:, :2].mean(0), heights(supports, start)[:, :2].mean(0), atol=1e-6
    )
    back, _ = from_changes(supports, there, -ups)
    np.testing.assert_allclose(
        heights(supports, back), heights(supports, start), atol=0.15
    )  # a turn in plan is left free by heights alone


def test_four_supports_that_fight_are_told(demo: Job) -> None:
    job = held(demo)
    four = (*job.setting.supports, Support(id="strap", name="Strap", kind="strap", at=(-300.0, 0.0, 120.0)))
    job = with_value(job, "setting/supports", four)
    _, disagreement = with_changes(job, (5.0, 5.0, 5.0, 5.0))
    assert disagreement < 1e-5
    _, disagreement = with_changes(job, (5.0, 5.0, 5.0, 0.0))
    assert 0.5 < disagreement < 5


@given(
    st.lists(st.sampled_from((0.5, 1.0, 1.6, 2.0, 3.0, 5.0, 8.0, 12.7)), min_size=1, max_size=4, unique=True),
    st.floats(0, 40),
)
def test_no_stack_is_nearer(sizes: list[float], total: float) -> None:
    stack, off = stack_of(total, sizes, 3)
    best = min(abs(sum(c) - total) for n in range(4) for c in product(sizes, repeat=n))
    assert abs(off) == pytest.approx(best, abs=1e-9) and sum(stack) - total == pytest.approx(off)
    assert not any(
        abs(abs(sum(c) - total) - best) < 1e-9 for n in range(len(stack)) for c in product(sizes, repeat=n)
    )


def test_what_is_not_said_is_asked(demo: Job) -> None:
    with pytest.raises(JobError, match="three places"):
        plan_of(demo)
    supports = first_supports(demo)
    with pytest.raises(JobError, match="where the real engine is now"):
        plan_of(with_value(demo, "setting/supports", supports))
    line = tuple(s.model_copy(update={"at": (float(200 * k), 0.0, -60.0)}) for k, s in enumerate(supports))
    with pytest.raises(JobError, match="in one line"):
        plan_of(with_value(with_value(demo, "setting/supports", line), "setting/now", demo.position))
