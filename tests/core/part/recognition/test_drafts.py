"""Drafted walls are told with their angle and the way the part is pulled; slopes and plain walls are none."""

import math
from typing import Any

import pytest
from build123d import Box, Cone, Plane, Pos, Rectangle, Rot, loft

from rigid_bench.core.part.recognition.drafts import find_drafts
from tests.support.shapes import features


def frustum(angle: float, height: float = 20.0) -> Any:
    """A block of 40 x 30 whose four walls lean in by an angle, degrees."""
    less = 2 * height * math.tan(math.radians(angle))
    return loft([Rectangle(40, 30), Plane.XY.offset(height) * Rectangle(40 - less, 30 - less)])


@pytest.mark.parametrize("angle", [0.5, 1, 3, 7])
def test_walls_that_lean_alike_are_drafted(angle: float) -> None:
    (draft,) = find_drafts(features(Rot(20, 30, 40) * frustum(angle)))
    assert (math.degrees(draft.angle), len(draft.surfaces)) == (pytest.approx(angle, abs=1e-3), 4)
    up = Rot(20, 30, 40) * Pos(0, 0, 1)
    assert draft.pull @ [up.position.X, up.position.Y, up.position.Z] == pytest.approx(1)


@pytest.mark.parametrize(
    "shape", [Box(40, 30, 20), frustum(20), Cone(20, 18, 30), Box(40, 30, 20) - Rot(0, 4, 0) * Box(10, 10, 60)]
)
def test_plain_walls_slopes_and_single_leaning_walls_are_none(shape: Any) -> None:
    assert find_drafts(features(shape)) == []
