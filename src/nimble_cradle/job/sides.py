"""Sides of a thing, square to the car's axes."""

from __future__ import annotations

from typing import Literal

Side = Literal["top", "bottom", "front", "back", "left", "right"]
SideOrNot = Literal["unsaid", "top", "bottom", "front", "back", "left", "right"]
