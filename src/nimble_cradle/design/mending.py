"""Ways to put back a member that is cut open: for each the thinnest sheet that leaves what is wanted, the
lightest way first."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import get_args

from nimble_cradle.bay.member import member_of, whole_items
from nimble_cradle.fit.opened_member import OpenedMember, Shares, opened_member
from nimble_cradle.job.base import JobError
from nimble_cradle.job.edits import free_id
from nimble_cradle.job.job import Job
from nimble_cradle.job.opening import Mend, Opening
from nimble_cradle.stock.rack import Rack

SHEETS = (1.0, 1.5, 2.0, 3.0, 4.0, 5.0, 6.0, 8.0, 10.0)
"""Thicknesses of sheet that are common, mm, where the rack has none."""
A_WELD = 0.002
"""So many kg more one way may weigh for every mm less to weld: what trouble counts beside weight (common
practice, no source)."""


@dataclass(frozen=True, eq=False)
class Way:
    """One way to put a member back. shares: what it leaves at the cut; enough: whether that is what is
    wanted."""

    mend: Mend
    thick: float
    kg: float
    weld_mm: float
    shares: Shares
    enough: bool

    @property
    def price(self) -> tuple[bool, float]:
        """The better first: enough, then weight with the trouble of welding."""
        return not self.enough, self.kg + A_WELD * self.weld_mm if self.enough else -self.shares.least


def ways_to_mend(job: Job, opening: Opening, rack: Rack) -> tuple[Way, ...]:
    """Every way with its thinnest sheet that is enough, or its thickest where none is; the best first. Raises
    JobError where the opening cannot be worked out."""
    sheets = sorted({sheet.thickness_mm for sheet in rack.sheets}) or list(SHEETS)
    opened_member(job, opening)
    out = [way for mend in get_args(Mend) if mend != "open" and (way := _way(job, opening, mend, sheets))]
    return tuple(sorted(out, key=lambda way: way.price))


def _way(job: Job, opening: Opening, mend: Mend, sheets: Sequence[float]) -> Way | None:
    last = None
    for thick in sheets:
        found = opened_member(job, opening.model_copy(update={"mend": mend, "mend_mm": thick}))
        if found.mended is None:
            return None
        last = _told(found)
        if last.enough:
            break
    return last


def _told(found: OpenedMember) -> Way:
    assert found.mended is not None
    o = found.opening
    return Way(o.mend, o.mend_mm, found.mend_kg, found.weld_mm, found.shares(found.mended), found.enough)


def first_opening(job: Job, item: str) -> Opening:
    """An opening to begin from: a quarter of the member's height out of its top, in its middle third. Raises
    JobError."""
    found = next((i for i in whole_items(job) if i.id == item), None)
    if found is None:
        raise JobError("Choose what is to be cut.", "openings")
    member = member_of(job, found)
    key = free_id("opening", {o.id for o in job.openings})
    return Opening(
        id=key,
        name=f"Opening in {found.name}"[:80],
        item=item,
        at_mm=round(member.length / 3),
        long_mm=round(member.length / 6),
        deep_mm=round(member.tall / 4),
    )
