"""The bay cut open: outlines of items and pieces in a plane, the tightest gaps that lie in it, and the
moving parts at the ends of their travel."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from nimble_cradle.bay.bodies import bay_bodies, fitted_pieces, powertrain_bodies, standing_items
from nimble_cradle.bay.position import pose_of
from nimble_cradle.fit.gap import Gap
from nimble_cradle.fit.links import links
from nimble_cradle.fit.travel import moving_items
from nimble_cradle.geometry.bodies import Bodies
from nimble_cradle.geometry.pose import Pose
from nimble_cradle.geometry.slice import Outline, Plane, cut
from nimble_cradle.job.base import JobError
from nimble_cradle.job.job import Job
from nimble_cradle.made.parts import made

Across = Literal["across", "along", "level"]
_AXES: dict[str, tuple[tuple[float, ...], tuple[float, ...], tuple[float, ...]]] = {
    "across": ((0, 1, 0), (0, 0, 1), (1, 0, 0)),
    "along": ((-1, 0, 0), (0, 0, 1), (0, 1, 0)),
    "level": ((0, -1, 0), (1, 0, 0), (0, 0, 1)),
}
"""Right and up on paper, and towards the eye: across is seen from the front (the car's left is on the
right), along from its left, level from above with the front up."""
GRAZES = 0.3
"""A plane that is so near the end of a part, mm, shows it."""
NEAR_PLANE = 12.0
"""A gap is dimensioned in a section where both its ends lie so near the plane, mm."""
LineKind = Literal["item", "piece", "made", "ghost", "running"]


@dataclass(frozen=True, eq=False)
class SectionLine:
    """An outline with what it is: item, piece, made part, or an item at one end of its travel (ghost)."""

    kind: LineKind
    id: str
    name: str
    outline: Outline


@dataclass(frozen=True, eq=False)
class Dimension:
    """A gap on paper: its two ends (2,), the distance mm, the pair and its judgement."""

    a: np.ndarray
    b: np.ndarray
    gap: Gap


@dataclass(frozen=True, eq=False)
class BaySection:
    """A cut. title: in words; plane; lines; dimensions of the gaps in it."""

    title: str
    plane: Plane
    lines: tuple[SectionLine, ...]
    dimensions: tuple[Dimension, ...]


def plane_at(which: Across, station: float) -> Plane:
    """A plane square to the car: across at x = station, along at y, level at z (mm from the datum)."""
    u, v, n = (np.array(a, dtype=float) for a in _AXES[which])
    return Plane(n * station, np.column_stack([u, v, n]))


def plane_through(gap: Gap) -> tuple[Plane, Across]:
    """The plane square to the car that shows a gap best: it holds the gap's direction; and which."""
    way = np.abs(np.asarray(gap.way))
    choices: tuple[Across, ...] = ("across", "along", "level")
    which = min(
        choices, key=lambda k: float(way[int(np.abs(_AXES[k][2]).argmax())]) + (0.01 if k == "level" else 0.0)
    )
    middle = (np.asarray(gap.on_piece) + np.asarray(gap.on_item)) / 2
    return plane_at(which, float(middle @ np.array(_AXES[which][2]))), which


def section(
    job: Job, plane: Plane, title: str, gaps: Sequence[Gap] = (), poses: Sequence[tuple[str, Pose]] = ()
) -> BaySection:
    """Cut the bay in a plane. gaps: those of the job, of which the ones in the plane are dimensioned.
    poses: where the engine stands in load cases (name, pose), drawn as running outlines. Raises JobError
    where nothing is cut."""
    lines = _cut_all(
        "item", bay_bodies(job), [(item.id, item.name) for item in standing_items(job)], Pose.still(), plane
    )
    pieces = [(piece.id, piece.name) for piece in fitted_pieces(job)]
    lines += _cut_all("piece", powertrain_bodies(job), pieces, pose_of(job.position), plane)
    pose = pose_of(job.position)
    own = [part for part in made(job).parts if part.solids and not part.stands_in]
    lines += _cut_all(
        "made",
        Bodies([p.in_vehicle(pose) for p in own]),
        [(p.owner.id, p.name) for p in own],
        Pose.still(),
        plane,
    )
    shafts = [link for link in links(job) if link.turns]
    lines += _cut_all(
        "made",
        Bodies([[solid for part in link.solids(pose, 0.0) for solid in part] for link in shafts]),
        [(link.id, link.name) for link in shafts],
        Pose.still(),
        plane,
    )
    if not lines:
        raise JobError("The cut goes past everything: choose a station nearer to the engine.", "section")
    for mover in moving_items(job):
        for end in dict.fromkeys(mover.ends):
            if end:
                lines += _cut_all(
                    "ghost",
                    mover.bodies,
                    [(standing_items(job)[mover.column].id, mover.name)],
                    mover.pose(end),
                    plane,
                )
    for _, pose in poses:
        lines += _cut_all("running", powertrain_bodies(job), pieces, pose, plane)
    shown = []
    for gap in gaps:
        ends = np.array([gap.on_piece, gap.on_item])
        if np.abs(plane.height(ends)).max() < NEAR_PLANE and gap.gap < 60.0:
            flat = plane.flat(ends)
            shown.append(Dimension(flat[0], flat[1], gap))
    return BaySection(title, plane, tuple(lines), tuple(shown[:8]))


def _cut_all(
    kind: LineKind, bodies: Bodies, names: Sequence[tuple[str, str]], pose: Pose, plane: Plane
) -> list[SectionLine]:
    out = []
    centres, half = bodies.boxes(pose)
    reach = np.abs(half @ np.abs(plane.axes[:, 2]))
    high = plane.height(centres)
    for k in np.nonzero(np.abs(high) <= reach + GRAZES)[0]:
        key, name = names[int(bodies.owner[k])]
        there = plane
        if abs(high[k]) > reach[k] - GRAZES:  # the very end of a part: cut just inside it
            inside = plane.origin + np.sign(high[k]) * 2 * GRAZES * plane.axes[:, 2]
            there = replace(plane, origin=inside)
        out += [SectionLine(kind, key, name, o) for o in cut(bodies.parts[k], pose, there)]
    return out


def station_words(which: str, station: float) -> str:
    """``across, 120 mm behind the front axle line, seen from the front``."""
    if which == "across":
        return (
            f"across, {abs(station):.0f} mm {'in front of' if station > 0 else 'behind'} the front axle line,"
            " seen from the front"
        )
    if which == "along":
        place = (
            "on the centre line"
            if abs(station) < 0.5
            else f"{abs(station):.0f} mm {'left' if station > 0 else 'right'} of the centre line"
        )
        return f"along, {place}, seen from the left"
    return (
        f"level, {abs(station):.0f} mm {'above' if station >= 0 else 'below'} the rail tops, seen from above"
    )
