"""A hole pattern from caliper readings and offsets from the crank pin, by least squares: where each hole is,
how sure, which reading is wrong.

(x, y) mm facing the face, x to the right, y up. Without readings from the pin the first hole is the origin
and the second lies to the right.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache
from itertools import combinations
from typing import Any

import numpy as np

from nimble_cradle.geometry.pose import Array
from nimble_cradle.job.pattern import BETWEEN, HoleReading, Pattern
from nimble_cradle.stock.clearance_holes import clearance_hole
from nimble_cradle.survey.adjust import (
    COVER,
    HELD,
    RIVAL,
    UNCHECKED,
    Adjustment,
    Apart,
    Observed,
    State,
    alone,
    from_each,
    linear,
    shrinks,
    suspects,
)
from nimble_cradle.survey.holes import hole_slack

LEAST = 0.01
TRIANGLE = 1.7
"""Three sides that no triangle has are so many times their give-or-take (two sigma) out: 3.3 sigma, as for
any reading."""


@dataclass(frozen=True, eq=False)
class FoundHole:
    """A hole: at (2,) mm, plus_minus mm (the larger way), free: not pinned down; slack: what the bolt has
    left in its clearance hole, mm."""

    id: str
    number: int
    at: Array
    plus_minus: float
    free: bool
    hole_mm: float
    slack: float


@dataclass(frozen=True)
class CheckedHoleReading:
    """A reading against all the others; off: how far it is wrong, if it is the wrong one (mm, degrees for
    an angle)."""

    id: str
    words: str
    residual: float
    w: float
    redundancy: float
    state: State
    off: float


@dataclass(frozen=True)
class HoleProposal:
    """A centre distance worth taking, and about what it will read, mm."""

    hole: str
    other: str
    words: str
    value_mm: float
    pins: bool


@dataclass(frozen=True, eq=False)
class FoundPattern:
    """A pattern after adjustment. from_pin: its origin is the crank pin. factor: scatter against the
    give-or-take said."""

    holes: tuple[FoundHole, ...]
    readings: tuple[CheckedHoleReading, ...]
    questions: tuple[str, ...]
    proposals: tuple[HoleProposal, ...]
    from_pin: bool
    factor: float
    dof: int

    @property
    def at(self) -> Array:
        """(n, 2) mm."""
        return np.array([h.at for h in self.holes]).reshape(-1, 2)


class _Columns:
    """Columns of each hole's x and y in the unknowns; -1 where held at nought (the first hole, and the
    second's y, without a pin)."""

    def __init__(self, pattern: Pattern) -> None:
        self.number = {h.id: i for i, h in enumerate(pattern.holes)}
        self.from_pin = any(r.kind not in BETWEEN and r.used for r in pattern.readings)
        held = set() if self.from_pin else {0, 1, 3}
        self.columns: list[int] = []
        n = 0
        for k in range(2 * len(pattern.holes)):
            self.columns.append(-1 if k in held else n)
            n += k not in held
        self.size = n

    def points(self, x: Array) -> Array:
        """All holes (n, 2)."""
        return np.array([x[c] if c >= 0 else 0.0 for c in self.columns]).reshape(-1, 2)

    def of(self, key: str) -> tuple[int, int]:
        """The two columns of a hole."""
        i = 2 * self.number[key]
        return self.columns[i], self.columns[i + 1]


def reading_words(pattern: Pattern, reading: HoleReading) -> str:
    """``1 to 3, centres`` or ``2, radius from the pin``."""
    number = {h.id: i for i, h in enumerate(pattern.holes, start=1)}
    a = number[reading.hole]
    if reading.other:
        return f"{a} to {number[reading.other]}, {reading.kind.replace('-', ' ')}"
    return f"{a}, {reading.kind} from the pin"


def _row(pattern: Pattern, columns: _Columns, r: HoleReading) -> Observed:
    sigma = max(r.give_or_take, LEAST) / COVER
    ax, ay = columns.of(r.hole)
    measured = r.value
    if r.kind in BETWEEN:
        size = {h.id: h.diameter_mm for h in pattern.holes}
        both = (size[r.hole] + size[r.other]) / 2
        measured = r.value - {"centres": 0.0, "outer-edges": both, "inner-edges": -both}[r.kind]
        return Observed(r.id, measured, sigma, Apart([ax, ay], list(columns.of(r.other))))
    if r.kind == "radius":
        return Observed(r.id, measured, sigma, Apart([ax, ay], [HELD, HELD]))
    if r.kind in ("across", "up"):
        return Observed(r.id, measured, sigma, linear((ax if r.kind == "across" else ay,), (1.0,)))

    def angle(x: Array) -> tuple[float, Any, Any]:
        """Angle from the pin, degrees, on the turn that the reading is on."""
        u, v = _at(x, ax), _at(x, ay)
        length = max(math.hypot(u, v), 1e-9)
        found = math.degrees(math.atan2(v, u))
        found = measured + (found - measured + 180) % 360 - 180
        return found, *_kept((ax, math.degrees(-v / length**2)), (ay, math.degrees(u / length**2)))

    return Observed(r.id, measured, sigma, angle)


def _at(x: Array, column: int) -> float:
    return float(x[column]) if column >= 0 else 0.0


def _kept(*pairs: tuple[int, float]) -> tuple[list[int], list[float]]:
    return [c for c, _ in pairs if c >= 0], [d for c, d in pairs if c >= 0]


def _start(pattern: Pattern, columns: _Columns, rows: list[Observed]) -> Array:
    """One hole after another from those placed, each from several places round about; the best taken."""
    x = np.zeros(columns.size)
    used = [r for r in pattern.readings if r.used]
    reach = max((abs(r.value) for r in used if r.kind != "angle"), default=100.0)
    placed: set[str] = set()
    if not columns.from_pin and pattern.holes:
        placed.add(pattern.holes[0].id)
    todo = [h for h in pattern.holes if h.id not in placed]
    turn = -1.0 if pattern.turn == "clockwise" else 1.0
    while todo:

        def links(h: Any) -> int:
            return sum(
                1
                for r in used
                if h.id in (r.hole, r.other) and {r.hole, r.other or r.hole} <= placed | {h.id}
            )

        hole = max(todo, key=links)
        todo.remove(hole)
        own = [
            row
            for row, r in zip(rows, used, strict=True)
            if hole.id in (r.hole, r.other) and {r.hole, r.other or r.hole} <= placed | {hole.id}
        ]
        cx, cy = columns.of(hole.id)
        about = columns.points(x)[[columns.number[k] for k in placed]].mean(0) if placed else np.zeros(2)
        crossings = _crossings(
            hole.id,
            own,
            [r for row, r in zip(rows, used, strict=True) if any(row is o for o in own)],
            columns,
            x,
        )
        if hole.roughly is not None and columns.from_pin:
            starts = [np.asarray(hole.roughly, dtype=float)]
        elif crossings:
            starts = sorted(
                crossings, key=lambda p: -turn * float(_side(columns.points(x), placed, columns, p))
            )
        else:
            angles = turn * (np.arange(12) * np.pi / 6 + 0.2)
            starts = [about + 0.6 * reach * np.array([np.cos(a), np.sin(a)]) for a in angles]
        if own:
            places, chi2 = _local(own, x, (cx, cy), starts)
            at = places[int((chi2 <= chi2.min() + RIVAL).argmax())]
        else:
            at = starts[0]
        for c, value in zip((cx, cy), at, strict=True):
            if c >= 0:
                x[c] = value
        placed.add(hole.id)
    return x


def _crossings(
    key: str, own: list[Observed], readings: list[HoleReading], columns: _Columns, x: Array
) -> list[Array]:
    """Where the circles of a hole's two longest distances cross: two places, or none to be had that way."""
    circles = [
        (columns.points(x)[columns.number[r.other if r.hole == key else r.hole]], row.measured)
        for row, r in zip(own, readings, strict=True)
        if r.kind in BETWEEN
    ]
    best: list[Array] = []
    widest = 0.0
    for i in range(len(circles)):
        for j in range(i + 1, len(circles)):
            (a, ra), (b, rb) = circles[i], circles[j]
            d = b - a
            apart = float(np.linalg.norm(d))
            if apart < max(1.0, widest):
                continue
            along = (apart**2 + ra**2 - rb**2) / (2 * apart)
            off = math.sqrt(max(ra**2 - along**2, 1.0))
            e = d / apart
            across = np.array([-e[1], e[0]])
            widest, best = apart, [a + along * e + off * across, a + along * e - off * across]
    return best


def _side(points: Array, placed: set[str], columns: _Columns, place: Array) -> float:
    """On which side of the first two placed holes a place lies: positive to the left of the way from the
    first to the second."""
    first = [points[columns.number[k]] for k in columns.number if k in placed][:2]
    if len(first) < 2:
        return 1.0
    d, p = first[1] - first[0], place - first[0]
    return float(d[0] * p[1] - d[1] * p[0])


def _local(
    rows: list[Observed], x: Array, columns: tuple[int, int], starts: list[Array]
) -> tuple[Array, Array]:
    """Places (k, 2) of one hole with the others held, from each of some starts, and their chi-squares
    (k,)."""
    free = [k for k, c in enumerate(columns) if c >= 0]
    found, chi2 = from_each(alone(rows, x, [columns[k] for k in free]), np.array(starts)[:, free], 40)
    at = np.zeros((len(starts), 2))
    at[:, free] = found
    return at, chi2


def _turn_of(p: Array) -> float:
    """Area of holes 1, 2, 3, positive anticlockwise."""
    return (
        float((p[1, 0] - p[0, 0]) * (p[2, 1] - p[0, 1]) - (p[2, 0] - p[0, 0]) * (p[1, 1] - p[0, 1])) / 2
        if len(p) > 2
        else 0.0
    )


@lru_cache(maxsize=128)
def found_pattern(pattern: Pattern) -> FoundPattern:
    """Adjust a pattern. Never raises for what a pattern can hold."""
    columns = _Columns(pattern)
    used = [r for r in pattern.readings if r.used]
    rows = [_row(pattern, columns, r) for r in used]
    x = _start(pattern, columns, rows)
    result, found = suspects(rows, x)
    want = {"clockwise": -1.0, "anticlockwise": 1.0, "unknown": 1.0}[pattern.turn]
    if not columns.from_pin and _turn_of(columns.points(result.x)) * want < 0:
        mirrored = columns.points(result.x) * (1.0, -1.0)
        x = np.zeros(columns.size)
        for k, c in enumerate(columns.columns):
            if c >= 0:
                x[c] = mirrored.ravel()[k]
        result, found = suspects(rows, x)
    holes = _holes(pattern, columns, result)
    checked = _checked(pattern, used, rows, result, found)
    proposals = _proposals(pattern, columns, result)
    questions = _questions(pattern, columns, rows, used, result, checked, found, holes)
    factor = float(np.sqrt(result.chi2 / result.dof)) if result.dof else 1.0
    return FoundPattern(holes, checked, tuple(questions), proposals, columns.from_pin, factor, result.dof)


def _holes(pattern: Pattern, columns: _Columns, result: Adjustment) -> tuple[FoundHole, ...]:
    out = []
    points = columns.points(result.x)
    for i, h in enumerate(pattern.holes):
        own = [c for c in columns.of(h.id) if c >= 0]
        sigma = (
            float(np.sqrt(np.linalg.eigvalsh(result.covariance[np.ix_(own, own)]).max(initial=0.0)))
            if own
            else 0.0
        )
        free = bool(own) and float(np.abs(result.free[own]).max(initial=0.0)) > 1e-3
        hole, bolt = clearance_hole(h.bolt, h.fit)
        doubt = max(COVER * sigma - h.slot_mm / 2, 0.0)
        out.append(
            FoundHole(
                h.id,
                i + 1,
                points[i],
                COVER * sigma,
                free,
                h.diameter_mm if h.dowel else hole,
                hole_slack(hole, bolt, doubt),
            )
        )
    return tuple(out)


def _checked(
    pattern: Pattern,
    used: list[HoleReading],
    rows: list[Observed],
    result: Adjustment,
    found: list[tuple[int, tuple[int, ...]]],
) -> tuple[CheckedHoleReading, ...]:
    place = {r.id: k for k, r in enumerate(used)}
    alone = {k for k, rivals in found if not rivals}
    triples = [triple for triple, _ in _impossible(pattern, rows, used)]
    if len(rows) <= _Columns(pattern).size:  # flat geometry makes one look checked that nothing checks
        alone -= {k for triple in triples for k in triple}
    together = {k for triple in triples for k in triple if not alone & set(triple)}
    shared = {k for k, rivals in found if rivals} | {j for _, rivals in found for j in rivals} | together
    out = []
    for r in pattern.readings:
        k = place.get(r.id)
        text = reading_words(pattern, r)
        if k is None:
            out.append(CheckedHoleReading(r.id, text, 0.0, 0.0, 0.0, "not used", 0.0))
            continue
        red = float(result.redundancy[k])
        state: State = (
            "unchecked"
            if red < UNCHECKED
            else "out of line"
            if k in alone
            else "doubtful"
            if k in shared
            else "agrees"
        )
        out.append(
            CheckedHoleReading(
                r.id,
                text,
                float(result.residuals[k]),
                float(result.w[k]),
                red,
                state,
                float(result.residuals[k]) / red if red >= UNCHECKED else 0.0,
            )
        )
    return tuple(out)


def _proposals(
    pattern: Pattern, columns: _Columns, result: Adjustment, most: int = 3
) -> tuple[HoleProposal, ...]:
    """Centre distances not taken yet: those that pin something down first, then those that most lessen the
    largest doubt."""
    there = {frozenset((r.hole, r.other)) for r in pattern.readings if r.used and r.other}
    points = columns.points(result.x)
    rows = []
    variance = result.covariance.diagonal() if columns.size else np.zeros(0)
    wanted = np.zeros(columns.size)
    if columns.size:
        wanted[int(variance.argmax())] = 1.0
    for i, a in enumerate(pattern.holes):
        for j in range(i + 1, len(pattern.holes)):
            b = pattern.holes[j]
            if frozenset((a.id, b.id)) in there:
                continue
            d = points[i] - points[j]
            length = float(np.linalg.norm(d))
            row = np.zeros(columns.size)
            if length > 1e-6:
                for key, sign in ((a.id, 1.0), (b.id, -1.0)):
                    for c, e in zip(columns.of(key), d / length, strict=True):
                        if c >= 0:
                            row[c] += sign * e
            pins = float(np.abs(result.free.T @ row).max(initial=0.0))
            gain = shrinks(result.covariance, wanted, row, 0.05)
            rows.append(
                (
                    -pins if pins > 1e-3 else 0.0,
                    -gain,
                    HoleProposal(a.id, b.id, f"{i + 1} to {j + 1}, centres", length, pins > 1e-3),
                )
            )
    rows.sort(key=lambda r: (round(r[0], 6), r[1]))
    return tuple(p for *_, p in rows[:most])


def _questions(
    pattern: Pattern,
    columns: _Columns,
    rows: list[Observed],
    used: list[HoleReading],
    result: Adjustment,
    checked: tuple[CheckedHoleReading, ...],
    found: list[tuple[int, tuple[int, ...]]],
    holes: tuple[FoundHole, ...],
) -> list[str]:
    if not pattern.holes:
        return []
    out = [
        f"{c.words}: out of line by {abs(c.off):.2f} {'deg' if 'angle' in c.words else 'mm'} (reads too"
        f" {'much' if c.off > 0 else 'little'}); take it again"
        for c in checked
        if c.state == "out of line"
    ]
    impossible = _impossible(pattern, rows, used)
    named = {c.words for c in checked if c.state == "out of line"}
    impossible = [
        (t, sentence)
        for t, sentence in impossible
        if not named & {reading_words(pattern, used[k]) for k in t}
    ]
    out += [sentence for _, sentence in impossible]
    inside = {reading_words(pattern, used[k]) for triple, _ in impossible for k in triple}
    doubtful = [c.words for c in checked if c.state == "doubtful" and c.words not in inside]
    if doubtful:
        out.append(f"One of these is wrong, and no other reading tells which: {'; '.join(doubtful[:5])}")
    loose = [str(h.number) for h in holes if h.free]
    if loose and columns.from_pin and _only_turns(columns, result):
        out.append(
            "The pattern is whole but can still turn about the pin: take one angle, or one hole across or up"
            " from the pin"
        )
    elif loose:
        out.append(
            f"Not pinned down yet: hole{'s' if len(loose) > 1 else ''} {', '.join(loose)}; each wants two"
            " readings to holes that are, or from the pin"
        )
    elif not found:
        out += _swaps(pattern, columns, rows, used, result)
    if not columns.from_pin and pattern.turn == "unknown" and len(pattern.holes) > 2 and not loose:
        out.append("The mirror image fits as well: say which way holes 1, 2, 3 go round, facing the face")
    for h, hole in zip(pattern.holes, holes, strict=True):
        if not hole.free and hole.slack < 0:
            out.append(
                f"Hole {hole.number} is good to {hole.plus_minus:.2f} mm only, and a {hole.hole_mm:g} mm hole"
                f" for {h.bolt} leaves less: slot it or take another reading"
            )
    return out


def _impossible(
    pattern: Pattern, rows: list[Observed], used: list[HoleReading]
) -> list[tuple[tuple[int, int, int], str]]:
    """Triangles of holes that cannot be, one side being longer than the other two together beyond their
    doubt: the numbers of the three readings, and a sentence. Nobody of the three is to be blamed alone."""
    sides: dict[frozenset[str], int] = {}
    for k, r in enumerate(used):
        if r.kind in BETWEEN:
            sides.setdefault(frozenset((r.hole, r.other)), k)
    out = []
    ids = [h.id for h in pattern.holes]
    for i, j, k in combinations(range(len(ids)), 3):
        pairs = (frozenset((ids[i], ids[j])), frozenset((ids[j], ids[k])), frozenset((ids[i], ids[k])))
        if not all(p in sides for p in pairs):
            continue
        triple = (sides[pairs[0]], sides[pairs[1]], sides[pairs[2]])
        lengths = [rows[n].measured for n in triple]
        longest = max(lengths)
        over = 2 * longest - sum(lengths)
        if over > math.sqrt(sum(used[n].give_or_take ** 2 for n in triple)) * TRIANGLE:
            told = ", ".join(f"{x:g}" for x in lengths)
            out.append(
                (
                    triple,
                    (
                        f"Holes {i + 1}, {j + 1} and {k + 1} stand {told} mm apart, which no triangle does:"
                        " one of the three readings is wrong, take them again"
                    ),
                )
            )
    return out


def _only_turns(columns: _Columns, result: Adjustment) -> bool:
    """Whether the one thing free is a turn of everything about the pin."""
    if result.free.shape[1] != 1:
        return False
    p = columns.points(result.x)
    turn = np.column_stack([-p[:, 1], p[:, 0]]).ravel()
    return bool(np.linalg.norm(turn) > 0 and abs(turn / np.linalg.norm(turn) @ result.free[:, 0]) > 0.999)


def _swaps(
    pattern: Pattern, columns: _Columns, rows: list[Observed], used: list[HoleReading], result: Adjustment
) -> list[str]:
    """Holes that fit as well on the other side of the line through their neighbours."""
    out = []
    points = columns.points(result.x)
    for i, h in enumerate(pattern.holes):
        own = [row for row, r in zip(rows, used, strict=True) if h.id in (r.hole, r.other)]
        near = [
            columns.number[r.other if r.hole == h.id else r.hole]
            for r in used
            if h.id in (r.hole, r.other) and r.other
        ]
        pin = any(r.hole == h.id and not r.other for r in used)
        if (
            h.roughly is not None
            or len(own) < 2
            or (i < 2 and not columns.from_pin)
            or (len(pattern.holes) < 4 and not pin and not columns.from_pin)
        ):
            continue
        ends = [*points[near], *([np.zeros(2)] if pin else [])]
        if len(ends) < 2:
            continue
        base, along = ends[0], ends[1] - ends[0]
        if np.linalg.norm(along) < 1e-6:
            continue
        along = along / np.linalg.norm(along)
        d = points[i] - base
        other = base + 2 * (d @ along) * along - d
        present = sum(((r.measured - r.model(result.x)[0]) / r.sigma) ** 2 for r in own)
        (at,), (chi2,) = _local(own, result.x, columns.of(h.id), [other])
        if np.linalg.norm(at - points[i]) > 2.0 and chi2 - present < RIVAL:
            out.append(
                f"Hole {i + 1} fits as well {np.linalg.norm(at - points[i]):.0f} mm away, on the other side:"
                " take one more reading from it, or say roughly where it is"
            )
    return out


@dataclass(frozen=True, eq=False)
class Likeness:
    """How well a second pattern matches: rms mm as it is and as its mirror image, and the better of the
    two placed on the first (n, 2)."""

    rms: float
    mirrored_rms: float
    placed: Array
    residuals: Array

    @property
    def mirrored(self) -> bool:
        """Whether the mirror image fits clearly better: one of the two was noted from the other side."""
        return self.mirrored_rms < 0.5 * self.rms and self.rms - self.mirrored_rms > 0.3


def likeness(first: Array, second: Array) -> Likeness:
    """Best fit in the plane of a second pattern (n, 2) on the first, hole by hole, as it is and mirrored."""
    best: dict[bool, tuple[float, Array]] = {}
    a = first - first.mean(0)
    for mirrored in (False, True):
        b = (second - second.mean(0)) * (-1.0 if mirrored else 1.0, 1.0)
        angle = math.atan2(float((b[:, 0] * a[:, 1] - b[:, 1] * a[:, 0]).sum()), float((b * a).sum()))
        c, s = math.cos(angle), math.sin(angle)
        placed = b @ np.array([[c, s], [-s, c]]) + first.mean(0)
        best[mirrored] = float(np.sqrt(((placed - first) ** 2).sum(1).mean())), placed
    pick = best[True][0] < best[False][0]
    placed = best[pick][1]
    return Likeness(best[False][0], best[True][0], placed, np.linalg.norm(placed - first, axis=1))
