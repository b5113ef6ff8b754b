"""Shafts: bosses on one axis that follow each other, and the flats cut on them."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.part.edges import LINE, SMOOTH
from rigid_bench.core.part.faces import Cylinder, Plane
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.part.join import axis_groups

_NEAR = 1e-3


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Flat:
    """A flat along a shaft."""

    #: mm, from the axis to the flat.
    to_axis: float
    #: mm, from the flat to the other side: to a flat opposite, or to the round.
    across: float
    #: mm, along the shaft.
    length: float


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Shaft:
    """A stepped or flattened round bar."""

    #: From one end to the other.
    steps: tuple[Cylinder, ...]
    flats: tuple[Flat, ...]
    #: (3,) unit, from the first step to the last.
    direction: NDArray[np.float64]


def find_shafts(part: PartFeatures) -> list[Shaft]:
    """Find bosses that have steps or flats; a plain boss is none."""
    shafts = []
    for group in axis_groups(part.bosses):
        axis = group[0].direction
        ordered = sorted(group, key=lambda cylinder: _reach(cylinder, axis)[0])
        for steps in _runs(ordered, axis):
            flats = [flat for step in steps for flat in _flats(part, step)]
            if len(steps) > 1 or flats:
                shafts.append(Shaft(steps=tuple(steps), flats=tuple(flats), direction=axis))
    return shafts


def _reach(wall: Cylinder, axis: NDArray[np.float64]) -> tuple[float, float]:
    low, high = sorted((float(wall.point @ axis), float(wall.end @ axis)))
    return low, high


def _runs(ordered: Sequence[Cylinder], axis: NDArray[np.float64]) -> list[list[Cylinder]]:
    """Split bosses along an axis where they do not meet."""
    runs: list[list[Cylinder]] = []
    for wall in ordered:
        if runs and _reach(wall, axis)[0] <= _reach(runs[-1][-1], axis)[1] + _NEAR:
            runs[-1].append(wall)
        else:
            runs.append([wall])
    return runs


def _flats(part: PartFeatures, wall: Cylinder) -> list[Flat]:
    edges = part.edges
    beside = {
        other
        for edge, other in edges.neighbours(part.numbers[wall.faces])
        if edges.kinds[edge] == LINE and edges.angles[edge] < -SMOOTH
    }
    planes = [(k, plane) for k in sorted(beside) if isinstance(plane := part.surfaces[k], Plane)]
    heights = [float((plane.point - wall.point) @ plane.normal) for _, plane in planes]
    flats = []
    for (number, plane), height in zip(planes, heights, strict=True):
        if height <= 0 or height >= wall.radius:
            continue
        opposite = [h for (_, other), h in zip(planes, heights, strict=True) if plane.normal @ other.normal < -1 + 1e-9]
        low, high = edges.extent(number, wall.direction)
        flats.append(Flat(to_axis=height, across=height + min([wall.radius, *opposite]), length=high - low))
    return flats
