"""The drawers: a table from the kind of a thing to what of the job is drawn of it, how, and where it stands.
A new kind is a row here."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import partial
from typing import Any

from nimble_cradle.bay.bodies import opened_item, solid_of
from nimble_cradle.bay.position import pose_of
from nimble_cradle.desk.bay_view.actors import Body, MappedBody
from nimble_cradle.desk.bay_view.alone_drawn import alone_things, mount_alone
from nimble_cradle.desk.bay_view.dressing import dressed_piece
from nimble_cradle.desk.bay_view.looks import item_role, piece_role
from nimble_cradle.desk.bay_view.points_drawn import (
    cut_lines_drawn,
    marks_drawn,
    points_drawn,
    readings_drawn,
    suspensions_drawn,
)
from nimble_cradle.desk.kit.session import Session
from nimble_cradle.fit.links import links
from nimble_cradle.geometry.pose import Pose
from nimble_cradle.geometry.solids import MeshPart
from nimble_cradle.job.base import JobError
from nimble_cradle.job.bay import Item
from nimble_cradle.job.powertrain import Piece
from nimble_cradle.job.shapes import Mesh
from nimble_cradle.judge.carried import running_pose
from nimble_cradle.made.parts import made
from nimble_cradle.survey.made import placed_items
from nimble_cradle.survey.scans import scan_of

Key = tuple[str, str]
"""(kind, id) of a thing that is drawn."""


@dataclass(frozen=True, eq=False)
class Drawn:
    """A thing to be drawn. version: equal as long as it looks the same; make: makes its body (may raise
    JobError, then it is not drawn)."""

    id: str
    version: Any
    make: Callable[[Key], Body]


@dataclass(frozen=True, eq=False)
class Drawer:
    """What is drawn of one kind. things: of the session's job; pose: where they stand now, None as made.
    everywhere: on all stages, else only on those that ask for the kind."""

    things: Callable[[Session], Iterator[Drawn]]
    pose: Callable[[Session], Pose | None] = lambda session: None
    everywhere: bool = True


def shown_pose(session: Session) -> Pose:
    """Where the powertrain is shown: as mocked up, in the chosen load case, or on its way out."""
    if session.film is not None:
        return session.film
    if session.ahead.job is not None:
        return pose_of(session.ahead.job.position)
    moved = running_pose(session.seen_job, session.shown_case) if session.shown_case else None
    return moved or pose_of(session.seen_job.position)


def _mount_pose(session: Session) -> Pose | None:
    """A mount's parts go with the engine on its way out, unless they come off before."""
    if session.film is None or session.seen_job.way_out.arms_off:
        return None
    return session.film @ pose_of(session.seen_job.position).inverse()


def _items(session: Session) -> Iterator[Drawn]:
    map_of, off = _scan_map(session)
    for item in placed_items(session.seen_job):
        if item.fate == "remove":
            continue
        if item.id == map_of:
            yield Drawn(item.id, (item, id(off)), _mapped(session, item, off))
        else:
            there = opened_item(session.seen_job, item)
            yield Drawn(item.id, (there, 0), _item(session, there))


def _scan_map(session: Session) -> tuple[str, Any]:
    """Id of the scan that is shown by how far it is off, and those distances; empty where none is, or where
    the job that it was measured in has changed."""
    shown = session.scan_map
    if shown is None:
        return "", None
    parts = ("items", "survey", "meshes")
    if any(getattr(shown[2], part) is not getattr(session.seen_job, part) for part in parts):
        session.scan_map = None
        return "", None
    return shown[0], shown[1]


def _item(session: Session, item: Item) -> Callable[[Key], Body]:
    def make(key: Key) -> Body:
        scan = item.measured == "scan" and isinstance(item.shapes[0], Mesh)
        role = "there" if item.chassis else item_role(item.neighbour, item.motion is not None, scan)
        if scan:
            placed = scan_of(session.seen_job, item.id).placed
            return Body(key, [MeshPart(placed.vertices, placed.faces)], role)
        return Body(key, solid_of(item, session.seen_job.meshes, "items"), role)

    return make


def _mapped(session: Session, item: Item, off: Any) -> Callable[[Key], Body]:
    def make(key: Key) -> Body:
        placed = scan_of(session.seen_job, item.id).placed
        return MappedBody(key, [MeshPart(placed.vertices, placed.faces)], off, item.give_or_take)

    return make


def _pieces(session: Session) -> Iterator[Drawn]:
    plain = as_taped(session)
    for piece in session.seen_job.powertrain.present:
        taped = plain is None or piece.id in plain
        yield Drawn(piece.id, (piece, taped), _piece(session, piece, taped))


def as_taped(session: Session) -> frozenset[str] | None:
    """Ids of the pieces that are drawn as they were taped: what is chosen and what fouls, so that a drawn
    waist is not taken for room; None for all of them."""
    if session.taped_sizes:
        return None
    kind, key = session.selection
    chosen = {key.partition("/")[0]} if kind == "gap" else {key} if kind == "piece" else set()
    return frozenset(chosen | {gap.piece for gap in session.seen_verdict.gaps if gap.margin < 0})


def _piece(session: Session, piece: Piece, taped: bool) -> Callable[[Key], Body]:
    def make(key: Key) -> Body:
        drawn = None if taped else dressed_piece(piece)
        if drawn is not None:
            return Body(key, drawn, piece_role(piece.neighbour))
        return Body(
            key, solid_of(piece, session.seen_job.meshes, "powertrain/pieces"), piece_role(piece.neighbour)
        )

    return make


def _plain(solids: list[Any], key: Key) -> Body:
    return Body(key, solids, "made")


def _made(kind: str) -> Callable[[Session], Iterator[Drawn]]:
    """The parts that are made, of owners of one kind."""

    def things(session: Session) -> Iterator[Drawn]:
        pose, every = pose_of(session.seen_job.position), made(session.seen_job)
        for owner in dict.fromkeys(p.owner for p in every.parts if p.owner.kind == kind):
            parts = [p for p in every.of(owner) if not p.stands_in]
            solids = [solid for part in parts for solid in part.in_vehicle(pose)]
            if solids:
                yield Drawn(owner.id, parts[0].version, partial(_plain, solids))

    return things


def _shafts(session: Session) -> Iterator[Drawn]:
    """Propshaft and half-shafts at ride height, where the engine is shown; none while it is on its way
    out."""
    if session.film is not None:
        return
    pose = shown_pose(session)
    place = pose.translation.tobytes() + pose.rotation.tobytes()
    try:
        every = links(session.seen_job)
    except JobError:  # of an item or piece, which says so itself
        return
    for link in every:
        if link.turns:
            solids = [solid for part in link.solids(pose, 0.0) for solid in part]
            yield Drawn(link.id, (link, place), partial(_shaft, solids))


def _shaft(solids: list[Any], key: Key) -> Body:
    return Body(key, solids, "moves")


DRAWERS: dict[str, Drawer] = {
    "item": Drawer(_items),
    "piece": Drawer(_pieces, shown_pose),
    "mount": Drawer(_made("mount"), _mount_pose),
    "crossmember": Drawer(_made("crossmember")),
    "strut": Drawer(_made("strut")),
    "shaft": Drawer(_shafts),
    "cradle": Drawer(_made("cradle")),
    "panel": Drawer(_made("panel")),
    "point": Drawer(lambda session: _marks(points_drawn(session)), everywhere=False),
    "reading": Drawer(lambda session: _marks(readings_drawn(session)), everywhere=False),
    "suspension": Drawer(lambda session: _marks(suspensions_drawn(session)), everywhere=False),
    "cutline": Drawer(lambda session: _marks(cut_lines_drawn(session)), everywhere=False),
    "mark": Drawer(lambda session: _marks(marks_drawn(session)), everywhere=False),
    "alone": Drawer(lambda session: (Drawn(*row) for row in alone_things(session)), everywhere=False),
}


def _marks(rows: Iterator[tuple[str, Any, list[Any], str]]) -> Iterator[Drawn]:
    """Small marks without edges, from (id, version, solids, colour)."""
    for id_, version, solids, colour in rows:
        yield Drawn(id_, version, partial(_mark, solids, colour))


def _mark(solids: list[Any], colour: str, key: Key) -> Body:
    body = Body(key, solids, "there", colour)
    body.edges.VisibilityOff()
    return body


def things_drawn(session: Session, asked: frozenset[str]) -> Iterator[tuple[Key, Drawn]]:
    """Everything that is drawn, with its key. asked: kinds that the stage asks for besides those that are
    drawn everywhere. Raises KeyError that names a kind without a drawer."""
    for kind in sorted(asked - set(DRAWERS)):
        raise KeyError(f"nothing draws the kind “{kind}”")
    only = "alone" in asked and mount_alone(session) is not None
    for kind, drawer in DRAWERS.items():
        if only and kind != "alone":
            continue
        if drawer.everywhere or kind in asked:
            for thing in drawer.things(session):
                yield (kind, thing.id), thing
