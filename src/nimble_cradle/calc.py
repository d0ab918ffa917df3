"""One registry of every calculation: its inputs with units, its formula, source, and what it leaves out.

The command line's ``calc``, the screen's working drawer and the printed report all read the same
``Worked`` value, so a new calculation is one function with one description above it.
"""

from __future__ import annotations

import difflib
import importlib
import math
import re
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass
from functools import cached_property
from typing import Any

from nimble_cradle.errors import JobError
from nimble_cradle.units import IN, LBF, LBF_FT_NM, Kind, UnitError, parse


class CalcError(JobError):
    """An input that the calculation cannot take; the message is one sentence that names the input."""


@dataclass(frozen=True)
class Quantity:
    """One input or result of a calculation. ``low`` and ``high`` are the values it accepts (of a result:
    what can be); ``above`` excludes a limit; ``whole``: a whole number; ``many``: numbers with commas, places
    as ``u,v; u,v``."""

    name: str
    unit: str
    meaning: str
    default: Any = None
    low: float | None = None
    high: float | None = None
    above: float | None = None
    choices: tuple[str, ...] = ()
    many: bool = False
    whole: bool = False

    @property
    def takes(self) -> str:
        """What it accepts, in words; empty for any number."""
        if self.choices:
            return f"one of {', '.join(self.choices)}"
        said = [
            *(["more than " + f"{self.above:g}"] if self.above is not None else []),
            *(["at least " + f"{self.low:g}"] if self.low is not None else []),
            *(["at most " + f"{self.high:g}"] if self.high is not None else []),
            *(["a whole number"] if self.whole else []),
            *(["numbers with commas, places as u,v; u,v"] if self.many else []),
        ]
        return ", ".join(said)

    def as_dict(self) -> dict[str, Any]:
        """Plain data for ``calc --list --json``."""
        return {
            "name": self.name,
            "unit": self.unit,
            "meaning": self.meaning,
            "default": self.default,
            "at_least": self.low,
            "at_most": self.high,
            "more_than": self.above,
            "whole": self.whole,
            "many": self.many,
            "choices": list(self.choices),
        }


Q = Quantity

KINDS: dict[str, Kind] = {
    "mm": "length",
    "deg": "angle",
    "kg": "mass",
    "N": "force",
    "Nm": "torque",
    "MPa": "stress",
    "N/mm": "stiffness",
    "rpm": "speed",
    "%": "share",
    "": "number",
}
"""The kind of quantity, with all its units, that goes with a unit of a calculation."""
_SCALES: dict[str, dict[str, float]] = {
    "N mm": {"nmm": 1.0, "nm": 1000.0, "knm": 1e6, "lb-ft": 1000 * LBF_FT_NM, "lb-in": LBF * IN},
    "mm2": {"mm2": 1.0, "cm2": 100.0, "in2": IN**2},
    "mm3": {"mm3": 1.0, "cm3": 1000.0, "in3": IN**3},
    "mm4": {"mm4": 1.0, "cm4": 1e4, "in4": IN**4},
    "s": {"s": 1.0, "min": 60.0},
    "kg m2": {"kgm2": 1.0},
    "Hz": {"hz": 1.0},
    "g": {"g": 1.0},
}
"""The other units, each with what it is in its calculation's own."""


def read(q: Quantity, text: str) -> Any:
    """What was typed for an input: ``10mm``, ``3/8in``, ``35 lb-ft``, or a bare number in the input's own
    unit; of many, each. Raises CalcError with one sentence that names the input."""
    if q.choices:
        return text
    if q.many:
        rows = [[f"{_number(q, c):.12g}" for c in row.split(",")] for row in text.split(";") if row.strip()]
        if not rows:
            raise CalcError(f"{q.name} is empty; it takes {q.takes}.")
        return "; ".join(",".join(row) for row in rows)
    return _number(q, text)


def _number(q: Quantity, text: str) -> float:
    typed = text.strip()
    try:
        value = float(typed.replace("_", "?"))
        if math.isfinite(value):
            return value
    except ValueError:
        if q.unit in KINDS and len(typed) <= 60:
            try:
                return parse(typed, KINDS[q.unit])
            except UnitError as error:
                raise CalcError(f"{q.name}: {error}") from None
        match = re.fullmatch(r"([+-]?\d*\.?\d+(?:[eE][+-]?\d+)?)\s*([a-zA-Z].*)", typed)
        scale = _SCALES.get(q.unit, {}).get(re.sub(r"[\s^·]", "", match[2]).lower()) if match else None
        if match and scale:
            return float(match[1]) * scale
    known = _SCALES.get(q.unit) or ({q.unit: 1.0} if q.unit else {})
    raise CalcError(
        f"{q.name} must be a number{f' in {q.unit}' if q.unit else ''}, not “{typed[:40]}”"
        f"{f'; it takes {chr(44).join(known)} too' if len(known) > 1 else ''}."
    )


def places(text: str, size: int = 2) -> list[list[float]]:
    """Places (n, size) typed as ``u,v; u,v``. Raises CalcError."""
    try:
        rows = [[float(c) for c in row.split(",")] for row in text.split(";") if row.strip()]
    except ValueError:
        rows = []
    if not rows or any(len(r) != size for r in rows):
        raise CalcError(f"write the places as {','.join('uvw'[:size])}; {','.join('uvw'[:size])}; ... in mm")
    return rows


def like(name: str, names: Iterable[str]) -> str:
    """`` Did you mean X?`` where a name is near to one of these, else empty."""
    near = difflib.get_close_matches(name, list(names), 1, 0.55)
    return f" Did you mean {near[0]}?" if near else ""


@dataclass(frozen=True)
class Worked:
    """A calculation with its numbers filled in: what any screen or page shows as its working."""

    calculation: Calculation
    inputs: tuple[tuple[Quantity, Any, str], ...]
    outputs: tuple[tuple[Quantity, Any], ...]

    def value(self, name: str) -> Any:
        """The result called ``name``. Raises KeyError."""
        for quantity, value in self.outputs:
            if quantity.name == name:
                return value
        raise KeyError(name)

    def as_dict(self) -> dict[str, Any]:
        """Plain data for ``--json``: inputs with unit and origin, results with unit, formula and source."""
        calc = self.calculation
        return {
            "name": calc.name,
            "title": calc.title,
            "formula": calc.formula,
            "source": calc.source,
            "leaves_out": calc.leaves_out,
            "inputs": [
                {
                    "name": quantity.name,
                    "unit": quantity.unit,
                    "meaning": quantity.meaning,
                    "value": v,
                    "from": origin,
                }
                for quantity, v, origin in self.inputs
            ],
            "results": [
                {"name": quantity.name, "unit": quantity.unit, "meaning": quantity.meaning, "value": v}
                for quantity, v in self.outputs
            ],
        }


@dataclass(frozen=True)
class Calculation:
    """A named calculation: ``function`` takes the inputs by keyword and returns the outputs (one value or
    a tuple)."""

    name: str
    title: str
    inputs: tuple[Quantity, ...]
    outputs: tuple[Quantity, ...]
    formula: str
    source: str
    leaves_out: str
    function: Callable[..., Any]

    def as_dict(self) -> dict[str, Any]:
        """Plain data for ``calc --list --json``."""
        return {
            "name": self.name,
            "title": self.title,
            "formula": self.formula,
            "source": self.source,
            "leaves_out": self.leaves_out,
            "inputs": [quantity.as_dict() for quantity in self.inputs],
            "outputs": [quantity.as_dict() for quantity in self.outputs],
        }

    def work(self, origins: Mapping[str, str] | None = None, **given: Any) -> Worked:
        """Run with checked inputs and keep the numbers. Raises CalcError with one sentence."""
        if not self._names.issuperset(given):
            names = [quantity.name for quantity in self.inputs]
            unknown = min(set(given) - self._names)
            raise CalcError(
                f"{self.name} has no input called {unknown}; it takes {', '.join(names)}."
                f"{like(unknown, names)}"
            )
        values = {quantity.name: given.get(quantity.name, quantity.default) for quantity in self.inputs}
        missing = [quantity for quantity in self.inputs if values[quantity.name] is None]
        if missing:
            wanted = "; ".join(
                f"{quantity.name} ({quantity.meaning}{', ' + quantity.unit if quantity.unit else ''})"
                for quantity in missing
            )
            raise CalcError(f"It still needs {wanted}.")
        for quantity in self.inputs:
            _accept(quantity, values[quantity.name])
        result = self.function(**values)
        results = result if isinstance(result, tuple) and len(self.outputs) > 1 else (result,)
        told = origins or {}
        return Worked(
            self,
            tuple((quantity, values[quantity.name], told.get(quantity.name, "")) for quantity in self.inputs),
            tuple(zip(self.outputs, results, strict=True)),
        )

    @cached_property
    def _names(self) -> frozenset[str]:
        return frozenset(quantity.name for quantity in self.inputs)


def _accept(q: Quantity, value: Any) -> None:
    if q.choices:
        if value not in q.choices:
            near = like(str(value), q.choices)
            raise CalcError(f"{q.name} must be one of {', '.join(q.choices)}, not {value!r}.{near}")
    elif not q.many:
        check_range(q, value)


def check_range(q: Quantity, value: Any) -> None:
    """Raise CalcError where a number is not finite or outside what the quantity accepts."""
    if isinstance(value, bool) or not isinstance(value, (int, float)) or not math.isfinite(value):
        raise CalcError(f"{q.name} must be a number, not {value!r}.")
    if q.low is not None and value < q.low:
        raise CalcError(f"{q.name} ({q.meaning}) must be at least {q.low:g} {q.unit}, not {value:g}.")
    if q.high is not None and value > q.high:
        raise CalcError(f"{q.name} ({q.meaning}) must be at most {q.high:g} {q.unit}, not {value:g}.")
    if q.above is not None and value <= q.above:
        raise CalcError(f"{q.name} ({q.meaning}) must be more than {q.above:g} {q.unit}, not {value:g}.")
    if q.whole and value != int(value):
        raise CalcError(f"{q.name} ({q.meaning}) must be a whole number, not {value:g}.")


def check_results(worked: Worked) -> None:
    """Raise CalcError where a result cannot be: a share below nought, or a number that is none."""
    for quantity, value in worked.outputs:
        if isinstance(value, float | int) and (
            not math.isfinite(value)
            or (quantity.low is not None and value < quantity.low - 1e-9)
            or (quantity.high is not None and value > quantity.high + 1e-9)
        ):
            raise CalcError(
                f"{quantity.meaning} comes out as {value:g} {quantity.unit}, which cannot be: look at"
                " what was typed."
            )


_REGISTRY: dict[str, Calculation] = {}

MODULES = (
    "bay.mass",
    "stock.clearance_holes",
    "families.bonded_stiffness",
    "families.donor_bush",
    "families.factory_foot",
    "families.greased_bush",
    "families.solid_bush",
    "fit.balance",
    "fit.gap",
    "fit.joints",
    "fit.lowest",
    "fit.shafts",
    "fit.steering",
    "geometry.align",
    "geometry.cope",
    "geometry.plate",
    "mounts.captured",
    "mounts.retention",
    "mounts.cases",
    "mounts.settling",
    "mounts.springs",
    "mounts.struts",
    "mounts.vibration",
    "strength.threaded_rod",
    "strength.tube_joint",
    "strength.tie_guard",
    "strength.sleeve",
    "strength.plug_welds",
    "geometry.bend",
    "stock.threads",
    "stock.tubes",
    "strength.beam",
    "strength.bolts",
    "strength.box_arm",
    "strength.cast",
    "strength.cheek",
    "strength.cradle_frame",
    "strength.cross_section",
    "strength.eye",
    "strength.eye_plates",
    "strength.fatigue",
    "strength.cut_tube",
    "strength.flat_pair",
    "strength.head_bearing",
    "strength.kink",
    "strength.member_use",
    "strength.opened",
    "strength.pin",
    "strength.plate",
    "strength.plate_root",
    "strength.pucks",
    "strength.rail_wall",
    "strength.rubber",
    "strength.saddle",
    "strength.section",
    "strength.spacer",
    "strength.strut",
    "strength.thread_hold",
    "strength.tube",
    "strength.weld",
    "survey.adapter",
    "survey.datum",
    "survey.holes",
    "survey.level",
    "survey.network",
    "survey.weighing",
)
"""Every module that holds calculations; a test compares it with the code."""


def calculation(
    name: str,
    title: str,
    *,
    inputs: tuple[Quantity, ...],
    outputs: tuple[Quantity, ...],
    formula: str,
    source: str,
    leaves_out: str = "nothing that matters at this precision",
) -> Callable[[Callable[..., Any]], Calculation]:
    """Register the decorated function as a calculation; the name then *is* the Calculation (call ``.work``
    or ``.function``)."""

    def register(function: Callable[..., Any]) -> Calculation:
        entry = Calculation(name, title, inputs, outputs, formula, source, leaves_out, function)
        if name in _REGISTRY:
            raise ValueError(f"two calculations are called {name}")
        _REGISTRY[name] = entry
        return entry

    return register


def all_calculations() -> dict[str, Calculation]:
    """Every calculation by name, after importing the modules that hold them."""
    for module in MODULES:
        importlib.import_module(f"nimble_cradle.{module}")
    return dict(sorted(_REGISTRY.items()))
