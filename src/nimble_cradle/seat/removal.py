"""Removal: whether the powertrain can be lifted or lowered out past the fixed halves of its mounts and
everything that stays."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from typing import NamedTuple

import numpy as np

from nimble_cradle.bay.bodies import fitted_pieces, solid_of, standing_items
from nimble_cradle.bay.position import move_words, pose_of, turn_words
from nimble_cradle.families.family import bush_family
from nimble_cradle.families.part import Owner
from nimble_cradle.geometry.bodies import Bodies
from nimble_cradle.geometry.distance import clearance
from nimble_cradle.geometry.pose import Pose, angles_xyz
from nimble_cradle.geometry.solids import SolidPart, placed_part
from nimble_cradle.job.base import JobError
from nimble_cradle.job.job import Job
from nimble_cradle.job.mounts import Mount
from nimble_cradle.job.powertrain import Piece
from nimble_cradle.made.parts import made, made_mounts
from nimble_cradle.motion.way_out import LOOKS, Moment, WayOutSearch, WayOutTask, film, way_out
from nimble_cradle.units import Display, show
from nimble_cradle.workers import quiet, side_by_side

AIR = 2.0
"""Air kept on the way, mm, where there is so much at the start."""
ATTEMPTS = 8
"""So many attempts are a search: some twenty seconds on two calm cores."""
OFF_SHAFT = 140.0
"""How far an engine comes forward before it is off the gearbox's shaft, mm (common practice, no source)."""


@dataclass(frozen=True, eq=False)
class Removal:
    """What was found. moments: the film, or none; names: of moving and fixed bodies; before: what comes
    out first, in words; first: what is in the way where no way was found, the most frequent first; helps:
    an item whose going would open a way; next_seed: where to look on."""

    job: Job
    task: WayOutTask
    search: WayOutSearch
    moments: tuple[Moment, ...]
    names: tuple[tuple[str, ...], tuple[str, ...]]
    before: tuple[str, ...]
    first: tuple[str, ...]
    helps: str = ""
    next_seed: int = 0

    @property
    def tightest(self) -> Moment | None:
        """The moment with the least air."""
        return min(self.moments, key=lambda m: m.gap, default=None)

    def pair_words(self, pair: tuple[int, int] | None) -> str:
        """Both names of a pair."""
        return "" if pair is None else f"{self.names[0][pair[0]]} – {self.names[1][pair[1]]}"

    def words(self, display: Display) -> str:
        """What was found, in sentences."""
        lengths = Display(display.length)
        if not self.moments:
            said = (
                f"No way out found yet, in {self.search.checks:,} places looked at; that is no proof that"
                " there is none."
            )
            if self.first:
                said += f" In the way first: {'; '.join(self.first[:3])}."
            return said + (f" With {self.helps} off it comes out." if self.helps else "")
        t = self.tightest
        assert t is not None
        start = self.moments[0].pose
        turn = t.pose.rotation @ start.rotation.T
        roll, pitch, yaw = angles_xyz(turn)
        where = move_words(t.pose.points(self.task.about) - start.points(self.task.about), lengths, 0)
        how = turn_words(roll, -pitch, yaw, 0)
        place = (
            "at the very start"
            if t.at < 0.005
            else f"{100 * t.at:.0f} % of the way, {where}"
            + ("" if how == "level and straight" else f", {how}")
        )
        return (
            f"It comes out. Tightest moment {show(t.gap, 'length', lengths)}:"
            f" {self.pair_words(t.pair)}, {place}."
        )


def _is_gearbox(job: Job, piece: Piece) -> bool:
    """Whether a piece is behind the block's rear face as a whole."""
    centres = np.vstack([p.triangles[0] for p in solid_of(piece, job.meshes, "powertrain/pieces")])
    return bool(centres[:, 0].max() < 20.0)


@dataclass(frozen=True, eq=False)
class _Sets:
    """What moves out and what stays. names: of moving and of fixed bodies; ids: of the item behind each
    fixed body, empty if it is not an item. others: number of fixed bodies that do not belong to the
    powertrain. staying: True if part of the powertrain stays behind."""

    moving: list[list[SolidPart]]
    fixed: list[list[SolidPart]]
    names: list[str]
    fixed_names: list[str]
    fixed_ids: list[str]
    others: int
    staying: bool


def _sets(job: Job, off: tuple[str, ...], pose: Pose) -> _Sets:
    """What moves out and what stays in the bay. Raises JobError."""
    plan = job.way_out
    pieces = [p for p in fitted_pieces(job) if p.id not in off]
    staying = [p for p in pieces if plan.engine_alone and _is_gearbox(job, p)]
    going = [p for p in pieces if p not in staying]
    if not going:
        raise JobError("Nothing is left to be taken out.", "powertrain/pieces")
    out = _Sets(
        [list(solid_of(p, job.meshes, "powertrain/pieces")) for p in going],
        [],
        [p.name for p in going],
        [],
        [],
        0,
        bool(staying),
    )
    for mount in job.mounts:
        if not (plan.engine_alone and mount.carries == "gearbox"):
            _add_mount(job, out, mount, pose, plan.arms_off)
    for item in standing_items(job):
        if item.id not in off:
            _add_fixed(out, list(solid_of(item, job.meshes, "items")), item.name, item.id)
    _add_frames(job, out, pose)
    others = len(out.fixed)
    for piece in staying:
        _add_fixed(
            out,
            [placed_part(p, pose) for p in solid_of(piece, job.meshes, "powertrain/pieces")],
            piece.name,
            "",
        )
    return replace(out, others=others)


def _add_fixed(sets: _Sets, parts: list[SolidPart], name: str, item: str) -> None:
    sets.fixed.append(parts)
    sets.fixed_names.append(name)
    sets.fixed_ids.append(item)


def _add_mount(job: Job, sets: _Sets, mount: Mount, pose: Pose, arms_off: bool) -> None:
    """Add a mount: its arm goes out with the engine unless it comes off before, its fixed half stays. A
    stand-in for a fixed half that overlaps a piece of the engine cannot be right, and is left out."""
    every = made_mounts(job)
    owner = Owner("mount", mount.id)
    if owner in every.faults:
        return
    parts = every.of(owner)
    if not arms_off:
        sets.moving.append([s for part in parts if part.moves for s in part.solids])
        sets.names.append(f"{mount.name}, arm and eye")
    for part in parts:
        if part.moves or not part.solids or part.role == "sleeve" or _goes_down(job, mount):
            continue
        if part.stands_in:
            if mount.carries != "engine":
                continue
            if clearance(Bodies(sets.moving), pose, Bodies([part.solids]), 5.0)[0] <= 1.0:
                continue
        _add_fixed(sets, list(part.solids), part.name, "")


def _add_frames(job: Job, sets: _Sets, pose: Pose) -> None:
    """Cradles stay when the engine is lifted out, and go down with it and their mounts' fixed halves; the
    crossmember is slid out before, unless the gearbox stays on it."""
    every, down = made(job), job.way_out.route == "down"
    if job.crossmember is not None and job.way_out.engine_alone:
        for part in every.of(Owner("crossmember")):
            _add_fixed(sets, list(part.solids), part.name, "")
    for cradle in job.cradles:
        parts = [part for part in every.of(Owner("cradle", cradle.id)) if part.solids]
        if not down:
            for part in parts:
                _add_fixed(sets, list(part.solids), part.name, "")
            continue
        back = pose.inverse()
        for mount in job.mounts:
            if mount.foot is not None and mount.foot.host == cradle.id:
                rows = every.of(Owner("mount", mount.id))
                parts += [part for part in rows if part.solids and not part.moves and not part.stands_in]
        sets.moving.append([placed_part(s, back) for part in parts for s in part.solids])
        sets.names.append(f"{cradle.name}, with what stands on it")


def _goes_down(job: Job, mount: Mount) -> bool:
    """Whether a mount's fixed half goes down with the cradle that it stands on."""
    return (
        job.way_out.route == "down"
        and mount.foot is not None
        and any(cradle.id == mount.foot.host for cradle in job.cradles)
    )


def _off_its_shaft(sets: _Sets, a: Bodies, pose: Pose) -> Pose:
    """Pose of an engine alone once it is off the gearbox's shaft, straight along the crank; the two halves
    of the bell may touch meanwhile. Raises JobError where something is in the way."""
    others = Bodies(sets.fixed[: sets.others])
    for t in np.arange(5.0, OFF_SHAFT, 5.0):
        d, stop = clearance(a, Pose(pose.rotation, pose.translation + t * pose.rotation[:, 0]), others, 5.0)
        if d <= 0 and stop is not None:
            raise JobError(
                f"The engine does not slide forward off the gearbox's shaft: {sets.names[stop.a]} –"
                f" {sets.fixed_names[stop.b]} is in the way.",
                "way_out",
            )
    return Pose(pose.rotation, pose.translation + OFF_SHAFT * pose.rotation[:, 0])


class _Task(NamedTuple):
    """The job's way out. names: of moving and of fixed bodies; ids: of the items behind the fixed ones."""

    task: WayOutTask
    names: tuple[tuple[str, ...], tuple[str, ...]]
    ids: tuple[str, ...]


def task_of(job: Job, off: tuple[str, ...] | None = None) -> _Task:
    """The job's way out as a task. off: what comes off before, the job's own if None. Raises JobError."""
    pose = pose_of(job.position)
    sets = _sets(job, job.way_out.off if off is None else off, pose)
    a, b = Bodies(sets.moving), Bodies(sets.fixed)
    start = _off_its_shaft(sets, a, pose) if sets.staying else pose
    low, high = a.boxes(pose)[0] - a.boxes(pose)[1], a.boxes(pose)[0] + a.boxes(pose)[1]
    low, high = low.min(0), high.max(0)
    middle = (low + high) / 2
    cb, hb = b.boxes(Pose.still())
    near = (np.abs(cb - middle)[:, :2] - hb[:, :2] < (high - low)[:2] / 2 + 250).all(1)
    middle = middle + (start.translation - pose.translation)
    up = job.way_out.route == "up"
    lift = (
        float((cb + hb)[near, 2].max(initial=low[2]) - low[2] + 40.0)
        if up
        else -float(high[2] - (cb - hb)[near, 2].min(initial=high[2]) + 40.0)
    )
    about = start.inverse().points(middle)
    corners = np.vstack([p.triangles[0] for body in sets.moving for p in body])
    level = start.moved((0.0, 0.0, lift), (0.0, 0.0, 0.0), middle)
    ends = sorted((0.0, lift))
    box_low, box_high = (
        middle + np.array([-250.0, -90.0, ends[0] - 40.0]),
        middle + np.array([1100.0, 90.0, ends[1] + 20.0]),
    )
    task = WayOutTask(
        a,
        b,
        start,
        level,
        about,
        float(np.linalg.norm(corners - about, axis=1).max()),
        AIR,
        np.concatenate([box_low, [-10.0, -25.0, -20.0]]),
        np.concatenate([box_high, [10.0, 48.0, 20.0]]),
    )
    return _Task(task, (tuple(sets.names), tuple(sets.fixed_names)), tuple(sets.fixed_ids))


def _guides(task: WayOutTask, up: bool) -> list[Pose]:
    """Poses that a fabricator would try: straight, nose up and forward, then up; or the other way round
    going down."""
    out = []
    start = task.start.points(task.about)
    height = float(task.goal.points(task.about)[2] - start[2])
    for forward, share, pitch in (
        (0, 0.05, 0),
        (60, 0.15, 0),
        (150, 0.05, 4),
        (300, 0.12, 12),
        (450, 0.2, 20),
        (600, 0.4, 30),
        (750, 0.7, 30),
        (800, 1.0, 10),
        (0, 0.6, 0),
    ):
        turn = np.radians(-pitch if up else pitch)
        out.append(task.start.moved((float(forward), 0.0, share * height), (0.0, turn, 0.0), start))
    return out


@dataclass(frozen=True, eq=False)
class _Attempt:
    """What every attempt has in common. off: ids of what is taken off; air: to be kept, mm; looks: at
    distances, at most."""

    job: Job
    off: tuple[str, ...]
    air: float
    looks: int


def _sought(plan: _Attempt, row: tuple[int, tuple[str, ...]], say: Callable[[str], None]) -> WayOutSearch:
    """One attempt at a way with a seed and some more things off."""
    seed, more = row
    task = _with_air(task_of(plan.job, (*plan.off, *more))[0], plan.air)
    return way_out(task, seed, plan.looks, told=say, guides=_guides(task, plan.job.way_out.route == "up"))


def _first_found(
    plan: _Attempt, rows: Sequence[tuple[int, tuple[str, ...]]], say: Callable[[str], None], words: str
) -> tuple[int, WayOutSearch]:
    """The first of some attempts, in their order, that finds a way, and its number; or -1 and what all of
    them learned. They run side by side; one that ends early waits for those before it, so the answer does
    not depend on the load of the machine or its number of cores."""
    done: dict[int, WayOutSearch] = {}
    for k, found in side_by_side(_sought, plan, rows, say, lambda _: words):
        done[k] = found
        first = min((n for n, f in done.items() if f.path), default=None)
        if first is not None and all(n in done for n in range(first)):
            return first, done[first]
    together = WayOutSearch()
    for _, found in sorted(done.items()):
        together.checks += found.checks
        together.blocked += found.blocked
    return -1, together


def find_removal(
    job: Job,
    say: Callable[[str], None] = quiet,
    seed: int = 0,
    attempts: int = ATTEMPTS,
    looks: int = LOOKS,
    try_without: bool = True,
) -> Removal:
    """Look for the way out. attempts: at most, from seeds that follow one another; looks: at distances in
    each. The same job, seed and numbers give the same answer on every machine. Raises JobError; ``say`` may
    raise to stop it."""
    task, names, ids = task_of(job)
    at_start, near = clearance(task.moving, task.start, task.fixed, 20.0)
    before = _before(job)
    if at_start <= 0.05:
        words = "" if near is None else f"{names[0][near.a]} – {names[1][near.b]}"
        return Removal(
            job, task, WayOutSearch(), (), names, before, (f"{words} (they touch where the engine stands)",)
        )
    task = _with_air(task, min(AIR, 0.6 * at_start))
    plan = _Attempt(job, job.way_out.off, task.air, looks)
    rows: list[tuple[int, tuple[str, ...]]] = [(seed + k, ()) for k in range(attempts)]
    _, found = _first_found(plan, rows, say, "Looking for a way out")
    if found.path:
        return Removal(job, task, found, tuple(film(task, found.path)), names, before, ())
    first = tuple(f"{names[0][a]} – {names[1][b]}" for (a, b), _ in found.blocked.most_common(3))
    blockers: Counter[str] = Counter()
    for (_, b), n in found.blocked.items():
        if ids[b]:
            blockers[ids[b]] += n
    likely = [key for key, _ in blockers.most_common(3)] if try_without else []
    helped, _ = _first_found(
        plan,
        [(seed, (key,)) for key in likely],
        say,
        "No way yet: trying what stands in the way off, one at a time",
    )
    helps = "" if helped < 0 else next(item.name for item in job.items if item.id == likely[helped])
    return Removal(job, task, found, (), names, before, first, helps, seed + attempts)


def _with_air(task: WayOutTask, air: float) -> WayOutTask:
    return replace(task, air=air)


def _before(job: Job) -> tuple[str, ...]:
    """What comes out before, in the order of the work."""
    plan = job.way_out
    said = ["Gearbox supported, engine held by the crane, nobody under either"]
    said += [f"{item.name} off" for item in job.items if item.id in plan.off] + [
        f"{piece.name} off" for piece in job.powertrain.present if piece.id in plan.off
    ]
    if job.powertrain.gearbox.kind == "transaxle":
        said.append("Half-shafts out of the transaxle")
    elif not plan.engine_alone:
        said.append("Propshaft off the output flange")
    if plan.engine_alone:
        said.append(
            "Bellhousing bolts out, the clutch slid off its shaft: the engine first goes straight forward"
        )
    for mount in job.mounts:
        if plan.engine_alone and mount.carries == "gearbox":
            continue
        if _goes_down(job, mount):
            continue
        hole = bush_family(mount.bush).bolt_hole_mm(mount.bush)
        said.append(
            f"{mount.name}: unbolted from the block and its bush, and taken out"
            if plan.arms_off
            else f"{mount.name}: the bolt through its bush, {hole:g} mm"
        )
    said += [f"{strut.name}: unbolted at both ends" for strut in job.struts]
    if job.way_out.route == "down":
        said += [
            f"{cradle.name}: unbolted from the car, it goes down with the engine" for cradle in job.cradles
        ]
    if job.crossmember is not None and not plan.engine_alone:
        said.append("Gearbox crossmember slid out")
    return tuple(said)
