"""The chassis as a frame of its rails and members: how stiff it is against twist and bending, as it was, cut,
and put back. Vehicle frame; mm, N, N mm."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import product
from typing import Any, Literal

import numpy as np

from nimble_cradle.bay.member import Member, members_of
from nimble_cradle.fit.opened_member import OpenedMember, State, opened_members, walls_of_member
from nimble_cradle.geometry.pose import Array
from nimble_cradle.job.base import JobError
from nimble_cradle.job.job import Job
from nimble_cradle.job.remember import remembered
from nimble_cradle.stock.tubes import properties
from nimble_cradle.strength import frame
from nimble_cradle.strength.section import thin_walled, walls_of

E_STEEL, G_STEEL = 210_000.0, 80_769.0
When = Literal["was", "cut", "mended"]
Figures = tuple[float, float, float, float]
"""Of a section: area mm2, second moment mm4 up and down, sideways, torsion constant mm4."""
WHENS: tuple[When, ...] = ("was", "cut", "mended")
JOINTS = (math.inf, 200e6, 50e6)
"""Turning stiffness of the joints of members to rails, N mm/rad: as if all of one piece, welded, bolted
(common practice, no source). The truth lies somewhere in it, so shares are told as a band over them."""
REACH = 220.0
"""An end of a member farther than so many mm from every rail's middle is in mid-air."""
LEAST_APART = 5.0
"""Places on a rail nearer than so many mm are one."""
LOST = 1e-6
"""What is left of a member that is in pieces, so that the sum can be done."""
STIFF = 100.0
"""So many times as stiff as a rail is what joins its middle to the end of a member."""
MORE = (40.0, 3.0)
"""A square tube, outside and wall mm, that is tried as one more member."""
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


@remembered("openings", "items", "survey", "meshes", "crossmember")
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
        tuple(p.name for p in (*rails, *across)),
        tuple(left_out),
        _one_more(rails, across, cuts),
    )


@dataclass(frozen=True, eq=False)
class Bar:
    """A rail or member of the frame: its line (2, 3), which way up is, its figures as it was, and the opened
    stretches are looked up by its item's id."""

    name: str
    item: str
    line: Array
    up: Array
    figures: Figures


def sorted_members(job: Job) -> tuple[list[Bar], list[Bar], list[str]]:
    """The two rails, left one first; what goes across between them; what is left out. Raises JobError."""
    members, faults = members_of(job)
    left_out = [error.message for error in faults.values()]
    bars: list[tuple[Member, Bar]] = []
    for member in members:
        try:
            section = thin_walled(walls_of_member(member))
        except (JobError, ValueError) as error:
            left_out.append(str(error))
            continue
        figures = section.area, section.i_y, section.i_z, section.torsion
        line = np.array([member.start, member.end])
        bars.append((member, Bar(member.item.name, member.item.id, line, member.up, figures)))
    along = [bar for m, bar in bars if abs(m.end[0] - m.start[0]) > abs(m.end[1] - m.start[1])]
    sides = [[b for b in along if s * b.line[:, 1].mean() > 0] for s in (1, -1)]
    if not all(sides):
        raise JobError(
            "The whole chassis waits for a left and a right rail whose sections are said.", "items"
        )
    rails = [max(side, key=lambda b: float(np.ptp(b.line[:, 0]))) for side in sides]
    across = [bar for _, bar in bars if bar not in along]
    left_out += [
        f"{bar.name} runs along beside a longer rail and is not in it." for bar in along if bar not in rails
    ]
    cross = job.crossmember
    if cross is not None:
        p = properties(cross.section)
        figures = p.area, p.i_lying, p.i_standing, p.torsion
        points = np.array(cross.points, dtype=float)
        up = np.array([0.0, 0.0, 1.0])
        across.append(Bar("Gearbox crossmember", "", points[[0, -1]], up, figures))
    tied = []
    for bar in across:
        away = [max(0.0, _distance(bar.line[k], rail.line)) for k, rail in _ends(bar, rails)]
        if max(away) > REACH:
            left_out.append(f"{bar.name} ends {max(away):.0f} mm from a rail, so it ties nothing.")
        else:
            tied.append(bar)
    if not tied:
        raise JobError(
            "The whole chassis waits for a member that ties both rails, its section said.", "items"
        )
    return rails, tied, left_out


def _ends(bar: Bar, rails: Sequence[Bar]) -> list[tuple[int, Bar]]:
    """Which end of a member goes to which rail: its left one to the left rail."""
    left = int(bar.line[1, 1] > bar.line[0, 1])
    return [(left, rails[0]), (1 - left, rails[1])]


def _on(point: Array, line: Array) -> float:
    """How far along a line (2, 3) the place nearest to a point is, 0 to 1."""
    run = line[1] - line[0]
    return float(np.clip((point - line[0]) @ run / (run @ run), 0.0, 1.0))


def _distance(point: Array, line: Array) -> float:
    t = _on(point, line)
    return float(np.linalg.norm(line[0] + t * (line[1] - line[0]) - point))


def _figures(state: State, held: bool) -> Figures | None:
    s = state.section
    return None if s is None else (s.area, s.i_y, s.i_z, state.held if held else s.torsion)


def _stretches(
    bar: Bar, stops: Sequence[float], cuts: Sequence[OpenedMember], when: When, held: bool
) -> list[tuple[float, float, Figures]]:
    """(from, to, figures) along a bar, 0 to 1, with its cuts as they are ``when``."""
    own = [c for c in cuts if c.opening.item == bar.item]
    long = float(np.linalg.norm(bar.line[1] - bar.line[0]))
    marks = {0.0, 1.0, *stops}
    spans = []
    for cut in own:
        a = cut.opening.at_mm / long
        b = min(a + cut.opening.long_mm / long, 1.0)
        spans.append((a, b, cut))
        marks |= {a, b}
    least = LEAST_APART / long
    kept: list[float] = []
    for mark in sorted(marks):
        if not kept or mark - kept[-1] > least:
            kept.append(mark)
    kept[-1] = 1.0
    out = []
    for a, b in zip(kept, kept[1:], strict=False):
        figures = bar.figures
        for low, high, cut in spans:
            if low - least < (a + b) / 2 < high + least and when != "was":
                state = cut.cut if when == "cut" else cut.at_last
                there = _figures(state, held)
                was = _figures(cut.before, held)
                assert was is not None
                # as a share of what it was, so that warping at the cut's ends counts on both sides alike
                share = (
                    (1e-6,) * 4 if there is None else tuple(t / w for t, w in zip(there, was, strict=True))
                )
                figures = tuple(f * s for f, s in zip(figures, share, strict=True))  # type: ignore[assignment]
        out.append((a, b, figures))
    return out


class _Frame:
    """Nodes and beams as they are put together; every place is one node."""

    def __init__(self, joint: float) -> None:
        self.joint = joint
        self.places: list[Array] = []
        self._known: dict[tuple[float, ...], int] = {}
        self.beams: list[frame.Member] = []

    def node(self, place: Array) -> int:
        """The number of the node at a place (3,)."""
        key = tuple(place.tolist())
        if key not in self._known:
            near = np.zeros(0, dtype=int)
            if self.places:
                near = np.nonzero(np.abs(np.array(self.places) - place).max(1) < 1e-6)[0]
            self._known[key] = int(near[0]) if len(near) else len(self.places)
            if not len(near):
                self.places.append(place)
        return self._known[key]

    def beam(self, a: Array, b: Array, up: Array, f: Figures, sprung: Sequence[int] = ()) -> None:
        """A beam between two places; its ends that are ``sprung`` turn in their joints."""
        joints = (
            ()
            if math.isinf(self.joint)
            else tuple((end, way, self.joint) for end in sprung for way in (3, 4, 5))
        )
        x, y, z = (float(c) for c in up)
        self.beams.append(frame.Member(self.node(a), self.node(b), *f, E_STEEL, G_STEEL, (x, y, z), joints))

    def rail(self, rail: Bar, stops: Sequence[float], *how: Any) -> dict[float, Array]:
        """Put in a rail; where its stops are, as they were joined to others near by."""
        run = rail.line[1] - rail.line[0]
        stretches = _stretches(rail, stops, *how)
        for a, b, figures in stretches:
            self.beam(rail.line[0] + a * run, rail.line[0] + b * run, rail.up, figures)
        ends = sorted({a for a, _, _ in stretches} | {1.0})
        return {t: rail.line[0] + min(ends, key=lambda e: abs(e - t)) * run for t in {0.0, 0.5, 1.0, *stops}}

    def across(self, bar: Bar, *how: Any) -> None:
        """Put in a member, its ends in their joints."""
        run = bar.line[1] - bar.line[0]
        stretches = _stretches(bar, (), *how)
        for n, (a, b, figures) in enumerate(stretches):
            sprung = [*([0] if n == 0 else []), *([1] if n == len(stretches) - 1 else [])]
            self.beam(bar.line[0] + a * run, bar.line[0] + b * run, bar.up, figures, sprung)

    def tie(self, a: Array, b: Array, rail: Bar) -> None:
        """Join a rail's middle stiffly to the end of a member that lies over, under or beside it."""
        if float(np.linalg.norm(a - b)) > 1e-6:
            i = STIFF * max(rail.figures[1:3])
            self.beam(a, b, np.array([0.0, 0.0, 1.0]), (STIFF * rail.figures[0], i, i, i))


@dataclass(frozen=True, eq=False)
class _Whole:
    """The frame put together: places (n, 3) of its nodes, beams, and the nodes of both rails, left first, at
    the front end, in the middle and at the rear end."""

    places: Array
    beams: Sequence[frame.Member]
    front: Sequence[int]
    middle: Sequence[int]
    rear: Sequence[int]


def _whole(
    rails: Sequence[Bar],
    across: Sequence[Bar],
    cuts: Sequence[OpenedMember],
    when: When,
    joint: float,
    held: bool,
) -> _Whole:
    whole, how = _Frame(joint), (cuts, when, held)
    stops: list[list[float]] = [[0.5], [0.5]]
    for bar in across:
        for side, (k, rail) in enumerate(_ends(bar, rails)):
            stops[side].append(_on(bar.line[k], rail.line))
    at = [whole.rail(rail, own, *how) for rail, own in zip(rails, stops, strict=True)]
    for bar in across:
        whole.across(bar, *how)
        for side, (k, rail) in enumerate(_ends(bar, rails)):
            whole.tie(at[side][_on(bar.line[k], rail.line)], bar.line[k], rail)
    front, middle, rear = ([whole.node(at[s][t]) for s in (0, 1)] for t in (0.0, 0.5, 1.0))
    return _Whole(np.array(whole.places), whole.beams, front, middle, rear)


def stiffness(
    rails: Sequence[Bar],
    across: Sequence[Bar],
    cuts: Sequence[OpenedMember],
    when: When,
    joint: float,
    held: bool,
) -> tuple[float, float]:
    """Twist N mm/rad and bending N/mm of the frame. Twist: the rear ends and the front right one rest, the
    front left one is pushed up. Bending: both ends of both rails rest, both are pushed down in the middle."""
    whole = _whole(rails, across, cuts, when, joint, held)
    return _twist(whole), _bending(whole)


def _twist(whole: _Whole) -> float:
    solved, wide = _twisted(whole)
    return 1000.0 * wide**2 / float(solved.moved[0, whole.front[0], 2])


def _twisted(whole: _Whole) -> tuple[frame.Solved, float]:
    """The frame under 1,000 N up at its front left end, and how wide it is there, mm."""
    front, rear = whole.front, whole.rear
    held = np.zeros((len(whole.places), 6), dtype=bool)
    held[rear[0], :3] = True
    held[rear[1], [0, 2]] = True
    held[front[1], 2] = True
    load = np.zeros((1, len(whole.places), 6))
    load[0, front[0], 2] = 1000.0
    wide = abs(float(whole.places[front[0], 1] - whole.places[front[1], 1]))
    return frame.solve_frame(whole.places, whole.beams, held, load), wide


def _bending(whole: _Whole) -> float:
    held = np.zeros((len(whole.places), 6), dtype=bool)
    held[whole.rear[0], :3] = True
    held[whole.rear[1], [0, 2]] = True
    held[whole.front, 2] = True
    load = np.zeros((1, len(whole.places), 6))
    load[0, whole.middle, 2] = -500.0
    moved = frame.solve_frame(whole.places, whole.beams, held, load).moved[0, whole.middle, 2]
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
    base = _twist(_whole(rails, across, cuts, "was", JOINTS[1], False))
    without = _twist(_whole(rails, across, cuts, "cut", JOINTS[1], False))
    whole = _whole(rails, [*across, bar], cuts, "cut", JOINTS[1], False)
    k = next(
        n
        for n, beam in enumerate(whole.beams)
        if np.allclose(whole.places[beam.start], line[0]) and np.allclose(whole.places[beam.end], line[1])
    )
    solved, wide = _twisted(whole)
    ends = solved.ends[0, k] / (1000.0 * wide)
    bent = float(np.hypot(ends[:, 4], ends[:, 5]).max())
    return Braced(_twist(whole) / base, without / base, float(np.abs(ends[:, 0]).max()), bent)


def _at_station(rail: Bar, x: float) -> Array:
    run = rail.line[1] - rail.line[0]
    return np.asarray(rail.line[0] + (x - rail.line[0, 0]) / run[0] * run)


def _one_more(
    rails: Sequence[Bar], across: Sequence[Bar], cuts: Sequence[OpenedMember]
) -> tuple[tuple[float, float], ...]:
    """What a square tube across at each station would leave of the twist that there was, all else put
    back."""
    outside, wall = MORE
    s = thin_walled(walls_of("box", outside, outside, wall))
    figures = s.area, s.i_y, s.i_z, s.torsion
    base = _twist(_whole(rails, across, cuts, "was", JOINTS[1], False))
    low = max(float(rail.line[:, 0].min()) for rail in rails)
    high = min(float(rail.line[:, 0].max()) for rail in rails)
    out = []
    for x in np.arange(math.ceil(low / STEP) * STEP, high + 1e-6, STEP):
        ends = np.array([_at_station(rail, float(x)) for rail in rails])
        bar = Bar("one more", "", ends, np.array([0.0, 0.0, 1.0]), figures)
        twist = _twist(_whole(rails, [*across, bar], cuts, "mended", JOINTS[1], False))
        out.append((float(x), twist / base))
    return tuple(out)
