"""Whether every part between engine and chassis rail is there and was judged: a formula for a part in
mid-air says nothing."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from nimble_cradle.bay.bodies import standing_items
from nimble_cradle.bay.nearest import nearest_item
from nimble_cradle.findings.finding import Finding, Problem
from nimble_cradle.job.base import JobError
from nimble_cradle.job.job import Job
from nimble_cradle.job.mounts import Mount
from nimble_cradle.mounts.mount_checks import unjudged

BlockToBush = Literal["holds", "does not hold", "open"]


@dataclass(frozen=True)
class MountVerdict:
    """Two verdicts of one mount: from the block to the bush, and from the bush to the rail. questions:
    what keeps the first open, in sentences; rail: what is known of the second."""

    mount: str
    name: str
    block_to_bush: BlockToBush
    bush_to_rail: Literal["not described yet", "holds"]
    questions: tuple[str, ...]
    rail: str


def mount_verdict(
    job: Job, mount: Mount, findings: Sequence[Finding], asked: Sequence[Problem]
) -> MountVerdict:
    """What may be said of a mount. asked: all open questions; those whose place lies in this mount count."""
    own = tuple(
        q.sentence
        for q in asked
        if q.place == f"mounts/{mount.id}" or q.place.startswith(f"mounts/{mount.id}/")
    )
    mine = [finding for finding in findings if finding.part == mount.id]
    missing = unjudged(mount, mine)
    if missing:
        own = (*own, f"{mount.name}: nothing is known of its {', '.join(missing)} yet.")
    state: BlockToBush = "open" if own else ("does not hold" if any(f.use > 1 for f in mine) else "holds")
    return MountVerdict(mount.id, mount.name, state, "not described yet", own, _rail_words(job, mount))


def _rail_words(job: Job, mount: Mount) -> str:
    """What stands nearest to a bush, of the chassis, and what it is made of."""
    tail = "nothing of the chassis is near it"
    try:
        chassis = [i for i in standing_items(job) if i.chassis]
        found = nearest_item(job, np.asarray(mount.bush.centre, dtype=float), chassis, 400.0)
    except JobError:  # said of the item itself
        found, tail = None, "what stands near it cannot be measured"
    if found is not None:
        item, away = found
        made = "not said what it is made of" if item.material == "unsaid" else item.material
        tail = f"nearest is {item.name}, {max(away, 0.0):.0f} mm from the bush's centre, {made}"
        if item.material in ("aluminium", "magnesium"):
            tail += ": steel cannot be welded to it"
        elif item.material == "single skin":
            tail += ": a mount is only as good as that"
    return f"{mount.name}: from bush to rail it is not described yet; {tail}."
