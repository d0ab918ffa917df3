"""A good first proposal: three whole mounts from block to rail, the metal of each chassis side as thin as
holds."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from nimble_cradle.design.first_foot import first_foot
from nimble_cradle.design.first_mounts import first_mount
from nimble_cradle.job.base import JobError
from nimble_cradle.job.edits import added, free_id, with_value
from nimble_cradle.job.foot import FactoryFoot, PlateFoot, SaddleFoot
from nimble_cradle.job.job import Job
from nimble_cradle.job.mounts import Mount
from nimble_cradle.judge.mounts import mount_findings
from nimble_cradle.stock.rack import NOTHING, Rack

WANTED = 3
"""So many mounts hold an engine, if they are not in one line."""
SHEETS = (3.0, 4.0, 5.0, 6.0, 8.0, 10.0, 12.0, 15.0)
"""Sheet that is tried where the rack says nothing, mm (common practice, no source)."""
SPARE = 0.9
"""Proposed parts use at most this share of what they carry."""
CHEEKS = frozenset({"foot-cheeks", "foot-cheek-weld", "foot-cheek-end", "cheeks"})
PLATES = frozenset({"foot-overhang", "foot-plate-line", "foot-top"})


@dataclass(frozen=True)
class Proposal:
    """The job with what was proposed, and what was done, in sentences."""

    job: Job
    done: tuple[str, ...]


def proposed(job: Job, rack: Rack = NOTHING) -> Proposal:
    """Mounts up to three, a chassis side for each that has none, their metal sized. What is there already
    stays. Never raises: what could not be proposed is said."""
    done: list[str] = []
    while len(job.mounts) < WANTED:
        mount = first_mount(job, free_id("mount", {m.id for m in job.mounts}), rack)
        job = added(job, "mounts", mount)
        done.append(f"{mount.name}: added.")
    sheets = _sheets(rack)
    for mount in job.mounts:
        if mount.foot is not None:
            continue
        try:
            foot = first_foot(job, mount).model_copy(update={"weld_inside": True})
        except JobError as error:
            done.append(error.message)
            continue
        job = with_value(job, f"mounts/{mount.id}/foot", foot)
        job, words = _sized(job, mount.id, sheets)
        done.append(words)
    return Proposal(job, tuple(done))


def _sheets(rack: Rack) -> tuple[float, ...]:
    """Thicknesses at hand, thinnest first."""
    own = sorted({sheet.thickness_mm for sheet in rack.sheets})
    return tuple(own) or SHEETS


def _uses(job: Job, key: str, codes: frozenset[str]) -> float:
    """The hardest use of some findings of a mount; none where it is not judged."""
    rows = [f.use for f in mount_findings(job).findings if f.part == key and f.code in codes]
    return max(rows, default=0.0)


def _sized(job: Job, key: str, sheets: Sequence[float]) -> tuple[Job, str]:
    """The thinnest cheeks and foot that hold; the thickest where none does."""
    job = _thinnest(job, key, f"mounts/{key}/cross_bolt/cheek_mm", sheets, CHEEKS)
    mount = _mount(job, key)
    if isinstance(mount.foot, PlateFoot | SaddleFoot):
        job = _thinnest(job, key, f"mounts/{key}/foot/plate_mm", sheets, PLATES)
        mount = _mount(job, key)
    foot = mount.foot
    assert foot is not None and not isinstance(foot, FactoryFoot)
    host = next((item.name for item in job.items if item.id == foot.host), "the crossmember")
    plate = "" if not isinstance(foot, PlateFoot | SaddleFoot) else f" and a foot of {foot.plate_mm:g} mm"
    wall = _uses(job, key, frozenset({"foot-wall"}))
    tail = "" if wall <= 1 else f"; the wall of {host} does not hold it, {100 * wall:.0f} %"
    return job, f"{mount.name}: cheeks of {mount.cross_bolt.cheek_mm:g} mm{plate} on {host}{tail}."


def _thinnest(job: Job, key: str, path: str, sheets: Sequence[float], codes: frozenset[str]) -> Job:
    trial = job
    for thick in sheets:
        try:
            trial = with_value(job, path, thick)
        except JobError:
            continue
        if _uses(trial, key, codes) <= SPARE:
            return trial
    return trial


def _mount(job: Job, key: str) -> Mount:
    return next(m for m in job.mounts if m.id == key)
