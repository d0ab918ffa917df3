"""The road under the bay, the centre line and the front axle line, as lines that parts hide."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from vtkmodules.util.numpy_support import numpy_to_vtk, numpy_to_vtkIdTypeArray
from vtkmodules.vtkCommonCore import vtkPoints
from vtkmodules.vtkCommonDataModel import vtkCellArray, vtkPolyData
from vtkmodules.vtkRenderingCore import vtkActor, vtkPolyDataMapper

from nimble_cradle.desk.bay_view.looks import rgb
from nimble_cradle.desk.kit.look import look
from nimble_cradle.geometry.pose import Array

GRID, STRONG = 100.0, 500.0
"""Every line of the road, and every one that is drawn stronger, mm."""
REACH = 1500.0
"""How far the road is drawn, mm: beyond it says nothing."""
LONG, SHORT, GAP = 90.0, 12.0, 18.0
"""Dash, dot and the room between them of a centre line, mm."""


def _grid(height: float, strong: bool) -> Array:
    """Both ways (n, 2, 3): each line as long as its distance from the middle leaves it."""
    rows = []
    for at in np.arange(-REACH, REACH + 1, GRID):
        if (abs(at % STRONG) < 1) != strong:
            continue
        far = float(np.sqrt(max(REACH**2 - at**2, 0.0)))
        rows += [[(at, -far, height), (at, far, height)], [(-far, at, height), (far, at, height)]]
    return np.array(rows, dtype=float).reshape(-1, 2, 3)


def dash_dot(a: Array, b: Array) -> Array:
    """A line from a to b in dashes and dots (n, 2, 3)."""
    whole = float(np.linalg.norm(b - a))
    way, at, rows = (b - a) / whole, 0.0, []
    while at < whole:
        for size in (LONG, SHORT):
            if at >= whole:
                break
            end = min(at + size, whole)
            rows.append([a + at * way, a + end * way])
            at = end + GAP
    return np.array(rows)


def _actor(lines: Array, opacity: float) -> vtkActor:
    points = vtkPoints()
    points.SetData(numpy_to_vtk(np.ascontiguousarray(lines.reshape(-1, 3), dtype=np.float32), deep=True))
    n = len(lines)
    cells = np.column_stack([np.full(n, 2), np.arange(n) * 2, np.arange(n) * 2 + 1]).astype(np.int64).ravel()
    array = vtkCellArray()
    array.ImportLegacyFormat(numpy_to_vtkIdTypeArray(cells, deep=True))
    data = vtkPolyData()
    data.SetPoints(points)
    data.SetLines(array)
    mapper = vtkPolyDataMapper()
    mapper.SetInputData(data)
    actor = vtkActor()
    actor.SetMapper(mapper)
    actor.PickableOff()
    line = actor.GetProperty()
    line.LightingOff()
    line.SetColor(*rgb(look().ink))
    line.SetOpacity(opacity)
    return actor


def ground_actors(road_z: float) -> Iterator[vtkActor]:
    """Road at its height, and the two lines that all is measured from, at datum height."""
    yield _actor(_grid(road_z, strong=False), 0.08)
    yield _actor(_grid(road_z, strong=True), 0.18)
    along = np.array([-1400.0, 0.0, 0.0]), np.array([900.0, 0.0, 0.0])
    across = np.array([0.0, -900.0, 0.0]), np.array([0.0, 900.0, 0.0])
    yield _actor(np.vstack([dash_dot(*along), dash_dot(*across)]), 0.55)
