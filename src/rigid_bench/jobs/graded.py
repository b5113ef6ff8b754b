"""What grading a build gives: the report, and what the comparison in 3D shows."""

from dataclasses import dataclass

from rigid_bench.core.grading.report.models import Report


@dataclass(frozen=True, slots=True, kw_only=True)
class Graded:
    """A report with its scene."""

    report: Report
    #: Gzipped JSON, or None where there is no shape to show.
    scene: bytes | None
