"""Which parts are bought in, and how the others are made, by their shape alone.

Sizes: 608 is 8 x 22 x 7 (ISO 15), M4 x 16 has a head of 7 x 4 (ISO 4762), an ISO 2338 pin of 6; from memory.
"""

from typing import Any

import pytest
from build123d import Align, Axis, Box, Cone, Cylinder, Pos, Rot, fillet

from rigid_bench.core.exercise.authoring.bought_in import bought_in_faults, is_standard
from rigid_bench.core.exercise.authoring.process_advice import likely_process
from rigid_bench.core.exercise.bundle import PartModel
from tests.support.shapes import features

FOOT = (Align.CENTER, Align.CENTER, Align.MIN)


def ring(bore: float, outside: float, width: float) -> Any:
    return Cylinder(outside / 2, width) - Cylinder(bore / 2, 2 * width)


def screw(shank: float, length: float, head: float, height: float) -> Any:
    return Cylinder(shank / 2, length, align=FOOT) + Pos(0, 0, length) * Cylinder(head / 2, height, align=FOOT)


@pytest.mark.parametrize(
    ("shape", "bought"),
    [
        (ring(8, 22, 7), True),
        (Rot(30, 40, 50) * ring(8, 22, 7), True),
        (ring(8, 22, 8), False),  # a spacer of a bearing's bore
        (ring(9, 22, 7), False),
        (screw(4, 16, 7, 4), True),
        (Rot(0, 90, 0) * screw(4, 16, 7, 4), True),
        (screw(4, 16, 9, 4), False),  # a button of the student's own
        (screw(4.3, 16, 7, 4), False),
        (Cylinder(3, 20), True),
        (Cylinder(3, 4), False),  # a disc
        (Cylinder(3, 90), False),  # a shaft, cut to length
        (Cylinder(3.3, 20), False),
        (Cylinder(3, 20) - Cylinder(1, 30), False),
        (Box(6, 6, 20), False),
    ],
)
def test_what_the_tables_have_is_bought_in(shape: Any, bought: bool) -> None:
    assert is_standard(features(shape)) is bought


@pytest.mark.parametrize(
    ("name", "shape", "says"),
    [
        ("Bearing 608", ring(8, 22, 7), None),
        ("Bearing 608", ring(8, 21, 7), "no bearing in the tables is 8 × 21 × 7"),
        ("Bearing", Rot(20, 35, -50) * ring(8, 21, 7), "no bearing in the tables is 8 × 21 × 7"),
        ("Screw M4", screw(4, 16, 7, 4), None),
        ("Screw M4", screw(4, 16, 11, 4), "a head of 11 on a shank of 4 is in no table"),
        ("Bolt", screw(4.4, 16, 7, 4), "shank of 4.4"),
        ("Dowel", Cylinder(3.4, 20), "no dowel pin in the tables is Ø6.8"),
        ("Knob", Cylinder(3.4, 20), None),  # its name says nothing of a table
    ],
)
def test_a_part_that_is_named_as_bought_in_is_looked_up(name: str, shape: Any, says: str | None) -> None:
    part = list(bought_in_faults(PartModel(id="p", name=name, origin="bought"), features(shape), mm=1.0))
    assert len(part) == (1 if says else 0), part
    assert not says or says in part[0]


def plate(thick: float) -> Any:
    return Box(80, 50, thick) - Pos(20, 10, 0) * Cylinder(4, 20)


@pytest.mark.parametrize(
    ("shape", "process"),
    [
        (plate(3), "laser cut"),
        (Rot(90, 0, 0) * plate(3), "laser cut"),
        (Rot(20, 35, -50) * plate(3), "laser cut"),
        (plate(3.3), "printed"),  # no sheet is sold so
        (plate(3) - Pos(-20, 0, 1) * Box(20, 20, 3), "printed"),  # a pocket, not cut through
        (plate(3) - Pos(-20, 0, 0) * Rot(90, 0, 0) * Cylinder(1, 80), "printed"),  # drilled from the edge
        (plate(3) - Pos(-20, 0, 0) * Cone(2, 4, 3), "printed"),  # countersunk
        (fillet(plate(3).edges().filter_by(Axis.Z)[0], 4), "laser cut"),
        (Cylinder(10, 12) + Pos(0, 0, 20) * Cylinder(6, 30), "turned"),
        (Cylinder(10, 12) - Pos(4, 0, 0) * Rot(90, 0, 0) * Cylinder(2, 40), "printed"),  # a cross hole
        (Box(20, 20, 20), "printed"),
    ],
)
def test_how_a_part_is_likely_made(shape: Any, process: str) -> None:
    assert likely_process(features(shape)) == process
