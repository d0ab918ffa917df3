"""Rails and members as beams under the mounts: against an independent frame, sections and torsion by hand,
where they rest, and what is said of them."""

from __future__ import annotations

import json
import math
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from nimble_cradle.cli.main import main
from nimble_cradle.desk.stages.chassis.frame_room import FrameRoom
from nimble_cradle.desk.window import Desk
from nimble_cradle.fit import frame_loads
from nimble_cradle.fit.chassis_frame import frame_shares
from nimble_cradle.fit.frame_loads import bimoments, frame_use, on_frame
from nimble_cradle.fit.frame_parts import metal_of, sorted_members
from nimble_cradle.job import store
from nimble_cradle.job.base import JobError
from nimble_cradle.job.bay import Item
from nimble_cradle.job.edits import with_value
from nimble_cradle.job.host import Host
from nimble_cradle.job.job import Job
from nimble_cradle.job.shapes import Box
from nimble_cradle.judge.rails import one_more, rail_findings, rails_judged
from nimble_cradle.judge.verdict import stage_states, verdict
from nimble_cradle.strength.cross_section import figures_of
from nimble_cradle.strength.member_use import MEMBER_USE, is_open, member_use
from nimble_cradle.strength.section import SectionKind, thin_walled, walls_of

BOX = (57.0, 147.0, 3.0)
"""Middle lines of the truck's rails, 60 x 150 x 3, mm."""


def box(b: float, h: float, t: float) -> dict[str, float]:
    """Area, moduli and torsion constant of a box by its middle lines."""
    up = 2 * t * h**3 / 12 + 2 * (b * t * (h / 2) ** 2 + b * t**3 / 12)
    aside = 2 * t * b**3 / 12 + 2 * (h * t * (b / 2) ** 2 + h * t**3 / 12)
    j = 4 * (b * h) ** 2 / (2 * (b + h) / t) + 2 * (b + h) * t**3 / 3
    return {"a": 2 * (b + h) * t, "up": up, "aside": aside, "j": j, "w1": up / (h / 2), "w2": aside / (b / 2)}


def by_pynite(
    job: Job, mount: str, force: np.ndarray, rear: float, works: float, rise: float = 0.0
) -> dict[str, float]:
    """The use of each rail, joints of one piece, its members placed by hand: the worst beam end. rise: of the
    left rail behind x -700, on a stiff upright there."""
    from Pynite import FEModel3D

    model = FEModel3D()
    model.add_material("steel", 210_000.0, 80_769.0, 0.3, 7.85e-6)
    rail, front = box(*BOX), box(58.0, 58.0, 2.0)
    gear = job.crossmember
    assert gear is not None
    tube = figures_of(gear.section).own
    for name, s in (("rail", rail), ("front", front)):
        model.add_section(name, s["a"], s["up"], s["aside"], s["j"])
    model.add_section("gear", tube.area, tube.i_lying, tube.i_standing, tube.torsion)
    model.add_section("stiff", 100 * rail["a"], *(3 * [100 * max(rail["up"], rail["aside"])]))
    at = np.array(next(m for m in job.mounts if m.id == mount).bush.centre)
    rails: dict[str, list[str]] = {}
    for side, y, end in (("l", 425.0, gear.points[0]), ("r", -425.0, gear.points[-1])):
        stations = {"f": 620.0, "a": 470.0, "s": 0.0, "p": float(at[0]), "g": float(end[0])}
        stations |= {"m": -340.0, "b": -1300.0, "t": rear}
        named = {round(x, 6): k for k, x in stations.items()}
        names = sorted(named.values(), key=lambda k: -stations[k])
        up = rise if side == "l" else 0.0
        for k in names:
            model.add_node(side + k, stations[k], y, -75.0 + (up if stations[k] < -700.0 else 0.0))
        same = {k: named[round(x, 6)] for k, x in stations.items()}
        rails[side] = []
        for one, other in zip(names, names[1:], strict=False):
            if up and stations[one] > -700.0 > stations[other]:
                model.add_node("under", -700.0, y, -75.0)
                model.add_node("over", -700.0, y, -75.0 + up)
                model.add_member("upright", "under", "over", "steel", "stiff")
                model.add_member("rail before", side + one, "under", "steel", "rail")
                model.add_member("rail behind", "over", side + other, "steel", "rail")
                rails[side] += ["rail before", "rail behind"]
                continue
            model.add_member(f"rail {side}{one}", side + one, side + other, "steel", "rail")
            rails[side].append(f"rail {side}{one}")
        model.add_node(f"front {side}", 470.0, math.copysign(395.0, y), -100.0)
        model.add_member(f"tie {side}", side + same["a"], f"front {side}", "steel", "stiff")
        model.add_node(f"gear {side}", *(float(c) for c in end))
        model.add_member(f"hang {side}", side + same["g"], f"gear {side}", "steel", "stiff")
        model.def_support(side + same["s"], False, True, True, False, False, False)
        model.def_support(side + same["t"], True, True, True, False, False, False)
        if (side == "l") == (mount == "left"):
            about = np.cross(at - [at[0], y, -75.0], force)
            for way, value in zip(("FX", "FY", "FZ", "MX", "MY", "MZ"), [*force, *about], strict=True):
                model.add_node_load(side + same["p"], way, float(value))
    model.add_member("front", "front l", "front r", "steel", "front")
    model.add_member("gear", "gear l", "gear r", "steel", "gear")
    model.analyze(check_stability=False)
    out = {}
    for side, names in rails.items():
        uses = []
        for name in names:
            f = model.members[name].f("Combo 1").ravel()
            for n in (0, 6):  # along, sideways, up; its own y lies level
                along = abs(f[n]) / rail["a"] + abs(f[n + 4]) / rail["w1"] + abs(f[n + 5]) / rail["w2"]
                shear = abs(f[n + 3]) / (2 * BOX[0] * BOX[1] * BOX[2])
                push = max(abs(f[n + 2]) / (2 * BOX[1] * BOX[2]), abs(f[n + 1]) / (2 * BOX[0] * BOX[2]))
                assert push < 235 / 2 / math.sqrt(3)
                uses.append(math.hypot(along / works, math.sqrt(3) * shear))
                uses.append(math.sqrt(3) * (shear + push))
        out["rail-left" if side == "l" else "rail-right"] = max(uses) / 235.0
    return out


@pytest.mark.parametrize(("mount", "rear"), [("left", -1300.0), ("right", -900.0)])
def test_against_an_independent_frame(
    demo: Job, monkeypatch: pytest.MonkeyPatch, mount: str, rear: float
) -> None:
    """The truck without its cut, one mount pushed every way at once, PyNite: each rail's worst place."""
    monkeypatch.setattr(frame_loads, "JOINTS", (math.inf,))
    job = with_value(with_value(demo, "openings", ()), "panels", ())
    job = with_value(job, "vehicle/rails_rest_rear_mm", rear)
    force = np.array([1700.0, -900.0, -5200.0])
    forces = {m.id: np.zeros((1, 3)) for m in job.mounts} | {mount: force[None]}
    mine = {row.bar.item: row for row in frame_use(job, forces).bars}
    theirs = by_pynite(job, mount, force, rear, mine["rail-left"].inputs["works"])
    for rail, use in theirs.items():
        assert mine[rail].use == pytest.approx(use, rel=0.01), rail


@pytest.mark.parametrize("opens", ["left", "right"])
def test_an_open_rail_is_twisted_about_its_shear_centre(
    demo: Job, opens: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    """A C 60 x 150 x 3: its shear centre is 3 b2/(h + 6 b) = 20.6 mm beyond its web (middle lines 58.5 and
    147), which is 28.5 from the middle of what is drawn, whichever way it is open; what a mount puts on it
    twists it by its arm from there. Bent it is about its line, that middle."""
    job = with_value(with_value(demo, "openings", ()), "panels", ())
    job = with_value(job, "items/rail-left/host/section", "open C")
    job = with_value(job, "items/rail-left/host/opens", opens)
    (rail, _), _, _ = sorted_members(job)
    (bar,) = rail.bars
    b, h = 60 - 1.5, 150 - 3.0
    beyond = 3 * b**2 / (h + 6 * b)
    web = 1.0 if opens == "right" else -1.0  # left of the middle, where it is open to the right
    centre = bar.line[0] + bar.off
    assert centre[1] - bar.line[0, 1] == pytest.approx(web * (28.5 + beyond), abs=0.05)
    node, at = bar.place(0.4), bar.place(0.4) + np.array([0.0, -110.0, 60.0])
    force = np.array([[300.0, -700.0, -5000.0], [0.0, 0.0, 1000.0]])
    there, moment = on_frame(at, node, bar, force)
    assert np.array_equal(there, force)
    lever = at - node - web * np.array([0.0, 28.5 + beyond, 0.0])
    along = (bar.line[1] - bar.line[0]) / bar.long
    twist = np.cross(lever, force) @ along
    assert moment @ along == pytest.approx(twist, rel=1e-3)
    bent = np.cross(at - node, force)
    assert moment - np.outer(moment @ along, along) == pytest.approx(bent - np.outer(bent @ along, along))
    # and the frame is worse off where the mount stands inside and the web is outside
    forces = {m.id: np.zeros((1, 3)) for m in job.mounts} | {"left": np.array([[0.0, 0.0, -4000.0]])}
    own = {row.bar.item: row for row in frame_use(job, forces).bars}["rail-left"]
    monkeypatch.setattr(frame_loads, "on_frame", lambda at, node, _, f: (f, np.cross(at - node, f)))
    without = {row.bar.item: row for row in frame_use(job, forces).bars}["rail-left"]
    assert (own.use > 1.1 * without.use) == (opens == "right")


def test_thin_rails_buckle_in_shear(demo: Job) -> None:
    """The truck's rails of 0.9 mm and of 355 MPa: of 149 mm between their edges 0.83 x 86.4 x 0.9 x 0.8136 /
    149.1 = 0.352 of the shear works, and the share used is worked out with it."""
    job = with_value(with_value(demo, "openings", ()), "panels", ())
    for side in ("left", "right"):
        job = with_value(job, f"items/rail-{side}/host/wall_mm", 0.9)
        job = with_value(job, f"items/rail-{side}/host/yield_mpa", 355.0)
    forces = {m.id: np.zeros((1, 3)) for m in job.mounts}
    forces["left"] = np.array([[[0.0, 0.0, -9000.0]]])[0]
    row = {row.bar.item: row for row in frame_use(job, forces).bars}["rail-left"]
    assert row.inputs["sheared"] == pytest.approx(0.352, rel=2e-3)
    assert row.use == pytest.approx(member_use(**row.inputs)[0])
    assert row.use > 1.2 * member_use(**{**row.inputs, "sheared": 1.0})[0]


def sizes(
    kind: SectionKind, tall: float, wide: float, wall: float
) -> tuple[float, float, float, float, float, float]:
    walls = walls_of(kind, tall, wide, wall)
    m = metal_of(thin_walled(walls), walls, 235.0)
    assert (m.web_up, m.web_aside) == pytest.approx(
        [sum(abs(w.end[k] - w.start[k]) * w.thickness for w in walls) for k in (1, 0)]
    )
    return m.area, m.w_up, m.w_aside, m.torsion, m.w_warp, m.wall


def test_the_sections_figures() -> None:
    """Torsion by Bredt's first formula; a C's warping constant and farthest sector in closed form (Vlasov,
    from memory)."""
    b, h, t = BOX
    closed = sizes("box", 150.0, 60.0, 3.0)
    use, along, shear, _ = member_use(0, 0, 0, 2e6, 0, *closed, 1.0, 235.0)
    assert along == 0 and shear == pytest.approx(2e6 / (2 * b * h * t), rel=2e-3)
    assert use == pytest.approx(math.sqrt(3) * shear / 235.0)
    flange, web, wall = 53.5, 117.0, 3.0
    c = sizes("open C", 120.0, 55.0, wall)
    e = 3 * flange**2 / (web + 6 * flange)
    warping = wall * flange**3 * web**2 / 12 * (3 * flange + 2 * web) / (6 * flange + web)
    assert c[4] == pytest.approx(warping / (web / 2 * max(flange - e, e)), rel=5e-3)
    assert is_open(c[0], c[3], wall) and not is_open(closed[0], closed[3], wall)
    _, along, shear, _ = member_use(0, 0, 0, 5e5, 3e8, *c, 1.0, 235.0)
    assert shear == 0 and along == pytest.approx(3e8 / c[4])
    names = [q.name for q in MEMBER_USE.inputs]
    pushed = 9e3, -4e3, 351.0, 321.0
    given = dict(zip(names, (800.0, 4e6, 1e5, 0.0, 0.0, *c, 0.8, 235.0, *pushed, 1.0), strict=True))
    stress = 800 / c[0] + 4e6 / c[1] + 1e5 / c[2]
    assert MEMBER_USE.work({}, **given).value("use") == pytest.approx(stress / 0.8 / 235)
    # thin walls bear only a share of it
    thin = given | {"sheared": 0.5, "torsion": 0.0, "axial": 0.0, "bending_up": 0.0, "bending_aside": 0.0}
    assert MEMBER_USE.work({}, **thin).value("use") == pytest.approx(math.sqrt(3) * 9e3 / 351 / 0.5 / 235)
    # beyond half of what its web carries a push counts with all else; by itself it is V/Aw over fy/sqrt(3)
    hard = given | {"push_up": 3e4}
    want = math.hypot(stress / 0.8, math.sqrt(3) * 3e4 / 351) / 235
    assert MEMBER_USE.work({}, **hard).value("use") == pytest.approx(want)
    alone = {"push_aside": -12e3, "axial": 0.0, "bending_up": 0.0, "bending_aside": 0.0, "push_up": 0.0}
    assert MEMBER_USE.work({}, **(given | alone)).value("use") == pytest.approx(
        math.sqrt(3) * 12e3 / 321 / 235
    )


def test_a_bimoment_between_ties() -> None:
    """One torque 300 mm along a bar of 1,000, free to warp at both ends: T a b / L there; tied at 600 mm too,
    each length counts from a tie to the next."""
    torque = np.array([1000.0, -400.0])
    spans = [(0.0, 0.3), (0.3, 0.6), (0.6, 1.0)]
    between = np.array([0.7 * torque, -0.3 * torque, -0.3 * torque])
    free = bimoments(between, spans, (0.0, 1.0), 1000.0)
    peak = np.abs(torque) * 300 * 700 / 1000
    assert free[0, :, 1] == pytest.approx(peak) and free[1, :, 0] == pytest.approx(peak)
    assert free[0, :, 0] == pytest.approx(0.0, abs=1e-9) and free[2, :, 1] == pytest.approx(0.0, abs=1e-9)
    tied = bimoments(between, spans, (0.0, 0.6, 1.0), 1000.0)
    assert tied[2, :, 0] == pytest.approx(np.abs(torque) * 0.3 * 400)
    assert tied[1, :, 1] == pytest.approx(np.abs(torque) * (0.7 * 300 - 0.3 * 300))


def parted(job: Job, at: float, rise: float = 0.0) -> Job:
    """The left rail of the truck (x 620 to -1300, 60 x 150 x 3) as two boxes that meet at a station; behind
    it ``rise`` mm higher."""
    items = []
    for item in job.items:
        if item.id != "rail-left":
            items.append(item)
            continue
        (box,) = item.shapes
        assert isinstance(box, Box)
        x, y, z = box.centre
        front, rear = x + box.size[0] / 2, x - box.size[0] / 2
        for key, low, high, up in (("rail-left", at, front, 0.0), ("rail-left-2", rear, at, rise)):
            piece = box.model_copy(
                update={"centre": ((low + high) / 2, y, z + up), "size": (high - low, *box.size[1:])}
            )
            items.append(item.model_copy(update={"id": key, "name": key, "shapes": (piece,)}))
    return with_value(job, "items", tuple(items))


class TestARailOfSeveral:
    @pytest.mark.parametrize("at", [-120.0, -700.0])
    def test_in_two_pieces_end_to_end_it_is_the_same_rail(self, demo: Job, at: float) -> None:
        """Parted before its mount or behind the gearbox: shares of the frame and the hardest use are those of
        the whole rail, and so are those of an open rail that warps through the joint."""
        for job in (demo, with_value(demo, "items/rail-left/host/section", "open C")):
            two = parted(job, at)
            whole, apart = frame_shares(job), frame_shares(two)
            assert "rail-left-2" in apart.members and apart.left_out == whole.left_out
            for when in ("cut", "mended"):
                assert apart.twist[when].low == pytest.approx(whole.twist[when].low, rel=2e-3)
                assert apart.bending[when].high == pytest.approx(whole.bending[when].high, rel=2e-3)
            one = {f.part: f.use for f in rail_findings(job)}
            more = {f.part: f.use for f in rail_findings(two)}
            assert max(more["rail-left"], more["rail-left-2"]) == pytest.approx(one["rail-left"], rel=5e-3)
            assert more["rail-right"] == pytest.approx(one["rail-right"], rel=5e-3)

    def test_kicked_up_against_an_independent_frame(self, demo: Job, monkeypatch: pytest.MonkeyPatch) -> None:
        """80 mm higher from x -700 on: PyNite, with a stiff upright where both pieces meet."""
        monkeypatch.setattr(frame_loads, "JOINTS", (math.inf,))
        job = with_value(with_value(demo, "openings", ()), "panels", ())
        two = parted(job, -700.0, 80.0)
        force = np.array([1700.0, -900.0, -5200.0])
        forces = {m.id: np.zeros((1, 3)) for m in job.mounts} | {"left": force[None]}
        mine = {row.bar.item: row for row in frame_use(two, forces).bars}
        theirs = by_pynite(job, "left", force, -1300.0, mine["rail-left"].inputs["works"], 80.0)
        assert mine["rail-right"].use == pytest.approx(theirs["rail-right"], rel=0.01)
        own = max(mine["rail-left"].use, mine["rail-left-2"].use)
        assert own == pytest.approx(theirs["rail-left"], rel=0.01)

    def test_a_mount_holds_no_more_than_every_piece_of_its_rail(self, demo: Job) -> None:
        """It stands on the front piece; the rear one alone is thin, and the mount is not held."""
        whole = parted(demo, -700.0)
        thin = with_value(whole, "items/rail-left-2/host/wall_mm", 0.6)
        uses = {f.part: f.use for f in rail_findings(thin)}
        assert uses["rail-left"] < 1 < uses["rail-left-2"]
        for job, held in ((whole, "holds"), (thin, "does not hold")):
            mount = next(m for m in verdict(job).mounts if m.mount == "left")
            assert mount.bush_to_rail == held, mount.rail_questions
        assert mount.chain[-1].use == pytest.approx(uses["rail-left-2"])

    def test_one_that_only_runs_beside_is_left_out(self, demo: Job) -> None:
        far = parted(demo, -700.0, 300.0)  # its ends 300 mm apart: no splice
        assert any("rail-left-2 runs along beside" in words for words in frame_shares(far).left_out)


def test_one_more_member_is_what_a_drawn_one_does(demo: Job, monkeypatch: pytest.MonkeyPatch) -> None:
    """The same tube drawn in the bay at three stations: the rest and the tube itself come to what was
    told."""
    monkeypatch.setattr(frame_loads, "JOINTS", (200e6, 200e6))
    demo = with_value(demo, "vehicle/rails_rest_rear_mm", -1250.0)  # nothing is remembered of it
    told = one_more(demo)
    assert told.now == pytest.approx(max(f.use for f in rail_findings(demo)), rel=1e-9)
    for station in (-1100.0, -300.0, 200.0):
        bar = Item(
            id="more",
            name="More",
            neighbour="metal",
            chassis=True,
            shapes=(Box(centre=(station, 0.0, -75.0), size=(40.0, 850.0, 40.0)),),
            host=Host(section="box", wall_mm=3.0, yield_mpa=235.0),
        )
        use = {f.part: f.use for f in rail_findings(with_value(demo, "items", (*demo.items, bar)))}
        row = next(row for row in told.places if row.station == station)
        assert use.pop("more") == pytest.approx(row.itself, rel=1e-6)
        assert max(use.values()) == pytest.approx(row.rest, rel=1e-6)


class TestWhatIsSaid:
    def test_a_thin_leg_is_a_question_until_it_is_thicker(self, hatchback: Job) -> None:
        assert all(f.use < 1 for f in rail_findings(hatchback))
        thin = hatchback
        for leg in ("leg-left", "leg-right"):
            thin = with_value(thin, f"items/{leg}/host/wall_mm", 1.0)
        v = verdict(thin)
        found = [f for f in v.findings if f.code == "rail"]
        assert {f.part for f in found} == {"leg-left", "leg-right", "subframe"}
        assert all(f.use > 1 for f in found if f.part.startswith("leg")) and not v.holds
        assert [link.part for link in v.mounts[0].chain][-1] == "Right chassis leg as a beam"
        (chassis,) = [state for state in stage_states(thin, v) if state.id == "chassis"]
        assert [q for q in chassis.questions if q.startswith("Left chassis leg, as a beam")]

    def test_a_mount_holds_no_more_than_its_rail(self, hatchback: Job) -> None:
        """Where legs are not said to rest, only the left one as a beam does not hold, and only its mount."""
        far = hatchback
        for end in ("front", "rear"):
            far = with_value(far, f"vehicle/rails_rest_{end}_mm", None)
        v = verdict(far)
        assert [f.part for f in v.findings if f.use > 1] == ["leg-left"]
        told = {m.mount: m.bush_to_rail for m in v.mounts}
        assert told == {"right": "holds", "left": "does not hold", "rear": "holds"}
        alone = with_value(far, "items/subframe/host/wall_mm", None)
        (rear,) = [m for m in verdict(alone).mounts if m.mount == "rear"]
        assert (rear.chain[-1].part[-9:], rear.chain[-1].finding) == ("as a beam", None)

    def test_where_the_rails_rest(self, demo: Job) -> None:
        found = rails_judged(demo).use
        assert found.assumed and found.rests == (0.0, -1300.0)
        said = with_value(demo, "vehicle/rails_rest_front_mm", -40.0)
        said = with_value(said, "vehicle/rails_rest_rear_mm", -1000.0)
        assert rails_judged(said).use.rests == (-40.0, -1000.0) and not rails_judged(said).use.assumed
        one = with_value(said, "vehicle/rails_rest_rear_mm", 100.0)
        with pytest.raises(JobError, match="at one place"):
            rails_judged(one)
        assert rail_findings(one) == ()

    def test_twice_the_wall_is_used_less_and_a_mount_without_a_foot_is_told(self, demo: Job) -> None:
        rails = {f.part: f.use for f in rail_findings(demo)}
        thick = with_value(demo, "items/rail-left/host/wall_mm", 6.0)
        assert {f.part: f.use for f in rail_findings(thick)}["rail-left"] < 0.7 * rails["rail-left"]
        lone, name = with_value(demo, "mounts/left/foot", None), demo.mounts[0].name
        assert any(words.startswith(name) for words in rails_judged(lone).use.left_out)

    def test_a_rail_is_weakest_where_it_is_cut(self, demo: Job) -> None:
        """A notch in the left rail behind its mount, open and as put back."""
        cut = with_value(demo, "openings/fan/item", "rail-left")
        for name, value in (("at_mm", 900.0), ("long_mm", 120.0), ("deep_mm", 110.0), ("mend", "open")):
            cut = with_value(cut, f"openings/fan/{name}", value)
        use = {}
        for mend, job in (
            ("none", demo),
            ("open", cut),
            ("sides", with_value(cut, "openings/fan/mend", "sides")),
        ):
            left = next(f for f in rail_findings(job) if f.part == "rail-left")
            use[mend] = left.use
            if mend == "open":  # 620 mm before the axle less 900 to 1,020
                assert "280 mm behind" in left.what or "400 mm behind" in left.what
        assert use["open"] > 3 * use["none"] and use["sides"] < use["open"]

    def test_the_command_line_tells_it(
        self, demo: Job, tmp_path: Path, capsys: pytest.CaptureFixture[str]
    ) -> None:
        store.write(tmp_path / "a.cradle", demo)
        assert main(["chassis", str(tmp_path / "a.cradle"), "--json"]) == 0
        data = json.loads(capsys.readouterr().out)["under_mounts"]
        told = {f.part: f.use for f in rail_findings(demo)}
        assert {row["id"]: row["use"] for row in data["bars"]} == pytest.approx(told, abs=1e-4)
        assert data["rests_mm"] == {"front": 0.0, "rear": -1300.0, "assumed": True}


def test_in_the_window(desk: Desk, qtbot: Any) -> None:
    """What one more member buys comes from a thread; it is that of the job that is shown, though another one
    was worked on when it changed."""
    desk.go("chassis")
    rooms = desk.sheets["chassis"].rooms
    rooms.go("frame")
    room = rooms.present
    assert isinstance(room, FrameRoom)
    desk.session.set_value("vehicle/rails_rest_rear_mm", -1000.0, "Rests")
    qtbot.waitUntil(lambda: room.bought is not None and room.bought[0] is desk.session.job, timeout=30_000)
    more = one_more(desk.session.job)
    told = room.places.text()
    best = max(more.places, key=lambda row: row.station == -900.0)
    assert f"{100 * best.rest:.0f} %" in told and f"{100 * best.itself:.0f} %" in told and "–" not in told
    assert f"is at {100 * more.now:.0f} %" in room.how.text()
    desk.session.edit("No mount stands", with_value(desk.session.job, "mounts", ()))
    qtbot.waitUntil(lambda: room.bought is not None and room.bought[0] is desk.session.job, timeout=30_000)
    assert "Without it" not in room.how.text() and "–" in room.places.text()
