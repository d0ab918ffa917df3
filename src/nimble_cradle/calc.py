"""One registry of every calculation: its inputs with units, its formula, source, and what it leaves out.

The command line's ``calc``, the screen's working drawer and the printed report all read the same
``Worked`` value, so a new calculation is one function with one description above it.
"""

from __future__ import annotations

import importlib
import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

from nimble_cradle.errors import JobError


class CalcError(JobError):
    """An input that the calculation cannot take; the message is one sentence that names the input."""


@dataclass(frozen=True)
class Quantity:
    """One input or result of a calculation. ``low`` and ``high`` are the values it accepts; ``above``
    excludes a limit."""

    name: str
    unit: str
    meaning: str
    default: Any = None
    low: float | None = None
    high: float | None = None
    above: float | None = None
    choices: tuple[str, ...] = ()
    many: bool = False


Q = Quantity


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
                {"name": q.name, "unit": q.unit, "meaning": q.meaning, "value": v, "from": origin}
                for q, v, origin in self.inputs
            ],
            "results": [
                {"name": q.name, "unit": q.unit, "meaning": q.meaning, "value": v} for q, v in self.outputs
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

    def work(self, origins: Mapping[str, str] | None = None, **given: Any) -> Worked:
        """Run with checked inputs and keep the numbers. Raises CalcError with one sentence."""
        values = {q.name: self._accept(q, given) for q in self.inputs}
        unknown = set(given) - set(values)
        if unknown:
            raise CalcError(
                f"{self.name} has no input called {sorted(unknown)[0]}; it takes {', '.join(values)}."
            )
        result = self.function(**values)
        results = result if isinstance(result, tuple) and len(self.outputs) > 1 else (result,)
        told = origins or {}
        return Worked(
            self,
            tuple((q, values[q.name], told.get(q.name, "")) for q in self.inputs),
            tuple(zip(self.outputs, results, strict=True)),
        )

    def _accept(self, q: Quantity, given: Mapping[str, Any]) -> Any:
        value = given.get(q.name, q.default)
        if value is None:
            raise CalcError(f"{self.name} needs {q.name} ({q.meaning}{', ' + q.unit if q.unit else ''}).")
        if q.choices:
            if value not in q.choices:
                raise CalcError(f"{q.name} must be one of {', '.join(q.choices)}, not {value!r}.")
            return value
        if not q.many:
            check_range(q, value)
        return value


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


_REGISTRY: dict[str, Calculation] = {}

MODULES = (
    "fit.gaps",
    "lowest",
    "fit.joints",
    "fit.shafts",
    "fit.balance",
    "mounts.bush",
    "mounts.mass",
    "mounts.cases",
    "mounts.springs",
    "mounts.vibration",
    "strength.threads",
    "strength.bolts",
    "strength.plate",
    "strength.sections",
    "strength.tube",
    "strength.weld",
    "strength.pin",
    "strength.beam",
    "geometry.cope",
    "geometry.plate",
    "survey.level",
    "survey.datum",
    "survey.network",
    "survey.holes",
    "survey.adapter",
    "survey.weighing",
)


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
