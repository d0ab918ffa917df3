"""Several powertrains in one bay: each is settled by the same wish and told side by side; the refused one
says why."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass

import numpy as np

from nimble_cradle.bay.mass import powertrain_mass
from nimble_cradle.bay.position import pose_of
from nimble_cradle.fit.balance import axle_share
from nimble_cradle.fit.driveline import driveline
from nimble_cradle.geometry.bodies import Bodies
from nimble_cradle.geometry.distance import nearest
from nimble_cradle.geometry.solid_makers import bar
from nimble_cradle.job.base import JobError
from nimble_cradle.job.edits import added, free_id, with_value
from nimble_cradle.job.job import Job, MeshFile
from nimble_cradle.job.setting import Candidate
from nimble_cradle.job.shapes import Mesh
from nimble_cradle.job.wish import Sale
from nimble_cradle.seat.no_seat import FEW, NoSeat, why_no_seat
from nimble_cradle.seat.seating import first_wish, wish_of
from nimble_cradle.seat.settle import settle
from nimble_cradle.seat.settled import Settled
from nimble_cradle.seat.trades import each_traded, settled_by
from nimble_cradle.seat.words import no_seat_words
from nimble_cradle.units import Display, show
from nimble_cradle.workers import quiet

PRESENT = "present"
REACH = (40.0, 260.0)
"""A chassis mount can serve again where the new engine's side is so far from it, mm: room for an arm and
no longer than one (common practice, no source)."""


@dataclass(frozen=True, eq=False)
class Offer:
    """One powertrain in the bay. settled: its best seat, or the best place looked at; kg; low, back: where
    its centre of gravity is, mm over the road and behind the front axle; share %; line: the driveline's
    faults, or why it cannot be judged; fouls left at the best place; cuts: what would have to go for a
    seat and its price of trouble (None: not needed, or none of what is for sale was enough); mounts: (that
    can serve again, of so many).
    """

    id: str
    name: str
    settled: Settled
    kg: float
    low: float
    back: float
    share: float
    line: str
    fouls: int
    cuts: str
    trouble: float | None
    mounts: tuple[int, int]
    refused: str

    def words(self, display: Display) -> str:
        """The whole offer in a sentence or two."""
        lengths = Display(display.length)
        if self.refused:
            return self.refused
        said = (
            f"Seat {show(abs(self.back), 'length', lengths, 0)}"
            f" {'behind' if self.back >= 0 else 'in front of'} the front axle line,"
            f" {show(self.low, 'length', lengths, 0)} over the road; front axle {self.share:.1f} %."
        )
        return said + (f" {self.line}" if self.line else "")


def with_candidate(job: Job, candidate: Candidate) -> Job:
    """The job with a candidate in its bay, its wish about where the candidate was held, and no mounts of
    its own yet."""
    bare = job.model_copy(
        update={
            "powertrain": candidate.powertrain,
            "position": candidate.position,
            "mounts": (),
            "crossmember": None,
        }
    )
    begin, own = first_wish(bare), wish_of(job)
    wish = begin.model_copy(
        update={
            k: getattr(own, k)
            for k in ("low", "back", "central", "level", "joints", "share", "over_line", "over_line_mm")
        }
        | {"sales": tuple(sale for sale in own.sales if sale.what not in ("delete", "swap"))}
    )
    return bare.model_copy(update={"wish": wish})


def offered(job: Job, other: Job) -> Job:
    """The job with another job's powertrain among its candidates, with the meshes that draw it and the
    clearance classes that it needs. Raises JobError."""
    key = free_id("candidate", {candidate.id for candidate in job.candidates})
    powertrain = other.powertrain
    known = {m.name: m for m in job.meshes}
    names: dict[str, str] = {}
    for file in sorted(
        {shape.file for piece in powertrain.pieces for shape in piece.shapes if isinstance(shape, Mesh)}
    ):
        mesh = other.mesh(file)
        names[file] = _free_name(file, mesh, known)
        known[names[file]] = mesh.model_copy(update={"name": names[file]})
    pieces = tuple(
        piece.model_copy(
            update={
                "shapes": tuple(
                    shape.model_copy(update={"file": names[shape.file]}) if isinstance(shape, Mesh) else shape
                    for shape in piece.shapes
                )
            }
        )
        for piece in powertrain.pieces
    )
    rows = {clearance.id for clearance in job.clearances}
    needed = [
        clearance
        for clearance in other.clearances
        if clearance.id in {piece.neighbour for piece in pieces} - rows
    ]
    if len(known) > len(job.meshes):
        job = with_value(job, "meshes", tuple(known.values()))
    if needed:
        job = with_value(job, "clearances", (*job.clearances, *needed))
    powertrain = powertrain.model_copy(update={"pieces": pieces})
    return added(
        job,
        "candidates",
        Candidate(id=key, name=powertrain.name, powertrain=powertrain, position=other.position),
    )


def _free_name(file: str, mesh: MeshFile, known: Mapping[str, MeshFile]) -> str:
    """The file's name, or one with a number where another mesh has it."""
    stem, dot, kind = file.rpartition(".")
    n, name = 1, file
    while name in known and known[name].sha256 != mesh.sha256:
        n += 1
        name = f"{stem[:60]}-{n}{dot}{kind}"
    return name


def taken(job: Job, key: str) -> Job:
    """The job with a candidate as its powertrain; what it had becomes a candidate. Mounts stay as they are
    on the chassis side."""
    candidate = next((candidate for candidate in job.candidates if candidate.id == key), None)
    if candidate is None:
        raise JobError("That powertrain is not among the candidates.", "candidates")
    old = Candidate(id=key, name=job.powertrain.name, powertrain=job.powertrain, position=job.position)
    job = with_value(
        job, "candidates", tuple(old if candidate.id == key else candidate for candidate in job.candidates)
    )
    return with_value(with_value(job, "powertrain", candidate.powertrain), "position", candidate.position)


def offers(job: Job, say: Callable[[str], None] = quiet) -> tuple[Offer, ...]:
    """The present powertrain and every candidate, the best first; each is settled without mounts, so that
    all are judged alike. ``say`` may raise to stop it."""
    rows = [
        Candidate(id=PRESENT, name=job.powertrain.name, powertrain=job.powertrain, position=job.position),
        *job.candidates,
    ]
    out = []
    for row in rows:
        say(f"Settling {row.name}")
        out.append(_offer(job, row, say))
    return tuple(sorted(out, key=lambda o: (bool(o.refused), o.trouble or 0.0, o.settled.cost)))


def _offer(job: Job, row: Candidate, say: Callable[[str], None]) -> Offer:
    there = with_candidate(job, row)
    found = settle(there, say)
    cuts, trouble, refused = "", None, ""
    if not found.ok:
        no_seat = why_no_seat(found, say)
        rows = [(sale,) for sale in wish_of(there).sales if _may_open(sale, no_seat)]
        opening = [trade for trade in each_traded(found, rows, say, row.name) if trade.opens]
        if opening:
            best = min(opening, key=lambda t: t.trouble)
            cuts, trouble, found = best.name, best.trouble, settled_by(found, best)
        else:
            refused = (
                f"No seat found: {show(found.short, 'length', Display(job.show.length))} short."
                f" {no_seat_words(no_seat, job.show.display)}"
            )
    try:
        line = " ".join(driveline(found.job).faults)
    except JobError as error:
        line = error.message
    mass = powertrain_mass(found.job)
    at = pose_of(found.job.position).points(mass.centre)
    return Offer(
        row.id,
        row.name,
        found,
        mass.mass_kg,
        float(at[2]) - job.vehicle.ground_z_mm,
        -float(at[0]),
        axle_share(found.job).percent,
        line,
        sum(gap.margin < 0 for gap in found.gaps),
        cuts,
        trouble,
        (_serving(job, found), len(job.mounts)),
        refused,
    )


def _may_open(sale: Sale, no_seat: NoSeat) -> bool:
    """False if more than FEW broken wishes do not involve this item, even at the best place found."""
    return len([names for names in no_seat.broken if sale.of not in names]) <= FEW


def _serving(job: Job, found: Settled) -> int:
    """Number of the job's chassis mounts that are near enough to the powertrain's sides to serve again."""
    pose = pose_of(found.job.position)
    bodies = found.seating.problem.moving
    n = 0
    for mount in job.mounts:
        eye = np.asarray(mount.bush.centre, dtype=float)
        spot = Bodies([[bar(eye - (0, 0, 0.5), eye + (0, 0, 0.5), 1.0)]])
        near = nearest(bodies, pose, spot, np.full((bodies.count, 1), REACH[1]))
        least = min((x.distance for x in near), default=np.inf)
        n += bool(REACH[0] <= least <= REACH[1])
    return n
