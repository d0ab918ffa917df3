"""Reading and writing of lengths, angles, forces, masses and torques in the user's words.

Inside the program lengths are mm, angles degrees (rad in formulas), forces N, masses kg. Every conversion
is exact and derived from one base figure each (25.4 mm to the inch, 0.45359237 kg to the pound, 9.80665
m/s^2), as in NIST SP 811 (2008), appendix B (from memory; these are definitions).
"""

from __future__ import annotations

import math
import re
from dataclasses import dataclass
from fractions import Fraction
from typing import Literal

IN = 25.4
"""mm in an inch (exact)."""
FT = 12 * IN
G_STANDARD = 9.80665
"""Standard gravity, m/s2 (exact by definition, CGPM 1901)."""
LB = 0.45359237
"""kg in a pound (exact, 1959)."""
LBF = LB * G_STANDARD
LBF_FT_NM = LBF * FT / 1000
PSI_MPA = LBF / IN**2

LengthUnit = Literal["mm", "in"]
Kind = Literal[
    "length",
    "angle",
    "force",
    "mass",
    "torque",
    "stress",
    "stiffness",
    "line force",
    "speed",
    "number",
    "share",
]

_LENGTH = {
    "mm": 1.0,
    "cm": 10.0,
    "m": 1000.0,
    "in": IN,
    "inch": IN,
    "inches": IN,
    '"': IN,
    "″": IN,
    "”": IN,
    "''": IN,
    "ft": FT,
    "foot": FT,
    "feet": FT,
    "'": FT,
    "′": FT,
    "’": FT,
}
_OTHER: dict[str, dict[str, float]] = {
    "angle": {"deg": 1.0, "°": 1.0, "rad": math.degrees(1.0)},
    "force": {"n": 1.0, "kn": 1000.0, "lbf": LBF, "lb": LBF, "kgf": G_STANDARD},
    "mass": {"kg": 1.0, "g": 0.001, "lb": LB, "lbs": LB},
    "torque": {"nm": 1.0, "n·m": 1.0, "lb-ft": LBF_FT_NM, "lbf·ft": LBF_FT_NM, "lbft": LBF_FT_NM},
    "stress": {"mpa": 1.0, "n/mm²": 1.0, "psi": PSI_MPA, "ksi": 1000 * PSI_MPA},
    "stiffness": {"n/mm": 1.0, "lbf/in": LBF / IN},
    "line force": {"n/mm": 1.0, "lbf/in": LBF / IN},
    "speed": {"rpm": 1.0},
    "number": {},
    "share": {"%": 1.0},
}
_METRIC = {
    "angle": "deg",
    "force": "N",
    "mass": "kg",
    "torque": "Nm",
    "stress": "MPa",
    "stiffness": "N/mm",
    "line force": "N/mm",
    "speed": "rpm",
    "number": "",
    "share": "%",
    "length": "mm",
}
_IMPERIAL = {
    **_METRIC,
    "force": "lbf",
    "mass": "lb",
    "torque": "lb-ft",
    "stress": "psi",
    "stiffness": "lbf/in",
    "line force": "lbf/in",
    "length": "in",
}


class UnitError(ValueError):
    """What was typed could not be read; the message is one sentence for the person who typed it."""


@dataclass(frozen=True)
class Display:
    """How quantities are shown: metric or inch, and inch fractions down to 1/16 or 1/32 (0: decimals)."""

    length: LengthUnit = "mm"
    fraction: Literal[0, 16, 32] = 0


METRIC = Display()

_NUMBER = r"(?:\d+\s+\d+\s*/\s*\d+|\d+\s*/\s*\d+|\d*[.,]?\d+)"
_TERM = re.compile(
    rf"\s*(?P<sign>[+\-−])?\s*(?P<number>{_NUMBER})\s*(?P<unit>[a-zA-Z°\"'″”′’%·²/-]*[a-zA-Z°\"'″”′’%²])?\s*"
)


def _number(text: str, typed: str) -> float:
    """A decimal, a fraction or a mixed number as a float. Raises UnitError for 1,250 (two readings) and
    x/0."""
    if re.fullmatch(r"\d{1,3},\d{3}", text):
        raise UnitError(
            f"“{typed}” can be read two ways; write {text.replace(',', '')} or {text.replace(',', '.')}."
        )
    parts = text.replace(",", ".").split("/")
    if len(parts) == 1:
        return float(parts[0])
    *whole, top = parts[0].split()
    if int(parts[1]) == 0:
        raise UnitError(f"“{typed}” divides by nought.")
    return float(Fraction(int(whole[0]) if whole else 0) + Fraction(int(top), int(parts[1])))


def _terms(typed: str) -> list[tuple[float, str, str]]:
    """Split what was typed in (signed value, unit, number text). Raises UnitError where a part cannot be
    read."""
    text = typed.strip()
    if not text:
        raise UnitError("Nothing was typed; a number is needed.")
    if len(text) > 60:
        raise UnitError("That is too long to be one measurement.")
    if re.search(r"\d-\d+\s*/\s*\d+", text):
        raise UnitError(
            f"“{typed}” can be read two ways; write {text.replace('-', ' ')} or {text.replace('-', ' - ')}."
        )
    found: list[tuple[float, str, str]] = []
    at = 0
    while at < len(text):
        match = _TERM.match(text, at)
        if match is None or (
            found and not match["sign"] and found[-1][1] not in ("ft", "foot", "feet", "'", "′", "’")
        ):
            raise UnitError(f"Could not read “{text[at:].strip() or typed}” in “{typed}”.")
        sign = -1.0 if match["sign"] in ("-", "−") else 1.0
        if found and not match["sign"] and found[-1][0] < 0:
            sign = -1.0
        found.append((sign * _number(match["number"], typed), (match["unit"] or "").lower(), match["number"]))
        at = match.end()
    return found


def parse_length(typed: str, default: LengthUnit = "mm") -> float:
    """Length in mm from what was typed: ``32``, ``32 in``, ``1 1/4"``, ``9/16``, ``55mm``, ``2' 3"``,
    ``60-4``.

    A bare fraction is inches (nobody measures 9/16 mm); other bare numbers take the one unit that is
    named, else ``default``. Raises UnitError with a sentence.
    """
    terms = _terms(typed)
    for _, unit, _ in terms:
        if unit and unit not in _LENGTH:
            raise UnitError(f"“{unit}” is not a length; use mm, cm, m, in or ft.")
    named = {_LENGTH[unit] for _, unit, _ in terms if unit}
    total = 0.0
    for index, (value, unit, number) in enumerate(terms):
        after_feet = index > 0 and not unit and _LENGTH.get(terms[index - 1][1]) == FT
        if unit:
            scale = _LENGTH[unit]
        elif after_feet or "/" in number:
            scale = IN
        elif len(named) > 1:
            raise UnitError(f"Say the unit of {number} in “{typed}”.")
        else:
            scale = next(iter(named)) if named else {"mm": 1.0, "in": IN}[default]
        total += value * scale
    return total


def parse(typed: str, kind: Kind, display: Display = METRIC) -> float:
    """Value in the program's own unit (mm, deg, N, kg, Nm, MPa, N/mm, rpm) from what was typed. Raises
    UnitError."""
    if kind == "length":
        return parse_length(typed.replace(NEARLY.strip(), ""), display.length)
    table = _OTHER[kind]
    bare = table.get(unit_of(kind, display).lower(), 1.0)
    total = 0.0
    for value, unit, _ in _terms(typed):
        if unit and unit not in table:
            wanted = ", ".join(dict.fromkeys(table)) or "a plain number"
            raise UnitError(f"“{unit}” does not fit here; use {wanted}.")
        total += value * (table[unit] if unit else bare)
    return total


def unit_of(kind: Kind, display: Display = METRIC) -> str:
    """The unit that goes with a kind of quantity in this display, as text ('' for a plain number)."""
    return (_METRIC if display.length == "mm" else _IMPERIAL)[kind]


def imperial(value: float, kind: Kind) -> tuple[float, str]:
    """A value in the inch world's unit of its kind, and that unit."""
    unit = _IMPERIAL[kind]
    scale = _LENGTH[unit] if kind == "length" else _OTHER[kind].get(unit.lower(), 1.0)
    return value / scale, unit


NEARLY = "≈ "
"""Before a fraction that is not the size itself."""
ON_THE_MARK = 0.05
"""A size within so many mm of a mark of the rule is that mark: a rule is read to ten times as much."""


def _fraction_text(inches: float, parts: int) -> str:
    """Inches to the nearest 1/parts as ``1 1/4``, ``-9/16`` or ``3``."""
    ticks = round(abs(inches) * parts)
    whole, rest = divmod(ticks, parts)
    sign = "-" if inches < 0 and ticks else ""
    if rest == 0:
        return f"{sign}{whole}"
    part = Fraction(rest, parts)
    lead = f"{whole} " if whole else ""
    return f"{sign}{lead}{part.numerator}/{part.denominator}"


def number_text(value: float, decimals: int) -> str:
    """Fixed decimals without a negative zero."""
    text = f"{value:.{decimals}f}"
    return text.lstrip("-") if float(text) == 0 else text


def show(value: float, kind: Kind, display: Display = METRIC, decimals: int | None = None) -> str:
    """Value with its unit as text. ``parse`` of the text gives the value back to the shown precision.

    value: in the program's own unit. decimals: for metric; inch lengths get two more.
    """
    if not math.isfinite(value):
        return "none"
    usual = {
        "length": 1,
        "angle": 2,
        "force": 0,
        "mass": 1,
        "torque": 0,
        "stress": 0,
        "stiffness": 0,
        "line force": 0,
        "speed": 0,
        "number": 2,
        "share": 0,
    }[kind]
    if kind == "stress" and abs(value) < 20:
        usual = 1
    places = usual if decimals is None else decimals
    unit = unit_of(kind, display)
    if kind == "length" and display.length == "in":
        if display.fraction:
            nearest = round(value / IN * display.fraction) / display.fraction * IN
            about = "" if abs(nearest - value) <= ON_THE_MARK else NEARLY
            return f"{about}{_fraction_text(value / IN, display.fraction)} in"
        return f"{number_text(value / IN, places + 2)} in"
    scale = 1.0 if display.length == "mm" else _OTHER.get(kind, {}).get(unit.lower(), 1.0)
    return f"{number_text(value / scale, places)} {unit}".strip()
