"""What has to be cut and bought, as rows and as CSV."""

from __future__ import annotations

import csv
import io
import re
from dataclasses import astuple, dataclass, fields

from nimble_cradle.families.part import MadePart
from nimble_cradle.files import cell
from nimble_cradle.fit.opened_member import MendPlate, opened_members
from nimble_cradle.job.base import JobError
from nimble_cradle.job.job import Job
from nimble_cradle.made.parts import made
from nimble_cradle.stock.rack import NOTHING, Picked, Rack

ALIKE = 5.0
"""A panel and a plate whose widths differ by less, mm, are one: a plate is reckoned from the middle of walls,
a panel drawn to their outside."""


@dataclass(frozen=True)
class CutRow:
    """One line of the cut list. Sizes mm, mass kg of one."""

    part: str
    quantity: int
    stock: str
    material: str
    size: str
    mass_kg: float
    note: str

    @property
    def size_words(self) -> str:
        """The size with its unit: ``112 x 92 mm``, ``101 mm long``."""
        return re.sub(r"(\d)(?= (?:long|high|at)\b|$)", r"\1 mm", self.size)


def cut_list(job: Job, rack: Rack = NOTHING) -> tuple[CutRow, ...]:
    """Rows for all made parts. A mount that cannot be made whole is left out (that is a problem). Where
    anything is on the rack, the note says whether the row's stock is, and what was not looked at."""
    every, picked = made(job), Picked(rack)
    rows: list[CutRow] = []
    for owner in dict.fromkeys(part.owner for part in every.parts):
        parts = every.of(owner)
        whole = owner not in every.faults and not any(part.templates and part.stock is None for part in parts)
        rows += [_row(part, picked) for part in parts if part.stock is not None] if whole else []
    return (*rows, *_mend_rows(job))


def _mend_rows(job: Job) -> list[CutRow]:
    """The plates that put back what is cut out of the chassis, but for those that are panels."""
    return [
        CutRow(
            f"{found.opening.name}: {plate.name}",
            left,
            f"sheet {plate.thick:g} mm",
            found.opening.steel,
            f"{plate.long:.0f} x {plate.wide:.0f}",
            round(plate.kg, 2),
            f"{found.opening.lap_mm:g} mm longer than the cut at each end, ends tapered; "
            + ("plug welded" if found.member.item.material == "single skin" else "welded all round"),
        )
        for found in opened_members(job)
        if not isinstance(found, JobError)
        for plate in found.plates
        if (left := plate.quantity - _as_panels(job, found.opening.id, plate)) > 0
    ]


def _as_panels(job: Job, opening_id: str, plate: MendPlate) -> int:
    """How many of a cut's plates are panels of the job: over it, or beside it as wide."""
    over = [panel for panel in job.panels if panel.over == opening_id]
    if plate.over:
        return sum(panel.role == "sheet" for panel in over)
    wide = [max(u for u, _ in p.outline) - min(u for u, _ in p.outline) for p in over if p.role == "doubler"]
    return sum(abs(w - plate.wide) < ALIKE for w in wide)


def _row(part: MadePart, picked: Picked) -> CutRow:
    s = part.stock
    assert s is not None
    note = s.note
    if not picked.rack.empty:
        note += f"; {picked.words(s.form, s.material, s.quantity)}"
    return CutRow(part.name, s.quantity, s.stock, s.material, s.size, s.mass_kg, note)


def cut_list_csv(job: Job, rack: Rack = NOTHING) -> str:
    """The cut list as CSV with a heading, one row a part."""
    stream = io.StringIO()
    writer = csv.writer(stream, lineterminator="\n")
    writer.writerow([field.name for field in fields(CutRow)])
    for row in cut_list(job, rack):
        writer.writerow([cell(v) for v in astuple(row)])
    return stream.getvalue()
