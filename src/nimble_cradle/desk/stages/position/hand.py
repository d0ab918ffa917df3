"""Position, by hand: where the engine stands, nudging and pushing it, the gap table, the driveline."""

from __future__ import annotations

from functools import partial
from typing import Any

from PyQt6.QtCore import Qt

from nimble_cradle.bay.position import PIVOT_NAMES, position_words
from nimble_cradle.desk.kit.fields import ChoiceField, TextField
from nimble_cradle.desk.kit.label import BOLD, PLAIN, Label
from nimble_cradle.desk.kit.quantity_field import FORWARD, LEFT, UP, QuantityField
from nimble_cradle.desk.kit.state_mark import GAP_STATE
from nimble_cradle.desk.kit.table import TableRow
from nimble_cradle.desk.kit.words import button, row, words
from nimble_cradle.desk.stages.position.nudging import NudgingRoom
from nimble_cradle.fit.driveline import Driveline
from nimble_cradle.fit.gap import GAP_MARGIN, Gap
from nimble_cradle.fit.gaps import gaps_now, ways_out_of
from nimble_cradle.fit.lowest import LOWEST, LowestPoint
from nimble_cradle.units import Display, show

PLACE: tuple[tuple[str, Any, str, tuple[str, str]], ...] = (
    ("From the front axle line", "length", "x", FORWARD),
    ("From the centre line", "length", "y", LEFT),
    ("Over the rail tops", "length", "z", UP),
    ("Nose", "angle", "pitch_deg", UP),
    ("Clocked to the", "angle", "roll_deg", ("right", "left")),
    ("Yaw, nose to the", "angle", "yaw_deg", LEFT),
)

MOST_ROWS = 6
"""More rows than this are scrolled, so that what is under the table stays on the page."""


class HandRoom(NudgingRoom):
    """Nudging and pushing, with everything that follows from it in sight."""

    title, key = "By hand", "hand"
    caution = ""

    def build(self) -> None:
        self.session.rested.connect(self._rest)
        self.session.ahead.gone.connect(self._follow)
        with self.two_sides():
            self._build_gaps()
            self.right_side()
            self._build_steps()
            self._build_pushes()
            with self.folded("Where it stands: typed, made level"):
                self._build_typed()
            with self.folded("Driveline and lowest point"):
                self._build_driveline()

    def _build_pushes(self) -> None:
        session = self.session
        self._push_buttons()
        self.add_progress()
        self.column.addWidget(self.refusal)
        self.pushed_words = words("", "")
        self.pushed_words.hide()
        self.column.addWidget(self.pushed_words)
        self.pivot = ChoiceField(session, "Turns about", [(k, v) for k, v in PIVOT_NAMES.items()]).at(
            "position/pivot"
        )
        self.pivot.box.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.column.addWidget(self.pivot)

    def _build_typed(self) -> None:
        session = self.session
        for label, kind, name, ways in PLACE:
            self.column.addWidget(QuantityField(session, label, kind, ways=ways).at(f"position/{name}"))
        levels = [
            button(text, partial(self.level, which), tip, "view")
            for text, which, tip in (
                ("Level across", "across", "Take out the clocking, about the pivot"),
                ("Level along", "along", "Take out nose up or down"),
                ("Straight ahead", "straight", "Take out the yaw"),
            )
        ]
        self.column.addWidget(row(*levels))

    def _build_driveline(self) -> None:
        session = self.session
        self.line = Label()
        self.line.setWordWrap(True)
        self.column.addWidget(self.line)
        self.column.addWidget(
            row(
                button("How the angles are found", self.line_work, name="view"),
                button("How low it is", self.low_work, name="view"),
            )
        )
        limits: tuple[tuple[str, Any, str], ...] = (
            ("Joints work at least at", "angle", "least_deg"),
            ("Joints work at most at", "angle", "most_deg"),
            ("Joints may differ by", "angle", "difference_deg"),
        )
        if session.job.powertrain.gearbox.kind == "transaxle":
            limits = (
                ("Half-shafts at ride height at most", "angle", "half_shaft_ride_deg"),
                ("Through the wheels' travel at most", "angle", "half_shaft_travel_deg"),
                ("Outer joints at lock at most", "angle", "half_shaft_lock_deg"),
                ("Plunge at most", "length", "plunge_mm"),
            )
        for label, kind, name in limits:
            self.column.addWidget(
                QuantityField(session, label, kind).at(f"joint_limits/{name}", "Driveline limit")
            )
        self.column.addWidget(TextField(session, "These limits come from").at("joint_limits/source"))

    def _choose(self, key: str) -> None:
        self.session.select("gap", key)

    def step_gap(self, by: int) -> None:
        """Choose the next or the last gap of the table."""
        keys = [f"{gap.piece}/{gap.item}" for gap in self.session.verdict.gaps]
        if keys:
            kind, key = self.session.selection
            at = keys.index(key) if kind == "gap" and key in keys else (-1 if by > 0 else 0)
            self.session.select("gap", keys[(at + by) % len(keys)])

    def refresh(self) -> None:
        judged, display = self.session.verdict, self.session.display
        place = position_words(self.session.job)
        self.gap_title.setText(f"Gaps in {self._unit()}, tightest running margin first")
        self.place.setText(f"{BOLD}{place[0]}{PLAIN}, {place[1]}, {BOLD}{place[2]}{PLAIN}, {place[3]}.")
        kind, key = self.session.selection
        self.table.most_rows = min(max(5, sum(gap.state != "clear" for gap in judged.gaps)), MOST_ROWS)
        rows = [self._gap_row(gap) for gap in judged.gaps]
        self.table.fill(rows, key if kind == "gap" else "", ", all clear")
        self._tell_gap()
        text = [] if judged.driveline is None else [_driveline_words(judged.driveline, display)]
        if judged.lowest is not None:
            text.append(_lowest_words(judged.lowest, display))
        self.line.setText("\n".join(text))

    def _tell_gap(self) -> None:
        """The chosen gap, or the tightest."""
        gaps = self.session.seen_verdict.gaps
        self.gap_words.setText(self._gap_words(self.session.chosen_gap() or (gaps[0] if gaps else None)))

    def _unit(self) -> str:
        return "mm" if self.session.display.length == "mm" else "inches"

    def _follow(self) -> None:
        """A key is held: the gaps of the rows in sight where the engine is now; what they leave running is
        told as it was, by as much, until it has been measured."""
        job = self.session.ahead.job
        if job is None or self.gone or not self.isVisible():
            return
        rows = self.session.seen_verdict.gaps[: self.table.most_rows]
        now = gaps_now(job, rows)
        for gap in rows:
            away = now.get((gap.piece, gap.item))
            if away is None:
                told = {1: "…", 3: "…", 4: "…"}
            else:
                running = gap.gap if gap.running is None else gap.running
                more = away - gap.gap
                moving = "—" if gap.running is None else f"≈ {self._room(running + more)}"
                told = {1: self._room(away), 3: moving, 4: f"≈ {self._margin(gap.margin + more)}"}
            self.table.say(f"{gap.piece}/{gap.item}", told)
        self.gap_title.setText(f"Gaps in {self._unit()}: ≈ and … are being measured")

    def _rest(self) -> None:
        """The engine rests: what was left out while it moved."""
        if not self.gone and self.isVisible():
            self._tell_gap()

    def _gap_row(self, gap: Gap) -> TableRow:
        """Both names, the gap at rest, what it needs, the gap running, and the margin left."""
        running = gap.gap if gap.running is None else gap.running
        margin = (self._margin(gap.margin), GAP_STATE[gap.state])
        rest, needed, moving = self._room(gap.gap), self._bare(gap.required), self._room(running)
        if gap.running is None:
            moving = "—"
        elif gap.at_least:
            moving = f"≥ {moving}"
        if gap.required < 0:
            needed = f"−{self._bare(-gap.required)}"
        cells = ((rest, ">"), (needed, ">"), (moving, ">"), margin)
        return f"{gap.piece}/{gap.item}", ((f"{gap.piece_name}\n{gap.item_name}", ""), *cells)

    def _room(self, mm: float) -> str:
        """A gap, or how deep it hits."""
        return self._bare(mm) if mm >= 0 else f"hits {self._bare(-mm)}"

    def _margin(self, mm: float) -> str:
        """What is spare, or how much is short."""
        return f"{self._bare(abs(mm))} {'spare' if mm >= 0 else 'short'}"

    def _gap_words(self, gap: Gap | None) -> str:
        """The chosen gap, or the tightest one, in a sentence."""
        if gap is None:
            return "No piece is near any item yet: measure the bay and add the pieces."
        worst = f"; worst {gap.running_case}" if gap.running_case else ""
        if gap.at_least:
            worst = "; however the engine moves, at least what is told under Running is left"
        return (
            f"{BOLD}{gap.piece_name} – {gap.item_name}{PLAIN}: {gap.state_at_rest} at rest, {gap.state}"
            f" running; give or take {show(gap.give_or_take, 'length', self.session.display)}{worst}."
            f" {self._way(gap)}"
        )

    def _bare(self, mm: float) -> str:
        """A length without its unit, which the table's title tells."""
        return show(mm, "length", self.session.display).removesuffix(" mm").removesuffix(" in")

    def _way(self, gap: Gap) -> str:
        """In which direction the piece opens the gap, in words; out of an overlap, how far along each."""
        if self.session.moving:
            return "Its ways out are told when the engine rests."
        if gap.gap <= 0 and "." not in gap.piece and "." not in gap.item:
            ways = ways_out_of(self.session.job, gap)[:3]
            said = ", ".join(f"{show(t, 'length', self.session.display)} {way}" for way, t in ways)
            return (
                f"Out of it at rest, one way alone: {BOLD}{said}{PLAIN}."
                if said
                else "No straight way leads out of it within 200 mm."
            )
        names = (("forward", "back"), ("left", "right"), ("up", "down"))
        k = max(range(3), key=lambda i: abs(gap.way[i]))
        return f"It opens mostly by going {names[k][0] if gap.way[k] > 0 else names[k][1]}."

    def work(self) -> None:
        """Working of the chosen gap, or of the tightest."""
        gap = self.session.chosen_gap() or (
            self.session.verdict.gaps[0] if self.session.verdict.gaps else None
        )
        if gap is not None:
            self.session.show_work(
                f"{gap.piece_name} – {gap.item_name}: {gap.state}",
                GAP_MARGIN.work(
                    {
                        "gap": "distance between the two solids",
                        "required": "clearance table",
                        "running": gap.running_case,
                        "give_or_take": "how both were measured",
                    },
                    gap=gap.gap,
                    required=gap.required,
                    running=gap.gap if gap.running is None else gap.running,
                    give_or_take=gap.give_or_take,
                ),
            )

    def line_work(self) -> None:
        """Working of the driveline."""
        if self.session.verdict.driveline is not None:
            self.session.show_work("Joint angles at ride height", self.session.verdict.driveline.worked)

    def low_work(self) -> None:
        """Working of the lowest point."""
        low = self.session.verdict.lowest
        if low is not None:
            self.session.show_work(
                f"Lowest point: {low.piece_name}",
                LOWEST.work(
                    {"z": "pieces, mounts, crossmember and position", "line_z": "measured"},
                    z=low.z,
                    line_z=low.line_z,
                ),
            )


def _driveline_words(driveline: Driveline, display: Display) -> str:
    """Angles of the joints, the shaft's length or the plunge, and what is wrong with them."""
    if driveline.kind == "half-shafts":
        doubt = show(max(driveline.plus_minus[:2]), "angle")
        said = (
            f"Left half-shaft {show(driveline.front, 'angle')}, right {show(driveline.rear, 'angle')} at ride"
            f" height (± {doubt}), at most {show(driveline.most, 'angle')} with the wheels, plunge"
            f" {show(driveline.plunge, 'length', display)}. "
        )
    else:
        joints = zip(driveline.names, driveline.angles, strict=True)
        angles = ", ".join(f"{name} {show(angle, 'angle')}" for name, angle in joints)
        together = ", differing by " if len(driveline.angles) == 2 else ", together leaving "
        said = (
            f"Joint {angles}{together}"
            f"{show(driveline.difference, 'angle')} (± {show(driveline.plus_minus[2], 'angle')}); shaft"
            f" {show(driveline.length, 'length', display, 0)} long. "
        )
    return said + (" ".join(driveline.faults) or "Within the job's limits.")


def _lowest_words(lowest: LowestPoint, display: Display) -> str:
    """What hangs lowest, against the chassis and over the ground."""
    over = lowest.above_line
    return (
        f"Lowest: {lowest.piece_name}, {show(abs(over), 'length', display)}"
        f" {'above' if over >= 0 else 'BELOW'} the lowest chassis line,"
        f" {show(lowest.to_ground, 'length', display, 0)} from the ground."
    )
