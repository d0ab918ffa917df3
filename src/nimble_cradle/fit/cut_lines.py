"""What must go from a flat sheet of the bay (firewall, floor, wing, bracket) so that the engine has its
room, at rest and in every load case: its outline on the sheet; and how far a sheet may be pushed in."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from shapely.geometry import Polygon
from shapely.geometry.base import BaseGeometry

from nimble_cradle.bay.bodies import fitted_pieces, solid_of, standing_items
from nimble_cradle.bay.position import pose_of
from nimble_cradle.fit.gaps import required_gaps
from nimble_cradle.fit.made_bodies import made_sides
from nimble_cradle.fit.needs import METAL, class_gap
from nimble_cradle.geometry.bodies import Bodies
from nimble_cradle.geometry.distance import nearest
from nimble_cradle.geometry.near_region import near_region
from nimble_cradle.geometry.pose import Array, Pose, crosses, unit
from nimble_cradle.geometry.solids import ConvexPart, SolidPart, placed_part
from nimble_cradle.job.base import JobError
from nimble_cradle.job.bay import Item
from nimble_cradle.job.job import Job

FLAT = 15.0
"""A thing of the bay is a sheet where it is no thicker than so many mm as it lies (common practice, no
source)."""
SLENDER = 6.0
"""And so many times as wide, both ways."""
ENGINE, SAME = 900.0, 0.03
"""Nothing of the engine is farther from its own middle than so many mm, each way; poses so near to one
another are one."""
MORE = 0.05
"""The line is drawn so many mm outside of what must go, so that nothing is left by rounding."""
BACK = 600.0
"""From so far behind where it stands a sheet is pushed in, mm."""
STEPS = 400
"""So many steps a push takes at most."""


@dataclass(frozen=True, eq=False)
class Sheet:
    """A flat item. pose: from its own plane to the vehicle frame; z towards the engine, y up or forward, x to
    the right of who faces it from there. outline: its shape in x and y; thick: mm."""

    item: Item
    pose: Pose
    outline: Polygon
    thick: float
    parts: tuple[SolidPart, ...]


@dataclass(frozen=True, eq=False)
class CutLine:
    """What must go from a sheet. pieces: outlines of what is cut out, in its plane; why: what asks for room
    there, what asks for most first. may: how far the sheet may be pushed towards the engine from where it is
    (negative: it has to be pulled away), mm, None where nothing stops it within BACK; by: what stops it."""

    sheet: Sheet
    pieces: tuple[Polygon, ...]
    why: tuple[str, ...]
    may: float | None
    by: str

    @property
    def item(self) -> Item:
        """What it is on."""
        return self.sheet.item

    def outlines(self) -> list[Array]:
        """Every outline of what goes, holes too, (n, 3), vehicle frame, mm; on the middle of the sheet."""
        rings = [ring for piece in self.pieces for ring in (piece.exterior, *piece.interiors)]
        flat = [np.asarray(ring.coords) for ring in rings]
        return [self.sheet.pose.points(np.column_stack([xy, np.zeros(len(xy))])) for xy in flat]

    @property
    def area(self) -> float:
        """Of all that goes, mm2."""
        return float(sum(piece.area for piece in self.pieces))


def sheets_of(job: Job) -> tuple[Sheet, ...]:
    """The flat items of the bay that stand still. Raises JobError."""
    centre = pose_of(job.position).translation
    out = []
    for item in standing_items(job):
        if item.motion is None and item.measured != "scan":
            found = _sheet(item, solid_of(item, job.meshes, "items"), centre)
            if found is not None:
                out.append(found)
    return tuple(out)


def _sheet(item: Item, parts: tuple[SolidPart, ...], engine: Array) -> Sheet | None:
    if not all(isinstance(part, ConvexPart) for part in parts):
        return None
    v = np.vstack([part.triangles[0] for part in parts])
    middle = v.mean(0)
    axes = np.linalg.svd(v - middle, full_matrices=False)[2]
    normal = axes[2]
    low, high = ((v - middle) @ axes.T).min(0), ((v - middle) @ axes.T).max(0)
    thick, wide = float(high[2] - low[2]), float(min(high[:2] - low[:2]))
    if thick > FLAT or wide < SLENDER * max(thick, 1.0):
        return None
    centre = middle + (low[2] + high[2]) / 2 * normal
    if (engine - centre) @ normal < 0:
        normal = -normal
    up = np.array([0.0, 0.0, 1.0]) if abs(normal[2]) < 0.9 else np.array([1.0, 0.0, 0.0])
    y = unit(up - (up @ normal) * normal)
    pose = Pose(np.column_stack([crosses(y, normal), y, normal]), centre)
    back = pose.inverse()
    flat = [shapely.MultiPoint(back.points(p.triangles[0])[:, :2]).convex_hull for p in parts]
    outline = shapely.union_all(flat)
    return Sheet(item, pose, outline, thick, parts) if isinstance(outline, Polygon) else None


def asking_of(job: Job, item: Item) -> list[tuple[str, float, tuple[SolidPart, ...]]]:
    """What moves with the engine and asks for room off an item: name, mm, solids in the powertrain frame."""
    pieces, items = fitted_pieces(job), standing_items(job)
    column = [i.id for i in items].index(item.id)
    need = required_gaps(job, pieces)[:, column]
    out = [
        (piece.name, float(mm), solid_of(piece, job.meshes, "powertrain/pieces"))
        for piece, mm in zip(pieces, need, strict=True)
    ]
    own = class_gap(job, METAL) if item.required_mm is None else item.required_mm
    own = max(own, class_gap(job, item.neighbour)) if item.required_mm is None else own
    return out + [(row.name, own, row.solids) for row in made_sides(job).engine.rows]


def cut_line(job: Job, item_id: str, poses: Sequence[Pose], margin: float = 0.0) -> CutLine:
    """What must go from one sheet with the powertrain at every one of some poses, and ``margin`` mm more all
    round. Raises JobError where the item is no flat sheet."""
    poses = apart(poses)
    sheet = next((s for s in sheets_of(job) if s.item.id == item_id), None)
    if sheet is None:
        raise JobError(
            "Only what is flat, stands still and is no scan is a sheet with a cut line.", f"items/{item_id}"
        )
    asking = asking_of(job, sheet.item)
    regions: dict[str, list[BaseGeometry]] = {}
    back = sheet.pose.inverse()
    for name, mm, solids in asking:
        for pose in poses:
            there = back @ pose
            for part in solids:
                here, far = placed_part(part, there), mm + margin + MORE
                found = near_region(here, sheet.thick, far) if _over(here, sheet, far) else None
                if found is not None:
                    regions.setdefault(name, []).append(found)
    joined = {name: shapely.union_all(rows).intersection(sheet.outline) for name, rows in regions.items()}
    joined = {name: region for name, region in joined.items() if region.area > 0.5}
    whole = shapely.union_all(list(joined.values())) if joined else Polygon()
    rows = [part for part in shapely.get_parts(whole) if isinstance(part, Polygon)]
    pieces = tuple(piece for piece in rows if piece.area > 0.5)
    why = tuple(sorted(joined, key=lambda name: -joined[name].area))
    may, by = _pushed(sheet, asking, poses)
    return CutLine(sheet, pieces, why, may, by)


def _over(part: SolidPart, sheet: Sheet, far: float) -> bool:
    """Whether a part in the sheet's frame is over or under it at all, within so many mm."""
    v = part.triangles[0]
    left, low, right, high = sheet.outline.bounds
    (x0, y0, _), (x1, y1, _) = v.min(0), v.max(0)
    return bool(x1 > left - far and x0 < right + far and y1 > low - far and y0 < high + far)


def _corners() -> Array:
    """(8, 3) corners of a box that holds all of the engine, powertrain frame."""
    return ENGINE * np.array([[x, y, z] for x in (-1, 1) for y in (-1, 1) for z in (-1, 1)])


def apart(poses: Sequence[Pose]) -> list[Pose]:
    """Poses less those that are another one to within SAME mm, in all of the engine."""
    corners = _corners()
    kept: list[tuple[Pose, Array]] = []
    for pose in poses:
        at = pose.points(corners)
        if all(float(np.linalg.norm(at - other, axis=1).max()) > SAME for _, other in kept):
            kept.append((pose, at))
    return [pose for pose, _ in kept]


def _pushed(
    sheet: Sheet, asking: list[tuple[str, float, tuple[SolidPart, ...]]], poses: Sequence[Pose]
) -> tuple[float | None, str]:
    """How far the sheet may go towards the engine, from far behind, until something lacks its room there;
    None where nothing stops it within BACK mm. A step is as long as the least that is to spare: nothing
    can be missed."""
    fixed = Bodies([sheet.parts])
    need = np.array([mm for _, mm, _ in asking])
    moving = Bodies([solids for _, _, solids in asking])
    normal = sheet.pose.rotation[:, 2]
    worst, by = np.inf, ""
    # what stops a sheet in one case is looked for no farther before what stops it in another than the engine
    # moves between them
    places = np.array([pose.points(_corners()) for pose in poses])
    sway = 2 * float(np.linalg.norm(places - places[0], axis=2).max()) + 5.0
    for pose in poses:
        at = max(-BACK, worst - sway) if np.isfinite(worst) else -BACK
        least = (BACK, -1)
        for _ in range(STEPS):
            shifted = Pose(pose.rotation, pose.translation - at * normal)
            far = max(BACK, 1.0)
            found = nearest(moving, shifted, fixed, np.full((moving.count, 1), far))
            least = min(((n.distance - need[n.a], n.a) for n in found), default=(far, -1))
            if least[0] < 0.005 or at > min(worst, BACK):
                if at < worst and least[1] >= 0 and least[0] < 0.005:
                    worst, by = at, asking[least[1]][0]
                break
            at += max(least[0], 0.005)
        else:  # it creeps along something: so far it is free
            if at < worst and least[1] >= 0:
                worst, by = at, asking[least[1]][0]
    return (None, "") if not np.isfinite(worst) else (float(worst), by)
