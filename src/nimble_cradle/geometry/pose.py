"""Rigid poses: a rotation matrix and a translation. Lengths mm, angles degrees where the name says so."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike, NDArray

Array = NDArray[np.float64]


def rotation_xyz(x_deg: float, y_deg: float, z_deg: float) -> Array:
    """(3, 3) rotation: about fixed x, then fixed y, then fixed z, right-handed, degrees."""
    (cx, cy, cz), (sx, sy, sz) = (
        np.cos(np.radians([x_deg, y_deg, z_deg])),
        np.sin(np.radians([x_deg, y_deg, z_deg])),
    )
    rotation: Array = np.array(
        [
            [cy * cz, sx * sy * cz - cx * sz, cx * sy * cz + sx * sz],
            [cy * sz, sx * sy * sz + cx * cz, cx * sy * sz - sx * cz],
            [-sy, sx * cy, cx * cy],
        ]
    )
    return rotation


def angles_xyz(rotation: Array) -> tuple[float, float, float]:
    """Degrees about fixed x, y, z that give ``rotation`` (inverse of ``rotation_xyz``); y within -90..90."""
    y = np.arctan2(-rotation[2, 0], np.hypot(rotation[0, 0], rotation[1, 0]))
    if np.cos(y) < 1e-9:
        x, z = np.arctan2(-rotation[1, 2], rotation[1, 1]), 0.0
    else:
        x, z = np.arctan2(rotation[2, 1], rotation[2, 2]), np.arctan2(rotation[1, 0], rotation[0, 0])
    return float(np.degrees(x)), float(np.degrees(y)), float(np.degrees(z))


def rotation_about(axis: ArrayLike, angle_rad: float) -> Array:
    """(3, 3) rotation by ``angle_rad`` about the direction ``axis`` (Rodrigues)."""
    k = unit(axis)
    across: Array = np.array([[0, -k[2], k[1]], [k[2], 0, -k[0]], [-k[1], k[0], 0]])
    return np.asarray(np.eye(3) + np.sin(angle_rad) * across + (1 - np.cos(angle_rad)) * (across @ across))


def unit(v: ArrayLike) -> Array:
    """The direction of ``v`` (3,). Raises ValueError for a zero vector."""
    a = np.asarray(v, dtype=float)
    n = float(np.linalg.norm(a))
    if n == 0.0:
        raise ValueError("a zero vector has no direction")
    return a / n


def cross(a: Array, b: Array) -> Array:
    """Vector product of two (3,) vectors (np.cross costs ten times as much for one pair)."""
    return np.array([a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]])


def crosses(a: ArrayLike, b: ArrayLike) -> Array:
    """Vector products of arrays (..., 3); np.cross takes twice as long for a few, a third more for many."""
    one, other = np.asarray(a, dtype=float), np.asarray(b, dtype=float)
    x, y, z = one[..., 0], one[..., 1], one[..., 2]
    u, v, w = other[..., 0], other[..., 1], other[..., 2]
    return np.stack((y * w - z * v, z * u - x * w, x * v - y * u), axis=-1)


def lever(r: Array) -> Array:
    """(3, 3): force to its moment about a place from which ``r`` (3,) reaches to it."""
    return np.array([[0, -r[2], r[1]], [r[2], 0, -r[0]], [-r[1], r[0], 0]])


def frame(normal: ArrayLike, up: ArrayLike) -> Array:
    """(3, 3) with columns u, v, n: n along ``normal``, v along ``up`` made square to it, u = v x n.

    The one convention for every face: who looks at it has n towards his eye, v up and u to his right.
    """
    n = unit(normal)
    v = np.asarray(up, dtype=float)
    v = v - (v @ n) * n
    if np.linalg.norm(v) < 1e-9:
        other = np.array([1.0, 0.0, 0.0]) if abs(n[0]) < 0.9 else np.array([0.0, 1.0, 0.0])
        v = other - (other @ n) * n
    v = unit(v)
    return np.column_stack([cross(v, n), v, n])


@dataclass(frozen=True, eq=False)
class Pose:
    """Takes a point p of its own frame to ``rotation @ p + translation`` of the outer one."""

    rotation: Array
    translation: Array

    @classmethod
    def still(cls) -> Pose:
        """The pose that changes nothing."""
        return cls(np.eye(3), np.zeros(3))

    def points(self, p: ArrayLike) -> Array:
        """Points (3,) or (n, 3) in the outer frame."""
        return np.asarray(np.asarray(p, dtype=float) @ self.rotation.T + self.translation)

    def vectors(self, v: ArrayLike) -> Array:
        """Directions (3,) or (n, 3) in the outer frame."""
        return np.asarray(np.asarray(v, dtype=float) @ self.rotation.T)

    def inverse(self) -> Pose:
        """The pose that undoes this one."""
        return Pose(self.rotation.T, -self.rotation.T @ self.translation)

    def __matmul__(self, inner: Pose) -> Pose:
        return Pose(self.rotation @ inner.rotation, self.rotation @ inner.translation + self.translation)

    def moved(self, by: ArrayLike, turn_rad: ArrayLike, about: ArrayLike) -> Pose:
        """This pose after a small rigid motion of the outer frame: turned by the vector ``turn_rad`` about
        the point ``about``, then moved ``by`` mm."""
        turn = np.asarray(turn_rad, dtype=float)
        angle = float(np.linalg.norm(turn))
        r = rotation_about(turn, angle) if angle > 0 else np.eye(3)
        centre = np.asarray(about, dtype=float)
        return Pose(r @ self.rotation, r @ (self.translation - centre) + centre + np.asarray(by, dtype=float))
