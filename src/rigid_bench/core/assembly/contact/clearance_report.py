"""The clearance report: gaps and overlaps of a build or a STEP assembly, in the published format."""

from collections.abc import Sequence

from rigid_bench.core.assembly.contact.clearance import Clearance
from rigid_bench.core.assembly.contact.contacts import Contact
from rigid_bench.core.formats.clearance import ClearanceReport, ContactReport, PairReport
from rigid_bench.core.wording.contacts import contact_words


def clearance_report(
    clearances: Sequence[Clearance],
    *,
    contacts: Sequence[Contact] = (),
    instances: Sequence[str] = (),
    warnings: Sequence[str] = (),
) -> ClearanceReport:
    """Write measured pairs, and the contacts between instances, as the published format does."""
    pairs = [
        PairReport(
            a=clearance.a,
            b=clearance.b,
            gap=round(clearance.gap_mm, 6) + 0.0,
            overlap_volume=round(clearance.overlap_mm3, 6),
            state=clearance.state,
            at=[[round(float(value), 6) + 0.0 for value in point] for point in clearance.at],
        )
        for clearance in clearances
    ]
    touching = [
        ContactReport(
            a=a, b=b, kind=contact.kind, gap=round(contact.gap_mm, 6) + 0.0, text=contact_words(contact, a, b)
        )
        for contact in contacts
        for a, b in [(instances[contact.a], instances[contact.b])]
    ]
    return ClearanceReport(pairs=pairs, contacts=touching, warnings=list(warnings))
