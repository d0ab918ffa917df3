"""The lightest section for the crossmember, of what is at hand."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from nimble_cradle.design.lightest_crossmember import (
    LEAVES_OUT,
    SHAPES,
    Candidate,
    candidates_of,
    candidates_of_shapes,
    with_candidate_section,
)
from nimble_cradle.desk.kit.table import Table
from nimble_cradle.desk.kit.told_in import told_in
from nimble_cradle.desk.kit.words import button, row, words
from nimble_cradle.desk.kit.working_room import WorkingRoom
from nimble_cradle.job.job import Job
from nimble_cradle.units import show

LIGHTER = 6
"""So many of those that will not do are shown before the first that does."""


class LightestGroup(WorkingRoom):
    """Every section at hand, the lightest first, with the first thing that stops it."""

    key = "lightest"

    def build(self) -> None:
        self.found: tuple[Candidate, ...] = ()
        self.found_for: Job | None = None
        self.table = Table(("Section", "Weighs", "What stops it"), wide=2, most_rows=7)
        self.table.setAccessibleName("Sections for the crossmember")
        self.take_button = button("Take this one", self.take, "As chosen in the table", "view")
        for widget in (
            row(
                button("Find the lightest", self.look, LEAVES_OUT, "view"),
                button("Other shapes too", self.look_at_shapes, SHAPES, "view"),
            ),
            words(LEAVES_OUT, ""),
            self.table,
            row(self.take_button),
            self.refusal,
        ):
            self.column.addWidget(widget)
        self.add_progress()
        self._show()

    def look(self) -> None:
        """Try every section at hand."""
        job, rack = self.session.job, self.session.rack

        def work(say: Any) -> Any:
            say("Trying every section at hand")
            return candidates_of(job, rack)

        def done(group: LightestGroup, result: Any) -> None:
            group.found, group.found_for = result, group.session.job
            group._show()

        self.run(work, done)

    def look_at_shapes(self) -> None:
        """Try the lightest of every family of shapes."""
        job, rack = self.session.job, self.session.rack

        def done(group: LightestGroup, result: Any) -> None:
            group.found, group.found_for = result, group.session.job
            group._show()

        self.run(lambda say: candidates_of_shapes(job, rack, say), done)

    def refresh(self) -> None:
        """What was found, while it is still true."""
        self._show()

    def _show(self) -> None:
        seen = bool(self.found) and self.found_for is self.session.seen_job
        self.table.setVisible(seen)
        self.take_button.setVisible(seen)
        if not seen:
            return
        rows = self._rows()
        self.table.fill(
            [
                (
                    c.name,
                    (
                        (c.name, ""),
                        (show(c.kg, "mass", self.session.display), ">"),
                        (c.words.partition(";")[0], "holds" if c.will_do else "near"),
                    ),
                )
                for c in rows
            ],
            next((c.name for c in rows if c.will_do), ""),
        )

    def _rows(self) -> Sequence[Candidate]:
        """Of sections those before the first that will do; of shapes all, those that will do first."""
        if any(c.points is not None for c in self.found):
            return self.found
        good = next((k for k, c in enumerate(self.found) if c.will_do), None)
        if good is None:
            return [c for c in self.found if c.looked][: LIGHTER + 1]
        return self.found[max(0, good - LIGHTER) : good + 1]

    def take(self) -> None:
        """The chosen section, and its line, become the crossmember's."""
        key = self.table.chosen_key()
        chosen = next((c for c in self.found if c.name == key), None)
        if chosen is None:
            self.refuse("Choose one in the table.")
            return
        with told_in(self.refusal):
            self.session.edit(f"Crossmember: {chosen.name}", with_candidate_section(self.session.job, chosen))
