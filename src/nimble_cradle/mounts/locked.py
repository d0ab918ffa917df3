"""What a bolt that is forced locks in, through all that gives: the mount itself, what it stands on, and the
engine on its other mounts. Vehicle frame; mm, N."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from nimble_cradle.geometry.pose import Array
from nimble_cradle.mounts.springs import Spring, body_stiffness, motion_at

MISFIT = 0.5
"""A hole that is out by so many mm is told of (common practice, no source)."""
HELD = 1e-9
"""Ways in which the others leave the engine free are held so little beside their stiffest."""


def forced_stiffness(springs: Sequence[Spring], number: int, centre: Array) -> float:
    """N/mm that the bolt of one of the springs meets in the way in which it meets most, when it is forced:
    (C own + C of the engine on the others)^-1, its greatest eigenvalue. centre: of gravity (3,)."""
    own = springs[number]
    others = body_stiffness([s for i, s in enumerate(springs) if i != number], centre)
    at = motion_at(own.centre - centre)
    scale = np.array([1.0, 1.0, 1.0, 300.0, 300.0, 300.0])
    size = others / np.outer(scale, scale)
    size = size + HELD * max(float(np.linalg.eigvalsh(size)[-1]), 1.0) * np.eye(6)
    reach = at / scale
    soft = own.matrix + HELD * max(float(np.abs(own.matrix).max()), 1.0) * np.eye(3)  # a puck may have lifted
    gives = np.linalg.inv(soft) + own.give + reach @ np.linalg.inv(size) @ reach.T
    return 1 / float(np.linalg.eigvalsh(gives)[0])
