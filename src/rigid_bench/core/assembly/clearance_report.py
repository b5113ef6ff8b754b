"""The clearance report: gaps and overlaps of a build or a STEP assembly, in the published format."""

from collections.abc import Sequence

from rigid_bench.core.assembly.clearance import Clearance
from rigid_bench.core.documents import Document


class PairReport(Document):
    """Two instances and how they stand to each other; mm and mm3."""

    a: str
    b: str
    gap: float
    overlap_volume: float
    state: str
    at: list[list[float]]


class ClearanceReport(Document):
    """All pairs, nearest first, as in `docs/schemas/clearance-report.json`."""

    pairs: list[PairReport]
    warnings: list[str] = []


def clearance_report(found: Sequence[Clearance], *, warnings: Sequence[str] = ()) -> ClearanceReport:
    """Write measured pairs as the published format does."""
    pairs = [
        PairReport(
            a=each.a,
            b=each.b,
            gap=round(each.gap_mm, 6) + 0.0,
            overlap_volume=round(each.overlap_mm3, 6),
            state=each.state,
            at=[[round(float(value), 6) + 0.0 for value in point] for point in each.at],
        )
        for each in found
    ]
    return ClearanceReport(pairs=pairs, warnings=list(warnings))
