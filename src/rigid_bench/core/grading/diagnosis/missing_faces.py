"""Why a face is missing that is asked for: a wrong size across took it, or it belongs to a feature that is missing."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.registration.correspond import RegisteredPart, reference_flat, reference_wall
from rigid_bench.core.registration.rounds import is_named
from rigid_bench.core.values.datums import AxisFeature, ConeFeature, Feature, PlaneFeature, TorusFeature

#: A flat lies across an axis, a ring goes about it: cosine.
_ALONG = 1 - 1e-6


def ends_a_wall(reference: PartFeatures, wall: AxisFeature, features: Sequence[Feature], *, where: str) -> bool:
    """Say whether a step, ring or cone across a round wall's axis ends the wall, or ends what ends it.

    Parameters
    ----------
    reference
        The part that all are of.
    wall
        Names the round wall.
    features
        What another size is taken from.

    Raises
    ------
    InvalidDocument
        The reference has no such wall or face.
    """
    own = reference.numbers[reference.cylinders[reference_wall(reference, wall, where=where)].faces]
    beside = {other for _, other in reference.edges.neighbours(own)}
    near = beside | {further for other in beside for _, further in reference.edges.neighbours(other)}
    return any(
        _numbers(reference, feature, where) & near
        for feature in features
        if (direction := _direction(feature)) is not None and abs(float(direction @ wall.direction)) > _ALONG
    )


def are_of_one_feature(
    registered: RegisteredPart, features: Sequence[Feature], others: Sequence[Feature], *, where: str
) -> bool:
    """Say whether two sizes look for faces that the part lacks and that meet on the reference, as a notch's do.

    Raises
    ------
    InvalidDocument
        The reference has no such faces.
    """
    gone, other = (_missing(registered, own, where) for own in (features, others))
    return any(beyond in other for number in gone for _, beyond in registered.reference.edges.neighbours(number))


def _missing(registered: RegisteredPart, features: Sequence[Feature], where: str) -> set[int]:
    """Return the places, on the reference, of the faces that the part lacks."""
    gone: set[int] = set()
    for feature in features:
        match feature:
            case PlaneFeature() if registered.flat(feature, where=where) is None:
                gone |= _numbers(registered.reference, feature, where)
            case TorusFeature() | ConeFeature():
                pass
            case AxisFeature() if registered.wall(feature, where=where) is None:
                wall = registered.reference.cylinders[reference_wall(registered.reference, feature, where=where)]
                gone.add(registered.reference.numbers[wall.faces])
    return gone


def _direction(feature: Feature) -> NDArray[np.float64] | None:
    match feature:
        case PlaneFeature():
            return feature.normal
        case TorusFeature() | ConeFeature():
            return feature.direction
        case _:
            return None


def _numbers(reference: PartFeatures, feature: Feature, where: str) -> set[int]:
    """Return the places of the surfaces that a feature names."""
    if isinstance(feature, PlaneFeature):
        faces = set(reference_flat(reference, feature, where=where).faces)
        return {number for number, surface in enumerate(reference.surfaces) if faces & set(surface.faces)}
    if isinstance(feature, TorusFeature | ConeFeature):
        return {number for number, surface in enumerate(reference.surfaces) if is_named(surface, feature)}
    return set()
