"""Structural steels: strengths of EN 10025-2:2004 and EN 10305-1:2010 in +N condition (from memory)."""

from __future__ import annotations

from dataclasses import dataclass

E_STEEL = 210_000.0
"""Young's modulus, MPa (EN 1993-1-1, 3.2.6)."""
G_STEEL = 81_000.0
"""Shear modulus, MPa (EN 1993-1-1, 3.2.6)."""
DENSITY_STEEL = 7.85e-6
"""kg/mm3 (7850 kg/m3; EN 1991-1-1, table A.4, has 77 to 78.5 kN/m3)."""


@dataclass(frozen=True)
class Steel:
    """Yield and tensile strength MPa, and the weld correlation factor of EN 1993-1-8 table 4.1."""

    yield_mpa: float
    tensile: float
    weld_beta: float


STEELS = {
    "S235": Steel(235, 360, 0.8),
    "S275": Steel(275, 410, 0.85),
    "S355": Steel(355, 470, 0.9),
    "E235": Steel(235, 340, 0.8),
    "E355": Steel(355, 490, 0.9),
}
