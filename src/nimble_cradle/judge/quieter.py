"""What would bring the shake at idle to the wish where the hardness of one bush does not."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass

from nimble_cradle.bay.corners import powertrain_corners
from nimble_cradle.job.base import JobError
from nimble_cradle.job.edits import value_at, with_value
from nimble_cradle.job.job import Job
from nimble_cradle.job.mounts import Mount
from nimble_cradle.judge.carried import carried
from nimble_cradle.mounts.trade_off import STEPS, TradePoint, corner_movement, hardness_path
from nimble_cradle.units import show

FASTER = (50.0, 100.0, 150.0, 200.0, 250.0, 300.0)
"""How much faster it may idle, rpm (common practice, no source)."""
NOTICED = 0.02
"""What brings the shake down by no more is not told."""
SOFTER = (0.7, 0.5, 0.35, 0.25)
"""Of the stiffness of a torque strut."""


@dataclass(frozen=True)
class Quieter:
    """One change and what it does. what: in words; of: id of the mount or strut that it is made to, or empty;
    moved: greatest movement of a corner in first gear or
    reverse, mm; worst: share of the firing torque passed on at idle at worst over the doubt; enough: whether
    that is the wish."""

    what: str
    of: str
    moved: float
    worst: float
    enough: bool


def quieter(job: Job) -> tuple[Quieter, ...]:
    """One row for each kind of change: the least of it that brings the shake to the wish, or else the one
    that comes nearest; those that do first, then the quieter. Nothing else is changed with it. Raises
    JobError where the engine rests on nothing."""
    now, most = carried(job).idle.transmitted, job.allowables.idle_transmitted
    rows: list[Quieter] = []
    for of, steps in _kinds(job):
        best: Quieter | None = None
        for what, trial in steps:
            try:
                found = carried(trial)
            except JobError:  # all but free with it
                continue
            worst = found.idle.transmitted
            moved = corner_movement(found.cases, powertrain_corners(trial), found.centre)
            if best is None or worst < best.worst:
                best = Quieter(what, of, moved, worst, worst <= most)
            if best.enough:
                break
        if best is not None and best.worst < now - NOTICED:
            rows.append(best)
    return tuple(sorted(rows, key=lambda row: (not row.enough, row.moved if row.enough else row.worst)))


def _kinds(job: Job) -> Iterator[tuple[str, list[tuple[str, Job]]]]:
    """Kinds of change, by whom they are made to, each in steps from the least on."""
    soft = [(mount, path) for mount in job.mounts if (path := hardness_path(job, mount.id)) is not None]
    for mount, path in soft:
        now = float(value_at(job, path))
        steps = sorted(STEPS, key=lambda hardness: abs(hardness - now))
        yield (
            mount.id,
            [
                (f"{mount.name} at {hardness:g} {unit_of(path)}", trial)
                for hardness in steps
                if (trial := _with(job, [(path, float(hardness))])) is not None
            ],
        )
    if len(soft) > 1:
        yield (
            "",
            [
                (f"all bushes at a hardness of {hardness:g}", trial)
                for hardness in sorted(STEPS, reverse=True)
                if (trial := _with(job, [(path, float(hardness)) for _, path in soft])) is not None
            ],
        )
    engine = job.powertrain
    if engine is not None:
        idle = engine.engine.idle_rpm
        yield (
            "",
            [
                (f"idling at {idle + more:g} rpm", trial)
                for more in FASTER
                if (trial := _with(job, [("powertrain/engine/idle_rpm", idle + more)])) is not None
            ],
        )
    for strut in job.struts:
        yield (
            strut.id,
            [
                (f"{strut.name} of {share * strut.stiffness_along:.0f} N/mm", trial)
                for share in SOFTER
                if (
                    trial := _with(
                        job, [(f"struts/{strut.id}/stiffness_along", share * strut.stiffness_along)]
                    )
                )
                is not None
            ],
        )


def _with(job: Job, changes: Sequence[tuple[str, float]]) -> Job | None:
    """The job with other figures; None where one cannot be."""
    try:
        for path, value in changes:
            job = with_value(job, path, value)
    except JobError:
        return None
    return job


def unit_of(path: str) -> str:
    """What a hardness is told in, by the name of its field."""
    return "IRHD" if path.endswith("irhd") else "Shore"


def quieter_words(
    job: Job, own: Sequence[TradePoint], mount: Mount, rows: Callable[[], Sequence[Quieter]]
) -> str:
    """In sentences where no hardness of a mount brings the shake to the wish: what would, or what comes
    nearest; empty where one does. own: its points; rows: asked for only where they are needed. Raises
    JobError."""
    most, path = job.allowables.idle_transmitted, hardness_path(job, mount.id)
    if path is None or not own or any(point.worst <= most for point in own):
        return ""
    best = min(own, key=lambda point: point.worst)
    said = (
        f"No hardness of {mount.name} brings it to the wish; {best.hardness:g} {unit_of(path)} comes nearest,"
        f" {100 * best.worst:.0f} % at worst."
    )
    others = [row for row in rows() if row.of != mount.id]
    good = [row for row in others if row.enough]
    told = "; ".join(
        f"{row.what}, {100 * row.worst:.0f} %, moving {show(row.moved, 'length', job.show.display)}"
        for row in (good or others)[:3]
    )
    if not told:
        return said
    return f"{said} {'By itself would' if good else 'By itself nothing tried does; nearest'}: {told}."
