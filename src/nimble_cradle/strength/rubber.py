"""How hard the rubber of a bonded bush is used."""

from __future__ import annotations

from nimble_cradle.calc import Q, calculation


def bush_pressure(load: float, sleeve: float, length: float) -> float:
    """Mean pressure MPa of a radial load on the sleeve's projected area."""
    return load / (sleeve * length)


PRESSURE = calculation(
    "bush-pressure",
    "Pressure on the rubber of a bush",
    inputs=(
        Q("load", "N", "radial load", low=0),
        Q("sleeve", "mm", "sleeve outside diameter", above=0),
        Q("length", "mm", "rubber length", above=0),
    ),
    outputs=(Q("pressure", "MPa", "mean pressure on the projected area"),),
    formula="p = F / (d L)",
    source="definition; the limit is common practice, no source",
    leaves_out="edge peaks and tilt of the sleeve",
)(bush_pressure)


def _pressure_use(load: float, sleeve: float, length: float, most: float) -> tuple[float, float]:
    pressure = bush_pressure(load, sleeve, length)
    return pressure / most, pressure


PRESSURE_USE = calculation(
    "bush-pressure-use",
    "Pressure on the rubber against what it takes",
    inputs=(*PRESSURE.inputs, Q("most", "MPa", "the most allowed (the job's own)", above=0)),
    outputs=(Q("use", "", "share used"), Q("pressure", "MPa", "mean pressure on the projected area")),
    formula="F / (d L) / most",
    source=PRESSURE.source,
    leaves_out=PRESSURE.leaves_out,
)(_pressure_use)


def bush_strain(movement: float, sleeve: float, eye_bore: float) -> float:
    """Radial movement as a share of the rubber's wall."""
    return movement / ((eye_bore - sleeve) / 2)


STRAIN = calculation(
    "bush-strain",
    "How far the rubber wall is used up",
    inputs=(
        Q("movement", "mm", "radial movement of the sleeve", low=0),
        Q("sleeve", "mm", "sleeve outside diameter", above=0),
        Q("eye_bore", "mm", "bore of the eye", above=0),
    ),
    outputs=(Q("strain", "", "movement / wall"),),
    formula="movement / ((D - d)/2)",
    source="definition; the limit is common practice, no source",
    leaves_out="stiffening, which holds the sleeve back at large strain",
)(bush_strain)


def _strain_use(movement: float, sleeve: float, eye_bore: float, most: float) -> tuple[float, float]:
    share = bush_strain(movement, sleeve, eye_bore)
    return share / most, share


STRAIN_USE = calculation(
    "bush-strain-use",
    "How far the rubber wall is used up, against what it takes",
    inputs=(
        *STRAIN.inputs,
        Q("most", "", "share of the wall that is taken: 0.15 at rest, 0.30 every day, 0.55 rarely", above=0),
    ),
    outputs=(Q("use", "", "share used"), Q("share", "", "movement / wall")),
    formula="movement / ((D - d)/2) / most",
    source="definition; the limits are common practice, no source",
    leaves_out=STRAIN.leaves_out,
)(_strain_use)


def axial_strain(movement: float, sleeve: float, eye_bore: float, most: float) -> tuple[float, float]:
    """Use and share of the rubber's wall that a movement along the bolt is."""
    share = abs(movement) / ((eye_bore - sleeve) / 2)
    return share / most, share


AXIAL = calculation(
    "bush-axial",
    "A bush pushed along its bolt",
    inputs=(
        Q("movement", "mm", "along the bolt"),
        Q("sleeve", "mm", "sleeve outside diameter", above=0),
        Q("eye_bore", "mm", "bore of the eye", above=0),
        Q("most", "", "share of the wall that is taken: 0.15 at rest, 0.30 every day", above=0),
    ),
    outputs=(Q("use", "", "share used"), Q("share", "", "movement / wall")),
    formula="|u| / ((D - d)/2) <= 0.15 at rest, 0.30 every day",
    source="common practice, no source",
    leaves_out="the eye meeting the cheek, which is looked at by itself",
)(axial_strain)
