"""What is open about the crossmember's end plates: where they lie, what they lie on, how they are bolted."""

from __future__ import annotations

from nimble_cradle.findings.finding import Problem
from nimble_cradle.fit.ribs import on_open_side, rib_at
from nimble_cradle.job.base import JobError
from nimble_cradle.job.end_plate import EndPlates
from nimble_cradle.job.job import Job
from nimble_cradle.job.mounts import Crossmember
from nimble_cradle.judge.guard import problem_of
from nimble_cradle.made.end_plates import EndSeat, end_holes, end_seats
from nimble_cradle.stock.threads import thread

OPEN = 2.0
"""A weld fills so many mm between tube and plate at most (common practice, no source)."""
CLEAR = 3.0
"""A hole is so many mm wider than its bolt at most, its slot apart (common practice, no source)."""


def end_questions(job: Job) -> tuple[Problem, ...]:
    """In sentences; nothing without end plates."""
    cross = job.crossmember
    if cross is None or cross.plates is None:
        return ()
    out: list[Problem] = []
    for seat in end_seats(job):
        if isinstance(seat, JobError):
            out.append(problem_of("crossmember", seat))
        else:
            out += _of_seat(job, seat, cross.plates)
            out += _of_places(job, seat, cross, cross.plates)
    size = thread(cross.plates.bolt).diameter
    if cross.plates.through == "sleeves" and cross.plates.sleeve_mm < size + 2.0:
        said = f"a sleeve of {cross.plates.sleeve_mm:g} mm does not go over {cross.plates.bolt} bolts"
        out.append(_ask("sleeve_mm", f"The end plates: {said}."))
    if not size < cross.plates.hole_mm <= size + CLEAR:
        said = f"holes of {cross.plates.hole_mm:g} mm are not for {cross.plates.bolt} bolts"
        out.append(_ask("hole_mm", f"The end plates: {said}."))
    return tuple(out)


def _ask(field: str, sentence: str) -> Problem:
    return Problem("crossmember", f"crossmember/plates/{field}", sentence)


def _of_places(job: Job, seat: EndSeat, cross: Crossmember, plates: EndPlates) -> list[Problem]:
    """What is off: the tube's end off its plate, the plate off the rail's end or on a cut in it."""
    out, name, section = [], f"The crossmember's {seat.word} end", cross.section
    wide = section.over_mm
    beside = plates.where == "beside"
    off = abs(float((seat.node - seat.centre) @ seat.axes[:, 1])) if beside else 0.0
    high = section.height_mm if beside else 0.0
    if wide > plates.along_mm + 0.1 or off + high / 2 > plates.other_mm / 2 + 0.1:
        out.append(_ask("other_mm", f"{name}: it is not all on its plate, so its weld is not all there."))
    half = plates.along_mm / 2
    if seat.from_start < half or seat.from_start > seat.long - half:
        out.append(_ask("along_mm", f"{name}: its plate goes on beyond the end of {seat.item.name}."))
    for opening in job.openings:
        if opening.item == seat.item.id and (
            seat.from_start + half > opening.at_mm
            and seat.from_start - half < opening.at_mm + opening.long_mm
        ):
            out.append(_ask("along_mm", f"{name}: its plate lies where {opening.name} is cut."))
    if seat.item.host.section == "tube":
        out.append(_ask("where", f"{name}: {seat.item.name} is round, and a flat plate does not lie on it."))
    return out


def _of_seat(job: Job, seat: EndSeat, plates: EndPlates) -> list[Problem]:
    out, name = [], f"The crossmember's {seat.word} end"
    if abs(seat.open_mm) > OPEN:
        how = (
            f"{seat.open_mm:.1f} mm too short to reach"
            if seat.open_mm > 0
            else f"{-seat.open_mm:.1f} mm too far into"
        )
        out.append(Problem("crossmember", "crossmember/points", f"{name} is {how} its end plate."))
    host = seat.item.host
    wall = host.wall_mm if host.section not in ("solid", "plate") and host.wall_mm is not None else 0.0
    reach = max(abs(v) for _, v in end_holes(plates)) + plates.hole_mm / 2 + plates.slot_mm / 2
    if abs(seat.off) + reach > seat.face / 2:
        out.append(_ask("up_mm", f"{name}: a hole of its plate is off {seat.item.name}."))
    elif abs(seat.off) + reach > seat.face / 2 - wall:
        out.append(_ask("up_mm", f"{name}: a hole of its plate runs into a side wall of {seat.item.name}."))
    place = f"items/{seat.item.id}/host"
    if host.section == "unsaid":
        out.append(
            Problem("crossmember", f"{place}/section", f"{name}: say what section {seat.item.name} is.")
        )
    elif host.section not in ("solid", "plate") and host.wall_mm is None:
        said = f"{name}: measure the wall of {seat.item.name}, by calipers at a hole."
        out.append(Problem("crossmember", f"{place}/wall_mm", said))
    if host.section in ("open C", "plate", "solid") and plates.through == "sleeves":
        said = f"{name}: {seat.item.name} is not hollow, so no sleeve stands in it; nuts behind its wall"
        out.append(_ask("through", f"{said}."))
    if on_open_side(job, seat.item.id, seat.axes[:, 2]):
        said = f"{name} stands on the open side of {seat.item.name}, where there is no wall to bolt to"
        out.append(_ask("where", f"{said}; put its plate on another side, or box the rail there."))
    held = host.ribbed or host.boxed or rib_at(job, seat.item.id, seat.centre)
    if host.section == "open C" and not held:
        said = f"{name}: {seat.item.name} is open on one side: box it, or put a rib where the plate is."
        out.append(Problem("crossmember", f"{place}/ribbed", said))
    return out
