"""What is found of a job. A stage finds its part; the verdict is the sum of the parts."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, fields
from typing import Any

from nimble_cradle.findings.finding import Finding, Problem
from nimble_cradle.fit.balance import Share
from nimble_cradle.fit.driveline import Driveline
from nimble_cradle.fit.gap import Gap
from nimble_cradle.fit.lowest import LowestPoint
from nimble_cradle.job.said import Fact
from nimble_cradle.judge.carried import Carried
from nimble_cradle.judge.load_path import MountVerdict


@dataclass(frozen=True, eq=False)
class Verdict:
    """What one stage, or all of them, found. What could not be judged is None or empty and has a problem that
    says why.

    gaps: tightest first. rests_on: names of what was assumed. not_said: figures of which nobody has said how
    they were come by.
    """

    gaps: tuple[Gap, ...] = ()
    lowest: LowestPoint | None = None
    driveline: Driveline | None = None
    share: Share | None = None
    carried: Carried | None = None
    findings: tuple[Finding, ...] = ()
    problems: tuple[Problem, ...] = ()
    mounts: tuple[MountVerdict, ...] = ()
    rests_on: tuple[str, ...] = ()
    not_said: tuple[Fact, ...] = ()

    @property
    def hardest(self) -> Finding | None:
        """The hardest-used part."""
        return max(self.findings, key=lambda f: f.use, default=None)

    @property
    def block_to_bush(self) -> bool:
        """Whether every mount holds from the block to its bush."""
        return bool(self.mounts) and all(mount.block_to_bush == "holds" for mount in self.mounts)

    @property
    def holds(self) -> bool:
        """Whether nothing is open: every part between engine and rail judged and within its capacity, no
        problem, no gap under what it needs, driveline within limits. While the way from bush to rail is
        not described it never holds.
        """
        return (
            self.block_to_bush
            and not self.open_questions
            and all(mount.bush_to_rail == "holds" for mount in self.mounts)
        )

    @property
    def open_questions(self) -> bool:
        """Whether anything is open besides the mounts' own two verdicts."""
        return bool(
            self.problems
            or any(gap.margin < 0 for gap in self.gaps)
            or any(finding.use > 1 for finding in self.findings)
            or (self.driveline is not None and not self.driveline.holds)
            or (self.lowest is not None and self.lowest.above_line < 0)
        )


def summed(parts: Iterable[Verdict]) -> Verdict:
    """All parts as one: rows one after another, each problem once, and of what there is only one of the first
    that is there."""
    every = tuple(parts)
    out: dict[str, Any] = {}
    for name in (field.name for field in fields(Verdict)):
        values = [getattr(part, name) for part in every]
        if all(isinstance(value, tuple) for value in values):
            out[name] = tuple(row for value in values for row in value)
        else:
            out[name] = next((value for value in values if value is not None), None)
    out["problems"] = tuple(dict.fromkeys(out["problems"]))
    return Verdict(**out)


def standing_words(v: Verdict) -> tuple[str, ...]:
    """Where the job stands, in sentences: both verdicts of every mount, what they rest on, what was not
    said."""
    on = ", on assumed" if v.rests_on else ""
    lines = [
        f"{mount.name}, block to bush: {mount.block_to_bush}{on if mount.block_to_bush == 'holds' else ''}."
        f" {_rail_words(mount, on)}"
        for mount in v.mounts
    ]
    if v.rests_on:
        lines.append(f"Rests on assumed: {', '.join(v.rests_on)}.")
    if v.not_said:
        names = [fact.name for fact in v.not_said]
        more = f" and {len(names) - 6} more" if len(names) > 6 else ""
        lines.append(f"Not said whether measured or assumed: {', '.join(names[:6])}{more}.")
    return tuple(lines)


def _rail_words(mount: MountVerdict, on: str) -> str:
    """The second verdict of a mount in a sentence."""
    if mount.rail:
        return f"F{mount.rail.removeprefix(f'{mount.name}: f')}"
    return f"Bush to rail: {mount.bush_to_rail}{on if mount.bush_to_rail == 'holds' else ''}."
