"""A job of one's own to begin with: five questions, then the points worth marking in such a bay and the
things that they make. Nothing is measured yet; what is not pinned down is an open question."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from typing import Literal

from nimble_cradle.design.gearbox_kind import with_gearbox_kind
from nimble_cradle.job import store
from nimble_cradle.job.bay import Item
from nimble_cradle.job.edits import with_value
from nimble_cradle.job.from_points import BarFrom, PanelFrom, RailFrom, Recipe
from nimble_cradle.job.job import Job, Show
from nimble_cradle.job.new import new_job
from nimble_cradle.job.said import typed
from nimble_cradle.job.survey import SurveyPoint

Chassis = Literal["frame", "shell", "tubes"]
Engine = Literal["along", "across"]
Units = Literal["mm", "in", "in/16"]
CHASSIS: dict[Chassis, str] = {
    "frame": "a ladder frame under the body",
    "shell": "a body that is its own frame, with legs and a subframe",
    "tubes": "a frame of tubes",
}
ENGINES: dict[Engine, str] = {
    "along": "along the car, its gearbox behind it",
    "across": "across the car, with a transaxle",
}
DRIVEN: dict[Literal["rear", "front", "both"], str] = {
    "rear": "the rear axle",
    "front": "the front axle",
    "both": "both axles",
}
UNITS: dict[Units, str] = {"mm": "millimetres", "in": "inches, decimal", "in/16": "inches to 1/16"}
_SHOWN: dict[Units, Show] = {
    "mm": Show(length="mm"),
    "in": Show(length="in"),
    "in/16": Show(length="in", fraction=16),
}


@dataclass(frozen=True)
class Answers:
    """What a new job is asked. fixed: ids of ``THINGS`` that may not be touched."""

    chassis: Chassis = "frame"
    engine: Engine = "along"
    driven: Literal["rear", "front", "both"] = "rear"
    units: Units = "mm"
    fixed: tuple[str, ...] = ("rack",)


@dataclass(frozen=True)
class Thing:
    """Something in nearly every such bay, made from points to be marked. points: their ids and names, in the
    order that its kind wants; only: kinds of chassis that have it."""

    id: str
    name: str
    neighbour: str
    kind: Literal["rail", "bar", "panel"]
    points: tuple[tuple[str, str], ...]
    chassis: bool = False
    only: tuple[Chassis, ...] = ("frame", "shell", "tubes")

    def recipe(self) -> Recipe:
        """How its points make it; its sizes are guesses to type over."""
        keys = tuple(key for key, _ in self.points)
        if self.kind == "rail":
            return RailFrom(points=keys, width_mm=60, height_mm=100)
        if self.kind == "bar":
            return BarFrom(points=keys, diameter_mm=50)
        return PanelFrom(points=keys)


def _ends(key: str, name: str) -> tuple[tuple[str, str], ...]:
    return (f"{key}-left", f"{name}, left end"), (f"{key}-right", f"{name}, right end")


def _corners(key: str, name: str, high: str, low: str) -> tuple[tuple[str, str], ...]:
    """Four corners of a panel, in order round it."""
    return (
        (f"{key}-left-{high}", f"{name}, left, {high}"),
        (f"{key}-right-{high}", f"{name}, right, {high}"),
        (f"{key}-right-{low}", f"{name}, right, {low}"),
        (f"{key}-left-{low}", f"{name}, left, {low}"),
    )


def _rail(side: str, name: str) -> tuple[tuple[str, str], ...]:
    return (
        (f"rail-{side}-front", f"{name}, front end"),
        (f"rail-{side}-rear", f"{name}, below the firewall"),
    )


THINGS: tuple[Thing, ...] = (
    Thing("rail-left", "Left rail", "metal", "rail", _rail("left", "Left rail"), True, ("frame",)),
    Thing("rail-right", "Right rail", "metal", "rail", _rail("right", "Right rail"), True, ("frame",)),
    Thing("leg-left", "Left leg", "metal", "rail", _rail("left", "Left leg"), True, ("shell",)),
    Thing("leg-right", "Right leg", "metal", "rail", _rail("right", "Right leg"), True, ("shell",)),
    Thing("tube-left", "Left lower tube", "metal", "bar", _rail("left", "Left tube"), True, ("tubes",)),
    Thing("tube-right", "Right lower tube", "metal", "bar", _rail("right", "Right tube"), True, ("tubes",)),
    Thing("front-member", "Front crossmember", "metal", "rail", _ends("member", "Front crossmember"), True),
    Thing("rack", "Steering rack", "steering", "bar", _ends("rack", "Steering rack")),
    Thing("firewall", "Firewall", "sheet", "panel", _corners("firewall", "Firewall", "top", "bottom")),
    Thing("bonnet", "Bonnet, underside", "sheet", "panel", _corners("bonnet", "Bonnet", "front", "rear")),
    Thing("radiator", "Radiator", "sheet", "panel", _corners("radiator", "Radiator", "top", "bottom")),
)
"""What is measured first, in the order of the trade (common practice, no source): the rails that all is
referred to, what the sump meets, what steers, what the engine meets behind, above and in front."""


OFF_FIRST = ("bonnet", "radiator")
"""What comes off before an engine goes up and out, unless it may not (common practice, no source)."""


def things_of(chassis: Chassis) -> tuple[Thing, ...]:
    """The things of a kind of chassis, in the order of the trade."""
    return tuple(thing for thing in THINGS if chassis in thing.only)


def begun_job(name: str, answers: Answers) -> Job:
    """A job that begins with these answers; every figure in it is still to be said."""
    things = things_of(answers.chassis)
    points = [SurveyPoint(id=key, name=said) for thing in things for key, said in thing.points]
    items = [_item(thing, thing.id in answers.fixed) for thing in things]
    job = with_value(new_job(name), "show", _SHOWN[answers.units])
    job = with_value(job, "survey/points", tuple(points))
    job = with_value(job, "items", tuple(items))
    job = with_value(job, "way_out/off", tuple(key for key in OFF_FIRST if key not in answers.fixed))
    if answers.engine == "across":
        job = _across(job)
    return typed(job, with_value(job, "vehicle/driven", answers.driven), "vehicle/driven")


def _item(thing: Thing, fixed: bool) -> Item:
    return Item(
        id=thing.id,
        name=thing.name,
        neighbour=thing.neighbour,
        made=thing.recipe(),
        fate="keep" if fixed else "open",
        measured="guess",
        chassis=thing.chassis,
        note="Its sizes are guesses until they are typed over.",
    )


def _across(job: Job) -> Job:
    """The engine across the car, pulleys to the right, its gearbox a transaxle."""
    position = job.position.model_copy(update={"yaw_deg": -90.0, "pitch_deg": 0.0, "x": 0.0, "y": -150.0})
    return with_gearbox_kind(with_value(job, "position", position), "transaxle")


def write_new_job(path: Path, answers: Answers) -> Job:
    """Write a new job under a name that nothing has yet; gives it. Raises JobError."""
    job = begun_job(path.stem.replace("-", " "), answers)
    store.write(path, job, fresh=True)
    return job
