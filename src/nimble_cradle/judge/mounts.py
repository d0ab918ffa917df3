"""The mounts: the engine on them in every load case, their strength, and what is open about their metal."""

from __future__ import annotations

from collections.abc import Mapping
from contextlib import suppress
from dataclasses import replace

import numpy as np

from nimble_cradle.bay.corners import powertrain_corners
from nimble_cradle.bay.member import member_of, whole_items
from nimble_cradle.bay.position import pose_of
from nimble_cradle.calc import CalcError
from nimble_cradle.families.family import foot_family
from nimble_cradle.families.foot_seat import FootSeat
from nimble_cradle.families.strut_stand import on_chassis, told_of
from nimble_cradle.findings.finding import Finding, Problem
from nimble_cradle.findings.worst import MountCase
from nimble_cradle.fit.crossmember_ends import crossmember_questions
from nimble_cradle.fit.mount_metal import mount_questions
from nimble_cradle.fit.ribs import on_open_side, rib_at
from nimble_cradle.job.base import JobError
from nimble_cradle.job.cradle import Cradle
from nimble_cradle.job.foot import CROSSMEMBER
from nimble_cradle.job.job import Job
from nimble_cradle.job.mounts import Mount
from nimble_cradle.job.remember import remembered
from nimble_cradle.judge.carried import Carried, carried, crash_cases_of, mount_cases
from nimble_cradle.judge.cautions import AFTERWARDS, BUSHES, TACKING
from nimble_cradle.judge.crossmember import crossmember_findings
from nimble_cradle.judge.end_plates import end_questions
from nimble_cradle.judge.found import Verdict
from nimble_cradle.judge.gaps import clashes
from nimble_cradle.judge.guard import Guard, problem_of, said
from nimble_cradle.judge.heat import heat_questions
from nimble_cradle.judge.load_path import MountVerdict, mount_verdict
from nimble_cradle.judge.rails import rail_findings, unjudged_hosts
from nimble_cradle.made.foot_seats import foot_seats, strut_seat
from nimble_cradle.made.mount import held_parts
from nimble_cradle.mounts.captured import capture_check, road_check
from nimble_cradle.mounts.cradles import Standing, cradle_checks, cradle_questions
from nimble_cradle.mounts.give import standing_on
from nimble_cradle.mounts.mount_checks import check_foot, check_in_a_crash, check_mount
from nimble_cradle.mounts.retention import borne_once, once, weakest
from nimble_cradle.mounts.struts import (
    bracket_checks,
    bracket_questions,
    ears_checks,
    eye_questions,
    strut_checks,
    strut_questions,
)

CAUTION: tuple[str, ...] = (TACKING, BUSHES, AFTERWARDS)


def begun(job: Job) -> bool:
    """Whether there is a mount."""
    return bool(job.mounts)


def judge(job: Job) -> Verdict:
    """The engine on its mounts, findings of their strength, and both verdicts of each."""
    guard = Guard("mounts")
    asked = guard.rows("The metal of the mounts", lambda: mount_questions(job))
    guard.add(asked)
    result = guard.of("The engine on its mounts", lambda: carried(job), None)
    own = guard.of("The mounts", lambda: mount_findings(job), Verdict())
    guard.add(own.problems)
    ends = _of_crossmember(job)
    stands = guard.rows("The chassis side of the mounts", lambda: foot_questions(job))
    guard.add(stands)
    guard.add([problem for strut in job.struts for problem in strut_questions(strut)])
    guard.add(guard.rows("The heat of the welds", lambda: heat_questions(job, "mounts")))
    met = guard.rows("Room round the mounts", lambda: clashes(job))
    guard.add(problem for problem in met if problem.stage == "mounts")
    asked_of = [problem for cradle in job.cradles for problem in cradle_questions(cradle)]
    guard.add(asked_of)
    beams = guard.rows("What the mounts stand on, as beams", lambda: unjudged_hosts(job))
    guard.add(beams)
    every = (*asked, *stands, *ends, *asked_of, *met, *beams)
    found = (*own.findings, *crossmember_findings(job).findings, *rail_findings(job))
    return Verdict(
        carried=result,
        findings=own.findings,
        mounts=tuple(
            guard.of(mount.name, lambda: mount_verdict(job, mount, found, every), _unjudged(mount))
            for mount in job.mounts
        ),
        problems=tuple(guard.problems),
    )


def questions(job: Job, v: Verdict, before: int) -> list[str]:
    """Parts that hang low or do not hold, gaps that lack only when running, and the way to the rail."""
    asked = v.lowest.low_words() if v.lowest is not None and v.lowest.owner == "mounts" else []
    asked += [
        f"{gap.piece_name} – {gap.item_name}: fine at rest, {gap.state} when running: {gap.running_case}"
        for gap in v.gaps
        if gap.margin < 0 <= gap.margin_at_rest and gap.stage == "position"
    ]
    asked += [
        finding.fails_words() for finding in v.findings if finding.stage == "mounts" and finding.use > 1
    ]
    if (
        v.carried is None
        and job.mounts
        and not asked
        and not any(problem.stage == "mounts" for problem in v.problems)
    ):
        asked.append("waits for a powertrain that can be weighed")
    told = set(asked) | {problem.sentence for problem in v.problems}
    return asked + [
        mount.rail
        for mount in v.mounts
        if mount.rail and not any(sentence in told for sentence in mount.rail_questions)
    ]


def _of_crossmember(job: Job) -> tuple[Problem, ...]:
    """What is open about the crossmember, which may be a question of the mount that it carries."""
    guard = Guard("crossmember")
    return (
        *guard.rows("The crossmember's ends", lambda: crossmember_questions(job)),
        *guard.rows("The end plates", lambda: end_questions(job)),
    )


def _unjudged(mount: Mount) -> MountVerdict:
    """Of a mount that cannot be judged at all."""
    rail = f"{mount.name}: from bush to rail it is not described yet."
    sentence = f"{mount.name} cannot be judged with the figures given."
    return MountVerdict(mount.id, mount.name, "open", "not described yet", (sentence,), rail)


@remembered("mounts", "items", "survey", "meshes", "crossmember", "cradles", "openings", "struts", "panels")
def foot_questions(job: Job) -> tuple[Problem, ...]:
    """What is open about the chassis side of each mount that has one, and about what it stands on."""
    feet, out = foot_seats(job), []
    for mount in job.mounts:
        out += _beside_the_carried(job, mount)
        seat = feet.of(mount.id)
        if mount.id in feet.faults:
            out.append(problem_of("mounts", feet.faults[mount.id]))
        elif mount.foot is not None and seat is not None:
            out += _without_ribbed(job, seat, foot_family(mount.foot).questions(mount, seat))
            out += _over_a_hole(job, mount, seat) + _on_open_side(job, mount, seat)
    for strut in job.struts:
        out += eye_questions(strut)
        if strut.bracket is not None:
            out += [told_of(strut, asked) for asked in _beside_the_carried(job, on_chassis(strut))]
        try:
            seat = strut_seat(job, strut)
        except JobError as error:
            out.append(problem_of("mounts", error))
            continue
        if seat is not None:
            stand = on_chassis(strut)
            here = _over_a_hole(job, stand, seat) + _on_open_side(job, stand, seat)
            holes = [told_of(strut, asked) for asked in here]
            out += [*_without_ribbed(job, seat, bracket_questions(strut, seat)), *holes]
    return tuple(out)


def _beside_the_carried(job: Job, mount: Mount) -> list[Problem]:
    """What stands on the crossmember beside the mount that it carries: no sum of it knows of that."""
    cross = job.crossmember
    if cross is None or mount.foot is None or mount.foot.host != CROSSMEMBER or mount.id == cross.carries:
        return []
    carried = next((m.name for m in job.mounts if m.id == cross.carries), "one mount")
    said = f"{mount.name} stands on the crossmember, whose sums bear {carried} alone"
    return [Problem("mounts", f"mounts/{mount.id}/foot/host", f"{said}; put it on a rail, or on a cradle.")]


def _on_open_side(job: Job, mount: Mount, seat: FootSeat) -> list[Problem]:
    """A foot on the side of an open rail where there is no wall."""
    assert mount.foot is not None
    if not on_open_side(job, mount.foot.host, seat.axes[:, 2]):
        return []
    said = f"{mount.name} stands on the open side of {seat.host.name}, where there is no wall"
    return [Problem("mounts", f"mounts/{mount.id}/foot/way", f"{said}; turn its way, or box the rail there.")]


def _without_ribbed(job: Job, seat: FootSeat, asked: list[Problem]) -> list[Problem]:
    """Questions without the one for a rib where one stands under the seat."""
    place = f"{seat.host.place}host/ribbed"
    if not any(problem.place == place for problem in asked):
        return asked
    item = seat.host.place.removeprefix("items/").removesuffix("/")
    return [p for p in asked if p.place != place] if rib_at(job, item, seat.centre) else asked


def _over_a_hole(job: Job, mount: Mount, seat: FootSeat) -> list[Problem]:
    """Holes in a mount's host where it stands, in whichever wall: they are judged as whole ones. A cut from
    edge to edge is seen by where the foot stands."""
    assert mount.foot is not None
    out = []
    for opening in job.openings:
        if not opening.is_hole or opening.item != mount.foot.host:
            continue
        with suppress(JobError):  # what cannot be laid is asked about where it is cut
            item = next(i for i in whole_items(job) if i.id == opening.item)
            member = member_of(job, item)
            way = (member.end - member.start) / member.length
            at = float((seat.centre - member.start) @ way)
            own = [solid for part in held_parts(mount, seat) for solid in part.solids]
            ends = [(solid.triangles[0] - member.start) @ way for solid in own]
            reach = max((float(np.abs(e - at).max()) for e in ends), default=0.0)
            if opening.at_mm - reach < at < opening.at_mm + opening.long_mm + reach:
                said = f"{mount.name} stands on {item.name} where {opening.name} is cut in its wall"
                out.append(Problem("mounts", f"mounts/{mount.id}/foot/host", f"{said}; move one of them."))
    return out


@remembered(
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
)
def mount_findings(job: Job) -> Verdict:
    """Findings of all mounts, and problems for what could not be judged."""
    try:
        results = carried(job)
    except JobError as error:
        return Verdict(problems=(problem_of("mounts", error),))
    findings: list[Finding] = []
    problems: list[Problem] = []
    feet, crash = foot_seats(job), _in_a_crash(job, results, problems)
    for k, mount in enumerate(job.mounts):
        try:
            rows = mount_cases(results, mount)
            findings += check_mount(mount, pose_of(job.position), rows, job.allowables, job.loads)
            findings.append(capture_check(mount, results.mass.mass_kg, job.allowables))
            corners, road = powertrain_corners(job), job.vehicle.ground_z_mm
            findings.append(road_check(job.mounts, k, results.mass.mass_kg, corners, road))
            seat = feet.of(mount.id)
            if mount.id in crash:
                near, far = check_in_a_crash(
                    mount, pose_of(job.position), seat, crash[mount.id], job.allowables, job.loads
                )
                findings += weakest("retention", near) + weakest("foot-retention", far)
            if seat is not None:
                findings += check_foot(mount, seat, rows, job.allowables, job.loads)
        except Exception as error:  # the other mounts are judged all the same
            place = error.place if isinstance(error, JobError) and error.place else f"mounts/{mount.id}"
            name = "" if mount.name in str(error) else f"{mount.name} cannot be judged: "
            problems.append(Problem("mounts", place, f"{name}{said(error)}."))
    for strut in job.struts:
        try:
            pose, rows = pose_of(job.position), mount_cases(results, strut)
            findings += strut_checks(strut, pose, results.centre, pose.rotation[:, 0], rows, job.allowables)
            findings += ears_checks(strut, pose, rows, job.allowables, job.loads)
            seat = strut_seat(job, strut)
            if seat is not None:
                findings += bracket_checks(strut, seat, rows, job.allowables, job.loads)
        except Exception as error:  # the mounts are judged all the same, and lean on it
            place = error.place if isinstance(error, JobError) and error.place else f"struts/{strut.id}"
            problems.append(Problem("mounts", place, f"{strut.name}: {said(error)}."))
    more = _cradles(job, results, crash)
    return Verdict(findings=(*findings, *more.findings), problems=(*problems, *more.problems))


def _in_a_crash(job: Job, results: Carried, problems: list[Problem]) -> dict[str, list[MountCase]]:
    """What each mount meets in a crash; nothing where too few stop the powertrain in metal, which is
    asked."""
    try:
        return crash_cases_of(job, results)
    except JobError as error:
        problems.append(problem_of("mounts", error))
        return {}


def _struts_on(job: Job, cradle: Cradle, results: Carried) -> list[Standing]:
    """The struts whose brackets stand on a cradle; one that stands nowhere is asked about with the strut."""
    out = []
    for strut in job.struts:
        if strut.bracket is not None and strut.bracket.host == cradle.id:
            with suppress(JobError):
                seat = strut_seat(job, strut)
                if seat is not None:
                    out.append(Standing(on_chassis(strut), seat, mount_cases(results, strut)))
    return out


def _cradles(job: Job, results: Carried, crash: Mapping[str, list[MountCase]]) -> Verdict:
    """Findings of the cradles that mounts stand on."""
    findings: list[Finding] = []
    problems: list[Problem] = []
    for cradle in job.cradles:
        rows = [Standing(m, seat, mount_cases(results, m)) for m, seat in standing_on(job, cradle)]
        rows += _struts_on(job, cradle, results)
        if not rows:
            continue
        try:
            findings += cradle_checks(cradle, rows, job.allowables)
            thrown = [replace(row, cases=crash[row.mount.id]) for row in rows if row.mount.id in crash]
            if thrown:
                found = cradle_checks(cradle, thrown, once(job.allowables))
                findings += weakest("cradle-retention", borne_once(thrown[0].cases, found))
        except (JobError, CalcError) as error:  # said; the mounts on it stay open
            problems.append(Problem("mounts", f"cradles/{cradle.id}", f"{said(error)}."))
    return Verdict(findings=tuple(findings), problems=tuple(problems))
