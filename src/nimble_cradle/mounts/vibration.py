"""Six natural frequencies of the powertrain on its mounts, and how much of the firing torque they pass on
at idle."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from nimble_cradle.calc import Q, Worked, calculation
from nimble_cradle.families.bonded_stiffness import youngs_modulus
from nimble_cradle.geometry.pose import Array
from nimble_cradle.job.base import JobError
from nimble_cradle.mounts.springs import Spring, blocks, in_series, motions, stands

MODE_WORDS = ("fore and aft", "sideways", "bounce", "roll", "pitch", "yaw")


def firing_frequency(idle_rpm: float, cylinders: int, strokes: int = 4) -> float:
    """Firings per second (Hz) of an evenly firing engine."""
    return idle_rpm / 60 * cylinders * 2 / strokes


FIRING = calculation(
    "firing-frequency",
    "Firing frequency",
    inputs=(
        Q("idle_rpm", "rpm", "crank speed", above=0),
        Q("cylinders", "", "cylinders", low=1, high=16, whole=True),
        Q("strokes", "", "strokes", 4, low=2, high=4, whole=True),
    ),
    outputs=(Q("frequency", "Hz", "firings per second"),),
    formula="f = n / 60 * cylinders * 2 / strokes",
    source="definition; even firing",
    leaves_out="uneven firing, which adds lower orders",
)(firing_frequency)


def transmissibility(frequency: float, natural: float, loss_factor: float) -> float:
    """Share of a shaking force that one spring with hysteretic damping passes on: |1 + i eta| / |1 - r2 +
    i eta|, r = f / fn."""
    r2 = (frequency / natural) ** 2
    return math.sqrt((1 + loss_factor**2) / ((1 - r2) ** 2 + loss_factor**2))


TRANSMISSIBILITY = calculation(
    "transmissibility",
    "How much of a shake one rubber mount passes on",
    inputs=(
        Q("frequency", "Hz", "of the shake", low=0),
        Q("natural", "Hz", "natural frequency on the mount", above=0),
        Q("loss_factor", "", "loss factor of the rubber", 0.1, low=0, high=1),
    ),
    outputs=(Q("share", "", "force passed on / force applied"),),
    formula="|1 + i eta| / |1 - (f/fn)^2 + i eta|",
    source="structural damping: Rao, Mechanical Vibrations, ch. 3 and 9 (from memory)",
    leaves_out="coupling between the six motions; the screen solves all six together",
)(transmissibility)


@dataclass(frozen=True)
class Mode:
    """A natural frequency in Hz, what it mostly is, and the share of kinetic energy in that motion (the
    six shares add to one)."""

    frequency: float
    word: str
    share: float
    shares: tuple[float, ...]


def _mass_matrix(mass_kg: float, inertia: Array) -> Array:
    """(6, 6) in t and t mm2, so that N/mm and rad/s go together. inertia kg mm2, vehicle axes, about the
    centre."""
    m = np.zeros((6, 6))
    m[:3, :3] = mass_kg / 1000 * np.eye(3)
    m[3:, 3:] = inertia / 1000
    return m


def _dynamic_stiffness(springs: Sequence[Spring], centre: Array) -> Array:
    total = np.zeros((6, 6), dtype=complex)
    for stand in stands(springs):
        motion = motions(stand, centre)
        damped = [s.matrix * (s.dynamic_ratio * (1 + 1j * s.loss_factor)) for s in stand.springs]
        total += motion.T @ in_series(blocks(damped), stand.give) @ motion
    return total


def modes(springs: Sequence[Spring], centre: Array, mass_kg: float, inertia: Array) -> tuple[Mode, ...]:
    """Six modes, lowest first, with the bushes at their dynamic stiffness. Kinetic-energy share: phi_i (M
    phi)_i / phi M phi."""
    m = _mass_matrix(mass_kg, inertia)
    lower = np.linalg.inv(np.linalg.cholesky(m))
    values, vectors = np.linalg.eigh(lower @ _dynamic_stiffness(springs, centre).real @ lower.T)
    out = []
    for w2, y in zip(values, vectors.T, strict=True):
        phi = lower.T @ y
        shares = phi * (m @ phi)
        k = int(shares.argmax())
        out.append(
            Mode(
                math.sqrt(max(float(w2), 0.0)) / (2 * math.pi),
                MODE_WORDS[k],
                float(shares[k]),
                tuple(float(s) for s in shares),
            )
        )
    return tuple(out)


MOST_TURN_DEG, LEAST_HZ = 5.0, 2.0
"""Mounts that let the engine's own weight turn it further, or leave it a slower mode, do not hold it
(common practice, no source); the linear figures mean nothing there."""


def held_at_all(turn: Array, found: Sequence[Mode]) -> None:
    """Raises JobError where the mounts leave the powertrain all but free: judged by its slowest mode and by
    how its weight would turn it (3,) rad, linearly."""
    slowest, rock = found[0], float(np.degrees(np.linalg.norm(turn)))
    if rock > MOST_TURN_DEG or slowest.frequency < LEAST_HZ:
        word = slowest.word if slowest.frequency < LEAST_HZ else MODE_WORDS[3 + int(np.abs(turn).argmax())]
        raise JobError(
            f"The mounts leave the powertrain all but free in {word}: its weight alone would turn it"
            f" {min(rock, 90.0):.0f} deg, and its slowest mode is {slowest.frequency:.1f} Hz; add"
            " a mount or spread them.",
            "mounts",
        )


IDLE_SHORE, IDLE_RPM = 5.0, 50.0
"""A hardness reading is good to 3 points and a batch to 2; idle wanders by so many rpm (common practice,
no source)."""
BAND = 11
"""Places across each of the two bands."""


@dataclass(frozen=True)
class Idle:
    """Firing frequency Hz, the share of the firing torque that reaches the chassis as a torque about the
    crank with the figures as they stand (``nominal``), and the least and most of it over the band of
    hardness and speed. ``transmitted`` is the most: that is what is judged."""

    frequency: float
    nominal: float
    least: float
    transmitted: float
    worked: Worked


def idle_shake(
    springs: Sequence[Spring],
    centre: Array,
    mass_kg: float,
    inertia: Array,
    crank: Array,
    idle_rpm: float,
    cylinders: int,
    strokes: int,
) -> Idle:
    """Forced response to a torque about ``crank`` (3,) at the firing frequency, all six motions together,
    over a band of hardness (all bushes harder or softer at once) and idle speed."""
    worked = FIRING.work(
        {"idle_rpm": "engine", "cylinders": "engine"}, idle_rpm=idle_rpm, cylinders=cylinders, strokes=strokes
    )
    drive = np.concatenate([np.zeros(3), crank]).astype(complex)
    m = _mass_matrix(mass_kg, inertia)
    shifts = np.linspace(-IDLE_SHORE, IDLE_SHORE, BAND)
    speeds = np.linspace(max(idle_rpm - IDLE_RPM, 1.0), idle_rpm + IDLE_RPM, BAND)
    speeds[BAND // 2] = idle_rpm
    k = np.array([_dynamic_stiffness(_harder(springs, s), centre) for s in shifts])
    w = 2 * math.pi * firing_frequency(1.0, cylinders, strokes) * speeds
    dynamic = k[:, None] - (w**2)[None, :, None, None] * m
    q = np.linalg.solve(dynamic, np.broadcast_to(drive, (*dynamic.shape[:2], 6))[..., None])[..., 0]
    passed = np.abs(np.einsum("sij,srj->sri", k, q)[..., 3:] @ crank)
    middle = float(passed[BAND // 2, BAND // 2])
    return Idle(worked.value("frequency"), middle, float(passed.min()), float(passed.max()), worked)


def _harder(springs: Sequence[Spring], shore: float) -> list[Spring]:
    """The same bushes, their rubber harder by so many points of Shore A; measured ones as they are."""
    out = []
    for spring in springs:
        share = 1.0
        if spring.hardness is not None:
            to = min(max(spring.hardness + shore, 1.0), 99.0)
            share = youngs_modulus(to) / youngs_modulus(spring.hardness)
        out.append(replace(spring, matrix=spring.matrix * share))
    return out
