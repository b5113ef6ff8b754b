"""Drafted walls: flat walls that lean by one small angle, so that a part comes out of its mould."""

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.part.faces import Plane
from rigid_bench.core.part.features import PartFeatures

_Array = NDArray[np.float64]
#: rad: less is no draft, more is a slope (common practice, no source: drafts of 0.5 to 3 degrees, up to 10 on cores).
_LEAST, _MOST = math.radians(0.2), math.radians(10.5)
#: rad: drafts that differ by less are one.
_EQUAL = math.radians(0.02)
#: Walls that lean alike, and look different ways, make a draft.
_WALLS = 3


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Draft:
    """Walls that lean by one angle to one direction."""

    #: rad, of the walls to the pull.
    angle: float
    #: (3,) unit: the way in which the part becomes narrower, or its pocket wider.
    pull: _Array
    #: Places in the part's surfaces.
    surfaces: tuple[int, ...]


def find_drafts(part: PartFeatures) -> list[Draft]:
    """Find the drafted walls of a part, those of one pull direction and angle together.

    A pull direction is a normal of a flat face; of several that explain the same walls, that of the largest face.

    Parameters
    ----------
    part
        Its surfaces.
    """
    flats = [(number, surface) for number, surface in enumerate(part.surfaces) if isinstance(surface, Plane)]
    drafts: list[Draft] = []
    taken: set[int] = set()
    for pull in _pulls([surface for _, surface in flats]):
        lean = {number: math.asin(float(np.clip(surface.normal @ pull, -1, 1))) for number, surface in flats}
        drafted = sorted(
            (number for number in lean if _LEAST < lean[number] < _MOST and number not in taken), key=lean.__getitem__
        )
        while drafted:
            own = [number for number in drafted if lean[number] - lean[drafted[0]] < _EQUAL]
            drafted = drafted[len(own) :]
            if _look_apart(part, own, pull):
                taken.update(own)
                angle = float(np.mean([lean[number] for number in own]))
                drafts.append(Draft(angle=angle, pull=pull, surfaces=tuple(sorted(own))))
    return drafts


def _pulls(flats: list[Plane]) -> list[_Array]:
    """List the directions in which flat faces look, the larger faces first, both ways of each."""
    areas: dict[tuple[float, ...], float] = {}
    for flat in flats:
        way = tuple((np.round(flat.normal * (1 if max(flat.normal, key=abs) > 0 else -1), 6) + 0.0).tolist())
        areas[way] = areas.get(way, 0.0) + flat.area
    ways = sorted(areas, key=lambda way: -areas[way])
    return [sign * np.array(way) for way in ways for sign in (1, -1)]


def _look_apart(part: PartFeatures, walls: list[int], pull: _Array) -> bool:
    """Say whether walls look at least three different ways round the pull."""
    ways: list[_Array] = []
    for number in walls:
        surface = part.surfaces[number]
        assert isinstance(surface, Plane)
        level = surface.normal - float(surface.normal @ pull) * pull
        level = level / np.linalg.norm(level)
        if all(float(level @ other) < 1 - 1e-6 for other in ways):
            ways.append(level)
    return len(ways) >= _WALLS
