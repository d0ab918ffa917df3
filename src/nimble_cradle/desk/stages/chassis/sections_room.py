"""What the rails and members are: their sections, measured, and what those are worth."""

from __future__ import annotations

from typing import get_args

import numpy as np

from nimble_cradle.bay.member import Member, members_of
from nimble_cradle.desk.kit.described_fields import DescribedFields
from nimble_cradle.desk.kit.fields import ChoiceField
from nimble_cradle.desk.kit.rooms import Room
from nimble_cradle.desk.kit.table import Table
from nimble_cradle.desk.kit.words import part, words
from nimble_cradle.desk.stages.chassis.section_picture import SectionPicture
from nimble_cradle.fit.opened_member import walls_of_member
from nimble_cradle.job.base import JobError
from nimble_cradle.job.sides import Side
from nimble_cradle.strength.section import Section, thin_walled, works_pressed
from nimble_cradle.units import Display, show


class SectionsRoom(Room):
    """Every member with its section's figures."""

    title, key = "Sections", "sections"
    caution = ""

    def build(self) -> None:
        """The table, and the chosen member's figures."""
        self.table = Table(
            ("Member", "Size, mm", "Bending", "Sideways", "Twist"),
            most_rows=7,
            chosen=self._choose,
            drop=(3, 1),
        )
        self.table.setAccessibleName("Rails and members")
        self.name = part("")
        self.picture = SectionPicture()
        self.said = words("", "")
        self.first = DescribedFields(self.session, first=True)
        self.more = DescribedFields(self.session)
        self.opens = ChoiceField(
            self.session,
            "Open side, or the skin's",
            [("unsaid", "not said"), *((side, side) for side in get_args(Side))],
        )
        self.chosen = ""
        for widget in (
            words(
                "Second moments and torsion constant of each, in cm⁴, from its outside in the bay and the"
                " wall that was measured. Choose one to say what it is.",
                "",
            ),
            self.table,
            self.name,
            self.picture,
            self.said,
            self.first,
            self.opens,
            self.more,
        ):
            self.column.addWidget(widget)

    def _choose(self, key: str) -> None:
        self.chosen = key
        self.session.select("item", key)
        self.refresh()

    def refresh(self) -> None:
        members, faults = members_of(self.session.job)
        self.table.fill([(m.item.id, _row(m, self.session.display)) for m in members], self.chosen)
        found = next((m for m in members if m.item.id == self.chosen), members[0] if members else None)
        for widget in (self.name, self.picture, self.first, self.opens, self.more):
            widget.setVisible(found is not None)
        if found is None:
            self.said.setText(
                next((f"{e.message}" for e in faults.values()), "Say in the bay what is chassis.")
            )
            return
        self.name.setText(found.item.name)
        path = f"items/{found.item.id}/host"
        self.opens.at(f"{path}/opens", found.item.name)
        self.opens.setVisible(found.item.host.section in ("open C", "hat on skin"))
        self.first.show_part(found.item.host, path, found.item.name)
        self.more.show_part(found.item.host, path, found.item.name)
        try:
            walls = walls_of_member(found)
        except JobError as error:
            self.picture.setVisible(False)
            self.said.setText(error.message)
            return
        display = self.session.display
        size = f"{show(found.wide, 'length', display, 0)} x {show(found.tall, 'length', display, 0)}"
        self.picture.show_walls(walls, walls, (), size)
        section = thin_walled(walls)
        off = section.shear_centre - section.centroid
        away = float(np.hypot(*off))
        centre = (
            "a load through its middle does not twist it."
            if away < 0.05
            else f"only a load {show(away, 'length', display)} from its middle of area, through its shear"
            " centre, does not twist it."
        )
        pressed = works_pressed(walls, found.item.host.yield_mpa)
        thin = (
            ""
            if pressed > 0.995
            else f" Pressed along its length {100 * pressed:.0f} % of it works: thin walls buckle."
        )
        self.said.setText(f"{section.area / 100:.2f} cm² of metal; {centre}{thin}")


def _row(member: Member, display: Display) -> tuple[tuple[str, str], ...]:
    size = f"{member.wide:.0f} x {member.tall:.0f}"
    try:
        s: Section = thin_walled(walls_of_member(member))
    except (JobError, ValueError):
        return (member.item.name, ""), (size, ">"), ("not said", "near"), ("", ">"), ("", ">")
    return (
        (member.item.name, ""),
        (size, ">"),
        (f"{s.i_y / 1e4:.1f}", ">"),
        (f"{s.i_z / 1e4:.1f}", ">"),
        (f"{s.torsion / 1e4:.2f}", ">"),
    )
