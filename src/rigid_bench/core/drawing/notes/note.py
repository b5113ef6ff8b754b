"""What stands on a drawing as one dimension or note."""

from dataclasses import dataclass


@dataclass(frozen=True, slots=True, kw_only=True)
class Linear:
    """A size along a direction, between two places."""

    checks: tuple[str, ...]
    text: str
    #: Unit, in the part's coordinates.
    way: tuple[float, float, float]
    #: Where its ends are, mm, and which of them are axes, with their direction.
    points: tuple[tuple[float, float, float], tuple[float, float, float]]
    axes: tuple[tuple[float, float, float] | None, tuple[float, float, float] | None]
    marks: float = 0.0
    auxiliary: bool = False
    #: The size of the whole part along the direction.
    is_extent: bool = False
    #: Theoretically exact: in a frame.
    exact: bool = False
    #: No check asks it yet, and the drawing needs it.
    is_missing: bool = False
    #: Across something round, seen from the side: its axis, and its diameter, mm.
    across: tuple[float, float, float] | None = None
    diameter: float = 0.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Pointed:
    """A note that points at one of several like places."""

    checks: tuple[str, ...]
    text: str
    #: Points of the axes, mm; of an edge or face a point on it.
    points: tuple[tuple[float, float, float], ...]
    #: Along the axis, or square to the face.
    direction: tuple[float, float, float]
    #: mm; 0 for a face.
    radius: float = 0.0
    #: "hole", "arc", "face" or "sheet": what the leader ends on.
    target: str = "hole"
    exact: bool = False
    is_missing: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Listed:
    """A size that no view shows."""

    checks: tuple[str, ...]
    text: str


Note = Linear | Pointed | Listed
