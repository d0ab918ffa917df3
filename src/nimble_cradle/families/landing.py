"""Where an arm or an eye stands on its plate."""

from __future__ import annotations

import math

import numpy as np

from nimble_cradle.families.arm_run import ArmRun
from nimble_cradle.families.eared import EaredMount
from nimble_cradle.families.eye import eye_along, eye_spacing
from nimble_cradle.families.family import arm_family, eye_of
from nimble_cradle.geometry.footprint import Footprint
from nimble_cradle.geometry.pose import unit
from nimble_cradle.job.mounts import Mount


def weld_throat(mount: Mount) -> float:
    """Throat of the weld on the plate, mm: round the arm, else along the eye or the ears."""
    return arm_family(mount.arm).throat_mm(mount.arm) if mount.arm is not None else mount.eye_weld_throat_mm


def footprint(mount: Mount, run: ArmRun, more: float | None = None) -> Footprint:
    """Where arm, eye or ears stand on the plate, with the toe of its weld: 0.8 of its leg, as EN 1993-1-8
    measures the distance to a bolt, or ``more`` mm instead."""
    toe = 0.8 * math.sqrt(2) * weld_throat(mount) if more is None else more
    if mount.arm is not None:
        return arm_family(mount.arm).landing(mount, run, toe)
    if isinstance(mount, EaredMount):
        at, way = np.asarray(mount.pad.arm_at, dtype=float), np.asarray(mount.ear_way, dtype=float)
        return Footprint(at, way, mount.ear_long_mm / 2, mount.ears_over_mm / 2 + toe, oval=False)
    along = eye_along(mount, run)
    way = np.array([1.0, 0.0]) if along is None else unit(run.axes[:, :2].T @ along)
    at = np.asarray(mount.pad.arm_at, dtype=float)
    half = eye_of(mount.bush).length_mm / 2
    return Footprint(at, way, half, eye_spacing(mount) / 2 + toe, oval=False)
