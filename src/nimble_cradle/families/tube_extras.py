"""What may be added to a straight tube arm: a scallop with its cover strip, and gussets at its foot."""

from __future__ import annotations

import math

import numpy as np

from nimble_cradle.families.arm_run import ArmRun
from nimble_cradle.families.part import Joint, MadePart, Owner, Stock
from nimble_cradle.geometry.clip import clipped
from nimble_cradle.geometry.pose import Array, Pose, cross, unit
from nimble_cradle.geometry.solid_makers import bar, hull
from nimble_cradle.geometry.solids import ConvexPart, SolidPart
from nimble_cradle.job.base import JobError
from nimble_cradle.job.mounts import Mount
from nimble_cradle.job.tube_arm import TubeArm
from nimble_cradle.stock.form import Form
from nimble_cradle.stock.steels import DENSITY_STEEL

Line = tuple[tuple[float, float], tuple[float, float]]


def scallop_way(mount: Mount, run: ArmRun, arm: TubeArm) -> Array:
    """(3,) out of the flat side, square to the tube. Raises JobError where that runs along it."""
    way = np.asarray(arm.scallop_way, dtype=float)
    square = way - (way @ run.way) * run.way
    if float(np.linalg.norm(square)) < 0.2 * float(np.linalg.norm(way)):
        raise JobError(
            f"{mount.name}: its scallop is on a side that runs along the arm; choose another side.",
            f"mounts/{mount.id}/arm/scallop_way",
        )
    return unit(square)


def scallop_ends(mount: Mount, run: ArmRun, arm: TubeArm) -> tuple[Array, Array]:
    """(3,), (3,) on the tube's axis where its scallop begins and ends. Raises JobError where it is not on the
    tube."""
    long = run.length - run.eye_radius
    middle, half = arm.scallop_at * long, arm.scallop_long_mm / 2
    if middle - half < 2.0 or middle + half > long - 2.0:
        raise JobError(
            f"{mount.name}: its scallop runs past the end of the arm; make it shorter or move it.",
            f"mounts/{mount.id}/arm/scallop_long_mm",
        )
    return run.root + (middle - half) * run.way, run.root + (middle + half) * run.way


def tube_solids(mount: Mount, run: ArmRun, arm: TubeArm, start: Array) -> tuple[ConvexPart, ...]:
    """The tube from ``start`` on, vehicle frame: whole, or in three with a scallop. Raises JobError."""
    end = run.aim - 0.9 * run.eye_radius * run.way
    if not arm.scallop_deep_mm:
        return (bar(start, end, arm.outside_mm),)
    way = scallop_way(mount, run, arm)
    a, b = scallop_ends(mount, run, arm)
    middle = (a + b) / 2
    if (a - start) @ run.way < 0.5:  # what has left the plate begins within it
        start = a - 0.5 * run.way
    offset = float(middle @ way) + arm.outside_mm / 2 - arm.scallop_deep_mm
    cut = clipped(bar(a, b, arm.outside_mm), way, offset)
    if not isinstance(cut, ConvexPart):
        raise JobError(
            f"{mount.name}: nothing of the arm is left beside its scallop.",
            f"mounts/{mount.id}/arm/scallop_deep_mm",
        )
    return bar(start, a, arm.outside_mm), cut, bar(b, end, arm.outside_mm)


def gusset_ways(run: ArmRun, count: int) -> list[Array]:
    """(3,) ways square to the tube in which gussets stand: the first down, two opposite, four all round."""
    if not count:
        return []
    down = np.array([0.0, 0.0, -1.0])
    first = down - (down @ run.way) * run.way
    if float(np.linalg.norm(first)) < 0.1:
        first = np.array([1.0, 0.0, 0.0]) - run.way[0] * run.way
    first = unit(first)
    side = cross(run.way, first)
    return {1: [first], 2: [first, -first]}.get(count, [first, side, -first, -side])


def gusset_solids(run: ArmRun, arm: TubeArm) -> list[SolidPart]:
    """Their triangles, vehicle frame."""
    out: list[SolidPart] = []
    normal = run.axes[:, 2]
    for way in gusset_ways(run, arm.gussets):
        flat = unit(way - (way @ normal) * normal)  # along the plate
        foot = _on_plate(run, way, arm.outside_mm / 2)
        tip = foot + arm.gusset_out_mm * flat
        top = foot + arm.gusset_along_mm * run.way
        thick = arm.gusset_mm / 2 * unit(cross(flat, run.way))
        out.append(hull([p + s * thick for p in (foot, tip, top) for s in (-1.0, 1.0)]))
    return out


def _on_plate(run: ArmRun, way: Array, radius: float) -> Array:
    """Where a line of the tube's outside, on the side of ``way``, meets the plate."""
    p = radius * way
    return run.root + p - (p @ run.axes[:, 2]) / (run.way @ run.axes[:, 2]) * run.way


def gusset_lines(run: ArmRun, arm: TubeArm, side: Array) -> list[Line]:
    """Their welds on the plate, both sides of each, in the tube's own section: u along ``side``."""
    other = cross(run.way, side)
    out: list[Line] = []
    radius, half = arm.outside_mm / 2, arm.gusset_mm / 2
    for way in gusset_ways(run, arm.gussets):
        u, v = float(way @ side), float(way @ other)
        for s in (-half, half):
            near, far = ((r * u - s * v, r * v + s * u) for r in (radius, radius + arm.gusset_out_mm))
            out.append((near, far))
    return out


def round_lines(radius: float, points: int = 36) -> list[Line]:
    """A weld round a tube as straight pieces."""
    a = np.linspace(0, 2 * math.pi, points + 1)
    p = [(radius * math.cos(x), radius * math.sin(x)) for x in a]
    return list(zip(p, p[1:], strict=False))


def landing_points(run: ArmRun, arm: TubeArm, more: float) -> Array:
    """(n, 2) on the plate, from the pad's centre: the tips of the gussets' welds."""
    rows = []
    for way in gusset_ways(run, arm.gussets):
        foot = _on_plate(run, way, arm.outside_mm / 2)
        flat = unit(run.axes[:, :2].T @ way)
        across = np.array([-flat[1], flat[0]])
        tip = (foot - run.pad_centre) @ run.axes[:, :2] + (arm.gusset_out_mm + more) * flat
        rows += [tip + s * (arm.gusset_mm / 2 + more) * across for s in (-1.0, 1.0)]
    return np.array(rows).reshape(-1, 2)


def extra_parts(mount: Mount, run: ArmRun, arm: TubeArm, pose: Pose) -> tuple[MadePart, ...]:
    """Gussets and cover strip as parts of their own."""
    out = []
    owner, back = Owner("mount", mount.id), pose.inverse()
    if arm.gussets:
        mass = arm.gusset_out_mm * arm.gusset_along_mm / 2 * arm.gusset_mm * DENSITY_STEEL
        stock = Stock(
            f"plate {arm.gusset_mm:g}",
            arm.steel,
            f"{arm.gusset_out_mm:g} x {arm.gusset_along_mm:g}, cut across",
            round(mass, 2),
            f"the first one downwards; {arm.weld_throat_mm * 1.5:.0f} mm off the corner between",
            Form("sheet", (arm.gusset_mm,)),
            int(arm.gussets),
        )
        out.append(
            MadePart(
                owner,
                "gussets",
                f"{mount.name}: gussets",
                tuple(s.placed(back) for s in gusset_solids(run, arm)),  # type: ignore[union-attr]
                moves=True,
                stock=stock,
                joints=(Joint("welded to", "plate"), Joint("welded to", "arm")),
            )
        )
    if arm.scallop_deep_mm:
        wide = 2 * math.sqrt(max(arm.scallop_deep_mm * (arm.outside_mm - arm.scallop_deep_mm), 1.0))
        stock = Stock(
            f"plate {arm.cover_mm:g}",
            arm.steel,
            f"{arm.scallop_long_mm:g} x {wide:.0f}",
            round(wide * arm.scallop_long_mm * arm.cover_mm * DENSITY_STEEL, 2),
            f"closes a scallop {arm.scallop_deep_mm:g} mm deep; weld it all round",
            Form("sheet", (arm.cover_mm,)),
        )
        out.append(
            MadePart(
                owner,
                "cover",
                f"{mount.name}: cover strip of its arm",
                moves=True,
                stock=stock,
                joints=(Joint("welded to", "arm"),),
            )
        )
    return tuple(out)
