"""The chassis put together as a frame: its rails and what ties them, with its cuts as they are at a time.
Vehicle frame; mm, N, N mm."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any, Literal

import numpy as np

from nimble_cradle.bay.member import Member, members_of
from nimble_cradle.fit.opened_member import OpenedMember, State, walls_of_member
from nimble_cradle.fit.tie_panel import tie_of
from nimble_cradle.geometry.pose import Array
from nimble_cradle.job.base import JobError
from nimble_cradle.job.job import Job
from nimble_cradle.job.remember import remembered
from nimble_cradle.strength import frame
from nimble_cradle.strength.cross_section import figures_of
from nimble_cradle.strength.opened import THREAD
from nimble_cradle.strength.section import Section, Wall, thin_walled, works_pressed, works_sheared

E_STEEL, G_STEEL = 210_000.0, 80_769.0
When = Literal["was", "cut", "mended"]
Figures = tuple[float, float, float, float]
"""Of a section: area mm2, second moment mm4 up and down, sideways, torsion constant mm4."""
REACH = 220.0
"""An end of a member farther than so many mm from every rail's middle is in mid-air."""
SPLICED = 120.0
"""Rails whose ends are so near are one rail, kicked up or tapered, mm."""
MEETS = 80.0
"""A member that ends so near to another's middle, mm, ends on it (common practice, no source)."""
CROSSED = 40.0
"""Members of the car whose middles pass one another so near, mm, are of one piece there; what is farther lies
over or under (common practice, no source)."""
SAME_PLACE = 2.0
"""Nodes nearer than so many mm are one."""
LEAST_APART = 5.0
"""Places on a rail nearer than so many mm are one."""
LOST = 1e-6
"""What is left of a member that is in pieces, so that the sum can be done."""
STIFF = 100.0
"""So many times as stiff as a rail is what joins its middle to the end of a member."""


@dataclass(frozen=True)
class Metal:
    """What a section bears by: area mm2, elastic moduli mm3 up and down and sideways, torsion constant mm4,
    warping constant over the farthest sector mm4, its thinnest wall mm, the share of it that works when
    pressed, yield MPa, its walls as they run up and down and sideways, mm2, and the share of their shear that
    they bear before they buckle."""

    area: float
    w_up: float
    w_aside: float
    torsion: float
    w_warp: float
    wall: float
    works: float
    yield_mpa: float
    web_up: float
    web_aside: float
    sheared: float


@dataclass(frozen=True, eq=False)
class Bar:
    """A rail or member of the frame: its line (2, 3), which way up is, its figures as it was, and the opened
    stretches are looked up by its item's id. metal: what it bears by, None of what is judged elsewhere.
    put_in: it is made for the job, and was not there. off: (3,) mm from its line to its shear centre, about
    which it is twisted."""

    name: str
    item: str
    line: Array
    up: Array
    figures: Figures
    metal: Metal | None = None
    put_in: bool = False
    off: Array = field(default_factory=lambda: np.zeros(3))

    @property
    def long(self) -> float:
        """From end to end, mm."""
        return float(np.linalg.norm(self.line[1] - self.line[0]))

    def place(self, t: float) -> Array:
        """(3,) on its line, 0 to 1 along it."""
        return np.asarray(self.line[0] + t * (self.line[1] - self.line[0]))


@dataclass(frozen=True, eq=False)
class Rail:
    """A rail from its front end to its rear one: one bar, or several joined end to end, kicked up, tapered
    or bent inwards."""

    bars: tuple[Bar, ...]

    @property
    def rear(self) -> float:
        """Station x of its rear end, mm."""
        return float(self.bars[-1].line[1, 0])

    @property
    def front(self) -> float:
        """Station x of its front end, mm."""
        return float(self.bars[0].line[0, 0])

    @property
    def long(self) -> float:
        """Along all its bars, mm."""
        return float(sum(bar.long for bar in self.bars))

    def at_station(self, x: float) -> tuple[Bar, float]:
        """The bar at a station, and how far along it, 0 to 1; the nearest end of the nearest bar where none
        reaches it."""
        rows = []
        for bar in self.bars:
            t = float((x - bar.line[0, 0]) / (bar.line[1, 0] - bar.line[0, 0]))
            within = float(np.clip(t, 0.0, 1.0))
            rows.append((abs(t - within) * bar.long, bar, within))
        _, bar, t = min(rows, key=lambda row: row[0])
        return bar, t

    def nearest(self, point: Array) -> tuple[Bar, float]:
        """The bar nearest to a point (3,), and how far along it, 0 to 1."""
        bar = min(self.bars, key=lambda b: _distance(point, b.line))
        return bar, share_along(point, bar.line)

    def away(self, point: Array) -> float:
        """From a point (3,) to the middle of the rail, mm."""
        return min(_distance(point, bar.line) for bar in self.bars)

    def middle(self) -> tuple[Bar, float]:
        """Half way along it."""
        left = self.long / 2
        for bar in self.bars:
            if left <= bar.long:
                return bar, left / bar.long
            left -= bar.long
        return self.bars[-1], 1.0


def metal_of(section: Section, walls: Sequence[Wall], yield_mpa: float) -> Metal:
    """What a thin-walled section bears by."""
    walls = [wall for wall in walls if wall.thickness > THREAD]
    runs = np.array([np.abs(np.subtract(wall.end, wall.start)) * wall.thickness for wall in walls]).sum(0)
    return Metal(
        section.area,
        section.w_y,
        section.w_z,
        section.torsion,
        max(section.warping, 1.0) / max(float(np.abs(section.sector).max()), 1e-9),
        min(wall.thickness for wall in walls),
        works_pressed(walls, yield_mpa),
        yield_mpa,
        max(float(runs[1]), 1e-9),
        max(float(runs[0]), 1e-9),
        works_sheared(walls, yield_mpa),
    )


def _middle(walls: Sequence[Wall]) -> Array:
    """(2,) the middle of what walls take up from outside to outside, which is that of what is drawn."""
    corners = []
    for wall in walls:
        ends = np.array([wall.start, wall.end])
        along = (ends[1] - ends[0]) / math.dist(*ends)
        out = wall.thickness / 2 * np.array([-along[1], along[0]])
        corners += [ends + out, ends - out]
    flat = np.vstack(corners)
    return np.asarray((flat.max(0) + flat.min(0)) / 2)


def sorted_members(job: Job) -> tuple[list[Rail], list[Bar], list[str]]:
    """The two rails, left one first; what goes across between them; what is left out. Raises JobError."""
    rails, across, left_out = _sorted(job)
    return list(rails), list(across), list(left_out)


@remembered("items", "survey", "meshes", "crossmember", "panels")
def _sorted(job: Job) -> tuple[list[Rail], list[Bar], list[str]]:
    members, faults = members_of(job)
    left_out = [error.message for error in faults.values()]
    bars: list[tuple[Member, Bar]] = []
    for member in members:
        try:
            walls = walls_of_member(member)
            section = thin_walled(walls)
        except (JobError, ValueError) as error:
            left_out.append(str(error))
            continue
        figures = section.area, section.i_y, section.i_z, section.torsion
        line = np.array([member.start, member.end])
        metal = metal_of(section, walls, member.item.host.yield_mpa)
        aside, above = section.shear_centre - _middle(walls)
        off = aside * member.across + above * member.up
        bar = Bar(member.item.name, member.item.id, line, member.up, figures, metal, off=off)
        bars.append((member, bar))
    along = [bar for _, bar in bars if _runs_along(bar)]
    sides = [[b for b in along if s * b.line[:, 1].mean() > 0] for s in (1, -1)]
    if not all(sides):
        raise JobError(
            "The whole chassis waits for a left and a right rail whose sections are said.", "items"
        )
    rails = [_spliced(side) for side in sides]
    used = [bar for rail in rails for bar in rail.bars]
    arms = [bar for bar in along if bar not in used and _leads_away(bar, rails)]
    across = [bar for _, bar in bars if bar not in along or bar in arms]
    left_out += [
        f"{bar.name} runs along beside a longer rail and is not in it."
        for bar in along
        if bar not in used and bar not in arms
    ]
    cross = job.crossmember
    if cross is not None:
        p = figures_of(cross.section).own
        figures = p.area, p.i_lying, p.i_standing, p.torsion
        points = np.array(cross.points, dtype=float)
        up = np.array([0.0, 0.0, 1.0])
        across.append(Bar("Gearbox crossmember", "", points[[0, -1]], up, figures))
    for panel in job.panels:
        if panel.duty is not None:
            try:
                tie = tie_of(panel)
            except JobError as error:
                left_out.append(error.message)
                continue
            s, softer = tie.section, tie.e_mpa / E_STEEL  # all beams of the frame are of steel
            figures = softer * s.area, softer * s.i_y, softer * s.i_z, softer * s.torsion
            metal = metal_of(tie.section, tie.walls, tie.yield_mpa)
            across.append(Bar(panel.name, f"panel {panel.id}", tie.line, tie.up, figures, metal, True))
    tied = _tied(rails, across)
    for bar in (bar for bar in across if bar not in tied):
        ends = [end for end in (0, 1) if not _lands(bar, end, rails, tied)]
        away = max(min(rail.away(bar.line[end]) for rail in rails) for end in ends)
        left_out.append(f"{bar.name} ends {away:.0f} mm from a rail, so it ties nothing.")
    if not tied:
        raise JobError(
            "The whole chassis waits for a member that ties both rails, its section said.", "items"
        )
    return rails, tied, left_out


def _spliced(bars: Sequence[Bar]) -> Rail:
    """The longest bar of one side, and what is joined to its ends."""
    chain = [max(bars, key=lambda b: float(np.ptp(b.line[:, 0])))]
    for end in (0, 1):  # forwards, then backwards
        while True:
            last = chain[-end]
            rest = [(float(np.linalg.norm(b.line[1 - end] - last.line[end])), b) for b in bars]
            near = [row for row in rest if row[1] not in chain and row[0] <= SPLICED]
            if not near:
                break
            chain.insert(len(chain) * end, min(near, key=lambda row: row[0])[1])
    return Rail(tuple(chain))


@remembered("items", "survey", "meshes", "crossmember", "panels")
def same_rail(job: Job) -> Mapping[str, frozenset[str]]:
    """For every item that is a piece of a rail the ids of all its pieces; nothing where there is no frame."""
    try:
        rails, _, _ = sorted_members(job)
    except JobError:
        return {}
    return {bar.item: frozenset(b.item for b in rail.bars) for rail in rails for bar in rail.bars}


def _runs_along(bar: Bar) -> bool:
    """Whether a bar may be a rail: it runs more along the car than across, and stays on its side."""
    run = np.abs(bar.line[1] - bar.line[0])
    return bool(run[0] > run[1] and bar.line[0, 1] * bar.line[1, 1] >= 0)


def _leads_away(bar: Bar, rails: Sequence[Rail]) -> bool:
    """Whether a bar goes from a rail to somewhere off both, as an arm of a cross does."""
    near = [min(rail.away(end) for rail in rails) <= REACH for end in bar.line]
    return near[0] != near[1]


@dataclass(frozen=True, eq=False)
class Joined:
    """Where a member is joined to a rail's bar or to another member: how far along the one and the other, 0
    to 1."""

    bar: Bar
    own: float
    onto: Bar
    other: float


def joined(rails: Sequence[Rail], across: Sequence[Bar]) -> list[Joined]:
    """All joints of members to rails and to one another."""
    out = [there for bar in across for end in (0, 1) for there in _lands(bar, end, rails, across)]
    # the car's own members, by their ids; what is put in, or tried, ends at the rails
    welded = [bar for bar in across if bar.item and " " not in bar.item]
    for n, one in enumerate(welded):
        for two in welded[:n]:
            s, t, apart = _nearest_of(one.line, two.line)
            inside = all(min(share, 1 - share) * bar.long > CROSSED for share, bar in ((s, one), (t, two)))
            if inside and apart <= CROSSED:
                out.append(Joined(one, s, two, t))
    return out


def _lands(bar: Bar, end: int, rails: Sequence[Rail], across: Sequence[Bar]) -> list[Joined]:
    """What an end of a member is joined to: its left one to the left rail and its right one to the right
    rail, or else to all other members that it is near to and that were there before."""
    left = int(bar.line[1, 1] > bar.line[0, 1])
    rail, place = rails[0 if end == left else 1], bar.line[end]
    if rail.away(place) <= REACH:
        return [Joined(bar, float(end), *rail.nearest(place))]
    return [
        Joined(bar, float(end), other, share_along(place, other.line))
        for other in across
        if other is not bar and not other.put_in and _distance(place, other.line) <= MEETS
    ]


def _tied(rails: Sequence[Rail], across: Sequence[Bar]) -> list[Bar]:
    """The members of which both ends land on something that is itself tied."""
    kept = list(across)
    while True:
        left = [bar for bar in kept if all(_lands(bar, end, rails, kept) for end in (0, 1))]
        if len(left) == len(kept):
            return kept
        kept = left


def _nearest_of(one: Array, two: Array) -> tuple[float, float, float]:
    """How far along two lines (2, 3) they are nearest to one another, 0 to 1 each, and how near, mm."""
    d, e, r = one[1] - one[0], two[1] - two[0], one[0] - two[0]
    a, b, c = float(d @ d), float(d @ e), float(e @ e)
    under = a * c - b * b
    s = (
        float(np.clip((b * float(e @ r) - c * float(d @ r)) / under, 0.0, 1.0))
        if under > 1e-9 * a * c
        else 0.5
    )
    t = share_along(one[0] + s * d, two)
    s = share_along(two[0] + t * e, one)
    return s, t, float(np.linalg.norm(one[0] + s * d - two[0] - t * e))


def share_along(point: Array, line: Array) -> float:
    """How far along a line (2, 3) the place nearest to a point is, 0 to 1."""
    run = line[1] - line[0]
    return float(np.clip((point - line[0]) @ run / (run @ run), 0.0, 1.0))


def _distance(point: Array, line: Array) -> float:
    t = share_along(point, line)
    return float(np.linalg.norm(line[0] + t * (line[1] - line[0]) - point))


def _figures(state: State, held: bool) -> Figures | None:
    s = state.section
    return None if s is None else (s.area, s.i_y, s.i_z, state.held if held else s.torsion)


@dataclass(frozen=True, eq=False)
class Stretch:
    """A length of a bar, ``start`` to ``end`` of it, 0 to 1, with its figures and what it bears by."""

    start: float
    end: float
    figures: Figures
    metal: Metal | None


def _stretches(
    bar: Bar, stops: Sequence[float], cuts: Sequence[OpenedMember], when: When, held: bool
) -> list[Stretch]:
    """A bar in lengths, with its cuts as they are ``when``."""
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
        figures, metal = bar.figures, bar.metal
        for low, high, cut in spans:
            if low - least < (a + b) / 2 < high + least and when != "was":
                state = cut.cut if when == "cut" else cut.at_last
                there = _figures(state, held)
                was = _figures(cut.before, held)
                assert was is not None
                # as a share of what it was, so that warping at the cut's ends counts on both sides alike
                share = (
                    (LOST,) * 4 if there is None else tuple(t / w for t, w in zip(there, was, strict=True))
                )
                figures = tuple(f * s for f, s in zip(figures, share, strict=True))  # type: ignore[assignment]
                metal = _left(metal, state)
        out.append(Stretch(a, b, figures, metal))
    return out


def _left(metal: Metal | None, state: State) -> Metal | None:
    """What a member bears by where it is cut, or put back."""
    if metal is None or state.section is None:
        return None if metal is None else replace(metal, area=LOST, w_up=LOST, w_aside=LOST)
    return metal_of(state.section, state.walls, metal.yield_mpa)


class _Frame:
    """Nodes and beams as they are put together; every place is one node. of: for each beam the bar that it is
    a length of, None of what joins bars."""

    def __init__(self, joint: float) -> None:
        self.joint = joint
        self.places: list[Array] = []
        self._known: dict[tuple[float, ...], int] = {}
        self.beams: list[frame.Member] = []
        self.of: list[tuple[Bar, Stretch] | None] = []

    def node(self, place: Array) -> int:
        """The number of the node at a place (3,)."""
        key = tuple(place.tolist())
        if key not in self._known:
            near = np.zeros(0, dtype=int)
            if self.places:
                # a stiff piece between places nearer than that would drown all else in rounding
                near = np.nonzero(np.abs(np.array(self.places) - place).max(1) < SAME_PLACE)[0]
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
        self.of.append(None)

    def bar(self, bar: Bar, stops: Sequence[float], ends_turn: bool, *how: Any) -> dict[float, Array]:
        """Put in a rail or a member; where its stops are, as they were joined to others near by. ends_turn:
        its ends turn in their joints."""
        run = bar.line[1] - bar.line[0]
        stretches = _stretches(bar, stops, *how)
        for n, row in enumerate(stretches):
            ends = ((0, n == 0), (1, n == len(stretches) - 1))
            sprung = [end for end, there in ends if there and ends_turn]
            self.beam(bar.line[0] + row.start * run, bar.line[0] + row.end * run, bar.up, row.figures, sprung)
            self.of[-1] = bar, row
        marks = sorted({row.start for row in stretches} | {1.0})
        return {t: bar.line[0] + min(marks, key=lambda e: abs(e - t)) * run for t in {0.0, 0.5, 1.0, *stops}}

    def tie(self, a: Array, b: Array, rail: Bar) -> None:
        """Join a rail's middle stiffly to the end of what lies over, under or beside it, or goes on from
        it."""
        if self.node(a) != self.node(b):
            i = STIFF * max(rail.figures[1:3])
            self.beam(a, b, np.array([0.0, 0.0, 1.0]), (STIFF * rail.figures[0], i, i, i))


@dataclass(frozen=True, eq=False)
class Whole:
    """The frame put together: places (n, 3) of its nodes, beams, of what bar each is a length, and the nodes
    of both rails, left first, at the front end, in the middle and at the rear end. at: the nodes of the stops
    that were asked for, by number of the bar (``bars_of``) and stop."""

    places: Array
    beams: Sequence[frame.Member]
    of: Sequence[tuple[Bar, Stretch] | None]
    front: Sequence[int]
    middle: Sequence[int]
    rear: Sequence[int]
    at: Mapping[tuple[int, float], int]


def solved_under(whole: Whole, held: Array, load: Array) -> frame.Solved:
    """The frame under loads (k, n, 6), held (n, 6). Raises JobError where it cannot be worked out."""
    try:
        return frame.solve_frame(whole.places, whole.beams, held, load)
    except ValueError as error:
        raise JobError(f"The chassis cannot be worked out as a frame: {error}.", "items") from None


def bars_of(rails: Sequence[Rail], across: Sequence[Bar]) -> list[Bar]:
    """All bars in their order: the left rail's from the front, the right one's, then those across."""
    return [*(bar for rail in rails for bar in rail.bars), *across]


def put_together(
    rails: Sequence[Rail],
    across: Sequence[Bar],
    cuts: Sequence[OpenedMember],
    when: When,
    joint: float,
    held: bool,
    also: Mapping[int, Sequence[float]] | None = None,
) -> Whole:
    """The frame with its cuts as they are ``when``. joint: N mm/rad of each member's end; held: ends of cuts
    do not warp. also: stops, 0 to 1, that get a node too, by number of the bar (``bars_of``)."""
    whole, how, more = _Frame(joint), (cuts, when, held), also or {}
    across = [bar for bar in across if when == "mended" or not bar.put_in]  # those come last
    bars = bars_of(rails, across)
    number = {id(bar): n for n, bar in enumerate(bars)}
    stops: list[list[float]] = [list(more.get(n, ())) for n in range(len(bars))]
    for rail in rails:
        bar, t = rail.middle()
        stops[number[id(bar)]].append(t)
    joints = joined(rails, across)
    for row in joints:
        stops[number[id(row.bar)]].append(row.own)
        stops[number[id(row.onto)]].append(row.other)
    first = len(bars) - len(across)
    at = [whole.bar(bar, own, n >= first, *how) for n, (bar, own) in enumerate(zip(bars, stops, strict=True))]
    for row in joints:
        whole.tie(at[number[id(row.onto)]][row.other], at[number[id(row.bar)]][row.own], row.onto)
    for rail in rails:
        for one, other in zip(rail.bars, rail.bars[1:], strict=False):
            whole.tie(one.line[1], other.line[0], one)

    def node(bar: Bar, t: float) -> int:
        return whole.node(at[number[id(bar)]][t])

    return Whole(
        np.array(whole.places),
        whole.beams,
        whole.of,
        [node(rail.bars[0], 0.0) for rail in rails],
        [node(*rail.middle()) for rail in rails],
        [node(rail.bars[-1], 1.0) for rail in rails],
        {(n, t): whole.node(at[n][t]) for n, own in more.items() for t in own},
    )
