"""One call writes the whole shop pack into a folder: PDF, DXF, SVG, cut list, report."""

from __future__ import annotations

import contextlib
import hashlib
import json
from collections.abc import Callable
from pathlib import Path

from nimble_cradle.files import printable, read_file, replace_file, there, why
from nimble_cradle.job.base import JobError
from nimble_cradle.job.job import Job
from nimble_cradle.judge.verdict import verdict
from nimble_cradle.shop.cutlist import cut_list, cut_list_csv
from nimble_cradle.shop.dxf import dxf
from nimble_cradle.shop.pdf import pack_pdf
from nimble_cradle.shop.report import report_data, report_text
from nimble_cradle.shop.svg import svg
from nimble_cradle.shop.templates import templates
from nimble_cradle.shop.tiles import Paper
from nimble_cradle.stock.rack import NOTHING, Rack


def write_pack(
    job: Job,
    folder: Path,
    paper: Paper = "A4",
    say: Callable[[str], None] = lambda _: None,
    rack: Rack = NOTHING,
) -> tuple[Path, ...]:
    """Write the pack and give its files. All of it is made before the first file is written; ``say`` is
    told of each step and may raise to stop it before that. rack: what is at hand. Raises JobError."""
    say("Judging the job")
    judged = verdict(job)
    drawings, refused = templates(job)
    if not drawings:
        nothing = (
            refused[0].message
            if refused
            else "The job has no mounts and no hole pattern yet, so there is nothing to make."
        )
        raise JobError(nothing, refused[0].place if refused else "mounts")
    files: dict[str, bytes] = {}
    for drawing in drawings:
        say(f"Drawing {drawing.title}")
        files[f"{drawing.name}.dxf"] = dxf(drawing).encode()
        files[f"{drawing.name}.svg"] = svg(drawing).encode()
    files["cut-list.csv"] = cut_list_csv(job, rack).encode()
    files["report.txt"] = report_text(job, judged).encode()
    files["report.json"] = (
        json.dumps(report_data(job, judged), indent=1, ensure_ascii=False) + "\n"
    ).encode()
    files["shop-pack.pdf"] = pack_pdf(
        job, judged, drawings, cut_list(job, rack), paper, lambda title: say(f"Laying out {title}")
    )
    say("Writing")
    try:
        return _put_in(folder, files)
    except OSError as error:
        raise JobError(
            f"The pack could not be written to {printable(str(folder), 100)}: {why(error)}."
        ) from None


CONTENTS = "contents.json"
"""The pack's list of what it wrote, by which the next one knows what it may replace."""
MOST_BYTES = 50_000_000
"""A file of a pack that is larger is none of ours."""


def _put_in(folder: Path, files: dict[str, bytes]) -> tuple[Path, ...]:
    """Write the files into a folder. What a pack wrote before, and nobody changed since, is replaced or taken
    away; anything else is left, and where it is in the way nothing is written. Raises JobError, OSError."""
    folder.mkdir(parents=True, exist_ok=True)
    sums = {name: hashlib.sha256(data).hexdigest() for name, data in files.items()}
    listed = {"program": "Nimble Cradle", "files": sums}
    files = {**files, CONTENTS: (json.dumps(listed, indent=1, sort_keys=True) + "\n").encode()}
    ours = _written_before(folder)
    for name in files:
        if there(folder / name) and name not in ours:
            raise JobError(
                f"{printable(folder.name or str(folder))} holds “{name}”, which no pack wrote or which was"
                " changed since: choose another folder."
            )
    for name in ours - files.keys():
        (folder / name).unlink(missing_ok=True)
    for name, data in files.items():
        replace_file(folder / name, data)
    return tuple(folder / name for name in files)


def _written_before(folder: Path) -> set[str]:
    """Names in a folder that a pack wrote there and nobody changed since."""
    try:
        listed = json.loads(read_file(folder / CONTENTS, MOST_BYTES))
        sums = dict(listed["files"]) if listed["program"] == "Nimble Cradle" else {}
    except (JobError, ValueError, KeyError, TypeError, RecursionError):
        return set()
    out = {CONTENTS} if sums else set()
    for name, sum_ in sums.items():
        with contextlib.suppress(JobError):
            plain = Path(name).name == name and not (folder / name).is_symlink()
            if plain and hashlib.sha256(read_file(folder / name, MOST_BYTES)).hexdigest() == sum_:
                out.add(name)
    return out
