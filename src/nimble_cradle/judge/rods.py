"""Rods with threaded ends: how they are set, and what is open about them."""

from __future__ import annotations

from nimble_cradle.findings.finding import Problem
from nimble_cradle.job.adjustable_rod import AdjustableRod
from nimble_cradle.job.job import Job
from nimble_cradle.strength.threaded_rod import RodSetting, rod_buckles, rod_setting

TIMES_BUCKLING, TIMES_RATING = 2.0, 3.0
"""So many times its load a rod carries before it buckles, and its rod ends are rated for (common practice, no
source)."""


def setting_of(rod: AdjustableRod) -> RodSetting:
    """How it is set."""
    return rod_setting(
        rod.thread, rod.long_mm, rod.body_mm, rod.end_mm, rod.thread_mm, rod.tapped_mm, rod.of, rod.hands
    )


def buckles_at(rod: AdjustableRod) -> tuple[float, str]:
    """kN at which it buckles at its longest use, as set, and what gives."""
    force, what = rod_buckles(rod.thread, rod.long_mm, rod.outside_mm, rod.wall_mm, rod.yield_mpa, rod.of)
    return force / 1000, what


def rod_questions(job: Job) -> tuple[Problem, ...]:
    """What is open about every rod, in sentences."""
    out: list[Problem] = []

    def ask(rod: AdjustableRod, field: str, sentence: str) -> None:
        out.append(Problem("chassis", f"rods/{rod.id}/{field}", f"{rod.name}: {sentence}."))

    for rod in job.rods:
        s = setting_of(rod)
        if s.longest <= s.shortest:
            ask(rod, "thread_mm", "there is no thread to set it by; a longer shank or a shorter body")
        elif rod.long_mm > s.longest:
            said = f"only {max(s.engaged, 0):.1f} mm of thread is in its body at each end"
            ask(rod, "long_mm", f"{said}; {s.need:.1f} has to be, so at most {s.longest:.1f} mm eye to eye")
        elif rod.long_mm < s.shortest:
            ask(rod, "long_mm", f"it does not go in so far: at least {s.shortest:.1f} mm from eye to eye")
        if rod.hands == "both right":
            ask(rod, "hands", "both threads are right-hand, so turning it in its place does not set it")
        carries, what = buckles_at(rod)
        if carries < TIMES_BUCKLING * rod.load_kn:
            said = (
                f"its {what} buckles at {carries:.1f} kN, {TIMES_BUCKLING:g} times {rod.load_kn:g} are wanted"
            )
            ask(rod, "outside_mm", said)
        if rod.rating_kn is None:
            ask(rod, "rating_kn", "what its rod ends hold is not known; the maker says it")
        elif rod.rating_kn < TIMES_RATING * rod.load_kn:
            said = (
                f"its rod ends hold {rod.rating_kn:g} kN; {TIMES_RATING:g} times {rod.load_kn:g} are wanted"
            )
            ask(rod, "rating_kn", said)
        if rod.jam_nuts == "unsaid":
            ask(rod, "jam_nuts", "a jam nut at each end keeps it as it is set")
    return tuple(out)
