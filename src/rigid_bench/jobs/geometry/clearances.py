"""Gaps of a build measured: runs in the sandbox, files in, reports out."""

from collections.abc import Mapping

from rigid_bench.core.assembly.contact.clearance import NEAR_MM, clearances, place
from rigid_bench.core.assembly.contact.clearance_report import clearance_report
from rigid_bench.core.assembly.contact.contacts import find_contacts
from rigid_bench.core.formats.clearance import ClearanceReport
from rigid_bench.core.grading.intake.submission import read_submission
from rigid_bench.core.values.errors import InvalidDocument
from rigid_bench.core.values.tolerance import Tolerance
from rigid_bench.core.wording.language import _
from rigid_bench.core.wording.notices import said
from rigid_bench.jobs.geometry.progress import noting


def measure_clearances(files: Mapping[str, bytes], want_all: bool, note: str) -> ClearanceReport:
    """Measure the gaps of a build or a STEP assembly.

    Raises
    ------
    InvalidDocument
        An instance has no geometry.
    """
    progress, tolerance = noting(note), Tolerance()
    submission = read_submission(files, tolerance=tolerance, progress=progress)
    for instance in submission.instances:
        if instance.part is None:
            raise InvalidDocument(
                _("instance '{id}'", id=instance.id),
                _("there is no geometry for its part '{name}'", name=instance.name),
                _("Name its STEP file in the build"),
            )
    solids = [
        place(instance.id, submission.parts[instance.part].features, instance.pose)
        for instance in submission.instances
        if instance.part is not None
    ]
    within = None if want_all else NEAR_MM
    gaps = clearances(solids, tolerance=tolerance, within_mm=within, progress=progress)
    contacts = find_contacts([(solid.part, solid.pose) for solid in solids], tolerance=tolerance)
    names = [solid.instance for solid in solids]
    warnings = [notice.text for notice in said(submission.notices)]
    return clearance_report(gaps, contacts=contacts, instances=names, warnings=warnings)
