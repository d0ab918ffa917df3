"""What a mount carries, in words and rows of a table."""

from __future__ import annotations

import numpy as np

from nimble_cradle.desk.kit.label import BOLD, PLAIN
from nimble_cradle.desk.kit.table import TableRow
from nimble_cradle.job.job import Job
from nimble_cradle.job.mounts import Mount
from nimble_cradle.judge.carried import Carried
from nimble_cradle.judge.found import Verdict
from nimble_cradle.judge.studies import locked_in_of
from nimble_cradle.made.foot_seats import foot_seats
from nimble_cradle.mounts.cases import Case
from nimble_cradle.mounts.equilibrium import CaseResult, MountLoad
from nimble_cradle.mounts.locked import MISFIT
from nimble_cradle.mounts.settling import AGES, MOST_BRACKET, bracket_share, further
from nimble_cradle.units import G_STANDARD, Display, show


def summary_words(mount: Mount, judged: Verdict, carried: Carried, display: Display) -> str:
    """Both verdicts, what it carries at rest and at full torque, and its bush."""
    rest, torque = carried.case("weight"), carried.case("first-gear")
    at_rest, at_torque = _load_on(mount, rest), _load_on(mount, torque)
    bush = next(spring.bush for spring in carried.springs if spring.mount == mount.id)
    told = next(row for row in judged.mounts if row.mount == mount.id)
    first, more = judged.rests_on[:3], len(judged.rests_on) - 3
    assumed = f" Rests on assumed: {', '.join(first)}{f' and {more} more' if more > 0 else ''}."
    if not first or "holds" not in (told.block_to_bush, told.bush_to_rail):
        assumed = ""
    return (
        f"From block to bush: {BOLD}{told.block_to_bush}{PLAIN}. From bush to rail:"
        f" {BOLD}{told.bush_to_rail}{PLAIN}.{assumed}\n"
        f"Carries {BOLD}{show(at_rest.size, 'force', display)}{PLAIN} at rest and settles"
        f" {BOLD}{show(at_rest.radial_mm, 'length', display)}{PLAIN}. Full torque in"
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
        asked = asked_words(result.case, carried.mass.mass_kg)
        cells = ((result.case.name, ""), (asked, ""), (force, ">"), (across, ">"), (along, ">"))
        rows.append((result.case.id, cells))
    return rows


def asked_words(case: Case, mass_kg: float) -> str:
    """What a case is made of: weight felt, what throws the engine ahead and sideways, torque; and whether it
    is rare."""
    g = case.force / (mass_kg * G_STANDARD)
    parts = [f"{-g[2]:.3g} g"] if abs(g[2]) > 5e-3 else ["no weight"]
    for value, plus, minus in ((g[0], "ahead", "back"), (g[1], "left", "right")):
        if abs(value) > 5e-3:
            parts.append(f"{abs(value):.2g} g {plus if value > 0 else minus}")
    torque = float(np.linalg.norm(case.moment)) / 1000
    if torque > 0.5:
        parts.append(f"{torque:.0f} Nm")
    return ", ".join(parts) + ("; rare" if case.kind == "rare" else "")


def settling_words(mount: Mount, carried: Carried, display: Display) -> str:
    """How stiff a bush is, what its bracket gives, and how it settles in time."""
    spring = next(spring for spring in carried.springs if spring.mount == mount.id)
    rest = _load_on(mount, carried.case("weight"))
    bush = spring.bush
    down = rest.movement[2]
    ages = " · ".join(
        f"{word} {show(abs(down) * further(mount.bush.creep_percent, minutes), 'length', display)}"
        for word, minutes in AGES
    )
    lines = [
        f"{show(bush.radial, 'stiffness', display)} across, {show(bush.axial, 'stiffness', display)} along"
        " its bolt.",
        f"Settles {'down' if down < 0 else 'up'}: {ages}.",
    ]
    share = bracket_share(spring)
    if share > MOST_BRACKET:
        lines.append(
            f"What it stands on gives {share:.1f} times what its rubber gives: it is part of the spring."
        )
    return "\n".join(lines)


def solid_words(job: Job, mount: Mount, carried: Carried) -> str:
    """The price of a metal bush: what it passes on, what a hole that is out locks in, rubber elsewhere."""
    forced = locked_in_of(carried, mount.id).value("force")
    lines = [
        "Metal: it passes on all that shakes, and only what holds it gives.",
        f"A hole {MISFIT:g} mm out, forced, locks up to {forced:,.0f} N in; the bolt goes in by hand, or"
        " nothing is right.",
    ]
    if any(other.bush.kind != "solid" for other in job.mounts):
        lines.append("Solid here and rubber elsewhere: what the rubber gives bends this mount; all or none.")
    return "\n".join(lines)


def mount_rows(judged: Verdict, display: Display) -> list[TableRow]:
    """A row for each mount: what it carries at rest, how far it sags, its hardest load, its hardest part."""
    carried = judged.carried
    rows: list[TableRow] = []
    for told in judged.mounts:
        found = [finding for finding in judged.findings if finding.part == told.mount]
        hardest = max(found, key=lambda f: f.use, default=None)
        state = {"holds": "holds", "does not hold": "fails", "open": "open", "not described yet": "open"}
        worse = (
            "fails"
            if "does not hold" in (told.block_to_bush, told.bush_to_rail)
            else state[told.bush_to_rail]
        )
        if told.block_to_bush == "open" and worse == "holds":
            worse = "open"
        used = "" if hardest is None else f"{100 * hardest.use:.0f} %, {hardest.what}"
        rest = sag = most = ""
        if carried is not None:
            on = {
                result.case.id: next(m for m in result.mounts if m.mount == told.mount)
                for result in carried.cases
            }
            rest = show(on["weight"].size, "force", display)
            sag = show(float(np.linalg.norm(on["weight"].movement)), "length", display)
            most = show(max(load.size for load in on.values()), "force", display)
        rows.append((told.mount, ((told.name, worse), (rest, ">"), (sag, ">"), (most, ">"), (used, ""))))
    return rows


def seat_words(job: Job, mount: Mount, display: Display) -> str:
    """Where a mount's foot stands, or why it does not."""
    feet = foot_seats(job)
    if mount.foot is None:
        return "It is not said what holds this bush on the chassis."
    seat = feet.of(mount.id)
    if seat is None:
        return feet.faults[mount.id].message
    return (
        f"The bolt is {show(seat.height, 'length', display)} off {seat.host.name}, whose face is"
        f" {show(seat.face_mm, 'length', display, 0)} wide there."
    )
