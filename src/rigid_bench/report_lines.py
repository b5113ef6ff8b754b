"""Reports of the command line as lines to read; verdicts, states and kinds of motion are the words of the formats."""

from collections.abc import Iterator
from typing import Any

from rigid_bench.core.wording.language import _


def measure_lines(report: Any) -> Iterator[str]:
    """Say what was measured, part by part."""
    from rigid_bench.core.wording.features import feature_lines
    from rigid_bench.core.wording.saying import say

    yield _("{file}: {schema}, in {unit}", file=report.file, schema=report.step_schema, unit=report.source_units)
    for part in report.parts:
        sizes = " × ".join(f"{size:g}" for size in part.extents)
        yield _(
            "{name} [{id}]: {sizes} mm, volume {volume:g} mm³, {state}",
            name=part.name,
            id=part.id,
            sizes=sizes,
            volume=part.volume,
            state=_("closed") if part.closed else _("open"),
        )
        for line in feature_lines(part, part.extents):
            yield f"  {say(line)}"
    for warning in report.warnings:
        yield _("Note: {warning}", warning=warning)


def freedom_lines(report: Any) -> Iterator[str]:
    """Say what can still move."""
    yield _(
        "Mobility {mobility}; {equations} equations, rank {rank}",
        mobility=report.mobility,
        equations=report.equations,
        rank=report.rank,
    )
    for name, instance in report.instances.items():
        kinds = ", ".join(motion.kind for motion in instance.motions) or _("held")
        yield f"{name}: {instance.degrees} ({kinds})"
    for name in report.redundant_mates:
        yield _("Redundant: {mate}", mate=name)
    for conflict in report.conflicts:
        yield _(
            "Does not hold: {mate}, {mm:g} mm, {degrees:g}°",
            mate=conflict.mate,
            mm=conflict.residual_mm,
            degrees=conflict.residual_deg,
        )


def solve_lines(report: Any) -> Iterator[str]:
    """Say what moved, and what cannot hold."""
    yield _("All mates hold") if report.satisfied else _("The mates cannot all hold")
    if report.moved:
        yield _("Moved: {instances}", instances=", ".join(report.moved))
    for mates in report.conflict_sets:
        yield _("These cannot hold together; drop or change one: {mates}", mates=", ".join(mates))


def clearance_lines(report: Any) -> Iterator[str]:
    """Say pair by pair how far apart parts are."""
    for pair in report.pairs:
        given = {"a": pair.a, "b": pair.b, "state": pair.state, "gap": pair.gap}
        if pair.overlap_volume:
            yield _("{a} and {b}: {state}, gap {gap:g} mm, overlap {volume:g} mm³", volume=pair.overlap_volume, **given)
        else:
            yield _("{a} and {b}: {state}, gap {gap:g} mm", **given)
    yield from (contact.text for contact in report.contacts)


def audit_lines(report: Any) -> Iterator[str]:
    """Say part by part what is missing and what is given twice."""
    for name, part in report.parts.items():
        yield f"{name}: {part.verdict}"
        yield from (f"  {missing.text}" for missing in part.missing)
        for redundant in part.redundant:
            yield "  " + _("Given twice: {check}", check=redundant.check)
        if part.without_tie:
            yield "  " + _("No feature is fixed by: {checks}", checks=", ".join(part.without_tie))


def grade_lines(report: Any) -> Iterator[str]:
    """Say check by check what was found."""
    for check in report.checks:
        marks = f"{check.awarded:g}/{check.available:g}"
        yield f"{check.verdict:9} {marks}  {check.title}: {check.required}; {check.measured}"
        if check.cause:
            yield f"          {check.cause.text}"
        if check.next_step:
            yield f"          {check.next_step}"
    caps = [check.caps_at for check in report.checks if check.caps_at is not None]
    if caps:
        yield _("At most {percent:g} % of the marks.", percent=min(caps))
    yield _(
        "{awarded:g} of {available:g} marks, {percent:g} %; stage: {stage}",
        awarded=report.awarded,
        available=report.available,
        percent=report.percent,
        stage=report.stage or _("none yet"),
    )
