"""Bars one can buy."""

from __future__ import annotations

FLATS = tuple(
    (width, thick)
    for width in (20, 25, 30, 40, 50, 60, 80, 100)
    for thick in (3, 4, 5, 6, 8, 10, 12, 15)
    if thick <= width / 2
)
"""Width and thickness, mm, of hot-rolled flats: EN 10058 (from memory), the sizes that a shop keeps."""
ROUNDS = (10, 12, 14, 16, 18, 20, 22, 25, 30, 35, 40, 50)
"""Diameters, mm, of hot-rolled rounds: EN 10060 (from memory)."""
