"""A picture that grows part by part: parts where they stand, features lit, ghosts and an arrow."""

from collections.abc import Sequence
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.formats.pictures import PictureModel
from rigid_bench.core.kernel.distance import behind, moved
from rigid_bench.core.kernel.views import View, draw_view
from rigid_bench.core.part.directions import Direction
from rigid_bench.core.part.faces import Cylinder, Plane
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.values.datums import CylinderFeature, Feature, PlaneFeature
from rigid_bench.core.values.frames import Pose, unit

_Array = NDArray[np.float64]
#: mm and cosine: a surface this near to a feature is the feature's.
_ON, _ALONG = 1e-3, 1 - 1e-6
#: A round wall that is looked at so nearly along its axis has no sides.
_END_ON = 1e-2


def corner_towards(normals: Sequence[_Array]) -> tuple[float, float, float]:
    """Return from which corner to look so that the faces are seen."""
    total = np.sum(normals, axis=0) if normals else np.zeros(3)
    usual = np.array([-1.0, -1.0, 0.8])
    signs = np.where(np.abs(total) > 0.3, np.sign(total), np.sign(usual))
    x, y, z = np.abs(usual) * signs
    return float(x), float(y), float(z)


class LitPicture:
    """A picture as it grows: lines in the plane of the view."""

    def __init__(self, toward: tuple[float, float, float], *, section: _Array | None = None) -> None:
        #: The nearer half is taken away at this point, so that what is inside is seen.
        self.section = section
        away = unit(toward)
        right = unit(np.cross([0.0, 0, 1] if abs(away[2]) < _ALONG else [0.0, 1, 0], away))
        self.axes = np.array([right, np.cross(away, right)])
        x, y, z = (float(coordinate) for coordinate in right)
        self.direction = Direction(name="place", toward=toward, right=(x, y, z))
        self.solids: list[tuple[PartFeatures, Pose]] = []
        self.meshes: list[list[list[float]]] = []
        self.ghosts: list[tuple[PartFeatures, Pose]] = []
        self.lit: list[list[list[float]]] = []
        self.extra: list[list[list[float]]] = []
        self.ends: list[list[float]] | None = None
        self.window: _Array | None = None

    def flat(self, points: _Array) -> list[list[float]]:
        """Return points, (n, 3), as they lie in the view."""
        places: list[list[float]] = np.round(np.atleast_2d(points) @ self.axes.T, 2).tolist()
        return places

    def add(self, part: PartFeatures, pose: Pose) -> None:
        """Draw a part where it stands; of a mesh the edges of what looks this way, whatever stands before them."""
        if part.is_mesh:
            self.meshes += self._mesh_lines(part, pose)
        else:
            self.solids.append((part, pose))

    def _mesh_lines(self, part: PartFeatures, pose: Pose) -> list[list[list[float]]]:
        toward = unit(self.direction.toward)
        pieces: list[tuple[_Array, _Array]] = []
        for k, surface in enumerate(part.surfaces):
            if isinstance(surface, Plane) and float(pose.direction(surface.normal) @ toward) > 0:
                pieces.append(part.edges.polylines(k))
            elif isinstance(surface, Cylinder) and not surface.is_hollow:
                across = np.cross(surface.direction, pose.inverse().direction(toward))
                if float(np.linalg.norm(across)) > _END_ON:
                    sides = surface.point + surface.radius * np.array([unit(across), -unit(across)])
                    pieces.append((sides, sides + surface.length * surface.direction))
        return [
            [start, end]
            for starts, ends in pieces
            for start, end in zip(self.flat(pose.point(starts)), self.flat(pose.point(ends)), strict=True)
            if start != end
        ]

    def ghost(self, part: PartFeatures, pose: Pose) -> None:
        """Draw where a part should stand."""
        self.ghosts.append((part, pose))

    def ghost_ring(self, wall: CylinderFeature) -> None:
        """Draw where a round wall should be."""
        first = unit(np.cross(wall.direction, [0.31, 0.77, 0.55]))
        second = np.cross(wall.direction, first)
        turns = np.linspace(0, 2 * np.pi, 37)
        ring = wall.point + wall.radius * (np.outer(np.cos(turns), first) + np.outer(np.sin(turns), second))
        self.extra.append(self.flat(ring))

    def light(self, part: PartFeatures, feature: Feature, pose: Pose) -> None:
        """Light the edges of the surface that a feature is of."""
        surface = surface_of(part, feature)
        if surface is None:
            return
        starts, ends = part.edges.polylines(surface)
        a, b = self.flat(pose.point(starts)), self.flat(pose.point(ends))
        self.lit += [[one, two] for one, two in zip(a, b, strict=True) if one != two]

    def arrow(self, start: _Array, end: _Array) -> None:
        """Draw an arrow between two places."""
        self.ends = self.flat(np.array([start, end]))

    def come_near(self, points: _Array, *, margin: float) -> None:
        """Show only what lies about some points, (n, 3): mm beyond them and what is lit."""
        lit = [np.array(line) for line in self.lit]
        seen = np.vstack([points @ self.axes.T, *lit])
        self.window = np.array([seen.min(axis=0) - margin, seen.max(axis=0) + margin])

    def model(self, label: str) -> PictureModel:
        """Return the picture."""
        cut = None if self.section is None else tuple(float(coordinate) for coordinate in self.section)
        visible = [np.array(line) for line in self.meshes]
        if self.solids:
            view = _view(tuple(self.solids), self.direction, cut)
            visible += view.visible
        hidden = list(view.hidden) if len(self.solids) == 1 and not self.meshes and not cut else []
        ghost = list(_view(tuple(self.ghosts), self.direction).visible) if self.ghosts else []
        ghosts = [np.round(line, 2).tolist() for line in ghost] + self.extra
        points = [point for line in [*(line.tolist() for line in visible), *ghosts] for point in line]
        points += self.ends or []
        box = np.array([np.min(points, axis=0), np.max(points, axis=0)])
        if self.window is not None:
            box = np.array([np.maximum(box[0], self.window[0]), np.minimum(box[1], self.window[1])])
        return PictureModel(
            box=box.round(2).tolist(),
            visible=[np.round(line, 2).tolist() for line in visible if _reaches(line, box)],
            hidden=[np.round(line, 2).tolist() for line in hidden],
            lit=self.lit,
            ghost=ghosts,
            arrow=self.ends,
            label=label if len(label) < 40 else "",
        )


def _reaches(line: _Array, box: _Array) -> bool:
    """Say whether a polyline, (n, 2), may be seen in a box, (2, 2)."""
    return bool(np.all(line.min(axis=0) <= box[1]) and np.all(line.max(axis=0) >= box[0]))


@lru_cache(maxsize=64)
def _view(
    placed: tuple[tuple[PartFeatures, Pose], ...], direction: Direction, cut: tuple[float, ...] | None = None
) -> View:
    size = max(part.size for part, _ in placed)
    solids = [moved(part.shape, pose) for part, pose in placed]
    if cut is not None:
        solids = [behind(solid, point=np.array(cut), normal=unit(direction.toward), reach=4 * size) for solid in solids]
    return draw_view(solids, direction, size=8 * size)


def surface_of(part: PartFeatures, feature: Feature) -> int | None:
    """Return the surface of a part that a feature is of; the nearest of several in one plane."""
    near: list[tuple[float, int]] = []
    for k, surface in enumerate(part.surfaces):
        if isinstance(feature, CylinderFeature) and isinstance(surface, Cylinder):
            apart = surface.point - feature.point
            beside = np.linalg.norm(apart - float(apart @ feature.direction) * feature.direction)
            if beside < _ON and abs(surface.radius - feature.radius) < _ON:
                near.append((float(np.linalg.norm(apart)), k))
        elif isinstance(feature, PlaneFeature) and isinstance(surface, Plane):
            apart = surface.point - feature.point
            if float(surface.normal @ feature.normal) > _ALONG and abs(float(apart @ feature.normal)) < _ON:
                near.append((float(np.linalg.norm(apart)), k))
    return min(near)[1] if near else None
