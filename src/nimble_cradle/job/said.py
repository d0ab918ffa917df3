"""How the figures of this car, engine and job were come by: measured, assumed, or not said.

``job.said`` holds, by field path, what was said; a path that is not there is not said. Only figures of the
job count, not the program's own rules (factors, friction), which stay in the working. Shapes say how they
were measured themselves.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Literal

from nimble_cradle.job.edits import with_value
from nimble_cradle.job.job import Job
from nimble_cradle.job.remember import remembered

How = Literal["measured", "assumed"]


@dataclass(frozen=True)
class Fact:
    """A figure that findings rest on: its path, the stage where it is typed, and its name in a sentence."""

    path: str
    stage: str
    name: str


_VEHICLE = (
    ("wheelbase_mm", "wheelbase"),
    ("front_axle_kg", "front axle load"),
    ("rear_axle_kg", "rear axle load"),
    ("cog_height_mm", "height of the centre of gravity"),
    ("tyre_radius_mm", "tyre radius"),
    ("final_drive", "final drive ratio"),
    ("driven", "driven axle"),
    ("lowest_line_z_mm", "lowest chassis line"),
    ("ground_z_mm", "height of the ground"),
)
_ACROSS = (
    ("half_shafts/shaft_outside_mm", "thickness of the half-shafts"),
    ("half_shafts/joint_outside_mm", "thickness of their joints"),
    ("half_shafts/joint_long_mm", "length of their joints"),
)
_ALONG = (
    ("propshaft/tube_outside_mm", "thickness of the propshaft"),
    ("propshaft/joint_outside_mm", "thickness of its joints"),
)
_PAD = (
    ("pad/centre", "place of its pad"),
    ("pad/holes", "holes of its plate"),
    ("pad/plate_mm", "thickness of its plate"),
    ("pad/steel", "steel of its plate"),
    ("pad/bolt_class", "class of its bolts"),
    ("pad/tightening_nm", "tightening of its bolts"),
    ("pad/thread_in", "what its bolts are screwed into"),
    ("pad/thread_deep_mm", "depth of its bolts' threads"),
    ("cross_bolt/bolt_class", "class of its cross-bolt"),
)
_OTHER_BOLTS = (
    ("pad/other_holes", "holes of its other bolts"),
    ("pad/other_class", "class of its other bolts"),
    ("pad/other_tightening_nm", "tightening of its other bolts"),
)


@remembered("powertrain", "mounts", "crossmember", "items", "struts", "cradles", "openings")
def facts(job: Job) -> tuple[Fact, ...]:
    """Every figure of a job that what it says rests on, in the order of the trade."""
    out = [Fact(f"vehicle/{name}", "bay", words) for name, words in _VEHICLE]
    box, power = job.powertrain.gearbox, job.powertrain
    if box.kind == "transaxle":
        out += [Fact("vehicle/hubs", "bay", "outer joints of the half-shafts")]
    else:
        out += [
            Fact("vehicle/axle_input", "bay", "place of the axle's input"),
            Fact("vehicle/axle_input_direction", "bay", "slope of the axle's input"),
        ]
    out += [
        Fact("powertrain/engine/torque_nm", "powertrain", "engine torque"),
        Fact("powertrain/engine/cylinders", "powertrain", "number of cylinders"),
        Fact("powertrain/engine/idle_rpm", "powertrain", "idle speed"),
        Fact("powertrain/engine/redline_rpm", "powertrain", "redline"),
        Fact("powertrain/gearbox/ratios", "powertrain", "gear ratios"),
        (
            Fact("powertrain/gearbox/seats", "powertrain", "seats of the half-shafts")
            if box.kind == "transaxle"
            else Fact("powertrain/gearbox/output", "powertrain", "gearbox output")
        ),
    ]
    out += [Fact(path, "position", words) for path, words in (_ACROSS if box.kind == "transaxle" else _ALONG)]
    if power.weighed is not None:
        out.append(Fact("powertrain/weighed/mass_kg", "powertrain", "weighed mass"))
    else:
        out += [
            Fact(f"powertrain/pieces/{piece.id}/mass_kg", "powertrain", f"mass of {piece.name}")
            for piece in power.present
            if piece.mass_kg > 0
        ]
    for mount in job.mounts:
        base = f"mounts/{mount.id}"
        rows = [*_PAD, *((f"bush/{name}", words) for name, words in mount.bush.facts())]
        if mount.pad.other_holes:
            rows += _OTHER_BOLTS
        if mount.arm is not None:
            rows += [(f"arm/{name}", words) for name, words in mount.arm.facts()]
        if mount.foot is not None:
            rows += [(f"foot/{name}", words) for name, words in mount.foot.facts()]
        out += [Fact(f"{base}/{path}", "mounts", f"{mount.name}, {words}") for path, words in rows]
    out += [
        Fact(f"struts/{strut.id}/{name}", "mounts", f"{strut.name}, {words}")
        for strut in job.struts
        for name, words in (
            ("engine_at", "its eye on the engine"),
            ("chassis_at", "its eye on the chassis"),
            ("stiffness_along", "its stiffness"),
            *(
                (f"{where}/{name}", words)
                for where, held in (("bracket", strut.bracket), ("ears", strut.ears))
                for name, words in (held.facts() if held is not None else ())
            ),
        )
    ]
    out += [
        Fact(f"cradles/{cradle.id}/{name}", "mounts", f"{words} of {cradle.name}")
        for cradle in job.cradles
        for name, words in (("section", "section"), ("steel", "steel"))
    ]
    out += _hosts(job)
    if job.crossmember is not None:
        out += [
            Fact("crossmember/points", "crossmember", "line of the crossmember"),
            Fact("crossmember/section", "crossmember", "section of the crossmember"),
            Fact("crossmember/steel", "crossmember", "steel of the crossmember"),
        ]
    return tuple(out)


def _hosts(job: Job) -> list[Fact]:
    """The walls that mounts stand on, and of members that are cut."""
    stood_on = {mount.foot.host for mount in job.mounts if mount.foot is not None}
    stood_on |= {strut.bracket.host for strut in job.struts if strut.bracket is not None}
    cut = {opening.item for opening in job.openings} - stood_on
    return [
        Fact(f"items/{item.id}/host/{name}", "mounts", f"{words} of {item.name}")
        for item in job.items
        if item.id in stood_on
        for name, words in (("wall_mm", "wall"), ("yield_mpa", "yield strength"))
    ] + [
        Fact(f"items/{item.id}/host/wall_mm", "chassis", f"wall of {item.name}")
        for item in job.items
        if item.id in cut
    ]


def how(job: Job, fact: Fact) -> Literal["measured", "assumed", "not said"]:
    """What was said of a figure."""
    return job.said.get(fact.path, "not said")


@remembered("powertrain", "mounts", "crossmember", "said", "items", "struts", "cradles", "openings")
def not_said(job: Job) -> tuple[Fact, ...]:
    """The figures of which nobody has said anything: defaults in use, and what an older file held."""
    return tuple(fact for fact in facts(job) if fact.path not in job.said)


@remembered("powertrain", "mounts", "crossmember", "said", "items", "struts", "cradles", "openings")
def rests_on(job: Job) -> tuple[str, ...]:
    """Names of what was assumed: figures, and shapes that were guessed."""
    guessed = [
        f"{item.name}, guessed" for item in job.items if item.measured == "guess" and item.fate != "remove"
    ]
    guessed += [f"{piece.name}, guessed" for piece in job.powertrain.present if piece.measured == "guess"]
    return (*(fact.name for fact in facts(job) if job.said.get(fact.path) == "assumed"), *guessed)


def anything_said(job: Job, stage: str) -> bool:
    """Whether anything was said of a figure of a stage."""
    return any(fact.path in job.said for fact in facts(job) if fact.stage == stage)


def fact_at(job: Job, path: str) -> Fact | None:
    """The figure that a field's path belongs to (a component or a part of it counts); None for another
    field."""
    for fact in facts(job):
        if path == fact.path or path.startswith(f"{fact.path}/"):
            return fact
    return None


def with_said(job: Job, paths: Iterable[str], as_: How | None) -> Job:
    """The job with something said of figures; None takes back what was said. What is said of figures that
    are gone goes too. Raises JobError."""
    there = {fact.path for fact in facts(job)}
    wanted = set(paths) & there
    said = {path: value for path, value in job.said.items() if path in there and path not in wanted}
    if as_ is not None:
        said |= dict.fromkeys(sorted(wanted), as_)
    said = {path: said[path] for path in sorted(said)}
    return job if said == job.said else with_value(job, "said", said)


def typed(before: Job, after: Job, path: str) -> Job:
    """The job after a field was typed by hand: the figure is measured. Raises JobError."""
    fact = fact_at(after, path)
    return after if fact is None or after is before else with_said(after, [fact.path], "measured")
