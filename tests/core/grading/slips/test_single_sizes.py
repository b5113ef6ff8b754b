"""One size of a part is wrong, however far: the row that asks it falls, with its cause, and no other loses marks."""

from functools import cache

import pytest

from benchmarks.planted_slips import planted, tried
from benchmarks.sized_parts import PARTS, SizedPart
from rigid_bench.core.exercise.bundle import Exercise

pytestmark = pytest.mark.thorough

PART = {part.name: part for part in PARTS}


@cache
def exercise_of(part: str) -> Exercise:
    return PART[part].exercise()


def told(part: SizedPart, slip_name: str) -> tuple[bool, bool, dict[str, str | None]]:
    slip = next(slip for slip in planted(part) if slip.name == slip_name)
    result = tried(part, exercise_of(part.name), slip)
    assert result is not None, "there is no such part"
    fallen, is_right, cause = result
    return is_right, cause in slip.causes or not slip.causes, fallen


@pytest.mark.parametrize(
    ("part", "slip"),
    [
        # a face that went further than it should stand, and all that stands on it
        ("bracket", "long doubled"),
        ("cover", "wide doubled"),
        ("spindle", "body_long doubled"),
        ("spindle", "body_long a tenth"),
        ("spindle", "neck_long doubled"),
        # a step that is turned over, as the thinner side became the thicker one
        ("spindle", "head halved"),
        ("spindle", "body halved"),
        ("spindle", "neck doubled"),
        # a cross hole in two pieces, as the bore became wider than what is left
        ("spindle", "bore doubled"),
        # a wall that is whole where the reference's is parted by what is missing
        ("spindle", "no groove"),
        ("spindle", "rounding halved"),
        # other holes made with the size of those that are counted
        ("cover", "small as hole"),
        ("cover", "6 of 5"),
        ("cover", "edge to edge"),
        ("bracket", "mirrored"),
        # a hole that runs out over an edge, or into its neighbour, is still that hole
        ("case", "high halved"),
        ("case", "posts_wide a tenth"),
        ("cover", "sunk as bore"),
    ],
)
def test_one_wrong_size_is_one_row_with_its_cause(part: str, slip: str) -> None:
    is_right, is_named, fallen = told(PART[part], slip)
    assert (is_right, is_named) == (True, True), fallen


def test_a_part_far_too_narrow_is_measured_and_not_told_as_missing() -> None:
    _, is_named, fallen = told(PART["bracket"], "wide a tenth")
    assert is_named, fallen


def test_a_boss_that_vanished_in_its_bore_is_missed_and_the_bore_is_not() -> None:
    _, _, fallen = told(PART["lever"], "small a tenth")
    assert fallen == {"small": "feature-missing"}
