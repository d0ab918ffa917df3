"""The gearbox crossmember of every section at hand, the lightest first, and what stops each that will not
do."""

from __future__ import annotations

from dataclasses import dataclass

from nimble_cradle.geometry.polyline import axis_length
from nimble_cradle.job.base import JobError
from nimble_cradle.job.edits import with_value
from nimble_cradle.job.hollow_section import HollowSection
from nimble_cradle.job.job import Job
from nimble_cradle.job.mounts import Crossmember, Mount
from nimble_cradle.judge.carried import carried, crash_cases_of, mount_cases
from nimble_cradle.judge.found import Verdict
from nimble_cradle.judge.verdict import verdict
from nimble_cradle.mounts.crossmember_checks import crossmember_checks
from nimble_cradle.mounts.retention import borne_once, once
from nimble_cradle.stock.rack import Rack, section_of
from nimble_cradle.stock.steels import STEELS
from nimble_cradle.stock.tubes import properties, stock

HOPELESS = 2.5
"""One that uses so many times what it has, under the loads of the present one, is not worked out anew."""
MOST_LOOKED = 16
"""So many that are strong enough are put in the car at most, the lightest first."""
LEAVES_OUT = (
    "Same line, ends, end plates and steel. What is far too weak is told under the present one's loads."
)


@dataclass(frozen=True, eq=False)
class Candidate:
    """A section. kg: of the tube along its axis; uses: shares of stress, sag and crash, by word; stops: what
    stops it, in words, empty for one that will do; looked: whether it was put in the car."""

    name: str
    section: HollowSection
    steel: str
    kg: float
    uses: dict[str, float]
    stops: str
    looked: bool = False

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
    rows = sorted((_strong(job, mount, *row) for row in _sections(rack, cross.steel)), key=lambda c: c.kg)
    now, looked = verdict(job), 0
    out: list[Candidate] = []
    for row in rows:
        if row.stops or looked >= MOST_LOOKED or any(c.will_do for c in out):
            out.append(row)
            continue
        looked += 1
        out.append(_in_the_car(job, now, row))
    return tuple(out)


def _sections(rack: Rack, steel: str) -> list[tuple[str, HollowSection, str]]:
    if rack.tubes:
        return [(section_of(t).stock or _name(section_of(t)), section_of(t), t.steel) for t in rack.tubes]
    return [(name, section, steel) for name, section in stock().items()]


def _name(s: HollowSection) -> str:
    return f"{s.shape} {s.height_mm:g}x{s.width_mm:g}x{s.wall_mm:g}"


def _strong(job: Job, mount: Mount, name: str, section: HollowSection, steel: str) -> Candidate:
    """One section under the loads of the present one."""
    cross = job.crossmember
    assert cross is not None
    own = cross.model_copy(update={"section": section, "steel": steel})
    kg = axis_length(own.points) / 1000 * properties(section).kg_per_m
    uses = _uses(job, job, own, mount)
    stops = _over(uses)
    if stops and max(uses.values()) < HOPELESS:  # a softer one is loaded less
        uses = _uses(with_value(job, "crossmember", own), job, own, mount)
        stops = _over(uses)
    return Candidate(name, section, steel, kg, uses, stops)


def _uses(loaded: Job, job: Job, own: Crossmember, mount: Mount) -> dict[str, float]:
    """Shares of stress, sag and crash of a crossmember under the loads of one job."""
    results, at = carried(loaded), mount.bush.centre
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
    return with_value(job, "crossmember/steel", row.steel) if row.steel in STEELS else job


def _in_the_car(job: Job, now: Verdict, row: Candidate) -> Candidate:
    """Put in: what fails then and does not now."""
    there = verdict(with_candidate_section(job, row))
    told = {f"{f.part}/{f.code}" for f in now.findings if f.use > 1}
    worse = [
        f"{f.part_name}, {f.what}" for f in there.findings if f.use > 1 and f"{f.part}/{f.code}" not in told
    ]
    lacking = {(g.piece, g.item) for g in now.gaps if g.margin < 0}
    worse += [
        f"{g.piece_name} – {g.item_name}"
        for g in there.gaps
        if g.margin < 0 and (g.piece, g.item) not in lacking
    ]
    if there.lowest is not None and there.lowest.above_line < 0 <= getattr(now.lowest, "above_line", 0.0):
        worse.append("hangs below the lowest chassis line")
    return Candidate(row.name, row.section, row.steel, row.kg, row.uses, "; ".join(worse[:3]), True)
