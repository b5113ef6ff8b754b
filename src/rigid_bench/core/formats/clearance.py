"""The clearance report, in the published format."""

from typing import Literal

from rigid_bench.core.formats.documents import Document


class PairReport(Document):
    """Two instances and how they stand to each other; mm and mm3."""

    a: str
    b: str
    gap: float
    overlap_volume: float
    state: str
    at: list[list[float]]


class ContactReport(Document):
    """Two instances whose faces or axes stand as a mate would make them; a candidate mate."""

    a: str
    b: str
    kind: Literal["meet", "level", "seated", "in line"]
    #: mm; below 0 where they overlap.
    gap: float
    text: str


class ClearanceReport(Document):
    """All pairs, nearest first, as in `docs/schemas/clearance-report.json`."""

    pairs: list[PairReport]
    #: What the geometry shows of relations, without any declared mate.
    contacts: list[ContactReport] = []
    warnings: list[str] = []
