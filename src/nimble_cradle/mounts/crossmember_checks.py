"""Checks of the gearbox crossmember: its stress and its sag in the worst of all load cases."""

from __future__ import annotations

from collections.abc import Sequence

from nimble_cradle.findings.finding import Finding
from nimble_cradle.findings.worst import MountCase, factor_of
from nimble_cradle.job.base import Vec3
from nimble_cradle.job.loads import Allowables
from nimble_cradle.job.mounts import Crossmember
from nimble_cradle.stock.steels import STEELS
from nimble_cradle.strength.beam import CROSSMEMBER_SAG, CROSSMEMBER_STRESS, crossmember_under


def crossmember_checks(
    cross: Crossmember, at: Vec3, cases: Sequence[MountCase], allow: Allowables
) -> tuple[Finding, ...]:
    """Its findings under all cases of the mount that it carries, whose bush is at ``at`` (vehicle frame, mm);
    its sag in the cases that are not rare, if there are such.
    Raises JobError where its frame cannot be solved."""
    under = [(case, *_stress_and_sag(cross, at, case)) for case in cases]
    case, stress, _ = max(under, key=lambda row: row[1] * factor_of(row[0], allow))
    often = [row for row in under if row[0].kind != "rare"]
    if not often:
        return (_stress(cross, case, stress, allow),)
    sagging, _, sag = max(often, key=lambda row: row[2])
    return _stress(cross, case, stress, allow), _sag(cross, sagging, sag)


def _stress_and_sag(cross: Crossmember, at: Vec3, case: MountCase) -> tuple[float, float]:
    """Greatest equivalent stress MPa, and movement up or down at the mount mm, without the factor."""
    stress, _, moved = crossmember_under(cross, at, -case.force)
    return stress, abs(float(moved[2]))


def _stress(cross: Crossmember, case: MountCase, stress: float, allow: Allowables) -> Finding:
    yield_mpa, factor = STEELS[cross.steel].yield_mpa, factor_of(case, allow)
    worked = CROSSMEMBER_STRESS.work(
        {"stress": "space frame, governing case"}, stress=stress, yield_mpa=yield_mpa, factor=factor
    )
    return Finding(
        code="crossmember-stress",
        stage="crossmember",
        part="crossmember",
        part_name="Gearbox crossmember",
        what="tube of the crossmember",
        load=stress * factor,
        capacity=yield_mpa,
        kind="stress",
        use=worked.value("use"),
        case=case.name,
        factor=factor,
        worked=worked,
        cure="a taller section or a thicker wall",
    )


def _sag(cross: Crossmember, case: MountCase, sag: float) -> Finding:
    worked = CROSSMEMBER_SAG.work(
        {"sag": "space frame, governing case", "most": "job"}, sag=sag, most=cross.most_sag_mm
    )
    return Finding(
        code="crossmember-sag",
        stage="crossmember",
        part="crossmember",
        part_name="Gearbox crossmember",
        what="sag at the gearbox mount",
        load=sag,
        capacity=cross.most_sag_mm,
        kind="length",
        use=worked.value("use"),
        case=case.name,
        factor=1.0,
        worked=worked,
        cure="a taller section",
    )
