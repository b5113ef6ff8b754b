"""What a whole build's mates leave free, worked out loop by loop.

Instances that hang together by one instance alone do not share equations, so the build is
split there (its biconnected components), and each block is worked out with its root held.
A chain costs as much as its links, however long it is.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.assembly.freedom.biconnected import biconnected
from rigid_bench.core.assembly.freedom.elimination import Elimination
from rigid_bench.core.assembly.mates.system import System
from rigid_bench.core.formats.build import Mate
from rigid_bench.core.values.frames import Pose, cross_matrix

_Array = NDArray[np.float64]
#: Stands for all grounded instances.
_GROUND = -1
Rows = tuple[_Array, _Array]


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class _Block:
    """Instances that loops hold together, and the one through which they hang on the rest."""

    root: int
    members: tuple[int, ...]
    free: Elimination
    #: Its equations are independent: none says again what others say, be it here alone.
    is_regular: bool


class Free:
    """What the mates of a build leave free where its instances stand.

    Parameters
    ----------
    system
        The mates.
    poses
        Where the instances stand.
    rows
        Those of each mate on its two instances, (k, 6) each, as `System.rows` gives them.
    """

    def __init__(self, system: System, poses: Sequence[Pose], rows: Sequence[Rows]) -> None:
        self._rank, self._count = system.tolerance.rank, len(poses)
        self._lengths = system.lengths
        self._middles = np.array([pose.point(middle) for pose, middle in zip(poses, system.middles, strict=True)])
        self._held = set(system.held)
        #: Mates that add no rank, in file order.
        self.useless: tuple[Mate, ...] = ()
        self._blocks = self._eliminated(system, poses, rows)
        self._doubtful = [block for block in self._blocks if not block.is_regular]
        hung = {index for block in self._blocks for index in block.members} | self._held
        #: Instances that nothing holds and that others hang on, or that have no mate at all.
        self._loose = [index for index in range(self._count) if index not in hung]

    def _eliminated(self, system: System, poses: Sequence[Pose], rows: Sequence[Rows]) -> list[_Block]:
        loose = [index for index in range(self._count) if index not in self._held]
        ends = [(self._end(mate.a), self._end(mate.b)) for mate in system.mates]
        order = _hanging([_GROUND, *loose], [pair for pair in ends if pair[0] != pair[1]])
        place = {member: number for number, (_, members) in enumerate(order) for member in members}
        states, places = [], []
        for root, members in order:
            nodes = [root, *members]
            states.append(Elimination(len(nodes), [0], rank=self._rank))
            places.append({node: k for k, node in enumerate(nodes)})
        useless, dependent = [], set[int]()
        for mate, (a, b), (rows_a, rows_b) in zip(system.mates, ends, rows, strict=True):
            # an edge lies in the block of whichever of its ends hangs lower
            number = max(place.get(a, -1), place.get(b, -1))
            gained = 0 if a == b else states[number].add(places[number][a], places[number][b], rows_a, rows_b)
            if not gained:
                useless.append(mate)
            if gained < len(rows_a) or any(own.is_singular for own in system.mate_equations(mate, poses)):
                dependent.add(number)
        self.useless = tuple(useless)
        return [
            _Block(root=root, members=tuple(members), free=state, is_regular=number not in dependent)
            for number, ((root, members), state) in enumerate(zip(order, states, strict=True))
        ]

    def _end(self, index: int) -> int:
        return _GROUND if index in self._held else index

    @property
    def mobility(self) -> int:
        """How many independent motions the build has; six for each part of it that nothing holds."""
        return sum(block.free.mobility for block in self._blocks) + 6 * len(self._loose)

    def is_regular(self, moving: frozenset[int] | None = None) -> bool:
        """Say whether every motion of some instances, or of any, carries on: the loops they are in are closed once.

        Where as many equations hold a loop as take motions from it, the ways in which it can stand are a smooth space
        of the dimension of its motions (the implicit function theorem). Where equations depend on each other, be it
        here alone, a motion may end where it begins.
        """
        if not self._doubtful:
            return True
        return moving is not None and all(moving.isdisjoint(block.members) for block in self._doubtful)

    def spans(self) -> list[_Array]:
        """Return an orthonormal basis of each instance's possible twists, (6, d), in the system's scaled measure."""
        spans = {_GROUND: np.zeros((6, 0)), **{index: np.eye(6) for index in self._loose}}
        for block in self._blocks:
            for member, own in self._own(block):
                spans[member] = _spanned(
                    np.hstack([self._carried(spans[block.root], block.root, member), own]), self._rank
                )
        return [spans[_GROUND if index in self._held else index] for index in range(self._count)]

    def velocities(self) -> _Array:
        """Return a basis of all possible twists, (6 n, mobility), in the system's scaled measure."""
        twists = np.zeros((self._count + 1, 6, self.mobility))  # the last one stands for the ground
        column = 0
        for index in self._loose:
            twists[index, :, column : column + 6] = np.eye(6)
            column += 6
        for block in self._blocks:
            width = block.free.mobility
            for member, own in self._own(block):
                twists[member] = self._carried(twists[block.root], block.root, member)
                twists[member, :, column : column + width] += own
            column += width
        return twists[: self._count].reshape(6 * self._count, -1)

    def _own(self, block: _Block) -> list[tuple[int, _Array]]:
        """List the members of a block with their twists while its root is held."""
        return [(member, block.free.twists(k)) for k, member in enumerate(block.members, 1)]

    def _carried(self, twists: _Array, root: int, member: int) -> _Array:
        """Return the twists that an instance has when it moves along with another, both scaled."""
        if root == _GROUND:
            return twists
        turning = twists[:3] / self._lengths[root]
        arm = self._middles[member] - self._middles[root]
        shift = twists[3:] - cross_matrix(arm) @ turning
        return np.vstack([turning * self._lengths[member], shift])


def _hanging(nodes: Sequence[int], pairs: Sequence[tuple[int, int]]) -> list[tuple[int, list[int]]]:
    """List the blocks from the ground outwards: the root of each, and what hangs on it."""
    blocks = biconnected(nodes, pairs)
    at: dict[int, list[int]] = {}
    for number, block in enumerate(blocks):
        for node in block:
            at.setdefault(node, []).append(number)
    hanging, seen = [], set[int]()
    # the ground first; then the first instance of each part of the build that nothing holds
    for start in sorted(nodes):
        queue = [start]
        while queue:
            root = queue.pop()
            for number in at.get(root, []):
                if number not in seen:
                    seen.add(number)
                    members = sorted(blocks[number] - {root})
                    hanging.append((root, members))
                    queue += members
    return hanging


def _spanned(twists: _Array, rank: float) -> _Array:
    """Return an orthonormal basis of the span, (6, d)."""
    if twists.shape[1] == 0:
        return twists
    left, sizes, _ = np.linalg.svd(twists, full_matrices=False)
    basis: _Array = left[:, sizes > rank]
    return basis
