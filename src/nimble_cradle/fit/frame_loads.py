"""What the mounts ask of the rails and members that they stand on, as beams of one frame. Vehicle frame; mm,
N, N mm."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from nimble_cradle.fit.chassis_frame import JOINTS
from nimble_cradle.fit.frame_parts import (
    Bar,
    Metal,
    Whole,
    ends_on_rails,
    put_together,
    share_along,
    sorted_members,
)
from nimble_cradle.fit.opened_member import opened_members
from nimble_cradle.geometry.pose import Array
from nimble_cradle.job.base import JobError
from nimble_cradle.job.foot import CROSSMEMBER
from nimble_cradle.job.job import Job
from nimble_cradle.job.remember import remembered
from nimble_cradle.strength import frame
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


def rests_of(job: Job, rails: Sequence[Bar]) -> tuple[float, float]:
    """Where the rails rest, front and rear: as said, else the front axle line, or as near to it as they come,
    and their rear ends. Raises JobError where that is one place."""
    front, rear = job.vehicle.rails_rest_front_mm, job.vehicle.rails_rest_rear_mm
    low = max(float(rail.line[:, 0].min()) for rail in rails)
    high = min(float(rail.line[:, 0].max()) for rail in rails)
    first = min(max(0.0 if front is None else front, low), high)
    last = min(max(low if rear is None else rear, low), high)
    if first - last < 1.0:
        raise JobError(
            "The rails rest in front and at the rear at one place; say where they do.",
            "vehicle/rails_rest_front_mm",
        )
    return first, last


@dataclass(frozen=True, eq=False)
class _Units:
    """The frame under one N or N mm at every place where a mount stands on it. placed: mounts' ids with where
    they are joined to it (3,); wholes: the frame for each give of its joints, with the ends' forces (mounts x
    6, beams, 2, 6) for each unit."""

    bars: Sequence[Bar]
    ties: Sequence[Sequence[float]]
    placed: Sequence[tuple[str, Array, Array]]
    wholes: Sequence[tuple[Whole, Array]]
    rests: tuple[float, float]
    left_out: tuple[str, ...]


@remembered("mounts", "items", "survey", "meshes", "crossmember", "openings", "vehicle")
def _units(job: Job) -> _Units:
    rails, across, left_out = sorted_members(job)
    cuts = tuple(c for c in opened_members(job) if not isinstance(c, JobError))
    bars = [*rails, *across]
    number = {bar.item or CROSSMEMBER: n for n, bar in enumerate(bars)}
    rests = rests_of(job, rails)
    also: dict[int, list[float]] = {
        side: [float((x - rail.line[0, 0]) / (rail.line[1, 0] - rail.line[0, 0])) for x in rests]
        for side, rail in enumerate(rails)
    }
    placed: list[tuple[str, Array, int, float]] = []
    for mount in job.mounts:
        n = None if mount.foot is None else number.get(mount.foot.host)
        if n is None:
            left_out.append(f"{mount.name} does not stand on a rail or member of the frame.")
            continue
        at = np.asarray(mount.bush.centre, dtype=float)
        t = share_along(at, bars[n].line)
        also.setdefault(n, []).append(t)
        placed.append((mount.id, at, n, t))
    if not placed:
        raise JobError("No mount stands on a rail or member of the frame yet.", "mounts")
    ties = [_ties(bar, rails, across, also[n][:2] if n < 2 else ()) for n, bar in enumerate(bars)]
    wholes, joined = [], []
    for joint in JOINTS:
        whole = put_together(rails, across, cuts, "mended", joint, False, also)
        nodes = [whole.at[n, t] for _, _, n, t in placed]
        at_rest = [[whole.at[side, also[side][k]] for side in (0, 1)] for k in (0, 1)]
        wholes.append((whole, _under_units(whole, nodes, at_rest)))
        joined = [whole.places[node] for node in nodes]
    return _Units(
        bars,
        ties,
        [(key, at, node) for (key, at, _, _), node in zip(placed, joined, strict=True)],
        wholes,
        rests,
        tuple(left_out),
    )


def frame_use(job: Job, forces: Mapping[str, Array]) -> FrameUse:
    """The frame, its cuts put back, under its mounts in every case; the worst over the give of its joints.
    forces: on the chassis at each mount's bush, by its id, (k, 3) N with their factors. Raises JobError
    where there is no frame, or no mount stands on it."""
    units = _units(job)
    load = np.concatenate(
        [part for key, at, node in units.placed for part in (forces[key], np.cross(at - node, forces[key]))],
        axis=1,
    )
    worst: dict[int, BarUse] = {}
    for whole, per_unit in units.wholes:
        ends = np.tensordot(load, per_unit, axes=1)
        for n, bar in enumerate(units.bars):
            found = _worst(whole, ends, bar, units.ties[n])
            if found is not None and (n not in worst or found.use > worst[n].use):
                worst[n] = found
    assumed = job.vehicle.rails_rest_front_mm is None or job.vehicle.rails_rest_rear_mm is None
    order = sorted(worst.values(), key=lambda row: -row.use)
    return FrameUse(tuple(order), units.left_out, units.rests, assumed)


def _ties(bar: Bar, rails: Sequence[Bar], across: Sequence[Bar], rests: Sequence[float]) -> list[float]:
    """Where a bar is joined to others or rests, 0 to 1."""
    out = [0.0, 1.0, *rests]
    for other in across:
        out += [
            share_along(other.line[k], bar.line) for k, rail in ends_on_rails(other, rails) if rail is bar
        ]
    return out


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
    return frame.solve_frame(whole.places, whole.beams, held, load).ends


def _worst(whole: Whole, ends: Array, bar: Bar, ties: Sequence[float]) -> BarUse | None:
    """Where one bar is used most, ends (k, beams, 2, 6); None of one that is judged elsewhere."""
    rows = [(k, of[1]) for k, of in enumerate(whole.of) if of is not None and of[0] is bar]
    if not rows or bar.metal is None:
        return None
    long = float(np.linalg.norm(bar.line[1] - bar.line[0]))
    twist = np.array([ends[:, k, 1, 3] for k, _ in rows])
    warped = bimoments(twist, [(row.start, row.end) for _, row in rows], ties, long)
    best: BarUse | None = None
    for (k, row), bi in zip(rows, warped, strict=True):
        metal = row.metal
        assert metal is not None
        for end in (0, 1):
            f = ends[:, k, end]
            given = (f[:, 0], f[:, 4], f[:, 5], f[:, 3], bi[:, end])
            along, shear = member_stresses(*given, **_sizes(metal))
            use = np.sqrt((along / metal.works) ** 2 + 3 * shear**2) / metal.yield_mpa
            case = int(use.argmax())
            if best is None or use[case] > best.use:
                names = ("axial", "bending_up", "bending_aside", "torsion", "bimoment")
                inputs = {name: float(v[case]) for name, v in zip(names, given, strict=True)}
                sizes = {**_sizes(metal), "works": metal.works, "yield_mpa": metal.yield_mpa}
                place = bar.line[0] + (row.start, row.end)[end] * (bar.line[1] - bar.line[0])
                best = BarUse(bar, float(use[case]), place, case, {**inputs, **sizes})
    return best


def _sizes(metal: Metal) -> dict[str, Any]:
    return {
        "area": metal.area,
        "w_up": metal.w_up,
        "w_aside": metal.w_aside,
        "torsion_constant": metal.torsion,
        "w_warp": metal.w_warp,
        "wall": metal.wall,
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
