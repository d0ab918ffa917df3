"""Panels of sheet: how each is cut and bent, flat, and where it goes."""

from __future__ import annotations

from typing import Any

from PyQt6.QtWidgets import QWidget

from nimble_cradle.design.first_panel import first_panels, with_first_panels
from nimble_cradle.desk.kit.choice_box import ChoiceBox
from nimble_cradle.desk.kit.preview import Preview
from nimble_cradle.desk.kit.rooms import Room
from nimble_cradle.desk.kit.table import Table
from nimble_cradle.desk.kit.told_in import told_in
from nimble_cradle.desk.kit.words import button, fresh_body, row, stacked, words
from nimble_cradle.desk.stages.chassis.cut_lines_group import CutLinesGroup
from nimble_cradle.desk.stages.chassis.panel_fields import PanelFields
from nimble_cradle.job.base import JobError
from nimble_cradle.job.edits import free_id, removed, with_value
from nimble_cradle.job.panel import Duty, Lip, Panel
from nimble_cradle.judge.cautions import BENCH, CUTTING
from nimble_cradle.judge.panel_duty import duty_verdict
from nimble_cradle.judge.panels import panel_questions
from nimble_cradle.made.panel import made_panel
from nimble_cradle.shop.panel_template import panel_drawing
from nimble_cradle.units import show


class PanelsRoom(Room):
    """The panels, and the chosen one."""

    title, key = "Panels", "panels"
    caution = f"{CUTTING} {BENCH}"

    def build(self) -> None:
        """The list, the chosen one's pattern and fields; those are made anew when another one is chosen."""
        self.chosen = ""
        self.table = Table(("Panel", "Sheet", "Flat", "Weighs"), most_rows=6, chosen=self._choose, drop=(3,))
        self.table.setAccessibleName("Panels")
        self.kinds = ChoiceBox()
        self.kinds.setAccessibleName("What panel is added")
        self.preview = Preview()
        self.said = words("", "")
        self.holder = QWidget()
        self.body = QWidget()
        self.inner = stacked(self.holder, self.body)
        self._shown: Any = None
        for widget in (
            self.table,
            row(self.kinds, button("Make it", self.add, "With sizes to be typed over", "view")),
            self.refusal,
            self.preview,
            self.said,
            self.holder,
        ):
            self.column.addWidget(widget)

        with self.folded("Cut lines: what must go from a firewall, a floor, a wing"):
            self.cut_lines = CutLinesGroup(self.session)
            self.column.addWidget(self.cut_lines)

    def _choose(self, key: str) -> None:
        self.chosen = key
        self.session.select("panel", key)
        self.refresh()

    def _present(self) -> Panel | None:
        panels = self.session.job.panels
        return next((p for p in panels if p.id == self.chosen), panels[0] if panels else None)

    def refresh(self) -> None:
        self.cut_lines.refresh()
        job, display = self.session.job, self.session.display
        offered = first_panels(job)
        if [self.kinds.itemData(k) for k in range(self.kinds.count())] != list(offered):
            self.kinds.clear()
            for key, word in offered.items():
                self.kinds.addItem(word, key)
        rows = []
        for panel in job.panels:
            sheet = f"{show(panel.thick_mm, 'length', display, 1)} {panel.metal}"
            try:
                found = made_panel(panel)
                size = " x ".join(show(v, "length", display, 0) for v in found.flat_size)
                told = ((panel.name, ""), (sheet, ""), (size, ">"), (show(found.kg, "mass", display), ">"))
            except JobError:
                told = ((panel.name, ""), (sheet, ""), ("cannot be folded", "near"), ("", ">"))
            rows.append((panel.id, told))
        self.table.fill(rows, self.chosen)
        self.table.setVisible(bool(rows))
        present = self._present()
        for widget in (self.preview, self.said, self.holder):
            widget.setVisible(present is not None)
        if present is None:
            self._shown = None
            return
        self._tell(present)
        shown = present.id, tuple((lip.id, lip.on) for lip in present.lips), tuple(i.id for i in job.items)
        if shown != self._shown:
            self._shown = shown
            self.body, column = fresh_body(self.inner, self.body)
            self.fields = PanelFields(self, present)
            column.addWidget(self.fields)
        self.fields.show_panel(present)

    def _tell(self, panel: Panel) -> None:
        try:
            self.preview.show_drawing(panel_drawing(panel, self.session.job))
            self.preview.setAccessibleName(f"Flat pattern of {panel.name}")
        except JobError as error:
            self.preview.show_drawing(None)
            self.said.setText(error.message)
            return
        job = self.session.job
        every = (*panel_questions(job), *duty_verdict(job).problems)
        asked = [p.sentence for p in every if f"panels/{panel.id}/" in p.place]
        dashed = "dashed lines are bent"
        if panel.dimple_mm and panel.holes:
            dashed += ", dashed circles are where a dimple ends"
        said = f"Flat, as one faces it; {dashed}. Printed 1:1 with the pack."
        self.said.setText(" ".join(asked) or said)

    def add(self) -> None:
        """One more, with sizes to be typed over."""
        with told_in(self.refusal):
            after, panel = with_first_panels(self.session.job, str(self.kinds.currentData()))
            self.chosen = panel.id
            self.session.edit(f"Added {panel.name}", after)

    def drop(self) -> None:
        """Without the chosen one."""
        panel = self._present()
        if panel is not None:
            with told_in(self.refusal):
                self.session.edit(f"Took {panel.name} out", removed(self.session.job, f"panels/{panel.id}"))

    def turn_duty(self) -> None:
        """The chosen one ties the rails, or no more."""
        panel = self._present()
        if panel is not None:
            with told_in(self.refusal):
                duty = Duty() if panel.duty is None else None
                job = with_value(self.session.job, f"panels/{panel.id}/duty", duty)
                said = "no tie any more" if duty is None else "it ties the rails"
                self.session.edit(f"{panel.name}: {said}", job)

    def add_lip(self) -> None:
        """A lip on the first edge without one."""
        panel = self._present()
        if panel is None:
            return
        with told_in(self.refusal):
            bent = {lip.edge for lip in panel.lips if lip.on is None}
            edge = next((k for k in range(len(panel.outline)) if k not in bent), None)
            if edge is None:
                raise JobError("Every edge has a lip; say of one of them that it stands on another lip.")
            lip = Lip(id=free_id("lip", {lip.id for lip in panel.lips}), edge=edge)
            job = with_value(self.session.job, f"panels/{panel.id}/lips", (*panel.lips, lip))
            self.session.edit(f"{panel.name}: one more lip", job)

    def drop_lip(self, key: str) -> None:
        """Without a lip, and those that stand on it."""
        panel = self._present()
        if panel is None:
            return
        with told_in(self.refusal):
            gone = {key}
            while more := {lip.id for lip in panel.lips if lip.on in gone} - gone:
                gone |= more
            kept = tuple(lip for lip in panel.lips if lip.id not in gone)
            job = with_value(self.session.job, f"panels/{panel.id}/lips", kept)
            self.session.edit(f"{panel.name}: a lip less", job)
