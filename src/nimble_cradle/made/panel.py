"""A panel of sheet as it is made: folded, flat, its holes, its weight."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from nimble_cradle.families.part import Joint, MadePart, Owner, Stock
from nimble_cradle.geometry.folded import Bend, Face, Folded, folded
from nimble_cradle.geometry.plate import Plate
from nimble_cradle.geometry.pose import Array, Pose, frame
from nimble_cradle.geometry.solid_makers import hull
from nimble_cradle.geometry.solids import ConvexPart, ShapeError, placed_part
from nimble_cradle.job.base import JobError
from nimble_cradle.job.panel import Panel
from nimble_cradle.job.remember import of_same
from nimble_cradle.stock.form import Form
from nimble_cradle.stock.steels import DENSITY_STEEL

DENSITY_ALUMINIUM = 2.7e-6
"""kg/mm3 (from memory)."""


@dataclass(frozen=True, eq=False)
class PanelHole:
    """A hole: on which face, where on it (own x, y) and in the flat pattern, its diameter, mm; seam: whether
    it is of the row."""

    face: str
    own: Array
    flat: Array
    diameter: float
    seam: bool


@dataclass(frozen=True, eq=False)
class MadePanel:
    """A panel that can be made. pose: from the sheet's own face (its middle at z = 0) to the vehicle
    frame."""

    panel: Panel
    folded: Folded
    holes: tuple[PanelHole, ...]
    pose: Pose

    @property
    def kg(self) -> float:
        """Its weight, by its flat pattern."""
        area = self.folded.pattern.area - sum(math.pi / 4 * hole.diameter**2 for hole in self.holes)
        density = DENSITY_ALUMINIUM if self.panel.metal == "aluminium" else DENSITY_STEEL
        return max(area, 0.0) * self.panel.thick_mm * density

    @property
    def flat_size(self) -> tuple[float, float]:
        """Width and height of the flat pattern, mm."""
        x0, y0, x1, y1 = self.folded.pattern.bounds
        return x1 - x0, y1 - y0


def panel_pose(panel: Panel) -> Pose:
    """From the sheet's own face, its middle at z = 0, to the vehicle frame."""
    axes = frame(panel.normal, panel.up)
    return Pose(axes, np.asarray(panel.at, dtype=float) - panel.thick_mm / 2 * axes[:, 2])


def made_panel(panel: Panel) -> MadePanel:
    """A panel folded. Raises JobError for what cannot be."""
    bends = [
        Bend(
            lip.id,
            lip.on or "",
            lip.edge,
            lip.long_mm,
            lip.turn_deg,
            lip.way == "towards",
            lip.first_mm,
            lip.last_mm,
        )
        for lip in panel.lips
    ]
    try:
        found = folded(panel.outline, bends, panel.thick_mm, panel.radius_mm)
        _ = found.pattern
    except ShapeError as error:
        raise JobError(f"{panel.name}: {error}", f"panels/{panel.id}/lips") from None
    return MadePanel(panel, found, tuple(_holes(panel, found)), panel_pose(panel))


def _holes(panel: Panel, found: Folded) -> list[PanelHole]:
    out = []
    base = found.faces[0]
    if panel.seam == "round the edge":
        out += _round_edge(panel, found, base)
    elif panel.seam == "along the lips":
        for face in found.faces[1:]:
            x0, _, x1, y1 = face.polygon.bounds
            out += [
                _hole(face, np.array([x, y1 - panel.seam_in_mm]), panel.seam_hole_mm, True)
                for x in _spread(x0, x1, panel.seam_in_mm, panel.seam_pitch_mm)
            ]
    out += [_hole(base, np.asarray(at, dtype=float), panel.hole_mm, False) for at in panel.holes]
    return out


def _round_edge(panel: Panel, found: Folded, base: Face) -> list[PanelHole]:
    """A row along every edge of the sheet without a lip."""
    ring = np.asarray(panel.outline, dtype=float)
    x, y = ring.T
    ccw = (x * np.roll(y, -1) - np.roll(x, -1) * y).sum() > 0
    bent = {lip.edge % len(ring) for lip in panel.lips if lip.on is None}
    out: list[PanelHole] = []
    for k in range(len(ring)):
        if k in bent:
            continue
        a, b = ring[k], ring[(k + 1) % len(ring)]
        long = float(np.linalg.norm(b - a))
        if long < 2 * panel.seam_in_mm:
            continue
        d = (b - a) / long
        inwards = np.array([-d[1], d[0]]) * (1.0 if ccw else -1.0)
        for s in _spread(0.0, long, panel.seam_in_mm, panel.seam_pitch_mm):
            at = a + s * d + panel.seam_in_mm * inwards
            if all(np.linalg.norm(at - hole.own) > 0.6 * panel.seam_pitch_mm for hole in out):
                out.append(_hole(base, at, panel.seam_hole_mm, True))
    return out


def _spread(low: float, high: float, inset: float, pitch: float) -> list[float]:
    """Places evenly along a line, its ends ``inset`` in, at most ``pitch`` apart."""
    room = high - low - 2 * inset
    if room <= 0:
        return [(low + high) / 2]
    return [
        float(v) for v in np.linspace(low + inset, high - inset, max(2, math.ceil(room / pitch - 1e-9) + 1))
    ]


def _hole(face: Face, at: Array, diameter: float, seam: bool) -> PanelHole:
    return PanelHole(face.key, at, (face.flat @ np.array([at[0], at[1], 1.0]))[:2], diameter, seam)


RIM = 24
"""A dimple is drawn with so many sides."""


def dimples(found: MadePanel) -> tuple[ConvexPart, ...]:
    """What is pressed out of the sheet round its further holes, as solid cones at 45 deg, vehicle frame."""
    panel = found.panel
    deep, half = panel.dimple_mm, panel.thick_mm / 2
    if not deep:
        return ()
    side = 1.0 if panel.dimple_way == "towards" else -1.0
    angles = 2 * math.pi * np.arange(RIM) / RIM
    ring = np.column_stack([np.cos(angles), np.sin(angles)])
    out = []
    for hole in found.holes:
        if hole.seam:
            continue
        rows = [
            np.column_stack([hole.own + radius * ring, np.full(RIM, side * (half + z))])
            for radius, z in ((dimple_rim(panel), 0.0), (hole.diameter / 2 + panel.thick_mm, deep))
        ]
        out.append(hull(found.pose.points(np.vstack(rows))))
    return tuple(out)


def dimple_rim(panel: Panel) -> float:
    """From the middle of a dimpled hole to where its sheet is flat again, mm."""
    return panel.hole_mm / 2 + panel.dimple_mm + panel.thick_mm


@of_same(most=128)
def panel_part(panel: Panel) -> MadePart:
    """The panel as a made part, vehicle frame; without solids where it cannot be folded."""
    owner = Owner("panel", panel.id)
    try:
        found = made_panel(panel)
    except JobError:
        return MadePart(owner, "sheet", panel.name, version=panel)
    wide, high = found.flat_size
    bends = len(panel.lips)
    said = f"flat; {bends} bend{'s' if bends != 1 else ''}" if bends else "flat"
    said += ", dimpled" if panel.dimple_mm and panel.holes else ""
    return MadePart(
        owner,
        "sheet",
        panel.name,
        (
            *(placed_part(part, found.pose) for _, parts in found.folded.solids for part in parts),
            *dimples(found),
        ),
        flat=Plate(
            np.asarray(found.folded.pattern.exterior.coords)[:-1],
            np.array([hole.flat for hole in found.holes]).reshape(-1, 2),
            np.array([hole.diameter for hole in found.holes]),
            float(found.folded.pattern.area),
        ),
        stock=Stock(
            f"sheet {panel.thick_mm:g} mm",
            panel.metal,
            f"{math.ceil(wide)} x {math.ceil(high)}",
            round(found.kg, 2),
            f"{said}, radius {panel.radius_mm:g} mm; {_held(panel)}",
            Form("sheet", (panel.thick_mm,)),
        ),
        joints=(Joint("welded to" if "welded" in panel.held else "bolted to", "chassis"),),
        templates=(f"panel-{panel.id}",),
        version=panel,
    )


def _held(panel: Panel) -> str:
    return "how it is held is not said" if panel.held == "unsaid" else panel.held
