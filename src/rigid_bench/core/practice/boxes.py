"""Parts made of blocks along the axes: what they look like from a side, and which way they can be lifted out."""

import random
from collections.abc import Mapping, Sequence

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.part.directions import SQUARE_VIEWS, axes_of

_Array = NDArray[np.float64]
#: Least and greatest corner, in whole units.
Box = tuple[tuple[int, int, int], tuple[int, int, int]]


def seen_lines(boxes: Sequence[Box], view: str) -> list[list[list[float]]]:
    """Draw what is seen of a union of blocks from one of the square views; edges that are hidden are left out.

    Parameters
    ----------
    boxes
        Blocks with whole corners.
    view
        A name of `SQUARE_VIEWS`.

    Returns
    -------
    list of polylines
        Straight lines in the view's plane, x to the right, y up, from its least corner: between two cells a line
        is drawn where what is seen lies at two depths, or at the border of what is seen.
    """
    right, up, toward = axes_of(SQUARE_VIEWS[view]).round().astype(int)
    solid = [
        tuple(sorted((np.array(low) @ way, np.array(high) @ way)) for way in (right, up, toward)) for low, high in boxes
    ]
    least = [min(box[k][0] for box in solid) for k in range(2)]
    size = [max(box[k][1] for box in solid) - least[k] for k in range(2)]
    depth = np.full((size[0] + 2, size[1] + 2), -np.inf)  # a border of nothing all round
    for x, y, z in solid:
        cells = depth[x[0] - least[0] + 1 : x[1] - least[0] + 1, y[0] - least[1] + 1 : y[1] - least[1] + 1]
        np.maximum(cells, z[1], out=cells)
    upright = depth[1:, 1:-1] != depth[:-1, 1:-1]
    level = depth[1:-1, 1:] != depth[1:-1, :-1]
    lines = [[[x, a], [x, b]] for x, column in enumerate(upright) for a, b in _runs(column)]
    lines += [[[a, y], [b, y]] for y, row in enumerate(level.T) for a, b in _runs(row)]
    return [[[float(value) for value in place] for place in line] for line in lines]


def _runs(flags: NDArray[np.bool_]) -> list[tuple[int, int]]:
    """Return from where to where flags stand in a row."""
    edges = np.flatnonzero(np.diff(np.concatenate([[0], flags.astype(int), [0]])))
    return list(zip(edges[::2].tolist(), edges[1::2].tolist(), strict=True))


def stepped_part(chance: random.Random) -> list[Box]:
    """Draw by lot a block with steps on it, which looks another from every side."""
    wide, deep, low = chance.randint(6, 9), chance.randint(4, 6), chance.randint(2, 3)
    first = chance.randint(2, wide - 3)
    tower = (0, 0, low), (first, chance.randint(2, deep - 1), low + chance.randint(2, 4))
    x = chance.randint(first + 1, wide - 1)
    step = (x, chance.randint(1, deep - 2), low), (wide, deep, low + 1)
    return [((0, 0, 0), (wide, deep, low)), tower, step]


def way_out(parts: Mapping[str, Sequence[Box]], name: str) -> list[str]:
    """Return along which of the six directions a part leaves the others, straight and for good.

    Examples
    --------
    >>> lid, box = [((0, 0, 4), (6, 6, 5))], [((0, 0, 0), (6, 6, 4))]
    >>> way_out({"lid": lid, "box": box}, "box")
    ['-x', '+x', '-y', '+y', '-z']
    """
    others = [box for other, boxes in parts.items() if other != name for box in boxes]
    ways = []
    for axis in range(3):
        for sign, word in ((-1, "-"), (1, "+")):
            if not any(_meets(box, other, axis, sign) for box in parts[name] for other in others):
                ways.append(f"{word}{'xyz'[axis]}")
    return ways


def _meets(box: Box, other: Box, axis: int, sign: int) -> bool:
    """Say whether a block that goes along an axis meets another on its way."""
    across = [k for k in range(3) if k != axis]
    if any(box[1][k] <= other[0][k] or other[1][k] <= box[0][k] for k in across):
        return False
    return other[1][axis] > box[0][axis] if sign > 0 else other[0][axis] < box[1][axis]
