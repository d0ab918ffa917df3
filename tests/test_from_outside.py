"""Parts laid on the model as the one who makes them sees them: an eye of the test's own looks at the 3-D
part, and what it sees is compared with the drawing. Everything is odd on purpose: no pattern, pose or
direction is symmetric.
"""

from __future__ import annotations

import math

import numpy as np
import pytest
from nimble_cradle.bay.position import pose_of
from nimble_cradle.families.arm_cut import ArmCut, arm_cut
from nimble_cradle.families.plate import bolt_places
from nimble_cradle.job.base import JobError
from nimble_cradle.job.edits import with_value
from nimble_cradle.job.job import Job
from nimble_cradle.job.mounts import Mount
from nimble_cradle.job.pattern import Adapter, Hole, HoleReading, Pattern
from nimble_cradle.job.shapes import Prism
from nimble_cradle.job.survey import Survey
from nimble_cradle.made.mount import mount_parts
from nimble_cradle.shop.arm_templates import cope_drawing, eye_drawing, foot_drawing
from nimble_cradle.shop.page import Circle, Path, Text
from nimble_cradle.shop.patterns import adapter_drawing
from nimble_cradle.shop.plate_template import plate_drawing
from nimble_cradle.survey.hole_sources import with_pattern_on
from nimble_cradle.survey.shapes import solid
from shapely.geometry import Polygon

from narrowed import tube

ODD = ((-51.0, 33.0), (40.0, 21.0), (18.0, -37.0))


def seen(points: np.ndarray, looking: np.ndarray, up: np.ndarray) -> np.ndarray:
    """What an eye that looks along ``looking`` with its head towards ``up`` sees of points (n, 3): right and
    up, (n, 2).

    The right hand is where one's right hand is: facing north (y) with the head up (z) it is east (x).
    """
    ahead = looking / np.linalg.norm(looking)
    head = up - (up @ ahead) * ahead
    head = head / np.linalg.norm(head)
    right = np.cross(ahead, head)
    return np.column_stack([points @ right, points @ head])


def test_the_eye_itself() -> None:
    """Sitting in the car and looking forward, the right-hand side (y below nought) is on the right; from
    in front of it, looking back, it is on the left; from above with the front up, on the right."""
    p = np.array([[0.0, -1.0, 2.0]])
    assert seen(p, np.array([1.0, 0, 0]), np.array([0, 0, 1.0])) == pytest.approx(np.array([[1, 2]]))
    assert seen(p, np.array([-1.0, 0, 0]), np.array([0, 0, 1.0])) == pytest.approx(np.array([[-1, 2]]))
    assert seen(p, np.array([0, 0, -1.0]), np.array([1.0, 0, 0])) == pytest.approx(np.array([[1, 0]]))


def odd_job(demo: Job, seed: int) -> Job:
    """The truck turned every way, with odd holes, arms off their middle, and turned pads."""
    rng = np.random.default_rng(seed)
    for name in ("roll_deg", "pitch_deg", "yaw_deg"):
        demo = with_value(demo, f"position/{name}", float(rng.uniform(-9, 9)))
    for mount in demo.mounts:
        n = rng.normal(0, 0.25, 3) + np.asarray(mount.pad.normal)
        up = rng.normal(0, 0.4, 3) + np.asarray(mount.pad.up)
        holes = tuple((x + float(rng.uniform(-7, 7)), y + float(rng.uniform(-7, 7))) for x, y in ODD)
        base = f"mounts/{mount.id}"
        demo = with_value(demo, f"{base}/pad/normal", tuple(n.tolist()))
        demo = with_value(demo, f"{base}/pad/up", tuple(up.tolist()))
        demo = with_value(demo, f"{base}/pad/holes", holes)
        demo = with_value(demo, f"{base}/pad/arm_at", (float(rng.uniform(3, 9)), float(rng.uniform(-8, -3))))
        if mount.arm is not None:
            demo = with_value(demo, f"{base}/arm/offset_mm", float(rng.uniform(-9, 9)))
            demo = with_value(
                demo, f"{base}/bush/axis", tuple((np.array([1.0, 0, 0]) + rng.normal(0, 0.2, 3)).tolist())
            )
    return demo


@pytest.mark.parametrize("seed", range(8))
def test_a_plate_laid_on_the_engine(demo: Job, seed: int) -> None:
    """The printed plate against the 3-D plate and the 3-D bolts, as one sees them who stands at the mount."""
    job = odd_job(demo, seed)
    pose = pose_of(job.position)
    for mount in job.mounts:
        try:
            solids = [s for part in mount_parts(mount, pose) if part.moves for s in part.solids]
        except JobError:
            continue
        drawing = plate_drawing(mount, job)
        outward = pose.vectors(np.asarray(mount.pad.normal))
        up = pose.vectors(np.asarray(mount.pad.up))
        middle = pose.points(np.asarray(mount.pad.centre))
        corners = seen(pose.points(solids[0].triangles[0]) - middle, -outward, up)
        outline = next(m for m in drawing.marks if isinstance(m, Path) and m.closed and m.layer == "CUT")
        made, drawn = Polygon(corners).convex_hull, Polygon(outline.points)
        assert made.symmetric_difference(drawn).area < 0.01 * drawn.area
        assert (
            made.symmetric_difference(Polygon([(-x, y) for x, y in outline.points])).area > 0.05 * drawn.area
        )
        circles = np.array([m.centre for m in drawing.marks if isinstance(m, Circle) and m.layer == "CUT"])
        heads = bolt_places(mount, pose)
        assert seen(heads - middle, -outward, up) == pytest.approx(circles, abs=1e-6)


def test_a_measured_pattern_stands_on_the_block_as_it_was_measured(demo: Job) -> None:
    """Holes taken facing the block, put on the right mount's plate: its bolts, seen by one who faces the
    block there."""
    at = np.array([(0.0, 0.0), (70.0, 6.0), (61.0, 48.0), (9.0, 33.0)])
    readings = [
        HoleReading(id=f"{k}{kind}", kind=kind, hole=f"h{k}", value=float(v), plus_minus=0.01)
        for k, p in enumerate(at)
        for kind, v in zip(("across", "up"), p, strict=True)
    ]
    pattern = Pattern(
        id="p", name="P", holes=tuple(Hole(id=f"h{k}") for k in range(4)), readings=tuple(readings)
    )
    mount = demo.mounts[1]
    job = with_pattern_on(demo, pattern, mount)
    pose = pose_of(job.position)
    heads = bolt_places(job.mounts[1], pose)
    there = seen(heads, -pose.vectors(np.asarray(mount.pad.normal)), pose.vectors(np.array([0, 0, 1.0])))
    assert there - there[0] == pytest.approx(at - at[0], abs=0.02)


def test_a_prism_is_what_one_sees_who_faces_it() -> None:
    outline = ((0.0, 0.0), (60.0, 5.0), (20.0, 40.0))
    shape = Prism(origin=(5, 6, 7), along=(0.2, -1.0, 0.3), up=(0.1, 0.2, 1.0), outline=outline, length=90)
    corners = np.vstack([p.triangles[0] for p in solid((shape,), ())]) - (5, 6, 7)
    looking, up = -np.asarray(shape.along), np.asarray(shape.up)
    made = Polygon(seen(corners, looking, up)).convex_hull
    assert made.symmetric_difference(Polygon(outline)).area < 1e-6


def test_the_adapter_joins_two_faces_that_look_at_one_another(demo: Job) -> None:
    """Bolts put into the engine's rear face and the gearbox's front face as they were measured on each;
    the adapter's sheet is what one sees who stands behind the engine."""

    def measured(key: str, at: list[tuple[float, float]]) -> Pattern:
        rows = [
            HoleReading(id=f"{k}{kind}", kind=kind, hole=f"h{k}", value=v, plus_minus=0.01)
            for k, p in enumerate(at)
            for kind, v in zip(("across", "up"), p, strict=True)
        ]
        holes = tuple(Hole(id=f"h{k}", dowel=k == 0) for k in range(len(at)))
        return Pattern(id=key, name=key, holes=holes, readings=tuple(rows))

    on_engine = [(150.0, 20.0), (-90.0, 120.0), (-60.0, -130.0), (80.0, -110.0)]
    on_gearbox = [(160.0, 70.0), (30.0, 155.0), (-150.0, -40.0)]
    adapter = Adapter(engine="e", gearbox="g", shaft_mm=190, opening_mm=92.0, material="steel")
    survey = Survey(patterns=(measured("e", on_engine), measured("g", on_gearbox)), adapter=adapter)
    job = with_value(with_value(demo, "items", ()), "survey", survey)
    drawing = adapter_drawing(job)
    assert drawing is not None
    # the car's frame: standing behind the engine the right hand is -y; standing before the gearbox it is +y
    bolts = [(0.0, -x, z) for x, z in on_engine] + [(0.0, x, z) for x, z in on_gearbox]
    there = seen(np.array(bolts), np.array([1.0, 0, 0]), np.array([0, 0, 1.0]))
    circles = [m for m in drawing.marks if isinstance(m, Circle) and m.layer == "CUT"]
    opening = [c for c in circles if c.centre == (0.0, 0.0)]
    assert [c.radius for c in opening] == [46.0]
    assert np.array([c.centre for c in circles if c not in opening]) == pytest.approx(there, abs=0.02)
    said = " ".join(drawing.notes)
    assert (
        "Seen from the gearbox's side" in said
        and "steel" in said
        and "dowel, ream" in said
        and "92.0 mm" in said
    )
    assert any(t.text == "G1 dowel" for t in drawing.marks if isinstance(t, Text))


def on_tube(cut: ArmCut, foot: bool, radius: float, k: int) -> tuple[np.ndarray, np.ndarray]:
    """A cut-edge point of a printed wrap laid round the tube: paper outside, cut edge towards the tube's
    own end, its left edge on the line that faces ``zero``. Gives the way it faces and the way along the
    tube to its end."""
    run = cut.run
    wrap = cut.mitre if foot else cut.cope
    end = -run.way if foot else run.way
    around = wrap[k, 0] / radius
    # who faces the paper with the tube's end up has its left edge before him; the paper runs to his right
    hand = seen_right(-cut.zero, end)
    return cut.zero * math.cos(around) + hand * math.sin(around), end


def seen_right(looking: np.ndarray, up: np.ndarray) -> np.ndarray:
    """The right hand of an eye, from where its own test puts it."""
    return np.array([seen(e[None], looking, up)[0, 0] for e in np.eye(3)])


@pytest.mark.parametrize("seed", range(8))
def test_an_arms_wraps_laid_round_its_tube(demo: Job, seed: int) -> None:
    """Every line of both wraps, followed along the tube of the drawn arm: the deepest wall touches the eye
    or the plate, none runs into it, and the ways printed at the quarters are the ways they face."""
    job = odd_job(demo, seed)
    for mount in job.mounts:
        if mount.arm is None:
            continue
        try:
            cut = arm_cut(mount, pose_of(job.position))
        except JobError:
            continue
        arm, run, axis = (
            tube(mount.arm),
            cut.run,
            np.asarray(mount.bush.axis) / np.linalg.norm(mount.bush.axis),
        )
        radius, centre, normal = arm.outside_mm / 2, np.asarray(mount.bush.centre), run.axes[:, 2]
        walls = (radius, radius - arm.wall_mm / 2, radius - arm.wall_mm)
        for k in range(0, 360, 24):
            way, _ = on_tube(cut, False, radius, k)
            tip = run.aim - cut.cope[k, 1] * run.way
            off = [tip + r * way - centre for r in walls]
            away = [float(np.linalg.norm(p - (p @ axis) * axis)) - run.eye_radius for p in off]
            assert min(away) == pytest.approx(0, abs=1e-6)
            way, _ = on_tube(cut, True, radius, k)
            foot = run.root + cut.mitre[k, 1] * run.way
            over = [float((foot + r * way - run.root) @ normal) for r in (walls[0], walls[2])]
            assert min(over) == pytest.approx(0, abs=1e-6)
        for drawing, foot in zip(
            (cope_drawing(mount, job), foot_drawing(mount, job)), (False, True), strict=True
        ):
            words = [t.text for t in drawing.marks if isinstance(t, Text) and "°" in t.text]
            assert len(words) == 4
            for k, said in enumerate(words):
                way, _ = on_tube(cut, foot, radius, 90 * k)
                for word, axis_of in (("front", (1, 0, 0)), ("left", (0, 1, 0)), ("up", (0, 0, 1))):
                    back = {"front": "rear", "left": "right", "up": "down"}[word]
                    side = float(way @ np.array(axis_of))
                    assert (word in said) == (side > 0.38) and (back in said) == (side < -0.38), (said, way)


def test_station_nought_is_where_the_tube_is_told_to_be_longest(demo: Job) -> None:
    """The eye's axis leaning 35 deg: the long point lies on the side where the corner between tube and eye
    is open."""
    job = with_value(
        demo, "mounts/left/bush/axis", (math.cos(math.radians(35)), math.sin(math.radians(35)), 0.0)
    )
    mount = job.mounts[0]
    cut = arm_cut(mount, pose_of(job.position))
    note = cope_drawing(mount, job).notes[2]
    k = int(cut.cope[:-1, 1].argmin())
    way, _ = on_tube(cut, False, mount.arm.outside_mm / 2, k)  # type: ignore[union-attr]
    axis = np.asarray(mount.bush.axis)
    corner = math.degrees(math.acos(float(axis @ -cut.run.way) * np.sign(axis @ way)))
    assert corner > 90, "from the body of the tube to the eye's axis, on that side"
    assert "long point faces" in note and ("front" in note.split("long point faces")[1]) == (way[0] > 0.38)


def test_an_arm_past_its_eye_ends_on_the_common_normal(demo: Job) -> None:
    """Where two lines come nearest, worked by their own equations."""
    job = with_value(
        with_value(demo, "mounts/left/arm/offset_mm", 11.0), "mounts/left/bush/axis", (0.8, 0.5, -0.2)
    )
    mount: Mount = job.mounts[0]
    run = arm_cut(mount, pose_of(job.position)).run
    a, d = np.asarray(mount.bush.axis), np.asarray(mount.bush.centre) - run.root
    s, t = np.linalg.solve([[run.way @ run.way, -run.way @ a], [run.way @ a, -a @ a]], [d @ run.way, d @ a])
    on_arm, on_axis = run.root + s * run.way, np.asarray(mount.bush.centre) + t * a
    assert on_arm == pytest.approx(run.aim, abs=1e-9) and t == pytest.approx(0, abs=1e-9)
    assert np.linalg.norm(on_arm - on_axis) == pytest.approx(11.0, abs=1e-9)


def test_the_eyes_wrap_laid_round_the_eye(demo: Job) -> None:
    """Every point of the arm's oval on the eye's paper, laid round the eye, lies on the arm's outside."""
    job = odd_job(demo, 5)
    mount = job.mounts[0]
    cut = arm_cut(mount, pose_of(job.position))
    drawing = eye_drawing(mount, job)
    run, arm = cut.run, tube(mount.arm)
    axis = np.asarray(mount.bush.axis) / np.linalg.norm(mount.bush.axis)
    corners = next(m for m in drawing.marks if isinstance(m, Path) and m.layer == "CUT").points
    assert corners[1][0] == pytest.approx(2 * math.pi * run.eye_radius)
    oval = next(m for m in drawing.marks if isinstance(m, Path) and m.closed and m.layer == "MARK")
    words = [t for t in drawing.marks if isinstance(t, Text) and t.height == 2.8]
    first = next(t for t in words if "up" in t.text)
    top = np.array([0, 0, 1.0]) - axis[2] * axis
    top = top / np.linalg.norm(top)
    hand = seen_right(-top, axis)
    for x, y in oval.points:
        around = (x - (first.at[0] - 1)) / run.eye_radius
        p = (
            y * axis
            + run.eye_radius * (math.cos(around) * top + math.sin(around) * hand)
            + np.asarray(mount.bush.centre)
        )
        off = p - run.root
        assert np.linalg.norm(off - (off @ run.way) * run.way) == pytest.approx(arm.outside_mm / 2, abs=1e-6)


def test_swapping_left_and_right_mirrors_the_paper(demo: Job) -> None:
    """The truck in a mirror: every plate's drawing is the other side's, mirrored."""
    mount = demo.mounts[1]
    pad = mount.pad
    mirrored = mount.model_copy(
        update={
            "pad": pad.model_copy(
                update={
                    "centre": (pad.centre[0], -pad.centre[1], pad.centre[2]),
                    "normal": (pad.normal[0], -pad.normal[1], pad.normal[2]),
                    "holes": tuple((-u, v) for u, v in pad.holes),
                }
            ),
            "bush": mount.bush.model_copy(
                update={"centre": (mount.bush.centre[0], -mount.bush.centre[1], mount.bush.centre[2])}
            ),
        }
    )
    there = [
        m.centre for m in plate_drawing(mirrored, demo).marks if isinstance(m, Circle) and m.layer == "CUT"
    ]
    here = [m.centre for m in plate_drawing(mount, demo).marks if isinstance(m, Circle) and m.layer == "CUT"]
    assert np.array(there) * (-1, 1) == pytest.approx(np.array(here))
    pose = pose_of(demo.position)
    a = bolt_places(mount, pose) * (1, -1, 1)
    b = bolt_places(mirrored, pose)
    assert a == pytest.approx(b, abs=1e-9)
