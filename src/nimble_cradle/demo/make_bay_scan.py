"""Makes the scan of the hatchback demo: bulkhead, inner wings and floor of a made-up bay, seen by a made-up
scanner. Run it to write the mesh anew:

python -m nimble_cradle.demo.make_bay_scan

The bay is our own invention. The scan has its own frame (see SKEW), noise of 0.4 mm, a few holes, and open
edges, as scans do.
"""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import numpy as np

from nimble_cradle.geometry.pose import Pose, crosses, rotation_xyz
from nimble_cradle.geometry.scan import Scan, cleaned, thinned
from nimble_cradle.geometry.scan_ply import to_ply

WHERE = Path(__file__).parent / "hatchback" / "meshes" / "bay-scan.ply"
SKEW = Pose(rotation_xyz(2.2, -1.4, 7.5), np.array([-80.0, 45.0, 30.0]))
"""Where the scan's own frame stands in the vehicle frame."""
STEP = 9.0
"""Between the points of the made-up scan, mm."""


def _patch(
    origin: np.ndarray, u: np.ndarray, v: np.ndarray, shape: Callable[[np.ndarray, np.ndarray], np.ndarray]
) -> tuple[np.ndarray, np.ndarray]:
    """A sheet from origin along u and v, lifted along u x v by shape(s, t) mm, s and t being mm along u
    and v."""
    n, m = (max(2, round(float(np.linalg.norm(w)) / STEP)) + 1 for w in (u, v))
    s, t = (g.ravel() for g in np.meshgrid(np.linspace(0, 1, n), np.linspace(0, 1, m), indexing="ij"))
    normal = crosses(u, v) / np.linalg.norm(crosses(u, v))
    lift = shape(s * np.linalg.norm(u), t * np.linalg.norm(v))
    points = origin + np.outer(s, u) + np.outer(t, v) + np.outer(lift, normal)
    k = np.arange(n * m).reshape(n, m)
    a, b, c, d = k[:-1, :-1].ravel(), k[1:, :-1].ravel(), k[1:, 1:].ravel(), k[:-1, 1:].ravel()
    return points, np.vstack([np.column_stack([a, b, c]), np.column_stack([a, c, d])])


def bay() -> tuple[np.ndarray, np.ndarray]:
    """Points (n, 3) mm in the vehicle frame and triangles of the bay's sheet metal, without noise."""

    def bulkhead(s: np.ndarray, t: np.ndarray) -> np.ndarray:
        """A recess in the middle, a swage across, the servo's bulge on the left."""
        recess = -34 / (1 + np.exp((np.abs(s - 620) - 190) / 14)) / (1 + np.exp((t - 330) / 14))
        swage = 9 * np.exp(-(((t - 180) / 22) ** 2))
        servo = 62 / (1 + np.exp((np.hypot(s - 235, t - 385) - 105) / 6))
        return np.asarray(recess + swage + servo)

    def wing(s: np.ndarray, t: np.ndarray) -> np.ndarray:
        """A gentle belly and two stiffening beads."""
        beads = 5 * np.exp(-(((s - 500) / 16) ** 2)) + 5 * np.exp(-(((s - 620) / 16) ** 2))
        return np.asarray(14 * np.sin(np.pi * s / 800) * np.sin(np.pi * t / 420) + beads)

    sheets = (
        (np.array([-198.0, 620, -60]), np.array([0.0, -1240, 0]), np.array([-40.0, 0, 560]), bulkhead),
        (np.array([-190.0, 600, 5]), np.array([690.0, -10, 0]), np.array([0.0, 25, 400]), wing),
        (np.array([500.0, -590, 5]), np.array([-690.0, -10, 0]), np.array([0.0, -25, 400]), wing),
    )
    points, faces, base = [], [], 0
    for origin, u, v, shape in sheets:
        p, f = _patch(origin, u, v, shape)
        points.append(p)
        faces.append(f + base)
        base += len(p)
    return np.vstack(points), np.vstack(faces)


def scan() -> Scan:
    """The scan in its own frame: noise, a few holes, thinned to 0.8 mm."""
    rng = np.random.default_rng(20)
    points, faces = bay()
    for _ in range(9):
        hole = points[rng.integers(len(points))]
        faces = faces[np.linalg.norm(points[faces].mean(1) - hole, axis=1) > rng.uniform(15, 45)]
    seen = SKEW.inverse().points(points + rng.normal(0, 0.4, points.shape))
    return thinned(cleaned(seen, faces), 1.2)[0]


if __name__ == "__main__":
    WHERE.parent.mkdir(parents=True, exist_ok=True)
    made = scan()
    WHERE.write_bytes(to_ply(made))
    print(f"{WHERE.name}: {len(made.faces)} triangles, {WHERE.stat().st_size} bytes")
