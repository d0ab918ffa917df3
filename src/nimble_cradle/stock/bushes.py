"""Bonded bushes one can buy: usual sizes. A maker's own sizes belong in the user's rack."""

from __future__ import annotations

from typing import NamedTuple


class BushSize(NamedTuple):
    """Sizes mm of a bonded bush, and the hardness of its rubber."""

    sleeve_mm: float
    sleeve_bore_mm: float
    eye_bore_mm: float
    eye_wall_mm: float
    length_mm: float
    hardness_shore_a: float


FIRST = BushSize(22.0, 12.2, 70.0, 4.0, 54.0, 50.0)
"""What a first mount begins from: for a bolt M12 (common practice, no source)."""
