"""A row of holes that was moved or stretched as a whole keeps its order; walls made by hand."""

import math
from collections.abc import Sequence

import numpy as np
import pytest

from rigid_bench.core.part.faces import Cylinder
from rigid_bench.core.registration.rows import in_order
from rigid_bench.core.values.frames import Pose

UP = np.array([0.0, 0, 1])


def holes(xs: Sequence[float], *, y: float = 0.0, radius: float = 2.0) -> list[Cylinder]:
    """Holes through a plate of 6 mm, at places along x."""
    return [
        Cylinder(
            faces=(k,), point=np.array([x, y, 0.0]), direction=UP, radius=radius, length=6.0, is_hollow=True,
            arcs=((np.array([1.0, 0, 0]), 2 * math.pi),), area=2 * math.pi * radius * 6,
        )
        for k, x in enumerate(xs)
    ]  # fmt: skip


def test_a_row_that_went_on_by_its_pitch_is_paired_first_to_first() -> None:
    wanted, own = holes([0, 10, 20, 30]), holes([10, 20, 30, 40])
    by_place = {1: 0, 2: 1, 3: 2, 0: 3}  # three stand where others should, and one is left over
    assert in_order(by_place, wanted, own, pose=Pose.identity()) == {0: 0, 1: 1, 2: 2, 3: 3}


def test_a_row_of_another_pitch_is_paired_in_its_order() -> None:
    wanted, own = holes([0, 10, 20]), holes([0, 12, 24])
    assert in_order({0: 0, 1: 1, 2: 2}, wanted, own, pose=Pose.identity()) == {0: 0, 1: 1, 2: 2}


def test_the_order_is_that_of_the_part_as_it_was_laid() -> None:
    turned = Pose(np.diag([-1.0, -1, 1]), np.zeros(3))  # half a turn about z
    wanted, own = holes([0, 10, 20]), holes([-5, -15, -25])
    assert in_order({0: 2, 1: 0, 2: 1}, wanted, own, pose=turned) == {0: 0, 1: 1, 2: 2}


@pytest.mark.parametrize("xs", [[0.0, 10, 21], [3.0, 10, 20, 31.5]])
def test_places_that_no_move_and_pitch_explain_stay_paired_by_place(xs: list[float]) -> None:
    wanted, own = holes([10.0 * k for k in range(len(xs))]), holes(xs)
    backwards = dict(enumerate(reversed(range(len(xs)))))
    assert in_order(backwards, wanted, own, pose=Pose.identity()) == backwards


def test_two_are_no_row_and_other_sizes_are_another() -> None:
    wanted = [*holes([0, 10]), *holes([20], radius=3.0)]
    own = [*holes([10, 20]), *holes([30], radius=3.0)]
    pairs = {0: 1, 1: 0, 2: 2}
    assert in_order(pairs, wanted, own, pose=Pose.identity()) == pairs


def test_holes_that_stand_on_no_line_are_no_row() -> None:
    wanted = [*holes([0, 10]), *holes([5], y=8.0)]
    pairs = {0: 1, 1: 2, 2: 0}
    assert in_order(pairs, wanted, wanted, pose=Pose.identity()) == pairs
