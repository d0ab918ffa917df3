"""The chassis: what is cut out of it, what that leaves, and whether it is put back."""

from __future__ import annotations

from nimble_cradle.findings.finding import Problem
from nimble_cradle.fit.opened_member import OpenedMember, Shares, opened_members
from nimble_cradle.job.base import JobError
from nimble_cradle.job.job import Job
from nimble_cradle.job.opening import Opening
from nimble_cradle.judge.cautions import CUTTING
from nimble_cradle.judge.cracks import crack_questions
from nimble_cradle.judge.found import Verdict
from nimble_cradle.judge.gaps import clashes
from nimble_cradle.judge.guard import Guard, problem_of
from nimble_cradle.judge.heat import heat_questions
from nimble_cradle.judge.panel_duty import duty_verdict
from nimble_cradle.judge.panels import panel_questions
from nimble_cradle.judge.rails import rail_findings
from nimble_cradle.judge.rods import rod_questions
from nimble_cradle.judge.suspension import suspension_questions

CAUTION: tuple[str, ...] = (CUTTING,)
LEFT_OUT = (
    "Each member by itself, as a beam; body and joints are not in it. Whether it may be cut the inspector"
    " decides."
)


FRAME_LEFT_OUT = (
    "Rails and members as beams; body, cab and how much the joints give are not in it. So only shares are"
    " told, as a band: over joints from one piece to bolted, over ends that warp or do not. Rails drawn end"
    " to end are one."
)


def begun(job: Job) -> bool:
    """Whether anything is cut out of the chassis, its suspension measured, or its rails known that carry
    mounts."""
    return bool(job.openings or job.suspensions or job.rods or job.panels or job.cracks or rail_findings(job))


def judge(job: Job) -> Verdict:
    """What is open about every cut and every wheel."""
    guard = Guard("chassis")
    guard.add(guard.rows("The cuts in the chassis", lambda: opening_questions(job)))
    guard.add(guard.rows("The panels", lambda: panel_questions(job)))
    ties = guard.of("The panels that tie the rails", lambda: duty_verdict(job), Verdict())
    guard.add(ties.problems)
    met = guard.rows("Room round the panels", lambda: clashes(job)) if job.panels else ()
    guard.add(p for p in met if p.stage == "chassis")
    guard.add(guard.rows("The cracks", lambda: crack_questions(job)))
    guard.add(guard.rows("The suspension", lambda: suspension_questions(job)))
    guard.add(guard.rows("The rods", lambda: rod_questions(job)))
    guard.add(guard.rows("The heat of the welds", lambda: heat_questions(job, "chassis")))
    findings = guard.rows("The rails under the mounts", lambda: rail_findings(job))
    return Verdict(findings=(*findings, *ties.findings), problems=tuple(guard.problems))


def questions(job: Job, v: Verdict, before: int) -> list[str]:
    """Rails and members that do not carry the mounts by themselves, ties that do not do what they are for."""
    return [f.fails_words() for f in v.findings if f.stage == "chassis" and f.use > 1]


def opening_questions(job: Job) -> tuple[Problem, ...]:
    """What is open about the cuts, in sentences."""
    out: list[Problem] = []
    for opening, found in zip(job.openings, opened_members(job), strict=True):
        place = f"openings/{opening.id}"
        if isinstance(found, JobError):
            out.append(problem_of("chassis", found))
        elif found.worry:
            out.append(Problem("chassis", f"{place}/mend", found.worry))
        else:
            out += _of_mending(opening, found, place)
            out += _of_metal(opening, found)
        out += _of_records(opening, place)
        if opening.mend != "open" and opening.welds == "unsaid":
            said = f"{opening.name}: the welds of its plates and the corners of the cut are not judged here"
            out.append(Problem("chassis", f"{place}/welds", f"{said}; look at them and say so."))
        if opening.braced == "unsaid":
            out.append(
                Problem(
                    "chassis",
                    f"{place}/braced",
                    f"{opening.name}: brace it before it is cut, and measure across and from corner to corner"
                    " before, after tacking and after welding.",
                )
            )
    return tuple(out)


def _of_mending(opening: Opening, found: OpenedMember, place: str) -> list[Problem]:
    left = share_words(found.shares(found.at_last))
    if opening.mend == "open":
        return [
            Problem("chassis", f"{place}/mend", f"{opening.name} leaves {left} there, and is not put back.")
        ]
    if not found.enough:
        return [
            Problem(
                "chassis",
                f"{place}/mend_mm",
                f"{opening.name}, as put back, leaves {left} there; {opening.want_percent:g} % is wanted.",
            )
        ]
    return []


LIGHT = ("aluminium", "magnesium")
GALVANISED = "Galvanised: grind the zinc back 25 mm from every weld; its fumes are poisonous."
HOLE = "Round a hole's corners and take the burr off: cracks begin at its edge, which is not judged here."
SINGLE_SKIN = "A single skin: plates are plug welded to it, with no fillet along its edge."


def _of_metal(opening: Opening, found: OpenedMember) -> list[Problem]:
    """What the member is of does not go with steel plates welded on."""
    item = found.member.item
    if found.mended is None or item.material not in LIGHT:
        return []
    said = f"{opening.name}: steel cannot be welded to {item.name}, which is {item.material}"
    return [
        Problem("chassis", f"openings/{opening.id}/mend", f"{said}; plates of it, bolted or riveted, apart.")
    ]


def metal_words(found: OpenedMember) -> str:
    """What the member's metal asks of its welds (common practice, no source)."""
    item = found.member.item
    said = [HOLE] if found.opening.is_hole else []
    said += [GALVANISED] if item.host.coating == "galvanised" else []
    return " ".join([*said, *([SINGLE_SKIN] if item.material == "single skin" else [])])


MOST_MOVED, MOST_SKEW = 1.0, 2.0
"""So far, mm, rails may have moved across or from corner to corner, and the corners differ (common practice,
no source); beside what a tape is good to."""
TAPE = 1.0
"""What a tape is good to, mm (common practice, no source)."""
FIGURES = (
    ("across_mm", "straight across"),
    ("corner_mm", "from front left to rear right"),
    ("other_mm", "from front right to rear left"),
)


def _of_records(opening: Opening, place: str) -> list[Problem]:
    """What was measured across that has moved since before the cut."""
    out = []
    for when, record in (("tacked", opening.tacked), ("welded", opening.welded)):
        for name, word in FIGURES:
            was, now = getattr(opening.before, name), getattr(record, name)
            if was is not None and now is not None and abs(now - was) > MOST_MOVED + TAPE:
                said = f"{opening.name}, {when}: {word} it has gone {now - was:+.1f} mm since before the cut"
                out.append(Problem("chassis", f"{place}/{when}/{name}", f"{said}; pull it back first."))
        if record.corner_mm is not None and record.other_mm is not None:
            moved = (record.corner_mm - record.other_mm) - _skew(opening)
            if abs(moved) > MOST_SKEW + TAPE:
                said = f"{opening.name}, {when}: the corners have gone {abs(moved):.1f} mm out of square"
                out.append(Problem("chassis", f"{place}/{when}/corner_mm", f"{said}."))
    return out


def _skew(opening: Opening) -> float:
    """By how much the two corners differed before; nought where that was not measured."""
    one, other = opening.before.corner_mm, opening.before.other_mm
    return 0.0 if one is None or other is None else one - other


def share_words(shares: Shares) -> str:
    """``32 % of its bending and 0.1 to 9 % of its twist``: the twist as a band, for its ends may warp or
    not."""
    low, high = sorted((shares.twist_free, shares.twist_held))
    twist = percent(low) if percent(low) == percent(high) else f"{percent(low)[:-2]} to {percent(high)}"
    return f"{percent(shares.up)} of its bending and {twist} of its twist"


def percent(share: float) -> str:
    """A share in per cent, small ones with a place."""
    value = 100 * share
    return f"{value:.1f} %" if value < 2 else f"{value:.0f} %"
