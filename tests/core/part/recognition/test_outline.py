"""Outlines against plane geometry: areas, perimeters, forms, and how one lies in another."""

import math
from itertools import pairwise

import numpy as np
import pytest

from rigid_bench.core.part.recognition.outline import Outline, Segment, greatest_deviation, room_inside


def line(start: tuple[float, float], end: tuple[float, float]) -> Segment:
    return Segment(start=np.array(start), end=np.array(end), centre=None, turn=0.0, is_tangent=False)


def arc(start: tuple[float, float], end: tuple[float, float], centre: tuple[float, float], turn: float) -> Segment:
    return Segment(
        start=np.array(start), end=np.array(end), centre=np.array(centre), turn=math.radians(turn), is_tangent=True
    )


def polygon(*corners: tuple[float, float]) -> Outline:
    return Outline(tuple(line(a, b) for a, b in pairwise([*corners, corners[0]])))


def regular(sides: int, radius: float) -> Outline:
    angles = 2 * math.pi * np.arange(sides) / sides
    return polygon(*((radius * math.cos(angle), radius * math.sin(angle)) for angle in angles))


SQUARE = polygon((0, 0), (10, 0), (10, 10), (0, 10))
ELL = polygon((0, 0), (30, 0), (30, 10), (10, 10), (10, 20), (0, 20))
SLOT = Outline(
    (
        line((0, 0), (20, 0)), arc((20, 0), (20, 6), (20, 3), 180),
        line((20, 6), (0, 6)), arc((0, 6), (0, 0), (0, 3), 180),
    )
)  # fmt: skip
#: A square of 10 with a half circle of radius 2 taken out of one side.
BITTEN = Outline(
    (line((0, 0), (3, 0)), arc((3, 0), (7, 0), (5, 0), -180), line((7, 0), (10, 0)), *SQUARE.segments[1:])
)  # fmt: skip


@pytest.mark.parametrize(
    ("outline", "area", "perimeter"),
    [
        (SQUARE, 100, 40),
        (ELL, 400, 100),
        (SLOT, 120 + 9 * math.pi, 40 + 6 * math.pi),
        (BITTEN, 100 - 2 * math.pi, 36 + 2 * math.pi),
        (regular(6, 8), 1.5 * math.sqrt(3) * 64, 48),
    ],
)
def test_area_and_perimeter_are_those_of_the_formulas(outline: Outline, area: float, perimeter: float) -> None:
    assert (outline.area, outline.perimeter) == (pytest.approx(area), pytest.approx(perimeter))
    assert outline.polygon.area == pytest.approx(area, rel=1e-4)


def test_forms_are_told_apart() -> None:
    assert [outline.sides for outline in (SQUARE, ELL, SLOT, regular(5, 4), regular(8, 4))] == [4, 0, 0, 5, 8]
    assert SLOT.slot == (pytest.approx(26), pytest.approx(6))
    assert SQUARE.slot is None
    assert SQUARE.rectangle == (10, 10, 0)
    assert ELL.rectangle is None
    assert SLOT.curved_slot is None


def test_the_box_is_the_smallest_whichever_way_it_lies() -> None:
    tilted = polygon((0, 0), (8, 6), (2, 14), (-6, 8))  # a square of 10, turned
    assert [outline.box for outline in (ELL, SLOT, tilted)] == [
        pytest.approx((30, 20)),
        pytest.approx((26, 6), abs=1e-3),
        pytest.approx((10, 10)),
    ]


@pytest.mark.parametrize(
    ("sides", "across"), [(6, 16 * math.cos(math.pi / 6)), (3, 12), (8, 16 * math.cos(math.pi / 8))]
)
def test_across_flats(sides: int, across: float) -> None:
    assert regular(sides, 8).across_flats == pytest.approx(across)
    assert ELL.across_flats == 0


def moved(outline: Outline, angle: float, shift: tuple[float, float]) -> Outline:
    turn = np.array([[math.cos(angle), -math.sin(angle)], [math.sin(angle), math.cos(angle)]])

    def carried(point: np.ndarray | None) -> np.ndarray | None:
        return None if point is None else turn @ point + shift

    return Outline(
        tuple(
            Segment(
                start=turn @ segment.start + shift,
                end=turn @ segment.end + shift,
                centre=carried(segment.centre),
                turn=segment.turn,
                is_tangent=segment.is_tangent,
            )
            for segment in outline.segments
        )
    )


@pytest.mark.parametrize("outline", [SQUARE, ELL, SLOT, BITTEN, regular(5, 9)])
def test_an_outline_is_like_itself_however_it_lies(outline: Outline) -> None:
    for angle in (0.3, 2.0, 4.5):
        assert greatest_deviation(moved(outline, angle, (40, -7)), outline) < 2e-3


def test_a_mirrored_outline_is_not_the_same() -> None:
    mirrored = polygon(*[(-x, y) for x, y in ((0, 20), (10, 20), (10, 10), (30, 10), (30, 0), (0, 0))])
    assert mirrored.area == pytest.approx(400)
    assert greatest_deviation(mirrored, ELL) > 3


@pytest.mark.parametrize(("size", "room"), [(9.4, 0.3), (10, 0), (10.5, -0.25)])
def test_room_a_side(size: float, room: float) -> None:
    peg = moved(polygon((0, 0), (size, 0), (size, size), (0, size)), 0.7, (3, 4))
    assert room_inside(peg, SQUARE) == pytest.approx(room, abs=0.11 if room < 0 else 1e-6)
