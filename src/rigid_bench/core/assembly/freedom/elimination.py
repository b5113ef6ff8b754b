"""What mates leave free, one mate after the other, by elimination.

Every instance's twist is kept as a matrix on free parameters. A mate makes some of them
follow from others, and these are put in where they were used; only what a mate touches is
worked on. The order of the mates is kept, so that each one's own share is known.
"""

import math
from collections.abc import Iterable

import numpy as np
from numpy.typing import NDArray

_Array = NDArray[np.float64]
#: A parameter that only one instance uses is made to follow where its entry is at least this large:
#: that keeps the others sparse. Smaller entries would blow up rounding.
_PRIVATE = 0.1
#: Entries below are rounding.
_DUST = 1e-14


class Elimination:
    """The twists of n instances on what is still free, while mates are added.

    Parameters
    ----------
    count
        Number of instances.
    held
        Indices of those that are grounded.
    rank
        Least pivot that counts as a constraint; rows are scaled so that entries are about one.

    Examples
    --------
    >>> state = Elimination(2, [0], rank=1e-6)
    >>> state.add(0, 1, np.zeros((2, 6)), np.eye(6)[[3, 3]])  # one slide held twice
    1
    >>> state.mobility, state.degrees(1), state.degrees(0)
    (5, 5, 0)
    """

    def __init__(self, count: int, held: Iterable[int], *, rank: float) -> None:
        self._rank = rank
        grounded = set(held)
        loose = [index for index in range(count) if index not in grounded]
        #: (n, 6, parameters): each instance's twist.
        self._twists = np.zeros((count, 6, 6 * len(loose)))
        #: (n, parameters): which instance uses which.
        self._uses = np.zeros((count, 6 * len(loose)), dtype=bool)
        for place, index in enumerate(loose):
            self._twists[index, :, 6 * place : 6 * place + 6] = np.eye(6)
            self._uses[index, 6 * place : 6 * place + 6] = True
        #: (parameters,): how many instances use each.
        self._users = self._uses.sum(axis=0)
        self._is_free = np.ones(6 * len(loose), dtype=bool)
        #: Degrees that were asked for, until the instance's twists change.
        self._degrees: dict[int, int] = {}

    @property
    def mobility(self) -> int:
        """How many parameters are still free."""
        return int(self._is_free.sum())

    def degrees(self, index: int) -> int:
        """Return the dimension of an instance's possible twists."""
        if index not in self._degrees:
            self._degrees[index] = rank_of(self._twists[index][:, self._uses[index] & self._is_free], self._rank)
        return self._degrees[index]

    def twists(self, index: int) -> _Array:
        """Return an instance's twists on the free parameters, (6, mobility)."""
        free_twists: _Array = self._twists[index][:, self._is_free]
        return free_twists

    def add(self, a: int, b: int, rows_a: _Array, rows_b: _Array) -> int:
        """Add one mate's rows on the twists of its two instances.

        Parameters
        ----------
        a, b
            Indices of the instances.
        rows_a, rows_b : (k, 6) float

        Returns
        -------
        int
            By how much the rank grew.
        """
        used = np.flatnonzero(self._uses[a] | self._uses[b])
        rows = rows_a @ self._twists[a][:, used] + rows_b @ self._twists[b][:, used]
        pivots = self._pivots(rows, self._users[used] == 1)
        if not len(pivots):
            return 0
        rest = np.delete(np.arange(len(used)), pivots)
        follows = _solved(rows[:, pivots], -rows[:, rest])
        follows[np.abs(follows) < _DUST] = 0.0
        entering = np.abs(follows).max(axis=0, initial=0.0) > 0
        self._put_in(used[pivots], used[rest[entering]], follows[:, entering])
        return len(pivots)

    def _pivots(self, rows: _Array, is_private: NDArray[np.bool_]) -> NDArray[np.intp]:
        """Choose the columns that follow from the others: those that nothing else uses first."""
        chosen: list[int] = []
        left = rows
        open_now = np.ones(rows.shape[1], dtype=bool)
        for allowed, least in ((is_private, _PRIVATE), (open_now, self._rank)):
            columns = np.flatnonzero(allowed & open_now)
            if not len(columns) or not len(left) or not left.size:
                continue
            taken, left = _pivoted(left, columns, least)
            chosen += taken
            open_now[taken] = False
        return np.array(chosen, dtype=np.intp)

    def _put_in(self, gone: NDArray[np.intp], rest: NDArray[np.intp], follows: _Array) -> None:
        """Replace parameters by what they follow from, wherever they are used."""
        users = np.flatnonzero(self._uses[:, gone].any(axis=1))
        for index in users.tolist():
            self._degrees.pop(index, None)
        block = self._twists[users]
        block[:, :, rest] += block[:, :, gone] @ follows
        block[:, :, gone] = 0.0
        self._twists[users] = block
        where = np.ix_(users, rest)
        self._users[rest] += (~self._uses[where]).sum(axis=0)
        self._uses[where] = True
        self._uses[:, gone] = False
        self._users[gone] = 0
        self._is_free[gone] = False


def _pivoted(rows: _Array, columns: NDArray[np.intp], least: float) -> tuple[list[int], _Array]:
    """Choose independent columns, the longest that is left first, and return the rows that are left.

    Householder reflections with column pivoting (Golub and Van Loan, Matrix Computations, 5.4): a mate has six rows at
    most, so that a handful of steps does, and a linear algebra library would take longer to load than to be spared.
    """
    chosen: list[int] = []
    left = rows
    while len(left):
        sizes = np.sqrt(np.einsum("ij,ij->j", left[:, columns], left[:, columns]))
        best = int(np.argmax(sizes))
        if sizes[best] <= least:
            break
        column = int(columns[best])
        mirror = left[:, column].copy()
        mirror[0] += math.copysign(float(sizes[best]), float(mirror[0]))
        left = (left - np.outer(mirror, (2 / (mirror @ mirror)) * (mirror @ left)))[1:]
        chosen.append(column)
    return chosen, left


def _solved(square: _Array, right: _Array) -> _Array:
    if square.shape[0] == square.shape[1]:
        return np.asarray(np.linalg.solve(square, right), dtype=float)
    return np.asarray(np.linalg.lstsq(square, right, rcond=None)[0], dtype=float)


def rank_of(twists: _Array, rank: float) -> int:
    """Return the dimension that twists, (6, k), span: singular values above `rank` count."""
    if twists.shape[1] == 0:
        return 0
    return int(np.sum(np.linalg.svd(twists, compute_uv=False) > rank))
