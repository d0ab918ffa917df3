"""Whether every part between engine and chassis rail is there and was judged: a formula for a part in
mid-air says nothing."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from nimble_cradle.fit.bodies import bay_bodies, fitted_pieces, powertrain_bodies, standing_items
from nimble_cradle.fit.position import NOUGHT, pose_of
from nimble_cradle.geometry.distance import Bodies, nearest
from nimble_cradle.geometry.pose import Array, Pose, frame, unit
from nimble_cradle.geometry.solids import bar, box
from nimble_cradle.job.base import JobError
from nimble_cradle.job.bay import Item
from nimble_cradle.job.job import Job
from nimble_cradle.job.mounts import Mount
from nimble_cradle.job.powertrain import Piece
from nimble_cradle.job.remember import remembered
from nimble_cradle.strength.arms import ArmRun, arm_run, eye_solid, footprint, mount_solids
from nimble_cradle.strength.findings import Finding
from nimble_cradle.strength.mount_checks import unjudged
from nimble_cradle.strength.threads import thread

MEETS = 8.0
"""A plate or an end plate stands on something within so many mm: shapes are as good as a tape (common
practice, no source)."""
WEDGE = 2.0
"""Air under an eye that a weld can bridge, mm (common practice, no source)."""
TOUCHING = 1.0
"""An arm or eye less than so many mm within a piece of its own engine is as good as beside it: shapes are as
good as a tape (common practice, no source)."""
NO_SEAT = {"turning": "turns", "hot": "grows with heat", "hose": "gives way", "moving": "moves"}
"""Kinds of pieces that no mount is bolted to, and why (common practice, no source)."""
UNDER = 80.0
"""A crossmember passes under its bush within so many mm of the eye (common practice, no source)."""
PACKING_MOST = 25.0
"""Beyond so many mm a packing piece is no longer judged as one (common practice, no source)."""

BlockToBush = Literal["holds", "does not hold", "open"]


@dataclass(frozen=True)
class MountVerdict:
    """Two verdicts of one mount: from the block to the bush, and from the bush to the rail. questions:
    what keeps the first open, in sentences; rail: what is known of the second."""

    mount: str
    name: str
    block_to_bush: BlockToBush
    bush_to_rail: Literal["not described yet", "holds"]
    questions: tuple[str, ...]
    rail: str


@dataclass(frozen=True)
class Question:
    """An open question about a part: its place in the job, and a sentence."""

    place: str
    sentence: str


def mount_verdict(
    job: Job, mount: Mount, findings: Sequence[Finding], asked: Sequence[Question]
) -> MountVerdict:
    """What may be said of a mount. asked: all open questions; those whose place lies in this mount count."""
    own = tuple(
        q.sentence
        for q in asked
        if q.place == f"mounts/{mount.id}" or q.place.startswith(f"mounts/{mount.id}/")
    )
    mine = [f for f in findings if f.part == mount.id]
    missing = unjudged(mount, mine)
    if missing:
        own = (*own, f"{mount.name}: nothing is known of its {', '.join(missing)} yet.")
    state: BlockToBush = "open" if own else ("does not hold" if any(f.use > 1 for f in mine) else "holds")
    return MountVerdict(mount.id, mount.name, state, "not described yet", own, _rail_words(job, mount))


def _rail_words(job: Job, mount: Mount) -> str:
    """What stands nearest to a bush, of the chassis, and what it is made of."""
    tail = "nothing of the chassis is near it"
    try:
        chassis = [i for i in standing_items(job) if i.chassis]
        found = _nearest_item(job, np.asarray(mount.bush.centre, dtype=float), chassis, 400.0)
    except JobError:  # said of the item itself
        found, tail = None, "what stands near it cannot be measured"
    if found is not None:
        item, away = found
        made = "not said what it is made of" if item.material == "unsaid" else item.material
        tail = f"nearest is {item.name}, {max(away, 0.0):.0f} mm from the bush's centre, {made}"
        if item.material in ("aluminium", "magnesium"):
            tail += ": steel cannot be welded to it"
        elif item.material == "single skin":
            tail += ": a mount is only as good as that"
    return f"{mount.name}: from bush to rail it is not described yet; {tail}."


def _point(at: Array) -> Bodies:
    """A point that can be measured from: a cube of a tenth of a mm."""
    return Bodies([[box(at, (0.1, 0.1, 0.1))]])


def _nearest_item(job: Job, at: Array, items: Sequence[Item], reach: float) -> tuple[Item, float] | None:
    """The nearest of some items to a point of the vehicle frame, and how far, mm; below nought inside it."""
    every = standing_items(job)
    wanted = {i.id for i in items}
    if not wanted:
        return None
    limit = np.full((1, len(every)), -np.inf)
    limit[0, [k for k, i in enumerate(every) if i.id in wanted]] = reach
    found = nearest(_point(at), Pose.still(), bay_bodies(job), limit)
    best = min(found, key=lambda n: n.distance, default=None)
    return None if best is None else (every[best.b], best.distance)


def _from_engine(job: Job, spots: Sequence[Array]) -> list[tuple[float, Piece | None]]:
    """How far points of the powertrain frame are from its nearest piece, mm, and that piece; below nought
    inside one; inf and None beyond 100."""
    bodies = powertrain_bodies(job)
    out: list[tuple[float, Piece | None]] = [(math.inf, None)] * len(spots)
    pieces = fitted_pieces(job)
    each = Bodies([[box(spot, (0.1, 0.1, 0.1))] for spot in spots])
    for n in nearest(each, Pose.still(), bodies, np.full((len(spots), bodies.count), 100.0)):
        if n.distance < out[n.a][0]:
            out[n.a] = n.distance, pieces[n.b]
    return out


@remembered("powertrain", "meshes", "mounts", "position")
def mount_questions(job: Job) -> tuple[Question, ...]:
    """What is open about the metal of the mounts: plates that stand on nothing, eyes that meet no plate,
    patterns that were turned over, pads that are turned. Raises JobError."""
    out: list[Question] = []
    pose = pose_of(job.position)
    there = bool(fitted_pieces(job))
    for mount in job.mounts:
        base = f"mounts/{mount.id}"
        if there:
            out += _plate_stands(job, mount)
        if not mount.pad.holes_confirmed:
            out.append(
                Question(
                    f"{base}/pad/holes_confirmed",
                    f"{mount.name}: the model had its holes mirrored against words and paper; lay the printed"
                    " plate on the block, then say that it fits.",
                )
            )
        if mount.cross_bolt.tightening_nm is None:
            out.append(
                Question(
                    f"{base}/cross_bolt/tightening_nm",
                    f"{mount.name}: how its cross-bolt is tightened is not said, so the sleeve is taken as"
                    " loose.",
                )
            )
        try:
            run = arm_run(mount, pose)
            out += _in_its_own_engine(job, mount, pose) if there else []
        except JobError:
            continue
        out += _heads(mount, run)
        if mount.arm is None:
            out += _eye_stands(mount, run)
        out += _turned_pad(job, mount)
    return tuple(out)


def _plate_stands(job: Job, mount: Mount) -> list[Question]:
    """Whether the pad and every bolt of a plate lie on a piece of the powertrain."""
    names = ["its pad", *(f"bolt {k + 1}" for k in range(len(mount.pad.holes)))]
    for name, (away, piece) in zip(names, _from_engine(job, _pad_spots(mount)), strict=True):
        if away > MEETS:
            far = f"{away:.0f} mm from" if math.isfinite(away) else "nowhere near"
            return [
                Question(
                    f"mounts/{mount.id}/pad/centre",
                    f"{mount.name}: {name} is {far} the nearest piece of the engine: there is nothing to"
                    " bolt to.",
                )
            ]
        if away < -2 * MEETS:
            return [
                Question(
                    f"mounts/{mount.id}/pad/centre",
                    f"{mount.name}: {name} lies {-away:.0f} mm inside a piece of the engine.",
                )
            ]
        if piece is not None and piece.neighbour in NO_SEAT:
            return [
                Question(
                    f"mounts/{mount.id}/pad/centre",
                    f"{mount.name}: {name} stands on {piece.name}, which {NO_SEAT[piece.neighbour]}; a mount"
                    " is bolted to the block or the gearbox.",
                )
            ]
    return []


def _eye_stands(mount: Mount, run: ArmRun) -> list[Question]:
    """Whether an eye without an arm stands on its plate, on its cross, with no wedge of air under it."""
    bush, pad = mount.bush, mount.pad
    local = run.axes.T @ (np.asarray(bush.centre, dtype=float) - run.root)
    axis = run.axes.T @ unit(bush.axis)
    level = float(np.linalg.norm(axis[:2]))
    tilt = abs(float(axis[2])) / max(level, 1e-9) * bush.length_mm / 2
    air = float(local[2]) - run.eye_radius / max(level, 1e-9)
    place = f"mounts/{mount.id}/bush/centre"
    out = []
    off = float(np.hypot(local[0], local[1]))
    if off > WEDGE:
        right = "right" if local[0] > 0 else "left"
        up = "up" if local[1] > 0 else "down"
        out.append(
            Question(
                f"mounts/{mount.id}/pad/arm_at",
                f"{mount.name}: its eye stands {off:.0f} mm from its cross on the plate; move the cross"
                f" {abs(local[0]):.1f} mm {right} and {abs(local[1]):.1f} mm {up}, as one faces the plate.",
            )
        )
    if air - tilt < -WEDGE:
        out.append(
            Question(
                place,
                f"{mount.name}: its eye runs {tilt - air:.1f} mm into the plate; move the bush away from it.",
            )
        )
    elif max(air + tilt, 0.0) > WEDGE and not mount.packing:
        low, high = max(air - tilt, 0.0), air + tilt
        out.append(
            Question(
                place,
                f"{mount.name}: its eye stands {low:.1f} to {high:.1f} mm off a {pad.plate_mm:g} mm plate;"
                " move the bush to it, or put in a packing piece.",
            )
        )
    elif mount.packing and air + tilt > PACKING_MOST:
        out.append(
            Question(place, f"{mount.name}: a packing piece of {air + tilt:.0f} mm is an arm: give it one.")
        )
    return out


def packing_heights(mount: Mount, pose: Pose) -> tuple[float, float] | None:
    """Height of a packing piece at both ends of an eye without an arm, mm, towards the back and the front
    of its axis; None without one. Raises JobError."""
    if mount.arm is not None or not mount.packing:
        return None
    run = arm_run(mount, pose)
    local = run.axes.T @ (np.asarray(mount.bush.centre, dtype=float) - run.root)
    axis = run.axes.T @ unit(mount.bush.axis)
    level = max(float(np.linalg.norm(axis[:2])), 1e-9)
    air = float(local[2]) - run.eye_radius / level
    tilt = float(axis[2]) / level * mount.bush.length_mm / 2
    return max(air - tilt, 0.0), max(air + tilt, 0.0)


def _heads(mount: Mount, run: ArmRun) -> list[Question]:
    """Whether the washer of every bolt (twice its size across, ISO 7089 within 2 mm, from memory) lies clear
    of the weld of arm or eye."""
    pad = mount.pad
    throat = mount.arm.weld_throat_mm if mount.arm else mount.eye_weld_throat_mm
    away = footprint(mount, run, throat * math.sqrt(2)).away(
        np.asarray(pad.holes, dtype=float).reshape(-1, 2)
    )
    short = thread(pad.bolt).diameter - away
    if not len(short) or short.max() <= NOUGHT:
        return []
    k = int(short.argmax())
    what = "arm" if mount.arm else "eye"
    return [
        Question(
            f"mounts/{mount.id}/pad/holes",
            f"{mount.name}: the washer of bolt {k + 1} lies {short[k]:.1f} mm over the weld of the {what};"
            f" move the hole or the {what}.",
        )
    ]


def _in_its_own_engine(job: Job, mount: Mount, pose: Pose) -> list[Question]:
    """Whether plate, arm or eye run through a piece of the powertrain they are bolted to."""
    back, run = pose.inverse(), arm_run(mount, pose)
    made = [("eye", eye_solid(mount).placed(back)), ("plate", mount_solids(mount, pose)[0])]
    if mount.arm is not None:
        # cut flush with the plate: from where the whole round of the tube has left it
        radius = mount.arm.outside_mm / 2
        start = run.root + radius * math.tan(math.radians(run.plate_angle_deg)) * run.way
        end = run.aim - 0.9 * run.eye_radius * run.way
        if (end - start) @ run.way > 1.0:
            made.append(("arm", bar(start, end, 2 * radius).placed(back)))
    every, pieces = powertrain_bodies(job), fitted_pieces(job)
    reach = np.full((len(made), every.count), 0.5)
    spots = Bodies([[box(p, (0.1, 0.1, 0.1))] for p in _pad_spots(mount)])
    for n in nearest(spots, Pose.still(), every, np.full((spots.count, every.count), MEETS)):
        reach[1, n.b] = -np.inf  # what the plate is bolted to
    found = nearest(Bodies([[solid] for _, solid in made]), Pose.still(), every, reach)
    worst = min(found, key=lambda n: n.distance, default=None)
    if worst is None or worst.distance > -TOUCHING:
        return []
    what = made[worst.a][0]
    where = {"eye": "bush/centre", "plate": "pad/centre", "arm": "pad/arm_at"}[what]
    return [
        Question(
            f"mounts/{mount.id}/{where}",
            f"{mount.name}: its {what} runs {-worst.distance:.1f} mm into {pieces[worst.b].name}.",
        )
    ]


def _pad_spots(mount: Mount) -> list[Array]:
    """The pad's centre and its bolts, (3,) each, powertrain frame."""
    axes = frame(mount.pad.normal, mount.pad.up)
    flat = [(0.0, 0.0), *mount.pad.holes]
    return [np.asarray(mount.pad.centre) + axes[:, :2] @ np.array(p) for p in flat]


def _turned_pad(job: Job, mount: Mount) -> list[Question]:
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
        Question(
            f"mounts/{mount.id}/pad/normal",
            f"{mount.name}: the gearbox's pad is said to be turned by {turn:g} deg, its plate is drawn"
            f" {abs(off):.1f} deg off that.",
        )
    ]


@remembered("items", "survey", "meshes", "mounts", "crossmember", "powertrain")
def crossmember_questions(job: Job) -> tuple[Question, ...]:
    """Whether a gearbox mount has a crossmember, whether that meets the rails at both ends, what they are
    made of, and whether it passes under its bush. Raises JobError."""
    out: list[Question] = []
    cross = job.crossmember
    carried = {cross.carries} if cross is not None else set()
    for mount in job.mounts:
        if (
            mount.carries == "gearbox"
            and job.powertrain.gearbox.kind != "transaxle"
            and mount.id not in carried
        ):
            out.append(Question(f"mounts/{mount.id}/carries", f"{mount.name}: no crossmember carries it."))
    if cross is None:
        return tuple(out)
    chassis = [i for i in standing_items(job) if i.chassis]
    for word, end in (("left", cross.points[0]), ("right", cross.points[-1])):
        found = _nearest_item(job, np.asarray(end, dtype=float), chassis, 600.0)
        if found is None or found[1] > MEETS:
            tail = (
                "no part of the chassis is near it"
                if found is None
                else f"the nearest, {found[0].name}, is {found[1]:.0f} mm away"
            )
            out.append(Question("crossmember/points", f"The crossmember's {word} end meets no rail: {tail}."))
            continue
        item = found[0]
        if item.material == "unsaid":
            out.append(
                Question(
                    f"items/{item.id}/material",
                    f"{item.name}, where the crossmember ends: say what it is made of.",
                )
            )
        elif item.material in ("aluminium", "magnesium"):
            out.append(
                Question(
                    f"items/{item.id}/material",
                    f"{item.name} is {item.material}: the crossmember's {word} end is bolted, never welded,"
                    " and kept apart from it.",
                )
            )
        elif item.material == "single skin":
            out.append(
                Question(
                    f"items/{item.id}/material",
                    f"{item.name} is a single skin: reach the second skin, or box it, where the crossmember"
                    " ends.",
                )
            )
    mount_ = next((m for m in job.mounts if m.id == cross.carries), None)
    if mount_ is not None:
        out += _passes_under(job, mount_)
    return tuple(out)


def _passes_under(job: Job, mount: Mount) -> list[Question]:
    """Whether the crossmember's tube passes under its mount's eye, clear of it and near enough."""
    cross, bush = job.crossmember, mount.bush
    assert cross is not None
    eye = np.asarray(bush.centre, dtype=float)
    radius = bush.eye_bore_mm / 2 + bush.eye_wall_mm
    best: tuple[float, Array] | None = None
    for a, b in zip(cross.points, cross.points[1:], strict=False):
        start, along = np.asarray(a, dtype=float), np.subtract(b, a)
        flat = along[:2]
        t = float(np.clip((eye - start)[:2] @ flat / max(float(flat @ flat), 1e-9), 0.0, 1.0))
        p = start + t * along
        d = float(np.linalg.norm((eye - p)[:2]))
        if best is None or d < best[0]:
            best = d, p
    assert best is not None
    beside, at = best
    half = (cross.section.height_mm if cross.section.shape != "rectangle" else cross.section.width_mm) / 2
    if beside > half + bush.length_mm / 2:
        return [
            Question(
                "crossmember/points",
                f"The crossmember passes {beside:.0f} mm beside {mount.name}, not under it.",
            )
        ]
    air = float(eye[2] - at[2]) - radius - cross.section.height_mm / 2
    if air < 0:
        return [
            Question(
                "crossmember/points",
                f"The crossmember runs {-air:.0f} mm into the eye of {mount.name}, or over it.",
            )
        ]
    if air > UNDER:
        return [
            Question(
                "crossmember/points",
                f"The crossmember passes {air:.0f} mm under {mount.name}: nothing is between them.",
            )
        ]
    return []
