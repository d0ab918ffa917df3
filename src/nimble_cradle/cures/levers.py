"""What can be changed to cure a verdict: a step at a time along a ladder of sizes that can be had, or a
move of the engine."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import partial

from nimble_cradle.bay.position import nudged
from nimble_cradle.job.base import JobError
from nimble_cradle.job.cross_section import CrossSection
from nimble_cradle.job.edits import value_at, with_value
from nimble_cradle.job.foot import Cheeked
from nimble_cradle.job.job import Job
from nimble_cradle.job.mounts import Mount
from nimble_cradle.mounts.trade_off import hardness_path
from nimble_cradle.stock.cross_sections import every_section
from nimble_cradle.stock.sheets import THICKNESSES
from nimble_cradle.strength.cross_section import figures_of
from nimble_cradle.units import Kind, show

WALLS = (2.0, 2.5, 3.0, 4.0, 5.0, 6.3, 8.0)
"""Walls of tube that can be had, mm (EN 10219, EN 10305 rows of stock/tubes.py)."""
CLASSES = ("8.8", "10.9", "12.9")
MOST_STEPS = 6
"""Steps of a ladder that are tried: a cure that is farther away is another design."""


@dataclass(frozen=True, eq=False)
class Step:
    """A change and the job with it, in words: ``plate 8.0 mm instead of 6.0 mm``."""

    words: str
    job: Job


@dataclass(frozen=True, eq=False)
class Lever:
    """One figure of a part. path: within the part; steps: the values after the present one, the nearest
    first."""

    path: str
    words: str
    kind: Kind
    steps: Callable[[float], tuple[float, ...]]
    decimals: int | None = None


def _above(sizes: tuple[float, ...], now: float) -> tuple[float, ...]:
    return tuple(size for size in sizes if size > now + 1e-9)


def _times(factors: tuple[float, ...], now: float) -> tuple[float, ...]:
    return tuple(round(now * factor, 0) for factor in factors)


def _by(steps: tuple[float, ...], now: float) -> tuple[float, ...]:
    return tuple(round(now + step, 3) for step in steps)


HARDER = (2.0, 4.0, 6.0, 10.0, 15.0, 20.0)
"""Points of Shore A: rubbers are sold about five apart, and a maker's figure is good to two or three."""
MOUNT_LEVERS: tuple[Lever, ...] = (
    Lever("bush/hardness_shore_a", "rubber of Shore A", "number", partial(_by, HARDER), 0),
    Lever("bush/eye_bore_mm", "bore of the eye", "length", partial(_by, (2.0, 4.0, 6.0, 8.0, 12.0))),
    Lever("bush/length_mm", "length of the bush", "length", partial(_by, (5.0, 10.0, 15.0, 20.0, 30.0))),
    Lever("bush/eye_wall_mm", "wall of the eye", "length", partial(_above, WALLS)),
    Lever("pad/plate_mm", "plate", "length", partial(_above, THICKNESSES)),
    Lever("pad/edge_mm", "edge round its holes", "length", partial(_by, (1.0, 2.0, 4.0, 6.0, 9.0))),
    Lever("pad/tightening_nm", "its bolts tightened to", "torque", partial(_times, (1.1, 1.25, 1.4))),
    Lever("pad/tightening_nm", "its bolts tightened to", "torque", partial(_times, (0.9, 0.8, 0.7))),
    Lever("eye_weld_throat_mm", "throat of the eye's weld", "length", partial(_by, (0.5, 1.0, 1.5, 2.0))),
    Lever("arm/wall_mm", "wall of the arm", "length", partial(_above, WALLS)),
    Lever("arm/outside_mm", "arm, outside", "length", partial(_by, (3.0, 5.0, 8.0, 12.0, 16.0))),
    Lever("arm/thick_mm", "bars of the arm", "length", partial(_above, THICKNESSES)),
    Lever("arm/tall_mm", "height of the arm at its plate", "length", partial(_by, (5.0, 10.0, 15.0, 20.0))),
    Lever("cross_bolt/eye_gap_mm", "room beside the eye", "length", partial(_by, (1.0, 2.0, 4.0, 6.0))),
    Lever("arm/weld_throat_mm", "throat of the arm's weld", "length", partial(_by, (0.5, 1.0, 1.5, 2.0))),
    Lever("cross_bolt/cheek_mm", "each cheek", "length", partial(_above, THICKNESSES)),
    Lever("cross_bolt/tightening_nm", "cross-bolt tightened to", "torque", partial(_times, (1.1, 1.25, 1.4))),
    Lever("cross_bolt/tightening_nm", "cross-bolt tightened to", "torque", partial(_times, (0.9, 0.8, 0.7))),
)

TO_RAIL: tuple[Lever, ...] = (
    Lever("cross_bolt/cheek_mm", "each cheek", "length", partial(_above, THICKNESSES)),
    Lever("foot/cheek_foot_mm", "cheeks at their foot", "length", partial(_by, (5.0, 10.0, 20.0, 30.0))),
    Lever("foot/cheek_weld_mm", "throat of the cheeks' welds", "length", partial(_by, (0.5, 1.0, 1.5, 2.0))),
    Lever("foot/plate_mm", "foot plate", "length", partial(_above, THICKNESSES)),
    Lever("foot/along_mm", "foot along the bolt", "length", partial(_by, (5.0, 10.0, 20.0, 40.0))),
    Lever("foot/across_mm", "foot across", "length", partial(_by, (4.0, 8.0, 15.0, 30.0))),
    Lever("foot/patch_mm", "doubler under the foot", "length", partial(_above, THICKNESSES)),
    Lever("foot/legs_mm", "legs of the saddle", "length", partial(_by, (5.0, 10.0, 20.0))),
    Lever("foot/tightening_nm", "foot's bolts tightened to", "torque", partial(_times, (1.1, 1.25, 1.4))),
    Lever("foot/tightening_nm", "foot's bolts tightened to", "torque", partial(_times, (0.9, 0.8, 0.7))),
)
"""For what is between bush and rail."""


def _valued(job: Job, path: str, value: object, words: str) -> Step | None:
    """The step to a value, or None where a part cannot be so."""
    try:
        return Step(words, with_value(job, path, value))
    except JobError:
        return None


def lever_steps(job: Job, mount: Mount, lever: Lever) -> Iterator[Step]:
    """The steps of one lever of a mount, the nearest first."""
    path = f"mounts/{mount.id}/{lever.path}"
    try:
        now = value_at(job, path)
    except JobError:
        return
    if not isinstance(now, (int, float)):
        return
    display, places = job.show.display, lever.decimals
    before = show(now, lever.kind, display, places)
    for value in lever.steps(float(now))[:MOST_STEPS]:
        words = f"{lever.words} {show(value, lever.kind, display, places)} instead of {before}"
        step = _valued(job, path, value, words)
        if step is not None:
            yield step


def class_steps(job: Job, mount: Mount, which: str, words: str) -> Iterator[Step]:
    """Bolts of a higher class. which: ``pad``, ``cross_bolt`` or ``foot``."""
    path = f"mounts/{mount.id}/{which}/bolt_class"
    try:
        now = str(value_at(job, path))
    except JobError:  # a foot without bolts
        return
    later = CLASSES[CLASSES.index(now) + 1 :] if now in CLASSES else ()
    for value in later:
        step = _valued(job, path, value, f"{words} {value} instead of {now}")
        if step is not None:
            yield step


def both_sides(job: Job, mount: Mount) -> Iterator[Step]:
    """The cheeks welded on both sides, where they are not."""
    path = f"mounts/{mount.id}/foot/weld_inside"
    if isinstance(mount.foot, Cheeked) and not mount.foot.weld_inside:
        step = _valued(job, path, True, "cheeks welded on both sides")
        if step is not None:
            yield step


def hardness_steps(job: Job, harder: bool) -> Iterator[Step]:
    """All bushes harder, or softer, by the same points."""
    for points in HARDER[:MOST_STEPS]:
        change = points if harder else -points
        after = job
        for mount in job.mounts:
            path = hardness_path(job, mount.id)
            if path is None:
                continue
            step = _valued(after, path, round(float(value_at(after, path)) + change, 1), "")
            after = after if step is None else step.job
        if after is not job:
            yield Step(f"all bushes {points:g} points of Shore A {'harder' if harder else 'softer'}", after)


def section_steps(job: Job) -> Iterator[Step]:
    """The crossmember of the next heavier sections, the lightest first."""
    cross = job.crossmember
    if cross is None:
        return
    now = figures_of(cross.section).own.kg_per_m
    every = every_section().items()
    rows = sorted(((figures_of(s).own.kg_per_m, name, s) for name, s in every), key=lambda row: row[:2])
    heavier = [row for row in rows if row[0] > now and _fits(row[2], cross.section)]
    for weight, name, section in heavier[: 2 * MOST_STEPS]:
        step = _valued(job, "crossmember/section", section, f"{name}, {weight - now:.1f} kg a metre more")
        if step is not None:
            yield step


def _fits(section: CrossSection, now: CrossSection) -> bool:
    """Whether it is of the same shape: cheeks and end plates then stay as they are."""
    return section.shape == now.shape


def moved(job: Job, way: tuple[float, float, float], words: str, mm: float) -> Step | None:
    """The engine moved so far one way."""
    place = nudged(job, tuple(mm * c for c in way))
    said = f"engine {show(mm, 'length', job.show.display)} {words}"
    return _valued(job, "position", place, said)


def tilted(job: Job, degrees: float) -> Step | None:
    """The engine with its nose up, or down."""
    said = f"nose {'up' if degrees > 0 else 'down'} {abs(degrees):.2f} deg"
    return _valued(job, "position", nudged(job, pitch=degrees), said)
