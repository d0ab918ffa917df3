"""Engines on offer, told in words and as data."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from nimble_cradle.seat.candidates import Offer
from nimble_cradle.units import Display


def offers_text(found: Sequence[Offer], display: Display) -> str:
    """Candidates for a terminal, the best first."""
    lines = []
    for offer in found:
        price = (
            "" if offer.trouble is None else f"; would have to go: {offer.cuts} (trouble {offer.trouble:g})"
        )
        lines += [
            f"{offer.name}: {offer.kg:.0f} kg{price}; {offer.mounts[0]} of {offer.mounts[1]} chassis"
            " mounts can serve",
            f"  {offer.words(display)}",
        ]
    return "\n".join(lines)


def offers_data(found: Sequence[Offer]) -> list[dict[str, Any]]:
    """The same as plain data; mm, kg, per cent."""
    return [
        {
            "id": offer.id,
            "name": offer.name,
            "seat": not offer.refused,
            "refused": offer.refused,
            "kg": round(offer.kg, 1),
            "over_road_mm": round(offer.low, 1),
            "behind_axle_mm": round(offer.back, 1),
            "front_share_percent": round(offer.share, 2),
            "driveline": offer.line,
            "fouls": offer.fouls,
            "has_to_go": offer.cuts,
            "trouble": offer.trouble,
            "mounts_serving": list(offer.mounts),
        }
        for offer in found
    ]
