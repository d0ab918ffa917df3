"""Whether every part between engine and chassis rail is there and was judged: a formula for a part in
mid-air says nothing."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from nimble_cradle.bay.bodies import standing_items
from nimble_cradle.bay.nearest import nearest_item
from nimble_cradle.families.family import LoadPath
from nimble_cradle.findings.finding import Finding, Problem
from nimble_cradle.fit.frame_parts import same_rail
from nimble_cradle.job.base import JobError
from nimble_cradle.job.foot import CROSSMEMBER
from nimble_cradle.job.job import Job
from nimble_cradle.job.mounts import Mount
from nimble_cradle.job.strut import Strut
from nimble_cradle.made.end_plates import EndSeat, end_seats
from nimble_cradle.made.foot_seats import foot_seats, strut_seat
from nimble_cradle.mounts.cradles import codes_of
from nimble_cradle.mounts.end_checks import needed
from nimble_cradle.mounts.mount_checks import chassis_path, is_chassis, load_path, unjudged
from nimble_cradle.mounts.struts import bracket_path, ears_path

State = Literal["holds", "does not hold", "open"]
CROSSMEMBER_ENDS = "Crossmember: its end plates and their bolts to the rails are not described yet."
NOT_DESCRIBED: Literal["not described yet"] = "not described yet"


@dataclass(frozen=True)
class Link:
    """A part on the way from block to rail: its name, and its hardest finding (None: not judged)."""

    part: str
    finding: Finding | None

    @property
    def use(self) -> float | None:
        """The share of it that is used."""
        return None if self.finding is None else self.finding.use


@dataclass(frozen=True)
class MountVerdict:
    """Two verdicts of one mount: from the block to the bush, and from the bush to the rail. questions:
    what keeps the first open, in sentences; rail_questions: the second; rail: what is known of that, in a
    sentence, or empty where it holds. chain: every part from block to rail."""

    mount: str
    name: str
    block_to_bush: State
    bush_to_rail: Literal["not described yet", "holds", "does not hold", "open"]
    questions: tuple[str, ...]
    rail: str
    rail_questions: tuple[str, ...] = ()
    chain: tuple[Link, ...] = ()


def mount_verdict(
    job: Job, mount: Mount, findings: Sequence[Finding], asked: Sequence[Problem]
) -> MountVerdict:
    """What may be said of a mount. asked: all open questions; those whose place lies in this mount count."""
    mine = [finding for finding in findings if finding.part == mount.id]
    own = _asked(mount, asked, f"mounts/{mount.id}", but=f"mounts/{mount.id}/foot")
    own += _lacking(mount, mine, None) + _leans_on(job, mount, findings, asked)
    near = [finding for finding in mine if not is_chassis(finding)]
    block = _state(own, near)
    seat = foot_seats(job).of(mount.id)
    path = chassis_path(mount, seat)
    if mount.foot is None:
        rail = _rail_words(job, mount)
        chain = _chain(load_path(mount), near)
        return MountVerdict(mount.id, mount.name, block, NOT_DESCRIBED, own, rail, (), chain)
    far = [finding for finding in mine if is_chassis(finding)]
    rail_asked = _asked(mount, asked, f"mounts/{mount.id}/foot")
    if seat is not None:
        rail_asked += tuple(q.sentence for q in asked if q.place.startswith(seat.host.place))
    rail_asked += _lacking(mount, far, path) if path is not None else ()
    ends: list[Finding] = []
    if mount.foot.host == CROSSMEMBER and job.crossmember is not None:
        if job.crossmember.plates is None:
            rail_asked += (CROSSMEMBER_ENDS,)
        else:
            ends = [finding for finding in findings if finding.part == "crossmember"]
            own_ends = [finding for finding in ends if finding.code.startswith("end-")]
            rail_asked += tuple(dict.fromkeys(q.sentence for q in asked if q.stage == "crossmember"))
            seats = [seat for seat in end_seats(job) if isinstance(seat, EndSeat)]
            if len(own_ends) < needed(job.crossmember.plates, seats):
                rail_asked += (f"{mount.name}: not all is known of the crossmember's end plates.",)
    cradle = next((c for c in job.cradles if c.id == mount.foot.host), None)
    on_cradle: list[Finding] = []
    if cradle is not None:
        on_cradle = [finding for finding in findings if finding.part == cradle.id]
        if {finding.code for finding in on_cradle} < set(codes_of(cradle)):
            rail_asked += (f"{mount.name}: nothing is known of {cradle.name}, which it stands on.",)
    if path is None and not rail_asked:
        rail_asked = (f"{mount.name}: where it stands on the chassis is not known.",)
    pieces = same_rail(job).get(mount.foot.host, frozenset({mount.foot.host}))
    as_beam = [f for f in findings if f.code == "rail" and f.part in pieces]
    to_rail = _state(rail_asked, [*far, *on_cradle, *ends, *as_beam])
    words = {
        "open": f"{mount.name}: from bush to rail it is open: {rail_asked[0]}" if rail_asked else "",
        "does not hold": "",
        "holds": "",
    }[to_rail]
    chain = _chain((*load_path(mount), *(path or ())), mine)
    if cradle is not None:
        chain = (*chain, *_chain(((cradle.name, codes_of(cradle)),), on_cradle))
    if ends:
        chain = (*chain, *_crossmember_chain(ends))
    host = next((item for item in job.items if item.id == mount.foot.host), None)
    if host is not None:
        chain = (*chain, Link(f"{host.name} as a beam", max(as_beam, key=lambda f: f.use, default=None)))
    return MountVerdict(mount.id, mount.name, block, to_rail, own, words, rail_asked, chain)


def _crossmember_chain(findings: Sequence[Finding]) -> tuple[Link, ...]:
    """The tube and its ends, each with the worst of its findings."""
    out = []
    for name, start in (("Crossmember", "crossmember-"), ("its end plates", "end-")):
        own = [finding for finding in findings if finding.code.startswith(start)]
        out.append(Link(name, max(own, key=lambda f: f.use, default=None)))
    return tuple(out)


def _leans_on(
    job: Job, mount: Mount, findings: Sequence[Finding], asked: Sequence[Problem]
) -> tuple[str, ...]:
    """A mount's loads count on every torque strut: one whose ends are neither described nor looked at, of
    whose ears or bracket something is open or unknown, or that does not hold, leaves it open."""
    out = []
    for strut in job.struts:
        own = [finding for finding in findings if finding.part == strut.id]
        if not own or any(finding.use > 1 for finding in own):
            out.append(f"{mount.name}: its loads count on {strut.name}, which does not hold.")
        elif strut.ends != "looked at" and (strut.bracket is None or strut.ears is None):
            out.append(f"{mount.name}: its loads count on {strut.name}, whose ends nobody looked at.")
        elif any(q.place.startswith(f"struts/{strut.id}/") for q in asked) or not _held_judged(
            job, strut, own
        ):
            out.append(f"{mount.name}: its loads count on {strut.name}, of which something is open.")
    return tuple(out)


def _held_judged(job: Job, strut: Strut, findings: Sequence[Finding]) -> bool:
    """Whether every part of a strut's ears and bracket that is described has its findings."""
    try:
        seat = strut_seat(job, strut)
    except JobError:
        return False
    known = {finding.code for finding in findings}
    path = (*ears_path(strut), *(() if seat is None else bracket_path(strut, seat)))
    return all(known >= set(codes) for _, codes in path)


def _asked(mount: Mount, asked: Sequence[Problem], place: str, but: str = "\0") -> tuple[str, ...]:
    """Questions whose place lies in a part of the job."""
    return tuple(
        q.sentence
        for q in asked
        if (q.place == place or q.place.startswith(f"{place}/")) and not q.place.startswith(but)
    )


def _lacking(mount: Mount, findings: Sequence[Finding], path: LoadPath | None) -> tuple[str, ...]:
    missing = unjudged(mount, findings, path)
    return (f"{mount.name}: nothing is known of its {', '.join(missing)} yet.",) if missing else ()


def _state(asked: Sequence[str], findings: Sequence[Finding]) -> State:
    if asked:
        return "open"
    return "does not hold" if any(f.use > 1 for f in findings) else "holds"


def _chain(path: LoadPath, findings: Sequence[Finding]) -> tuple[Link, ...]:
    """Each part with the worst of its findings."""
    by_code = {finding.code: finding for finding in findings}
    out = []
    for part, codes in path:
        own = [by_code[code] for code in codes if code in by_code]
        worst = max(own, key=lambda f: f.use, default=None)
        out.append(Link(part, worst if len(own) == len(codes) else None))
    return tuple(out)


def _rail_words(job: Job, mount: Mount) -> str:
    """What stands nearest to a bush, of the chassis, and what it is made of."""
    tail = "nothing of the chassis is near it"
    try:
        chassis = [i for i in standing_items(job) if i.chassis]
        found = nearest_item(job, np.asarray(mount.bush.centre, dtype=float), chassis, 400.0)
    except JobError:  # said of the item itself
        found, tail = None, "what stands near it cannot be measured"
    if found is not None:
        item, away = found
        made = "not said what it is made of" if item.material == "unsaid" else item.material
        tail = f"nearest is {item.name}, {max(away, 0.0):.0f} mm from the bush's centre, {made}"
        if item.material in ("aluminium", "magnesium"):
            tail += ": steel cannot be welded to it"
        elif item.material == "single skin":
            tail += ": a mount is only as good as that"
    return f"{mount.name}: from bush to rail it is not described yet; {tail}."
