"""Whether the metal of a mount is there: plates that stand on the engine, eyes that meet their plates,
nothing in its own engine."""

from __future__ import annotations

import math

import numpy as np

from nimble_cradle.bay.bodies import fitted_pieces, powertrain_bodies
from nimble_cradle.bay.position import NOUGHT, pose_of
from nimble_cradle.families.arm_run import ArmRun, arm_run
from nimble_cradle.families.eared import EaredMount
from nimble_cradle.families.eye import eye_solid
from nimble_cradle.families.family import eye_of
from nimble_cradle.families.landing import footprint, weld_throat
from nimble_cradle.families.plate import pad_spots, plate_of
from nimble_cradle.families.strut_ears import ears_on_plate, told_of_ears
from nimble_cradle.findings.finding import Problem
from nimble_cradle.fit.joined import MEETS
from nimble_cradle.geometry.bodies import Bodies
from nimble_cradle.geometry.distance import nearest
from nimble_cradle.geometry.pose import Pose, unit
from nimble_cradle.geometry.solid_makers import box
from nimble_cradle.job.base import JobError
from nimble_cradle.job.job import Job
from nimble_cradle.job.mounts import Mount, Pad
from nimble_cradle.job.remember import of_same, remembered
from nimble_cradle.job.strut import Strut
from nimble_cradle.job.tube_arm import Tube
from nimble_cradle.stock.washers import washer_radius

TORCH = 15.0
"""A torch goes round a weld where so many mm are free beside it (common practice, no source)."""
WEDGE = 2.0
"""Air under an eye that a weld can bridge, mm (common practice, no source)."""
LYING = 0.7
"""Below this cosine between an eye's axis and its plate (45 deg) the eye stands on its end."""
NO_SEAT = {
    "turning": "turns",
    "hot": "grows with heat",
    "hose": "gives way",
    "moving": "moves",
    "sheet": "is sheet metal",
}
"""Kinds of pieces that no mount is bolted to, and why (common practice, no source)."""
HOT = "hot"
"""The class of neighbour whose heat ages rubber."""
PACKING_MOST = 25.0
"""Beyond so many mm a packing piece is no longer judged as one (common practice, no source)."""


@of_same()
def _from_engine(pad: Pad, bodies: Bodies) -> list[tuple[float, int | None]]:
    """How far a pad's centre and its bolts are from the nearest piece of the powertrain, mm, and its number;
    below nought inside one; inf and None beyond 100."""
    spots = pad_spots(pad)
    out: list[tuple[float, int | None]] = [(math.inf, None)] * len(spots)
    each = Bodies([[box(spot, (0.1, 0.1, 0.1))] for spot in spots])
    for near in nearest(each, Pose.still(), bodies, np.full((len(spots), bodies.count), 100.0)):
        if near.distance < out[near.a][0]:
            out[near.a] = near.distance, near.b
    return out


@remembered("powertrain", "meshes", "mounts", "struts", "position", "clearances")
def mount_questions(job: Job) -> tuple[Problem, ...]:
    """What is open about the metal of the mounts: plates that stand on nothing, eyes that meet no plate,
    patterns that were turned over, pads that are turned. Raises JobError."""
    out: list[Problem] = []
    pose = pose_of(job.position)
    there = bool(fitted_pieces(job))
    for mount in job.mounts:
        base = f"mounts/{mount.id}"
        out += _of_plate(job, mount, there) + _worn(mount)
        if mount.cross_bolt.tightening_nm is None:
            out.append(
                Problem(
                    "mounts",
                    f"{base}/cross_bolt/tightening_nm",
                    f"{mount.name}: how its cross-bolt is tightened is not said, so the sleeve is taken as"
                    " loose.",
                )
            )
        try:
            run = arm_run(mount, pose)
        except JobError:
            continue
        out += _heads(mount, run) + _torch(mount, run)
        out += _shared(mount, run)
        out += _heat(job, mount, pose)
        if mount.arm is None:
            out += _eye_stands(mount, run)
        out += _turned_pad(job, mount)
    for strut in job.struts:
        out += _of_ears(job, strut, there)
    return tuple(out)


def _of_plate(job: Job, mount: Mount, there: bool) -> list[Problem]:
    """What is open about how a plate is bolted to the engine, of which something is there."""
    base = f"mounts/{mount.id}"
    out = _plate_stands(job, mount) if there else []
    if not mount.pad.holes_confirmed:
        out.append(
            Problem(
                "mounts",
                f"{base}/pad/holes_confirmed",
                f"{mount.name}: the model had its holes mirrored against words and paper; lay the printed"
                " plate on the block, then say that it fits.",
            )
        )
    if mount.pad.thread_in == "unsaid" or mount.pad.thread_deep_mm is None:
        out.append(
            Problem(
                "mounts",
                f"{base}/pad/thread_in",
                f"{mount.name}: say what its bolts are screwed into, and how deep.",
            )
        )
    return out + _bosses(mount)


def _of_ears(job: Job, strut: Strut, there: bool) -> list[Problem]:
    """The same of a torque strut's plate on the engine, and of the bolt between its ears."""
    if strut.ears is None:
        return []
    try:
        mount, ears = ears_on_plate(strut)
        run = arm_run(mount, Pose.still())
    except JobError as error:
        found = told_of_ears(strut, error)
        return [Problem("mounts", found.place or f"struts/{strut.id}/ears", f"{found.message}")]
    out = _of_plate(job, mount, there) + ears.questions() + _heads(mount, run) + _shared(mount, run)
    if strut.ears.tightening_nm is None:
        out.append(
            Problem(
                "mounts",
                f"mounts/{mount.id}/cross_bolt/tightening_nm",
                f"{mount.name}: how the bolt through its eye on the engine is tightened is not said, so the"
                " sleeve is taken as loose.",
            )
        )
    return [told_of_ears(strut, asked) for asked in out]


def _worn(mount: Mount) -> list[Problem]:
    """A used bush, which has sagged and may be loose."""
    bush, base = mount.bush, f"mounts/{mount.id}/bush"
    if bush.play_mm > 0:
        said = f"{mount.name}: its bush has {bush.play_mm:g} mm of play; put in a new one."
        return [Problem("mounts", f"{base}/play_mm", said)]
    if bush.worn == "used":
        said = (
            f"{mount.name}: a used bush has sagged; put in a new one before the engine's position is fixed,"
            " or it stands too low."
        )
        return [Problem("mounts", f"{base}/worn", said)]
    return []


def _bosses(mount: Mount) -> list[Problem]:
    """Bosses of the block that are left free, or that nobody has looked for."""
    pad, place = mount.pad, f"mounts/{mount.id}/pad/more_bosses"
    free, there = len(pad.free_holes), len(pad.every_hole) + len(pad.free_holes)
    if pad.more_bosses != "unsaid":
        return []
    if free:
        return [
            Problem(
                "mounts",
                place,
                f"{mount.name}: {free} of {there} bosses of the block are left free; bolt the plate to them,"
                " or say why not.",
            )
        ]
    if not 0 < len(pad.every_hole) <= 2:
        return []
    return [
        Problem(
            "mounts",
            place,
            f"{mount.name}: it has {len(pad.every_hole)} bolts; say whether the block has more bosses there.",
        )
    ]


def _shared(mount: Mount, run: ArmRun) -> list[Problem]:
    """Whether the plate leaves the bosses free at which another part bolts on."""
    pad = mount.pad
    if pad.more_bosses != "other part" or not pad.free_holes:
        return []
    from shapely.geometry import Point, Polygon

    plate = Polygon(plate_of(mount, run).outline)
    out = []
    for k, hole in enumerate(pad.free_holes):
        over = washer_radius(pad.bolt) - plate.distance(Point(*hole))
        if over > NOUGHT:
            out.append(
                Problem(
                    "mounts",
                    f"mounts/{mount.id}/pad/free_holes",
                    f"{mount.name}: its plate lies {over:.0f} mm over free boss {k + 1}, where another part"
                    " bolts on; cut that side off, or let one bolt hold both.",
                )
            )
    return out


def _plate_stands(job: Job, mount: Mount) -> list[Problem]:
    """Whether the pad and every bolt of a plate lie on a piece of the powertrain."""
    names = ["its pad", *(f"bolt {k + 1}" for k in range(len(mount.pad.every_hole)))]
    pieces = fitted_pieces(job)
    for name, (away, k) in zip(names, _from_engine(mount.pad, powertrain_bodies(job)), strict=True):
        piece = None if k is None else pieces[k]
        if away > MEETS:
            far = f"{away:.0f} mm from" if math.isfinite(away) else "nowhere near"
            return [
                Problem(
                    "mounts",
                    f"mounts/{mount.id}/pad/centre",
                    f"{mount.name}: {name} is {far} the nearest piece of the engine: there is nothing to"
                    " bolt to.",
                )
            ]
        if away < -2 * MEETS:
            return [
                Problem(
                    "mounts",
                    f"mounts/{mount.id}/pad/centre",
                    f"{mount.name}: {name} lies {-away:.0f} mm inside a piece of the engine.",
                )
            ]
        if piece is not None and piece.neighbour in NO_SEAT:
            return [
                Problem(
                    "mounts",
                    f"mounts/{mount.id}/pad/centre",
                    f"{mount.name}: {name} stands on {piece.name}, which {NO_SEAT[piece.neighbour]}; a mount"
                    " is bolted to the block or the gearbox.",
                )
            ]
    return []


def _eye_stands(mount: Mount, run: ArmRun) -> list[Problem]:
    """Whether an eye without an arm stands on its plate, on its cross, with no wedge of air under it."""
    bush, pad = mount.bush, mount.pad
    local = run.axes.T @ (np.asarray(bush.centre, dtype=float) - run.root)
    axis = run.axes.T @ unit(bush.axis)
    level = float(np.linalg.norm(axis[:2]))
    if level < LYING:
        return [
            Problem(
                "mounts",
                f"mounts/{mount.id}/bush/axis",
                f"{mount.name}: its eye stands on end on its plate, {math.degrees(math.acos(level)):.0f} deg"
                " from lying; without an arm an eye lies along its plate: turn its axis, or give it an arm.",
            )
        ]
    tilt = abs(float(axis[2])) / max(level, 1e-9) * eye_of(bush).length_mm / 2
    air = float(local[2]) - run.eye_radius / max(level, 1e-9)
    place = f"mounts/{mount.id}/bush/centre"
    out = []
    off = float(np.hypot(local[0], local[1]))
    if off > WEDGE:
        right = "right" if local[0] > 0 else "left"
        up = "up" if local[1] > 0 else "down"
        out.append(
            Problem(
                "mounts",
                f"mounts/{mount.id}/pad/arm_at",
                f"{mount.name}: its eye stands {off:.0f} mm from its cross on the plate; move the cross"
                f" {abs(local[0]):.1f} mm {right} and {abs(local[1]):.1f} mm {up}, as one faces the plate.",
            )
        )
    if air - tilt < -WEDGE:
        out.append(
            Problem(
                "mounts",
                place,
                f"{mount.name}: its eye runs {tilt - air:.1f} mm into the plate; move the bush away from it.",
            )
        )
    elif max(air + tilt, 0.0) > WEDGE and not mount.packing:
        low, high = max(air - tilt, 0.0), air + tilt
        out.append(
            Problem(
                "mounts",
                place,
                f"{mount.name}: its eye stands {low:.1f} to {high:.1f} mm off a {pad.plate_mm:g} mm plate;"
                " move the bush to it, or put in a packing piece.",
            )
        )
    elif mount.packing and air + tilt > PACKING_MOST:
        out.append(
            Problem(
                "mounts",
                place,
                f"{mount.name}: a packing piece of {air + tilt:.0f} mm is an arm: give it one.",
            )
        )
    return out


def _heads(mount: Mount, run: ArmRun) -> list[Problem]:
    """Whether the washer of every bolt (twice its size across, ISO 7089 within 2 mm, from memory) lies clear
    of the weld of arm or eye."""
    pad = mount.pad
    throat = weld_throat(mount)
    away = footprint(mount, run, throat * math.sqrt(2)).away(
        np.asarray(pad.every_hole, dtype=float).reshape(-1, 2)
    )
    short = np.array([washer_radius(bolt.size) for bolt in pad.bolts]) - away
    if not len(short) or short.max() <= NOUGHT:
        return []
    k = int(short.argmax())
    what = "arm" if mount.arm else "ears" if isinstance(mount, EaredMount) else "eye"
    return [
        Problem(
            "mounts",
            f"mounts/{mount.id}/pad/holes",
            f"{mount.name}: the washer of bolt {k + 1} lies {short[k]:.1f} mm over the weld of the {what};"
            f" move the hole or the {what}.",
        )
    ]


def _torch(mount: Mount, run: ArmRun) -> list[Problem]:
    """Whether a torch reaches all round the weld of an arm at its plate: between plate and eye, or kink, on
    the side it leans to."""
    arm = mount.arm
    if not isinstance(arm, Tube):
        return []
    lean = arm.outside_mm / 2 * math.tan(math.radians(run.plate_angle_deg))
    free = run.length - (run.eye_radius if run.last is None else 0.0) - lean
    if free >= TORCH:
        return []
    end = "eye" if run.last is None else "kink"
    return [
        Problem(
            "mounts",
            f"mounts/{mount.id}/bush/centre",
            f"{mount.name}: between its plate and its {end} are {max(free, 0.0):.0f} mm; a torch needs"
            f" {TORCH:g} to go round the arm.",
        )
    ]


def _heat(job: Job, mount: Mount, pose: Pose) -> list[Problem]:
    """Whether the rubber is as far from the engine's own hot pieces as anything has to be."""
    wanted = next((row.required_mm for row in job.clearances if row.id == HOT), None)
    hot = [k for k, piece in enumerate(fitted_pieces(job)) if piece.neighbour == HOT]
    if wanted is None or not hot or mount.bush.kind == "solid" or mount.heat_shielded:
        return []
    every, pieces = powertrain_bodies(job), fitted_pieces(job)
    reach = np.full((1, every.count), -np.inf)
    reach[0, hot] = wanted
    found = nearest(Bodies([[eye_solid(mount).placed(pose.inverse())]]), Pose.still(), every, reach)
    worst = min(found, key=lambda n: n.distance, default=None)
    if worst is None or worst.distance >= wanted:
        return []
    return [
        Problem(
            "mounts",
            f"mounts/{mount.id}/heat_shielded",
            f"{mount.name}: its rubber is {max(worst.distance, 0.0):.0f} mm from {pieces[worst.b].name},"
            f" which is hot and wants {wanted:g} mm: shield it and say so, or move one of them.",
        )
    ]


def _turned_pad(job: Job, mount: Mount) -> list[Problem]:
    """A gearbox whose pad is turned about the crank wants its plate turned with it."""
    turn = job.powertrain.gearbox.pad_turn_deg
    if mount.carries != "gearbox" or abs(turn) < 0.5:
        return []
    n = unit(mount.pad.normal)
    if abs(n[0]) > 0.7:
        return []
    own = math.degrees(math.atan2(float(n[1]), float(-n[2])))
    off = (own - turn + 45.0) % 90.0 - 45.0
    if abs(off) <= 1.0:
        return []
    return [
        Problem(
            "mounts",
            f"mounts/{mount.id}/pad/normal",
            f"{mount.name}: the gearbox's pad is said to be turned by {turn:g} deg, its plate is drawn"
            f" {abs(off):.1f} deg off that.",
        )
    ]
