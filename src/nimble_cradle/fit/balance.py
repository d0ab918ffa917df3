"""Front-axle share with the powertrain in: moments about the axles."""

from __future__ import annotations

from nimble_cradle.calc import Q, calculation


def front_share(front_kg: float, rear_kg: float, powertrain_kg: float, x: float, wheelbase: float) -> tuple[float, float, float]:
    """Share of the front axle in per cent and both axle loads in kg. x: centre of gravity forward of the front axle, mm."""
    on_rear = -x / wheelbase * powertrain_kg
    front, rear = front_kg + powertrain_kg - on_rear, rear_kg + on_rear
    return 100 * front / (front + rear), front, rear


SHARE = calculation(
    "front-axle-share", "Share of the front axle with the powertrain in",
    inputs=(Q("front_kg", "kg", "front axle without the powertrain, weighed", low=0), Q("rear_kg", "kg", "rear axle likewise", low=0),
            Q("powertrain_kg", "kg", "mass of the powertrain", low=0),
            Q("x", "mm", "its centre of gravity in front of the front axle (behind: negative)"),
            Q("wheelbase", "mm", "wheelbase", above=0)),
    outputs=(Q("share", "%", "share of the front axle"), Q("front", "kg", "front axle load"), Q("rear", "kg", "rear axle load")),
    formula="rear = rear0 + m (-x) / L;  front = front0 + m - (m (-x) / L)", source="moments about the front axle (statics)",
    leaves_out="driver, load and fuel unless they were on board when the axles were weighed")(front_share)
