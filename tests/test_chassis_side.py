"""From the bush to the rail: where a foot stands, each part by hand, and what may not be called held."""

from __future__ import annotations

import json
import math
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from nimble_cradle.bay.member import members_of
from nimble_cradle.cli.main import main
from nimble_cradle.demo import demo_folder
from nimble_cradle.design.first_foot import first_foot, with_foot_kind
from nimble_cradle.design.propose import ARM, SHEETS, TUBES, proposed
from nimble_cradle.families.foot_seat import FootSeat
from nimble_cradle.findings.finding import Finding
from nimble_cradle.geometry.pose import Array, rotation_xyz
from nimble_cradle.job.base import JobError
from nimble_cradle.job.edits import removed, with_value
from nimble_cradle.job.foot import PlateFoot
from nimble_cradle.job.job import Job
from nimble_cradle.job.new import new_job
from nimble_cradle.job.shapes import Box
from nimble_cradle.job.tube_arm import Tube, TubeArm
from nimble_cradle.judge.carried import carried
from nimble_cradle.judge.verdict import verdict
from nimble_cradle.made.foot_seats import foot_seats
from nimble_cradle.made.parts import made
from nimble_cradle.mounts.fit_up import Hole, fit_up, spare
from nimble_cradle.shop.templates import templates
from nimble_cradle.stock.rack import Rack, RackSheet


def found(job: Job, mount: str, code: str) -> Finding:
    return next(f for f in verdict(job).findings if f.part == mount and f.code == code)


def rail(job: Job, mount: str) -> str:
    return next(m.bush_to_rail for m in verdict(job).mounts if m.mount == mount)


def loads(job: Job, mount: str) -> tuple[Array, Array]:
    """Forces (k, 3) on the chassis with their factors, and which cases are at rest or every day."""
    rows, factors = [], []
    for case in carried(job).cases:
        rows.append(next(m.force for m in case.mounts if m.mount == mount))
        everyday = case.case.kind != "rare"
        factors.append(job.allowables.everyday_factor if everyday else job.allowables.rare_factor)
    return np.array(rows) * np.array(factors)[:, None], np.array(factors)


class TestByHand:
    """The truck's left mount: bush at -38, 242, 0, its bolt along x; the rail's inner face is y = 395, 150
    high and 60 deep; the foot 130 x 110 x 8, its middle 60 below the bolt; cheeks 5 thick, 90 wide at the
    foot, clamped; wall 3 mm, 235 MPa."""

    def test_where_it_stands(self, demo: Job) -> None:
        seat = foot_seats(demo).of("left")
        assert seat is not None
        assert seat.centre == pytest.approx([-38, 395, -60]) and seat.height == pytest.approx(153)
        assert seat.axes[:, 0] == pytest.approx([1, 0, 0]) and seat.axes[:, 2] == pytest.approx([0, -1, 0])
        assert np.linalg.det(seat.axes) == pytest.approx(1)
        assert seat.face_mm == pytest.approx(150, abs=0.2) and seat.depth == pytest.approx(60)
        assert seat.rail_along_bolt

    def test_cheeks_bent(self, demo: Job) -> None:
        force, _ = loads(demo, "left")
        high, t, w = 153.0 - 8, 6.0, 90.0
        along, across, out = force[:, 0], force[:, 2], -force[:, 1]
        tip = 60 * out - high * across
        over = np.abs(along) * high / 4
        sigma = np.abs(out) / (2 * w * t) + 6 * np.abs(tip) / (2 * t * w**2) + 6 * over / (w * t**2)
        tau = np.abs(tip) / high / (2 * w * t)
        stress = np.sqrt(sigma**2 + 3 * tau**2)
        told = found(demo, "left", "foot-cheeks")
        assert told.use == pytest.approx(stress.max() / 355, rel=1e-6)
        loose = with_value(demo, "mounts/left/cross_bolt/tightening_nm", None)
        assert found(loose, "left", "foot-cheeks").use > 1.2 * told.use  # each a cantilever then

    def test_the_wall(self, demo: Job) -> None:
        force, _ = loads(demo, "left")
        along, across, out = force[:, 0], force[:, 2], -force[:, 1]
        b, eta, t, fy, h1 = 110 / 150, 130 / 150, 3.0, 235.0, 130.0
        n = fy * t**2 / (1 - b) * (2 * eta + 4 * math.sqrt(1 - b))
        m_in = fy * t**2 * h1 * (1 / (2 * eta) + 2 / math.sqrt(1 - b) + eta / (1 - b))
        m_out = fy * t**2 * (h1 * (1 + b) / (2 * (1 - b)) + math.sqrt(2 * 150 * 110 * (1 + b) / (1 - b)))
        use = np.abs(out) / n + np.abs(153 * along) / m_in + np.abs(60 * out - 153 * across) / m_out
        assert found(demo, "left", "foot-wall").use == pytest.approx(use.max(), rel=5e-3)

    def test_the_life_of_the_cheeks_welds(self, demo: Job) -> None:
        """Five changes of load without factors; toe of a tee (71) and root of fillets (36) over 1.35, slope 3
        down to 0.737, then 5, nothing under 0.549 of that; Miner. Four weld lines 90 long, throat 4."""
        at = {c.case.id: next(m.force for m in c.mounts if m.mount == "left") for c in carried(demo).cases}
        changes = (
            ("first-gear", "overrun", 1e5),
            ("first-gear", "reverse", 2e4),
            ("left-bend", "right-bend", 1e5),
            ("weight-down", "weight-up", 1e6),
            ("bump", "rebound", 1e3),
        )
        gap, t, w, high = demo.mounts[0].bush.length_mm + 2 * 12.0, 6.0, 90.0, 145.0  # type: ignore[union-attr]
        places = [s * (gap / 2 + d) for s in (-1, 1) for d in (0.0, t)]
        i_u = 4 * w**3 / 12
        i_v = w * sum(x**2 for x in places)
        wear = {71.0: 0.0, 36.0: 0.0}
        for one, other, times in changes:
            d = at[one] - at[other]
            own = np.array([d[0], d[2], -d[1]])
            moment = np.cross([0.0, 60.0, high], own)
            over = abs(own[0]) * high / 4
            tip = moment[0]
            sigma = abs(own[2]) / (2 * w * t) + 6 * abs(tip) / (2 * t * w**2) + 6 * over / (w * t**2)
            toe = math.hypot(sigma, math.sqrt(3) * abs(tip) / high / (2 * w * t))
            m_v = math.copysign(max(abs(moment[1]) - 2 * over, 0.0), moment[1])
            line = 0.0
            for x in places:
                for y in (-w / 2, w / 2):
                    plane = own[:2] / (4 * w) + moment[2] / (i_u + i_v) * np.array([-y, x])
                    normal = own[2] / (4 * w) + moment[0] * y / i_u - m_v * x / i_v
                    line = max(line, math.sqrt(float(plane @ plane) + normal**2))
            root = (line + over / w / (t + 4.0)) / 4.0
            for category, stress in ((71.0, toe), (36.0, root)):
                c = category / 1.35
                knee = 0.737 * c
                if stress >= knee:
                    wear[category] += times / (2e6 * (c / stress) ** 3)
                elif stress > 0.549 * knee:
                    wear[category] += times / (5e6 * (knee / stress) ** 5)
        told = found(demo, "left", "foot-life")
        # ranges of some 15 MPa are handed on with four places, 0.00005 / 15 of each, to the power 5/3
        assert told.use == pytest.approx(max(wear.values()) ** (1 / 3), rel=5.5e-6)

    def test_the_weld_round_the_foot(self, demo: Job) -> None:
        """A rectangle of lines 130 x 110: I about the bolt's way 2 x 130 x 55^2 + 2 x 110^3/12 and so on,
        every corner, throat 3, the weaker steel the rail's at 1.4 x 235."""
        force, _ = loads(demo, "left")
        own = np.column_stack([force[:, 0], force[:, 2], -force[:, 1]])
        moment = np.cross(np.array([0.0, 60.0, 153.0]), own)
        long, iu = 480.0, 2 * 130 * 55.0**2 + 2 * 110.0**3 / 12
        iv = 2 * 110 * 65.0**2 + 2 * 130.0**3 / 12
        worst = np.zeros(len(own))
        for u, v in ((65, 55), (-65, 55), (65, -55), (-65, -55)):
            plane = own[:, :2] / long + moment[:, 2:] / (iu + iv) * np.array([-v, u])
            normal = own[:, 2] / long + moment[:, 0] * v / iu - moment[:, 1] * u / iv
            worst = np.maximum(worst, np.sqrt((plane**2).sum(1) + normal**2))
        capacity = 1.4 * 235 / (math.sqrt(3) * 0.8 * 1.25) * 3
        assert found(demo, "left", "foot-weld").use == pytest.approx(worst.max() / capacity, rel=1e-6)

    def test_the_bolts_of_the_hatchbacks_foot(self, hatchback: Job) -> None:
        """Four bolts at 58 x 20 about the middle, 27 mm outboard of the bush; M10 8.8: 0.9 x 800 x 58/1.25 N
        in tension, 0.6 in shear."""
        seat = foot_seats(hatchback).of("right")
        assert seat is not None
        force, _ = loads(hatchback, "right")
        own = force @ seat.axes
        bush = np.array(hatchback.mounts[0].bush.centre)
        lever = (bush - seat.centre) @ seat.axes
        moment = np.cross(lever, own)
        holes = np.array([(-58, -20), (58, -20), (58, 20), (-58, 20)], dtype=float)
        tipped = moment[:, :1] * holes[:, 1] / (4 * 400) - moment[:, 1:2] * holes[:, 0] / (4 * 58**2)
        tension = own[:, 2:] / 4 + tipped
        assert (72 / 2 - 20) * 4 * 20 <= 4 * 400  # so that pivoting on its edge asks no less
        tension = np.maximum(tension, 0)
        polar = 4 * (58**2 + 20**2)
        turned = moment[:, 2, None, None] / polar * np.column_stack([-holes[:, 1], holes[:, 0]])
        shear = np.linalg.norm(own[:, None, :2] / 4 + turned, axis=2)
        ft, fv = 0.9 * 800 * 58.0 / 1.25, 0.6 * 800 * 58.0 / 1.25
        use = np.maximum(shear / fv + tension / (1.4 * ft), tension / ft)
        assert found(hatchback, "right", "foot-bolts").use == pytest.approx(use.max(), rel=5e-3)


class TestSeats:
    def turned(self, job: Job) -> Job:
        """The truck with its left rail yawed, and the bush's bolt and way with it."""
        turn = rotation_xyz(0, 0, 12.0)
        about = np.array([-38.0, 395.0, -60.0])

        def point(p: Any) -> tuple[float, ...]:
            return tuple(float(x) for x in about + turn @ (np.array(p) - about))

        def way(v: Any) -> tuple[float, ...]:
            return tuple(float(x) for x in turn @ np.array(v))

        shape = job.items[0].shapes[0]
        job = with_value(job, "items/rail-left/shapes/0/centre", point(shape.centre))  # type: ignore[union-attr]
        job = with_value(job, "items/rail-left/shapes/0/turn", (0.0, 0.0, 12.0))
        job = with_value(job, "mounts/left/bush/centre", point(job.mounts[0].bush.centre))
        job = with_value(job, "mounts/left/bush/axis", way((1.0, 0.0, 0.0)))
        return with_value(job, "mounts/left/foot/way", way((0.0, 1.0, 0.0)))

    def test_a_turned_rail_gives_the_same_seat_turned(self, demo: Job) -> None:
        plain, turned = foot_seats(demo).of("left"), foot_seats(self.turned(demo)).of("left")
        assert plain is not None and turned is not None
        assert turned.height == pytest.approx(plain.height, abs=1e-3)
        assert turned.face == pytest.approx(plain.face, abs=0.3)
        assert turned.lies(130, 110).open_mm == pytest.approx(0, abs=1e-6)
        assert turned.lies(130, 110).lean_deg == pytest.approx(0, abs=1e-6)

    def test_a_leaning_face_is_told_by_its_angle(self, demo: Job) -> None:
        job = with_value(demo, "items/rail-left/shapes/0/turn", (0.0, 0.0, 9.0))
        seat = foot_seats(job).of("left")
        assert seat is not None and seat.lies(130, 110).lean_deg == pytest.approx(9, abs=0.01)
        job = with_value(demo, "items/rail-left/shapes/0/turn", (0.0, 0.0, 20.0))
        assert any("leans 20 deg" in p.sentence for p in verdict(job).problems)

    def test_left_and_right_are_mirror_images(self, demo: Job) -> None:
        """The same foot on the other side, its figures mirrored, is used as hard by mirrored forces."""
        seats = foot_seats(demo)
        left, right = seats.of("left"), seats.of("right")
        assert left is not None and right is not None
        assert right.face.across_back == pytest.approx(left.face.across_fore, abs=0.2)
        force = np.array([[700.0, -900.0, 2100.0]])
        one, two = left.loads(demo.mounts[0], force), right.loads(demo.mounts[1], force * [1, -1, 1])
        assert two[0] == pytest.approx(one[0] * [1, -1, 1]) and two[1] == pytest.approx(one[1] * [-1, 1, -1])

    def test_a_second_skin_bends_under_the_foot_and_is_not_in_the_side_walls(self, hatchback: Job) -> None:
        """The right leg of the hatchback: two skins under the foot bend as the root of the sum of their
        squares; the side walls behind it are of the first alone, and crumple by its thickness (EN 1993-1-3,
        6.1.7.3, as in test_sections)."""
        wall = found(hatchback, "right", "foot-wall").worked
        given = {quantity.name: value for quantity, value, _ in wall.inputs}
        mount = next(m for m in hatchback.mounts if m.id == "right")
        assert mount.foot is not None
        host = next(i for i in hatchback.items if i.id == mount.foot.host).host
        assert host.wall_mm is not None and host.second_skin_mm > 0
        t, long = host.wall_mm, float(given["along"])
        assert given["wall"] == pytest.approx(math.hypot(t, host.second_skin_mm))
        one = (
            0.115 * t**2 * math.sqrt(host.yield_mpa * 210000) * 0.9 * (0.5 + math.sqrt(0.02 * long / t)) * 3.4
        )
        assert wall.value("force_capacity") == pytest.approx(2 * one)

    def test_an_item_made_from_points_carries_too(self, hatchback: Job) -> None:
        seat = foot_seats(hatchback).of("left")
        assert seat is not None and seat.host.name == "Left chassis leg"
        assert seat.face_mm == pytest.approx(70, abs=1.0) and seat.depth == pytest.approx(58, abs=0.5)


def edit(path: str, value: Any) -> Any:
    return lambda job: with_value(job, path, value)


def gone(path: str) -> Any:
    return lambda job: removed(job, path)


FOOT, HOST = "mounts/left/foot", "items/rail-left"
NOT_HELD = {
    "no chassis side": (edit(FOOT, None), "not described yet"),
    "turned away from the rail": (edit(f"{FOOT}/way", (0.0, -1.0, 0.0)), "meets nothing"),
    "along its own bolt": (edit(f"{FOOT}/way", (1.0, 0.0, 0.0)), "runs along its bolt"),
    "a host that is gone": (gone(HOST), "is not in the bay"),
    "a host that is taken out": (edit(f"{HOST}/fate", "remove"), "is taken out"),
    "no chassis": (edit(f"{HOST}/chassis", False), "no part of the chassis"),
    "material not said": (edit(f"{HOST}/material", "unsaid"), "say what it is made of"),
    "magnesium, welded": (edit(f"{HOST}/material", "magnesium"), "never welded"),
    "plastic": (edit(f"{HOST}/material", "plastic"), "carries no mount"),
    "section not said": (edit(f"{HOST}/host/section", "unsaid"), "what section"),
    "a sheet": (edit(f"{HOST}/host/section", "plate"), "a sheet by itself"),
    "an open rail": (edit(f"{HOST}/host/section", "open C"), "open on one side"),
    "wall not said": (edit(f"{HOST}/host/wall_mm", None), "measure its wall"),
    "bolted without bolts": (edit(f"{FOOT}/fixing", "bolted"), "fewer than two bolts"),
    "over the edge": (edit(f"{FOOT}/shift", (0.0, 40.0)), "meets nothing"),
    "the eye in its foot": (edit("mounts/left/bush/centre", (-38.0, 345.0, 0.0)), "eye"),
}
FAILS = {
    "thin skin": (edit(f"{HOST}/host/wall_mm", 0.9), "foot-wall"),
    "weak steel": (edit(f"{HOST}/host/yield_mpa", 90.0), "foot-wall"),
    "a small foot": (edit(f"{FOOT}/across_mm", 60.0), "foot-wall"),
    "thin cheeks": (edit("mounts/left/cross_bolt/cheek_mm", 2.0), "foot-cheeks"),
    "narrow cheeks": (edit(f"{FOOT}/cheek_foot_mm", 30.0), "foot-cheeks"),
    "thin welds on one side": (
        lambda job: with_value(with_value(job, f"{FOOT}/weld_inside", False), f"{FOOT}/cheek_weld_mm", 3.0),
        "foot-cheek-weld",
    ),
    "a thin foot": (edit(f"{FOOT}/plate_mm", 2.5), "foot-overhang"),
}


class TestNothingEndsInTheAir:
    @pytest.mark.parametrize("fault", NOT_HELD, ids=lambda f: f.replace(" ", "-"))
    def test_open_with_its_reason(self, demo: Job, fault: str) -> None:
        change, words = NOT_HELD[fault]
        v = verdict(change(demo))
        told = next(m for m in v.mounts if m.mount == "left")
        assert told.bush_to_rail in ("open", "not described yet") and not v.holds
        said = [told.rail, *told.rail_questions, *(p.sentence for p in v.problems)]
        assert any(words in sentence for sentence in said), said
        assert all(len(sentence) < 220 and "\n" not in sentence for sentence in said)

    @pytest.mark.parametrize("fault", FAILS, ids=lambda f: f.replace(" ", "-"))
    def test_planted_faults_are_caught(self, demo: Job, fault: str) -> None:
        change, code = FAILS[fault]
        assert rail(demo, "left") == "holds"
        job = change(demo)
        assert found(job, "left", code).use > 1 and rail(job, "left") == "does not hold"

    def test_a_patch_a_second_skin_and_a_longer_saddle_cure(self, demo: Job, hatchback: Job) -> None:
        thin = with_value(demo, f"{HOST}/host/wall_mm", 1.6)
        use = found(thin, "left", "foot-wall").use
        assert use > 1
        for path, value in ((f"{HOST}/host/second_skin_mm", 2.5), (f"{FOOT}/across_mm", 124.0)):
            assert found(with_value(thin, path, value), "left", "foot-wall").use < use
        patched = with_value(with_value(thin, f"{FOOT}/patch_mm", 6.0), f"{FOOT}/patch_more_mm", 15.0)
        assert found(patched, "left", "foot-wall").use < 0.9 * use
        short = with_value(hatchback, "mounts/left/foot/along_mm", 100.0)
        assert found(short, "left", "foot-wall").use > found(hatchback, "left", "foot-wall").use

    def test_bolts_beside_a_side_wall(self, demo: Job) -> None:
        """A rail 150 wide, its wall 3: 72 to its inside. Holes of 11 leave it at 66.5, a nut plate of 30 at
        57 and a millimetre ground off; a sleeve has its washer outside."""
        assert foot_seats(demo).of("left").face_mm == pytest.approx(150)  # type: ignore[union-attr]

        def told(across: float, **fields: object) -> str:
            holes = tuple((x, y) for x in (-50.0, 50.0) for y in (-across, across))
            values = {
                "fixing": "bolted",
                "holes": holes,
                "along_mm": 130.0,
                "across_mm": 220.0,
                "shift": (0, -75),
            }
            foot = demo.mounts[0].foot
            assert foot is not None
            job = with_value(demo, FOOT, foot.model_copy(update={**values, **fields}))
            rows = [p.sentence for p in verdict(job).problems if p.place == f"{FOOT}/holes"]
            assert len(rows) <= 1 and (not rows or rail(job, "left") == "open")
            return rows[0] if rows else ""

        for across, words in (
            (57.9, ""),
            (58.1, "too wide"),
            (66.4, "too wide"),
            (66.6, "a side wall"),
            (76, "past"),
        ):
            assert (words in told(across)) and bool(words) == bool(told(across)), across
        assert not told(66.0, sleeves=True) and not told(61.0, washer_mm=22.0)
        assert "a side wall" in told(66.6, sleeves=True)
        assert not told(55.0, washer_mm=34.0) and "too wide" in told(55.1, washer_mm=36.0)

    def test_aluminium_is_bolted_and_kept_apart(self, hatchback: Job) -> None:
        job = with_value(hatchback, "items/leg-right/material", "aluminium")
        assert rail(job, "right") == "open"
        job = with_value(job, "mounts/right/foot/insulated", True)
        assert rail(job, "right") == rail(hatchback, "right") == "holds"

    def test_a_solid_host_has_no_wall_to_fail(self, demo: Job) -> None:
        """Nor is it judged as a beam, and without it the other rail is not: both are asked about."""
        job = with_value(demo, f"{HOST}/host/section", "solid")
        asked = [p.place for p in verdict(job).problems if "not judged as a beam" in p.sentence]
        assert asked == [f"items/rail-{side}/host/looked_at" for side in ("left", "right")]
        assert rail(job, "left") == rail(job, "right") == "open"
        for place in asked:
            job = with_value(job, place, "looked at")
        told = next(m for m in verdict(job).mounts if m.mount == "left")
        assert told.bush_to_rail == "holds" and not any("wall of Left rail" in x.part for x in told.chain)

    def test_what_hangs_in_the_air_is_asked_about(self, hatchback: Job) -> None:
        """The subframe cut down to a block round the foot, which touches nothing: no beam, and it does not
        hold a mount before somebody has looked at what it is fixed to."""
        assert rail(hatchback, "rear") == "holds"
        seat = foot_seats(hatchback).of("rear")
        member = next(m for m in members_of(hatchback)[0] if m.item.id == "subframe")
        assert seat is not None
        x, _, z = (float(c) for c in (member.start + member.end) / 2)
        block = Box(centre=(x, float(seat.centre[1]), z), size=(member.wide, 130.0, member.tall))
        items = tuple(
            i.model_copy(update={"made": None, "shapes": (block,)}) if i.id == "subframe" else i
            for i in hatchback.items
        )
        job = with_value(hatchback, "items", items)
        assert rail(job, "rear") == "open"
        told = next(m for m in verdict(job).mounts if m.mount == "rear")
        assert any(
            "Front subframe, which Rear torque mount stands on, is not" in s for s in told.rail_questions
        )
        assert rail(with_value(job, "items/subframe/host/looked_at", "looked at"), "rear") == "holds"

    def test_the_crossmember_keeps_its_mount_open(self, demo: Job) -> None:
        assert rail(with_value(demo, "crossmember/plates", None), "gearbox") == "open"
        assert rail(demo, "gearbox") == "holds"

    def test_the_cars_own_bracket_by_what_it_carried(self, demo: Job) -> None:
        job = with_foot_kind(demo, demo.mounts[0], "factory")
        assert rail(job, "left") == "open"
        job = with_value(job, f"{FOOT}/carried_kg", 150.0)
        assert rail(job, "left") == "holds"
        assert rail(with_value(job, f"{FOOT}/carried_kg", 90.0), "left") == "does not hold"


class TestProposed:
    def test_a_first_foot_stands_on_the_nearest_face(self, demo: Job) -> None:
        bare = with_value(demo, FOOT, None)
        foot = first_foot(bare, bare.mounts[0])
        assert foot.host == "rail-left" and foot.way == (0.0, 1.0, 0.0)
        seat = foot_seats(with_value(bare, FOOT, foot)).of("left")
        assert isinstance(foot, PlateFoot) and isinstance(seat, FootSeat)
        assert seat.off_face(foot.along_mm, foot.across_mm) == 0

    def test_with_no_chassis_about_it_is_said(self, demo: Job) -> None:
        bare = with_value(demo, FOOT, None)
        for item in demo.items:
            if item.chassis:
                bare = with_value(bare, f"items/{item.id}/chassis", False)
        with pytest.raises(JobError, match="mark in the bay what is chassis"):
            first_foot(bare, bare.mounts[0])

    @pytest.mark.parametrize("kind", ["plate", "saddle", "tabs", "factory"])
    def test_every_kind_is_made_listed_and_drawn(self, demo: Job, kind: str) -> None:
        job = with_foot_kind(demo, demo.mounts[0], kind)  # type: ignore[arg-type]
        parts = [p for p in made(job).parts if p.owner.id == "left" and not p.moves]
        roles = {p.role for p in parts if not p.stands_in}
        assert ("cheeks" in roles) == (kind != "factory")
        assert all(p.mass_kg > 0 for p in parts if p.role in ("cheeks", "foot", "saddle"))
        drawn, refused = templates(job)
        names = {d.name for d in drawn}
        assert not refused and ("cheek-left" in names) == (kind != "factory")
        assert ("base-left" in names) == (kind == "plate")

    def test_the_drawing_is_the_part(self, demo: Job) -> None:
        """The cheek projected on the eye of one whom the bolt points at: every corner of its solid lies on
        the drawing's outline."""
        seat = foot_seats(demo).of("left")
        assert seat is not None
        part = next(p for p in made(demo).parts if p.owner.id == "left" and p.role == "cheeks")
        assert part.flat is not None
        bush = np.array(demo.mounts[0].bush.centre)
        right, up = np.array([0.0, 0.0, 1.0]), np.array([0.0, -1.0, 0.0])  # seen from ahead, the rail below
        assert np.cross(right, up) == pytest.approx([1, 0, 0])
        for solid in part.solids:
            flat = (solid.triangles[0] - bush) @ np.column_stack([right, up])
            for corner in flat + part.flat.holes[0]:
                assert np.linalg.norm(part.flat.outline - corner, axis=1).min() < 1e-6
        apart = [s.triangles[0][:, 0].mean() for s in part.solids]
        eye = demo.mounts[0].bush.length_mm + 2 * 12.0  # type: ignore[union-attr]
        assert abs(apart[1] - apart[0]) == pytest.approx(eye + 6.0)

    def test_whole_mounts_are_proposed_and_sized(self, demo: Job) -> None:
        """Nothing there: three mounts, each with a chassis side where one can be, no thicker than holds."""
        bare = with_value(demo, FOOT, None)
        told = proposed(bare)
        assert (
            rail(told.job, "left") == "holds"
            and len(told.done) == 1
            and told.job.mounts[1:] == demo.mounts[1:]
        )
        foot = told.job.mounts[0].foot
        assert isinstance(foot, PlateFoot) and foot.plate_mm in SHEETS
        thinner = SHEETS[SHEETS.index(foot.plate_mm) - 1]
        assert found(with_value(told.job, f"{FOOT}/plate_mm", thinner), "left", "foot-overhang").use > 0.9
        rack = Rack(sheets=(RackSheet(thickness_mm=7.0), RackSheet(thickness_mm=11.0)))
        own = proposed(bare, rack).job.mounts[0]
        assert isinstance(own.foot, PlateFoot) and {own.foot.plate_mm, own.cross_bolt.cheek_mm} <= {7.0, 11.0}
        from_nothing = with_value(with_value(demo, "crossmember", None), "mounts", ())
        new = proposed(from_nothing)
        engine = new.job.mounts[0]
        assert len(new.job.mounts) == 3 and isinstance(engine.arm, Tube)
        assert engine.cross_bolt.tightening_nm and all(m.foot is not None for m in new.job.mounts)
        size = engine.arm.outside_mm, engine.arm.wall_mm
        smaller = sorted(TUBES, key=lambda s: s[0] * s[1])[
            : sorted(TUBES, key=lambda s: s[0] * s[1]).index(size)
        ]
        for outside, wall in smaller[-1:]:
            trial = with_value(new.job, "mounts/mount-1/arm", TubeArm(outside_mm=outside, wall_mm=wall))
            used = [f.use for f in verdict(trial).findings if f.part == engine.id and f.code in ARM]
            assert max(used) > 0.9
        thin = with_value(bare, "items/rail-left/host/wall_mm", 1.5)
        assert found(proposed(thin).job, "left", "foot-wall").use <= 1, "a saddle or a doubler"
        none = proposed(new_job("Nothing yet"))
        assert len(none.job.mounts) == 3 and any("mark in the bay" in words for words in none.done)


class TestFitUp:
    def two(self, apart: float, clearance: float) -> list[Hole]:
        """Two bolts along x, so far apart along y, with much room along."""
        return [
            Hole(str(k), str(k), np.array([0.0, y, 0.0]), np.array([1.0, 0, 0]), clearance, 20.0, np.zeros(3))
            for k, y in enumerate((0.0, apart))
        ]

    @pytest.mark.parametrize("off", [0.0, 0.4, 0.9, 1.3])
    def test_two_holes_by_hand(self, off: float) -> None:
        """Too far apart by ``off``, both move half of it: s = c - off/2. Off square to it they turn."""
        holes = self.two(300.0, 0.5)
        along = np.array([[0, 0, 0], [0, off, 0]], dtype=float)
        assert spare(holes, along) == pytest.approx(0.5 - off / 2, abs=1e-6)
        square = np.array([[0, 0, 0], [0, 0, off]], dtype=float)
        assert spare(holes, square) == pytest.approx(0.5, abs=1e-6)

    def test_a_slot_takes_what_it_is_long(self) -> None:
        holes = self.two(300.0, 0.5)
        off = np.array([[0, 0, 0], [0, 5.0, 0]], dtype=float)
        assert spare(holes, off) == pytest.approx(0.5 - 2.5)
        slotted = [holes[0], replace(holes[1], slot=np.array([0, 4.0, 0]))]
        assert spare(slotted, off) == pytest.approx(0.5 - 0.5, abs=1e-6)

    def test_the_same_every_time_and_worse_with_worse_work(self, demo: Job) -> None:
        first, again = fit_up(demo, 0.3), fit_up(demo, 0.3)
        rough = fit_up(demo, 1.5)
        assert first is not None and rough is not None
        assert (
            first == again
            and first.chance > rough.chance
            and set(first.order) == {m.name for m in demo.mounts}
        )

    def test_on_the_command_line(self, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
        job = str(demo_folder("light-truck"))
        assert main(["fit-up", job, "--json"]) == 0
        told = json.loads(capsys.readouterr().out)
        assert 0 <= told["fit_up"]["chance"] <= 1 and len(told["bolts"]) >= 12
        assert main(["trade-off", job, "--mount", "left", "--json"]) == 0
        told = json.loads(capsys.readouterr().out)
        assert len(told["mounts"]["left"]) >= 8 and len(told["captured"]) == 3
        out = tmp_path / "out.cradle"
        assert main(["propose", job, "-o", str(out), "--json"]) == 0
        told = json.loads(capsys.readouterr().out)
        assert [m["bush_to_rail"] for m in told["mounts"]] == ["holds", "holds", "holds"] and out.exists()
        for bad in (["fit-up", job, "--placed", "0"], ["trade-off", job, "--mount", "nobody"]):
            assert main(bad) == 2
            err = capsys.readouterr().err
            assert err.count("\n") == 1 and len(err) < 200
        assert main(["propose", job, "-o", str(out)]) != 0
