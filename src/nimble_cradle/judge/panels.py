"""Panels of sheet: whether each can be folded and held, and what is open about it."""

from __future__ import annotations

import numpy as np
from shapely.geometry import Point

from nimble_cradle.bay.bodies import standing_items
from nimble_cradle.bay.member import members_of
from nimble_cradle.findings.finding import Problem
from nimble_cradle.fit.opened_member import opened_members
from nimble_cradle.fit.plug_row import pitch_over
from nimble_cradle.fit.ribs import rib_faults
from nimble_cradle.geometry.bend import setback
from nimble_cradle.geometry.bodies import Bodies
from nimble_cradle.geometry.distance import nearest
from nimble_cradle.geometry.polyline import nearest_on
from nimble_cradle.geometry.pose import Pose
from nimble_cradle.job.base import JobError
from nimble_cradle.job.job import Job
from nimble_cradle.job.opening import Opening
from nimble_cradle.job.panel import Panel
from nimble_cradle.job.remember import remembered
from nimble_cradle.judge.guard import problem_of
from nimble_cradle.made.panel import MadePanel, dimple_rim, made_panel

TIGHT, TIGHT_ALUMINIUM = 1.0, 3.0
"""The least inside radius in thicknesses, mild steel and aluminium (common practice, no source)."""
EDGE = 1.5
"""A hole's middle is so many diameters from the sheet's edge at least (common practice, no source)."""
OFF_BEND = 2.0
"""A hole's edge is so many thicknesses from where a bend begins at least, or it is drawn out of round (common
practice, no source)."""
SHORT = 2.0
"""A plate in a cut may be shorter than it by so much at each end, mm: a gap that a weld fills (common
practice, no source)."""
INTO = 0.1
"""Faces that are folded may lie so many mm in one another by how they are drawn."""


@remembered("panels", "items", "openings", "survey", "meshes")
def panel_questions(job: Job) -> tuple[Problem, ...]:
    """What is open about every panel, in sentences."""
    out: list[Problem] = []
    for panel in job.panels:
        try:
            found = made_panel(panel)
        except JobError as error:
            out.append(problem_of("chassis", error))
            continue
        out += [*_of_folding(found), *_of_holes(found), *_of_holding(job, panel), *_of_cut(job, found)]
        out += [*_of_rib(job, panel), *_of_dimples(found)]
    return tuple(out)


def _ask(panel: Panel, field: str, sentence: str) -> Problem:
    return Problem("chassis", f"panels/{panel.id}/{field}", f"{panel.name}: {sentence}.")


def _of_folding(found: MadePanel) -> list[Problem]:
    panel, out = found.panel, []
    least = panel.thick_mm * (TIGHT_ALUMINIUM if panel.metal == "aluminium" else TIGHT)
    if panel.lips and panel.radius_mm < least - 1e-9:
        said = f"bent to a radius of {panel.radius_mm:g} mm inside it cracks; {least:g} mm at least"
        out.append(_ask(panel, "radius_mm", said))
    for one, two, deep in collisions(found):
        said = f"folded, {one} runs {deep:.1f} mm into {two}"
        out.append(_ask(panel, "lips", f"{said}; shorten one, or keep it from its end"))
    return out


def collisions(found: MadePanel) -> list[tuple[str, str, float]]:
    """Faces that run into one another as folded, by name, and how deep."""
    rows = [part for part in found.folded.solids if part[1]]
    names = [f"the lip {k}" if key else "the sheet" for k, (key, _) in enumerate(rows)]
    hung = {face.key: face.bend.on for face in found.folded.faces if face.bend is not None}
    bodies = Bodies([parts for _, parts in rows])
    out = []
    for near in nearest(bodies, Pose.still(), bodies, np.full((len(rows), len(rows)), 0.05)):
        a, b = rows[near.a][0], rows[near.b][0]
        if near.a < near.b and hung.get(b) != a and hung.get(a) != b and near.distance < -INTO:
            out.append((names[near.b], names[near.a], -near.distance))
    return out


def _of_holes(found: MadePanel) -> list[Problem]:
    panel, out = found.panel, []
    faces = {face.key: face for face in found.folded.faces}
    pattern = found.folded.pattern
    worst_edge = min(
        (
            (pattern.exterior.distance(Point(h.flat)) if pattern.contains(Point(h.flat)) else -1.0)
            - EDGE * h.diameter
            for h in found.holes
        ),
        default=0.0,
    )
    if worst_edge < -1e-6:
        said = f"a hole is nearer to the sheet's edge than {EDGE:g} of its diameters"
        out.append(_ask(panel, "seam_in_mm", said))
    for hole in found.holes:
        face = faces[hole.face]
        on = Point(hole.own)
        away = face.polygon.exterior.distance(on) if face.polygon.contains(on) else -1.0
        if panel.lips and away - hole.diameter / 2 < _least(panel) and _by_bend(found, hole.face, hole.own):
            said = f"a hole is nearer to a bend than {_least(panel):.1f} mm and is drawn out of round"
            out.append(_ask(panel, "seam_in_mm" if hole.seam else "holes", said))
            break
    return out


def _of_dimples(found: MadePanel) -> list[Problem]:
    """Whether what is pressed out has flat sheet all round it: to the edge, a bend, another hole."""
    panel = found.panel
    if not panel.dimple_mm:
        return []
    room, rim = _least(panel), dimple_rim(panel)
    faces = {face.key: face for face in found.folded.faces}
    for n, hole in enumerate(found.holes):
        if hole.seam:
            continue
        face = faces[hole.face]
        edge = face.polygon.exterior.distance(Point(hole.own)) - rim
        others = [
            float(np.linalg.norm(hole.own - other.own)) - rim - (other.diameter / 2 if other.seam else rim)
            for k, other in enumerate(found.holes)
            if k != n and other.face == hole.face
        ]
        least = min([edge, *others])
        if least < room - 1e-6:
            said = f"a dimple has {max(least, 0.0):.1f} mm of flat sheet beside it; it takes {room:.1f}"
            return [_ask(panel, "dimple_mm", f"{said}, or edge and neighbour are drawn in")]
    return []


def _least(panel: Panel) -> float:
    return OFF_BEND * panel.thick_mm


def _by_bend(found: MadePanel, key: str, own: np.ndarray) -> bool:
    """Whether what is nearest to a place on a face is a bend: its own, or one that stands on it."""
    flat = next(f.flat for f in found.folded.faces if f.key == key) @ np.array([*own, 1.0])
    bends = [
        np.linalg.norm(nearest_on(ends, flat[:2])[1] - flat[:2])
        for k, ends in found.folded.folds
        if k == key or _stands_on(found, k) == key
    ]
    edge = found.folded.pattern.exterior.distance(Point(flat[:2]))
    return bool(bends) and float(min(bends)) < edge + setback(
        found.panel.radius_mm, found.panel.thick_mm, 90.0
    )


def _stands_on(found: MadePanel, key: str) -> str:
    return next(f.bend.on for f in found.folded.faces if f.key == key and f.bend is not None)


def _of_cut(job: Job, made: MadePanel) -> list[Problem]:
    """Whether a panel over a cut is what the cut is reckoned to be put back with."""
    panel = made.panel
    if panel.over is None:
        return []
    found = next(
        (f for f in opened_members(job) if not isinstance(f, JobError) and f.opening.id == panel.over), None
    )
    if found is None:
        return [_ask(panel, "over", "the cut that it puts back is not there, or not worked out")]
    opening, out = found.opening, []
    if panel.role == "doubler":
        return _of_doubler(panel, opening)
    if panel.holes:
        said = f"what {opening.name} leaves is reckoned with a whole plate over it, and this one has holes"
        out.append(_ask(panel, "holes", said))
    if "cover" not in opening.mend:
        out.append(_ask(panel, "over", f"{opening.name} is not reckoned with a plate over it"))
    elif panel.thick_mm < opening.mend_mm - 1e-9:
        said = f"it is {panel.thick_mm:g} mm; {opening.name} is reckoned with {opening.mend_mm:g} mm"
        out.append(_ask(panel, "thick_mm", said))
    ends = np.ptp(np.asarray(panel.outline), axis=0)
    if float(ends[1]) < opening.long_mm - 2 * SHORT:
        out.append(_ask(panel, "outline", f"it is shorter than {opening.name}"))
    if panel.held == "plug welded" and panel.seam != "none":
        pitch = pitch_over(found, panel.thick_mm, panel.twist_nm, panel.shear_kn, panel.seam_hole_mm)
        if pitch is not None and widest_pitch(made) > pitch:
            said = (
                f"its plugs are {widest_pitch(made):.0f} mm apart; {pitch:.0f} mm is the most for what flows"
            )
            out.append(_ask(panel, "seam_pitch_mm", said))
    return out


def _of_doubler(panel: Panel, opening: Opening) -> list[Problem]:
    """Whether a plate on a wall beside a cut is what the cut is reckoned to be put back with."""
    out = []
    if "sides" not in opening.mend:
        out.append(_ask(panel, "over", f"{opening.name} is not reckoned with plates beside it"))
    elif panel.thick_mm < opening.mend_mm - 1e-9:
        said = f"it is {panel.thick_mm:g} mm; {opening.name} is reckoned with {opening.mend_mm:g} mm"
        out.append(_ask(panel, "thick_mm", said))
    long = float(np.ptp(np.asarray(panel.outline)[:, 1]))
    if long < opening.long_mm - 2 * SHORT:
        out.append(_ask(panel, "outline", f"it is shorter than {opening.name}"))
    elif _at_full_width(panel) < opening.long_mm - 2 * SHORT:
        out.append(_ask(panel, "outline", f"it grows narrower before the end of {opening.name}"))
    if panel.holes:
        said = f"what {opening.name} leaves is reckoned with whole plates beside it, and this one has holes"
        out.append(_ask(panel, "holes", said))
    return out


def _at_full_width(panel: Panel) -> float:
    """Over how much of its length a plate is as wide as anywhere, mm."""
    points = np.asarray(panel.outline)
    wide = points[:, 0].min(), points[:, 0].max()
    return min(float(np.ptp(points[np.abs(points[:, 0] - side) < 0.5][:, 1])) for side in wide)


def _of_rib(job: Job, panel: Panel) -> list[Problem]:
    if panel.role != "rib":
        return []
    member = next((m for m in members_of(job)[0] if m.item.id == panel.on), None)
    if member is None:
        return [_ask(panel, "on", "a rib stands in a rail or a member: say which")]
    return [_ask(panel, "role", fault) for fault in rib_faults(member, panel)]


def widest_pitch(made: MadePanel) -> float:
    """The widest step between holes of a row on one face, mm."""
    steps = [0.0]
    for face in made.folded.faces:
        row = [h.own for h in made.holes if h.seam and h.face == face.key]
        steps += [float(np.linalg.norm(b - a)) for a, b in zip(row, row[1:], strict=False)]
    return max(steps)


def _of_holding(job: Job, panel: Panel) -> list[Problem]:
    out = []
    if panel.held == "unsaid":
        out.append(_ask(panel, "held", "say how it is held: welded, plug welded, riveted or bolted"))
    if panel.held == "plug welded" and panel.seam == "none":
        out.append(_ask(panel, "seam", "plug welded needs a row of holes"))
    item = next((i for i in standing_items(job) if i.id == panel.on), None)
    if panel.on is not None and item is None:
        out.append(_ask(panel, "on", "what it is put on is not in the bay"))
    welded = "welded" in panel.held
    if item is not None and welded:
        other = item.material if item.material in ("aluminium", "magnesium") else "steel"
        own = "aluminium" if panel.metal == "aluminium" else "steel"
        if item.material == "magnesium" or own != other:
            out.append(_ask(panel, "held", f"{own} is not welded to {other}; rivet or bolt it, kept apart"))
        elif item.material == "single skin" and panel.held == "welded":
            out.append(_ask(panel, "held", f"{item.name} is a single skin: plug weld it"))
    if panel.held == "riveted" and panel.sealed == "unsaid":
        out.append(_ask(panel, "sealed", "fire and fumes come through an opening: say whether it is sealed"))
    return out
