"""What a mount carries, in words and rows of a table."""

from __future__ import annotations

from nimble_cradle.desk.kit.label import BOLD, PLAIN
from nimble_cradle.desk.kit.table import TableRow
from nimble_cradle.job.mounts import Mount
from nimble_cradle.judge.carried import Carried
from nimble_cradle.judge.found import Verdict
from nimble_cradle.mounts.springs import CaseResult, MountLoad
from nimble_cradle.units import Display, show


def summary_words(mount: Mount, judged: Verdict, carried: Carried, display: Display) -> str:
    """Both verdicts, what it carries at rest and at full torque, and its bush."""
    rest, torque = carried.case("weight"), carried.case("first-gear")
    at_rest, at_torque = _load_on(mount, rest), _load_on(mount, torque)
    bush = next(spring.bush for spring in carried.springs if spring.mount == mount.id)
    told = next(row for row in judged.mounts if row.mount == mount.id)
    assumed = (
        f", on assumed: {', '.join(judged.rests_on[:3])}"
        if told.block_to_bush == "holds" and judged.rests_on
        else ""
    )
    return (
        f"From block to bush: {BOLD}{told.block_to_bush}{PLAIN}{assumed}. From bush to rail:"
        f" {BOLD}{told.bush_to_rail}{PLAIN}.\nCarries {BOLD}{show(at_rest.size, 'force', display)}{PLAIN}"
        f" at rest and settles {BOLD}{show(at_rest.radial_mm, 'length', display)}{PLAIN}. Full torque in"
        f" first gear, {show(carried.reacted[0], 'torque', display)} {carried.reacted[1]} after the gears and"
        f" no more than the tyres hold, loads it with {show(at_torque.size, 'force', display)}; it gives"
        f" {show(at_torque.radial_mm, 'length', display)} and the engine rocks {torque.rock_deg:.2f}"
        f" deg.\nBush: {show(bush.radial, 'stiffness', display)} across,"
        f" {show(bush.axial, 'stiffness', display)} along its bolt."
    )


def _load_on(mount: Mount, case: CaseResult) -> MountLoad:
    return next(load for load in case.mounts if load.mount == mount.id)


def shake_words(carried: Carried) -> str:
    """Natural frequencies, and what of the firing gets through at idle."""
    idle = carried.idle
    return (
        "Natural frequencies: "
        + ", ".join(f"{mode.word} {mode.frequency:.1f}" for mode in carried.modes)
        + f" Hz. The engine fires at {idle.frequency:.1f} Hz idling; {100 * idle.transmitted:.0f} % of that"
        " torque gets through at worst, 5 points of hardness and 50 rpm either way;"
        f" {100 * idle.nominal:.0f} % as it stands."
    )


def case_rows(mount: Mount, carried: Carried, display: Display) -> list[TableRow]:
    """A row for each load case: force and movement of the mount."""
    rows: list[TableRow] = []
    for result in carried.cases:
        load = _load_on(mount, result)
        force, across = show(load.size, "force", display), show(load.radial_mm, "length", display)
        along = show(load.axial_mm, "length", display)
        rows.append((result.case.id, ((result.case.name, ""), (force, ">"), (across, ">"), (along, ">"))))
    return rows
