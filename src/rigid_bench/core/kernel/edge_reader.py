"""Read the edges of a solid."""

import math
from collections.abc import Sequence
from dataclasses import replace

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

from rigid_bench.core.kernel.binding import edges_of, xyz
from rigid_bench.core.part.edges import CIRCLE, ELLIPSE, LINE, OTHER, Edges
from rigid_bench.core.part.faces import OtherFace, Plane, Surface

_Array = NDArray[np.float64]
_KINDS = {
    GeomAbs_CurveType.GeomAbs_Line: LINE,
    GeomAbs_CurveType.GeomAbs_Circle: CIRCLE,
    GeomAbs_CurveType.GeomAbs_Ellipse: ELLIPSE,
}
#: A free-form curve this near (mm) to a line or circle is one.
_STRAIGHT = 1e-4
#: Where along it is looked at: at uneven shares, for a helix meets a line at even ones.
_SHARES = np.array([0.0, 0.071, 0.193, 0.317, 0.439, 0.577, 0.689, 0.823, 1.0])
#: Points along an edge that is neither, from which its reach is taken.
_FINE = 33


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
                    samples[index] = _along(curve, np.linspace(0, 1, _FINE))
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


def _along(curve: BRepAdaptor_Curve, shares: _Array) -> _Array:
    """Return points at shares of a curve's parameter, (n, 3) mm."""
    first, last = curve.FirstParameter(), curve.LastParameter()
    return np.array([xyz(curve.Value(float(at))) for at in first + (last - first) * shares])


def _recognised(curve: BRepAdaptor_Curve) -> int:
    """Return LINE or CIRCLE for a free-form curve that is one, by points along it."""
    points = _along(curve, _SHARES)
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
    flat = np.array(
        [surface.normal if isinstance(surface, Plane) else (math.nan,) * 3 for surface in surfaces]
    ).reshape(-1, 3)
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
    places, there = [], []
    for edge in edges_of(face):
        if BRep_Tool.Degenerated_s(edge):
            continue
        curve = BRepAdaptor_Curve2d(edge, face)
        at = curve.Value((curve.FirstParameter() + curve.LastParameter()) / 2)
        point, normal = gp_Pnt(), gp_Vec()
        BRepGProp_Face(face).Normal(at.X(), at.Y(), point, normal)
        places.append(xyz(point))
        there.append(xyz(normal) / (normal.Magnitude() or 1.0))
    nearest = np.argmin(np.linalg.norm(np.array(places)[None] - points[:, None], axis=2), axis=1)
    normals: _Array = np.array(there)[nearest]
    return normals
