"""What arms of flat bar and of plate have alike: how they lie between plate and eye, their cuts, the welds at
both ends and the wall of the eye."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from nimble_cradle.families.arm_loads import ArmLoads, arm_loads, line_weld_finding
from nimble_cradle.families.arm_run import ArmRun
from nimble_cradle.families.family import eye_of
from nimble_cradle.families.tube_extras import Line
from nimble_cradle.findings.finding import Finding
from nimble_cradle.findings.worst import Cases, Check, worst
from nimble_cradle.geometry.footprint import Footprint
from nimble_cradle.geometry.pose import Array, Pose, cross, unit
from nimble_cradle.geometry.solid_makers import hull, pushed
from nimble_cradle.geometry.solids import ConvexPart
from nimble_cradle.job.bar_arm import BarArm
from nimble_cradle.job.base import JobError
from nimble_cradle.job.mounts import Mount
from nimble_cradle.stock.steels import STEELS
from nimble_cradle.strength.eye import too_slender
from nimble_cradle.strength.eye_plates import EYE_PLATES, eye_plates
from nimble_cradle.strength.fatigue import ROOT
from nimble_cradle.strength.weld import effective_throat, force_per_mm, segments

STATIONS = 13
"""Places at which an arm that tapers is looked at: where its height falls faster than its bending, the worst
lies between both ends."""
LEAST_LONG = 10.0
"""An arm is at least so long along its axis, mm."""


@dataclass(frozen=True, eq=False)
class BarRun:
    """How a bar arm lies. axes: (3, 3) columns: along the eye as far as that is square to the arm, its
    height, its way; vehicle frame. In its own plane x runs from the root along its way, y up its height."""

    mount: Mount
    run: ArmRun
    axes: Array

    @classmethod
    def of(cls, mount: Mount, run: ArmRun) -> BarRun:
        """Of a mount whose arm is one. Raises JobError where it has no room."""
        axis = unit(mount.bush.axis)
        side = unit(axis - (axis @ run.way) * run.way)
        bar = cls(mount, run, np.column_stack([side, cross(run.way, side), run.way]))
        place = f"mounts/{mount.id}/arm/tall_at_eye_mm"
        if bar.arm.tall_at_eye_mm > 1.9 * run.eye_radius:
            raise JobError(
                f"{mount.name}: its arm is {bar.arm.tall_at_eye_mm:g} mm high at an eye of"
                f" {2 * run.eye_radius:g} mm; make it lower there.",
                place,
            )
        if float(bar.outline(0.0)[:, 0].min()) + LEAST_LONG > float(bar.eye_x(np.zeros(1), 0.0)[0]):
            raise JobError(
                f"{mount.name}: there is no room for its arm between plate and eye; move the bush away.",
                f"mounts/{mount.id}/bush/centre",
            )
        return bar

    @property
    def arm(self) -> BarArm:
        """Its data."""
        assert isinstance(self.mount.arm, BarArm)
        return self.mount.arm

    def plate_x(self, y: Array, s: float) -> Array:
        """Where lines along the arm, y up and s along the eye, meet the plate."""
        side, tall, way = self.run.axes[:, 2] @ self.axes
        return np.asarray(-(y * tall + s * side) / way)

    def eye_x(self, y: Array, s: float) -> Array:
        """Where they meet the eye's outside: |p - (p . a) a| = R."""
        axis = unit(self.mount.bush.axis)
        along = axis if axis @ self.axes[:, 0] > 0 else -axis
        sine, cosine = float(along @ self.axes[:, 0]), float(along @ self.run.way)
        deep = np.sqrt(np.maximum(self.run.eye_radius**2 - y**2, 0.0))
        return np.asarray(self.run.length + (s * cosine - deep) / sine)

    def outline(self, s: float) -> Array:
        """(n, 2) x and y of a flat piece of its full height in the plane at s, cut round the eye."""
        low, high = np.array([-0.5, 0.5]) * self.arm.tall_mm
        y = np.linspace(0.5, -0.5, 13) * self.arm.tall_at_eye_mm
        ends = np.array([low, high])
        plate = np.column_stack([self.plate_x(ends, s), ends])
        return np.vstack([plate, np.column_stack([self.eye_x(y, s), y])])

    def in_space(self, flat: Array, s: float) -> Array:
        """(n, 3) vehicle frame of points (n, 2) in the plane at s."""
        across = np.full(len(flat), s)
        return np.asarray(self.run.root + np.column_stack([across, flat[:, 1], flat[:, 0]]) @ self.axes.T)

    def plank(self, s: float, thick: float, start: float | None = None) -> ConvexPart:
        """A piece of its full height, ``thick`` along the eye about s, vehicle frame; from x = start on."""
        flat = self.outline(s)
        if start is not None:
            flat = _beyond(flat, start)
        step = thick * self.axes[:, 0]
        return pushed(self.in_space(flat, s) - step / 2, step)

    def whole(self, wide: float, start: float | None = None) -> ConvexPart:
        """All of it, ``wide`` along the eye, vehicle frame; from x = start on."""
        rows = [(self.outline(s), s) for s in (-wide / 2, wide / 2)]
        if start is not None:
            rows = [(_beyond(flat, start), s) for flat, s in rows]
        return hull(np.vstack([self.in_space(flat, s) for flat, s in rows]))

    def clear_of_plate(self, wide: float) -> float:
        """The x from which all of it has left the plate."""
        ends = np.array([-0.5, 0.5]) * self.arm.tall_mm
        return float(max(self.plate_x(ends, s).max() for s in (-wide / 2, wide / 2)))

    def landing(self, wide: float, more: float) -> Footprint:
        """The rectangle that holds it where it meets the plate, with ``more`` mm round it."""
        pad = self.run.axes[:, :2]
        flat = np.array([(s, y) for s in (-wide / 2, wide / 2) for y in (-0.5, 0.5)])
        flat[:, 1] *= self.arm.tall_mm
        x = np.concatenate([self.plate_x(flat[k : k + 1, 1], float(flat[k, 0])) for k in range(4)])
        corners = np.column_stack([flat, x]) @ self.axes.T @ pad
        way = unit(pad.T @ self.axes[:, 1])
        across = np.array([-way[1], way[0]])
        half = [float(np.abs(corners @ d).max()) + more for d in (way, across)]
        return Footprint(np.asarray(self.mount.pad.arm_at, dtype=float), way, half[0], half[1], oval=False)

    def at_plate(self, forces: Array) -> ArmLoads:
        """What forces (k, 3) on the bush bring there."""
        return arm_loads(self.mount, self.run, forces, self.run.root, self.axes[:, 0])

    def at_eye(self, forces: Array) -> ArmLoads:
        """What they bring where the arm meets the eye."""
        place = self.run.aim - self.run.eye_radius * self.run.way
        return arm_loads(self.mount, self.run, forces, place, self.axes[:, 0])

    def stations(self, forces: Array) -> list[tuple[float, ArmLoads]]:
        """From the plate to where the eye begins: its height there, mm, and what forces (k, 3) on the bush
        bring."""
        long, arm = self.run.length - self.run.eye_radius, self.arm
        out = []
        for share in np.linspace(0.0, 1.0, STATIONS):
            tall = arm.tall_mm + float(share) * (arm.tall_at_eye_mm - arm.tall_mm)
            place = self.run.root + share * long * self.run.way
            out.append((tall, arm_loads(self.mount, self.run, forces, place, self.axes[:, 0])))
        return out


def _beyond(flat: Array, start: float) -> Array:
    """A flat piece without what of it lies before x = start."""
    return np.column_stack([np.maximum(flat[:, 0], start), flat[:, 1]])


def on_edge(wide: float, tall: float) -> list[Line]:
    """Welds along both edges of a piece ``tall`` high, ``wide`` apart."""
    return [((s, -tall / 2), (s, tall / 2)) for s in (-wide / 2, wide / 2)]


def all_round(wide: float, tall: float) -> list[Line]:
    """Welds round a box."""
    strips: list[Line] = [((-wide / 2, y), (wide / 2, y)) for y in (-tall / 2, tall / 2)]
    return [*on_edge(wide, tall), *strips]


def beside(lines: Sequence[Line], s: float) -> list[Line]:
    """Welds moved along the eye."""
    return [((a + s, b), (c + s, d)) for (a, b), (c, d) in lines]


def bar_weld(
    bar: BarRun, cases: Cases, check: Check, at: ArmLoads, lines: Sequence[Line], throat: float
) -> Finding:
    """The weld at one of the arm's ends, its lines along the eye and along the arm's height."""
    steels = STEELS[bar.arm.steel], STEELS[bar.mount.pad.steel]
    return line_weld_finding(bar.mount, cases, check, at, lines, throat, *steels)


def root_throat(bar: BarRun, thick: float) -> float:
    """That counts at the plate, mm."""
    return effective_throat(bar.arm.weld_throat_mm, thick, bar.mount.pad.plate_mm)


def eye_throat(bar: BarRun, thick: float) -> float:
    """That counts at the eye, mm."""
    return effective_throat(bar.arm.weld_throat_mm, thick, eye_of(bar.mount.bush).wall_mm)


def eye_finding(
    bar: BarRun, cases: Cases, wide: float, axial: Array, in_plane: Array, out_of_plane: Array
) -> Finding:
    """The wall of the eye under one bar or the box, ``wide`` along the eye. Loads (k,)."""
    eye = eye_of(bar.mount.bush)
    given = {
        "eye_outside": eye.outside_mm,
        "wall": eye.wall_mm,
        "length": eye.length_mm,
        "tall": bar.arm.tall_at_eye_mm,
        "wide": wide,
        "yield_mpa": STEELS[bar.mount.pad.steel].yield_mpa,
    }
    n, mi, mo = eye_plates(**given)
    use = np.abs(axial) / n + np.abs(in_plane) / mi + np.abs(out_of_plane) / mo
    loads = {"axial": axial, "in_plane": in_plane, "out_of_plane": out_of_plane}
    return worst(
        bar.mount,
        Check("eye-wall", "wall of the eye under the arm", "force", "a thicker wall of the eye"),
        cases,
        np.maximum(use, too_slender(eye.outside_mm, eye.wall_mm)),
        np.abs(axial),
        EYE_PLATES,
        lambda k: {**given, **{name: float(load[k]) for name, load in loads.items()}},
        {"axial": "equilibrium", "in_plane": "equilibrium"},
    )


def weld_life(
    at: ArmLoads, lines: Sequence[Line], throat: float, toes: Sequence[tuple[Array, float]] = ()
) -> list[tuple[Array, float]]:
    """Stress ranges (k,) and categories of a weld's root, and of its toes."""
    root = np.asarray(force_per_mm(segments(lines), at.force, at.moment)) / throat
    return [(root, ROOT), *toes]


def fits_eye(mount: Mount, wide: float, place: str) -> None:
    """Raises JobError where it stands beyond the eye's ends."""
    length = eye_of(mount.bush).length_mm
    if wide > length:
        raise JobError(
            f"{mount.name}: its arm is {wide:g} mm wide at an eye {length:g} mm long; make it narrower.",
            f"mounts/{mount.id}/arm/{place}",
        )


def placed_back(solid: ConvexPart, pose: Pose) -> ConvexPart:
    """A solid of the vehicle frame in the powertrain's."""
    return solid.placed(pose.inverse())
