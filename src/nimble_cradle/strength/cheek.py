"""Two cheeks that stand on a foot: bending in and out of their plane, the metal round their hole, their give.
N, mm, MPa, N mm; loads of k cases at once."""

from __future__ import annotations

import numpy as np

from nimble_cradle.calc import Q, calculation
from nimble_cradle.geometry.pose import Array
from nimble_cradle.strength.weld import weld_capacity

E_STEEL, G_STEEL = 210_000.0, 80_769.0


def cheek_stress(
    along: Array, out: Array, tip: Array, height: float, wide: float, thick: float, clamped: bool
) -> Array:
    """Equivalent stress (k,) MPa at the foot of the harder-used of two cheeks.

    along: N along the bolt, bending the cheeks over their thickness; out: N on or off the host; tip: N mm
    in the cheeks' plane about their foot. A clamped sleeve makes a frame of the two, each bent by F h / 4;
    else each is bent by F h / 2 as a cantilever.
    """
    over = np.abs(along) * height / (4.0 if clamped else 2.0)
    sigma = (
        np.abs(out) / (2 * wide * thick)
        + 6 * np.abs(tip) / (2 * thick * wide**2)
        + 6 * over / (wide * thick**2)
    )
    tau = np.abs(tip) / max(height, 1e-9) / (2 * wide * thick)
    return np.asarray(np.sqrt(sigma**2 + 3 * tau**2))


def _cheek_use(
    along: float,
    out: float,
    tip: float,
    height: float,
    wide: float,
    thick: float,
    yield_mpa: float,
    clamped: str = "yes",
) -> tuple[float, float]:
    stress = float(
        cheek_stress(
            np.array([along]), np.array([out]), np.array([tip]), height, wide, thick, clamped == "yes"
        )[0]
    )
    return stress / yield_mpa, stress


CHEEKS = calculation(
    "cheeks-on-foot",
    "Two cheeks bent where they stand on their foot",
    inputs=(
        Q("along", "N", "along the bolt, with its factor"),
        Q("out", "N", "on or off the host, with its factor"),
        Q("tip", "N mm", "moment in the cheeks' plane about their foot"),
        Q("height", "mm", "bolt over the foot", above=0),
        Q("wide", "mm", "each cheek, wide at its foot", above=0),
        Q("thick", "mm", "each cheek", above=0),
        Q("yield_mpa", "MPa", "yield strength", above=0),
        Q("clamped", "", "whether the bolt clamps the sleeve between them", "yes", choices=("yes", "no")),
    ),
    outputs=(Q("use", "", "share used"), Q("stress", "MPa", "equivalent stress")),
    formula=(
        "sigma = F_out/(2 w t) + 6 M_tip/(2 t w^2) + 6 M_over/(w t^2), M_over = F_along h/4 clamped, h/2 not;"
        "  sqrt(sigma^2 + 3 tau^2) <= fy"
    ),
    source="statics of a two-legged frame and of a cantilever; von Mises",
    leaves_out="cheeks that buckle, and a rib between them, which would help",
)(_cheek_use)


def cheek_weld(
    line: float, over: float, thick: float, throat: float, sides: str, tensile: float, beta: float
) -> tuple[float, float, float]:
    """Use, greatest line force N/mm and capacity N/mm of the welds along a cheek.

    line: N/mm of all the cheeks' welds together; over: N mm per mm that bends the cheek over its weld. Two
    welds take that as a couple; one alone is bent on its root, m / (a^2/6) (EN 1993-1-8, 4.12).
    """
    more = over / (thick + throat) if sides == "both" else 6 * over / throat
    capacity = weld_capacity(throat, tensile, beta)
    return (line + more) / capacity, line + more, capacity


CHEEK_WELD = calculation(
    "cheek-weld",
    "The welds along the foot of a cheek",
    inputs=(
        Q("line", "N/mm", "greatest force on a mm of all the cheeks' welds together", low=0),
        Q("over", "N", "moment per mm that bends the cheek over its weld, N mm/mm", low=0),
        Q("thick", "mm", "cheek", above=0),
        Q("throat", "mm", "throat of the fillets", above=0),
        Q("sides", "", "welded on", "both", choices=("both", "one")),
        Q("tensile", "MPa", "tensile strength of the weaker steel", 360.0, above=0),
        Q("beta", "", "correlation factor of that steel", 0.8, above=0, high=1),
    ),
    outputs=(
        Q("use", "", "share used"),
        Q("force", "N/mm", "greatest force on a mm of weld"),
        Q("capacity", "N/mm", "what a mm of weld holds"),
    ),
    formula="f = line + m/(t + a) on both sides, line + 6 m/a on one;  capacity = a fu/(sqrt(3) beta 1.25)",
    source="EN 1993-1-8:2005, 4.5.3.3 and 4.12 (from memory); statics",
    leaves_out="starts and ends of the welds",
)(cheek_weld)


def pin_end(load: float, thick: float, hole: float, edge: float, yield_mpa: float) -> tuple[float, float]:
    """Use and needed distance mm from the hole's edge to the end of one of two cheeks under ``load`` N."""
    needed = load / 2 / (2 * thick * yield_mpa) + 2 * hole / 3
    return needed / max(edge - hole / 2, 1e-9), needed


PIN_END = calculation(
    "cheek-end",
    "Metal round the bolt's hole in a cheek",
    inputs=(
        Q("load", "N", "on both cheeks, with its factor", low=0),
        Q("thick", "mm", "each cheek", above=0),
        Q("hole", "mm", "hole", above=0),
        Q("edge", "mm", "hole's centre to the cheek's end", above=0),
        Q("yield_mpa", "MPa", "yield strength", above=0),
    ),
    outputs=(Q("use", "", "needed / there"), Q("needed", "mm", "from the hole's edge to the cheek's end")),
    formula="a >= F / (2 t fy) + 2 d0 / 3, F on one cheek",
    source="EN 1993-1-8:2005 table 3.9, type A, factor 1.0 (from memory)",
)(pin_end)


def plate_overhang(line: float, reach: float, thick: float, yield_mpa: float) -> tuple[float, float]:
    """Use of a foot plate bent between cheek and weld, and the moment N mm per mm: line N/mm, ``reach`` mm
    from it."""
    moment = line * reach
    return moment / (thick**2 / 4 * yield_mpa), moment


OVERHANG = calculation(
    "foot-overhang",
    "A foot plate bent between its cheeks and its weld",
    inputs=(
        Q("line", "N/mm", "force per mm of the weld, with its factor", low=0),
        Q("reach", "mm", "from the cheek to the weld", low=0),
        Q("thick", "mm", "foot plate", above=0),
        Q("yield_mpa", "MPa", "yield strength", above=0),
    ),
    outputs=(Q("use", "", "share used"), Q("moment", "N", "moment per mm of plate, N mm/mm")),
    formula="m = q c <= t^2/4 fy",
    source="a strip of plate as a cantilever; plastic moment",
    leaves_out="that the plate also carries the other way, which helps",
)(plate_overhang)


def room_use(moved: float, room: float) -> float:
    """Use of the room between eye and foot."""
    return moved / max(room, 1e-3)


EYE_ROOM = calculation(
    "eye-over-foot",
    "Room between the eye and the foot under it",
    inputs=(
        Q("moved", "mm", "how far the eye comes towards the foot", low=0),
        Q("room", "mm", "between them at rest on the drawing", above=0),
    ),
    outputs=(Q("use", "", "share used"),),
    formula="moved / room",
    source="definition",
)(room_use)


def flat_use(gap: float, most: float) -> float:
    """Use of what a weld or a bolt may pull shut."""
    return gap / most


MOST_GAP = 2.0
"""A weld bridges, or bolts pull shut, so many mm under a foot (common practice, no source)."""
FLAT = calculation(
    "foot-flat",
    "How flat a foot lies on its host",
    inputs=(
        Q("gap", "mm", "most that stands open under it", low=0),
        Q("most", "mm", "the most that a weld bridges", MOST_GAP, above=0),
    ),
    outputs=(Q("use", "", "share used"),),
    formula="gap / most",
    source="common practice, no source",
    leaves_out="the give-or-take of the host's own measurement",
)(flat_use)


def cheek_give(height: float, wide: float, thick: float, clamped: bool) -> tuple[float, float, float]:
    """How far two cheeks give at the bolt for one newton, mm/N: along the bolt, across it, on the host."""
    over = 2 * wide * thick**3 / 12
    along = height**3 / ((12.0 if clamped else 3.0) * E_STEEL * over)
    second, area = 2 * thick * wide**3 / 12, 2 * thick * wide
    across = height**3 / (3 * E_STEEL * second) + 1.2 * height / (G_STEEL * area)
    return along, across, height / (E_STEEL * area)


CHEEK_GIVE = calculation(
    "cheeks-give",
    "How far two cheeks on a foot give",
    inputs=(
        Q("height", "mm", "bolt over the foot", above=0),
        Q("wide", "mm", "each cheek, wide at its foot", above=0),
        Q("thick", "mm", "each cheek", above=0),
        Q("clamped", "", "whether the bolt clamps the sleeve between them", "yes", choices=("yes", "no")),
    ),
    outputs=(
        Q("along", "mm/N", "along the bolt"),
        Q("across", "mm/N", "across the bolt"),
        Q("out", "mm/N", "on or off the host"),
    ),
    formula="along: h^3/(12 E I) clamped, h^3/(3 E I) not;  across: h^3/(3 E I) + 1.2 h/(G A);  out: h/(E A)",
    source="statics of a two-legged frame and of a cantilever; E = 210 000 MPa",
    leaves_out="the taper of the cheeks towards the bolt, the foot plate",
)(lambda height, wide, thick, clamped="yes": cheek_give(height, wide, thick, clamped == "yes"))
