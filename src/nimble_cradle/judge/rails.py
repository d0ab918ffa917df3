"""Rails and members as beams under the mounts that stand on them."""

from __future__ import annotations

from contextlib import suppress
from dataclasses import dataclass

from nimble_cradle.findings.finding import Finding, Problem
from nimble_cradle.findings.worst import Cases
from nimble_cradle.fit.frame_loads import FrameUse, OneMore, frame_use, one_more_under, stands_of
from nimble_cradle.fit.frame_parts import same_rail
from nimble_cradle.job.base import JobError
from nimble_cradle.job.job import Job
from nimble_cradle.job.mounts import Mount
from nimble_cradle.job.remember import remembered
from nimble_cradle.job.strut import Strut
from nimble_cradle.judge.carried import carried, mount_cases
from nimble_cradle.strength.member_use import MEMBER_USE
from nimble_cradle.units import Display, show

READS = (
    "powertrain",
    "meshes",
    "position",
    "vehicle",
    "mounts",
    "loads",
    "allowables",
    "items",
    "survey",
    "crossmember",
    "struts",
    "cradles",
    "openings",
    "panels",
)
"""What the mounts' loads on the frame come from."""
NOT_IN_IT = (
    "Under the mounts' loads alone, with their factors: the body's own weight, its floor and skins are not in"
    " it."
)


@dataclass(frozen=True, eq=False)
class RailsJudged:
    """What the mounts ask of the frame; findings: of each bar, most used first."""

    use: FrameUse
    cases: tuple[str, ...]
    findings: tuple[Finding, ...]


@remembered(*READS, "show")
def rails_judged(job: Job) -> RailsJudged:
    """Every rail and member of known section under the mounts that stand on the frame. Raises JobError where
    there is no frame, no mount on it, or the engine cannot be weighed."""
    every = _cases(job)
    found = frame_use(job, {key: -cases.forces for key, cases in every.items()})
    cases = next(iter(every.values()))
    names = tuple(row.name for row in cases.rows)
    rests = "; where the rails rest is assumed" if found.assumed else ""
    findings = []
    for row in found.bars:
        worked = MEMBER_USE.work({"axial": "frame", "bending_up": "frame", "yield_mpa": "bay"}, **row.inputs)
        stress = row.use * row.inputs["yield_mpa"]
        findings.append(
            Finding(
                "rail",
                "chassis",
                row.bar.item,
                row.bar.name,
                f"as a beam, {station_words(float(row.place[0]), job.show.display)}{rests}",
                stress,
                row.inputs["yield_mpa"],
                "stress",
                row.use,
                names[row.case],
                float(cases.factors[row.case]),
                worked,
                "a rib or a boxing plate there, one more member, or a mount nearer to a member",
            )
        )
    return RailsJudged(found, names, tuple(findings))


def _cases(job: Job) -> dict[str, Cases]:
    """What every mount meets, and every strut whose bracket is described, by its id. Raises JobError."""
    results = carried(job)
    on: list[Mount | Strut] = [*job.mounts, *(s for s in job.struts if s.bracket is not None)]
    return {m.id: Cases.of(mount_cases(results, m), job.allowables) for m in on}


@remembered(*READS)
def one_more(job: Job) -> OneMore:
    """What one more member across would take off the hardest-used rail or member. Raises JobError."""
    return one_more_under(job, {key: -cases.forces for key, cases in _cases(job).items()})


def rail_findings(job: Job) -> tuple[Finding, ...]:
    """Rails and members of known section under the mounts that stand on them; none where there is no frame,
    or no engine that can be weighed: that is told in its room."""
    with suppress(JobError):
        return rails_judged(job).findings
    return ()


def unjudged_hosts(job: Job) -> tuple[Problem, ...]:
    """What mounts and struts stand on that nobody judges as a beam: an item that is no rail and ties none, or
    any where there is no frame. Nothing where the engine cannot be weighed, which is asked about."""
    try:
        carried(job)
    except JobError:
        return ()
    try:
        judged, tail = {f.part for f in rails_judged(job).findings}, "look at it and at what it is fixed to"
    except JobError as error:  # what the frame waits for
        judged, tail = set(), f"{error.message[:1].lower()}{error.message[1:].rstrip('.')}; or look at it"
    items, out = {item.id: item for item in job.items}, {}
    for mount in stands_of(job):
        item = None if mount.foot is None else items.get(mount.foot.host)
        if item is None or not item.chassis or item.host.looked_at == "looked at":
            continue
        host = item.host
        if host.section == "unsaid" or (host.wall_mm is None and host.section not in ("solid", "plate")):
            continue  # asked first
        if not same_rail(job).get(item.id, frozenset({item.id})) & judged:
            said = f"{item.name}, which {mount.name} stands on, is not judged as a beam here"
            out[item.id] = Problem(
                "mounts", f"items/{item.id}/host/looked_at", f"{said}: {tail}, and say so."
            )
    return tuple(out.values())


def station_words(x: float, display: Display) -> str:
    """``20 mm behind the front axle``, ``at the front axle``."""
    if abs(x) < 0.5:
        return "at the front axle"
    return f"{show(abs(x), 'length', display, 0)} {'before' if x > 0 else 'behind'} the front axle"


def rests_words(found: FrameUse, job: Job) -> str:
    """Where the rails are taken to rest, in a sentence."""
    both = " and ".join(station_words(x, job.show.display) for x in found.rests)
    return f"Both rails rest {both}{', assumed' if found.assumed else ''}."
