"""Room for hands: whether a socket on an extension reaches each bolt of the mounts with the engine in its
place, and a hand its end, or else an open spanner with its swing; and fittings with theirs."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np

from nimble_cradle.bay.bodies import bay_bodies, fitted_pieces, powertrain_bodies, standing_items
from nimble_cradle.bay.position import pose_of
from nimble_cradle.families.family import bush_family
from nimble_cradle.families.part import Owner
from nimble_cradle.families.plate import bolt_places
from nimble_cradle.families.strut_ears import on_engine
from nimble_cradle.families.strut_stand import on_chassis
from nimble_cradle.fit.gaps import Fittings, fitting_gaps, piece_rooms
from nimble_cradle.geometry.bodies import Bodies
from nimble_cradle.geometry.distance import clearance, nearest
from nimble_cradle.geometry.pose import Array, Pose, frame, unit
from nimble_cradle.geometry.solid_makers import bar
from nimble_cradle.geometry.solids import SolidPart
from nimble_cradle.job.job import Job
from nimble_cradle.job.mounts import Mount
from nimble_cradle.job.strut import Strut
from nimble_cradle.made.parts import made, made_mounts
from nimble_cradle.stock.threads import thread

EXTENSIONS = (0.0, 75.0, 150.0, 250.0)
"""Extensions in a usual socket set, mm; nought is the socket alone (common practice, no source)."""
SOCKET_LONG, EXTENSION_ROUND, HAND_ROUND, HAND_LONG = 38.0, 16.0, 90.0, 60.0
"""A socket's length, an extension's diameter, and the round space for ratchet and hand at its end, mm
(common practice, no source)."""
SPANNER_ROUND, SPANNER_THICK, SPANNER_LONG, HANDLE_ROUND, GRIP_ROUND, GRIP_LONG = (
    2.2,
    0.45,
    11.0,
    0.55,
    40.0,
    80.0,
)
"""An open spanner: its head's round, thickness, length and its handle's round in widths across flats; the
round and length of the hand that lies on its outer side, mm (common practice, no source)."""
SWING = 3
"""Places 15 deg apart, one after another, that a spanner must be free in: turned over it takes the next
flat after 30 deg."""
HEAD_HIGH = 0.7
"""Height of a bolt's head in bolt diameters (ISO 4014 within 10 %, from memory)."""
BESIDE_CHEEK, THROUGH = 3.0, 0.9
"""A cross-bolt's head stands on a washer so far beside its cheek, mm, and is of a bolt of so much of the
hole's diameter (common practice, no source)."""
BRACKET = ("cheeks", "foot", "saddle")
"""Parts of a torque strut's bracket on the chassis."""
_Around = Sequence[tuple[Bodies, Pose, Callable[[int], str]]]
"""Sets that stand about, where, and the name of each of their bodies."""


@dataclass(frozen=True)
class Reach:
    """One bolt or fitting. extension: mm of the shortest that reaches it (None: none does); spanner: an
    open one does where no socket does; blocked: what is in the way of a socket, in words; place: vehicle
    frame."""

    name: str
    mount: str
    extension: float | None
    blocked: str
    place: tuple[float, float, float]
    spanner: bool = False

    @property
    def reached(self) -> bool:
        """Whether anything reaches it."""
        return self.extension is not None or self.spanner

    @property
    def words(self) -> str:
        """``a socket on 75 mm reaches it`` or what is in the way."""
        if self.spanner:
            return f"an open spanner reaches it, no socket ({self.blocked})"
        if self.extension is None:
            return f"not reached: {self.blocked}"
        if self.mount == "":
            return "reached"
        return (
            "a socket reaches it"
            if self.extension == 0
            else f"a socket on {self.extension:.0f} mm reaches it"
        )


def socket_round(bolt_mm: float) -> float:
    """Outside of a socket for a bolt, mm: 1.6 d across flats with walls (common practice, no source)."""
    return 1.6 * bolt_mm * 1.38 + 2.0


def _tool(at: Array, way: Array, bolt_mm: float, extension: float) -> list[SolidPart]:
    """Socket, extension and hand from a bolt's head outwards, vehicle frame."""
    socket = at + SOCKET_LONG * way
    end = socket + extension * way
    out: list[SolidPart] = [bar(at + 0.5 * way, socket, socket_round(bolt_mm))]
    if extension:
        out.append(bar(socket, end, EXTENSION_ROUND))
    return [*out, bar(end, end + HAND_LONG * way, HAND_ROUND)]


def _spanner(at: Array, way: Array, bolt_mm: float, turned: float) -> list[SolidPart]:
    """An open spanner on a bolt's head, whose top is at ``at``, and the hand on it, turned by so many
    radians about the bolt; vehicle frame."""
    flats = 1.6 * bolt_mm
    axes = frame(way, (0.31, 0.87, 0.39))
    out = np.cos(turned) * axes[:, 0] + np.sin(turned) * axes[:, 1]
    middle = at - 0.35 * bolt_mm * way
    half = SPANNER_THICK * flats / 2 * way
    end = middle + SPANNER_LONG * flats * out
    hand = end + (GRIP_ROUND - HANDLE_ROUND * flats) / 2 * way
    return [
        bar(middle - half, middle + half, SPANNER_ROUND * flats),
        bar(middle, end, HANDLE_ROUND * flats),
        bar(hand - GRIP_LONG * out, hand, GRIP_ROUND),
    ]


def _hit(tool: list[SolidPart], around: _Around) -> str:
    """What a tool runs into, or nothing."""
    one = Bodies([tool])
    for bodies, pose, name in around:
        found = nearest(bodies, pose, one, np.full((bodies.count, 1), 0.5))
        if any(near.distance <= 0 for near in found):
            return name(min(found, key=lambda n: n.distance).a)
    return ""


class _Tried(NamedTuple):
    """extension: mm of the shortest that reaches, None if none does; hit: then what is in the way of a
    socket; spanner: then whether an open one swings."""

    extension: float | None
    hit: str
    spanner: bool


def _tried(ways: Sequence[tuple[Array, Array]], bolt_mm: float, around: _Around) -> _Tried:
    """Reach of one bolt: by the shortest extension that is free from any side; else by a spanner; else what
    is in the way of a socket from the first side."""
    first = ""
    for extension in EXTENSIONS:
        for at, way in ways:
            hit = _hit(_tool(at, way, bolt_mm, extension), around)
            if not hit:
                return _Tried(extension, "", False)
            first = first or hit
    return _Tried(None, first, any(_swings(at, way, bolt_mm, around) for at, way in ways))


def _swings(at: Array, way: Array, bolt_mm: float, around: _Around) -> bool:
    """True if an open spanner is free in enough places one after another to turn the bolt."""
    free = []
    for k in range(24):
        one = Bodies([_spanner(at, way, bolt_mm, np.radians(15.0 * k))])
        free.append(all(clearance(bodies, pose, one, 0.001)[0] > 0 for bodies, pose, _ in around))
    return any(all((free + free)[k : k + SWING]) for k in range(24))


def reaches(job: Job) -> tuple[Reach, ...]:
    """Every bolt of every mount, of the ears and brackets of torque struts, and every fitting with its room,
    those that cannot be reached first. A strut's rod goes in last and is in no one's way. Raises JobError."""
    pose = pose_of(job.position)
    items, pieces = standing_items(job), fitted_pieces(job)
    around: _Around = [
        (bay_bodies(job), Pose.still(), lambda k: items[k].name),
        (powertrain_bodies(job), pose, lambda k: pieces[k].name),
    ]
    arms, feet = _arms(job, pose), _feet(job)
    out: list[Reach] = []
    for mount in job.mounts:
        every = [*arms.values(), *feet.values()]
        out += _plate_bolts(mount, pose, [*around, _standing(every)])
        others = [metal for rows in (arms, feet) for key, metal in rows.items() if key != mount.id]
        out.append(_cross_bolt(mount, [*around, _standing(others)]))
    for strut in job.struts:
        out += _strut_bolts(job, strut, pose, around, [*arms.values(), *feet.values()])
    out += _rooms(job, pose)
    return tuple(sorted(out, key=lambda r: (r.reached, r.extension is not None)))


class _ArmMetal(NamedTuple):
    """What of a mount can be in the way of a tool. name: of the mount; parts: its arm and eye, vehicle
    frame."""

    name: str
    parts: list[SolidPart]


def _arms(job: Job, pose: Pose) -> dict[str, _ArmMetal]:
    """Arm and eye of every mount that can be made, by its id."""
    names = {mount.id: mount.name for mount in job.mounts}
    return {
        owner.id: _ArmMetal(
            f"{names[owner.id]}, arm and eye",
            [s for part in parts if part.moves and part.role != "plate" for s in part.in_vehicle(pose)],
        )
        for owner, parts in made_mounts(job).whole("mount")
    }


def _feet(job: Job) -> dict[str, _ArmMetal]:
    """The chassis side of every mount that has one, by its id."""
    out = {}
    for mount in job.mounts:
        solids = [
            s
            for part in made_mounts(job).of(Owner("mount", mount.id))
            if not part.moves and not part.stands_in and part.role != "sleeve"
            for s in part.solids
        ]
        if solids:
            out[mount.id] = _ArmMetal(f"{mount.name}, its chassis side", solids)
    return out


def _standing(arms: Sequence[_ArmMetal]) -> tuple[Bodies, Pose, Callable[[int], str]]:
    """Arms as a set that stands about."""
    return Bodies([arm.parts for arm in arms]), Pose.still(), lambda k: arms[k].name


def _plate_bolts(mount: Mount, pose: Pose, around: _Around) -> list[Reach]:
    """The bolts of a mount's plate."""
    outward = pose.vectors(unit(mount.pad.normal))
    out = []
    for k, (sort, seat) in enumerate(zip(mount.pad.bolts, bolt_places(mount, pose), strict=True)):
        bolt = thread(sort.size).diameter
        at = seat + HEAD_HIGH * bolt * outward
        extension, hit, spanner = _tried([(at, outward)], bolt, around)
        name = f"{mount.name}, bolt {k + 1} of its plate"
        out.append(Reach(name, mount.id, extension, hit, _place(at), spanner))
    return out


def _strut_bolts(
    job: Job, strut: Strut, pose: Pose, around: _Around, mounts: Sequence[_ArmMetal]
) -> list[Reach]:
    """The bolts of a torque strut's plate on the engine, and those through its eyes, as far as what holds it
    is described."""
    out: list[Reach] = []
    parts = made(job).of(Owner("strut", strut.id))
    ears = [s for part in parts if part.role == "ears" for s in part.in_vehicle(pose)]
    bracket = [s for part in parts if part.role in BRACKET for s in part.solids]
    if ears:
        own = _ArmMetal(f"{strut.name}, its ears", ears)
        mount, _ = on_engine(strut)
        out += _plate_bolts(mount, pose, [*around, _standing([*mounts, own])])
        through = "bolt through its eye on the engine"
        out.append(_cross_bolt(mount, [*around, _standing(mounts)], pose, through))
    if bracket:
        through = "bolt through its eye on the chassis"
        out.append(_cross_bolt(on_chassis(strut), [*around, _standing(mounts)], Pose.still(), through))
    return out


def _cross_bolt(
    mount: Mount, around: _Around, pose: Pose | None = None, through: str = "bolt through its bush"
) -> Reach:
    """The bolt through a mount's bush, from either end. pose: of the frame that the bush is told in, the
    vehicle frame where none is given."""
    bush, there = mount.bush, Pose.still() if pose is None else pose
    axis, eye = there.vectors(unit(bush.axis)), there.points(bush.centre)
    out = bush_family(bush).between_cheeks_mm(mount) / 2 + mount.cross_bolt.cheek_mm + BESIDE_CHEEK
    ways = [(eye + s * out * axis, s * axis) for s in (1.0, -1.0)]
    bolt = THROUGH * bush_family(bush).bolt_hole_mm(bush)
    extension, hit, spanner = _tried(ways, bolt, around)
    return Reach(f"{mount.name}, {through}", mount.id, extension, hit, _place(eye), spanner)


def _rooms(job: Job, pose: Pose) -> list[Reach]:
    """The room that fittings need to be screwed in."""
    rooms = piece_rooms(job)
    if not rooms:
        return []
    fouls = {gap.piece: gap for gap in fitting_gaps(job, pose, Fittings(rooms)) if gap.gap <= 0}
    out = []
    for room in rooms:
        g = fouls.get(room.id)
        middle = pose.points(np.vstack([part.triangles[0] for part in room.parts]).mean(0))
        out.append(Reach(room.name, "", None if g else 0.0, g.item_name if g else "", _place(middle)))
    return out


def _place(p: Array) -> tuple[float, float, float]:
    return float(p[0]), float(p[1]), float(p[2])
