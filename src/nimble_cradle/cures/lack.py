"""What is wrong, as a number that a cure has to bring down to nothing."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from nimble_cradle.findings.finding import Finding
from nimble_cradle.fit.gap import Gap
from nimble_cradle.job.job import Job
from nimble_cradle.judge.crossmember import crossmember_findings
from nimble_cradle.judge.found import Verdict
from nimble_cradle.judge.mounts import mount_findings
from nimble_cradle.judge.verdict import verdict
from nimble_cradle.units import show

Kind = Literal["gap", "finding", "lowest", "driveline", "share", "idle"]

OTHERS: tuple[Kind, ...] = ("lowest", "driveline", "share", "idle")
"""What may lack beside gaps and parts, the gravest first."""


@dataclass(frozen=True)
class Subject:
    """What is to be cured. key: of a gap ``piece/item``, of a finding ``part/code``, else empty."""

    kind: Kind
    key: str = ""

    def name(self, v: Verdict) -> str:
        """What it is about, in the words of the screen."""
        gap, finding = self.gap(v), self.finding(v)
        if gap is not None:
            return f"{gap.piece_name} – {gap.item_name}"
        if finding is not None:
            return f"{finding.part_name}, {finding.what}"
        return {
            "lowest": "The lowest point",
            "driveline": "The driveline",
            "share": "The front-axle share",
            "idle": "The shake at idle",
        }.get(self.kind, "It")

    def gap(self, v: Verdict) -> Gap | None:
        """The gap that it is, or None."""
        return next((g for g in v.gaps if self.kind == "gap" and f"{g.piece}/{g.item}" == self.key), None)

    def finding(self, v: Verdict) -> Finding | None:
        """The finding that it is, or None."""
        return next(
            (f for f in v.findings if self.kind == "finding" and f"{f.part}/{f.code}" == self.key), None
        )

    def judged(self, job: Job) -> Verdict:
        """As much of the verdict as tells of it, so that many trials cost little."""
        if self.kind != "finding":
            return verdict(job)
        if self.key.startswith("crossmember/"):
            return crossmember_findings(job)
        return mount_findings(job)

    def lack(self, job: Job, v: Verdict) -> float | None:
        """How much is lacking: positive as long as it is not cured; in mm, in percent of the front-axle
        share, or as a share. None where that cannot be told."""
        gap, finding = self.gap(v), self.finding(v)
        if gap is not None:
            return -gap.margin
        if finding is not None:
            return finding.use - 1.0
        return self._of_six(job, v)

    def _of_six(self, job: Job, v: Verdict) -> float | None:
        """What lacks of a tell-tale's number."""
        if self.kind == "lowest" and v.lowest is not None:
            return -v.lowest.above_line
        if self.kind == "driveline" and v.driveline is not None:
            return float(len(v.driveline.faults)) or -1.0
        if self.kind == "share" and v.share is not None:
            return v.share.percent - job.vehicle.want_front_share_percent
        if self.kind == "idle" and v.carried is not None:
            return v.carried.idle.transmitted - job.allowables.idle_transmitted
        return None

    def told(self, job: Job, v: Verdict) -> str:
        """How it stands, in a figure."""
        lack, display = self.lack(job, v), job.show.display
        if lack is None:
            return "not to be judged"
        if self.kind in ("gap", "lowest"):
            return f"{show(abs(lack), 'length', display)} {'short' if lack > 0 else 'spare'}"
        if self.kind == "finding":
            return f"{100 * (1 + lack):.0f} %"
        if self.kind == "driveline":
            return "within its limits" if lack <= 0 else "out of its limits"
        if self.kind == "share":
            return f"{lack + job.vehicle.want_front_share_percent:.1f} %"
        return f"{100 * (lack + job.allowables.idle_transmitted):.0f} %"


def worst(job: Job, v: Verdict) -> Subject | None:
    """What is worst of a job: a gap that lacks, then a part that does not hold, then the others; None where
    nothing that is judged lacks."""
    if v.gaps and v.gaps[0].margin < 0:
        return Subject("gap", f"{v.gaps[0].piece}/{v.gaps[0].item}")
    if v.hardest is not None and v.hardest.use > 1:
        return Subject("finding", f"{v.hardest.part}/{v.hardest.code}")
    others = (Subject(kind) for kind in OTHERS)
    return next((subject for subject in others if (subject.lack(job, v) or 0.0) > 0), None)


def looked_at(v: Verdict) -> str:
    """What was judged where nothing lacks, and what was not, in words."""
    if not (v.gaps or v.findings):
        return "Nothing is judged yet: no gap, no part."
    said = f"Judged: gaps {len(v.gaps)}, checks of parts {len(v.findings)}."
    if v.problems:
        said += f" Not judged: {v.problems[0].sentence}"
    if v.not_said:
        said += f" Figures of which nobody said whether they are measured: {len(v.not_said)}."
    return said
