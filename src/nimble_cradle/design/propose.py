"""A good first proposal: three whole mounts from block to rail, the metal of each chassis side as thin as
holds, and ears and brackets for struts."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from contextlib import suppress
from dataclasses import dataclass

from nimble_cradle.bay.position import pose_of
from nimble_cradle.design.first_foot import first_foot, with_foot_kind
from nimble_cradle.design.first_mounts import first_mount, with_eye_on_plate
from nimble_cradle.design.first_strut import with_bracket, with_ears
from nimble_cradle.findings.finding import Finding
from nimble_cradle.findings.worst import MountCase
from nimble_cradle.job.base import JobError
from nimble_cradle.job.edits import added, free_id, with_value
from nimble_cradle.job.foot import FactoryFoot, PlateFoot, SaddleFoot
from nimble_cradle.job.job import Job
from nimble_cradle.job.mounts import Mount
from nimble_cradle.job.strut import Strut
from nimble_cradle.job.tube_arm import Tube
from nimble_cradle.judge.carried import carried, crash_cases_of, mount_cases
from nimble_cradle.judge.mounts import mount_findings
from nimble_cradle.made.foot_seats import seat_of
from nimble_cradle.mounts.mount_checks import check_foot, check_in_a_crash, check_mount, unjudged
from nimble_cradle.stock.rack import NOTHING, Rack
from nimble_cradle.stock.threads import thread
from nimble_cradle.stock.tubes import round_tube
from nimble_cradle.strength.bolts import bolt_capacity

WANTED = 3
"""So many mounts hold an engine, if they are not in one line."""
SHEETS = (3.0, 4.0, 5.0, 6.0, 8.0, 10.0, 12.0, 15.0)
"""Sheet that is tried where the rack says nothing, mm (common practice, no source)."""
SPARE = 0.9
"""Proposed parts use at most this share of what they carry."""
CHEEKS = frozenset({"foot-cheeks", "foot-cheek-weld", "foot-cheek-end", "cheeks"})
WALL = frozenset({"foot-wall"})
ROOM, GAPS = frozenset({"side-travel"}), (4.0, 5.0, 6.0, 8.0, 10.0)
"""Room beside an eye that is tried, mm (common practice, no source)."""
ARM = frozenset({"arm", "root-weld", "eye-weld", "eye-wall", "fatigue-root", "fatigue-eye"})
PAD = frozenset({"plate", "plate-line", "bearing"})
TUBES = ((38.0, 3.0), (42.4, 3.2), (45.0, 4.0), (48.3, 4.0), (50.0, 5.0), (57.0, 5.0), (60.3, 5.6))
"""Round tubes that are tried where the rack says nothing, outside and wall, mm (common sizes, EN 10220 and EN
10305, from memory)."""
TIGHT = 0.7
"""A proposed cross-bolt is tightened to this share of its proof load (common practice, no source)."""
PATCH_MORE = 25.0
"""A doubler reaches so far past its foot, mm (common practice, no source)."""
EARS = PAD | {"ear-bent", "ear-weld", "ear-end", "ear-life", "ear-bearing"}
PLATES = frozenset({"foot-overhang", "foot-plate-line", "foot-top"})


@dataclass(frozen=True)
class Proposal:
    """The job with what was proposed, and what was done, in sentences."""

    job: Job
    done: tuple[str, ...]


def proposed(job: Job, rack: Rack = NOTHING) -> Proposal:
    """Mounts up to three, a chassis side for each that has none, their metal sized. What is there already
    stays. Never raises: what could not be proposed is said."""
    done: list[str] = []
    own: list[str] = []
    while len(job.mounts) < WANTED:
        mount = first_mount(job, free_id("mount", {m.id for m in job.mounts}), rack)
        job = added(job, "mounts", mount)
        own.append(mount.id)
        done.append(f"{mount.name}: added.")
    sheets = _sheets(rack)
    for key in own:
        job = _put_right(job, key)
    stood: list[str] = []
    for mount in job.mounts:
        if mount.foot is not None:
            continue
        try:
            foot = first_foot(job, mount).model_copy(update={"weld_inside": True})
        except JobError as error:
            done.append(error.message)
            continue
        job = with_value(job, f"mounts/{mount.id}/foot", foot)
        stood.append(mount.id)
    told: dict[str, list[str]] = {}
    # what one is made of changes what the others carry: twice round
    for _ in range(2 if own else 1):
        told = {}
        for key in own:
            job, words = _engine_side(job, key, sheets, rack)
            told.setdefault(key, []).append(words)
        for key in stood:
            job, words = _sized(job, key, sheets)
            if _uses(job, key, WALL) > 1:
                job, words = _another(job, key, sheets, words)
            told.setdefault(key, []).append(words)
    for key, rows in told.items():
        done += rows
        worst = _worst(job, key)
        done += [worst] if key in own and worst else []
    job, words_of = _brackets(job, sheets)
    return Proposal(job, (*done, *words_of))


def _brackets(job: Job, sheets: Sequence[float]) -> tuple[Job, list[str]]:
    """Ears and a bracket for every strut that has none and that nobody looked at."""
    done = []
    for strut in job.struts:
        if strut.ends != "unsaid" or (strut.ears is not None and strut.bracket is not None):
            continue
        if strut.ears is None:
            job, words = _ears_of(job, strut, sheets)
            done.append(words)
        if strut.bracket is None:
            job, words = _bracket_of(job, strut, sheets)
            done.append(words)
        worst = _worst(job, strut.id)
        done += [worst] if worst else []
    return job, done


def _ears_of(job: Job, strut: Strut, sheets: Sequence[float]) -> tuple[Job, str]:
    """A strut's ears on the nearest face of the engine, of the thinnest sheet that holds, and what was done,
    in a sentence."""
    try:
        job = with_ears(job, strut, True)
    except JobError as error:
        return job, error.message
    base = f"struts/{strut.id}/ears"
    torque = _tight(job, strut.bolt, strut.bolt_class)
    job = with_value(with_value(job, f"{base}/weld_inside", True), f"{base}/tightening_nm", torque)
    job, thick = _of_sheet(job, strut.id, sheets, (f"{base}/pad/plate_mm", f"{base}/ear_mm"), EARS)
    return job, f"{strut.name}: ears on the engine, of {thick:g} mm; say where its bosses are."


def _bracket_of(job: Job, strut: Strut, sheets: Sequence[float]) -> tuple[Job, str]:
    """A strut's bracket on the nearest face of the chassis likewise."""
    strut = next(one for one in job.struts if one.id == strut.id)
    try:
        job = with_bracket(job, strut, "plate")
    except JobError as error:
        return job, error.message
    base = f"struts/{strut.id}"
    job = with_value(job, f"{base}/bracket/weld_inside", True)
    places = f"{base}/bracket/plate_mm", f"{base}/cheek_mm"
    job, thick = _of_sheet(job, strut.id, sheets, places, CHEEKS | PLATES)
    host = next((item.name for item in job.items if item.id == _host_of(job, strut.id)), "the chassis")
    return job, f"{strut.name}: a bracket on {host}, of {thick:g} mm."


def _of_sheet(
    job: Job, key: str, sheets: Sequence[float], places: Sequence[str], codes: Collection[str]
) -> tuple[Job, float]:
    """The job with the thinnest sheet at all ``places`` with which the findings of some codes of a part hold,
    or the thickest, and how thick."""
    thick = sheets[0]
    for thick in sheets:
        for place in places:
            job = with_value(job, place, thick)
        rows = [f.use for f in mount_findings(job).findings if f.part == key and f.code in codes]
        if max(rows, default=0.0) <= SPARE:
            break
    return job, thick


def _host_of(job: Job, key: str) -> str:
    """The id of what a strut's bracket stands on; empty without one."""
    strut = next(strut for strut in job.struts if strut.id == key)
    return "" if strut.bracket is None else strut.bracket.host


def _put_right(job: Job, key: str) -> Job:
    """A new mount with its cross-bolt tightened and, where it has no arm, its eye on its plate."""
    mount = _mount(job, key)
    cross = mount.cross_bolt
    torque = _tight(job, cross.bolt, cross.bolt_class)
    job = with_value(job, f"mounts/{key}/cross_bolt/tightening_nm", torque)
    if mount.arm is None:
        with suppress(JobError):
            job = with_eye_on_plate(job, _mount(job, key))
    return job


def _tight(job: Job, size: str, grade: str) -> float:
    """What a bolt through a sleeve is tightened to, whole Nm."""
    torque = TIGHT * bolt_capacity(size, grade)[2] * job.allowables.nut_factor
    return float(round(torque * thread(size).diameter / 1000))


def _worst(job: Job, key: str) -> str:
    """What of a proposed mount does not hold, in a sentence; empty where all does."""
    rows = [f for f in mount_findings(job).findings if f.part == key and f.use > 1]
    if not rows:
        return ""
    hard = max(rows, key=lambda f: f.use)
    return f"{hard.part_name}: {hard.what} does not hold yet, {100 * hard.use:.0f} %; {hard.cure}."


def _sheets(rack: Rack) -> tuple[float, ...]:
    """Thicknesses at hand, thinnest first."""
    own = sorted({sheet.thickness_mm for sheet in rack.sheets})
    return tuple(own) or SHEETS


@dataclass(frozen=True)
class _Sizing:
    """What one mount meets in every case, taken once: what it is made of hardly changes that."""

    key: str
    cases: tuple[MountCase, ...]
    crash: tuple[MountCase, ...] = ()

    @classmethod
    def of(cls, job: Job, key: str) -> _Sizing:
        """Of a job as it is; without any where the engine does not rest on it yet."""
        try:
            results = carried(job)
            crash: Sequence[MountCase] = ()
            with suppress(JobError):
                crash = crash_cases_of(job, results).get(key, ())
            return cls(key, tuple(mount_cases(results, _mount(job, key))), tuple(crash))
        except JobError:
            return cls(key, ())

    def found(self, job: Job) -> list[Finding]:
        """Findings of the mount under the same forces, and in a crash; none where it cannot be judged."""
        mount, rows = _mount(job, self.key), self.cases
        if not rows:
            return []
        try:
            out = list(check_mount(mount, pose_of(job.position), rows, job.allowables, job.loads))
            seat = None if mount.foot is None else seat_of(job, mount)
            if seat is not None:
                out += check_foot(mount, seat, rows, job.allowables, job.loads)
            if self.crash:
                place = pose_of(job.position)
                near, far = check_in_a_crash(mount, place, seat, self.crash, job.allowables, job.loads)
                out += near + far
        except JobError:
            return []
        return out

    def uses(self, job: Job, codes: frozenset[str]) -> float:
        """The hardest use of some of them; none where they are not judged."""
        return max((f.use for f in self.found(job) if f.code in codes), default=0.0)

    def judged(self, job: Job, codes: frozenset[str]) -> bool:
        """Whether all of them are there."""
        return codes <= {f.code for f in self.found(job)}


def _uses(job: Job, key: str, codes: frozenset[str]) -> float:
    """The hardest use of some findings of a mount, the engine resting anew; none where it is not judged."""
    rows = [f.use for f in mount_findings(job).findings if f.part == key and f.code in codes]
    return max(rows, default=0.0)


def _sized(job: Job, key: str, sheets: Sequence[float]) -> tuple[Job, str]:
    """The thinnest cheeks and foot that hold, the thickest where none does; and room beside the eye."""
    size = _Sizing.of(job, key)
    job = _thinnest(job, size, f"mounts/{key}/cross_bolt/eye_gap_mm", GAPS, ROOM)
    job = _thinnest(job, size, f"mounts/{key}/cross_bolt/cheek_mm", sheets, CHEEKS)
    mount = _mount(job, key)
    if isinstance(mount.foot, PlateFoot | SaddleFoot):
        job = _thinnest(job, size, f"mounts/{key}/foot/plate_mm", sheets, PLATES)
        mount = _mount(job, key)
    foot = mount.foot
    assert foot is not None and not isinstance(foot, FactoryFoot)
    host = next((item.name for item in job.items if item.id == foot.host), "the crossmember")
    plate = "" if not isinstance(foot, PlateFoot | SaddleFoot) else f" and a foot of {foot.plate_mm:g} mm"
    wall = size.uses(job, WALL)
    tail = "" if wall <= 1 else f"; the wall of {host} does not hold it, {100 * wall:.0f} %"
    return job, f"{mount.name}: cheeks of {mount.cross_bolt.cheek_mm:g} mm{plate} on {host}{tail}."


def _another(job: Job, key: str, sheets: Sequence[float], words: str) -> tuple[Job, str]:
    """A saddle, or a doubler under the foot, where the wall does not hold what was proposed; the first that
    does, else what uses the wall least."""
    best = _uses(job, key, WALL), job, words
    mount = _mount(job, key)
    trials: list[Job] = []
    with suppress(JobError):
        trials.append(with_foot_kind(job, mount, "saddle"))
    if isinstance(mount.foot, PlateFoot):
        for thick in (t for t in sheets if 3.0 <= t <= 8.0):
            patched = with_value(job, f"mounts/{key}/foot/patch_mm", thick)
            trials.append(with_value(patched, f"mounts/{key}/foot/patch_more_mm", PATCH_MORE))
    for trial in trials:
        tried, told = _sized(trial, key, sheets)
        if unjudged(_mount(tried, key), mount_findings(tried).findings):
            continue
        use = _uses(tried, key, WALL)
        kind = "a saddle" if isinstance(_mount(tried, key).foot, SaddleFoot) else "a doubler under it"
        if use < best[0] and _uses(tried, key, WALL):
            best = use, tried, f"{told.removesuffix('.')}, with {kind}."
        if use <= 1:
            break
    return best[1], best[2]


def _engine_side(job: Job, key: str, sheets: Sequence[float], rack: Rack) -> tuple[Job, str]:
    """The lightest arm and the thinnest plate at hand that hold; the strongest where none does."""
    mount, size = _mount(job, key), _Sizing.of(job, key)
    if isinstance(mount.arm, Tube):
        for outside, wall in _tubes(rack):
            trial = job
            with suppress(JobError):
                for name, value in (("outside_mm", outside), ("wall_mm", wall)):
                    trial = with_value(trial, f"mounts/{key}/arm/{name}", value)
                trial = with_value(trial, f"mounts/{key}/arm/weld_throat_mm", min(wall, 5.0))
                job = trial
                if size.judged(job, ARM) and size.uses(job, ARM) <= SPARE:
                    break
    thick = [s for s in sheets if s >= 5.0] or sheets
    job = _thinnest(job, size, f"mounts/{key}/pad/plate_mm", thick, PAD)
    mount = _mount(job, key)
    tube = (
        f"tube {mount.arm.outside_mm:g} x {mount.arm.wall_mm:g}" if isinstance(mount.arm, Tube) else "no arm"
    )
    return job, f"{mount.name}: {tube}, plate {mount.pad.plate_mm:g} mm."


def _tubes(rack: Rack) -> list[tuple[float, float]]:
    """Round tubes at hand, the lightest first; common ones where the rack has none."""
    own = {(t.height_mm, t.wall_mm) for t in rack.tubes if t.shape == "round"}
    return sorted(own or TUBES, key=lambda size: round_tube(*size).area)


def _thinnest(job: Job, size: _Sizing, path: str, sheets: Sequence[float], codes: frozenset[str]) -> Job:
    trial = job
    for thick in sheets:
        try:
            trial = with_value(job, path, thick)
        except JobError:
            continue
        if size.uses(trial, codes) <= SPARE:
            return trial
    return trial


def _mount(job: Job, key: str) -> Mount:
    return next(m for m in job.mounts if m.id == key)
