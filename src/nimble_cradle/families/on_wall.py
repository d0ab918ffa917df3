"""What a host says of what stands on it: what is open about its metal, and the use of its wall."""

from __future__ import annotations

import numpy as np

from nimble_cradle.families.foot_seat import FootSeat, HostMetal
from nimble_cradle.findings.finding import Finding, Problem
from nimble_cradle.findings.worst import Cases, Check, worst
from nimble_cradle.geometry.pose import Array
from nimble_cradle.job.mounts import Mount
from nimble_cradle.stock.steels import Steel
from nimble_cradle.strength.rail_wall import RAIL_WALL, pressed_capacity, two_skins, wall_give, wall_use

CURE = "a foot that reaches nearer to the rail's edges, a doubler under it, or a second skin"
HOST_TENSILE = 1.4
"""Tensile over yield strength of a host whose steel is told by its yield alone (common practice, no
source)."""
LIGHT = ("aluminium", "magnesium")


def host_steel(host: HostMetal) -> Steel:
    """The steel of a host from its yield strength."""
    return Steel(host.yield_mpa, HOST_TENSILE * host.yield_mpa, 0.8)


MOST_LEAN = 15.0
"""Cheeks are cut to a face that leans so many degrees; beyond it their welds meet it too aslant (EN
1993-1-8, 4.3.2.1 lets 30)."""


def lean_questions(mount: Mount, seat: FootSeat, along: float, across: float) -> list[Problem]:
    """Whether the face leans more than cheeks are cut to."""
    lean = seat.lies(along, across).lean_deg
    if lean <= MOST_LEAN:
        return []
    return [
        Problem(
            "mounts",
            f"mounts/{mount.id}/foot/way",
            f"{mount.name}: {seat.host.name} leans {lean:.0f} deg under its foot; turn the way to it.",
        )
    ]


def metal_questions(mount: Mount, host: HostMetal, welded: bool, apart: bool) -> list[Problem]:
    """What is open about a host's metal. welded: something is welded to it; apart: what is bolted on is kept
    apart from it."""

    def ask(field: str, sentence: str) -> Problem:
        return Problem("mounts", f"{host.place}{field}", sentence)

    out, name = [], f"{host.name}, which {mount.name} stands on"
    if host.material == "unsaid":
        out.append(ask("material", f"{name}: say what it is made of."))
    elif host.material in (*LIGHT, "plastic", "rubber"):
        if host.material not in LIGHT:
            out.append(ask("material", f"{name}, is {host.material}: it carries no mount."))
        elif welded:
            out.append(
                ask("material", f"{name}, is {host.material}: steel is never welded to it; bolt the foot on.")
            )
        elif not apart:
            out.append(
                Problem(
                    "mounts",
                    f"mounts/{mount.id}/foot/insulated",
                    f"{name}, is {host.material}: steel bolted to it is kept apart by sealant and washers.",
                )
            )
    if host.section == "unsaid":
        out.append(ask("host/section", f"{name}: say what section it is."))
    elif host.section == "plate":
        out.append(ask("host/section", f"{name}, is a sheet by itself: tie it to a rail."))
    elif host.section == "open C" and not (host.ribbed or host.boxed):
        out.append(
            ask(host.ribbed_at, f"{name}, is open on one side: box it, or put a rib where the mount stands.")
        )
    if host.section not in ("unsaid", "plate", "solid") and host.wall_mm is None:
        out.append(ask("host/wall_mm", f"{name}: measure its wall, by calipers at a hole."))
    return out


def wall_finding(
    mount: Mount,
    seat: FootSeat,
    cases: Cases,
    force: Array,
    moment: Array,
    along: float,
    across: float,
    code: str = "foot-wall",
    what: str = "",
) -> list[Finding]:
    """The wall under a foot of ``along`` x ``across`` mm (along the bolt, across it); none for a solid host
    or one whose wall is not said. force (k,) N off the host; moment (k, 3) N mm about the seat's axes."""
    host = seat.host
    if host.wall_mm is None or host.section in ("solid", "plate", "unsaid"):
        return []
    turned = seat.rail_along_bolt
    given = {
        "face": seat.face_mm,
        "depth": max(seat.depth, 1.0),
        "across": across if turned else along,
        "along": along if turned else across,
        "wall": two_skins(host.wall_mm, host.second_mm),
        "yield_mpa": host.yield_mpa,
        "side": host.wall_mm,
        "walls": seat.side_walls,
    }
    tip_along, tip_across = (moment[:, 1], moment[:, 0]) if turned else (moment[:, 0], moment[:, 1])
    use = wall_use(pressed_capacity(*given.values()), force, tip_along, tip_across)
    return [
        worst(
            mount,
            Check(code, what or f"wall of {host.name} under its foot", "force", CURE),
            cases,
            use,
            np.abs(force),
            RAIL_WALL,
            lambda k: {
                **given,
                "force": float(force[k]),
                "along_moment": float(tip_along[k]),
                "across_moment": float(tip_across[k]),
            },
            {"face": "the bay", "depth": "the bay", "wall": "its host", "force": "equilibrium"},
        )
    ]


def wall_gives(seat: FootSeat, along: float, across: float) -> Array:
    """(3, 3) mm/N at the bolt, vehicle frame: the wall of the host under a stiff foot of ``along`` x
    ``across`` mm (along the bolt, across it). Nothing of a solid host, or of one whose wall is not said."""
    host = seat.host
    if host.wall_mm is None or host.section in ("solid", "plate", "unsaid", "tube"):
        return np.zeros((3, 3))
    turned = seat.rail_along_bolt
    sizes = (across, along) if turned else (along, across)
    force, tip_along, tip_across = wall_give(seat.face_mm, *sizes, two_skins(host.wall_mm, host.second_mm))
    # tipped along the rail the bolt moves along the rail
    by_along, by_across = (tip_along, tip_across) if turned else (tip_across, tip_along)
    own = np.diag([by_along * seat.height**2, by_across * seat.height**2, force])
    return np.asarray(seat.axes @ own @ seat.axes.T)


def wall_path(seat: FootSeat, *codes: str) -> tuple[tuple[str, tuple[str, ...]], ...]:
    """What must be found of a host: nothing of a solid one."""
    return (
        ()
        if seat.host.section == "solid"
        else ((f"wall of {seat.host.name}", tuple(codes) or ("foot-wall",)),)
    )
