"""Cures of a verdict. Each is a change of one figure, or one move of the engine, in the smallest step of
its ladder that does it; what it costs elsewhere is told with it. Nothing is a cure that was not judged
as a whole job."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import partial

from nimble_cradle.cures.lack import Subject
from nimble_cradle.cures.levers import (
    MOUNT_LEVERS,
    TO_RAIL,
    Step,
    both_sides,
    class_steps,
    hardness_steps,
    lever_steps,
    moved,
    section_steps,
    tilted,
)
from nimble_cradle.geometry.direction import WAY_VECTORS
from nimble_cradle.job.job import Job
from nimble_cradle.judge.found import Verdict
from nimble_cradle.judge.verdict import verdict
from nimble_cradle.workers import Say, quiet

MOST = 5
"""Cures that are told: as many as can be read at a glance."""
PROBE_MM = 4.0
"""A move by so much tells how fast a gap opens: less would drown in a scan's roughness (by trial)."""
FARTHEST_MM = 100.0
"""A move beyond this is no cure but another place: Settle looks for those."""
TILTS = (0.25, 0.5, 1.0, 1.5, 2.0, 3.0)
"""Turns that are tried for a driveline, deg: it is judged to a quarter of a degree."""
GAIN = 1e-6
"""A step that brings less than this is none."""


@dataclass(frozen=True, eq=False)
class Cure:
    """One cure. what: the change; before, after: how the verdict stands without and with it, in a figure;
    costs: what else then lacks that did not before; job: the job with it."""

    what: str
    before: str
    after: str
    costs: tuple[str, ...]
    job: Job

    @property
    def words(self) -> str:
        """The change and what it does, in a sentence."""
        said = f"{self.what[0].upper()}{self.what[1:]}: {self.after} instead of {self.before}"
        return said + (f". Then {'; '.join(self.costs[:2])}" if self.costs else "")


def cures_of(job: Job, subject: Subject, say: Say = quiet) -> tuple[Cure, ...]:
    """Cures of what lacks, those without a price first; empty where nothing lacks, or where nothing that is
    tried here cures it. ``say`` may raise to stop it."""
    whole = verdict(job)
    lack = subject.lack(job, whole)
    if lack is None or lack <= 0:
        return ()
    found: list[Cure] = []
    for told, steps in _ladders(job, subject, lack):
        say(f"Trying {told}")
        step = _first_that_cures(subject, lack, steps)
        if step is not None:
            found.append(_cure(job, subject, whole, step))
    return tuple(sorted(found, key=lambda cure: len(cure.costs))[:MOST])


def _ladders(job: Job, subject: Subject, lack: float) -> Iterator[tuple[str, Iterator[Step]]]:
    """What is tried for a subject: a word for it, and its steps, the smallest first."""
    if subject.kind == "finding":
        yield from _part_ladders(job, subject)
    elif subject.kind == "idle":
        yield "softer bushes", hardness_steps(job, harder=False)
    else:
        yield from _move_ladders(job, subject, lack)
        if subject.kind == "gap":
            yield "harder bushes", hardness_steps(job, harder=True)
        if subject.kind == "driveline":
            yield "nose up", (step for a in TILTS if (step := tilted(job, a)) is not None)
            yield "nose down", (step for a in TILTS if (step := tilted(job, -a)) is not None)


def _part_ladders(job: Job, subject: Subject) -> Iterator[tuple[str, Iterator[Step]]]:
    part, _, code = subject.key.partition("/")
    if part == "crossmember":
        yield "heavier sections", section_steps(job)
    mount = next((mount for mount in job.mounts if mount.id == part), None)
    if mount is None:
        return
    if code.startswith("foot-"):
        for lever in TO_RAIL:
            yield lever.words, lever_steps(job, mount, lever)
        yield "welds on both sides", both_sides(job, mount)
        yield "the foot's bolts of a higher class", class_steps(job, mount, "foot", "foot's bolts of class")
        return
    for lever in MOUNT_LEVERS:
        yield lever.words, lever_steps(job, mount, lever)
    yield "bolts of a higher class", class_steps(job, mount, "pad", "bolts to the block of class")
    yield "a cross-bolt of a higher class", class_steps(job, mount, "cross_bolt", "cross-bolt of class")


def _move_ladders(job: Job, subject: Subject, lack: float) -> Iterator[tuple[str, Iterator[Step]]]:
    """Moves one way alone, each as far as it must be by how fast what lacks goes down there."""
    for name, way in WAY_VECTORS.items():
        yield f"a move {name}", _move_steps(job, subject, lack, partial(moved, job, way, name))


def _move_steps(
    job: Job, subject: Subject, lack: float, move: Callable[[float], Step | None]
) -> Iterator[Step]:
    """Farther and farther by what was gained so far; none where a first move gains nothing."""
    mm, before = PROBE_MM, lack
    for _ in range(4):
        step = move(mm)
        if step is None:
            return
        left = subject.lack(step.job, subject.judged(step.job))
        if left is None or left >= before - GAIN:
            return
        if left <= 0:
            yield from _shortened(subject, lack, left, mm, move)
            return
        mm = _rounded(mm + 1.02 * left * mm / (lack - left))
        if mm > FARTHEST_MM:
            return
        before = left


def _shortened(
    subject: Subject, lack: float, left: float, mm: float, move: Callable[[float], Step | None]
) -> Iterator[Step]:
    """A move that cures, first as short as a straight line says, then as it was found."""
    shorter = _rounded(mm * lack / (lack - left))
    for length in dict.fromkeys((shorter, _rounded((shorter + mm) / 2), mm)):
        step = move(length)
        if step is not None:
            yield step


def _rounded(mm: float) -> float:
    """Up to the next half millimetre: what a shim or a nudge can do."""
    return -(-mm // 0.5) * 0.5


def _first_that_cures(subject: Subject, lack: float, steps: Iterator[Step]) -> Step | None:
    """The first step that leaves nothing lacking; None where two steps in turn gain nothing."""
    idle, best = 0, lack
    for step in steps:
        left = subject.lack(step.job, subject.judged(step.job))
        if left is not None and left <= 0:
            return step
        idle = idle + 1 if left is None or left >= best - GAIN else 0
        best = best if left is None else min(best, left)
        if idle == 2:
            return None
    return None


def _cure(job: Job, subject: Subject, whole: Verdict, step: Step) -> Cure:
    after = verdict(step.job)
    return Cure(
        step.words,
        subject.told(job, whole),
        subject.told(step.job, after),
        tuple(sorted(_lacking(step.job, after) - _lacking(job, whole))),
        step.job,
    )


def _lacking(job: Job, v: Verdict) -> frozenset[str]:
    """Everything that lacks, in words that stay the same as long as it does."""
    said = [f"{gap.piece_name} – {gap.item_name} is short" for gap in v.gaps if gap.margin < 0]
    said += [f"{f.part_name}, {f.what}: does not hold" for f in v.findings if f.use > 1]
    for kind, name in (("lowest", "the lowest point"), ("share", "the share"), ("idle", "the shake at idle")):
        left = Subject(kind).lack(job, v)  # type: ignore[arg-type]
        if left is not None and left > 0:
            said.append(f"{name} is beyond its limit")
    if v.driveline is not None and not v.driveline.holds:
        said.append("the driveline is out of its limits")
    return frozenset((*said, *(problem.sentence for problem in v.problems)))
