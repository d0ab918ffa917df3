"""One mount by itself: what is drawn of it, its lengths, and the buttons."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
import trimesh
from nimble_cradle.bay.position import pose_of
from nimble_cradle.desk.stages.mounts.sheet import MountsSheet
from nimble_cradle.desk.window import Desk
from nimble_cradle.families.arm_run import arm_run
from nimble_cradle.families.plate import mount_plate
from nimble_cradle.geometry.pose import unit
from nimble_cradle.job.edits import with_value
from nimble_cradle.job.job import Job
from nimble_cradle.made.alone import lengths_alone, shown_alone

from pressing import click

ASKEW = (0.12, 0.0, 0.05)


def askew(job: Job) -> Job:
    """The truck with its left bush moved and its bolt turned."""
    mount = job.mounts[0]
    axis = unit(np.array(mount.bush.axis, dtype=float) + ASKEW)
    job = with_value(job, "mounts/left/bush/axis", tuple(float(c) for c in axis))
    return with_value(job, "mounts/left/bush/centre", tuple(a + 6.0 for a in mount.bush.centre))


def test_the_plate_has_its_holes(demo: Job) -> None:
    """The drawn plate is closed and has the volume of its outline less its holes, by an independent mesh
    library."""
    job = askew(demo)
    mount = job.mounts[0]
    plate = next(s for s in shown_alone(job, mount, False) if s.id == "plate")
    v, t = plate.solids[0].triangles
    mesh = trimesh.Trimesh(v, t, process=False)
    mesh.merge_vertices(digits_vertex=6)
    flat = mount_plate(mount, pose_of(job.position))
    assert mesh.is_watertight and mesh.is_winding_consistent
    assert abs(mesh.volume) == pytest.approx(flat.area * mount.pad.plate_mm, rel=5e-3)  # rounds of 32 sides


def test_its_lengths_are_what_a_tape_reads(demo: Job) -> None:
    """Arm from plate to eye, eye from end to end, bolt to the face of its rail; by plain vectors."""
    job = askew(demo)
    mount, run = job.mounts[0], arm_run(job.mounts[0], pose_of(job.position))
    told = {length.what: length for length in lengths_alone(job, mount)}
    axis = unit(mount.bush.axis)
    off = told["arm"].b - np.array(mount.bush.centre)
    assert np.linalg.norm(off) == pytest.approx(run.eye_radius, abs=0.01)
    assert told["arm"].mm == pytest.approx(np.linalg.norm(run.aim - run.root) - run.eye_radius)
    assert abs((told["eye"].b - told["eye"].a) @ axis) == pytest.approx(told["eye"].mm)
    rail = next(i for i in job.items if i.id == "rail-left")
    named = next(length for what, length in told.items() if "off" in what)
    assert rail.name in named.what and 20 < named.mm < 400


def test_taken_apart_nothing_lies_in_anything_and_nothing_is_lost(demo: Job) -> None:
    job = askew(demo)
    whole, apart = (shown_alone(job, job.mounts[0], how) for how in (False, True))
    assert {s.id for s in whole} - {s.id for s in apart} == {"welds"}
    spans = []
    way = unit(arm_run(job.mounts[0], pose_of(job.position)).way)
    for row in apart:
        before = next(s for s in whole if s.id == row.id)
        points = [np.vstack([solid.triangles[0] for solid in r.solids]) for r in (before, row)]
        step = points[1] - points[0]
        assert np.allclose(step, step[0])  # moved as a whole
        if row.id in ("block", "plate", "arm", "eye", "cheeks", "rail"):
            reach = points[1] @ way
            spans.append((float(reach.min()), float(reach.max()), row.id))
    spans.sort()
    for (_, high, one), (low, _, other) in zip(spans, spans[1:], strict=False):
        assert low > high - 60, (one, other)  # the eye reaches into its cheeks, at most so far
    order = [name for _, _, name in spans]
    assert order in (
        ["block", "plate", "arm", "eye", "cheeks", "rail"],
        ["rail", "cheeks", "eye", "arm", "plate", "block"],
    )


def test_in_the_window(desk: Desk, qtbot: Any) -> None:
    desk.go("mounts")
    sheet = desk.sheets["mounts"]
    assert isinstance(sheet, MountsSheet)
    click(desk, "By itself")
    kinds = {key[0] for key in desk.view.bodies}
    assert kinds == {"alone"}
    qtbot.waitUntil(lambda: len(desk.view.layer.lengths) == 3, timeout=3000)
    assert not desk.view.layer.tags
    sheet.choose("right")
    assert all(key[1].startswith("right/") for key in desk.view.bodies)
    click(desk, "Taken apart")
    qtbot.waitUntil(lambda: not desk.view.layer.lengths, timeout=3000)
    desk.go("bay")
    assert {"item", "piece"} <= {key[0] for key in desk.view.bodies}
    desk.go("mounts")
    click(desk, "In the car")
    assert "piece" in {key[0] for key in desk.view.bodies}
