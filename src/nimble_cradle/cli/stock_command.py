"""The command that tells what can be bought and what is at hand."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import Any

from nimble_cradle.cli.output import json_text
from nimble_cradle.job.stock_names import BoltClass
from nimble_cradle.stock.bars import FLATS, ROUNDS
from nimble_cradle.stock.bolts import bolt_class
from nimble_cradle.stock.bushes import FIRST
from nimble_cradle.stock.nuts import HEXAGON
from nimble_cradle.stock.rack import rack_place, read_rack
from nimble_cradle.stock.sheets import THICKNESSES
from nimble_cradle.stock.steels import STEELS
from nimble_cradle.stock.threads import SIZES, thread
from nimble_cradle.stock.tubes import properties, stock
from nimble_cradle.stock.washers import PLAIN


def add_stock_command(rows: Any) -> None:
    """Add ``stock`` to the commands."""
    said = "what can be bought, and what is at hand (rack.json)"
    other = "another rack than your own"
    parser = rows.add_parser("stock", help=said)
    parser.add_argument("--rack", type=Path, metavar="FILE", help=other)
    parser.add_argument("--json", action="store_true")
    parser.set_defaults(run=_stock)


def tables() -> dict[str, list[dict[str, Any]]]:
    """Every table of stock as rows of data; mm, MPa, kg."""
    return {
        "steels": [
            {"name": name, "yield_mpa": steel.yield_mpa, "tensile_mpa": steel.tensile}
            for name, steel in STEELS.items()
        ],
        "bolts": [
            {"size": size, "diameter_mm": thread(size).diameter, "stress_area_mm2": thread(size).stress_area}
            for size in SIZES
        ],
        "bolt_classes": [
            {"name": name, "proof_mpa": grade.proof, "tensile_mpa": grade.tensile}
            for name in BoltClass.__args__  # type: ignore[attr-defined]
            for grade in (bolt_class(name, 10.0),)
        ],
        "nuts": [{"size": k, "height_mm": h, "flats_mm": s} for k, (h, s) in HEXAGON.items()],
        "washers": [{"size": k, "outside_mm": d, "thickness_mm": t} for k, (d, t) in PLAIN.items()],
        "tubes": [
            {"name": name, "kg_per_m": properties(section).kg_per_m} for name, section in stock().items()
        ],
        "bars": [
            *({"shape": "flat", "width_mm": w, "thickness_mm": t} for w, t in FLATS),
            *({"shape": "round", "width_mm": d} for d in ROUNDS),
        ],
        "sheets": [{"thickness_mm": t} for t in THICKNESSES],
        "bushes": [FIRST._asdict()],
    }


def _stock(a: argparse.Namespace) -> int:
    place, rack = a.rack or rack_place(), read_rack(a.rack)
    if a.json:
        print(json_text({**tables(), "rack": rack.model_dump(mode="json"), "rack_file": str(place)}))
        return 0
    for title, rows in tables().items():
        print(title.replace("_", " ").capitalize())
        for row in rows:
            print("  " + ", ".join(_cell(name, value) for name, value in row.items()))
    print(f"On your rack ({place})")
    held = rack.model_dump(mode="json", exclude={"rack"})
    lines = [f"  {kind}: {_row(row)}" for kind, rows in held.items() for row in rows]
    print("\n".join(lines) or "  nothing was said; docs/rack.md tells how")
    return 0


def _row(row: dict[str, Any]) -> str:
    return ", ".join(_cell(name, value) for name, value in row.items() if value not in (None, ""))


def _cell(name: str, value: Any) -> str:
    """``wall 3.2 mm``."""
    words, _, unit = name.rpartition("_")
    if unit in ("mm", "mpa", "mm2", "m"):
        shown = {"mpa": "MPa", "mm2": "mm2", "m": "kg/m"}.get(unit, "mm")
        return f"{words.removesuffix('_per').replace('_', ' ')} {value:g} {shown}"
    return str(value) if isinstance(value, str) else f"{name.replace('_', ' ')} {value:g}"
