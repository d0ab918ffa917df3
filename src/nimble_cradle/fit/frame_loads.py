"""What the mounts ask of the rails and members that they stand on, as beams of one frame. Vehicle frame; mm,
N, N mm."""

from __future__ import annotations

from collections.abc import Hashable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from nimble_cradle.families.strut_stand import on_chassis
from nimble_cradle.fit.chassis_frame import JOINTS, more_across, stations_across
from nimble_cradle.fit.frame_parts import (
    Bar,
    Metal,
    Rail,
    Stretch,
    Whole,
    bars_of,
    joined,
    put_together,
    share_along,
    solved_under,
    sorted_members,
)
from nimble_cradle.fit.opened_member import opened_members
from nimble_cradle.geometry.pose import Array, crosses
from nimble_cradle.job.base import JobError
from nimble_cradle.job.foot import CROSSMEMBER
from nimble_cradle.job.job import Job
from nimble_cradle.job.mounts import Mount
from nimble_cradle.job.remember import remembered
from nimble_cradle.strength.member_use import member_stresses

TIED = 6.0
"""A length of a bar that ends so near to where another is joined ends there, mm."""


@dataclass(frozen=True, eq=False)
class BarUse:
    """Where a bar of the frame is used most: share, the place (3,), in which case, and what acts there
    (inputs of the calculation)."""

    bar: Bar
    use: float
    place: Array
    case: int
    inputs: dict[str, float]


@dataclass(frozen=True, eq=False)
class FrameUse:
    """Every bar that is judged here, most used first; left_out: what is not in it, and why. rests: stations x
    mm at which both rails rest; assumed: nobody said so of one of them."""

    bars: tuple[BarUse, ...]
    left_out: tuple[str, ...]
    rests: tuple[float, float]
    assumed: bool


def rests_of(job: Job, rails: Sequence[Rail]) -> tuple[float, float]:
    """Where the rails rest, front and rear: as said, else the front axle line, or as near to it as they come,
    and their rear ends. Raises JobError where that is one place."""
    front, rear = job.vehicle.rails_rest_front_mm, job.vehicle.rails_rest_rear_mm
    low, high = max(rail.rear for rail in rails), min(rail.front for rail in rails)
    first = min(max(0.0 if front is None else front, low), high)
    last = min(max(low if rear is None else rear, low), high)
    if first - last < 1.0:
        raise JobError(
            "The rails rest in front and at the rear at one place; say where they do.",
            "vehicle/rails_rest_front_mm",
        )
    return first, last


@dataclass(frozen=True, eq=False)
class _Line:
    """Bars end to end, which warp as one: a rail, or a member by itself. ties: where it is joined to others
    or rests, 0 to 1 of its ``long`` mm."""

    bars: Sequence[Bar]
    ties: Sequence[float]
    long: float


@dataclass(frozen=True, eq=False)
class _Units:
    """The frame under one N or N mm at every place where a mount stands on it. placed: mounts' ids with where
    they are, where they are joined to it (3,), and on which bar; wholes: the frame for each give of its
    joints, with the ends' forces (mounts x 6, beams, 2, 6) for each unit."""

    lines: Sequence[_Line]
    placed: Sequence[tuple[str, Array, Array, Bar]]
    wholes: Sequence[tuple[Whole, Array]]
    rests: tuple[float, float]
    left_out: tuple[str, ...]


def _where(mount: Mount) -> Hashable:
    """What the frame knows of a mount."""
    return mount.id, mount.name, mount.bush.centre, None if mount.foot is None else mount.foot.host


def stands_of(job: Job) -> tuple[Mount, ...]:
    """All that loads the chassis: the mounts, and the struts whose brackets are described."""
    return (*job.mounts, *(on_chassis(strut) for strut in job.struts if strut.bracket is not None))


@remembered(
    *("mounts", "struts", "items", "survey", "meshes", "crossmember", "panels", "openings", "vehicle"),
    of_mount=_where,
)
def _units(job: Job) -> _Units:
    return _units_with(job, (), JOINTS)


def _units_with(job: Job, more: Sequence[Bar], joints: Sequence[float]) -> _Units:
    """The frame with more members across it than it has. Raises JobError."""
    rails, across, left_out = sorted_members(job)
    across = [*across, *more]
    cuts = tuple(c for c in opened_members(job) if not isinstance(c, JobError))
    bars = bars_of(rails, across)
    number = {bar.item or CROSSMEMBER: n for n, bar in enumerate(bars)}
    rests = rests_of(job, rails)
    also: dict[int, list[float]] = {}
    at_stations = [[rail.at_station(x) for rail in rails] for x in rests]
    rest_at = [
        [(next(n for n, b in enumerate(bars) if b is bar), t) for bar, t in row] for row in at_stations
    ]
    for n, t in (there for row in rest_at for there in row):
        also.setdefault(n, []).append(t)
    placed: list[tuple[str, Array, int, float]] = []
    for mount in stands_of(job):
        on = None if mount.foot is None else number.get(mount.foot.host)
        if on is None:
            left_out.append(f"{mount.name} does not stand on a rail or member of the frame.")
            continue
        at = np.asarray(mount.bush.centre, dtype=float)
        t = share_along(at, bars[on].line)
        also.setdefault(on, []).append(t)
        placed.append((mount.id, at, on, t))
    if not placed:
        raise JobError("No mount stands on a rail or member of the frame yet.", "mounts")
    landed = [(row.onto, row.other) for row in joined(rails, across)]
    held = [*(x for row in at_stations for x in row), *landed]
    lines = [_rail_line(rail, held) for rail in rails]
    lines += [_Line((bar,), (0.0, 1.0), bar.long) for bar in across]
    wholes, nodes_at = [], []
    for joint in joints:
        whole = put_together(rails, across, cuts, "mended", joint, False, also)
        nodes = [whole.at[n, t] for _, _, n, t in placed]
        at_rest = [[whole.at[there] for there in row] for row in rest_at]
        wholes.append((whole, _under_units(whole, nodes, at_rest)))
        nodes_at = [whole.places[node] for node in nodes]
    return _Units(
        lines,
        [(key, at, node, bars[on]) for (key, at, on, _), node in zip(placed, nodes_at, strict=True)],
        wholes,
        rests,
        tuple(left_out),
    )


def frame_use(job: Job, forces: Mapping[str, Array]) -> FrameUse:
    """The frame, its cuts put back, under its mounts in every case; the worst over the give of its joints.
    forces: on the chassis at each mount's bush, by its id, (k, 3) N with their factors. Raises JobError
    where there is no frame, or no mount stands on it."""
    units = _units(job)
    worst = _worst_of_all(units, forces)
    assumed = job.vehicle.rails_rest_front_mm is None or job.vehicle.rails_rest_rear_mm is None
    order = sorted(worst.values(), key=lambda row: -row.use)
    return FrameUse(tuple(order), units.left_out, units.rests, assumed)


@dataclass(frozen=True)
class MoreAt:
    """One more member across at a station x, mm: share used of the hardest-used bar besides it, and of the
    member itself."""

    station: float
    rest: float
    itself: float


@dataclass(frozen=True, eq=False)
class OneMore:
    """What one more member across would do. now: the share of the hardest-used bar without it, joints
    welded; places: with it at each station, from the rear."""

    now: float
    places: tuple[MoreAt, ...]


def one_more_under(job: Job, forces: Mapping[str, Array]) -> OneMore:
    """The rails and members under the mounts with one more tube across at each station. Raises JobError where
    there is no frame, or no mount stands on it."""

    def used(more: Sequence[Bar]) -> dict[int, float]:
        rows = _worst_of_all(_units_with(job, more, JOINTS[1:2]), forces)
        return {key: row.use for key, row in rows.items()}

    rails, _, _ = sorted_members(job)
    places = []
    for x in stations_across(rails):
        bar = more_across(rails, x)
        found = used((bar,))
        itself = found.pop(id(bar))
        places.append(MoreAt(x, max(found.values(), default=0.0), itself))
    return OneMore(max(used(()).values(), default=0.0), tuple(places))


def _worst_of_all(units: _Units, forces: Mapping[str, Array]) -> dict[int, BarUse]:
    """Where each bar is used most, by its identity; the worst over the give of the joints."""
    load = np.concatenate(
        [part for row in units.placed for part in on_frame(*row[1:], forces[row[0]])], axis=1
    )
    worst: dict[int, BarUse] = {}
    for whole, per_unit in units.wholes:
        ends = np.tensordot(load, per_unit, axes=1)
        for found in (found for line in units.lines for found in _worst(whole, ends, line)):
            n = id(found.bar)
            if n not in worst or found.use > worst[n].use:
                worst[n] = found
    return worst


def on_frame(at: Array, node: Array, bar: Bar, force: Array) -> tuple[Array, Array]:
    """Force (k, 3) N and moment (k, 3) N mm, about a node of a bar, of forces at a place: it is bent about
    its line and twisted about its shear centre."""
    along = bar.line[1] - bar.line[0]
    along = along / np.linalg.norm(along)
    moment = crosses(at - node, force)
    return force, moment - np.outer(crosses(np.broadcast_to(bar.off, force.shape), force) @ along, along)


def _rail_line(rail: Rail, held: Sequence[tuple[Bar, float]]) -> _Line:
    """A rail as it warps: free at its ends, held where members join it and where it rests (bar, 0 to 1)."""
    begins, at = {}, 0.0
    for bar in rail.bars:
        begins[id(bar)] = at
        at += bar.long
    ties = [(begins[id(bar)] + t * bar.long) / at for bar, t in held if id(bar) in begins]
    return _Line(rail.bars, (0.0, 1.0, *ties), at)


def _under_units(whole: Whole, nodes: Sequence[int], rests: Sequence[Sequence[int]]) -> Array:
    """(nodes x 6, beams, 2, 6) the beams' end forces for one N along and one N mm about each axis at each
    node. rests: nodes in front, which hold the frame sideways and up, and at the rear, which hold it every
    way."""
    held = np.zeros((len(whole.places), 6), dtype=bool)
    held[np.ix_(list(rests[0]), [1, 2])] = True
    held[np.ix_(list(rests[1]), [0, 1, 2])] = True
    load = np.zeros((6 * len(nodes), len(whole.places), 6))
    for k, node in enumerate(nodes):
        load[range(6 * k, 6 * k + 6), node, range(6)] = 1.0
    return solved_under(whole, held, load).ends


def _worst(whole: Whole, ends: Array, line: _Line) -> list[BarUse]:
    """Where each bar of a line is used most, ends (k, beams, 2, 6); nothing of one that is judged
    elsewhere."""
    rows, at = [], 0.0
    for bar in line.bars:
        own = [(k, of[1]) for k, of in enumerate(whole.of) if of is not None and of[0] is bar]
        rows += [(k, row, bar, at + row.start * bar.long, at + row.end * bar.long) for k, row in own]
        at += bar.long
    if not rows or any(bar.metal is None for bar in line.bars):
        return []
    twist = np.array([ends[:, k, 1, 3] for k, *_ in rows])
    spans = [(a / line.long, b / line.long) for *_, a, b in rows]
    warped = bimoments(twist, spans, line.ties, line.long)
    out = []
    for bar in line.bars:
        mine = [(n, k, row) for n, (k, row, of, *_) in enumerate(rows) if of is bar]
        hardest: tuple[float, int, int, Stretch, int] | None = None
        for metal in {id(row.metal): row.metal for *_, row in mine}.values():
            alike = [(n, k, row) for n, k, row in mine if row.metal is metal]
            f = ends[:, [k for _, k, _ in alike]]  # (cases, lengths, 2, 6)
            use = _uses(f, np.moveaxis(warped[[n for n, *_ in alike]], 0, 1), metal).max(0)
            at_, end = divmod(int(use.argmax()), 2)
            n, k, row = alike[at_]
            if hardest is None or use.max() > hardest[0]:
                hardest = float(use.max()), n, k, row, end
        if hardest is not None:
            _, n, k, row, end = hardest
            out.append(_at_end(ends[:, k, end], warped[n][:, end], bar, row, end))
    return out


def _uses(f: Array, bimoment: Array, metal: Metal | None) -> Array:
    """(...,) share used where f (..., 6) and a bimoment (...,) act."""
    assert metal is not None
    found = member_stresses(
        f[..., 0], f[..., 4], f[..., 5], f[..., 3], bimoment, f[..., 2], f[..., 1], **_sizes(metal)
    )
    return found.use(metal.works, metal.yield_mpa, metal.sheared)


def _at_end(f: Array, bimoment: Array, bar: Bar, row: Stretch, end: int) -> BarUse:
    """One end of a length of a bar, f (k, 6), in the case that uses it most."""
    metal = row.metal
    assert metal is not None
    loads: dict[str, Any] = {
        "axial": f[:, 0],
        "bending_up": f[:, 4],
        "bending_aside": f[:, 5],
        "torsion": f[:, 3],
        "bimoment": bimoment,
        "push_up": f[:, 2],
        "push_aside": f[:, 1],
    }
    use = _uses(f, bimoment, metal)
    case = int(use.argmax())
    inputs = {name: float(v[case]) for name, v in loads.items()}
    own = {"works": metal.works, "yield_mpa": metal.yield_mpa, "sheared": metal.sheared}
    sizes = {**_sizes(metal), **own}
    return BarUse(bar, float(use[case]), bar.place((row.start, row.end)[end]), case, {**inputs, **sizes})


def _sizes(metal: Metal) -> dict[str, Any]:
    return {
        "area": metal.area,
        "w_up": metal.w_up,
        "w_aside": metal.w_aside,
        "torsion_constant": metal.torsion,
        "w_warp": metal.w_warp,
        "wall": metal.wall,
        "web_up": metal.web_up,
        "web_aside": metal.web_aside,
    }


def bimoments(
    torsion: Array, spans: Sequence[tuple[float, float]], ties: Sequence[float], long: float
) -> Array:
    """(lengths, k, 2) N mm2 at both ends of each length of a bar whose torsion (lengths, k) is taken by
    warping alone: summed from the tie before it, or from the one after it, whichever is more, as if it were
    free to warp there and held at the other end (cautious). spans: of the lengths, 0 to 1; ties: likewise;
    long: of the bar, mm."""
    count = len(spans)
    tied = [any(abs(end - tie) * long < TIED for tie in ties) for _, end in spans]
    steps = torsion * (np.array([b - a for a, b in spans]) * long)[:, None]
    out = np.zeros((count, torsion.shape[1], 2))
    run = np.zeros(torsion.shape[1])
    for k in range(count):
        out[k, :, 0] = np.abs(run)
        run = run + steps[k]
        out[k, :, 1] = np.abs(run)
        run = np.zeros_like(run) if tied[k] else run
    run = np.zeros(torsion.shape[1])
    for k in reversed(range(count)):
        run = np.zeros_like(run) if tied[k] else run
        out[k, :, 1] = np.maximum(out[k, :, 1], np.abs(run))
        run = run + steps[k]
        out[k, :, 0] = np.maximum(out[k, :, 0], np.abs(run))
    return out
