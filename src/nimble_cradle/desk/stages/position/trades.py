"""What each cut buys: the things for sale, the user's price for each, and the seat that giving them up
would open."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from PyQt6.QtCore import QSize
from PyQt6.QtGui import QIcon, QPixmap
from PyQt6.QtWidgets import QWidget

from nimble_cradle.desk.kit.fields import ChoiceField, TextField
from nimble_cradle.desk.kit.quantity_field import WAYS, QuantityField
from nimble_cradle.desk.kit.table import Table, TableRow
from nimble_cradle.desk.kit.vector_field import VectorField
from nimble_cradle.desk.kit.words import button, part, row, words
from nimble_cradle.desk.kit.working_room import WorkingRoom
from nimble_cradle.desk.stages.position.trade_picture import HIGH, WIDE, trade_picture
from nimble_cradle.job.edits import added, free_id, removed, with_value
from nimble_cradle.job.job import Job
from nimble_cradle.job.wish import Sale
from nimble_cradle.judge.cautions import CUTTING
from nimble_cradle.seat.seating import first_wish
from nimble_cradle.seat.settle import settle
from nimble_cradle.seat.settled import Settled
from nimble_cradle.seat.trades import Trade, is_done, settled_by, trades, with_trade
from nimble_cradle.units import Display

WHATS = (
    ("trim", "trimmed"),
    ("cut", "cut"),
    ("remove", "taken out"),
    ("move", "moved"),
    ("delete", "left off the engine"),
    ("swap", "changed for another"),
)
SIDES = tuple((s, s) for s in ("top", "bottom", "front", "back", "left", "right"))


class TradesRoom(WorkingRoom):
    """Work out what everything for sale would buy, and take it."""

    title, key = "What each cut buys", "trades"
    caution = CUTTING
    workers_read = ("nimble_cradle.seat.trades",)

    def build(self) -> None:
        """The answer on top, the things for sale under it."""
        with self.two_sides():
            self._build_start()
            self._build_worth()
            self.right_side()
            self._build_sales()
            self._build_answer()

    def _build_start(self) -> None:
        self.go = button(
            "Work out what each buys",
            self.work_out,
            "T: each thing for sale is given up by itself and in likely pairs, and the seat looked for again",
            "main",
        )
        self.column.addWidget(row(self.go))
        self.add_progress()
        self.column.addWidget(self.refusal)

    def _build_worth(self) -> None:
        self.title_line = part("By gain for each unit of trouble")
        self.column.addWidget(self.title_line)
        self.table = Table(
            ("Seen from the left", "Cut or remove: what it gains", "Trouble"),
            wide=1,
            most_rows=5,
            chosen=self._choose,
            row_height=HIGH + 6,
            widths=(WIDE + 10, 0, 72),
        )
        self.table.setIconSize(QSize(WIDE, HIGH))
        self.table.setAccessibleName("What each thing for sale buys")
        self.column.addWidget(self.table)
        self.take_button = button(
            "Take it",
            self.take,
            "A: give it up and put the engine in the seat that it buys, as one edit",
            "main",
        )
        self.column.addWidget(row(self.take_button))
        self.legend = words(
            "Dotted: where the engine would stand without it. Filled: where it would stand with it. Red: what"
            " is given up."
        )
        self.column.addWidget(self.legend)

    def _build_sales(self) -> None:
        session = self.session
        self.column.addWidget(part("For sale"))
        self.list = Table(
            ("Thing", "Becomes", "Trouble"), most_rows=7, chosen=self._edit, widths=(0, 150, 72)
        )
        self.list.setAccessibleName("For sale")
        self.column.addWidget(self.list)
        self.column.addWidget(
            row(
                button(
                    "Offer the chosen part",
                    self.add,
                    "An item of the bay or a piece of the engine, chosen in the picture, is put up for sale",
                ),
                button("Keep it after all", self.remove),
            )
        )
        self.name, self.what, self.trouble = (
            TextField(session, "Name"),
            ChoiceField(session, "It would be", WHATS),
            QuantityField(session, "Trouble", "number"),
        )
        self.off_side, self.deep, self.by = (
            ChoiceField(session, "Off its", SIDES),
            QuantityField(session, "This deep", "length"),
            VectorField(session, "Moved", WAYS),
        )
        self.instead = ChoiceField(session, "For", ())
        self.of, self.note = ChoiceField(session, "What is for sale", ()), TextField(session, "Note")

    def _build_answer(self) -> None:
        self.editors: tuple[QWidget, ...] = (
            self.name,
            self.of,
            self.what,
            self.off_side,
            self.deep,
            self.by,
            self.instead,
            self.trouble,
            self.note,
        )
        for e in self.editors:
            self.column.addWidget(e)
            e.hide()
        self.editing = ""

    def work_out(self) -> None:
        """All trades."""
        job = self.session.job
        if job.wish is None or not job.wish.sales:
            self.refuse("Nothing is for sale yet: choose an item or a piece in the picture and offer it.")
            return
        known, ratio = self.session.settled_here(), self.devicePixelRatioF()

        def work(say: Any) -> Any:
            settled = known or settle(job, say)
            found = trades(settled, say)
            pictures = [
                trade_picture(
                    settled.job,
                    with_trade(settled.job, trade) if trade.seat is not None else None,
                    trade.sales,
                    ratio,
                )
                for trade in found
            ]
            return job, settled, found, pictures

        def done(room: TradesRoom, result: Any) -> None:
            _, settled, found, pictures = result
            icons = tuple(_icon(QPixmap.fromImage(picture)) for picture in pictures)
            room.session.kept[room.key] = settled, found, icons
            room.refresh()
            room.table.selectRow(0)

        self.run(work, done)

    @property
    def found(self) -> tuple[Settled, tuple[Trade, ...], tuple[QIcon, ...]] | None:
        """The seat that was traded from, what each thing buys, and its picture."""
        return self.session.kept.get(self.key)

    def _choose(self, key: str) -> None:
        trade = self._trade(key)
        if trade is not None:
            sale = trade.sales[0]
            self.session.select("piece" if sale.what in ("delete", "swap") else "item", sale.of)

    def _trade(self, key: str) -> Trade | None:
        return (
            self.found[1][int(key)]
            if self.found is not None and key.isdigit() and int(key) < len(self.found[1])
            else None
        )

    def step(self, by: int) -> None:
        """Choose the next or the last trade."""
        if self.found is not None and self.found[1]:
            self.table.selectRow((max(self.table.currentRow(), 0) + by) % len(self.found[1]))

    def take(self) -> None:
        """Give up what is chosen and put the engine in the seat that it buys."""
        trade = self._trade(self.table.chosen_key())
        if trade is None or self.found is None:
            self.refuse("Work out what each thing buys, and choose one.")
        elif self.found[0].before != self.session.job and self.found[0].job != self.session.job:
            self.refuse("The job has changed since: work it out again.")
        elif trade.seat is None:
            self.refuse(f"That buys nothing: {trade.why}.")
        else:
            self.refuse("")
            after = with_trade(self.session.job, trade)
            self.session.settled = settled_by(self.found[0], trade)
            del self.session.kept[self.key]
            self.session.edit(f"Gave up: {trade.name}; {trade.words(self.session.display)}", after)

    def add(self) -> None:
        """Offer what is chosen in the picture."""
        kind, key = self.session.selection
        if kind == "gap":
            kind, key = "item", key.partition("/")[2]
        job = self.session.job
        name = (
            self.session.value(f"{'items' if kind == 'item' else 'powertrain/pieces'}/{key}/name")
            if kind in ("item", "piece")
            else None
        )
        if not name:
            self.refuse("Choose an item of the bay or a piece of the engine first, in the picture.")
            return
        self.refuse("")
        if job.wish is None:
            job = with_value(job, "wish", first_wish(job))
        assert job.wish is not None
        sale = Sale(
            id=free_id("sale", {s.id for s in job.wish.sales}),
            name=f"Take out {name}" if kind == "item" else f"Leave {name} off",
            of=key,
            what="remove" if kind == "item" else "delete",
        )
        self.editing = sale.id
        self.session.edit(f"Put {name} up for sale", added(job, "wish/sales", sale))

    def remove(self) -> None:
        """The chosen thing is not for sale."""
        key = self.list.chosen_key() or self.editing
        if not key:
            self.refuse("Choose a thing in the list first.")
            return
        self.refuse("")
        name = self.session.value(f"wish/sales/{key}/name")
        self.editing = ""
        self.session.edit(f"Not for sale after all: {name}", removed(self.session.job, f"wish/sales/{key}"))

    def _edit(self, key: str) -> None:
        self.editing = key
        self.refresh()

    def refresh(self) -> None:
        """The list for sale, its editor, and the trades while they are true."""
        job = self.session.job
        sales = job.wish.sales if job.wish is not None else ()
        self.list.fill([_sale_row(job, sale) for sale in sales], self.editing)
        self._show_editor(next((sale for sale in sales if sale.id == self.editing), None))
        for widget in (self.title_line, self.table, self.take_button, self.legend):
            widget.setVisible(self.found is not None)
        if self.found is not None:
            self._show_trades(self.found[1], self.found[2])

    def _show_editor(self, sale: Sale | None) -> None:
        """The fields of the chosen thing for sale: those that its kind has."""
        job = self.session.job
        for widget in self.editors:
            widget.setVisible(sale is not None)
        if sale is None:
            return
        base = f"wish/sales/{sale.id}"
        self.name.at(f"{base}/name")
        self.note.at(f"{base}/note")
        pieces = job.powertrain.pieces
        of_piece = sale.what in ("delete", "swap")
        self.of.offer([(thing.id, thing.name) for thing in (pieces if of_piece else job.items)])
        self.instead.offer([(piece.id, piece.name) for piece in pieces if piece.id != sale.of])
        fields: tuple[tuple[ChoiceField | QuantityField | VectorField, str], ...] = (
            (self.of, "of"),
            (self.what, "what"),
            (self.off_side, "side"),
            (self.deep, "depth_mm"),
            (self.by, "by"),
            (self.trouble, "trouble"),
            (self.instead, "instead"),
        )
        for field, name in fields:
            field.at(f"{base}/{name}", sale.name)
        for field in (self.off_side, self.deep):
            field.setVisible(sale.what in ("trim", "cut"))
        self.by.setVisible(sale.what == "move")
        self.instead.setVisible(sale.what == "swap")

    def _show_trades(self, found: Sequence[Trade], icons: Sequence[QIcon]) -> None:
        """A row for each trade, with its picture."""
        display = self.session.display
        rows = [_trade_row(k, trade, display) for k, trade in enumerate(found)]
        self.table.fill(rows, self.table.chosen_key())
        for k, icon in enumerate(icons):
            self.table.set_picture(k, icon)


def _sale_row(job: Job, sale: Sale) -> TableRow:
    """What is for sale, how, and its trouble."""
    how = "done" if is_done(job, sale) else dict(WHATS)[sale.what]
    return sale.id, ((sale.name, ""), (how, ""), (f"{sale.trouble:g}", ">"))


def _trade_row(number: int, trade: Trade, display: Display) -> TableRow:
    """Room for its picture, what it is and buys, and its trouble."""
    bought = (f"{trade.name}\n{trade.words(display)}", "" if trade.buys else "open")
    return str(number), (("", ""), bought, (f"{trade.trouble:g}", ">"))


def _icon(picture: QPixmap) -> QIcon:
    """A picture that looks the same in a chosen row."""
    icon = QIcon(picture)
    icon.addPixmap(picture, QIcon.Mode.Selected)
    return icon
