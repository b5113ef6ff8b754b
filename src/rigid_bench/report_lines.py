"""Reports of the command line as lines to read."""

from collections.abc import Iterator
from typing import Any


def measure_lines(report: Any) -> Iterator[str]:
    """Say what was measured, part by part."""
    from rigid_bench.core.wording.features import feature_lines
    from rigid_bench.core.wording.saying import say

    yield f"{report.file}: {report.step_schema}, in {report.source_units}"
    for part in report.parts:
        sizes = " × ".join(f"{size:g}" for size in part.extents)
        yield f"{part.name} [{part.id}]: {sizes} mm, volume {part.volume:g} mm³, {'closed' if part.closed else 'open'}"
        for line in feature_lines(part, part.extents):
            yield f"  {say(line)}"
    for warning in report.warnings:
        yield f"Note: {warning}"


def freedom_lines(report: Any) -> Iterator[str]:
    """Say what can still move."""
    yield f"Mobility {report.mobility}; {report.equations} equations, rank {report.rank}"
    for name, instance in report.instances.items():
        kinds = ", ".join(motion.kind for motion in instance.motions) or "held"
        yield f"{name}: {instance.degrees} ({kinds})"
    for name in report.redundant_mates:
        yield f"Redundant: {name}"
    for conflict in report.conflicts:
        yield f"Does not hold: {conflict.mate}, {conflict.residual_mm:g} mm, {conflict.residual_deg:g}°"


def solve_lines(report: Any) -> Iterator[str]:
    """Say what moved, and what cannot hold."""
    yield "All mates hold" if report.satisfied else "The mates cannot all hold"
    if report.moved:
        yield f"Moved: {', '.join(report.moved)}"
    for mates in report.conflict_sets:
        yield f"These cannot hold together; drop or change one: {', '.join(mates)}"


def clearance_lines(report: Any) -> Iterator[str]:
    """Say pair by pair how far apart parts are."""
    for pair in report.pairs:
        overlap = f", overlap {pair.overlap_volume:g} mm³" if pair.overlap_volume else ""
        yield f"{pair.a} and {pair.b}: {pair.state}, gap {pair.gap:g} mm{overlap}"
    yield from (contact.text for contact in report.contacts)


def audit_lines(report: Any) -> Iterator[str]:
    """Say part by part what is missing and what is given twice."""
    for name, part in report.parts.items():
        yield f"{name}: {part.verdict}"
        yield from (f"  {missing.text}" for missing in part.missing)
        yield from (f"  Given twice: {redundant.check}" for redundant in part.redundant)
        if part.without_tie:
            yield f"  No feature is fixed by: {', '.join(part.without_tie)}"


def grade_lines(report: Any) -> Iterator[str]:
    """Say check by check what was found."""
    for check in report.checks:
        marks = f"{check.awarded:g}/{check.available:g}"
        yield f"{check.verdict:9} {marks}  {check.title}: {check.required}; {check.measured}"
        if check.cause:
            yield f"          {check.cause.text}"
        if check.next_step:
            yield f"          {check.next_step}"
    if any(check.caps_at is not None for check in report.checks):
        yield f"At most {min(check.caps_at for check in report.checks if check.caps_at is not None):g} % of the marks."
    yield f"{report.awarded:g} of {report.available:g} marks, {report.percent:g} %; stage: {report.stage or 'none yet'}"
