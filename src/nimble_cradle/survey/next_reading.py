"""The next reading worth taking: of all that are not there yet, the one that most lessens the doubt that
is asked about."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from nimble_cradle.geometry.pose import Array
from nimble_cradle.job.survey import Reading, Survey
from nimble_cradle.survey.adjust import COVER, shrinks
from nimble_cradle.survey.network_types import Network
from nimble_cradle.survey.words import reading_words


@dataclass(frozen=True)
class Proposal:
    """A reading to take (its value is still open), about what it will read, and the doubt before and
    after, mm (two sigma; without end while something is free). pins: it pins down something that was free."""

    reading: Reading
    words: str
    value_mm: float
    doubt_before_mm: float
    doubt_after_mm: float
    pins: bool


def next_readings(survey: Survey, net: Network, wanted: Array, most: int = 3) -> tuple[Proposal, ...]:
    """The best readings for the doubt of ``wanted`` . x, where x are all point coordinates (3 n,) and wanted
    is a gap's change with them.

    Only tape readings: offsets from the main datum, and distances of 100 to 3000 mm; those that pin down a
    free direction come first.
    """
    at = np.array([point.at for point in net.points])
    there = {(r.kind, *sorted((r.point, r.other))) for r in survey.readings if r.used and not r.datum}
    before = float(wanted @ net.covariance @ wanted)
    near = [i for i in range(len(at)) if np.abs(wanted[3 * i : 3 * i + 3]).max() > 1e-9] or list(
        range(len(at))
    )
    free_wanted = net.free.T @ wanted if net.free.size else np.zeros(0)
    out: list[tuple[float, float, Proposal]] = []
    for reading, row, value in _candidates(net, at, near, there):
        sigma = reading.give_or_take / COVER
        pins = float(np.abs(net.free.T @ row) @ np.abs(free_wanted)) if free_wanted.size else 0.0
        gain = shrinks(net.covariance, wanted, row, sigma)
        after = COVER * float(np.sqrt(max(before - gain, 0.0)))
        pinning = pins > 1e-3
        now, then = (
            (COVER * before**0.5, after)
            if not free_wanted.size or np.abs(free_wanted).max() < 1e-3
            else (np.inf, np.inf)
        )
        out.append(
            (
                -pins if pinning else 0.0,
                -gain,
                Proposal(reading, reading_words(survey, reading), value, now, then, pinning),
            )
        )
    out.sort(key=lambda row: (round(row[0], 6), row[1]))
    return tuple(proposal for *_, proposal in out[:most])


def _candidates(
    net: Network, at: Array, near: list[int], there: set[tuple[str, ...]]
) -> list[tuple[Reading, Array, float]]:
    rows = []
    n = len(at)
    for i in near:
        a = net.points[i]
        for axis, kind in enumerate(("forward", "left", "up")):
            if (kind, "", a.id) not in there:
                row = np.zeros(3 * n)
                row[3 * i + axis] = 1.0
                rows.append(
                    (Reading(id=f"next-{a.id[:20]}-{kind}", kind=kind, point=a.id), row, float(at[i, axis]))
                )
        for j in range(n):
            b = net.points[j]
            d = at[i] - at[j]
            size = float(np.linalg.norm(d))
            if (
                i == j
                or ("distance", *sorted((a.id, b.id))) in there
                or not 100 <= size <= 3000
                or (j in near and j < i)
            ):
                continue
            row = np.zeros(3 * n)
            row[3 * i : 3 * i + 3], row[3 * j : 3 * j + 3] = d / size, -d / size
            rows.append(
                (
                    Reading(id=f"next-{i}-{j}", kind="distance", point=a.id, other=b.id, value_mm=size),
                    row,
                    size,
                )
            )
    return rows
