"""Features in words, for the command and for students."""

from typing import Any

import pytest
from build123d import Axis, Box, Cylinder, Pos, RegularPolygon, Rot, chamfer, extrude, fillet

from rigid_bench.core.measurement.feature_report import feature_report
from rigid_bench.core.part.recognition.inventory import take_inventory
from rigid_bench.core.wording.features import feature_lines
from rigid_bench.core.wording.saying import say
from tests.support.shapes import TOLERANCE, features, plate_with_four_holes, slotted_plate, stepped_block


@pytest.mark.parametrize(
    ("shape", "lines"),
    [
        (Box(30, 20, 10), []),
        (plate_with_four_holes(), ["4 × hole Ø8, through", "4 holes in a grid of 2 × 2, 30 and 40 apart"]),
        (
            stepped_block(),
            ["hole Ø6, 12 deep", "hole Ø6, through, counterbore Ø12", "boss Ø10, 10 long", "least wall 6"],
        ),
        (slotted_plate(), ["slot 26 × 6, through, ends round and round", "half bore or saddle R5, 180° round"]),
        (
            Box(40, 40, 10) - Pos(0, 0, 2) * extrude(RegularPolygon(6, 6), 20),
            ["hexagon socket, 10.392 across flats, 3 deep", "least wall 7"],
        ),
        (
            chamfer(fillet(Box(30, 20, 10).edges().filter_by(Axis.Z)[:2], 2).edges().filter_by(Axis.Z)[-1:], 1),
            ["2 × rounded edge R2", "chamfer 1 × 1"],
        ),
        (
            Box(60, 40, 9) - Pos(0, 0, 6) * Box(20, 12, 9) - Pos(25, 0, 0) * Rot(30, 0, 0) * Cylinder(2, 60),
            ["hole Ø4, through, 30° askew", "pocket 20 × 12, 3 deep", "least wall 3"],
        ),
    ],
)
def test_feature_lines(shape: Any, lines: list[str]) -> None:
    part = features(shape)
    feature = feature_report(part, take_inventory(part, tolerance=TOLERANCE))
    assert [say(line) for line in feature_lines(feature, part.extents.tolist())] == lines
