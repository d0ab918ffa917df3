"""The reading that is worth taking next."""

from __future__ import annotations

import numpy as np

from nimble_cradle.job.job import Job
from nimble_cradle.judge.found import Verdict
from nimble_cradle.survey.made import surface_row
from nimble_cradle.survey.network import network
from nimble_cradle.survey.next_reading import Proposal, next_readings


def next_to_measure(job: Job, v: Verdict, most: int = 3) -> tuple[str, tuple[Proposal, ...]]:
    """The readings that most lessen the doubt of the tightest gap that hangs on surveyed points (else of
    the least sure point), and what they are good for, in words. Points that are not pinned down come
    first."""
    net = network(job)
    if len(net.points) < 1:
        return "", ()
    wanted = np.zeros(3 * len(net.points))
    loose = [i for i, point in enumerate(net.points) if point.free]
    if loose:
        wanted[3 * loose[0] : 3 * loose[0] + 3] = 1.0
        return f"to pin down {net.points[loose[0]].name}", next_readings(job.survey, net, wanted, most)
    items = {item.id: item for item in job.items if item.made is not None}
    for gap in v.gaps:
        if gap.item in items:
            wanted = surface_row(items[gap.item], net, np.array(gap.on_item), np.array(gap.way))
            return f"for {gap.piece_name} – {gap.item_name}", next_readings(job.survey, net, wanted, most)
    worst = int(np.argmax([point.plus_minus.max() for point in net.points]))
    wanted[3 * worst + int(net.points[worst].plus_minus.argmax())] = 1.0
    return f"for {net.points[worst].name}, the least sure point", next_readings(job.survey, net, wanted, most)
