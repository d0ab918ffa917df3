"""The gearbox crossmember: its strength, the room round it, and where it ends."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from nimble_cradle.findings.finding import Finding, Problem
from nimble_cradle.findings.worst import MountCase
from nimble_cradle.fit.crossmember_ends import crossmember_questions
from nimble_cradle.fit.driveline import driveline
from nimble_cradle.job.base import JobError
from nimble_cradle.job.job import Job
from nimble_cradle.job.loads import Allowables
from nimble_cradle.job.mounts import Crossmember, Mount
from nimble_cradle.job.remember import remembered
from nimble_cradle.judge.carried import carried, crash_cases_of, mount_cases
from nimble_cradle.judge.cautions import TACKING
from nimble_cradle.judge.end_plates import end_questions
from nimble_cradle.judge.found import Verdict
from nimble_cradle.judge.gaps import clashes
from nimble_cradle.judge.guard import Guard, problem_of
from nimble_cradle.judge.load_path import CROSSMEMBER_ENDS
from nimble_cradle.made.end_plates import EndSeat, end_seats
from nimble_cradle.mounts.crossmember_checks import crossmember_checks
from nimble_cradle.mounts.end_checks import end_checks
from nimble_cradle.mounts.retention import borne_once, once, weakest
from nimble_cradle.strength.beam import CROSSMEMBER_DRIVELINE

CAUTION: tuple[str, ...] = (TACKING,)


def begun(job: Job) -> bool:
    """Whether there is a crossmember, or a gearbox mount that wants one."""
    return job.crossmember is not None or (
        job.powertrain.gearbox.kind != "transaxle" and any(mount.carries == "gearbox" for mount in job.mounts)
    )


def judge(job: Job) -> Verdict:
    """Its ends, findings of its strength, and the room round it."""
    guard = Guard("crossmember")
    guard.add(guard.rows("The crossmember's ends", lambda: crossmember_questions(job)))
    own = guard.of("The crossmember", lambda: crossmember_findings(job), Verdict())
    guard.add(own.problems)
    guard.add(guard.rows("The end plates", lambda: end_questions(job)))
    guard.add(
        p for p in guard.rows("Room round the crossmember", lambda: clashes(job)) if p.stage == "crossmember"
    )
    return Verdict(findings=own.findings, problems=tuple(guard.problems))


def questions(job: Job, v: Verdict, before: int) -> list[str]:
    """Whether it hangs low or does not hold, and what is not described yet."""
    asked = v.lowest.low_words() if v.lowest is not None and v.lowest.owner == "crossmember" else []
    asked += [
        finding.fails_words() for finding in v.findings if finding.stage == "crossmember" and finding.use > 1
    ]
    if job.crossmember is not None and job.crossmember.plates is None:
        asked.append(CROSSMEMBER_ENDS)
    return asked


@remembered(
    "powertrain",
    "meshes",
    "position",
    "vehicle",
    "mounts",
    "loads",
    "allowables",
    "crossmember",
    "items",
    "survey",
    "struts",
    "cradles",
    "openings",
    "propshaft",
    "joint_limits",
)
def crossmember_findings(job: Job) -> Verdict:
    """Findings of the gearbox crossmember, and problems for what could not be judged."""
    cross = job.crossmember
    if cross is None:
        return Verdict()
    mount = next((mount for mount in job.mounts if mount.id == cross.carries), None)
    if mount is None:
        return _asks("crossmember/carries", "The crossmember carries no mount yet.")
    try:
        cases = mount_cases(carried(job), mount)
    except JobError:
        return _asks("mounts", "The crossmember waits for mounts that hold the powertrain.")
    try:
        found = crossmember_checks(cross, mount.bush.centre, cases, job.allowables)
        held = _in_a_crash(job, cross, mount)
        ends = _ends(job, cross, mount, cases, job.allowables)
        return Verdict(findings=(*found, *held, *_of_driveline(job, mount, found), *ends))
    except JobError as error:
        return Verdict(problems=(problem_of("crossmember", error),))


def _in_a_crash(job: Job, cross: Crossmember, mount: Mount) -> list[Finding]:
    """Whether it holds its mount in a crash; nothing where that mount is not stopped in metal, which the
    mounts ask."""
    try:
        cases = crash_cases_of(job, carried(job)).get(mount.id)
    except JobError:
        return []
    if cases is None:
        return []
    at, allow = mount.bush.centre, once(job.allowables)
    found = [*crossmember_checks(cross, at, cases, allow), *_ends(job, cross, mount, cases, allow)]
    return weakest("crossmember-retention", borne_once(cases, found))


def _of_driveline(job: Job, mount: Mount, found: Sequence[Finding]) -> list[Finding]:
    """Whether its sag leaves the joints of the propshaft within their limits; nothing where they are out of
    them already, which is said of the driveline."""
    sag = next((f for f in found if f.code == "crossmember-sag"), None)
    others = [m.bush.centre[0] for m in job.mounts if m.id != mount.id]
    if sag is None or not others or job.powertrain.gearbox.kind == "transaxle":
        return []
    try:
        now = driveline(job)
    except JobError:  # said of the driveline
        return []
    spare = job.joint_limits.most_deg - max(now.angles or (now.front, now.rear))
    apart = abs(mount.bush.centre[0] - sum(others) / len(others))
    if spare <= 0 or apart < 1.0:
        return []
    worked = CROSSMEMBER_DRIVELINE.work(
        {"sag": "space frame", "apart": "job", "spare": "driveline"}, sag=sag.load, apart=apart, spare=spare
    )
    return [
        replace(
            sag,
            code="crossmember-driveline",
            what="angle of the propshaft as it sags",
            load=worked.value("turned"),
            capacity=spare,
            kind="angle",
            use=worked.value("use"),
            worked=worked,
        )
    ]


def _ends(
    job: Job, cross: Crossmember, mount: Mount, cases: Sequence[MountCase], allow: Allowables
) -> list[Finding]:
    """Findings of its end plates; none where they are not described."""
    seats = [seat for seat in end_seats(job) if isinstance(seat, EndSeat)]
    return end_checks(cross, seats, mount.bush.centre, cases, allow) if seats else []


def _asks(place: str, sentence: str) -> Verdict:
    return Verdict(problems=(Problem("crossmember", place, sentence),))
