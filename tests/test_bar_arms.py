"""Arms of flat bar and of plate: sections and joints against independent figures, the cuts looked at in
space, whole arms worked by hand on a job that is turned and not symmetric."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from nimble_cradle.bay.position import pose_of
from nimble_cradle.design.arm_kinds import with_arm_kind
from nimble_cradle.families import boxed_arm, flats_arm
from nimble_cradle.families.arm_run import arm_run
from nimble_cradle.families.bar_arm import BarRun
from nimble_cradle.families.family import arm_family
from nimble_cradle.geometry.pose import Array, unit
from nimble_cradle.geometry.solids import ConvexPart, SolidPart
from nimble_cradle.job.base import JobError
from nimble_cradle.job.boxed_arm import BoxedArm
from nimble_cradle.job.edits import with_value
from nimble_cradle.job.flats_arm import FlatsArm
from nimble_cradle.job.job import Job
from nimble_cradle.job.mounts import AnyArm, Mount
from nimble_cradle.judge.carried import carried
from nimble_cradle.judge.verdict import verdict
from nimble_cradle.made.mount import mount_parts
from nimble_cradle.shop.cutlist import cut_list
from nimble_cradle.shop.page import Path
from nimble_cradle.shop.templates import templates
from nimble_cradle.stock.rack import Rack, RackBar
from nimble_cradle.strength.box_arm import Box
from nimble_cradle.strength.eye_plates import eye_plates
from nimble_cradle.strength.flat_pair import FlatPair, flat_pair

FLATS = FlatsArm(tall_mm=65, tall_at_eye_mm=45, thick_mm=6, apart_mm=28, battens=1, weld_throat_mm=4)
BOXED = BoxedArm(tall_mm=58, tall_at_eye_mm=42, wide_mm=44, wall_mm=4, weld_throat_mm=4)
BOTH: list[Any] = [FLATS, BOXED]


def armed(job: Job, arm: AnyArm, bend: tuple[float, float, float] = (0.0, 0.0, 0.0)) -> Job:
    """The truck with such an arm on its left mount, its bush moved so far and its bolt a little askew."""
    mount = job.mounts[0]
    centre = tuple(a + b for a, b in zip(mount.bush.centre, bend, strict=True))
    axis = np.array(mount.bush.axis, dtype=float) + (0.12, 0.0, 0.05)
    job = with_value(job, "mounts/left/bush/centre", centre)
    job = with_value(job, "mounts/left/bush/axis", tuple(float(c) for c in unit(axis)))
    return with_value(job, "mounts/left/arm", arm)


def uses(job: Job, mount: str = "left") -> dict[str, float]:
    return {f.code: f.use for f in verdict(job).findings if f.part == mount}


def corners(solid: SolidPart) -> Array:
    """(n, 3) of a solid, in the frame it is given in."""
    assert isinstance(solid, ConvexPart)
    return solid.pose.points(solid.hull_vertices)


def bar_of(job: Job) -> tuple[Mount, BarRun]:
    mount = job.mounts[0]
    return mount, BarRun.of(mount, arm_run(mount, pose_of(job.position)))


class TestLaws:
    def test_a_pair_tied_at_its_ends_is_no_stronger_than_a_frame_says(self) -> None:
        """PyNite, an independent frame library: both bars fixed at the plate, tied by a stiff eye at the end.
        Along them and over their height the same; across them the frame shares between couple and bars, ours
        counts the whole moment as couple and is at most half over it."""
        from Pynite import FEModel3D

        pair = FlatPair(6.0, 60.0, 30.0, 220.0, 220.0, 235.0)

        def frame_stress(fx: float, fy: float, fz: float) -> float:
            model = FEModel3D()
            model.add_material("steel", 210000, 81000, 0.3, 7.85e-9)
            model.add_section("bar", 360, 60 * 6**3 / 12, 6 * 60**3 / 12, 4000)
            model.add_section("eye", 1e5, 1e9, 1e9, 1e9)
            for name, at, z in (("a", 0, -18), ("b", 0, 18), ("c", 220, -18), ("d", 220, 18), ("e", 220, 0)):
                model.add_node(name, at, 0, z)
            for name in "ab":
                model.def_support(name, *[True] * 6)
            model.add_member("ac", "a", "c", "steel", "bar")
            model.add_member("bd", "b", "d", "steel", "bar")
            model.add_member("ce", "c", "e", "steel", "eye")
            model.add_member("ed", "e", "d", "steel", "eye")
            for way, value in (("FX", fx), ("FY", fy), ("FZ", fz)):
                model.add_node_load("e", way, value)
            model.analyze(check_stability=False)
            worst = 0.0
            for name in ("ac", "bd"):
                m = model.members[name]
                for x in (0.0, 219.9):
                    n, over, side = abs(m.axial(x)), abs(m.moment("Mz", x)), abs(m.moment("My", x))
                    worst = max(worst, n / 360 + over * 30 / 108000 + side * 3 / 1080)
            return worst

        def ours(fx: float, fy: float, fz: float) -> float:
            found = flat_pair(pair, fx, 0.0, fz, fy * 220, fz * 220, 0.0)
            return float(found.stress)

        assert ours(4000, 0, 0) == pytest.approx(frame_stress(4000, 0, 0), rel=1e-3)
        assert ours(0, 3000, 0) == pytest.approx(frame_stress(0, 3000, 0), rel=2e-3)
        frame = frame_stress(0, 0, 2000)
        assert frame < ours(0, 0, 2000) < 1.5 * frame

    def test_a_tall_thin_bar_tips(self) -> None:
        """By hand: 3 x 80, free 300: Iz 180, It 80 27 (1/3 - 0.21 3/80 ..) = 703; Mcr = pi/300 sqrt(210e3
        180 81e3 703) = 4.86e5; yields at 3200 x 235 = 7.52e5; slenderness 1.244, phi 1.670, chi 0.359."""
        pair = FlatPair(3.0, 80.0, 30.0, 300.0, 300.0, 235.0)
        assert pair.tipping() == pytest.approx(0.359, abs=0.002)
        # Euler at 300 free: pi^2 210e3 180/300^2 = 4145 N against 56.4 kN: nearly all of it is lost
        assert pair.buckling() == pytest.approx(4145 / 56400 * 0.86, rel=0.05)
        stout = FlatPair(10.0, 50.0, 30.0, 40.0, 40.0, 235.0)
        assert stout.tipping() > 0.95 and stout.buckling() > 0.95

    def test_a_box_against_a_section_library(self) -> None:
        """sectionproperties, a finite-element section."""
        from sectionproperties.analysis.section import Section
        from sectionproperties.pre.library.steel_sections import rectangular_hollow_section

        shape = rectangular_hollow_section(d=58, b=44, t=4, r_out=0, n_r=1)
        section = Section(shape.create_mesh(mesh_sizes=[2.0]))
        section.calculate_geometric_properties()
        section.calculate_warping_properties()
        box = Box(58, 44, 4)
        ixx, iyy, _ = section.get_ic()
        assert box.area == pytest.approx(section.get_area(), rel=1e-9)
        assert box.second_tall == pytest.approx(ixx, rel=1e-6)
        assert box.second_side == pytest.approx(iyy, rel=1e-6)
        assert 0.94 * section.get_j() < box.torsion < section.get_j()  # Bredt leaves the corners out
        assert box.slenderness(235.0) == pytest.approx(12.5 / 42)
        assert float(Box(100, 60, 1.5).use(10.0, 355.0)) > 1

    def test_an_eye_under_a_plate_by_hand(self) -> None:
        """Eye 80 x 4 of 235 MPa, 60 long, bar 40 x 6 (a short ring: 60 < 80): b 0.5: 0.7 235 16 (4 + 5) =
        23.7 kN, times 1 + 0.25 6/80; moment out of the plane half of 40 mm on it."""
        n, in_plane, out = eye_plates(80, 4, 60, 40, 6, 235)
        assert n == pytest.approx(0.7 * 235 * 16 * 9 * 1.01875)
        assert in_plane == pytest.approx(6 * n) and out == pytest.approx(20 * n)


class TestCuts:
    @pytest.mark.parametrize("arm", BOTH)
    @given(st.tuples(*[st.floats(-14, 14)] * 3))
    @settings(max_examples=12, deadline=None)
    def test_the_flats_meet_plate_and_eye(
        self, demo: Job, arm: AnyArm, bend: tuple[float, float, float]
    ) -> None:
        """Every corner of every flat piece, put in space, lies on the plate's face or on the eye's round, by
        plain distances to both."""
        job = armed(demo, arm, bend)
        mount, bar = bar_of(job)
        thick = 6 if isinstance(arm, FlatsArm) else 4
        half = (28 + thick) / 2 if isinstance(arm, FlatsArm) else (44 - thick) / 2
        axis, centre = unit(mount.bush.axis), np.array(mount.bush.centre)
        family = flats_arm if isinstance(arm, FlatsArm) else boxed_arm
        for (_, flat), s in zip(family.flats(mount, bar.run)[:2], (-half, half), strict=True):
            space = bar.in_space(flat, s)
            at_plate = np.abs((space[:2] - bar.run.root) @ bar.run.axes[:, 2])
            off = space[2:] - centre
            from_axis = np.linalg.norm(off - np.outer(off @ axis, axis), axis=1)
            assert at_plate.max() < 1e-9
            assert np.abs(from_axis - bar.run.eye_radius).max() < 1e-9
            assert np.linalg.norm(space[0] - space[1]) >= 65 - 7.01 - 1e-9  # no lower than the arm is high

    def test_the_solid_holds_the_flats_and_leaves_the_plate(self, demo: Job) -> None:
        job = armed(demo, FLATS, (9.0, -4.0, -11.0))
        mount, bar = bar_of(job)
        pose = pose_of(job.position)
        part = next(p for p in mount_parts(mount, pose) if p.role == "arm")
        for solid, s in zip(part.in_vehicle(pose), flats_arm.sides(mount), strict=True):
            points = bar.in_space(bar.outline(s), s)
            made = corners(solid)
            assert np.ptp(made @ bar.axes[:, 0]) == pytest.approx(6.0)
            assert np.linalg.norm(made[:, None] - points[[0, 1, 2, -1]], axis=2).min(0).max() < 3.01
        assert mount.arm is not None
        for solid in arm_family(mount.arm).beyond_plate(mount, bar.run):
            assert ((corners(solid) - bar.run.root) @ bar.run.axes[:, 2]).min() > 0

    def test_listed_and_drawn(self, demo: Job) -> None:
        job = armed(demo, FLATS)
        row = next(r for r in cut_list(job) if r.part == "Left engine mount: arm")
        assert (row.stock, row.quantity) == ("flat 65 x 6", 2)
        drawing = next(d for d in templates(job)[0] if d.name == "arm-left")
        closed = [m for m in drawing.marks if isinstance(m, Path) and m.closed]
        mount, bar = bar_of(job)
        assert len(closed) == 2
        for mark, s in zip(closed, flats_arm.sides(mount), strict=True):
            drawn = np.asarray(mark.points)
            flat = bar.outline(s)
            assert np.allclose(drawn - drawn[0], flat - flat[0], atol=1e-6)
        boxed = armed(demo, BOXED)
        names = [r.part for r in cut_list(boxed) if "arm" in r.part and r.part.startswith("Left")]
        assert len(names) == 2
        section = armed(demo, BOXED.model_copy(update={"made": "section"}))
        row = next(r for r in cut_list(section) if r.part == "Left engine mount: arm")
        assert "wedge 16 mm" in row.note and row.stock == "section 58 x 44 x 4"

    def test_seen_from_where_the_note_says(self, demo: Job) -> None:
        """The drawing's right is towards the eye and its up the side that the note names, seen from the side
        that the note names: right x up points at the one who looks."""
        job = armed(demo, FLATS, (9.0, -4.0, -11.0))
        _, bar = bar_of(job)
        flat = bar.outline(0.0)
        right = bar.in_space(np.array([[100.0, 0.0]]), 0.0)[0] - bar.run.root
        up = bar.in_space(np.array([[0.0, 100.0]]), 0.0)[0] - bar.run.root
        towards = np.cross(right, up)
        assert towards @ np.array(job.mounts[0].bush.axis) < 0  # the bush's axis points away from one
        assert flat[2:, 0].mean() > flat[:2, 0].mean()


class TestWholeArm:
    @pytest.mark.parametrize("bend", [(0.0, 0.0, 0.0), (9.0, -4.0, -11.0)])
    def test_the_bars_by_hand(self, demo: Job, bend: tuple[float, float, float]) -> None:
        """From the force on the bush alone: each bar a cantilever of its own half, the moment across as a
        pair of forces; at 61 places from the plate, 65 high, to the eye, 45."""
        job = armed(demo, FLATS, bend)
        mount, bar = bar_of(job)
        side, tall, way = (np.asarray(v) for v in bar.axes.T)
        assert abs(side @ way) < 1e-12 and side @ np.array(mount.bush.axis) > 0
        worst, long = 0.0, bar.run.length - bar.run.eye_radius
        for share in np.linspace(0, 1, 61):
            place, high = bar.run.root + share * long * way, 65.0 - 20.0 * share
            for case in carried(job).cases:
                factor = 1.5 if case.case.kind == "rare" else 2.5
                force = factor * next(m.force for m in case.mounts if m.mount == "left")
                moment = np.cross(np.array(mount.bush.centre) - place, force)
                pull = abs(force @ way) / 2 + abs(moment @ tall) / 34
                over = abs(moment @ side) / 2 + abs(moment @ way) / 34 * long / 2
                weak = abs(force @ side) / 2 * (long / 2) / 2
                shear = abs(force @ tall) / 2 + abs(moment @ way) / 34
                sigma = pull / (6 * high) + 6 * over / (6 * high**2) + 6 * weak / (high * 36)
                stress = math.hypot(sigma, math.sqrt(3) * 1.5 * shear / (6 * high))
                pair = FlatPair(6, high, 28, long / 2, long, 235)
                stable = pull / (6 * high) / pair.buckling() + over / (high**2) / pair.tipping()
                worst = max(worst, stress, stable + 6 * weak / (high * 36))
        assert 0.998 * worst < 235 * uses(job)["arm"] <= worst * (1 + 1e-9)

    @pytest.mark.parametrize("made", ["box", "bars"])
    def test_a_taper_is_worst_between_its_ends(self, demo: Job, made: str) -> None:
        """60 high at the plate, 30 at the eye: at 201 places by hand, stress of the section there by plain
        formulas, more in the middle than at both ends; and so much is said."""
        size = {"tall_mm": 60.0, "tall_at_eye_mm": 30.0}
        box = BoxedArm(wide_mm=16, wall_mm=5, **size)
        arm: AnyArm = box if made == "box" else FlatsArm(thick_mm=9, apart_mm=20, battens=3, **size)
        job = with_value(armed(demo, arm), "mounts/left/bush/centre", (-38.0, 312.0, 0.0))
        mount, bar = bar_of(job)
        centre, way, high = np.array(mount.bush.centre), bar.run.way, bar.axes[:, 1]
        side, long = bar.axes[:, 0], bar.run.length - bar.run.eye_radius
        use = []
        for share in np.linspace(0, 1, 201):
            h, worst = 60.0 - 30.0 * share, 0.0
            for case in carried(job).cases:
                factor = 1.5 if case.case.kind == "rare" else 2.5
                force = factor * next(m.force for m in case.mounts if m.mount == "left")
                moment = np.cross(centre - bar.run.root - share * long * way, force)
                n, up, across = (abs(force @ d) for d in (way, high, side))
                over, aside = abs(moment @ side), abs(moment @ high)
                if made == "box":
                    i_high = (16 * h**3 - 6 * (h - 10) ** 3) / 12
                    i_side = (h * 16**3 - (h - 10) * 6**3) / 12
                    s = n / (16 * h - 6 * (h - 10)) + over * h / 2 / i_high + aside * 8 / i_side
                    t = 0.75 * max(up / (h - 10), across / 6) / 5
                else:
                    s = (n / 2 + aside / 29) / (9 * h) + 6 * over / 2 / (9 * h**2)
                    s += 6 * (across / 2 * long / 4 / 2) / (h * 81)
                    t = 1.5 * up / 2 / (9 * h)
                worst = max(worst, math.sqrt(s**2 + 3 * t**2) / 235)
            use.append(worst)
        assert 20 < int(np.argmax(use)) < 180 and max(use) > 1.04 * max(use[0], use[-1])
        assert 0.998 * max(use) < uses(job)["arm"] < 1.05 * max(use)  # tipping may come on top

    def test_the_box_weld_by_hand(self, demo: Job) -> None:
        """The hardest mm of the weld round 44 x 58 at the plate, point by point along its four lines."""
        job = armed(demo, BOXED, (9.0, -4.0, -11.0))
        mount, bar = bar_of(job)
        side, tall, way = bar.axes.T
        s, y = np.meshgrid(np.linspace(-22, 22, 89), np.linspace(-29, 29, 117))
        rim = (np.abs(s) > 21.99) | (np.abs(y) > 28.99)
        s, y = s[rim], y[rim]
        long = 2 * (44 + 58)
        i_side = 2 * 58**3 / 12 + 2 * 44 * 29**2  # about the way along the eye
        i_tall = 2 * 44**3 / 12 + 2 * 58 * 22**2
        worst = 0.0
        for case in carried(job).cases:
            factor = 1.5 if case.case.kind == "rare" else 2.5
            force = factor * next(m.force for m in case.mounts if m.mount == "left")
            m = np.cross(np.array(mount.bush.centre) - bar.run.root, force)
            normal = force @ way / long + m @ side * y / i_side - m @ tall * s / i_tall
            turn = m @ way / (i_side + i_tall)
            flat = np.hypot(force @ side / long - turn * y, force @ tall / long + turn * s)
            worst = max(worst, float(np.hypot(normal, flat).max()))
        capacity = 360 / (math.sqrt(3) * 0.8 * 1.25) * 4
        assert uses(job)["root-weld"] == pytest.approx(worst / capacity, rel=1e-9)

    @pytest.mark.parametrize("arm", BOTH)
    def test_nothing_of_it_goes_unjudged(self, demo: Job, arm: AnyArm) -> None:
        """Every part from block to bush has its finding, and thin ones do not hold."""
        found = verdict(armed(demo, arm))
        chain = next(m for m in found.mounts if m.mount == "left").chain
        assert all(link.finding is not None for link in chain), [x.part for x in chain if x.finding is None]
        assert uses(armed(demo, arm))["arm"] < 1
        thin: AnyArm
        if isinstance(arm, FlatsArm):
            thin = arm.model_copy(update={"thick_mm": 2.0, "battens": 0})
        else:
            thin = arm.model_copy(update={"wall_mm": 1.0, "tall_mm": 30.0, "tall_at_eye_mm": 25.0})
        weak = uses(armed(demo, thin))
        assert weak["arm"] > 1 and weak["root-weld"] > 1
        assert not verdict(armed(demo, thin)).holds

    @pytest.mark.parametrize(
        ("update", "words"),
        [
            ({"apart_mm": 80.0}, "wide at an eye"),
            ({"tall_at_eye_mm": 95.0}, "high at an eye"),
            ({"thick_mm": 0.4, "apart_mm": 1e3}, "wide at an eye"),
        ],
    )
    def test_what_cannot_be_is_said(self, demo: Job, update: dict[str, float], words: str) -> None:
        job = armed(demo, FLATS.model_copy(update=update))
        said = [p.sentence for p in verdict(job).problems if p.place.startswith("mounts/left")]
        assert any(words in sentence for sentence in said), said
        assert not verdict(job).holds

    def test_too_slanting_for_a_bar_is_said(self, demo: Job) -> None:
        job = armed(demo, FLATS, (70.0, 0.0, 0.0))
        with pytest.raises(JobError, match="leaves the plate at"):
            bar_of(job)


class TestKinds:
    @pytest.mark.parametrize("kind", ["flats", "boxed", None, "tube"])
    def test_another_kind_and_back(self, demo: Job, kind: Any) -> None:
        flat, rod = RackBar(shape="flat", width_mm=65, thickness_mm=5), RackBar(shape="round", width_mm=60)
        rack = Rack(bars=(flat, rod))
        job = with_arm_kind(demo, demo.mounts[0], kind, rack)
        arm = job.mounts[0].arm
        assert (arm.kind if arm is not None else None) == kind
        if isinstance(arm, FlatsArm):
            assert arm.thick_mm == 5 and arm.tall_mm <= 65
            assert not any("washer" in p.sentence for p in verdict(job).problems)
        if arm is not None:
            assert "arm" in uses(job)
        back = with_arm_kind(job, job.mounts[0], "tube")
        assert back.mounts[0].arm is not None and back.mounts[0].arm.kind == "tube"
