"""Where a joint stands, how far it has turned and travelled, and whether that is within its limits.

Turn and travel are zero where the two frames coincide, as the format says.
"""

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from rigid_bench.core.assembly.mates.equations import Equation, Row
from rigid_bench.core.assembly.mates.registry import KINDS
from rigid_bench.core.formats.build import Mate
from rigid_bench.core.values.datums import AxisFeature, Feature, FrameFeature
from rigid_bench.core.values.frames import Pose, cross

#: A joint this near (rad, mm) to a limit is at it.
AT_LIMIT = 1e-6


@dataclass(frozen=True, slots=True, kw_only=True)
class Standing:
    """One coordinate of a joint that has limits, in rad or mm."""

    mate: str
    kind: Literal["rotation", "translation"]
    value: float
    least: float
    greatest: float

    @property
    def beyond(self) -> float:
        """How far it is above its greatest (or, below 0, below its least) value; 0 within."""
        return max(self.value - self.greatest, 0.0) + min(self.value - self.least, 0.0)

    @property
    def state(self) -> Literal["within", "at least", "at greatest", "beyond"]:
        """Where it stands between its limits."""
        if abs(self.beyond) > AT_LIMIT:
            return "beyond"
        if self.value - self.least <= AT_LIMIT:
            return "at least"
        return "at greatest" if self.greatest - self.value <= AT_LIMIT else "within"


def standings(mate: Mate, poses: Sequence[Pose]) -> Iterator[tuple[Standing, Row]]:
    """Yield the limited coordinates of a mate, each with its row on the twist of b less that of a.

    Parameters
    ----------
    mate
        Only joints between frames have a turn; those between frames or axes a travel.
    poses
        Where the instances stand.
    """
    if mate.limits is None:
        return
    a, b = mate.feature_a.moved(poses[mate.a]), mate.feature_b.moved(poses[mate.b])
    if mate.limits.rotation and KINDS[mate.kind].turns and isinstance(a, FrameFeature) and isinstance(b, FrameFeature):
        least, greatest = mate.limits.rotation
        value = _nearest_turn(_turn(a, b), least, greatest)
        yield (
            Standing(mate=mate.id, kind="rotation", value=value, least=least, greatest=greatest),
            Row(angular=a.direction, linear=np.zeros(3), point=np.zeros(3), is_angular=True),
        )
    if mate.limits.translation and KINDS[mate.kind].travels and _has_axis(a) and _has_axis(b):
        least, greatest = mate.limits.translation
        along = a.direction  # type: ignore[union-attr]  # asked one line above
        value = float((b.point - a.point) @ along)
        yield (
            Standing(mate=mate.id, kind="translation", value=value, least=least, greatest=greatest),
            Row(angular=np.zeros(3), linear=along, point=b.point, is_angular=False),
        )


def limit_equations(mate: Mate, poses: Sequence[Pose]) -> list[Equation]:
    """List what brings a joint back within its limits; nothing where it is within them."""
    return [row.equation(standing.beyond) for standing, row in standings(mate, poses) if standing.beyond]


def _has_axis(feature: Feature) -> bool:
    return isinstance(feature, FrameFeature | AxisFeature)


def _turn(a: FrameFeature, b: FrameFeature) -> float:
    return math.atan2(float(a.direction @ cross(a.x, b.x)), float(a.x @ b.x))


def _nearest_turn(turn: float, least: float, greatest: float) -> float:
    """Count whole turns so that the turn is within its limits, or as near to them as it can be."""
    whole = 2 * math.pi
    middle = (least + greatest) / 2
    return turn + whole * round((middle - turn) / whole)
