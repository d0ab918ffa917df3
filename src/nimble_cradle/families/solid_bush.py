"""No rubber: what it costs in shake, and its parts."""

from __future__ import annotations

from nimble_cradle.calc import Q, calculation
from nimble_cradle.families import round_eye
from nimble_cradle.families.family import BushStiffness, Eye
from nimble_cradle.families.law import Law, Linear
from nimble_cradle.families.part import MadePart, Stock
from nimble_cradle.findings.finding import Finding
from nimble_cradle.findings.worst import Cases
from nimble_cradle.geometry.pose import Pose
from nimble_cradle.job.loads import Allowables
from nimble_cradle.job.mounts import Mount
from nimble_cradle.job.solid_bush import SolidBush
from nimble_cradle.stock.form import Form

LOAD_PATH = (("eye", ("eye-wall",)), ("metal bush", ("side-travel",)))
METAL = 2.0e5
"""N/mm of a metal bush: so much stiffer than any bracket that only the bracket gives (our own figure)."""


def locked_in(misfit: float, stiffness: float) -> float:
    """Force N that a mount which does not fit by ``misfit`` mm locks in through all that gives, N/mm."""
    return misfit * stiffness


LOCKED_IN = calculation(
    "locked-in-force",
    "Force that a forced bolt locks in",
    inputs=(
        Q("misfit", "mm", "how far the holes do not meet", low=0),
        Q("stiffness", "N/mm", "of all that gives together", above=0),
    ),
    outputs=(Q("force", "N", "locked in"),),
    formula="F = k misfit",
    source="Hooke's law",
    leaves_out="holes with clearance, which let it go",
)(locked_in)


def _solid(mount: Mount) -> SolidBush:
    assert isinstance(mount.bush, SolidBush)
    return mount.bush


def eye(bush: SolidBush) -> Eye:
    """The ring round it."""
    return Eye(bush.eye_bore_mm + 2 * bush.eye_wall_mm, bush.eye_wall_mm, bush.length_mm)


def bolt_hole_mm(bush: SolidBush) -> float:
    """Its bore, mm."""
    return bush.sleeve_bore_mm


def sleeve_outside_mm(bush: SolidBush) -> float:
    """What the bolt clamps."""
    return bush.eye_bore_mm


def hardness(bush: SolidBush) -> float | None:
    """None: it is metal."""
    return None


def stiffness(bush: SolidBush) -> BushStiffness:
    """As stiff as metal; what a forced bolt locks in hangs on what else gives (mounts/locked.py)."""
    worked = LOCKED_IN.work({"stiffness": "metal alone"}, misfit=0.0, stiffness=METAL)
    return BushStiffness(METAL, METAL, worked)


def law(mount: Mount) -> Law:
    """Linear."""
    return Law((Linear(METAL, METAL),))


def bare_law(mount: Mount, left: float) -> Law:
    """It has no rubber to lose."""
    return law(mount)


def between_cheeks_mm(mount: Mount) -> float:
    """The bush and its room, mm."""
    return _solid(mount).length_mm + 2 * mount.cross_bolt.eye_gap_mm


def side_room_mm(mount: Mount) -> float:
    """The eye to a cheek, mm."""
    return mount.cross_bolt.eye_gap_mm


def parts(mount: Mount, pose: Pose) -> tuple[MadePart, ...]:
    """Eye and metal bush."""
    bush = _solid(mount)
    stock = Stock(
        "metal bush",
        "steel",
        f"{bush.eye_bore_mm:g} x {bush.sleeve_bore_mm:g} x {bush.length_mm:g}",
        0.0,
        "turned to fit; it shakes, and is not for daily use",
        Form("bush", (bush.eye_bore_mm, bush.sleeve_bore_mm, bush.eye_bore_mm, 0.0, bush.length_mm, 0.0)),
    )
    return round_eye.eye_part(mount, pose, bush.eye_wall_mm), round_eye.filling_part(mount, stock)


def checks(mount: Mount, cases: Cases, allow: Allowables) -> list[Finding]:
    """None of its own: the eye and the bolt are looked at."""
    return []
