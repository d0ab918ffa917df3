"""What arms of flat bar and of plate have alike: their height, steel and welds."""

from __future__ import annotations

from typing import ClassVar

from pydantic import Field

from nimble_cradle.job.base import Part, Positive
from nimble_cradle.job.stock_names import SteelName


class BarArm(Part):
    """A straight arm whose height is square to the eye's axis and may taper from plate to eye. Its axis meets
    the eye's. most_slope_deg: so far off square may it leave its plate; least_eye_deg: so near may it come to
    the eye's axis."""

    most_slope_deg: ClassVar[float] = 30.0
    least_eye_deg: ClassVar[float] = 60.0
    offset_mm: ClassVar[float] = 0.0

    tall_mm: Positive = Field(60.0, title="Height at the plate")
    tall_at_eye_mm: Positive = Field(40.0, title="Height at the eye")
    steel: SteelName = Field("S235", title="Arm steel")
    weld_throat_mm: Positive = Field(3.0, title="Weld throat")
