"""Which of some flat pieces lies before which: a binary space partition.

After H. Fuchs, Z. Kedem and B. Naylor, On visible surface generation by a priori tree structures, 1980 (from memory):
every piece's plane parts the others in those before and those behind it; what it crosses is cut in two.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

_Array = NDArray[np.float64]
#: mm: a corner so near to a plane lies in it.
_IN_PLANE = 1e-6


@dataclass(frozen=True, slots=True, eq=False)
class Piece:
    """A convex flat piece that looks towards the eye."""

    #: (n, 3) mm, around it.
    corners: _Array
    #: Which of its sides, from each corner to the next, are edges of the body and no cuts.
    edges: tuple[bool, ...]
    #: Whose it is, and how it is drawn.
    body: str
    kind: str


def from_back_to_front(pieces: Sequence[Piece], toward: _Array) -> Iterator[Piece]:
    """Yield pieces, cut where they must be, so that each lies before those that came earlier.

    Parameters
    ----------
    pieces
        All that look towards the eye.
    toward
        (3,) towards the eye, which is far away.
    """
    waiting: list[tuple[str, Sequence[Piece]]] = [("part", pieces)]
    while waiting:
        what, group = waiting.pop()
        if what == "draw" or len(group) == 1:
            yield from group
            continue
        if not group:
            continue
        first = group[0]
        normal = _normal(first)
        level = float(normal @ first.corners[0])
        behind: list[Piece] = []
        before: list[Piece] = []
        level_with = [first]
        for piece in group[1:]:
            sides = piece.corners @ normal - level
            if np.all(np.abs(sides) < _IN_PLANE):
                level_with.append(piece)
            elif np.all(sides > -_IN_PLANE):
                before.append(piece)
            elif np.all(sides < _IN_PLANE):
                behind.append(piece)
            else:
                before += _cut(piece, sides)
                behind += _cut(piece, -sides)
        if float(normal @ toward) < 0:
            before, behind = behind, before
        waiting += [("part", before), ("draw", level_with), ("part", behind)]


def _normal(piece: Piece) -> _Array:
    """Return the way a piece looks, by Newell's sum: its corners may lie in a line here and there."""
    after = np.roll(piece.corners, -1, axis=0)
    normal: _Array = np.cross(piece.corners, after).sum(axis=0)
    return normal / np.linalg.norm(normal)


def _cut(piece: Piece, sides: _Array) -> list[Piece]:
    """Return what of a piece lies where `sides` is positive; where it is cut is no edge."""
    corners: list[_Array] = []
    edges: list[bool] = []
    count = len(sides)
    for k in range(count):
        here, there = sides[k], sides[(k + 1) % count]
        a, b = piece.corners[k], piece.corners[(k + 1) % count]
        if here >= 0:
            corners.append(a)
            edges.append(piece.edges[k])
        if (here >= 0) != (there >= 0):
            corners.append(a + (b - a) * (here / (here - there)))
            edges.append(piece.edges[k] if here < 0 else False)
    return [replace(piece, corners=np.array(corners), edges=tuple(edges))] if len(corners) > 2 else []
