"""Wheels and axles through their travel, and what pivots that are moved do to them."""

from __future__ import annotations

from typing import Any

import numpy as np

from nimble_cradle.design.first_suspension import (
    KINDS,
    first_suspension,
    with_other_side,
    with_rack_up,
    without,
)
from nimble_cradle.desk.kit.chart import Chart, Curve
from nimble_cradle.desk.kit.choice_box import ChoiceBox
from nimble_cradle.desk.kit.rooms import Room
from nimble_cradle.desk.kit.table import Table
from nimble_cradle.desk.kit.told_in import told_in
from nimble_cradle.desk.kit.words import button, row, words
from nimble_cradle.desk.stages.chassis.suspension_fields import SuspensionFields
from nimble_cradle.fit.linked_axle import AxleFound, axles_found
from nimble_cradle.fit.real_shaft import real_shaft
from nimble_cradle.fit.steering import LockFound, locks_found
from nimble_cradle.fit.suspension import CornerFound, Rod, corners_found
from nimble_cradle.geometry.pose import Array
from nimble_cradle.job.base import JobError
from nimble_cradle.job.edits import added
from nimble_cradle.job.job import Job
from nimble_cradle.job.suspension import LinkedAxle
from nimble_cradle.judge.cautions import PIVOTS
from nimble_cradle.judge.suspension import (
    SUSPENSION_LEFT_OUT,
    across_of,
    axle_at_lock,
    back_words,
    locks_words,
    steers_doubt,
)
from nimble_cradle.units import show

Found = CornerFound | AxleFound | JobError
WHEEL_CURVES = {
    "toe": "Toe, degrees, in is up",
    "camber": "Camber, degrees, top out is up",
    "aside": "The tyre's foot goes outwards, mm",
}
LOCK_CURVES = {"turns": "Turns to the left, degrees"}
AXLE_CURVES = {
    "nose": "Its nose turns up, degrees, both wheels up together",
    "left": "It goes to the left, mm, both wheels up together",
    "steers": "It steers to the left, degrees, left wheel up",
}


def all_found(job: Job) -> tuple[Found, ...]:
    """Every suspension's, in the job's order."""
    wheels, axles = iter(corners_found(job)), iter(axles_found(job))
    return tuple(next(axles if isinstance(one, LinkedAxle) else wheels) for one in job.suspensions)


class SuspensionRoom(Room):
    """The wheels, and the chosen one's curves, rods and pivots."""

    title, key = "Suspension", "suspension"
    caution = PIVOTS

    def build(self) -> None:
        """The list, the chosen one, and what can be added."""
        self.chosen = ""
        self.table = Table(
            ("Wheel or axle", "Steers, deg/10 mm", "Before", "May"),
            most_rows=6,
            chosen=self._choose,
            drop=(2,),
        )
        self.table.setAccessibleName("Wheels and axles")
        self.kinds = ChoiceBox()
        self.kinds.setAccessibleName("What is added")
        for key, word in KINDS.items():
            self.kinds.addItem(word, key)
        self.which = ChoiceBox()
        self.which.setAccessibleName("Which curve")
        self.which.activated.connect(lambda _: self.refresh())
        self.chart = Chart("wheel up, mm", "")
        self.said = words("", "")
        self.ends = Table(("Through its travel", "Down", "Up"), most_rows=8)
        self.ends.setAccessibleName("At the ends of its travel")
        self.lock = Table(("At lock", "To the left", "To the right"), most_rows=6)
        self.lock.setAccessibleName("At lock")
        self.rods = Table(("Arms and rods", "Before", "Now", "Hangs"), most_rows=8, drop=(3,))
        self.rods.setAccessibleName("Lengths of its arms and rods")
        self.rack_button = button("Move the rack so", self.move_rack, "On both wheels of the axle", "view")
        self.side_button = button("Other side the same", self.other_side, "Mirrored", "view")
        self.drop_button = button("Take it out", self.drop, name="view")
        self.fields = SuspensionFields(self.session)
        add = button("Add it", self.add, "With points to be typed over", "view")
        for widget in (
            words(SUSPENSION_LEFT_OUT, ""),
            self.table,
            row(self.kinds, add),
            self.refusal,
            self.which,
            self.chart,
            self.said,
            row(self.rack_button, self.side_button, self.drop_button),
        ):
            self.column.addWidget(widget)
        with self.folded("At the ends of its travel, at lock; its arms and rods"):
            self.column.addWidget(self.ends)
            self.column.addWidget(self.lock)
            self.column.addWidget(self.rods)
        with self.folded("Its points, and what is moved of them"):
            self.column.addWidget(self.fields)

    def _choose(self, key: str) -> None:
        self.chosen = key
        self.refresh()

    def _at(self) -> int:
        """Number of the chosen one; the first where none is."""
        keys = [one.id for one in self.session.job.suspensions]
        return keys.index(self.chosen) if self.chosen in keys else 0

    def refresh(self) -> None:
        job = self.session.job
        every = all_found(job)
        self.table.fill([self._row(k, found) for k, found in enumerate(every)], self.chosen)
        self.table.setVisible(bool(every))
        there = bool(every)
        found = every[self._at()] if there else None
        known = there and not isinstance(found, JobError)
        for widget in (self.which, self.chart, self.ends, self.lock, self.rods):
            widget.setVisible(known)
        for other in (self.said, self.side_button, self.drop_button, self.fields):
            other.setVisible(there)
        self.rack_button.setVisible(False)
        if found is None:
            return
        one = job.suspensions[self._at()]
        self.fields.show_suspension(one)
        self.side_button.setVisible(not isinstance(one, LinkedAxle))
        if isinstance(found, JobError):
            self.said.setText(f"Not worked out: {found.message}")
        elif isinstance(found, AxleFound):
            self._tell_axle(found)
        else:
            self._tell_wheel(found)
        if not isinstance(found, JobError):
            self._tell_rods(found.rods, found.moved)

    def _row(self, k: int, found: Found) -> tuple[str, tuple[tuple[str, str], ...]]:
        one = self.session.job.suspensions[k]
        if isinstance(found, JobError):
            return one.id, ((one.name, ""), ("not known", "near"), ("", ">"), ("", ">"))
        if isinstance(found, AxleFound):
            now, was = (f"{_most(c.steers):.2f} leaning" for c in (found.after, found.before))
            return one.id, ((one.name, ""), (now, ">"), (was if found.moved else "", ">"), ("", ">"))
        now, was = (f"{c.steers:+.2f}" for c in (found.after, found.before))
        fine = abs(found.after.steers) <= found.corner.most_steer_deg
        return one.id, (
            (one.name, ""),
            (now, ">" if fine else "near"),
            (was if found.moved else "", ">"),
            (f"{found.corner.most_steer_deg:g}", ">"),
        )

    def _offer(self, curves: dict[str, str]) -> str:
        """Which curve is shown of those there are."""
        if [self.which.itemData(k) for k in range(self.which.count())] != list(curves):
            self.which.clear()
            for key, word in curves.items():
                self.which.addItem(word, key)
        return str(self.which.currentData())

    def _draw(self, x_words: str, x: Array, was: Array, now: Array, moved: bool) -> None:
        self.chart.x_words, self.chart.y_words = x_words, self.which.currentText()
        key = str(self.which.currentData())
        self.chart.nought = {"turns": "ahead", "steers": "level"}.get(key, "ride")
        rows = [("before", was), ("now", now)] if moved else [("as measured", was)]
        self.chart.show_curves([_curve(name, x, y) for name, y in rows if np.isfinite(y).sum() > 1])

    def _tell_wheel(self, found: CornerFound) -> None:
        lock = self._lock(found)
        self._tell_lock(lock)
        key = self._offer(WHEEL_CURVES if lock is None else WHEEL_CURVES | LOCK_CURVES)
        was, now = found.before, found.after
        if lock is not None and key in LOCK_CURVES:
            ways = "rack to the left, mm", lock.before.rack
            self._draw(*ways, lock.before.turns, lock.after.turns, lock.moved)
        else:
            self._draw("the wheel's middle up, mm", was.up, getattr(was, key), getattr(now, key), found.moved)
        doubt = f"±{steers_doubt(now):.3f} for its points"
        ride = f"At ride it steers itself {now.steers:+.3f} deg on 10 mm, {doubt}"
        old = f"; before {was.steers:+.3f}." if found.moved else "."
        caster = f" Caster {now.caster:.1f} deg."
        turns = "" if lock is None else f" {locks_words(lock)}"
        self.said.setText(f"{ride}{old}{back_words(found)}{caster}{self._shaft(found)}{turns}")
        self.rack_button.setVisible(found.rack_up is not None and abs(found.rack_up) >= 0.05)
        rows = []
        for word, name, unit, places in (
            ("Toe", "toe", "deg", 2),
            ("Toe is good to", "toe_doubt", "deg", 2),
            ("Camber", "camber", "deg", 2),
            ("The tyre's foot goes outwards", "aside", "mm", 1),
        ):
            for when, curves in (("before", was), ("now", now)) if found.moved else (("", was),):
                if when == "before" and name == "toe_doubt":
                    continue
                y = getattr(curves, name)
                told = [f"{v:+.{places}f} {unit}" if np.isfinite(v) else "not reached" for v in (y[0], y[-1])]
                if name == "toe_doubt":
                    told = [f"±{cell[1:]}" if cell[0] == "+" else cell for cell in told]
                title = f"{word}, {when}" if when else word
                rows.append((f"{name}{when}", ((title, ""), (told[0], ">"), (told[1], ">"))))
        self.ends.fill(rows)

    def _lock(self, found: CornerFound) -> LockFound | None:
        """The chosen wheel at lock; None where that is not known."""
        every = locks_found(self.session.job)
        return next(
            (f for f in every if not isinstance(f, JobError) and f.corner.id == found.corner.id), None
        )

    def _tell_lock(self, lock: LockFound | None) -> None:
        """The wheel and the one across from it with the rack at its ends."""
        self.lock.setVisible(lock is not None and lock.after.whole)
        if lock is None or not lock.after.whole:
            return
        job, now = self.session.job, lock.after
        rows = [("This wheel turns", [f"{turn:.1f} deg" for turn in now.locks])]
        pairs = axle_at_lock(job, lock)
        if pairs:
            rows += [
                ("Inner and outer wheel", [f"{p.inner:.1f} and {p.outer:.1f} deg" for p in pairs]),
                ("Of rolling without slip", [f"{p.share:.0f} %" for p in pairs]),
                ("Circle of the outer wheel", [self._far(p.circle) for p in pairs]),
            ]
        ends = now.lever[[0, -1]] if now.turns[0] > 0 else now.lever[[-1, 0]]
        rows.append(("Its rod from its dead point", [f"{min(a, 180 - a):.0f} deg" for a in ends]))
        self.lock.fill([(word, ((word, ""), (a, ">"), (b, ">"))) for word, (a, b) in rows])

    def _far(self, mm: float) -> str:
        """A long way, in metres or feet."""
        return f"{mm / 1000:.1f} m" if self.session.display.length == "mm" else f"{mm / 304.8:.1f} ft"

    def _shaft(self, found: CornerFound) -> str:
        """What its half-shaft does on the real path of the wheel, in a sentence."""
        try:
            both = real_shaft(self.session.job, found.corner)
        except JobError:  # said of the linkage
            return ""
        if both is None:
            return ""
        was, now = both
        plunge = show(now.plunge, "length", self.session.display, 1)
        old = f", {was.most:.1f} before" if found.moved and abs(was.most - now.most) >= 0.05 else ""
        lock = f"; its outer joint works at up to {now.lock:.1f} deg at lock" if now.lock is not None else ""
        return (
            f" Its half-shaft: {now.ride:.1f} deg at ride, at most {now.most:.1f}{old}; it plunges"
            f" {plunge}{lock}."
        )

    def _tell_axle(self, found: AxleFound) -> None:
        key = self._offer(AXLE_CURVES)
        was, now = found.before, found.after
        leaning = key == "steers"
        x = was.lean if leaning else was.up
        across = "leaning, degrees" if leaning else "both wheels up, mm"
        self._draw(across, x, getattr(was, key), getattr(now, key), found.moved)
        forced = f" Its links fight one another by {now.forced:.1f} mm." if now.forced > 0.05 else ""
        self.said.setText(
            f"Leaning {found.axle.roll_deg:g} deg it steers {_most(now.steers):.2f} deg.{forced}"
        )
        rows = []
        for word, name, unit in (
            ("Its nose turns up", "nose", "deg"),
            ("It goes ahead", "ahead", "mm"),
            ("It goes to the left", "left", "mm"),
            ("Leaning: steers to the left", "steers", "deg"),
            ("Leaning: goes to the left", "aside", "mm"),
        ):
            y = getattr(now, name)
            told = [f"{v:+.2f} {unit}" if np.isfinite(v) else "not reached" for v in (y[0], y[-1])]
            rows.append((name, ((word, ""), (told[0], ">"), (told[1], ">"))))
        self.ends.fill(rows)

    def _tell_rods(self, rods: tuple[Rod, ...], moved: bool) -> None:
        display = self.session.display
        self.rods.fill(
            [
                (
                    rod.name,
                    (
                        (rod.name, ""),
                        (show(rod.was, "length", display, 1), ">"),
                        (f"{show(rod.now, 'length', display, 1)}{_longer(rod)}" if moved else "", ">"),
                        (_hangs(rod), ">"),
                    ),
                )
                for rod in rods
            ]
        )

    def add(self) -> None:
        """One more, with points to be typed over."""
        with told_in(self.refusal):
            one = first_suspension(self.session.job, str(self.kinds.currentData()))
            self.chosen = one.id
            self.session.edit(f"Added {one.name}", added(self.session.job, "suspensions", one))

    def drop(self) -> None:
        """Without the chosen one."""
        with told_in(self.refusal):
            one = self.session.job.suspensions[self._at()]
            self.session.edit(f"Took {one.name} out", without(self.session.job, one.id))

    def other_side(self) -> None:
        """The other side as this one."""
        with told_in(self.refusal):
            one = self.session.job.suspensions[self._at()]
            if not isinstance(one, LinkedAxle):
                job = with_other_side(self.session.job, one, across_of(self.session.job, one))
                self.session.edit(f"{one.name}: the other side the same", job)

    def move_rack(self) -> None:
        """The rack where the wheel steers as before."""
        with told_in(self.refusal):
            found = all_found(self.session.job)[self._at()]
            if isinstance(found, CornerFound) and found.rack_up is not None:
                other = across_of(self.session.job, found.corner)
                both = (found.corner, *(() if other is None else (other,)))
                self.session.edit("Moved the rack", with_rack_up(self.session.job, both, found.rack_up))


def _hangs(rod: Rod) -> str:
    was, now = f"{rod.hung_was:+.1f}", f"{rod.hangs:+.1f} deg"
    return now if was == now[:-4] else f"{was}, now {now}"


def _longer(rod: Rod) -> str:
    by = rod.now - rod.was
    return f" ({by:+.1f})" if abs(by) >= 0.05 else ""


def _most(values: Any) -> float:
    return float(np.nanmax(np.abs(values))) if np.isfinite(values).any() else float("nan")


def _curve(name: str, x: Array, y: Array) -> Curve:
    fine = np.isfinite(y)
    return Curve(name, tuple(map(float, x[fine])), tuple(map(float, y[fine])))
