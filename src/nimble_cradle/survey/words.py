"""Readings and directions in a person's words."""

from __future__ import annotations

import numpy as np

from nimble_cradle.geometry.direction import AXIS_WORDS
from nimble_cradle.geometry.pose import Array
from nimble_cradle.job.survey import Reading, Survey

_OFFSETS = {
    "forward": ("forward of the datum", "behind the datum"),
    "left": ("left of the datum", "right of the datum"),
    "up": ("above the datum", "below the datum"),
    "from-left-wall": ("from the left wall",) * 2,
    "from-right-wall": ("from the right wall",) * 2,
}


def direction_words(way: Array) -> str:
    """A free direction (3,) as ``up and down``, or of two axes ``slantwise, forward with left and back
    with right``."""
    v = way / np.linalg.norm(way)
    order = np.argsort(-np.abs(v))
    first = int(order[0])
    if abs(v[first]) > 0.94:
        return " and ".join(AXIS_WORDS[first])
    second = int(order[1])
    same = v[first] * v[second] > 0
    a, b = AXIS_WORDS[first], AXIS_WORDS[second]
    return f"slantwise, {a[0]} with {b[0] if same else b[1]} and {a[1]} with {b[1] if same else b[0]}"


def point_name(survey: Survey, key: str) -> str:
    """A point as it stands on the sheet: its number and name."""
    for i, point in enumerate(survey.points, start=1):
        if point.id == key:
            return f"{i} {point.name}"
    return key


def reading_words(survey: Survey, reading: Reading) -> str:
    """``3 Tower, left of the datum`` or ``1 Rail end to 4 Rack mount, distance``; the side is told here,
    so that its value needs no sign."""
    a, below = point_name(survey, reading.point), reading.value_mm < 0
    if reading.kind in _OFFSETS:
        where = _OFFSETS[reading.kind][below]
        if reading.datum:
            where = where.replace(
                "the datum",
                next((datum.name for datum in survey.datums if datum.id == reading.datum), reading.datum),
            )
        return f"{a}, {where}"
    b = point_name(survey, reading.other)
    return {
        "distance": f"{a} to {b}, distance",
        "rise": f"{a} {'below' if below else 'above'} {b}",
        "plumb": f"{a} plumb with {b}",
    }[reading.kind]
