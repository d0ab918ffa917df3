"""The still picture: outlines where one body ends and another begins, and the patterns that tell roles
apart without colour. Made from a picture in which each body has a number for its colour."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from nimble_cradle.desk.bay_view.looks import FOULS

Mask = npt.NDArray[np.bool_]
Numbers = npt.NDArray[np.int32]
Pixels = npt.NDArray[np.uint8]
PITCH, HATCH, DOT = 9, 3, 2
"""Pixels between the lines of a hatch or the dots, width of a line, radius of a dot."""
OUTLINE = 0.78
"""Share of ink in an outline: all of it would look like a drawing, not like a bay."""
WASH = 0.30
"""Share of red laid over what fouls."""


@dataclass(frozen=True)
class Pattern:
    """What is laid over a body: ``dots``, ``seam``, ``hatch`` or nothing; chosen: with a white rim."""

    kind: str = ""
    chosen: bool = False


def edges(ids: Numbers) -> Mask:
    """True (h, w) where a body ends: the pixel right of it or under it has another number."""
    out = np.zeros(ids.shape, dtype=bool)
    out[:, :-1] |= ids[:, :-1] != ids[:, 1:]
    out[:-1] |= ids[:-1] != ids[1:]
    return out


def _grown(mask: Mask) -> Mask:
    """A mask one pixel larger each way."""
    out = mask.copy()
    out[1:] |= mask[:-1]
    out[:-1] |= mask[1:]
    out[:, 1:] |= mask[:, :-1]
    out[:, :-1] |= mask[:, 1:]
    return out


def _mix(picture: Pixels, where: Mask, colour: tuple[int, int, int], share: float) -> None:
    """Lay a colour over some pixels of a picture (h, w, 3+), in place."""
    if where.any():
        old = picture[where][:, :3].astype(np.float32)
        picture[where, :3] = (old + (np.array(colour, dtype=np.float32) - old) * share).astype(np.uint8)


def _ints(colour: str) -> tuple[int, int, int]:
    return int(colour[1:3], 16), int(colour[3:5], 16), int(colour[5:7], 16)


def dressed(picture: Pixels, ids: Numbers, patterns: Mapping[int, Pattern], ink: str, ratio: float) -> Pixels:
    """A picture (h, w, 4) uint8 with outlines and patterns. ids: number of the body at each pixel, 0 for
    none; ratio: pixels of the picture for one of the screen."""
    out = picture.copy()
    y, x = np.indices(ids.shape)
    pitch = max(4, round(PITCH * ratio))
    stripes = ((x + y) % pitch) < max(1, round(HATCH * ratio))
    radius = DOT * ratio
    dots = ((x % pitch - pitch / 2) ** 2 + (y % pitch - pitch / 2) ** 2) < radius**2
    rim = edges(ids)
    wide = _grown(rim)
    for number, pattern in patterns.items():
        own = ids == number
        if not own.any():
            continue
        if pattern.kind == "hatch":
            _mix(out, own, _ints(FOULS), WASH)
            _mix(out, own & stripes, _ints(FOULS), 0.55)
        elif pattern.kind == "dots":
            _mix(out, own & dots, _ints(ink), 0.6)
        elif pattern.kind == "seam":
            _mix(out, own & _grown(wide) & ~rim, (255, 255, 255), 0.85)
    _mix(out, rim, _ints(ink), OUTLINE)
    for number, pattern in patterns.items():
        own = ids == number
        if pattern.kind == "hatch":
            _mix(out, _grown(own) & wide, _ints(FOULS), 1.0)
        if pattern.chosen:
            around = _grown(_grown(own)) & ~own
            _mix(out, _grown(around), (255, 255, 255), 0.9)
            _mix(out, around, _ints(ink), 1.0)
    return out
