"""Checks of a mount's bush, of the bolt through it, and of the cheeks that hold that."""

from __future__ import annotations

import numpy as np

from nimble_cradle.job.loads import Allowables
from nimble_cradle.job.mounts import Mount
from nimble_cradle.strength.bolts import PRELOAD_USE, bolt_capacity, preload
from nimble_cradle.strength.findings import Finding
from nimble_cradle.strength.pin import (
    AXIAL,
    CHEEK,
    CROSS_BOLT,
    PLAY,
    PRESSURE_USE,
    SLEEVE,
    SLEEVE_YIELD,
    STRAIN_USE,
    TRAVEL,
    cheek_bearing,
    cross_bolt,
)
from nimble_cradle.strength.threads import STEELS, thread
from nimble_cradle.strength.worst import Cases, Check, alone, worst


def sleeve_length(mount: Mount) -> float:
    """The sleeve reaches past the eye by the eye's room on both sides, mm."""
    return mount.bush.length_mm + 2 * mount.cross_bolt.eye_gap_mm


def bush_checks(mount: Mount, cases: Cases, allow: Allowables) -> list[Finding]:
    """Cross-bolt, its clamp and play, cheeks, and the rubber."""
    bush, cross = mount.bush, mount.cross_bolt
    size, cheek = thread(cross.bolt), STEELS[cross.cheek_steel]
    load = np.linalg.norm(cases.forces, axis=1)
    clamp = (
        0.0 if cross.tightening_nm is None else preload(cross.tightening_nm, size.diameter, allow.nut_factor)
    )
    long = sleeve_length(mount)
    bent = np.array(
        [
            cross_bolt(float(x), cross.bolt, cross.bolt_class, cross.cheek_mm, cross.gap_mm, long, clamp)[0]
            for x in load
        ]
    )
    bearing = cheek_bearing(1.0, size.diameter, cross.cheek_mm, cheek.yield_mpa)[1]
    found = [
        worst(
            mount,
            Check(
                "cross-bolt",
                "cross-bolt in double shear",
                "force",
                "a larger bolt, less gap at the cheeks" + ("" if clamp else ", or say how it is tightened"),
            ),
            cases,
            bent,
            load,
            CROSS_BOLT,
            lambda k: {
                "load": float(load[k]),
                "size": cross.bolt,
                "grade": cross.bolt_class,
                "cheek": cross.cheek_mm,
                "gap": cross.gap_mm,
                "sleeve": long,
                "clamp": clamp,
            },
            {"load": "bush", "clamp": "from its tightening" if clamp else "its tightening is not said"},
        ),
        worst(
            mount,
            Check("cheeks", "cheeks under the cross-bolt", "force", "thicker cheeks"),
            cases,
            load / bearing,
            load,
            CHEEK,
            lambda k: {
                "load": float(load[k]),
                "diameter": size.diameter,
                "cheek": cross.cheek_mm,
                "yield_mpa": cheek.yield_mpa,
            },
            {"load": "bush"},
        ),
        alone(
            mount,
            Check(
                "play", "play of the cross-bolt", "length", "a thicker bolt, or a sleeve with a smaller bore"
            ),
            bush.sleeve_bore_mm - size.diameter,
            PLAY,
            {"bore": "bush"},
            "as drawn",
            bore=bush.sleeve_bore_mm,
            diameter=size.diameter,
        ),
    ]
    if cross.tightening_nm is not None:
        proof = bolt_capacity(cross.bolt, cross.bolt_class)[2]
        found += [
            alone(
                mount,
                Check(
                    "cross-tightening",
                    "tightening of the cross-bolt",
                    "force",
                    "less torque, or a higher class",
                ),
                clamp,
                PRELOAD_USE,
                {"torque_nm": "mount", "nut_factor": "job"},
                "when tightened",
                torque_nm=cross.tightening_nm,
                diameter=size.diameter,
                nut_factor=allow.nut_factor,
                proof=proof,
            ),
            alone(
                mount,
                Check(
                    "sleeve", "ends of the sleeve", "force", "a sleeve with a thicker wall, or less torque"
                ),
                clamp,
                SLEEVE,
                {"clamp": "from its tightening"},
                "when tightened",
                clamp=clamp,
                outside=bush.sleeve_mm,
                bore=bush.sleeve_bore_mm,
                yield_mpa=SLEEVE_YIELD,
            ),
        ]
    return found + _rubber(mount, cases, allow)


def _rubber(mount: Mount, cases: Cases, allow: Allowables) -> list[Finding]:
    """Pressure, movement across and along, and the way to the cheek; loads as they are, the limits are the
    rubber's own."""
    bush, cross = mount.bush, mount.cross_bolt
    wall = (bush.eye_bore_mm - bush.sleeve_mm) / 2
    force = np.array([c.radial_force for c in cases.rows])
    across = np.array([c.radial_mm for c in cases.rows])
    along = np.abs([c.axial_mm for c in cases.rows])
    shares = {"rest": allow.bush_strain_rest, "everyday": allow.bush_strain, "rare": allow.bush_strain_rare}
    most = np.array([shares[c.kind] for c in cases.rows])
    found = [
        worst(
            mount,
            Check("pressure", "pressure on the rubber", "stress", "a longer bush or a larger sleeve"),
            cases,
            force / (bush.sleeve_mm * bush.length_mm) / allow.bush_pressure_mpa,
            force / (bush.sleeve_mm * bush.length_mm),
            PRESSURE_USE,
            lambda k: {
                "load": float(force[k]),
                "sleeve": bush.sleeve_mm,
                "length": bush.length_mm,
                "most": allow.bush_pressure_mpa,
            },
            {"load": "bush", "most": "job"},
            factored=False,
        ),
        worst(
            mount,
            Check("strain", "rubber used up sideways", "length", "a harder bush or a thicker wall"),
            cases,
            across / wall / most,
            across,
            STRAIN_USE,
            lambda k: {
                "movement": float(across[k]),
                "sleeve": bush.sleeve_mm,
                "eye_bore": bush.eye_bore_mm,
                "most": float(most[k]),
            },
            {"movement": "bush", "most": "job"},
            factored=False,
        ),
        worst(
            mount,
            Check(
                "axial",
                "rubber pushed endways",
                "length",
                "the bush turned across what pushes it, or a harder one",
            ),
            cases,
            along / wall / most,
            along,
            AXIAL,
            lambda k: {
                "movement": float(along[k]),
                "sleeve": bush.sleeve_mm,
                "eye_bore": bush.eye_bore_mm,
                "most": float(most[k]),
            },
            {"movement": "bush", "most": "job"},
            factored=False,
        ),
    ]
    room = max(cross.eye_gap_mm, 1e-3)
    found.append(
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
    )
    return found
