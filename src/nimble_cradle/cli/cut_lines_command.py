"""The command about cut lines: what must go from the flat sheets of the bay, at 1:1."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import Any

from nimble_cradle.cli.output import json_text, new_file, written
from nimble_cradle.job import store


def add_cut_lines_command(rows: Any) -> None:
    """``cut-lines``."""
    lines = rows.add_parser(
        "cut-lines", help="what must go from firewall, floor and wings for the engine where it is, at 1:1"
    )
    lines.add_argument("job", type=Path)
    lines.add_argument("-o", "--out", type=Path, metavar="DIR", help="a new folder for DXF and SVG")
    lines.add_argument("--json", action="store_true")
    lines.set_defaults(run=_cut_lines)


def _cut_lines(a: argparse.Namespace) -> int:
    from nimble_cradle.fit.cut_lines import BACK, cut_line, sheets_of
    from nimble_cradle.judge.cautions import CUTTING
    from nimble_cradle.judge.gaps import standing_poses
    from nimble_cradle.shop.cut_line_template import cut_line_drawing
    from nimble_cradle.shop.dxf import dxf
    from nimble_cradle.shop.svg import svg

    new_file(a.out, "a folder")
    job = store.read(a.job).job
    poses = standing_poses(job)
    lines = [cut_line(job, s.item.id, poses, job.setting.cut_margin_mm) for s in sheets_of(job)]
    data: list[dict[str, Any]] = [
        {
            "item": line.sheet.item.id,
            "name": line.sheet.item.name,
            "area_cm2": round(line.area / 100, 2),
            "pieces": len(line.pieces),
            "for": list(line.why),
            "may_go_in_mm": None if line.may is None else round(line.may, 2),
            "stopped_by": line.by,
            "outlines": [[[round(float(v), 3) for v in p] for p in ring] for ring in line.outlines()],
        }
        for line in lines
    ]
    if a.json:
        print(json_text(data))
    else:
        for row in data:
            cut = (
                f"{row['area_cm2']:.0f} cm2 must go for {', '.join(row['for'])}" if row["pieces"] else "fine"
            )
            may = row["may_go_in_mm"]
            room = (
                f"over {BACK:g} mm, nothing stops it"
                if may is None
                else f"{may:+.1f} mm towards the engine, {row['stopped_by']}"
            )
            print(f"{row['name']}: {cut}; may be moved {room}")
        print(f"\n{CUTTING}")
    if a.out is not None:
        a.out.mkdir(parents=True)
        for line in lines:
            if line.pieces:
                drawing = cut_line_drawing(line, job.show.display)
                written(a.out / f"{drawing.name}.dxf", dxf(drawing).encode())
                written(a.out / f"{drawing.name}.svg", svg(drawing).encode())
    return 0
