"""The plates at the crossmember's ends: put on, their sizes, what is open about them."""

from __future__ import annotations

from nimble_cradle.design.end_plates import with_end_plates
from nimble_cradle.desk.kit.described_fields import DescribedFields
from nimble_cradle.desk.kit.rooms import Room
from nimble_cradle.desk.kit.told_in import told_in
from nimble_cradle.desk.kit.words import button, row, words
from nimble_cradle.job.base import JobError
from nimble_cradle.job.edits import with_value
from nimble_cradle.made.end_plates import EndSeat, end_seats
from nimble_cradle.units import show


class EndPlatesGroup(Room):
    """Both ends at once: the plates are alike."""

    def build(self) -> None:
        """Where they lie, their fields, on and off."""
        self.said = words("", "")
        self.first, self.more = DescribedFields(self.session, first=True), DescribedFields(self.session)
        self.on_button = button(
            "Put end plates on", self.put_on, "The tube's ends are cut back for them", "view"
        )
        self.off_button = button("Take them off", self.take_off, name="view")
        for widget in (self.said, row(self.on_button, self.off_button), self.refusal, self.first, self.more):
            self.column.addWidget(widget)

    def refresh(self) -> None:
        cross = self.session.job.crossmember
        plates = None if cross is None else cross.plates
        self.on_button.setVisible(plates is None)
        self.off_button.setVisible(plates is not None)
        for fields in (self.first, self.more):
            fields.show_part(plates, "crossmember/plates", "End plates")
        if plates is None:
            self.said.setText("Until they are described the gearbox mount does not hold to the rails.")
            return
        told = []
        for seat in end_seats(self.session.job):
            if isinstance(seat, EndSeat):
                wide = show(seat.face, "length", self.session.display, 0)
                told.append(f"{seat.word.capitalize()} on {seat.item.name}, its wall {wide} wide.")
            else:
                told.append(seat.message)
        self.said.setText(" ".join(told))

    def put_on(self) -> None:
        """Plates on the rails' inner sides, the tube cut back for them."""
        with told_in(self.refusal):
            self.session.edit("Put end plates on", with_end_plates(self.session.job))

    def take_off(self) -> None:
        """Without them."""
        with told_in(self.refusal):
            job = self.session.job
            if job.crossmember is None:
                raise JobError("There is no crossmember.", "crossmember")
            self.session.edit("Took the end plates off", with_value(job, "crossmember/plates", None))
