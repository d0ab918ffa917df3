"""Undo and redo: the old jobs are kept, since each is a value. Edits that belong together are one step."""

from __future__ import annotations

from dataclasses import dataclass, field, replace

from nimble_cradle.job.job import Job

MOST_STEPS = 500
"""Edits that can be undone; older ones are let go."""


@dataclass(frozen=True)
class EditStep:
    """An edit that was made: its words, the job before it and after it, and what it may be merged with."""

    what: str
    before: Job
    after: Job
    merge: str = ""
    when: float = 0.0


@dataclass
class History:
    """The present job with what led to it. ``merge`` keys join a held nudge key into one step (within
    ``together`` seconds)."""

    job: Job
    undone: list[EditStep] = field(default_factory=list)
    done: list[EditStep] = field(default_factory=list)
    together: float = 1.0

    def push(self, what: str, after: Job, merge: str = "", when: float = 0.0) -> None:
        """Make ``after`` the present job."""
        last = self.done[-1] if self.done else None
        if (
            merge
            and last is not None
            and last.merge == merge
            and when - last.when < self.together
            and not self.undone
        ):
            self.done[-1] = EditStep(what, last.before, after, merge, when)
        else:
            self.done.append(EditStep(what, self.job, after, merge, when))
            del self.done[:-MOST_STEPS]
        self.undone.clear()
        self.job = after

    def shown(self, when: float) -> None:
        """The last step is on the screen only now: what follows soon after belongs to it, however slow the
        machine."""
        if self.done:
            self.done[-1] = replace(self.done[-1], when=when)

    def undo(self) -> EditStep | None:
        """Step back; None at the beginning."""
        if not self.done:
            return None
        step = self.done.pop()
        self.undone.append(step)
        self.job = step.before
        return step

    def redo(self) -> EditStep | None:
        """Step forward again; None at the end."""
        if not self.undone:
            return None
        step = self.undone.pop()
        self.done.append(step)
        self.job = step.after
        return step
