"""Plates that drills are made of: sound ones, sizes that differ, changes of one hole."""

import random

import pytest

from rigid_bench.core.practice.plate import Hole, Plate, is_sound, plate_by_lot

PLATE = Plate(
    length=80.0, width=50.0, thickness=10.0,
    holes=(Hole(name="a", x=20.0, y=25.0, diameter=8.0), Hole(name="b", x=55.0, y=25.0, diameter=10.0, depth=6.0)),
)  # fmt: skip


@pytest.mark.parametrize(
    ("changed", "sound"),
    [
        ({}, True),
        ({"x": 9.0}, True),  # half of 8, and 5 to the edge
        ({"x": 8.9}, False),
        ({"y": 41.1}, False),
        ({"x": 40.0}, True),  # half of 8 and 10, and 6 between them
        ({"x": 40.1}, False),
    ],
)
def test_holes_lie_within_the_plate_and_apart(changed: dict[str, float], sound: bool) -> None:
    assert is_sound(PLATE.with_hole(0, **changed)) is sound


def test_one_hole_is_changed_and_no_other() -> None:
    own = PLATE.with_hole(1, diameter=5.0)
    assert (own.holes[0], own.holes[1].diameter, own.holes[1].depth) == (PLATE.holes[0], 5.0, 6.0)


def test_a_plate_in_inches_is_so_many_times_smaller() -> None:
    own = PLATE.scaled(1 / 25.4).scaled(25.4)
    assert (own.length, own.holes[1].depth) == (pytest.approx(80.0), pytest.approx(6.0))
    assert own.holes[0].depth is None


@pytest.mark.parametrize("holes", [1, 2, 3])
def test_by_lot_they_are_sound_and_no_two_sizes_are_alike(holes: int) -> None:
    for seed in range(40):
        plate = plate_by_lot(random.Random(seed), holes)
        assert is_sound(plate)
        assert len(plate.holes) == holes
        sizes = [plate.length, plate.width, plate.thickness, *(hole.diameter for hole in plate.holes)]
        assert len(set(sizes)) == len(sizes), (seed, sizes)
