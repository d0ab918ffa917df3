"""Engines on offer, told in words and as data."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from nimble_cradle.seat.candidates import Offer
from nimble_cradle.units import Display


def offers_text(found: Sequence[Offer], display: Display) -> str:
    """Candidates for a terminal, the best first."""
    lines = []
    for o in found:
        price = "" if o.trouble is None else f"; would have to go: {o.cuts} (trouble {o.trouble:g})"
        lines += [
            f"{o.name}: {o.kg:.0f} kg{price}; {o.mounts[0]} of {o.mounts[1]} chassis mounts can serve",
            f"  {o.words(display)}",
        ]
    return "\n".join(lines)


def offers_data(found: Sequence[Offer]) -> list[dict[str, Any]]:
    """The same as plain data; mm, kg, per cent."""
    return [
        {
            "id": o.id,
            "name": o.name,
            "seat": not o.refused,
            "refused": o.refused,
            "kg": round(o.kg, 1),
            "over_road_mm": round(o.low, 1),
            "behind_axle_mm": round(o.back, 1),
            "front_share_percent": round(o.share, 2),
            "driveline": o.line,
            "fouls": o.fouls,
            "has_to_go": o.cuts,
            "trouble": o.trouble,
            "mounts_serving": list(o.mounts),
        }
        for o in found
    ]
