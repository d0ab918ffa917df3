"""The whole chassis as a frame: what cuts leave of its twist and bending, what one more member would buy."""

from __future__ import annotations

from nimble_cradle.desk.kit.quantity_field import QuantityField
from nimble_cradle.desk.kit.rooms import Room
from nimble_cradle.desk.kit.session import Session
from nimble_cradle.desk.kit.table import Table
from nimble_cradle.desk.kit.words import part, words
from nimble_cradle.fit.chassis_frame import MORE, WHENS, Band, FrameShares, frame_shares
from nimble_cradle.fit.frame_loads import OneMore
from nimble_cradle.job.base import JobError
from nimble_cradle.job.job import Job
from nimble_cradle.judge.chassis import FRAME_LEFT_OUT, percent
from nimble_cradle.judge.rails import NOT_IN_IT, one_more, rails_judged, rests_words, station_words

BOUGHT = "one more member"
WHEN_WORDS = {"was": "as it was", "cut": "cut, nothing put back", "mended": "as put back"}


class FrameRoom(Room):
    """Shares of the whole frame's stiffness."""

    title, key = "Frame", "frame"
    caution = ""
    waits = True

    def __init__(self, session: Session) -> None:
        self.bought: tuple[Job, OneMore | str] | None = None
        super().__init__(session)
        session.tasks.ended.connect(self._seen)

    def build(self) -> None:
        """The shares, what is in them, and where one more member would buy most."""
        self.table = Table(("The whole frame", "Twist", "Bending"), most_rows=3)
        self.table.setAccessibleName("What is left of the whole frame")
        self.said = words("", "")
        self.more = part("")
        self.places = Table(("From the front axle", "Twist", "Hardest used", "Itself"), most_rows=4)
        self.places.setAccessibleName("What one more member would buy")
        self.how = words("", "")
        self._build_under()
        self.column.addWidget(part("What cuts leave of it"))
        for widget in (self.table, self.said, words(FRAME_LEFT_OUT, ""), self.more, self.places, self.how):
            self.column.addWidget(widget)

    def _build_under(self) -> None:
        session = self.session
        self.under = Table(("Under the mounts", "Used", "In which case"), most_rows=5)
        self.under.setAccessibleName("What the mounts ask of each rail and member")
        self.under_said = words("", "")
        self.rests = [
            QuantityField(
                session, f"Rails rest {where}", "length", ways=("forward", "back"), optional="not said"
            )
            for where in ("in front", "at the rear")
        ]
        for widget in (part("What the mounts ask of it"), self.under, self.under_said, *self.rests):
            self.column.addWidget(widget)
        for field, key in zip(self.rests, ("rails_rest_front_mm", "rails_rest_rear_mm"), strict=True):
            field.at(f"vehicle/{key}", "the frame")

    def refresh(self) -> None:
        try:
            found, why = frame_shares(self.session.job), ""
        except JobError as error:
            found, why = None, error.message
        for widget in (self.table, self.more, self.places, self.how):
            widget.setVisible(found is not None)
        self.said.setText(why)
        if found is not None:
            self._tell(found)
        self._tell_under()

    def _tell_under(self) -> None:
        """Every rail and member under the mounts, most used first, or why that is not known."""
        job = self.session.job
        try:
            judged = rails_judged(job)
        except JobError as error:
            self.under.setVisible(False)
            self.under_said.setText(error.message)
            return
        self.under.setVisible(True)
        self.under.fill(
            [
                (
                    f.part,
                    (
                        (f"{f.part_name}, {f.what.partition(', ')[2].partition(';')[0]}", ""),
                        (percent(f.use), ">"),
                        (f.case, ""),
                    ),
                )
                for f in judged.findings
            ]
        )
        out = f" Not in it: {' '.join(judged.use.left_out)}" if judged.use.left_out else ""
        self.under_said.setText(f"{NOT_IN_IT} {rests_words(judged.use, job)}{out}")

    def _tell(self, found: FrameShares) -> None:
        rows = [(when, (WHEN_WORDS[when], found.twist[when], found.bending[when])) for when in WHENS]
        self.table.fill(
            [
                (when, ((name, ""), (told(twist), ">"), (told(bent), ">")))
                for when, (name, twist, bent) in rows
            ]
        )
        out = f" Not in it: {' '.join(found.left_out)}" if found.left_out else ""
        self.said.setText(f"In it: {', '.join(found.members)}.{out}")
        outside, wall = MORE
        self.more.setText(f"One more square tube across, {outside:g} x {wall:g} mm: most first")
        under = self._bought()
        there = {row.station: row for row in under.places} if under is not None else {}
        self.places.fill(
            [
                (
                    f"{x:.0f}",
                    (
                        (self._place(x), ""),
                        (percent(share), ">"),
                        (percent(there[x].rest) if x in there else "–", ">"),
                        (percent(there[x].itself) if x in there else "–", ">"),
                    ),
                )
                for x, share in sorted(found.one_more, key=lambda row: -row[1])
            ],
            more=", buying less",
        )
        now = f" Without it the hardest used is at {percent(under.now)}." if under is not None else ""
        self.how.setText(
            f"Hardest used, itself: under the mounts, of what is there and of the new one.{now} All cuts put"
            " back, joints welded; whether it fits there the bay shows."
        )

    def _bought(self) -> OneMore | None:
        """What one more member would take off the rails of this job; begun where that is not known yet."""
        job, tasks = self.session.job, self.session.tasks
        if self.bought is not None and self.bought[0] is job:
            return self.bought[1] if isinstance(self.bought[1], OneMore) else None
        if not tasks.running(BOUGHT):
            tasks.begin(BOUGHT, lambda _: one_more(job), job)
        return None

    def _seen(self, what_for: str, outcome: object) -> None:
        """What was worked out; one for a job that is no more is worked out anew."""
        if self.gone or what_for != BOUGHT:
            return
        result, fault, job = outcome.result, outcome.fault, outcome.then  # type: ignore[attr-defined]
        if outcome.stopped:  # type: ignore[attr-defined]
            return
        self.bought = job, fault or result
        if self.isVisible():
            self.refresh()

    def _place(self, station: float) -> str:
        return station_words(station, self.session.display).removesuffix(" the front axle")


def told(band: Band) -> str:
    """``88 to 95 %``."""
    low, high = percent(band.low), percent(band.high)
    return low if low == high else f"{low[:-2]} to {high}"
