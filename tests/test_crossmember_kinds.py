"""A crossmember of flat bar or folded from sheet: its figures against an independent section mesh and beam
elements of torsion, its flat pattern folded again, its welds as they lie in the car, what is open, the
window."""

from __future__ import annotations

import json
import math
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from nimble_cradle.cli.main import main
from nimble_cradle.desk.stages.crossmember.sheet import CrossmemberSheet
from nimble_cradle.desk.window import Desk
from nimble_cradle.findings.finding import Finding
from nimble_cradle.findings.worst import MountCase
from nimble_cradle.geometry.pose import Array
from nimble_cradle.job import store
from nimble_cradle.job.base import JobError
from nimble_cradle.job.cross_section import BarSection, CrossSection, FoldedSection, reshaped, told_of
from nimble_cradle.job.edits import with_value
from nimble_cradle.job.job import Job
from nimble_cradle.job.loads import Allowables
from nimble_cradle.job.mounts import Crossmember
from nimble_cradle.judge.verdict import verdict
from nimble_cradle.made.crossmember import crossmember_solids
from nimble_cradle.made.end_plates import EndSeat, end_seats
from nimble_cradle.made.folded_channel import flat_legs, folded_flat
from nimble_cradle.made.foot_seats import foot_seats
from nimble_cradle.mounts.crossmember_checks import crossmember_checks
from nimble_cradle.mounts.end_checks import end_checks
from nimble_cradle.shop.cutlist import cut_list
from nimble_cradle.shop.templates import templates
from nimble_cradle.stock.cross_sections import at_hand, every_section
from nimble_cradle.stock.rack import Rack, RackBar, RackSheet, RackTube
from nimble_cradle.stock.steels import E_STEEL, G_STEEL
from nimble_cradle.strength.beam import crossmember_under, ends_under, unit_response
from nimble_cradle.strength.cross_section import bimoment_reach, figures_of, stresses_of
from nimble_cradle.strength.section import held_torsion
from pydantic import ValidationError

from pressing import refusal, type_in, unfold_all

PLAIN = Allowables(everyday_factor=1.0, rare_factor=1.0)
HAT = FoldedSection(height_mm=45, width_mm=70, wall_mm=3, radius_mm=3, lip_mm=18, ribbed=True)
CHANNEL = FoldedSection(height_mm=50, width_mm=64, wall_mm=4, radius_mm=5, ribbed=True)
EDGE = BarSection(height_mm=60, width_mm=10)
ASKEW = ((-700.0, 389.0, -90.0), (-705.0, 210.0, -150.0), (-690.0, -180.0, -140.0), (-700.0, -389.0, -60.0))
STRAIGHT = ((0.0, 400.0, 0.0), (0.0, -400.0, 0.0))


def of(section: CrossSection, points: tuple[tuple[float, float, float], ...] = ASKEW) -> Crossmember:
    return Crossmember(points=points, section=section, rail_n_per_mm=0.0)


def put_in(finding: Finding, name: str) -> float:
    return float(next(value for quantity, value, _ in finding.worked.inputs if quantity.name == name))


class TestFigures:
    @pytest.mark.parametrize(("high", "wide"), [(10.0, 60.0), (60.0, 10.0), (25.0, 25.0), (20.0, 33.0)])
    def test_a_bar_twisted_against_the_exact_series(self, high: float, wide: float) -> None:
        """Timoshenko and Goodier, Theory of Elasticity, art. 109 (from memory), sixty terms."""
        a, b = max(high, wide), min(high, wide)
        odd = np.arange(1, 120, 2)
        j = (
            a
            * b**3
            * (1 / 3 - 64 * b / (math.pi**5 * a) * (np.tanh(odd * math.pi * a / (2 * b)) / odd**5).sum())
        )
        k = 1 - 8 / math.pi**2 * (1 / (odd**2 * np.cosh(np.minimum(odd * math.pi * a / (2 * b), 600)))).sum()
        own = figures_of(BarSection(height_mm=high, width_mm=wide)).own
        assert own.torsion == pytest.approx(j, rel=0.005)
        assert 1 / own.torsion_modulus == pytest.approx(b * k / j, rel=0.045)
        assert own.i_lying == pytest.approx(wide * high**3 / 12) and own.w_standing == pytest.approx(
            high * wide**2 / 6
        )

    @pytest.mark.parametrize("section", [HAT, CHANNEL], ids=["hat", "channel"])
    def test_a_folded_one_against_a_mesh_of_it(self, section: FoldedSection) -> None:
        """sectionproperties, a finite-element section, of the outline with its round corners as it is
        bent; up is up: web above, shear centre above the web."""
        from sectionproperties.analysis.section import Section
        from sectionproperties.pre.geometry import Geometry
        from shapely import LineString
        from shapely.geometry import Polygon

        t, r = section.wall_mm, section.radius_mm
        y, top = (section.width_mm - t) / 2, (section.height_mm - t) / 2
        low = -top if section.lip_mm else -section.height_mm / 2
        far = y + section.lip_mm - t / 2
        half = [(y, top), (y, low)] + ([(far, low)] if section.lip_mm else [])
        middle = _rounded(np.array([(-u, v) for u, v in reversed(half)] + half), r + t / 2)
        shape = LineString(middle).buffer(t / 2, cap_style="flat", quad_segs=24)
        assert isinstance(shape, Polygon)
        mesh = Section(Geometry(shape).create_mesh(mesh_sizes=[3.0]))
        mesh.calculate_geometric_properties()
        mesh.calculate_warping_properties()
        found = figures_of(section)
        own = found.own
        ixx, iyy, _ = mesh.get_ic()
        assert own.area == pytest.approx(mesh.get_area(), rel=0.005)
        assert own.i_lying == pytest.approx(ixx, rel=0.01) and own.i_standing == pytest.approx(iyy, rel=0.01)
        assert own.torsion == pytest.approx(mesh.get_j(), rel=0.03)
        assert found.warping == pytest.approx(mesh.get_gamma(), rel=0.03)
        centre, shear = mesh.get_c(), mesh.get_sc()
        assert found.shear_up == pytest.approx(shear[1], abs=0.3)
        assert found.shear_up > section.height_mm / 2
        assert found.shear_up + found.axial_up == pytest.approx(centre[1], abs=0.1)
        zxx = mesh.get_z()
        assert own.w_lying == pytest.approx(min(zxx[0], zxx[1]), rel=0.01)
        assert own.w_standing == pytest.approx(min(zxx[2], zxx[3]), rel=0.01)
        # how lopsided it is, from the metal itself, in slices
        points, weights = _slices(shape)
        z = points[:, 1] - centre[1]
        own_ = shear[1] - centre[1] - (weights * z * ((points[:, 0]) ** 2 + z**2)).sum() / (2 * ixx)
        assert found.lopsided == pytest.approx(own_, rel=0.02)

    def test_shear_centre_of_a_channel_in_closed_form(self) -> None:
        """3 b2/(h + 6 b) beyond the web's middle, b of the legs, h of the web (middle lines)."""
        b, h = CHANNEL.height_mm - 2, CHANNEL.width_mm - 4
        beyond = 3 * b**2 / (h + 6 * b)
        assert figures_of(CHANNEL).shear_up == pytest.approx(23.0 + beyond, abs=0.7)  # its corners are round

    @pytest.mark.parametrize("at", [0.5, 0.23, 0.8])
    @pytest.mark.parametrize("section", [HAT, CHANNEL], ids=["hat", "channel"])
    def test_twisted_against_beam_elements_of_torsion(self, section: FoldedSection, at: float) -> None:
        """Elements with twist and its slope at each end (cubic), ends held against turning and free to warp:
        the bimoment everywhere, and in the middle how far it turns."""
        long, figures = 800.0, figures_of(section)
        twist, bimoment, x = _torsion_elements(figures.own.torsion, figures.warping, long, at)
        left, right = 1 - at, at  # of a torque of one
        reach = bimoment_reach(figures, x, long, at * long)
        own = reach * np.where(x <= at * long, left, right)
        assert own == pytest.approx(np.abs(bimoment), abs=0.01 * np.abs(bimoment).max())
        if at == 0.5:
            held = held_torsion(figures.own.torsion, figures.warping, long, E_STEEL / (2 * G_STEEL) - 1)
            assert long / 4 / (G_STEEL * held) == pytest.approx(twist, rel=2e-3)

    def test_stress_by_hand(self) -> None:
        """One station of a channel: 2 kN along, 1 kN up, 60 N m up and down, 20 N m twisting, a bimoment of 3
        N m2, each share by itself."""
        f, t = figures_of(CHANNEL), CHANNEL.wall_mm
        sigma = (
            2000 / f.own.area + (60e3 + 2000 * abs(f.axial_up)) / f.own.w_lying + 3e6 * f.sector / f.warping
        )
        tau = 20e3 * t / f.own.torsion + 1.5 * 1000 / (2 * (50 - 4) * 4)
        row = np.array([[2000.0, 1000.0, 0.0, 20e3, 0.0, 60e3]])
        own = stresses_of(row, np.array([3e6]), CHANNEL)
        assert own[0] == pytest.approx(math.sqrt(sigma**2 + 3 * tau**2), rel=1e-9)
        flat = stresses_of(row, np.array([3e6]), EDGE)[0]  # a bar does not warp
        assert flat == stresses_of(row, np.zeros(1), EDGE)[0]


def _rounded(line: Array, radius: float) -> Array:
    """A line with square corners, rounded by arcs of 24 chords."""
    out = [line[0]]
    for a, b, c in zip(line, line[1:], line[2:], strict=False):
        one, two = (a - b) / np.linalg.norm(a - b), (c - b) / np.linalg.norm(c - b)
        middle = b + radius * (one + two)
        for angle in np.linspace(0, math.pi / 2, 25):
            out.append(middle - radius * (math.cos(angle) * two + math.sin(angle) * one))
    return np.array([*out, line[-1]])


def _slices(shape: object) -> tuple[Array, Array]:
    """Points in a shape on a fine grid, and the area of each."""
    import shapely

    x0, y0, x1, y1 = shape.bounds  # type: ignore[attr-defined]
    step = 0.2
    grid = np.stack(np.meshgrid(np.arange(x0, x1, step), np.arange(y0, y1, step)), -1).reshape(-1, 2)
    inside = shapely.contains_xy(shape, grid[:, 0], grid[:, 1])  # type: ignore[call-overload]
    return grid[inside], np.full(int(inside.sum()), step**2)


def _torsion_elements(j: float, warping: float, long: float, at: float) -> tuple[float, Array, Array]:
    """Twist under a torque of 1 N mm at a place, bimoments N mm2 at the nodes, and where they are."""
    n = 200
    x = np.linspace(0, long, n + 1)
    loaded = round(at * n)
    k = np.zeros((2 * (n + 1), 2 * (n + 1)))
    h = long / n
    bend = np.array([[12, 6 * h, -12, 6 * h], [6 * h, 4 * h**2, -6 * h, 2 * h**2]])
    bend = np.vstack([bend, -bend[0], [6 * h, 2 * h**2, -6 * h, 4 * h**2]]) / h**3
    turn = np.array([[36, 3 * h, -36, 3 * h], [3 * h, 4 * h**2, -3 * h, -(h**2)]])
    turn = np.vstack([turn, -turn[0], [3 * h, -(h**2), -3 * h, 4 * h**2]]) / (30 * h)
    for i in range(n):
        k[2 * i : 2 * i + 4, 2 * i : 2 * i + 4] += E_STEEL * warping * bend + G_STEEL * j * turn
    f = np.zeros(2 * (n + 1))
    f[2 * loaded] = 1.0
    free = [i for i in range(2 * (n + 1)) if i not in (0, 2 * n)]
    u = np.zeros_like(f)
    u[free] = np.linalg.solve(k[np.ix_(free, free)], f[free])
    second = np.array(
        [
            [-6 / h**2, -4 / h, 6 / h**2, -2 / h] @ u[2 * i : 2 * i + 4]
            if i < n
            else [6 / h**2, 2 / h, -6 / h**2, 4 / h] @ u[2 * i - 2 : 2 * i + 2]
            for i in range(n + 1)
        ]
    )
    return float(u[2 * loaded]), E_STEEL * warping * second, x


class TestInTheFrame:
    @given(
        st.tuples(*[st.floats(-5e3, 5e3) for _ in range(3)]),
        st.tuples(st.floats(-40, 40), st.floats(-150, 150), st.floats(-30, 60)),
        st.sampled_from([HAT, CHANNEL, EDGE]),
    )
    def test_its_ends_carry_what_is_put_on(
        self, force: tuple[float, float, float], at: tuple[float, float, float], section: CrossSection
    ) -> None:
        """Forces and moments of both ends about the axis are those of the load, though it bends and twists
        about its shear centre beside that."""
        cross = of(section)
        mount = (-700 + at[0], at[1], -110 + at[2])
        both = ends_under(cross, mount, np.array([force]))[:, 0]
        assert both[:, :3].sum(0) == pytest.approx(force, abs=1e-6 * (1 + np.abs(force).max()))
        moment = sum(
            np.cross(np.asarray(end), f[:3]) + f[3:]
            for end, f in zip((cross.points[0], cross.points[-1]), both, strict=True)
        )
        want = np.cross(np.asarray(mount), force)
        assert moment == pytest.approx(want, abs=2e-4 * (1 + np.abs(want).max()))

    def test_a_push_ahead_twists_it_about_its_shear_centre(self) -> None:
        """Straight, 1 kN ahead 60 mm over the axis: the lever is 60 less what the shear centre is up; half
        of the torque on either side."""
        cross = of(CHANNEL, STRAIGHT)
        response = unit_response(cross.points, CHANNEL, "hinged", (0.0, 0.0, 60.0), 0.0)
        up = figures_of(CHANNEL).shear_up
        assert response.at == pytest.approx((0.0, 0.0, up), abs=1e-9)
        load = np.array([1000.0, 0, 0, 0, 1000.0 * (60 - response.at[2]), 0])
        twist = np.abs(np.einsum("slc,l->sc", response.forces, load))[:, 3]
        assert twist == pytest.approx(500.0 * (60 - up), rel=1e-3)
        # and pushed at the shear centre it does not twist at all
        still = np.abs(response.forces[:, 0, 3]).max()
        assert still < 1e-6

    def test_bent_up_and_down_it_is_a_beam(self) -> None:
        """3 kN down in the middle of 800 mm: F L/4 over W, F L3/(48 E I), nothing twists."""
        for section in (CHANNEL, HAT, EDGE):
            own = figures_of(section).own
            (stress,), (moved,), (bent,) = crossmember_under(
                of(section, STRAIGHT), (0, 0, 70), np.array([[0, 0, -3000.0]])
            )
            assert bent == pytest.approx(3000 * 800 / 4)
            assert moved[2] == pytest.approx(-3000 * 800**3 / (48 * E_STEEL * own.i_lying), rel=1e-6)
            assert bent / own.w_lying < stress < 1.1 * bent / own.w_lying

    def test_one_on_edge_tips_over(self) -> None:
        """A bar 60 x 10 on edge, 2 kN in the middle at the level of its axis: Mcr = pi/L sqrt(E Iz G It)
        (Prandtl, Michell), its share by curve d. Lying, or hollow, it is not asked."""
        case = MountCase("by hand", "rare", np.array([0.0, 0.0, 2000.0]), 0.0, 0.0, 0.0)
        cross = of(EDGE, STRAIGHT)
        found = {f.code: f for f in crossmember_checks(cross, (0.0, 0.0, 0.0), [case], PLAIN)}
        iz, it = 60 * 10**3 / 12, 60 * 10**3 / 3 * (1 - 0.63 / 6)
        critical = math.pi / 800 * math.sqrt(E_STEEL * iz * G_STEEL * it)
        slender = math.sqrt(6000 * 235 / critical)
        phi = 0.5 * (1 + 0.76 * (slender - 0.2) + slender**2)
        held = 6000 * 235 / (phi + math.sqrt(phi**2 - slender**2))
        assert found["crossmember-tips"].use == pytest.approx(2000 * 800 / 4 / held, rel=0.01)
        high = {f.code: f for f in crossmember_checks(cross, (0.0, 0.0, 80.0), [case], PLAIN)}
        assert high["crossmember-tips"].use > found["crossmember-tips"].use  # it pushes from above
        lying = of(BarSection(height_mm=10, width_mm=60), STRAIGHT)
        assert "crossmember-tips" not in {f.code for f in crossmember_checks(lying, (0, 0, 0), [case], PLAIN)}


class TestInTheCar:
    def test_its_walls_lie_where_they_are_bent(self) -> None:
        """Askew: over each leg the web's outside is half its height over the axis, square to the leg, the
        lips' underside as far below; nothing fills it from below; metal as much as its section says."""
        cross = of(HAT)
        solids = crossmember_solids(cross)
        assert len(solids) == 3 * 5
        for k, (a, b) in enumerate(zip(np.array(ASKEW), np.array(ASKEW[1:]), strict=False)):
            along = (b - a) / np.linalg.norm(b - a)
            side = np.cross([0, 0, 1.0], along)
            side /= np.linalg.norm(side)
            up = np.cross(along, side)
            points = np.vstack([part.triangles[0] for part in solids[5 * k : 5 * k + 5]]) - a
            assert (points @ up).max() == pytest.approx(22.5) and (points @ up).min() == pytest.approx(-22.5)
            assert np.ptp(points @ side) == pytest.approx(70 + 2 * (18 - 3))
            web = solids[5 * k].triangles[0] - a
            assert (web @ up).min() == pytest.approx(19.5) and np.ptp(web @ side) == pytest.approx(70)

    @pytest.mark.parametrize("section", [HAT, CHANNEL], ids=["hat", "channel"])
    def test_its_flat_legs_folded_again_meet(self, section: FoldedSection) -> None:
        """Every corner of every leg's flat outline carried to the car by what is printed, with plain steps
        along the web, down the leg, out along the lip: both legs' corners are the same places."""
        legs = flat_legs(ASKEW, section)
        wide, folds = folded_flat(section)
        y, z, lip = section.width_mm / 2, section.height_mm / 2, section.over_mm / 2
        stations = [(y, z), (y, -z), *([(lip, -z)] if section.lip_mm else [])]
        stations = [(-u, v) for u, v in reversed(stations)] + stations
        for k, (one, two) in enumerate(zip(legs, legs[1:], strict=False)):
            n = len(stations)
            right = one.outline[n:][::-1]  # the right end of the left leg, in the order of the left ends
            left = two.outline[:n]
            assert right[:, 1] == pytest.approx(left[:, 1])
            for (along_one, _), (along_two, _), (u, v) in zip(right, left, stations, strict=True):
                p = _carried(ASKEW[k], ASKEW[k + 1], along_one, u, v)
                q = _carried(ASKEW[k + 1], ASKEW[k + 2], along_two, u, v)
                assert p == pytest.approx(q, abs=1.5)  # both standing planes differ by a degree or so
        assert legs[0].outline[: len(stations), 0] == pytest.approx(0.0)
        assert [f[0] for f in legs[0].folds] == [y for y, _ in folds]
        assert np.ptp(legs[0].outline[:, 1]) == pytest.approx(wide)

    def test_how_wide_its_flat_is_by_hand(self) -> None:
        """50 + 64 + 50 outside, folded round 5 in 4 mm: k = 0.65 + 0.5 log10(1.25) = 0.698, the neutral fibre
        6.397 out, 10.05 long; 2 x 9 less that: 7.95 a fold (DIN 6935)."""
        wide, folds = folded_flat(CHANNEL)
        assert wide == pytest.approx(164 - 2 * 7.95, abs=0.02)
        assert [y for y, _ in folds] == pytest.approx([-(64 - 7.95) / 2, (64 - 7.95) / 2], abs=0.01)
        wide, folds = folded_flat(HAT)
        less = 2 * 6 - math.pi / 2 * (3 + 0.65 * 1.5)
        assert wide == pytest.approx(70 + 2 * 45 + 2 * 18 - 4 * less, abs=0.01)
        assert [way for _, way in folds] == ["towards", "away", "away", "towards"]

    def test_its_end_is_welded_where_it_has_metal(self, demo: Job) -> None:
        """Both ends, in the car: a weld along the web's top and down both legs, none along its open side;
        looked at from where each plate is, which is mirrored on the other rail."""
        job = with_value(demo, "crossmember/section", CHANNEL)
        cross = job.crossmember
        assert cross is not None
        seats = [seat for seat in end_seats(job) if isinstance(seat, EndSeat)]
        case = MountCase("by hand", "rare", np.array([0.0, 0.0, 4000.0]), 0.0, 0.0, 0.0)
        mount = next(m for m in job.mounts if m.id == "gearbox").bush.centre
        welds = [f for f in end_checks(cross, seats, mount, [case], PLAIN) if f.code == "end-weld"]
        assert len(welds) == 2
        for weld, seat in zip(welds, seats, strict=True):
            told = next(value for quantity, value, _ in weld.worked.inputs if quantity.name == "lines")
            lines = [list(map(float, line.split(","))) for line in str(told).split("; ")]
            up = seat.axes[2, 1]  # 1 or -1: the plate's own second axis, in the car
            level = [up * b for _, b, _, d in lines if abs(b - d) < 1e-6]
            assert len(lines) == 3 and level == [pytest.approx(25.0)]

    def test_what_is_open(self, demo: Job) -> None:
        def said(section: CrossSection, radius: float = 0.0) -> str:
            job = with_value(demo, "crossmember/section", section)
            job = with_value(job, "crossmember/bend_radius_mm", radius)
            return " ".join(p.sentence for p in verdict(job).problems if "rossmember" in p.sentence)

        low = FoldedSection(height_mm=30, width_mm=70, wall_mm=4, radius_mm=4)
        assert "put a rib where the mount stands" in said(low)
        assert "rib" not in said(low.model_copy(update={"ribbed": True}))
        thin = FoldedSection(height_mm=40, width_mm=70, wall_mm=2, radius_mm=2, ribbed=True)
        # S355: 14 x 0.814 x 2 = 23 mm flat at most, and 36 are there
        assert "legs buckle before they yield: 23 mm" in said(thin)
        lipped = thin.model_copy(update={"lip_mm": 14.0})
        assert "legs buckle" not in said(lipped) and "web buckles" not in said(lipped)
        assert "lips buckle" in said(thin.model_copy(update={"lip_mm": 30.0}))
        wide = thin.model_copy(update={"width_mm": 90.0})
        assert "web buckles before it yields: 68 mm" in said(wide)
        assert "not bent round a radius" in said(low, 150.0)
        assert "crossmember" in {
            f.part for f in verdict(with_value(demo, "crossmember/section", EDGE)).findings
        }

    def test_its_legs_are_the_side_walls_under_a_foot(self, demo: Job) -> None:
        """A line through the web leaves it after 4 mm; what stands behind it are legs of 30, of the same
        sheet. Of a bar there is no wall to be pressed in."""
        low = FoldedSection(height_mm=30, width_mm=70, wall_mm=4, radius_mm=4, ribbed=True)
        job = with_value(demo, "crossmember/section", low)
        seat = foot_seats(job).of("gearbox")
        assert seat is not None and seat.depth == 30.0
        wall = next(f for f in verdict(job).findings if (f.part, f.code) == ("gearbox", "foot-wall"))
        assert (put_in(wall, "depth"), put_in(wall, "wall"), put_in(wall, "side")) == (30.0, 4.0, 4.0)
        bar = with_value(demo, "crossmember/section", BarSection(height_mm=15, width_mm=60))
        assert ("gearbox", "foot-wall") not in {(f.part, f.code) for f in verdict(bar).findings}

    def test_its_row_and_its_template(self, demo: Job) -> None:
        job = with_value(demo, "crossmember/section", CHANNEL)
        row = next(r for r in cut_list(job) if r.part.startswith("Gearbox crossmember"))
        assert row.stock == "sheet 4 mm" and "folded square at 46.0, 102.1 mm" in row.note
        assert row.size.endswith("x 149") and "mitre" in row.note
        drawn, _ = templates(job)
        sheet = next(d for d in drawn if d.name == "channel")
        assert sum(getattr(m, "layer", "") == "CUT" for m in sheet.marks) == 3
        bar = with_value(demo, "crossmember/section", BarSection(height_mm=12, width_mm=60))
        row = next(r for r in cut_list(bar) if r.part.startswith("Gearbox crossmember"))
        assert row.stock == "flat bar 60x12 lying"
        assert "channel" not in {d.name for d in templates(bar)[0]}
        long = sum(int(n) for n in row.note.split("cut ")[1].split(" long")[0].split(" + "))
        assert row.mass_kg == pytest.approx(60 * 12 * long * 7.85e-6, rel=0.005)


def _carried(a: tuple[float, ...], b: tuple[float, ...], along: float, u: float, v: float) -> Array:
    """A place on a leg from ``a`` to ``b``: so far along it, so far across and up."""
    start, way = np.array(a), np.subtract(b, a) / math.dist(a, b)
    side = np.cross([0, 0, 1.0], way)
    side /= np.linalg.norm(side)
    return np.asarray(start + along * way + u * side + v * np.cross(way, side))


class TestStock:
    def test_what_is_at_hand(self) -> None:
        names = every_section()
        assert len(names) == len({told_of(s) for s in names.values()})
        assert {s.shape for s in names.values()} == {"square", "rectangle", "round", "bar", "folded"}
        rack = Rack(
            tubes=(RackTube(shape="square", height_mm=50, wall_mm=3),),
            bars=(RackBar(shape="flat", width_mm=60, thickness_mm=10, steel="S355"),),
        )
        assert [(name, steel) for name, _, steel in at_hand(rack, "S235")] == [
            ("square 50x50x3", "S235"),
            ("flat bar 60x10 lying", "S355"),
            ("flat bar 60x10 on edge", "S355"),
        ]
        sheet = at_hand(Rack(sheets=(RackSheet(thickness_mm=3),)), "S355")
        assert {s.wall_mm for _, s, _ in sheet if isinstance(s, FoldedSection)} == {3.0}
        assert sum(s.shape == "round" for _, s, _ in sheet) > 10  # of tubes it says nothing

    @given(
        st.sampled_from(list(every_section().values())), st.sampled_from(["square", "bar", "folded", "round"])
    )
    def test_every_one_takes_every_shape_and_every_file(self, section: CrossSection, shape: str) -> None:
        other = reshaped(section, shape)
        assert other.shape == shape
        cross = of(other, STRAIGHT)
        assert Crossmember.model_validate(cross.model_dump()) == cross
        assert figures_of(other).own.area > 0

    def test_bad_sizes_are_told(self) -> None:
        for sizes, word in (
            ({"width_mm": 12.0}, "between its two bends"),
            ({"height_mm": 6.0}, "beside their bends"),
            ({"lip_mm": 4.0}, "lips of 4 mm"),
        ):
            with pytest.raises(ValidationError, match=word):
                FoldedSection.model_validate({"shape": "folded", **sizes})
        with pytest.raises(ValueError, match="no section"):
            reshaped(EDGE, "star")

    @pytest.mark.parametrize(
        ("section", "said", "place"),
        [
            ({"shape": "square", "wall_mm": 0}, "greater than 0", "crossmember/section/wall_mm"),
            ({"shape": "folded", "height_mm": 5}, "Legs 5 mm high", "crossmember/section"),
            ({"shape": "bar", "height_mm": -1}, "greater than 0", "crossmember/section/height_mm"),
            ({"shape": "bar", "wall_mm": 3}, "not known here", "crossmember/section/wall_mm"),
            ({"shape": "hexagon"}, "round, bar or folded", "crossmember/section"),
            (7, "round, bar or folded", "crossmember/section"),
        ],
    )
    def test_a_file_that_says_nonsense_is_told_where(
        self, demo: Job, section: object, said: str, place: str
    ) -> None:
        data = json.loads(store.job_text(demo))
        data["crossmember"]["section"] = section
        with pytest.raises(JobError, match=said) as told:
            store.job_from_data(data, {m.name: m.data for m in demo.meshes})
        assert told.value.place == place

    def test_the_command_line_tries_them(
        self, demo: Job, tmp_path: Path, capsys: pytest.CaptureFixture[str]
    ) -> None:
        place = tmp_path / "a.cradle"
        store.write(place, demo)
        assert main(["crossmember", str(place), "--lightest", "--json"]) == 0
        rows = json.loads(capsys.readouterr().out)
        text = json.dumps(rows)
        assert "flat bar 60x10 lying" in text and "folded 40x60x4" in text


def test_another_shape_in_the_window(desk: Desk) -> None:
    """Chosen, its own fields come, typed into, and taken back."""
    desk.go("crossmember")
    sheet = desk.sheets["crossmember"]
    assert isinstance(sheet, CrossmemberSheet)
    unfold_all(sheet)
    before = desk.session.job
    box = sheet.section.shape.box
    box.setCurrentIndex(4)
    box.activated.emit(4)
    unfold_all(sheet)
    cross = desk.session.job.crossmember
    assert cross is not None and isinstance(cross.section, FoldedSection)
    type_in(desk, "crossmember/section/lip_mm", "18")
    cross = desk.session.job.crossmember
    assert cross is not None and isinstance(cross.section, FoldedSection) and cross.section.lip_mm == 18
    assert "nothing beside" in refusal(type_in(desk, "crossmember/section/lip_mm", "2"))
    assert sheet.section.shape.box.currentText() == "folded channel, open below"
    desk.session.undo()
    desk.session.undo()
    assert desk.session.job == before
    assert sheet.section.shape.box.currentText() == "rectangle"
