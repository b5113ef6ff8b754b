"""How near is equal: one frozen value, passed in, so that two exercises can differ."""

import math
from dataclasses import dataclass


@dataclass(frozen=True, slots=True, kw_only=True)
class Tolerance:
    """How near is equal. Passed in, never read from a global."""

    #: A mate holds when its residual is at most this (mm); fixed by the build format.
    mate_mm: float = 1e-3
    #: The same for directions (rad): 0.01 degrees.
    mate_rad: float = math.radians(0.01)
    #: Features of one part this near in direction (rad) count as one, so that export
    #: noise does not pass for a constraint.
    agree_rad: float = 1e-6
    #: The same for positions (mm).
    agree_mm: float = 1e-5
    #: Smallest singular value, relative to the largest, that counts as a constraint.
    #: Well above the agreed noise and far below any real lever.
    rank: float = 1e-5
    #: The precision of a model (mm): a cause must explain a value this closely.
    model_mm: float = 0.01
    #: Faces whose surfaces differ less than this (mm) are one surface to us.
    surface_mm: float = 1e-4
    #: Solids nearer than this (mm) touch; below it contact and clearance are not told apart.
    touch_mm: float = 1e-3
    #: Overlap below this volume (mm3) is rounding of the Boolean operation, not material.
    overlap_mm3: float = 1e-3
