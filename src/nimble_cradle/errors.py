"""The one kind of error that is told to a person as a sentence."""

from __future__ import annotations


class JobError(ValueError):
    """A job, file, figure or edit that cannot be taken. ``place`` is the path to the fault, e.g.
    ``mounts/left/bush``; faults: where there is more than one, a sentence for each."""

    def __init__(self, message: str, place: str = "", faults: tuple[str, ...] = ()) -> None:
        super().__init__(message)
        self.message = message
        self.place = place
        self.faults = faults
