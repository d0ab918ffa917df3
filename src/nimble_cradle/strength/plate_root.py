"""How far a bolted plate gives under the arm that is welded to its middle. N, mm, rad.

The plate is taken for a round one, clamped at the circle of its bolts, with a stiff hub as wide as the arm:
D (w'''' ...) = 0 is solved in closed form for a push and for a moment on the hub.
"""

from __future__ import annotations

import math

import numpy as np

from nimble_cradle.calc import Q, calculation
from nimble_cradle.stock.steels import E_STEEL

POISSON = 0.3
LEAST_RING = 1.15
"""The circle of the bolts is at least so much wider than the hub."""


def plate_root(circle: float, hub: float, thick: float) -> tuple[float, float]:
    """Turn of a hub per moment, rad/(N mm), and its way out per force, mm/N. circle: radius of the bolts, mm.

    w = (A r + B r^3 + C/r + F r ln r) cos(t), moment 4 pi D F; w = A + B r^2 + C ln r + F r^2 ln r, force
    8 pi D F.
    """
    a, b = max(circle, LEAST_RING * hub), hub
    rigidity = E_STEEL * thick**3 / (12 * (1 - POISSON**2))
    # at the hub w = b phi and dw/dr = phi; at the bolts both nought; lengths over a, so that it is well set
    x = b / a
    rows = [_turned(1.0), _turned(x)]
    system = np.array([rows[0][0], rows[0][1], rows[1][0], rows[1][1]])
    turned = np.linalg.solve(system, [0.0, 0.0, x, 1.0])
    rows = [_pushed(1.0), _pushed(x)]
    system = np.array([rows[0][0], rows[0][1], rows[1][0], rows[1][1]])
    pushed = np.linalg.solve(system, [0.0, 0.0, 1.0, 0.0])
    turn = 1 / (4 * math.pi * rigidity * abs(float(turned[3])))
    push = a**2 / (8 * math.pi * rigidity * abs(float(pushed[3])))
    return turn, push


def _turned(r: float) -> tuple[list[float], list[float]]:
    """Of w over cos t, and of dw/dr: the factors of A, B, C, F."""
    log = math.log(r)
    return [r, r**3, 1 / r, r * log], [1.0, 3 * r**2, -1 / r**2, log + 1]


def _pushed(r: float) -> tuple[list[float], list[float]]:
    log = math.log(r)
    return [1.0, r**2, log, r**2 * log], [0.0, 2 * r, 1 / r, 2 * r * log + r]


PLATE_ROOT = calculation(
    "plate-root-give",
    "How far a bolted plate gives under its arm",
    inputs=(
        Q("circle", "mm", "mean distance of the bolts from the arm's middle", above=0),
        Q("hub", "mm", "radius of the arm, half of what is welded on", above=0),
        Q("thick", "mm", "plate", above=0),
    ),
    outputs=(Q("turn", "rad/(N mm)", "turn per moment"), Q("push", "mm/N", "way out per force")),
    formula="plate of radius a, clamped, stiff hub of radius b: biharmonic w, D = E t^3/(12 (1 - nu^2))",
    source="Kirchhoff's plate in closed form; Roark's Formulas, trunnion on a plate (from memory)",
    leaves_out="the block under the plate, which holds it up on one side, and the bolts' own stretch",
)(plate_root)
