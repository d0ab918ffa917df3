"""Two cheeks welded straight onto their host."""

from __future__ import annotations

import numpy as np

from nimble_cradle.families.cheeks import CODES, OnFoot
from nimble_cradle.families.family import LoadPath
from nimble_cradle.families.foot_seat import FootSeat
from nimble_cradle.families.on_wall import (
    host_steel,
    lean_questions,
    metal_questions,
    wall_finding,
    wall_gives,
    wall_path,
)
from nimble_cradle.families.part import MadePart
from nimble_cradle.findings.finding import Finding, Problem
from nimble_cradle.findings.worst import Cases, Check, alone
from nimble_cradle.geometry.pose import Array
from nimble_cradle.job.loads import Allowables
from nimble_cradle.job.mounts import Mount
from nimble_cradle.strength.cheek import FLAT

THICK = 1e3
"""A solid host is no thinner than any weld, mm."""


def cheeks(mount: Mount, seat: FootSeat) -> OnFoot:
    """Its two cheeks."""
    return OnFoot(mount, seat, 0.0, host_steel(seat.host), seat.host.wall_mm or THICK)


def load_path(mount: Mount, seat: FootSeat) -> LoadPath:
    """Its parts on the way to the rail."""
    return (("tabs", (*CODES, "foot-flat")), *wall_path(seat))


def questions(mount: Mount, seat: FootSeat) -> list[Problem]:
    """What is open about how they are held."""
    on = cheeks(mount, seat)
    out = metal_questions(mount, seat.host, True, False)
    out += [*lean_questions(mount, seat, *on.footprint), *on.questions()]
    over = seat.off_face(on.footprint[0] + 2 * abs(on.foot.shift[0]), on.footprint[1])
    if over > 1.0:
        out.append(
            Problem(
                "mounts",
                f"mounts/{mount.id}/foot/kind",
                f"{mount.name}: its tabs hang {over:.0f} mm over the edge of {seat.host.name}; put a foot"
                " plate under them.",
            )
        )
    return out


def parts(mount: Mount, seat: FootSeat) -> tuple[MadePart, ...]:
    """The cheeks. Raises JobError."""
    return (cheeks(mount, seat).part("chassis"),)


def checks(mount: Mount, seat: FootSeat, cases: Cases, allow: Allowables) -> list[Finding]:
    """The cheeks, and the wall under the harder-used of the two, each by itself."""
    on = cheeks(mount, seat)
    force, moment = seat.loads(mount, cases.forces)
    gap = seat.lies(*on.footprint).open_mm
    # each tab carries half, and of the tipping along the bolt its share as a pair
    over = np.abs(force[:, 0]) * on.height / (4.0 if on.clamped else 2.0)
    pair = np.maximum(np.abs(moment[:, 1]) - 2 * over, 0.0) / (2 * on.beside)
    one = np.abs(force[:, 2]) / 2 + pair
    tips = np.column_stack([moment[:, 0] / 2, over, np.zeros(len(over))])
    return [
        *on.checks(cases),
        alone(
            mount,
            Check("foot-flat", f"tabs flat on {seat.host.name}", "length", "cut the tabs to their host"),
            gap,
            FLAT,
            {"gap": "the bay"},
            "as drawn",
            gap=gap,
        ),
        *wall_finding(
            mount,
            seat,
            cases,
            one,
            tips,
            mount.cross_bolt.cheek_mm,
            on.footprint[1],
            what=f"wall of {seat.host.name} under a tab",
        ),
    ]


def give(mount: Mount, seat: FootSeat) -> Array:
    """(3, 3) mm/N, vehicle frame."""
    on = cheeks(mount, seat)
    return on.give() + wall_gives(seat, *on.footprint)
