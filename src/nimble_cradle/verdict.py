"""One call: job -> everything the program has to say about it. Each part is remembered by what it reads."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable
from contextlib import suppress
from dataclasses import dataclass
from typing import Literal, TypeVar

import numpy as np

from nimble_cradle.calc import Worked
from nimble_cradle.fit.balance import BALANCE, SHARE
from nimble_cradle.fit.bodies import fitted_pieces, powertrain_bodies
from nimble_cradle.fit.driveline import Driveline, driveline
from nimble_cradle.fit.gaps import (
    Fitting,
    Fittings,
    Gap,
    fitting_gaps,
    gaps_at_rest,
    gaps_running,
    most_moved,
    piece_rooms,
)
from nimble_cradle.fit.position import nought, pose_of
from nimble_cradle.fit.supports import stack_question
from nimble_cradle.geometry.distance import Bodies, nearest
from nimble_cradle.geometry.pose import Array, Pose
from nimble_cradle.job.base import JobError
from nimble_cradle.job.bay import Item
from nimble_cradle.job.job import Job
from nimble_cradle.job.mounts import Mount
from nimble_cradle.job.remember import remembered
from nimble_cradle.job.said import Fact, not_said, rests_on
from nimble_cradle.load_path import (
    MountVerdict,
    Question,
    crossmember_questions,
    mount_questions,
    mount_verdict,
)
from nimble_cradle.lowest import LowestPoint, lowest_point
from nimble_cradle.mounts.cases import Drive, load_cases, torque_of
from nimble_cradle.mounts.mass import Mass, powertrain_mass
from nimble_cradle.mounts.springs import CaseResult, Spring, solve, springs_of
from nimble_cradle.mounts.vibration import Idle, Mode, held_at_all, idle_shake, modes
from nimble_cradle.strength.arms import crossmember_solids, mount_solids
from nimble_cradle.strength.beam import CROSSMEMBER_SAG, CROSSMEMBER_STRESS, crossmember_under
from nimble_cradle.strength.findings import Finding
from nimble_cradle.strength.mount_checks import check_mount
from nimble_cradle.strength.threads import STEELS
from nimble_cradle.strength.worst import MountCase, factor_of
from nimble_cradle.survey.adapter import adapter_plate
from nimble_cradle.survey.level import job_lean
from nimble_cradle.survey.made import waiting_items
from nimble_cradle.survey.network import network
from nimble_cradle.survey.pattern import found_pattern

T = TypeVar("T")
StageId = Literal["survey", "bay", "powertrain", "position", "mounts", "crossmember", "pack", "logbook"]
STAGES: tuple[tuple[StageId, str], ...] = (
    ("survey", "Survey"),
    ("bay", "Bay"),
    ("powertrain", "Powertrain"),
    ("position", "Position"),
    ("mounts", "Mounts"),
    ("crossmember", "Crossmember"),
    ("pack", "Shop pack"),
    ("logbook", "Logbook"),
)


@dataclass(frozen=True)
class Problem:
    """Something that keeps a part of the job from being judged: one sentence, and the path of the fault."""

    stage: StageId
    place: str
    sentence: str


@dataclass(frozen=True, eq=False)
class Carried:
    """The powertrain on its mounts. Vehicle frame; mm, N, kg."""

    mass: Mass
    centre: Array
    share: Worked
    torque: Worked
    reverse: Worked
    springs: tuple[Spring, ...]
    cases: tuple[CaseResult, ...]
    modes: tuple[Mode, ...]
    idle: Idle

    transaxle: bool = False

    @property
    def reacted(self) -> tuple[float, str]:
        """The torque that the mounts react in first gear, Nm, and where it leaves, in words."""
        return float(self.torque.value("reacted")), (
            "at the half-shafts" if self.transaxle else "at the propshaft"
        )

    def case(self, case_id: str) -> CaseResult:
        """The result of one load case. Raises KeyError."""
        for result in self.cases:
            if result.case.id == case_id:
                return result
        raise KeyError(case_id)


@dataclass(frozen=True)
class Share:
    """Front-axle share with the powertrain in, per cent, its working, and give or take of what was
    weighed, per cent."""

    percent: float
    worked: Worked
    plus_minus: float = 0.0


@dataclass(frozen=True, eq=False)
class Verdict:
    """Everything about a job. What could not be judged is None or empty and has a problem that says why."""

    gaps: tuple[Gap, ...]
    lowest: LowestPoint | None
    driveline: Driveline | None
    share: Share | None
    carried: Carried | None
    findings: tuple[Finding, ...]
    problems: tuple[Problem, ...]
    mounts: tuple[MountVerdict, ...] = ()
    rests_on: tuple[str, ...] = ()
    not_said: tuple[Fact, ...] = ()

    @property
    def hardest(self) -> Finding | None:
        """The hardest-used part."""
        return max(self.findings, key=lambda f: f.use, default=None)

    @property
    def block_to_bush(self) -> bool:
        """Whether every mount holds from the block to its bush. The way from there to the rail is not
        described yet."""
        return bool(self.mounts) and all(m.block_to_bush == "holds" for m in self.mounts)

    @property
    def holds(self) -> bool:
        """Whether nothing is open: every part between engine and rail judged and within its capacity, no
        problem, no gap under what it needs, driveline within limits. While the way from bush to rail is
        not described it never is.
        """
        return (
            self.block_to_bush
            and not self.open_questions
            and all(m.bush_to_rail == "holds" for m in self.mounts)
        )

    @property
    def open_questions(self) -> bool:
        """Whether anything is open besides the mounts' own two verdicts."""
        return bool(
            self.problems
            or any(g.margin < 0 for g in self.gaps)
            or any(f.use > 1 for f in self.findings)
            or (self.driveline is not None and not self.driveline.holds)
            or (self.lowest is not None and self.lowest.above_line < 0)
        )


def standing_words(v: Verdict) -> tuple[str, ...]:
    """Where the job stands, in sentences: both verdicts of every mount, what they rest on, what was not
    said."""
    on = ", on assumed" if v.rests_on else ""
    lines = [
        f"{m.name}, block to bush: {m.block_to_bush}{on if m.block_to_bush == 'holds' else ''}."
        f" F{m.rail.removeprefix(f'{m.name}: f')}"
        for m in v.mounts
    ]
    if v.rests_on:
        lines.append(f"Rests on assumed: {', '.join(v.rests_on)}.")
    if v.not_said:
        names = [f.name for f in v.not_said]
        more = f" and {len(names) - 6} more" if len(names) > 6 else ""
        lines.append(f"Not said whether measured or assumed: {', '.join(names[:6])}{more}.")
    return tuple(lines)


def _problem(stage: StageId, error: JobError) -> Problem:
    if error.place.startswith("items"):
        stage = "bay"
    elif error.place.startswith("powertrain"):
        stage = "powertrain"
    return Problem(stage, error.place, error.message)


def _said(error: Exception) -> str:
    """What an error says, without its full stop."""
    return (str(error) or type(error).__name__).rstrip(".")


@remembered("mounts", "position", "powertrain")
def fittings(job: Job) -> Fittings:
    """Plate, arm and eye of every mount that can be drawn, as they hang on the powertrain (ids with
    ``.arm``), and the room that fittings need to be screwed in (ids with ``.room``)."""
    pose = pose_of(job.position)
    out = []
    for mount in job.mounts:
        try:
            out.append(Fitting(f"{mount.id}.arm", f"{mount.name}, arm and eye", mount_solids(mount, pose)))
        except JobError:
            continue
    return Fittings([*out, *piece_rooms(job)])


@remembered("items", "survey", "powertrain", "meshes", "clearances", "position")
def piece_gaps(job: Job) -> tuple[Gap, ...]:
    """Gaps of the pieces with the engine still, tightest first. Raises JobError."""
    return gaps_at_rest(job, pose_of(job.position))


@remembered("items", "survey", "powertrain", "meshes", "clearances", "position", "mounts")
def rest_gaps(job: Job) -> tuple[Gap, ...]:
    """Gaps with the engine still, its mounts' own parts among them, tightest first. Raises JobError."""
    rows = piece_gaps(job) + fitting_gaps(job, pose_of(job.position), fittings(job))
    return tuple(sorted(rows, key=lambda g: g.margin_at_rest))


@remembered("powertrain", "meshes", "position", "vehicle")
def axle_share(job: Job) -> Share:
    """Front-axle share. Raises JobError."""
    mass = powertrain_mass(job)
    centre = pose_of(job.position).points(mass.centre)
    v = job.vehicle
    worked = SHARE.work(
        {"front_kg": "weighed", "rear_kg": "weighed", "powertrain_kg": "pieces", "x": "pieces and position"},
        front_kg=v.front_axle_kg,
        rear_kg=v.rear_axle_kg,
        powertrain_kg=mass.mass_kg,
        x=float(centre[0]),
        wheelbase=v.wheelbase_mm,
    )
    return Share(worked.value("share"), worked, _share_doubt(job, worked))


def _share_doubt(job: Job, worked: Worked) -> float:
    """How far the give or take of the weighed mass and of its centre moves the share, per cent; nought
    where it was not weighed."""
    weighed = job.powertrain.weighed
    if weighed is None:
        return 0.0
    given = {q.name: float(v) for q, v, _ in worked.inputs}
    total = 0.0
    for name, step in (("powertrain_kg", weighed.mass_plus_minus_kg), ("x", weighed.centre_plus_minus_mm)):
        ends = [
            float(SHARE.work(None, **{**given, name: given[name] + s * step}).value("share")) for s in (-1, 1)
        ]
        total += ((ends[1] - ends[0]) / 2) ** 2
    return math.sqrt(total)


@dataclass(frozen=True)
class Balance:
    """The car in one condition: name, axle loads kg, share of the front axle %, height of the centre of
    gravity over the road mm."""

    name: str
    front_kg: float
    rear_kg: float
    share: float
    height_mm: float

    @property
    def total_kg(self) -> float:
        """Whole mass, kg."""
        return self.front_kg + self.rear_kg


def balances(job: Job) -> tuple[Balance, ...]:
    """With the old powertrain (where what came out was told), without one, and with the new one. Raises
    JobError."""
    v = job.vehicle
    bare = Balance(
        "without an engine",
        v.front_axle_kg,
        v.rear_axle_kg,
        100 * v.front_axle_kg / (v.front_axle_kg + v.rear_axle_kg),
        v.cog_height_mm,
    )
    out = []
    if v.came_out is not None:
        x, _, z = v.came_out.centre
        w = BALANCE.work(
            front_kg=v.front_axle_kg,
            rear_kg=v.rear_axle_kg,
            height=v.cog_height_mm,
            kg=v.came_out.mass_kg,
            x=x,
            z=z - v.ground_z_mm,
            wheelbase=v.wheelbase_mm,
        )
        out.append(Balance("as it was", w.value("front"), w.value("rear"), w.value("share"), w.value("cog")))
    out.append(bare)
    mass = powertrain_mass(job)
    at = pose_of(job.position).points(mass.centre)
    w = BALANCE.work(
        front_kg=v.front_axle_kg,
        rear_kg=v.rear_axle_kg,
        height=v.cog_height_mm,
        kg=mass.mass_kg,
        x=float(at[0]),
        z=float(at[2]) - v.ground_z_mm,
        wheelbase=v.wheelbase_mm,
    )
    return (
        *out,
        Balance("with this engine", w.value("front"), w.value("rear"), w.value("share"), w.value("cog")),
    )


@remembered("powertrain", "meshes", "position", "vehicle", "mounts", "loads")
def carried(job: Job) -> Carried:
    """The powertrain on its mounts in every load case. Raises JobError."""
    mass = powertrain_mass(job)
    pose = pose_of(job.position)
    centre = pose.points(mass.centre)
    share = axle_share(job).worked
    loaded = balances(job)[-1]
    try:
        first, reverse = (
            torque_of(job, loaded.front_kg, loaded.rear_kg, loaded.height_mm, way)
            for way in ("forward", "reverse")
        )
    except ValueError as error:
        raise JobError(f"First-gear torque: {error}.", "loads/tyre_grip") from None
    springs = springs_of(job.mounts)
    drive = Drive(*(w.value(name) for w in (first, reverse) for name in ("reacted", "along_g")))
    results = solve(springs, centre, pose, load_cases(job, pose, mass.mass_kg, drive))
    inertia = pose.rotation @ mass.inertia @ pose.rotation.T
    engine = job.powertrain.engine
    crank = pose.rotation[:, 0]
    # each rotor gives one pulse a turn of the shaft, as a two-stroke's cylinder does (common knowledge)
    strokes = 2 if engine.layout == "rotary" else engine.strokes
    found = modes(springs, centre, mass.mass_kg, inertia)
    held_at_all(results[0], found)
    idle = idle_shake(
        springs, centre, mass.mass_kg, inertia, crank, engine.idle_rpm, engine.cylinders, strokes
    )
    transaxle = job.powertrain.gearbox.kind == "transaxle"
    return Carried(mass, centre, share, first, reverse, springs, results, found, idle, transaxle)


@remembered("items", "survey", "powertrain", "meshes", "clearances", "position", "vehicle", "mounts", "loads")
def running_gaps(job: Job) -> tuple[Gap, ...]:
    """Gaps with the powertrain moved through all cases, tightest margin first; at rest only where mounts
    cannot be solved."""
    rest = rest_gaps(job)
    try:
        cases = carried(job).cases
    except JobError:
        return rest
    return gaps_running(job, rest, [(r.case.name, r.pose) for r in cases], fittings(job))


def _mount_cases(results: Carried, mount: Mount) -> list[MountCase]:
    out = []
    for result in results.cases:
        load = next(m for m in result.mounts if m.mount == mount.id)
        out.append(
            MountCase(
                result.case.name,
                result.case.kind,
                -load.force,
                load.radial_force,
                load.radial_mm,
                load.axial_mm,
            )
        )
    return out


@remembered("powertrain", "meshes", "position", "vehicle", "mounts", "loads", "allowables")
def mount_findings(job: Job) -> tuple[tuple[Finding, ...], tuple[Problem, ...]]:
    """Findings of all mounts, and what could not be judged."""
    try:
        results = carried(job)
    except JobError as error:
        return (), (_problem("mounts", error),)
    findings: list[Finding] = []
    problems: list[Problem] = []
    for mount in job.mounts:
        try:
            findings += check_mount(
                mount, pose_of(job.position), _mount_cases(results, mount), job.allowables
            )
        except Exception as error:  # the other mounts are judged all the same
            place = error.place if isinstance(error, JobError) and error.place else f"mounts/{mount.id}"
            name = "" if mount.name in str(error) else f"{mount.name} cannot be judged: "
            problems.append(Problem("mounts", place, f"{name}{_said(error)}."))
    return tuple(findings), tuple(problems)


@remembered("powertrain", "meshes", "position", "vehicle", "mounts", "loads", "allowables", "crossmember")
def crossmember_findings(job: Job) -> tuple[tuple[Finding, ...], tuple[Problem, ...]]:
    """Findings of the gearbox crossmember, and what could not be judged."""
    cross = job.crossmember
    if cross is None:
        return (), ()
    mount = next((m for m in job.mounts if m.id == cross.carries), None)
    if mount is None:
        return (), (Problem("crossmember", "crossmember/carries", "The crossmember carries no mount yet."),)
    try:
        results = carried(job)
    except JobError:
        return (), (
            Problem("crossmember", "mounts", "The crossmember waits for mounts that hold the powertrain."),
        )
    yield_mpa = STEELS[cross.steel].yield_mpa
    found: list[Finding] = []
    try:
        worst: tuple[float, float, MountCase] | None = None
        sag: tuple[float, MountCase] | None = None
        for case in _mount_cases(results, mount):
            factor = factor_of(case, job.allowables)
            stress, _, moved = crossmember_under(cross, mount.bush.centre, -case.force)
            if worst is None or stress * factor > worst[0] * worst[1]:
                worst = stress, factor, case
            if case.kind != "rare" and (sag is None or abs(moved[2]) > sag[0]):
                sag = abs(float(moved[2])), case
    except JobError as error:
        return (), (_problem("crossmember", error),)
    assert worst is not None and sag is not None
    stress, factor, case = worst
    worked = CROSSMEMBER_STRESS.work(
        {"stress": "space frame, governing case"}, stress=stress, yield_mpa=yield_mpa, factor=factor
    )
    found.append(
        Finding(
            "crossmember-stress",
            "crossmember",
            "Gearbox crossmember",
            "tube of the crossmember",
            stress * factor,
            yield_mpa,
            "stress",
            worked.value("use"),
            case.name,
            factor,
            worked,
            "a taller section or a thicker wall",
        )
    )
    down, case = sag
    worked = CROSSMEMBER_SAG.work(
        {"sag": "space frame, governing case", "most": "job"}, sag=down, most=cross.most_sag_mm
    )
    found.append(
        Finding(
            "crossmember-sag",
            "crossmember",
            "Gearbox crossmember",
            "sag at the gearbox mount",
            down,
            cross.most_sag_mm,
            "length",
            worked.value("use"),
            case.name,
            1.0,
            worked,
            "a taller section",
        )
    )
    return tuple(found), ()


@remembered("powertrain", "meshes", "position", "vehicle", "mounts", "loads", "clearances", "crossmember")
def crossmember_room(job: Job) -> tuple[Problem, ...]:
    """Pieces of the powertrain that come nearer to the crossmember than they need, at rest or running."""
    tube, pieces = crossmember_solids(job.crossmember), fitted_pieces(job)
    if not tube or not pieces:
        return ()
    rest, moving = pose_of(job.position), powertrain_bodies(job)
    poses: list[tuple[str, Pose]] = []
    with suppress(JobError):  # said elsewhere; then it is looked at as it stands
        poses = [(r.case.name, r.pose) for r in carried(job).cases]
    moved = [most_moved(moving, rest, pose)[:, None] for _, pose in poses]
    table = {c.id: c.required_mm for c in job.clearances}
    metal = table.get("metal", min(table.values()))
    need = np.array([[max(table.get(p.neighbour, metal), metal)] for p in pieces])
    fixed = Bodies([tube])
    reach = need + np.max(moved, axis=0) if moved else need
    least = {n.a: (n.distance, "at rest") for n in nearest(moving, rest, fixed, reach)}
    still = np.array([[least[k][0] if k in least else np.inf] for k in range(len(pieces))])
    for (name, pose), far in zip(poses, moved, strict=True):
        near = still - far < need
        for n in nearest(moving, pose, fixed, np.where(near, need, -np.inf)) if near.any() else ():
            if n.distance < least[n.a][0]:
                least[n.a] = n.distance, name
    return tuple(
        Problem(
            "crossmember",
            "crossmember/points",
            f"{pieces[k].name} comes {'' if gap >= 0 else 'into the crossmember by '}{abs(gap):.1f} mm"
            f"{' from the crossmember' if gap >= 0 else ''} ({name}); it needs {need[k, 0]:g} mm.",
        )
        for k, (gap, name) in sorted(least.items())
        if nought(gap - need[k, 0]) < 0
    )


@remembered("survey")
def survey_questions(job: Job) -> tuple[str, ...]:
    """What the survey still asks: levels, points, hole patterns, the adapter."""
    asked = [*job_lean(job).odd, *network(job).questions]
    for pattern in job.survey.patterns:
        asked += [f"{pattern.name}: {q[0].lower()}{q[1:]}" for q in found_pattern(pattern).questions]
    try:
        plate = adapter_plate(job)
        asked += plate.questions if plate is not None else ()
    except JobError as error:
        asked.append(error.message)
    return tuple(asked)


def _stage_of(place: str) -> StageId:
    """The stage where a question is answered."""
    if place.startswith("mounts") and not place.endswith("/carries"):
        return "mounts"
    return "crossmember"


def _not_said(job: Job) -> list[Problem]:
    """One open question a stage: the figures of which it is not said whether they were measured."""
    out = []
    for stage, _ in STAGES:
        rows = [f for f in not_said(job) if f.stage == stage]
        if rows:
            names = ", ".join(f.name for f in rows[:4]) + (
                f" and {len(rows) - 4} more" if len(rows) > 4 else ""
            )
            count = "one figure" if len(rows) == 1 else f"{len(rows)} figures"
            out.append(
                Problem(
                    stage, rows[0].path, f"Of {count} it is not said whether measured or assumed: {names}."
                )
            )
    return out


class _Judging:
    """Problems as they are met, and the last guard: whatever a job holds, a part that cannot be judged is a
    problem that names it, and the rest is judged all the same."""

    def __init__(self) -> None:
        self.problems: list[Problem] = []

    def add(self, problems: Iterable[Problem]) -> None:
        """Each once."""
        for problem in problems:
            if problem not in self.problems:
                self.problems.append(problem)

    def of(self, stage: StageId, part: str, work: Callable[[], T], otherwise: T) -> T:
        """What ``work`` gives, or ``otherwise`` and a problem."""
        try:
            return work()
        except JobError as error:
            self.add([_problem(stage, error)])
        except Exception as error:  # the last guard: no job is locked out by the figures it holds
            self.add([Problem(stage, "", f"{part} cannot be judged with the figures given: {_said(error)}.")])
        return otherwise


def _unjudged(mount: Mount) -> MountVerdict:
    """Of a mount that cannot be judged at all."""
    rail = f"{mount.name}: from bush to rail it is not described yet."
    sentence = f"{mount.name} cannot be judged with the figures given."
    return MountVerdict(mount.id, mount.name, "open", "not described yet", (sentence,), rail)


def verdict(job: Job) -> Verdict:
    """All findings of a job. Never raises, whatever a job holds: what cannot be judged is a problem with
    its place.
    """
    judging = _Judging()
    waiting: tuple[tuple[Item, str], ...] = judging.of(
        "survey", "What is made from points", lambda: waiting_items(job), ()
    )
    judging.add(
        Problem("survey", f"items/{item.id}/made", f"{item.name} is not measured against yet: it {why}.")
        for item, why in waiting
    )
    surveyed: tuple[str, ...] = judging.of("survey", "The survey", lambda: survey_questions(job), ())
    judging.add(Problem("survey", "survey", sentence) for sentence in surveyed)
    for s in job.setting.supports:
        stack = judging.of("position", s.name, lambda: stack_question(job, s, s.stack_mm), "")
        judging.add([Problem("position", f"setting/supports/{s.id}", stack)] if stack else [])
    gaps: tuple[Gap, ...] = judging.of("position", "The gaps", lambda: running_gaps(job), ())
    lowest = judging.of("position", "The lowest point", lambda: lowest_point(job), None)
    line = judging.of("position", "The driveline", lambda: driveline(job), None)
    share = judging.of("powertrain", "The front-axle share", lambda: axle_share(job), None)
    asked: list[Question] = []
    asked += judging.of("mounts", "The metal of the mounts", lambda: mount_questions(job), ())
    asked += judging.of("crossmember", "The crossmember's ends", lambda: crossmember_questions(job), ())
    judging.add(Problem(_stage_of(q.place), q.place, q.sentence) for q in asked)
    judging.add(_not_said(job))
    result = judging.of("mounts", "The engine on its mounts", lambda: carried(job), None)
    nothing: tuple[tuple[Finding, ...], tuple[Problem, ...]] = ((), ())
    findings, problems = judging.of("mounts", "The mounts", lambda: mount_findings(job), nothing)
    more, also = judging.of("crossmember", "The crossmember", lambda: crossmember_findings(job), nothing)
    judging.add((*problems, *also))
    judging.add(judging.of("crossmember", "Room round the crossmember", lambda: crossmember_room(job), ()))
    every = (*findings, *more)
    mounts = tuple(
        judging.of("mounts", m.name, lambda: mount_verdict(job, m, every, asked), _unjudged(m))
        for m in job.mounts
    )
    return Verdict(
        gaps,
        lowest,
        line,
        share,
        result,
        every,
        tuple(judging.problems),
        mounts,
        rests_on(job),
        not_said(job),
    )


def running_pose(job: Job, case_id: str) -> Pose | None:
    """Where the powertrain stands in one load case; None where the mounts cannot be solved."""
    try:
        return carried(job).case(case_id).pose
    except (JobError, KeyError):
        return None
