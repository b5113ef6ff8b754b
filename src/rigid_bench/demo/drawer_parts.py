"""The solids of the seed drawer: the given housing, the drawer and the knob, by parameters."""

from dataclasses import dataclass

from build123d import Align, Axis, Box, Cylinder, Part, Pos, Rot, fillet

_MIN = (Align.MIN, Align.MIN, Align.MIN)
_ALONG_X = Rot(0, 90, 0)
#: The housing is given: outside 95 x 66.8 x 36.8, walls 3.
HOUSING_WALL, SPACE = 3.0, (92.0, 60.8, 30.8)
GAP = 0.4
_ON_AXIS = (Align.CENTER, Align.CENTER, Align.MIN)


@dataclass(frozen=True, slots=True, kw_only=True)
class Sizes:
    """All sizes of drawer and knob, mm."""

    length: float = 90.0
    width: float = 60.0
    height: float = 30.0
    wall: float = 3.0
    front: float = 3.0
    floor: float = 3.0
    hole: float = 8.4
    hole_height: float = 15.0
    hole_from_side: float = 30.0
    spigot: float = 8.0
    spigot_length: float = 10.0
    pilot: float = 4.0
    pilot_depth: float = 8.0
    head: float = 16.0
    #: Of the two corners at the back, outside; and inside, where it was rounded before it was hollowed.
    corner: float = 5.0
    inner_corner: float = 0.0
    #: The hole goes on through the back.
    through_back: bool = False
    #: Head and spigot of the knob do not meet.
    split_knob: float = 0.0


def housing() -> Part:
    """The given housing, open at the front (x = 0); the origin is a corner of the space inside."""
    length, width, height = SPACE
    w = HOUSING_WALL
    outside = Pos(0, -w, -w) * Box(length + w, width + 2 * w, height + 2 * w, align=_MIN)
    return outside - Pos(-1, 0, 0) * Box(length + 1, width, height, align=_MIN)


def drawer(sizes: Sizes) -> Part:
    """The drawer, its front at x = 0 with the hole for the knob, open at the top."""
    s = sizes
    outside = _rounded(Box(s.length, s.width, s.height, align=_MIN), s.corner)
    inside = _rounded(Box(s.length - s.front - s.wall, s.width - 2 * s.wall, s.height, align=_MIN), s.inner_corner)
    reach = s.length if s.through_back else s.front
    hole = Pos(-1, s.hole_from_side, s.hole_height) * _ALONG_X * Cylinder(s.hole / 2, reach + 2, align=_ON_AXIS)
    return outside - Pos(s.front, s.wall, s.floor) * inside - hole


def _rounded(block: Part, radius: float) -> Part:
    """Round the two upright edges at the back."""
    return fillet(block.edges().filter_by(Axis.Z).sort_by(Axis.X)[2:], radius) if radius else block


def knob(sizes: Sizes) -> Part:
    """The knob: a square head, its shoulder at x = 0, and a spigot with a blind pilot hole for the screw."""
    s = sizes
    head = Pos(-10 - s.split_knob, -s.head / 2, -s.head / 2) * Box(10, s.head, s.head, align=_MIN)
    spigot = _ALONG_X * Cylinder(s.spigot / 2, s.spigot_length, align=_ON_AXIS)
    pilot = (
        Pos(s.spigot_length - s.pilot_depth, 0, 0) * _ALONG_X * Cylinder(s.pilot / 2, s.pilot_depth + 1, align=_ON_AXIS)
    )
    return head + spigot - pilot
