"""A hole pattern from caliper readings and offsets from the crank pin, by least squares: where each hole is,
how sure, which reading is wrong.

(x, y) mm facing the face, x to the right, y up. Without readings from the pin the first hole is the origin
and the second lies to the right.
"""

from __future__ import annotations

from functools import lru_cache

import numpy as np

from nimble_cradle.job.pattern import HoleReading, Pattern
from nimble_cradle.stock.clearance_holes import clearance_hole
from nimble_cradle.survey.adjust import COVER, UNCHECKED, Adjustment, Observed, State, shrinks
from nimble_cradle.survey.blunders import suspects
from nimble_cradle.survey.holes import hole_slack
from nimble_cradle.survey.pattern_questions import broken_triples, pattern_questions
from nimble_cradle.survey.pattern_start import observed_of, start_of, turn_of
from nimble_cradle.survey.pattern_types import (
    CheckedHoleReading,
    Columns,
    FoundHole,
    FoundPattern,
    HoleProposal,
    reading_words,
)


@lru_cache(maxsize=128)
def found_pattern(pattern: Pattern) -> FoundPattern:
    """Adjust a pattern. Never raises for what a pattern can hold."""
    columns = Columns(pattern)
    used = [reading for reading in pattern.readings if reading.used]
    rows = [observed_of(pattern, columns, r) for r in used]
    x = start_of(pattern, columns, rows)
    result, found = suspects(rows, x)
    want = {"clockwise": -1.0, "anticlockwise": 1.0, "unknown": 1.0}[pattern.turn]
    if not columns.from_pin and turn_of(columns.points(result.x)) * want < 0:
        mirrored = columns.points(result.x) * (1.0, -1.0)
        x = np.zeros(columns.size)
        for k, column in enumerate(columns.columns):
            if column >= 0:
                x[column] = mirrored.ravel()[k]
        result, found = suspects(rows, x)
    holes = _holes(pattern, columns, result)
    checked = _checked(pattern, used, rows, result, found)
    proposals = _proposals(pattern, columns, result)
    questions = pattern_questions(pattern, columns, rows, used, result, checked, found, holes)
    factor = float(np.sqrt(result.chi2 / result.dof)) if result.dof else 1.0
    return FoundPattern(holes, checked, tuple(questions), proposals, columns.from_pin, factor, result.dof)


def _holes(pattern: Pattern, columns: Columns, result: Adjustment) -> tuple[FoundHole, ...]:
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
    place = {reading.id: k for k, reading in enumerate(used)}
    alone = {k for k, rivals in found if not rivals}
    triples = [triple for triple, _ in broken_triples(pattern, rows, used)]
    if len(rows) <= Columns(pattern).size:  # flat geometry makes one look checked that nothing checks
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
    pattern: Pattern, columns: Columns, result: Adjustment, most: int = 3
) -> tuple[HoleProposal, ...]:
    """Centre distances not taken yet: those that pin something down first, then those that most lessen the
    largest doubt."""
    there = {
        frozenset((reading.hole, reading.other))
        for reading in pattern.readings
        if reading.used and reading.other
    }
    points = columns.points(result.x)
    rows = []
    variance = result.covariance.diagonal() if columns.size else np.zeros(0)
    wanted = np.zeros(columns.size)
    if columns.size:
        wanted[int(variance.argmax())] = 1.0
    for i, hole in enumerate(pattern.holes):
        for j in range(i + 1, len(pattern.holes)):
            b = pattern.holes[j]
            if frozenset((hole.id, b.id)) in there:
                continue
            d = points[i] - points[j]
            length = float(np.linalg.norm(d))
            row = np.zeros(columns.size)
            if length > 1e-6:
                for key, sign in ((hole.id, 1.0), (b.id, -1.0)):
                    for c, e in zip(columns.of(key), d / length, strict=True):
                        if c >= 0:
                            row[c] += sign * e
            pins = float(np.abs(result.free.T @ row).max(initial=0.0))
            gain = shrinks(result.covariance, wanted, row, 0.05)
            rows.append(
                (
                    -pins if pins > 1e-3 else 0.0,
                    -gain,
                    HoleProposal(hole.id, b.id, f"{i + 1} to {j + 1}, centres", length, pins > 1e-3),
                )
            )
    rows.sort(key=lambda r: (round(r[0], 6), r[1]))
    return tuple(proposal for *_, proposal in rows[:most])
