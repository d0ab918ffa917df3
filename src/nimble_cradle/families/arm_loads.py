"""Forces and moments at a place of an arm, and a weld of straight pieces under them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from nimble_cradle.families.arm_run import ArmRun
from nimble_cradle.families.tube_extras import Line
from nimble_cradle.findings.finding import Finding
from nimble_cradle.findings.worst import Cases, Check, worst
from nimble_cradle.geometry.pose import Array, cross, crosses, unit
from nimble_cradle.job.mounts import Mount
from nimble_cradle.stock.steels import Steel
from nimble_cradle.strength.weld import WELD_GROUP, force_per_mm, segments, weld_capacity


@dataclass(frozen=True, eq=False)
class ArmLoads:
    """Forces (k, 3) N and moments (k, 3) N mm at a place of the arm, along two ways square to it and along
    it."""

    force: Array
    moment: Array

    @property
    def shear(self) -> Array:
        """(k,) N square to the arm."""
        return np.asarray(np.hypot(self.force[:, 0], self.force[:, 1]))

    @property
    def bending(self) -> Array:
        """(k,) N mm."""
        return np.asarray(np.hypot(self.moment[:, 0], self.moment[:, 1]))

    def along_bar(self) -> tuple[Array, Array, Array, Array, Array, Array]:
        """Each (k,), of an arm whose first way runs along the eye and whose second is its height: along it,
        shear over its height and across, bending over its height and across, torsion."""
        f, m = self.force, self.moment
        return f[:, 2], f[:, 1], f[:, 0], m[:, 0], m[:, 1], m[:, 2]

    def named(self, k: int) -> dict[str, float]:
        """The same of one case, by name."""
        names = ("axial", "shear_tall", "shear_side", "bending_tall", "bending_side", "torsion")
        return {name: float(row[k]) for name, row in zip(names, self.along_bar(), strict=True)}


def arm_loads(mount: Mount, run: ArmRun, forces: Array, place: Array, side: Array) -> ArmLoads:
    """What forces (k, 3) on the bush's centre do at a place of the arm. side: (3,) unit, square to the
    arm."""
    axes = np.column_stack([side, cross(run.way, side), run.way])
    return ArmLoads(forces @ axes, crosses(np.asarray(mount.bush.centre) - place, forces) @ axes)


def lean_of(run: ArmRun) -> Array:
    """(3,) unit, square to the arm: the side that it leans to over its plate; any where it stands square."""
    normal = run.axes[:, 2]
    lean = (normal @ run.way) * run.way - normal
    return unit(lean) if float(np.linalg.norm(lean)) > 1e-9 else run.axes[:, 0]


def told_lines(lines: Sequence[Line]) -> str:
    """Straight pieces of weld in words, as a working takes them: u,v,u,v; ..."""
    return "; ".join(f"{a:.4f},{b:.4f},{c:.4f},{d:.4f}" for (a, b), (c, d) in lines)


def line_weld_finding(
    mount: Mount,
    cases: Cases,
    check: Check,
    at: ArmLoads,
    lines: Sequence[Line],
    throat: float,
    *steels: Steel,
) -> Finding:
    """A weld of straight pieces at one of an arm's ends, (u, v) in the arm's own section."""
    weaker = min(steels, key=lambda steel: steel.tensile / steel.weld_beta)
    line = np.asarray(force_per_mm(segments(lines), at.force, at.moment))
    use = line / weld_capacity(throat, weaker.tensile, weaker.weld_beta)
    names = ("force_u", "force_v", "force_n", "moment_u", "moment_v", "moment_n")
    told = told_lines(lines)

    def inputs(k: int) -> dict[str, float | str]:
        loads = dict(zip(names, (float(x) for x in (*at.force[k], *at.moment[k])), strict=True))
        return {"lines": told, "throat": throat, "tensile": weaker.tensile, "beta": weaker.weld_beta, **loads}

    return worst(mount, check, cases, use, line, WELD_GROUP, inputs, {"force_n": "equilibrium"})
