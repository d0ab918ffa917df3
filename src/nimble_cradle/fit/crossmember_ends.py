"""Whether a crossmember is there, meets the rails at both ends and passes under its bush."""

from __future__ import annotations

import math

import numpy as np

from nimble_cradle.bay.bodies import standing_items
from nimble_cradle.bay.nearest import nearest_item
from nimble_cradle.families.family import eye_of
from nimble_cradle.findings.finding import Problem
from nimble_cradle.fit.joined import MEETS
from nimble_cradle.geometry.pose import Array
from nimble_cradle.job.base import JobError
from nimble_cradle.job.cross_section import FoldedSection
from nimble_cradle.job.job import Job
from nimble_cradle.job.mounts import Crossmember, Mount
from nimble_cradle.job.remember import remembered
from nimble_cradle.made.crossmember import reach_in_bend
from nimble_cradle.stock.steels import STEELS
from nimble_cradle.strength.beam import axis_of

LEAST_RADIUS = 2.0
"""A tube bent cold keeps its shape down to so many times its depth in the plane of the bend, on its axis
(common practice, no source)."""

HELD, FREE = 42.0, 14.0
"""A flat wall is no wider than so many times its thickness, times sqrt(235/fy), that is held along both
edges, or along one: EN 1993-1-1:2005, table 5.2, class 3."""
LEAST_LIP = 0.2
"""A lip that is so much of its leg holds the leg's edge (EN 1993-1-3:2006, 5.2(2), from memory)."""

UNDER = 80.0
"""A crossmember passes under its bush within so many mm of the eye (common practice, no source)."""


@remembered("items", "survey", "meshes", "mounts", "crossmember", "powertrain", "openings")
def crossmember_questions(job: Job) -> tuple[Problem, ...]:
    """Whether a gearbox mount has a crossmember, whether that meets the rails at both ends, what they are
    made of, and whether it passes under its bush. Raises JobError."""
    out: list[Problem] = []
    cross = job.crossmember
    carried = {cross.carries} if cross is not None else set()
    for mount in job.mounts:
        if (
            mount.carries == "gearbox"
            and job.powertrain.gearbox.kind != "transaxle"
            and mount.id not in carried
        ):
            out.append(
                Problem(
                    "crossmember", f"mounts/{mount.id}/carries", f"{mount.name}: no crossmember carries it."
                )
            )
    if cross is None:
        return tuple(out)
    chassis = [i for i in standing_items(job) if i.chassis]
    for word, end in (("left", cross.points[0]), ("right", cross.points[-1])):
        found = nearest_item(job, np.asarray(end, dtype=float), chassis, 600.0)
        if found is None or found[1] > MEETS:
            tail = (
                "no part of the chassis is near it"
                if found is None
                else f"the nearest, {found[0].name}, is {found[1]:.0f} mm away"
            )
            out.append(
                Problem(
                    "crossmember",
                    "crossmember/points",
                    f"The crossmember's {word} end meets no rail: {tail}.",
                )
            )
            continue
        item = found[0]
        if item.material == "unsaid":
            out.append(
                Problem(
                    "crossmember",
                    f"items/{item.id}/material",
                    f"{item.name}, where the crossmember ends: say what it is made of.",
                )
            )
        elif item.material in ("aluminium", "magnesium"):
            out.append(
                Problem(
                    "crossmember",
                    f"items/{item.id}/material",
                    f"{item.name} is {item.material}: the crossmember's {word} end is bolted, never welded,"
                    " and kept apart from it.",
                )
            )
        elif item.material == "single skin":
            out.append(
                Problem(
                    "crossmember",
                    f"items/{item.id}/material",
                    f"{item.name} is a single skin: reach the second skin, or box it, where the crossmember"
                    " ends.",
                )
            )
    out += [*_bends(cross), *_walls(cross)]
    mount_ = next((m for m in job.mounts if m.id == cross.carries), None)
    if mount_ is not None:
        out += _passes_under(job, mount_)
    return tuple(out)


def _bends(cross: Crossmember) -> list[Problem]:
    """Whether its bends can be made: room for them, and a radius at which the tube does not kink."""
    if cross.bend_radius_mm <= 0:
        return []
    try:
        axis_of(cross)
    except JobError as error:
        return [Problem("crossmember", error.place, error.message)]
    deep = max((2 * reach_in_bend(cross, k) for k in range(len(cross.points) - 2)), default=0.0)
    if cross.bend_radius_mm >= LEAST_RADIUS * deep:
        return []
    return [
        Problem(
            "crossmember",
            "crossmember/bend_radius_mm",
            f"The crossmember kinks when it is bent to {cross.bend_radius_mm:g} mm: at least"
            f" {LEAST_RADIUS * deep:.0f} mm, {LEAST_RADIUS:g} times as much as it is deep there.",
        )
    ]


def _walls(cross: Crossmember) -> list[Problem]:
    """Whether the walls of a folded one are stout enough to work as they are, and it is mitred where it
    turns."""
    section = cross.section
    if not isinstance(section, FoldedSection):
        return []
    out = []
    limit = math.sqrt(235.0 / STEELS[cross.steel].yield_mpa)
    inside = section.wall_mm + section.radius_mm
    stiff = section.lip_mm >= LEAST_LIP * section.height_mm
    leg = section.height_mm - (2 if stiff else 1) * inside
    walls = (
        ("width_mm", "web", section.width_mm - 2 * inside, HELD),
        ("height_mm", "legs", leg, HELD if stiff else FREE),
        ("lip_mm", "lips", section.lip_mm - inside, FREE),
    )
    for field, name, wide, most in walls:
        if wide > most * limit * section.wall_mm:
            said = (
                f"The crossmember's {name} buckle before they yield"
                if name != "web"
                else ("The crossmember's web buckles before it yields")
            )
            cure = ", or lips at them" if name == "legs" and not stiff else ""
            out.append(
                Problem(
                    "crossmember",
                    f"crossmember/section/{field}",
                    f"{said}: {most * limit * section.wall_mm:.0f} mm flat at most in"
                    f" {section.wall_mm:g} mm of {cross.steel}{cure}.",
                )
            )
    if cross.bend_radius_mm > 0 and len(cross.points) > 2:
        out.append(
            Problem(
                "crossmember",
                "crossmember/bend_radius_mm",
                "The crossmember's channel is not bent round a radius: mitre and weld it where it turns.",
            )
        )
    return out


def _passes_under(job: Job, mount: Mount) -> list[Problem]:
    """Whether the crossmember's tube passes under its mount's eye, clear of it and near enough."""
    cross, bush, round_it = job.crossmember, mount.bush, eye_of(mount.bush)
    assert cross is not None
    eye = np.asarray(bush.centre, dtype=float)
    radius = round_it.outside_mm / 2
    best: tuple[float, Array] | None = None
    try:
        axis = axis_of(cross)
    except JobError:  # told above
        axis = cross.points
    for a, b in zip(axis, axis[1:], strict=False):
        start, along = np.asarray(a, dtype=float), np.subtract(b, a)
        flat = along[:2]
        t = float(np.clip((eye - start)[:2] @ flat / max(float(flat @ flat), 1e-9), 0.0, 1.0))
        p = start + t * along
        d = float(np.linalg.norm((eye - p)[:2]))
        if best is None or d < best[0]:
            best = d, p
    assert best is not None
    beside, at = best
    half = cross.section.wide_mm / 2
    if beside > half + round_it.length_mm / 2:
        return [
            Problem(
                "crossmember",
                "crossmember/points",
                f"The crossmember passes {beside:.0f} mm beside {mount.name}, not under it.",
            )
        ]
    air = float(eye[2] - at[2]) - radius - cross.section.height_mm / 2
    if air < 0:
        return [
            Problem(
                "crossmember",
                "crossmember/points",
                f"The crossmember runs {-air:.0f} mm into the eye of {mount.name}, or over it.",
            )
        ]
    if air > UNDER:
        return [
            Problem(
                "crossmember",
                "crossmember/points",
                f"The crossmember passes {air:.0f} mm under {mount.name}: nothing is between them.",
            )
        ]
    return []
