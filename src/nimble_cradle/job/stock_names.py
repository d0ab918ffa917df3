"""Names of sizes, classes and steels that a job may hold; their figures are in ``stock/``."""

from __future__ import annotations

from typing import Literal

BoltSize = Literal[
    "M6",
    "M8",
    "M10",
    "M12",
    "M14",
    "M16",
    "M18",
    "M20",
    "M8x1",
    "M10x1.25",
    "M12x1.25",
    "M12x1.5",
    "M14x1.5",
    "M16x1.5",
    "M18x1.5",
    "M20x1.5",
    "1/4-20",
    "5/16-18",
    "3/8-16",
    "7/16-14",
    "1/2-13",
    "1/2-20",
    "9/16-12",
    "9/16-18",
    "5/8-11",
    "5/8-18",
]


BoltClass = Literal["8.8", "10.9", "12.9", "grade 5", "grade 8"]
SteelName = Literal["S235", "S275", "S355", "E235", "E355"]
