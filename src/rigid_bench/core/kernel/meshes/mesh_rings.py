"""Rings among the pieces of a mesh: about the axis of another surface, or about their own.

A ring may be whole, as a groove all round a shaft is, or a part of one, as the bend of a rod.
"""

import itertools
import math
from collections.abc import Iterator, Sequence

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import least_squares

from rigid_bench.core.kernel.meshes.chords import Chords, arcs_round, corner_angles, thickness
from rigid_bench.core.part.faces import Torus
from rigid_bench.core.part.recognition.facets import LEAST_FACETS
from rigid_bench.core.values.frames import any_normal

_Array = NDArray[np.float64]
_Ints = NDArray[np.int64]
#: Corners lie on a surface to this share of its radius, and of how far they are from being flat, and to this share of
#: the mesh's size.
ROUND, BULGE, DIGITS = 2e-3, 2e-2, 2e-6
#: Corners on which a surface is tried first.
FEW = 400
#: sin of the angle by which chords lean from an axis: less is none.
LEAST_LEAN = 0.02
#: Of all squares, what the normals miss an axis by at most.
_MISSED = 1e-4
#: Shares of their sizes by which two sides of one ring differ at most; so many chords the crest between them is wide.
_SAME, _CHORDS = 2e-3, 2.5


def find_ring(chords: Chords, group: _Ints, axes: Sequence[tuple[_Array, _Array]], slack: float) -> Torus | None:
    """Fit a ring through the corners of pieces, about one of some axes or its own; None where they lie on none."""
    triangles = chords.triangles_of(group)
    corners = chords.corners(triangles)
    size, bulge = slack / DIGITS, BULGE * thickness(corners)
    few = corners[:: max(1, len(corners) // FEW)]
    for foot, direction in itertools.chain(axes, [_own_axis(corners)], _met_by_normals(chords, group, few)):
        if _tube(few, foot, direction, size, bulge, slack) is None:
            continue
        tube = _tube(corners, foot, direction, size, bulge, slack)
        if tube is None:
            continue
        (major, height, minor), round_tube = tube
        x = any_normal(direction)
        y = np.cross(direction, x)
        count, arcs = arcs_round(corner_angles((corners - foot) @ np.array([x, y]).T), x, y)
        if count < LEAST_FACETS:
            continue
        point = foot + height * direction
        middles = chords.middles_of(group) - point
        outward = middles - np.outer(middles @ direction, direction)
        ring = major * outward / np.linalg.norm(outward, axis=1, keepdims=True)
        _, tube_arcs = arcs_round(corner_angles(round_tube), np.array([1.0, 0.0]), np.array([0.0, 1.0]))
        return Torus(
            faces=tuple(triangles.tolist()),
            point=point,
            direction=direction,
            major=major,
            minor=minor,
            is_hollow=not chords.looks_out(group, middles - ring),
            sweep=sum(sweep for _, sweep in arcs),
            tube_sweep=sum(sweep for _, sweep in tube_arcs),
            area=float(chords.areas[group].sum()),
        )
    return None


def is_one_ring(ring: Torus, other: Torus) -> bool:
    """Say whether two surfaces are sides of one ring."""
    apart = float(np.linalg.norm(ring.point - other.point)) + abs(ring.major - other.major)
    is_parallel = abs(float(ring.direction @ other.direction)) > 1 - _SAME
    return is_parallel and apart + abs(ring.minor - other.minor) < _SAME * (ring.major + ring.minor)


def is_crest(chords: Chords, chord: int, ring: Torus, slack: float) -> bool:
    """Say whether a flat is the crest of a ring: all round, from one side of the tube to the other, a chord wide.

    A face that ends at the crest has corners on one side of it only; one that cuts the ring is wider than its chords.
    """
    corners = chords.corners_of(chord)
    if abs(float(chords.normals[chord] @ ring.direction)) < 1 - _SAME:
        return False
    tube, angles = (_about_tube(points, ring) for points in (corners, chords.corners(np.array(ring.faces))))
    off = np.abs(np.hypot(*tube.T) - ring.minor).max()
    if off > _SAME * ring.minor + slack or not tube[:, 0].min() < -slack < slack < tube[:, 0].max():
        return False
    turns = np.unique(np.round(np.arctan2(angles[:, 1], angles[:, 0]), 3))
    wide = np.ptp(np.arctan2(tube[:, 0], np.abs(tube[:, 1])))
    return bool(wide < _CHORDS * np.median(np.diff(turns)))


def _about_tube(points: _Array, ring: Torus) -> _Array:
    """Return points, (k, 3), as seen round a ring: how far out from its tube's middle and along its axis, (k, 2)."""
    offset = points - ring.point
    along = offset @ ring.direction
    radii = np.linalg.norm(offset - np.outer(along, ring.direction), axis=1)
    return np.column_stack([radii - ring.major, along])


def _own_axis(corners: _Array) -> tuple[_Array, _Array]:
    """Return the axis of what goes all round evenly: through its middle, in the one direction unlike the other two."""
    middle = corners.mean(axis=0)
    spread, directions = np.linalg.eigh(np.cov((corners - middle).T))
    return middle, directions[:, 0 if spread[1] - spread[0] > spread[2] - spread[1] else 2]


def _met_by_normals(chords: Chords, group: _Ints, few: _Array) -> Iterator[tuple[_Array, _Array]]:
    """Yield the axis that the normals of a part of a ring meet, which has no other surface about it: a bent rod's.

    All normals of a surface of revolution meet its axis: a linear complex of lines (Pottmann, Wallner, *Computational
    Line Geometry*, 2001, section 3.1, from memory). It is then put right on the corners.
    """
    group = group[:: max(1, len(group) // FEW)]
    middles, normals = chords.middles_of(group), chords.normals[group]
    centre, size = middles.mean(axis=0), float(np.linalg.norm(np.ptp(middles, axis=0)))
    if not size:
        return
    arms = (middles - centre) / size
    lines = np.sqrt(chords.areas[group])[:, None] * np.hstack([np.cross(arms, normals), normals])
    sizes, ways = np.linalg.eigh(lines.T @ lines)
    across, shift = np.split(ways[:, 0], 2)
    length = float(np.linalg.norm(across))
    if sizes[0] > _MISSED * sizes.sum() or length < LEAST_LEAN:
        return
    foot = centre + size * np.cross(across, shift) / length**2

    def off(guess: _Array) -> _Array:
        direction = guess[3:6] / np.linalg.norm(guess[3:6])
        offset = few - guess[:3]
        along = offset @ direction
        radii = np.linalg.norm(offset - np.outer(along, direction), axis=1)
        distances: _Array = np.hypot(radii - guess[6], along) - guess[7]
        return distances

    direction = across / length
    along = (few - foot) @ direction
    radii = np.linalg.norm(few - foot - np.outer(along, direction), axis=1)
    start = np.concatenate([foot + along.mean() * direction, direction, [radii.mean(), np.ptp(radii) / 2]])
    fitted = least_squares(off, start, method="lm").x
    yield fitted[:3], fitted[3:6] / np.linalg.norm(fitted[3:6])


def _tube(
    corners: _Array, foot: _Array, direction: _Array, size: float, bulge: float, slack: float
) -> tuple[tuple[float, float, float], _Array] | None:
    """Fit the circle of a tube, seen round an axis: its middle away and along, its radius, and the corners about it."""
    offset = corners - foot
    along = offset @ direction
    radii = np.linalg.norm(offset - np.outer(along, direction), axis=1)
    rows = np.column_stack([2 * radii, 2 * along, np.ones(len(radii))])
    (major, height, rest), _, rank, _ = np.linalg.lstsq(rows, radii**2 + along**2, rcond=None)
    minor = math.sqrt(max(float(rest + major**2 + height**2), 0.0))
    tube = np.column_stack([radii - major, along - height])
    off = float(np.abs(np.linalg.norm(tube, axis=1) - minor).max())
    if rank < 3 or not 0 < major < size or minor > size or off > min(ROUND * minor, bulge) + slack:
        return None
    return (float(major), float(height), minor), tube
