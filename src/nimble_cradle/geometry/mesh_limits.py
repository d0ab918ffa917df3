"""What is read of a mesh at most, and what a reader gives."""

from __future__ import annotations

import numpy as np

MOST_TRIANGLES = 2_000_000
"""Twice the scan that the bench turns at a little over 20 frames a second on two cores."""
MOST_POINTS = 4_000_000
"""Corner points of a mesh: twice its triangles, though a closed one has half as many."""
MOST_MODEL = 400_000_000
"""Bytes of a packed model once it is unpacked: a file cannot fill the memory."""
MOST_THINGS = 4000
"""Parts and placements of parts in one file."""
MOST_JSON = 10_000_000
"""Bytes of a model's own description: a kilobyte and more for each of so many things."""
Points = np.ndarray
Faces = np.ndarray
Read = tuple[Points, Faces]


def too_many(triangles: int) -> ValueError:
    """What is said of a mesh that is too fine."""
    return ValueError(
        f"has {triangles:,} triangles; at most {MOST_TRIANGLES:,} are read: thin it out in the program that"
        " made it"
    )


class Told(ValueError):
    """A refusal with its own words."""
