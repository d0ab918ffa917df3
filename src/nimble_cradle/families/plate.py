"""The plate of a mount: its outline, its solid, where its bolts sit."""

from __future__ import annotations

import math
from functools import lru_cache

import numpy as np

from nimble_cradle.families.arm_run import ArmRun, arm_run
from nimble_cradle.families.landing import footprint, weld_throat
from nimble_cradle.families.part import Joint, MadePart, Owner, Stock
from nimble_cradle.families.tube_extras import landing_points
from nimble_cradle.geometry.plate import Plate, plate_round
from nimble_cradle.geometry.pose import Array, Pose, frame
from nimble_cradle.geometry.solid_makers import bar, pushed
from nimble_cradle.geometry.solids import ConvexPart
from nimble_cradle.job.base import JobError
from nimble_cradle.job.mounts import Mount, Pad
from nimble_cradle.job.tube_arm import TubeArm
from nimble_cradle.stock.form import Form
from nimble_cradle.stock.steels import DENSITY_STEEL
from nimble_cradle.stock.washers import washer_radius


@lru_cache(maxsize=64)
def _plate_round(
    holes: tuple[tuple[float, float], ...],
    hole_mm: tuple[float, ...],
    edge_mm: float,
    landing: bytes,
    cut: tuple[float, float, float] | None,
) -> Plate:
    return plate_round(holes, hole_mm, edge_mm, np.frombuffer(landing).reshape(-1, 2), cut)


def plate_of(mount: Mount, run: ArmRun) -> Plate:
    """The plate of a mount round its holes and the landing of its arm or eye: the whole weld and 3 mm
    more. Raises JobError."""
    pad = mount.pad
    more = weld_throat(mount) * math.sqrt(2) + 3.0
    landing = footprint(mount, run, more).outline()
    if isinstance(mount.arm, TubeArm) and mount.arm.gussets:
        landing = np.vstack([landing, landing_points(run, mount.arm, more)])
    try:
        cut = None if pad.trim_way is None else (*pad.trim_way, pad.trim_mm)
        sizes = tuple(bolt.hole_mm for bolt in pad.bolts)
        return _plate_round(pad.every_hole, sizes, pad.edge_mm, landing.tobytes(), cut)
    except ValueError as error:
        raise JobError(f"{mount.name}: {error}.", f"mounts/{mount.id}/pad/holes") from None


def mount_plate(mount: Mount, pose: Pose) -> Plate:
    """The plate of a mount for the powertrain at ``pose``. Raises JobError."""
    return plate_of(mount, arm_run(mount, pose))


def plate_solid(mount: Mount, run: ArmRun) -> ConvexPart:
    """The plate on its pad, powertrain frame; its rounded corners within 0.1 mm."""
    pad = mount.pad
    from shapely.geometry import Polygon

    plain = Polygon(plate_of(mount, run).outline).simplify(0.1)
    assert isinstance(plain, Polygon)
    outline = np.asarray(plain.exterior.coords)[:-1]
    axes = frame(pad.normal, pad.up)
    flat = np.column_stack([outline, np.full(len(outline), pad.spacer_mm)])
    return pushed(np.asarray(pad.centre) + flat @ axes.T, axes[:, 2] * pad.plate_mm)


def bolt_places(mount: Mount, pose: Pose) -> Array:
    """Where the bolts' heads sit, (n, 3) on the plate's outer face, vehicle frame, for the powertrain at
    ``pose``."""
    pad = mount.pad
    holes = np.asarray(pad.every_hole).reshape(-1, 2)
    flat = np.column_stack([holes, np.full(len(holes), pad.out_mm)])
    return pose.points(np.asarray(pad.centre) + flat @ frame(pad.normal, pad.up).T)


def pad_spots(pad: Pad) -> list[Array]:
    """The pad's centre and its bolts, (3,) each, powertrain frame."""
    axes = frame(pad.normal, pad.up)
    flat = [(0.0, 0.0), *pad.every_hole]
    return [np.asarray(pad.centre) + axes[:, :2] @ np.array(p) for p in flat]


def plate_part(mount: Mount, run: ArmRun) -> MadePart:
    """The plate. Raises JobError."""
    pad = mount.pad
    plate = plate_of(mount, run)
    size = plate.outline.max(0) - plate.outline.min(0)
    stock = Stock(
        f"plate {pad.plate_mm:g}",
        pad.steel,
        f"{math.ceil(size[0] - 1e-6)} x {math.ceil(size[1] - 1e-6)}",
        round(plate.area * pad.plate_mm * DENSITY_STEEL, 2),
        f"template plate-{mount.id}",
        Form("sheet", (pad.plate_mm,)),
    )
    return MadePart(
        Owner("mount", mount.id),
        "plate",
        f"{mount.name}: plate",
        (plate_solid(mount, run),),
        moves=True,
        flat=plate,
        stock=stock,
        joints=(Joint("bolted to", "block"),),
        templates=(f"plate-{mount.id}",),
    )


def spacer_part(mount: Mount) -> MadePart | None:
    """The spacers between block and plate; None where it lies on the block."""
    pad = mount.pad
    if not pad.spacer_mm:
        return None
    axes = frame(pad.normal, pad.up)
    feet = np.asarray(pad.centre) + np.asarray(pad.every_hole).reshape(-1, 2) @ axes[:, :2].T
    across = [2 * washer_radius(bolt.size) for bolt in pad.bolts]
    wide = max(across)
    area = sum(
        math.pi / 4 * (size**2 - bolt.hole_mm**2) for size, bolt in zip(across, pad.bolts, strict=True)
    )
    bored = " and ".join(f"{bolt.hole_mm:g} for {bolt.size}" for bolt, _ in pad.sorts)
    stock = Stock(
        f"round {math.ceil(wide)}",
        pad.steel,
        f"{pad.spacer_mm:g} long",
        round(area / len(feet) * pad.spacer_mm * DENSITY_STEEL, 2),
        f"bored {bored}; in one piece, or of three at most",
        Form("flat", (float(math.ceil(wide)), pad.spacer_mm)),
        len(feet),
    )
    return MadePart(
        Owner("mount", mount.id),
        "spacers",
        f"{mount.name}: spacers",
        tuple(
            bar(foot, foot + pad.spacer_mm * axes[:, 2], size)
            for foot, size in zip(feet, across, strict=True)
        ),
        moves=True,
        stock=stock,
        joints=(Joint("bolted to", "block"), Joint("bolted to", "plate")),
    )


def block_bolts(mount: Mount) -> tuple[MadePart, ...]:
    """The bolts that hold the plate, a row for each sort."""
    out = []
    for n, (bolt, count) in enumerate(mount.pad.sorts):
        stock = Stock(
            bolt.size,
            bolt.grade,
            "length to suit",
            0.0,
            f"tighten to {bolt.tightening_nm:g} Nm in passes",
            Form("bolt", name=bolt.size),
            count,
        )
        out.append(
            MadePart(
                Owner("mount", mount.id),
                "bolts" if n == 0 else "other bolts",
                f"{mount.name}: block bolts" + (f" {bolt.size}" if n else ""),
                moves=True,
                stock=stock,
                joints=(Joint("bolted to", "block"),),
            )
        )
    return tuple(out)
