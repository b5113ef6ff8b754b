"""Cones, balls and rings are named by what they are on the part."""

from typing import Any

import pytest
from build123d import Axis, Box, Cone, Cylinder, Pos, Sphere, Torus, chamfer, fillet

from rigid_bench.core.measurement.feature_report import feature_report
from rigid_bench.core.part.recognition.inventory import take_inventory
from rigid_bench.core.wording.features import feature_list
from rigid_bench.core.wording.saying import say
from tests.support.shapes import TOLERANCE, features

BLOCK = Box(40, 40, 20)
ROD = Cylinder(10, 20)


def said(shape: Any) -> list[str]:
    part = features(shape)
    told = feature_list(feature_report(part, take_inventory(part, tolerance=TOLERANCE)))
    return [say(feature) for feature in told]


@pytest.mark.parametrize(
    ("shape", "words"),
    [
        # ISO 7046: the head of a countersunk screw has 90 degrees
        (Cylinder(3, 20) + Pos(0, 0, 11.5) * Cone(3, 6, 3), ["boss Ø6, 20 long", "countersunk head Ø12, 90°"]),
        (ROD + Pos(0, 0, 20) * Cone(10, 6, 20), ["boss Ø20, 20 long", "taper Ø20 to Ø12, 20 long"]),
        (BLOCK - Cone(8, 5, 20), ["tapered hole Ø16 to Ø10, 20 long"]),
        (BLOCK - Pos(0, 0, 10) * Sphere(6), ["ball pocket Ø12"]),
        (Cylinder(5, 20) + Pos(0, 0, 10) * Sphere(5), ["boss Ø10, 20 long", "ball Ø10"]),
        (Cylinder(15, 30) - Torus(15, 2), ["boss Ø30, 13 long", "boss Ø30, 13 long", "ring groove Ø30, Ø4 round"]),
        # what belongs to a hole or an edge is told with it
        (fillet(Box(20, 20, 20).edges(), 3), ["rounded edge R3"] * 12),
        (chamfer(ROD.edges().sort_by(Axis.Z)[-1:], 1.5), ["boss Ø20, 18.5 long", "chamfer 1.5 × 1.5"]),
        (BLOCK - Cylinder(3, 60) - Pos(0, 0, 8.5) * Cone(3, 6, 3), ["hole Ø6, through, countersink Ø12"]),
        (BLOCK - Pos(0, 0, 5) * Cylinder(3, 10) - Pos(0, 0, -1) * Cone(0, 3, 2), ["hole Ø6, 10 deep"]),
    ],
)
def test_what_is_round_is_named(shape: Any, words: list[str]) -> None:
    assert said(shape) == words
