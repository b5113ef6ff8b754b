"""ISO metric screw threads: basic sizes, tapping drills and clearance holes.

Pitches after ISO 261 and ISO 262, tapping drills after ISO 2306, clearance holes after
ISO 273 (all from memory). Basic diameters by the formulas of ISO 724 for the profile of
ISO 68-1.
"""

import math
from dataclasses import dataclass

from rigid_bench.core.standards.unified import UNIFIED

#: Nominal diameter -> tapping drill by pitch, coarse first, mm.
_DRILLS: dict[float, dict[float, float]] = {
    1.6: {0.35: 1.25},
    2: {0.4: 1.6},
    2.5: {0.45: 2.05},
    3: {0.5: 2.5},
    4: {0.7: 3.3},
    5: {0.8: 4.2},
    6: {1: 5.0},
    8: {1.25: 6.8, 1: 7.0},
    10: {1.5: 8.5, 1.25: 8.8, 1: 9.0},
    12: {1.75: 10.2, 1.5: 10.5, 1.25: 10.8},
    14: {2: 12.0, 1.5: 12.5},
    16: {2: 14.0, 1.5: 14.5},
    18: {2.5: 15.5, 1.5: 16.5},
    20: {2.5: 17.5, 1.5: 18.5},
    22: {2.5: 19.5, 1.5: 20.5},
    24: {3: 21.0, 2: 22.0},
    27: {3: 24.0, 2: 25.0},
    30: {3.5: 26.5, 2: 28.0},
}
#: Nominal diameter -> clearance hole: fine, medium, coarse series, mm.
_CLEARANCE: dict[float, tuple[float, float, float]] = {
    1.6: (1.7, 1.8, 2.0),
    2: (2.2, 2.4, 2.6),
    2.5: (2.7, 2.9, 3.1),
    3: (3.2, 3.4, 3.6),
    4: (4.3, 4.5, 4.8),
    5: (5.3, 5.5, 5.8),
    6: (6.4, 6.6, 7.0),
    8: (8.4, 9.0, 10.0),
    10: (10.5, 11.0, 12.0),
    12: (13.0, 13.5, 14.5),
    14: (15.0, 15.5, 16.5),
    16: (17.0, 17.5, 18.5),
    18: (19.0, 20.0, 21.0),
    20: (21.0, 22.0, 24.0),
    22: (23.0, 24.0, 26.0),
    24: (25.0, 26.0, 28.0),
    27: (28.0, 30.0, 32.0),
    30: (31.0, 33.0, 35.0),
}
#: mm: a plain cylinder this near to a size of the tables stands for it.
_NEAR = 0.011


@dataclass(frozen=True, slots=True, kw_only=True)
class Thread:
    """A screw thread."""

    #: mm
    nominal: float
    pitch: float
    is_coarse: bool

    @property
    def designation(self) -> str:
        """As it is written on a drawing: the pitch only where it is a fine one."""
        return f"M{self.nominal:g}" if self.is_coarse else f"M{self.nominal:g}x{self.pitch:g}"

    @property
    def minor_internal(self) -> float:
        """mm, D1 = D - 2 (5/8) H with H = P sqrt(3)/2 (ISO 724)."""
        return self.nominal - 1.25 * math.sqrt(3) / 2 * self.pitch

    @property
    def root_external(self) -> float:
        """mm, d3 = d - 2 (17/24) H (ISO 724)."""
        return self.nominal - 17 / 12 * math.sqrt(3) / 2 * self.pitch

    @property
    def tapping_drill(self) -> float:
        """Mm (ISO 2306)."""
        return _DRILLS[self.nominal][self.pitch]


@dataclass(frozen=True, slots=True, kw_only=True)
class ThreadMatch:
    """What a plain diameter may stand for."""

    #: "M8", "M8x1"
    designation: str
    #: "tapping drill", "minor diameter", "nominal", "clearance fine", "clearance medium", "clearance coarse"
    size: str


def threads() -> list[Thread]:
    """List the threads of the tables, coarse and fine."""
    return [
        Thread(nominal=nominal, pitch=pitch, is_coarse=place == 0)
        for nominal, drills in _DRILLS.items()
        for place, pitch in enumerate(drills)
    ]


def find_thread(designation: str) -> Thread | None:
    """Return a thread of the tables by its designation; None for one that they do not have.

    Examples
    --------
    >>> find_thread("m8 x 1").tapping_drill, find_thread("M8x1.25").designation, find_thread("M7")
    (7.0, 'M8', None)
    """
    wanted = designation.upper().replace(" ", "").replace("×", "X").replace(",", ".")
    for thread in threads():
        written = {f"M{thread.nominal:g}X{thread.pitch:g}", thread.designation.upper()}
        if wanted in written:
            return thread
    return None


def clearance_hole(nominal: float) -> tuple[float, float, float] | None:
    """Return the clearance holes of a screw in the fine, medium and coarse series, mm; None for another size."""
    return _CLEARANCE.get(nominal)


def match_diameter(diameter: float, *, is_hole: bool) -> list[ThreadMatch]:
    """Return the threads that a plain cylinder may stand for.

    Parameters
    ----------
    diameter
        mm
    is_hole
        Whether it is a hole, not a shaft.

    Returns
    -------
    list of ThreadMatch
        Metric coarse threads before fine ones, then unified ones; clearance holes last. Empty
        where no size is within 0.01 mm.

    Examples
    --------
    >>> [f"{thread.designation} {thread.size}" for thread in match_diameter(6.8, is_hole=True)]
    ['M8 tapping drill', '5/16-24 UNF minor diameter']
    >>> [f"{thread.designation} {thread.size}" for thread in match_diameter(9, is_hole=True)]
    ['M10x1 tapping drill', 'M8 clearance medium']
    >>> match_diameter(7.7, is_hole=True)
    []
    """
    matches = []
    for thread in sorted(threads(), key=lambda thread: not thread.is_coarse):
        sizes = {"nominal": thread.nominal} if thread.is_coarse else {}
        if is_hole:
            sizes |= {"tapping drill": thread.tapping_drill, "minor diameter": thread.minor_internal}
        else:
            sizes |= {"minor diameter": thread.root_external}
        size = next((name for name, value in sizes.items() if abs(value - diameter) < _NEAR), None)
        if size:
            matches.append(ThreadMatch(designation=thread.designation, size=size))
    for unified in UNIFIED.values():
        sizes = {"nominal": unified.major_mm} if unified.is_coarse else {}
        sizes |= {"minor diameter": unified.minor_mm} if is_hole else {}
        size = next((name for name, value in sizes.items() if abs(value - diameter) < _NEAR), None)
        if size:
            matches.append(ThreadMatch(designation=unified.designation, size=size))
    if is_hole:
        for nominal, holes in _CLEARANCE.items():
            for series, size_mm in zip(("fine", "medium", "coarse"), holes, strict=True):
                if abs(size_mm - diameter) < _NEAR:
                    matches.append(ThreadMatch(designation=f"M{nominal:g}", size=f"clearance {series}"))
    return matches
