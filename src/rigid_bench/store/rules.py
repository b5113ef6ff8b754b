"""What a class has decided, read once for a page: who is due when, what counts, what is withdrawn."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from sqlalchemy.orm import Session

from rigid_bench.core.marking.rules import Rules, latest_due
from rigid_bench.store.queries import class_queries, group_queries, marking_queries
from rigid_bench.store.tables import Assignment, ExerciseVersion, Terms


@dataclass(frozen=True, slots=True, kw_only=True)
class ClassRules:
    """All of a class's decisions."""

    assignments: Mapping[int, Assignment]
    #: By student and version.
    terms: Mapping[tuple[int, int], Terms]
    #: With whom each student works, by student and version.
    groups: Mapping[tuple[int, int], Sequence[int]]
    #: By exercise, then check: the reason.
    withdrawn: Mapping[str, Mapping[str, str]]

    def of(self, version: ExerciseVersion, student_id: int) -> Rules:
        """Return what counts for one student's work on one exercise."""
        terms = self.terms.get((student_id, version.id))
        others = [self.terms[other, version.id] for other in self.groups.get((student_id, version.id), ())]
        assignment = self.assignments.get(version.id)
        agreed = [terms.due_at if terms else None, *(own.due_at for own in others)]
        return Rules(
            withdrawn=self.withdrawn.get(version.exercise, {}),
            due_at=latest_due(assignment.due_at if assignment else None, agreed),
            late_percent=assignment.late_percent if assignment and assignment.late == "minus" else 0.0,
            is_absent=bool(terms and terms.is_absent),
        )


def rules_of_class(session: Session, class_id: int) -> ClassRules:
    """Read a class's decisions, in three queries."""
    terms = class_queries.terms_of_class(session, class_id)
    return ClassRules(
        assignments=class_queries.assignments_of_class(session, class_id),
        terms=terms,
        groups=group_queries.groups_of(terms),
        withdrawn=marking_queries.withdrawn_of_class(session, class_id),
    )
