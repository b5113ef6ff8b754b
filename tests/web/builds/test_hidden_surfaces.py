"""What is drawn later lies nearer: checked by looking along rays at the pieces themselves."""

import numpy as np
import pytest
from numpy.typing import NDArray

from rigid_bench.web.figures.hidden_surfaces import Piece, from_back_to_front

_SQUARE = np.array([[-1.0, -1, 0], [1, -1, 0], [1, 1, 0], [-1, 1, 0]])
EYE = np.array([0.0, 0.0, 1.0])


def piece(body: str, corners: NDArray[np.float64]) -> Piece:
    return Piece(corners=corners, edges=(True,) * len(corners), body=body, kind="plain")


def scattered(seed: int, count: int) -> list[Piece]:
    """Squares of all sizes, turned anyhow, that look up; many cut each other."""
    chance = np.random.default_rng(seed)
    pieces = []
    for number in range(count):
        turn = np.linalg.qr(chance.normal(size=(3, 3)))[0]
        turn = turn if np.linalg.det(turn) > 0 else -turn
        corners = chance.uniform(0.3, 1.5) * _SQUARE @ turn.T + chance.uniform(-2, 2, 3)
        if np.cross(corners[1] - corners[0], corners[2] - corners[0]) @ EYE < 0:
            corners = corners[::-1]
        pieces.append(piece(str(number), corners))
    return pieces


def height(of: Piece, x: float, y: float) -> float | None:
    """Return how high a convex piece lies above a place, None where it does not."""
    along, toward = np.roll(of.corners, -1, axis=0) - of.corners, np.array([x, y, 0]) - of.corners
    sides = along[:, 0] * toward[:, 1] - along[:, 1] * toward[:, 0]
    if not (np.all(sides > 1e-9) or np.all(sides < -1e-9)):
        return None
    normal = np.cross(of.corners[1] - of.corners[0], of.corners[2] - of.corners[0])
    if abs(normal[2]) < 1e-9:
        return None
    return float(
        of.corners[0, 2] - ((x - of.corners[0, 0]) * normal[0] + (y - of.corners[0, 1]) * normal[1]) / normal[2]
    )


@pytest.mark.parametrize("seed", range(6))
def test_what_is_drawn_last_at_a_place_is_what_the_eye_sees_there(seed: int) -> None:
    pieces = scattered(seed, 14)
    drawn = list(from_back_to_front(pieces, EYE))
    compared = 0
    for x, y in np.random.default_rng(seed + 100).uniform(-3, 3, (400, 2)):
        heights = [(above, own.body) for own in pieces if (above := height(own, x, y)) is not None]
        last = [own.body for own in drawn if height(own, x, y) is not None]
        if len(heights) > 1 and last and sorted(heights)[-1][0] - sorted(heights)[-2][0] > 1e-6:
            compared += 1
            assert last[-1] == max(heights)[1]
    assert compared > 20


@pytest.mark.parametrize("seed", range(3))
def test_nothing_is_lost_and_cuts_are_no_edges(seed: int) -> None:
    pieces = scattered(seed, 10)
    drawn = list(from_back_to_front(pieces, EYE))
    for own in pieces:
        cut = [other for other in drawn if other.body == own.body]
        assert sum(_area(other) for other in cut) == pytest.approx(_area(own), rel=1e-6)
        drawn_edges = sum(_edge_length(other) for other in cut)
        assert drawn_edges == pytest.approx(_edge_length(own), rel=1e-6)
    assert len(drawn) > len(pieces)


def _area(of: Piece) -> float:
    return float(np.linalg.norm(np.cross(of.corners, np.roll(of.corners, -1, axis=0)).sum(axis=0))) / 2


def _edge_length(of: Piece) -> float:
    lengths = np.linalg.norm(np.roll(of.corners, -1, axis=0) - of.corners, axis=1)
    return float(lengths[np.array(of.edges)].sum())
