"""Why two features do not stand as required: the wrong face, the wrong hole, an offset forgotten or turned round."""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.formats.build import Mate
from rigid_bench.core.formats.message import Message, phrase
from rigid_bench.core.grading.report.models import Cause
from rigid_bench.core.part.faces import Plane
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.values.datums import AxisFeature, Feature, PlaneFeature
from rigid_bench.core.values.frames import Pose
from rigid_bench.core.values.units import MM_PER_UNIT
from rigid_bench.core.wording.phrases import amount

#: mm: a face or axis this near to another is the one that was used instead.
_USED = 0.01
_ALONG = 1 - 1e-6
#: A face is slanted when the cosine to another is so far from 0 and from 1.
_SLANT = 0.02


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Side:
    """One of the two that stand to each other."""

    #: What the instance is called.
    name: str
    #: The student's part, and where it stands.
    part: PartFeatures
    pose: Pose
    #: In the student's world.
    feature: Feature


def of_placing(mate: Mate, a: Side, b: Side, *, units: str) -> Cause | None:
    """Name the slip that put two features where they stand.

    Parameters
    ----------
    mate
        What is required of them.
    a, b
        Both sides.
    units
        "mm" or "in".

    Returns
    -------
    Cause or None
        None where nothing explains it to the precision of a model.
    """
    one, two = a.feature, b.feature
    if isinstance(one, PlaneFeature) and isinstance(two, PlaneFeature) and abs(one.normal @ two.normal) > _ALONG:
        wanted = (mate.value if mate.kind == "distance" else mate.offset) or 0.0
        turned = float(np.sign(one.normal @ two.normal))
        return (
            _of_offset(wanted, one, two, units)
            or _of_faces(a, one, two, wanted, units)
            or _of_faces(b, two, one, -turned * wanted, units)
        )
    if isinstance(one, AxisFeature) and isinstance(two, AxisFeature) and abs(one.direction @ two.direction) > _ALONG:
        return _of_holes(a, one, two, units) or _of_holes(b, two, one, units)
    return None


def _of_offset(wanted: float, a: PlaneFeature, b: PlaneFeature, units: str) -> Cause | None:
    if not wanted:
        return None
    gap = float((b.point - a.point) @ a.normal)
    asked = amount(wanted / MM_PER_UNIT[units], "length", units)
    if abs(gap + wanted) < _USED:
        return Cause(code="offset-sign", message=phrase("cause.offset-sign", offset=asked))
    if abs(gap) < _USED:
        return Cause(code="offset-forgotten", message=phrase("cause.offset-forgotten", offset=asked))
    return None


def _of_faces(side: Side, own: PlaneFeature, other: PlaneFeature, wanted: float, units: str) -> Cause | None:
    """Find what was used instead: the far side of a plate, the rim of a hole or chamfer, another step."""

    def is_used(level: float) -> bool:
        """Level along the right face's normal, from it."""
        gap = float((other.point - own.point) @ own.normal) - level
        return abs(level) > _USED and abs(gap - wanted) < _USED

    def far(level: float) -> Message:
        return amount(abs(level) / MM_PER_UNIT[units], "length", units)

    normals, points = side.part.plane_arrays
    alongs = side.pose.direction(normals) @ own.normal
    levels = (side.pose.point(points) - own.point) @ own.normal
    flat = [(float(along), float(level)) for along, level in zip(alongs, levels, strict=True) if abs(along) > _ALONG]
    for along, level in flat:
        if along < 0 and is_used(level):
            text = phrase("cause.far-side", name=side.name, by=far(level))
            return Cause(code="far-side", message=text)
    for start, end, code, sentence, size in _rims(side, own):
        for near, level in ((start, end), (end, start)):
            if abs(near) <= _USED and is_used(level):
                return Cause(code=code, message=phrase(sentence, **size, name=side.name, by=far(level)))
    for along, level in flat:
        if along > 0 and is_used(level):
            text = phrase("cause.wrong-face", name=side.name, by=far(level))
            return Cause(code="wrong-face", message=text)
    return None


def _rims(side: Side, own: PlaneFeature) -> Iterator[tuple[float, float, str, str, dict[str, float]]]:
    """Yield both levels, from a face, of each wall and chamfer that runs along its normal, and what is said of it."""

    def level(point: NDArray[np.float64]) -> float:
        return float((side.pose.point(point) - own.point) @ own.normal)

    def is_along(direction: NDArray[np.float64]) -> bool:
        return abs(float(side.pose.direction(direction) @ own.normal)) > _ALONG

    for wall in side.part.cylinders:
        if is_along(wall.direction) and wall.goes_round:
            sentence = "cause.rim-of-hole" if wall.is_hollow else "cause.rim-of-round-end"
            yield level(wall.point), level(wall.end), "wrong-rim", sentence, {"diameter": 2 * wall.radius}
    for cone in side.part.cones:
        if is_along(cone.direction):
            ends = (level(cone.apex + along * cone.direction) for along in (cone.near, cone.far))
            yield next(ends), next(ends), "chamfer-rim", "cause.rim-of-chamfer", {}
    for k, face in enumerate(side.part.surfaces):
        if isinstance(face, Plane) and _SLANT < abs(float(side.pose.direction(face.normal) @ own.normal)) < 1 - _SLANT:
            levels = [level(polyline) for polyline in side.part.edges.polylines(k)[0]]
            yield min(levels), max(levels), "chamfer-rim", "cause.rim-of-chamfer", {}


def _of_holes(side: Side, own: AxisFeature, other: AxisFeature, units: str) -> Cause | None:
    """Find the hole, or pin, whose axis was used instead."""
    for wall in side.part.cylinders:
        point, direction = side.pose.point(wall.point), side.pose.direction(wall.direction)
        if abs(float(direction @ other.direction)) < _ALONG or not wall.goes_round:
            continue
        on_other = float(np.linalg.norm(np.cross(other.point - point, direction)))
        from_own = float(np.linalg.norm(np.cross(own.point - point, direction)))
        if on_other < _USED < from_own:
            far = amount(from_own / MM_PER_UNIT[units], "length", units)
            message = phrase(
                "cause.another-hole" if wall.is_hollow else "cause.another-round-part",
                name=side.name, diameter=2 * wall.radius / MM_PER_UNIT[units], by=far,
            )  # fmt: skip
            return Cause(code="wrong-hole", message=message)
    return None
