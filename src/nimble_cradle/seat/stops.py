"""What stops the powertrain where it is: the binding places and windows, and what a millimetre given at
each would buy."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from nimble_cradle.geometry.pose import Array
from nimble_cradle.motion.linear_program import LinearProgram, linear_program
from nimble_cradle.motion.seat_problem import Look, SeatProblem
from nimble_cradle.seat.seating import BACK, LOW, Seating
from nimble_cradle.seat.settled import Settled
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
    is, where. aim: number of the window's aim (-1: two bodies), of a shaft's room with the ids of what it is
    of; over: its upper end."""

    rows: np.ndarray
    name: str
    piece: str
    item: str
    scale: float
    place: Array | None
    aim: int = -1
    over: bool = False


def groups_of(seating: Seating, stand: Look, used: np.ndarray) -> list[Group]:
    """Groups of the rows of a linear program: pairs of bodies first, then windows. used:
    LinearProgram.gap_rows."""
    return _pairs(seating, stand, used) + _windows(seating, len(used))


def _pairs(seating: Seating, stand: Look, used: np.ndarray) -> list[Group]:
    """A group for each pair of bodies, placed where it is tightest."""
    rows_of: dict[tuple[str, str], list[int]] = {}
    for row, k in enumerate(used.tolist()):
        pair = seating.owners[stand.rows.a[k]], seating.columns[stand.rows.b[k]]
        rows_of.setdefault(pair, []).append(row)
    names = dict(zip(seating.owners, seating.owner_names, strict=True))
    items = {column: seating.column_name(k) for k, column in enumerate(seating.columns)}
    groups = []
    for (piece, item), rows in rows_of.items():
        tightest = used[max(rows, key=lambda r: float(stand.short[used[r]]))]
        name = f"{names[piece]} – {items[item]}"
        groups.append(Group(np.array(rows), name, piece, item, 1.0, stand.rows.place[tightest]))
    return groups


def _windows(seating: Seating, first_row: int) -> list[Group]:
    """A group for each end of a window: all lows and then all highs, from ``first_row`` on."""
    aims = seating.problem.aims
    ends = [(int(m), False) for m in np.nonzero(np.isfinite(aims.low))[0]]
    ends += [(int(m), True) for m in np.nonzero(np.isfinite(aims.high))[0]]
    groups = []
    for row, (aim, over) in enumerate(ends, first_row):
        bound = round(float((aims.high if over else aims.low)[aim]), 1)
        scale = float(aims.scale[aim])
        cut = aims.cut_at(aim)
        if cut is not None:
            groups.append(Group(np.array([row]), cut.name, *cut.pair, scale, None, aim, over))
            continue
        name = f"{aims.names[aim]} {'not over' if over else 'not under'} {bound:g} {unit_of(scale)}"
        groups.append(Group(np.array([row]), name, "", "", scale, None, aim, over))
    return groups


def unit_of(scale: float) -> str:
    """Unit of an aim (mm, deg or %) by its scale: mm that one unit of it counts as."""
    return "deg" if abs(scale - DEGREE) < 1e-9 else "mm" if scale == 1.0 else "%"


def given(
    problem: SeatProblem,
    stand: Look,
    groups: Sequence[Group],
    which: int,
    program: LinearProgram,
    give: float = GIVE,
) -> Array | None:
    """The step (6,) that the linear problem takes when one group is given ``give`` mm."""
    limits = program.limits.copy()
    limits[groups[which].rows] += give
    solved = replace(program, limits=limits).solve()
    return None if solved is None else solved.step


def stops_of(settled: Settled) -> tuple[Stop, ...]:
    """What holds a seat, the dearest first. A worth is right as long as the same places touch."""
    problem, stand = settled.seating.problem, settled.stand
    program = linear_program(problem, stand, BOX)
    solved = program.solve()
    if solved is None:
        return ()
    groups = groups_of(settled.seating, stand, program.gap_rows)
    out = []
    for k, group in enumerate(groups):
        worth = float(solved.multipliers[group.rows].sum())
        if worth < 2e-3:
            continue
        step = given(problem, stand, groups, k, program)
        if step is None:
            continue
        change = stand.slopes @ (step - solved.step) / GIVE * group.scale
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
