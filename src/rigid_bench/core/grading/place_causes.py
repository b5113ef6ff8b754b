"""Why two features do not stand as required: the wrong face, the wrong hole, an offset forgotten or turned round."""

import numpy as np

from rigid_bench.core.assembly.build import Mate
from rigid_bench.core.feature import AxisFeature, Feature, PlaneFeature
from rigid_bench.core.frames import Pose
from rigid_bench.core.geometry.features import PartFeatures
from rigid_bench.core.grading.report import Cause
from rigid_bench.core.grading.wording import number, quantity
from rigid_bench.core.units import MM_PER_UNIT

#: mm: a face or axis this near to another is the one that was used instead.
_USED = 0.01
_ALONG = 1 - 1e-6


def of_placing(
    mate: Mate,
    a: Feature,
    b: Feature,
    parts: tuple[tuple[PartFeatures, Pose], tuple[PartFeatures, Pose]],
    names: tuple[str, str],
    *,
    units: str,
) -> Cause | None:
    """Name the slip that put two features where they stand.

    Parameters
    ----------
    mate
        What is required of them.
    a, b
        In the student's world.
    parts
        The student's two parts, and where they stand.
    names
        What the two are called.
    units
        "mm" or "in".

    Returns
    -------
    Cause or None
        None where nothing explains it to the precision of a model.
    """
    if isinstance(a, PlaneFeature) and isinstance(b, PlaneFeature) and abs(a.normal @ b.normal) > _ALONG:
        return _of_offset(mate, a, b, units) or _of_faces(mate, a, b, parts, names, units)
    if isinstance(a, AxisFeature) and isinstance(b, AxisFeature) and abs(a.direction @ b.direction) > _ALONG:
        return _of_holes(a, b, parts, names, units)
    return None


def _of_offset(mate: Mate, a: PlaneFeature, b: PlaneFeature, units: str) -> Cause | None:
    wanted = mate.value if mate.kind == "distance" else mate.offset
    if not wanted:
        return None
    gap = float((b.point - a.point) @ a.normal)
    asked = quantity(wanted / MM_PER_UNIT[units], "length", units)
    if abs(gap + wanted) < _USED:
        text = f"The offset has the wrong sign: it is off by twice {asked}."
        return Cause(code="offset-sign", text=text)
    if abs(gap) < _USED:
        return Cause(code="offset-forgotten", text=f"The offset of {asked} was forgotten: the faces are level.")
    return None


def _of_faces(
    mate: Mate,
    a: PlaneFeature,
    b: PlaneFeature,
    parts: tuple[tuple[PartFeatures, Pose], tuple[PartFeatures, Pose]],
    names: tuple[str, str],
    units: str,
) -> Cause | None:
    """Find the face that was used instead: the far side of a plate, the rim of a hole or chamfer, another step."""
    wanted = (mate.value if mate.kind == "distance" else mate.offset) or 0.0
    for own, other, (part, pose), name, sign in (
        (a, b, parts[0], names[0], 1.0), (b, a, parts[1], names[1], float(a.normal @ b.normal)),
    ):  # fmt: skip
        normals, points = part.plane_arrays
        turned, placed = pose.direction(normals), pose.point(points)
        for normal, point in zip(turned, placed, strict=True):
            if abs(float(normal @ own.normal)) < _ALONG:
                continue
            away = float((point - own.point) @ own.normal)
            gap = float((other.point - point) @ own.normal)
            if abs(away) > _USED and abs(gap - sign * wanted) < _USED:
                far = quantity(abs(away) / MM_PER_UNIT[units], "length", units)
                if float(normal @ own.normal) < 0:
                    text = f"The far side of {name} was used: it is off by its thickness there, {far}."
                    return Cause(code="far-side", text=text)
                text = f"Another face of {name} was used, {far} from the right one: a rim, a floor or a step."
                return Cause(code="wrong-face", text=text)
    return None


def _of_holes(
    a: AxisFeature,
    b: AxisFeature,
    parts: tuple[tuple[PartFeatures, Pose], tuple[PartFeatures, Pose]],
    names: tuple[str, str],
    units: str,
) -> Cause | None:
    """Find the hole, or pin, whose axis was used instead."""
    for own, other, (part, pose), name in ((a, b, parts[0], names[0]), (b, a, parts[1], names[1])):
        for wall in part.cylinders:
            point, direction = pose.point(wall.point), pose.direction(wall.direction)
            if abs(float(direction @ other.direction)) < _ALONG or not wall.goes_round:
                continue
            on_other = float(np.linalg.norm(np.cross(other.point - point, direction)))
            from_own = float(np.linalg.norm(np.cross(own.point - point, direction)))
            if on_other < _USED < from_own:
                far = quantity(from_own / MM_PER_UNIT[units], "length", units)
                kind = "hole" if wall.is_hollow else "round part"
                size = number(2 * wall.radius / MM_PER_UNIT[units])
                text = f"Another {kind} of {name} was used: the Ø{size} one, {far} from the right one."
                return Cause(code="wrong-hole", text=text)
    return None
