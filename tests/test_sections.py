"""Thin-walled sections and the walls that mounts stand on: closed forms, an independent section library,
figures worked by hand."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from nimble_cradle.geometry.pose import rotation_xyz, unit
from nimble_cradle.geometry.rays import hits
from nimble_cradle.geometry.solid_makers import bar, box, hull
from nimble_cradle.strength.rail_wall import (
    pressed_capacity,
    side_wall_stress,
    two_skins,
    wall_capacity,
    wall_use,
)
from nimble_cradle.strength.section import (
    Wall,
    effective_width,
    outstand_width,
    shear_share,
    stiffened_torsion,
    thin_walled,
    walls_of,
    works_pressed,
    works_sheared,
)
from scipy.spatial import ConvexHull


class TestClosedForms:
    def test_an_open_c(self) -> None:
        """Shear centre 3 b2/(h + 6 b) behind the web, Iw = t b3 h2/12 (3b + 2h)/(6b + h), J = sum l t3/3
        (Roark, tables 10.2 and 8.12, from memory); b, h of the middle line."""
        s = thin_walled(walls_of("open C", 120, 55, 3))
        b, h, t = 53.5, 117.0, 3.0
        assert s.shear_centre[0] == pytest.approx(-3 * b**2 / (h + 6 * b), rel=1e-9)
        assert s.shear_centre[1] == pytest.approx(h / 2)
        assert s.warping == pytest.approx(t * b**3 * h**2 / 12 * (3 * b + 2 * h) / (6 * b + h), rel=1e-9)
        assert s.torsion == pytest.approx((h + 2 * b) * t**3 / 3)
        k = 350 * math.sqrt(s.torsion / (2.6 * s.warping))
        assert stiffened_torsion(s, 700.0) == pytest.approx(s.torsion / (1 - math.tanh(k) / k))
        assert stiffened_torsion(s, 700.0) / s.torsion == pytest.approx(17.0, abs=1.5)

    def test_a_box_by_bredt_and_its_rib_adds_next_to_nothing(self) -> None:
        s = thin_walled(walls_of("box", 120, 56, 3))
        b, h, t = 53.0, 117.0, 3.0
        plain = 4 * (b * h) ** 2 / (2 * (b + h) / t) + 2 * (b + h) * t**3 / 3
        assert s.torsion == pytest.approx(plain, rel=1e-12)
        m = h / 2
        corners = {"a": (0, 0), "b": (b, 0), "c": (b, m), "d": (b, h), "e": (0, h), "f": (0, m)}
        ring = [("a", "b"), ("b", "c"), ("c", "d"), ("d", "e"), ("e", "f"), ("f", "a"), ("c", "f")]
        ribbed = thin_walled([Wall(corners[p], corners[q], t) for p, q in ring])
        assert plain < ribbed.torsion < plain * 1.001  # by symmetry nothing flows in the rib
        assert np.allclose(ribbed.shear_centre, (b / 2, m))

    def test_a_cut_box_keeps_next_to_no_twist(self) -> None:
        whole = thin_walled(walls_of("box", 120, 56, 3))
        cut = thin_walled(walls_of("box", 120, 56, 3)[:-1])
        assert cut.torsion < whole.torsion / 500

    @given(st.floats(0, 360), st.floats(-500, 500))
    def test_turned_and_moved_it_is_the_same(self, angle: float, by: float) -> None:
        a = math.radians(angle)
        turn = np.array([[math.cos(a), -math.sin(a)], [math.sin(a), math.cos(a)]])
        walls = walls_of("hat on skin", 80, 90, 1.5, 0.8)

        def put(p: tuple[float, float]) -> tuple[float, float]:
            y, z = turn @ np.array(p) + by
            return float(y), float(z)

        one = thin_walled(walls)
        two = thin_walled([Wall(put(w.start), put(w.end), w.thickness) for w in walls])
        assert two.torsion == pytest.approx(one.torsion, rel=1e-6)
        assert two.warping == pytest.approx(one.warping, rel=1e-5)
        assert np.allclose(two.shear_centre, turn @ one.shear_centre + by, atol=1e-4)
        assert two.i_y + two.i_z == pytest.approx(one.i_y + one.i_z)

    @pytest.mark.parametrize("walls", [[], [Wall((0, 0), (0, 0), 1)], [Wall((0, 0), (9, 0), 0)]])
    def test_no_wall_is_refused(self, walls: list[Wall]) -> None:
        with pytest.raises(ValueError, match="wall"):
            thin_walled(walls)

    def test_walls_in_pieces_are_refused(self) -> None:
        with pytest.raises(ValueError, match="hang together"):
            thin_walled([Wall((0, 0), (9, 0), 1), Wall((0, 5), (9, 5), 1)])


@pytest.mark.parametrize(
    ("kind", "size", "loose"),
    [("box", (120, 60, 3), 0.02), ("open C", (120, 55, 3), 0.03), ("angle", (60, 60, 4), 0.05)],
)
def test_against_a_mesh_of_the_whole_section(kind: str, size: tuple[float, ...], loose: float) -> None:
    """sectionproperties meshes the walls as they are, with sharp corners; middle lines count a corner twice
    in one place and not at all in another."""
    from sectionproperties.analysis.section import Section
    from sectionproperties.pre.geometry import Geometry
    from shapely import LineString
    from shapely.geometry import Polygon
    from shapely.ops import unary_union

    walls = walls_of(kind, *size)  # type: ignore[arg-type]
    shape = unary_union(
        [LineString([w.start, w.end]).buffer(w.thickness / 2, cap_style="square") for w in walls]
    )
    if kind != "box":  # free ends are square at their end
        shape = unary_union(
            [LineString([w.start, w.end]).buffer(w.thickness / 2, cap_style="flat") for w in walls]
        )
    assert isinstance(shape, Polygon)
    mesh = Section(Geometry(shape).create_mesh(mesh_sizes=[4.0]))
    mesh.calculate_geometric_properties()
    mesh.calculate_warping_properties()
    own = thin_walled(walls)
    ixx, iyy, ixy = mesh.get_ic()
    assert own.area == pytest.approx(mesh.get_area(), rel=loose)
    assert own.i_y == pytest.approx(ixx, rel=loose) and own.i_z == pytest.approx(iyy, rel=loose)
    assert own.i_yz == pytest.approx(ixy, rel=loose, abs=1.0)
    assert own.torsion == pytest.approx(mesh.get_j(), rel=2 * loose)
    centre = np.array(mesh.get_c()) + np.array(mesh.get_sc()) - np.array(mesh.get_c())
    assert np.allclose(own.shear_centre, centre, atol=1.0)


def test_a_slender_wall_works_for_about_half() -> None:
    """EN 1993-1-5, 4.4 by hand: 80 x 0.8, fy 235: l = 100/56.8 = 1.761, rho = (1.761 - 0.22)/1.761^2 =
    0.497."""
    assert effective_width(80, 0.8, 235) == pytest.approx(80 * 0.497, rel=1e-3)
    assert effective_width(80, 4, 235) == 80
    # a lip of 20 x 0.8: 25/(28.4 sqrt 0.43) = 1.342: (1.342 - 0.188)/1.342^2 = 0.641 of it
    assert outstand_width(20, 0.8, 235) == pytest.approx(20 * 0.641, rel=1e-3)
    assert outstand_width(20, 3, 235) == 20


def test_metal_that_works_when_pressed() -> None:
    """A hat of 0.8 on its skin: two flanges with free edges, two webs, a crown, the skin between; and a thick
    box, all of which works."""
    walls = [
        Wall((-60, 0), (-40, 0), 0.8),
        Wall((-40, 0), (-40, 70), 0.8),
        Wall((-40, 70), (40, 70), 0.8),
        Wall((40, 70), (40, 0), 0.8),
        Wall((40, 0), (60, 0), 0.8),
        Wall((-40, 0), (40, 0), 1.2),
    ]
    parts = [
        2 * 20 * 0.641 * 0.8,
        2 * effective_width(70, 0.8, 235) * 0.8,
        effective_width(80, 0.8, 235) * 0.8,
        effective_width(80, 1.2, 235) * 1.2,
    ]
    whole = (2 * 20 + 2 * 70 + 80) * 0.8 + 80 * 1.2
    assert works_pressed(walls, 235) == pytest.approx(sum(parts) / whole, rel=1e-3)
    assert works_pressed(walls_of("box", 60, 60, 4), 235) == 1.0
    # a web that ends on the middle of a wall has no free edge there
    tee = [Wall((-30, 0), (30, 0), 1.0), Wall((0, 0), (0, 50), 1.0), Wall((0, 50), (30, 0), 1.0)]
    assert works_pressed(tee, 235) == pytest.approx(
        (
            outstand_width(60, 1, 235)
            + effective_width(50, 1, 235)
            + effective_width(math.hypot(30, 50), 1, 235)
        )
        / (60 + 50 + math.hypot(30, 50))
    )


def test_a_thin_wall_buckles_in_shear() -> None:
    """EN 1993-1-5, 5.3 by hand: 120 x 1 of 355 MPa, held along both edges: l = 120/(86.4 x 0.8136) = 1.707,
    0.83/l = 0.486; a leg of 30 with a free edge: 0.83 x 42.3 x 0.8136 / 30 = 0.952. The worst wall counts."""
    assert shear_share(120, 1, 355) == pytest.approx(0.486, rel=2e-3)
    assert shear_share(30, 1, 355, True) == pytest.approx(0.952, rel=2e-3)
    assert shear_share(60, 2, 235) == 1.0
    assert works_sheared(walls_of("box", 121, 41, 1), 355) == pytest.approx(0.486, rel=2e-3)
    assert works_sheared(walls_of("angle", 61, 31, 1), 355) == pytest.approx(0.476, rel=2e-2)


class TestWall:
    """Table 7.11 and 7.14 worked by hand for a wall of 70 mm, 200 MPa: a washer 30 x 30 on 0.9, 1.2, 2 and 3
    mm carries 1.1, 2.0, 5.4, 12.2 kN."""

    @pytest.mark.parametrize(("wall", "force"), [(0.9, 1100), (1.2, 1956), (2, 5433), (3, 12225)])
    def test_a_washer(self, wall: float, force: float) -> None:
        b = 30 / 70
        by_hand = 200 * wall**2 / (1 - b) * (2 * b + 4 * math.sqrt(1 - b))
        assert wall_capacity(70, 60, 30, 30, wall, 200).force == pytest.approx(by_hand)
        assert by_hand == pytest.approx(force, rel=1e-3)

    def test_a_foot_carries_more_the_nearer_it_reaches_to_the_sides(self) -> None:
        sizes = [wall_capacity(70, 60, a, 80, 2, 200) for a in (20, 40, 59, 62, 66, 70)]
        for one, two in zip(sizes, sizes[1:], strict=False):
            assert all(x < y for x, y in zip(one, two, strict=True))

    def test_wider_than_the_face_is_as_wide_as_the_face(self) -> None:
        assert wall_capacity(70, 60, 90, 80, 2, 200) == wall_capacity(70, 60, 70, 80, 2, 200)

    def test_the_side_wall_alone_at_full_width(self) -> None:
        """f_b t (2 h1 + 10 t); 60 deep, 2 thick: slenderness 3.46 x 28/(pi sqrt(1050)) = 0.952, curve c."""
        slender = 3.46 * (60 / 2 - 2) / (math.pi * math.sqrt(210000 / 200))
        phi = 0.5 * (1 + 0.49 * (slender - 0.2) + slender**2)
        chi = 1 / (phi + math.sqrt(phi**2 - slender**2))
        assert slender == pytest.approx(0.952, abs=1e-3) and chi == pytest.approx(0.57, abs=0.01)
        assert side_wall_stress(60, 2, 200) == pytest.approx(200 * chi)
        found = wall_capacity(70, 60, 70, 80, 2, 200)
        assert found.force == pytest.approx(200 * chi * 2 * (160 + 20))

    def test_thin_side_walls_crumple_first(self) -> None:
        """EN 1993-1-3, 6.1.7.3 by hand, 2 mm of 200 MPa pressed over 80: 0.115 x 4 x sqrt(200 x 210000) x 0.9
        x (0.5 + sqrt(0.8)) x 3.4 = 12.7 kN a wall; both under a force, one times the width across, both over
        half its length along. A small foot, and a thick wall, is not stopped by it."""
        one = 0.115 * 4 * math.sqrt(4.2e7) * 0.9 * (0.5 + math.sqrt(0.8)) * 3.4
        half = 0.115 * 4 * math.sqrt(4.2e7) * 0.9 * (0.5 + math.sqrt(0.4)) * 3.4
        assert one == pytest.approx(12720, rel=1e-3)
        whole, own = wall_capacity(70, 60, 70, 80, 2, 200), pressed_capacity(70, 60, 70, 80, 2, 200)
        assert own.force == pytest.approx(2 * one) and own.force < whole.force
        assert own.across_moment == pytest.approx(one * 68)
        assert own.along_moment == pytest.approx(2 * half * 40)
        assert pressed_capacity(70, 60, 30, 30, 2, 200) == wall_capacity(70, 60, 30, 30, 2, 200)
        assert pressed_capacity(200, 60, 80, 80, 8, 200) == wall_capacity(200, 60, 80, 80, 8, 200)

    def test_a_second_skin_under_the_foot_is_none_of_its_sides(self) -> None:
        """1.2 and 1.5 mm bend as 1.92; the sides are 1.2 all the same."""
        both = two_skins(1.2, 1.5)
        own = pressed_capacity(70, 60, 70, 80, both, 200, 1.2)
        assert own == pressed_capacity(70, 60, 70, 80, 1.2, 200)
        assert own.force < 0.55 * pressed_capacity(70, 60, 70, 80, both, 200).force
        small = pressed_capacity(70, 60, 30, 30, both, 200, 1.2)
        assert small.force == wall_capacity(70, 60, 30, 30, both, 200).force

    def test_shares_are_added(self) -> None:
        c = wall_capacity(70, 60, 40, 40, 2, 200)
        use = wall_use(
            c, np.array([c.force / 4]), np.array([-c.along_moment / 4]), np.array([c.across_moment / 4])
        )
        assert use[0] == pytest.approx(0.75)

    def test_two_skins_bend_each_by_itself(self) -> None:
        assert two_skins(3, 4) == 5 and two_skins(1.5, 0) == 1.5


class TestRays:
    def test_a_turned_box_and_bar_as_by_hand(self) -> None:
        turn = rotation_xyz(20, 35, -50)
        part = box((10, -20, 30), (40, 60, 20), turn)
        way = -turn[:, 2]
        start = np.array([10, -20, 30]) + 100 * turn[:, 2] + 19 * turn[:, 0]
        found = hits([part], np.array([start, start + 3 * turn[:, 0]]), way)
        assert found.first[0] == pytest.approx(90) and found.last[0] == pytest.approx(110)
        assert not np.isfinite(found.first[1])
        round_ = bar((0, 0, -50), (0, 0, 50), 30)
        assert hits([round_], np.array([[100.0, 0, 0]]), np.array([-1.0, 0, 0])).first[0] == pytest.approx(
            85, abs=0.1
        )

    @given(st.integers(0, 10_000))
    def test_against_the_planes_of_a_hull(self, seed: int) -> None:
        """Of a convex solid a line is inside where it is behind every plane: no triangle is looked at."""
        rng = np.random.default_rng(seed)
        points = rng.normal(0, 40, (12, 3)) + rng.normal(0, 20, 3)
        starts = rng.normal(0, 30, (8, 3)) + (0, 0, 300)
        way = unit(rng.normal(0, 0.3, 3) + (0, 0, -1))
        found = hits([hull(points)], starts, way)
        planes = ConvexHull(points).equations
        slope, at = planes[:, :3] @ way, starts @ planes[:, :3].T + planes[:, 3]
        enters = np.where(slope < 0, -at / slope, -np.inf).max(1)
        leaves = np.where(slope > 0, -at / slope, np.inf).min(1)
        for k in range(8):
            if abs(leaves[k] - enters[k]) < 1e-6:
                continue
            assert np.isfinite(found.first[k]) == (enters[k] < leaves[k])
            if enters[k] < leaves[k]:
                assert found.first[k] == pytest.approx(enters[k], abs=1e-6)
                assert found.last[k] == pytest.approx(leaves[k], abs=1e-6)
