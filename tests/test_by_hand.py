"""Whole parts worked by hand: from the job's figures to every finding, with numpy and shapely alone and no
code of the product between. One mount with an arm, one without, and the crossmember; everyday and rare
cases."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np
import pytest
from nimble_cradle.findings.finding import Finding
from nimble_cradle.job.edits import with_value
from nimble_cradle.job.job import Job
from nimble_cradle.job.powertrain import Weighed
from nimble_cradle.judge.carried import carried
from nimble_cradle.judge.verdict import verdict
from nimble_cradle.mounts.give import brackets_give
from scipy.integrate import quad
from scipy.spatial.transform import Rotation
from shapely.geometry import LineString, Point, Polygon
from shapely.ops import unary_union

from narrowed import bonded

G = 9.80665
YIELD = {"S235": 235.0, "E235": 235.0, "S355": 355.0}
TENSILE = {"S235": 360.0, "E235": 340.0, "S355": 470.0}
BETA = {"S235": 0.8, "E235": 0.8, "S355": 0.9}
"""EN 10025-2, EN 10305-1, EN 1993-1-8 table 4.1 (from memory)."""


@pytest.fixture(scope="module")
def job() -> Job:
    """The truck with nothing symmetric: weighed off its middle, measured bushes, odd plates, an arm off
    its eye's axis."""
    from nimble_cradle.demo import demo_folder
    from nimble_cradle.job import store

    made = store.read(demo_folder("light-truck")).job
    edits: dict[str, Any] = {
        "powertrain/weighed": Weighed(
            mass_kg=312.0, centre=(38.0, -9.0, 96.0), inertia_kg_m2=(8.5, 24.0, 21.0)
        ),
        "position/roll_deg": 0.7,
        "position/yaw_deg": -0.4,
        "mounts/left/bush/stiffness_radial": 410.0,
        "mounts/left/bush/stiffness_axial": 120.0,
        "mounts/right/bush/stiffness_radial": 640.0,
        "mounts/right/bush/stiffness_axial": 170.0,
        "mounts/right/bush/axis": (0.97, 0.2, 0.1),
        "mounts/right/arm/offset_mm": 7.0,
        "mounts/right/pad/arm_at": (5.0, -9.0),
        "mounts/gearbox/bush/stiffness_radial": 1150.0,
        "mounts/gearbox/bush/stiffness_axial": 240.0,
        "mounts/gearbox/pad/holes": ((-42.0, 16.0), (47.0, -23.0), (4.0, 54.0)),
        "mounts/gearbox/pad/edge_mm": 17.0,
        "mounts/gearbox/cross_bolt/tightening_nm": 31.0,
        "powertrain/gearbox/reverse_ratio": 3.7,
    }
    for path, value in edits.items():
        made = with_value(made, path, value)
    return made


@dataclass
class Hand:
    """The pose, and the force of every bush on the engine in every case: names, kinds, forces (k, 3), what
    each bush itself moves (k, 3)."""

    turn: np.ndarray
    at: np.ndarray
    names: list[str]
    kinds: list[str]
    forces: dict[str, np.ndarray]
    moved: dict[str, np.ndarray]


def worked(job: Job) -> Hand:
    """Axle loads, torque, all cases, and six equations of equilibrium."""
    p, v, loads = job.position, job.vehicle, job.loads
    turn = Rotation.from_euler("xyz", [p.roll_deg, -p.pitch_deg, p.yaw_deg], degrees=True).as_matrix()
    at = np.array([p.x, p.y, p.z])
    weighed = job.powertrain.weighed
    assert weighed is not None and weighed.centre is not None
    m = weighed.mass_kg
    centre = turn @ np.array(weighed.centre) + at
    front, rear = (
        v.front_axle_kg + m * (1 + centre[0] / v.wheelbase_mm),
        v.rear_axle_kg - m * centre[0] / v.wheelbase_mm,
    )
    bare = v.front_axle_kg + v.rear_axle_kg
    high = (bare * v.cog_height_mm + m * (centre[2] - v.ground_z_mm)) / (bare + m)

    def torque(ratio: float, sign: float) -> tuple[float, float]:
        tip = sign * loads.tyre_grip * high / v.wheelbase_mm
        most = min(loads.tyre_grip * rear * G / (1 - tip), loads.tyre_grip * (front + rear) * G)
        t = min(job.powertrain.engine.torque_nm * ratio, most * v.tyre_radius_mm / 1000 / v.final_drive)
        return t, t * v.final_drive / (v.tyre_radius_mm / 1000) / ((front + rear) * G)

    (t1, a1), (tr, ar) = torque(job.powertrain.gearbox.ratios[0], 1.0), torque(3.7, -1.0)
    w = m * G
    roll = (
        turn @ np.array([1.0, 0.0, 0.0]) * 1000
    )  # the output points back; the crank turns clockwise seen from the front
    none = np.zeros(3)
    x, y, up = np.array([w, 0, 0]), np.array([0, w, 0]), np.array([0, 0, -w])
    steady: list[tuple[str, np.ndarray, np.ndarray]] = [
        ("rest", none, none),
        ("first", -a1 * x, t1 * roll),
        ("reverse", ar * x, -tr * roll),
        ("overrun", none, -loads.overrun_share * t1 * roll),
        ("brake", loads.brake_g * x, none),
    ]
    for side in (-1.0, 1.0):
        steady += [
            (f"bend {side}", side * loads.corner_g * y, none),
            (f"brake bend {side}", loads.together * (loads.brake_g * x + side * loads.corner_g * y), none),
            (f"first bend {side}", -a1 * x + loads.together * side * loads.corner_g * y, t1 * roll),
            (f"reverse bend {side}", ar * x + loads.together * side * loads.corner_g * y, -tr * roll),
        ]
    rows = [(n, "rest" if n == "rest" else "everyday", up + f, c) for n, f, c in steady]
    rows += [(f"{n} {g} g", "everyday", g * up + f, c) for g in (2.0, 0.0) for n, f, c in steady]
    rows += [
        ("snatch", "rare", up - a1 * x, loads.snatch_factor * t1 * roll),
        ("bump", "rare", 3 * up, none),
        ("rebound", "rare", -1.5 * up, none),
        ("pothole", "rare", 3 * up + 2 * x, none),
        ("tow", "rare", up - 2 * x, none),
        ("tow back", "rare", up + 2 * x, none),
        ("brake bump", "rare", 2 * up + x, none),
        ("snatch bump", "rare", 2 * up - a1 * x, loads.snatch_factor * t1 * roll),
    ]
    for side in (-1.0, 1.0):
        rows += [
            (f"kerb {side}", "rare", up + 2 * side * y, none),
            (f"bend bump {side}", "rare", 2 * up + side * y, none),
        ]

    k6 = np.zeros((6, 6))
    springs, alone = {}, {}
    for mount in job.mounts:
        b = bonded(mount.bush)
        a = np.array(b.axis) / np.linalg.norm(b.axis)
        kr, ka = b.stiffness_radial, b.stiffness_axial
        assert kr and ka
        own = kr * (np.eye(3) - np.outer(a, a)) + ka * np.outer(a, a)
        # in series with what it stands on: 1/k = 1/k_bush + 1/k_bracket, as matrices
        k = np.linalg.inv(np.linalg.inv(own) + brackets_give(job).own[mount.id])
        alone[mount.id] = np.linalg.inv(own) @ k
        r = np.array(b.centre) - centre
        g = np.hstack([np.eye(3), -np.array([[0, -r[2], r[1]], [r[2], 0, -r[0]], [-r[1], r[0], 0]])])
        springs[mount.id] = k, g
        k6 += g.T @ k @ g
    forces: dict[str, list[np.ndarray]] = {mount.id: [] for mount in job.mounts}
    moved: dict[str, list[np.ndarray]] = {mount.id: [] for mount in job.mounts}
    for _, _, f, c in rows:
        q = np.linalg.solve(k6, np.concatenate([f, c]))
        for key, (k, g) in springs.items():
            moved[key].append(alone[key] @ g @ q)
            forces[key].append(-k @ g @ q)
    return Hand(
        turn,
        at,
        [r[0] for r in rows],
        [r[1] for r in rows],
        {k: np.array(f) for k, f in forces.items()},
        {k: np.array(u) for k, u in moved.items()},
    )


@pytest.fixture(scope="module")
def hand(job: Job) -> Hand:
    return worked(job)


@pytest.fixture(scope="module")
def found(job: Job) -> dict[tuple[str, str], Finding]:
    return {(f.part, f.code): f for f in verdict(job).findings}


def checked(finding: Finding, uses: np.ndarray, hand: Hand) -> None:
    """A finding's use is the greatest of all cases, and its factor that of the case it names."""
    assert finding.use == pytest.approx(float(np.max(uses)), rel=1e-6), finding.code
    kind = hand.kinds[int(np.argmax(uses))]
    assert finding.factor in (1.0, 1.5 if kind == "rare" else 2.5)


def test_every_case_loads_every_mount_as_by_hand(job: Job, hand: Hand) -> None:
    """Each case of the program is one of those above: force on every bush, its movement along its bolt, and
    whether it is of every day."""
    cases = carried(job).cases
    assert len(cases) == len(hand.names)
    order = [m.id for m in job.mounts]
    mine = np.hstack([hand.forces[key] for key in order])
    met = set()
    for result in cases:
        by = {load.mount: load for load in result.mounts}
        force = np.concatenate([-by[key].force for key in order])
        other = np.array(hand.kinds) != result.case.kind
        off = np.abs(mine - force).max(1) + np.where(other, np.inf, 0.0)
        k = int(off.argmin())
        assert off[k] <= 1e-6 * np.abs(force).max(), result.case.name
        met.add(hand.names[k])
        for key, mount in zip(order, job.mounts, strict=True):
            a = np.array(mount.bush.axis) / np.linalg.norm(mount.bush.axis)
            assert by[key].axial_mm == pytest.approx(abs(hand.moved[key][k] @ a), rel=1e-6, abs=1e-9)
    assert met == set(hand.names)


def bolt(size: float, pitch: float, strength: float) -> tuple[float, float, float]:
    """Stress area, tension and shear capacity N: ISO 898-1 and EN 1993-1-8 table 3.4 (10.9: half of it in
    shear)."""
    area = math.pi / 4 * (size - 0.9382 * pitch) ** 2
    return area, 0.9 * strength * area / 1.25, (0.5 if strength > 1000 else 0.6) * strength * area / 1.25


def pad_axes(job: Job, key: str, hand: Hand) -> tuple[np.ndarray, np.ndarray, Any]:
    """Rows u, v, n of a pad in the car, its centre there, and the mount."""
    mount = next(m for m in job.mounts if m.id == key)
    n = hand.turn @ np.array(mount.pad.normal) / np.linalg.norm(mount.pad.normal)
    v = hand.turn @ np.array(mount.pad.up)
    v = v - (v @ n) * n
    v = v / np.linalg.norm(v)
    return np.array([np.cross(v, n), v, n]), hand.turn @ np.array(mount.pad.centre) + hand.at, mount


def check_pad(
    job: Job,
    key: str,
    hand: Hand,
    found: dict[tuple[str, str], Finding],
    foot: Callable[[float], np.ndarray],
    foot_size: Any,
) -> None:
    """Bolts, slip, both ways of bending the plate, bearing. foot: the outline of what is welded on with so
    much round it; foot_size: its exact reach along a direction, with the toe."""
    axes, centre, mount = pad_axes(job, key, hand)
    pad = mount.pad
    factor = np.array([1.5 if k == "rare" else 2.5 for k in hand.kinds])[:, None]
    force = hand.forces[key] * factor
    f = force @ axes.T
    moment = np.cross(np.array(mount.bush.centre) - centre, force) @ axes.T
    holes = np.array(pad.holes)
    middle = holes.mean(0)
    mu = moment[:, 0] - middle[1] * f[:, 2]
    mv = moment[:, 1] + middle[0] * f[:, 2]
    mn = moment[:, 2] - middle[0] * f[:, 1] + middle[1] * f[:, 0]
    r = holes - middle
    # T = N/n + a u + b v with the moments of T about both axes: sum T v = Mu, -sum T u = Mv
    plane = np.linalg.solve(
        [
            [(r[:, 0] ** 2).sum(), (r[:, 0] * r[:, 1]).sum()],
            [(r[:, 0] * r[:, 1]).sum(), (r[:, 1] ** 2).sum()],
        ],
        np.array([-mv, mu]),
    )
    tension = np.maximum(f[:, 2:] / len(r) + plane.T @ r.T, 0.0)
    polar = (r**2).sum()
    shear = np.hypot(
        f[:, :1] / len(r) - mn[:, None] * r[:, 1] / polar, f[:, 1:2] / len(r) + mn[:, None] * r[:, 0] / polar
    )
    area, ft, fv = bolt(10.0, 1.5, 1040.0)
    checked(found[key, "bolts"], np.maximum(shear / fv + tension / 1.4 / ft, tension / ft).max(1), hand)
    clamp = pad.tightening_nm * 1000 / (0.2 * 10.0)
    checked(found[key, "slip"], shear.max(1) / (0.2 * (0.7 * clamp - np.maximum(f[:, 2], 0) / len(r))), hand)
    assert found[key, "tightening"].use == pytest.approx(clamp / (0.9 * 830 * area))
    throat = mount.arm.weld_throat_mm if mount.arm else mount.eye_weld_throat_mm
    toe = 0.8 * math.sqrt(2) * throat
    lever = np.array([max(Polygon(foot(toe)).distance(Point(*h)), 5.0) for h in holes])
    width = np.minimum(2 * math.pi * lever, 4 * lever + 1.25 * pad.edge_mm)
    fy = YIELD[pad.steel]
    checked(found[key, "plate"], (tension / (width * pad.plate_mm**2 * fy / 4 / lever)).max(1), hand)
    k1, alpha = min(2.8 * pad.edge_mm / pad.hole_mm - 1.7, 2.5), min(pad.edge_mm / 3 / pad.hole_mm, 1.0)
    bearing = k1 * alpha * TENSILE[pad.steel] * 10.0 * pad.plate_mm / 1.25
    checked(found[key, "bearing"], shear.max(1) / bearing, hand)
    assert found[key, "edge"].use == pytest.approx(1.2 * pad.hole_mm / pad.edge_mm)
    # straight lines right across
    rounds = [Point(*h).buffer(pad.edge_mm, quad_segs=32) for h in holes]
    outline = unary_union([*rounds, Polygon(foot(throat * math.sqrt(2) + 3.0))]).convex_hull
    assert isinstance(outline, Polygon)
    corners = np.array(outline.exterior.coords)
    drilled = outline.difference(
        unary_union([Point(*h).buffer(pad.hole_mm / 2, quad_segs=600) for h in holes])
    )
    worst = np.zeros(len(force))
    for k in range(36):
        way = np.array([math.cos(k * math.pi / 18), math.sin(k * math.pi / 18)])
        along = np.array([-way[1], way[0]])
        start, last = foot_size(way, toe), float((corners @ way).max())
        if last <= start + 1e-6:
            continue
        for c in start + (last - start) * np.linspace(0, 0.999, 24):
            line = LineString([c * way - 500 * along, c * way + 500 * along])
            beyond = np.maximum(holes @ way - c, 0.0)
            if (holes @ way - c <= 0).any():
                bending = tension @ beyond
            else:
                bending = np.abs(moment[:, :2] @ along + c * f[:, 2])
            worst = np.maximum(
                worst, bending / (drilled.intersection(line).length * pad.plate_mm**2 / 4 * fy)
            )
    assert found[key, "plate-line"].use == pytest.approx(float(worst.max()), rel=2e-5), "holes as polygons"


def check_bush(
    job: Job, key: str, hand: Hand, found: dict[tuple[str, str], Finding], grade: float, proof: float
) -> None:
    """Cross-bolt with and without clamp, cheeks, sleeve, rubber."""
    mount = next(m for m in job.mounts if m.id == key)
    b, c = bonded(mount.bush), mount.cross_bolt
    factor = np.array([1.5 if k == "rare" else 2.5 for k in hand.kinds])
    load = np.linalg.norm(hand.forces[key], axis=1) * factor
    assert c.tightening_nm is not None
    d = {"M12": 12.0, "M14": 14.0}[c.bolt]
    clamp = c.tightening_nm * 1000 / 0.2 / d
    sleeve = b.length_mm + 2 * c.eye_gap_mm
    arm = (2 * c.cheek_mm + 4 * c.gap_mm + np.where(0.4 * 0.7 * clamp >= load, 0.0, sleeve)) / 8
    shear = load / (2 * 0.6 * grade * math.pi / 4 * d**2 / 1.25)
    bending = load * arm / (1.5 * math.pi / 32 * d**3 * proof)
    checked(found[key, "cross-bolt"], np.hypot(shear, bending), hand)
    checked(found[key, "cheeks"], load / (2 * 1.5 * c.cheek_mm * d * YIELD[c.cheek_steel]), hand)
    assert found[key, "play"].use == pytest.approx((b.sleeve_bore_mm - d) / 0.5)
    assert found[key, "sleeve"].use == pytest.approx(
        clamp / (math.pi / 4 * (b.sleeve_mm**2 - b.sleeve_bore_mm**2)) / 355
    )
    a = np.array(b.axis) / np.linalg.norm(b.axis)
    along = np.abs(hand.moved[key] @ a)
    across = np.linalg.norm(hand.moved[key] - (hand.moved[key] @ a)[:, None] * a, axis=1)
    wall = (b.eye_bore_mm - b.sleeve_mm) / 2
    most = np.array([{"rest": 0.15, "everyday": 0.30, "rare": 0.55}[k] for k in hand.kinds])
    checked(found[key, "strain"], across / wall / most, hand)
    checked(found[key, "axial"], along / wall / most, hand)
    checked(found[key, "side-travel"], along / c.eye_gap_mm, hand)
    pressed = across * b.stiffness_radial / (b.sleeve_mm * b.length_mm) / job.allowables.bush_pressure_mpa
    checked(found[key, "pressure"], pressed, hand)


def test_a_mount_with_an_arm(job: Job, hand: Hand, found: dict[tuple[str, str], Finding]) -> None:
    key = "right"
    axes, centre, mount = pad_axes(job, key, hand)
    arm, pad, b = mount.arm, mount.pad, mount.bush
    assert arm is not None
    root = centre + axes.T @ np.array([*pad.arm_at, pad.plate_mm])
    eye, a = np.array(b.centre), np.array(b.axis) / np.linalg.norm(b.axis)
    # the arm ends on the common normal, 7 mm from the eye's axis: by iteration
    aim = eye
    for _ in range(200):
        side = np.cross(a, aim - root)
        aim = eye + arm.offset_mm * side / np.linalg.norm(side)
    way = (aim - root) / np.linalg.norm(aim - root)
    radius = arm.outside_mm / 2
    slope = math.acos(way @ axes[2])
    lean = axes[:2] @ way
    lean = lean / np.linalg.norm(lean)
    square = np.array([-lean[1], lean[0]])

    def foot(more: float) -> np.ndarray:
        points = 192 if more < 0.8 * math.sqrt(2) * arm.weld_throat_mm + 0.01 else 48
        t = np.arange(points) * 2 * math.pi / points
        long = radius / math.cos(slope) + more
        return np.asarray(
            np.array(pad.arm_at)
            + np.outer(np.cos(t), lean) * long
            + np.outer(np.sin(t), square) * (radius + more)
        )

    def reach(w: np.ndarray, toe: float) -> float:
        long, wide = (w @ lean) * (radius / math.cos(slope) + toe), (w @ square) * (radius + toe)
        return float(np.array(pad.arm_at) @ w + math.hypot(long, wide))

    check_pad(job, key, hand, found, foot, reach)
    check_bush(job, key, hand, found, 800.0, 580.0)
    factor = np.array([1.5 if k == "rare" else 2.5 for k in hand.kinds])[:, None]
    force = hand.forces[key] * factor
    inner = arm.outside_mm - 2 * arm.wall_mm
    area, i = math.pi / 4 * (arm.outside_mm**2 - inner**2), math.pi / 64 * (arm.outside_mm**4 - inner**4)

    def inside(place: np.ndarray) -> tuple[np.ndarray, ...]:
        """Along, across, bending, twist."""
        m = np.cross(eye - place, force)
        n, t = force @ way, m @ way
        return (
            n,
            np.linalg.norm(force - np.outer(n, way), axis=1),
            np.linalg.norm(m - np.outer(t, way), axis=1),
            t,
        )

    n, q, bend, twist = inside(root)
    sigma = np.abs(n) / area + bend * radius / i
    tau = np.abs(twist) * radius / (2 * i) + 2 * q / area
    checked(found[key, "arm"], np.sqrt(sigma**2 + 3 * tau**2) / 235, hand)
    assert math.degrees(slope) < 30, "a fillet all round counts"
    out = radius_of_eye = b.eye_bore_mm / 2 + b.eye_wall_mm
    end = aim - radius_of_eye * way
    for code, place, throat in (
        ("root-weld", root, min(arm.weld_throat_mm, arm.wall_mm, pad.plate_mm)),
        ("eye-weld", end, min(arm.weld_throat_mm, arm.wall_mm, b.eye_wall_mm)),
    ):
        m = np.cross(eye - place, force)
        x = np.cross(way, [0.3, -0.8, 0.52])
        x = x / np.linalg.norm(x)
        y = np.cross(way, x)
        worst = np.zeros(len(force))
        for angle in np.linspace(0, 2 * math.pi, 7201):  # round the weld as a line: length 2 pi r, I = pi r^3
            c, s = math.cos(angle), math.sin(angle)
            normal = force @ way / (2 * math.pi * radius) + (m @ x * s - m @ y * c) * radius / (
                math.pi * radius**3
            )
            spin = m @ way * radius / (2 * math.pi * radius**3)
            fx = force @ x / (2 * math.pi * radius) - spin * s
            fy = force @ y / (2 * math.pi * radius) + spin * c
            worst = np.maximum(worst, np.sqrt(normal**2 + fx**2 + fy**2))
        use = worst / (340.0 / (math.sqrt(3) * 0.8 * 1.25) * throat)
        # the product looks at 24 places round the weld: never more than by hand, and within a cosine of 7.5
        # deg of it
        assert 0.991 * use.max() <= found[key, code].use <= use.max() * (1 + 1e-6)
    m = np.cross(eye - end, force)
    x = a - (a @ way) * way
    x = x / np.linalg.norm(x)
    in_plane, out_of = m @ np.cross(way, x), m @ x
    d0, g = 2 * out, out / b.eye_wall_mm
    beta = arm.outside_mm / d0
    ring = 0.7 * 235 * b.eye_wall_mm**2
    cap_n = g**0.2 * ring * (2.8 + 14.2 * beta**2)
    cap_i, cap_o = (
        4.85 * ring * arm.outside_mm * math.sqrt(g) * beta,
        ring * arm.outside_mm * 2.7 / (1 - 0.81 * beta),
    )
    punched = 0.7 * 235 * b.eye_wall_mm / math.sqrt(3)  # EN 1993-1-8 tables 7.2, 7.5 at right angles (fm)
    assert arm.outside_mm <= d0 - 2 * b.eye_wall_mm
    cap_n = min(cap_n, punched * math.pi * arm.outside_mm)
    cap_i, cap_o = min(cap_i, punched * arm.outside_mm**2), min(cap_o, punched * arm.outside_mm**2)
    checked(
        found[key, "eye-wall"],
        np.abs(force @ way) / cap_n + (in_plane / cap_i) ** 2 + np.abs(out_of) / cap_o,
        hand,
    )


def test_a_mount_without_an_arm(job: Job, hand: Hand, found: dict[tuple[str, str], Finding]) -> None:
    key = "gearbox"
    axes, centre, mount = pad_axes(job, key, hand)
    pad, b = mount.pad, mount.bush
    a = np.array(b.axis) / np.linalg.norm(b.axis)
    along = a - (a @ axes[2]) * axes[2]
    along = along / np.linalg.norm(along)
    flat = axes[:2] @ along
    square = np.array([-flat[1], flat[0]])
    outside = b.eye_bore_mm + 2 * b.eye_wall_mm

    def foot(more: float) -> np.ndarray:
        corners = np.array([[1, 1], [-1, 1], [-1, -1], [1, -1]])
        return np.asarray(
            np.array(pad.arm_at)
            + np.outer(corners[:, 0], flat) * b.length_mm / 2
            + np.outer(corners[:, 1], square) * (outside / 4 + more)
        )

    def reach(w: np.ndarray, toe: float) -> float:
        return float(
            np.array(pad.arm_at) @ w + abs(w @ flat) * b.length_mm / 2 + abs(w @ square) * (outside / 4 + toe)
        )

    check_pad(job, key, hand, found, foot, reach)
    check_bush(job, key, hand, found, 800.0, 580.0)
    factor = np.array([1.5 if k == "rare" else 2.5 for k in hand.kinds])[:, None]
    force = hand.forces[key] * factor
    root = centre + axes.T @ np.array([*pad.arm_at, pad.plate_mm])
    across = np.cross(axes[2], along)
    own = np.array([along, across, axes[2]])
    f = force @ own.T
    m = np.cross(np.array(b.centre) - root, force) @ own.T
    h, s = b.length_mm, outside / 2
    # two lines: A = 2 h; I along = h s^2 / 2; I across = h^3 / 6
    worst = np.zeros(len(force))
    for x in (-h / 2, h / 2):
        for y in (-s / 2, s / 2):
            normal = f[:, 2] / (2 * h) + m[:, 0] * y / (h * s**2 / 2) - m[:, 1] * x / (h**3 / 6)
            polar = h * s**2 / 2 + h**3 / 6
            fx, fy = f[:, 0] / (2 * h) - m[:, 2] * y / polar, f[:, 1] / (2 * h) + m[:, 2] * x / polar
            worst = np.maximum(worst, np.sqrt(normal**2 + fx**2 + fy**2))
    throat = min(mount.eye_weld_throat_mm, b.eye_wall_mm, pad.plate_mm)
    checked(found[key, "eye-weld"], worst / (360 / (math.sqrt(3) * 0.8 * 1.25) * throat), hand)
    cap = 0.7 * 5 * 235 * b.eye_wall_mm**2 * (1 + 0.25 * h / outside)
    checked(found[key, "eye-wall"], (np.abs(f[:, 2]) + 2 * np.abs(m[:, 0]) / s) / cap, hand)


def tube(h: float, w: float, t: float) -> dict[str, float]:
    """A cold-formed tube, corners 2 t outside and t inside: second moments by integration, torsion by EN
    10219-2 annex B."""

    def width(z: float, b: float, height: float, r: float) -> float:
        over = abs(z) - (height / 2 - r)
        return b if over <= 0 else b - 2 * (r - math.sqrt(max(r * r - over * over, 0.0)))

    def moments(b: float, height: float, r: float) -> tuple[float, float]:
        area = 2 * quad(lambda z: width(z, b, height, r), 0, height / 2, points=[height / 2 - r])[0]
        return (
            area,
            2 * quad(lambda z: z * z * width(z, b, height, r), 0, height / 2, points=[height / 2 - r])[0],
        )

    (ao, lo), (ai, li) = moments(w, h, 2 * t), moments(w - 2 * t, h - 2 * t, t)
    (_, so), (_, si) = moments(h, w, 2 * t), moments(h - 2 * t, w - 2 * t, t)
    rc = 1.5 * t
    line = 2 * (h - t + w - t) - 2 * rc * (4 - math.pi)
    held = (h - t) * (w - t) - rc * rc * (4 - math.pi)
    k = 2 * held * t / line
    it = t**3 * line / 3 + 2 * k * held
    return {"A": ao - ai, "lying": lo - li, "standing": so - si, "It": it, "Ct": it / (t + k / t)}


def test_the_crossmember(job: Job, hand: Hand, found: dict[tuple[str, str], Finding]) -> None:
    """Its frame by an independent library, one load case after another, its section by integration."""
    from Pynite import FEModel3D

    cross = job.crossmember
    assert cross is not None and cross.ends == "hinged"
    at = np.array(next(m for m in job.mounts if m.id == "gearbox").bush.centre)
    h, w, t = cross.section.height_mm, cross.section.width_mm, cross.section.thin_mm
    p = tube(h, w, t)
    points = [np.array(q) for q in cross.points]
    under = points[1] + (points[2] - points[1]) * (at[1] - points[1][1]) / (points[2][1] - points[1][1])
    nodes = [points[0], points[1], under, points[2], points[3]]
    force = -hand.forces["gearbox"]  # what the bush does to the crossmember
    moment = np.cross(at - under, force)
    model = FEModel3D()
    for i, q in enumerate(nodes):
        model.add_node(f"N{i}", q[1], q[2], q[0])  # its X, Y, Z are left, up, forward
    model.add_material("steel", 210e3, 81e3, 0.3, 0.0)
    model.add_section("tube", p["A"], p["standing"], p["lying"], p["It"])
    for i in range(4):
        model.add_member(f"M{i}", f"N{i}", f"N{i + 1}", "steel", "tube")
    model.def_support("N0", True, True, True, True, False, False)
    model.def_support("N4", False, True, True, True, False, False)
    model.def_support_spring("N4", "DX", cross.rail_n_per_mm)
    for k in range(len(force)):
        for name, value in zip(
            ("FX", "FY", "FZ", "MX", "MY", "MZ"), (*force[k][[1, 2, 0]], *moment[k][[1, 2, 0]]), strict=True
        ):
            model.add_node_load("N2", name, float(value), case=f"{k}")
        model.add_load_combo(f"{k}", {f"{k}": 1.0})
    model.analyze_linear(check_stability=False)
    uses, sags = np.zeros(len(force)), np.zeros(len(force))
    for k, kind in enumerate(hand.kinds):
        c = f"{k}"
        worst = 0.0
        for i in range(4):
            member = model.members[f"M{i}"]
            for x in (0.0, member.L()):
                sigma = (
                    abs(member.axial(x, c)) / p["A"] + abs(member.moment("My", x, c)) * w / 2 / p["standing"]
                )
                sigma += abs(member.moment("Mz", x, c)) * h / 2 / p["lying"]
                tau = abs(member.torque(x, c)) / p["Ct"] + abs(member.shear("Fy", x, c)) / (
                    2 * t * (h - 2 * t)
                )
                tau += abs(member.shear("Fz", x, c)) / (2 * t * (w - 2 * t))
                worst = max(worst, math.sqrt(sigma**2 + 3 * tau**2))
        uses[k] = worst * (1.5 if kind == "rare" else 2.5) / YIELD[cross.steel]
        sags[k] = abs(model.nodes["N2"].DY[c]) / cross.most_sag_mm if kind != "rare" else 0.0
    checked(found["crossmember", "crossmember-stress"], uses, hand)
    assert found["crossmember", "crossmember-sag"].use == pytest.approx(float(sags.max()), rel=1e-6)
