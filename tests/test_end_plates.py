"""The crossmember's end plates: equilibrium of its ends, bolts by hand, where they lie, what is open, the
room."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from nimble_cradle.design.end_plates import with_end_plates
from nimble_cradle.desk.stages.crossmember.end_plates_group import EndPlatesGroup
from nimble_cradle.desk.window import Desk
from nimble_cradle.findings.finding import Finding
from nimble_cradle.findings.worst import MountCase
from nimble_cradle.job.edits import with_value
from nimble_cradle.job.end_plate import EndPlates
from nimble_cradle.job.hollow_section import HollowSection
from nimble_cradle.job.job import Job
from nimble_cradle.job.loads import Allowables
from nimble_cradle.job.mounts import Crossmember
from nimble_cradle.job.opening import Opening
from nimble_cradle.judge.end_plates import end_questions
from nimble_cradle.judge.load_path import mount_verdict
from nimble_cradle.judge.verdict import verdict
from nimble_cradle.made.end_plates import EndSeat, end_plate_part, end_seats
from nimble_cradle.mounts.crossmember_checks import crossmember_checks
from nimble_cradle.mounts.end_checks import CODES, end_checks, needed
from nimble_cradle.shop.cutlist import cut_list
from nimble_cradle.shop.dxf import dxf
from nimble_cradle.shop.templates import templates
from nimble_cradle.strength.beam import ends_under
from nimble_cradle.strength.bolts import FRICTION, LOW_CLAMP
from nimble_cradle.strength.cross_section import figures_of
from pydantic import ValidationError

from pressing import click, unfold_all

BENT = Crossmember(
    points=((-700, 389, -90), (-705, 210, -150), (-690, -180, -140), (-700, -389, -60)),
    section=HollowSection(shape="rectangle", height_mm=30, width_mm=50, wall_mm=3),
)
"""Nothing of it is straight, level or alike on both sides."""
PLAIN = Allowables(everyday_factor=1.0, rare_factor=1.0)


def case(force: tuple[float, float, float], kind: Any = "rare") -> MountCase:
    """A case in which the engine side pushes the bush so; the crossmember feels the opposite of ``force``."""
    return MountCase("by hand", kind, np.array(force), 0.0, 0.0, 0.0)


def put_in(finding: Finding, name: str) -> float:
    """One input of a finding's working."""
    return float(next(value for quantity, value, _ in finding.worked.inputs if quantity.name == name))


def seats_of(job: Job) -> list[EndSeat]:
    seats = end_seats(job)
    assert len(seats) == 2
    return [seat for seat in seats if isinstance(seat, EndSeat)]


@pytest.fixture
def straight(demo: Job) -> Job:
    """A straight tube of 40 square from rail to rail, plates beside them whose middles are the tube's."""
    cross = Crossmember(
        points=((-880.3, 389.0, -75.0), (-880.3, -389.0, -75.0)),
        section=HollowSection(shape="square", height_mm=40, wall_mm=3),
        rail_n_per_mm=0.0,
        plates=EndPlates(other_mm=80, up_mm=0),
    )
    return with_value(demo, "crossmember", cross)


class TestEquilibrium:
    @given(
        st.tuples(*[st.floats(-5e3, 5e3) for _ in range(3)]),
        st.tuples(st.floats(-40, 40), st.floats(-150, 150), st.floats(-30, 60)),
        st.sampled_from(["hinged", "clamped"]),
    )
    def test_ends_carry_what_is_put_on(
        self, force: tuple[float, float, float], at: tuple[float, float, float], ends: str
    ) -> None:
        """Forces and moments of both ends are those of the load, about any place, whatever the shape."""
        cross = BENT.model_copy(update={"ends": ends})
        mount = (-700 + at[0], at[1], -110 + at[2])
        load = np.array([force])
        both = ends_under(cross, mount, load)[:, 0]
        assert both[:, :3].sum(0) == pytest.approx(load[0], abs=1e-6 * (1 + np.abs(load).max()))
        about = np.array([5.0, -8.0, 3.0])
        moment = sum(
            np.cross(np.asarray(end) - about, f[:3]) + f[3:]
            for end, f in zip((cross.points[0], cross.points[-1]), both, strict=True)
        )
        want = np.cross(np.asarray(mount) - about, load[0])
        assert moment == pytest.approx(want, abs=2e-4 * (1 + np.abs(want).max()))

    def test_lever_rule(self) -> None:
        """3 kN down on a straight tube, 200 mm from its left end of 800: three quarters go left."""
        cross = Crossmember(points=((0, 400, 0), (0, -400, 0)), section=HollowSection(wall_mm=3))
        left, right = ends_under(cross, (0, 200, 0), np.array([[0.0, 0.0, -3000.0]]))[:, 0]
        assert (left[2], right[2]) == pytest.approx((-2250, -750))
        assert np.abs(left[3:]).max() < 1e-6  # hinged: nothing is bent into the rail


class TestByHand:
    def test_bolts(self, straight: Job) -> None:
        """4 kN down in the middle: 2 kN an end, 1 kN a bolt in shear. The tube pulls 6 mm off the wall, 12 N
        m, which the bolts hold about an edge of the plate as near as the nearest is to a bolt, 20 mm: 300 N
        each (its lower edge is 40 mm away: the safe side)."""
        cross = straight.crossmember
        assert cross is not None
        found = end_checks(cross, seats_of(straight), (-880.3, 0.0, -75.0), [case((0, 0, 4000))], PLAIN)
        bolts = [f for f in found if f.code == "end-bolts"]
        assert [f.part_name for f in bolts] == ["Crossmember, left end", "Crossmember, right end"]
        for finding in bolts:
            assert put_in(finding, "shear") == pytest.approx(1000, rel=1e-6)
            assert put_in(finding, "tension") == pytest.approx(300, rel=1e-6)
            # M10 8.8: 58.0 mm2 x 800 MPa: 33.4 kN in tension, 22.3 in shear (EN 1993-1-8 table 3.4)
            assert finding.use == pytest.approx(1000 / 22270 + 300 / (1.4 * 33410), rel=0.01)
        lever = next(f for f in found if f.code == "end-tightening")
        assert lever.load == pytest.approx(40e3 / (straight.allowables.nut_factor * 10))
        sleeve = next(f for f in found if f.code == "end-sleeve")
        assert sleeve.use == pytest.approx(20000 / (np.pi / 4 * (18**2 - 10.5**2) * 235), rel=1e-6)

    def test_slots_and_washers(self, straight: Job) -> None:
        """A slotted end holds by friction: 1 kN a bolt on 0.2 x 0.7 x 20 kN; without slots that is not asked.
        The pull of 300 N bends the rail's wall under a washer."""
        job = with_value(straight, "crossmember/plates/slot_mm", 8.0)
        assert job.crossmember is not None and straight.crossmember is not None
        rows = [case((0, 0, 4000))]
        found = end_checks(job.crossmember, seats_of(job), (-880.3, 0.0, -75.0), rows, PLAIN)
        slip = next(f for f in found if f.code == "end-slip")
        clamp = 40e3 / (PLAIN.nut_factor * 10)
        assert slip.load == pytest.approx(1000, rel=1e-6)
        assert slip.use == pytest.approx(1000 / (FRICTION * LOW_CLAMP * clamp), rel=0.02)
        plain = end_checks(straight.crossmember, seats_of(straight), (-880.3, 0.0, -75.0), rows, PLAIN)
        assert not [f for f in plain if f.code == "end-slip"]
        pulled = next(f for f in plain if f.code == "end-pulled")
        assert pulled.load == pytest.approx(300, rel=1e-6) and 0 < pulled.use < 0.2

    def test_what_is_kept_in_hand(self, straight: Job) -> None:
        """Twice the load where a rare case is to be borne twice over, three times where one of every day
        is."""
        cross = straight.crossmember
        assert cross is not None
        allow = Allowables(everyday_factor=3.0, rare_factor=2.0)
        for kind, times in (("rare", 2), ("everyday", 3)):
            rows = [case((0, 0, 4000), kind)]
            found = end_checks(cross, seats_of(straight), (-880.3, 0.0, -75.0), rows, allow)
            bolts = next(f for f in found if f.code == "end-bolts")
            assert put_in(bolts, "shear") == pytest.approx(1000 * times, rel=1e-6)
            assert bolts.factor == times

    def test_fore_and_aft(self, straight: Job) -> None:
        """3 kN ahead on a mount 250 mm left of the middle: by the lever rule, half of each end's share a
        bolt."""
        cross = straight.crossmember
        assert cross is not None
        found = end_checks(cross, seats_of(straight), (-880.3, 250.0, -75.0), [case((-3000, 0, 0))], PLAIN)
        left, right = (put_in(f, "shear") for f in found if f.code == "end-bolts")
        share = (389 + 250) / 778
        assert (left, right) == pytest.approx((3000 * share / 2, 3000 * (1 - share) / 2), rel=1e-6)

    def test_weld(self, straight: Job) -> None:
        """2 kN down on a weld round 40 x 40: 160 mm of it, 12.5 N/mm, and nothing else."""
        cross = straight.crossmember
        assert cross is not None
        found = end_checks(cross, seats_of(straight), (-880.3, 0.0, -75.0), [case((0, 0, 4000))], PLAIN)
        weld = next(f for f in found if f.code == "end-weld")
        assert weld.load == pytest.approx(2000 / 160, rel=1e-6)
        assert weld.use == pytest.approx(12.5 / (360 / (np.sqrt(3) * 0.8 * 1.25) * 3), rel=1e-6)

    def test_plate_raised_on_either_side(self, straight: Job) -> None:
        """A plate 20 mm above its tube: both ends alike, as both carry alike; the tube is under its middle on
        both, though right and left lie mirrored."""
        job = with_value(straight, "crossmember/plates/up_mm", 20.0)
        cross = job.crossmember
        assert cross is not None
        found = end_checks(cross, seats_of(job), (-880.3, 0.0, -75.0), [case((0, 900, 4000))], PLAIN)
        # the push to the side goes to the left end alone, as the right one slides; so look at the load down
        down = end_checks(cross, seats_of(job), (-880.3, 0.0, -75.0), [case((0, 0, 4000))], PLAIN)
        for code in CODES:
            one, two = (f.use for f in down if f.code == code)
            assert one == pytest.approx(two, rel=1e-9), code
        pulled = [put_in(f, "tension") for f in found if f.code == "end-bolts"]
        assert max(pulled) != pytest.approx(min(pulled), rel=0.05)
        for seat in seats_of(job):
            assert seat.centre[2] - seat.node[2] == pytest.approx(20.0)


def test_its_own_tone(straight: Job) -> None:
    """A straight tube of 40 x 40 x 3 between hinges, 48 kg at rest in its middle: f = sqrt(48 E I/L3 / m) / 2
    pi, half of the tube's own weight with it."""
    cross = straight.crossmember
    assert cross is not None
    rest = case((0.0, 0.0, 48 * 9.80665), "rest")
    found = crossmember_checks(cross, (-880.3, 0.0, -75.0), [rest], PLAIN)
    tone = next(f for f in found if f.code == "crossmember-tone")
    i = figures_of(cross.section).own.i_lying
    k = 48 * 210e3 * i / 778**3
    own = 0.778 * figures_of(cross.section).own.kg_per_m
    hand = np.sqrt(1000 * k / (48 + own / 2)) / (2 * np.pi)
    assert tone.capacity == pytest.approx(hand, rel=1e-4) and tone.use == pytest.approx(20 / hand, rel=1e-4)


def test_the_propshaft_as_it_sags(demo: Job) -> None:
    """Sag over the way to the engine mounts, as an angle, of what the hardest joint has to spare; with no
    joint to spare that is said of the driveline, not here."""
    v = verdict(demo)
    found = next(f for f in v.findings if f.code == "crossmember-driveline")
    sag = next(f for f in v.findings if f.code == "crossmember-sag").load
    gearbox = next(m for m in demo.mounts if m.id == "gearbox").bush.centre[0]
    engine = [m.bush.centre[0] for m in demo.mounts if m.id != "gearbox"]
    turned = np.degrees(np.arctan(sag / abs(gearbox - sum(engine) / len(engine))))
    assert found.load == pytest.approx(turned) and v.driveline is not None
    spare = demo.joint_limits.most_deg - max(v.driveline.angles or (v.driveline.front, v.driveline.rear))
    assert found.use == pytest.approx(turned / spare)
    tight = with_value(demo, "joint_limits/most_deg", 1.0)
    assert not [f for f in verdict(tight).findings if f.code == "crossmember-driveline"]


class TestWhereTheyLie:
    @pytest.mark.parametrize("where", ["beside", "under", "top"])
    def test_against_the_rail(self, straight: Job, where: str) -> None:
        """Rails 60 wide about 425, from -150 to 0 in height: flat on their inner sides, under or on them."""
        plates = EndPlates(where=where, other_mm=58, plate_mm=5)
        z = {"beside": -75.0, "under": -150 - 5 - 20.0, "top": 5 + 20.0}[where]
        y = 390.0 if where == "beside" else 425.0
        points = ((-880.3, y, z), (-880.3, -y, z))
        job = with_value(with_value(straight, "crossmember/points", points), "crossmember/plates", plates)
        for seat, sign in zip(seats_of(job), (1, -1), strict=True):
            assert seat.open_mm == pytest.approx(0.0, abs=1e-9)
            solid = end_plate_part(job)[0].solids[0 if sign > 0 else 1]
            p = solid.triangles[0]
            if where == "beside":
                assert sorted(abs(v) for v in (p[:, 1].min(), p[:, 1].max())) == pytest.approx([390, 395])
            else:
                low, high = {"under": (-155, -150), "top": (0, 5)}[where]
                assert (p[:, 2].min(), p[:, 2].max()) == pytest.approx((low, high))
                assert sign * (p[:, 1].min() + p[:, 1].max()) / 2 == pytest.approx(425)
            assert np.ptp(p[:, 0]) == pytest.approx(140)
        assert not end_questions(job)

    def test_cut_back_for_them(self, demo: Job) -> None:
        """Put on by the program: on the rails, the tube flush, nothing open, nothing in one another."""
        bare = with_value(demo, "crossmember/plates", None)
        long = with_value(bare, "crossmember/points/0", (-880.3, 394.0, -127.0))
        job = with_end_plates(long)
        assert job.crossmember is not None and job.crossmember.points[0][1] == pytest.approx(389.0)
        assert not end_questions(job)
        assert not [p.sentence for p in verdict(job).problems if p.stage == "crossmember"]


class TestSaid:
    @pytest.mark.parametrize(
        ("path", "value", "said"),
        [
            ("crossmember/points/0", (-880.3, 383.0, -75.0), "too short to reach"),
            ("crossmember/points/1", (-880.3, -393.0, -75.0), "too far into"),
            ("crossmember/plates/up_mm", 72.0, "off Left rail"),
            ("crossmember/plates/up_mm", 68.0, "runs into a side wall of Left rail"),
            ("crossmember/plates/hole_mm", 10.0, "not for M10"),
            ("crossmember/plates/hole_mm", 14.5, "not for M10"),
            ("items/rail-left/host/section", "unsaid", "what section"),
            ("items/rail-right/host/wall_mm", None, "measure the wall"),
            ("items/rail-left/host/section", "open C", "no sleeve"),
            ("items/rail-right/host/section", "tube", "is round"),
            ("crossmember/plates/up_mm", 21.0, "not all on its plate"),
            ("crossmember/plates/along_mm", 990.0, "beyond the end"),
            ("crossmember/plates/sleeve_mm", 10.0, "does not go over"),
        ],
    )
    def test_what_is_open(self, straight: Job, path: str, value: Any, said: str) -> None:
        assert not end_questions(straight)
        asked = [p.sentence for p in end_questions(with_value(straight, path, value))]
        assert any(said in s for s in asked), asked

    def test_a_plate_on_a_cut(self, straight: Job) -> None:
        """The left rail begins at 620 ahead: 1500 from there its plate is, 140 long; a cut that ends just
        before it, and one that does not."""
        for begins, lies in ((1300.0, False), (1340.0, True), (1575.0, False), (1565.0, True)):
            cut = Opening(id="cut", name="Cut", item="rail-left", at_mm=begins, long_mm=100, deep_mm=20)
            asked = [p.sentence for p in end_questions(with_value(straight, "openings", (cut,)))]
            assert any("where Cut is cut" in s for s in asked) == lies, begins

    @pytest.mark.parametrize("field", ["pitch_mm", "rows_mm"])
    def test_off_the_plate(self, field: str) -> None:
        with pytest.raises(ValidationError, match="off a plate"):
            EndPlates(**{"bolts": 4, field: 300.0})

    def test_the_mount_holds_to_the_rail(self, demo: Job) -> None:
        """With its ends described and looked at; not without them, not with a wall unsaid, not with bolts
        tightened too far."""

        def rail(job: Job) -> tuple[str, tuple[str, ...]]:
            found = next(m for m in verdict(job).mounts if m.mount == "gearbox")
            return found.bush_to_rail, found.rail_questions

        state, asked = rail(demo)
        assert state == "holds" and not asked
        state, asked = rail(with_value(demo, "crossmember/plates", None))
        assert state == "open" and "not described yet" in asked[0]
        state, asked = rail(with_value(demo, "items/rail-left/host/wall_mm", None))
        assert state == "open" and any("measure the wall" in s for s in asked)
        assert rail(with_value(demo, "crossmember/plates/tightening_nm", 90.0))[0] == "does not hold"

    def test_one_that_is_not_known_keeps_it_open(self, demo: Job) -> None:
        """Whichever of the findings of an end is not there; a solid rail needs none of its wall."""
        found = verdict(demo).findings
        mount = next(m for m in demo.mounts if m.id == "gearbox")
        assert mount_verdict(demo, mount, found, ()).bush_to_rail == "holds"
        for lost in [f for f in found if f.code.startswith("end-")]:
            left = [f for f in found if f is not lost]
            told = mount_verdict(demo, mount, left, ())
            assert told.bush_to_rail == "open" and "not all is known" in told.rail, lost.code
        solid = demo
        for rail in ("rail-left", "rail-right"):
            solid = with_value(solid, f"items/{rail}/host/section", "solid")
        solid = with_value(solid, "crossmember/plates/through", "captive nuts")
        told = next(m for m in verdict(solid).mounts if m.mount == "gearbox")
        assert told.bush_to_rail == "holds", told.rail_questions

    def test_every_finding_is_there(self, demo: Job) -> None:
        assert demo.crossmember is not None and demo.crossmember.plates is not None
        found = [f for f in verdict(demo).findings if f.code.startswith("end-")]
        assert len(found) == needed(demo.crossmember.plates, seats_of(demo)) == 18
        assert {f.stage for f in found} == {"crossmember"}
        assert all(isinstance(f, Finding) and f.use > 0 for f in found)


def test_list_and_template(demo: Job) -> None:
    row = next(r for r in cut_list(demo) if r.part == "Crossmember: end plates")
    hand = (140 * 80 - 2 * np.pi / 4 * 11**2) * 6 * 7.85e-6
    assert row.quantity == 2 and row.mass_kg == pytest.approx(hand, abs=0.006)
    drawing = next(d for d in templates(demo)[0] if d.name == "end-plate")
    assert "CIRCLE" in dxf(drawing)
    slotted = with_value(demo, "crossmember/plates/slot_mm", 6.0)
    assert "CIRCLE" not in dxf(next(d for d in templates(slotted)[0] if d.name == "end-plate"))


def test_room(desk: Desk) -> None:
    """By the mouse: taken off, put on again."""
    desk.go("crossmember")
    unfold_all(desk.sheets["crossmember"])
    click(desk, "Take them off")
    assert desk.session.job.crossmember is not None and desk.session.job.crossmember.plates is None
    group = desk.sheets["crossmember"].findChild(EndPlatesGroup)
    assert group is not None and "does not hold" in group.said.text()
    click(desk, "Put end plates on")
    assert desk.session.job.crossmember.plates is not None and "Left rail" in group.said.text()
