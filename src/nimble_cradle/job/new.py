"""A job to begin with: round figures to type over, one block to stand for the engine, and a clearance
table."""

from __future__ import annotations

from nimble_cradle.job.bay import Clearance, Vehicle
from nimble_cradle.job.job import Job
from nimble_cradle.job.powertrain import Engine, Gearbox, Piece, Position, Powertrain
from nimble_cradle.job.shapes import Box

CLEARANCES = (
    ("metal", "Solid metal", 10.0, "Room to rock and to get a feeler in."),
    ("sheet", "Sheet metal, glass fibre", 12.0, "Panels drum and dent."),
    ("hose", "Hoses, pipes, wires", 18.0, "They chafe and swell."),
    ("hot", "Hot exhaust parts", 30.0, "Shield what is nearer."),
    ("turning", "Fan, pulleys, flanges", 15.0, "Belts whip and shafts flex."),
    ("steering", "Steering", 20.0, "Nothing may ever touch it."),
    ("moving", "Axle, links, linkages", 45.0, "At ride height; they rise in bump."),
)
"""Starting values (common practice, no source); every one is the user's to change."""


def new_job(name: str) -> Job:
    """A job with nothing measured yet. Its figures are placeholders and its story says so."""
    return Job(
        name=name,
        story=(
            "Nothing is measured yet: the vehicle's figures, the block and the clearances are placeholders to"
            " type over."
        ),
        vehicle=Vehicle(
            name="The vehicle",
            wheelbase_mm=2600,
            front_axle_kg=600,
            rear_axle_kg=600,
            cog_height_mm=550,
            tyre_radius_mm=310,
            final_drive=4.0,
            ground_z_mm=-550,
            lowest_line_z_mm=-150,
            axle_input=(-2400, 0, -150),
            axle_input_direction=(-1, 0, -0.05),
        ),
        clearances=tuple(Clearance(id=i, name=n, required_mm=r, why=w) for i, n, r, w in CLEARANCES),
        items=(),
        powertrain=Powertrain(
            name="The powertrain",
            engine=Engine(name="The engine", cylinders=4, torque_nm=200, idle_rpm=850, redline_rpm=6500),
            gearbox=Gearbox(name="The gearbox", ratios=(3.5, 2.0, 1.4, 1.0), output=(-750, 0, 0)),
            pieces=(
                Piece(
                    id="block",
                    name="Block and head",
                    mass_kg=140,
                    shapes=(Box(centre=(230, 0, 150), size=(460, 320, 520)),),
                ),
                Piece(
                    id="gearbox",
                    name="Gearbox",
                    mass_kg=45,
                    shapes=(Box(centre=(-370, 0, 0), size=(740, 240, 240)),),
                ),
            ),
        ),
        position=Position(x=-250, z=50, pitch_deg=3),
    )
