"""The car's own bracket, judged by what it carried before."""

from __future__ import annotations

import numpy as np

from nimble_cradle.calc import Q, calculation
from nimble_cradle.families.family import LoadPath
from nimble_cradle.families.foot_seat import FootSeat
from nimble_cradle.families.part import MadePart
from nimble_cradle.findings.finding import Finding, Problem
from nimble_cradle.findings.worst import Cases, Check, alone
from nimble_cradle.geometry.pose import Array
from nimble_cradle.job.foot import FactoryFoot
from nimble_cradle.job.loads import Allowables
from nimble_cradle.job.mounts import Mount
from nimble_cradle.units import G_STANDARD


def carried_use(at_rest: float, carried_kg: float) -> tuple[float, float]:
    """Use of a bracket that carries ``at_rest`` N at rest, and what it carried before, N."""
    before = carried_kg * G_STANDARD
    return at_rest / before, before


CARRIED = calculation(
    "bracket-carried",
    "The car's own bracket against what it carried before",
    inputs=(
        Q("at_rest", "N", "on it at rest", low=0),
        Q("carried_kg", "kg", "what it carried at rest before", above=0),
    ),
    outputs=(Q("use", "", "share used"), Q("before", "N", "what it carried before")),
    formula="load at rest / load at rest before",
    source="common practice, no source: a maker's bracket bears what it was made for",
    leaves_out="another engine's torque, rust and cracks, and a place beside the old one",
)(carried_use)


def _foot(mount: Mount) -> FactoryFoot:
    assert isinstance(mount.foot, FactoryFoot)
    return mount.foot


def cheeks(mount: Mount, seat: FootSeat) -> None:
    """They are the car's own."""


def load_path(mount: Mount, seat: FootSeat) -> LoadPath:
    """Its parts on the way to the rail."""
    return (("the car's own bracket", ("foot-before",)),)


def questions(mount: Mount, seat: FootSeat) -> list[Problem]:
    """What is open about it."""
    if _foot(mount).carried_kg is not None:
        return []
    return [
        Problem(
            "mounts",
            f"mounts/{mount.id}/foot/carried_kg",
            f"{mount.name}: say what the car's own bracket carried before.",
        )
    ]


def parts(mount: Mount, seat: FootSeat) -> tuple[MadePart, ...]:
    """Nothing is made."""
    return ()


def checks(mount: Mount, seat: FootSeat, cases: Cases, allow: Allowables) -> list[Finding]:
    """What it carries at rest against what it carried; nothing where that is not said."""
    foot = _foot(mount)
    if foot.carried_kg is None:
        return []
    rest = max((float(np.linalg.norm(row.force)) for row in cases.rows if row.kind == "rest"), default=0.0)
    return [
        alone(
            mount,
            Check("foot-before", "the car's own bracket", "force", "a bracket of your own"),
            rest,
            CARRIED,
            {"at_rest": "equilibrium", "carried_kg": "mount"},
            "at rest on its bushes",
            at_rest=rest,
            carried_kg=foot.carried_kg,
        )
    ]


def give(mount: Mount, seat: FootSeat) -> Array:
    """Nothing is known of how it gives: it is taken for stiff."""
    return np.zeros((3, 3))
