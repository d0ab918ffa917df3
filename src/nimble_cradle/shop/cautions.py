"""The cautions, once each, in full; screens, pack and report show those that belong there."""

from __future__ import annotations

NOT_APPROVED = (
    "This program calculates and records; it does not approve. Engine swaps and structural, steering and"
    " suspension changes are regulated nearly everywhere: the local code and a licensed engineer or inspector"
    " decide, and a qualified welder makes the welds that lives hang on."
)

CAUTIONS: dict[str, str] = {
    "survey": (
        "Stands on rated points, on level ground; wheels chocked. Lift one stand at a time and never with"
        " anybody underneath."
    ),
    "bay": "Stands on rated points, on level ground. Never get under a vehicle that is held only by a jack.",
    "position": (
        "Never a hand or a body under an engine held only by a crane or jack. Support the gearbox before the"
        " engine is lifted."
    ),
    "mounts": (
        "Pull the bush before its eye or bracket is welded, or it burns. Fumes from burning rubber and from"
        " zinc and paint are poisonous. Two-part polyurethane holds isocyanates: gloves, and air from"
        " outside."
    ),
    "crossmember": (
        "Battery off before welding. Fuel, lines, carpets and undersealing away from the heat; a fire watch"
        " while you weld and half an hour after. Closed sections can hold flammable vapour: look in and blow"
        " out first."
    ),
    "pack": (
        "Guards stay on grinders; eyes and ears covered. Magnesium swarf burns. Steel cannot be welded to"
        " magnesium or aluminium: bolt it."
    ),
}
