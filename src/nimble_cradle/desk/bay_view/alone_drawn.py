"""One mount by itself in the picture, whole or taken apart, with its lengths."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial
from typing import Any

from nimble_cradle.bay.position import pose_of
from nimble_cradle.desk.bay_view.actors import Body
from nimble_cradle.desk.kit.session import Session
from nimble_cradle.families.arm_run import arm_run
from nimble_cradle.geometry.pose import Array
from nimble_cradle.job.base import JobError
from nimble_cradle.job.mounts import Mount
from nimble_cradle.made.alone import Shown, lengths_alone, seen_from, shown_alone
from nimble_cradle.units import show

COLOURS = {"rubber": "#2b2b2b", "bolt": "#e8e6df", "weld": "#8d7a52"}
"""Of what has a colour of its own on a mount by itself."""
ROLES = {"block": "powertrain", "rail": "there"}


def mount_alone(session: Session) -> Mount | None:
    """The mount that is shown by itself; None where all are."""
    if not session.alone or session.film is not None:
        return None
    kind, key = session.selection
    wanted = key if kind == "mount" else session.alone_id
    return next((mount for mount in session.seen_job.mounts if mount.id == wanted), None)


def alone_things(session: Session) -> Iterator[tuple[str, Any, Any]]:
    """Id, version and maker of everything that is drawn of it; nothing where it cannot be made."""
    mount = mount_alone(session)
    if mount is None:
        return
    job, apart = session.seen_job, session.alone == "apart"
    try:
        rows = shown_alone(job, mount, apart)
    except JobError:
        return
    version = (mount, job.position, job.items, job.powertrain, apart)
    for row in rows:
        yield f"{mount.id}/{row.id}", version, partial(_body, row)


def alone_way(session: Session) -> Array | None:
    """From where the mount that is shown by itself is seen best; None where none is."""
    mount = mount_alone(session)
    if mount is None:
        return None
    try:
        return seen_from(mount, arm_run(mount, pose_of(session.seen_job.position)))
    except JobError:
        return None


def _body(row: Shown, key: tuple[str, str]) -> Body:
    if row.look in COLOURS:
        return Body(key, row.solids, "there", COLOURS[row.look])
    return Body(key, row.solids, ROLES.get(row.look, "made"))


def alone_lengths(session: Session) -> list[tuple[Array, Array, str]]:
    """From, to, and words of the lengths that are written into the picture; none of what is taken apart."""
    mount = mount_alone(session)
    if mount is None or session.alone == "apart":
        return []
    try:
        rows = lengths_alone(session.seen_job, mount)
    except JobError:
        return []
    return [(r.a, r.b, f"{r.what} {show(r.mm, 'length', session.display)}") for r in rows]
