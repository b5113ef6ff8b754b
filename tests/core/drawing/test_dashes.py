"""Broken lines begin, end, meet and cross in dashes (ISO 128-2, from memory)."""

import itertools
import math

import pytest

from rigid_bench.core.drawing.report import LineKind
from rigid_bench.core.drawing.writers.dashes import Dashes, dashed


def is_ink(dashes: Dashes | None, at: float) -> bool:
    """Say whether a piece of line shows at a length from its beginning."""
    if dashes is None:
        return True
    at = (at + dashes.offset) % sum(dashes.pattern)
    for number, part in enumerate(dashes.pattern):
        if at < part:
            return number % 2 == 0
        at -= part
    return False


@pytest.mark.parametrize("kind", ["hidden", "centre", "cutting", "phantom", "trail"])
@pytest.mark.parametrize("length", [0.8, 2.5, 4.0, 7.3, 11.0, 19.9, 40.0, 133.7, 280.0])
def test_a_line_begins_and_ends_with_a_dash_that_is_whole(kind: LineKind, length: float) -> None:
    ((_, dashes),) = dashed(kind, [[5, 5], [5 + length, 5]])
    assert is_ink(dashes, 0.0)
    assert is_ink(dashes, length - 0.01)
    if dashes is None:
        assert kind not in ("hidden", "phantom") or length <= 1
        return
    dash = dashes.pattern[0]
    periods = (length - dash) / sum(dashes.pattern)
    assert periods == pytest.approx(round(periods), abs=0.01)
    assert all(is_ink(dashes, length - share * dash) for share in (0.1, 0.5, 0.9))


@pytest.mark.parametrize("length", [4.0, 9.0, 14.0, 23.0, 61.0, 120.0])
def test_centre_lines_cross_in_dashes(length: float) -> None:
    ((_, dashes),) = dashed("centre", [[0, 0], [length, 0]])
    assert all(is_ink(dashes, length / 2 + off) for off in (-0.2, 0.0, 0.2))


def test_a_pitch_circle_is_crossed_in_dashes_at_its_quarters() -> None:
    circle = [[30 * math.cos(math.tau * k / 96), 30 * math.sin(math.tau * k / 96)] for k in range(97)]
    ((points, dashes),) = dashed("pitch", circle)
    round_it = sum(math.dist(a, b) for a, b in itertools.pairwise(points))
    assert dashes is not None
    for quarter in range(4):
        assert all(is_ink(dashes, (round_it * quarter / 4 + off) % round_it) for off in (-0.2, 0.0, 0.2))


def test_hidden_lines_meet_in_dashes_at_their_corners() -> None:
    corner = [[0.0, 0.0], [13.0, 0.0], [13.0, 8.0], [0.0, 8.0]]
    pieces = list(dashed("hidden", corner))
    assert [points for points, _ in pieces] == [corner[0:2], corner[1:3], corner[2:4]]
    assert all(is_ink(dashes, 0.0) and is_ink(dashes, math.dist(*points) - 0.01) for points, dashes in pieces)


def test_what_is_visible_is_drawn_through() -> None:
    assert list(dashed("outline", [[0, 0], [50, 0], [50, 50]])) == [([[0, 0], [50, 0], [50, 50]], None)]
