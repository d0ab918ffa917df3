"""The usual cautions of the work, each written once. Stages and rooms show those of their own danger above
everything else; the pack prints those of the stages. All are common practice, no source."""

from __future__ import annotations

STANDS = "Stands on rated points, on level ground. Never get under a vehicle that is held only by a jack."
LEVELLING = (
    "Stands on rated points, on level ground; wheels chocked. Lift one stand at a time and never with"
    " anybody underneath."
)
SPRINGS = "A spring is under load: hold it before an arm or a strut comes off."
PIVOTS = (
    f"{SPRINGS} Stands on rated points. Steering and suspension that are changed belong before a licensed"
    " engineer or inspector; a qualified welder makes their welds."
)
GAS = (
    "Air-conditioning gas is let out by a licensed hand. Petrol, oil and coolant are drained cold, into"
    " closed cans."
)
WEIGHING = (
    "An engine that hangs or is tilted swings and rolls: slings round the block or in rated eyes, never by a"
    " manifold; chock it, stand clear, no hand under it."
)
LIFTING = (
    "Never a hand or a body under an engine held only by a crane or jack. Support the gearbox before the"
    " engine is lifted; lift in rated eyes, never by a manifold."
)
REMOVING = f"{LIFTING} Nobody leans over it while it hangs."
CUTTING = (
    "Brace before a member is cut, box it after: it may carry the whole car. Rack mounts, suspension pivots"
    " and headlamps may not be for sale: ask the inspector first. Battery and fuel away from the cutter."
)
TACKING = (
    "Tacking or welding in the car: battery off, fuel and lining away from the heat, a fire watch until half"
    " an hour after. A closed tube can hold vapour: look into it and blow it out first."
)
LIGHT_METAL = "Steel is never welded to magnesium or aluminium: magnesium swarf burns. Bolt it, kept apart."
BUSHES = (
    "Pull the bush before its eye or bracket is welded: it burns. Fumes of rubber, zinc and paint are"
    " poisonous; polyurethane holds isocyanates: gloves, and air from outside."
)
ROCKING = (
    "Rocking it: brake on, wheels chocked. On the throttle nobody stands before or behind the car; hands,"
    " hair and sleeves away from fan, belts and exhaust; fumes led outside."
)
AFTERWARDS = "Solid mounts crack brackets. Tighten every bolt again after the first drives."
BENCH = (
    "Guards stay on grinders; eyes and ears covered. Magnesium swarf burns. Steel cannot be welded to"
    " magnesium or aluminium: bolt it."
)
