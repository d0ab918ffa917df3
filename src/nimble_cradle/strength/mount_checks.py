"""Every check of one mount from the block to the bush, and the list of parts that must have one."""

from __future__ import annotations

from collections.abc import Sequence

from nimble_cradle.geometry.pose import Pose
from nimble_cradle.job.base import JobError
from nimble_cradle.job.loads import Allowables
from nimble_cradle.job.mounts import Mount
from nimble_cradle.strength.arm_checks import arm_checks, eye_checks
from nimble_cradle.strength.arms import arm_run
from nimble_cradle.strength.bush_checks import bush_checks
from nimble_cradle.strength.findings import Finding
from nimble_cradle.strength.pad_checks import pad_checks
from nimble_cradle.strength.threads import thread
from nimble_cradle.strength.worst import Cases, MountCase

LOAD_PATH: tuple[tuple[str, tuple[str, ...]], ...] = (
    ("bolts to the block", ("bolts", "slip", "tightening")),
    ("plate", ("plate", "plate-line", "bearing", "edge")),
    ("arm", ("arm", "root-weld")),
    ("weld at the eye", ("eye-weld",)),
    ("eye", ("eye-wall",)),
    ("rubber", ("pressure", "strain", "axial", "side-travel")),
    ("cross-bolt", ("cross-bolt", "play")),
    ("cheeks", ("cheeks",)),
)
"""Every part between engine and bush, and the codes of the findings that it must have. What comes after
the cheeks, down to the rail, is not described yet."""


def unjudged(mount: Mount, findings: Sequence[Finding]) -> tuple[str, ...]:
    """Parts of a mount's way from block to bush that lack a finding: nothing may be called held while
    there is one."""
    codes = {f.code for f in findings if f.part == mount.id}
    return tuple(
        part
        for part, wanted in LOAD_PATH
        if not (part == "arm" and mount.arm is None) and not set(wanted) <= codes
    )


def check_mount(
    mount: Mount, pose: Pose, cases: Sequence[MountCase], allow: Allowables
) -> tuple[Finding, ...]:
    """All findings of one mount for the powertrain at ``pose``. Raises JobError where it cannot be judged
    as a whole."""
    pad = mount.pad
    place = f"mounts/{mount.id}/pad"
    if not pad.holes:
        raise JobError(
            f"{mount.name}: it has no bolts yet; give its plate the holes of the block.", f"{place}/holes"
        )
    if len(pad.holes) == 1:
        raise JobError(
            f"{mount.name}: one bolt does not keep a plate from turning; use every boss that there is, two at"
            " least.",
            f"{place}/holes",
        )
    t = thread(pad.bolt)
    if pad.hole_mm < t.diameter:
        raise JobError(
            f"{mount.name}: a {pad.bolt} bolt does not go into a {pad.hole_mm:g} mm hole.", f"{place}/hole_mm"
        )
    through = thread(mount.cross_bolt.bolt)
    if through.diameter > mount.bush.sleeve_bore_mm + 0.01:
        raise JobError(
            f"{mount.name}: the {mount.cross_bolt.bolt} cross-bolt does not go through a"
            f" {mount.bush.sleeve_bore_mm:g} mm sleeve bore.",
            f"mounts/{mount.id}/cross_bolt/bolt",
        )
    run = arm_run(mount, pose)
    rows = Cases.of(cases, allow)
    return (
        *pad_checks(mount, run, rows, allow),
        *(arm_checks(mount, run, rows) if mount.arm else eye_checks(mount, run, rows)),
        *bush_checks(mount, rows, allow),
    )
