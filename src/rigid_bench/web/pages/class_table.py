"""The class table: students × exercises, with states and marks."""

from dataclasses import dataclass

from fastapi import APIRouter, Request
from fastapi.responses import Response
from sqlalchemy.orm import Session

from rigid_bench.store import queries
from rigid_bench.store.tables import Build, Classroom, ExerciseVersion, User
from rigid_bench.web.access import DbSession, OwnClass
from rigid_bench.web.pages.state import BuildState, build_state
from rigid_bench.web.render import page

router = APIRouter()


@dataclass(frozen=True, slots=True, kw_only=True)
class Cell:
    """One student's newest build for one exercise."""

    build: Build | None
    state: BuildState


@dataclass(frozen=True, slots=True, kw_only=True)
class Table:
    """A class's builds."""

    versions: list[ExerciseVersion]
    rows: list[tuple[User, list[Cell]]]

    def count(self, *keys: str) -> int:
        """Count the cells that are in one of the states."""
        return sum(1 for _, cells in self.rows for cell in cells if cell.state.key in keys)


def read_table(session: Session, classroom: Classroom) -> Table:
    """Read a class's table: students, exercises and newest builds, in a handful of queries."""
    versions = list(queries.exercises_of_class(session, classroom.id))
    builds = queries.newest_builds_of_class(session, classroom.id)
    rows = []
    for student in queries.students_of_class(session, classroom.id):
        found = [builds.get((student.id, version.id)) for version in versions]
        rows.append((student, [Cell(build=build, state=build_state(build)) for build in found]))
    return Table(versions=versions, rows=rows)


@router.get("/classes/{class_id}")
def class_table(request: Request, classroom: OwnClass, session: DbSession) -> Response:
    """Show a class's table; asked by htmx, its rows alone."""
    name = "_class_table_rows.html" if "hx-request" in request.headers else "class_table.html"
    return page(request, name, classroom=classroom, table=read_table(session, classroom))
