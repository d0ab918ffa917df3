"""Best rigid fit of points on points, with or without scale (Kabsch, Acta Cryst. A32 (1976) 922; Umeyama,
IEEE Trans. PAMI 13 (1991) 376; both from memory). Knows nothing of cars."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike

from nimble_cradle.calc import CalcError, Q, calculation, places
from nimble_cradle.geometry.pose import Array, Pose, angles_xyz
from nimble_cradle.geometry.solids import ShapeError


@dataclass(frozen=True, eq=False)
class RigidFit:
    """Takes p to scale * R p + t. residuals: (n,) mm left at each pair; rms mm."""

    pose: Pose
    scale: float
    residuals: Array
    rms: float

    def points(self, p: ArrayLike) -> Array:
        """Points (3,) or (n, 3) in the target frame."""
        return self.pose.points(self.scale * np.asarray(p, dtype=float))

    @property
    def worst(self) -> int:
        """Number of the pair with the largest residual."""
        return int(self.residuals.argmax())


def rigid_fit(
    source: ArrayLike, target: ArrayLike, with_scale: bool = False, weights: ArrayLike | None = None
) -> RigidFit:
    """The fit of source (n, 3) on target (n, 3). Raises ShapeError for fewer than three pairs, or pairs on
    one line or in one place."""
    a, b = np.asarray(source, dtype=float).reshape(-1, 3), np.asarray(target, dtype=float).reshape(-1, 3)
    if len(a) != len(b) or len(a) < 3:
        raise ShapeError(f"Three pairs of points or more are needed, not {min(len(a), len(b))}.")
    w = np.ones(len(a)) if weights is None else np.asarray(weights, dtype=float)
    w = w / w.sum()
    ca, cb = w @ a, w @ b
    da, db = a - ca, b - cb
    for spread, word in ((da, "picked"), (db, "known")):
        size = np.linalg.svd(np.sqrt(w)[:, None] * spread, compute_uv=False)
        if size[0] < 1e-6:
            raise ShapeError(f"The {word} points are all one place.")
        if size[1] < 0.01 * size[0]:
            raise ShapeError(
                f"The {word} points lie on one line, so the turn about it stays open; take one beside it."
            )
    u, s, vt = np.linalg.svd((w[:, None] * db).T @ da)
    d = np.array([1.0, 1.0, np.sign(np.linalg.det(u @ vt))])
    rotation = u @ np.diag(d) @ vt
    scale = float((s * d).sum() / (w @ (da**2).sum(1))) if with_scale else 1.0
    pose = Pose(rotation, cb - scale * rotation @ ca)
    left = np.linalg.norm(pose.points(scale * a) - b, axis=1)
    return RigidFit(pose, scale, left, float(np.sqrt(w @ left**2)))


def _worked_registration(
    picked: str, known: str
) -> tuple[float, float, float, float, float, float, float, float]:
    a, b = places(picked, 3), places(known, 3)
    if len(a) != len(b):
        raise CalcError("give as many known places as picked ones, in the same order")
    try:
        fit = rigid_fit(a, b)
    except ShapeError as error:
        raise CalcError(f"{error}") from None
    x, y, z = (float(c) for c in fit.pose.translation)
    roll, pitch, yaw = angles_xyz(fit.pose.rotation)
    return fit.rms, float(fit.residuals.max()), x, y, z, roll, pitch, yaw


REGISTRATION = calculation(
    "registration",
    "Points laid on known points without stretching",
    inputs=(
        Q("picked", "mm", "three or more places x,y,z in their own frame", many=True),
        Q("known", "mm", "the same places x,y,z in the car's frame, in the same order", many=True),
    ),
    outputs=(
        Q("rms", "mm", "left over on average (root mean square)"),
        Q("most", "mm", "left over at the worst pair"),
        Q("x", "mm", "moved along x after turning"),
        Q("y", "mm", "moved along y"),
        Q("z", "mm", "moved along z"),
        Q("about_x", "deg", "turned about x first, right-handed"),
        Q("about_y", "deg", "then about y"),
        Q("about_z", "deg", "then about z"),
    ),
    formula="least squares: R from the singular vectors of the covariance, never a mirror image",
    source="Kabsch, Acta Cryst. A32 (1976) 922 (from memory)",
    leaves_out="a scale (known length over picked length), and which point is the bad one",
)(_worked_registration)
