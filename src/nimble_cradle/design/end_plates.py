"""End plates for a crossmember that has none: on the rails' inner sides, the tube cut back for them."""

from __future__ import annotations

import numpy as np

from nimble_cradle.job.base import JobError
from nimble_cradle.job.edits import with_value
from nimble_cradle.job.end_plate import EndPlates
from nimble_cradle.job.job import Job
from nimble_cradle.made.end_plates import EndSeat, end_seats

EDGE = 8.0
"""A plate stays so many mm off the edges of the rail's wall (common practice, no source)."""


def with_end_plates(job: Job) -> Job:
    """The job with end plates as high as the rail's wall allows, the tube's ends on them. Raises JobError."""
    cross = job.crossmember
    if cross is None:
        raise JobError("There is no crossmember yet.", "crossmember")
    first = with_value(job, "crossmember/plates", EndPlates())
    seats = _seats(first)
    high = cross.section.height_mm
    # as high as its wall leaves room for about the tube, and no higher than is needed for two rows
    low = min(seat.face / 2 - EDGE - abs(seat.off) for seat in seats)
    other = min(80.0, max(high, 2 * (seats[0].face / 2 - EDGE)))
    up = 0.0
    if low < other / 2:
        up = float(round((other / 2 - low) * (1 if _below(seats[0]) else -1), 1))
    out = with_value(first, "crossmember/plates", EndPlates(other_mm=other, up_mm=up))
    assert out.crossmember is not None
    points = list(out.crossmember.points)
    for k, seat in ((0, seats[0]), (-1, seats[1])):
        moved = np.asarray(points[k]) - seat.open_mm * seat.axes[:, 2]
        points[k] = (round(float(moved[0]), 1), round(float(moved[1]), 1), round(float(moved[2]), 1))
    return with_value(out, "crossmember/points", tuple(points))


def _seats(job: Job) -> list[EndSeat]:
    out = []
    for seat in end_seats(job):
        if isinstance(seat, JobError):
            raise seat
        out.append(seat)
    return out


def _below(seat: EndSeat) -> bool:
    """Whether the tube meets the rail below its middle."""
    return seat.off < 0
