"""Where two parts meet on a slide or a turn, where their faces alone say it."""

from rigid_bench.core.assembly.contact.clearance import PlacedSolid
from rigid_bench.core.assembly.freedom.motions import Motion
from rigid_bench.core.assembly.motion.flat_meeting import flat_meeting
from rigid_bench.core.assembly.motion.wall_meeting import wall_meeting, wall_meetings


def plain_meeting(moving: PlacedSolid, other: PlacedSolid, motion: Motion, *, sign: int) -> float | None:
    """Return how far a part goes along a motion, or with `sign` -1 back, until it meets another.

    Returns
    -------
    float or None
        rad for a turn, else mm; infinite where nothing is on its way; None where triangles must be asked.
    """
    if motion.kind == "rotation":
        return wall_meeting(moving, other, motion.point, sign * motion.direction)
    return flat_meeting(moving, other, sign * motion.direction)


def plain_meetings(moving: PlacedSolid, other: PlacedSolid, motion: Motion) -> tuple[float | None, float | None]:
    """Return how far a part goes along a motion until it meets another, back and forth; as `plain_meeting`."""
    if motion.kind == "rotation":
        return wall_meetings(moving, other, motion.point, motion.direction)
    back, forth = (flat_meeting(moving, other, sign * motion.direction) for sign in (-1, 1))
    return back, forth
