"""What an audit found, as pages and the published format have it."""

from rigid_bench.core.formats.documents import Document, FeatureModel


class MissingReport(Document):
    """A size or place that no dimension gives; features in the exercise's unit."""

    feature: FeatureModel
    #: The way in which the feature is free.
    direction: list[float]
    text: str


class RedundantReport(Document):
    """A dimension that says again what others say already."""

    check: str


class PartAuditReport(Document):
    """The verdict over one part's dimensions."""

    complete: bool
    #: "rigid", "loose in 2 ways", "dimensioned twice", or both.
    verdict: str
    missing: list[MissingReport]
    redundant: list[RedundantReport]
    #: Checks whose measure fixes no single feature, such as a volume.
    without_tie: list[str] = []


class AuditReport(Document):
    """As in `docs/schemas/audit-report.json`: the parts that students make, by id."""

    parts: dict[str, PartAuditReport]
