"""Position, by hand: where the engine stands, nudging and pushing it, the gap table, the driveline."""

from __future__ import annotations

from functools import partial
from typing import Any

from PyQt6.QtCore import Qt

from nimble_cradle.bay.position import PIVOT_NAMES, position_words
from nimble_cradle.desk.kit.fields import ChoiceField, TextField
from nimble_cradle.desk.kit.label import BOLD, PLAIN, Label
from nimble_cradle.desk.kit.quantity_field import FORWARD, LEFT, UP, QuantityField
from nimble_cradle.desk.kit.style import GAP_STATE
from nimble_cradle.desk.kit.words import button, part, row, words
from nimble_cradle.desk.stages.position.nudging import NudgingRoom
from nimble_cradle.fit.gaps import GAP_MARGIN, Gap, ways_out_of
from nimble_cradle.fit.lowest import LOWEST
from nimble_cradle.units import show

PLACE: tuple[tuple[str, Any, str, tuple[str, str]], ...] = (
    ("From the front axle line", "length", "x", FORWARD),
    ("From the centre line", "length", "y", LEFT),
    ("Over the rail tops", "length", "z", UP),
    ("Nose", "angle", "pitch_deg", UP),
    ("Clocked to the", "angle", "roll_deg", ("right", "left")),
    ("Yaw, nose to the", "angle", "yaw_deg", LEFT),
)


class HandRoom(NudgingRoom):
    """Nudging and pushing, with everything that follows from it in sight."""

    title, key = "By hand", "hand"

    def build(self) -> None:
        self._build_steps()
        self._build_gaps()
        self._build_typed()

    def _build_gaps(self) -> None:
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
        levels = [
            button(text, partial(self.level, which), tip, "view")
            for text, which, tip in (
                ("Level across", "across", "Take out the clocking, about the pivot"),
                ("Level along", "along", "Take out nose up or down"),
                ("Straight ahead", "straight", "Take out the yaw"),
            )
        ]
        for b in levels:
            b.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.column.addWidget(row(*levels))
        self.column.addWidget(
            row(
                button(
                    "How the chosen gap's margin is made", self.work, "Working of the chosen gap (W)", "view"
                )
            )
        )

    def _build_typed(self) -> None:
        session = self.session
        self.column.addWidget(part("Or typed: where the engine stands"))
        for label, kind, name, ways in PLACE:
            self.column.addWidget(QuantityField(session, label, kind, ways=ways).at(f"position/{name}"))
        self.column.addWidget(part("Driveline and lowest point"))
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
        self.gap_title.setText(
            f"Gaps in {'millimetres' if display.length == 'mm' else 'inches'}, tightest running margin first"
        )
        self.place.setText(f"{BOLD}{place[0]}{PLAIN}, {place[1]}, {BOLD}{place[2]}{PLAIN}, {place[3]}.")
        rows = []
        for g in judged.gaps:
            running = g.gap if g.running is None else g.running
            rows.append(
                (
                    f"{g.piece}/{g.item}",
                    (
                        (f"{g.piece_name}\n{g.item_name}", ""),
                        (self._bare(g.gap), ">"),
                        (self._bare(g.required), ">"),
                        (self._bare(running), ">"),
                        (self._bare(g.margin), GAP_STATE[g.state]),
                    ),
                )
            )
        kind, key = self.session.selection
        self.table.fill(rows, key if kind == "gap" else "")
        gap = self.session.chosen_gap() or (judged.gaps[0] if judged.gaps else None)
        if gap is None:
            self.gap_words.setText("No piece is near any item yet: measure the bay and add the pieces.")
        else:
            lead = (
                f"{BOLD}{gap.piece_name} – {gap.item_name}{PLAIN}: {gap.state_at_rest} at rest,"
                f" {gap.state} running"
            )
            self.gap_words.setText(
                f"{lead}; give or take {show(gap.give_or_take, 'length', display)}; worst {gap.running_case}."
                f" {self._way(gap)}"
            )
        text = []
        if judged.driveline is not None:
            x = judged.driveline
            doubt = show(max(x.plus_minus[:2]) if x.kind == "half-shafts" else x.plus_minus[2], "angle")
            if x.kind == "half-shafts":
                text.append(
                    f"Left half-shaft {show(x.front, 'angle')}, right {show(x.rear, 'angle')} at ride height"
                    f" (± {doubt}), at most {show(x.most, 'angle')} with the wheels, plunge"
                    f" {show(x.plunge, 'length', display)}. "
                    + (" ".join(x.faults) or "Within the job's limits.")
                )
            else:
                text.append(
                    "Joint "
                    + ", ".join(
                        f"{name} {show(a, 'angle')}" for name, a in zip(x.names, x.angles, strict=True)
                    )
                    + (", differing by " if len(x.angles) == 2 else ", together leaving ")
                    + f"{show(x.difference, 'angle')} (± {doubt}); shaft"
                    f" {show(x.length, 'length', display, 0)}"
                    " long. " + (" ".join(x.faults) or "Within the job's limits.")
                )
        if judged.lowest is not None:
            over = judged.lowest.above_line
            text.append(
                f"Lowest: {judged.lowest.piece_name}, {show(abs(over), 'length', display)}"
                f" {'above' if over >= 0 else 'BELOW'} the lowest chassis line,"
                f" {show(judged.lowest.to_ground, 'length', display, 0)} from the ground."
            )
        self.line.setText("\n".join(text))

    def _bare(self, mm: float) -> str:
        """A length without its unit, which the table's title tells."""
        return show(mm, "length", self.session.display).removesuffix(" mm").removesuffix(" in")

    def _way(self, gap: Gap) -> str:
        """In which direction the piece opens the gap, in words; out of an overlap, how far along each."""
        if gap.gap <= 0 and gap.piece in {p.id for p in self.session.job.powertrain.present}:
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
