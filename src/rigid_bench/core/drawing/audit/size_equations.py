"""A drawing as equations among the sizes and places of a part's features, and the audit of them.

Needs no model of the part any more: what is said of one is told again from its equations, as often as it changes.
"""

import hashlib
import json
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.exercise.bundle import CheckModel
from rigid_bench.core.values.datums import Feature

_Array = NDArray[np.float64]
#: One equation among the unknowns, (n,).
Row = NDArray[np.float64]
#: A row that is nearer to the others' span than this share of its length adds nothing.
_NOTHING = 1e-7
#: Values that fix no size.
FIXES_NOTHING = ("assumed", "auxiliary")
#: Measures that are notes on a drawing and no sizes: how many walls a hole goes through.
_NOTES = ("pierces",)

Kind = Literal[
    "place", "slant", "radius", "depth", "rounding", "chamfer", "chamfer angle", "countersink angle", "shape"
]


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Unknown:
    """One thing that a drawing has to give."""

    kind: Kind
    feature: Feature
    #: (3,) the way in which the feature changes with it.
    direction: _Array
    #: mm2, of the feature's faces.
    area: float


@dataclass(frozen=True, slots=True, kw_only=True)
class CheckEquations:
    """What one check says."""

    #: Of a dimension; empty where its measure ties no single feature.
    rows: tuple[Row, ...]
    #: Said beside, without being dimensions of one feature.
    beside: tuple[Row, ...]
    #: It is the depth of a hole that opens at both ends: no dimension given twice.
    is_through: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class PartEquations:
    """All that is said of a part's n unknowns."""

    unknowns: tuple[Unknown, ...]
    #: (n, 6) what moves no feature against another.
    gauge: _Array
    #: What is drawn so, without a dimension.
    drawn: tuple[Row, ...]
    #: Roundings and chamfers of one size: one dimension says them all.
    alike: tuple[Row, ...]
    #: By `equation_key` of the check.
    said: Mapping[str, CheckEquations]


def equation_key(check: CheckModel) -> str:
    """Return by what the equations of a check are known: all of it on which they depend.

    Examples
    --------
    >>> size = {"id": "a", "title": "A", "kind": "dimension", "marks": 1, "part": "p", "measure": "extent", "axis": "x"}
    >>> one = CheckModel.model_validate({**size, "nominal": 4})
    >>> other = CheckModel.model_validate({**size, "nominal": 5, "title": "B"})
    >>> equation_key(one) == equation_key(other)
    True
    """
    given = check.model_dump(mode="json")
    said = {name: given.get(name) for name in ("part", "measure", "axis", "of", "between")}
    holes = [hole.get("diameter") for hole in given.get("holes") or [] if isinstance(hole, dict)]
    text = json.dumps([check.kind, said, holes if check.kind == "holes" else []], sort_keys=True)
    return hashlib.sha256(text.encode()).hexdigest()[:16]


@dataclass(frozen=True, slots=True, kw_only=True)
class Missing:
    """A size or place that no dimension gives."""

    unknown: Unknown
    #: (3,) the way in which the feature is free.
    direction: _Array


@dataclass(frozen=True, slots=True, kw_only=True)
class PartAudit:
    """What the dimensions of one part fix."""

    missing: tuple[Missing, ...]
    #: Ids of checks that say again what others say already.
    redundant: tuple[str, ...]
    #: Ids of checks whose measure ties no single feature, such as a volume.
    without_tie: tuple[str, ...]

    @property
    def complete(self) -> bool:
        """Every size and position follows from the dimensions."""
        return not self.missing


def audit_equations(equations: PartEquations, part_id: str, checks: Sequence[CheckModel]) -> PartAudit:
    """Say whether the dimensions of a part fix every size and position of it.

    Parameters
    ----------
    equations
        Of the part; they have those of all its checks.
    part_id
        The part.
    checks
        All checks of the exercise; those of other parts are passed over. A value that is *assumed* is not on
        the sheet, an *auxiliary* one follows from others: they fix nothing; one that is *free* needs no dimension.

    Raises
    ------
    KeyError
        A check of the part has no equations there.
    """
    known = Span(equations.gauge)
    for row in equations.drawn:
        known.add(row)
    redundant, without = [], []
    own = [(check, equations.said[equation_key(check)]) for check in checks if check.fields.get("part") == part_id]
    for check, said in own:
        if check.kind != "dimension" or check.fields.get("value") in FIXES_NOTHING:
            continue
        added = [known.add(row) for row in said.rows]
        if not added and check.fields.get("measure") not in _NOTES:
            without.append(check.id)
        elif added and not any(added) and not said.is_through:
            redundant.append(check.id)
    for row in [*(row for _check, said in own for row in said.beside), *equations.alike]:
        known.add(row)
    missing = tuple(_missing(equations.unknowns, known))
    return PartAudit(missing=missing, redundant=tuple(redundant), without_tie=tuple(without))


class Span:
    """The span of the rows so far, within what moves no feature against another."""

    def __init__(self, gauge: _Array) -> None:
        # columns of the gauge that are no motion of any feature are dropped
        keep = np.abs(gauge).sum(axis=0) > 0
        self.gauge = np.linalg.qr(gauge[:, keep])[0]
        self.basis = np.zeros((gauge.shape[0], 0))

    def add(self, row: Row) -> bool:
        """Take a row in; say whether it adds anything."""
        rest = row - self.gauge @ (self.gauge.T @ row)
        length = float(np.linalg.norm(row))
        if length == 0:
            return False
        for _ in range(2):  # twice is enough (W. Kahan, by B. Parlett, The Symmetric Eigenvalue Problem, 6.9)
            rest = rest - self.basis @ (self.basis.T @ rest)
        left = float(np.linalg.norm(rest))
        if left < _NOTHING * length:
            return False
        self.basis = np.column_stack([self.basis, rest / left])
        return True

    @property
    def is_full(self) -> bool:
        """Nothing is free any more."""
        return bool(self.gauge.shape[1] + self.basis.shape[1] == self.gauge.shape[0])

    def free(self) -> _Array:
        """Return the projection onto what is still free, (n, n)."""
        fixed = np.column_stack([self.gauge, self.basis])
        projection: _Array = np.eye(len(fixed)) - fixed @ fixed.T
        return projection


def _missing(unknowns: Sequence[Unknown], known: Span) -> list[Missing]:
    """Name one unknown for each way that is left free: the one that goes most with it, the smallest feature first."""
    missing: list[Missing] = []
    free = known.free()
    for _ in range(round(float(np.trace(free)))):
        share = np.sqrt(np.maximum(np.diag(free), 0.0))
        best = max(range(len(share)), key=lambda k: (round(float(share[k]), 3), -unknowns[k].area))
        missing.append(Missing(unknown=unknowns[best], direction=unknowns[best].direction))
        way = free[:, best] / share[best]
        free = free - np.outer(way, way)
    return missing
