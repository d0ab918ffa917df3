"""Where one stands to look at the bay: the sides square on, so that a height and a length can be compared."""

from __future__ import annotations

_UP = (0.0, 0.0, 1.0)
STANDPOINTS: dict[str, tuple[str, tuple[float, float, float], tuple[float, float, float]]] = {
    "left": ("Left side", (0.0, 1.0, 0.0), _UP),
    "right": ("Right side", (0.0, -1.0, 0.0), _UP),
    "over": ("Over the bonnet", (0.35, 0.0, 1.0), (-1.0, 0.0, 0.4)),
    "front": ("From the front", (1.0, 0.22, 0.3), _UP),
    "under": ("From underneath", (0.3, 0.25, -1.0), (1.0, 0.0, 0.3)),
    "corner": ("Front corner", (0.95, 0.8, 0.62), _UP),
}
