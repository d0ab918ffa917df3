"""Readings as CSV, in and out: one line a reading; lengths in the user's words.

Columns (a heading line, any order; kind, point and value are needed): kind, point, other, value, method,
plus_minus, datum, note, when. A point is told by its number on the sheet, its id or its name.
"""

from __future__ import annotations

import csv
import io
from itertools import islice

from pydantic import ValidationError

from nimble_cradle.files import cell, from_cell, printable
from nimble_cradle.job.base import JobError
from nimble_cradle.job.bay import METHOD_PLUS_MINUS
from nimble_cradle.job.edits import free_id, with_value
from nimble_cradle.job.job import MOST_LETTERS, Job, as_job_error
from nimble_cradle.job.survey import ALONE, Reading, Survey
from nimble_cradle.units import UnitError, parse

COLUMNS = ("kind", "point", "other", "value", "method", "plus_minus", "datum", "note", "when")
KINDS = ("forward", "left", "up", "distance", "rise", "plumb", "from-left-wall", "from-right-wall")
MOST_LINES = 2000
"""Readings in one file: the light truck's survey has 48."""
MOST_BYTES = 5_000_000
"""A file of so many lines is far smaller: what is larger is no list of readings."""


def with_csv(job: Job, text: str, name: str = "The file") -> tuple[Job, int]:
    """The job with all readings of a CSV text, and how many; all or none. Raises JobError that names the
    line."""
    name = printable(name, 45)
    try:
        rows = list(islice(csv.reader(io.StringIO(text.lstrip("\ufeff"))), MOST_LINES + 2))
    except csv.Error:
        raise JobError(f"{name} is not CSV, or a field of it goes on without end.") from None
    if not rows or "kind" not in [c.strip().lower() for c in rows[0]]:
        raise JobError(
            f"{name} has no heading line: it wants {', '.join(COLUMNS[:4])}, and may have"
            f" {', '.join(COLUMNS[4:])}."
        )
    heads = [c.strip().lower() for c in rows[0]]
    unknown = [h for h in heads if h and h not in COLUMNS]
    if unknown:
        raise JobError(
            f"{name}: the column “{printable(unknown[0], 20)}” is not known; there are {', '.join(COLUMNS)}."
        )
    if len(rows) - 1 > MOST_LINES:
        raise JobError(f"{name} has over {MOST_LINES} readings; no more are read.")
    readings = list(job.survey.readings)
    taken = {r.id for r in readings}
    for number, row in enumerate(rows[1:], start=2):
        if not any(c.strip() for c in row):
            continue
        cells = dict(zip(heads, (c.strip() for c in row), strict=False))
        try:
            reading = _reading(job, cells, free_id("reading", taken))
            taken.add(reading.id)
            readings.append(reading)
        except ValidationError as error:
            said = as_job_error(error).message.rstrip(".")
            raise _at_line(name, number, said[0].lower() + said[1:]) from None
        except (JobError, UnitError, ValueError, OverflowError) as error:
            raise _at_line(name, number, str(error)) from None
    return with_value(job, "survey/readings", tuple(readings)), len(readings) - len(job.survey.readings)


def _at_line(name: str, number: int, words: str) -> JobError:
    return JobError(printable(f"{name}, line {number}: {words}", MOST_LETTERS))


def _reading(job: Job, cells: dict[str, str], key: str) -> Reading:
    kind = cells.get("kind", "").lower()
    if kind not in KINDS:
        raise JobError(f"“{printable(kind, 20)}” is no kind of reading; there are {', '.join(KINDS)}.")
    method = cells.get("method", "") or "tape"
    if method not in METHOD_PLUS_MINUS:
        raise JobError(f"“{printable(method, 20)}” is no method; there are {', '.join(METHOD_PLUS_MINUS)}.")
    display = job.show.display
    doubt = cells.get("plus_minus", "")
    return Reading(
        id=key,
        kind=kind,
        point=_point(job.survey, cells.get("point", "")),
        other="" if kind in ALONE else _point(job.survey, cells.get("other", "")),
        value_mm=0.0 if kind == "plumb" else parse(cells.get("value", ""), "length", display),
        method=method,
        plus_minus_mm=parse(doubt, "length", display) if doubt else None,
        datum=_datum(job.survey, cells.get("datum", "")),
        note=from_cell(cells.get("note", "")),
        when=cells.get("when", "")[:40],
    )


def _point(survey: Survey, text: str) -> str:
    if text.isdigit() and 1 <= int(text) <= len(survey.points):
        return survey.points[int(text) - 1].id
    for point in survey.points:
        if text and text.lower() in (point.id, point.name.lower()):
            return point.id
    raise JobError(f"“{printable(text, 40)}” is no point of the survey; there are {len(survey.points)}.")


def _datum(survey: Survey, text: str) -> str:
    if not text or text.lower() in ("main", "main datum"):
        return ""
    for datum in survey.datums:
        if text.lower() in (datum.id, datum.name.lower()):
            return datum.id
    raise JobError(f"“{printable(text, 40)}” is no datum of the survey.")


def to_csv(job: Job) -> str:
    """All readings as CSV, in mm, as ``with_csv`` reads them."""
    stream = io.StringIO()
    writer = csv.writer(stream)
    writer.writerow(COLUMNS)
    number = {point.id: i for i, point in enumerate(job.survey.points, start=1)}
    for reading in job.survey.readings:
        writer.writerow(
            (
                reading.kind,
                number[reading.point],
                number.get(reading.other, ""),
                f"{reading.value_mm:g} mm",
                reading.method,
                "" if reading.plus_minus_mm is None else f"{reading.plus_minus_mm:g} mm",
                reading.datum,
                cell(reading.note),
                reading.when,
            )
        )
    return stream.getvalue()
