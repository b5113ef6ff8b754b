"""A student's term on paper: each returned exercise with its picture, marks and what was put right; for parents too."""

from dataclasses import dataclass
from datetime import UTC, date, datetime, time, timedelta
from typing import Annotated

from fastapi import Query
from fastapi.responses import Response
from markupsafe import Markup
from sqlalchemy.orm import Session

from rigid_bench.core.insight.slips import episodes
from rigid_bench.core.values.errors import NotFound
from rigid_bench.core.values.names import slug
from rigid_bench.core.wording.language import _
from rigid_bench.core.wording.slips import slip_name
from rigid_bench.store.class_settings import ClassSettings
from rigid_bench.store.queries import exercise_queries, insight_queries
from rigid_bench.store.tables import Classroom, ExerciseVersion, User
from rigid_bench.web.figures.views import thumbnail
from rigid_bench.web.pages.classes.class_table import Cell, read_table
from rigid_bench.web.print.cards import to_pdf
from rigid_bench.web.render import rendered
from rigid_bench.web.routing import page_router
from rigid_bench.web.security.access import DbSession, StudentWithWork, TaughtClass

router = page_router("/classes/{class_id}/students/{student_id}")
#: Pixels of an exercise's picture.
_PICTURE = 150.0


@dataclass(frozen=True, slots=True, kw_only=True)
class ReportedWork:
    """One exercise of the report."""

    version: ExerciseVersion
    cell: Cell
    grade: str
    picture: Markup | None
    #: Slips, in words, that the student made and put right; and those that were left.
    put_right: list[str]
    left: list[str]


@router.get("/report.pdf", name="term_report")
def term_report(
    classroom: TaughtClass, student: StudentWithWork, session: DbSession,
    since: Annotated[date | None, Query()] = None, until: Annotated[date | None, Query()] = None,
) -> Response:  # fmt: skip
    """Give the report of a time, its last day too; of all that was returned, without dates."""
    settings = ClassSettings.model_validate(classroom.settings)
    begins = datetime.combine(since, time.min, tzinfo=settings.zone) if since else None
    ends = datetime.combine(until, time.min, tzinfo=settings.zone) + timedelta(days=1) if until else None
    works = _works(session, classroom, student, settings, begins, ends)
    if not works:
        raise NotFound(
            _("report"), _("no card was returned in this time"), _("Choose another time, or return cards first")
        )
    awarded, available = (
        sum(getattr(work.cell.state, name) or 0 for work in works) for name in ("awarded", "available")
    )
    percent = 100 * awarded / available if available else None
    text = rendered(
        "print_report.html",
        classroom=classroom, student=student, works=works, settings=settings, since=since, until=until,
        awarded=awarded, available=available, percent=percent,
        grade="" if percent is None else settings.grade(percent), made_at=datetime.now(UTC),
    )  # fmt: skip
    headers = {"Content-Disposition": f'attachment; filename="{slug(f"{student.name}-{classroom.name}")}.pdf"'}
    return Response(to_pdf(text), media_type="application/pdf", headers=headers)


def _works(
    session: Session, classroom: Classroom, student: User, settings: ClassSettings, begins: datetime | None,
    ends: datetime | None,
) -> list[ReportedWork]:  # fmt: skip
    table = read_table(session, classroom)
    cells = next((cells for person, cells in table.rows if person.id == student.id), [])
    pictures = exercise_queries.pictures_of_versions(session, [version.id for version in table.versions])
    attempts = [own for own in insight_queries.attempts_of_class(session, classroom.id) if own.student_id == student.id]
    slips = list(episodes(attempts))
    works = []
    for version, cell in zip(table.versions, cells, strict=False):
        at = cell.build.handed_in_at if cell.build else None
        if cell.state.key != "returned" or at is None or (begins and at < begins) or (ends and at >= ends):
            continue
        own = [slip for slip in slips if slip.exercise == version.exercise]
        works.append(
            ReportedWork(
                version=version,
                cell=cell,
                grade="" if cell.state.percent is None else settings.grade(cell.state.percent),
                picture=thumbnail(pictures[version.id], _PICTURE) if pictures.get(version.id) else None,
                put_right=sorted({slip_name(slip.code) for slip in own if slip.ended}),
                left=sorted({slip_name(slip.code) for slip in own if not slip.ended}),
            )
        )
    return works
