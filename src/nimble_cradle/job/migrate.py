"""Steps from older schemas to the present one. Each step is a function from plain data to plain data."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from nimble_cradle.job.base import JobError
from nimble_cradle.job.job import SCHEMA


def _flipped(pair: Any) -> Any:
    """(u, v) with u the other way; anything else as it is, for the reader to refuse."""
    if isinstance(pair, (list, tuple)) and len(pair) == 2 and isinstance(pair[0], (int, float)):
        return [0.0 - pair[0], pair[1]]
    return pair


def _odd(holes: Any) -> bool:
    """Whether a pattern of holes is not its own mirror image, left for right."""
    if not isinstance(holes, list) or not all(
        isinstance(hole, (list, tuple)) and len(hole) == 2 for hole in holes
    ):
        return False
    try:
        middle = (max(hole[0] for hole in holes) + min(hole[0] for hole in holes)) if holes else 0.0
        return any(
            all(abs(middle - hole[0] - o[0]) + abs(hole[1] - o[1]) > 0.2 for o in holes) for hole in holes
        )
    except TypeError:
        return False


def _rows(data: dict[str, Any], key: str) -> list[Any]:
    """A list of the job; empty where it is none, for the reader to refuse."""
    rows = data.get(key)
    return rows if isinstance(rows, list) else []


def _from_3(data: dict[str, Any]) -> dict[str, Any]:
    """Holes and the arm's place on a plate were told to the left of one who faces it, and are now to his
    right: what words and paper said stays true, and an odd plate is asked about. A trim of nought was what
    nobody had said anything of.
    """
    mounts = []
    for mount in _rows(data, "mounts"):
        pad = mount.get("pad") if isinstance(mount, dict) else None
        if isinstance(pad, dict):
            pad = {**pad}
            if isinstance(pad.get("holes"), list):
                pad["holes"] = [_flipped(h) for h in pad["holes"]]
            if "arm_at" in pad:
                pad["arm_at"] = _flipped(pad["arm_at"])
            at = pad.get("arm_at", [0.0, 0.0])
            off = (
                isinstance(at, list) and len(at) == 2 and isinstance(at[0], (int, float)) and abs(at[0]) > 0.1
            )
            if _odd(pad.get("holes")) or off:
                pad["holes_confirmed"] = False
            mount = {**mount, "pad": pad}
        mounts.append(mount)
    wish = data.get("wish")
    sales = wish.get("sales") if isinstance(wish, dict) else None
    sold = (
        {str(sale.get("of")) for sale in sales if isinstance(sale, dict)}
        if isinstance(sales, list)
        else set()
    )
    items = []
    for item in _rows(data, "items"):
        if isinstance(item, dict):
            item = {k: v for k, v in item.items() if k != "trim_mm" or v != 0}
            if item.get("id") in sold and item.get("fate", "keep") == "keep":
                item["fate"] = "open"
        items.append(item)
    out = {**data, **({"items": items} if isinstance(data.get("items"), list) else {})}
    for holder in (data, *(c for c in _rows(data, "candidates") if isinstance(c, dict))):
        engine = (
            (holder.get("powertrain") or {}).get("engine")
            if isinstance(holder.get("powertrain"), dict)
            else None
        )
        if isinstance(engine, dict):
            engine.pop("torque_rpm", None)
    if isinstance(data.get("mounts"), list):
        out["mounts"] = mounts
    return out


STEPS: dict[int, Callable[[dict[str, Any]], dict[str, Any]]] = {1: dict, 2: dict, 3: _from_3, 4: dict}
"""Schema number -> the step from it to the next. 1 to 2: the survey, motion and items made from points
came; 2 to 3: the wish, cuts and moves of items came; what was there stays. 3 to 4: faces are seen one way,
and how a figure was come by is said (of an older job's figures it is not). 4 to 5: what a mount stands on
came, and is asked for."""


def migrate(data: dict[str, Any]) -> dict[str, Any]:
    """Bring plain job data to the present schema. Raises JobError where a step is missing."""
    while (schema := int(data["schema"])) < SCHEMA:
        if schema not in STEPS:
            raise JobError(f"Schema {schema} is older than this program can read.", "schema")
        data = {**STEPS[schema](data), "schema": schema + 1}
    return data
