"""Spaces of motions: whether two are one, and what one has that another lacks."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.assembly.freedom.motions import Motion, span

_Array = NDArray[np.float64]
#: Two motion spaces agree when they differ by less than this (rad, or mm per mm of the build).
SAME = 1e-3


def space_of(motions: Sequence[Motion], length: float) -> _Array:
    """Return an orthonormal basis of motions, turns multiplied by a length in mm: (6, d)."""
    twists = np.array([motion.twist for motion in motions]).T.reshape(6, -1)
    return scaled_span(twists, length)


def scaled_span(twists: _Array, length: float) -> _Array:
    """Return an orthonormal basis of twists, (6, k), turns multiplied by a length in mm: (6, d)."""
    if not twists.size:
        return twists.reshape(6, -1)
    scale = np.array([length] * 3 + [1.0] * 3)[:, None]
    basis: _Array = np.linalg.qr(scale * span(twists, rank=1e-9, length=length))[0]
    return basis


def is_same_space(a: _Array, b: _Array) -> bool:
    """Say whether two orthonormal bases, (6, d) each, span one space."""
    return a.shape[1] == b.shape[1] and holds_space(a, b)


def holds_space(a: _Array, b: _Array) -> bool:
    """Say whether the first space holds the whole of the second."""
    return bool(np.linalg.norm(b - a @ (a.T @ b)) < SAME) if b.shape[1] else True


def complement(motions: Sequence[Motion], known: Sequence[Motion], length: float) -> list[Motion]:
    """Return those motions, one after the other, that neither `known` nor the ones before them give.

    Examples
    --------
    >>> x, y = (Motion(kind="translation", direction=np.eye(3)[k], point=np.zeros(3)) for k in range(2))
    >>> [motion.direction.tolist() for motion in complement([x, y], [x], 1.0)]
    [[0.0, 1.0, 0.0]]
    """
    missing: list[Motion] = []
    for motion in motions:
        if not holds_space(space_of([*known, *missing], length), space_of([motion], length)):
            missing.append(motion)
    return missing


def petals(motions: Sequence[Motion], length: float) -> tuple[list[bool], list[bool]]:
    """Say which slides along, and turns about lines along, the three axes are open."""
    space = space_of(motions, length)
    if space.shape[1] == 0:
        return [False] * 3, [False] * 3
    slides = [float(np.linalg.norm(space.T @ np.concatenate([np.zeros(3), axis]))) > 1 - 1e-6 for axis in np.eye(3)]
    angular = np.linalg.svd(space[:3], full_matrices=False)
    basis = angular[0][:, angular[1] > 1e-6]
    turns = [float(np.linalg.norm(basis.T @ axis)) > 1 - 1e-6 for axis in np.eye(3)]
    return slides, turns
