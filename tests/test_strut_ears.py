"""A torque strut's ears on the engine: worked by hand from the job's figures, drawn and measured as every
part is, and no mount holds whose strut hangs in something open."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from nimble_cradle.bay.position import pose_of
from nimble_cradle.design.first_strut import with_ears
from nimble_cradle.design.propose import proposed
from nimble_cradle.desk.bay_view.told import loads_told
from nimble_cradle.desk.stages.mounts.sheet import MountsSheet
from nimble_cradle.desk.window import Desk
from nimble_cradle.findings.finding import Finding
from nimble_cradle.job.base import JobError
from nimble_cradle.job.bay import Item
from nimble_cradle.job.edits import added, with_value
from nimble_cradle.job.job import Job
from nimble_cradle.job.shapes import Box
from nimble_cradle.judge.carried import carried, mount_cases
from nimble_cradle.judge.gaps import made_gaps, shaft_gaps
from nimble_cradle.judge.verdict import verdict
from nimble_cradle.made.parts import made
from nimble_cradle.seat.hands import reaches
from nimble_cradle.shop.cutlist import cut_list
from nimble_cradle.shop.page import Path
from nimble_cradle.shop.templates import templates

from pressing import click, type_into, unfold_all
from test_strut_bracket import of_strut, pulls, struck

HOLES = ((-50.0, -20.0), (46.0, -16.0), (42.0, 24.0), (-52.0, 18.0))
OFF = (7.0, -5.0)
"""The pad's middle lies so far beside the ears', as one faces the plate."""
FOOT, THICK, PLATE, EDGE = 44.0, 6.0, 8.0, 20.0


def eared(job: Job, **fields: Any) -> Job:
    """The truck's askew strut on ears of its own, of a pattern with no symmetry, beside its pad's middle."""
    job = struck(job, engine_at=engine_at(job), ends="unsaid", tightening_nm=20.0)
    job = with_ears(job, job.struts[0], True)
    base = f"struts/{job.struts[0].id}/ears"
    pad = job.struts[0].ears.pad  # type: ignore[union-attr]
    u, v = in_plate(job)
    x, y, z = (round(float(c), 3) for c in np.array(pad.centre) + OFF[0] * u + OFF[1] * v)
    values = {
        "pad/centre": (x, y, z),
        "pad/holes": HOLES,
        "pad/rests": "bosses",
        "pad/plate_mm": PLATE,
        "pad/thread_in": "grey iron",
        "pad/thread_deep_mm": 16.0,
        "pad/edge_mm": EDGE,
        "foot_mm": FOOT,
        "ear_mm": THICK,
        "weld_inside": True,
        "tightening_nm": 25.0,
        **fields,
    }
    for name, value in values.items():
        job = with_value(job, f"{base}/{name}", value)
    return job


def engine_at(job: Job) -> tuple[float, float, float]:
    """Beside the block's left wall, 32 mm off it."""
    block = next(p for p in job.powertrain.pieces if p.id == "block")
    box = block.shapes[0]
    return (box.centre[0] - 80.0, box.centre[1] + box.size[1] / 2 + 32.0, box.centre[2] + 20.0)  # type: ignore[union-attr]


def in_plate(job: Job) -> tuple[np.ndarray, np.ndarray]:
    """To the right and upwards as one stands facing the plate, powertrain frame."""
    pad = job.struts[0].ears.pad  # type: ignore[union-attr]
    n, up = np.array(pad.normal), np.array(pad.up)
    v = up - up @ n * n
    v = v / np.linalg.norm(v)
    return np.cross(v, n), v


def on_engine(job: Job) -> tuple[np.ndarray, np.ndarray]:
    """(cases, 3) force of the strut on the engine in the powertrain frame, N with its factor, and the eye
    from the plate's own middle on the block's face (3,)."""
    force, _ = pulls(job)  # on the chassis
    pad = job.struts[0].ears.pad  # type: ignore[union-attr]
    lever = np.array(job.struts[0].engine_at) - np.array(pad.centre)
    return -force @ pose_of(job.position).rotation, lever


class TestByHand:
    def test_bolts_to_the_engine(self, demo: Job) -> None:
        """Four M10 8.8 at places with no symmetry, on bosses: pull by the elastic group about its two main
        axes, push by force and turning (Shigley 8-12); shear and pull together by EN 1993-1-8, table 3.4."""
        job = eared(demo)
        force, lever = on_engine(job)
        u, v = in_plate(job)
        n = np.cross(u, v)
        f = force @ np.column_stack([u, v, n])
        m = np.cross(lever, force) @ np.column_stack([u, v, n])
        p = np.array(HOLES)
        # pull t = a + b x + c y of every bolt with sum t = N, sum y t = M_u, sum -x t = M_v
        x, y = p.T
        lines = np.array([[4, x.sum(), y.sum()], [y.sum(), x @ y, y @ y], [-x.sum(), -x @ x, -x @ y]])
        pull = np.linalg.solve(lines, np.column_stack([f[:, 2], m[:, 0], m[:, 1]]).T).T @ [np.ones(4), x, y]
        r = p - p.mean(0)
        about = m[:, 2] - (p.mean(0)[0] * f[:, 1] - p.mean(0)[1] * f[:, 0])
        turned = about[:, None, None] * np.column_stack([-r[:, 1], r[:, 0]]) / (r**2).sum()
        shear = np.linalg.norm(f[:, None, :2] / 4 + turned, axis=2)
        area = 57.99
        ft, fv = 0.9 * 800 * area / 1.25, 0.6 * 800 * area / 1.25
        t = np.maximum(pull, 0)
        use = np.maximum(shear / fv + t / (1.4 * ft), t / ft)
        assert of_strut(job)["bolts"].use == pytest.approx(float(use.max()), rel=1e-3)

    def test_ears_bent(self, demo: Job) -> None:
        """Two ears of 6 mm, 44 wide at the plate, 24 under the bolt, whose sleeve is tightened: F/(2 w t) and
        6 M/(2 t w^2) of what pulls across, F h/4 of each of what is left along the bolt."""
        job = eared(demo)
        ears = job.struts[0].ears
        assert ears is not None
        force, _ = on_engine(job)
        n, bolt = np.array(ears.pad.normal), np.array(ears.bolt_way)
        bolt, across = bolt / np.linalg.norm(bolt), np.cross(n, bolt)
        along, side, out = force @ bolt, force @ across, force @ n
        h, w, t = 32.0 - PLATE, FOOT, THICK
        sigma = (
            np.abs(out) / (2 * w * t)
            + 6 * np.abs(side) * h / (2 * t * w**2)
            + 6 * np.abs(along) * h / 4 / (w * t**2)
        )
        use = np.sqrt(sigma**2 + 3 * (side / (2 * w * t)) ** 2) / 235
        assert of_strut(job)["ear-bent"].use == pytest.approx(float(use.max()), rel=0.01)

    @pytest.mark.parametrize("turn", [(0.0, 3.0, 0.0), (2.0, 0.0, -4.0)])
    def test_it_goes_with_the_engine(self, demo: Job, turn: tuple[float, float, float]) -> None:
        """With the powertrain elsewhere and turned, ears and plate lie on it as they did: they are drawn
        alike in its own frame, and the hole in the ears is on the eye."""
        job = eared(demo)
        roll, pitch, yaw = turn
        moved = job
        for name, more in (
            ("roll_deg", roll),
            ("pitch_deg", pitch),
            ("yaw_deg", yaw),
            ("z", 9.0),
            ("x", -4.0),
        ):
            moved = with_value(moved, f"position/{name}", getattr(job.position, name) + more)
        one, two = (
            {p.role: p for p in made(j).parts if p.owner.id == job.struts[0].id and p.moves}
            for j in (job, moved)
        )
        assert set(one) == {"plate", "ears", "bolts", "eye-bolt"} == set(two)
        for role in ("plate", "ears"):
            for a, b in zip(one[role].solids, two[role].solids, strict=True):
                assert np.allclose(a.triangles[0], b.triangles[0], atol=1e-9)
        eye = pose_of(moved.position).points(job.struts[0].engine_at)
        ears = [s.triangles[0] for s in two["ears"].in_vehicle(pose_of(moved.position))]
        assert np.abs(np.vstack(ears).mean(0) - eye).max() < 12.0


class TestDrawn:
    def test_template_lies_on_the_part(self, demo: Job) -> None:
        """Seen by one who stands facing the plate, the dashed ears are where the ears' solids stand."""
        job = eared(demo)
        pad, key = job.struts[0].ears.pad, job.struts[0].id  # type: ignore[union-attr]
        u, v = in_plate(job)
        drawings = {d.name: d for d in templates(job)[0]}
        assert {f"plate-{key}", f"ear-{key}"} <= set(drawings) and templates(job)[1] == ()
        paths = [m for m in drawings[f"plate-{key}"].marks if isinstance(m, Path)]
        dashed = [np.array(m.points) for m in paths if m.layer == "MARK" and m.closed]
        part = next(p for p in made(job).parts if p.owner.id == key and p.role == "ears")
        n = np.array(pad.normal)
        assert len(dashed) == len(part.solids) == 2
        for solid in part.solids:
            ring = solid.triangles[0] - np.array(pad.centre)
            foot = ring[np.abs(ring @ n - PLATE) < 1e-6]
            box = np.array([[f(foot @ u), f(foot @ v)] for f in (np.min, np.max)])
            assert any(np.allclose([d.min(0), d.max(0)], box, atol=0.01) for d in dashed)
        left = min(d[:, 0].mean() for d in dashed)
        assert left == pytest.approx(-OFF[0] - (job.struts[0].eye_length_mm / 2 + 1.0 + THICK / 2), abs=0.6)
        ear = drawings[f"ear-{key}"]
        assert "24.0 mm over the plate" in " ".join(ear.notes)

    def test_a_tool_on_every_bolt(self, demo: Job) -> None:
        """Four bolts of its plate where their holes are in the car, and one through either eye; a wall before
        the second hole alone keeps a socket from that one only."""
        job = eared(demo)
        key = job.struts[0].id
        rows = {r.name: r for r in reaches(job) if r.mount == key}
        assert set(rows) == {
            *(f"Torque strut, bolt {k} of its plate" for k in range(1, 5)),
            "Torque strut, bolt through its eye on the engine",
            "Torque strut, bolt through its eye on the chassis",
        }
        pose, pad = pose_of(job.position), job.struts[0].ears.pad  # type: ignore[union-attr]
        u, v = in_plate(job)
        heads = [
            pose.points(np.array(pad.centre) + a * u + b * v + (PLATE + 7.0) * np.array(pad.normal))
            for a, b in HOLES
        ]
        for k, head in enumerate(heads):
            assert rows[f"Torque strut, bolt {k + 1} of its plate"].place == pytest.approx(head, abs=1e-6)
        eye = pose.points(job.struts[0].engine_at)
        assert rows["Torque strut, bolt through its eye on the engine"].place == pytest.approx(eye, abs=1e-6)
        before = pose.points(pose.inverse().points(heads[1]) + 12.0 * np.array(pad.normal))
        wall = Item(
            id="wall",
            name="Wall",
            neighbour="metal",
            shapes=(Box(centre=tuple(before), size=(14.0, 6.0, 14.0)),),
        )
        walled = {r.name: r for r in reaches(added(job, "items", wall)) if r.mount == key}
        changed = {name for name, r in walled.items() if r.blocked == "Wall" and rows[name].blocked != "Wall"}
        assert changed == {"Torque strut, bolt 2 of its plate"}

    def test_room_under_the_eye(self, demo: Job) -> None:
        """The eye goes to the plate by half of what both rubbers give along the rod and by its gap, as far as
        the rod points there."""
        for gap in (0.0, 3.0):
            job = eared(demo)
            key = job.struts[0].id
            job = with_value(job, f"struts/{key}/gap_mm", gap)
            rows = mount_cases(carried(job), job.struts[0])
            n = pose_of(job.position).rotation @ np.array(job.struts[0].ears.pad.normal)  # type: ignore[union-attr]
            sizes = [float(np.linalg.norm(row.force)) for row in rows]
            moved = max(
                -float(row.force @ n) / size * (size / 800.0 + gap)
                for row, size in zip(rows, sizes, strict=True)
                if size > 1
            )
            room = 32.0 - PLATE - job.struts[0].eye_outside_mm / 2
            assert of_strut(job)["ear-room"].use == pytest.approx(moved / room, rel=1e-6)

    def test_made_measured_and_listed(self, demo: Job) -> None:
        job = eared(demo)
        key = job.struts[0].id
        listed = {row.part for row in cut_list(job)}
        assert listed >= {
            "Torque strut: plate on the engine",
            "Torque strut: ears on the engine",
            "Torque strut: block bolts",
            "Torque strut: bolt through its eye on the engine",
        }
        own = [g for g in shaft_gaps(job) if g.piece.startswith(key) and g.item.startswith(f"{key}.ears")]
        assert own and all(g.margin > 0 for g in own)  # a rod between its own ears
        assert not [g for g in made_gaps(job) if g.margin < 0 and f"{key}.ears" in g.piece + g.item]
        wide = with_value(job, f"struts/{key}/ears/foot_mm", 400.0)
        met = [g for g in made_gaps(wide) if f"{key}.ears" in g.piece + g.item]
        assert met and min(g.margin for g in met) < 0  # through what stands beside them


class TestWired:
    def test_what_is_open_keeps_the_mounts_open(self, demo: Job) -> None:
        whole = eared(demo)
        key = whole.struts[0].id
        base = f"struts/{key}/ears"

        def open_for(job: Job) -> str:
            said = [q for m in verdict(job).mounts for q in m.questions if "Torque strut" in q]
            assert len(said) in (0, 3)
            return said[0] if said else ""

        assert open_for(whole) == ""
        assert "nobody looked" in open_for(with_value(whole, base, None))
        assert "nobody looked" in open_for(with_value(whole, f"struts/{key}/bracket", None))
        looked = with_value(
            with_value(whole, f"struts/{key}/bracket", None), f"struts/{key}/ends", "looked at"
        )
        assert open_for(looked) == ""
        for field, value in (
            ("pad/thread_in", "unsaid"),
            ("tightening_nm", None),
            ("pad/holes_confirmed", False),
            ("pad/centre", (0.0, 900.0, 0.0)),
            ("pad/holes", HOLES[:2]),
            ("bolt_way", (0.3, 0.9, 0.1)),
            ("pad/holes", ()),
            ("pad/holes", (*HOLES[:3], (-OFF[0], -OFF[1]))),
        ):
            tried = with_value(whole, f"{base}/{field}", value)
            said = open_for(tried)
            assert "open" in said or "not hold" in said, field
            assert any(p.place.startswith(f"struts/{key}/") for p in verdict(tried).problems), field
        weak = with_value(whole, f"{base}/ear_mm", 0.4)
        assert of_strut(weak)["ear-bent"].use > 1 and "does not hold" in open_for(weak)
        thin = with_value(whole, f"{base}/pad/plate_mm", 1.0)
        assert of_strut(thin)["plate-line"].use > 1 and "does not hold" in open_for(thin)
        loose = with_value(whole, f"{base}/pad/tightening_nm", 1.0)
        assert of_strut(loose)["slip"].use > 1 and "does not hold" in open_for(loose)

    def test_both_ends_by_themselves(self, demo: Job) -> None:
        """What is found of one end does not hang on the other."""
        job = eared(demo)
        key = job.struts[0].id
        alone = of_strut(with_value(job, f"struts/{key}/bracket", None))
        both = of_strut(job)
        engine = {c: f.use for c, f in both.items() if c in alone}
        assert {c: f.use for c, f in alone.items()} == pytest.approx(engine, rel=1e-9)
        chassis = of_strut(with_value(job, f"struts/{key}/ears", None))
        assert {c: f.use for c, f in chassis.items()} == pytest.approx(
            {c: both[c].use for c in chassis}, rel=1e-9
        )
        assert not set(chassis) & (set(alone) - {"strut-rod", "strut-bolt", "strut-lever"})


def test_a_mount_s_tag_says_no_more_than_its_verdict(desk: Desk, demo: Job) -> None:
    """A mount whose strut hangs in something open, or whose rail does not bear it, is not told to hold in the
    picture, whatever its own parts bear."""
    whole = eared(demo)
    base = f"struts/{whole.struts[0].id}/ears"
    weak = with_value(whole, "items/rail-left/host/yield_mpa", 30.0)
    for job in (whole, with_value(whole, f"{base}/pad/thread_in", "unsaid"), weak):
        desk.session.edit("Tried", job)
        told = {tag.lines[0]: tag for tag in loads_told(desk.session)}
        for m in verdict(job).mounts:
            both = m.block_to_bush, m.bush_to_rail
            word, state = told[m.name].lines[1], told[m.name].state
            assert (state in ("holds", "near")) == (set(both) == {"holds"}), (word, both)
            assert word.startswith("holds") <= (set(both) == {"holds"})
            assert ("does not hold" in both) == (state == "fails")
            assert ("on assumed" in word) == (set(both) == {"holds"} and bool(verdict(job).rests_on))


def test_begun_on_the_nearest_face(demo: Job) -> None:
    job = struck(demo, engine_at=engine_at(demo))
    begun = with_ears(job, job.struts[0], True)
    ears = begun.struts[0].ears
    assert ears is not None and ears.pad.normal == pytest.approx((0, 1, 0), abs=1e-6)
    assert ears.pad.centre[1] == pytest.approx(engine_at(demo)[1] - 32.0, abs=0.1)
    assert of_strut(begun)["ear-square"].use < 0.01
    assert with_ears(begun, begun.struts[0], False).struts[0].ears is None
    for at, said in (
        ((0.0, 3000.0, 0.0), "no piece of the engine"),
        (in_block(demo), "lies in Cylinder block"),
    ):
        far = with_value(job, f"struts/{job.struts[0].id}/engine_at", at)
        with pytest.raises(JobError, match=said) as told:
            with_ears(far, far.struts[0], True)
        assert told.value.place == f"struts/{job.struts[0].id}/engine_at"


def in_block(job: Job) -> tuple[float, float, float]:
    return next(p for p in job.powertrain.pieces if p.id == "block").shapes[0].centre  # type: ignore[union-attr]


def test_proposed(demo: Job) -> None:
    """A strut of which nobody said what it hangs in gets ears of the thinnest sheet that holds."""
    job = struck(demo, engine_at=engine_at(demo))
    found = proposed(job)
    ears = found.job.struts[0].ears
    assert ears is not None and ears.ear_mm == ears.pad.plate_mm
    assert any(words.startswith("Torque strut: ears on the engine, of ") for words in found.done)
    own = {c: f for c, f in of_strut(found.job).items() if c.startswith(("ear-", "plate"))}
    assert own and max(f.use for f in own.values()) <= 1


def test_by_the_mouse(desk: Desk, demo: Job) -> None:
    job = struck(demo, engine_at=engine_at(demo))
    key = job.struts[0].id
    desk.session.edit("Struck", job)
    desk.go("mounts")
    sheet = desk.sheets["mounts"]
    assert isinstance(sheet, MountsSheet)
    sheet.rooms.go("strut")
    unfold_all(sheet.strut)
    group = sheet.strut.ears[key]
    assert not group.fields.bolt.isVisible()
    group.kind.take(1)
    ears = desk.session.job.struts[0].ears
    assert ears is not None and group.fields.bolt.isVisible()
    before: dict[str, Finding] = of_strut(desk.session.job)
    type_into(sheet.strut, f"struts/{key}/ears/ear_mm", "12")
    after = of_strut(desk.session.job)
    assert after["ear-bent"].use < before["ear-bent"].use
    group.kind.take(0)
    assert desk.session.job.struts[0].ears is None
    click(desk, "Take this strut out")
    assert desk.session.job.struts == ()
