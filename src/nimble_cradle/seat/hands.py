"""Room for hands: whether a socket on an extension reaches each bolt of the mounts with the engine in its
place, and a hand its end, or else an open spanner with its swing; and fittings with theirs."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from nimble_cradle.bay.bodies import bay_bodies, fitted_pieces, powertrain_bodies, standing_items
from nimble_cradle.bay.position import pose_of
from nimble_cradle.families.family import bush_family, eye_of
from nimble_cradle.families.plate import bolt_places
from nimble_cradle.fit.gaps import Fittings, fitting_gaps, piece_rooms
from nimble_cradle.geometry.distance import Bodies, clearance, nearest
from nimble_cradle.geometry.pose import Array, Pose, frame, unit
from nimble_cradle.geometry.solids import SolidPart, bar
from nimble_cradle.job.job import Job
from nimble_cradle.made.parts import made_mounts
from nimble_cradle.stock.threads import thread

EXTENSIONS = (0.0, 75.0, 150.0, 250.0)
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
        return (
            "reached"
            if self.mount == ""
            else (
                "a socket reaches it"
                if self.extension == 0
                else f"a socket on {self.extension:.0f} mm reaches it"
            )
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


_Around = Sequence[tuple[Bodies, Pose, Callable[[int], str]]]
"""Sets that stand about, where, and the name of each of their bodies."""


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
        if any(n.distance <= 0 for n in found):
            return name(min(found, key=lambda n: n.distance).a)
    return ""


def _tried(
    ways: Sequence[tuple[Array, Array]], bolt_mm: float, around: _Around
) -> tuple[float | None, str, bool]:
    """The shortest extension from any of the ways that is free; else what is in the way of a socket the
    first way, and whether a spanner swings."""
    first = ""
    for extension in EXTENSIONS:
        for at, way in ways:
            hit = _hit(_tool(at, way, bolt_mm, extension), around)
            if not hit:
                return extension, "", False
            first = first or hit
    return None, first, any(_swings(at, way, bolt_mm, around) for at, way in ways)


def _swings(at: Array, way: Array, bolt_mm: float, around: _Around) -> bool:
    """Whether an open spanner is free in some places one after another."""
    free = []
    for k in range(24):
        one = Bodies([_spanner(at, way, bolt_mm, np.radians(15.0 * k))])
        free.append(all(clearance(bodies, pose, one, 0.001)[0] > 0 for bodies, pose, _ in around))
    return any(all((free + free)[k : k + SWING]) for k in range(24))


def reaches(job: Job) -> tuple[Reach, ...]:
    """Every bolt of every mount and every fitting with its room, those that cannot be reached first.
    Raises JobError."""
    pose = pose_of(job.position)
    items, pieces = standing_items(job), fitted_pieces(job)
    arms: list[tuple[str, list[SolidPart]]] = []
    names_of = {m.id: m.name for m in job.mounts}
    for owner, parts in made_mounts(job).whole("mount"):
        solids = [s for p in parts if p.moves and p.role != "plate" for s in p.in_vehicle(pose)]
        arms.append((f"{names_of[owner.id]}, arm and eye", solids))
    metal = Bodies([parts for _, parts in arms])
    still = Pose.still()
    around: list[tuple[Bodies, Pose, Callable[[int], str]]] = [
        (bay_bodies(job), still, lambda k: items[k].name),
        (powertrain_bodies(job), pose, lambda k: pieces[k].name),
    ]
    out: list[Reach] = []
    for mount in job.mounts:
        pad, bush = mount.pad, mount.bush
        outward = pose.vectors(unit(pad.normal))
        bolt = thread(pad.bolt).diameter
        for k, seat in enumerate(bolt_places(mount, pose)):
            at = seat + 0.7 * bolt * outward
            extension, hit, spanner = _tried(
                [(at, outward)], bolt, [*around, (metal, still, lambda k: arms[k][0])]
            )
            out.append(
                Reach(
                    f"{mount.name}, bolt {k + 1} of its plate", mount.id, extension, hit, _place(at), spanner
                )
            )
        axis = unit(bush.axis)
        eye = np.asarray(bush.centre, dtype=float)
        ways = [(eye + s * (eye_of(bush).length_mm / 2 + 15.0) * axis, s * axis) for s in (1.0, -1.0)]
        own = next((i for i, (name, _) in enumerate(arms) if name.startswith(mount.name)), -1)
        rest = Bodies([parts for i, (_, parts) in enumerate(arms) if i != own])
        names = [name for i, (name, _) in enumerate(arms) if i != own]
        extension, hit, spanner = _tried(
            ways, 0.9 * bush_family(bush).bolt_hole_mm(bush), [*around, (rest, still, lambda k: names[k])]
        )
        out.append(
            Reach(f"{mount.name}, bolt through its bush", mount.id, extension, hit, _place(eye), spanner)
        )
    rooms = piece_rooms(job)
    if rooms:
        fouls = {g.piece: g for g in fitting_gaps(job, pose, Fittings(rooms)) if g.gap <= 0}
        for room in rooms:
            g = fouls.get(room.id)
            middle = pose.points(np.vstack([p.triangles[0] for p in room.parts]).mean(0))
            out.append(Reach(room.name, "", None if g else 0.0, g.item_name if g else "", _place(middle)))
    return tuple(sorted(out, key=lambda r: (r.reached, r.extension is not None)))


def _place(p: Array) -> tuple[float, float, float]:
    return float(p[0]), float(p[1]), float(p[2])
