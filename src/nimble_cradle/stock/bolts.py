"""Property classes of bolts: ISO 898-1:2013 table 3, SAE J429 (both from memory)."""

from __future__ import annotations

from dataclasses import dataclass

from nimble_cradle.calc import CalcError
from nimble_cradle.units import PSI_MPA


@dataclass(frozen=True)
class BoltClass:
    """Proof stress and tensile strength in MPa; shear_share: of the tensile strength in the thread (EN
    1993-1-8 table 3.4)."""

    proof: float
    tensile: float
    shear_share: float


def bolt_class(name: str, diameter: float) -> BoltClass:
    """Strengths of a property class; they step with the diameter (mm) for 8.8 at 16 mm. Raises CalcError."""
    if name == "8.8":
        return BoltClass(580, 800, 0.6) if diameter <= 16 else BoltClass(600, 830, 0.6)
    table = {
        "10.9": BoltClass(830, 1040, 0.5),
        "12.9": BoltClass(970, 1220, 0.5),
        "grade 5": BoltClass(85e3 * PSI_MPA, 120e3 * PSI_MPA, 0.6),
        "grade 8": BoltClass(120e3 * PSI_MPA, 150e3 * PSI_MPA, 0.5),
    }
    if name not in table:
        raise CalcError(f"There is no bolt class {name!r}; the table has 8.8, {', '.join(table)}.")
    return table[name]
