"""Blunders: taped readings that the others contradict, found one after another and named in words."""

from __future__ import annotations

from collections.abc import Sequence

from nimble_cradle.geometry.pose import Array
from nimble_cradle.job.survey import Survey
from nimble_cradle.survey.adjust import Adjustment, Observed, adjust
from nimble_cradle.survey.network_types import CheckedReading
from nimble_cradle.survey.words import point_name


def suspects(
    rows: Sequence[Observed], start: Array, most: int = 5, done: Adjustment | None = None
) -> tuple[Adjustment, list[tuple[int, tuple[int, ...]]]]:
    """Adjustment of all rows, and the readings out of line, worst first: (number, those it cannot be told
    from). A reading found alone is left out and the rest looked at again, so that one blunder does not
    blame its neighbours. done: the adjustment, where it is there already.
    """
    first = done if done is not None else adjust(rows, start)
    found: list[tuple[int, tuple[int, ...]]] = []
    left = list(range(len(rows)))
    present = first
    while len(found) < most and (k := present.worst) is not None:
        rivals = tuple(left[j] for j in present.rivals(k))
        found.append((left[k], rivals))
        if rivals:
            break
        del left[k]
        present = adjust([rows[i] for i in left], present.x)
    return first, found


def blunder_words(checked: tuple[CheckedReading, ...]) -> list[str]:
    """A sentence for each reading that is out of line, and for those that cannot be told apart."""
    words = {reading.id: reading.words for reading in checked}
    out = [
        f"{reading.words}: out of line by {abs(reading.off):.1f} mm, reads too"
        f" {'long' if reading.off > 0 else 'short'}; take it again"
        for reading in checked
        if reading.state == "out of line"
    ]
    for c in checked:
        if c.state == "doubtful" and c.rivals:
            others = " or ".join(words.get(r, r) for r in c.rivals[:3]) + (
                " or others" if len(c.rivals) > 3 else ""
            )
            out.append(f"One of these is wrong, and no other reading tells which: {c.words}; {others}")
    return out


def broken_triangles(survey: Survey) -> list[str]:
    """A sentence for each side that is longer than the other two of its triangle together, beyond doubt."""
    sides: dict[frozenset[str], tuple[float, float]] = {}
    for reading in survey.readings:
        if reading.used and reading.kind == "distance":
            sides[frozenset((reading.point, reading.other))] = reading.value_mm, reading.give_or_take
    beside: dict[str, set[str]] = {}
    for a, b in (tuple(k) for k in sides):
        beside.setdefault(a, set()).add(b)
        beside.setdefault(b, set()).add(a)
    out = []
    for edge, (long, doubt) in sides.items():
        a, b = tuple(edge)
        for c in sorted(beside[a] & beside[b]):
            (p, dp), (q, dq) = sides[frozenset((a, c))], sides[frozenset((b, c))]
            if long > p + q + doubt + dp + dq:
                names = sorted((point_name(survey, a), point_name(survey, b)))
                out.append(
                    f"{names[0]} to {names[1]} ({long:g} mm) is longer than by way of {point_name(survey, c)}"
                    f" ({p + q:g} mm): they cannot all be right"
                )
    return out
