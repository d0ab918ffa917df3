"""Settle: the wish, the search for the best seat, and what stops it there."""

from __future__ import annotations

from typing import Any

from PyQt6.QtWidgets import QWidget

from nimble_cradle.bay.position import pose_of
from nimble_cradle.desk.kit.fields import ChoiceField
from nimble_cradle.desk.kit.label import BOLD, PLAIN
from nimble_cradle.desk.kit.quantity_field import LEFT, UP, QuantityField
from nimble_cradle.desk.kit.table import Table
from nimble_cradle.desk.kit.words import button, part, row, words
from nimble_cradle.desk.kit.working_room import WorkingRoom
from nimble_cradle.job.edits import with_value
from nimble_cradle.job.wish import ShifterHole
from nimble_cradle.seat.no_seat import why_no_seat
from nimble_cradle.seat.seating import LINE, first_wish
from nimble_cradle.seat.settle import settle
from nimble_cradle.seat.settled import Settled
from nimble_cradle.seat.stops import Stop, stops_of
from nimble_cradle.seat.words import headline, no_seat_words

WEIGHTS = (
    ("How much height matters", "low"),
    ("How much fore and aft matters", "back"),
    ("How much central matters", "central"),
    ("How much straight and level matters", "level"),
)
WINDOWS: tuple[tuple[str, str, Any, Any], ...] = (
    ("Fore and aft", "fore_aft", "length", ("forward", "back")),
    ("Side offset", "side", "length", LEFT),
    ("Height of the crank line", "height", "length", UP),
    ("Nose up", "nose_up", "angle", ("up", "down")),
    ("Clocked", "clocked", "angle", ("right", "left")),
    ("Yaw, nose", "yaw", "angle", LEFT),
)
WANTED: tuple[tuple[str, str, Any, Any], ...] = (
    ("Central means", "wanted_side", "length", LEFT),
    ("Level means nose", "wanted_nose_up", "angle", ("up", "down")),
    ("and clocked", "wanted_clocked", "angle", ("right", "left")),
    ("and yaw, nose", "wanted_yaw", "angle", LEFT),
)


class SettleRoom(WorkingRoom):
    """Say what is wished; the best seat is found."""

    title, key = "Settle", "settle"
    caution = ""
    workers_read = ("nimble_cradle.seat.trades", "nimble_cradle.seat.removal")

    def build(self) -> None:
        """The button first, then what came of it, then the wish."""
        with self.two_sides():
            self._build_start()
            self._build_stops()
            self.right_side()
            if self.session.job.wish is None:
                self.column.addWidget(part("The wish"))
                self._build_no_wish()
                return
            with self.folded("The wish"):
                self._build_wish()
            with self.folded("It must stay between"):
                self._build_bounds()
            with self.folded("It must also keep"):
                self._build_keep()

    def _build_start(self) -> None:
        self.column.addWidget(
            words(
                "Finds the lowest, furthest-back place that keeps every gap with the engine running on its"
                " mounts and the wheels moving. It may begin from anywhere, also from a foul; undo brings the"
                " old place back.",
                "",
            )
        )
        self.go = button("Settle the engine", self.settle, "S: look for the best seat", "main")
        self.column.addWidget(row(self.go))
        self.add_progress()
        self.column.addWidget(self.refusal)
        self.result = words("", "")
        self.column.addWidget(self.result)

    def _build_stops(self) -> None:
        self.stops_title = part("What stops it there")
        self.column.addWidget(self.stops_title)
        self.table = Table(
            ("Place", "One mm or deg given there"),
            most_rows=6,
            chosen=self._choose,
            row_height=46,
            widths=(0, 232),
        )
        self.table.setAccessibleName("What stops it")
        self.column.addWidget(self.table)

    def _build_no_wish(self) -> None:
        self.column.addWidget(
            words(
                "Nothing is wished yet. Settle begins with low before back, within 150 mm of where it"
                " stands; or say it yourself."
            )
        )
        self.column.addWidget(row(button("Say what is wished", self.begin)))

    def _build_wish(self) -> None:
        session = self.session
        for label, name in WEIGHTS:
            self.column.addWidget(QuantityField(session, label, "number").at(f"wish/{name}", "Wish"))
        self.column.addWidget(
            ChoiceField(session, "Height", (("low", "low"), ("high", "high"))).at("wish/upwise", "Wish")
        )
        self.column.addWidget(
            ChoiceField(session, "Fore and aft", (("back", "far back"), ("forward", "far forward"))).at(
                "wish/lengthwise", "Wish"
            )
        )

    def _build_bounds(self) -> None:
        session = self.session
        for label, name, kind, ways in WINDOWS:
            for end, word in (("low", "from"), ("high", "to")):
                self.column.addWidget(
                    QuantityField(session, f"{label}, {word}", kind, ways=ways).at(
                        f"wish/{name}/{end}", "Wish"
                    )
                )
        for label, name, kind, ways in WANTED:
            self.column.addWidget(QuantityField(session, label, kind, ways=ways).at(f"wish/{name}", "Wish"))

    def _build_keep(self) -> None:
        session = self.session
        yes = ((True, "yes"), (False, "no"))
        self.column.addWidget(
            ChoiceField(
                session, "Mounts and crossmember", (("stays", "stay"), ("comes along", "come along"))
            ).at("wish/made", "Wish")
        )
        for label, name in (
            ("The driveline's limits", "joints"),
            ("The front-axle share wished for", "share"),
            ("The lowest chassis line", "over_line"),
        ):
            self.column.addWidget(ChoiceField(session, label, yes).at(f"wish/{name}", "Wish"))
        self.column.addWidget(
            QuantityField(session, "Over the lowest chassis line by", "length").at(
                "wish/over_line_mm", "Wish"
            )
        )
        self._shifter()

    def _shifter(self) -> None:
        session = self.session
        assert session.job.wish is not None
        if session.job.powertrain.gearbox.shifter is None:
            return
        if session.job.wish.shifter_hole is None:
            self.column.addWidget(
                row(
                    button(
                        "The shifter must come up in a hole",
                        self.hole,
                        "Begins with a hole round where the shifter stands now",
                        "view",
                    )
                )
            )
            return
        self.column.addWidget(
            QuantityField(session, "Shifter's hole, height", "length", ways=UP).at(
                "wish/shifter_hole/height_mm", "Wish"
            )
        )
        for k in range(len(session.job.wish.shifter_hole.outline)):
            pair: list[QWidget] = [
                QuantityField(
                    session, f"Corner {k + 1}, {('lengthwise', 'across')[i]}", "length", ways=ways
                ).at(f"wish/shifter_hole/outline/{k}/{i}", "Shifter's hole")
                for i, ways in enumerate((("forward", "back"), LEFT))
            ]
            for widget in pair:
                self.column.addWidget(widget)

    def begin(self) -> None:
        """A wish to be changed."""
        self.session.edit(
            "Said what is wished", with_value(self.session.job, "wish", first_wish(self.session.job))
        )

    def hole(self) -> None:
        """A hole of 100 x 70 mm round where the shifter stands."""
        job = self.session.job
        assert job.powertrain.gearbox.shifter is not None
        x, y, z = (round(float(c)) for c in pose_of(job.position).points(job.powertrain.gearbox.shifter))
        hole = ShifterHole(
            height_mm=z, outline=((x + 50, y + 35), (x + 50, y - 35), (x - 50, y - 35), (x - 50, y + 35))
        )
        self.session.edit("Shifter's hole", with_value(job, "wish/shifter_hole", hole))

    def settle(self) -> None:
        """Look for the best seat."""
        job = self.session.job

        def work(say: Any) -> Any:
            wished = job if job.wish is not None else with_value(job, "wish", first_wish(job))
            found = settle(wished, say)
            stops = stops_of(found) if found.ok else ()
            no_seat = None if found.ok else why_no_seat(found, say)
            return found.job if found.ok else job, found, stops, no_seat

        def done(room: SettleRoom, result: Any) -> None:
            after, found, stops, no_seat = result
            session = room.session
            session.settled = found
            session.kept[room.key] = found, stops
            said = headline(found, session.display)
            if found.ok:
                session.edit(f"Settled: {said.rstrip('.')}", after)
            else:
                room.refuse(
                    f"{said} {no_seat_words(no_seat, session.display)} {found.looked.words} The engine stays"
                    " where it was."
                )

        self.run(work, done)

    def _choose(self, key: str) -> None:
        if "/" in key:
            self.session.select("gap", key)

    def refresh(self) -> None:
        """What the last search came to, while it is still true."""
        found = self.session.settled_here()
        self.result.setVisible(found is not None)
        self.stops_title.setVisible(found is not None)
        self.table.setVisible(found is not None)
        if found is None:
            return
        display = self.session.display
        wide = "" if found.looked is None else f"\n{found.looked.words}"
        self.result.setText(f"{BOLD}{headline(found, display)}{PLAIN}{wide}")
        kept: tuple[Settled, tuple[Stop, ...]] | None = self.session.kept.get(self.key)
        if kept is None or kept[0] is not found:  # a seat that a trade bought
            kept = self.session.kept[self.key] = found, stops_of(found)
        stops = kept[1]
        rows = [
            (
                f"{stop.piece}/{stop.item}" if stop.piece and stop.item != LINE else f"window {k}",
                ((stop.name.replace(" – ", "\n"), ""), ("\n".join(stop.effects), "")),
            )
            for k, stop in enumerate(stops)
        ]
        kind, key = self.session.selection
        self.table.fill(rows, key if kind == "gap" else "")
