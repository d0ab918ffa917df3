"""A gap of two bodies and the word for it.

margin = gap - required - movement when running - give-or-take.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

from nimble_cradle.bay.position import nought
from nimble_cradle.calc import Q, calculation
from nimble_cradle.geometry.pose import Array

State = Literal["fouls", "too tight", "tight", "clear"]
TIGHT = 3.0
"""Below this margin, mm, a gap that is kept is called tight (common practice, no source)."""


@dataclass(frozen=True)
class Gap:
    """One body against another. piece: id of a piece, else of what is made or a shaft; item: id of an item,
    else of what is made or a shaft (these have a full stop in them: ``left.arm``, ``half-shaft.left``).
    Lengths mm; points and ``way`` (the way ``piece`` moves to open the gap) in the vehicle frame.

    at_least: the gap when running was not measured, as all that the engine can move leaves more than enough;
    ``running`` is then what is left at least.

    gap, running: negative is an overlap (then depth). running: the least through all load cases, with the
    case that gives it; None where running movement was not asked for. travel: the least with the engine
    still while the item moves with wheel or steering (None: it does not move), and where on its travel
    that is. stage: where a lack is put right.
    """

    piece: str
    item: str
    piece_name: str
    item_name: str
    gap: float
    required: float
    give_or_take: float
    on_piece: tuple[float, float, float]
    on_item: tuple[float, float, float]
    way: tuple[float, float, float]
    running: float | None = None
    running_case: str = ""
    travel: float | None = None
    travel_at: str = ""
    stage: str = "position"
    at_least: bool = False

    def turned(self) -> Gap:
        """The same told from its other body."""
        x, y, z = self.way
        return replace(
            self,
            piece=self.item,
            item=self.piece,
            piece_name=self.item_name,
            item_name=self.piece_name,
            on_piece=self.on_item,
            on_item=self.on_piece,
            way=(-x, -y, -z),
        )

    @property
    def still(self) -> float:
        """The gap with the engine still, through the item's travel."""
        return self.gap if self.travel is None else min(self.gap, self.travel)

    @property
    def margin_at_rest(self) -> float:
        """Gap through the item's travel less what is required less the give-or-take."""
        return nought(self.still - self.required - self.give_or_take)

    @property
    def movement(self) -> float:
        """How much of the gap is used up when running and by the item's travel."""
        return self.gap - (self.still if self.running is None else self.running)

    @property
    def margin(self) -> float:
        """What the gap is judged on, mm; nought within a twentieth of a mm of it."""
        return nought(self.exact_margin)

    @property
    def exact_margin(self) -> float:
        """The same as it was worked out, for a search."""
        return gap_margin(
            self.gap, self.required, self.still if self.running is None else self.running, self.give_or_take
        )[0]

    @property
    def state(self) -> State:
        """Judged with the engine running."""
        least = self.still if self.running is None else min(self.still, self.running)
        return judge(least, self.margin)

    @property
    def state_at_rest(self) -> State:
        """Judged with the engine still, through the item's travel."""
        return judge(self.still, self.margin_at_rest)


def gap_margin(gap: float, required: float, running: float, give_or_take: float) -> tuple[float, float]:
    """Margin mm and the movement when running mm: margin = gap - required - movement - give-or-take;
    movement is never a gain."""
    movement = max(gap - running, 0.0)
    return gap - required - movement - give_or_take, movement


GAP_MARGIN = calculation(
    "gap-margin",
    "Margin of a gap",
    inputs=(
        Q("gap", "mm", "gap as mocked up; below nought is an overlap"),
        Q("required", "mm", "what this neighbour needs", low=0),
        Q("running", "mm", "least gap in all load cases and once settled"),
        Q("give_or_take", "mm", "of the two measured surfaces together", 0.0, low=0),
    ),
    outputs=(Q("margin", "mm", "what the gap is judged on"), Q("movement", "mm", "used up when running")),
    formula="margin = gap - required - movement - give-or-take;  movement = gap - running",
    source="definition; required gaps and give-or-take of a tape are common practice, no source",
    leaves_out="travel of items that were given no motion, heat growth, a load case on settled rubber",
)(gap_margin)


def judge(gap: float, margin: float) -> State:
    """The word for a gap: it fouls below nought, is too tight below its requirement, tight within 3 mm of
    it."""
    if gap <= 0:
        return "fouls"
    if margin < 0:
        return "too tight"
    return "tight" if margin < TIGHT else "clear"


def point_of(p: Array) -> tuple[float, float, float]:
    """A point (3,) as plain numbers."""
    return float(p[0]), float(p[1]), float(p[2])
