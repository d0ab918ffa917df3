"""From solids to things the 3-D view draws. What they look like is told by their role, in looks.py."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
from vtkmodules.util.numpy_support import numpy_to_vtk, numpy_to_vtkIdTypeArray
from vtkmodules.vtkCommonCore import vtkPoints
from vtkmodules.vtkCommonDataModel import vtkCellArray, vtkPolyData
from vtkmodules.vtkCommonMath import vtkMatrix4x4
from vtkmodules.vtkFiltersCore import vtkFeatureEdges, vtkPolyDataNormals
from vtkmodules.vtkRenderingCore import vtkActor, vtkPolyDataMapper

from nimble_cradle.desk.bay_view.looks import FOULS, ROLES, rgb
from nimble_cradle.desk.bay_view.still import Pattern
from nimble_cradle.desk.kit.look import look
from nimble_cradle.geometry.pose import Pose
from nimble_cradle.geometry.scan import Scan, clustered
from nimble_cradle.geometry.solids import MeshPart, SolidPart

WHOLE = 40_000
"""Surfaces of more triangles are drawn by a coarse stand-in while the picture moves."""


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
    """A surface with its sharp edges. ``key`` is (kind, id). colour: instead of its role's, for small
    marks.

    how: ``chosen``, ``fails``, both, or empty; faded: share of it that is left where other things matter
    more.
    """

    def __init__(self, key: tuple[str, str], parts: Sequence[SolidPart], role: str, colour: str = "") -> None:
        self.key, self.role = key, ROLES[role]
        self._colour, self.opacity = colour, self.role.opacity
        self.how, self.faded = "", 1.0
        self.fine: vtkActor | None = None
        self._fine_shown = False
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
        mapper.SetResolveCoincidentTopologyToPolygonOffset()
        line_mapper.SetResolveCoincidentTopologyToPolygonOffset()
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
        self._fine_shown = still
        if self.fine is not None:
            self.fine.SetVisibility(still)
            self.surface.SetVisibility(not still)

    @property
    def colour(self) -> str:
        """Its colour in the present hall."""
        return self._colour or self.role.colour

    @property
    def solid(self) -> bool:
        """Whether it has an outline of its own in the still picture: what is behind it is hidden, and it is
        no small mark."""
        return not self._colour and (self.opacity > 0.5 or bool(self.how)) and self.faded > 0.5

    @property
    def pattern(self) -> Pattern:
        """What is laid over it in the still picture."""
        kind = "hatch" if "fails" in self.how else self.role.pattern
        return Pattern(kind, "chosen" in self.how)

    def mark(self, how: str, faded: float = 1.0) -> None:
        """Look as usual, chosen, or part of a gap that fails; or faint."""
        self.how, self.faded = how, faded
        surface, edge = self.surface.GetProperty(), self.edges.GetProperty()
        usual = max(self.opacity, 0.3) if how else self.opacity
        for one in [surface] + ([self.fine.GetProperty()] if self.fine is not None else []):
            one.LightingOn()
            one.SetColor(*rgb(self.colour))
            one.SetOpacity(min(usual, faded))
            one.SetAmbient(0.30)
            one.SetDiffuse(0.78)
            one.SetSpecular(self.role.shiny)
            one.SetSpecularPower(18)
        edge.SetColor(*rgb(FOULS if "fails" in how else look().ink))
        edge.SetLineWidth(1.0 if not how else 2.0)
        edge.SetOpacity((0.38 if self.opacity > 0.5 else 0.5) * min(1.0, 2 * faded) if not how else 1.0)
        edge.LightingOff()

    def holds(self, place: Any) -> bool:
        """Whether a place of the vehicle frame is inside its box, as it stands."""
        low_x, high_x, low_y, high_y, low_z, high_z = self.surface.GetBounds()
        x, y, z = place
        return bool(low_x < x < high_x and low_y < y < high_y and low_z < z < high_z)

    def number(self, k: int) -> None:
        """Drawn flat in a colour that is its number, for the picture that tells bodies apart."""
        for one in [self.surface.GetProperty()] + ([self.fine.GetProperty()] if self.fine else []):
            one.LightingOff()
            one.SetAmbient(1.0)
            one.SetDiffuse(0.0)
            one.SetSpecular(0.0)
            one.SetOpacity(1.0)
            one.SetColor((k >> 8) / 255, (k & 255) / 255, 0.0)
        self.edges.VisibilityOff()
        for actor in self.actors:
            if not k:
                actor.VisibilityOff()

    def again(self) -> None:
        """As it was before it was drawn as a number."""
        for actor in self.actors:
            actor.VisibilityOn()
        self.show_fine(self._fine_shown)
        self.mark(self.how, self.faded)

    def stand_at(self, pose: Pose | None) -> None:
        """Move the body; None stands it where it was made."""
        whole = np.eye(4)
        if pose is not None:
            whole[:3, :3], whole[:3, 3] = pose.rotation, pose.translation
        matrix = vtkMatrix4x4()
        matrix.DeepCopy(whole.ravel().tolist())
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
        super().__init__(key, parts, "scan")
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
