"""What braces a frame before a member is cut: where, of what stock, and what it then carries."""

from __future__ import annotations

from dataclasses import dataclass

from nimble_cradle.fit.chassis_frame import Braced, braced
from nimble_cradle.fit.frame_parts import sorted_members
from nimble_cradle.fit.opened_member import opened_member
from nimble_cradle.job.base import JobError
from nimble_cradle.job.cross_section import told_of
from nimble_cradle.job.hollow_section import HollowSection
from nimble_cradle.job.job import Job
from nimble_cradle.job.opening import Opening
from nimble_cradle.stock.rack import Rack, section_of
from nimble_cradle.stock.steels import STEELS
from nimble_cradle.stock.tubes import SectionProperties, properties, stock
from nimble_cradle.units import G_STANDARD

BESIDE = (-220.0, -140.0, 140.0, 220.0)
"""A brace stands so far from the cut, mm, so that one can work between (common practice, no source)."""
ENOUGH = 0.98
"""So much of the twist there was is kept while it is cut."""


@dataclass(frozen=True, eq=False)
class Brace:
    """A brace across the rails. station: x, mm; kg: between the rails' middles; found: what it keeps; axial
    N and bending N m in it with one front wheel off the ground, stress MPa then; enough: whether it keeps
    what is wanted, and is not bent for good by that."""

    name: str
    station: float
    kg: float
    found: Braced
    axial: float
    bending: float
    stress: float
    enough: bool


def brace_for(job: Job, opening: Opening, rack: Rack) -> Brace | None:
    """The lightest of what is at hand that keeps ENOUGH of the frame's twist while a cut is open, the nearest
    place first; the stiffest tried where none does; None where the cut takes no more than that away. Raises
    JobError where the frame is not known."""
    member = opened_member(job, opening).member
    way = (member.end - member.start) / member.length
    at = member.start + (opening.at_mm + opening.long_mm / 2) * way
    rails, _, _ = sorted_members(job)
    low, high = max(rail.rear for rail in rails), min(rail.front for rail in rails)
    stations = [float(at[0]) + by for by in BESIDE if low < float(at[0]) + by < high]
    if not stations:
        where = f"openings/{opening.id}/at_mm"
        raise JobError("No place for a brace is on both rails beside this cut.", where)
    left, right = (bar.place(t) for bar, t in (rail.at_station(float(at[0])) for rail in rails))
    wide = abs(float(left[1] - right[1]))
    rows = sorted(_sections(rack), key=lambda row: row[1].kg_per_m)
    first = braced(job, stations[0], _figures(rows[len(rows) // 2][1]))
    if first.without >= ENOUGH:
        return None
    station = max(stations, key=lambda x: braced(job, x, _figures(rows[len(rows) // 2][1])).share)
    best: Brace | None = None
    for row in rows:
        tried = _tried(job, row, station, wide)
        if tried.enough:
            return tried
        if best is None or tried.found.share > best.found.share:
            best = tried
    return best


def _tried(job: Job, row: tuple[str, SectionProperties], station: float, wide: float) -> Brace:
    name, p = row
    found = braced(job, station, _figures(p))
    # one front wheel off the ground: what it carried twists the frame
    turning = job.vehicle.front_axle_kg * G_STANDARD / 2 * wide
    # bent all the worst way at once, which is the safe side
    stress = turning * (found.axial / p.area + found.bending / min(p.w_lying, p.w_standing))
    return Brace(
        name,
        station,
        p.kg_per_m * wide / 1000,
        found,
        found.axial * turning,
        found.bending * turning / 1000,
        stress,
        found.share >= ENOUGH and stress <= STEELS["S235"].yield_mpa,
    )


def _figures(p: SectionProperties) -> tuple[float, float, float, float]:
    return p.area, p.i_lying, p.i_standing, p.torsion


def _sections(rack: Rack) -> list[tuple[str, SectionProperties]]:
    at_hand: list[tuple[str, HollowSection]] = (
        [(told_of(section_of(t)), section_of(t)) for t in rack.tubes] if rack.tubes else list(stock().items())
    )
    return [(name, properties(section)) for name, section in at_hand]


def brace_words(brace: Brace | None) -> str:
    """What it is and what it carries, in sentences."""
    if brace is None:
        return "Open, the cut takes less than 2 % of the whole frame's twist: the frame asks for no brace."
    where = f"{abs(brace.station):.0f} mm {'before' if brace.station >= 0 else 'behind'} the front axle"
    keeps = f"{100 * brace.found.without:.0f} to {100 * brace.found.share:.0f} %"
    carries = f"{brace.bending:.0f} N m of bending, {brace.axial:.0f} N along it: {brace.stress:.0f} MPa"
    short = "" if brace.enough else " No stock at hand keeps what was there; brace both sides of the cut."
    return (
        f"{brace.name}, {brace.kg:.1f} kg, across {where}: the twist goes from {keeps} of what it was. With"
        f" one front wheel off the ground it carries {carries}.{short}"
    )
