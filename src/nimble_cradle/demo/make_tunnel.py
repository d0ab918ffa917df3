"""Makes the tunnel pressing of the light-truck demo: an open arched sheet, as text STL. Run it to write it
anew.

python -m nimble_cradle.demo.make_tunnel
"""

from __future__ import annotations

from pathlib import Path

import numpy as np

STATIONS = (
    (-405.0, 240.0, 265.0),
    (-560.0, 218.0, 240.0),
    (-760.0, 182.0, 214.0),
    (-1000.0, 162.0, 196.0),
    (-1250.0, 158.0, 190.0),
)
"""x, half width at the floor, and crown height, mm, vehicle frame."""
FLOOR = -30.0
"""Height of the floor beside the tunnel, mm, vehicle frame: invented, as all of the demo."""
ARCH = 14
"""Corners of the tunnel's arch: smooth enough to look at."""


def tunnel() -> tuple[np.ndarray, np.ndarray]:
    """Vertices (n, 3) mm and triangles (m, 3) of the arch."""
    rows = []
    for x, half, crown in STATIONS:
        a = np.linspace(0, np.pi, ARCH + 1)
        y, z = half * np.cos(a), FLOOR + (crown - FLOOR) * np.sin(a) ** 0.7
        rows.append(np.column_stack([np.full(ARCH + 1, x), y, z]))
    vertices = np.vstack(rows)
    n = ARCH + 1
    faces = []
    for i in range(len(STATIONS) - 1):
        for j in range(ARCH):
            p, q, r, s = i * n + j, i * n + j + 1, (i + 1) * n + j, (i + 1) * n + j + 1
            faces += [(p, q, r), (q, s, r)]
    return vertices, np.array(faces)


def main() -> None:
    """Write meshes/tunnel.stl."""
    vertices, faces = tunnel()
    lines = ["solid tunnel"]
    for face in faces:
        lines += [
            "facet normal 0 0 0",
            "outer loop",
            *(f"vertex {x:.2f} {y:.2f} {z:.2f}" for x, y, z in vertices[face]),
            "endloop",
            "endfacet",
        ]
    out = Path(__file__).parent / "light_truck" / "meshes" / "tunnel.stl"
    out.write_text("\n".join([*lines, "endsolid tunnel", ""]))


if __name__ == "__main__":
    main()
