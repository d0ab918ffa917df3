"""From here to there: what every support must change by to bring the real engine to its place, in the
shims that are in the box; and the inverse."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import combinations_with_replacement

import numpy as np

from nimble_cradle.bay.position import move_words, pose_of, position_of
from nimble_cradle.geometry.pose import Array, Pose, angles_xyz
from nimble_cradle.job.base import JobError
from nimble_cradle.job.job import Job
from nimble_cradle.job.setting import Setting, Support
from nimble_cradle.units import Display, show

EQUAL = 0.05
"""Changes that differ by less, mm, are the same change."""
COLUMN = 25.0
"""A stack of washers over this, mm, is a column: a block or a made spacer takes its place (common
practice, no source)."""


def stack_question(job: Job, support: Support, stack_mm: float) -> str:
    """Why a stack under a support is a question, in a sentence; empty where it is none. Under a mount's
    bolt a stack higher than the bolt is thick is a column of its own, and a column is never made of
    washers."""
    if stack_mm <= 0 or support.kind not in ("mount", "blocks", "stand"):
        return ""
    bolts = [
        float(bolt.size[1:].partition("x")[0])
        for mount in job.mounts
        for bolt, _ in mount.pad.sorts
        if bolt.size.startswith("M")
    ]
    most = min([*bolts, COLUMN]) if support.kind == "mount" else COLUMN
    if stack_mm <= most + 1e-9 or (support.kind != "mount" and stack_mm in job.setting.plates_mm):
        return ""
    return (
        f"{support.name}: a stack of {stack_mm:g} mm is a column (over {most:g} mm): a made sleeve or a block"
        " takes its place."
    )


@dataclass(frozen=True)
class SupportChange:
    """What one support changes by. up: mm (negative: down); aside: (forward, left) mm of its place; stack:
    the pieces that the new stack is made of, thickest first (None: it cannot be made, or the support
    itself must go lower); off: how much the pieces miss the wanted stack by, mm.
    """

    support: Support
    up: float
    aside: tuple[float, float]
    stack: tuple[float, ...] | None
    off: float


@dataclass(frozen=True, eq=False)
class ShimPlan:
    """All supports' changes, and where the engine stands once the shims are in: its place (mm) and turn
    (deg) off the wanted position."""

    changes: tuple[SupportChange, ...]
    left_mm: Array
    left_deg: tuple[float, float, float]
    words: str
    questions: tuple[str, ...] = ()


def stack_of(total: float, pieces: Sequence[float], most: int) -> tuple[tuple[float, ...], float]:
    """The stack of at most ``most`` pieces (sizes mm, any number of each) nearest to ``total`` mm, the
    fewest pieces where two are alike; and by how much it is thicker."""
    best: tuple[float, ...] = ()
    for n in range(1, most + 1):
        for stack in combinations_with_replacement(sorted(set(pieces), reverse=True), n):
            if abs(sum(stack) - total) < abs(sum(best) - total) - 1e-9:
                best = stack
    return best, sum(best) - total


def heights(supports: Sequence[Support], pose: Pose) -> Array:
    """Places (n, 3) of the supports in the vehicle frame with the powertrain at ``pose``."""
    return pose.points(np.array([support.at for support in supports]))


def from_changes(
    supports: Sequence[Support], start: Pose, ups: Array, tol: float = 1e-7
) -> tuple[Pose, float]:
    """Where the powertrain goes when each support rises by ``ups`` (n,) mm: its pose, and the most that the
    supports disagree by, mm.

    The middle of the supports stays in plan; with more than three, or with some in a line, the least
    squares answer with the least turn.
    """
    at = heights(supports, start)
    wanted = at[:, 2] + ups
    middle = at.mean(0)
    pose = start
    for _ in range(30):
        here = heights(supports, pose)
        off = wanted - here[:, 2]
        arm = here - here.mean(0)
        jacobian = np.column_stack([np.ones(len(here)), arm[:, 1] / 400, -arm[:, 0] / 400])
        step = np.linalg.lstsq(jacobian, off, rcond=1e-6)[0]
        centre = here.mean(0)
        pose = pose.moved((0.0, 0.0, step[0]), (step[1] / 400, step[2] / 400, 0.0), centre)
        drift = heights(supports, pose).mean(0) - middle
        pose = Pose(pose.rotation, pose.translation - np.array([drift[0], drift[1], 0.0]))
        if np.abs(step).max() < tol:
            break
    return pose, float(np.abs(wanted - heights(supports, pose)[:, 2]).max())


def plan_of(job: Job) -> ShimPlan:
    """How the real engine comes from where it is to the job's position. Raises JobError where something is
    not said yet."""
    setting, start, wanted = _said(job)
    before, after = heights(setting.supports, start), heights(setting.supports, wanted)
    sizes = (*setting.washers_mm, *setting.plates_mm)
    changes, ups = [], []
    for support, a, b in zip(setting.supports, before, after, strict=True):
        up = float(b[2] - a[2])
        total = support.stack_mm + up
        stack, off = stack_of(total, sizes, setting.most_pieces) if total > -EQUAL and sizes else (None, 0.0)
        shimmed = support.kind in ("mount", "blocks", "stand")
        changes.append(
            SupportChange(
                support,
                up,
                (float(b[0] - a[0]), float(b[1] - a[1])),
                stack if shimmed else None,
                off if shimmed and stack is not None else 0.0,
            )
        )
        ups.append(up + changes[-1].off)
    reached, _ = from_changes(setting.supports, start, np.array(ups))
    shift = after.mean(0) - heights(setting.supports, reached).mean(0)
    reached = Pose(reached.rotation, reached.translation + np.array([shift[0], shift[1], 0.0]))
    centre = after.mean(0)
    turn = reached.rotation @ wanted.rotation.T
    roll, pitch, yaw = angles_xyz(turn)
    inner = wanted.inverse().points(centre)
    return ShimPlan(
        tuple(changes),
        reached.points(inner) - centre,
        (roll, -pitch, yaw),
        plan_words(changes, job.show.display),
        tuple(
            q
            for change in changes
            if (q := stack_question(job, change.support, sum(change.stack or (change.support.stack_mm,))))
            != ""
        ),
    )


def _said(job: Job) -> tuple[Setting, Pose, Pose]:
    setting = job.setting
    if len(setting.supports) < 3:
        raise JobError("Say at least three places that hold the engine up.", "setting/supports")
    if setting.now is None:
        raise JobError(
            "Say where the real engine is now: type it, or let the witness marks tell.", "setting/now"
        )
    at = np.array([support.at for support in setting.supports])
    flat = at[:, :2] - at[:, :2].mean(0)
    if np.linalg.svd(flat, compute_uv=False)[1] < 20.0:
        raise JobError(
            "The supports stand in one line: the engine would tip about it. Add one beside the line.",
            "setting/supports",
        )
    return setting, pose_of(setting.now), pose_of(job.position)


def plan_words(changes: Sequence[SupportChange], display: Display) -> str:
    """The change in a sentence; one change at all supports reads as one."""
    lengths = Display(display.length)
    ups, sides = np.array([change.up for change in changes]), np.array([change.aside for change in changes])
    level = float(np.ptp(ups)) < 2 * EQUAL
    straight = float(np.ptp(sides, axis=0).max()) < 2 * EQUAL
    said = []
    if level and abs(ups.mean()) >= EQUAL:
        said.append(
            f"{'Raise' if ups.mean() > 0 else 'Lower'} every support by"
            f" {show(abs(float(ups.mean())), 'length', lengths)}"
        )
    elif not level:
        said.append("Change each support by itself, as listed: raising one tilts the rest")
    if straight and np.abs(sides.mean(0)).max() >= EQUAL:
        said.append(f"{'shift' if said else 'Shift'} it {move_words((*sides.mean(0), 0.0), lengths)}")
    elif not straight:
        said.append(
            "then turn it in plan, each support as listed"
            if said
            else "Turn it in plan, each support as listed"
        )
    return ("; ".join(said) or "It stands where it should") + "."


def with_changes(job: Job, ups: Sequence[float]) -> tuple[Job, float]:
    """The inverse: the job with its real engine where these changes (mm, one a support) put it, and by how
    much the supports disagree, mm. Raises JobError."""
    setting, start, _ = _said(job)
    pose, disagreement = from_changes(setting.supports, start, np.asarray(ups, dtype=float))
    raised = tuple(
        support.model_copy(update={"stack_mm": max(support.stack_mm + float(u), 0.0)})
        for support, u in zip(setting.supports, ups, strict=True)
    )
    there = setting.model_copy(update={"now": position_of(pose, job.position.pivot), "supports": raised})
    return job.model_copy(update={"setting": there}), disagreement


def first_supports(job: Job) -> tuple[Support, ...]:
    """Supports to begin from: one at every mount, else two at the block and one under the gearbox."""
    pose = pose_of(job.position)
    if len(job.mounts) >= 3:
        rows = [
            (mount.id, mount.name, pose.inverse().points(np.asarray(mount.bush.centre)))
            for mount in job.mounts
        ]
    else:
        x, y, z = job.powertrain.gearbox.output
        rows = [
            ("left", "Left of the block", np.array([200.0, 160.0, -60.0])),
            ("right", "Right of the block", np.array([200.0, -160.0, -60.0])),
            ("gearbox", "Under the gearbox", np.array([x + 60.0, y, z - 70.0])),
        ]
    return tuple(
        Support(
            id=key,
            name=name,
            kind="mount",
            at=(round(float(p[0]), 1), round(float(p[1]), 1), round(float(p[2]), 1)),
        )
        for key, name, p in rows
    )
