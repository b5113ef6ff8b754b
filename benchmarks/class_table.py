"""The class table of 10 to 40 students by 20 exercises: database queries, and time beside the smallest: ratios."""

import json
import time

from sqlalchemy import event

from benchmarks.school import make_class, scratch_database
from rigid_bench.core.grading.report.models import ENGINE_VERSION
from rigid_bench.store.database import Database
from rigid_bench.store.queries import build_queries, class_queries, exercise_queries, work_queries
from rigid_bench.store.versions import keep_version
from rigid_bench.web.pages.classes.class_table import Table, read_table

_EXERCISES, _RUNS = 20, 5


def filled(database: Database, students: int) -> int:
    """Make a class in which every student has a graded build for each of twenty exercises."""
    class_id, people, versions, graded = make_class(database, students=students, name=f"of{students}")
    samples = [(k % 4, list(graded[k % 4].samples.values())) for k in range(_EXERCISES)]
    with database.session() as session:
        for k in range(4, _EXERCISES):
            place = k % 4
            document = json.loads(graded[place].bundle["exercise.json"]) | {"id": f"copy-{k}", "title": f"Copy {k}"}
            bundle = {**graded[place].bundle, "exercise.json": json.dumps(document).encode()}
            versions.append(keep_version(session, bundle, graded[place].prepared))
            exercise_queries.assign(session, class_id=class_id, version_id=versions[-1].id, place=k)
        for number, student in enumerate(people):
            for version, (_, graded_samples) in zip(versions, samples, strict=True):
                sample = graded_samples[number % len(graded_samples)]
                build = build_queries.add_build(
                    session, class_id=class_id, version_id=version.id, student_id=student.id, files={}
                )
                work_queries.finish_measuring(
                    session, build.id, version_id=version.id, engine_version=ENGINE_VERSION, report=sample.report
                )
    return class_id


def read(database: Database, class_id: int) -> tuple[Table, float, int]:
    """Return the table, the least seconds of a few readings, and the queries of one."""
    asked: list[str] = []

    def note(connection: object, cursor: object, statement: str, *rest: object) -> None:
        asked.append(statement)

    event.listen(database.engine, "before_cursor_execute", note)
    times = []
    for _ in range(_RUNS):
        asked.clear()
        with database.session() as session:
            started = time.perf_counter()
            table = read_table(session, class_queries.class_of_teacher(session, class_id, 1)[0])
            times.append(time.perf_counter() - started)
    event.remove(database.engine, "before_cursor_execute", note)
    return table, min(times), len(asked)


def main() -> None:
    """Print the table."""
    print("students  exercises  queries      s  times the smallest  times as many cells")
    with scratch_database() as database:
        least = 0.0
        for students in (10, 20, 40):
            table, seconds, count = read(database, filled(database, students))
            least = least or seconds
            assert len(table.rows) == students
            ratio, cells = seconds / least, students / 10
            print(f"{students:8} {_EXERCISES:10} {count:8} {seconds:6.3f} {ratio:19.1f} {cells:20.1f}")


if __name__ == "__main__":
    main()
