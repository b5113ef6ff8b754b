"""What looking at a build and grading it give: what is said of it, and what is shown in 3D."""

from dataclasses import dataclass

from rigid_bench.core.formats.preview import Preview
from rigid_bench.core.grading.report.models import Report


@dataclass(frozen=True, slots=True, kw_only=True)
class Graded:
    """A report with its scene."""

    report: Report
    #: Gzipped JSON, or None where there is no shape to show.
    scene: bytes | None


@dataclass(frozen=True, slots=True, kw_only=True)
class Previewed:
    """What was understood of a build that does not count yet, with its scene."""

    preview: Preview
    #: Gzipped JSON, or None where there is no shape to show.
    scene: bytes | None
