"""Pucks on a bolt: a ring with a web on one puck or between two, their law, parts and checks."""

from __future__ import annotations

import math
from functools import partial

import numpy as np

from nimble_cradle.families import round_eye
from nimble_cradle.families.bush_use import shares
from nimble_cradle.families.family import BushStiffness, Eye
from nimble_cradle.families.law import Along, AxialStop, Curve, Law, Linear, RadialStop
from nimble_cradle.families.part import MadePart, Stock
from nimble_cradle.findings.finding import Finding
from nimble_cradle.findings.worst import Cases, Check, worst
from nimble_cradle.geometry.pose import Array, Pose
from nimble_cradle.job.loads import Allowables
from nimble_cradle.job.mounts import Mount
from nimble_cradle.job.puck_bush import PuckBush
from nimble_cradle.stock.form import Form
from nimble_cradle.strength.pucks import PUCK, SQUEEZE, puck_stiffness

LOAD_PATH = (("ring", ("eye-wall",)), ("pucks", ("squeeze", "shear", "side-travel")))
LEAST_LEFT = 0.4
"""A puck squeezed to less of its thickness than this is taken as it is there, and as straight beyond."""
SHEAR_MOST = 5 / 3
"""Sheared, rubber takes so many times the share of its thickness that it takes squeezed (0.25 to 0.15)."""
LOOSE_RING = 2.0
"""The ring ends so many mm short of where the pucks bear, each side, so that it never bears itself."""


def _puck(mount: Mount) -> PuckBush:
    assert isinstance(mount.bush, PuckBush)
    return mount.bush


def eye(bush: PuckBush) -> Eye:
    """The ring round the pucks, with 2 mm of air for them to bulge."""
    wall = bush.ring_wall_mm
    stack = bush.sleeve_long_mm if bush.rebound_mm else bush.thickness_mm + bush.web_mm
    return Eye(bush.outside_mm + 4.0 + 2 * wall, wall, max(stack - 2 * stroke_mm(bush), bush.web_mm))


def stroke_mm(bush: PuckBush) -> float:
    """From where it stands to where the ring meets a cheek, mm each way along the bolt: four tenths of the
    puck that carries, less its squeeze."""
    return max(0.4 * bush.thickness_mm - bush.squeezed_mm, 1.0) + LOOSE_RING


def bolt_hole_mm(bush: PuckBush) -> float:
    """Bore of the sleeve, mm."""
    return bush.sleeve_bore_mm


def sleeve_outside_mm(bush: PuckBush) -> float:
    """Outside of the sleeve, mm."""
    return bush.sleeve_mm


def hardness(bush: PuckBush) -> float | None:
    """IRHD, which is read as Shore A for the band of a reading (they agree within 2 there)."""
    return bush.hardness_irhd


def squeezed_curve(squeeze: Array, bush: PuckBush, thickness: float) -> Curve:
    """Force of one puck squeezed by (k,) mm, none where it has lifted off."""
    k, _, _, _ = puck_stiffness(bush.outside_mm, bush.hole_mm, thickness, bush.hardness_irhd)
    x = np.maximum(squeeze, 0.0)
    left = np.maximum(1 - x / thickness, LEAST_LEFT)
    past = np.maximum(LEAST_LEFT - (1 - x / thickness), 0.0) * thickness
    force = k * thickness * (left**-2 - left) / 3
    slope = k * (2 * left**-3 + 1) / 3
    energy = k * thickness**2 * (1 / left - 1 - (1 - left**2) / 2) / 3
    return Curve(
        force + slope * past, np.where(squeeze > 0, slope, 0.0), energy + force * past + slope * past**2 / 2
    )


def _pair(u: Array, bush: PuckBush) -> Curve:
    """Both pucks for movements (k,) along the axis, from where the bolt is tight."""
    p = bush.squeezed_mm
    load = squeezed_curve(u + p, bush, bush.thickness_mm)
    if not bush.rebound_mm:
        return load
    back = squeezed_curve(p - u, bush, bush.rebound_mm)
    # nought where the bolt is tight: thick and thin pucks share its clamp, the web finds its own place
    return Curve(load.force - back.force, load.slope + back.slope, load.energy + back.energy)


def stiffness(bush: PuckBush) -> BushStiffness:
    """Sheared across, squeezed along, where the bolt is tight."""
    worked = PUCK.work(
        {"outside": "bush", "thickness": "bush", "irhd": "bush"},
        outside=bush.outside_mm,
        hole=bush.hole_mm,
        thickness=bush.thickness_mm,
        irhd=bush.hardness_irhd,
        squeeze=bush.squeezed_mm,
    )
    across = worked.value("sheared")
    if bush.rebound_mm:
        across += puck_stiffness(bush.outside_mm, bush.hole_mm, bush.rebound_mm, bush.hardness_irhd)[1]
    return BushStiffness(across, float(_pair(np.zeros(1), bush).slope[0]), worked)


def law(mount: Mount) -> Law:
    """Squeezed along by Gent and Lindley, one-sided; sheared across until the web meets the sleeve; the ring
    on a cheek at the end of its stroke."""
    bush = _puck(mount)
    stroke = stroke_mm(bush)
    return Law(
        (
            Linear(stiffness(bush).radial, 0.0),
            Along(partial(_pair, bush=bush)),
            RadialStop(bush.side_gap_mm),
            AxialStop(stroke, stroke),
        ),
        (0.0, 0.0),
    )


def between_cheeks_mm(mount: Mount) -> float:
    """The ring, and its stroke on both sides."""
    bush = _puck(mount)
    return eye(bush).length_mm + 2 * stroke_mm(bush)


def bare_law(mount: Mount, left: float) -> Law:
    """Web against sleeve, ring between cheeks."""
    bush = _puck(mount)
    k, stroke = stiffness(bush), stroke_mm(bush)
    terms = (Linear(left * k.radial, left * k.axial), RadialStop(bush.side_gap_mm), AxialStop(stroke, stroke))
    return Law(terms, (bush.side_gap_mm, stroke))


def side_room_mm(mount: Mount) -> float:
    """From the ring to a cheek, mm."""
    return stroke_mm(_puck(mount))


def parts(mount: Mount, pose: Pose) -> tuple[MadePart, ...]:
    """Ring with web, sleeve, pucks."""
    bush = _puck(mount)
    sizes = (bush.sleeve_mm, bush.sleeve_bore_mm, bush.outside_mm, 0.0, bush.thickness_mm, bush.hardness_irhd)
    thick = f"{bush.thickness_mm:g}" + (f" and {bush.rebound_mm:g}" if bush.rebound_mm else "")
    stock = Stock(
        f"rubber puck, {bush.hardness_irhd:g} IRHD",
        "rubber",
        f"{bush.outside_mm:g} x {bush.hole_mm:g} x {thick}",
        0.0,
        f"web {bush.web_mm:g} welded in the ring; the tight bolt squeezes each {bush.squeezed_mm:.1f} mm",
        Form("bush", sizes),
        2 if bush.rebound_mm else 1,
    )
    return (
        round_eye.eye_part(mount, pose, bush.ring_wall_mm),
        round_eye.sleeve_part(mount, bush.sleeve_mm, bush.sleeve_bore_mm, bush.sleeve_long_mm),
        round_eye.filling_part(mount, stock),
    )


def checks(mount: Mount, cases: Cases, allow: Allowables) -> list[Finding]:
    """Squeeze and shear of the pucks."""
    bush = _puck(mount)
    along = np.array([case.axial_signed for case in cases.rows])
    thickness, p = bush.thickness_mm, bush.squeezed_mm
    squeeze = np.maximum(along + p, 0.0)
    if bush.rebound_mm:
        back = np.maximum(p - along, 0.0)
        harder = back / bush.rebound_mm > squeeze / thickness
        squeeze = np.where(harder, back, squeeze)
        thick = np.where(harder, bush.rebound_mm, thickness)
    else:
        thick = np.full(len(along), thickness)
    across = np.array([case.radial_mm for case in cases.rows])
    most = shares(cases, allow)
    thinner = min(thickness, bush.rebound_mm or math.inf)
    return [
        _use(mount, cases, "squeeze", "puck squeezed", squeeze, thick, most),
        _use(mount, cases, "shear", "puck sheared", across, np.full(len(across), thinner), SHEAR_MOST * most),
    ]


def _use(
    mount: Mount, cases: Cases, code: str, what: str, moved: Array, thick: Array, most: Array
) -> Finding:
    return worst(
        mount,
        Check(code, what, "length", "a harder or a thicker puck"),
        cases,
        moved / thick / most,
        moved,
        SQUEEZE,
        lambda k: {"squeeze": float(moved[k]), "thickness": float(thick[k]), "most": float(most[k])},
        {"squeeze": "bush", "most": "job"},
        factored=False,
    )
