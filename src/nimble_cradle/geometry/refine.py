"""Refining how a scan lies on known surfaces: iterated closest points, point to plane, the worst share
trimmed away.

Chen and Medioni, Image and Vision Computing 10 (1992) 145 (point to plane); Chetverikov et al., ICPR 2002
(trimmed); both from memory.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from nimble_cradle.geometry.direction import AXIS_WORDS
from nimble_cradle.geometry.pose import Array, Pose, crosses, rotation_about
from nimble_cradle.geometry.solids import ShapeError
from nimble_cradle.geometry.surface import Surface

MOST_POINTS = 8000
"""Points that a fit takes, drawn at random from more: enough for its doubt, and quick."""
POORLY = 0.02
"""A direction that less than this share of the pairs holds counts as not held."""


@dataclass(frozen=True, eq=False)
class Refined:
    """Takes p to scale * R p + t. rms and worst: mm over the points kept; kept: their share; loose: what
    the surfaces do not hold, in words."""

    pose: Pose
    scale: float
    rms: float
    worst: float
    kept: float
    rounds: int
    loose: tuple[str, ...]

    def points(self, p: Array) -> Array:
        """Points (n, 3) where they lie now."""
        return self.pose.points(self.scale * np.asarray(p, dtype=float))


def refine(
    points: Array,
    surface: Surface,
    keep: float = 0.8,
    within: float = 60.0,
    with_scale: bool = False,
    rounds: int = 60,
) -> Refined:
    """Lay points (n, 3) on a surface. keep: share of the nearest pairs that counts; within: pairs farther
    apart never do, mm.

    Raises ShapeError where too few points lie near the surface.
    """
    rng = np.random.default_rng(0)
    p = points if len(points) <= MOST_POINTS else points[rng.choice(len(points), MOST_POINTS, replace=False)]
    pose, scale = Pose.still(), 1.0
    moved = p.copy()
    centre = p.mean(0)
    rms = worst = kept = np.nan
    normal = np.zeros((6, 6))
    done = 0
    for _ in range(rounds):
        done += 1
        d, on, triangle = surface.nearest(moved, within)
        near = np.isfinite(d)
        if near.sum() < max(30, 0.02 * len(p)):
            raise ShapeError(
                "Too little of the scan lies near the surfaces it is to be laid on: place it by points first."
            )
        limit = np.quantile(d[near], keep)
        rows = near & (d <= max(limit, 1e-9))
        n = surface.normals[triangle[rows]]
        q, r = moved[rows], moved[rows] - centre
        away = ((on[rows] - q) * n).sum(1)
        columns = [crosses(r, n), n]
        if with_scale:
            columns.append((r * n).sum(1)[:, None])
        a = np.hstack(columns)
        reach = float(np.sqrt((r**2).sum(1).mean()))
        weights = np.array([1 / reach] * 3 + [1.0] * 3 + ([1 / reach] if with_scale else []))
        step = np.linalg.lstsq(a * weights, away, rcond=1e-6)[0] * weights
        rms, worst, kept = (
            float(np.sqrt((away**2).mean())),
            float(np.abs(away).max()),
            float(rows.sum() / len(p)),
        )
        normal = (a[:, :6] * weights[:6]).T @ (a[:, :6] * weights[:6]) / len(a)
        angle = float(np.linalg.norm(step[:3]))
        rotation = rotation_about(step[:3], angle) if angle > 0 else np.eye(3)
        grow = 1.0 + (float(step[6]) if with_scale else 0.0)
        pose = Pose(
            rotation @ pose.rotation, grow * rotation @ (pose.translation - centre) + centre + step[3:6]
        )
        scale *= grow
        moved = grow * (moved - centre) @ rotation.T + centre + step[3:6]
        centre = centre + step[3:6]
        if angle * reach < 1e-4 and np.abs(step[3:6]).max() < 1e-4 and abs(grow - 1) * reach < 1e-4:
            break
    values, vectors = np.linalg.eigh(normal)
    loose = []
    for value, vector in zip(values, vectors.T, strict=True):
        if value < POORLY:
            k = int(np.abs(vector).argmax())
            loose.append(
                f"sliding {' and '.join(AXIS_WORDS[k - 3])}"
                if k > 2
                else f"turning about the {('long', 'cross', 'upright')[k]} axis"
            )
    return Refined(pose, scale, rms, worst, kept, done, tuple(dict.fromkeys(loose)))
