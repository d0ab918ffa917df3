"""What the crossmember is made of: from stock, or typed; its steel, its bends."""

from __future__ import annotations

from functools import lru_cache

from nimble_cradle.desk.kit.fields import ChoiceField
from nimble_cradle.desk.kit.quantity_field import QuantityField
from nimble_cradle.desk.kit.rooms import Room
from nimble_cradle.desk.kit.told_in import told_in
from nimble_cradle.job.cross_section import BarSection, CrossSection, FoldedSection, reshaped
from nimble_cradle.job.edits import with_value
from nimble_cradle.job.hollow_section import HollowSection
from nimble_cradle.stock.cross_sections import every_section
from nimble_cradle.stock.steels import STEELS

_SHAPES = (
    ("square", "square"),
    ("rectangle", "rectangle"),
    ("round", "round"),
    ("bar", "flat bar"),
    ("folded", "folded channel, open below"),
)
_FIELDS = {
    "square": (("Height and width", "height_mm"), ("Wall", "wall_mm")),
    "round": (("Outside", "height_mm"), ("Wall", "wall_mm")),
    "rectangle": (("Height", "height_mm"), ("Width", "width_mm"), ("Wall", "wall_mm")),
    "bar": (("Height", "height_mm"), ("Width", "width_mm")),
    "folded": (
        ("Height of its legs, outside", "height_mm"),
        ("Width over its web", "width_mm"),
        ("Sheet", "wall_mm"),
        ("Inside radius of its bends", "radius_mm"),
        ("Lips outwards, outside; nought: none", "lip_mm"),
    ),
}


class SectionGroup(Room):
    """The fields of the shape that it has when it is built; another shape builds the sheet anew."""

    def build(self) -> None:
        """Choice from stock, shape, sizes, steel, radius."""
        session = self.session
        cross = session.job.crossmember
        assert cross is not None
        self.stock = ChoiceField(session, "From stock", [(name, name) for name in every_section()])
        self.stock.box.activated.disconnect()
        self.stock.box.activated.connect(self._take_stock)
        self.column.addWidget(self.stock)
        shape = ChoiceField(session, "Or typed: shape", _SHAPES)
        self.shape = shape.at("crossmember/section/shape", "Crossmember")
        self.shape.box.activated.disconnect()
        self.shape.box.activated.connect(self._take_shape)
        self.column.addWidget(self.shape)
        for label, name in _FIELDS[cross.section.shape]:
            self.column.addWidget(
                QuantityField(session, label, "length").at(f"crossmember/section/{name}", "Crossmember")
            )
        if isinstance(cross.section, FoldedSection):
            rib = ChoiceField(session, "A rib in it under the mount", ((False, "none"), (True, "welded in")))
            self.column.addWidget(rib.at("crossmember/section/ribbed", "Crossmember"))
        steel = ChoiceField(session, "Steel", [(k, k) for k in STEELS])
        self.column.addWidget(steel.at("crossmember/steel", "Crossmember"))
        if not isinstance(cross.section, FoldedSection) or cross.bend_radius_mm:
            radius = QuantityField(session, "Radius of its bends; nought: mitred and welded", "length")
            self.column.addWidget(radius.at("crossmember/bend_radius_mm", "Crossmember"))

    def refresh(self) -> None:
        cross = self.session.job.crossmember
        if cross is None:
            return
        section = cross.section
        bare = section.model_copy(update={"stock": ""}) if isinstance(section, HollowSection) else section
        same = [k for k, s in enumerate(_bare_sections()) if s == bare]
        self.stock.box.setCurrentIndex(same[0] if same else -1)

    def _take_stock(self, index: int) -> None:
        name = self.stock.choices[index][0]
        with told_in(self.stock.refusal):
            self.session.edit(
                f"Crossmember: {name}",
                with_value(self.session.job, "crossmember/section", every_section()[name]),
            )

    def _take_shape(self, index: int) -> None:
        (shape, name), cross = _SHAPES[index], self.session.job.crossmember
        with told_in(self.shape.refusal):
            assert cross is not None
            self.session.edit(
                f"Crossmember: {name}",
                with_value(self.session.job, "crossmember/section", reshaped(cross.section, shape)),
            )


def name_of(section: CrossSection) -> str:
    """Its shape and sizes in words."""
    sizes = f"{section.height_mm:g} high x {section.wide_mm:g} wide"
    if isinstance(section, BarSection):
        return f"Flat bar {sizes} mm"
    if section.shape == "round":
        return f"Round {section.height_mm:g} x {section.wall_mm:g} mm"
    lips = f", lips {section.lip_mm:g}" if isinstance(section, FoldedSection) and section.lip_mm else ""
    return f"{section.shape.capitalize()} {sizes} x {section.wall_mm:g} mm{lips}"


@lru_cache(maxsize=1)
def _bare_sections() -> tuple[CrossSection, ...]:
    """What is at hand, without the names that tubes have."""
    return tuple(
        s.model_copy(update={"stock": ""}) if isinstance(s, HollowSection) else s
        for s in every_section().values()
    )
