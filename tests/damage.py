"""Bad files made at random, the same for the same seed: jobs with other figures, files with other bytes."""

from __future__ import annotations

import random
from typing import Any

ODD: tuple[Any, ...] = (
    0, -1, 1, 1e6, -1e6, 1e-9, 1e300, -0.0, "", "x" * 100, "<img src=x>", None, True, [], {}, [[]], "\u2028",
    float("nan"), float("inf"), [0, 0, 0], [1e6, 1e6, 1e6], 0.5, 90, 180, 360,
)  # fmt: skip


def _places(data: Any, path: tuple[Any, ...] = ()) -> list[tuple[Any, ...]]:
    """The way to every value of a tree."""
    rows = data.items() if isinstance(data, dict) else enumerate(data) if isinstance(data, list) else ()
    out = []
    for key, value in rows:
        out += [(*path, key), *_places(value, (*path, key))]
    return out


def _at(data: Any, path: tuple[Any, ...]) -> Any:
    for key in path:
        data = data[key]
    return data


def _is_figure(value: Any) -> bool:
    return isinstance(value, int | float) and not isinstance(value, bool)


def change_job(data: Any, chance: random.Random) -> None:
    """One to five values, somewhere in a job, become others: mostly figures, rare and gross, now and then
    what is no figure, or a part of it goes or stands twice."""
    for _ in range(chance.choice((1, 1, 1, 2, 3, 5))):
        places = _places(data)
        figures = [p for p in places if _is_figure(_at(data, p))]
        path = chance.choice(figures if figures and chance.random() < 0.9 else places)
        holder, key, value = _at(data, path[:-1]), path[-1], _at(data, path)
        how = chance.random()
        if _is_figure(value) and how < 0.93:
            factor = chance.choice((0, -1, 0.5, 10, 100, 1e-3, 1e-6))
            holder[key] = chance.choice(
                (value * factor, value + chance.uniform(-80, 80), chance.choice(ODD[:8]), -7, 90)
            )
        elif how < 0.97:
            holder[key] = chance.choice(ODD)
        elif isinstance(holder, list) and chance.random() < 0.5:
            holder.insert(key, value)
        else:
            holder.pop(key)


def change_bytes(data: bytes, chance: random.Random) -> bytes:
    """Bytes changed, taken out and doubled."""
    out = bytearray(data)
    for _ in range(chance.choice((1, 1, 2, 8))):
        at = chance.randrange(max(len(out), 1))
        how = chance.random()
        if how < 0.6 and out:
            out[at] = chance.randrange(256)
        elif how < 0.75:
            del out[at : at + chance.randrange(1, 40)]
        else:
            out[at:at] = out[: chance.randrange(1, 60)]
    return bytes(out)
