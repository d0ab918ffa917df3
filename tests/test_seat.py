"""Whole jobs settled: gaps kept on the exact check, optima against a wide search, multipliers against
re-solves, wishes that go against each other, trades, pushes."""

from __future__ import annotations

import json
from itertools import pairwise
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from nimble_cradle import workers
from nimble_cradle.bay.mass import powertrain_mass
from nimble_cradle.bay.position import pose_of, position_of
from nimble_cradle.cli.main import main
from nimble_cradle.fit.links import links
from nimble_cradle.fit.lowest import lowest_point
from nimble_cradle.geometry.distance import clearance
from nimble_cradle.geometry.pose import Pose, rotation_xyz
from nimble_cradle.job import store
from nimble_cradle.job.base import JobError
from nimble_cradle.job.bay import Item
from nimble_cradle.job.edits import added, with_value
from nimble_cradle.job.job import Job
from nimble_cradle.job.shapes import Box
from nimble_cradle.job.wish import Sale, Window
from nimble_cradle.judge.gaps import clashes, made_gaps, running_gaps, shaft_gaps
from nimble_cradle.judge.verdict import verdict
from nimble_cradle.made.parts import made as made_parts
from nimble_cradle.motion.descend import descend
from nimble_cradle.motion.way_out import between
from nimble_cradle.seat import no_seat
from nimble_cradle.seat.along import brought_along
from nimble_cradle.seat.candidates import with_candidate
from nimble_cradle.seat.no_seat import why_no_seat
from nimble_cradle.seat.pushes import pushed
from nimble_cradle.seat.removal import task_of
from nimble_cradle.seat.seating import seating_of, wish_of
from nimble_cradle.seat.settle import settle
from nimble_cradle.seat.settled import BROKEN, Settled, finished
from nimble_cradle.seat.stops import stops_of
from nimble_cradle.seat.trades import applied, each_traded, is_done, settled_by, trade, with_trade
from nimble_cradle.seat.windows import inside_outline, plate_windows
from nimble_cradle.seat.words import headline, no_seat_words
from nimble_cradle.units import METRIC


@pytest.fixture(params=("light-truck", "hatchback"))
def job(request: pytest.FixtureRequest, demo: Job, hatchback: Job) -> Job:
    return demo if request.param == "light-truck" else hatchback


@pytest.fixture
def settled(request: pytest.FixtureRequest, job: Job) -> Settled:
    name = "settled_truck" if job.name.startswith("Light truck") else "settled_hatchback"
    found: Settled = request.getfixturevalue(name)
    return found


def own_margin(job: Job) -> float:
    """Least running margin of all there is, arms and eyes made anew too, from the full verdict (which knows
    nothing of the search)."""
    return min(g.margin for g in verdict(job).gaps)


class TestSettle:
    def test_everything_is_kept(self, job: Job, settled: Settled) -> None:
        v, wish = verdict(settled.job), wish_of(job)
        assert settled.ok and own_margin(settled.job) >= -BROKEN
        assert v.driveline is not None and v.driveline.faults == ()
        assert v.lowest is not None and v.lowest.above_line >= wish.over_line_mm - 0.01
        assert v.share is not None and v.share.percent <= job.vehicle.want_front_share_percent + 1e-6
        p = settled.job.position
        for value, window in (
            (p.x, wish.fore_aft),
            (p.y, wish.side),
            (p.z, wish.height),
            (p.pitch_deg, wish.nose_up),
            (p.roll_deg, wish.clocked),
            (p.yaw_deg, wish.yaw),
        ):
            assert window.low - 0.01 <= value <= window.high + 0.01

    def test_begun_where_it_ended_it_finds_no_better(self, settled: Settled) -> None:
        """And every mount can be made there: an eye that stood in its plate took the plate out of what was
        looked at, and the next search found a place 10 mm better that nobody can build."""
        again = settle(settled.job)
        assert again.cost == pytest.approx(settled.cost, abs=0.05)
        assert made_parts(settled.job).faults == {} and made_parts(again.job).faults == {}

    def test_begun_where_a_plate_cannot_be_made(self, hatchback: Job, settled_hatchback: Settled) -> None:
        """0.1 mm back the rear eye stands in its plate, so that there is none to look at: at a seat that was
        found without it, that plate hung 1.2 mm under the chassis."""
        away = with_value(hatchback, "position/x", hatchback.position.x - 0.1)
        assert len(made_parts(away).faults) == 1
        again = settle(away)
        low = lowest_point(again.job)
        assert low is not None and made_parts(again.job).faults == {}
        assert low.above_line >= wish_of(hatchback).over_line_mm - BROKEN
        assert again.cost == pytest.approx(settled_hatchback.cost, abs=0.1)

    def test_never_worse_than_a_wide_search(self, job: Job, settled: Settled) -> None:
        """Six descents from random places within the windows, on the problem as the exact check corrected
        it."""
        rng, wish = np.random.default_rng(4), wish_of(job)
        best = np.inf
        for _ in range(6):
            at = [
                rng.uniform(w.low, w.high)
                for w in (wish.fore_aft, wish.side, wish.height, wish.clocked, wish.nose_up, wish.yaw)
            ]
            found = descend(
                settled.seating.problem, Pose(rotation_xyz(at[3], -at[4], at[5]), np.array(at[:3]))
            )
            if found.ok:
                best = min(best, found.stand.cost)
        assert np.isfinite(best) and settled.cost <= best + 1.0

    def test_from_far_outside_and_from_a_foul(self, demo: Job, settled_truck: Settled) -> None:
        best = settled_truck.cost
        for x, z, roll in ((900.0, 600.0, 40.0), (-248.0, -60.0, 0.0)):
            away = with_value(
                with_value(with_value(demo, "position/x", x), "position/z", z), "position/roll_deg", roll
            )
            found = settle(away)
            assert found.ok and found.cost == pytest.approx(best, abs=0.2)

    def test_what_stops_it_is_worth_what_re_solving_gives(self, settled_truck: Settled) -> None:
        found = settled_truck.bare or settled_truck
        problem = found.seating.problem
        base, told = descend(problem, found.stand.pose).stand, 0
        for stop in stops_of(found)[:3]:
            lower = []
            for given in (0.02, 0.1):
                need = problem.need()
                columns = [k for k, c in enumerate(found.seating.columns) if c == stop.item]
                need[found.seating.owners.index(stop.piece), columns] -= given
                again = descend(problem.with_need(need), found.stand.pose).stand
                assert (base.cost - again.cost) / given == pytest.approx(stop.worth, rel=0.1, abs=0.02)
                lower.append((base.values[2] - again.values[2]) / given)
            if lower[0] == pytest.approx(lower[1], abs=0.08):  # else lower and back trade at nearly one price
                assert lower[1] == pytest.approx(stop.lower, abs=0.08)
                told += 1
        assert told

    def test_stopped_half_way_the_job_is_as_it_was(self, demo: Job) -> None:
        class Enough(Exception):
            pass

        told: list[str] = []

        def say(words: str) -> None:
            told.append(words)
            if len(told) == 9:
                raise Enough

        before = store.job_text(demo)
        with pytest.raises(Enough):
            settle(demo, say)
        assert store.job_text(demo) == before and told[-1].startswith("Looking")

    def test_an_item_without_a_size_is_named(self, demo: Job) -> None:
        flat = with_value(demo, "items/front-crossmember/shapes/0/outline", ((0, 0), (10, 0), (20, 0)))
        with pytest.raises(JobError, match="Front crossmember"):
            settle(flat)


class TestNoSeat:
    def test_the_wishes_that_fight_are_named_and_relaxing_one_is_enough(self, small_bay: Job) -> None:
        narrow = with_value(small_bay, "wish/height", Window(low=-130, high=-80))
        found = settle(narrow)
        assert not found.ok and found.short > 5
        no_seat = why_no_seat(found)
        assert "height not over -80 mm" in no_seat.between and any(
            "lowest chassis line" in b for b in no_seat.between
        )
        least = no_seat.relaxing
        assert least is not None
        assert least.names == ("height not over -80 mm",)
        wider = with_value(small_bay, "wish/height", Window(low=-130, high=-80 + least.amounts[0] + 0.3))
        assert settle(wider).ok
        # so much lower that it is not looked for a second time, wider
        tighter = with_value(small_bay, "wish/height", Window(low=-130, high=-80 + least.amounts[0] - 12))
        assert not settle(tighter).ok

    def test_what_does_not_fit_at_all_says_what_still_lacks(self, demo: Job) -> None:
        """The candidate that is far too large: more wishes are broken than anybody would give, and each of
        them is told; at that place no less lacks."""
        large = with_candidate(demo, next(c for c in demo.candidates if "V8" in c.name))
        found = settle(large)
        no_seat = why_no_seat(found)
        assert not found.ok and no_seat.relaxing is None and len(no_seat.lacks) > 5
        told = no_seat_words(no_seat, demo.show.display)
        assert "At the best place found" in told and no_seat.lacks[0][0] in told
        amounts = [mm for _, mm in no_seat.lacks]
        assert amounts == sorted(amounts, reverse=True) and max(amounts) >= found.short - 0.2, (
            "the worst shortfall cannot be less than the least worst"
        )
        names = {name for name, _ in no_seat.lacks}
        assert names & set(no_seat.between), "what lacks at the best place is broken at the other too"

    def test_a_powertrain_bigger_than_the_bay(self, small_bay: Job) -> None:
        big = with_value(small_bay, "powertrain/pieces/block/shapes/0/size", (900.0, 1200.0, 900.0))
        before = big.position
        found = settle(big)
        assert not found.ok and found.short > 50 and found.before.position == before

    def test_an_empty_window_is_refused(self, demo: Job) -> None:
        with pytest.raises(JobError, match="window is empty"):
            with_value(demo, "wish/side/low", 40.0)
        with pytest.raises(JobError, match="Nothing is wished"):
            nothing_wished(demo)


class TestTrades:
    def test_taking_the_stop_away_buys_and_a_far_thing_buys_nothing(
        self, demo: Job, settled_truck: Settled
    ) -> None:
        found = settled_truck.bare or settled_truck  # what a trade buys is measured without room for arms
        sales = {s.id: s for s in wish_of(demo).sales}
        wiper, fuel = trade(found, (sales["wiper"],)), trade(found, (sales["fuel-line"],))
        assert wiper.buys and wiper.back > 0.5 and not fuel.buys
        after = with_trade(found.job, wiper)
        assert (
            min(g.margin for g in running_gaps(after)) >= -BROKEN
            and is_done(after, sales["wiper"])
            and not is_done(demo, sales["wiper"])
        )
        mass = powertrain_mass(demo)
        moved = pose_of(found.job.position).points(mass.centre) - pose_of(after.position).points(mass.centre)
        assert (wiper.lower, wiper.back) == pytest.approx(
            (moved[2], moved[0]), abs=0.01
        ) and wiper.gain > 0.5 * wiper.back

    @pytest.mark.parametrize("made", ["stays", "comes along"])
    def test_what_is_made_anew_has_room(self, job: Job, made: str) -> None:
        """Arms, eyes and brackets of the place found are measured like all else, and every mount can be made
        there; what that costs of the wish is told."""
        wished = with_value(job, "wish", wish_of(job).model_copy(update={"made": made}))
        found = settle(wished)
        assert found.ok and own_margin(found.job) >= -BROKEN
        assert not made_parts(found.job).faults and not clashes(found.job)
        assert 0 <= found.for_arms_mm <= 1 and bool(found.for_arms) >= (found.for_arms_mm > 0)
        for name in found.for_arms:
            assert ("," in name and name in headline(found, METRIC)) or len(found.for_arms) > 2

    def test_a_bush_that_comes_along_is_looked_at_where_it_goes(self, job: Job) -> None:
        """How far it is from its plate at another place: as of the job with its mounts brought there."""
        move, turn = np.array([-23.0, 9.0, 14.0]), rotation_xyz(1.5, -2.0, 1.0)
        here = pose_of(job.position)
        pose = Pose(turn @ here.rotation, here.translation + move)
        there = brought_along(job, with_value(job, "position", position_of(pose, job.position.pivot)))
        told, want = (plate_windows(j, along=a).measure([pose])[0] for j, a in ((job, True), (there, False)))
        assert told == pytest.approx(want, abs=0.02)  # centres are rounded to 0.01
        assert np.abs(told - plate_windows(job).measure([pose])[0]).max() > 1

    def test_what_lacks_much_is_told(self, demo: Job) -> None:
        """An arm that has to be led otherwise does not push the engine away: a pump that nobody else meets
        stands in its way."""
        plain = settle(demo, most=4, kicks=0)
        arm = next(p for p in made_parts(plain.job).parts if p.role == "arm" and p.owner.id == "left")
        middle = pose_of(plain.job.position).points(arm.solids[0].triangles[0].mean(0))
        box = Item(
            id="pump",
            name="Brake pump",
            neighbour="metal",
            shapes=(Box(size=(24.0, 24.0, 24.0), centre=tuple(round(float(c), 1) for c in middle)),),
        )
        found = settle(added(demo, "items", box), most=4, kicks=0)
        assert found.ok and found.cost < plain.cost + 2
        assert [g for g in made_gaps(found.job) if g.margin < -8 and g.item == "pump"]
        assert "these then lack: Left engine mount, arm – Brake pump" in headline(found, METRIC)

    @pytest.mark.parametrize("made", ["stays", "comes along"])
    def test_a_helped_search_is_the_same_to_the_last_digit(
        self, demo: Job, made: str, monkeypatch: pytest.MonkeyPatch
    ) -> None:
        """Whoever does a descent: alone, with a worker that is coming up, and with one that is there."""
        wished = with_value(demo, "wish", wish_of(demo).model_copy(update={"made": made}))
        found = []
        for cores in (1, 2, 2):
            monkeypatch.setattr(workers, "cores", lambda n=cores: n)
            found.append(settle(wished, most=4, kicks=1))
        assert len({(s.job.position.model_dump_json(), s.cost, s.margin) for s in found}) == 1

    def test_workers_and_this_process_find_the_same(
        self, demo: Job, settled_truck: Settled, monkeypatch: pytest.MonkeyPatch
    ) -> None:
        found = settled_truck.bare or settled_truck
        rows = [(s,) for s in wish_of(demo).sales if s.id in ("wiper", "notch", "sump")]
        monkeypatch.setattr(workers, "cores", lambda: 2)
        there = each_traded(found, rows)
        monkeypatch.setattr(workers, "cores", lambda: 1)
        for a, b in zip(there, each_traded(found, rows), strict=True):
            assert a.sales == b.sales and a.gain == pytest.approx(b.gain, abs=0.03) and a.buys == b.buys
            again = settled_by(found, a)
            assert (
                again.cost == pytest.approx(found.cost - a.gain, abs=1e-6)
                and again.ok
                and again.job == with_trade(found.job, a)
            )
            assert {s.piece for s in stops_of(again)} <= set(a.seat.holds) | {""}  # type: ignore[union-attr]

    def test_every_kind_is_applied(self, demo: Job, settled_truck: Settled) -> None:
        top = {i: verdict_top(demo, i) for i in ("front-crossmember", "radiator")}
        for sale in wish_of(demo).sales:
            assert is_done(applied(demo, sale), sale)
        notch = applied(demo, next(s for s in wish_of(demo).sales if s.id == "notch"))
        assert verdict_top(notch, "front-crossmember") == pytest.approx(top["front-crossmember"] - 20)
        swapped = applied(demo, next(s for s in wish_of(demo).sales if s.id == "sump"))
        present = {p.id for p in swapped.powertrain.present}
        assert "sump-low" in present and "sump-deep" not in present
        gone = Sale(id="x", name="Something that is not there", what="remove", of="nothing")
        assert trade(settled_truck, (gone,)).why == "There is nothing called “nothing” there."

    def test_a_cut_through_the_whole_is_refused_by_name(self, demo: Job) -> None:
        deep = applied(
            demo, Sale(id="x", name="All of it", what="cut", of="front-crossmember", side="top", depth_mm=500)
        )
        with pytest.raises(JobError, match="leaves nothing"):
            settle(deep)


def nothing_wished(job: Job) -> Job:
    """No weight at all."""
    for name in ("level", "central", "back", "low"):
        job = with_value(job, f"wish/{name}", 0.0)
    return job


def verdict_top(job: Job, item: str) -> float:
    """Height of the top of an item as it is measured against."""
    from nimble_cradle.bay.bodies import solid_of

    it = next(i for i in job.items if i.id == item)
    return max(float(p.triangles[0][:, 2].max()) for p in solid_of(it, job.meshes, "items"))


class TestPushes:
    def test_a_push_ends_at_a_margin_of_nought_and_names_the_place(self, settled_truck: Settled) -> None:
        seat = settled_truck.job
        lifted = with_value(seat, "position/z", seat.position.z + 6)
        down = pushed(lifted, "down")
        assert 1 < down.distance <= 6.5 and down.stops
        assert own_margin(down.job) == pytest.approx(0.0, abs=BROKEN)
        least = {(g.piece, g.item): g.exact_margin for g in verdict(down.job).gaps}
        worst = min(own_margin(down.job), 0.0)
        for stop in down.stops:
            assert stop[1] == "lowest chassis line" or least[stop] < worst + BROKEN, "it is what is tightest"
        assert pushed(down.job, "down").distance < 0.1

    def test_a_shaft_stops_it_too(self, hatchback: Job) -> None:
        """Down, a half-shaft comes to its lower arm before anything else; a mm further it lacks."""
        down = pushed(hatchback, "down")
        assert 1 < down.distance < 4.4 and down.names == ("Right half-shaft – Right lower arm",)
        key = down.stops[0]
        margins = []
        for by in (0.0, -1.0):
            there = with_value(down.job, "position/z", down.job.position.z + by)
            margins.append(next(g.exact_margin for g in shaft_gaps(there) if (g.piece, g.item) == key))
        assert margins[0] == pytest.approx(0.0, abs=BROKEN) and margins[1] < -0.1

    def test_sliding_goes_farther(self, settled_truck: Settled) -> None:
        seat = (settled_truck.bare or settled_truck).job
        assert pushed(seat, "forward", sliding=True).distance > pushed(seat, "forward").distance + 0.5


class TestCommandLine:
    def test_settle_writes_the_seat_and_tells_it(
        self, demo: Job, tmp_path: Path, capsys: pytest.CaptureFixture[str]
    ) -> None:
        path, out = tmp_path / "a.cradle", tmp_path / "b.cradle"
        store.write(path, demo)
        assert main(["settle", str(path), "-o", str(out)]) == 0
        told = capsys.readouterr().out
        assert "mm back" in told and "What stops it:" in told and "each mm given here" in told
        assert own_margin(store.read(out).job) >= -BROKEN
        assert main(["settle", str(path), "-o", str(out)]) == 2

    def test_no_seat_is_exit_1_and_says_why(
        self, small_bay: Job, tmp_path: Path, capsys: pytest.CaptureFixture[str]
    ) -> None:
        path = tmp_path / "a.cradle"
        store.write(path, with_value(small_bay, "wish/height", Window(low=-130, high=-80)))
        assert main(["settle", str(path), "--json"]) == 1
        data = json.loads(capsys.readouterr().out)
        assert (
            data["seat"] is False
            and data["short_mm"] > 5
            and data["fight"]["between"]
            and "height not over -80 mm" in data["fight"]["enough"]
        )

    def test_candidates_and_the_way_out_as_data(
        self, demo: Job, settled_truck: Settled, tmp_path: Path, capsys: pytest.CaptureFixture[str]
    ) -> None:
        path = tmp_path / "a.cradle"
        small = with_value(demo, "candidates", tuple(c for c in demo.candidates if "V8" not in c.name))
        store.write(path, small)
        assert main(["candidates", str(path), "--json"]) == 0
        rows = json.loads(capsys.readouterr().out)
        assert {r["name"] for r in rows} == {
            demo.powertrain.name,
            *(c.name for c in small.candidates),
        } and all(r["seat"] and r["fouls"] == 0 for r in rows)
        light = min(rows, key=lambda r: r["kg"])
        assert light["front_share_percent"] < max(rows, key=lambda r: r["kg"])["front_share_percent"]
        seat = tmp_path / "seat.cradle"
        store.write(seat, settled_truck.job)
        assert main(["way-out", str(seat), "--json"]) == 0
        data = json.loads(capsys.readouterr().out)
        out = store.read(seat).job
        task = task_of(out)[0]
        poses = [Pose(np.array(p["rotation"]), np.array(p["place"])) for p in data["path"]]
        assert len(poses) > 2 and poses[0].translation == pytest.approx(
            pose_of(out.position).translation, abs=0.01
        )
        for a, b in pairwise(poses):
            for k in np.linspace(0, 1, 25):
                assert clearance(task.moving, between(task, a, b, float(k)), task.fixed, 20.0)[0] > 0.3
        assert data["tightest"]["gap_mm"] >= 0.5 and "Radiator off" in data["before"]
        assert main(["way-out", str(seat), "--route", "sideways"]) == 2

    def test_a_candidate_that_cannot_be_had_is_said_in_one_line(
        self, tmp_path: Path, capsys: pytest.CaptureFixture[str]
    ) -> None:
        (tmp_path / "x.cradle").write_bytes(b"not a job")
        assert (
            main(["candidates", str(tmp_path / "x.cradle")]) == 1
            and main(["way-out", str(tmp_path / "none.cradle")]) == 1
        )
        assert len(capsys.readouterr().err.strip().splitlines()) == 2


def test_a_shaft_without_room_is_what_has_to_give(settled_hatchback: Settled) -> None:
    """A brace under the left half-shaft, and the engine may not come up: the shaft's room at the brace is the
    first of what works against each other, and so much lower a brace leaves a seat."""
    job = settled_hatchback.job
    shaft = next(link for link in links(job) if link.id == "half-shaft.left")
    one, two = shaft.ends(pose_of(job.position), 0.0)
    x, y, z = one + 0.35 * (two - one)

    def braced(lower: float) -> Job:
        shape = Box(centre=(x, y, z - 50.0 - lower), size=(200, 30, 30))
        brace = Item(id="brace", name="Brace", neighbour="metal", measured="calipers", shapes=(shape,))
        with_it = added(job, "items", brace)
        return with_value(with_it, "wish/height/high", job.position.z + 4.0)

    found = settle(braced(0.0), most=8, kicks=0)
    assert not found.ok
    why = why_no_seat(found)
    assert why.between[0] == "Left half-shaft – Brace"
    assert why.relaxing is not None and why.relaxing.names == ("Left half-shaft – Brace",)
    assert "give Left half-shaft – Brace by" in no_seat_words(why, job.show.display)
    assert settle(braced(1.02 * why.relaxing.amounts[0]), most=8, kicks=0).ok


def test_a_shaft_with_no_room_anywhere_is_named(
    settled_hatchback: Settled, monkeypatch: pytest.MonkeyPatch
) -> None:
    """A wall right across the left half-shaft, and the engine may not come up either: that no wish near by
    makes room for the shaft is found by one look at each, and the shaft is told."""
    job = settled_hatchback.job
    shaft = next(link for link in links(job) if link.id == "half-shaft.left")
    one, two = shaft.ends(pose_of(job.position), 0.0)
    x, y, z = one + 0.5 * (two - one)
    wall = Item(
        id="wall", name="Wall", neighbour="metal", shapes=(Box(centre=(x, y, z), size=(400, 12, 420)),)
    )
    tight = with_value(added(job, "items", wall), "wish/height/high", job.position.z - 5.0)
    found = settle(tight, most=8, kicks=0)
    assert not found.ok
    looks: list[Settled] = []

    def counted(*given: Any, **named: Any) -> Settled:
        looks.append(finished(*given, **named))
        return looks[-1]

    monkeypatch.setattr(no_seat, "finished", counted)
    monkeypatch.setattr(workers, "cores", lambda: 1)
    why = why_no_seat(found)
    name = "Left half-shaft – Wall"
    assert name in why.between or dict(why.shafts)[name] > 8
    assert name in no_seat_words(why, job.show.display)
    assert why.relaxing is None or name in why.relaxing.names
    assert len(looks) <= no_seat.TRIED


def test_inside_an_outline() -> None:
    square = np.array([[0, 0], [40, 0], [40, 20], [0, 20]], dtype=float)
    assert inside_outline(square, np.array([10.0, 12.0])) == pytest.approx(8) and inside_outline(
        square, np.array([43.0, 24.0])
    ) == pytest.approx(-5)


def test_a_rail_that_is_for_sale_may_still_be_taken_off_the_list(demo: Job) -> None:
    more = added(demo, "wish/sales", Sale(id="rail", name="A rail", what="remove", of="rail-left"))
    fewer = with_value(more, "items", tuple(i for i in more.items if i.id != "rail-left"))
    items = [[c for c in seating_of(job).columns if "." not in c] for job in (fewer, demo)]
    assert len(items[0]) == len(items[1]) - 1
    assert pose_of(fewer.position).translation[0] == demo.position.x
