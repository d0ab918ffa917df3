"""One call writes the whole shop pack into a folder: PDF, DXF, SVG, cut list, report."""

from __future__ import annotations

import json
import os
from collections.abc import Callable
from pathlib import Path

from nimble_cradle.job.base import JobError
from nimble_cradle.job.job import Job
from nimble_cradle.shop.cutlist import cut_list, cut_list_csv
from nimble_cradle.shop.dxf import dxf
from nimble_cradle.shop.pdf import pack_pdf
from nimble_cradle.shop.report import report_data, report_text
from nimble_cradle.shop.svg import svg
from nimble_cradle.shop.templates import templates
from nimble_cradle.shop.tiles import Paper
from nimble_cradle.verdict import verdict


def write_pack(
    job: Job, folder: Path, paper: Paper = "A4", say: Callable[[str], None] = lambda _: None
) -> tuple[Path, ...]:
    """Write the pack and give its files. All of it is made before the first file is written; ``say`` is
    told of each step and may raise to stop it before that. Raises JobError."""
    say("Judging the job")
    v = verdict(job)
    drawings, refused = templates(job)
    if not drawings:
        why = (
            refused[0].message
            if refused
            else "The job has no mounts and no hole pattern yet, so there is nothing to make."
        )
        raise JobError(why, refused[0].place if refused else "mounts")
    files: dict[str, bytes] = {}
    for drawing in drawings:
        say(f"Drawing {drawing.title}")
        files[f"{drawing.name}.dxf"] = dxf(drawing).encode()
        files[f"{drawing.name}.svg"] = svg(drawing).encode()
    files["cut-list.csv"] = cut_list_csv(job).encode()
    files["report.txt"] = report_text(job, v).encode()
    files["report.json"] = (json.dumps(report_data(job, v), indent=1, ensure_ascii=False) + "\n").encode()
    files["shop-pack.pdf"] = pack_pdf(
        job, v, drawings, cut_list(job), paper, lambda title: say(f"Laying out {title}")
    )
    say("Writing")
    try:
        folder.mkdir(parents=True, exist_ok=True)
        written = []
        for name, data in files.items():
            path = folder / name
            stand_in = folder / f".{name}.{os.getpid()}"
            stand_in.write_bytes(data)
            os.replace(stand_in, path)
            written.append(path)
    except OSError as error:
        raise JobError(f"The pack could not be written to {folder}: {error.strerror or error}.") from None
    return tuple(written)
