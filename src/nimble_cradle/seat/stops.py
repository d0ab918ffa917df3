"""What stops the powertrain where it is: the binding places and windows, and what a millimetre given at
each would buy."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from nimble_cradle.geometry.pose import Array
from nimble_cradle.motion.descend import Look, SeatProblem, linear_program, solve_linear
from nimble_cradle.seat.seating import BACK, LINE, LOW, Seating
from nimble_cradle.seat.settle import Settled
from nimble_cradle.seat.windows import DEGREE

GIVE = 0.2
"""The give with which the worth of a mm is found, mm."""
BOX = 3.0
"""How far from the seat the linear view is trusted, mm."""


@dataclass(frozen=True, eq=False)
class Stop:
    """One thing that holds the seat: two bodies that meet (piece, item: ids, the item's LINE for the
    lowest chassis line) or a window. worth: how much the wish gains for each unit given, wish mm; lower,
    back: what the engine does for it, mm. unit: mm or deg. place: where, vehicle frame.
    """

    name: str
    piece: str
    item: str
    worth: float
    lower: float
    back: float
    unit: str = "mm"
    place: Array | None = None

    @property
    def words(self) -> str:
        """``each mm given here lowers the engine 0.70 mm and brings it 0.20 mm back``."""
        return f"each {self.unit} given here {' and '.join(self.effects)}"

    @property
    def effects(self) -> tuple[str, ...]:
        """What one unit given does, one thing each."""
        said = (
            [f"{'lowers' if self.lower > 0 else 'raises'} the engine {abs(self.lower):.2f} mm"]
            if abs(self.lower) >= 0.005
            else []
        )
        if abs(self.back) >= 0.005:
            said.append(f"brings it {abs(self.back):.2f} mm {'back' if self.back > 0 else 'forward'}")
        return tuple(said) or ("only lets it stand straighter or more central",)


@dataclass(frozen=True, eq=False)
class Group:
    """Rows of a linear program that are one thing: their numbers in it, names, how many mm a unit of it
    is, where. aim: number of the window's aim (-1: two bodies); over: its upper end."""

    rows: np.ndarray
    name: str
    piece: str
    item: str
    scale: float
    place: Array | None
    aim: int = -1
    over: bool = False


def groups_of(seating: Seating, stand: Look, used: np.ndarray, rows: int) -> list[Group]:
    """What each row of the linear program at a stand is about; pairs of bodies first, then the windows."""
    aims = seating.problem.aims
    out: dict[tuple[str, str], list[int]] = {}
    for row, k in enumerate(used.tolist()):
        out.setdefault((seating.owners[stand.rows.a[k]], seating.columns[stand.rows.b[k]]), []).append(row)
    names = dict(zip(seating.owners, seating.owner_names, strict=True))
    items = {i.id: i.name for i in seating.job.items} | {LINE: LINE}
    groups = []
    for (a, b), which in out.items():
        tightest = max(which, key=lambda r: float(stand.short[used[r]]))
        groups.append(
            Group(np.array(which), f"{names[a]} – {items[b]}", a, b, 1.0, stand.rows.place[used[tightest]])
        )
    at = len(used)
    for words, bound in (("not under", aims.low), ("not over", aims.high)):
        for m in np.nonzero(np.isfinite(bound))[0]:
            if at < rows:
                unit = unit_of(aims.scale[m])
                groups.append(
                    Group(
                        np.array([at]),
                        f"{aims.names[m]} {words} {round(float(bound[m]), 1):g} {unit}",
                        "",
                        "",
                        float(aims.scale[m]),
                        None,
                        int(m),
                        words == "not over",
                    )
                )
            at += 1
    return groups


def unit_of(scale: float) -> str:
    """The unit of an aim by how many mm one of it counts."""
    return "deg" if abs(scale - DEGREE) < 1e-9 else "mm" if scale == 1.0 else "%"


def given(
    problem: SeatProblem,
    stand: Look,
    groups: Sequence[Group],
    which: int,
    program: tuple[Array, Array, Array, Array, np.ndarray],
    give: float = GIVE,
) -> Array | None:
    """The step (6,) that the linear problem takes when one group is given ``give`` mm."""
    cost, a, b, bounds, _ = program
    more = b.copy()
    more[groups[which].rows] += give
    solved = solve_linear(cost, a, more, bounds)
    return None if solved is None else solved[0][:6]


def stops_of(settled: Settled) -> tuple[Stop, ...]:
    """What holds a seat, the dearest first. Worths hold while the same places touch."""
    problem, stand = settled.seating.problem, settled.stand
    program = linear_program(problem, stand, BOX)
    solved = solve_linear(*program[:4])
    if solved is None:
        return ()
    x, _, multipliers = solved
    groups = groups_of(settled.seating, stand, program[4], len(program[2]))
    out = []
    for k, group in enumerate(groups):
        worth = float(multipliers[group.rows].sum())
        if worth < 2e-3:
            continue
        step = given(problem, stand, groups, k, program)
        if step is None:
            continue
        change = stand.slopes @ (step - x[:6]) / GIVE * group.scale
        out.append(
            Stop(
                group.name,
                group.piece,
                group.item,
                worth * group.scale,
                -float(change[LOW]),
                -float(change[BACK]),
                unit_of(group.scale),
                group.place,
            )
        )
    out.sort(key=lambda s: -s.worth)
    return tuple(out)
