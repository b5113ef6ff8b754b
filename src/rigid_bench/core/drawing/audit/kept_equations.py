"""The equations of a part as they are kept: an audit is made again from them without its model."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.drawing.audit.size_equations import CheckEquations, Kind, PartEquations, Row, Unknown
from rigid_bench.core.formats.documents import Document, FeatureModel, feature_model

#: The numbers of a row that are not 0, by place.
SparseRow = dict[int, float]


class KeptUnknown(Document):
    """One thing that a drawing has to give; the feature in the exercise's unit."""

    kind: Kind
    feature: FeatureModel
    direction: list[float]
    area: float


class KeptCheck(Document):
    """What one check says."""

    rows: list[SparseRow]
    beside: list[SparseRow]
    is_through: bool


class KeptEquations(Document):
    """All that is said of a part."""

    unknowns: list[KeptUnknown]
    #: Its columns.
    gauge: list[SparseRow]
    drawn: list[SparseRow]
    alike: list[SparseRow]
    said: dict[str, KeptCheck]

    def equations(self, mm: float) -> PartEquations:
        """Return them as they are worked with; `mm` are millimetres in the exercise's unit."""
        count = len(self.unknowns)
        gauge = _rows(self.gauge, count)
        return PartEquations(
            unknowns=tuple(
                Unknown(
                    kind=own.kind, feature=own.feature.feature(mm=mm), direction=np.array(own.direction), area=own.area
                )
                for own in self.unknowns
            ),
            gauge=np.array(gauge).reshape(len(gauge), count).T,
            drawn=_rows(self.drawn, count),
            alike=_rows(self.alike, count),
            said={
                key: CheckEquations(
                    rows=_rows(own.rows, count), beside=_rows(own.beside, count), is_through=own.is_through
                )
                for key, own in self.said.items()
            },
        )


def kept(equations: PartEquations, mm: float) -> KeptEquations:
    """Write equations as they are kept; `mm` are millimetres in the exercise's unit."""
    return KeptEquations(
        unknowns=[
            KeptUnknown(
                kind=own.kind,
                feature=feature_model(own.feature, mm=mm),
                direction=[float(coordinate) for coordinate in own.direction],
                area=own.area,
            )
            for own in equations.unknowns
        ],
        gauge=_sparse(equations.gauge.T),
        drawn=_sparse(equations.drawn),
        alike=_sparse(equations.alike),
        said={
            key: KeptCheck(rows=_sparse(own.rows), beside=_sparse(own.beside), is_through=own.is_through)
            for key, own in equations.said.items()
        },
    )


def _sparse(rows: Sequence[Row] | NDArray[np.float64]) -> list[SparseRow]:
    return [{int(place): float(row[place]) for place in np.flatnonzero(row)} for row in rows]


def _rows(sparse: Sequence[SparseRow], count: int) -> tuple[Row, ...]:
    rows = []
    for numbers in sparse:
        row = np.zeros(count)
        row[list(numbers)] = list(numbers.values())
        rows.append(row)
    return tuple(rows)
