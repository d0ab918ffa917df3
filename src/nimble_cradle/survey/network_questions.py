"""What a network of points still asks: what is not pinned down, and what has a second place."""

from __future__ import annotations

import numpy as np

from nimble_cradle.geometry.pose import Array
from nimble_cradle.job.survey import Survey
from nimble_cradle.survey.adjust import Adjustment, Observed
from nimble_cradle.survey.observations import Unknowns
from nimble_cradle.survey.start import RowsOf, mirror_of
from nimble_cradle.survey.words import direction_words, point_name


def unpinned(survey: Survey, free: Array) -> list[str]:
    """What is not pinned down: points by themselves, then those that can only move together."""
    out, together = [], []
    for i, point in enumerate(survey.points):
        own = free[3 * i : 3 * i + 3]
        if not own.size or np.abs(own).max() <= 1e-3:
            continue
        alone = (
            not np.delete(free, range(3 * i, 3 * i + 3), axis=0)[:, np.abs(own).max(0) > 1e-3].size
            or np.abs(np.delete(free, range(3 * i, 3 * i + 3), axis=0)[:, np.abs(own).max(0) > 1e-3]).max()
            < 1e-3
        )
        if alone:
            u, s, _ = np.linalg.svd(own)
            ways = [direction_words(u[:, k]) for k in range(min(3, len(s))) if s[k] > 1e-3]
            out.append(
                f"{point_name(survey, point.id)} is not pinned down"
                f" {'any way' if len(ways) == 3 else ' nor '.join(ways)}"
            )
        else:
            together.append(point_name(survey, point.id))
    if together:
        most = ", ".join(together[:4]) + (f" and {len(together) - 4} more" if len(together) > 4 else "")
        out.append(
            f"{most} can still move together: measure one of them from the datum or from points that are"
            " known"
        )
    return out


def mirrors(
    survey: Survey, unknowns: Unknowns, rows: list[Observed], result: Adjustment
) -> list[tuple[str, str]]:
    """Points with a second place that fits as well, and where that is in words."""
    out = []
    of = RowsOf(unknowns, rows, result.x)
    for point in survey.points:
        if (
            point.given is not None
            or point.roughly is not None
            or np.abs(result.free[unknowns.at(point.id)]).max(initial=0.0) > 1e-3
        ):
            continue
        other = mirror_of(unknowns, of, result.x, point.id)
        if other is not None:
            shift = other - result.x[unknowns.at(point.id)]
            k = int(np.abs(shift).argmax())
            way = (
                ("further forward", "further back"),
                ("further left", "further right"),
                ("higher up", "lower down"),
            )[k][0 if shift[k] > 0 else 1]
            out.append((point.id, f"{abs(shift[k]):.0f} mm {way}"))
    return out
