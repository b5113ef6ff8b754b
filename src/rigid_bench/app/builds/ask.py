"""Asking: a student questions a check of a card with a sentence, or raises a hand on it."""

from sqlalchemy.orm import Session

from rigid_bench.core.grading.report.models import CheckResult
from rigid_bench.core.values.errors import FormRejected
from rigid_bench.core.wording.language import _
from rigid_bench.store.log import log
from rigid_bench.store.queries import marking_queries, notice_queries
from rigid_bench.store.queries.people_queries import Person
from rigid_bench.store.tables import Build


def ask_question(session: Session, build: Build, check: CheckResult, text: str, *, student: Person) -> None:
    """Keep a student's question about a check, and tell the class's teachers; the same again changes nothing.

    Raises
    ------
    FormRejected
        There are no words in it.
    """
    words = text.strip()
    if not words:
        raise FormRejected(_("question"), _("there are no words in it"), _("Write one sentence"), "text")
    if marking_queries.ask(session, build, check_id=check.id, text=words):
        notice_queries.tell_teachers(session, build, kind="asked")
        log(session, "questioned", who_id=student.id, class_id=build.class_id, check=check.title, build=build.id)


def raise_hand(session: Session, build: Build, check: CheckResult, *, student: Person) -> None:
    """Raise a hand on a check; a hand that is up already stays, on the new check."""
    marking_queries.raise_hand(session, build, student_id=student.id, check_id=check.id)


def lower_hand(session: Session, class_id: int, *, student_id: int) -> None:
    """Take a student's hand down again."""
    marking_queries.lower_hands(session, class_id, student_id)
