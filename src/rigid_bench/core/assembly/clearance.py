"""Gaps and overlaps of a build's solids, at rest: boxes first, exact distances for near pairs only."""

import itertools
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.frames import Pose
from rigid_bench.core.geometry.distance import measure_gap, moved, overlap_volume
from rigid_bench.core.geometry.features import tight_box
from rigid_bench.core.geometry.model import Body
from rigid_bench.core.tolerance import Tolerance

#: Pairs further apart than this (mm) are left out unless all are asked for.
NEAR_MM = 1.0


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class PlacedSolid:
    """One solid where it stands."""

    instance: str
    shape: Body
    #: (2, 3) mm, its box along the world's axes.
    box: NDArray[np.float64]


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


def place(instance: str, shape: Body, pose: Pose) -> PlacedSolid:
    """Put a part's solid where its instance stands.

    Raises
    ------
    GeometryError
        The kernel refuses.
    """
    placed = moved(shape, pose)
    return PlacedSolid(instance=instance, shape=placed, box=tight_box(placed))


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
    gap = measure_gap(a.shape, b.shape)
    volume = overlap_volume(a.shape, b.shape) if gap.gap_mm <= tolerance.touch_mm else 0.0
    is_overlap = volume > tolerance.overlap_mm3
    touches = gap.gap_mm <= tolerance.touch_mm
    return Clearance(
        a=a.instance,
        b=b.instance,
        gap_mm=gap.gap_mm,
        overlap_mm3=volume if is_overlap else 0.0,
        state="interfering" if is_overlap else "touching" if touches else "clear",
        at=gap.at,
    )


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
    found = []
    for number, (a, b) in enumerate(near, 1):
        progress(f"Measuring gaps: pair {number} of {len(near)}")
        found.append(clearance(a, b, tolerance=tolerance))
    kept = [each for each in found if within_mm is None or each.gap_mm <= within_mm]
    return sorted(kept, key=lambda each: (-each.overlap_mm3, each.gap_mm))


def _box_gap(a: NDArray[np.float64], b: NDArray[np.float64]) -> float:
    apart = np.maximum(np.maximum(a[0] - b[1], b[0] - a[1]), 0.0)
    return float(np.linalg.norm(apart))
