"""Mass, centre of gravity and inertia of the powertrain from its pieces (parallel-axis theorem)."""

from __future__ import annotations

from dataclasses import dataclass
from typing import NamedTuple

import numpy as np

from nimble_cradle.calc import Q, Worked, calculation
from nimble_cradle.geometry.pose import Array
from nimble_cradle.geometry.solids import ShapeError
from nimble_cradle.job.base import JobError
from nimble_cradle.job.job import Job
from nimble_cradle.job.powertrain import Piece
from nimble_cradle.job.remember import remembered
from nimble_cradle.survey.shapes import Meshes, solid, used_meshes


@dataclass(frozen=True, eq=False)
class Mass:
    """mass kg; centre (3,) mm; inertia (3, 3) kg mm2 about the centre. Powertrain frame."""

    mass_kg: float
    centre: Array
    inertia: Array
    worked: Worked


class Together(NamedTuple):
    """Several bodies as one. mass_kg; centre (3,) mm; inertia (3, 3) kg mm2 about it."""

    mass_kg: float
    centre: Array
    inertia: Array


def combined(masses: Array, centres: Array, inertias: Array) -> Together:
    """Mass, centre and inertia about it of bodies with masses (n,), centres (n, 3), inertias (n, 3, 3) about
    their own centres.

    I = sum of I_i + m_i (|d|^2 1 - d d^T), with d from the common centre. Units: kg, mm, kg mm2.
    """
    total = float(masses.sum())
    centre = (masses[:, None] * centres).sum(0) / total
    d = centres - centre
    steiner = np.einsum("n,nk,nk->n", masses, d, d).sum() * np.eye(3) - np.einsum("n,ni,nj->ij", masses, d, d)
    return Together(total, centre, np.asarray(inertias.sum(0) + steiner))


def piece_mass(piece: Piece, meshes: Meshes) -> tuple[Array, Array]:
    """Centre (3,) and inertia (3, 3) kg mm2 of one piece, its mass spread evenly over its shapes. Raises
    JobError."""
    try:
        parts = [p.mass_properties() for p in solid(piece.shapes, used_meshes(piece.shapes, meshes))]
    except ShapeError as error:
        raise JobError(f"{piece.name}: {error}", f"powertrain/pieces/{piece.id}/shapes") from None
    volumes = np.array([v for v, _, _ in parts])
    density = piece.mass_kg / volumes.sum()
    _, centre, inertia = combined(
        volumes * density, np.array([c for _, c, _ in parts]), np.array([i for _, _, i in parts]) * density
    )
    if piece.centre_of_gravity is not None:
        centre = np.array(piece.centre_of_gravity)
    return centre, inertia


def _worked_masses(masses_kg: str, x_mm: str) -> tuple[float, float]:
    m = np.array([float(t) for t in masses_kg.split(",")])
    x = np.array([float(t) for t in x_mm.split(",")])
    if len(m) != len(x) or m.sum() <= 0:
        raise ValueError("give as many places as masses, and some mass")
    return float(m.sum()), float((m * x).sum() / m.sum())


CENTRE = calculation(
    "centre-of-gravity",
    "Mass and centre of gravity along one axis from pieces",
    inputs=(
        Q("masses_kg", "kg", "masses, separated by commas", many=True),
        Q("x_mm", "mm", "their places along the axis, likewise", many=True),
    ),
    outputs=(Q("mass", "kg", "mass of all"), Q("x", "mm", "centre of gravity along the axis")),
    formula="m = sum m_i;  x = sum m_i x_i / m",
    source="definition of the centre of mass; inertia by the parallel-axis theorem",
    leaves_out=(
        "fluids and wiring that are not listed as pieces; each piece's mass is spread evenly over its shape"
    ),
)(_worked_masses)


@remembered("powertrain", "meshes")
def powertrain_mass(job: Job) -> Mass:
    """Mass properties of the pieces, or as weighed and swung where that was done. Raises JobError where
    nothing has a mass."""
    heavy = [piece for piece in job.powertrain.present if piece.mass_kg > 0]
    if not heavy:
        raise JobError(
            "No fitted piece of the powertrain has a mass, so there is no load on the mounts.",
            "powertrain/pieces",
        )
    found = [piece_mass(piece, job.meshes) for piece in heavy]
    masses = np.array([piece.mass_kg for piece in heavy])
    centres = np.array([c for c, _ in found])
    total, centre, inertia = combined(masses, centres, np.array([i for _, i in found]))
    worked = CENTRE.work(
        {"masses_kg": "pieces", "x_mm": "centres of the pieces, forward of the rear face of the block"},
        masses_kg=", ".join(f"{m:g}" for m in masses),
        x_mm=", ".join(f"{c[0]:.0f}" for c in centres),
    )
    weighed = job.powertrain.weighed
    if weighed is not None:
        inertia = (
            inertia * (weighed.mass_kg / total)
            if weighed.inertia_kg_m2 is None
            else np.diag(weighed.inertia_kg_m2) * 1e6
        )
        total, centre = weighed.mass_kg, centre if weighed.centre is None else np.array(weighed.centre)
    return Mass(total, centre, inertia, worked)
