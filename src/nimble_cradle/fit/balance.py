"""Front-axle share with the powertrain in: moments about the axles."""

from __future__ import annotations

from nimble_cradle.calc import Q, calculation


def front_share(
    front_kg: float, rear_kg: float, powertrain_kg: float, x: float, wheelbase: float
) -> tuple[float, float, float]:
    """Share of the front axle in per cent and both axle loads in kg. x: centre of gravity forward of the
    front axle, mm."""
    on_rear = -x / wheelbase * powertrain_kg
    front, rear = front_kg + powertrain_kg - on_rear, rear_kg + on_rear
    return 100 * front / (front + rear), front, rear


SHARE = calculation(
    "front-axle-share",
    "Share of the front axle with the powertrain in",
    inputs=(
        Q("front_kg", "kg", "front axle without the powertrain, weighed", low=0),
        Q("rear_kg", "kg", "rear axle likewise", low=0),
        Q("powertrain_kg", "kg", "mass of the powertrain", low=0),
        Q("x", "mm", "its centre of gravity in front of the front axle (behind: negative)"),
        Q("wheelbase", "mm", "wheelbase", above=0),
    ),
    outputs=(
        Q("share", "%", "share of the front axle", low=0, high=100),
        Q("front", "kg", "front axle load", low=0),
        Q("rear", "kg", "rear axle load", low=0),
    ),
    formula="rear = rear0 + m (-x) / L;  front = front0 + m - (m (-x) / L)",
    source="moments about the front axle (statics)",
    leaves_out="driver, load and fuel unless they were on board when the axles were weighed",
)(front_share)


def joined(
    front_kg: float, rear_kg: float, height: float, kg: float, x: float, z: float, wheelbase: float
) -> tuple[float, float, float, float]:
    """A vehicle (axle loads kg, height of its centre of gravity over the road mm) with a mass put in (kg >
    0) or taken out (kg < 0) at x forward of the front axle and z over the road: front and rear axle kg,
    share of the front axle in per cent, height of the centre of gravity mm.
    """
    share, front, rear = front_share(front_kg, rear_kg, kg, x, wheelbase)
    whole = front_kg + rear_kg
    if whole + kg <= 0:
        raise ValueError("more is taken out than the vehicle weighs")
    return front, rear, share, (whole * height + kg * z) / (whole + kg)


BALANCE = calculation(
    "balance",
    "Axle loads and height of the centre of gravity with a mass put in or taken out",
    inputs=(
        Q("front_kg", "kg", "front axle before, weighed", low=0),
        Q("rear_kg", "kg", "rear axle before", low=0),
        Q("height", "mm", "centre of gravity over the road before", above=0),
        Q("kg", "kg", "mass put in (taken out: negative)"),
        Q("x", "mm", "its centre of gravity in front of the front axle (behind: negative)"),
        Q("z", "mm", "its height over the road"),
        Q("wheelbase", "mm", "wheelbase", above=0),
    ),
    outputs=(
        Q("front", "kg", "front axle load", low=0),
        Q("rear", "kg", "rear axle load", low=0),
        Q("share", "%", "share of the front axle", low=0, high=100),
        Q("cog", "mm", "centre of gravity over the road"),
    ),
    formula="moments about the front axle;  h = (M h0 + m z) / (M + m)",
    source="statics: moments of weights",
    leaves_out="driver, load and fuel unless they were weighed",
)(joined)
