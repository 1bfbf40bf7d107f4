"""How a case is made: what each process holds, and what a finish adds or takes. Usual figures, rules of thumb unless a source is named; a print
of one's own is measured with a test piece.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from .design import Enclosure, FasteningKind, Finish, OwnMaking, Process, ThinSpot, Thread


@dataclass(frozen=True)
class Making:
    """Lengths in mm. Clearances are a side's: `free` for what is put in, `sliding` for what moves, `press` for what holds by itself, and the
    `least` that works. Walls and struts: usual least and what still comes out. `hole` is what a hole's diameter comes out smaller by, `post` what
    a post's comes out thicker by, `shrinks` a share of each length."""

    free: float
    sliding: float
    press: float
    least: float
    wall: float
    least_wall: float
    strut: float
    least_hole: float
    hole: float
    post: float
    shrinks: float


MAKING: dict[Process, Making] = {
    "filament": Making(0.3, 0.2, 0.1, 0.2, 1.2, 0.8, 2.0, 2.0, 0.2, 0.1, 0.003),
    "resin": Making(0.15, 0.1, 0.05, 0.1, 1.0, 0.6, 1.0, 0.8, 0.1, 0.05, 0.005),
    "milled": Making(0.15, 0.1, 0.0, 0.05, 1.0, 0.5, 1.0, 1.0, 0.0, 0.0, 0.0),
    "ready-made": Making(0.5, 0.3, 0.1, 0.3, 1.0, 0.5, 1.0, 1.0, 0.0, 0.0, 0.0),
}
FINISH_MM: dict[Finish, float] = {
    # what a surface gains, both sides of a wall: sanding and smoothing take, paint and varnish add
    "as made": 0.0,
    "sanded": -0.1,
    "smoothed": -0.05,
    "coated": 0.1,
}
SAME_MM = 1e-6
SKIN_MM = 0.8  # solid at each face of a filament wall: two lines


# a post's outer diameter [mm], usual and least: a screw that cuts its own thread wants 2.5 and twice its diameter, an insert and a nut their
# hole and 1.6 or 0.8 to 1.2 mm of wall around it
POST_MM: dict[FasteningKind, dict[Thread, tuple[float, float]]] = {
    "screw": {"M2": (5.0, 4.0), "M2.5": (6.5, 5.0), "M3": (7.5, 6.0), "M4": (10.0, 8.0)},
    "insert": {"M2": (6.5, 5.6), "M2.5": (7.5, 6.0), "M3": (8.0, 6.4), "M4": (9.0, 8.0)},
    "nut": {"M2": (7.0, 6.2), "M2.5": (8.5, 7.4), "M3": (9.5, 8.0), "M4": (11.5, 9.7)},
}
SNAPS_MM = (
    (10.0, 2.5, 8.0),
    (6.0, 1.8, 5.0),
)  # along the wall, into the room, upwards: a lip and what it springs by; a usual and a small one
HOLES_MM: dict[FasteningKind, dict[Thread, float]] = {
    # what a screw cuts into, four fifths of its diameter, and what an insert is melted into, as makers of inserts usually ask [mm]
    "screw": {"M2": 1.6, "M2.5": 2.0, "M3": 2.4, "M4": 3.2},
    "insert": {"M2": 3.2, "M2.5": 3.6, "M3": 4.0, "M4": 5.6},
}
CLEARS_MM: dict[Thread, float] = {"M2": 2.4, "M2.5": 2.9, "M3": 3.4, "M4": 4.5}  # ISO 273, medium
PASSES_MM: dict[Thread, float] = {"M2": 2.2, "M2.5": 2.7, "M3": 3.2, "M4": 4.3}  # a board's hole: ISO 273, fine
NUT_MM: dict[Thread, tuple[float, float]] = {
    # across the corners, and deep: ISO 4032 with room for it
    "M2": (4.7, 1.8), "M2.5": (5.9, 2.2), "M3": (6.5, 2.6), "M4": (8.3, 3.4),
}  # fmt: skip
HEAD_MM: dict[Thread, tuple[float, float]] = {
    # a countersunk head's diameter and height: ISO 7046-1
    "M2": (3.8, 1.2), "M2.5": (4.7, 1.5), "M3": (5.5, 1.65), "M4": (8.4, 2.7),
}  # fmt: skip
LEAST_SNAP_MM = 4.0  # high: a shorter one does not spring
FROM_A_POUCH_MM = 2.0  # metal and edges stay as far from a pouch cell


def making_of(case: Enclosure) -> Making:
    """What holds for a case: one's own machine's figures, or the process's usual ones.

    >>> from ember_core.design import Enclosure
    >>> case = Enclosure(outer_mm=(60, 90, 24))
    >>> making_of(case).least_wall
    0.8
    """
    own = case.making
    if own is None:
        return MAKING[case.process]
    return Making(
        own.free_mm, own.sliding_mm, own.press_mm, own.least_mm, own.wall_mm, own.least_wall_mm, own.strut_mm, own.least_hole_mm,
        own.hole_mm, own.post_mm, own.shrinks,
    )  # fmt: skip


def own_making(case: Enclosure) -> OwnMaking:
    """What holds for a case, to be changed by what test pieces told.

    >>> from ember_core.design import Enclosure
    >>> own = own_making(Enclosure(outer_mm=(60, 90, 24)))
    >>> own.name, own.free_mm > own.sliding_mm > own.press_mm
    ('My filament', True)
    """
    now = making_of(case)
    name = case.making.name if case.making else f"My {case.process}"
    return OwnMaking(
        name=name, free_mm=now.free, sliding_mm=now.sliding, press_mm=now.press, least_mm=now.least, wall_mm=now.wall,
        least_wall_mm=now.least_wall, strut_mm=now.strut, least_hole_mm=now.least_hole, hole_mm=now.hole, post_mm=now.post, shrinks=now.shrinks,
    )  # fmt: skip


Fits = Literal["free", "sliding", "press"]


def clearance_mm(case: Enclosure, fits: Fits = "free") -> float:
    """Part to wall, each side [mm], of what is put in freely, slides or is pressed in: the process's usual figure and what a finish adds; of what is put in
    freely the design's own where it has one.

    >>> from ember_core.design import Enclosure
    >>> case = Enclosure(outer_mm=(60, 90, 24))
    >>> clearance_mm(case, "free")
    0.3
    """
    making, coat = making_of(case), max(FINISH_MM[case.finish], 0.0)
    if fits == "free":
        return making.free + coat if case.clearance_mm is None else case.clearance_mm
    return (making.sliding if fits == "sliding" else making.press) + coat


def least_clearance_mm(case: Enclosure) -> float:
    """The least clearance that still works once the finish is on [mm].

    >>> from ember_core.design import Enclosure
    >>> case = Enclosure(outer_mm=(60, 90, 24))
    >>> least_clearance_mm(case)
    0.2
    """
    return making_of(case).least + max(FINISH_MM[case.finish], 0.0)


def wall_left_mm(wall_mm: float, case: Enclosure) -> float:
    """What a finish leaves of a wall, both faces worked [mm].

    >>> from ember_core.design import Enclosure
    >>> case = Enclosure(outer_mm=(60, 90, 24))
    >>> wall_left_mm(2.0, case)
    2.0
    """
    return wall_mm + 2 * min(FINISH_MM[case.finish], 0.0)


def thin_spots(case: Enclosure) -> list[tuple[float, ThinSpot]]:
    """The spots of a case from a file that are thinner than what the process makes well, the thinnest first, each with what a finish leaves of it [mm].

    >>> from ember_core.design import Enclosure
    >>> case = Enclosure(outer_mm=(60, 90, 24))
    >>> list(thin_spots(case))
    []
    """
    spots = case.shape.thin if case.shape is not None else []
    left = [(wall_left_mm(spot.thickness_mm, case), spot) for spot in spots]
    return sorted((x for x in left if x[0] < making_of(case).wall - SAME_MM), key=lambda x: x[0])


def solid_share(wall_mm: float, case: Enclosure) -> float:
    """What of a wall's volume is plastic: its skins, and the infill between them.

    >>> from ember_core.design import Enclosure
    >>> case = Enclosure(outer_mm=(60, 90, 24))
    >>> round(solid_share(2.0, case), 2)
    1.0
    """
    if case.process != "filament" or wall_mm <= 2 * SKIN_MM:
        return 1.0
    return (2 * SKIN_MM + case.infill * (wall_mm - 2 * SKIN_MM)) / wall_mm
