"""Where all instances of a build stand at a number of places along a path, as arrays."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.assembly.mates.system import System
from rigid_bench.core.values.frames import Pose

_Array = NDArray[np.float64]


@dataclass(frozen=True, slots=True, eq=False)
class Placements:
    """The poses of n instances at k places, or of one."""

    #: (k, n, 3, 3) and (k, n, 3) mm; (k, 3, 3) and (k, 3) of one.
    rotations: _Array
    positions: _Array

    @classmethod
    def displaced(cls, system: System, poses: Sequence[Pose], displacements: _Array) -> "Placements":
        """Move instances by displacements of all, (k, 6 n) mm, as `System.stepped` does by one."""
        entries = displacements.reshape(len(displacements), -1, 6)
        rotations = rotations_by(entries[:, :, :3] / system.lengths[:, None]) @ np.array(
            [pose.rotation for pose in poses]
        )
        middles = np.array([pose.point(middle) for pose, middle in zip(poses, system.middles, strict=True)])
        carried = (rotations @ system.middles[:, :, None])[..., 0]
        return cls(rotations, middles + entries[:, :, 3:] - carried)

    @classmethod
    def of(cls, poses: Sequence[Pose]) -> "Placements":
        """Take one place."""
        return cls(np.array([[pose.rotation for pose in poses]]), np.array([[pose.position for pose in poses]]))

    @classmethod
    def joined(cls, parts: "Sequence[Placements]") -> "Placements":
        """Put places one after the other."""
        return cls(*(np.concatenate([getattr(part, name) for part in parts]) for name in ("rotations", "positions")))

    def poses(self, place: int) -> list[Pose]:
        """Return where all instances stand at a place."""
        return [
            Pose(rotation, position)
            for rotation, position in zip(self.rotations[place], self.positions[place], strict=True)
        ]

    def only(self, places: NDArray[np.int_]) -> "Placements":
        """Return some of the places."""
        return Placements(self.rotations[places], self.positions[places])

    def seen(self, index: int, to: int | None) -> "Placements":
        """Return where one instance stands to another, or in the world: (k, 3, 3) and (k, 3) mm."""
        if to is None:
            return Placements(self.rotations[:, index], self.positions[:, index])
        back = self.rotations[:, to].transpose(0, 2, 1)
        shifts = self.positions[:, index] - self.positions[:, to]
        return Placements(back @ self.rotations[:, index], (back @ shifts[:, :, None])[..., 0])


def turns_about(rotations: _Array, axis: _Array) -> _Array:
    """Return by how much rotations, (k, 3, 3), turn about an axis, (3,) unit: (k,) rad, half a turn at most."""
    twists = np.stack([rotations[:, i, j] - rotations[:, j, i] for i, j in ((2, 1), (0, 2), (1, 0))], axis=1)
    angles: _Array = np.arctan2(twists @ axis, np.trace(rotations, axis1=1, axis2=2) - 1)
    return angles


def rotations_by(turns: _Array) -> _Array:
    """Return the rotations by rotation vectors, (..., 3) rad: (..., 3, 3), by Rodrigues' formula."""
    angles = np.linalg.norm(turns, axis=-1)
    skew = np.zeros((*angles.shape, 3, 3))
    for axis, (row, column) in enumerate(((2, 1), (0, 2), (1, 0))):
        skew[..., row, column], skew[..., column, row] = turns[..., axis], -turns[..., axis]
    # sin(a) / a and (1 - cos(a)) / a2, which numpy's sinc keeps exact near 0
    first = np.sinc(angles / np.pi)[..., None, None]
    second = (np.sinc(angles / (2 * np.pi)) ** 2 / 2)[..., None, None]
    rotations: _Array = np.eye(3) + first * skew + second * (skew @ skew)
    return rotations
