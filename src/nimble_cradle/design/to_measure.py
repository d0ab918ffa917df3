"""What is to be measured next, in the order of the trade, with how many are left: each line knows its
place."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from nimble_cradle.job.job import Job
from nimble_cradle.job.said import not_said
from nimble_cradle.survey.made import waiting_items
from nimble_cradle.survey.network import network

NAMED = 3
"""Names that a line tells: the next ones; of the others only the number."""


@dataclass(frozen=True)
class ToMeasure:
    """One line. left: how many readings or figures of it are still wanted, 0 for done; names: the first
    of them; stage, room: where it is typed; kind, key: what is chosen there."""

    what: str
    left: int
    names: tuple[str, ...]
    stage: str
    room: str = ""
    kind: str = ""
    key: str = ""

    @property
    def words(self) -> str:
        """The first names, and how many more."""
        more = self.left - len(self.names)
        return ", ".join(self.names) + (f" and {more} more" if more > 0 and self.names else "")


def to_measure(job: Job) -> tuple[ToMeasure, ...]:
    """Every line, in the order of the trade: level and datum, points, what they make, the vehicle, the
    powertrain, the mounts."""
    return tuple(_lines(job))


def _lines(job: Job) -> Iterator[ToMeasure]:
    level = {reading.way for reading in job.survey.level.readings if reading.used}
    ways = [way for way in ("across", "along") if way not in level]
    yield ToMeasure("Level the car: read it both ways", len(ways), tuple(ways), "survey", "level")
    width = 0 if job.survey.width_mm is not None else 1
    yield ToMeasure("Centre line: wall to wall, halved", width, (), "survey", "points")
    yield _points(job)
    yield _things(job)
    for stage, what, room in (
        ("bay", "The vehicle's own figures", ""),
        ("powertrain", "The engine's and the gearbox's figures", "engine"),
        ("mounts", "What the mounts are made of", ""),
        ("crossmember", "The crossmember", ""),
    ):
        lacking = [fact for fact in not_said(job) if fact.stage == stage]
        names = tuple(fact.name for fact in lacking[:NAMED])
        none_yet = stage == "mounts" and not job.mounts
        yield ToMeasure(what, 1 if none_yet else len(lacking), names, stage, room)
        if stage == "powertrain":
            yield _pieces(job)


def _points(job: Job) -> ToMeasure:
    """Points that no readings pin down yet."""
    loose = [point for point in network(job).points if point.free]
    key = loose[0].id if loose else ""
    names = tuple(point.name for point in loose[:NAMED])
    said = "Points: from the datum, or three distances each"
    return ToMeasure(said, len(loose), names, "survey", "points", "point", key)


def _things(job: Job) -> ToMeasure:
    """Things in the bay that wait for their points, or whose sizes are guesses."""
    waiting = [item for item, _ in waiting_items(job)]
    guessed = [item for item in job.items if item.measured == "guess" and item not in waiting]
    rows = [*waiting, *guessed]
    key = rows[0].id if rows else ""
    names = tuple(item.name for item in rows[:NAMED])
    left = len(rows) if rows or job.items else 1
    return ToMeasure("Things in the bay, and their sizes", left, names, "bay", "", "item", key)


def _pieces(job: Job) -> ToMeasure:
    """Pieces whose shape is a placeholder or a guess."""
    rough = [piece for piece in job.powertrain.present if piece.measured == "guess"]
    first = {"block", "gearbox"} == {piece.id for piece in job.powertrain.pieces}
    left = len(rough) if not first else len(job.powertrain.pieces)
    names = tuple(piece.name for piece in (job.powertrain.present if first else rough)[:NAMED])
    return ToMeasure(
        "Its pieces, taped on a mock-up", left, names, "powertrain", "mock-up" if first else "pieces"
    )
