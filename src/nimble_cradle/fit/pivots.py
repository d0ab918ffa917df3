"""The pivots of a suspension by name: what each is called, and which of them go with the upright."""

from __future__ import annotations

from nimble_cradle.job.suspension import LinkedAxle, Pivot, StrutCorner, Suspension

PIVOTS: dict[str, str] = {
    "lower_front": "Lower arm, front pivot",
    "lower_rear": "Lower arm, rear pivot",
    "lower_ball": "Lower ball",
    "upper_front": "Upper arm, front pivot",
    "upper_rear": "Upper arm, rear pivot",
    "upper_ball": "Upper ball",
    "strut_low": "Strut, at the upright",
    "strut_top": "Strut, top bearing",
    "rod_inner": "Tie rod, inner ball",
    "rod_outer": "Tie rod, outer ball",
    "wheel": "Wheel's middle",
    "left_wheel": "Left wheel's middle",
    "right_wheel": "Right wheel's middle",
}
"""What each pivot is called."""
ON_UPRIGHT = ("lower_ball", "upper_ball", "strut_low", "rod_outer", "wheel")
"""Those that go with the upright."""


def _by_key(one: Suspension) -> dict[str, Pivot]:
    if isinstance(one, LinkedAxle):
        return {"left_wheel": one.left_wheel, "right_wheel": one.right_wheel}
    arm = {"lower_front": one.lower_front, "lower_rear": one.lower_rear, "lower_ball": one.lower_ball}
    steered = {"rod_inner": one.rod_inner, "rod_outer": one.rod_outer, "wheel": one.wheel}
    if isinstance(one, StrutCorner):
        return {**arm, "strut_low": one.strut_low, "strut_top": one.strut_top, **steered}
    upper = {"upper_front": one.upper_front, "upper_rear": one.upper_rear, "upper_ball": one.upper_ball}
    return {**arm, **upper, **steered}


def pivots_of(one: Suspension) -> dict[str, tuple[str, Pivot]]:
    """All pivots of a suspension: path below it -> (what it is called, the pivot)."""
    out = {key: (PIVOTS[key], pivot) for key, pivot in _by_key(one).items()}
    for link in one.links if isinstance(one, LinkedAxle) else ():
        out[f"links/{link.id}/car"] = f"{link.name}, at the car", link.car
        out[f"links/{link.id}/axle"] = f"{link.name}, at the axle", link.axle
    return out
