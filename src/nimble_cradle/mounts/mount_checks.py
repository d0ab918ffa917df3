"""Every check of one mount from the block to the rail, and the list of parts that must have one."""

from __future__ import annotations

from collections.abc import Sequence

from nimble_cradle.families.arm_run import arm_run
from nimble_cradle.families.family import LoadPath, arm_family, bracket_family, bush_family, foot_family
from nimble_cradle.families.foot_seat import FootSeat
from nimble_cradle.findings.finding import Finding
from nimble_cradle.findings.worst import Cases, MountCase
from nimble_cradle.geometry.pose import Pose
from nimble_cradle.job.base import JobError
from nimble_cradle.job.loads import Allowables, Loads
from nimble_cradle.job.mounts import Mount
from nimble_cradle.mounts.eye_checks import eye_checks
from nimble_cradle.mounts.fatigue_checks import fatigue_checks, foot_fatigue
from nimble_cradle.mounts.plate_checks import plate_checks
from nimble_cradle.mounts.retention import borne_once, metal_holds, once
from nimble_cradle.stock.threads import thread

PLATE_PATH: LoadPath = (
    ("bolts to the block", ("bolts", "slip", "tightening", "head")),
    ("thread in the block", ("thread",)),
    ("plate", ("plate", "plate-line", "bearing", "edge")),
)
WELD_AT_EYE: LoadPath = (("weld at the eye", ("eye-weld", "fatigue-eye")),)

WITHOUT_RUBBER: LoadPath = (("metal without its rubber", ("captured", "captured-road")),)
HOLD: LoadPath = (("hold without its rubber, in a crash", ("captured", "captured-road", "retention")),)
FOOT_HOLD: LoadPath = (("chassis side's hold in a crash", ("foot-retention",)),)
"""Of a mount that metal stops: one that it does not bears nothing then, and is told so by ``captured``."""


def load_path(mount: Mount) -> LoadPath:
    """Every part of a mount between engine and bush, in the way of the load, and the codes of the findings
    that it must have. What comes after the bracket's bolt is ``chassis_path``."""
    arm = arm_family(mount.arm).LOAD_PATH if mount.arm is not None else ()
    bush, bracket = bush_family(mount.bush).LOAD_PATH, bracket_family(mount.cross_bolt).LOAD_PATH
    bare = HOLD if metal_holds(mount) else WITHOUT_RUBBER
    return (*PLATE_PATH, *arm, *WELD_AT_EYE, *bush, *bare, *bracket)


def unjudged(mount: Mount, findings: Sequence[Finding], path: LoadPath | None = None) -> tuple[str, ...]:
    """Parts of a mount's way from block to bush, or of another ``path``, that lack a finding: nothing may be
    called held while there is one."""
    codes = {finding.code for finding in findings if finding.part == mount.id}
    return tuple(part for part, wanted in path or load_path(mount) if not set(wanted) <= codes)


def chassis_path(mount: Mount, seat: FootSeat | None) -> LoadPath | None:
    """Every part from the bracket's bolt to the rail likewise; None where it is not described."""
    if mount.foot is None or seat is None:
        return None
    made = mount.foot.kind != "factory"  # the car's own was made for a crash with what it carried before
    held = FOOT_HOLD if made and metal_holds(mount) else ()
    return (*foot_family(mount.foot).load_path(mount, seat), *held)


def is_chassis(finding: Finding) -> bool:
    """Whether a finding is of the chassis side."""
    return finding.code.startswith("foot-")


def check_foot(
    mount: Mount, seat: FootSeat, cases: Sequence[MountCase], allow: Allowables, loads: Loads
) -> tuple[Finding, ...]:
    """All findings of a mount's chassis side. Raises JobError where it cannot be judged."""
    assert mount.foot is not None
    family, rows = foot_family(mount.foot), Cases.of(cases, allow)
    own = family.checks(mount, seat, rows, allow)
    return (*own, *foot_fatigue(mount, family.cheeks(mount, seat), rows, loads))


def check_mount(
    mount: Mount, pose: Pose, cases: Sequence[MountCase], allow: Allowables, loads: Loads
) -> tuple[Finding, ...]:
    """All findings of one mount from block to bracket bolt, for the powertrain at ``pose``. Raises JobError
    where it cannot be judged as a whole."""
    can_be_bolted(mount)
    run = arm_run(mount, pose)
    rows = Cases.of(cases, allow)
    bush, bracket = bush_family(mount.bush), bracket_family(mount.cross_bolt)
    return (
        *plate_checks(mount, run, rows, allow),
        *(arm_family(mount.arm).checks(mount, run, rows) if mount.arm else eye_checks(mount, run, rows)),
        *fatigue_checks(mount, run, rows, loads),
        *bracket.checks(mount, rows, allow),
        *bush.checks(mount, rows, allow),
        *bracket.travel_checks(mount, rows),
    )


def check_in_a_crash(
    mount: Mount,
    pose: Pose,
    seat: FootSeat | None,
    cases: Sequence[MountCase],
    allow: Allowables,
    loads: Loads,
) -> tuple[list[Finding], list[Finding]]:
    """Of every part, on the engine's side of the bush and on the car's, what it bears when the powertrain is
    thrown. Raises JobError where it cannot be judged."""
    allow = once(allow)
    near = borne_once(cases, check_mount(mount, pose, cases, allow, loads))
    far = () if seat is None else check_foot(mount, seat, cases, allow, loads)
    return near, borne_once(cases, far)


def can_be_bolted(mount: Mount) -> None:
    """Raises JobError where bolts are missing or do not go in."""
    pad = mount.pad
    place = f"mounts/{mount.id}/pad"
    if not pad.every_hole:
        raise JobError(
            f"{mount.name}: it has no bolts yet; give its plate the holes of the block.", f"{place}/holes"
        )
    if len(pad.every_hole) == 1:
        raise JobError(
            f"{mount.name}: one bolt does not keep a plate from turning; use every boss that there is, two at"
            " least.",
            f"{place}/holes",
        )
    for bolt, _ in pad.sorts:
        if bolt.hole_mm < thread(bolt.size).diameter:
            field = "hole_mm" if bolt.size == pad.bolt and bolt.hole_mm == pad.hole_mm else "other_hole_mm"
            raise JobError(
                f"{mount.name}: a {bolt.size} bolt does not go into a {bolt.hole_mm:g} mm hole.",
                f"{place}/{field}",
            )
    through, hole = thread(mount.cross_bolt.bolt), bush_family(mount.bush).bolt_hole_mm(mount.bush)
    if through.diameter > hole + 0.01:
        raise JobError(
            f"{mount.name}: the {mount.cross_bolt.bolt} cross-bolt does not go through a"
            f" {hole:g} mm sleeve bore.",
            f"mounts/{mount.id}/cross_bolt/bolt",
        )
