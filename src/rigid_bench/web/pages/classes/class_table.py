"""The class table: students × exercises, with states and marks; what needs a person comes first."""

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import UTC, datetime
from typing import Annotated, Literal

from fastapi import Form, Query, Request
from fastapi.responses import RedirectResponse, Response
from sqlalchemy.orm import Session

from rigid_bench.app.builds import return_cards
from rigid_bench.core.marking.standing import Standing
from rigid_bench.core.marking.state import BuildState, build_state
from rigid_bench.store.grid import grid_builds, grid_exercises
from rigid_bench.store.queries import class_queries, group_queries, marking_queries, work_queries
from rigid_bench.store.rules import ClassRules
from rigid_bench.store.standing import standing_of_grid
from rigid_bench.store.tables import Assignment, Classroom, ExerciseVersion, User
from rigid_bench.web.paging import PAGE, Pages
from rigid_bench.web.render import page
from rigid_bench.web.routing import page_router
from rigid_bench.web.security.access import CheckedForm, DbSession, OwnClass, TaughtClass, Teacher

router = page_router()

Show = Literal["all", "to look at", "to return", "not handed in"]
#: So many checks are said to be the most missed.
_MOST_MISSED = 3


@dataclass(frozen=True, slots=True, kw_only=True)
class Cell:
    """One student's newest build for one exercise."""

    build: Standing | None
    state: BuildState

    def is_shown(self, show: Show) -> bool:
        """Say whether a filter lets the cell through."""
        return {
            "all": True,
            "to look at": bool(self.state.review_reasons),
            "to return": self.state.key in ("graded", "failed"),
            "not handed in": self.state.key == "none",
        }[show]

    @property
    def age(self) -> str:
        """How long it waits to be returned, in short; "" where it does not."""
        if self.build is None or self.state.key not in ("graded", "failed", "queued"):
            return ""
        minutes = int((datetime.now(UTC) - self.build.handed_in_at).total_seconds() / 60)
        return f"{minutes} min" if minutes < 90 else f"{minutes // 60} h" if minutes < 2880 else f"{minutes // 1440} d"


@dataclass(frozen=True, slots=True, kw_only=True)
class Table:
    """A class's builds."""

    versions: list[ExerciseVersion]
    rows: list[tuple[User, list[Cell]]]
    #: Of students who have a hand up.
    hands: frozenset[int] = frozenset()
    #: By version.
    assignments: Mapping[int, Assignment] = field(default_factory=dict)

    def count(self, *keys: str) -> int:
        """Count the cells that are in one of the states."""
        return sum(1 for _, cells in self.rows for cell in cells if cell.state.key in keys)

    @property
    def to_look_at(self) -> list[tuple[User, ExerciseVersion, Cell]]:
        """The builds that need a person, those that wait longest first."""
        doubtful = [
            (student, version, cell)
            for student, cells in self.rows
            for version, cell in zip(self.versions, cells, strict=True)
            if cell.build and cell.state.review_reasons
        ]
        return sorted(doubtful, key=lambda row: row[2].build.handed_in_at if row[2].build else datetime.now(UTC))

    def filtered(self, show: Show, words: str = "") -> "Table":
        """Return the rows of students whom the words name, and that have a cell which the filter lets through."""
        rows = [
            row
            for row in self.rows
            if all(word in row[0].name.casefold() for word in words.casefold().split())
            and (show == "all" or any(cell.is_shown(show) for cell in row[1]))
        ]
        return replace(self, rows=rows)

    def on_page(self, at: int) -> "Table":
        """Return the rows of one page."""
        return replace(self, rows=self.rows[(at - 1) * PAGE : at * PAGE])

    def most_missed(self, version: ExerciseVersion) -> list[tuple[str, int]]:
        """Return the checks that most of a class missed in an exercise, and how many did."""
        place = self.versions.index(version)
        missed: Counter[str] = Counter()
        for _, cells in self.rows:
            build = cells[place].build
            for check in (build.checks or ()) if build else ():
                is_missed = check.verdict == "missed" and not check.follows
                missed[check.title] += bool(is_missed and build and check.id not in build.marks)
        return [(title, count) for title, count in missed.most_common(_MOST_MISSED) if count]


def read_table(session: Session, classroom: Classroom, version_id: int | None = None) -> Table:
    """Read a class's table, or a column of it: exercises, students, terms, newest builds and hands, in five queries."""
    exercises = grid_exercises(session, classroom.id, version_id)
    builds = grid_builds(session, classroom.id, version_id)
    standings = {key: standing_of_grid(build) for key, build in builds.items()}
    terms = class_queries.terms_of_class(session, classroom.id)
    rules = ClassRules(
        assignments={exercise.version.id: exercise.assignment for exercise in exercises},
        terms=terms,
        groups=group_queries.groups_of(terms),
        withdrawn={exercise.version.exercise: exercise.withdrawn for exercise in exercises},
    )
    rows = []
    for student in class_queries.students_of_class(session, classroom.id):
        cells = []
        for exercise in exercises:
            own = rules.of(exercise.version, student.id)
            build = shared(
                standings, rules.groups.get((student.id, exercise.version.id), ()), exercise.version.id, student.id
            )
            cells.append(Cell(build=build, state=build_state(build, own)))
        rows.append((student, cells))
    hands = frozenset(hand.student_id for hand in marking_queries.hands_up(session, classroom.id))
    return Table(
        versions=[exercise.version for exercise in exercises], rows=rows, hands=hands, assignments=rules.assignments
    )


def shared(
    standings: Mapping[tuple[int, int], Standing], others: Sequence[int], version_id: int, student_id: int
) -> Standing | None:
    """Return the build that counts for a student: of those who work together, the one handed in last."""
    standings_shared = [
        standings[owner, version_id] for owner in (student_id, *others) if (owner, version_id) in standings
    ]
    return max(standings_shared, key=lambda build: build.id, default=None)


@router.get("/classes/{class_id}")
def class_table(
    request: Request,
    classroom: OwnClass,
    session: DbSession,
    show: Show = "all",
    q: Annotated[str, Query(max_length=100)] = "",
    at: Annotated[int, Query(ge=1, le=10_000)] = 1,
    returned: Annotated[str, Query(max_length=40)] = "",
) -> Response:
    """Show a class's table; asked by htmx, its rows alone."""
    name = "_class_table_rows.html" if "hx-request" in request.headers else "class_table.html"
    table = read_table(session, classroom)
    shown = table.filtered(show, q)
    just_returned = marking_queries.builds_of_batch(session, classroom.id, returned) if returned else []
    late_s = request.app.state.settings.late_seconds
    return page(
        request,
        name,
        classroom=classroom,
        table=table,
        shown=shown.on_page(at),
        pages=Pages(at=at, count=len(shown.rows)),
        show=show,
        q=q,
        batch=returned,
        returned=just_returned,
        seen=any(not marking_queries.is_fresh(build, now=datetime.now(UTC)) for build in just_returned),
        is_late=work_queries.oldest_waiting_s(session) > late_s,
    )


@router.post("/classes/{class_id}/take-back/{batch}", name="take_batch_back", dependencies=[CheckedForm])
def take_batch_back(
    request: Request,
    batch: str,
    classroom: TaughtClass,
    user: Teacher,
    session: DbSession,
    note: Annotated[str, Form(max_length=500)] = "",
) -> Response:
    """Take cards back that were returned at once: without trace where nobody has seen them, else with a note."""
    return_cards.take_batch_back(session, classroom.id, batch, teacher=user, note=note, now=datetime.now(UTC))
    return RedirectResponse(request.url_for("class_table", class_id=classroom.id), status_code=303)
