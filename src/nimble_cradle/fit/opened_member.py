"""A chassis member before it is cut, cut, and put back: its sections, and what is left of its stiffness."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

from nimble_cradle.bay.member import Member, member_of, open_way, whole_items
from nimble_cradle.job.base import JobError
from nimble_cradle.job.job import Job
from nimble_cradle.job.opening import Opening
from nimble_cradle.job.remember import remembered
from nimble_cradle.stock.steels import DENSITY_STEEL
from nimble_cradle.strength.opened import THREAD, covered, cut_hole, cut_open, laid, plated, whole_share
from nimble_cradle.strength.section import Point, Section, SectionKind, Wall, stiffened_torsion, thin_walled

KINDS: dict[str, SectionKind] = {
    "box": "box",
    "open C": "open C",
    "hat on skin": "hat on skin",
    "tube": "tube",
}
"""Sections that can be worked out."""


@dataclass(frozen=True, eq=False)
class State:
    """A section as it is at one time. walls: what it is of; section: its properties, None where it is in
    pieces. held: torsion constant mm4 over the length of the cut, whose ends do not warp; the section's own
    is that of one that is free to."""

    walls: tuple[Wall, ...]
    section: Section | None
    held: float


@dataclass(frozen=True)
class Shares:
    """What is left of a member, as shares of what it was: bent up and down, bent sideways, and twisted where
    its ends are free to warp and where they are not."""

    up: float
    aside: float
    twist_free: float
    twist_held: float

    @property
    def least(self) -> float:
        """Of bending up and down and of twist, the less certain of that."""
        return min(self.up, self.twist_free, self.twist_held)


@dataclass(frozen=True)
class MendPlate:
    """Plates that put a member back: what they are, how many, and their size, mm; over: over its open
    edges."""

    name: str
    quantity: int
    long: float
    wide: float
    thick: float
    over: bool = False

    @property
    def kg(self) -> float:
        """Of one."""
        return self.long * self.wide * self.thick * DENSITY_STEEL


@dataclass(frozen=True, eq=False)
class OpenedMember:
    """One opening. before, cut, mended: the member there (mended is None while nothing is put back); plates:
    what it is put back with; weld_mm: how much is welded. worry: why it could not be worked out, in a
    sentence, or empty."""

    opening: Opening
    member: Member
    before: State
    cut: State
    mended: State | None
    plates: tuple[MendPlate, ...] = ()
    worry: str = ""

    @property
    def mend_kg(self) -> float:
        """What putting it back adds."""
        return sum(plate.quantity * plate.kg for plate in self.plates)

    @property
    def weld_mm(self) -> float:
        """Round every plate."""
        return sum(plate.quantity * 2 * (plate.long + plate.wide) for plate in self.plates)

    @property
    def at_last(self) -> State:
        """As it is to be."""
        return self.cut if self.mended is None else self.mended

    def shares(self, state: State) -> Shares:
        """What is left at the cut itself in a state."""
        was, now = self.before, state.section
        assert was.section is not None
        if now is None:
            return Shares(0.0, 0.0, 0.0, 0.0)
        return Shares(
            now.i_y / was.section.i_y,
            now.i_z / was.section.i_z,
            now.torsion / was.section.torsion,
            state.held / was.held,
        )

    def whole(self, state: State) -> Shares:
        """The same of the whole member, its load the same all along."""
        there, cut, long = self.shares(state), self.opening.long_mm, self.member.length
        return Shares(
            *(
                whole_share(share, min(cut, long), long)
                for share in (there.up, there.aside, there.twist_free, there.twist_held)
            )
        )

    @property
    def enough(self) -> bool:
        """Whether as much is left at the cut, as it is to be, as is wanted."""
        return 100 * self.shares(self.at_last).least >= self.opening.want_percent - 0.05


def walls_of_member(member: Member) -> list[Wall]:
    """The walls of a member as it lies in the car: across, up, mm. Raises JobError where its section is not
    said."""
    host, place = member.item.host, f"items/{member.item.id}/host"
    if host.section == "unsaid" or host.section not in KINDS:
        raise JobError(
            f"{member.item.name}: say what section it has, a box, an open C, a hat on a skin or a tube.",
            f"{place}/section",
        )
    if host.wall_mm is None:
        raise JobError(f"{member.item.name}: measure its wall, with calipers at a hole.", f"{place}/wall_mm")
    try:
        return laid(
            KINDS[host.section],
            member.tall,
            member.wide,
            host.wall_mm,
            host.second_skin_mm,
            open_way(member, host),
        )
    except ValueError as error:
        raise JobError(f"{member.item.name}: {error}.", place) from None


def state_of(walls: Sequence[Wall], length: float) -> State:
    """The properties of walls over a cut of ``length`` mm."""
    try:
        section = thin_walled(walls)
    except ValueError:  # in pieces, or nothing left
        return State(tuple(walls), None, 0.0)
    return State(tuple(walls), section, stiffened_torsion(section, length))


def opened_member(job: Job, opening: Opening) -> OpenedMember:
    """One opening worked out. Raises JobError where its member is none, or cannot be cut so."""
    place = f"openings/{opening.id}"
    item = next((item for item in whole_items(job) if item.id == opening.item), None)
    if item is None:
        raise JobError(f"{opening.name}: what it is cut out of is not there any more.", f"{place}/item")
    member = member_of(job, item)
    if opening.at_mm + opening.long_mm > member.length + 0.5:
        raise JobError(
            f"{opening.name} ends {opening.at_mm + opening.long_mm:.0f} mm from the end it is counted from;"
            f" {item.name} is {member.length:.0f} mm long.",
            f"{place}/long_mm",
        )
    try:
        axis, sign = member.way(opening.side)
    except JobError as error:
        raise JobError(error.message, f"{place}/side") from None
    walls = walls_of_member(member)
    if opening.is_hole:
        left, edges = _holed(opening, member, walls, axis, sign, place)
    else:
        left, edges = _cut(opening, member, walls, axis, sign, place), None
    before, cut = state_of(walls, opening.long_mm), state_of(left, opening.long_mm)
    plain = OpenedMember(opening, member, before, cut, None)
    if opening.mend == "open":
        return plain
    if cut.section is None:
        return replace(plain, worry=f"{opening.name} leaves {item.name} in pieces; no plate here mends that.")
    try:
        return _mended(plain, left, axis, edges)
    except ValueError as error:
        return replace(plain, worry=f"{opening.name}: {error}.")


def _cut(
    opening: Opening, member: Member, walls: list[Wall], axis: int, sign: float, place: str
) -> list[Wall]:
    """What is left where all within its depth is cut off. Raises JobError where nothing is."""
    size = (member.wide, member.tall)[axis]
    if opening.deep_mm >= size:
        raise JobError(
            f"{opening.name} is {opening.deep_mm:g} mm deep; {member.item.name} is {size:g} mm there, so"
            " nothing would be left.",
            f"{place}/deep_mm",
        )
    return cut_open(walls, axis, sign, size / 2 - opening.deep_mm)


def hole_span(opening: Opening, member: Member, axis: int) -> tuple[float, float]:
    """From where to where a plate over a hole goes across its wall, mm from the member's middle: its lap
    beyond the hole, as far as the wall goes. axis: of the way out of the wall."""
    half = (member.wide, member.tall)[1 - axis] / 2
    at = 0.0 if opening.hole_at_mm is None else half - opening.hole_at_mm
    reach = opening.hole_wide_mm / 2 + opening.lap_mm
    return max(at - reach, -half), min(at + reach, half)


def _holed(
    opening: Opening, member: Member, walls: list[Wall], axis: int, sign: float, place: str
) -> tuple[list[Wall], tuple[Point, Point]]:
    """What is left round a hole, and its edges. Raises JobError where it is not in its wall."""
    size = (member.wide, member.tall)[1 - axis]
    at = 0.0 if opening.hole_at_mm is None else size / 2 - opening.hole_at_mm
    try:
        return cut_hole(walls, axis, sign, at, opening.hole_wide_mm, opening.form == "hole right through")
    except ValueError as error:
        raise JobError(f"{opening.name}: {error}.", f"{place}/hole_wide_mm") from None


def _mended(
    plain: OpenedMember, left: list[Wall], axis: int, edges: tuple[Point, Point] | None
) -> OpenedMember:
    """Put back as it is said. edges: of a hole. Raises ValueError where that does not go."""
    opening = plain.opening
    long, thick = opening.long_mm + 2 * opening.lap_mm, opening.mend_mm
    walls, plates = list(left), []
    if opening.mend in ("sides", "cover and sides"):
        walls, widths = plated(walls, axis, thick)
        for wide in dict.fromkeys(round(w, 1) for w in widths):
            many = sum(1 for w in widths if round(w, 1) == wide)
            plates.append(MendPlate("plate beside the cut", many, long, wide, thick))
    if opening.mend in ("cover", "cover and sides"):
        cover = covered(left, thick) if edges is None else Wall(*edges, thick)
        walls.append(cover)
        low, high = hole_span(opening, plain.member, axis)
        wide = math.dist(cover.start, cover.end) if edges is None else high - low
        name = "plate over the open edges" if edges is None else "plate over the hole"
        through = opening.form == "hole right through"
        if through:  # a plate over the far one too
            walls = [w._replace(thickness=thick) if w.thickness <= THREAD else w for w in walls]
        plates.append(MendPlate(name, 2 if through else 1, long, wide, thick, True))
    return replace(plain, mended=state_of(walls, opening.long_mm), plates=tuple(plates))


@remembered("openings", "items", "survey", "meshes")
def opened_members(job: Job) -> tuple[OpenedMember | JobError, ...]:
    """Every opening worked out, or what keeps it from being so, in the job's order."""
    out: list[OpenedMember | JobError] = []
    for opening in job.openings:
        try:
            out.append(opened_member(job, opening))
        except JobError as error:
            out.append(error)
    return tuple(out)
