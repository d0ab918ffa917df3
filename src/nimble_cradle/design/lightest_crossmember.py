"""The gearbox crossmember of every section at hand, and of every family of shapes, the lightest first, and
what stops each that will not do."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, replace

from nimble_cradle.design.crossmember_shapes import shapes_of
from nimble_cradle.fit.crossmember_ends import crossmember_questions
from nimble_cradle.geometry.polyline import axis_length
from nimble_cradle.job.base import JobError, Vec3
from nimble_cradle.job.cross_section import CrossSection, told_of
from nimble_cradle.job.edits import with_value
from nimble_cradle.job.end_plate import EndPlates
from nimble_cradle.job.job import Job
from nimble_cradle.job.mounts import Crossmember, Mount
from nimble_cradle.judge.carried import at_rest, crash_cases_of, mount_cases
from nimble_cradle.judge.end_plates import end_questions
from nimble_cradle.judge.found import Verdict
from nimble_cradle.judge.mounts import foot_questions
from nimble_cradle.judge.verdict import verdict
from nimble_cradle.made.end_plates import EndSeat, end_seats
from nimble_cradle.mounts.crossmember_checks import crossmember_checks
from nimble_cradle.mounts.retention import borne_once, once
from nimble_cradle.stock.cross_sections import at_hand
from nimble_cradle.stock.rack import Rack
from nimble_cradle.stock.steels import STEELS
from nimble_cradle.strength.cross_section import figures_of

HOPELESS = 2.5
"""One that uses so many times what it has, under the loads of the present one, is not worked out anew."""
MOST_LOOKED = 16
"""So many that are strong enough are put in the car at most, the lightest first."""
MOST_OF_A_SHAPE = 6
"""So many of one shape are put in the car at most."""
LEAVES_OUT = (
    "Same ends and steel; end plates grow where it needs it. What is far too weak, or heavier than one that"
    " will do, is told under the present one's loads."
)

SHAPES = (
    "Straight, to a point, dropped in several ways with the same ends; led round what is in the way on one"
    " side where none of these will do."
)


@dataclass(frozen=True, eq=False)
class Candidate:
    """A section. kg: of the tube along its axis; uses: shares of stress, sag and crash, by word; stops: what
    stops it, in words, empty for one that will do; looked: whether it was put in the car. points: its line,
    None for the present one's; plates: grown so that the tube stands on them, None for the present ones."""

    name: str
    section: CrossSection
    steel: str
    kg: float
    uses: dict[str, float]
    stops: str
    looked: bool = False
    points: tuple[Vec3, ...] | None = None
    plates: EndPlates | None = None

    @property
    def will_do(self) -> bool:
        """Whether it holds, in the car."""
        return self.looked and not self.stops

    @property
    def words(self) -> str:
        """What stops it, or that nothing does."""
        return self.stops or ("nothing: it will do" if self.looked else "strong enough; not tried in the car")


def candidates_of(job: Job, rack: Rack) -> tuple[Candidate, ...]:
    """Every section at hand, the lightest first; those that are strong enough are put in the car until one
    does nothing worse than the present one. Raises JobError without a crossmember and its mount."""
    cross = job.crossmember
    mount = next((m for m in job.mounts if cross is not None and m.id == cross.carries), None)
    if cross is None or mount is None:
        raise JobError("There is no crossmember that carries a mount yet.", "crossmember")
    asked, now, looked = _asked(job), verdict(job), 0
    out: list[Candidate] = []
    for name, section, steel in _by_weight(rack, cross.steel):
        found = any(c.will_do for c in out)
        row = _strong(job, mount, None if found else asked, name, section, steel)
        if row.stops or found or looked >= MOST_LOOKED:
            out.append(row)
            continue
        looked += 1
        out.append(_in_the_car(job, now, row))
    return tuple(out)


def _by_weight(rack: Rack, steel: str) -> list[tuple[str, CrossSection, str]]:
    """What is at hand, the lightest first."""
    return sorted(at_hand(rack, steel), key=lambda row: figures_of(row[1]).own.kg_per_m)


def _strong(
    job: Job, mount: Mount, asked: frozenset[str] | None, name: str, section: CrossSection, steel: str
) -> Candidate:
    """One section under the loads of the present one; asked: what is open already, None: what is heavier than
    one that will do, of which no more is looked at."""
    cross = job.crossmember
    assert cross is not None
    plates = _grown(job, section)
    more = {} if plates is None else {"plates": plates}
    own = cross.model_copy(update={"section": section, "steel": steel, **more})
    kg = axis_length(own.points) / 1000 * figures_of(section).own.kg_per_m
    uses = _uses(job, job, own, mount)
    stops = _over(uses)
    if asked is not None and stops and max(uses.values()) < HOPELESS:  # a softer one is loaded less
        uses = _uses(with_value(job, "crossmember", own), job, own, mount)
        stops = _over(uses)
    if asked is not None and not stops:
        stops = "; ".join(sorted(_asked(with_value(job, "crossmember", own)) - asked)[:2])
    return Candidate(name, section, steel, kg, uses, stops, plates=plates)


def _grown(job: Job, section: CrossSection) -> EndPlates | None:
    """The end plates so large that a tube of that section stands on them with its weld; None where they are
    that already, or there are none."""
    cross = job.crossmember
    if cross is None or cross.plates is None:
        return None
    plates, weld = cross.plates, 2 * cross.plates.throat_mm
    seats = [seat for seat in end_seats(job) if isinstance(seat, EndSeat)]
    wide = section.over_mm
    other, along = plates.other_mm, max(plates.along_mm, wide + 2 * weld)
    if plates.where == "beside":
        off = max((abs(float((s.node - s.centre) @ s.axes[:, 1])) for s in seats), default=0.0)
        other = max(other, math.ceil(2 * off + section.height_mm + 2 * weld))
    if (other, along) == (plates.other_mm, plates.along_mm):
        return None
    return plates.model_copy(update={"other_mm": float(other), "along_mm": float(along)})


def _asked(job: Job) -> frozenset[str]:
    """What is open about the crossmember's ends, and about what stands on it: sentences."""
    rows = (*foot_questions(job), *end_questions(job), *crossmember_questions(job))
    return frozenset(row.sentence.rstrip(".") for row in rows)


def _uses(loaded: Job, job: Job, own: Crossmember, mount: Mount) -> dict[str, float]:
    """Shares of stress, sag and crash of a crossmember under the loads of one job."""
    results, at = at_rest(loaded), mount.bush.centre
    found = crossmember_checks(own, at, mount_cases(results, mount), job.allowables)
    crash = crash_cases_of(loaded, results).get(mount.id, [])
    held = borne_once(crash, crossmember_checks(own, at, crash, once(job.allowables))) if crash else []
    by = {finding.code: finding.use for finding in found}
    own_tone = {"tone": by["crossmember-tone"]} if "crossmember-tone" in by else {}
    named = {"stress": by["crossmember-stress"], "sag": by["crossmember-sag"]}
    return {**named, **own_tone, "crash": max((f.use for f in held), default=0.0)}


def _over(uses: dict[str, float]) -> str:
    return ", ".join(f"{word} {100 * use:.0f} %" for word, use in uses.items() if use > 1)


def with_candidate_section(job: Job, row: Candidate) -> Job:
    """The job with its crossmember of this section."""
    job = with_value(job, "crossmember/section", row.section)
    job = job if row.points is None else with_value(job, "crossmember/points", row.points)
    job = job if row.plates is None else with_value(job, "crossmember/plates", row.plates)
    return with_value(job, "crossmember/steel", row.steel) if row.steel in STEELS else job


def _in_the_car(job: Job, now: Verdict, row: Candidate) -> Candidate:
    """Put in: what fails then and does not now."""
    there = verdict(with_candidate_section(job, row))
    told = {f"{f.part}/{f.code}" for f in now.findings if f.use > 1}
    worse = [
        f"{f.part_name}, {f.what}" for f in there.findings if f.use > 1 and f"{f.part}/{f.code}" not in told
    ]
    lacking = {(g.piece, g.item) for g in now.gaps if g.margin < 0}
    asked = {(p.place, p.sentence) for p in now.problems}
    worse += [
        p.sentence.rstrip(".")
        for p in there.problems
        if p.stage in ("mounts", "crossmember") and (p.place, p.sentence) not in asked
    ]
    worse += [
        f"{g.piece_name} – {g.item_name}"
        for g in there.gaps
        if g.margin < 0 and (g.piece, g.item) not in lacking
    ]
    if there.lowest is not None and there.lowest.above_line < 0 <= getattr(now.lowest, "above_line", 0.0):
        worse.append("hangs below the lowest chassis line")
    worse = list(dict.fromkeys(worse))
    return replace(row, stops="; ".join(worse[:3]), looked=True)


def candidates_of_shapes(
    job: Job, rack: Rack, say: Callable[[str], None] = lambda _: None
) -> tuple[Candidate, ...]:
    """The lightest of each shape, those that will do first, then by weight; of a shape none of which will do
    the last that was put in the car, or the strongest. Nothing heavier is looked at than the lightest so
    far, and what is led round something only where nothing else will do. Raises JobError without a
    crossmember and its mount."""
    cross = job.crossmember
    mount = next((m for m in job.mounts if cross is not None and m.id == cross.carries), None)
    if cross is None or mount is None:
        raise JobError("There is no crossmember that carries a mount yet.", "crossmember")
    now, found = verdict(job), []
    least, asked = math.inf, _asked(job)
    for shape in shapes_of(cross, mount):
        if shape.round_something and math.isfinite(least):
            break
        say(f"Trying it {shape.name}")
        shaped = with_value(job, "crossmember/points", shape.points)
        try:
            best = _lightest(shaped, mount, rack, now, asked, least)
        except JobError as error:  # its legs are too short for the bends
            kg = axis_length(shape.points) / 1000 * figures_of(cross.section).own.kg_per_m
            own = told_of(cross.section)
            best = Candidate(own, cross.section, cross.steel, kg, {}, error.message.rstrip("."))
        if best is not None:
            found.append(replace(best, name=f"{shape.name}: {best.name}", points=shape.points))
            least = min(least, best.kg) if best.will_do else least
    return tuple(sorted(found, key=lambda c: (not c.will_do, c.kg)))


def _lightest(
    job: Job, mount: Mount, rack: Rack, now: Verdict, asked: frozenset[str], most: float
) -> Candidate | None:
    """The lightest section for the line that a job's crossmember has; None where each would weigh more than
    ``most`` kg."""
    cross = job.crossmember
    assert cross is not None
    long = axis_length(cross.points) / 1000
    rows = _by_weight(rack, cross.steel)
    last: Candidate | None = None
    looked = 0
    for name, section, steel in rows:
        if long * figures_of(section).own.kg_per_m >= most or looked >= MOST_OF_A_SHAPE:
            break
        row = _strong(job, mount, asked, name, section, steel)
        if row.stops:
            last = last if last is not None and last.looked else row
            continue
        looked += 1
        last = _in_the_car(job, now, row)
        if last.will_do:
            break
    return last
