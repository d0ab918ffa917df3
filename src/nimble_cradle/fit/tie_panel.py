"""A panel from rail to rail as a member: its line, its section with the lips along its long edges, and how
low it hangs. Vehicle frame; mm."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from nimble_cradle.geometry.pose import Array
from nimble_cradle.geometry.solids import placed_part
from nimble_cradle.job.base import JobError
from nimble_cradle.job.panel import Panel
from nimble_cradle.made.panel import made_panel, panel_pose
from nimble_cradle.stock.steels import E_STEEL, STEELS
from nimble_cradle.strength.section import Section, Wall, thin_walled

E_ALUMINIUM = 70_000.0
LONG = 1.5
"""A tie is so many times as long as it is wide, at least."""


@dataclass(frozen=True, eq=False)
class TiePanel:
    """line: (2, 3) from its left end to its right one, in the middle of its sheet. up: (3,). section: y along
    the car, z up. wide: between the lips along its long edges, or its edges; lips: how many of these have
    one. lowest: z of its lowest place."""

    panel: Panel
    line: Array
    up: Array
    walls: tuple[Wall, ...]
    section: Section
    wide: float
    lips: int
    lowest: float

    @property
    def length(self) -> float:
        """From end to end, mm."""
        return float(np.linalg.norm(self.line[1] - self.line[0]))

    @property
    def modulus(self) -> float:
        """mm3, the least, bent up and down."""
        return self.section.w_y

    @property
    def e_mpa(self) -> float:
        """Young's modulus of its sheet (handbook values, from memory)."""
        return E_ALUMINIUM if self.panel.metal == "aluminium" else E_STEEL

    @property
    def yield_mpa(self) -> float:
        """Of its sheet; aluminium half of mild steel (5754 half hard, from memory)."""
        return 120.0 if self.panel.metal == "aluminium" else STEELS[self.panel.metal].yield_mpa


def tie_of(panel: Panel) -> TiePanel:
    """A panel as a tie. Raises JobError where it cannot be folded or does not lie across the car."""
    pose, ring = panel_pose(panel), np.asarray(panel.outline, dtype=float)
    low, high = ring.min(0), ring.max(0)
    ways = pose.rotation[:, :2].T
    k = int(np.abs(ways[:, 1]).argmax())  # which of its own two ways runs across the car
    across = ways[k]
    size = high - low
    place = f"panels/{panel.id}/outline"
    if abs(float(across[1])) < 0.9 or abs(float(pose.rotation[2, 2])) < 0.7:
        raise JobError(f"{panel.name}: a tie lies flat, from rail to rail; turn it.", f"panels/{panel.id}/up")
    if size[k] < LONG * size[1 - k]:
        raise JobError(f"{panel.name}: a tie is longer from rail to rail than it is wide.", place)
    middle = (low + high) / 2
    ends = np.repeat(middle[None], 2, axis=0)
    ends[:, k] = low[k], high[k]
    line = pose.points(np.column_stack([ends, np.zeros(2)]))
    line = line if line[0, 1] > line[1, 1] else line[::-1]
    normal = pose.rotation[:, 2]
    up = normal if normal[2] > 0 else -normal
    walls, lips = _walls(panel, ring, k, size, float(normal[2]))
    found = made_panel(panel)
    solids = [placed_part(part, found.pose) for _, parts in found.folded.solids for part in parts]
    lowest = min(float(part.triangles[0][:, 2].min()) for part in solids)
    lips_thick = panel.thick_mm * lips
    return TiePanel(
        panel, line, up, tuple(walls), thin_walled(walls), float(size[1 - k]) - lips_thick, lips, lowest
    )


def _walls(panel: Panel, ring: Array, k: int, size: Array, rises: float) -> tuple[list[Wall], int]:
    """The sheet across its length, and the lips on its two long edges. rises: how the face that one sees
    looks up (positive) or down."""
    half, t = float(size[1 - k]) / 2, panel.thick_mm
    walls = [Wall((-half, 0.0), (half, 0.0), t)]
    middle = (ring.min(0) + ring.max(0)) / 2
    found = 0
    for lip in panel.lips:
        a, b = ring[lip.edge % len(ring)], ring[(lip.edge + 1) % len(ring)]
        if lip.on is not None or abs((b - a)[k]) < 0.6 * size[k]:
            continue
        found += 1
        side = math.copysign(1.0, float(((a + b) / 2 - middle)[1 - k]))
        high = max(lip.long_mm - t / 2, t)
        turn = math.radians(lip.turn_deg)
        way = (1.0 if lip.way == "towards" else -1.0) * math.copysign(1.0, rises)
        end = (side * (half + high * math.cos(turn)), way * high * math.sin(turn))
        walls.append(Wall((side * half, 0.0), end, t))
    return walls, found
