"""Stiffness of a bonded rubber bush from its size and hardness.

Rubber is linear and incompressible here: G = E / 3. Radii a (sleeve) and b (eye bore), rubber length L,
all mm. Radial stiffness K = beta L G: two published limits bracket it, "long" (no rubber can escape at the
ends) and "short" (it escapes freely). The usual bush lies between; ``finite`` solves the elastic problem
of the actual length.
"""

from __future__ import annotations

import math
from functools import lru_cache
from typing import Literal

import numpy as np

from nimble_cradle.calc import Q, calculation
from nimble_cradle.families.family import BushStiffness
from nimble_cradle.job.base import JobError
from nimble_cradle.job.bonded_bush import BondedBush

ADKINS_GENT = (
    "Adkins and Gent, Br. J. Appl. Phys. 5 (1954) 354; as quoted by Horton, Gover and Tupholme, Rubber Chem."
    " Technol. 73 (2000) 253"
)


def youngs_modulus(hardness: float) -> float:
    """Young's modulus E in MPa from Shore A hardness by Gent's relation: E = 0.0981 (56 + 7.62336 S) /
    (0.137505 (254 - 2.54 S))."""
    return 0.0981 * (56 + 7.62336 * hardness) / (0.137505 * (254 - 2.54 * hardness))


MODULUS = calculation(
    "rubber-modulus",
    "Stiffness of rubber from its hardness",
    inputs=(Q("hardness", "Shore A", "hardness", low=20, high=98),),
    outputs=(Q("E", "MPa", "Young's modulus at small strain"),),
    formula="E = 0.0981 (56 + 7.62336 S) / (0.137505 (254 - 2.54 S))",
    source=(
        "Gent, Rubber Chem. Technol. 31 (1958) 896: hardness from the indentation of a rigid ball (from"
        " memory)"
    ),
    leaves_out=(
        "fillers and polyurethane stray from it by 20 % and more; a hardness reading is itself good to 3"
        " points or so"
    ),
)(youngs_modulus)


def radial_beta_long(a: float, b: float) -> float:
    """beta of a bush so long that the ends do not matter: 4 pi / (ln(b/a) - (b2 - a2)/(b2 + a2))."""
    return 4 * math.pi / (math.log(b / a) - (b * b - a * a) / (b * b + a * a))


def radial_beta_short(a: float, b: float) -> float:
    """beta of a bush so short that the rubber bulges freely: 80 pi (b2 + a2) / (25 (b2 + a2) ln(b/a) - 9
    (b2 - a2))."""
    s, d = b * b + a * a, b * b - a * a
    return 80 * math.pi * s / (25 * s * math.log(b / a) - 9 * d)


@lru_cache(maxsize=512)
def radial_beta(a: float, b: float, length: float, across: int = 4, along: int = 6) -> float:
    """beta of a bush of the given length, bonded to rigid sleeve and eye, free at its ends; linear
    incompressible rubber.

    Displacements vary as cos or sin of the angle round the bush (one harmonic), so the problem is
    two-dimensional in r and z; it is solved by mixed finite elements (nine-node displacement, three-term
    pressure) on half the length.
    """
    r_nodes = np.linspace(a, b, 2 * across + 1)
    t = np.linspace(0, 1, 2 * along + 1)
    z_nodes = length / 2 * (1 - (1 - t) ** 1.5)
    z_nodes[1::2] = (z_nodes[:-1:2] + z_nodes[2::2]) / 2
    nr, nz = len(r_nodes), len(z_nodes)
    number = np.arange(nr * nz).reshape(nr, nz)
    n_u, n_p = 3 * nr * nz, 3 * across * along
    k = np.zeros((n_u + n_p, n_u + n_p))
    points, weights = np.polynomial.legendre.leggauss(3)
    for i in range(across):
        for j in range(along):
            nodes = number[2 * i : 2 * i + 3, 2 * j : 2 * j + 3].ravel()
            dof = (3 * nodes[:, None] + np.arange(3)).ravel()
            pressure = n_u + 3 * (i * along + j) + np.arange(3)
            stiff, constraint = _element(
                r_nodes[2 * i : 2 * i + 3], z_nodes[2 * j : 2 * j + 3], points, weights
            )
            k[np.ix_(dof, dof)] += stiff
            k[np.ix_(dof, pressure)] += constraint
            k[np.ix_(pressure, dof)] += constraint.T
    value = np.zeros(n_u + n_p)
    fixed = np.zeros(n_u + n_p, dtype=bool)
    for nodes, u, v in ((number[0], 1.0, -1.0), (number[-1], 0.0, 0.0)):
        for c, w in enumerate((u, v, 0.0)):
            fixed[3 * nodes + c], value[3 * nodes + c] = True, w
    fixed[3 * number[:, 0] + 2] = True
    free = ~fixed
    value[free] = np.linalg.solve(k[np.ix_(free, free)], -k[np.ix_(free, fixed)] @ value[fixed])
    force = float(value[fixed] @ (k[fixed] @ value))
    return 2 * math.pi * force / length


def _element(
    r3: np.ndarray, z3: np.ndarray, points: np.ndarray, weights: np.ndarray
) -> tuple[np.ndarray, np.ndarray]:
    """Stiffness (27, 27) and pressure coupling (27, 3) of one element for G = 1, without the factor pi
    from the angle."""
    stiff, constraint = np.zeros((27, 27)), np.zeros((27, 3))
    half_r, half_z = (r3[2] - r3[0]) / 2, (z3[2] - z3[0]) / 2
    for x, wx in zip(points, weights, strict=True):
        for y, wy in zip(points, weights, strict=True):
            lx, ly = (np.array([s * (s - 1) / 2, 1 - s * s, s * (s + 1) / 2]) for s in (x, y))
            dx, dy = (np.array([s - 0.5, -2 * s, s + 0.5]) for s in (x, y))
            n, n_r, n_z = (
                np.outer(lx, ly).ravel(),
                np.outer(dx, ly).ravel() / half_r,
                np.outer(lx, dy).ravel() / half_z,
            )
            r = r3[1] + x * half_r
            b = np.zeros((6, 9, 3))
            b[0, :, 0] = n_r
            b[1, :, 0] = b[1, :, 1] = n / r
            b[2, :, 2] = n_z
            b[3, :, 0], b[3, :, 1] = -n / r, n_r - n / r
            b[4, :, 0], b[4, :, 2] = n_z, n_r
            b[5, :, 1], b[5, :, 2] = n_z, -n / r
            flat = b.reshape(6, 27)
            weight = wx * wy * half_r * half_z * r
            stiff += weight * flat.T @ (np.array([2, 2, 2, 1, 1, 1])[:, None] * flat)
            constraint += weight * np.outer(flat[:3].sum(0), np.array([1.0, x, y]))
    return stiff, constraint


def bush_stiffness(
    sleeve: float,
    eye_bore: float,
    length: float,
    hardness: float,
    ends: Literal["finite", "short", "long"] = "finite",
) -> tuple[float, float, float, float, float]:
    """Radial and axial stiffness N/mm, the short and long limits of the radial one N/mm, and G in MPa.
    Diameters mm."""
    g = youngs_modulus(hardness) / 3
    a, b = sleeve / 2, eye_bore / 2
    short, long = radial_beta_short(a, b) * g * length, radial_beta_long(a, b) * g * length
    radial = {"short": short, "long": long}.get(ends)
    if radial is None:
        radial = radial_beta(a, b, length) * g * length
    return radial, 2 * math.pi * g * length / math.log(b / a), short, long, g


def _checked(
    sleeve: float, eye_bore: float, length: float, hardness: float, ends: Literal["finite", "short", "long"]
) -> tuple[float, float, float, float, float]:
    if sleeve >= eye_bore:
        raise ValueError(f"the sleeve ({sleeve:g} mm) does not go into the eye ({eye_bore:g} mm bore)")
    return bush_stiffness(sleeve, eye_bore, length, hardness, ends)


STIFFNESS = calculation(
    "bush-stiffness",
    "Stiffness of a bonded rubber bush",
    inputs=(
        Q("sleeve", "mm", "outside diameter of the sleeve", above=0),
        Q("eye_bore", "mm", "bore of the eye", above=0),
        Q("length", "mm", "length of the rubber", above=0),
        Q("hardness", "Shore A", "hardness", low=20, high=98),
        Q(
            "ends",
            "",
            "what happens at the ends of the rubber",
            "finite",
            choices=("finite", "short", "long"),
        ),
    ),
    outputs=(
        Q("radial", "N/mm", "radial stiffness"),
        Q("axial", "N/mm", "axial stiffness"),
        Q("short", "N/mm", "radial, if the rubber bulged freely"),
        Q("long", "N/mm", "radial, if none could escape"),
        Q("G", "MPa", "shear modulus"),
    ),
    formula=(
        "radial = beta L G;  axial = 2 pi G L / ln(b/a);  long: beta = 4 pi / (ln(b/a) - (b2-a2)/(b2+a2));  "
        "short: beta = 80 pi (b2+a2) / (25 (b2+a2) ln(b/a) - 9 (b2-a2));  finite: solved for this length"
    ),
    source=(
        f"{ADKINS_GENT} (from memory); G = E/3 with Gent's hardness relation; finite length by finite"
        " elements of one harmonic"
    ),
    leaves_out=(
        "stiffening at large strain, creep and temperature; twist and tilt stiffness of the bush are not used"
    ),
)(_checked)


def stiffness(bush: BondedBush) -> BushStiffness:
    """Stiffness of a job's bush: the maker's figures where given, else by formula. Raises JobError."""
    try:
        worked = STIFFNESS.work(
            {"sleeve": "bush", "eye_bore": "bush", "length": "bush", "hardness": "bush"},
            sleeve=bush.sleeve_mm,
            eye_bore=bush.eye_bore_mm,
            length=bush.length_mm,
            hardness=bush.hardness_shore_a,
            ends=bush.ends,
        )
    except ValueError as error:
        raise JobError(str(error)) from None
    return BushStiffness(
        bush.stiffness_radial or worked.value("radial"), bush.stiffness_axial or worked.value("axial"), worked
    )
