"""Candidates: other powertrains offered to this bay, settled side by side."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from nimble_cradle.desk.kit.ask_file import file_to_open
from nimble_cradle.desk.kit.fields import TextField
from nimble_cradle.desk.kit.label import BOLD, PLAIN
from nimble_cradle.desk.kit.table import Table, TableRow
from nimble_cradle.desk.kit.told_in import told_in
from nimble_cradle.desk.kit.words import button, row, words
from nimble_cradle.desk.kit.working_room import WorkingRoom
from nimble_cradle.job import store
from nimble_cradle.job.edits import removed
from nimble_cradle.job.job import Job
from nimble_cradle.seat.candidates import PRESENT, Offer, offered, offers, taken
from nimble_cradle.units import Display, show


def _offer_row(offer: Offer, display: Display) -> TableRow:
    """What became of an offer that was settled."""
    seat, state = "goes in", "holds"
    if offer.refused:
        seat, state = "no seat", "fails"
    elif offer.trouble is not None:
        seat, state = f"if cut ({offer.trouble:g})", "near"
    share = "" if offer.refused else f"{offer.share:.1f} %"
    again = f"{offer.mounts[0]} of {offer.mounts[1]}"
    figures = [(show(offer.kg, "mass", display, 0), ">"), (share, ">"), (again, ">")]
    return offer.id, [(offer.name, ""), (seat, state), *figures]


def _names_only(job: Job) -> list[TableRow]:
    """What is offered, before it is compared."""
    names = [(PRESENT, f"{job.powertrain.name} (in the job)")]
    names += [(candidate.id, candidate.name) for candidate in job.candidates]
    return [(key, [(name, ""), ("not yet", "open"), ("", ""), ("", ""), ("", "")]) for key, name in names]


class CandidatesRoom(WorkingRoom):
    """Which powertrain goes in with the least trouble?"""

    title, key = "Candidates", "candidates"
    caution = ""
    workers_read = ("nimble_cradle.seat.candidates",)

    def build(self) -> None:
        """The comparison, then the words of the chosen one."""
        self._build_list()
        self._build_buttons()

    def _build_list(self) -> None:
        self.column.addWidget(
            words(
                "Another job's powertrain is held in this bay by this job's wish, without mounts of its own,"
                " and compared with this one.",
                "",
            )
        )
        self.column.addWidget(
            row(
                button("Offer one from another job …", self.ask),
                button(
                    "Compare them",
                    self.compare,
                    "Each is settled; what for sale would have to go is found",
                    "main",
                ),
            )
        )
        self.add_progress()
        self.column.addWidget(self.refusal)
        self.table = Table(
            ("Powertrain", "Seat", "Mass", "On front", "Mounts"),
            most_rows=5,
            chosen=lambda _: self.refresh(),
            row_height=64,
            widths=(0, 118, 66, 76, 66),
        )
        self.table.setAccessibleName("Candidates")
        self.column.addWidget(self.table)
        self.say = words("", "")
        self.column.addWidget(self.say)

    def _build_buttons(self) -> None:
        self.name, self.note = TextField(self.session, "Name"), TextField(self.session, "Note")
        for text in (self.name, self.note):
            self.column.addWidget(text)
            text.hide()
        self.column.addWidget(
            row(
                button(
                    "Put this one in",
                    self.take,
                    "The present one becomes a candidate; mounts keep their chassis side",
                ),
                button("No longer offered", self.drop),
            )
        )

    def ask(self) -> None:
        """Choose another job's file."""
        kinds = "Jobs (*.cradle *.previous)"
        if path := file_to_open(self, "Offer the powertrain of", kinds, self.session.place.path):
            self.offer(path)

    def offer(self, path: Path) -> None:
        """Offer the powertrain of a job file."""
        with told_in(self.refusal):
            other = store.read(path).job
            self.session.edit(f"Offered {other.powertrain.name}", offered(self.session.job, other))
            self.refuse("")

    def compare(self) -> None:
        """Settle them all."""
        job = self.session.job

        def done(room: CandidatesRoom, result: Any) -> None:
            room.session.kept[room.key] = result[1], (job.powertrain, job.candidates, job.items)
            room.refresh()
            room.table.selectRow(0)

        self.run(lambda say: (None, offers(job, say)), done)

    def take(self) -> None:
        """Put the chosen one in."""
        key = self.table.chosen_key()
        if key in ("", PRESENT):
            self.refuse("Choose a candidate in the list first." if not key else "That one is in already.")
            return
        self.refuse("")
        name = next(candidate.name for candidate in self.session.job.candidates if candidate.id == key)
        self.session.edit(f"Put in: {name}", taken(self.session.job, key))

    def drop(self) -> None:
        """The chosen one is no longer offered."""
        key = self.table.chosen_key()
        if key in ("", PRESENT):
            self.refuse("Choose a candidate in the list first.")
            return
        self.refuse("")
        self.session.edit("A candidate is no longer offered", removed(self.session.job, f"candidates/{key}"))

    def refresh(self) -> None:
        """The offers, or the names until they are compared."""
        job, at = self.session.job, self.table.chosen_key()
        found: tuple[Offer, ...]
        found, made_for = self.session.kept.get(self.key, ((), ()))
        present = (job.powertrain, job.candidates, job.items)
        current = len(found) > 0 and all(a is b or a == b for a, b in zip(made_for, present, strict=True))
        display = Display(self.session.display.length)
        rows = [_offer_row(offer, display) for offer in found] if current else _names_only(job)
        self.table.fill(rows, at)
        offered_one = any(candidate.id == at for candidate in job.candidates)
        for text, name in ((self.name, "name"), (self.note, "note")):
            text.setVisible(offered_one)
            if offered_one:
                text.at(f"candidates/{at}/{name}")
        chosen = next((o for o in found if o.id == at), None) if current else None
        if chosen is not None:
            cut = f"\nIt needs: {chosen.cuts} (trouble {chosen.trouble:g})." if chosen.cuts else ""
            self.say.setText(f"{BOLD}{chosen.name}{PLAIN}: {chosen.words(self.session.display)}{cut}")
        else:
            self.say.setText("" if len(rows) > 1 else "Nothing else is offered yet.")
