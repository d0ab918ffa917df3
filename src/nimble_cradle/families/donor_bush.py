"""The donor's own rubber, kept: its law from what was measured of it, its parts, its checks."""

from __future__ import annotations

import math
from functools import partial

import numpy as np

from nimble_cradle.calc import Q, calculation
from nimble_cradle.families import round_eye
from nimble_cradle.families.bush_use import shares
from nimble_cradle.families.family import BushStiffness, Eye
from nimble_cradle.families.law import Along, AxialStop, Curve, Law, Linear, RadialStop
from nimble_cradle.families.part import MadePart, Stock
from nimble_cradle.findings.finding import Finding
from nimble_cradle.findings.worst import Cases, Check, worst
from nimble_cradle.geometry.pose import Array, Pose
from nimble_cradle.job.donor_bush import DonorBush
from nimble_cradle.job.loads import Allowables
from nimble_cradle.job.mounts import Mount
from nimble_cradle.stock.form import Form
from nimble_cradle.strength.pucks import SQUEEZE
from nimble_cradle.units import G_STANDARD

LOAD_PATH = (("cup", ("eye-wall",)), ("donor's rubber", ("squeeze", "shear", "side-travel")))
LEAST_STEP = 0.5
"""A difference of heights below so many mm says nothing of a stiffness."""


def donor_stiffness(
    height_free: float, height_loaded: float, loaded_kg: float, plus_minus_mm: float = 0.5
) -> tuple[float, float]:
    """Stiffness N/mm from two heights and the load between them, and its give or take as a share."""
    sunk = height_free - height_loaded
    if sunk <= 0:
        raise ValueError("with its load on it the rubber must be lower than without")
    return loaded_kg * G_STANDARD / sunk, math.hypot(plus_minus_mm / sunk, 0.03)


DONOR = calculation(
    "donor-rubber",
    "Stiffness of a donor's rubber from two heights",
    inputs=(
        Q("height_free", "mm", "height with nothing on it", above=0),
        Q("height_loaded", "mm", "height with the old load on it", above=0),
        Q("loaded_kg", "kg", "the old load", above=0),
        Q("plus_minus_mm", "mm", "give or take of the difference of heights", 0.5, above=0),
    ),
    outputs=(Q("stiffness", "N/mm", "stiffness along"), Q("doubt", "", "give or take, as a share")),
    formula="k = W / (h0 - h1);  dk/k = sqrt((dh/(h0 - h1))^2 + (dW/W)^2), dW/W = 3 %",
    source="definition",
    leaves_out="that rubber is softer the first time and harder at more load: a table of loads says more",
)(donor_stiffness)


def _donor(mount: Mount) -> DonorBush:
    assert isinstance(mount.bush, DonorBush)
    return mount.bush


def eye(bush: DonorBush) -> Eye:
    """The cup that it sits in."""
    return Eye(bush.outside_mm + 2 * bush.seat_wall_mm, bush.seat_wall_mm, bush.height_loaded_mm)


def bolt_hole_mm(bush: DonorBush) -> float:
    """Hole for its bolt, mm."""
    return bush.stud_mm


def sleeve_outside_mm(bush: DonorBush) -> float:
    """What the bolt clamps: twice its hole."""
    return 2 * bush.stud_mm


def hardness(bush: DonorBush) -> float | None:
    """None: it was measured."""
    return None


def table_curve(u: Array, table: tuple[tuple[float, float], ...]) -> Curve:
    """Force of a measured table for movements (k,) mm: a monotone cubic through the rows and nought, straight
    on beyond them with the last slope."""
    from scipy.interpolate import PchipInterpolator

    rows = sorted({(0.0, 0.0), *table})
    x, f = np.array([r[0] for r in rows]), np.array([r[1] for r in rows])
    cubic = PchipInterpolator(x, f)
    slope, area = cubic.derivative(), cubic.antiderivative()
    inside = np.clip(u, x[0], x[-1])
    past = u - inside
    end = slope(inside)
    force = cubic(inside)
    return Curve(force + end * past, end, area(inside) - area(0.0) + force * past + end * past**2 / 2)


def stiffness(bush: DonorBush) -> BushStiffness:
    """Along from two heights, or the table's first row; across a share of it."""
    if bush.table:
        first = sorted(bush.table)[0] if sorted(bush.table)[0][0] > 0 else sorted(bush.table)[-1]
        free, loaded, kg = first[0], 0.0, first[1] / G_STANDARD
    else:
        free, loaded, kg = bush.height_free_mm, bush.height_loaded_mm, bush.loaded_kg
    worked = DONOR.work(
        {"height_free": "bush", "height_loaded": "bush", "loaded_kg": "bush"},
        height_free=free,
        height_loaded=max(loaded, 1e-9),
        loaded_kg=kg,
    )
    along = worked.value("stiffness")
    return BushStiffness(bush.sideways_share * along, along, worked)


def law(mount: Mount) -> Law:
    """As measured along, a share of that across; metal at the end of its travel."""
    bush = _donor(mount)
    k, travel = stiffness(bush), bush.travel_mm
    stops = RadialStop(travel), AxialStop(travel, travel)
    if not bush.table:
        return Law((Linear(k.radial, k.axial), *stops), (travel, travel))
    curve = Along(partial(table_curve, table=bush.table))
    return Law((Linear(k.radial, 0.0), curve, *stops), (0.0, 0.0))


def between_cheeks_mm(mount: Mount) -> float:
    """Its height, and its travel on both sides."""
    return eye(_donor(mount)).length_mm + 2 * _donor(mount).travel_mm


def bare_law(mount: Mount, left: float) -> Law:
    """Metal at the end of its travel, where it has such; else next to nothing."""
    bush = _donor(mount)
    k, travel = stiffness(bush), bush.travel_mm
    rubber = Linear(left * k.radial, left * k.axial)
    if not bush.captured:
        return Law((rubber,))
    return Law((rubber, RadialStop(travel), AxialStop(travel, travel)), (travel, travel))


def side_room_mm(mount: Mount) -> float:
    """Its travel."""
    return _donor(mount).travel_mm


def parts(mount: Mount, pose: Pose) -> tuple[MadePart, ...]:
    """The cup and the rubber."""
    bush = _donor(mount)
    stock = Stock(
        "the donor's rubber",
        "rubber",
        f"{bush.outside_mm:g} x {bush.height_free_mm:g}",
        0.0,
        "new ones before the position is fixed: old rubber has sunk",
        Form("bush", (0.0, bush.stud_mm, bush.outside_mm, 0.0, bush.height_free_mm, 0.0)),
    )
    return round_eye.eye_part(mount, pose, bush.seat_wall_mm), round_eye.filling_part(mount, stock)


def checks(mount: Mount, cases: Cases, allow: Allowables) -> list[Finding]:
    """How far it is squeezed or pulled, and moved across, against its height."""
    bush = _donor(mount)
    along = np.abs([case.axial_signed for case in cases.rows])
    across = np.array([case.radial_mm for case in cases.rows])
    most = shares(cases, allow)
    rows = (
        ("squeeze", "donor's rubber squeezed or pulled", along, most),
        ("shear", "donor's rubber sheared", across, most * 5 / 3),
    )
    return [
        worst(
            mount,
            Check(code, what, "length", "a harder or a higher rubber"),
            cases,
            moved / bush.height_free_mm / limit,
            moved,
            SQUEEZE,
            lambda k, moved=moved, limit=limit: {  # type: ignore[misc]
                "squeeze": float(moved[k]),
                "thickness": bush.height_free_mm,
                "most": float(limit[k]),
            },
            {"squeeze": "bush", "most": "job"},
            factored=False,
        )
        for code, what, moved, limit in rows
    ]
