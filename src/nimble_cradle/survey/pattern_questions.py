"""What a hole pattern still asks: holes not pinned down, readings that cannot be, holes exchanged."""

from __future__ import annotations

import math
from itertools import combinations

import numpy as np

from nimble_cradle.job.pattern import BETWEEN, HoleReading, Pattern
from nimble_cradle.survey.adjust import RIVAL, Adjustment, Observed
from nimble_cradle.survey.pattern_start import best_place
from nimble_cradle.survey.pattern_types import TRIANGLE, CheckedHoleReading, Columns, FoundHole, reading_words


def pattern_questions(
    pattern: Pattern,
    columns: Columns,
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
        f"{reading.words}: out of line by {abs(reading.off):.2f}"
        f" {'deg' if 'angle' in reading.words else 'mm'}, reads too"
        f" {'much' if reading.off > 0 else 'little'}; take it again"
        for reading in checked
        if reading.state == "out of line"
    ]
    impossible = broken_triples(pattern, rows, used)
    named = {reading.words for reading in checked if reading.state == "out of line"}
    impossible = [
        (t, sentence)
        for t, sentence in impossible
        if not named & {reading_words(pattern, used[k]) for k in t}
    ]
    out += [sentence for _, sentence in impossible]
    inside = {reading_words(pattern, used[k]) for triple, _ in impossible for k in triple}
    doubtful = [
        reading.words for reading in checked if reading.state == "doubtful" and reading.words not in inside
    ]
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


def broken_triples(
    pattern: Pattern, rows: list[Observed], used: list[HoleReading]
) -> list[tuple[tuple[int, int, int], str]]:
    """Triangles of holes that cannot be, one side being longer than the other two together beyond their
    doubt: the numbers of the three readings, and a sentence. Nobody of the three is to be blamed alone."""
    sides: dict[frozenset[str], int] = {}
    for k, reading in enumerate(used):
        if reading.kind in BETWEEN:
            sides.setdefault(frozenset((reading.hole, reading.other)), k)
    out = []
    ids = [hole.id for hole in pattern.holes]
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


def _only_turns(columns: Columns, result: Adjustment) -> bool:
    """Whether the one thing free is a turn of everything about the pin."""
    if result.free.shape[1] != 1:
        return False
    p = columns.points(result.x)
    turn = np.column_stack([-p[:, 1], p[:, 0]]).ravel()
    return bool(np.linalg.norm(turn) > 0 and abs(turn / np.linalg.norm(turn) @ result.free[:, 0]) > 0.999)


def _swaps(
    pattern: Pattern, columns: Columns, rows: list[Observed], used: list[HoleReading], result: Adjustment
) -> list[str]:
    """Holes that fit as well on the other side of the line through their neighbours."""
    out = []
    points = columns.points(result.x)
    for i, hole in enumerate(pattern.holes):
        own = [
            row for row, reading in zip(rows, used, strict=True) if hole.id in (reading.hole, reading.other)
        ]
        near = [
            columns.number[reading.other if reading.hole == hole.id else reading.hole]
            for reading in used
            if hole.id in (reading.hole, reading.other) and reading.other
        ]
        pin = any(reading.hole == hole.id and not reading.other for reading in used)
        if (
            hole.roughly is not None
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
        (at,), (chi2,) = best_place(own, result.x, columns.of(hole.id), [other])
        if np.linalg.norm(at - points[i]) > 2.0 and chi2 - present < RIVAL:
            out.append(
                f"Hole {i + 1} fits as well {np.linalg.norm(at - points[i]):.0f} mm away, on the other side:"
                " take one more reading from it, or say roughly where it is"
            )
    return out
