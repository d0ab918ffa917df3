"""What a crossmember may be made of that one can buy or fold: hollow sections, flat bars lying and on edge,
channels folded from sheet."""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache

from nimble_cradle.job.cross_section import BarSection, CrossSection, FoldedSection, told_of
from nimble_cradle.stock.bars import FLATS
from nimble_cradle.stock.rack import Rack, section_of
from nimble_cradle.stock.tubes import stock

LEAST_THICK, LEAST_WIDE = 8.0, 40.0
"""A bar thinner or narrower is none for a crossmember, mm."""
SHEETS = (3.0, 4.0)
WEBS, LEGS, LIPS = (40.0, 60.0, 80.0), (30.0, 40.0, 50.0), (0.0, 20.0)
"""Channels that are tried: sheet, web over all, legs and lips outside, mm, folded round a radius as large as
the sheet is thick (common practice, no source)."""
TALLEST_EDGE = 60.0


@lru_cache(maxsize=1)
def every_section() -> dict[str, CrossSection]:
    """All by name, hollow ones first."""
    rows: dict[str, CrossSection] = dict(stock())
    made: list[CrossSection] = [*_bars(_FLATS), *_channels(SHEETS)]
    return rows | {told_of(section): section for section in made}


def at_hand(rack: Rack, steel: str) -> list[tuple[str, CrossSection, str]]:
    """Name, section and steel of what the rack has. Where it says nothing of tubes, those that one can buy
    too, of ``steel``, and of bars and sheets the same."""
    flats: list[tuple[float, float, str]] = [
        (b.width_mm, b.thickness_mm or 0.0, b.steel) for b in rack.bars if b.shape == "flat"
    ]
    sheets: list[tuple[float, str]] = [(sheet.thickness_mm, sheet.steel) for sheet in rack.sheets]
    rows: list[tuple[str, CrossSection, str]] = []
    for tube in rack.tubes:
        hollow = section_of(tube)
        rows.append((told_of(hollow), hollow, tube.steel))
    if not rack.tubes:
        rows += [(name, section, steel) for name, section in stock().items()]
        flats = flats if rack.bars else [(*size, steel) for size in _FLATS]
        sheets = sheets if rack.sheets else [(thick, steel) for thick in SHEETS]
    for wide, thick, of in flats:
        rows += [(told_of(s), s, of) for s in _bars([(wide, thick)])]
    for thick, of in sheets:
        rows += [(told_of(s), s, of) for s in _channels([thick])]
    return rows


_FLATS = [(float(wide), float(thick)) for wide, thick in FLATS]


def _bars(sizes: Sequence[tuple[float, float]]) -> list[BarSection]:
    out = []
    for wide, thick in sizes:
        if wide < LEAST_WIDE or thick < LEAST_THICK:
            continue
        out.append(BarSection(height_mm=thick, width_mm=wide))
        if wide <= TALLEST_EDGE:
            out.append(BarSection(height_mm=wide, width_mm=thick))
    return out


def _channels(sheets: Sequence[float]) -> list[FoldedSection]:
    return [
        FoldedSection(height_mm=leg, width_mm=web, wall_mm=t, radius_mm=t, lip_mm=lip, ribbed=True)
        for t in sheets
        if SHEETS[0] - 1 <= t <= SHEETS[-1] + 1
        for web in WEBS
        for leg in LEGS
        for lip in LIPS
    ]
