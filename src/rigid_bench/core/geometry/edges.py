"""The edges of a part as arrays: where they are, which surfaces meet there, and at what angle.

Read in one pass, so that everything asked of a part's edges afterwards needs no kernel.
"""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Curve2d
from OCP.BRepGProp import BRepGProp_Face
from OCP.collections import IndexedMap_TopoDS_Shape_TopTools_ShapeMapHasher as ShapeMap
from OCP.GeomAbs import GeomAbs_CurveType
from OCP.gp import gp_Pnt, gp_Vec
from OCP.TopAbs import TopAbs_Orientation
from OCP.TopoDS import TopoDS_Edge, TopoDS_Face

from rigid_bench.core.geometry.faces import OtherFace, Plane, Surface
from rigid_bench.core.geometry.kernel import edges_of, xyz

_Array = NDArray[np.float64]
_Ints = NDArray[np.int64]
LINE, CIRCLE, ELLIPSE, OTHER = range(4)
_KINDS = {
    GeomAbs_CurveType.GeomAbs_Line: LINE,
    GeomAbs_CurveType.GeomAbs_Circle: CIRCLE,
    GeomAbs_CurveType.GeomAbs_Ellipse: ELLIPSE,
}
#: A free-form curve this near (mm) to a line or circle is one; it is looked at in so many points.
_STRAIGHT, _SAMPLES = 1e-4, 9
#: Points along a circular edge where straight pieces will do.
_ROUND = 25
#: Points along an edge that is neither, from which its reach is taken.
_FINE = 33
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
        found: dict[int, list[tuple[int, int]]] = {}
        for edge, (a, b) in enumerate(self.sides.tolist()):
            if b >= 0:
                found.setdefault(a, []).append((edge, b))
                found.setdefault(b, []).append((edge, a))
        return found

    def beyond(self, surface: int) -> list[tuple[int, int]]:
        """List the edges of a surface, each with the surface beyond."""
        return self.around.get(surface, [])

    def is_smooth(self, edge: int) -> bool:
        """Say whether the surfaces run into each other without a kink."""
        return bool(abs(self.angles[edge]) < SMOOTH)

    def extent(self, surface: int, direction: _Array) -> tuple[float, float]:
        """Return how far the edges of a surface reach along a direction, mm; exact for lines and level circles."""
        edges = [edge for edge, _ in self.beyond(surface)]
        places = np.vstack([self.starts[edges], self.middles[edges], self.ends[edges]]) @ direction
        tops = [_top(self.samples[edge] @ direction) for edge in edges if edge in self.samples]
        bottoms = [-_top(-self.samples[edge] @ direction) for edge in edges if edge in self.samples]
        return min([float(places.min()), *bottoms]), max([float(places.max()), *tops])

    def polylines(self, surface: int) -> tuple[_Array, _Array]:
        """Return the edges of a surface as straight pieces, their starts and ends, (n, 3) mm each."""
        edges = np.array([edge for edge, _ in self.beyond(surface)], dtype=np.int64)
        lines, circles = edges[self.kinds[edges] == LINE], edges[self.kinds[edges] == CIRCLE]
        arcs = self._arcs(circles)
        rest = [self.samples[edge] for edge in edges.tolist() if edge in self.samples]
        starts = [self.starts[lines], arcs[:, :-1].reshape(-1, 3), *(points[:-1] for points in rest)]
        ends = [self.ends[lines], arcs[:, 1:].reshape(-1, 3), *(points[1:] for points in rest)]
        return np.vstack(starts), np.vstack(ends)

    def _arcs(self, circles: _Ints) -> _Array:
        """Return points along circular edges, (k, _ROUND, 3), from start, middle and the tangent there."""
        middle, tangent = self.middles[circles], self.tangents[circles]
        to_start = self.starts[circles] - middle
        along = np.einsum("ij,ij->i", to_start, tangent)
        inward = to_start - along[:, None] * tangent
        height = np.linalg.norm(inward, axis=1)
        radius = (along**2 + height**2) / (2 * np.maximum(height, 1e-12))
        inward /= np.maximum(height, 1e-12)[:, None]
        half = np.arccos(np.clip(1 - height / radius, -1, 1))
        angles = half[:, None] * np.linspace(-1, 1, _ROUND)
        across = radius[:, None, None] * (1 - np.cos(angles))[:, :, None] * inward[:, None]
        points: _Array = middle[:, None] + across + (radius[:, None] * np.sin(angles))[:, :, None] * tangent[:, None]
        return points

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


def read_edges(faces: Sequence[TopoDS_Face]) -> tuple[Edges, list[set[int]]]:
    """Read the edges of faces, without the angles, which need the surfaces.

    Parameters
    ----------
    faces
        As `faces_of` lists them.

    Returns
    -------
    edges : Edges
        Its `sides` are faces; its `angles` are zero; see `with_angles`.
    kinds : list of set of int
        Per face, which kinds of edge it has; a free-form curve is OTHER whatever it looks like.
    """
    numbers = ShapeMap()
    kinds: list[int] = []
    written: list[int] = []
    samples: dict[int, _Array] = {}
    places: list[tuple[_Array, _Array, _Array]] = []
    tangents: list[_Array] = []
    sides: list[list[int]] = []
    of_face: list[set[int]] = []
    for number, face in enumerate(faces):
        own: set[int] = set()
        for edge in edges_of(face):
            if BRep_Tool.Degenerated_s(edge):
                continue
            before = numbers.Extent()
            index = numbers.Add(edge) - 1
            if index == before:
                curve = BRepAdaptor_Curve(edge)
                kind, place, tangent, is_written = _read_curve(edge, curve)
                if kind not in (LINE, CIRCLE):
                    samples[index] = _along(curve, _FINE)
                written.append(kind if is_written else OTHER)
                kinds.append(kind)
                places.append(place)
                tangents.append(tangent)
                sides.append([number, -1])
            else:
                sides[index][1] = number
            own.add(written[index])
        of_face.append(own)
    stacked = np.array(places).reshape(-1, 3, 3)
    return Edges(
        kinds=np.array(kinds, dtype=np.int64),
        starts=stacked[:, 0],
        middles=stacked[:, 1],
        ends=stacked[:, 2],
        tangents=np.array(tangents).reshape(-1, 3),
        sides=np.array(sides, dtype=np.int64).reshape(-1, 2),
        samples=samples,
        angles=np.zeros(len(kinds)),
    ), of_face


def _read_curve(edge: TopoDS_Edge, curve: BRepAdaptor_Curve) -> tuple[int, tuple[_Array, _Array, _Array], _Array, bool]:
    """Return an edge's kind, its start, middle and end, its tangent, and whether the kind is as written."""
    first, last = curve.FirstParameter(), curve.LastParameter()
    point, tangent = gp_Pnt(), gp_Vec()
    curve.D1((first + last) / 2, point, tangent)
    place = xyz(curve.Value(first)), xyz(point), xyz(curve.Value(last))
    way = xyz(tangent)
    if edge.Orientation() == TopAbs_Orientation.TopAbs_REVERSED:
        way = -way
    kind = _KINDS.get(curve.GetType())
    known = _recognised(curve) if kind is None else kind
    return known, place, way / (float(np.linalg.norm(way)) or 1.0), kind is not None


def _along(curve: BRepAdaptor_Curve, count: int) -> _Array:
    """Return points along a curve, (count, 3)."""
    places = np.linspace(curve.FirstParameter(), curve.LastParameter(), count)
    return np.array([xyz(curve.Value(float(at))) for at in places])


def _recognised(curve: BRepAdaptor_Curve) -> int:
    """Return LINE or CIRCLE for a free-form curve that is one, by points along it."""
    points = _along(curve, _SAMPLES)
    chord = points[-1] - points[0]
    length = float(np.linalg.norm(chord))
    offsets = points - points[0]
    if length and np.linalg.norm(np.cross(offsets, chord / length), axis=1).max() < _STRAIGHT:
        return LINE
    # equal distances from the point that is equally far from all: the least-squares sphere in the curve's plane
    middle = points[:-1].mean(axis=0)
    _, sizes, axes = np.linalg.svd(points - middle)
    flat = (points - middle) @ axes[:2].T
    if sizes[2] > _STRAIGHT:
        return OTHER
    matrix = np.column_stack([2 * flat, np.ones(len(flat))])
    solution = np.linalg.lstsq(matrix, (flat**2).sum(axis=1), rcond=None)[0]
    radii = np.linalg.norm(flat - solution[:2], axis=1)
    return CIRCLE if np.ptp(radii) < _STRAIGHT else OTHER


def with_angles(edges: Edges, faces: Sequence[TopoDS_Face], surfaces: Sequence[Surface]) -> Edges:
    """Return edges with the angle at which their two faces meet, given the surface of each face."""
    normals = [_normals(edges, side, faces, surfaces) for side in (0, 1)]
    into = np.cross(normals[0], edges.tangents)  # on the first surface, away from the edge
    angles = np.arctan2(np.einsum("ij,ij->i", normals[1], into), np.einsum("ij,ij->i", normals[0], normals[1]))
    angles[(edges.sides[:, 1] < 0) | (edges.sides[:, 0] == edges.sides[:, 1])] = 0.0
    return replace(edges, angles=angles)


def _normals(edges: Edges, side: int, faces: Sequence[TopoDS_Face], surfaces: Sequence[Surface]) -> _Array:
    """Return the normal of one side's surface in the middle of each edge, (n, 3)."""
    of = edges.sides[:, side]
    flat = np.array([each.normal if isinstance(each, Plane) else (math.nan,) * 3 for each in surfaces]).reshape(-1, 3)
    normals = np.where((of >= 0)[:, None], flat[of], 0.0)
    for face in np.unique(of[np.isnan(normals[:, 0])]).tolist():
        rows = np.flatnonzero(of == face)
        surface = surfaces[face]
        if isinstance(surface, OtherFace):
            normals[rows] = _asked_normals(faces[face], edges.middles[rows])
        else:
            normals[rows] = surface.normals_at(edges.middles[rows])
    return normals


def _asked_normals(face: TopoDS_Face, points: _Array) -> _Array:
    """Ask the kernel for the normals of a free-form face at the middles of its edges, (n, 3)."""
    places, found = [], []
    for edge in edges_of(face):
        if BRep_Tool.Degenerated_s(edge):
            continue
        curve = BRepAdaptor_Curve2d(edge, face)
        at = curve.Value((curve.FirstParameter() + curve.LastParameter()) / 2)
        point, normal = gp_Pnt(), gp_Vec()
        BRepGProp_Face(face).Normal(at.X(), at.Y(), point, normal)
        places.append(xyz(point))
        found.append(xyz(normal) / (normal.Magnitude() or 1.0))
    nearest = np.argmin(np.linalg.norm(np.array(places)[None] - points[:, None], axis=2), axis=1)
    normals: _Array = np.array(found)[nearest]
    return normals
