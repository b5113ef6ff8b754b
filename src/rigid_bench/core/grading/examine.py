"""What is found of an exercise before it is released: does it hold together, and would its own model pass?"""

from collections.abc import Callable

from rigid_bench.core.documents import Document
from rigid_bench.core.exercise.audit_report import AuditReport, audit_exercise
from rigid_bench.core.exercise.exercise import Exercise
from rigid_bench.core.exercise.faults import find_faults
from rigid_bench.core.exercise.sheet import make_sheet
from rigid_bench.core.grading.grade import describe, grade
from rigid_bench.core.grading.report import Prepared
from rigid_bench.core.tolerance import Tolerance


class OwnMark(Document):
    """A check that the exercise's own model does not meet."""

    id: str
    title: str
    verdict: str
    measured: str
    required: str


class Examined(Document):
    """What is found of an exercise."""

    prepared: Prepared
    audit: AuditReport
    #: The marks that the reference earns when it is graded against its own exercise.
    awarded: float
    available: float
    #: Where it loses some.
    missed: list[OwnMark]
    #: What is likely to be wrong with what is drawn; advice.
    faults: list[str] = []

    @property
    def is_sound(self) -> bool:
        """The reference earns full marks, and every size is on the sheet once."""
        return not self.missed and all(each.complete and not each.redundant for each in self.audit.parts.values())


def examine(
    exercise: Exercise,
    files: dict[str, bytes],
    *,
    tolerance: Tolerance,
    progress: Callable[[str], None] = lambda text: None,
) -> Examined:
    """Examine an exercise.

    Parameters
    ----------
    exercise
        As read from its bundle.
    files
        The bundle's files: the reference build and the part files are graded as if a student had handed them in.
    tolerance
        For reading and measuring.
    progress
        Told what is being done.

    Raises
    ------
    RigidBenchError
        The exercise cannot be meant.
    """
    checks = describe(exercise)
    sheet = make_sheet(exercise, progress=progress)
    audit = audit_exercise(exercise, tolerance=tolerance, progress=progress)
    progress("Looking for faults of the sheet")
    faults = find_faults(exercise, tolerance=tolerance)
    progress("Grading the reference by its own exercise")
    named = {each.file for each in exercise.model.parts if each.file} | {exercise.model.reference}
    handed_in = {name: data for name, data in files.items() if name in named}
    report = grade(exercise, handed_in, tolerance=tolerance, progress=progress) if handed_in else None
    judged = [each for each in report.checks if not each.levels] if report else []
    return Examined(
        prepared=Prepared(sheet=sheet, checks=checks),
        audit=audit,
        awarded=sum(each.awarded for each in judged),
        available=sum(each.available for each in judged),
        missed=[
            OwnMark(id=each.id, title=each.title, verdict=each.verdict, measured=each.measured, required=each.required)
            for each in judged
            if each.verdict != "met"
        ],
        faults=faults,
    )
