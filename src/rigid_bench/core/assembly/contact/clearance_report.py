"""The clearance report: gaps and overlaps of a build or a STEP assembly, in the published format."""

from collections.abc import Sequence

from rigid_bench.core.assembly.contact.clearance import Clearance
from rigid_bench.core.assembly.contact.contacts import Contact
from rigid_bench.core.formats.clearance import ClearanceReport, ContactReport, PairReport
from rigid_bench.core.wording.contacts import contact_words


def clearance_report(
    found: Sequence[Clearance],
    *,
    contacts: Sequence[Contact] = (),
    instances: Sequence[str] = (),
    warnings: Sequence[str] = (),
) -> ClearanceReport:
    """Write measured pairs, and the contacts between instances, as the published format does."""
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
    touching = [
        ContactReport(a=a, b=b, kind=each.kind, gap=round(each.gap_mm, 6) + 0.0, text=contact_words(each, a, b))
        for each in contacts
        for a, b in [(instances[each.a], instances[each.b])]
    ]
    return ClearanceReport(pairs=pairs, contacts=touching, warnings=list(warnings))
