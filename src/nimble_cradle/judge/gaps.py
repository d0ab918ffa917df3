"""All gaps of a job: its pieces, what is made, its shafts and rods, against everything that they do not
belong to."""

from __future__ import annotations

from contextlib import suppress

from nimble_cradle.bay.position import pose_of
from nimble_cradle.findings.finding import Problem
from nimble_cradle.fit.gap import Gap
from nimble_cradle.fit.gaps import Fittings, fitting_gaps, gaps_at_rest, piece_rooms
from nimble_cradle.fit.gaps_running import gaps_running
from nimble_cradle.fit.link_gaps import link_gaps
from nimble_cradle.fit.made_gaps import engine_made_gaps, made_gaps_running
from nimble_cradle.geometry.pose import Pose
from nimble_cradle.job.base import JobError
from nimble_cradle.job.job import Job
from nimble_cradle.job.remember import remembered
from nimble_cradle.judge.carried import carried
from nimble_cradle.judge.guard import problem_of

CARRYING = (
    "items",
    "survey",
    "powertrain",
    "meshes",
    "clearances",
    "position",
    "vehicle",
    "mounts",
    "loads",
    "crossmember",
    "struts",
    "cradles",
)
"""What a gap with the engine running is read from."""


@remembered(
    "items", "survey", "powertrain", "meshes", "clearances", "position", "suspensions", "vehicle", "openings"
)
def piece_gaps(job: Job) -> tuple[Gap, ...]:
    """Gaps of the pieces and of the rooms that they need to the bay, with the engine still, tightest first.
    Raises JobError."""
    pose = pose_of(job.position)
    rows = gaps_at_rest(job, pose) + fitting_gaps(job, pose, Fittings(piece_rooms(job)))
    return tuple(sorted(rows, key=lambda g: g.margin_at_rest))


def rest_gaps(job: Job) -> tuple[Gap, ...]:
    """Gaps with the engine still of all that hangs on it to the bay, tightest first: what is measured while a
    key is held. Raises JobError."""
    return tuple(sorted(piece_gaps(job) + engine_made_gaps(job), key=lambda g: g.margin_at_rest))


def poses_of(job: Job) -> list[tuple[str, Pose]]:
    """Where the powertrain stands in every case (name, pose); none where its mounts cannot be solved."""
    with suppress(JobError):  # said elsewhere; then it is looked at as it stands
        return [(case.case.name, case.pose) for case in carried(job).stands]
    return []


@remembered(*CARRYING, "suspensions", "vehicle", "openings")
def running_gaps(job: Job) -> tuple[Gap, ...]:
    """Gaps of the pieces to the bay with the powertrain moved through all cases, tightest margin first; at
    rest only where mounts cannot be solved. Raises JobError."""
    return gaps_running(job, piece_gaps(job), poses_of(job), Fittings(piece_rooms(job)))


@remembered(*CARRYING, "setting", "suspensions", "vehicle", "openings", "panels")
def made_gaps(job: Job) -> tuple[Gap, ...]:
    """Gaps of all that is made, likewise. Raises JobError."""
    return made_gaps_running(job, poses_of(job))


@remembered(*CARRYING, "setting", "propshaft", "half_shafts", "suspensions", "vehicle", "openings", "panels")
def shaft_gaps(job: Job) -> tuple[Gap, ...]:
    """Gaps of shafts and rods, likewise. Raises JobError."""
    return link_gaps(job, poses_of(job))


def every_gap(job: Job) -> tuple[Gap, ...]:
    """The whole table, tightest running margin first; without what cannot be measured."""
    out: list[Gap] = []
    for measure in (running_gaps, made_gaps, shaft_gaps):
        with suppress(JobError):  # said where the job is judged
            out += measure(job)
    return tuple(sorted(out, key=lambda gap: gap.margin))


_PLACES = {"plate": "pad/centre", "spacers": "pad/centre", "eye": "bush/centre", "sleeve": "bush/centre"}
"""Where a part of a mount is put elsewhere; of an arm ``pad/arm_at``, of the chassis side ``foot``."""
_ARM = {"arm", "gussets", "cover", "strips", "battens"}


@remembered(*CARRYING, "setting", "propshaft", "half_shafts", "suspensions", "vehicle", "openings", "panels")
def clashes(job: Job) -> tuple[Problem, ...]:
    """What lacks of the gaps of what is made, as problems of the stage where it is put right; also what
    cannot be measured."""
    out: list[Problem] = []
    for measure in (made_gaps, shaft_gaps):
        try:
            rows = measure(job)
        except JobError as error:
            out.append(problem_of("position", error))
            continue
        out += [Problem(g.stage, _place(job, g), clash_words(g)) for g in rows if _told(g)]
    return tuple(dict.fromkeys(out))


def _told(gap: Gap) -> bool:
    return gap.stage != "position" and gap.margin < 0


def _place(job: Job, gap: Gap) -> str:
    """Where it is put right: at the made part."""
    for body in (gap.piece, gap.item):
        owner, dot, role = body.partition(".")
        if not dot or role == "room":
            continue
        if any(mount.id == owner for mount in job.mounts):
            at = _PLACES.get(role, "pad/arm_at" if role in _ARM else "foot")
            return f"mounts/{owner}/{at}"
        if any(cradle.id == owner for cradle in job.cradles):
            return f"cradles/{owner}/points"
        if any(strut.id == owner for strut in job.struts):
            return f"struts/{owner}/chassis_at"
        if any(panel.id == owner for panel in job.panels):
            return f"panels/{owner}/at"
        if owner == "crossmember":
            return "crossmember/points"
    return ""


def standing_poses(job: Job) -> list[Pose]:
    """Where the powertrain stands at rest and in every case."""
    return [pose_of(job.position), *(pose for _, pose in poses_of(job))]


def clash_words(gap: Gap) -> str:
    """A lacking gap in a sentence."""
    one, other = gap.piece_name, gap.item_name
    if gap.still < 0:
        asked = "" if gap.required >= 0 else f"; {-gap.required:g} mm are as good as lying on it"
        return f"{one} and {other} are {-gap.still:.1f} mm in one another{_at(gap.travel_at)}{asked}."
    needs = f"it needs {gap.required:g} mm"
    if gap.give_or_take:
        needs += f", give or take {gap.give_or_take:.1f}"
    if gap.margin_at_rest < 0:
        return f"{one} comes {abs(gap.still):.1f} mm from {other}{_at(gap.travel_at)}; {needs}."
    assert gap.running is not None
    if gap.running < 0:
        return f"{one} runs {-gap.running:.1f} mm into {other} ({gap.running_case})."
    return f"{one} comes {abs(gap.running):.1f} mm from {other} ({gap.running_case}); {needs}."


def _at(travel: str) -> str:
    return f" ({travel})" if travel and travel != "at rest" else ""
