"""Cracks and rust: what comes next for each, what plate it wants, whether a mount stands near."""

from __future__ import annotations

import math
from dataclasses import dataclass
from datetime import date, timedelta

import numpy as np

from nimble_cradle.families.part import Owner
from nimble_cradle.findings.finding import Problem
from nimble_cradle.geometry.bodies import Bodies
from nimble_cradle.geometry.distance import nearest
from nimble_cradle.geometry.pose import Pose, unit
from nimble_cradle.geometry.solid_makers import bar
from nimble_cradle.job.bay import Item
from nimble_cradle.job.crack import Crack
from nimble_cradle.job.job import Job
from nimble_cradle.job.remember import remembered
from nimble_cradle.made.parts import made
from nimble_cradle.survey.made import placed_items

BEYOND, WIDE, PAST, TAPER = 6.0, 50.0, 20.0, 30.0
"""A stop hole stands so far beyond a tip; a plate is so wide, goes so far past the stop holes, and its ends
are tapered by so many degrees (common practice, no source)."""
HOLE_IN_WALLS = 2.0
"""Nearer to a hole than so many walls the part is replaced, not plated (common practice, no source)."""
THIN = 0.75
"""Rusted to less than this share of its wall a place is cut out (common practice, no source)."""
NEAR_MOUNT = 100.0
"""A mount so near to a crack, mm, may be what made it (common practice, no source)."""
LOOKS = {"plated": 50.0, "seen once": 500.0}
"""Looked at again so many km after it was welded (common practice, no source)."""
LOOK_DAYS = {"plated": 14, "seen once": 182}
"""... or so many days after, whichever is first: a car that stands rusts too (our choice, no source)."""


@dataclass(frozen=True)
class CrackPlate:
    """The plate over a crack: long along it from point to point, wide, thick, mm."""

    long: float
    wide: float
    thick: float

    @property
    def outline(self) -> tuple[tuple[float, float], ...]:
        """(right, up), up along the crack, its middle at 0, 0: both ends tapered to a point."""
        half, end = self.wide / 2, self.long / 2
        body = end - half / math.tan(math.radians(TAPER))
        return (half, -body), (half, body), (0.0, end), (-half, body), (-half, -body), (0.0, -end)


def crack_plate(crack: Crack, wall: float) -> CrackPlate:
    """One wall thick; over crack, stop holes and as much again, and its tapered ends beyond."""
    body = crack.long_mm + 2 * (BEYOND + PAST)
    return CrackPlate(body + WIDE / math.tan(math.radians(TAPER)), WIDE, wall)


def item_of(job: Job, crack: Crack) -> Item | None:
    """What it is in."""
    return next((item for item in placed_items(job) if item.id == crack.item), None)


def again_on(crack: Crack) -> date | None:
    """The day on which it is to be looked at again; None where nothing is, or the day of welding not said."""
    if crack.kind == "rust" or crack.done not in LOOK_DAYS or not crack.welded_on:
        return None
    return date.fromisoformat(crack.welded_on) + timedelta(days=LOOK_DAYS[crack.done])


def next_step(crack: Crack, wall: float | None) -> str:
    """What comes next, in words; empty where nothing does."""
    if crack.kind == "rust":
        if crack.done == "sound":
            return ""
        return "grind to bright metal, measure the wall that is left" if crack.left_mm is None else ""
    if crack.done == "dressed":
        if wall is None:
            return "plate it, as thick as its wall; that is not measured"
        plate = crack_plate(crack, wall)
        size = f"{plate.thick:g} mm, {plate.long:.0f} x {plate.wide:.0f} mm, ends tapered {TAPER:g} deg"
        return f"plate it: {size}, no weld across the edge of a flange"
    if crack.done in LOOKS:
        far = LOOKS[crack.done]
        when = f"after {far:g} km" if crack.welded_km is None else f"at {crack.welded_km + far:.0f} km"
        day = again_on(crack)
        when += f" or on {day}, whichever is first" if day else ""
        return f"look at it again {when}, clean, with a lamp"
    return {
        "found": f"drill a stop hole {BEYOND:g} mm beyond each tip",
        "stopped": "grind it out to a vee of 60 deg",
        "vee": "weld it, in short runs",
        "welded": "dress the weld flush",
    }.get(crack.done, "")


@remembered(
    "cracks",
    "items",
    "survey",
    "mounts",
    "meshes",
    "crossmember",
    "cradles",
    "openings",
    "position",
    "struts",
    "panels",
)
def crack_questions(job: Job) -> tuple[Problem, ...]:
    """What is open about every crack, in sentences."""
    out: list[Problem] = []
    for crack in job.cracks:
        item = item_of(job, crack)
        if item is None:
            out.append(_ask(crack, "item", "what it is in is not in the bay"))
            continue
        step = next_step(crack, item.host.wall_mm)
        if step:
            out.append(_ask(crack, "done", step))
        out += _of_metal(crack, item)
        for name, away in mounts_near(job, crack) if crack.done != "sound" else ():
            where = "right on it" if away < 0.5 else f"{away:.0f} mm from it"
            said = f"{name} stands {where}; it may be what made it"
            out.append(_ask(crack, "at", f"{said}, and is not to hang on it as it is"))
    return tuple(out)


def _ask(crack: Crack, field: str, sentence: str) -> Problem:
    return Problem("chassis", f"cracks/{crack.id}/{field}", f"{crack.name}: {sentence}.")


def _of_metal(crack: Crack, item: Item) -> list[Problem]:
    """What its wall, the holes and edges near it and its metal ask."""
    wall, out = item.host.wall_mm, []
    if crack.kind == "rust":
        if crack.left_mm is None or crack.done == "sound":
            return []
        left = f"{crack.left_mm:g} mm is left"
        if wall is None:
            return [_ask(crack, "left_mm", f"{left}; how thick {item.name} was is not said")]
        if crack.left_mm < THIN * wall:
            said = f"{left} of {wall:g}: cut it out and let in a patch of {wall:g} mm"
            return [_ask(crack, "left_mm", said)]
        return []
    if crack.done in ("seen once", "sound"):
        return []
    if crack.hole_mm is not None and wall is not None and crack.hole_mm < HOLE_IN_WALLS * wall:
        said = f"{crack.hole_mm:g} mm from a hole, under {HOLE_IN_WALLS:g} walls: replace the part"
        out.append(_ask(crack, "hole_mm", f"{said}; a plate does not mend it"))
    if crack.edge == "yes":
        said = "it runs to the edge of a flange, where no stop hole ends it; ask a qualified welder"
        out.append(_ask(crack, "edge", said))
    if item.material in ("aluminium", "magnesium"):
        said = f"{item.name} is {item.material}: that is welded by who does it every day, or replaced"
        out.append(_ask(crack, "done", said))
    return out


def mounts_near(job: Job, crack: Crack) -> list[tuple[str, float]]:
    """Mounts that stand on the same thing with their chassis side within NEAR_MOUNT mm of a crack, and how
    far that is."""
    run = unit(crack.run) * crack.long_mm / 2
    middle = np.asarray(crack.at, dtype=float)
    there = Bodies([[bar(middle - run, middle + run, 0.2)]])
    out = []
    for mount in job.mounts:
        if mount.foot is None or mount.foot.host != crack.item:
            continue
        parts = [p for p in made(job).of(Owner("mount", mount.id)) if p.solids and not p.moves]
        bodies = Bodies([part.solids for part in parts])
        found = nearest(bodies, Pose.still(), there, np.full((bodies.count, 1), NEAR_MOUNT))
        if found:
            out.append((mount.name, max(0.0, min(n.distance for n in found))))
    return out
