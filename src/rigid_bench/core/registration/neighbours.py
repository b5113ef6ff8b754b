"""Tell faces by what they meet: a face that was moved far still ends the same walls."""

from collections.abc import Mapping, Sequence

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.part.faces import Cylinder, Plane, Surface
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.values.frames import Pose

_Array = NDArray[np.float64]
#: What a face meets, in words that two parts have in common.
_Neighbour = tuple[object, ...]


def alike_by_neighbours(
    reference: PartFeatures,
    part: PartFeatures,
    flats: Sequence[tuple[int, ...]],
    own_flats: Sequence[tuple[int, ...]],
    *,
    pose: Pose,
    walls: Mapping[int, int],
) -> _Array:
    """Compare what flat faces of two parts meet along their edges.

    Parameters
    ----------
    reference, part
        The parts.
    flats, own_flats
        The faces of each flat, of the reference and of the part.
    pose
        From the reference's coordinates to the part's.
    walls
        Which of the reference's cylinders is which of the part's.

    Returns
    -------
    (r, s) array
        The share of neighbours in common of all that either has (the Jaccard index, from memory), 0 to 1: a paired wall
        is one neighbour, so is a flat of one direction, and any other surface counts by its kind.
    """
    names = {face: ("wall", wanted) for wanted in walls for face in reference.cylinders[wanted].faces}
    own_names = {face: ("wall", wanted) for wanted, own in walls.items() for face in part.cylinders[own].faces}
    sets = _neighbours(reference, flats, names, pose)
    own_sets = _neighbours(part, own_flats, own_names, Pose.identity())
    number = {name: k for k, name in enumerate({name for known in (*sets, *own_sets) for name in known})}
    first, second = _incidence(sets, number), _incidence(own_sets, number)
    common = first @ second.T
    either = first.sum(axis=1)[:, None] + second.sum(axis=1)[None] - common
    share: _Array = common / np.maximum(either, 1.0)
    return share


def _neighbours(
    part: PartFeatures, flats: Sequence[tuple[int, ...]], walls: Mapping[int, _Neighbour], pose: Pose
) -> list[set[_Neighbour]]:
    at = {face: number for number, surface in enumerate(part.surfaces) for face in surface.faces}
    names = [_name(surface, walls, pose) for surface in part.surfaces]
    met = []
    for faces in flats:
        own = {at[face] for face in faces}
        met.append({names[other] for number in own for _, other in part.edges.neighbours(number) if other not in own})
    return met


def _name(surface: Surface, walls: Mapping[int, _Neighbour], pose: Pose) -> _Neighbour:
    if isinstance(surface, Plane):
        return ("flat", *np.round(pose.direction(surface.normal), 1).tolist())
    if isinstance(surface, Cylinder):
        return walls.get(surface.faces[0], ("wall", surface.is_hollow, round(surface.radius, 2)))
    return (type(surface).__name__,)


def _incidence(sets: Sequence[set[_Neighbour]], number: Mapping[_Neighbour, int]) -> _Array:
    table = np.zeros((len(sets), max(len(number), 1)))
    for row, names in enumerate(sets):
        table[row, [number[name] for name in names]] = 1.0
    return table
