"""Modelled threads: free-form faces whose edges wind about an axis at one pitch.

A point of a helix at height z stands at the angle 2 pi z / pitch (ISO 5408: pitch is what it climbs in a turn).
"""

import math
from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.part.faces import Cylinder, OtherFace
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.part.join import axis_groups

_Array = NDArray[np.float64]
#: A helix keeps its radius and its angle within this share of the radius, and of a radian.
_EVEN = 0.02
#: So many whole turns may lie between two samples of an edge.
_MOST_TURNS = 6
#: What winds round less often is a swept wall and no thread.
_LEAST_TURNS = 1.5
#: Edges that wind alike make a thread: both sides of the groove at least.
_LEAST_EDGES = 2


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class HelicalThread:
    """A wall that winds about an axis."""

    #: mm in a turn
    pitch: float
    #: mm, of the crests and roots.
    major_diameter: float
    minor_diameter: float
    #: mm along the axis.
    length: float
    is_right_handed: bool
    #: It winds in a hole.
    is_internal: bool
    #: (3,) mm, on the axis where it begins, and (3,) unit.
    position: _Array
    direction: _Array
    #: Places in the part's surfaces.
    surfaces: tuple[int, ...]


@dataclass(frozen=True, slots=True, eq=False)
class _Winding:
    """An edge of one radius about an axis: heights (mm) and angles (rad) of its samples."""

    radius: float
    heights: _Array
    angles: _Array
    surfaces: frozenset[int]

    def pitches(self) -> Iterator[float]:
        """Yield what it climbs in a turn, above 0 for a right-handed one, for each count of turns between samples."""
        climb = float(np.diff(self.heights).mean())
        turn = float(np.angle(np.exp(1j * np.diff(self.angles)).mean()))
        for whole in range(-_MOST_TURNS, _MOST_TURNS + 1):
            turned = turn + 2 * math.pi * whole
            if abs(turned) > 1e-6:
                yield 2 * math.pi * climb / turned

    def winds_at(self, pitch: float) -> bool:
        """Say whether all samples stand where a helix of this pitch has them."""
        turned = self.angles - 2 * math.pi * self.heights / pitch
        return float(abs(np.exp(1j * turned).mean())) > 1 - _EVEN**2


def find_threads(part: PartFeatures) -> list[HelicalThread]:
    """Find the modelled threads of a part, one for each axis.

    Parameters
    ----------
    part
        Its surfaces and edges.
    """
    free = [number for number, surface in enumerate(part.surfaces) if isinstance(surface, OtherFace)]
    if not free:
        return []
    helical_threads = []
    for walls in axis_groups([surface for surface in part.surfaces if isinstance(surface, Cylinder)]):
        windings = _windings(part, free, walls[0])
        best = max(
            (
                [winding for winding in windings if winding.winds_at(pitch)]
                for winding in windings
                for pitch in winding.pitches()
            ),
            key=len,
            default=[],
        )
        if len(best) >= _LEAST_EDGES and (thread := _thread(part, walls[0], best)):
            helical_threads.append(thread)
    return helical_threads


def _windings(part: PartFeatures, free: list[int], wall: Cylinder) -> list[_Winding]:
    """List the edges of free-form faces that keep one distance from an axis and climb along it."""
    beside: dict[int, set[int]] = {}
    for number in free:
        for edge, _ in part.edges.neighbours(number):
            if edge in part.edges.samples:
                beside.setdefault(edge, set()).add(number)
    across = np.cross(wall.direction, wall.arcs[0][0])
    windings = []
    for edge, surfaces in beside.items():
        offset = part.edges.samples[edge] - wall.point
        heights = offset @ wall.direction
        radial = offset - np.outer(heights, wall.direction)
        radii = np.linalg.norm(radial, axis=1)
        radius = float(radii.mean())
        climbs = np.diff(heights)
        if radius > _EVEN and np.ptp(radii) < _EVEN * radius and (np.all(climbs > 1e-6) or np.all(climbs < -1e-6)):
            angles = np.arctan2(radial @ across, radial @ wall.arcs[0][0])
            windings.append(_Winding(radius, heights, angles, frozenset(surfaces)))
    return windings


def _thread(part: PartFeatures, wall: Cylinder, windings: list[_Winding]) -> HelicalThread | None:
    """Put the windings of one pitch together; None where they go round too little."""
    pitch = min(
        (p for p in windings[0].pitches() if all(winding.winds_at(p) for winding in windings)), key=_steep, default=0.0
    )
    if not pitch:
        return None
    low = min(float(winding.heights.min()) for winding in windings)
    high = max(float(winding.heights.max()) for winding in windings)
    if (high - low) / abs(pitch) < _LEAST_TURNS:
        return None
    radii = [winding.radius for winding in windings]
    outside = wall.point + (low + high) / 2 * wall.direction + (max(radii) + abs(pitch) / 4) * wall.arcs[0][0]
    return HelicalThread(
        pitch=abs(pitch),
        major_diameter=2 * max(radii),
        minor_diameter=2 * min(radii),
        length=high - low,
        is_right_handed=pitch > 0,
        is_internal=part.is_inside(outside),
        position=wall.point + low * wall.direction,
        direction=wall.direction,
        surfaces=tuple(sorted(frozenset.union(*(winding.surfaces for winding in windings)))),
    )


def _steep(pitch: float) -> float:
    """Of several pitches that the samples allow the greatest climbs the least often: the simplest reading."""
    return -abs(pitch)
