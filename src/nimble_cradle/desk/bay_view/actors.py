"""From solids to things the 3-D view draws: one table of looks by class of neighbour; a missing class
looks plain."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from vtkmodules.util.numpy_support import numpy_to_vtk, numpy_to_vtkIdTypeArray
from vtkmodules.vtkCommonCore import vtkPoints
from vtkmodules.vtkCommonDataModel import vtkCellArray, vtkPolyData
from vtkmodules.vtkCommonMath import vtkMatrix4x4
from vtkmodules.vtkFiltersCore import vtkFeatureEdges, vtkPolyDataNormals
from vtkmodules.vtkRenderingCore import vtkActor, vtkPolyDataMapper

from nimble_cradle.geometry.pose import Pose
from nimble_cradle.geometry.scan import Scan, clustered
from nimble_cradle.geometry.solids import MeshPart, SolidPart

ITEM_LOOK = {
    "metal": ("#8d9aa3", 1.0),
    "sheet": ("#aebcc3", 0.13),
    "hose": ("#5d7684", 1.0),
    "hot": ("#b06a4a", 1.0),
    "turning": ("#7f8f86", 0.9),
    "steering": ("#6f6a8a", 1.0),
    "moving": ("#5f7f78", 1.0),
}
PIECE_LOOK = {
    "metal": ("#d9b876", 1.0),
    "hot": ("#c5653c", 1.0),
    "turning": ("#e6d3a8", 0.75),
    "hose": ("#b59a6a", 1.0),
    "sheet": ("#e0cfa4", 0.8),
}
PLAIN = ("#b0b0ac", 1.0)
CHASSIS = "#67727a"
MOUNT = "#0b5f6b"
WHOLE = 40_000
"""Surfaces of more triangles are drawn by a coarse stand-in while the picture moves."""


def rgb(colour: str) -> tuple[float, float, float]:
    """#rrggbb as three shares."""
    return int(colour[1:3], 16) / 255, int(colour[3:5], 16) / 255, int(colour[5:7], 16) / 255


def poly_data(parts: Sequence[SolidPart]) -> vtkPolyData:
    """All parts of a body as one surface."""
    vertices, faces, base = [], [], 0
    for part in parts:
        v, t = part.triangles
        vertices.append(v)
        faces.append(t + base)
        base += len(v)
    v, t = np.vstack(vertices), np.vstack(faces)
    points = vtkPoints()
    points.SetData(numpy_to_vtk(np.ascontiguousarray(v, dtype=np.float32), deep=True))
    cells = np.column_stack([np.full(len(t), 3), t]).astype(np.int64).ravel()
    array = vtkCellArray()
    array.ImportLegacyFormat(numpy_to_vtkIdTypeArray(cells, deep=True))
    data = vtkPolyData()
    data.SetPoints(points)
    data.SetPolys(array)
    return data


class Body:
    """A surface with its sharp edges. ``key`` is (kind, id)."""

    def __init__(self, key: tuple[str, str], parts: Sequence[SolidPart], colour: str, opacity: float) -> None:
        self.key = key
        self.colour, self.opacity = colour, opacity
        self.fine: vtkActor | None = None
        if sum(len(part.triangles[1]) for part in parts) > WHOLE:
            parts = self._stand_in(parts)
        data = poly_data(parts)
        normals = vtkPolyDataNormals()
        normals.SetInputData(data)
        normals.SplittingOn()
        normals.SetFeatureAngle(40)
        mapper = vtkPolyDataMapper()
        mapper.SetInputConnection(normals.GetOutputPort())
        self.surface = vtkActor()
        self.surface.SetMapper(mapper)
        sharp = vtkFeatureEdges()
        sharp.SetInputData(data)
        sharp.BoundaryEdgesOn()
        sharp.SetFeatureEdges(self.fine is None)
        sharp.SetFeatureAngle(40)
        sharp.ManifoldEdgesOff()
        sharp.NonManifoldEdgesOff()
        sharp.ColoringOff()
        line_mapper = vtkPolyDataMapper()
        line_mapper.SetInputConnection(sharp.GetOutputPort())
        self.edges = vtkActor()
        self.edges.SetMapper(line_mapper)
        self.edges.PickableOff()
        self.mark("")

    def _stand_in(self, parts: Sequence[SolidPart]) -> Sequence[SolidPart]:
        """Keep the whole surface for the still picture; while things move, a coarse one stands in for it."""
        whole = Scan(np.vstack([part.triangles[0] for part in parts]), np.vstack(_counted(parts)))
        mapper = vtkPolyDataMapper()
        mapper.SetInputData(poly_data([MeshPart(whole.vertices, whole.faces)]))
        self.fine = vtkActor()
        self.fine.SetMapper(mapper)
        self.fine.VisibilityOff()
        cell = float(np.ptp(whole.vertices, axis=0).max()) / 80
        coarse = clustered(whole, cell)
        return [MeshPart(coarse.vertices, coarse.faces)]

    @property
    def actors(self) -> list[vtkActor]:
        """Everything of it that the renderer draws."""
        return [a for a in (self.surface, self.edges, self.fine) if a is not None]

    def show_fine(self, still: bool) -> None:
        """The whole surface while nothing moves, its stand-in otherwise."""
        if self.fine is not None:
            self.fine.SetVisibility(still)
            self.surface.SetVisibility(not still)

    def mark(self, how: str, ghost: bool = False) -> None:
        """Look as usual (''), chosen ('chosen'), or part of a gap that fails ('fails'); ``ghost`` lets
        other things show through."""
        surface, edge = self.surface.GetProperty(), self.edges.GetProperty()
        surface.SetColor(*rgb(self.colour))
        surface.SetOpacity(
            min(self.opacity, 0.3) if ghost else self.opacity if not how else max(self.opacity, 0.3)
        )
        surface.SetAmbient(0.34)
        surface.SetDiffuse(0.72)
        ink = {"": "#3c444a", "chosen": "#0b5f6b", "fails": "#ad2318"}[how]
        edge.SetColor(*rgb(ink))
        edge.SetLineWidth(1.0 if not how else 3.0)
        edge.SetOpacity((0.6 if self.opacity > 0.5 else 0.4) if not how else 1.0)
        edge.LightingOff()
        if self.fine is not None:
            fine = self.fine.GetProperty()
            fine.SetColor(*rgb(self.colour))
            fine.SetOpacity(surface.GetOpacity())
            fine.SetAmbient(0.34)
            fine.SetDiffuse(0.72)

    def stand_at(self, pose: Pose | None) -> None:
        """Move the body; None stands it where it was made."""
        matrix = vtkMatrix4x4()
        if pose is not None:
            for i in range(3):
                for j in range(3):
                    matrix.SetElement(i, j, float(pose.rotation[i, j]))
                matrix.SetElement(i, 3, float(pose.translation[i]))
        for actor in self.actors:
            actor.SetUserMatrix(matrix)


def _counted(parts: Sequence[SolidPart]) -> list[np.ndarray]:
    """Triangles of all parts with their points numbered through."""
    out, base = [], 0
    for part in parts:
        out.append(part.triangles[1] + base)
        base += len(part.triangles[0])
    return out


class MappedBody(Body):
    """A scan by how far each triangle is from what is taped: green within its give-or-take, amber with
    edges to twice that, red dots beyond; grey where nothing taped is near. Told by colour and pattern
    together."""

    def __init__(
        self, key: tuple[str, str], parts: Sequence[SolidPart], off: np.ndarray, give_or_take: float
    ) -> None:
        super().__init__(key, parts, "#9aa7a0", 0.25)
        vertices, faces = np.vstack([part.triangles[0] for part in parts]), np.vstack(_counted(parts))
        self.layers: list[vtkActor] = []
        bounds = (
            (-1.0, give_or_take, "#2c6636"),
            (give_or_take, 2 * give_or_take, "#c98a1a"),
            (2 * give_or_take, 1e9, "#ad2318"),
        )
        for k, (low, high, colour) in enumerate(bounds):
            chosen = faces[(off > low) & (off <= high) & np.isfinite(off)]
            if not len(chosen):
                continue
            mapper = vtkPolyDataMapper()
            mapper.SetInputData(poly_data([MeshPart(vertices, chosen)]))
            actor = vtkActor()
            actor.SetMapper(mapper)
            look = actor.GetProperty()
            look.SetColor(*rgb(colour))
            look.SetAmbient(0.4)
            if k == 1:
                look.EdgeVisibilityOn()
                look.SetEdgeColor(*rgb("#5b3f0a"))
            elif k == 2:
                look.SetRepresentationToPoints()
                look.SetPointSize(4)
            self.layers.append(actor)

    @property
    def actors(self) -> list[vtkActor]:
        return [*super().actors, *getattr(self, "layers", [])]
