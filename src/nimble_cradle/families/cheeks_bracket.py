"""Two cheeks that hold a bush on the chassis, and the bolt through them: their parts and checks."""

from __future__ import annotations

from typing import Any

import numpy as np

from nimble_cradle.families.family import bush_family, eye_of
from nimble_cradle.families.part import Joint, MadePart, Owner, Stock
from nimble_cradle.findings.finding import Finding
from nimble_cradle.findings.worst import Cases, Check, alone, worst
from nimble_cradle.geometry.pose import Array, frame, unit
from nimble_cradle.geometry.solid_makers import box
from nimble_cradle.geometry.solids import SolidPart
from nimble_cradle.job.loads import Allowables
from nimble_cradle.job.mounts import Mount
from nimble_cradle.stock.form import Form
from nimble_cradle.stock.steels import STEELS
from nimble_cradle.stock.threads import thread
from nimble_cradle.strength.bolts import PRELOAD_USE, bolt_capacity, preload
from nimble_cradle.strength.pin import (
    CHEEK,
    CROSS_BOLT,
    PLAY,
    SLEEVE,
    SLEEVE_YIELD,
    TRAVEL,
    cheek_bearing,
    cross_bolt,
)

LOAD_PATH = (("cross-bolt", ("cross-bolt", "play")), ("cheeks", ("cheeks",)))
AROUND, BELOW = 12.0, 35.0
"""A cheek is so much wider than its eye, and so much longer than the eye's radius, mm: open upwards, down
to where it is welded (common practice, no source)."""


def sleeve_length(mount: Mount) -> float:
    """The sleeve reaches from cheek to cheek, mm."""
    return bush_family(mount.bush).between_cheeks_mm(mount)


def checks(mount: Mount, cases: Cases, allow: Allowables) -> list[Finding]:
    """Cross-bolt, its clamp and play, and the cheeks."""
    load = np.linalg.norm(cases.forces, axis=1)
    clamp = _clamp(mount, allow)
    found = [_bolt(mount, cases, load, clamp), _cheeks(mount, cases, load), _play(mount)]
    if mount.cross_bolt.tightening_nm is not None:
        found += [_tightening(mount, mount.cross_bolt.tightening_nm, allow), _sleeve(mount, clamp)]
    return found


def _clamp(mount: Mount, allow: Allowables) -> float:
    """What the cross-bolt clamps the sleeve with, N; nought while its tightening is not said."""
    cross = mount.cross_bolt
    if cross.tightening_nm is None:
        return 0.0
    return preload(cross.tightening_nm, thread(cross.bolt).diameter, allow.nut_factor)


def _bolt(mount: Mount, cases: Cases, load: Array, clamp: float) -> Finding:
    """The bolt in double shear and bending. load: (k,) N."""
    cross = mount.cross_bolt
    given: dict[str, Any] = {
        "size": cross.bolt,
        "grade": cross.bolt_class,
        "cheek": cross.cheek_mm,
        "gap": cross.gap_mm,
        "sleeve": sleeve_length(mount),
        "clamp": clamp,
    }
    more = "" if clamp else ", or say how it is tightened"
    return worst(
        mount,
        Check(
            "cross-bolt",
            "cross-bolt in double shear",
            "force",
            f"a larger bolt, less gap at the cheeks{more}",
        ),
        cases,
        np.array([cross_bolt(float(x), **given)[0] for x in load]),
        load,
        CROSS_BOLT,
        lambda k: {"load": float(load[k]), **given},
        {"load": "bush", "clamp": "from its tightening" if clamp else "its tightening is not said"},
    )


def _cheeks(mount: Mount, cases: Cases, load: Array) -> Finding:
    """The cheeks' holes under the bolt. load: (k,) N."""
    cross = mount.cross_bolt
    given = {
        "diameter": thread(cross.bolt).diameter,
        "cheek": cross.cheek_mm,
        "yield_mpa": STEELS[cross.cheek_steel].yield_mpa,
    }
    return worst(
        mount,
        Check("cheeks", "cheeks under the cross-bolt", "force", "thicker cheeks"),
        cases,
        load / cheek_bearing(1.0, **given)[1],
        load,
        CHEEK,
        lambda k: {"load": float(load[k]), **given},
        {"load": "bush"},
    )


def _play(mount: Mount) -> Finding:
    """Air between bolt and sleeve."""
    bore, diameter = bush_family(mount.bush).bolt_hole_mm(mount.bush), thread(mount.cross_bolt.bolt).diameter
    return alone(
        mount,
        Check("play", "play of the cross-bolt", "length", "a thicker bolt, or a sleeve with a smaller bore"),
        bore - diameter,
        PLAY,
        {"bore": "bush"},
        "as drawn",
        bore=bore,
        diameter=diameter,
    )


def _tightening(mount: Mount, torque_nm: float, allow: Allowables) -> Finding:
    """The clamp against the bolt's proof load."""
    cross = mount.cross_bolt
    return alone(
        mount,
        Check("cross-tightening", "tightening of the cross-bolt", "force", "less torque, or a higher class"),
        _clamp(mount, allow),
        PRELOAD_USE,
        {"torque_nm": "mount", "nut_factor": "job"},
        "when tightened",
        torque_nm=torque_nm,
        diameter=thread(cross.bolt).diameter,
        nut_factor=allow.nut_factor,
        proof=bolt_capacity(cross.bolt, cross.bolt_class)[2],
    )


def _sleeve(mount: Mount, clamp: float) -> Finding:
    """The sleeve's ends under the clamp."""
    family, bush = bush_family(mount.bush), mount.bush
    return alone(
        mount,
        Check("sleeve", "ends of the sleeve", "force", "a sleeve with a thicker wall, or less torque"),
        clamp,
        SLEEVE,
        {"clamp": "from its tightening"},
        "when tightened",
        clamp=clamp,
        outside=family.sleeve_outside_mm(bush),
        bore=family.bolt_hole_mm(bush),
        yield_mpa=SLEEVE_YIELD,
    )


def travel_checks(mount: Mount, cases: Cases) -> list[Finding]:
    """The way of the eye to a cheek, along the bolt."""
    along = np.abs([case.axial_mm for case in cases.rows])
    room = max(bush_family(mount.bush).side_room_mm(mount), 1e-3)
    return [
        worst(
            mount,
            Check(
                "side-travel",
                "eye on its way to the cheek",
                "length",
                "cheeks farther apart, or a bush that is harder along",
            ),
            cases,
            along / room,
            along,
            TRAVEL,
            lambda k: {"movement": float(along[k]), "room": room},
            {"movement": "bush", "room": "mount"},
            factored=False,
        )
    ]


def parts(mount: Mount) -> tuple[MadePart, ...]:
    """The cross-bolt, and two cheeks that stand in for the bracket until that is described: what of them is
    certain is their thickness and how far off the eye they are."""
    cross, owner = mount.cross_bolt, Owner("mount", mount.id)
    long = sleeve_length(mount)
    stock = Stock(
        cross.bolt,
        cross.bolt_class,
        f"plain shank at least {long + 2 * cross.cheek_mm:g}",
        0.0,
        "self-locking nut",
        Form("bolt", name=cross.bolt),
    )
    return (
        MadePart(
            owner,
            "cross-bolt",
            f"{mount.name}: cross-bolt",
            stock=stock,
            joints=(Joint("turns in", "sleeve"),),
        ),
        MadePart(
            owner,
            "cheeks",
            f"{mount.name}, fixed half",
            cheek_solids(mount),
            joints=(Joint("welded to", "chassis"),),
            stands_in=True,
        ),
    )


def cheek_solids(mount: Mount) -> tuple[SolidPart, ...]:
    """Two plates beside the eye, vehicle frame."""
    bush, cross, round_it = mount.bush, mount.cross_bolt, eye_of(mount.bush)
    axis = unit(bush.axis)
    across = frame(axis, (0.0, 0.0, 1.0))
    radius = round_it.outside_mm / 2
    down = across @ np.array([0.0, -(radius + 15.0) / 2, 0.0])
    off = (sleeve_length(mount) / 2 + cross.cheek_mm / 2) * axis
    size = (2 * radius + AROUND, radius + BELOW, cross.cheek_mm)
    centre = np.asarray(bush.centre, dtype=float) + down
    return tuple(box(centre + side * off, size, across) for side in (1, -1))
