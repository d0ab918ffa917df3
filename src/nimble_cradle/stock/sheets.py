"""Sheets and plates one can buy."""

from __future__ import annotations

THICKNESSES = (1.0, 1.2, 1.5, 2.0, 2.5, 3.0, 4.0, 5.0, 6.0, 8.0, 10.0, 12.0, 15.0, 20.0)
"""Usual thicknesses, mm, of steel sheet and plate (common practice, no source; EN 10029 and EN 10131 give
their tolerances, from memory)."""
