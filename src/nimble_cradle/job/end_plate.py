"""The plates at both ends of the gearbox crossmember, by which it is bolted to the rails."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field, model_validator

from nimble_cradle.job.base import NotNegative, Part, Positive
from nimble_cradle.job.stock_names import BoltClass, BoltSize, SteelName

FIRST: dict[str, Any] = {"first": True}


class EndPlates(Part):
    """Two alike, one at each rail. where: on the rail's inner side, under it or on top of it. along_mm:
    along the rail; other_mm: the other way (up and down, or across the rail). bolts: two or four; pitch_mm:
    apart along the rail, rows_mm: apart the other way where there are four. up_mm: how far the plate's
    middle is above the tube's axis where it is beside the rail. slot_mm: holes are so much longer outwards.
    through: whether bolts go through the rail in sleeves, or into nuts that are held in its wall."""

    where: Literal["beside", "under", "top"] = Field(
        "beside",
        title="They lie",
        json_schema_extra={
            "words": {
                "beside": "on the rails' inner sides",
                "under": "under the rails",
                "top": "on the rails",
            },
            **FIRST,
        },
    )
    plate_mm: Positive = Field(6.0, title="Plate", json_schema_extra=FIRST)
    along_mm: Positive = Field(140.0, title="Along the rail", json_schema_extra=FIRST)
    other_mm: Positive = Field(80.0, title="The other way", json_schema_extra=FIRST)
    up_mm: Annotated[float, Field(ge=-500, le=500)] = Field(0.0, title="Its middle is above the tube's by")
    steel: SteelName = Field("S235", title="Steel of the plates")
    bolt: BoltSize = Field("M10", title="Bolts to the rail")
    bolt_class: BoltClass = Field("8.8", title="Their class")
    bolts: Literal[2, 4] = Field(2, title="Bolts at each end")
    pitch_mm: Positive = Field(100.0, title="Apart along the rail")
    rows_mm: Positive = Field(40.0, title="Rows apart, where there are four")
    hole_mm: Positive = Field(11.0, title="Holes")
    slot_mm: NotNegative = Field(0.0, title="Holes are longer outwards by")
    tightening_nm: Positive = Field(40.0, title="Tightened to")
    through: Literal["sleeves", "captive nuts"] = Field(
        "sleeves",
        title="Bolts go",
        json_schema_extra={"words": {"sleeves": "through it, in sleeves", "captive nuts": "into its wall"}},
    )
    sleeve_mm: Positive = Field(18.0, title="Sleeves, outside")
    throat_mm: Positive = Field(4.0, title="Weld to the tube, throat")

    @model_validator(mode="after")
    def _fits(self) -> EndPlates:
        if self.pitch_mm >= self.along_mm:
            raise ValueError(
                f"bolts {self.pitch_mm:g} mm apart are off a plate of {self.along_mm:g} mm along the rail"
            )
        if self.bolts == 4 and self.rows_mm + self.slot_mm >= self.other_mm:
            raise ValueError(
                f"rows {self.rows_mm:g} mm apart are off a plate of {self.other_mm:g} mm the other way"
            )
        return self
