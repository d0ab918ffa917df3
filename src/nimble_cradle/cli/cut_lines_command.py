"""The command about cut lines: what must go from sheets, surfaces and members of the bay, at 1:1."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import Any

from nimble_cradle.cli.output import json_text, new_file, written
from nimble_cradle.job import store


def add_cut_lines_command(rows: Any) -> None:
    """``cut-lines``."""
    lines = rows.add_parser(
        "cut-lines",
        help="what must go from firewall, tunnel, scan and members for the engine where it is, at 1:1",
    )
    lines.add_argument("job", type=Path)
    lines.add_argument("-o", "--out", type=Path, metavar="DIR", help="a new folder for DXF and SVG")
    lines.add_argument("--json", action="store_true")
    lines.set_defaults(run=_cut_lines)


def _cut_lines(a: argparse.Namespace) -> int:
    from nimble_cradle.fit.cut_lines import BACK, CutLine, cut_line, sheets_of
    from nimble_cradle.fit.cut_surface import SurfaceCut, surface_cut, surfaces_of
    from nimble_cradle.judge.cautions import CUTTING
    from nimble_cradle.judge.gaps import standing_poses
    from nimble_cradle.shop.cut_line_template import cut_line_drawing
    from nimble_cradle.shop.dxf import dxf
    from nimble_cradle.shop.svg import svg

    new_file(a.out, "a folder")
    job = store.read(a.job).job
    poses = standing_poses(job)
    margin = job.setting.cut_margin_mm
    sheets = [cut_line(job, s.item.id, poses, margin) for s in sheets_of(job)]
    others = [surface_cut(job, item.id, poses, margin) for item in surfaces_of(job)]
    lines: list[CutLine | SurfaceCut] = [*sheets, *(line for line in others if line.area)]
    data: list[dict[str, Any]] = [
        {
            "item": line.item.id,
            "name": line.item.name,
            "area_cm2": round(line.area / 100, 2),
            "for": list(line.why),
            "outlines": [[[round(float(v), 3) for v in p] for p in ring] for ring in line.outlines()],
        }
        | (_of_sheet(line) if isinstance(line, CutLine) else _of_surface(line))
        for line in lines
    ]
    if a.json:
        print(json_text(data))
    else:
        for row in data:
            cut = (
                f"{row['area_cm2']:.0f} cm2 must go for {', '.join(row['for'])}" if row["pieces"] else "fine"
            )
            if "may_go_in_mm" not in row:
                print(f"{row['name']}: {cut}; its paper is true to {row['paper_off_mm']:g} mm")
                continue
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
            if line.area:
                drawing = cut_line_drawing(line, job.show.display)
                written(a.out / f"{drawing.name}.dxf", dxf(drawing).encode())
                written(a.out / f"{drawing.name}.svg", svg(drawing).encode())
    return 0


def _of_sheet(line: Any) -> dict[str, Any]:
    return {
        "pieces": len(line.pieces),
        "may_go_in_mm": None if line.may is None else round(line.may, 2),
        "stopped_by": line.by,
    }


def _of_surface(line: Any) -> dict[str, Any]:
    return {"pieces": len(line.flat), "paper_off_mm": round(max(p.off for p in line.flat), 2)}
