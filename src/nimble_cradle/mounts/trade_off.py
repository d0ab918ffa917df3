"""Movement against shake: what harder or softer bushes buy."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from nimble_cradle.geometry.pose import Array, crosses
from nimble_cradle.job.base import JobError
from nimble_cradle.job.edits import with_value
from nimble_cradle.job.job import Job
from nimble_cradle.mounts.equilibrium import CaseResult
from nimble_cradle.mounts.vibration import IDLE_SHORE, Idle

STEPS = tuple(range(30, 80, 5))
"""Hardnesses that are tried, Shore A or IRHD."""
DRIVEN = ("first-gear", "reverse")


@dataclass(frozen=True)
class TradePoint:
    """One hardness of one mount's bush: greatest movement of a corner of the powertrain in first gear or
    reverse, mm; share of the firing torque that is passed on at idle, as it stands and at worst over the
    doubt."""

    hardness: float
    moved: float
    shake: float
    worst: float

    @property
    def narrow(self) -> bool:
        """Whether it is good only while nothing strays: the doubt of the hardness alone more than doubles
        the shake."""
        return self.worst > 2 * self.shake


def corner_movement(results: Sequence[CaseResult], corners: Array, centre: Array) -> float:
    """Greatest movement mm of points (n, 3) of the powertrain in first gear or reverse against rest."""
    by_id = {result.case.id: result for result in results}
    rest = by_id["weight"]
    arm = corners - centre
    still = rest.move + crosses(rest.turn, arm)
    return max(
        float(np.linalg.norm(by_id[key].move + crosses(by_id[key].turn, arm) - still, axis=1).max())
        for key in DRIVEN
    )


def hardness_path(job: Job, mount_id: str) -> str | None:
    """Path of the hardness of a mount's bush; None where its stiffness does not come from one."""
    mount = next((m for m in job.mounts if m.id == mount_id), None)
    if mount is None:
        return None
    for name in ("hardness_shore_a", "hardness_irhd"):
        if hasattr(mount.bush, name):
            return f"mounts/{mount_id}/bush/{name}"
    return None


def trade_off(job: Job, mount_id: str, look: Callable[[Job], tuple[float, Idle]]) -> tuple[TradePoint, ...]:
    """A point for each hardness of one mount's bush. look: movement and idle of a job; raises JobError."""
    path = hardness_path(job, mount_id)
    if path is None:
        return ()
    out = []
    for hardness in STEPS:
        try:
            moved, idle = look(with_value(job, path, float(hardness)))
        except JobError:  # out of its range, or all but free with it
            continue
        out.append(TradePoint(float(hardness), moved, idle.nominal, idle.transmitted))
    return tuple(out)


DOUBT = f"± {IDLE_SHORE:g} points"
"""The doubt of a hardness, in words."""
