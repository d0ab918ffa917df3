"""What holds the powertrain in a crash: shared by statics, whole parts by hand, and what nothing stops."""

from __future__ import annotations

import numpy as np
import pytest
from nimble_cradle.geometry.pose import Array, rotation_about
from nimble_cradle.job.base import JobError
from nimble_cradle.job.edits import with_value
from nimble_cradle.job.job import Job
from nimble_cradle.judge.carried import carried
from nimble_cradle.judge.verdict import verdict
from nimble_cradle.mounts.retention import shares, thrown

GRAVITY = 9.80665


def least_forces(at: Array, centre: Array, force: Array) -> Array:
    """(n, 3) N at n places that hold a force at ``centre``: of all that do, those with the least sum of
    squares, which is what equally stiff places do (Castigliano), by a library's least squares."""
    rows = []
    for p in at:
        x, y, z = p - centre
        rows.append(np.vstack([np.eye(3), [[0, -z, y], [z, 0, -x], [-y, x, 0]]]))
    answer = np.linalg.lstsq(np.hstack(rows), np.concatenate([force, np.zeros(3)]), rcond=None)[0]
    return np.asarray(answer.reshape(-1, 3))


def test_places_share_as_equally_stiff_ones_do() -> None:
    at = np.array([[30.0, 250, -10], [-60, -210, 25], [-870, 40, -130], [-400, 180, 300]])
    centre = np.array([-170.0, -12, 140])
    force = np.array([[4e3, -9e3, 2e3], [0, 0, -3e3]])
    for n in (3, 4):
        told = shares(at[:n], centre, force)
        for k in range(2):
            assert told[:, k] == pytest.approx(least_forces(at[:n], centre, force[k]), abs=1e-6)
    turn = rotation_about(np.array([0.3, -0.5, 0.8]), 41.0)
    turned = shares(at @ turn.T, turn @ centre, force @ turn.T)
    assert turned == pytest.approx(shares(at, centre, force) @ turn.T, abs=1e-6)
    with pytest.raises(JobError, match="Too few mounts"):
        shares(np.array([[0.0, 0, 0], [100, 0, 0], [300, 0, 0]]), centre, force)


def found(job: Job, part: str, code: str = "foot-retention") -> float:
    """Share used by one part in a crash."""
    return next(f.use for f in verdict(job).findings if (f.part, f.code) == (part, code))


def test_thin_cheeks_give_way_by_hand(demo: Job) -> None:
    """Cheeks of 5 mm S235, 90 mm wide, foot plate 8 mm under them: the left mount of the truck, its bolt
    along the car, thrown ahead at 8 g."""
    job = with_value(demo, "mounts/left/cross_bolt/cheek_mm", 5.0)
    job = with_value(job, "mounts/left/cross_bolt/cheek_steel", "S235")
    on = carried(job)
    weight = on.mass.mass_kg * GRAVITY
    at = np.array([mount.bush.centre for mount in job.mounts])
    bears = least_forces(at, on.centre, np.array([8 * weight, 0.0, -weight]))[0]
    (bush,) = (mount.bush.centre for mount in job.mounts if mount.id == "left")
    # the rail's inner face lies at y = 395, the foot's middle at z = -60, its plate is 8 mm thick
    high, over = 395.0 - 8 - bush[1], bush[2] + 60
    tip = abs(-over * bears[1] + high * -bears[2])
    sigma = (
        abs(bears[1]) / (2 * 90 * 5)
        + 6 * tip / (2 * 5 * 90**2)
        + 6 * (abs(bears[0]) * high / 4) / (90 * 5**2)
    )
    tau = tip / high / (2 * 90 * 5)
    assert found(job, "left") == pytest.approx(np.hypot(sigma, 3**0.5 * tau) / (235 * 1.3 * 1.5), rel=2e-3)
    softer = with_value(with_value(job, "loads/crash_ahead_g", 2.0), "loads/crash_side_g", 0.0)
    assert found(softer, "left") < found(job, "left") / 2


def test_bolts_get_nothing_for_their_yield(demo: Job) -> None:
    """The cross-bolt of the truck's right mount breaks where its own check says, nothing kept in hand."""
    calm = next(f for f in verdict(demo).findings if (f.part, f.code) == ("right", "retention"))
    assert "bolt" in calm.what
    assert calm.worked.value("use") == pytest.approx(calm.use)
    assert {q.name: value for q, value, _ in calm.worked.inputs}["times"] == 1.0
    assert calm.load / calm.capacity == pytest.approx(calm.use)


def test_rubber_that_nothing_catches_leaves_every_other_open(hatchback: Job) -> None:
    """The hatchback's left mount is a donor's rubber; two others do not keep the engine from turning over."""
    job = with_value(hatchback, "mounts/left/bush/captured", False)
    with pytest.raises(JobError, match="in a crash only rubber"):
        thrown(job.mounts, carried(job).centre, job.loads, 300.0)
    told = verdict(job)
    assert not told.holds
    assert any("in a crash only rubber" in problem.sentence for problem in told.problems)
    states = {mount.mount: mount.block_to_bush for mount in told.mounts}
    assert states == {"right": "open", "left": "does not hold", "rear": "open"}
    assert len(thrown(hatchback.mounts, carried(hatchback).centre, hatchback.loads, 300.0)) == 3
