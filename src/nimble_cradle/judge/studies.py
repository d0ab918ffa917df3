"""What is looked at when the engine rests, off the key's way: capture without rubber, movement against shake,
fit-up, how stiff the bushes really are."""

from __future__ import annotations

from nimble_cradle.bay.corners import powertrain_corners
from nimble_cradle.bay.position import pose_of
from nimble_cradle.calc import Worked
from nimble_cradle.families.solid_bush import LOCKED_IN
from nimble_cradle.job.base import JobError
from nimble_cradle.job.edits import with_value
from nimble_cradle.job.job import Job
from nimble_cradle.job.remember import remembered
from nimble_cradle.job.said import with_said
from nimble_cradle.judge.carried import Carried, carried
from nimble_cradle.judge.verdict import verdict
from nimble_cradle.mounts.captured import Captured, captured
from nimble_cradle.mounts.fit_up import FitUp, fit_up
from nimble_cradle.mounts.give import brackets_give
from nimble_cradle.mounts.locked import MISFIT, forced_stiffness
from nimble_cradle.mounts.push import Push
from nimble_cradle.mounts.rocked import Rocked, rocked
from nimble_cradle.mounts.shares import HARDER, RestShare, rest_shares
from nimble_cradle.mounts.trade_off import TradePoint, corner_movement, hardness_path, trade_off
from nimble_cradle.mounts.vibration import Idle


@remembered(
    "powertrain",
    "meshes",
    "position",
    "vehicle",
    "mounts",
    "loads",
    "items",
    "survey",
    "crossmember",
    "struts",
    "cradles",
    "openings",
)
def captures(job: Job) -> tuple[Captured, ...]:
    """Whether metal holds with each rubber gone in turn. Raises JobError."""
    found = carried(job)
    return captured(
        job.mounts,
        found.springs,
        found.centre,
        found.mass.mass_kg,
        pose_of(job.position),
        powertrain_corners(job),
    )


def pushed_at(job: Job, at: tuple[float, float, float]) -> tuple[float, float, float]:
    """A point of the engine, powertrain frame, where it stands in the vehicle frame."""
    x, y, z = (float(c) for c in pose_of(job.position).points(at))
    return x, y, z


def rocked_of(job: Job, push: Push) -> Rocked:
    """How stiff the bonded bushes of a job really are, by a push. Raises JobError."""
    found = carried(job)
    own = {mount.id for mount in job.mounts}
    couple = found.case("first-gear").case.moment
    others = [spring for spring in found.springs if spring.mount not in own]
    return rocked(job.mounts, brackets_give(job), others, found.centre, found.mass.mass_kg, push, couple)


def with_rocked(job: Job, found: Rocked) -> Job:
    """The job with the bonded bushes as stiff as a push showed, as figures that were measured. Raises
    JobError."""
    for key, pair in found.mounts.items():
        for name, value in zip(("stiffness_radial", "stiffness_axial"), pair, strict=True):
            job = with_value(job, f"mounts/{key}/bush/{name}", float(f"{value:.4g}"))
    return with_said(job, [f"mounts/{key}/bush/stiffness_radial" for key in found.mounts], "measured")


def trades_of(job: Job, mount_id: str) -> tuple[TradePoint, ...]:
    """Movement against shake over the hardness of one mount's bush. Raises JobError."""
    return trade_off(job, mount_id, _look)


def _look(trial: Job) -> tuple[float, Idle]:
    """How far the engine moves, and how it shakes."""
    found = carried(trial)
    return corner_movement(found.cases, powertrain_corners(trial), found.centre), found.idle


def trial_of(job: Job, mount_id: str, hardness: float) -> TradePoint:
    """One hardness tried. Raises JobError."""
    path = hardness_path(job, mount_id)
    if path is None:
        raise JobError("Its stiffness does not come from a hardness.", f"mounts/{mount_id}/bush")
    moved, idle = _look(with_value(job, path, hardness))
    return TradePoint(hardness, moved, idle.nominal, idle.transmitted)


def trial_words(job: Job, mount_id: str, hardness: float) -> str:
    """What one hardness does to the rest of the job: the tightest gap and the hardest-used part."""
    path = hardness_path(job, mount_id)
    if path is None:
        return ""
    found = verdict(with_value(job, path, hardness))
    lines = []
    if found.gaps:
        gap = min(found.gaps, key=lambda g: g.margin)
        lines.append(f"Tightest: {gap.piece_name} to {gap.item_name}, {gap.margin:+.1f} mm of what it needs.")
    if found.hardest is not None:
        hard = found.hardest
        lines.append(f"Hardest used: {hard.part_name}, {hard.what}, {100 * hard.use:.0f} %.")
    return "\n".join(lines)


def rest_shares_of(job: Job, found: Carried) -> tuple[RestShare, ...]:
    """What each mount bears at rest, and how sure that is; none of three mounts or fewer, or where a softer
    bush would leave the engine free. found: the job's own."""
    try:
        return rest_shares(found.springs, [m.id for m in job.mounts], found.centre, found.case("weight"))
    except JobError:
        return ()


def locked_in_of(found: Carried, mount_id: str) -> Worked:
    """What the bolt of a mount locks in that is forced by MISFIT mm."""
    number = [spring.mount for spring in found.springs].index(mount_id)
    k = forced_stiffness(found.springs, number, found.centre)
    told = {"misfit": "common practice, no source", "stiffness": "mount, what it stands on, other mounts"}
    return LOCKED_IN.work(told, misfit=MISFIT, stiffness=k)


def rest_share_words(job: Job, rows: tuple[RestShare, ...]) -> str:
    """The same in a sentence; empty where there is nothing to say."""
    if not rows:
        return ""
    names = {mount.id: mount.name for mount in job.mounts}
    told = "; ".join(f"{names[r.mount]} {r.least:.0f} to {r.most:.0f} N" for r in rows)
    return (
        f"{len(rows)} mounts share the weight by how stiff they are. With one bush {100 * HARDER:.0f} %"
        f" harder or softer than said each bears of it: {told}."
    )


@remembered("mounts")
def bolts_by_hand(job: Job) -> FitUp | None:
    """Whether the bolts through the bushes go in by hand."""
    return fit_up(job)


def capture_words(job: Job, found: tuple[Captured, ...]) -> tuple[str, ...]:
    """In sentences, what is not captured first."""
    ground = job.vehicle.ground_z_mm
    out = []
    for row in sorted(found, key=lambda c: c.held):
        if not row.held:
            out.append(f"{row.name}: with its rubber gone nothing holds the engine; give it a metal stop.")
        elif row.lowest < ground:
            out.append(f"{row.name}: with its rubber gone the engine comes down on the road.")
        else:
            out.append(
                f"{row.name}: with its rubber gone the engine drops {row.dropped:.0f} mm there and stands on"
                " metal."
            )
    return tuple(out)
