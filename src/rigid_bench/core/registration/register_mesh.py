"""Lay a reference over a mesh: by its flat surfaces, or by its mass where it has few."""

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.kernel.inertia import principal_inertia
from rigid_bench.core.kernel.meshes.mesh_body import carried
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.part.model import Body
from rigid_bench.core.registration.register import Registration, register
from rigid_bench.core.values.frames import Pose
from rigid_bench.core.values.tolerance import Tolerance

_Array = NDArray[np.float64]
#: How fast likeness falls with unlike volume, moments and overall sizes.
_STEEPNESS = 5.0
#: Share of the area by which chords alone may let two equal ways differ.
_AS_GOOD = 0.01
#: Where so much of the area agrees, faces and round walls decide alone.
_SURE = 0.5


def register_mesh(reference: PartFeatures, part: PartFeatures, *, tolerance: Tolerance) -> tuple[Registration, ...]:
    """Find how a reference lies over a mesh, by flat surfaces and by the axes of inertia.

    Parameters
    ----------
    reference
        A solid.
    part
        A mesh.
    tolerance
        As for `register`.

    Returns
    -------
    tuple of Registration
        The best one first, and with it all that are as good: a symmetric part has several. Where the faces do
        not decide, the one under which the overall sizes agree best; its likeness speaks of faces, or of volume,
        moments of inertia and overall sizes.
    """
    by_faces = register(reference, part, tolerance=tolerance, as_good=_AS_GOOD)
    if by_faces and by_faces[0].likeness > _SURE:
        return by_faces
    moments, axes = principal_inertia(reference)
    own_moments, own_axes = principal_inertia(part)
    candidates = [*(way.pose for way in by_faces), *_by_mass(reference, axes, part, own_axes)]
    misfits = [_misfit(reference, part.shape, pose) for pose in candidates]
    best = int(np.argmin(misfits))
    volumes = abs(part.volume / reference.volume - 1)
    turning = float(np.abs(own_moments / moments - 1).max())
    by_mass = 1 / (1 + _STEEPNESS * (volumes + turning + misfits[best]))
    likeness = max([by_mass, *(way.likeness for way in by_faces[:1])])
    return (Registration(pose=candidates[best], likeness=likeness),)


def _by_mass(reference: PartFeatures, axes: _Array, part: PartFeatures, own_axes: _Array) -> list[Pose]:
    poses = []
    for signs in ((1, 1), (1, -1), (-1, 1), (-1, -1)):
        first, second = own_axes[:, 0] * signs[0], own_axes[:, 1] * signs[1]
        turned = np.column_stack([first, second, np.cross(first, second)])
        own = np.column_stack([axes[:, 0], axes[:, 1], np.cross(axes[:, 0], axes[:, 1])])
        rotation = turned @ own.T
        poses.append(Pose(rotation, part.centroid - rotation @ reference.centroid))
    return poses


def _misfit(reference: PartFeatures, mesh: Body, pose: Pose) -> float:
    """Return how far the overall sizes and their place disagree, as a share of the reference's size."""
    box = np.asarray(carried(mesh, pose.inverse()).bounds)
    return float(np.abs(box - reference.box).max()) / reference.size
