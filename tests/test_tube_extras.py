"""Scallops and gussets on a tube arm: sections against an independent library, whole arms by hand."""

from __future__ import annotations

import math
from dataclasses import replace
from typing import Any

import numpy as np
import pytest
from nimble_cradle.bay.position import pose_of
from nimble_cradle.calc import CalcError
from nimble_cradle.families.arm_run import arm_run
from nimble_cradle.families.family import arm_family
from nimble_cradle.families.plate import mount_plate
from nimble_cradle.families.tube_extra_checks import extra_checks
from nimble_cradle.families.tube_extras import gusset_solids, gusset_ways
from nimble_cradle.findings.worst import Cases
from nimble_cradle.geometry.pose import unit
from nimble_cradle.job.edits import with_value
from nimble_cradle.job.job import Job
from nimble_cradle.job.tube_arm import TubeArm
from nimble_cradle.judge.carried import carried, mount_cases
from nimble_cradle.judge.verdict import verdict
from nimble_cradle.made.mount import mount_parts
from nimble_cradle.shop.cutlist import cut_list
from nimble_cradle.stock.steels import STEELS
from nimble_cradle.strength.cut_tube import cut_section, cut_tube, gusseted_foot
from shapely import LineString, Point
from shapely.geometry import box
from shapely.ops import unary_union


def meshed(shape: Any) -> Any:
    """A section by sectionproperties, an independent finite-element library."""
    from sectionproperties.analysis.section import Section
    from sectionproperties.pre.geometry import Geometry

    section = Section(Geometry(shape).create_mesh(mesh_sizes=[1.5]))
    section.calculate_geometric_properties()
    section.calculate_warping_properties()
    return section


def extended(job: Job, **fields: Any) -> Job:
    arm = job.mounts[1].arm
    assert arm is not None
    return with_value(job, "mounts/right/arm", TubeArm(**{"outside_mm": 50, "wall_mm": 4} | fields))


def uses(job: Job) -> dict[str, float]:
    return {f.code: f.use for f in verdict(job).findings if f.part == "right"}


class TestScallop:
    @pytest.mark.parametrize(("deep", "cover"), [(5.0, 3.0), (12.0, 4.0), (16.0, 3.0)])
    def test_its_section_against_a_library(self, deep: float, cover: float) -> None:
        """Tube 45 x 3 cut off flat, its strip on the cut: area, both second moments, torsion."""
        flat = 45 / 2 - deep
        ring = Point(0, 0).buffer(22.5, quad_segs=64) - Point(0, 0).buffer(19.5, quad_segs=64)
        below = ring & box(-40, -40, 40, flat)
        half = math.sqrt(22.5**2 - flat**2)
        strip = box(-half, flat, half, flat + cover)
        section = meshed(unary_union([below, strip]))
        ours, inside = cut_section(45.0, 3.0, deep, cover)
        ixx, iyy, _ = section.get_ic()
        assert ours.area == pytest.approx(section.get_area(), rel=0.06)
        assert ours.i_y == pytest.approx(ixx, rel=0.08) and ours.i_z == pytest.approx(iyy, rel=0.08)
        assert ours.torsion == pytest.approx(section.get_j(), rel=0.12)
        assert ours.torsion == pytest.approx(4 * inside**2 / (2 * math.pi * 21 / 3), rel=0.25)

    def test_deeper_is_weaker_and_too_deep_is_none(self) -> None:
        stress = [cut_tube(45, 3, deep, 3, 2000, 4e5, 1e5, 3000, 235)[1] for deep in (0.5, 6, 12, 18)]
        assert stress == sorted(stress)
        with pytest.raises(CalcError, match="cannot be cut"):
            cut_tube(45, 3, 40, 3, 0, 4e5, 0, 0, 235)

    def test_by_hand_in_the_car(self, demo: Job) -> None:
        """The force on the bush about the scallop's end at the plate."""
        job = extended(demo, scallop_deep_mm=8.0, scallop_long_mm=20.0, scallop_at=0.6, cover_mm=3.0)
        mount, run = job.mounts[1], arm_run(job.mounts[1], pose_of(job.position))
        place = run.root + (0.6 * (run.length - run.eye_radius) - 10.0) * run.way
        section, inside = cut_section(50.0, 4.0, 8.0, 3.0)
        off = abs(section.centroid[1])
        worst = 0.0
        for case in carried(job).cases:
            force = (1.5 if case.case.kind == "rare" else 2.5) * next(
                m.force for m in case.mounts if m.mount == "right"
            )
            moment = np.cross(np.array(mount.bush.centre) - place, force)
            n, t = force @ run.way, moment @ run.way
            bend, shear = np.linalg.norm(moment - t * run.way), np.linalg.norm(force - n * run.way)
            sigma = abs(n) / section.area + (bend + abs(n) * off) * (25 + off) / min(section.i_y, section.i_z)
            tau = abs(t) / (2 * inside * 3) + 2 * shear / section.area
            worst = max(worst, math.hypot(sigma, math.sqrt(3) * tau))
        assert uses(job)["scallop"] == pytest.approx(worst / 235, rel=1e-6)

    def test_its_worse_end_may_be_the_far_one(self, demo: Job) -> None:
        """An arm that passes its eye by 20 mm, and a force from the bush straight through the scallop's near
        end: no bending there, all of it at the far end; by the moment there."""
        cut = {"scallop_deep_mm": 8.0, "scallop_long_mm": 20.0, "scallop_at": 0.6}
        job = extended(demo, offset_mm=20.0, **cut)
        mount, run = job.mounts[1], arm_run(job.mounts[1], pose_of(job.position))
        assert isinstance(mount.arm, TubeArm)
        near, far = (
            run.root + (0.6 * (run.length - run.eye_radius) + end) * run.way for end in (-10.0, 10.0)
        )
        force = 20_000.0 * unit(np.array(mount.bush.centre) - near)
        rows = Cases.of(mount_cases(carried(job), mount), job.allowables)
        loads = replace(rows, forces=np.tile(force, (len(rows.forces), 1)))
        found = next(f for f in extra_checks(mount, run, mount.arm, loads) if f.code == "scallop")
        section, _ = cut_section(50.0, 4.0, 8.0, 3.0)
        off, n = abs(section.centroid[1]), force @ run.way
        moment = np.cross(np.array(mount.bush.centre) - far, force)
        bend, shear = np.linalg.norm(moment), np.linalg.norm(force - n * run.way)
        assert bend > 60_000 and abs(moment @ run.way) < 0.02 * bend
        sigma = abs(n) / section.area
        sigma += (bend + abs(n) * off) * (25 + off) / min(section.i_y, section.i_z)
        assert found.use == pytest.approx(
            math.hypot(sigma, 2 * math.sqrt(3) * shear / section.area) / 235, rel=1e-3
        )

    def test_it_gives_room_on_its_side_alone(self, demo: Job) -> None:
        plain = extended(demo)
        cut = extended(demo, scallop_deep_mm=8.0, scallop_long_mm=20.0, scallop_way=(0.3, 0.0, -1.0))
        pose = pose_of(demo.position)
        run = arm_run(cut.mounts[1], pose)
        way = np.array([0.3, 0.0, -1.0]) - (np.array([0.3, 0.0, -1.0]) @ run.way) * run.way
        way /= np.linalg.norm(way)
        middle = run.root + 0.5 * (run.length - run.eye_radius) * run.way

        def reach(job: Job, side: np.ndarray) -> float:
            """How far the arm reaches in its middle on a side."""
            solids = arm_family(job.mounts[1].arm).beyond_plate(job.mounts[1], run)  # type: ignore[arg-type]
            here = []
            for solid in solids:
                v, _ = solid.triangles
                if (v @ run.way).min() < middle @ run.way < (v @ run.way).max():
                    here.append(float(((v - middle) @ side).max()))
            return max(here)

        assert reach(plain, way) == pytest.approx(25, abs=0.1)
        assert reach(cut, way) == pytest.approx(17, abs=0.1)
        assert reach(cut, -way) == pytest.approx(25, abs=0.1)
        row = next(r for r in cut_list(cut) if r.part == "Right engine mount: cover strip of its arm")
        assert row.size == "20 x 37"  # chord of 8 deep in 50: 2 sqrt(8 42) = 36.7

    @pytest.mark.parametrize(
        ("fields", "words"),
        [({"scallop_long_mm": 500.0}, "past the end"), ({"scallop_way": (0.0, 1.0, 0.0)}, "runs along")],
    )
    def test_what_cannot_be_is_said(self, demo: Job, fields: dict[str, Any], words: str) -> None:
        job = extended(demo, **({"scallop_deep_mm": 8.0, "scallop_long_mm": 20.0} | fields))
        run = arm_run(job.mounts[1], pose_of(job.position))
        if words == "runs along":
            job = with_value(job, "mounts/right/arm/scallop_way", tuple(float(c) for c in run.way))
        said = [p.sentence for p in verdict(job).problems]
        assert any(words in s for s in said), said


class TestGussets:
    @pytest.mark.parametrize("count", [1, 2, 4])
    def test_the_foot_against_a_library(self, count: int) -> None:
        """Tube 45 x 3 with plates 25 x 4 standing out: greatest stress by both bendings and pull."""
        ring = Point(0, 0).buffer(22.5, quad_segs=64) - Point(0, 0).buffer(19.5, quad_segs=64)
        up, side = box(-2, 22.0, 2, 47.5), box(22.0, -2, 47.5, 2)
        down, left = box(-2, -47.5, 2, -22.0), box(-47.5, -2, -22.0, 2)
        plates = {1: [up], 2: [up, down], 4: [up, side, down, left]}[count]
        section = meshed(unary_union([ring, *plates]))
        n, m_in, m_out = 4000.0, 6e5, 2e5
        worst = 0.0
        for signs in ((1, 1), (1, -1), (-1, 1), (-1, -1)):
            found = section.calculate_stress(n=n, mxx=signs[0] * m_in, myy=signs[1] * m_out)
            worst = max(worst, float(np.abs(found.get_stress()[0]["sig_zz"]).max()))
        ours = gusseted_foot(45, 3, count, 25, 4, n, m_in, m_out, 0, 0, 235)[1]
        assert 0.97 * worst < ours < 1.2 * worst

    def test_they_stand_on_plate_and_tube_and_widen_the_plate(self, demo: Job) -> None:
        job = extended(demo, gussets=4, gusset_out_mm=26.0, gusset_along_mm=24.0)
        mount, pose = job.mounts[1], pose_of(job.position)
        run = arm_run(mount, pose)
        arm = mount.arm
        assert isinstance(arm, TubeArm)
        ways = gusset_ways(run, 4)
        assert ways[0][2] < -0.7 and all(abs(w @ run.way) < 1e-9 for w in ways)
        for solid, way in zip(gusset_solids(run, arm), ways, strict=True):
            v, _ = solid.triangles
            high = (v - run.root) @ run.axes[:, 2]
            assert high.min() == pytest.approx(0, abs=1.5) and (v - run.root).max() < 90
            from_axis = np.linalg.norm((v - run.root) - np.outer((v - run.root) @ run.way, run.way), axis=1)
            assert from_axis.min() == pytest.approx(25, abs=1.0)
            assert ((v - run.root) @ way).min() > 20
        before, after = mount_plate(extended(demo).mounts[1], pose), mount_plate(mount, pose)
        assert after.area > before.area
        assert {p.role for p in mount_parts(mount, pose)} >= {"arm", "gussets"}
        row = next(r for r in cut_list(job) if r.part == "Right engine mount: gussets")
        assert row.quantity == 4

    def test_they_take_load_off_the_weld_and_thin_ones_buckle(self, demo: Job) -> None:
        plain, four = uses(extended(demo)), uses(extended(demo, gussets=4, gusset_along_mm=24.0))
        assert four["root-weld"] < 0.8 * plain["root-weld"] and four["arm"] < plain["arm"]
        assert four["gusset-foot"] < 1 and four["gusset"] < 1
        thin = uses(extended(demo, gussets=4, gusset_mm=1.5, gusset_out_mm=40.0))
        assert thin["gusset"] == pytest.approx(40 / (14 * 1.5 * math.sqrt(235 / 235))) and thin["gusset"] > 1

    @pytest.mark.parametrize("count", [2, 4])
    def test_the_weld_by_hand(self, demo: Job, count: int) -> None:
        """Circle of 25 and radial plates 4 thick, both sides from 25 to 50, at the plate."""
        job = extended(demo, gussets=count, gusset_out_mm=25.0, gusset_along_mm=24.0, weld_throat_mm=3.0)
        mount, run = job.mounts[1], arm_run(job.mounts[1], pose_of(job.position))
        first, side = gusset_ways(run, 4)[:2]
        a = np.linspace(0, 2 * np.pi, 36, endpoint=False)
        rows = [
            (25 * np.cos(a[k]), 25 * np.sin(a[k]), 25 * np.cos(a[k - 1]), 25 * np.sin(a[k - 1]))
            for k in range(36)
        ]
        for turn in range(0, 4, 4 // count):
            c, s = math.cos(turn * math.pi / 2), math.sin(turn * math.pi / 2)
            for y in (-2.0, 2.0):
                rows.append((25 * c - y * s, 25 * s + y * c, 50 * c - y * s, 50 * s + y * c))
        pieces = [LineString([r[:2], r[2:]]) for r in rows]
        long = sum(p.length for p in pieces)
        dense = np.array([p.interpolate(d).coords[0] for p in pieces for d in np.linspace(0, p.length, 400)])
        weight = np.concatenate([np.full(400, p.length / 400) for p in pieces])
        i_u, i_v = float(weight @ dense[:, 1] ** 2), float(weight @ dense[:, 0] ** 2)
        ends = np.array([p for r in rows for p in (r[:2], r[2:])])
        worst = 0.0
        for case in carried(job).cases:
            force = (1.5 if case.case.kind == "rare" else 2.5) * next(
                m.force for m in case.mounts if m.mount == "right"
            )
            m = np.cross(np.array(mount.bush.centre) - run.root, force)
            fu, fv, fn = force @ first, force @ side, force @ run.way
            mu, mv, mn = m @ first, m @ side, m @ run.way
            normal = fn / long + mu * ends[:, 1] / i_u - mv * ends[:, 0] / i_v
            flat = np.hypot(
                fu / long - mn * ends[:, 1] / (i_u + i_v), fv / long + mn * ends[:, 0] / (i_u + i_v)
            )
            worst = max(worst, float(np.hypot(normal, flat).max()))
        weaker = STEELS["E235"]  # of the tube; the plate is S235
        capacity = weaker.tensile / (math.sqrt(3) * weaker.weld_beta * 1.25) * 3.0
        assert uses(job)["root-weld"] == pytest.approx(worst / capacity, rel=0.01)
