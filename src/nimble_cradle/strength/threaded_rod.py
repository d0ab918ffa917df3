"""A rod with threaded ends: what a turn does, how far it goes, what thread holds, when it buckles. N, mm,
MPa."""

from __future__ import annotations

import math
from dataclasses import dataclass

from nimble_cradle.calc import Q, calculation
from nimble_cradle.stock.threads import SIZES, pitch_of, thread
from nimble_cradle.strength.strut import E_STEEL

NEED = {"steel": 1.0, "aluminium": 1.5}
"""Thread that has to be engaged, in diameters (common practice, no source)."""
E_BODY = {"steel": E_STEEL, "aluminium": 70_000.0}
"""Young's modulus, MPa (from memory)."""
JAM = 0.5
"""Height of a jam nut in diameters (ISO 4035, from memory)."""


@dataclass(frozen=True)
class RodSetting:
    """A rod as it is set, mm. turn: by how much a whole turn of the body changes it; nought where both
    threads are right-hand. engaged: thread in the body at each end. need: what has to be. shortest, longest:
    how far it can be set. turns_in, turns_out: whole turns of the body from here to those."""

    turn: float
    engaged: float
    need: float
    shortest: float
    longest: float
    turns_in: float
    turns_out: float


def rod_setting(
    size: str,
    long: float,
    body: float,
    end: float,
    threaded: float,
    tapped: float,
    of: str = "steel",
    hands: str = "left and right",
) -> RodSetting:
    """How a rod is set and how far it can be. mm."""
    d = thread(size).diameter
    need = NEED[of] * d
    engaged = end - (long - body) / 2
    longest = body + 2 * (end - need)
    shortest = body + 2 * (end - min(threaded - JAM * d, tapped))
    turn = 2 * pitch_of(size) if hands == "left and right" else 0.0
    by = turn or 2 * pitch_of(size)
    return RodSetting(
        turn, engaged, need, shortest, longest, max(0.0, long - shortest) / by, max(0.0, longest - long) / by
    )


def _set(
    size: str, long: float, body: float, end: float, threaded: float, tapped: float, of: str
) -> tuple[float, ...]:
    s = rod_setting(size, long, body, end, threaded, tapped, of)
    return s.turn, s.engaged, s.need, s.shortest, s.longest


ROD_SETTING = calculation(
    "rod-setting",
    "A rod with a left-hand and a right-hand thread, and how far it can be set",
    inputs=(
        Q("size", "", "thread", choices=SIZES),
        Q("long", "mm", "eye to eye as set", above=0),
        Q("body", "mm", "body without the rod ends", above=0),
        Q("end", "mm", "rod end, eye's middle to the end of its shank", above=0),
        Q("threaded", "mm", "thread on its shank", above=0),
        Q("tapped", "mm", "body is tapped, deep", above=0),
        Q("of", "", "body is of", default="steel", choices=tuple(NEED)),
    ),
    outputs=(
        Q("turn", "mm", "longer or shorter by a whole turn of the body"),
        Q("engaged", "mm", "thread in the body at each end"),
        Q("need", "mm", "thread that has to be in it"),
        Q("shortest", "mm", "eye to eye, as short as it goes with its jam nuts"),
        Q("longest", "mm", "eye to eye, as long as it may be"),
    ),
    formula="turn 2 P;  engaged = end - (long - body)/2;  longest = body + 2 (end - need);"
    " shortest = body + 2 (end - min(threaded - d/2, tapped))",
    source="geometry; need 1 d in steel, 1.5 d in aluminium: common practice, no source",
    leaves_out="tapped holes that end in a cone; rod ends that differ",
)(_set)


def root_diameter(size: str) -> float:
    """Diameter over the root of an external thread, mm: d - 1.2269 P (ISO 724, from memory)."""
    return thread(size).diameter - 1.2269 * pitch_of(size)


def rod_buckles(
    size: str, long: float, outside: float, wall: float, yield_mpa: float, of: str = "steel"
) -> tuple[float, str]:
    """Load at which a hinged rod buckles or yields, N, and what gives: its body all along, or its thread's
    root all along, whichever is less (the safe side)."""
    body, shank = _both(size, long, outside, wall, yield_mpa, of)
    return (body, "body") if body < shank else (shank, "thread")


def _both(
    size: str, long: float, outside: float, wall: float, yield_mpa: float, of: str
) -> tuple[float, float]:
    inside = outside - 2 * wall if wall else 0.0
    body = _column(long, outside, inside, yield_mpa, E_BODY[of])
    return body, _column(long, root_diameter(size), 0.0, max(yield_mpa, 235.0), E_STEEL)


def _column(long: float, outside: float, inside: float, yield_mpa: float, modulus: float) -> float:
    area = math.pi / 4 * (outside**2 - inside**2)
    second = math.pi / 64 * (outside**4 - inside**4)
    euler, squash = math.pi**2 * modulus * second / long**2, yield_mpa * area
    return euler if euler < squash / 2 else squash * (1 - squash / (4 * euler))


ROD_BUCKLES = calculation(
    "rod-buckles",
    "A hinged rod with threaded ends in compression",
    inputs=(
        Q("size", "", "thread", choices=SIZES),
        Q("long", "mm", "eye to eye", above=0),
        Q("outside", "mm", "body outside", above=0),
        Q("wall", "mm", "body wall, nought where solid", low=0),
        Q("yield_mpa", "MPa", "yield strength", above=0),
        Q("of", "", "body is of", default="steel", choices=tuple(NEED)),
    ),
    outputs=(
        Q("body", "N", "load at which its body does"),
        Q("thread", "N", "load at which its thread does"),
    ),
    formula="Euler pi^2 E I/L^2 where that is under half of fy A, else Johnson fy A (1 - fy A/(4 Euler)); of"
    " the body, and of the thread's root, each all along",
    source="Shigley, Mechanical Engineering Design, 4-12 and 4-13 (from memory); E of aluminium from memory",
    leaves_out="a rod that is bent or loaded beside its axis",
)(_both)
