"""The edges of a part as arrays: where they are, which surfaces meet there, and at what angle.

Read in one pass (`edge_reader`), so that everything asked of a part's edges afterwards needs no kernel.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

_Array = NDArray[np.float64]
_Ints = NDArray[np.int64]
LINE, CIRCLE, ELLIPSE, OTHER = range(4)
#: Points along a circular edge where straight pieces will do.
_ROUND = 25
#: Surfaces that meet at less than this (rad) run into each other without a kink.
SMOOTH = 1e-3


@dataclass(frozen=True, eq=False)
class Edges:
    """One row per edge; an edge within one surface, such as a seam, is left out once surfaces are joined."""

    #: (n,) LINE, CIRCLE, ELLIPSE or OTHER
    kinds: _Ints
    #: (n, 3) mm
    starts: _Array
    middles: _Array
    ends: _Array
    #: (n, 3) unit, in the middle, the way along which the first side has its surface on the left.
    tangents: _Array
    #: (n, 2) which surfaces meet; -1 for none.
    sides: _Ints
    #: Points along those edges that are neither lines nor circles, (k, 3) mm.
    samples: Mapping[int, _Array]
    #: (n,) rad, from the first side's normal to the second's: above 0 in an inside corner, below
    #: 0 on an outside one.
    angles: _Array

    @classmethod
    def none(cls) -> "Edges":
        """Return no edges at all, as of a mesh."""
        nowhere = np.zeros((0, 3))
        return cls(
            kinds=np.zeros(0, dtype=np.int64),
            starts=nowhere,
            middles=nowhere,
            ends=nowhere,
            tangents=nowhere,
            sides=np.zeros((0, 2), dtype=np.int64),
            samples={},
            angles=np.zeros(0),
        )

    @cached_property
    def around(self) -> Mapping[int, list[tuple[int, int]]]:
        """Surface -> its edges, each with the surface beyond."""
        edges: dict[int, list[tuple[int, int]]] = {}
        for edge, (a, b) in enumerate(self.sides.tolist()):
            if b >= 0:
                edges.setdefault(a, []).append((edge, b))
                edges.setdefault(b, []).append((edge, a))
        return edges

    def neighbours(self, surface: int) -> list[tuple[int, int]]:
        """List the edges of a surface, each with the surface beyond."""
        return self.around.get(surface, [])

    def is_smooth(self, edge: int) -> bool:
        """Say whether the surfaces run into each other without a kink."""
        return bool(abs(self.angles[edge]) < SMOOTH)

    def extent(self, surface: int, direction: _Array) -> tuple[float, float]:
        """Return how far the edges of a surface reach along a direction, mm; exact for lines and circles."""
        least, greatest = self.box(surface, direction[None])[:, 0].tolist()
        return least, greatest

    def box(self, surface: int, directions: _Array) -> _Array:
        """Return how far the edges of a surface reach along directions, (k, 3): least and greatest, (2, k) mm."""
        edges = [edge for edge, _ in self.neighbours(surface)]
        places = np.vstack([self.starts[edges], self.middles[edges], self.ends[edges]]) @ directions.T
        spans = np.array([places.min(axis=0), places.max(axis=0)])
        circles = np.array(edges, dtype=np.int64)[self.kinds[edges] == CIRCLE]
        sampled = [self.samples[edge] for edge in edges if edge in self.samples]
        for k, direction in enumerate(directions if len(circles) or sampled else []):
            turning = self._turning_points(circles, direction).tolist()
            tops = [_top(points @ direction) for points in sampled]
            bottoms = [-_top(-points @ direction) for points in sampled]
            spans[:, k] = min([spans[0, k], *turning, *bottoms]), max([spans[1, k], *turning, *tops])
        return spans

    def off_axis(self, surface: int, axes: _Array, origin: _Array) -> float:
        """Return how far, mm, the edges of a surface stay off an axis at least; exact for lines, and circles about it.

        Parameters
        ----------
        surface
            By its place.
        axes, origin
            (3, 3) two directions across the axis and one along it, in rows, and (3,) mm: where the part's origin is.
        """
        edges = np.array([edge for edge, _ in self.neighbours(surface)], dtype=np.int64)
        lines, circles = edges[self.kinds[edges] == LINE], edges[self.kinds[edges] == CIRCLE]
        starts, ends = ((points[lines] @ axes.T + origin)[:, :2] for points in (self.starts, self.ends))
        along = ends - starts
        shares = -np.einsum("ij,ij->i", starts, along) / np.maximum(np.einsum("ij,ij->i", along, along), 1e-12)
        offs = [np.linalg.norm(starts + np.clip(shares, 0, 1)[:, None] * along, axis=1)]
        centres, radii = self.centres(circles)
        offs.append(np.abs(np.linalg.norm((centres @ axes.T + origin)[:, :2], axis=1) - radii))
        for points in (self.samples[edge] for edge in edges.tolist() if edge in self.samples):
            # a curve leaves its points by less than it is long between them
            slack = float(np.linalg.norm(np.diff(points, axis=0), axis=1).max(initial=0.0))
            offs.append(np.linalg.norm((points @ axes.T + origin)[:, :2], axis=1) - slack)
        return max(float(np.concatenate(offs).min(initial=np.inf)), 0.0)

    def polylines(self, surface: int) -> tuple[_Array, _Array]:
        """Return the edges of a surface as straight pieces, their starts and ends, (n, 3) mm each."""
        edges = np.array([edge for edge, _ in self.neighbours(surface)], dtype=np.int64)
        lines, circles = edges[self.kinds[edges] == LINE], edges[self.kinds[edges] == CIRCLE]
        arcs = self._arcs(circles)
        rest = [self.samples[edge] for edge in edges.tolist() if edge in self.samples]
        starts = [self.starts[lines], arcs[:, :-1].reshape(-1, 3), *(points[:-1] for points in rest)]
        ends = [self.ends[lines], arcs[:, 1:].reshape(-1, 3), *(points[1:] for points in rest)]
        return np.vstack(starts), np.vstack(ends)

    def centres(self, circles: _Ints) -> tuple[_Array, _Array]:
        """Return the centres of circular edges, (k, 3) mm, and their radii, (k,) mm."""
        middle, _, inward, radius, _ = self._circles(circles)
        return middle + radius[:, None] * inward, radius

    def _arcs(self, circles: _Ints) -> _Array:
        """Return points along circular edges, (k, _ROUND, 3)."""
        middle, tangent, inward, radius, half = self._circles(circles)
        angles = half[:, None] * np.linspace(-1, 1, _ROUND)
        across = radius[:, None, None] * (1 - np.cos(angles))[:, :, None] * inward[:, None]
        points: _Array = middle[:, None] + across + (radius[:, None] * np.sin(angles))[:, :, None] * tangent[:, None]
        return points

    def _turning_points(self, circles: _Ints, direction: _Array) -> _Array:
        """Return how far along a direction circular edges turn back, (n,) mm: none where an arc ends before."""
        middle, tangent, inward, radius, half = self._circles(circles)
        along, off = tangent @ direction, inward @ direction
        reach = radius * np.hypot(along, off)
        base = middle @ direction + radius * off
        is_passed = [np.abs(np.arctan2(way * along, -way * off)) <= half for way in (1, -1)]
        turning: _Array = np.concatenate([(base + reach)[is_passed[0]], (base - reach)[is_passed[1]]])
        return turning

    def _circles(self, circles: _Ints) -> tuple[_Array, _Array, _Array, _Array, _Array]:
        """Return circular edges as their middle, and there the tangent and the way inwards, (k, 3) each.

        With them the radius (mm), and by what angle (rad) they go on either way, (k,) each: from start, middle and the
        tangent there.
        """
        middle, tangent = self.middles[circles], self.tangents[circles]
        to_start = self.starts[circles] - middle
        along = np.einsum("ij,ij->i", to_start, tangent)
        inward = to_start - along[:, None] * tangent
        height = np.linalg.norm(inward, axis=1)
        radius = (along**2 + height**2) / (2 * np.maximum(height, 1e-12))
        inward /= np.maximum(height, 1e-12)[:, None]
        half = np.arccos(np.clip(1 - height / radius, -1, 1))
        return middle, tangent, inward, radius, half

    def joined(self, surface_of: _Ints) -> "Edges":
        """Return the edges between joined surfaces, given which surface each face belongs to."""
        sides = np.where(self.sides >= 0, surface_of[self.sides], -1)
        keep = sides[:, 0] != sides[:, 1]
        number = np.cumsum(keep) - 1
        return Edges(
            kinds=self.kinds[keep],
            starts=self.starts[keep],
            middles=self.middles[keep],
            ends=self.ends[keep],
            tangents=self.tangents[keep],
            sides=sides[keep],
            samples={int(number[edge]): points for edge, points in self.samples.items() if keep[edge]},
            angles=self.angles[keep],
        )


def _top(values: _Array) -> float:
    """Return the greatest value along a smooth curve, by the parabola through its three greatest samples."""
    k = int(np.argmax(values))
    if k in (0, len(values) - 1):
        return float(values[k])
    before, here, after = values[k - 1 : k + 2]
    bend = before - 2 * here + after
    return float(here - (after - before) ** 2 / (8 * bend)) if bend < 0 else float(here)
