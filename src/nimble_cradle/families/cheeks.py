"""Two cheeks of a chassis side: their outline, solids and checks, whatever they stand on."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from nimble_cradle.families.family import eye_of
from nimble_cradle.families.foot_seat import FootSeat, cheek_gap, cheek_top, hole_in_cheek
from nimble_cradle.families.part import Joint, MadePart, Owner, Stock
from nimble_cradle.findings.finding import Finding, Problem
from nimble_cradle.findings.worst import Cases, Check, worst
from nimble_cradle.geometry.plate import Plate
from nimble_cradle.geometry.pose import Array
from nimble_cradle.geometry.solid_makers import pushed
from nimble_cradle.geometry.solids import ConvexPart
from nimble_cradle.job.base import JobError
from nimble_cradle.job.foot import Cheeked
from nimble_cradle.job.mounts import Mount
from nimble_cradle.stock.form import Form
from nimble_cradle.stock.steels import DENSITY_STEEL, STEELS, Steel
from nimble_cradle.strength.cheek import (
    CHEEK_WELD,
    CHEEKS,
    EYE_ROOM,
    PIN_END,
    cheek_give,
    cheek_stress,
    cheek_weld,
    pin_end,
)
from nimble_cradle.strength.fatigue import ROOT, TEE
from nimble_cradle.strength.weld import effective_throat, force_per_mm, segments

CODES = ("foot-cheeks", "foot-cheek-weld", "foot-life", "foot-cheek-end", "foot-room")
"""The findings that cheeks always have."""

NO_ROOM = 0.5
"""An eye nearer to its foot than so many mm is taken to be so near."""


@dataclass(frozen=True, eq=False)
class OnFoot:
    """Two cheeks on what is ``base`` mm over the host's face, of steel ``under`` and ``under_mm`` thick."""

    mount: Mount
    seat: FootSeat
    base: float
    under: Steel
    under_mm: float

    @property
    def foot(self) -> Cheeked:
        """The job's own figures."""
        assert isinstance(self.mount.foot, Cheeked)
        return self.mount.foot

    @property
    def height(self) -> float:
        """Bolt over the cheeks' foot, mm."""
        return self.seat.height - self.base

    @property
    def clamped(self) -> bool:
        """Whether the cross-bolt is known to clamp the sleeve between them."""
        return self.mount.cross_bolt.tightening_nm is not None

    @property
    def beside(self) -> float:
        """From the middle between the cheeks to the middle of each, mm along the bolt."""
        return cheek_gap(self.mount) / 2 + self.mount.cross_bolt.cheek_mm / 2

    @property
    def footprint(self) -> tuple[float, float]:
        """Size of both together where they stand, along the bolt and across it, mm."""
        return 2 * self.beside + self.mount.cross_bolt.cheek_mm, self.foot.cheek_foot_mm

    @property
    def room_mm(self) -> float:
        """Between the eye and the foot under it, mm; below nought where the eye stands in it."""
        return self.height - eye_of(self.mount.bush).outside_mm / 2

    def outline(self) -> Array:
        """(n, 2) one cheek: across the bolt, and up from its foot; the hull of its foot and a round about the
        bolt."""
        from shapely.geometry import MultiPoint, Point, Polygon, box
        from shapely.ops import unary_union

        half = self.foot.cheek_foot_mm / 2
        bolt = Point(-self.foot.shift[1], self.height).buffer(cheek_top(self.mount), quad_segs=12)
        hull = unary_union([bolt, MultiPoint([(-half, 0.0), (half, 0.0)])]).convex_hull
        hull = hull.intersection(box(-1e4, 0.0, 1e4, 1e4))  # a low bolt's round goes no deeper than the foot
        assert isinstance(hull, Polygon)
        return np.asarray(hull.exterior.coords)[:-1]

    def solids(self) -> tuple[ConvexPart, ConvexPart]:
        """Both, vehicle frame."""
        cross, seat = self.mount.cross_bolt, self.seat
        flat, along = self.outline() + [0.0, self.base], seat.axes[:, 0]
        ring = flat @ seat.axes[:, 1:].T + seat.centre - self.foot.shift[0] * along
        one, two = (
            pushed(ring + (s * self.beside - cross.cheek_mm / 2) * along, cross.cheek_mm * along)
            for s in (-1.0, 1.0)
        )
        return one, two

    def part(self, to: str) -> MadePart:
        """The two cheeks, welded to ``to``. Raises JobError where there is no room for them."""
        mount, cross = self.mount, self.mount.cross_bolt
        if self.height <= cheek_top(mount) / 2:
            raise JobError(
                f"{mount.name}: between its bolt and its host there is no room for a foot"
                f" {self.base:g} mm thick; move the bush away from {self.seat.host.name}.",
                f"mounts/{mount.id}/foot",
            )
        outline = self.outline()
        area = 0.5 * abs(
            float(
                np.dot(outline[:, 0], np.roll(outline[:, 1], -1))
                - np.dot(outline[:, 1], np.roll(outline[:, 0], -1))
            )
        )
        hole = hole_in_cheek(mount)
        flat = Plate(
            outline,
            np.array([[-self.foot.shift[1], self.height]]),
            np.array([hole]),
            area - math.pi / 4 * hole**2,
        )
        size = np.ptp(outline, axis=0)
        return MadePart(
            Owner("mount", mount.id),
            "cheeks",
            f"{mount.name}: cheeks",
            self.solids(),
            flat=flat,
            stock=Stock(
                f"plate {cross.cheek_mm:g}",
                cross.cheek_steel,
                f"{math.ceil(size[0] - 1e-6)} x {math.ceil(size[1] - 1e-6)}",
                round(flat.area * cross.cheek_mm * DENSITY_STEEL, 2),
                f"template cheek-{mount.id}",
                Form("sheet", (cross.cheek_mm,)),
                2,
            ),
            joints=(Joint("welded to", to), Joint("bolted to", "sleeve")),
            templates=(f"cheek-{mount.id}",),
        )

    def questions(self) -> list[Problem]:
        """Whether the eye has any room over the foot."""
        if self.room_mm >= NO_ROOM:
            return []
        sentence = (
            f"{self.mount.name}: its eye stands {-self.room_mm:.0f} mm in its own foot; move the bush off"
            f" {self.seat.host.name}."
        )
        return [Problem("mounts", f"mounts/{self.mount.id}/foot", sentence)]

    def checks(self, cases: Cases) -> list[Finding]:
        """Bending, welds, the metal round the bolt, and the eye's room over the foot."""
        force, moment = self.seat.loads(self.mount, cases.forces, self.base)
        return [
            self._bending(cases, force, moment),
            self._weld(cases, force, moment),
            self._end(cases),
            self._room(cases),
        ]

    def _bending(self, cases: Cases, force: Array, moment: Array) -> Finding:
        cross, wide = self.mount.cross_bolt, self.foot.cheek_foot_mm
        fy = STEELS[cross.cheek_steel].yield_mpa
        stress = cheek_stress(
            force[:, 0], force[:, 2], moment[:, 0], self.height, wide, cross.cheek_mm, self.clamped
        )
        return worst(
            self.mount,
            Check(
                "foot-cheeks", "cheeks bent at their foot", "stress", "thicker or wider cheeks, or lower ones"
            ),
            cases,
            stress / fy,
            stress,
            CHEEKS,
            lambda k: {
                "along": float(force[k, 0]),
                "out": float(force[k, 2]),
                "tip": float(moment[k, 0]),
                "height": self.height,
                "wide": wide,
                "thick": cross.cheek_mm,
                "yield_mpa": fy,
                "clamped": "yes" if self.clamped else "no",
            },
            {"along": "equilibrium", "height": "the bay"},
        )

    def life(self, changes: Array) -> list[tuple[Array, float]]:
        """Stress ranges (k,) MPa at the root of the cheeks' welds and at their toe on the cheeks, under
        changes (k, 3) of the force on the bush, vehicle frame; with the category of each."""
        force, moment = self.seat.loads(self.mount, changes, self.base)
        line, over = self._lines(force, moment)
        t, foot = self.mount.cross_bolt.cheek_mm, self.foot
        throat = effective_throat(foot.cheek_weld_mm, t, self.under_mm)
        per = over / foot.cheek_foot_mm
        more = per / (t + throat) if foot.weld_inside else 6 * per / throat
        toe = cheek_stress(
            force[:, 0], force[:, 2], moment[:, 0], self.height, foot.cheek_foot_mm, t, self.clamped
        )
        return [((line + more) / throat, ROOT), (toe, TEE)]

    def _lines(self, force: Array, moment: Array) -> tuple[Array, Array]:
        """(k,) N/mm of all welds as one group with the frame's own share of the tipping along the bolt, and
        N mm, the rest of that, which bends each cheek over its weld."""
        foot, t = self.foot, self.mount.cross_bolt.cheek_mm
        half = foot.cheek_foot_mm / 2
        sides = (-1.0, 1.0) if foot.weld_inside else (1.0,)
        at = [s * (self.beside + w * t / 2) for s in (-1.0, 1.0) for w in sides]
        group = segments([((x, -half), (x, half)) for x in at])
        over = np.abs(force[:, 0]) * self.height / (4.0 if self.clamped else 2.0)
        tipped = moment.copy()
        tipped[:, 1] = np.sign(moment[:, 1]) * np.maximum(np.abs(moment[:, 1]) - 2 * over, 0.0)
        return force_per_mm(group, force, tipped), over

    def _weld(self, cases: Cases, force: Array, moment: Array) -> Finding:
        """The welds of both cheeks."""
        cross, foot = self.mount.cross_bolt, self.foot
        half, t = foot.cheek_foot_mm / 2, cross.cheek_mm
        line, over = self._lines(force, moment)
        throat = effective_throat(foot.cheek_weld_mm, t, self.under_mm)
        weaker = min((STEELS[cross.cheek_steel], self.under), key=lambda s: s.tensile / s.weld_beta)
        word = "both" if foot.weld_inside else "one"
        given = (t, throat, word, weaker.tensile, weaker.weld_beta)
        told = np.array(
            [cheek_weld(float(x), float(o) / (2 * half), *given)[:2] for x, o in zip(line, over, strict=True)]
        )
        return worst(
            self.mount,
            Check(
                "foot-cheek-weld",
                "welds of cheeks to foot",
                "line force",
                "weld both sides of each cheek, a thicker weld, wider or lower cheeks",
            ),
            cases,
            told[:, 0],
            told[:, 1],
            CHEEK_WELD,
            lambda k: {
                "line": float(line[k]),
                "over": float(over[k]) / (2 * half),
                **dict(zip(("thick", "throat", "sides", "tensile", "beta"), given, strict=True)),
            },
            {"line": "elastic weld lines", "over": "frame of the two cheeks"},
        )

    def _end(self, cases: Cases) -> Finding:
        cross = self.mount.cross_bolt
        load = np.linalg.norm(cases.forces, axis=1)
        given = {
            "thick": cross.cheek_mm,
            "hole": hole_in_cheek(self.mount),
            "edge": min(cheek_top(self.mount), self.height),
            "yield_mpa": STEELS[cross.cheek_steel].yield_mpa,
        }
        use = np.array([pin_end(float(x), *given.values())[0] for x in load])
        return worst(
            self.mount,
            Check("foot-cheek-end", "metal round the bolt in the cheeks", "force", "thicker cheeks"),
            cases,
            use,
            load,
            PIN_END,
            lambda k: {"load": float(load[k]), **given},
            {"load": "bush"},
        )

    def _room(self, cases: Cases) -> Finding:
        """The eye on its way to the foot; movement as it is."""
        moved = np.array([max(-float(row.movement @ self.seat.axes[:, 2]), 0.0) for row in cases.rows])
        room = max(self.room_mm, NO_ROOM)
        return worst(
            self.mount,
            Check("foot-room", "eye on its way to the foot", "length", "higher cheeks, or a harder bush"),
            cases,
            moved / room,
            moved,
            EYE_ROOM,
            lambda k: {"moved": float(moved[k]), "room": room},
            {"moved": "equilibrium", "room": "the bay"},
            factored=False,
        )

    def give(self) -> Array:
        """(3, 3) mm/N how far the bolt gives on the cheeks under a force, vehicle frame."""
        each = cheek_give(self.height, self.foot.cheek_foot_mm, self.mount.cross_bolt.cheek_mm, self.clamped)
        return np.asarray(self.seat.axes @ np.diag(each) @ self.seat.axes.T)
