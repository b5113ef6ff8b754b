"""What the sandbox gives back: builds looked at and graded, exercises after a change of sizes."""

from dataclasses import dataclass

from rigid_bench.core.exercise.change_impact.models import ChangedPart, TouchedCheck
from rigid_bench.core.exercise.review.examined import Examined
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


@dataclass(frozen=True, slots=True, kw_only=True)
class Impact:
    """An exercise after a change of sizes, and what the change touches in it."""

    files: dict[str, bytes]
    #: By part id.
    parts: dict[str, ChangedPart]
    #: Parts that are joined to what was changed.
    joined: list[str]
    checks: list[TouchedCheck]
    examined: Examined
