"""Taped points adjusted together: where each is and how sure that is, which reading is wrong, and what is
not pinned down yet."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from nimble_cradle.calc import Q, Worked, calculation
from nimble_cradle.geometry.align import rigid_fit
from nimble_cradle.geometry.pose import Array, Pose
from nimble_cradle.geometry.solids import ShapeError
from nimble_cradle.job.job import Job
from nimble_cradle.job.remember import remembered
from nimble_cradle.job.survey import Survey, TemporaryDatum
from nimble_cradle.survey.adjust import COVER, UNCHECKED, Adjustment, Observed, State, adjust, suspects
from nimble_cradle.survey.datum import fitted_frame
from nimble_cradle.survey.level import true_up
from nimble_cradle.survey.observations import AXES, Unknowns
from nimble_cradle.survey.start import RowsOf, first_guess, mirror_of
from nimble_cradle.survey.words import direction_words, point_name, reading_words


@dataclass(frozen=True, eq=False)
class PlacedPoint:
    """A point: at (3,) mm in the datum frame, plus_minus (3,) mm, free: the ways in which it is not pinned
    down, in words."""

    id: str
    name: str
    at: Array
    plus_minus: Array
    free: tuple[str, ...]


@dataclass(frozen=True)
class CheckedReading:
    """A reading against all the others. residual: measured less computed, mm. off: by how much it is wrong
    if it is the wrong one. rivals: ids of readings it cannot be told from."""

    id: str
    words: str
    residual: float
    w: float
    redundancy: float
    state: State
    off: float
    rivals: tuple[str, ...] = ()
    worked: Worked | None = None


@dataclass(frozen=True)
class Tie:
    """A temporary datum tied to the main one by common points: their residuals mm, worst first; fault: why
    it is not tied in, or empty."""

    id: str
    name: str
    residuals: tuple[tuple[str, float], ...]
    rms: float
    fault: str = ""


@dataclass(frozen=True, eq=False)
class Network:
    """All points after adjustment. covariance (3 n, 3 n) sigma squared mm2, in the order of ``points``.
    factor: how the spread of the readings compares with their give-or-take (1: as said). free (3 n, k):
    directions not pinned down. datum_residuals: of a fitted datum.
    """

    points: tuple[PlacedPoint, ...]
    readings: tuple[CheckedReading, ...]
    covariance: Array
    free: Array
    ties: tuple[Tie, ...]
    questions: tuple[str, ...]
    factor: float
    dof: int
    datum_residuals: tuple[tuple[str, float], ...] = ()

    def number(self, key: str) -> int:
        """A point's place in ``points``. Raises KeyError."""
        for i, p in enumerate(self.points):
            if p.id == key:
                return i
        raise KeyError(key)

    def point(self, key: str) -> PlacedPoint:
        """A point by its id. Raises KeyError."""
        return self.points[self.number(key)]


def expected(survey: Survey, net: Network, kind: str, point: str, other: str = "") -> float | None:
    """What a reading from the main datum would be by the points as they are, mm; None for a kind that has
    no figure (plumb)."""
    a = net.point(point).at
    if kind in AXES:
        return float(a[AXES[kind]])
    if kind.startswith("from-"):
        return (survey.width_mm or 0.0) / 2 + float(a[1]) * (-1.0 if kind == "from-left-wall" else 1.0)
    if kind == "plumb":
        return None
    d = a - net.point(other).at
    return float(d[2]) if kind == "rise" else float(np.linalg.norm(d))


def normalised(residual: float, sigma: float, redundancy: float) -> tuple[float, float]:
    """Normalised residual w = v / (sigma sqrt(r)) and the blunder it stands for, v / r."""
    return residual / (sigma * redundancy**0.5), residual / redundancy


NORMALISED = calculation(
    "reading-check",
    "A reading against all the others",
    inputs=(
        Q("residual", "mm", "measured less computed"),
        Q("sigma", "mm", "half the give-or-take of the reading", above=0),
        Q("redundancy", "", "share of it that the others check", above=0, high=1),
    ),
    outputs=(
        Q("w", "", "normalised residual; beyond 3.29 it is out of line"),
        Q("off", "mm", "how far it is wrong, if it is the wrong one"),
    ),
    formula="w = v / (sigma sqrt(r));  off = v / r",
    source="data snooping: Baarda, A testing procedure for use in geodetic networks (1968; from memory)",
    leaves_out="two wrong readings that hide one another",
)(normalised)


@remembered("survey")
def network(job: Job) -> Network:
    """The survey of a job, adjusted."""
    return adjusted(job.survey, true_up(job))


def adjusted(survey: Survey, up: Array) -> Network:
    """Adjust a survey. up (3,): the way heights by level are taken along. Never raises for what a survey
    can hold."""
    if not survey.points:
        return Network((), (), np.zeros((0, 0)), np.zeros((0, 0)), (), (), 1.0, 0)
    plain = Unknowns(survey, up, {})
    rows = plain.rows()
    main = adjust(rows, first_guess(plain, rows))
    ties, bases, start = _tie_in(survey, main, plain)
    unknowns = Unknowns(survey, up, bases)
    rows = unknowns.rows()
    x = np.zeros(unknowns.size)
    x[: len(start)] = start
    result, found = suspects(rows, x, done=main if not bases else None)
    n = 3 * len(survey.points)
    covariance, free, at = result.covariance[:n, :n], result.free[:n], result.x[:n].reshape(-1, 3)
    questions = [t.fault for t in ties if t.fault]
    residuals: tuple[tuple[str, float], ...] = ()
    if survey.fit is not None:
        try:
            frame, residuals = fitted_frame(survey.fit, {p.id: at[i] for i, p in enumerate(survey.points)})
            at = frame.inverse().points(at)
            turn = np.kron(np.eye(len(at)), frame.rotation.T)
            covariance, free = turn @ covariance @ turn.T, turn @ free
        except ShapeError as error:
            questions.append(str(error))
    placed = _placed(survey, at, covariance, free)
    checked = _checked(survey, unknowns, rows, result, found)
    questions += _unpinned(survey, free) + _wrong(checked) + _broken_triangles(survey)
    if not found:
        questions += [
            f"{point_name(survey, key)} could as well be {w}: say roughly where it is, or measure one more"
            " from it"
            for key, w in _mirrors(survey, unknowns, rows, result)
        ]
    if result.dof >= 4 and not found and result.chi2 > _chi_square_limit(result.dof):
        questions.append(
            "The readings scatter more than their give-or-take allows, though none stands out: is a method"
            " noted too well?"
        )
    factor = float(np.sqrt(result.chi2 / result.dof)) if result.dof else 1.0
    return Network(placed, checked, covariance, free, ties, tuple(questions), factor, result.dof, residuals)


def _chi_square_limit(dof: int) -> float:
    """What a sum of squares of so many degrees of freedom exceeds once in a thousand times."""
    from scipy.special import gammaincinv

    return 2 * float(gammaincinv(dof / 2, 0.999))


def _tie_in(
    survey: Survey, main: Adjustment, plain: Unknowns
) -> tuple[tuple[Tie, ...], dict[str, Pose], Array]:
    """Fit every temporary datum on the points that were measured from both; give the ties, their poses,
    and a start with all points."""
    x = main.x.copy()
    loose = np.abs(main.free).max(1, initial=0.0) > 1e-3
    known = {p.id for p in survey.points if not loose[plain.at(p.id)].any()}
    ties, bases = [], {}
    for datum in survey.datums:
        offsets = _offsets(survey, datum)
        common = [key for key in offsets if key in known]
        try:
            if len(common) < 3:
                raise ShapeError(f"only {len(common)} of the three common points are there")
            fit = rigid_fit([offsets[k] for k in common], [main.x[plain.at(k)] for k in common])
        except ShapeError as error:
            ties.append(
                Tie(
                    datum.id,
                    datum.name,
                    (),
                    0.0,
                    f"{datum.name} is not tied in: {str(error)[0].lower()}{str(error)[1:].rstrip('.')}",
                )
            )
            continue
        bases[datum.id] = fit.pose
        order = sorted(zip(common, fit.residuals, strict=True), key=lambda row: -row[1])
        ties.append(Tie(datum.id, datum.name, tuple((k, float(r)) for k, r in order), fit.rms))
        for key, at in offsets.items():
            if key not in known:
                x[plain.at(key)] = fit.points(at)
    return tuple(ties), bases, x


def _offsets(survey: Survey, datum: TemporaryDatum) -> dict[str, Array]:
    """Points with all three offsets from a temporary datum, in its own axes."""
    seen: dict[str, dict[int, float]] = {}
    for r in survey.readings:
        if r.used and r.datum == datum.id:
            seen.setdefault(r.point, {})[AXES[r.kind]] = r.value_mm
    return {key: np.array([v[0], v[1], v[2]]) for key, v in seen.items() if len(v) == 3}


def _placed(survey: Survey, at: Array, covariance: Array, free: Array) -> tuple[PlacedPoint, ...]:
    sigma = np.sqrt(np.maximum(covariance.diagonal(), 0.0)).reshape(-1, 3)
    out = []
    for i, p in enumerate(survey.points):
        own = free[3 * i : 3 * i + 3]
        ways: list[str] = []
        if own.size and np.abs(own).max() > 1e-3:
            u, s, _ = np.linalg.svd(own)
            ways = [direction_words(u[:, k]) for k in range(3) if k < len(s) and s[k] > 1e-3]
            if len(ways) == 3:
                ways = ["every way"]
        out.append(PlacedPoint(p.id, p.name, at[i], COVER * sigma[i], tuple(ways)))
    return tuple(out)


def _checked(
    survey: Survey,
    unknowns: Unknowns,
    rows: list[Observed],
    result: Adjustment,
    found: list[tuple[int, tuple[int, ...]]],
) -> tuple[CheckedReading, ...]:
    by_id: dict[str, int] = {}
    for k, row in enumerate(rows):
        if row.id not in by_id or abs(result.w[k]) > abs(result.w[by_id[row.id]]):
            by_id[row.id] = k
    bad = {rows[k].id: tuple(dict.fromkeys(rows[j].id for j in rivals)) for k, rivals in found}
    shared = {rows[j].id for _, rivals in found for j in rivals}
    out = []
    for r in survey.readings:
        text = reading_words(survey, r)
        if r.id not in by_id:
            out.append(CheckedReading(r.id, text, 0.0, 0.0, 0.0, "not used", 0.0))
            continue
        k = by_id[r.id]
        v, red = float(result.residuals[k]), float(result.redundancy[k])
        worked = (
            NORMALISED.work(
                {"residual": "adjustment of all readings", "redundancy": "adjustment of all readings"},
                residual=v,
                sigma=rows[k].sigma,
                redundancy=red,
            )
            if red >= UNCHECKED
            else None
        )
        rivals = bad.get(r.id, ())
        state: State = (
            "out of line"
            if r.id in bad and not rivals
            else "doubtful"
            if r.id in bad or r.id in shared
            else "agrees"
        )
        if worked is None:
            state = "unchecked"
        out.append(
            CheckedReading(
                r.id,
                text,
                v,
                float(result.w[k]),
                red,
                state,
                worked.value("off") if worked else 0.0,
                rivals,
                worked,
            )
        )
    return tuple(out)


def _unpinned(survey: Survey, free: Array) -> list[str]:
    """What is not pinned down: points by themselves, then those that can only move together."""
    out, together = [], []
    for i, p in enumerate(survey.points):
        own = free[3 * i : 3 * i + 3]
        if not own.size or np.abs(own).max() <= 1e-3:
            continue
        alone = (
            not np.delete(free, range(3 * i, 3 * i + 3), axis=0)[:, np.abs(own).max(0) > 1e-3].size
            or np.abs(np.delete(free, range(3 * i, 3 * i + 3), axis=0)[:, np.abs(own).max(0) > 1e-3]).max()
            < 1e-3
        )
        if alone:
            u, s, _ = np.linalg.svd(own)
            ways = [direction_words(u[:, k]) for k in range(min(3, len(s))) if s[k] > 1e-3]
            out.append(
                f"{point_name(survey, p.id)} is not pinned down"
                f" {'any way' if len(ways) == 3 else ' nor '.join(ways)}"
            )
        else:
            together.append(point_name(survey, p.id))
    if together:
        most = ", ".join(together[:4]) + (f" and {len(together) - 4} more" if len(together) > 4 else "")
        out.append(
            f"{most} can still move together: measure one of them from the datum or from points that are"
            " known"
        )
    return out


def _wrong(checked: tuple[CheckedReading, ...]) -> list[str]:
    words = {c.id: c.words for c in checked}
    out = [
        f"{c.words}: out of line by {abs(c.off):.1f} mm (reads too {'long' if c.off > 0 else 'short'}); take"
        " it again"
        for c in checked
        if c.state == "out of line"
    ]
    for c in checked:
        if c.state == "doubtful" and c.rivals:
            others = " or ".join(words.get(r, r) for r in c.rivals[:3]) + (
                " or others" if len(c.rivals) > 3 else ""
            )
            out.append(f"One of these is wrong, and no other reading tells which: {c.words}; {others}")
    return out


def _broken_triangles(survey: Survey) -> list[str]:
    sides: dict[frozenset[str], tuple[float, float]] = {}
    for r in survey.readings:
        if r.used and r.kind == "distance":
            sides[frozenset((r.point, r.other))] = r.value_mm, r.give_or_take
    beside: dict[str, set[str]] = {}
    for a, b in (tuple(k) for k in sides):
        beside.setdefault(a, set()).add(b)
        beside.setdefault(b, set()).add(a)
    out = []
    for edge, (long, doubt) in sides.items():
        a, b = tuple(edge)
        for c in sorted(beside[a] & beside[b]):
            (p, dp), (q, dq) = sides[frozenset((a, c))], sides[frozenset((b, c))]
            if long > p + q + doubt + dp + dq:
                names = sorted((point_name(survey, a), point_name(survey, b)))
                out.append(
                    f"{names[0]} to {names[1]} ({long:g} mm) is longer than by way of {point_name(survey, c)}"
                    f" ({p + q:g} mm): they cannot all be right"
                )
    return out


def _mirrors(
    survey: Survey, unknowns: Unknowns, rows: list[Observed], result: Adjustment
) -> list[tuple[str, str]]:
    """Points with a second place that fits as well, and where that is in words."""
    out = []
    of = RowsOf(unknowns, rows, result.x)
    for p in survey.points:
        if (
            p.given is not None
            or p.roughly is not None
            or np.abs(result.free[unknowns.at(p.id)]).max(initial=0.0) > 1e-3
        ):
            continue
        other = mirror_of(unknowns, of, result.x, p.id)
        if other is not None:
            shift = other - result.x[unknowns.at(p.id)]
            k = int(np.abs(shift).argmax())
            way = (
                ("further forward", "further back"),
                ("further left", "further right"),
                ("higher up", "lower down"),
            )[k][0 if shift[k] > 0 else 1]
            out.append((p.id, f"{abs(shift[k]):.0f} mm {way}"))
    return out
