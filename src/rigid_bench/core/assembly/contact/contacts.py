"""What the geometry itself shows between parts, without any declared mate.

Which faces meet or are level, which round body sits in which hole, which axes coincide, each
with its gap. These are candidate mates, and, for files that carry positions only, what the
freedom of a build is judged by.
"""

import itertools
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property, lru_cache
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.formats.build import Build, Instance, Mate
from rigid_bench.core.part.faces import Cylinder, Plane
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.part.flat_bounds import FlatBounds
from rigid_bench.core.values.datums import AxisFeature, CylinderFeature, Feature, PlaneFeature
from rigid_bench.core.values.frames import Pose
from rigid_bench.core.values.tolerance import Tolerance

_Array = NDArray[np.float64]
#: Faces and walls further apart than this (mm) neither touch nor guide each other.
NEAR_MM = 1.0


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Contact:
    """Two features of two instances that stand to each other as a mate would make them."""

    #: Places of the instances.
    a: int
    b: int
    #: Faces look at each other, or look one way in one plane; a round body in a hole; axes in line.
    kind: Literal["meet", "level", "seated", "in line"]
    #: Each in its own part's coordinates.
    feature_a: Feature
    feature_b: Feature
    #: mm: between faces, or all round on the radius; below 0 where they overlap. 0 for axes in line.
    gap_mm: float
    #: (3,) mm, a place of a's feature in the world where b's lies over it.
    at: _Array

    @property
    def touches(self) -> bool:
        """They are in one place, not merely near."""
        return abs(self.gap_mm) <= 1e-3

    def mate(self, name: str) -> Mate:
        """Return the mate that the contact stands for."""
        if self.kind in ("seated", "in line"):
            return Mate(id=name, kind="coaxial", a=self.a, feature_a=self.feature_a, b=self.b, feature_b=self.feature_b)
        return Mate(
            id=name,
            kind="coincident" if self.touches else "distance",
            value=None if self.touches else self.gap_mm,
            a=self.a,
            feature_a=self.feature_a,
            b=self.b,
            feature_b=self.feature_b,
            sense="opposed" if self.kind == "meet" else "aligned",
        )


@lru_cache(maxsize=256)
def _bounds_of(part: PartFeatures) -> FlatBounds:
    """Bounds of a part's flat faces, once for all its copies."""
    return FlatBounds(part)


class PlacedFaces:
    """A part where it stands, its flat faces and round walls as arrays.

    Flat faces are counted among themselves; `numbers` says where each stands among all surfaces of the part.
    """

    def __init__(self, part: PartFeatures, pose: Pose) -> None:
        self.part, self.pose, self.bounds = part, pose, _bounds_of(part)
        self._samples: dict[int, _Array] = {}
        self.numbers = [k for k, surface in enumerate(part.surfaces) if isinstance(surface, Plane)]
        normals, points = part.plane_arrays
        self.normals, self.points = pose.direction(normals), pose.point(points)
        self.walls = [cylinder for cylinder in part.cylinders if cylinder.goes_round]
        self.axes = pose.direction(np.array([wall.direction for wall in self.walls]).reshape(-1, 3))
        self.feet = pose.point(np.array([wall.point for wall in self.walls]).reshape(-1, 3))
        self.radii = np.array([wall.radius for wall in self.walls])
        self.lengths = np.array([wall.length for wall in self.walls])
        self.hollow = np.array([wall.is_hollow for wall in self.walls], dtype=bool)

    @cached_property
    def box(self) -> _Array:
        """(2, 3) mm, of the part's own box, turned."""
        corners = self.pose.point(self.part.corners)
        return np.array([corners.min(axis=0), corners.max(axis=0)])

    def samples(self, plane: int) -> _Array:
        """Return points of a flat face, (n, 3), in the world."""
        if plane not in self._samples:
            self._samples[plane] = self.pose.point(self.bounds.samples(self.numbers[plane]))
        return self._samples[plane]

    def holds(self, plane: int, points: _Array) -> NDArray[np.bool_]:
        """Say which points of the world lie over a flat face."""
        return self.bounds.holds(self.numbers[plane], self.pose.inverse().point(points))

    def plane(self, number: int) -> PlaneFeature:
        """Return a flat face in the part's own coordinates."""
        own = self.part.planes[number]
        return PlaneFeature(own.point, own.normal)

    def wall(self, number: int) -> CylinderFeature:
        """Return a round wall in the part's own coordinates."""
        own: Cylinder = self.walls[number]
        return CylinderFeature(own.point, own.direction, own.radius)


def find_contacts(
    placed: Sequence[tuple[PartFeatures, Pose]], *, tolerance: Tolerance, within_mm: float = NEAR_MM
) -> list[Contact]:
    """Find what the parts of a build show of their relations.

    Parameters
    ----------
    placed
        Each instance's part, and where it stands.
    tolerance
        Its `mate_rad` says when faces and axes are parallel, `mate_mm` when axes coincide.
    within_mm
        Faces that look at each other may be so far apart.

    Returns
    -------
    list of Contact
        Instance by instance; faces only where their areas lie over each other.
    """
    bodies = [PlacedFaces(part, pose) for part, pose in placed]
    contacts: list[Contact] = []
    for (a, one), (b, two) in itertools.combinations(enumerate(bodies), 2):
        if np.all(one.box[0] - two.box[1] <= within_mm) and np.all(two.box[0] - one.box[1] <= within_mm):
            contacts += _flat_contacts(a, one, b, two, tolerance, within_mm)
            contacts += _round_contacts(a, one, b, two, tolerance, within_mm)
    return contacts


def _flat_contacts(
    a: int, one: PlacedFaces, b: int, two: PlacedFaces, tolerance: Tolerance, within_mm: float
) -> Iterator[Contact]:
    if not (len(one.numbers) and len(two.numbers)):
        return
    cosines = one.normals @ two.normals.T
    apart = two.points[None] - one.points[:, None]
    gaps = np.einsum("ijk,ik->ij", apart, one.normals)
    # the gap where the second face is, and where the first is: both small, or the faces only slant past each other
    back = -np.einsum("ijk,jk->ij", apart, two.normals)
    parallel = 1 - tolerance.mate_rad**2
    meets = (cosines < -parallel) & (gaps > -tolerance.mate_mm) & (gaps <= within_mm) & (back <= within_mm)
    levels = (cosines > parallel) & (np.abs(gaps) <= tolerance.mate_mm) & (np.abs(back) <= tolerance.mate_mm)
    for i, j in np.argwhere(meets | levels):
        is_meeting = bool(meets[i, j])
        if not _beside(one, int(i), two, int(j), within_mm):
            continue
        at = common_place(one, int(i), two, int(j)) if is_meeting else one.points[i]
        if at is None:
            continue
        yield Contact(
            a=a,
            b=b,
            kind="meet" if is_meeting else "level",
            feature_a=one.plane(int(i)),
            feature_b=two.plane(int(j)),
            gap_mm=float(gaps[i, j]) if is_meeting else 0.0,
            at=at - float((at - one.points[i]) @ one.normals[i]) * one.normals[i],
        )


def common_place(one: PlacedFaces, i: int, two: PlacedFaces, j: int) -> _Array | None:
    """Return a place, (3,) mm, where two flat faces lie over each other, seen along their normal; None where none is.

    Places at and between their edges are tried, so that a sliver of common area may be overlooked.
    """
    samples, others = one.samples(i), two.samples(j)
    points = np.vstack([samples, others, _middles(samples, others)])
    common = np.flatnonzero(one.holds(i, points) & two.holds(j, points))
    return points[common[0]] if len(common) else None


def _middles(samples: _Array, others: _Array) -> _Array:
    """Return points in the common part of the boxes of two sets: crossing bars have no corner over each other."""
    low = np.maximum(samples.min(axis=0), others.min(axis=0))
    high = np.minimum(samples.max(axis=0), others.max(axis=0))
    steps = np.array(list(itertools.product((0.1, 0.5, 0.9), repeat=3)))
    grid: _Array = low + steps * (high - low)
    return grid


def _beside(one: PlacedFaces, i: int, two: PlacedFaces, j: int, within_mm: float) -> bool:
    """Say whether two level faces are neighbours: their boxes are no further apart than that."""
    samples, others = one.samples(i), two.samples(j)
    gaps = np.maximum(samples.min(axis=0) - others.max(axis=0), others.min(axis=0) - samples.max(axis=0))
    return bool(np.all(gaps <= within_mm))


def _round_contacts(
    a: int, one: PlacedFaces, b: int, two: PlacedFaces, tolerance: Tolerance, within_mm: float
) -> Iterator[Contact]:
    if not (len(one.walls) and len(two.walls)):
        return
    cosines = one.axes @ two.axes.T
    apart = two.feet[None] - one.feet[:, None]
    along = np.einsum("ijk,ik->ij", apart, one.axes)
    beside = np.sqrt(np.maximum((apart**2).sum(axis=2) - along**2, 0.0))
    ends = along + np.sign(cosines) * two.lengths[None]
    low, high = np.minimum(along, ends), np.maximum(along, ends)
    shared = np.minimum(high, one.lengths[:, None]) - np.maximum(low, 0.0)
    on_axis = (np.abs(cosines) > 1 - tolerance.mate_rad**2) & (beside <= tolerance.mate_mm) & (shared > -within_mm)
    for i, j in np.argwhere(on_axis):
        is_seated = bool(one.hollow[i] != two.hollow[j])
        gap = float(one.radii[i] - two.radii[j]) * (1.0 if one.hollow[i] else -1.0)
        if is_seated and (shared[i, j] <= 0 or gap > within_mm):
            continue
        yield Contact(
            a=a,
            b=b,
            kind="seated" if is_seated else "in line",
            feature_a=one.wall(int(i)),
            feature_b=two.wall(int(j)),
            gap_mm=gap if is_seated else 0.0,
            at=one.feet[i],
        )


def contact_build(instances: Sequence[Instance], contacts: Sequence[Contact], *, is_against: bool = False) -> Build:
    """Return a build held by its contacts: faces that meet or guide, and round bodies in holes.

    Parameters
    ----------
    instances
        Where they stand, and which is grounded.
    contacts
        From `find_contacts`.
    is_against
        A face only holds against; it counts where another face holds against it from the other side.
    """
    held_by = holding(instances, contacts, is_against=is_against)
    mates = tuple(contact.mate(f"contact {number}") for number, contact in enumerate(held_by, 1))
    return Build(parts=(), instances=tuple(instances), mates=mates)


def holding(instances: Sequence[Instance], contacts: Sequence[Contact], *, is_against: bool = False) -> list[Contact]:
    """Return the contacts that hold a build, in their order; parameters as for `contact_build`."""
    meeting = [contact for contact in contacts if contact.kind in ("meet", "seated")]
    return [
        contact
        for contact in meeting
        if contact.kind == "seated" or (contact.touches and not is_against) or _is_met(contact, meeting, instances)
    ]


def _is_met(contact: Contact, contacts: Sequence[Contact], instances: Sequence[Instance]) -> bool:
    """Say whether another face between the same two instances looks the other way."""
    own = _normal(contact, instances)
    return any(
        other.kind == "meet"
        and {other.a, other.b} == {contact.a, contact.b}
        and float(own @ _normal(other, instances)) < -0.999
        for other in contacts
    )


def _normal(contact: Contact, instances: Sequence[Instance]) -> _Array:
    assert isinstance(contact.feature_a, PlaneFeature | AxisFeature)
    return instances[contact.a].pose.direction(contact.feature_a.direction)
