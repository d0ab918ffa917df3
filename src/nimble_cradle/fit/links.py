"""Shafts and rods between the engine and the car: propshaft, half-shafts, torque struts, as bodies whose
ends move with different things."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass

import numpy as np

from nimble_cradle.bay.bodies import bay_bodies, fitted_pieces, powertrain_bodies, standing_items
from nimble_cradle.fit.joined import MEETS
from nimble_cradle.fit.shafts import axle_at
from nimble_cradle.geometry.bodies import Bodies, measured_mesh
from nimble_cradle.geometry.distance import nearest
from nimble_cradle.geometry.pose import Array, Pose
from nimble_cradle.geometry.solid_makers import bar, box, hull
from nimble_cradle.geometry.solids import ConvexPart
from nimble_cradle.job.base import JobError
from nimble_cradle.job.job import Job
from nimble_cradle.job.remember import remembered
from nimble_cradle.job.strut import Strut

NOT_SAID_MM = 60.0
"""A shaft or joint of which nobody said how thick it is, or a joint's length, mm (common practice, no
source)."""
STRUT_EYE = 25.0
"""So far from the middle of its eye a strut's rod begins, mm (common practice, no source)."""
FAN = 4
"""So many steps of a shaft's sweep are taken where its end does not rise straight."""
HELD_WITHIN = 60.0
"""What is nearest to the end of a shaft, within so many mm, holds its joint (common practice, no source)."""


@dataclass(frozen=True, eq=False)
class Link:
    """A shaft or rod. ends(pose, travel): both ends (3,), vehicle frame, with the powertrain at a pose and
    the wheels ``travel`` mm up from ride height; the first is on the engine where ``on_engine`` says so, and
    knows nothing of the wheels; the second rises with the wheels, and knows nothing of the engine.

    outside, joint, joint_long: of the shaft and of its joints, mm. assumed: what of them nobody said.
    held_by: (pieces, items) by id that hold its joints. turns: it asks for the room of what turns, else of
    metal. span: the wheels' travel, down and up, mm; nought where they do not move it. bends: its far end
    does not rise straight.
    """

    id: str
    name: str
    ends: Callable[[Pose, float], tuple[Array, Array]]
    outside: float
    joint: float
    joint_long: float
    held_by: tuple[frozenset[str], frozenset[str]]
    turns: bool
    span: tuple[float, float]
    on_engine: bool = True
    bends: bool = False
    assumed: bool = False
    stage: str = "position"

    def solids(self, pose: Pose, travel: float) -> tuple[list[ConvexPart], list[ConvexPart]]:
        """The shaft between its joints, and the joints with their boots; vehicle frame."""
        start, end = self.ends(pose, travel)
        long = float(np.linalg.norm(end - start))
        if long < 2.0:
            return [], []
        way, into = (end - start) / long, min(self.joint_long, 0.5 * long)
        shaft: list[ConvexPart] = []
        if long > 2 * into + 1.0:
            shaft = [bar(start + into * way, end - into * way, self.outside)]
        return shaft, [bar(start, start + into * way, self.joint), bar(end - into * way, end, self.joint)]

    def bodies(self, pose: Pose, travel: float) -> Bodies:
        """Both as measuring bodies."""
        return Bodies(self.solids(pose, travel))

    def fan(self, pose: Pose) -> Bodies:
        """All that both sweep through the wheels' travel: a bar of which one end stays and the other runs
        along a straight line sweeps what lies between its two places, which is convex; a bend is taken in
        FAN steps."""
        low, high = self.span
        if high - low < 1e-9:
            return self.bodies(pose, 0.0)
        stops = np.linspace(low, high, FAN + 1) if self.bends else np.array([low, high])
        places = [self.solids(pose, float(t)) for t in stops]
        swept: tuple[list[ConvexPart], list[ConvexPart]] = [], []
        for one, two in zip(places, places[1:], strict=False):
            for into, a, b in zip(swept, one, two, strict=True):
                into += [
                    hull(np.vstack([measured_mesh(p)[0], measured_mesh(q)[0]]))
                    for p, q in zip(a, b, strict=True)
                ]
        return Bodies(swept)

    def travel_at(self, pose: Pose, point: Array) -> float:
        """Where on the wheels' travel the link is nearest to a point (3,), mm up."""
        low, high = self.span
        stops = np.linspace(low, high, 41) if high > low else np.array([0.0])
        return float(stops[int(np.argmin([_away(*self.ends(pose, float(t)), point) for t in stops]))])


@remembered(
    "powertrain", "meshes", "vehicle", "propshaft", "half_shafts", "items", "survey", "struts", "openings"
)
def links(job: Job) -> tuple[Link, ...]:
    """Every shaft and rod of a job whose ends are known. Raises JobError."""
    if not fitted_pieces(job):
        return ()
    shafts = _half_shafts(job) if job.powertrain.gearbox.kind == "transaxle" else _propshafts(job)
    return (*shafts, *_struts(job))


def _half_shafts(job: Job) -> list[Link]:
    seats, hubs, vehicle, size = (
        job.powertrain.gearbox.seats,
        job.vehicle.hubs,
        job.vehicle,
        job.half_shafts,
    )
    if seats is None or hubs is None:
        return []
    said = size.shaft_outside_mm, size.joint_outside_mm, size.joint_long_mm
    shaft, joint, long = (NOT_SAID_MM if value is None else value for value in said)

    def ends(k: int) -> Callable[[Pose, float], tuple[Array, Array]]:
        seat, hub = np.asarray(seats[k], dtype=float), np.asarray(hubs[k], dtype=float)
        return lambda pose, travel: (pose.points(seat), hub + np.array([0.0, 0.0, travel]))

    return [
        Link(
            f"half-shaft.{side}",
            _name(f"{side.capitalize()} half-shaft", None in said),
            ends(k),
            shaft,
            max(joint, shaft),
            long,
            _held(job, np.asarray(seats[k], dtype=float), np.asarray(hubs[k], dtype=float)),
            True,
            (-vehicle.wheel_down_mm, vehicle.wheel_up_mm),
            assumed=None in said,
        )
        for k, side in enumerate(("left", "right"))
    ]


def _propshafts(job: Job) -> list[Link]:
    box_, shaft, vehicle = job.powertrain.gearbox, job.propshaft, job.vehicle
    output = np.asarray(box_.output, dtype=float)
    joint = shaft.joint_outside_mm
    across = max(NOT_SAID_MM if joint is None else joint, shaft.tube_outside_mm)
    axle = np.asarray(vehicle.axle_input, dtype=float)
    span = (-vehicle.wheel_down_mm, vehicle.wheel_up_mm)
    try:
        for travel in span:
            axle_at(job, travel)
    except JobError:  # said of the driveline
        return []

    def made(
        key: str, name: str, ends: Callable[[Pose, float], tuple[Array, Array]], front: bool, rear: bool
    ) -> Link:
        middle = None if shaft.centre is None else np.asarray(shaft.centre, dtype=float)
        far = axle if rear else middle
        assert far is not None
        held = _held(job, output if front else None, far)
        if not front and middle is not None:
            held = held[0], held[1] | _held(job, None, middle)[1]
        return Link(
            key,
            _name(name, joint is None),
            ends,
            shaft.tube_outside_mm,
            across,
            NOT_SAID_MM,
            held,
            True,
            span if rear else (0.0, 0.0),
            on_engine=front,
            bends=rear and shaft.axle_pivot is not None,
            assumed=joint is None,
        )

    if shaft.centre is None:
        return [
            made(
                "propshaft.whole",
                "Propshaft",
                lambda pose, t: (pose.points(output), axle_at(job, t)[0]),
                True,
                True,
            )
        ]
    middle = np.asarray(shaft.centre, dtype=float)
    return [
        made(
            "propshaft.front", "Front propshaft", lambda pose, t: (pose.points(output), middle), True, False
        ),
        made("propshaft.rear", "Rear propshaft", lambda pose, t: (middle, axle_at(job, t)[0]), False, True),
    ]


def _struts(job: Job) -> list[Link]:
    out = []
    for strut in job.struts:
        engine, chassis = (np.asarray(p, dtype=float) for p in (strut.engine_at, strut.chassis_at))

        def ends(pose: Pose, travel: float, e: Array = engine, c: Array = chassis) -> tuple[Array, Array]:
            return pose.points(e), c

        out.append(
            Link(
                f"{strut.id}.rod",
                f"{strut.name}, rod",
                ends,
                strut.rod_outside_mm,
                strut.rod_outside_mm,
                STRUT_EYE,
                _by_bracket(strut, _held(job, engine, chassis)),
                False,
                (0.0, 0.0),
                stage="mounts",
            )
        )
    return out


def _by_bracket(
    strut: Strut, held: tuple[frozenset[str], frozenset[str]]
) -> tuple[frozenset[str], frozenset[str]]:
    """What holds a strut, with the parts of its own ears and bracket."""
    engine, car = held
    if strut.ears is not None:
        engine |= own_parts(strut, ("plate", "spacers", "ears", "eye-bolt"))
    if strut.bracket is not None:
        car |= own_parts(strut, ("cheeks", "foot", "cross-bolt", "doubler"))
    return engine, car


def own_parts(strut: Strut, roles: Iterable[str]) -> frozenset[str]:
    """Ids of what is made for a strut."""
    return frozenset(f"{strut.id}.{role}" for role in roles)


def _name(name: str, assumed: bool) -> str:
    return f"{name}, size assumed" if assumed else name


def _held(job: Job, on_engine: Array | None, on_car: Array | None) -> tuple[frozenset[str], frozenset[str]]:
    """The pieces and items that hold the joints at both ends (powertrain and vehicle frame)."""
    pieces, items = fitted_pieces(job), standing_items(job)
    one = _holders(powertrain_bodies(job), on_engine)
    two = _holders(bay_bodies(job), on_car) if items else set()
    return frozenset(pieces[k].id for k in one), frozenset(items[k].id for k in two)


def _away(start: Array, end: Array, point: Array) -> float:
    """How far a point is from the line between two others, mm."""
    along = end - start
    t = float(np.clip((point - start) @ along / max(float(along @ along), 1e-9), 0.0, 1.0))
    return float(np.linalg.norm(point - start - t * along))


def _holders(bodies: Bodies, at: Array | None) -> set[int]:
    """The nearest body to a point, within HELD_WITHIN mm, and those that the point all but touches."""
    if at is None or not bodies.count:
        return set()
    point = Bodies([[box(at, (0.1, 0.1, 0.1))]])
    found = nearest(point, Pose.still(), bodies, np.full((1, bodies.count), HELD_WITHIN))
    if not found:
        return set()
    first = min(found, key=lambda near: near.distance)
    return {first.b, *(near.b for near in found if near.distance <= MEETS)}
