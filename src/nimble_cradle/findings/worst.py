"""One check looked at in every load case: the case that uses most of the part is kept, with its working."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any, Literal, Protocol

import numpy as np

from nimble_cradle.calc import Calculation
from nimble_cradle.findings.finding import Finding
from nimble_cradle.geometry.pose import Array
from nimble_cradle.job.loads import Allowables
from nimble_cradle.units import Kind

CaseKind = Literal["rest", "everyday", "rare"]


@dataclass(frozen=True, eq=False)
class MountCase:
    """What a mount meets in one case: the force (3,) N of the bush on the engine side, vehicle frame, and
    the bush's own figures: force and movement across its axis, movement along it (N, mm). movement: (3,)
    of the engine side, vehicle frame. axial_signed: along the axis, plus the way it points."""

    name: str
    kind: CaseKind
    force: Array
    radial_force: float
    radial_mm: float
    axial_mm: float
    movement: Array = field(default_factory=lambda: np.zeros(3))
    axial_signed: float = 0.0
    id: str = ""


def factor_of(case: MountCase, allow: Allowables) -> float:
    """Factor kept in hand for a case."""
    return allow.rare_factor if case.kind == "rare" else allow.everyday_factor


@dataclass(frozen=True, eq=False)
class Cases:
    """All cases of a mount as arrays: forces (k, 3) with their factors in them, factors (k,), and the
    cases."""

    rows: tuple[MountCase, ...]
    factors: Array
    forces: Array

    @classmethod
    def of(cls, rows: Sequence[MountCase], allow: Allowables) -> Cases:
        """Cases with their factors."""
        factors = np.array([factor_of(case, allow) for case in rows])
        return cls(tuple(rows), factors, np.array([case.force for case in rows]) * factors[:, None])


class Named(Protocol):
    """What a finding is of: a mount, a strut."""

    @property
    def id(self) -> str:
        """Its id in the job."""

    @property
    def name(self) -> str:
        """Its name."""


@dataclass(frozen=True)
class Check:
    """What a check says of a part: code, what it is, in which kind of quantity, and what cures it."""

    code: str
    what: str
    kind: Kind
    cure: str


def worst(
    mount: Named,
    check: Check,
    cases: Cases,
    use: Array,
    load: Array,
    calculation: Calculation,
    inputs: Callable[[int], Mapping[str, Any]],
    origins: Mapping[str, str],
    factored: bool = True,
) -> Finding:
    """The case with the greatest use. use, load: (k,). inputs: those of the calculation in one case; its
    ``use`` is what is told, and a capacity is the load over it."""
    k = int(np.argmax(use))
    worked = calculation.work(origins, **inputs(k))
    told, carried = float(use[k]), float(load[k])
    capacity = carried / told if told > 1e-12 else 0.0
    case = cases.rows[k]
    factor = float(cases.factors[k]) if factored else 1.0
    return Finding(
        check.code,
        "mounts",
        mount.id,
        mount.name,
        check.what,
        carried,
        capacity,
        check.kind,
        told,
        case.name,
        factor,
        worked,
        check.cure,
    )


def alone(
    mount: Named,
    check: Check,
    load: float,
    calculation: Calculation,
    origins: Mapping[str, str],
    when: str,
    **inputs: Any,
) -> Finding:
    """A check that no load case changes (an edge distance, a tightening)."""
    worked = calculation.work(origins, **inputs)
    use = float(worked.value("use"))
    capacity = load / use if use > 1e-12 else 0.0
    return Finding(
        check.code,
        "mounts",
        mount.id,
        mount.name,
        check.what,
        load,
        capacity,
        check.kind,
        use,
        when,
        1.0,
        worked,
        check.cure,
    )
