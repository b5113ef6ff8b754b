"""Name the motions in a space of twists: turning about an axis, sliding along a direction, or both.

A twist is six numbers ``[angular, linear]``: rad and mm per unit of time, the linear part
being the velocity of the point at the origin.
"""

import itertools
import math
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.values.frames import Pose, cross, unit

_Array = NDArray[np.float64]


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Motion:
    """One motion that is left, to first order."""

    kind: Literal["rotation", "translation", "screw"]
    #: (3,) unit: along the axis, or the way it slides.
    direction: _Array
    #: (3,) mm, a point of the axis; zero for a translation.
    point: _Array
    #: mm per turn; 0 but for a screw.
    pitch: float = 0.0
    #: Whether it carries on to finite size.
    finite: bool = True

    @property
    def twist(self) -> _Array:
        """(6,) of unit size, about the origin."""
        if self.kind == "translation":
            return np.concatenate([np.zeros(3), self.direction])
        linear = cross(self.point, self.direction) + self.pitch / (2 * math.pi) * self.direction
        return np.concatenate([self.direction, linear])

    def moved(self, pose: Pose) -> "Motion":
        """Return the motion carried by a rigid motion."""
        is_shift = self.kind == "translation"
        return Motion(
            kind=self.kind,
            direction=pose.direction(self.direction),
            point=np.zeros(3) if is_shift else pose.point(self.point),
            pitch=self.pitch,
            finite=self.finite,
        )


def span(twists: _Array, *, rank: float, length: float) -> _Array:
    """Return an orthonormal basis of the twists' span.

    Parameters
    ----------
    twists : (6, k) float
    rank
        Smallest singular value, relative to one, that counts.
    length
        mm, by which angular parts are multiplied so that both parts weigh alike.

    Returns
    -------
    (6, d) float
        Orthonormal in the scaled measure, given back unscaled.
    """
    scale = np.array([length] * 3 + [1.0] * 3)[:, None]
    if twists.shape[1] == 0:
        return np.zeros((6, 0))
    left, sizes, _ = np.linalg.svd(scale * twists, full_matrices=False)
    basis: _Array = left[:, sizes > rank] / scale
    return basis


def name_motions(basis: _Array, *, length: float) -> list[Motion]:
    """Name a basis of motions, simplest first: rotations, translations, screws.

    Parameters
    ----------
    basis : (6, d) float
        Independent twists about the origin.
    length
        mm, a length typical of the build.

    Returns
    -------
    list of Motion
        As many as the basis has columns. World axes are preferred where the space holds them.

    Notes
    -----
    Null directions of the pitch form split a system of screws into pure rotations where it
    has any: J. Phillips, *Freedom in Machinery*, vol. 1 (1984), chapter 10, from memory.

    Examples
    --------
    >>> [m.kind for m in name_motions(np.eye(6)[:, [2, 5]], length=10.0)]
    ['rotation', 'translation']
    """
    scaled = basis * np.array([length] * 3 + [1.0] * 3)[:, None]
    if scaled.shape[1] == 0:
        return []
    _, sizes, right = np.linalg.svd(scaled[:3], full_matrices=True)
    turning = int(np.sum(sizes > 1e-6))
    slides = scaled[3:] @ right[turning:].T
    sliding = _natural_axes(np.linalg.qr(slides)[0]) if slides.shape[1] else np.zeros((3, 0))
    turns = _turns(basis @ right[:turning].T, sliding)
    motions = [Motion(kind="translation", direction=_facing(direction), point=np.zeros(3)) for direction in sliding.T]
    order = {"rotation": 0, "translation": 1, "screw": 2}
    return sorted([*turns, *motions], key=lambda motion: order[motion.kind])


def _natural_axes(basis: _Array) -> _Array:
    """Choose a basis of a space of directions from the world's axes, as far as it holds them."""
    chosen: list[_Array] = []
    inside = basis @ basis.T
    held = [axis for axis in np.eye(3) if np.linalg.norm(inside @ axis - axis) < 1e-6]
    for candidate in (*held, *basis.T):
        rest = candidate - sum((other * float(other @ candidate) for other in chosen), np.zeros(3))
        if np.linalg.norm(rest) > 1e-3 and len(chosen) < basis.shape[1]:
            chosen.append(unit(rest))
    return np.array(chosen).T.reshape(3, -1)


def _facing(direction: _Array) -> _Array:
    """Turn a direction so that its first sizeable entry is positive; drop dust."""
    clean = np.where(np.abs(direction) < 1e-9, 0.0, direction)
    first = clean[np.argmax(np.abs(clean) > 1e-6)]
    return clean if first > 0 else -clean + 0.0


def _turns(twists: _Array, sliding: _Array) -> list[Motion]:
    """Name the turning motions, each up to the slides that are free anyway."""
    count = twists.shape[1]
    if count == 0:
        return []
    away = np.eye(3) - sliding @ sliding.T
    angular, linear = twists[:3], away @ twists[3:]
    mix = _unmixed(angular, linear, sliding)
    return [_screw_or_rotation(angular @ column, linear @ column, sliding) for column in mix.T]


def _unmixed(angular: _Array, linear: _Array, sliding: _Array) -> _Array:
    """Choose combinations of twists that are pure rotations, as far as there are any."""
    form = _pitch_form(angular, linear, sliding)
    count = angular.shape[1]
    if np.abs(form).max(initial=0.0) < 1e-9 * max(1.0, np.abs(linear).max(initial=0.0)):
        # all of them are rotations: take those about natural axes
        axes = _natural_axes(np.linalg.qr(angular)[0])
        return np.asarray(np.linalg.lstsq(angular, axes, rcond=None)[0], dtype=float)
    values, vectors = np.linalg.eigh(form)
    small = 1e-9 * float(np.abs(values).max())
    columns = []
    for low, high in itertools.product(range(count), range(count)):
        if values[low] < -small and values[high] > small:
            a, b = vectors[:, low] / math.sqrt(-values[low]), vectors[:, high] / math.sqrt(values[high])
            columns += [a + b, a - b]
    columns = [vectors[:, k] for k in range(count) if abs(values[k]) <= small] + columns + list(vectors.T)
    chosen: list[_Array] = []
    for column in columns:
        if np.linalg.matrix_rank(np.array([*chosen, unit(column)]), tol=1e-6) > len(chosen):
            chosen.append(unit(column))
    return np.array(chosen).T


def _pitch_form(angular: _Array, linear: _Array, sliding: _Array) -> _Array:
    """Return the quadratic form that vanishes on rotations, (k, k).

    A pitch along a direction that may slide anyway can be taken away, so it does not count.
    """
    form: _Array = (angular.T @ linear + linear.T @ angular) / 2
    reach = np.linalg.norm(sliding.T @ angular, axis=0) if sliding.shape[1] else np.zeros(angular.shape[1])
    return form if not (reach > 1e-6).all() else np.zeros_like(form)


def _screw_or_rotation(angular: _Array, linear: _Array, sliding: _Array) -> Motion:
    size = float(np.linalg.norm(angular))
    direction, velocity = angular / size, linear / size
    advance = float(direction @ velocity)
    reach = sliding @ (sliding.T @ direction)
    if abs(advance) > 1e-9 and float(reach @ reach) > 1e-9:
        velocity = velocity - reach * (advance / float(reach @ direction))
        advance = 0.0
    point = cross(direction, velocity)
    turned = _facing(direction)
    if abs(advance) < 1e-6 * max(1.0, float(np.linalg.norm(velocity))):
        return Motion(kind="rotation", direction=turned, point=point)
    return Motion(kind="screw", direction=turned, point=point, pitch=2 * math.pi * advance)
