"""How hard what is between sleeve and eye is used, whatever it is made of."""

from __future__ import annotations

import numpy as np

from nimble_cradle.calc import Calculation
from nimble_cradle.findings.finding import Finding
from nimble_cradle.findings.worst import Cases, Check, worst
from nimble_cradle.geometry.pose import Array
from nimble_cradle.job.loads import Allowables
from nimble_cradle.job.mounts import Mount
from nimble_cradle.strength.rubber import PRESSURE_USE


def shares(cases: Cases, allow: Allowables) -> Array:
    """(k,) share of its wall that rubber may move in each case."""
    most = {"rest": allow.bush_strain_rest, "everyday": allow.bush_strain, "rare": allow.bush_strain_rare}
    return np.array([most[case.kind] for case in cases.rows])


def pressure(mount: Mount, cases: Cases, most_mpa: float, sleeve: float, length: float) -> Finding:
    """Force across the bush on the sleeve's shadow."""
    force = np.array([case.radial_force for case in cases.rows])
    mean = force / (sleeve * length)
    return worst(
        mount,
        Check("pressure", "pressure on the rubber", "stress", "a longer bush or a larger sleeve"),
        cases,
        mean / most_mpa,
        mean,
        PRESSURE_USE,
        lambda k: {"load": float(force[k]), "sleeve": sleeve, "length": length, "most": most_mpa},
        {"load": "bush", "most": "job"},
        factored=False,
    )


def movement(
    mount: Mount,
    check: Check,
    law: Calculation,
    cases: Cases,
    moved: Array,
    most: Array,
    sleeve: float,
    eye_bore: float,
) -> Finding:
    """Movement (k,) mm against shares (k,) of the rubber's wall."""
    return worst(
        mount,
        check,
        cases,
        moved / ((eye_bore - sleeve) / 2) / most,
        moved,
        law,
        lambda k: {
            "movement": float(moved[k]),
            "sleeve": sleeve,
            "eye_bore": eye_bore,
            "most": float(most[k]),
        },
        {"movement": "bush", "most": "job"},
        factored=False,
    )
