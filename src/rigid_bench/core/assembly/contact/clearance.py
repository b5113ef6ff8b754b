"""Gaps and overlaps of a build's solids, at rest: boxes first, exact distances for near pairs only."""

import itertools
import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import cached_property, lru_cache
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.assembly.contact.contacts import find_contacts
from rigid_bench.core.assembly.contact.near_faces import near_faces
from rigid_bench.core.kernel.distance import Gap, extreme, gap_of_faces, measure_gap, moved, overlap_volume
from rigid_bench.core.kernel.feature_reader import tight_box
from rigid_bench.core.kernel.meshes.mesh_body import COARSE_MM, FINE_MM, DistanceMesh, carried
from rigid_bench.core.part.faces import OtherFace
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.part.model import Body
from rigid_bench.core.values.datums import PlaneFeature
from rigid_bench.core.values.frames import Pose
from rigid_bench.core.values.tolerance import Tolerance
from rigid_bench.core.wording.language import _

#: Pairs further apart than this (mm) are left out unless all are asked for.
NEAR_MM = 1.0
#: Normals that are parallel to rounding; gaps (mm) of faces that meet; how far (mm) the kernel's boxes overreach.
_PARALLEL, _EXACT, _BEHIND = 1e-9, 1e-7, 1e-6


@dataclass(frozen=True, kw_only=True, eq=False)
class PlacedSolid:
    """One solid where it stands."""

    instance: str
    part: PartFeatures
    pose: Pose
    shape: Body

    @cached_property
    def box(self) -> NDArray[np.float64]:
        """(2, 3) mm, its box along the world's axes."""
        return tight_box(self.shape)


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Clearance:
    """How two instances stand to each other."""

    a: str
    b: str
    #: mm, 0 where they touch or overlap.
    gap_mm: float
    overlap_mm3: float
    state: Literal["clear", "touching", "interfering"]
    #: (2, 3) mm, the nearest point of each.
    at: NDArray[np.float64]


def place(instance: str, part: PartFeatures, pose: Pose) -> PlacedSolid:
    """Put a part's solid where its instance stands.

    Raises
    ------
    GeometryError
        The kernel refuses.
    """
    return PlacedSolid(instance=instance, part=part, pose=pose, shape=moved(part.shape, pose))


def clearance(a: PlacedSolid, b: PlacedSolid, *, tolerance: Tolerance) -> Clearance:
    """Measure how two solids stand to each other.

    Parameters
    ----------
    a, b
        Solids in world coordinates.
    tolerance
        Its `touch_mm` and `overlap_mm3` tell clear, touching and interfering apart.

    Returns
    -------
    Clearance

    Raises
    ------
    GeometryError
        The kernel finds no distance or cannot cut the solids.
    """
    gap = _between_faces(a, b, tolerance) or _measured(a, b)
    if gap.is_apart:
        state: Literal["clear", "touching"] = "touching" if gap.gap_mm <= tolerance.touch_mm else "clear"
        return Clearance(a=a.instance, b=b.instance, gap_mm=gap.gap_mm, overlap_mm3=0.0, state=state, at=gap.at)
    volume = overlap_volume(a.shape, b.shape) if gap.gap_mm <= tolerance.touch_mm else 0.0
    is_shared = volume > tolerance.overlap_mm3
    is_overlap = volume > tolerance.overlap_mm3 + chord_slack(a, b)
    touches = gap.gap_mm <= tolerance.touch_mm
    return Clearance(
        a=a.instance,
        b=b.instance,
        gap_mm=gap.gap_mm,
        overlap_mm3=volume if is_shared else 0.0,
        state="interfering" if is_overlap else "touching" if touches else "clear",
        at=gap.at,
    )


def _measured(a: PlacedSolid, b: PlacedSolid) -> Gap:
    """Ask the kernel for a gap; where walls are free-form, which are slow to ask, only for the faces that are near."""
    parts = (a.part, b.part)
    is_slow = not any(part.is_mesh for part in parts) and any(
        isinstance(surface, OtherFace) for part in parts for surface in part.others
    )
    numbers = near_faces(a.part, a.pose, b.part, b.pose) if is_slow else None
    if numbers is None:
        return measure_gap(a.shape, b.shape)
    gap = gap_of_faces(a.shape, b.shape, numbers)
    # one within the other's material is as near as can be, however far from its skin
    is_within = gap.gap_mm > 0 and (_holds(a, gap.at[1]) or _holds(b, gap.at[0]))
    return Gap(gap_mm=0.0, at=gap.at) if is_within else gap


def _holds(solid: PlacedSolid, point: NDArray[np.float64]) -> bool:
    """Say whether there is a solid's material at a point of the world, (3,) mm."""
    own = solid.pose.inverse().point(point)
    is_in_box = bool(np.all(own > solid.part.box[0]) and np.all(own < solid.part.box[1]))
    return is_in_box and solid.part.is_inside(own)


def interference(a: PlacedSolid, b: PlacedSolid, *, tolerance: Tolerance) -> float:
    """Return the volume, mm3, by which two solids pass through each other, 0 within tolerance; no gap is measured.

    Raises
    ------
    GeometryError
        The kernel cannot cut the solids.
    """
    gap = _between_faces(a, b, tolerance)
    volume = 0.0 if gap and gap.is_apart else overlap_volume(a.shape, b.shape)
    return volume if volume > tolerance.overlap_mm3 + chord_slack(a, b) else 0.0


def chord_slack(a: PlacedSolid, b: PlacedSolid) -> float:
    """Return the volume, mm3, that meshes may share only because chords stand in for their round walls.

    That is twice what lies beyond the chords of the one with less of it: a pin turned in its bore. 0 for solids.
    """
    return 2 * min(_beyond_chords(a.part), _beyond_chords(b.part))


def _beyond_chords(part: PartFeatures) -> float:
    """Return the volume between a mesh's round walls and the chords that stand in for them, mm3."""
    return sum(
        wall.radius**2 * (math.pi - wall.facets / 2 * math.sin(2 * math.pi / wall.facets)) * wall.length
        for wall in part.cylinders
        if wall.facets
    )


def _between_faces(a: PlacedSolid, b: PlacedSolid, tolerance: Tolerance) -> Gap | None:
    """Read the gap off faces that look at each other, where that is exact; None where the kernel must be asked.

    Two solids that stand wholly on their sides of such faces are as far apart as these. Where
    faces meet the gap is 0, whatever else the solids do.
    """
    if a.part.is_mesh or b.part.is_mesh:
        return None
    touching = None
    for contact in find_contacts([(a.part, a.pose), (b.part, b.pose)], tolerance=tolerance):
        if contact.kind != "meet":
            continue
        assert isinstance(contact.feature_a, PlaneFeature)
        assert isinstance(contact.feature_b, PlaneFeature)
        own, other = a.pose.direction(contact.feature_a.normal), b.pose.direction(contact.feature_b.normal)
        if np.linalg.norm(own + other) > _PARALLEL or contact.gap_mm < -_EXACT:
            continue
        gap = max(contact.gap_mm, 0.0)
        at = np.array([contact.at, contact.at + gap * own])
        if _is_behind(a.part, contact.feature_a) and _is_behind(b.part, contact.feature_b):
            return Gap(gap_mm=gap, at=at, is_apart=True)
        if gap <= _EXACT:
            touching = Gap(gap_mm=0.0, at=at)
    return touching


def _is_behind(part: PartFeatures, face: PlaneFeature) -> bool:
    """Say whether a whole part lies behind the plane of one of its faces."""
    level = float(face.point @ face.normal)
    return extreme(part, tuple(float(coordinate) for coordinate in face.normal)) <= level + _BEHIND


def clearances(
    solids: Sequence[PlacedSolid],
    *,
    tolerance: Tolerance,
    within_mm: float | None = NEAR_MM,
    progress: Callable[[str], None] = lambda text: None,
) -> list[Clearance]:
    """Measure every pair of solids that is near, nearest first.

    Parameters
    ----------
    solids
        In world coordinates.
    tolerance
        As for `clearance`.
    within_mm
        Leave out pairs further apart; None keeps all.
    progress
        Told which pair is being measured.

    Returns
    -------
    list of Clearance
        Overlaps first, largest volume first.

    Raises
    ------
    GeometryError
        As `clearance` does.
    """
    near = [
        (a, b) for a, b in itertools.combinations(solids, 2) if within_mm is None or _box_gap(a.box, b.box) <= within_mm
    ]
    gaps = []
    for number, (a, b) in enumerate(near, 1):
        progress(_("Measuring gaps: pair {number} of {count}", number=number, count=len(near)))
        if within_mm is None or not _is_far(a, b, within_mm):
            gaps.append(clearance(a, b, tolerance=tolerance))
    kept = [clearance for clearance in gaps if within_mm is None or clearance.gap_mm <= within_mm]
    # equal ones stay in the order of the instances: the last digits are the machine's
    return sorted(kept, key=lambda clearance: (-_six_digits(clearance.overlap_mm3), _six_digits(clearance.gap_mm)))


def _six_digits(value: float) -> float:
    return float(f"{value:.6g}")


def _is_far(a: PlacedSolid, b: PlacedSolid, within_mm: float) -> bool:
    """Say whether coarse meshes of two solids already show that they are further apart."""
    inner, outer = (a.box, b.box) if np.prod(a.box[1] - a.box[0]) < np.prod(b.box[1] - b.box[0]) else (b.box, a.box)
    if np.all(inner[0] >= outer[0]) and np.all(inner[1] <= outer[1]):
        return False  # one may lie within the other, its skin far from the other's
    return least_gap(a.part, a.pose, b.part, b.pose) > within_mm


def least_gap(a: PartFeatures, pose_a: Pose, b: PartFeatures, pose_b: Pose, *, fine: bool = False) -> float:
    """Return a distance, mm, that two parts' meshes keep at least where they stand; 0 where they may touch.

    Fine meshes tell a pin with a running gap from its bore; they take longer to make.
    """
    return _distance_mesh_of(a, fine).least_gap(pose_a, _distance_mesh_of(b, fine), pose_b)


def fine_mesh(part: PartFeatures, pose: Pose) -> Body:
    """Return a part as triangles where it stands, to within `FINE_MM`."""
    return carried(_distance_mesh_of(part, True).mesh, pose)


@lru_cache(maxsize=256)
def _distance_mesh_of(part: PartFeatures, fine: bool) -> DistanceMesh:
    return DistanceMesh(part.shape, within_mm=FINE_MM if fine else COARSE_MM)


def _box_gap(a: NDArray[np.float64], b: NDArray[np.float64]) -> float:
    apart = np.maximum(np.maximum(a[0] - b[1], b[0] - a[1]), 0.0)
    return float(np.linalg.norm(apart))
