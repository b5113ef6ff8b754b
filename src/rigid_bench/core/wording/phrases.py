"""Parts of messages that stand for values: numbers with units, lists, motions, features."""

import math
from collections.abc import Iterable, Sequence

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.assembly.freedom.motions import Motion
from rigid_bench.core.formats.message import Message, phrase
from rigid_bench.core.values.datums import AxisFeature, CylinderFeature, Feature, FrameFeature, PlaneFeature

_AXES = "XYZ"
#: Cosine: a direction along an axis of the world.
_ALONG = 1 - 1e-6


def amount(value: float, dimension: str, units: str) -> Message:
    """Return a value with its unit; it is in the exercise's own unit already. One without end is no number in JSON."""
    if not math.isfinite(value):
        return phrase("part.without-end")
    return phrase("amount", value=float(value), dimension=dimension, units=units)


def tolerance_band(nominal: float, minus: float, plus: float, dimension: str, units: str) -> Message:
    """Return a nominal with its tolerance, in the exercise's unit."""
    return phrase("band", nominal=nominal, minus=minus, plus=plus, dimension=dimension, units=units)


def listed(items: Iterable[Message | str]) -> Message:
    """Return several things as a list: "a, b and c"."""
    return phrase("list", items=list(items))


def quoted(names: Iterable[str]) -> list[Message]:
    """Return names each in quotes."""
    return [phrase("quoted", name=name) for name in names]


def at_place(coordinates: Iterable[float]) -> Message:
    """Return a point by its coordinates."""
    return phrase("place", at=[float(value) for value in coordinates])


def walls_through(count: float) -> Message:
    """Return how many walls a hole goes through."""
    return phrase("walls-through", count=round(count))


def motion_phrase(motion: Motion) -> Message:
    """Return a motion as what a part does: "slide along X"."""
    along = next((name for name, axis in zip(_AXES, np.eye(3), strict=True) if _is_along(motion.direction, axis)), "")
    return phrase(f"does.{motion.kind}", way=along or phrase("way.slanting-line"))


def motions_phrase(motions: Sequence[Motion]) -> Message:
    """Return what can move, in one phrase."""
    if not motions:
        return phrase("motions.none")
    return phrase("motions.all-six") if len(motions) == 6 else phrase("motions.some", doing=doing_phrase(motions))


def doing_phrase(motions: Sequence[Motion]) -> Message:
    """Return what is to move, after "should" or "to"."""
    if not motions:
        return phrase("does.nothing")
    if len(motions) == 6:
        return phrase("does.everything")
    return listed(motion_phrase(motion) for motion in motions)


def looking(direction: NDArray[np.float64]) -> Message:
    """Return the name of a direction: "+X", "−Z", or a slant."""
    for name, axis in zip(_AXES, np.eye(3), strict=True):
        if _is_along(direction, axis):
            return phrase("as-said", text=f"{'+' if direction @ axis > 0 else '−'}{name}")
    return phrase("way.slant")


def feature_phrase(feature: Feature) -> Message:
    """Return which feature of a part is meant, by its place in the world."""
    at = at_place(feature.point)
    match feature:
        case PlaneFeature():
            return phrase("feature.face", at=at, way=looking(feature.normal))
        case CylinderFeature():
            return phrase("feature.wall", diameter=2 * feature.radius, at=at)
        case AxisFeature() | FrameFeature():
            return phrase("feature.axis", at=at)
        case _:
            return phrase("feature.point", at=at)


def _is_along(direction: NDArray[np.float64], axis: NDArray[np.float64]) -> bool:
    return bool(abs(direction @ axis) > _ALONG)
