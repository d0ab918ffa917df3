"""Nothing is called held that is not: jobs with one thing wrong each, which a look at formulas alone had
called held, and the sound job they were made from."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from nimble_cradle.bay.bodies import solid_of
from nimble_cradle.bay.position import pose_of
from nimble_cradle.demo import demo_folder
from nimble_cradle.findings.finding import Finding
from nimble_cradle.geometry.bodies import Bodies
from nimble_cradle.geometry.distance import nearest
from nimble_cradle.job import store
from nimble_cradle.job.base import JobError
from nimble_cradle.job.edits import with_value
from nimble_cradle.job.from_points import Slide
from nimble_cradle.job.job import Job
from nimble_cradle.job.mounts import Mount
from nimble_cradle.job.new import new_job
from nimble_cradle.job.said import facts, not_said, typed, with_said
from nimble_cradle.job.survey import Survey
from nimble_cradle.judge.carried import carried
from nimble_cradle.judge.found import Verdict
from nimble_cradle.judge.gaps import made_gaps
from nimble_cradle.judge.verdict import stage_states, verdict
from nimble_cradle.made.crossmember import crossmember_solids
from nimble_cradle.mounts.mount_checks import load_path, unjudged
from nimble_cradle.telltales import tell_tales

from narrowed import bonded


@pytest.fixture(scope="module")
def sound() -> Job:
    """The truck with nothing in its bay but the rails, and a bush on the left that carries it."""
    job = store.read(demo_folder("light-truck")).job
    job = with_value(with_value(job, "openings", ()), "panels", ())
    job = with_value(job, "items", tuple(i for i in job.items if i.id in ("rail-left", "rail-right")))
    return with_value(job, "mounts/left/bush/hardness_shore_a", 42.0)


def test_the_sound_job_holds_from_block_to_bush_and_says_what_it_does_not_know(sound: Job) -> None:
    v = verdict(sound)
    assert v.block_to_bush and not v.holds
    assert not [p for p in v.problems if p.stage in ("mounts", "crossmember")], v.problems
    assert [m.bush_to_rail for m in v.mounts] == ["holds", "holds", "holds"]
    loose = verdict(with_value(sound, "crossmember/plates", None))
    assert "end plates and their bolts to the rails are not described yet" in loose.mounts[2].rail
    assert not loose.holds and [m.bush_to_rail for m in loose.mounts] == ["holds", "holds", "open"]
    bare = sound
    for mount in sound.mounts:
        bare = with_value(bare, f"mounts/{mount.id}/foot", None)
    v = verdict(bare)
    assert {m.bush_to_rail for m in v.mounts} == {"not described yet"} and not v.holds
    assert all("from bush to rail it is not described yet; nearest is" in m.rail for m in v.mounts)
    states = {s.id: s for s in stage_states(bare, v)}
    assert states["mounts"].state == "open questions" and len(states["mounts"].questions) == 3


def test_a_low_sump_alone_is_an_open_question(sound: Job) -> None:
    open_ = with_value(sound, "survey", Survey())
    assert not verdict(open_).open_questions
    low = verdict(with_value(open_, "vehicle/lowest_line_z_mm", -150.0))
    assert low.open_questions and not low.problems and low.block_to_bush


def test_the_hardest_case_is_the_one_with_its_factor(sound: Job) -> None:
    """Rare cases load the crossmember more; with a factor of 20 against 1 those of every day govern."""
    plain = with_value(sound, "allowables/everyday_factor", 1.0)
    plain = with_value(plain, "allowables/rare_factor", 1.0)

    def stress(job: Job) -> Finding:
        return next(f for f in verdict(job).findings if f.code == "crossmember-stress")

    rare, often = stress(plain), stress(with_value(plain, "allowables/everyday_factor", 20.0))
    assert often.factor == 20.0 and rare.factor == 1.0 and rare.case != often.case
    assert 0.3 * rare.use < often.use / 20.0 < rare.use


def test_rubber_is_stiffer_when_it_shakes_than_when_it_sags(
    sound: Job, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Four times as stiff is twice as quick, on brackets that do not give."""
    monkeypatch.setattr("nimble_cradle.mounts.give.arm_give", lambda *_: np.zeros((3, 3)))
    sound = with_value(sound, "crossmember", None)
    sound = with_value(sound, "mounts", tuple(m.model_copy(update={"foot": None}) for m in sound.mounts))
    before, after = (
        carried(
            with_value(
                sound,
                "mounts",
                tuple(
                    m.model_copy(update={"bush": m.bush.model_copy(update={"dynamic_ratio": ratio})})
                    for m in sound.mounts
                ),
            )
        )
        for ratio in (1.1, 4.4)
    )
    assert [m.frequency for m in after.modes] == pytest.approx([2 * m.frequency for m in before.modes])
    assert after.case("weight").mounts[0].radial_mm == pytest.approx(
        before.case("weight").mounts[0].radial_mm
    )


def test_a_bolt_under_the_weld_is_found(sound: Job) -> None:
    gearbox = next(m for m in sound.mounts if m.id == "gearbox")
    half = bonded(gearbox.bush).length_mm / 2
    holes = ((half - 2.0, 4.0), *gearbox.pad.holes[1:])
    said = told(verdict(with_value(sound, "mounts/gearbox/pad/holes", holes)))
    assert "the washer of bolt 1 lies" in said and "over the weld of the eye" in said


def test_parts_that_run_into_the_engine_are_found(sound: Job) -> None:
    """A crossmember through the gearbox tail, or near it when running; an eye and an arm in the block."""
    cross = sound.crossmember
    assert cross is not None
    tail = next(p for p in sound.powertrain.present if p.id == "gearbox-tail")
    up = tuple((x, y, z + 95.0) for x, y, z in cross.points)
    said = told(verdict(with_value(sound, "crossmember/points", up)))
    assert f"{tail.name} and Gearbox crossmember are" in said and "in one another" in said
    clear = [p for p in verdict(sound).problems if p.place == "crossmember/points"]
    assert not clear
    left = sound.mounts[0]
    x, y, z = left.bush.centre
    said = told(verdict(with_value(sound, "mounts/left/bush/centre", (x, y, z - 40.0))))
    assert "in one another" not in said
    deep = with_value(
        sound, "mounts/left/pad/centre", (left.pad.centre[0], left.pad.centre[1] - 12.0, left.pad.centre[2])
    )
    assert f"Cylinder block and {left.name}, plate are 12.0 mm in one another" in told(verdict(deep))


def test_the_crossmember_is_near_in_the_worst_case_of_all(sound: Job) -> None:
    """Every pose measured, none left out, against what the program says: once far enough at rest and too near
    when running."""
    cross = sound.crossmember
    assert cross is not None
    table = {c.id: c.required_mm for c in sound.clearances}
    told_running = False
    for lift in (56.0, 58.0, 60.0, 68.0, 74.0, 84.0, 90.0):
        points = tuple((x, y, z + lift) for x, y, z in cross.points)
        job = with_value(sound, "crossmember/points", points)
        tube = Bodies([crossmember_solids(job.crossmember)])
        poses = [pose_of(job.position), *(r.pose for r in carried(job).cases)]
        pieces = job.powertrain.present
        least = np.full((len(poses), len(pieces)), np.inf)
        for k, pose in enumerate(poses):
            every = Bodies([solid_of(p, job.meshes, "pieces") for p in pieces])
            for n in nearest(every, pose, tube, np.full((len(pieces), 1), 80.0)):
                least[k, n.a] = n.distance
        rows = {g.piece: g for g in made_gaps(job) if g.item == "crossmember.tube"}
        for i, piece in enumerate(pieces):
            need = max(table[piece.neighbour], table["metal"])
            gap = float(least[:, i].min())
            row = rows.get(piece.id)
            if gap < need - 0.05:
                assert row is not None and row.required == need and row.margin < 0, piece.name
                assert row.running == pytest.approx(gap, abs=0.05 + 0.05 * max(-gap, 0.0))
                told_running |= least[0, i] > need
            elif row is not None:
                assert (row.running if row.running is not None else row.gap) <= gap + 0.05
    assert told_running


def test_a_rotary_fires_once_a_turn_for_each_rotor(sound: Job) -> None:
    two = with_value(with_value(sound, "powertrain/engine/cylinders", 2), "powertrain/engine/idle_rpm", 900.0)
    assert carried(two).idle.frequency == pytest.approx(15.0)
    assert carried(with_value(two, "powertrain/engine/layout", "rotary")).idle.frequency == pytest.approx(
        30.0
    )


def test_a_plate_on_what_turns_is_asked_about(sound: Job) -> None:
    """The block under the left plate called a fan: the plate stands on it as before, and may not."""
    k = next(k for k, p in enumerate(sound.powertrain.pieces) if p.id == "block")
    for kind, word in (("turning", "turns"), ("sheet", "is sheet metal")):
        v = verdict(with_value(sound, f"powertrain/pieces/{k}/neighbour", kind))
        assert f"Left engine mount: its pad stands on Cylinder block, which {word}" in told(v)
        assert v.mounts[0].block_to_bush == "open"


def test_a_mount_on_what_moves_is_asked_about(sound: Job) -> None:
    """The rail under the left mount said to slide with the rack by a hair, too little for any gap to tell."""
    assert verdict(sound).mounts[0].bush_to_rail == "holds"
    motion = Slide(along=(1.0, 0.0, 0.0), least_mm=-0.5, most_mm=0.5)
    v = verdict(with_value(sound, "items/rail-left/motion", motion))
    assert "Left engine mount stands on Left rail, which moves" in told(v)
    assert v.mounts[0].bush_to_rail == "open"


def both(path: str, value: Any) -> dict[str, Any]:
    """The same edit on both engine mounts."""
    return {f"mounts/{side}/{path}": value for side in ("left", "right")}


ALL_UP = {f"mounts/{m}/bush/axis": (0.02, 0.01, 1.0) for m in ("left", "right", "gearbox")}
FAULTS: dict[str, tuple[dict[str, Any], str]] = {
    "thin plates, the arm far below its bolts": (
        {**both("pad/plate_mm", 6.0), **both("pad/arm_at", (0.0, -110.0))},
        "plate-line",
    ),
    "a long thin gearbox plate on two bolts": (
        {
            "mounts/gearbox/pad/holes": ((0.0, -140.0), (0.0, 140.0)),
            "mounts/gearbox/pad/edge_mm": 15.0,
            "mounts/gearbox/pad/plate_mm": 4.5,
        },
        "there is nothing to bolt to",
    ),
    "eyes of sheet": (both("bush/eye_wall_mm", 0.8), "eye-wall"),
    "every bush upright": (ALL_UP, "side-travel"),
    "a bush far ahead of its pad": ({"mounts/left/bush/centre": (122.0, 242.0, 0.0)}, "left slip"),
    "a plate that must hold by friction alone, hardly tightened": (both("pad/tightening_nm", 25.0), "slip"),
    "thick narrow arms far past the eye's axis": (
        {**both("arm/outside_mm", 38.0), **both("arm/wall_mm", 6.0), **both("arm/offset_mm", 26.0)},
        "eye-wall",
    ),
    "a throat thicker than the wall": (
        {**both("arm/wall_mm", 2.0), **both("arm/weld_throat_mm", 12.0)},
        "root-weld",
    ),
    "next to no edge": (both("pad/edge_mm", 6.0), "edge"),
    "holes of 24 with an edge of 18": ({**both("pad/hole_mm", 24.0), **both("pad/edge_mm", 18.0)}, "bearing"),
    "thin cross-bolts in a wide sleeve": (both("cross_bolt/bolt", "M8"), "play"),
    "a cross-bolt that nobody tightens": (both("cross_bolt/tightening_nm", None), "taken as loose"),
    "bolts on bosses in one line": ({"mounts/gearbox/pad/rests": "bosses"}, "bolts in one line, on bosses"),
    "one bolt of four": (both("pad/holes", ((-38.0, -30.0),)), "one bolt does not keep a plate from turning"),
    "a plate in mid-air": ({"mounts/left/pad/centre": (214.0, 158.0, 6.0)}, "there is nothing to bolt to"),
    "a plate inside the block": (
        {"mounts/left/pad/centre": (214.0, 80.0, 6.0)},
        "inside a piece of the engine",
    ),
    "an eye that meets no plate": ({"mounts/gearbox/bush/centre": (-880.2, 0.0, -133.0)}, "off a 8 mm plate"),
    "an eye on its end": (
        {"mounts/gearbox/bush/axis": (0.0, 0.0, 1.0)},
        "stands on end on its plate, 86 deg from lying",
    ),
    "an eye beside its cross": ({"mounts/gearbox/pad/arm_at": (12.0, 0.0)}, "from its cross on the plate"),
    "no crossmember": ({"crossmember": None}, "no crossmember carries it"),
    "an arm almost flat on its plate": (
        {"mounts/left/bush/centre": (-38.0, 170.0, -90.0)},
        "cannot be welded",
    ),
}
CROSSMEMBERS: dict[str, tuple[float, float, float, float, str]] = {
    "ends in mid-air": (0.0, 0.0, 0.0, -70.0, "right end meets no rail"),
    "beside its mount": (-140.0, 0.0, 0.0, 0.0, "beside Gearbox mount, not under it"),
    "far under it": (0.0, -110.0, 0.0, 0.0, "nothing is between them"),
    "through the eye": (0.0, 20.0, 0.0, 0.0, "into the eye of Gearbox mount"),
}


def told(v: Verdict) -> str:
    """All that a verdict says is wrong, as one text."""
    out = [f"{f.part} {f.code}" for f in v.findings if f.use > 1]
    return " | ".join([*out, *(p.sentence for p in v.problems)])


@pytest.mark.parametrize("name", FAULTS)
def test_what_is_wrong_is_named_and_nothing_is_called_held(sound: Job, name: str) -> None:
    edits, words = FAULTS[name]
    job = sound
    for path, value in edits.items():
        job = with_value(job, path, value)
    v = verdict(job)
    assert not v.holds
    assert words in told(v), told(v)
    if name != "no crossmember":
        assert not v.block_to_bush
    else:
        assert [m.block_to_bush for m in v.mounts] == ["holds", "holds", "open"]


@pytest.mark.parametrize("name", CROSSMEMBERS)
def test_a_crossmember_that_carries_nothing_is_found(sound: Job, name: str) -> None:
    forward, up, _, short, words = CROSSMEMBERS[name]
    assert sound.crossmember is not None
    points = [list(p) for p in sound.crossmember.points]
    for p in points:
        p[0] += forward
        p[2] += up
    points[-1][1] -= short
    v = verdict(with_value(sound, "crossmember/points", tuple(tuple(p) for p in points)))
    assert words in told(v), told(v)


def test_what_the_rails_are_made_of_is_asked(sound: Job) -> None:
    for material, words in (
        ("unsaid", "say what it is made of"),
        ("magnesium", "bolted, never welded"),
        ("single skin", "reach the second skin"),
    ):
        assert words in told(verdict(with_value(sound, "items/rail-right/material", material)))


def test_a_gearbox_pad_that_is_turned_wants_its_plate_turned(sound: Job) -> None:
    turned = with_value(sound, "powertrain/gearbox/pad_turn_deg", 17.0)
    assert "plate is drawn 17.0 deg off that" in told(verdict(turned))
    a = np.radians(17.0)
    with_it = with_value(turned, "mounts/gearbox/pad/normal", (0.0, float(np.sin(a)), float(-np.cos(a))))
    assert "deg off that" not in told(verdict(with_it))


def test_every_part_between_block_and_bush_has_a_finding(sound: Job) -> None:
    """The list of parts against the list of findings; take any finding away and the part is named."""
    v = verdict(sound)
    for mount in sound.mounts:
        own = [f for f in v.findings if f.part == mount.id]
        assert unjudged(mount, own) == ()
        assert ("arm" in dict(load_path(mount))) == (mount.arm is not None)
        for part, codes in load_path(mount):
            for code in codes:
                assert unjudged(mount, [f for f in own if f.code != code]) == (part,), code


def test_mounts_that_all_but_let_go_are_refused(sound: Job) -> None:
    """Three bushes nearly in one line: figures of a thousand per cent say nothing."""
    job = sound
    for key, z in (("left", 0.0), ("right", 0.0), ("gearbox", -117.0)):
        mount = next(m for m in sound.mounts if m.id == key)
        job = with_value(
            job, f"mounts/{key}/bush/centre", (mount.bush.centre[0], 4.0 if key == "left" else 0.0, z)
        )
    v = verdict(job)
    assert v.carried is None and "all but free in roll" in told(v), told(v)


class TestSaid:
    """What was measured, what assumed, and what nobody has said anything of."""

    def test_not_said_is_an_open_question_and_no_green(self, sound: Job) -> None:
        bare = with_value(sound, "said", {})
        v = verdict(bare)
        assert {p.stage for p in v.problems if "it is not said whether" in p.sentence} == {
            "bay",
            "powertrain",
            "position",
            "mounts",
            "crossmember",
        }
        assert len(v.not_said) == len(facts(sound)) and v.rests_on == ()
        for tale in tell_tales(bare, v):
            assert tale.state in ("open", "fails"), tale
            assert tale.word in ("not said", "open") or tale.state == "fails", tale

    def test_typing_measures_one_click_assumes_and_what_goes_is_forgotten(self, sound: Job) -> None:
        bare = with_value(sound, "said", {})
        one = typed(bare, with_value(bare, "vehicle/axle_input/0", -2780.0), "vehicle/axle_input/0")
        assert one.said == {"vehicle/axle_input": "measured"}
        two = with_said(one, ["vehicle/wheelbase_mm"], "assumed")
        assert verdict(two).rests_on == ("wheelbase",) and len(not_said(two)) == len(facts(two)) - 2
        name = typed(two, with_value(two, "vehicle/name", "Another"), "vehicle/name")
        assert name.said == two.said, "a name is not a figure"
        hard = typed(
            two,
            with_value(two, "mounts/left/bush/hardness_shore_a", 40.0),
            "mounts/left/bush/hardness_shore_a",
        )
        gone = with_value(with_value(hard, "crossmember", None), "mounts", hard.mounts[1:])
        again = with_said(gone, ["vehicle/final_drive"], "assumed")
        assert set(again.said) == {"vehicle/axle_input", "vehicle/wheelbase_mm", "vehicle/final_drive"}

    def test_on_assumed_is_said_with_the_word(self, sound: Job) -> None:
        job = with_said(sound, ["vehicle/front_axle_kg", "powertrain/engine/torque_nm"], "assumed")
        tales = {t.id: t for t in tell_tales(job, verdict(job))}
        assert tales["share"].word == "as wished, on assumed"
        assert tales["hardest"].word.endswith("on assumed") and tales["lowest"].word == "holds"

    def test_guessed_shapes_count_as_assumed(self, sound: Job) -> None:
        job = with_value(sound, "items/rail-left/measured", "guess")
        assert "Left rail, guessed" in verdict(job).rests_on

    def test_a_blank_job_has_begun_nothing_and_nothing_is_green(self) -> None:
        job = new_job("Barn find")
        v = verdict(job)
        assert not v.holds and not v.block_to_bush
        assert all(s.state == "not begun" for s in stage_states(job, v)), stage_states(job, v)
        assert all(t.state not in ("holds", "near") for t in tell_tales(job, v)), tell_tales(job, v)
        begun = typed(job, with_value(job, "vehicle/wheelbase_mm", 2710.0), "vehicle/wheelbase_mm")
        states = {s.id: s for s in stage_states(begun, verdict(begun))}
        assert states["bay"].state == "open questions" and states["bay"].measured == 1
        assert states["powertrain"].state == "not begun"


def test_bolts_nearly_in_line_change_nothing_at_a_stroke(sound: Job) -> None:
    """The same two bolts and a third that creeps out of their line: the use of the hardest one never
    jumps."""
    from nimble_cradle.strength.bolts import group_tension

    last = None
    for off in np.linspace(0.0, 12.0, 241):
        t = group_tension([(-40.0, 0.0), (40.0, 0.0), (3.0, float(off))], 500.0, 60e3, 0.0, 18.0).max()
        if last is not None:
            assert abs(t - last) < 0.03 * last, off
        last = t


def test_sales_bind(sound: Job) -> None:
    from nimble_cradle.job.wish import Sale
    from nimble_cradle.seat.trades import applied

    def sale(**more: Any) -> Sale:
        return Sale(id="s", name="S", of="rail-left", **{"what": "trim", "depth_mm": 8.0, **more})

    sound = with_value(sound, "items/rail-left/fate", "open")
    applied(sound, sale())
    for fate, trim, what, words in (
        ("keep", None, "trim", "is kept: it is not for sale"),
        ("keep", None, "remove", "is kept: it is not for sale"),
        ("trim", None, "cut", "may be trimmed, not cut"),
        ("trim", 6.0, "trim", "may lose 6 mm at most"),
        ("open", 0.0, "trim", "may lose 0 mm at most"),
    ):
        job = with_value(with_value(sound, "items/rail-left/fate", fate), "items/rail-left/trim_mm", trim)
        with pytest.raises(JobError, match=words):
            applied(job, sale(what=what))
    twice = applied(with_value(sound, "items/rail-left/trim_mm", 12.0), sale())
    with pytest.raises(JobError, match="would take 16 mm"):
        applied(twice, sale())


def test_a_mount_is_one_value(sound: Job) -> None:
    """Twins made from the sound job do not touch it."""
    before: Mount = sound.mounts[0]
    with_value(sound, "mounts/left/pad/plate_mm", 3.0)
    assert sound.mounts[0] is before
