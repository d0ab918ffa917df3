"""A torque strut's end on the engine as what a mount is there: a plate on its bosses, with two ears in which
the eye hangs instead of an arm. Powertrain frame throughout: it moves with the engine."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from nimble_cradle.families.cheeks import OnFoot
from nimble_cradle.families.eared import EaredMount
from nimble_cradle.families.family import LoadPath, eye_of
from nimble_cradle.families.foot_seat import Face, FootSeat, HostMetal
from nimble_cradle.families.on_wall import MOST_LEAN
from nimble_cradle.families.strut_stand import EYE_GAP, GAP, T, strut_bush, told_at
from nimble_cradle.findings.finding import Finding
from nimble_cradle.findings.worst import MountCase
from nimble_cradle.geometry.pose import Array, cross, frame, unit
from nimble_cradle.job.base import JobError
from nimble_cradle.job.foot import TabsFoot
from nimble_cradle.job.mounts import CrossBolt
from nimble_cradle.job.remember import of_same
from nimble_cradle.job.strut import Ears, Strut
from nimble_cradle.stock.steels import STEELS

_FAR = 1e3
"""The plate is no face that ends under its ears, mm: its outline is drawn round them."""
_CODES = {
    "foot-cheeks": ("ear-bent", "ears bent at their plate"),
    "foot-cheek-weld": ("ear-weld", "welds of ears to their plate"),
    "foot-cheek-end": ("ear-end", "metal round the bolt in the ears"),
    "foot-room": ("ear-room", "eye on its way to the ears' plate"),
    "foot-life": ("ear-life", "welds of ears to their plate, in their life"),
    "cross-bolt": ("ear-bolt", "bolt through its eye on the engine, in double shear"),
    "cheeks": ("ear-bearing", "ears under that bolt"),
    "play": ("ear-play", "play of that bolt"),
    "cross-tightening": ("ear-tightening", "tightening of that bolt"),
    "sleeve": ("ear-sleeve", "ends of the sleeve on the engine"),
    "plate": ("plate", "plate at the ears' root"),
}
"""What is found of cheeks, and what that is called of ears."""
LOAD_PATH: LoadPath = (
    ("its bolts to the engine", ("bolts", "slip", "tightening", "head")),
    ("thread in the engine", ("thread",)),
    ("its plate", ("plate", "plate-line", "bearing", "edge")),
    ("its ears", ("ear-bent", "ear-weld", "ear-end", "ear-room", "ear-life", "ear-bearing")),
    ("bolt through its eye on the engine", ("ear-bolt", "ear-play")),
)


def ears_of(strut: Strut) -> Ears:
    """What is said of a strut's ears; only of one that has some."""
    assert strut.ears is not None
    return strut.ears


@of_same()
def on_engine(strut: Strut) -> tuple[EaredMount, FootSeat]:
    """The strut's end on the engine as a mount on a plate of its own, and where its ears stand on that.
    Raises JobError where they cannot."""
    ears = ears_of(strut)
    seat = _seat(strut, ears)
    axes, out = frame(ears.pad.normal, ears.pad.up), seat.axes[:, 2]
    u, v, _ = ((seat.centre - np.asarray(ears.pad.centre)) @ axes).tolist()
    along = unit(axes[:, :2].T @ seat.axes[:, 1])
    foot = TabsFoot(
        host="engine",
        way=(-float(out[0]), -float(out[1]), -float(out[2])),
        cheek_foot_mm=ears.foot_mm,
        cheek_weld_mm=ears.weld_mm,
        weld_inside=ears.weld_inside,
    )
    through = CrossBolt(
        bolt=strut.bolt,
        bolt_class=strut.bolt_class,
        cheek_mm=ears.ear_mm,
        cheek_steel=ears.ear_steel,
        gap_mm=GAP,
        eye_gap_mm=EYE_GAP,
        tightening_nm=ears.tightening_nm,
    )
    mount = EaredMount(
        id=strut.id,
        name=strut.name,
        pad=ears.pad.model_copy(update={"arm_at": (u, v)}),
        bush=strut_bush(strut, strut.engine_at, ears.bolt_way),
        cross_bolt=through,
        foot=foot,
        eye_weld_throat_mm=ears.weld_mm,
        ear_way=(float(along[0]), float(along[1])),
        ear_long_mm=ears.foot_mm,
        ears_over_mm=1.0,
    )
    over = _ears(mount, seat).footprint[0]
    return mount.model_copy(update={"ears_over_mm": over}), seat


def _seat(strut: Strut, ears: Ears) -> FootSeat:
    """Where the ears stand on their plate: straight under the eye, square to its bolt. Raises JobError."""
    pad, eye = ears.pad, np.asarray(strut.engine_at, dtype=float)
    axes, bolt = frame(pad.normal, pad.up), unit(ears.bolt_way)
    normal, face = axes[:, 2], np.asarray(pad.centre) + pad.out_mm * axes[:, 2]
    lean = math.degrees(math.asin(min(abs(float(normal @ bolt)), 1.0)))
    if lean > MOST_LEAN:
        raise JobError(
            f"{strut.name}: the bolt through its eye on the engine leans {lean:.0f} deg off its plate, and"
            " ears stand square on one; turn its bolt or its plate.",
            f"struts/{strut.id}/ears/bolt_way",
        )
    out = unit(normal - (normal @ bolt) * bolt)
    height = float((eye - face) @ normal) / float(out @ normal)
    half = eye_of(strut_bush(strut, strut.engine_at, ears.bolt_way)).outside_mm / 2
    if height < half:
        raise JobError(
            f"{strut.name}: its eye is {height:.0f} mm off the plate on the engine, less than its own half of"
            f" {half:.0f} mm; move the eye or the plate.",
            f"struts/{strut.id}/engine_at",
        )
    place, yields = f"struts/{strut.id}/ears/pad/", STEELS[pad.steel].yield_mpa
    host = HostMetal("its plate", place, "solid", "solid", pad.plate_mm, 0.0, yields)
    seat_axes = np.column_stack([bolt, cross(out, bolt), out])
    whole = Face(_FAR, _FAR, _FAR, _FAR)
    return FootSeat(host, (), eye - height * out, seat_axes, height, pad.plate_mm, whole)


def _ears(mount: EaredMount, seat: FootSeat) -> OnFoot:
    return OnFoot(mount, seat, 0.0, STEELS[mount.pad.steel], mount.pad.plate_mm)


def ears_on_plate(strut: Strut) -> tuple[EaredMount, OnFoot]:
    """The strut's end on the engine, and its two ears. Raises JobError."""
    mount, seat = on_engine(strut)
    return mount, _ears(mount, seat)


_PLACES = {
    "": "ears",
    "foot": "ears",
    "foot/cheek_foot_mm": "ears/foot_mm",
    "foot/cheek_weld_mm": "ears/weld_mm",
    "foot/way": "ears/bolt_way",
    "cross_bolt": "ears",
    "cross_bolt/bolt": "bolt",
    "cross_bolt/cheek_mm": "ears/ear_mm",
    "bush": "",
    "bush/centre": "engine_at",
    "bush/axis": "ears/bolt_way",
    "pad": "ears/pad",
    "eye_weld_throat_mm": "ears/weld_mm",
}


def told_of_ears(strut: Strut, said: T) -> T:
    """What was said of the stand-in on the engine, at its place in the strut."""
    return told_at(strut, said, _PLACES)


def of_ears(found: Finding) -> Finding:
    """A finding of cheeks or of an arm's plate, told of ears: its code and what it is."""
    code, what = _CODES.get(found.code, (found.code, found.what))
    return replace(found, code=code, what=what)


def as_on_chassis(rows: Sequence[MountCase], turn: Array) -> list[MountCase]:
    """What the ears meet as a mount's cheeks meet it, which bear against its bush: the other way round.
    rows: of the strut, vehicle frame. turn: (3, 3) into the powertrain frame."""
    return [replace(row, force=-turn @ row.force, movement=-turn @ row.movement) for row in rows]


def as_on_plate(rows: Sequence[MountCase], turn: Array) -> list[MountCase]:
    """The same as a mount's plate meets it."""
    return [replace(row, force=turn @ row.force, movement=turn @ row.movement) for row in rows]
