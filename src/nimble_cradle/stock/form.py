"""What a part is cut from or bought as, so that it can be looked for: a form and its sizes."""

from __future__ import annotations

from typing import Literal, NamedTuple


class Form(NamedTuple):
    """kind, with sizes mm: ``tube`` (outside, wall), ``section`` (height, width, wall), ``sheet``
    (thickness,), ``flat`` (width, thickness), ``bush`` (as BushSize, hardness last), ``bolt`` (); name: shape
    of a section, size of a bolt."""

    kind: Literal["tube", "section", "sheet", "flat", "bush", "bolt"]
    sizes: tuple[float, ...] = ()
    name: str = ""
