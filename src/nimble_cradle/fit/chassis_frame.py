"""The chassis as a frame of its rails and members: how stiff it is against twist and bending, as it was, cut,
and put back. Vehicle frame; mm, N, N mm."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache
from itertools import product

import numpy as np

from nimble_cradle.fit.frame_parts import (
    SAME_PLACE,
    Bar,
    Figures,
    Metal,
    Rail,
    When,
    Whole,
    bars_of,
    metal_of,
    put_together,
    solved_under,
    sorted_members,
)
from nimble_cradle.fit.opened_member import OpenedMember, opened_members
from nimble_cradle.geometry.pose import Array
from nimble_cradle.job.base import JobError
from nimble_cradle.job.job import Job
from nimble_cradle.job.remember import remembered
from nimble_cradle.strength import frame
from nimble_cradle.strength.section import thin_walled, walls_of

WHENS: tuple[When, ...] = ("was", "cut", "mended")
JOINTS = (math.inf, 200e6, 50e6)
"""Turning stiffness of the joints of members to rails, N mm/rad: as if all of one piece, welded, bolted
(common practice, no source). The truth lies somewhere in it, so shares are told as a band over them."""
MORE = (40.0, 3.0)
"""A square tube, outside and wall mm, that is tried as one more member."""
MORE_YIELD = 235.0
"""Its yield strength, MPa: S235 (EN 10025-2, from memory)."""
STEP = 100.0
"""One more member is tried every so many mm."""


@dataclass(frozen=True)
class Band:
    """A share, least and most, over the joints' give and over how the members' ends warp."""

    low: float
    high: float


@dataclass(frozen=True, eq=False)
class FrameShares:
    """The whole frame's twist and bending stiffness as shares of what it was, cut and put back. members:
    what is in it, by name; left_out: what is not, and why, in sentences; one_more: (station x mm, share of
    the twist that a tube across there would leave, put back)."""

    twist: Mapping[When, Band]
    bending: Mapping[When, Band]
    members: tuple[str, ...]
    left_out: tuple[str, ...]
    one_more: tuple[tuple[float, float], ...]


@remembered("openings", "items", "survey", "meshes", "crossmember", "panels")
def frame_shares(job: Job) -> FrameShares:
    """Twist and bending of the whole frame. Raises JobError where there are not two rails of known
    section."""
    rails, across, left_out = sorted_members(job)
    found = {}
    for k, opened in enumerate(opened_members(job)):
        if isinstance(opened, JobError):
            left_out.append(opened.message)
        else:
            found[k] = opened
    cuts = tuple(found.values())
    twist: dict[When, list[float]] = {when: [] for when in WHENS}
    bending: dict[When, list[float]] = {when: [] for when in WHENS}
    for joint in JOINTS:
        base = stiffness(rails, across, cuts, "was", joint, False)
        for when, held in product(WHENS, (False, True)):
            stiff = base if when == "was" else stiffness(rails, across, cuts, when, joint, held)
            twist[when].append(stiff[0] / base[0])
            bending[when].append(stiff[1] / base[1])
    return FrameShares(
        {when: Band(min(v), max(v)) for when, v in twist.items()},
        {when: Band(min(v), max(v)) for when, v in bending.items()},
        tuple(bar.name for bar in bars_of(rails, across)),
        tuple(left_out),
        _one_more(rails, across, cuts),
    )


def stiffness(
    rails: Sequence[Rail],
    across: Sequence[Bar],
    cuts: Sequence[OpenedMember],
    when: When,
    joint: float,
    held: bool,
) -> tuple[float, float]:
    """Twist N mm/rad and bending N/mm of the frame. Twist: the rear ends and the front right one rest, the
    front left one is pushed up. Bending: both ends of both rails rest, both are pushed down in the middle."""
    whole = put_together(rails, across, cuts, when, joint, held)
    return _twist(whole), _bending(whole)


def _twist(whole: Whole) -> float:
    solved, wide = _twisted(whole)
    return 1000.0 * wide**2 / float(solved.moved[0, whole.front[0], 2])


def _twisted(whole: Whole) -> tuple[frame.Solved, float]:
    """The frame under 1,000 N up at its front left end, and how wide it is there, mm."""
    front, rear = whole.front, whole.rear
    held = np.zeros((len(whole.places), 6), dtype=bool)
    held[rear[0], :3] = True
    held[rear[1], [0, 2]] = True
    held[front[1], 2] = True
    load = np.zeros((1, len(whole.places), 6))
    load[0, front[0], 2] = 1000.0
    wide = abs(float(whole.places[front[0], 1] - whole.places[front[1], 1]))
    return solved_under(whole, held, load), wide


def _bending(whole: Whole) -> float:
    held = np.zeros((len(whole.places), 6), dtype=bool)
    held[whole.rear[0], :3] = True
    held[whole.rear[1], [0, 2]] = True
    held[whole.front, 2] = True
    load = np.zeros((1, len(whole.places), 6))
    load[0, whole.middle, 2] = -500.0
    moved = solved_under(whole, held, load).moved[0, whole.middle, 2]
    return 1000.0 / -float(moved.mean())


@dataclass(frozen=True, eq=False)
class Braced:
    """A frame with its cuts open and one more member across. share: of the twist that there was; without: the
    same without it. axial N, bending N mm: the most in it for each N mm of twist."""

    share: float
    without: float
    axial: float
    bending: float


def braced(job: Job, station: float, figures: Figures, height: float = 0.0) -> Braced:
    """The frame with its cuts open and a member of these figures from rail to rail at a station x,
    ``height`` mm over the rails' middles, its joints welded. Raises JobError."""
    rails, across, _ = sorted_members(job)
    cuts = tuple(c for c in opened_members(job) if not isinstance(c, JobError))
    up = np.array([0.0, 0.0, 1.0])
    line = np.array([_at_station(rail, station) + height * up for rail in rails])
    bar = Bar("brace", "", line, up, figures)
    base = _twist(put_together(rails, across, cuts, "was", JOINTS[1], False))
    without = _twist(put_together(rails, across, cuts, "cut", JOINTS[1], False))
    whole = put_together(rails, [*across, bar], cuts, "cut", JOINTS[1], False)
    k = next(
        n
        for n, beam in enumerate(whole.beams)
        if np.allclose(whole.places[[beam.start, beam.end]], line, atol=SAME_PLACE)
    )
    solved, wide = _twisted(whole)
    ends = solved.ends[0, k] / (1000.0 * wide)
    bent = float(np.hypot(ends[:, 4], ends[:, 5]).max())
    return Braced(_twist(whole) / base, without / base, float(np.abs(ends[:, 0]).max()), bent)


def _at_station(rail: Rail, x: float) -> Array:
    bar, t = rail.at_station(x)
    return bar.place(t)


def _one_more(
    rails: Sequence[Rail], across: Sequence[Bar], cuts: Sequence[OpenedMember]
) -> tuple[tuple[float, float], ...]:
    """What a square tube across at each station would leave of the twist that there was, all else put
    back."""
    base = _twist(put_together(rails, across, cuts, "was", JOINTS[1], False))
    out = []
    for x in stations_across(rails):
        whole = put_together(rails, [*across, more_across(rails, x)], cuts, "mended", JOINTS[1], False)
        out.append((x, _twist(whole) / base))
    return tuple(out)


def stations_across(rails: Sequence[Rail]) -> tuple[float, ...]:
    """Where one more member is tried, x mm, from the rear."""
    low, high = max(rail.rear for rail in rails), min(rail.front for rail in rails)
    return tuple(float(x) for x in np.arange(math.ceil(low / STEP) * STEP, high + 1e-6, STEP))


def more_across(rails: Sequence[Rail], x: float) -> Bar:
    """One more square tube from rail to rail at a station."""
    ends = np.array([_at_station(rail, x) for rail in rails])
    # no item's id has a space
    return Bar("one more", "one more", ends, np.array([0.0, 0.0, 1.0]), *_more())


@lru_cache(maxsize=1)
def _more() -> tuple[Figures, Metal]:
    outside, wall = MORE
    walls = walls_of("box", outside, outside, wall)
    s = thin_walled(walls)
    return (s.area, s.i_y, s.i_z, s.torsion), metal_of(s, walls, MORE_YIELD)
