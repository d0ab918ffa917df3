"""What is cut out of the chassis, what that leaves there, and how it is put back."""

from __future__ import annotations

from functools import partial
from typing import Any

from PyQt6.QtWidgets import QPushButton

from nimble_cradle.bay.member import members_of
from nimble_cradle.design.bracing import brace_for, brace_words
from nimble_cradle.design.kept_piece import with_piece_kept
from nimble_cradle.design.mending import Way, first_opening, ways_to_mend
from nimble_cradle.desk.kit.described_fields import DescribedFields
from nimble_cradle.desk.kit.fields import ChoiceField, TextField
from nimble_cradle.desk.kit.rooms import Room
from nimble_cradle.desk.kit.table import Table, TableRow
from nimble_cradle.desk.kit.told_in import told_in
from nimble_cradle.desk.kit.words import button, part, row, words
from nimble_cradle.desk.stages.chassis.section_picture import SectionPicture
from nimble_cradle.fit.opened_member import OpenedMember, Shares, opened_member
from nimble_cradle.job.base import JobError
from nimble_cradle.job.edits import added, removed, with_value
from nimble_cradle.job.job import Job
from nimble_cradle.job.opening import Opening
from nimble_cradle.judge.chassis import LEFT_OUT, metal_words, percent
from nimble_cradle.units import show

WHEN_WORDS = {
    "before": "Between marks on both rails, before the cut",
    "tacked": "The same, plates tacked",
    "welded": "The same, welded and cold",
}
MEND_WORDS = {
    "cover": "plate over the edges",
    "sides": "plates beside it",
    "cover and sides": "both of these",
}


class OpeningsRoom(Room):
    """All cuts, a group each; made anew when there is one more or less."""

    title, key = "Cut and put back", "openings"

    def build(self) -> None:
        """A group for each opening."""
        members, _ = members_of(self.session.job)
        self.column.addWidget(words(LEFT_OUT, ""))
        self.which = ChoiceField(self.session, "Cut out of", [(m.item.id, m.item.name) for m in members])
        if members:
            self.column.addWidget(row(self.which, button("Add a cut", self.add, name="view")))
        else:
            self.column.addWidget(words("Say in the bay what is chassis: a rail, a member.", ""))
        self.column.addWidget(self.refusal)
        self.groups = {o.id: self._group(o) for o in self.session.job.openings}

    def _group(self, opening: Opening) -> OpeningGroup:
        with self.folded(opening.name, open_first=True):
            group = OpeningGroup(self.session)
            self.column.addWidget(group)
        with self.folded(f"{opening.name}: plates, brace, measured across"):
            self.column.addWidget(TextField(self.session, "Name").at(f"openings/{opening.id}/name"))
            rows = [(m.item.id, m.item.name) for m in members_of(self.session.job)[0]]
            self.column.addWidget(
                ChoiceField(self.session, "Is cut out of", rows).at(
                    f"openings/{opening.id}/item", opening.name
                )
            )
            self.column.addWidget(group.metal)
            self.column.addWidget(row(group.brace_button))
            self.column.addWidget(group.brace)
            self.column.addWidget(group.more)
            for when, word in WHEN_WORDS.items():
                self.column.addWidget(part(word))
                self.column.addWidget(group.records[when])
            self.column.addWidget(TextField(self.session, "Note").at(f"openings/{opening.id}/note"))
            keep = button(
                "Keep what is cut out",
                partial(self.keep, opening.id),
                "As a thing of the bay, to be moved and measured against",
                "view",
            )
            keep.setVisible(not opening.is_hole)
            group.keep_button = keep
            self.column.addWidget(
                row(keep, button("Take this cut out", partial(self.drop, opening.id), name="view"))
            )
        return group

    def refresh(self) -> None:
        for opening in self.session.job.openings:
            if opening.id in self.groups:
                self.groups[opening.id].show_opening(opening)

    def add(self) -> None:
        """One more cut, to be set right."""
        with told_in(self.refusal):
            job = self.session.job
            members, _ = members_of(job)
            at = max(self.which.box.currentIndex(), 0)
            opening = first_opening(job, members[at].item.id)
            self.session.edit(f"Added {opening.name}", added(job, "openings", opening))

    def keep(self, key: str) -> None:
        """What a cut takes out, as a thing of the bay."""
        with told_in(self.refusal):
            job, piece = with_piece_kept(self.session.job, key)
            self.session.edit(f"Kept {piece.name}", job)
            self.session.select("item", piece.id)

    def drop(self, key: str) -> None:
        """Without one."""
        with told_in(self.refusal):
            self.session.edit("Took a cut out", removed(self.session.job, f"openings/{key}"))


class OpeningGroup(Room):
    """One cut: its figures, its section, what is left, ways to put it back."""

    def build(self) -> None:
        self.first = DescribedFields(self.session, first=True)
        self.more = DescribedFields(self.session)
        self.metal = words("", "")
        self.brace = words("", "")
        self.brace_button = button("Propose a brace", self.propose_brace, "Of what is at hand", "view")
        self.braced_for: tuple[Any, ...] = ()
        self.records = {when: DescribedFields(self.session) for when in WHEN_WORDS}
        self.picture = SectionPicture()
        self.left = Table(("Is left", "Bending", "Sideways", "Twist"), most_rows=6)
        self.left.setAccessibleName("What is left of the member")
        self.ways = Table(("Put back with", "Sheet", "Weighs", "Weld", "Leaves"), most_rows=4)
        self.ways.setAccessibleName("Ways to put it back")
        self.said = words("", "")
        self.take_button = button("Put it back so", self.take, "As chosen in the table above", "view")
        self.opening: Opening | None = None
        self.keep_button: QPushButton | None = None
        self.offered: tuple[Way, ...] = ()
        self.asked: tuple[Any, ...] | None = None
        for widget in (
            self.first,
            self.picture,
            self.left,
            self.said,
            part("Ways to put it back, the lightest first"),
            self.ways,
            row(self.take_button),
            self.refusal,
        ):
            self.column.addWidget(widget)

    def show_opening(self, opening: Opening) -> None:
        """The cut as it is said now."""
        self.opening = opening
        if self.keep_button is not None:
            self.keep_button.setVisible(not opening.is_hole)
        place = f"openings/{opening.id}"
        self.first.show_part(opening, place, opening.name)
        self.more.show_part(opening, place, opening.name)
        for when, fields in self.records.items():
            fields.show_part(getattr(opening, when), f"{place}/{when}", f"{opening.name}, {when}")
        job = self.session.job
        if self.braced_for and any(a is not b for a, b in zip(self.braced_for, _frame_of(job), strict=True)):
            self.braced_for = ()
            self.brace.setText("")
        try:
            found = opened_member(self.session.job, opening)
        except JobError as error:
            self._nothing(error.message)
            return
        self._tell(found)

    def _nothing(self, why: str) -> None:
        for widget in (self.picture, self.left, self.ways, self.take_button):
            widget.setVisible(False)
        self.said.setText(f"Not worked out: {why}")

    def _tell(self, found: OpenedMember) -> None:
        for widget in (self.picture, self.left, self.ways, self.take_button):
            widget.setVisible(True)
        display, m = self.session.display, found.member
        size = f"{show(m.wide, 'length', display, 0)} x {show(m.tall, 'length', display, 0)}"
        mended = () if found.mended is None else found.mended.walls
        self.picture.show_walls(found.before.walls, found.cut.walls, mended, size)
        rows: list[TableRow] = [
            ("cut", _share_row("where it is cut", found.shares(found.cut))),
            ("cut-whole", _share_row("of the whole member, cut", found.whole(found.cut))),
        ]
        if found.mended is not None:
            rows += [
                ("mended", _share_row("there, put back", found.shares(found.mended))),
                ("mended-whole", _share_row("of the whole, put back", found.whole(found.mended))),
            ]
        self.left.fill(rows)
        plates = (
            f"The plates weigh {show(found.mend_kg, 'mass', display)},"
            f" {show(found.weld_mm, 'length', display, 0)} of weld. "
            if found.mended is not None
            else ""
        )
        self.metal.setText(metal_words(found))
        self.metal.setVisible(bool(self.metal.text()))
        told = f"{plates}{found.worry}"
        self.said.setText(told)
        self.said.setVisible(bool(told))
        asked = found.opening, self.session.job.items, self.session.job.survey, self.session.rack
        if self.asked is None or any(a is not b for a, b in zip(asked, self.asked, strict=True)):
            self.asked = asked
            self.offered = ways_to_mend(self.session.job, found.opening, self.session.rack)
        self.ways.fill(
            [
                (
                    way.mend,
                    (
                        (MEND_WORDS[way.mend], ""),
                        (show(way.thick, "length", display, 1), ">"),
                        (show(way.kg, "mass", display), ">"),
                        (show(way.weld_mm, "length", display, 0), ">"),
                        (percent(way.shares.least), "holds" if way.enough else "near"),
                    ),
                )
                for way in self.offered
            ]
        )

    def propose_brace(self) -> None:
        """The lightest at hand that keeps the frame's twist while the cut is open."""
        if self.opening is not None:
            with told_in(self.refusal):
                found = brace_for(self.session.job, self.opening, self.session.rack)
                self.brace.setText(brace_words(found))
                self.braced_for = _frame_of(self.session.job)

    def take(self) -> None:
        """The way that is chosen in the table, or the first."""
        opening = self.opening
        if opening is None or not self.offered:
            return
        key = self.ways.chosen_key()
        way = next((w for w in self.offered if w.mend == key), self.offered[0])
        with told_in(self.refusal):
            path = f"openings/{opening.id}"
            job = with_value(self.session.job, f"{path}/mend", way.mend)
            job = with_value(job, f"{path}/mend_mm", way.thick)
            self.session.edit(f"{opening.name}: put back with {MEND_WORDS[way.mend]}", job)


def _frame_of(job: Job) -> tuple[Any, ...]:
    """What a brace is worked out from."""
    return job.openings, job.items, job.survey, job.crossmember, job.vehicle


def _share_row(name: str, shares: Shares) -> tuple[tuple[str, str], ...]:
    low, high = sorted((shares.twist_free, shares.twist_held))
    twist = percent(low) if percent(low) == percent(high) else f"{percent(low)[:-2]} to {percent(high)}"
    return (name, ""), (percent(shares.up), ">"), (percent(shares.aside), ">"), (twist, ">")
