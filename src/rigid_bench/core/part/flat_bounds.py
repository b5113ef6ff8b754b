"""Say whether points lie within the bounds of flat surfaces, without the kernel."""

import math

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.part.faces import Plane
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.values.frames import any_normal

_Array = NDArray[np.float64]
#: rad, no angle that a drawing has.
_SKEW = 0.5772


class FlatBounds:
    """Says whether points lie over flat surfaces."""

    def __init__(self, part: PartFeatures) -> None:
        self.part = part
        self._known: dict[int, tuple[_Array, _Array, _Array]] = {}

    def holds(self, surface: int, points: _Array) -> NDArray[np.bool_]:
        """Say which of points, (n, 3) mm, are within the bounds of a flat surface when seen along its normal.

        A line from the point crosses the edges, outer and inner ones, an odd number of times.
        """
        axes, starts, ends = self._edges(surface)
        at = points @ axes.T
        x, y = at[:, :1], at[:, 1:]
        rises = (starts[:, 1] > y) != (ends[:, 1] > y)
        slope = (ends[:, 0] - starts[:, 0]) / np.where(ends[:, 1] == starts[:, 1], 1.0, ends[:, 1] - starts[:, 1])
        crossed = rises & (x < starts[:, 0] + slope * (y - starts[:, 1]))
        inside: NDArray[np.bool_] = crossed.sum(axis=1) % 2 == 1
        return inside

    def _edges(self, surface: int) -> tuple[_Array, _Array, _Array]:
        if surface not in self._known:
            plane = self.part.surfaces[surface]
            assert isinstance(plane, Plane)
            first = any_normal(plane.normal)
            second = np.cross(plane.normal, first)
            # parts are drawn square: a line through a corner would count it twice or not at all
            axes = np.array(
                [math.cos(_SKEW) * first + math.sin(_SKEW) * second, math.cos(_SKEW) * second - math.sin(_SKEW) * first]
            )
            starts, ends = self.part.edges.polylines(surface)
            self._known[surface] = axes, starts @ axes.T, ends @ axes.T
        return self._known[surface]

    def samples(self, surface: int) -> _Array:
        """Return points just within the edges of a flat surface, and its middle, (n, 3)."""
        plane, edges = self.part.surfaces[surface], self.part.edges
        assert isinstance(plane, Plane)
        rows = [edge for edge, _ in edges.neighbours(surface)]
        points = np.vstack([plane.point[None], edges.middles[rows], edges.starts[rows], edges.ends[rows]])
        inward: _Array = points + 1e-3 * (plane.point - points)
        return inward
