"""A teacher's start page, the day: what is due, what needs a person, raised hands, cards ready, what is missed."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta

from fastapi import Request
from fastapi.responses import Response
from sqlalchemy.orm import Session

from rigid_bench.store.class_settings import ClassSettings
from rigid_bench.store.queries import class_queries
from rigid_bench.store.tables import Classroom, ExerciseVersion, User
from rigid_bench.web.pages.classes.class_table import Cell, Table, read_table
from rigid_bench.web.render import page
from rigid_bench.web.security.access import DbSession

#: What was due so long ago, or is due so soon, stands on the page.
_BEFORE, _AFTER = timedelta(days=2), timedelta(days=7)
#: So many builds, due exercises and missed checks stand on the page; so many classes are looked through.
_BUILDS, _DUES, _MISSED, _CLASSES = 6, 5, 5, 12


@dataclass(frozen=True, slots=True, kw_only=True)
class DueView:
    """An exercise that is due about now."""

    classroom: Classroom
    version: ExerciseVersion
    due_at: datetime
    handed_in: int
    students: int
    settings: ClassSettings

    @property
    def is_past(self) -> bool:
        """It was due."""
        return self.due_at < datetime.now(UTC)


@dataclass(frozen=True, slots=True, kw_only=True)
class ClassLine:
    """A class in one line of figures."""

    classroom: Classroom
    table: Table
    #: The teacher marks and sets in it, and is no mere assistant.
    is_taught: bool

    @property
    def to_return(self) -> int:
        """Cards that are measured and wait to be returned."""
        return self.table.count("graded")

    @property
    def missing(self) -> int:
        """Exercises that students have not handed in."""
        return self.table.count("none")


@dataclass(frozen=True, slots=True, kw_only=True)
class Day:
    """What a teacher's day holds."""

    lines: Sequence[ClassLine]
    #: Due about now, the next first.
    dues: Sequence[DueView]
    #: Builds that need a person, those that wait longest first.
    builds: Sequence[tuple[Classroom, User, ExerciseVersion, Cell]]
    #: Of each class, how many hands are up.
    hands: Sequence[tuple[Classroom, int]]
    #: What most of a class missed: class, exercise, check, how many.
    missed: Sequence[tuple[Classroom, ExerciseVersion, str, int]]

    @property
    def to_return(self) -> int:
        """All cards that wait to be returned."""
        return sum(line.to_return for line in self.lines)


def read_day(session: Session, teacher_id: int, *, now: datetime | None = None) -> Day:
    """Read a teacher's day, over at most a dozen classes.

    Parameters
    ----------
    session
        To read with.
    teacher_id
        Whose day it is.
    now
        The present; for tests.
    """
    present = now or datetime.now(UTC)
    classes = class_queries.classes_of_teacher(session, teacher_id)[:_CLASSES]
    taught = {own.id for own in class_queries.classes_of_teacher(session, teacher_id, roles=class_queries.TEACHES)}
    lines = [ClassLine(classroom=own, table=read_table(session, own), is_taught=own.id in taught) for own in classes]
    builds = [(line.classroom, *doubtful) for line in lines for doubtful in line.table.to_look_at]
    builds.sort(key=lambda row: row[3].build.handed_in_at if row[3].build else present)
    missed = [
        (line.classroom, version, title, count)
        for line in lines
        for version in line.table.versions
        for title, count in line.table.most_missed(version)
        if count > 1
    ]
    dues = [due for line in lines for due in _dues(line, present)]
    return Day(
        lines=lines,
        dues=sorted(dues, key=lambda due: (due.is_past, due.due_at))[:_DUES],
        builds=builds,
        hands=[(line.classroom, len(line.table.hands)) for line in lines if line.table.hands],
        missed=sorted(missed, key=lambda row: -row[3])[:_MISSED],
    )


def _dues(line: ClassLine, now: datetime) -> list[DueView]:
    dues = []
    for place, version in enumerate(line.table.versions):
        due_at = line.table.assignments[version.id].due_at
        if due_at is None or not now - _BEFORE <= due_at <= now + _AFTER:
            continue
        cells = [cells[place] for _, cells in line.table.rows]
        dues.append(
            DueView(
                classroom=line.classroom,
                version=version,
                due_at=due_at,
                handed_in=sum(cell.build is not None for cell in cells),
                students=sum(cell.state.key != "absent" for cell in cells),
                settings=ClassSettings.model_validate(line.classroom.settings),
            )
        )
    return dues


def day_page(request: Request, teacher_id: int, session: DbSession) -> Response:
    """Show a teacher's day."""
    day = read_day(session, teacher_id)
    return page(request, "day.html", day=day, shown=day.builds[:_BUILDS], now=datetime.now(UTC))
