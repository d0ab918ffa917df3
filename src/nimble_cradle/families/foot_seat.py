"""Where the chassis side of a mount stands: the face of its host under the bush, as the bay's solids have
it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np

from nimble_cradle.families.family import bush_family, eye_of
from nimble_cradle.geometry.pose import Array, cross, crosses, unit
from nimble_cradle.geometry.rays import hits
from nimble_cradle.geometry.solids import SolidPart
from nimble_cradle.job.base import JobError, Vec3
from nimble_cradle.job.mounts import Mount
from nimble_cradle.stock.clearance_holes import clearance_hole
from nimble_cradle.stock.threads import thread

REACH, STEP, FINE = 250.0, 2.0, 0.1
"""How far the host's face is followed from the foot's middle, in what steps, and how finely its edge is
found, mm."""
_FOUR_WAYS = np.array([[-1, 0], [1, 0], [0, -1], [0, 1]], dtype=float)
LEVEL = 1.5
"""The face goes on while it lies within so many mm of the plane of its middle: rust, paint, tape."""
NEAR_SIDE = 0.7
"""A face is that of an open side where their ways are so near (cosine)."""
FARTHEST = 400.0
"""A host farther than so many mm from its bush is not what carries it (common practice, no source)."""


@dataclass(frozen=True)
class HostMetal:
    """What a foot stands on. place: path of its figures in the job. second: a skin right behind its wall, mm.
    None of a wall: not said. open_to: unit, vehicle frame, to the side of an open section that has no wall;
    none where it is closed or boxed, or nobody can tell."""

    name: str
    place: str
    material: str
    section: str
    wall_mm: float | None
    second_mm: float
    yield_mpa: float
    ribbed: bool = False
    boxed: bool = False
    open_to: Vec3 | None = None
    coating: str = "unsaid"
    ribbed_at: str = "host/ribbed"


def side_walls(open_to: Vec3 | None, out: Array) -> int:
    """How many walls stand behind a face along its edges: one under a flange of a section that is open to
    that side. out: (3,) unit, off the face."""
    return 1 if open_to is not None and abs(float(out @ open_to)) < NEAR_SIDE else 2


class Lies(NamedTuple):
    """How a face lies under a foot: most that stands open between them, mm, and how far it leans from
    square to the cheeks, deg."""

    open_mm: float
    lean_deg: float


class Face(NamedTuple):
    """How far a host's face reaches from the foot's middle, mm: along the bolt backwards and forwards, and
    across likewise."""

    along_back: float
    along_fore: float
    across_back: float
    across_fore: float


@dataclass(frozen=True, eq=False)
class FootSeat:
    """The seat of a foot. centre: (3,) its middle on the host's face; axes: (3, 3) columns along the bolt,
    across it, and out of the host; vehicle frame. height: bolt over the face, mm. depth: of the host behind
    the face. face: how far that reaches."""

    host: HostMetal
    parts: tuple[SolidPart, ...]
    centre: Array
    axes: Array
    height: float
    depth: float
    face: Face

    @property
    def along_mm(self) -> float:
        """Width of the face along the bolt."""
        return self.face.along_back + self.face.along_fore

    @property
    def across_mm(self) -> float:
        """Width of the face across the bolt."""
        return self.face.across_back + self.face.across_fore

    @property
    def rail_along_bolt(self) -> bool:
        """Whether the host runs along the bolt: the way in which its face is longer."""
        return self.along_mm > self.across_mm

    @property
    def face_mm(self) -> float:
        """Width of the face across the host."""
        return min(self.along_mm, self.across_mm)

    @property
    def side_walls(self) -> int:
        """How many walls stand behind the face along its edges: one under a flange of an open section."""
        return side_walls(self.host.open_to, self.axes[:, 2])

    @property
    def far_wall(self) -> bool:
        """Whether the host has a wall across from its face: none behind the web of an open section."""
        return self.host.open_to is None or self.side_walls == 1

    def lies(self, along: float, across: float) -> Lies:
        """How the face lies under a foot of that size, as far as it is on it."""
        a = np.clip(np.array([-along / 2, 0.0, along / 2]), -self.face.along_back, self.face.along_fore)
        c = np.clip(np.array([-across / 2, 0.0, across / 2]), -self.face.across_back, self.face.across_fore)
        grid = np.array([[x, y] for x in a for y in c]) * 0.98
        met = hits(
            self.parts, self.centre + 50.0 * self.axes[:, 2] + grid @ self.axes[:, :2].T, -self.axes[:, 2]
        )
        on = np.isfinite(met.first)
        if on.sum() < 3:
            return Lies(0.0, 0.0)
        deep = met.first[on]
        plane = np.column_stack([grid[on], np.ones(on.sum())])
        slope, *_ = np.linalg.lstsq(plane, deep, rcond=None)
        lean = float(np.degrees(np.arctan(np.hypot(*slope[:2]))))
        return Lies(float(np.ptp(deep - plane @ slope)), lean)

    def off_face(self, along: float, across: float) -> float:
        """How far a foot of that size hangs over the nearest edge of the face, mm; nought where it does
        not."""
        f = self.face
        return max(
            0.0, along / 2 - min(f.along_back, f.along_fore), across / 2 - min(f.across_back, f.across_fore)
        )

    def loads(self, mount: Mount, forces: Array, lift: float = 0.0) -> tuple[Array, Array]:
        """Force (k, 3) N of the bush on the chassis along the seat's axes, and its moment (k, 3) N mm about
        the foot's middle, ``lift`` mm over the face. forces: (k, 3) on the engine's side, vehicle frame."""
        own = -np.asarray(forces) @ self.axes
        lever = (np.asarray(mount.bush.centre, dtype=float) - self.centre) @ self.axes - [0.0, 0.0, lift]
        return own, crosses(lever, own)


def seat_axes(mount: Mount) -> Array:
    """(3, 3) columns along the bolt, across it, out of the host. Raises JobError where the way to the host
    runs along the bolt."""
    assert mount.foot is not None
    along, way = unit(mount.bush.axis), unit(mount.foot.way)
    down = way - (way @ along) * along
    if float(np.linalg.norm(down)) < 0.5:
        raise JobError(
            f"{mount.name}: the way to its host runs along its bolt; a bracket stands beside the bolt.",
            f"mounts/{mount.id}/foot/way",
        )
    out = -unit(down)
    return np.column_stack([along, cross(out, along), out])


def foot_seat(mount: Mount, host: HostMetal, parts: Sequence[SolidPart]) -> FootSeat:
    """Where a mount's foot stands on its host. parts: the host's solids, vehicle frame. Raises JobError where
    it stands on nothing."""
    assert mount.foot is not None
    axes = seat_axes(mount)
    bush = np.asarray(mount.bush.centre, dtype=float)
    start = bush + axes[:, :2] @ np.asarray(mount.foot.shift)
    met = hits(parts, start[None], -axes[:, 2])
    height = float(met.first[0])
    place = f"mounts/{mount.id}/foot"
    if not np.isfinite(height) or height > FARTHEST:
        raise JobError(
            f"{mount.name}: its foot meets nothing of {host.name}; turn it, or move it.", f"{place}/way"
        )
    radius = eye_of(mount.bush).outside_mm / 2
    if height < radius:
        raise JobError(
            f"{mount.name}: {host.name} is {height:.0f} mm from the bolt, nearer than the eye's own"
            f" {radius:.0f} mm; move the bush away from it.",
            f"mounts/{mount.id}/bush/centre",
        )
    centre = start - height * axes[:, 2]
    return FootSeat(
        host,
        tuple(parts),
        centre,
        axes,
        height,
        max(float(met.last[0]) - height, 0.0),
        _face(parts, centre, axes),
    )


def _face(parts: Sequence[SolidPart], centre: Array, axes: Array) -> Face:
    """How far the face goes on in its plane, found by lines a step apart."""
    steps = np.arange(STEP, REACH + STEP, STEP)
    coarse = _reached(parts, centre, axes, np.tile(steps, (4, 1)))
    # then finely between the last line that meets the face and the first that does not
    fine = coarse[:, None] + np.arange(FINE, STEP + FINE, FINE)
    return Face(*np.minimum(np.maximum(_reached(parts, centre, axes, fine), coarse), REACH).tolist())


def _reached(parts: Sequence[SolidPart], centre: Array, axes: Array, steps: Array) -> Array:
    """(4,) the farthest of the steps (4, n) up to which the face goes on, in its four ways; nought where it
    does not at the first."""
    flat = (_FOUR_WAYS[:, None, :] * steps[:, :, None]).reshape(-1, 2)
    met = hits(parts, centre + 5.0 * axes[:, 2] + flat @ axes[:, :2].T, -axes[:, 2])
    level = (np.abs(met.first - 5.0) <= LEVEL).reshape(steps.shape)
    on = np.cumprod(level, axis=1).sum(1)
    return np.array([row[n - 1] if n else 0.0 for row, n in zip(steps, on, strict=True)])


def cheek_gap(mount: Mount) -> float:
    """Between the inner sides of the two cheeks, mm: the eye and its room on both sides."""
    return bush_family(mount.bush).between_cheeks_mm(mount)


def cheek_top(mount: Mount) -> float:
    """From the bolt to the round end of a cheek, mm: one and a half bolts and 8 mm (common practice, no
    source)."""
    return 1.5 * thread(mount.cross_bolt.bolt).diameter + 8.0


def hole_in_cheek(mount: Mount) -> float:
    """Hole for the cross-bolt in a cheek, mm: close, so that the bolt does not work in it."""
    return clearance_hole(mount.cross_bolt.bolt, "fine")[0]
