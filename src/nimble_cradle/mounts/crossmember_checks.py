"""Checks of the gearbox crossmember: its stress and its sag in the worst of all load cases."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from nimble_cradle.findings.finding import Finding
from nimble_cradle.findings.worst import MountCase, factor_of
from nimble_cradle.geometry.polyline import axis_length, nearest_on
from nimble_cradle.job.base import Vec3
from nimble_cradle.job.hollow_section import HollowSection
from nimble_cradle.job.loads import Allowables
from nimble_cradle.job.mounts import Crossmember
from nimble_cradle.stock.steels import STEELS
from nimble_cradle.strength.beam import (
    CROSSMEMBER_SAG,
    CROSSMEMBER_STRESS,
    CROSSMEMBER_TONE,
    axis_of,
    crossmember_under,
    stiffness_at,
)
from nimble_cradle.strength.cross_section import CROSSMEMBER_TIPS, figures_of
from nimble_cradle.units import G_STANDARD


def crossmember_checks(
    cross: Crossmember, at: Vec3, cases: Sequence[MountCase], allow: Allowables
) -> tuple[Finding, ...]:
    """Its findings under all cases of the mount that it carries, whose bush is at ``at`` (vehicle frame, mm);
    its sag in the cases that are not rare, if there are such.
    Raises JobError where its frame cannot be solved."""
    forces = -np.array([case.force for case in cases])
    stresses, moved, bent = crossmember_under(cross, at, forces)
    under = list(zip(cases, stresses.tolist(), np.abs(moved[:, 2]).tolist(), strict=True))
    case, stress, _ = max(under, key=lambda row: row[1] * factor_of(row[0], allow))
    strong = _stress(cross, case, stress, allow), *_tips(cross, at, cases, bent.tolist(), allow)
    often = [row for row in under if row[0].kind != "rare"]
    if not often:
        return strong
    sagging, _, sag = max(often, key=lambda row: row[2])
    rest = [case for case in cases if case.kind == "rest"]
    tone = (_tone(cross, at, rest[0]),) if rest else ()
    return *strong, _sag(cross, sagging, sag), *tone


def _tips(
    cross: Crossmember, at: Vec3, cases: Sequence[MountCase], bent: Sequence[float], allow: Allowables
) -> tuple[Finding, ...]:
    """Whether one that is stiffer up and down than sideways tips over; nothing of a hollow one."""
    figures = figures_of(cross.section)
    if isinstance(cross.section, HollowSection) or figures.own.i_standing >= figures.own.i_lying:
        return ()
    case, moment = max(zip(cases, bent, strict=True), key=lambda row: row[1] * factor_of(row[0], allow))
    axis = axis_of(cross)
    _, under = nearest_on(axis, at)
    worked = CROSSMEMBER_TIPS.work(
        {"moment": "space frame, governing case", "load_up": "bush over the shear centre"},
        moment=moment,
        load_up=at[2] - float(under[2]) - figures.shear_up,
        length=axis_length(axis),
        modulus=figures.own.w_lying,
        i_standing=figures.own.i_standing,
        torsion=figures.own.torsion,
        warping=figures.warping,
        lopsided=figures.lopsided,
        yield_mpa=STEELS[cross.steel].yield_mpa,
        factor=factor_of(case, allow),
    )
    return (
        Finding(
            code="crossmember-tips",
            stage="crossmember",
            part="crossmember",
            part_name="Gearbox crossmember",
            what="does not tip over sideways",
            load=moment * factor_of(case, allow) / 1000,
            capacity=worked.value("held") / 1000,
            kind="torque",
            use=worked.value("use"),
            case=case.name,
            factor=factor_of(case, allow),
            worked=worked,
            cure="a wider section, or one that is hollow",
        ),
    )


_WORDS = {"bar": "bar", "folded": "channel"}


def _tone(cross: Crossmember, at: Vec3, rest: MountCase) -> Finding:
    """At what it swings with what it carries at rest."""
    own = axis_length(axis_of(cross)) / 1000 * figures_of(cross.section).own.kg_per_m
    stiffness, carried = stiffness_at(cross, at), max(abs(float(rest.force[2])) / G_STANDARD, 0.1)
    worked = CROSSMEMBER_TONE.work(
        {"stiffness": "space frame", "carried_kg": "at rest", "least": "job"},
        stiffness=stiffness,
        carried_kg=carried,
        own_kg=own,
        least=cross.least_hz,
    )
    return Finding(
        code="crossmember-tone",
        stage="crossmember",
        part="crossmember",
        part_name="Gearbox crossmember",
        what="swings no slower than is wanted",
        load=cross.least_hz,
        capacity=worked.value("tone"),
        kind="number",
        use=worked.value("use"),
        case=rest.name,
        factor=1.0,
        worked=worked,
        cure="a taller section",
    )


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
        what=f"{_WORDS.get(cross.section.shape, 'tube')} of the crossmember",
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
