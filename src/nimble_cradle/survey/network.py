"""Taped points adjusted together: where each is and how sure that is, which reading is wrong, and what is
not pinned down yet."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from nimble_cradle.calc import Q, calculation
from nimble_cradle.geometry.align import rigid_fit
from nimble_cradle.geometry.pose import Array, Pose
from nimble_cradle.geometry.solids import ShapeError
from nimble_cradle.job.job import Job
from nimble_cradle.job.remember import remembered
from nimble_cradle.job.survey import Survey, TemporaryDatum
from nimble_cradle.survey.adjust import COVER, UNCHECKED, Adjustment, Observed, State, adjust
from nimble_cradle.survey.blunders import blunder_words, broken_triangles, suspects
from nimble_cradle.survey.datum import fitted_frame
from nimble_cradle.survey.level import true_up
from nimble_cradle.survey.network_questions import mirrors, unpinned
from nimble_cradle.survey.network_types import CheckedReading, Network, PlacedPoint, Tie
from nimble_cradle.survey.observations import AXES, Unknowns
from nimble_cradle.survey.start import first_guess
from nimble_cradle.survey.words import direction_words, point_name, reading_words


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
    questions = [tie.fault for tie in ties if tie.fault]
    residuals: tuple[tuple[str, float], ...] = ()
    if survey.fit is not None:
        try:
            frame, residuals = fitted_frame(
                survey.fit, {point.id: at[i] for i, point in enumerate(survey.points)}
            )
            at = frame.inverse().points(at)
            turn = np.kron(np.eye(len(at)), frame.rotation.T)
            covariance, free = turn @ covariance @ turn.T, turn @ free
        except ShapeError as error:
            questions.append(str(error))
    placed = _placed(survey, at, covariance, free)
    checked = _checked(survey, unknowns, rows, result, found)
    questions += unpinned(survey, free) + blunder_words(checked) + broken_triangles(survey)
    if not found:
        questions += [
            f"{point_name(survey, key)} could as well be {w}: say roughly where it is, or measure one more"
            " from it"
            for key, w in mirrors(survey, unknowns, rows, result)
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


class _TiedIn(NamedTuple):
    """Temporary data fitted. ties: how well; bases: by datum its pose; start: (unknowns,) with all points."""

    ties: tuple[Tie, ...]
    bases: dict[str, Pose]
    start: Array


def _tie_in(survey: Survey, main: Adjustment, plain: Unknowns) -> _TiedIn:
    """Fit every temporary datum on the points that were measured from both."""
    x = main.x.copy()
    loose = np.abs(main.free).max(1, initial=0.0) > 1e-3
    known = {point.id for point in survey.points if not loose[plain.at(point.id)].any()}
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
    return _TiedIn(tuple(ties), bases, x)


def _offsets(survey: Survey, datum: TemporaryDatum) -> dict[str, Array]:
    """Points with all three offsets from a temporary datum, in its own axes."""
    seen: dict[str, dict[int, float]] = {}
    for reading in survey.readings:
        if reading.used and reading.datum == datum.id:
            seen.setdefault(reading.point, {})[AXES[reading.kind]] = reading.value_mm
    return {key: np.array([v[0], v[1], v[2]]) for key, v in seen.items() if len(v) == 3}


def _placed(survey: Survey, at: Array, covariance: Array, free: Array) -> tuple[PlacedPoint, ...]:
    sigma = np.sqrt(np.maximum(covariance.diagonal(), 0.0)).reshape(-1, 3)
    out = []
    for i, point in enumerate(survey.points):
        own = free[3 * i : 3 * i + 3]
        ways: list[str] = []
        if own.size and np.abs(own).max() > 1e-3:
            u, s, _ = np.linalg.svd(own)
            ways = [direction_words(u[:, k]) for k in range(3) if k < len(s) and s[k] > 1e-3]
            if len(ways) == 3:
                ways = ["every way"]
        out.append(PlacedPoint(point.id, point.name, at[i], COVER * sigma[i], tuple(ways)))
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
    for reading in survey.readings:
        text = reading_words(survey, reading)
        if reading.id not in by_id:
            out.append(CheckedReading(reading.id, text, 0.0, 0.0, 0.0, "not used", 0.0))
            continue
        k = by_id[reading.id]
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
        rivals = bad.get(reading.id, ())
        state: State = (
            "out of line"
            if reading.id in bad and not rivals
            else "doubtful"
            if reading.id in bad or reading.id in shared
            else "agrees"
        )
        if worked is None:
            state = "unchecked"
        out.append(
            CheckedReading(
                reading.id,
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
