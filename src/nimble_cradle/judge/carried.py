"""The powertrain on its mounts in every load case."""

from __future__ import annotations

from dataclasses import dataclass

from nimble_cradle.bay.mass import Mass, powertrain_mass
from nimble_cradle.bay.position import pose_of
from nimble_cradle.calc import Worked
from nimble_cradle.findings.worst import MountCase
from nimble_cradle.fit.balance import axle_share, balances
from nimble_cradle.geometry.pose import Array, Pose
from nimble_cradle.job.base import JobError
from nimble_cradle.job.job import Job
from nimble_cradle.job.mounts import Mount
from nimble_cradle.job.remember import remembered
from nimble_cradle.job.strut import Strut
from nimble_cradle.mounts.cases import Drive, load_cases, torque_of
from nimble_cradle.mounts.equilibrium import CaseResult, settled, solve, weight_turn
from nimble_cradle.mounts.give import brackets_give
from nimble_cradle.mounts.retention import thrown
from nimble_cradle.mounts.settling import settled_for_years
from nimble_cradle.mounts.springs import Spring, springs_of
from nimble_cradle.mounts.struts import strut_spring
from nimble_cradle.mounts.vibration import Idle, Mode, held_at_all, idle_shake, modes


@dataclass(frozen=True, eq=False)
class Carried:
    """The powertrain on its mounts. Vehicle frame; mm, N, kg. aged: at rest when its rubber has settled for
    ten years."""

    mass: Mass
    centre: Array
    share: Worked
    torque: Worked
    reverse: Worked
    springs: tuple[Spring, ...]
    cases: tuple[CaseResult, ...]
    modes: tuple[Mode, ...]
    idle: Idle
    aged: CaseResult

    transaxle: bool = False

    @property
    def stands(self) -> tuple[CaseResult, ...]:
        """Every case, and where the engine rests when its rubber has settled for ten years: what gaps are
        measured in."""
        return (*self.cases, self.aged)

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


@dataclass(frozen=True, eq=False)
class AtRest:
    """The powertrain on its mounts in every load case, and nothing else of it. springs: before they have
    settled."""

    mass: Mass
    centre: Array
    share: Worked
    torque: Worked
    reverse: Worked
    springs: tuple[Spring, ...]
    cases: tuple[CaseResult, ...]


_READS = (
    *("powertrain", "meshes", "position", "vehicle", "mounts", "loads", "items", "survey", "crossmember"),
    *("struts", "cradles", "openings"),
)


@remembered(*_READS)
def at_rest(job: Job) -> AtRest:
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
    springs = (
        *springs_of(job.mounts, brackets_give(job)),
        *(strut_spring(strut, pose) for strut in job.struts),
    )
    drive = Drive(*(worked.value(name) for worked in (first, reverse) for name in ("reacted", "along_g")))
    inertia = pose.rotation @ mass.inertia @ pose.rotation.T
    cases = load_cases(job, pose, mass.mass_kg, drive)
    held_at_all(weight_turn(springs, centre, cases[0]), modes(springs, centre, mass.mass_kg, inertia))
    return AtRest(mass, centre, share, first, reverse, springs, solve(springs, centre, pose, cases))


@remembered(*_READS)
def carried(job: Job) -> Carried:
    """The powertrain on its mounts in every load case, its modes and its shake. Raises JobError."""
    found, pose = at_rest(job), pose_of(job.position)
    mass, centre, results = found.mass, found.centre, found.cases
    inertia = pose.rotation @ mass.inertia @ pose.rotation.T
    engine = job.powertrain.engine
    crank = pose.rotation[:, 0]
    # each rotor gives one pulse a turn of the shaft, as a two-stroke's cylinder does (common knowledge)
    strokes = 2 if engine.layout == "rotary" else engine.strokes
    springs = settled(found.springs, results[0])
    swings = modes(springs, centre, mass.mass_kg, inertia)
    aged = settled_for_years(springs, job.mounts, results[0], centre, pose)
    idle = idle_shake(
        springs, centre, mass.mass_kg, inertia, crank, engine.idle_rpm, engine.cylinders, strokes
    )
    transaxle = job.powertrain.gearbox.kind == "transaxle"
    torques = found.share, found.torque, found.reverse
    return Carried(mass, centre, *torques, springs, results, swings, idle, aged, transaxle)


def mount_cases(results: Carried | AtRest, mount: Mount | Strut) -> list[MountCase]:
    """What a mount or a strut meets in every case."""
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
                load.movement,
                load.axial_signed,
                result.case.id,
            )
        )
    return out


def crash_cases_of(job: Job, results: Carried | AtRest) -> dict[str, list[MountCase]]:
    """What each mount that metal stops meets in a crash, by id. Raises JobError where too few do."""
    return thrown(job.mounts, results.centre, job.loads, results.mass.mass_kg)


def running_pose(job: Job, case_id: str) -> Pose | None:
    """Where the powertrain stands in one load case; None where the mounts cannot be solved."""
    try:
        return carried(job).case(case_id).pose
    except (JobError, KeyError):
        return None
