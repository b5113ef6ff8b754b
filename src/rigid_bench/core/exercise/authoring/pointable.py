"""The faces and holes of a part that can be pointed at: what each is called, and where its edges are in every view."""

from collections.abc import Iterator, Sequence

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.drawing.audit.unknowns import is_one
from rigid_bench.core.formats.documents import feature_model
from rigid_bench.core.formats.pictures import Polyline
from rigid_bench.core.formats.pointing import Pointable
from rigid_bench.core.part.directions import PICTORIAL, VIEWS, Direction, axes_of
from rigid_bench.core.part.faces import Cylinder
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.part.recognition.holes import find_holes
from rigid_bench.core.registration.correspond import flats_of
from rigid_bench.core.values.datums import CylinderFeature, Feature, PlaneFeature
from rigid_bench.core.wording.datums import plane_words, round_words

_Array = NDArray[np.float64]
#: Cosine: a face is seen on edge, an axis end on, to within this.
_ON_EDGE = 1e-6
#: mm: pieces that a view shows as a point.
_POINT = 1e-4


def pointables(part: PartFeatures, *, mm: float) -> list[Pointable]:
    """List what can be pointed at on a part, the largest first.

    Parameters
    ----------
    part
        The reference; flat faces in one plane are one.
    mm
        Millimetres in the exercise's unit.
    """
    depths = {hole.cylinder.faces: hole.depth for hole in find_holes(part)}
    placed: list[tuple[float, Pointable]] = []
    for flat in flats_of(part):
        surfaces = [k for k, surface in enumerate(part.surfaces) if set(surface.faces) <= set(flat.faces)]
        feature = PlaneFeature(flat.point, flat.normal)
        model = Pointable(
            words=plane_words(feature, mm),
            feature=feature_model(feature, mm=mm),
            faces=list(flat.faces),
            lines=_lines(part, surfaces, feature),
        )
        placed.append((flat.area, model))
    for k, wall in enumerate(part.surfaces):
        if not isinstance(wall, Cylinder):
            continue
        round_feature = CylinderFeature(wall.point, wall.direction, wall.radius)
        depth = depths.get(wall.faces)
        model = Pointable(
            words=round_words(round_feature, mm, is_hollow=wall.is_hollow, goes_round=wall.goes_round),
            feature=feature_model(round_feature, mm=mm),
            is_hole=depth is not None,
            is_hollow=wall.is_hollow,
            goes_round=wall.goes_round,
            depth=None if depth is None else depth / mm,
            faces=list(wall.faces),
            lines=_lines(part, [k], round_feature),
        )
        placed.append((wall.area, model))
    return [model for _, model in sorted(placed, key=lambda sized: -sized[0])]


def _lines(part: PartFeatures, surfaces: Sequence[int], feature: Feature) -> dict[str, list[Polyline]]:
    return {view.name: [*_seen(part, surfaces, feature, view)] for view in VIEWS}


def _seen(part: PartFeatures, surfaces: Sequence[int], feature: Feature, view: Direction) -> Iterator[Polyline]:
    """Yield the edges by which a face is told from its neighbours in a view: those it has seen on edge, or end on."""
    frame = axes_of(view)
    along = abs(float(feature.direction @ frame[2])) if isinstance(feature, PlaneFeature | CylinderFeature) else 0.0
    if view is not PICTORIAL and isinstance(feature, PlaneFeature) and along > _ON_EDGE:
        return  # its edges are those of its neighbours, which are pointed at there
    if view is not PICTORIAL and isinstance(feature, CylinderFeature) and along < 1 - _ON_EDGE:
        yield from _silhouette(part, surfaces[0], feature, frame)
        return
    pieces = [np.stack(part.edges.polylines(surface), axis=1) for surface in surfaces]
    flat = np.round(np.concatenate(pieces) @ frame[:2].T, 3)  # (n, 2, 2): starts and ends
    long = flat[np.abs(flat[:, 1] - flat[:, 0]).max(axis=1) > _POINT]
    drawn: set[tuple[tuple[float, ...], ...]] = set()
    for line in long.tolist():
        key = tuple(sorted(map(tuple, line)))
        if key not in drawn:
            drawn.add(key)
            yield line


def _silhouette(part: PartFeatures, surface: int, wall: CylinderFeature, frame: _Array) -> Iterator[Polyline]:
    """Yield the two lines at the sides of a round wall that is seen across its axis."""
    cylinder = part.surfaces[surface]
    assert isinstance(cylinder, Cylinder)
    sideways = np.cross(wall.direction, frame[2])
    sideways = sideways / np.linalg.norm(sideways)
    for side in (-wall.radius, wall.radius):
        ends = [frame[:2] @ (end + side * sideways) for end in (cylinder.point, cylinder.end)]
        if np.linalg.norm(ends[1] - ends[0]) > _POINT:
            yield np.round(ends, 3).tolist()


def numbers_of(features: Sequence[Feature], among: Sequence[Feature]) -> list[int]:
    """Return which of the pointable features a check speaks of."""
    return [
        k
        for k, own in enumerate(among)
        if any(is_one(own, feature) and _is_as_wide(own, feature) for feature in features)
    ]


def _is_as_wide(own: Feature, asked: Feature) -> bool:
    """Of several walls on one axis the one that is meant has the radius."""
    if isinstance(own, CylinderFeature) and isinstance(asked, CylinderFeature):
        return abs(own.radius - asked.radius) < 1e-4
    return True
