"""The heat table of an exercise: checks by students, what and who needs help first."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from rigid_bench.core.insight.attempts import Attempt

#: How much a verdict counts where rows and columns are put in order.
_WEIGHTS = {"missed": 1.0, "unchecked": 0.6, "near": 0.4}


@dataclass(frozen=True, slots=True, kw_only=True)
class HeatCell:
    """One student's check that is not met."""

    verdict: str
    #: Cause code, or "".
    cause: str
    #: The slip was made at another check.
    follows: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class HeatTable:
    """Checks by students; a place without a cell is met."""

    #: id and title, those that most did not meet first.
    checks: list[tuple[str, str]]
    #: Who handed in, those with most open first; and who did not.
    students: list[int]
    without: list[int]
    #: By student and check.
    cells: Mapping[tuple[int, str], HeatCell]
    #: By student: the build that is shown.
    builds: Mapping[int, int]

    def missed(self, check: str) -> int:
        """Return how many students have not met a check."""
        return sum(1 for student in self.students if (student, check) in self.cells)


def heat_table(checks: Iterable[tuple[str, str]], students: Iterable[int], newest: Mapping[int, Attempt]) -> HeatTable:
    """Put a heat table in order.

    Parameters
    ----------
    checks
        id and title, in the order of the sheet.
    students
        Of the class.
    newest
        By student: the newest attempt that was measured.
    """
    cells = {
        (student, own.id): HeatCell(verdict=own.verdict, cause=own.cause, follows=bool(own.follows))
        for student, attempt in newest.items()
        for own in attempt.open or ()
    }
    by_check: dict[str, float] = {}
    by_student: dict[int, float] = {}
    for (student, check), cell in cells.items():
        weight = _WEIGHTS.get(cell.verdict, 0.0)
        by_check[check] = by_check.get(check, 0.0) + weight
        by_student[student] = by_student.get(student, 0.0) + weight
    every = list(students)
    return HeatTable(
        checks=sorted(checks, key=lambda own: -by_check.get(own[0], 0.0)),
        students=sorted((own for own in every if own in newest), key=lambda own: -by_student.get(own, 0.0)),
        without=[own for own in every if own not in newest],
        cells=cells,
        builds={student: attempt.build_id for student, attempt in newest.items()},
    )
