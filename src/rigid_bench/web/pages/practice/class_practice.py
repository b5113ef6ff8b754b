"""Practice of a class: sets that are given, and what got better, student by student and kind by kind."""

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Annotated
from zoneinfo import ZoneInfo

from fastapi import Form, Request
from fastapi.responses import RedirectResponse, Response
from pydantic import Field

from rigid_bench.app.classes import practice as practising
from rigid_bench.core.practice.registry import KINDS
from rigid_bench.core.wording.language import _
from rigid_bench.core.wording.slips import slip_name
from rigid_bench.store.class_settings import ClassSettings
from rigid_bench.store.queries import class_queries, exercise_queries, practice_queries
from rigid_bench.store.tables import PracticeAnswer
from rigid_bench.web.figures.progress import WeekOfDrills, progress_chart
from rigid_bench.web.forms import FormId, FormModel, IdField, moment_or_none, number_between, whole_between
from rigid_bench.web.render import page
from rigid_bench.web.routing import page_router
from rigid_bench.web.security.access import CheckedForm, DbSession, OwnClass, TaughtClass

router = page_router("/classes/{class_id}/practice")
_MOST = 50
_Word = Annotated[str, Field(max_length=200)]


@dataclass(frozen=True, slots=True, kw_only=True)
class Tally:
    """Drills that were answered, oldest first."""

    right: list[bool]

    @property
    def tried(self) -> int:
        """How many."""
        return len(self.right)

    @property
    def change(self) -> str:
        """Whether the later half went better than the earlier; "" where there are too few to say."""
        half = len(self.right) // 2
        if half < 2:
            return ""
        earlier, later = sum(self.right[:half]) / half, sum(self.right[-half:]) / half
        if abs(later - earlier) <= 0.1:
            return _("as before")
        return _("better") if later > earlier else _("worse")


@router.get("", name="class_practice")
def class_practice(request: Request, classroom: OwnClass, session: DbSession) -> Response:
    """Show what is given, what was answered, and what got better."""
    students = class_queries.students_of_class(session, classroom.id)
    answers = practice_queries.answers_of(session, [student.id for student in students])
    sets = practice_queries.sets_of_class(session, classroom.id)
    done = practice_queries.done_of_sets(session, [own.id for own in sets])
    slips = Counter(own.slip for own in answers if own.slip)
    tried = [kind for kind in KINDS.values() if any(own.kind == kind.name for own in answers)]
    return page(
        request,
        "class_practice.html",
        classroom=classroom,
        settings=ClassSettings.model_validate(classroom.settings),
        students=students,
        kinds=KINDS,
        tried=tried,
        tallies=_tallies(answers),
        slips=[(slip_name(slip), _of_slip(answers, slip)) for slip, _ in slips.most_common()],
        versions=exercise_queries.exercises_of_class(session, classroom.id),
        sets=[
            (own, sum(done.get((own.id, student.id), (0, 0))[0] >= own.number for student in students)) for own in sets
        ],
        chart=progress_chart(_by_week(answers)) if answers else None,
        weeks=_by_week(answers),
    )


def _tallies(answers: Sequence[PracticeAnswer]) -> dict[tuple[int, str], Tally]:
    """Return by student and kind, and by student and "", what was answered."""
    tallies: dict[tuple[int, str], Tally] = {}
    for own in answers:
        for kind in (own.kind, ""):
            tallies.setdefault((own.student_id, kind), Tally(right=[])).right.append(own.is_right)
    return tallies


def _of_slip(answers: Sequence[PracticeAnswer], slip: str) -> tuple[Tally, dict[int, Tally]]:
    """Return how the drills of a slip went, in all and by student."""
    own = [answer for answer in answers if answer.slip == slip]
    students: dict[int, Tally] = {}
    for answer in own:
        students.setdefault(answer.student_id, Tally(right=[])).right.append(answer.is_right)
    return Tally(right=[answer.is_right for answer in own]), students


def _by_week(answers: Sequence[PracticeAnswer]) -> list[WeekOfDrills]:
    """Return how the drills went, week by week."""
    weeks: dict[tuple[int, int], list[bool]] = {}
    for own in answers:
        year, week, _ = own.answered_at.isocalendar()
        weeks.setdefault((year, week), []).append(own.is_right)
    return [
        WeekOfDrills(year=year, number=week, answered=len(right), right=sum(right))
        for (year, week), right in sorted(weeks.items())
    ]


class SetForm(FormModel):
    """What a class is given to practise, as typed."""

    title: _Word = ""
    kinds: list[str] = []
    level: _Word = ""
    number: _Word = "10"
    until: _Word = ""
    version_id: IdField = 0
    seconds: _Word = ""
    marks: _Word = ""

    def fields(self, zone: ZoneInfo) -> practising.SetFields:
        """Read it, by a class's clock."""
        level, seconds, marks = self.level.strip(), self.seconds.strip(), self.marks.strip()
        return practising.SetFields(
            title=self.title.strip(),
            kinds=self.kinds,
            level=whole_between(level, 1, 3, where=_("level"), field="level") if level else None,
            number=whole_between(self.number, 1, _MOST, where=_("number"), field="number"),
            until=moment_or_none(self.until, zone, field="until"),
            version_id=self.version_id or None,
            seconds=whole_between(seconds, 5, 3600, where=_("seconds"), field="seconds") if seconds else None,
            marks=number_between(marks, 0.5, 100, where=_("marks"), field="marks") if marks else None,
        )


@router.post("", name="give_set", dependencies=[CheckedForm])
def give_set(
    request: Request,
    classroom: TaughtClass,
    session: DbSession,
    form: Annotated[SetForm, Form()],
) -> Response:
    """Give the class a set: kinds, level, number, until when; if wished of an exercise, with a clock, for marks."""
    zone = ClassSettings.model_validate(classroom.settings).zone
    practising.give_set(session, classroom, form.fields(zone))
    return RedirectResponse(request.url_for("class_practice", class_id=classroom.id), status_code=303)


@router.post("/drop", name="drop_set", dependencies=[CheckedForm])
def drop_set(request: Request, classroom: TaughtClass, session: DbSession, set_id: FormId = 0) -> Response:
    """Take a set back; what was answered stays."""
    practising.drop_set(session, classroom, set_id)
    return RedirectResponse(request.url_for("class_practice", class_id=classroom.id), status_code=303)
