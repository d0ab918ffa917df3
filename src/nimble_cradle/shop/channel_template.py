"""The legs of a folded crossmember, flat, at 1:1."""

from __future__ import annotations

import numpy as np

from nimble_cradle.job.cross_section import FoldedSection
from nimble_cradle.job.mounts import Crossmember
from nimble_cradle.made.folded_channel import flat_legs, folded_flat
from nimble_cradle.shop.page import Drawing, Mark, Text, path

BETWEEN = 25.0
"""Between two legs on the sheet, mm."""


def channel_drawing(crossmember: Crossmember, section: FoldedSection) -> Drawing:
    """All legs one under the other, the left one above; dashed: folds."""
    marks: list[Mark] = []
    wide, _ = folded_flat(section)
    legs = flat_legs(crossmember.points, section)
    for k, leg in enumerate(legs):
        down = np.array([0.0, -k * (wide + BETWEEN)])
        marks.append(path(leg.outline + down, closed=True))
        low = leg.outline[:, 0].max() - 90
        for y, start, end, way in leg.folds:
            marks.append(path([(start, y + down[1]), (end, y + down[1])], layer="MARK"))
            said = "away from me" if way == "away" else "towards me"
            marks.append(Text((start + 12, y + down[1] + 1.5), f"fold {said}, 90 deg", 3.2))
        marks.append(Text((low, down[1] - 2), f"leg {k + 1} of {len(legs)}, web, seen from above", 3.5))
    notes = (
        f"Crossmember: {section.wall_mm:g} mm {crossmember.steel}, folded with an inside radius of"
        f" {section.radius_mm:g} mm; lines are the middles of the bends. The car's left is at the left, its"
        " front above.",
        "Mitres are cut to the outside: dress the inside edge until both legs meet. Fold a strip of scrap"
        " first and measure it.",
    )
    return Drawing("channel", "Crossmember: folded channel", tuple(marks), notes)
