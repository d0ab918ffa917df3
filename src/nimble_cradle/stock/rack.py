"""The user's rack: what bars, tubes, sheets, bushes and bolts are at hand, from ``rack.json`` in the user's
data folder. Its schema is docs/rack.schema.json."""

from __future__ import annotations

import json
from collections import Counter
from pathlib import Path
from typing import Annotated, Literal

from pydantic import Field, ValidationError

from nimble_cradle.files import data_folder, printable, read_text, there
from nimble_cradle.job.base import JobError, Part, Positive
from nimble_cradle.job.hollow_section import HollowSection
from nimble_cradle.job.job import as_job_error
from nimble_cradle.job.stock_names import BoltClass, BoltSize, SteelName
from nimble_cradle.stock.bushes import FIRST, BushSize
from nimble_cradle.stock.form import Form

MOST_BYTES = 1_000_000
"""No rack is longer; what is, is something else."""
Label = Annotated[str, Field(max_length=80)]
Many = Annotated[int, Field(ge=0, le=100_000)]


class RackTube(Part):
    """A hollow section at hand; width_mm as the height for round and square ones. length_mm: of one piece."""

    shape: Literal["square", "rectangle", "round"]
    height_mm: Positive
    width_mm: Positive | None = None
    wall_mm: Positive
    steel: SteelName = "S235"
    length_mm: Positive = 6000.0
    pieces: Many = 1
    note: Label = ""


class RackBar(Part):
    """A solid bar at hand: a flat by width and thickness, a round or square by its width."""

    shape: Literal["flat", "round", "square"]
    width_mm: Positive
    thickness_mm: Positive | None = None
    steel: SteelName = "S235"
    length_mm: Positive = 6000.0
    pieces: Many = 1
    note: Label = ""


class RackSheet(Part):
    """A sheet or plate at hand."""

    thickness_mm: Positive
    width_mm: Positive = 1000.0
    length_mm: Positive = 2000.0
    steel: SteelName = "S235"
    pieces: Many = 1
    note: Label = ""


class RackBush(Part):
    """A bonded bush at hand."""

    sleeve_mm: Positive
    sleeve_bore_mm: Positive
    eye_bore_mm: Positive
    eye_wall_mm: Positive
    length_mm: Positive
    hardness_shore_a: Annotated[float, Field(ge=20, le=98)]
    pieces: Many = 1
    note: Label = ""


class RackBolt(Part):
    """Bolts at hand."""

    size: BoltSize
    bolt_class: BoltClass = "8.8"
    length_mm: Positive
    pieces: Many = 1
    note: Label = ""


class Rack(Part):
    """All that is at hand; empty where nothing was said."""

    rack: Literal[1] = 1
    tubes: Annotated[tuple[RackTube, ...], Field(max_length=500)] = ()
    bars: Annotated[tuple[RackBar, ...], Field(max_length=500)] = ()
    sheets: Annotated[tuple[RackSheet, ...], Field(max_length=500)] = ()
    bushes: Annotated[tuple[RackBush, ...], Field(max_length=500)] = ()
    bolts: Annotated[tuple[RackBolt, ...], Field(max_length=2000)] = ()

    @property
    def empty(self) -> bool:
        """Whether nothing is on it."""
        return not (self.tubes or self.bars or self.sheets or self.bushes or self.bolts)


NOTHING = Rack()
"""A rack of which nothing was said."""


def rack_place() -> Path:
    """Where the user's rack is kept."""
    return data_folder() / "rack.json"


def read_rack(path: Path | None = None) -> Rack:
    """The rack at ``path``, the user's own without one; an empty one where there is none. Raises JobError
    with one sentence for a file that is no rack."""
    path = path or rack_place()
    if not there(path):
        return Rack()
    name = printable(path.name)
    try:
        return Rack.model_validate(json.loads(read_text(path, MOST_BYTES)))
    except (json.JSONDecodeError, RecursionError):
        raise JobError(f"{name} is not a rack: it is not JSON. Mend it, or take it away.") from None
    except ValidationError as error:
        fault = as_job_error(error)
        at = f" [{fault.place}]" if fault.place else ""
        raise JobError(f"{name} is not a rack: {fault.message.rstrip('.')}{at}.", fault.place) from None


def section_of(tube: RackTube) -> HollowSection:
    """A tube of the rack as a section of a job. Raises JobError where it cannot be one."""
    try:
        return HollowSection(
            stock=tube_name(tube),
            shape=tube.shape,
            height_mm=tube.height_mm,
            width_mm=_width(tube),
            wall_mm=tube.wall_mm,
        )
    except ValidationError as error:
        raise as_job_error(error) from None


def tube_name(tube: RackTube) -> str:
    """``round 48.3x3.2``, as stock is named elsewhere."""
    if tube.shape == "round":
        return f"round {tube.height_mm:g}x{tube.wall_mm:g}"
    return f"{tube.shape} {tube.height_mm:g}x{_width(tube):g}x{tube.wall_mm:g}"


def nearest_tube(rack: Rack, shape: str, height_mm: float, wall_mm: float) -> RackTube | None:
    """The tube of a shape at hand whose sizes are nearest to these, its wall no thinner; None without."""
    fitting = [
        tube for tube in rack.tubes if tube.shape == shape and tube.pieces and tube.wall_mm >= wall_mm - 1e-9
    ]
    return min(fitting, key=lambda t: (abs(t.height_mm - height_mm), t.wall_mm - wall_mm), default=None)


def first_bush(rack: Rack) -> BushSize:
    """The bush that a first mount begins from: the first of the rack that is at hand, else a usual one."""
    found = next((bush for bush in rack.bushes if bush.pieces), None)
    if found is None:
        return FIRST
    return BushSize(**{name: getattr(found, name) for name in BushSize._fields})


class Picked:
    """What a list has taken from the rack so far, so that one bush is not promised to two mounts."""

    def __init__(self, rack: Rack) -> None:
        self.rack = rack
        self.taken: Counter[tuple[Form, str]] = Counter()

    def words(self, form: Form, material: str, pieces: int) -> str:
        """Whether the rack holds what a row is bought as or cut from, and what was not looked at. material:
        a steel's name, or the class of a bolt."""
        held = _LOOK[form.kind](self.rack, form, material)
        if form.kind not in ("bush", "bolt"):  # several parts may come out of one length
            return "such stock on the rack, whether enough is not looked at" if held else "not on the rack"
        self.taken[form, material] += pieces
        short = self.taken[form, material] - held
        if not held or short >= pieces:
            return "not on the rack"
        if short > 0:
            return f"{pieces - short} of {pieces} on the rack"
        return "on the rack, its length not looked at" if form.kind == "bolt" else "on the rack"


def _tubes(rack: Rack, form: Form, material: str) -> int:
    outside, wall = form.sizes
    return _sections(rack, Form("section", (outside, outside, wall), "round"), material)


def _sections(rack: Rack, form: Form, material: str) -> int:
    """A rectangle is the same stock standing or lying."""
    height, width, wall = form.sizes
    wanted = form.name, {height, width}, wall, material
    pieces = 0
    for tube in rack.tubes:
        own = tube.shape, {tube.height_mm, _width(tube)}, tube.wall_mm, tube.steel
        pieces += tube.pieces if own == wanted else 0
    return pieces


def _width(tube: RackTube) -> float:
    """Its width, mm: its height where it is round or square, or where none is said."""
    return tube.width_mm if tube.shape == "rectangle" and tube.width_mm else tube.height_mm


def _sheets(rack: Rack, form: Form, material: str) -> int:
    return sum(s.pieces for s in rack.sheets if (s.thickness_mm, s.steel) == (form.sizes[0], material))


def _flats(rack: Rack, form: Form, material: str) -> int:
    return sum(
        b.pieces
        for b in rack.bars
        if (b.shape, b.width_mm, b.thickness_mm, b.steel) == ("flat", *form.sizes, material)
    )


def _bushes(rack: Rack, form: Form, material: str) -> int:
    return sum(
        bush.pieces
        for bush in rack.bushes
        if tuple(getattr(bush, name) for name in BushSize._fields) == form.sizes
    )


def _bolts(rack: Rack, form: Form, material: str) -> int:
    return sum(bolt.pieces for bolt in rack.bolts if (bolt.size, bolt.bolt_class) == (form.name, material))


_LOOK = {
    "tube": _tubes,
    "section": _sections,
    "sheet": _sheets,
    "flat": _flats,
    "bush": _bushes,
    "bolt": _bolts,
}
