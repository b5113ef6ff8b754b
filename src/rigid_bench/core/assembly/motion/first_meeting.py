"""Where a solid on its way first meets another: triangles say where that may be, the kernel whether it is so."""

import math
from collections.abc import Callable, Iterable
from functools import partial

from rigid_bench.core.assembly.contact.clearance import PlacedSolid, interference, place
from rigid_bench.core.values.frames import Pose
from rigid_bench.core.values.tolerance import Tolerance

#: mm: flat faces that meet do so to within the first; what triangles say of round ones is true to within the second.
_NEAR, _WINDOW = 0.002, 0.1
#: mm: so finely is a meeting found that triangles do not say exactly.
_FINEST = 5e-4
#: What a round and a flat wall share grows with the depth to the power of 3/2: its power of 2/3 grows evenly.
_EVENLY = 2 / 3
#: So many places may turn out to be only grazed.
_MOST_GRAZED = 12
_HALVINGS = 28


def first_meeting(
    moving: PlacedSolid,
    other: PlacedSolid,
    contacts: Iterable[float],
    carried: Callable[[float], Pose],
    *,
    until: float,
    lever: float,
    tolerance: Tolerance,
) -> float | None:
    """Return how far a solid goes until it passes into another.

    Parameters
    ----------
    moving, other
        Where they stand. Where they overlap from the beginning, that is let by.
    contacts
        Amounts (mm or rad) at which their triangles meet, least first.
    carried
        By what the moving solid is carried, in the world, after an amount.
    until
        What lies beyond does not matter.
    lever
        mm that the solid goes, where it goes fastest, for one of its amount.
    tolerance
        Says from what volume on solids overlap.

    Returns
    -------
    float or None
        Infinite where it meets nothing; None where the triangles touch in too many places that are only grazed.
    """
    near, window = _NEAR / lever, _WINDOW / lever

    def overlap(amount: float) -> float:
        there = place(moving.instance, moving.part, carried(amount) @ moving.pose)
        return interference(there, other, tolerance=tolerance)

    narrowed = partial(where_it_begins, overlap, finest=_FINEST / lever, tolerance=tolerance)
    free, grazed = 0.0, 0
    for amount in contacts:
        if amount >= until:
            break
        if amount < free:
            continue
        if shared := overlap(amount + near):
            if amount <= near or not overlap(amount - near):
                return amount
            low = max(amount - window, free)
            if overlap(low) and overlap(low := free):
                return math.inf
            return narrowed(low, (amount + near, shared))
        if shared := overlap(amount + window):
            return narrowed(amount + near, (amount + window, shared))
        free, grazed = amount + window, grazed + 1
        if grazed > _MOST_GRAZED:
            return None
    return math.inf


def where_it_begins(
    overlap: Callable[[float], float],
    free: float,
    met: tuple[float, float],
    *,
    finest: float,
    tolerance: Tolerance,
) -> float:
    """Return where between a place that is free and one where a volume is shared the overlap begins.

    Parameters
    ----------
    overlap
        What volume, mm3, is shared after an amount; 0 within tolerance, infinite where it is not known.
    free
        An amount after which nothing is shared.
    met
        A larger amount, and what is shared after it.
    finest
        The amount to which the place is found.
    tolerance
        As for `overlap`.

    Returns
    -------
    float
        The greatest amount that was seen to be free.
    """
    high, volume = met
    shared = [(high, volume**_EVENLY)]
    least = tolerance.overlap_mm3**_EVENLY
    reach = finest
    for _ in range(_HALVINGS):
        if high - free <= finest:
            break
        middle = (free + high) / 2
        if len(shared) == 2 and shared[1][1] < shared[0][1] < math.inf:
            (far, more), (near, less) = shared
            aim = near - (less - least) * (far - near) / (more - less) - finest / 2
            if aim <= free:  # it lies a little beyond where it was looked for
                aim, reach = free + reach, 4 * reach
            middle = aim if free < aim < high else middle
        if volume := overlap(middle):
            high, shared = middle, [shared[-1], (middle, volume**_EVENLY)]
        else:
            free = middle
    return free
