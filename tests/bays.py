"""Bays made up at random in which the best seat is hard to find: a slanted tunnel, a pocket beside a wall,
an engine across, a frame of tubes, an engine amidships with its gearbox ahead of it, a scanned trough; and
the demos with everything in them moved."""

from __future__ import annotations

import numpy as np
from nimble_cradle.cli.bench_seats import scanned, shifted
from nimble_cradle.demo import demo_folder
from nimble_cradle.job import store
from nimble_cradle.job.bay import Item
from nimble_cradle.job.edits import with_value
from nimble_cradle.job.job import Job
from nimble_cradle.job.new import new_job
from nimble_cradle.job.powertrain import Piece, Position
from nimble_cradle.job.shapes import Bar, Box
from nimble_cradle.job.wish import Window, Wish

KINDS = ("tunnel", "pocket", "across", "tubes", "mid")
DEMOS = ("light-truck", "hatchback")
SCANNED = "scanned"


def bay(kind: str, seed: int, seat: Position | None = None) -> Job:
    """One of them. Nothing carries the powertrain: gaps are those at rest. A demo with its items moved at
    random needs to know a seat of the demo itself."""
    if kind in DEMOS:
        demo = store.read(demo_folder(kind)).job
        return demo if seat is None else shifted(with_value(demo, "position", seat), seed)
    if kind == SCANNED:
        return _in_a_trough(seed)
    rng = np.random.default_rng([KINDS.index(kind), seed])

    def any_of(low: float, high: float) -> float:
        return round(float(rng.uniform(low, high)), 1)

    job = new_job(f"{kind} {seed}")
    yaw = {"across": -90.0, "mid": 180.0}.get(kind, 0.0)
    pieces = (
        Piece(
            id="block",
            name="Block",
            mass_kg=140,
            shapes=(Box(centre=(230, 0, 130), size=(460, any_of(240, 300), 380)),),
        ),
        Piece(
            id="sump",
            name="Sump",
            mass_kg=5,
            shapes=(Box(centre=(any_of(90, 350), any_of(-40, 40), -120), size=(150, 160, 120)),),
        ),
        Piece(
            id="box",
            name="Gearbox",
            mass_kg=45,
            shapes=(Box(centre=(-250, 0, -10), size=(500, 200, any_of(200, 260))),),
        ),
        Piece(
            id="arm",
            name="Alternator",
            mass_kg=6,
            shapes=(Bar(start=(320, 190, 40), end=(450, 190, 40), diameter=120),),
        ),
    )
    lean, nose = any_of(-5, 5), any_of(-4, 4)
    items = [
        Item(
            id="floor",
            name="Floor",
            neighbour="sheet",
            shapes=(Box(centre=(any_of(80, 320), any_of(-60, 60), -300), size=(90, 700, 60)),),
        ),
        Item(
            id="wall",
            name="Wall",
            neighbour="sheet",
            shapes=(Box(centre=(-120, 0, 330), size=(40, 900, 320)),),
        ),
    ]
    if kind == "tunnel":
        for side in (-1, 1):
            items.append(
                Item(
                    id=f"side-{'left' if side > 0 else 'right'}",
                    name="Tunnel side",
                    neighbour="sheet",
                    shapes=(
                        Box(
                            centre=(-420, side * any_of(138, 150) + 35 * lean / 5, -20),
                            size=(640, 20, 420),
                            turn=(0, nose, lean),
                        ),
                    ),
                )
            )
    elif kind in ("pocket", "mid"):
        for k in range(5):
            items.append(
                Item(
                    id=f"thing-{k}",
                    name=f"Thing {k}",
                    neighbour="metal",
                    shapes=(
                        Box(
                            centre=(any_of(-300, 500), any_of(-260, 260), any_of(-330, -150)),
                            size=(any_of(40, 120), any_of(40, 120), any_of(40, 160)),
                            turn=(0, 0, any_of(-30, 30)),
                        ),
                    ),
                )
            )
    elif kind == "across":
        for k, y in enumerate((-430.0, 520.0)):
            items.append(
                Item(
                    id=f"leg-{k}",
                    name=f"Leg {k}",
                    neighbour="metal",
                    shapes=(Box(centre=(any_of(-60, 60), y, any_of(-60, 60)), size=(700, 80, 120)),),
                )
            )
        items.append(
            Item(
                id="rack",
                name="Rack",
                neighbour="steering",
                shapes=(
                    Bar(
                        start=(any_of(-260, -180), -400, any_of(-220, -140)),
                        end=(any_of(-260, -180), 400, any_of(-220, -140)),
                        diameter=50,
                    ),
                ),
            )
        )
    else:
        for k in range(7):
            a = (any_of(-500, 500), any_of(-420, -220), any_of(-260, 260))
            b = (any_of(-500, 500), any_of(220, 420), any_of(-300, -170))
            items.append(
                Item(
                    id=f"tube-{k}",
                    name=f"Tube {k}",
                    neighbour="metal",
                    shapes=(
                        Bar(
                            start=a if k % 2 else (a[0], 260.0, a[2]),
                            end=b if k % 2 else (b[0], 300.0, any_of(-260, 260)),
                            diameter=38,
                        ),
                    ),
                )
            )
    job = with_value(job, "items", tuple(items))
    job = with_value(job, "powertrain/pieces", pieces)
    job = with_value(job, "position", Position(x=0, y=0, z=150, roll_deg=0, pitch_deg=0, yaw_deg=yaw))
    wish = Wish(
        fore_aft=Window(low=-160, high=160),
        side=Window(low=-60, high=60),
        height=Window(low=-160, high=220),
        nose_up=Window(low=-5, high=5),
        clocked=Window(low=-6, high=6),
        yaw=Window(low=yaw - 6, high=yaw + 6),
        wanted_yaw=yaw,
        joints=False,
        over_line=False,
        back=0.5,
    )
    return with_value(job, "wish", wish)


def _in_a_trough(seed: int) -> Job:
    """A pocket's bay with a dented trough round all of the powertrain, a scan of some 7,000 triangles, that
    stands off to a side, lower and further ahead or back than where the powertrain begins."""
    rng = np.random.default_rng([len(KINDS), seed])
    before = bay("pocket", 1000 + seed)
    job = scanned(before, 60)
    (key,) = {item.id for item in job.items} - {item.id for item in before.items}
    by = tuple(round(float(c), 1) for c in rng.uniform((-40.0, -25.0, -150.0), (40.0, 25.0, -60.0)))
    return with_value(job, f"items/{key}/moved", by)
