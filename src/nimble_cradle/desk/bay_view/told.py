"""What the tags over the picture tell, by name: the tightest gaps, what each mount carries, the points."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from nimble_cradle.bay.position import move_words
from nimble_cradle.desk.bay_view.points_drawn import point_tags
from nimble_cradle.desk.kit.session import Session
from nimble_cradle.desk.kit.state_mark import FINDING_STATE, GAP_STATE
from nimble_cradle.findings.finding import Finding
from nimble_cradle.fit.gap import Gap
from nimble_cradle.fit.opened_member import OpenedMember, opened_members
from nimble_cradle.geometry.pose import Array
from nimble_cradle.job.base import JobError
from nimble_cradle.judge.chassis import percent
from nimble_cradle.judge.load_path import MountVerdict
from nimble_cradle.units import Display, show

MOST_GAPS = 4
"""More tags than this hide what they point at."""


@dataclass(frozen=True, eq=False)
class Said:
    """A tag at a place (3,) of the vehicle frame: figure, further lines, state, ``kind:id`` that a click
    on it chooses, and whether that is chosen."""

    at: Array
    figure: str
    lines: tuple[str, ...]
    state: str
    key: str
    chosen: bool = False


def gaps_told(session: Session) -> Sequence[Said]:
    """What lacks, else the tightest gaps; and the chosen one; on the way out none."""
    if session.film is not None:
        return []
    lacking = [gap for gap in session.seen_verdict.gaps if gap.margin < 0]
    gaps = list((lacking or session.seen_verdict.gaps)[:MOST_GAPS])
    chosen = session.chosen_gap()
    if chosen is not None and chosen not in gaps:
        gaps = [*gaps[: MOST_GAPS - 1], chosen]
    return [
        Said(
            (np.array(gap.on_piece) + np.array(gap.on_item)) / 2,
            f"{_gap_words(gap, session.display)}: {gap.state}",
            (gap.piece_name, f"to {gap.item_name}"),
            GAP_STATE[gap.state],
            f"gap:{gap.piece}/{gap.item}",
            gap is chosen,
        )
        for gap in gaps
    ]


def _gap_words(gap: Gap, display: Display) -> str:
    if gap.gap < 0:
        overlap = show(-gap.gap, "length", display)
        return "touches" if overlap.startswith("0 ") else f"overlap {overlap}"
    if gap.running is not None and gap.state != gap.state_at_rest:
        hits = "hits " if gap.running < 0 else ""
        return f"{hits}{show(abs(gap.running), 'length', display)} running"
    return show(gap.gap, "length", display)


def loads_told(session: Session) -> Sequence[Said]:
    """What each mount carries and gives in the shown case (at rest where none is chosen); gaps where that is
    not known."""
    judged = session.seen_verdict
    if judged.carried is None:
        return gaps_told(session)
    display = Display(session.display.length)  # sixteenths would hide what a bush gives
    result = judged.carried.case(session.shown_case or "weight")
    tags = []
    by_id = {load.mount: load for load in result.mounts}
    for mount in session.seen_job.mounts:
        load = by_id[mount.id]
        worst = max(
            (finding for finding in judged.findings if finding.part == mount.id),
            key=lambda f: f.use,
            default=None,
        )
        word, state = _of_mount(
            next((m for m in judged.mounts if m.mount == mount.id), None), worst, bool(judged.rests_on)
        )
        tags.append(
            Said(
                np.array(mount.bush.centre),
                f"{show(load.size, 'force', display)}, gives {show(load.radial_mm, 'length', display)}",
                (mount.name, word),
                state,
                f"mount:{mount.id}",
                session.selection == ("mount", mount.id),
            )
        )
    return tags


def _of_mount(told: MountVerdict | None, worst: Finding | None, assumed: bool) -> tuple[str, str]:
    """The word for a mount and its state: no better than both its verdicts; its own hardest-used part
    is only one of what they rest on."""
    if told is None or worst is None:
        return "not judged", "open"
    both, used = (told.block_to_bush, told.bush_to_rail), f"{100 * worst.use:.0f} %"
    if "does not hold" in both and worst.state != "does not hold":
        return "does not hold", "fails"
    if worst.state != "does not hold" and set(both) != {"holds"}:
        return f"open; {used} as far as known", "open"
    on = " on assumed" if assumed and worst.state != "does not hold" else ""
    return f"{worst.state}{on}, {used}", FINDING_STATE[worst.state]


def points_told(session: Session) -> Sequence[Said]:
    """The points that need a look."""
    return [
        Said(at, figure, (title,), state, key, chosen)
        for at, (figure, title, state, key, chosen) in point_tags(session)
    ]


def openings_told(session: Session) -> Sequence[Said]:
    """What every cut in the chassis leaves there, as it is to be."""
    tags = []
    for found in opened_members(session.seen_job):
        if isinstance(found, JobError):
            continue
        member, opening = found.member, found.opening
        along = (opening.at_mm + opening.long_mm / 2) / member.length
        axis, sign = member.way(opening.side)
        out = (member.across, member.up)[axis] * sign * (member.wide, member.tall)[axis] / 2
        shares = found.shares(found.at_last)
        tags.append(
            Said(
                member.start + along * (member.end - member.start) + out,
                f"{percent(shares.up)} of its bending",
                (opening.name, *_of_opening(found)),
                "near" if not found.enough else "open" if _unseen(found) else "holds",
                f"item:{opening.item}",
            )
        )
    return tags


def _of_opening(found: OpenedMember) -> tuple[str, ...]:
    """Whether it is put back, and whether anybody looked at its welds."""
    if found.mended is None:
        return ("open",)
    return ("put back", "nobody looked at its welds") if _unseen(found) else ("put back",)


def _unseen(found: OpenedMember) -> bool:
    """Whether something of how it is put back waits to be looked at."""
    return found.mended is not None and found.opening.welds == "unsaid"


TOLD: dict[str, Callable[[Session], Sequence[Said]]] = {
    "gaps": gaps_told,
    "loads": loads_told,
    "points": points_told,
    "openings": openings_told,
}


def caption(session: Session) -> str:
    """What is said under the picture: that the engine is not shown where it stands."""
    if session.film is not None:
        return "Engine shown on its way out."
    if session.ahead.job is not None:
        return "Being measured."
    case, carried = session.shown_case, session.seen_verdict.carried
    if not case or carried is None:
        return ""
    result = carried.case(case)
    return f"Engine shown {result.case.name}: {move_words(result.move, Display(session.display.length))}."
