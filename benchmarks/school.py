"""What the benchmarks of the whole program share: a database of their own, with the sample exercises."""

import tempfile
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from pathlib import Path

import procrastinate
from sqlalchemy.orm import Session

from rigid_bench.demo.graded import GradedExercise, read_graded
from rigid_bench.jobs.enqueue import GRADE, enqueue
from rigid_bench.store.cluster import Cluster
from rigid_bench.store.database import Database, migrate
from rigid_bench.store.queries import build_queries, class_queries, exercise_queries, people_queries
from rigid_bench.store.tables import ExerciseVersion, User
from rigid_bench.store.versions import keep_version
from rigid_bench.web.security.passwords import hash_password

PASSWORD = "benchmark"


@contextmanager
def scratch_database() -> Iterator[Database]:
    """Give a database that is gone afterwards."""
    folder = Path(tempfile.mkdtemp(prefix="rigid-bench-"))
    folder.chmod(0o755)
    cluster = Cluster(folder)
    try:
        url = cluster.start()
        migrate(url)
        database = Database(url)
        yield database
        database.close()
    finally:
        cluster.destroy()


def make_class(
    database: Database, *, students: int, name: str = "Class"
) -> tuple[int, list[User], list[ExerciseVersion], list[GradedExercise]]:
    """Make a class with so many students, working on the sample exercises."""
    graded, password = read_graded(), hash_password(PASSWORD)
    with database.session() as session:
        teacher = people_queries.user_by_login(session, "teacher") or people_queries.add_user(
            session, login="teacher", name="Teacher", role="teacher", password_hash=password
        )
        people = [
            people_queries.add_user(
                session, login=f"{name}-{k}".lower(), name=f"Student {k}", role="student", password_hash=password
            )
            for k in range(students)
        ]
        classroom = class_queries.add_class(session, name=name, teacher=teacher, students=people)
        versions = [keep_version(session, exercise.bundle, exercise.prepared) for exercise in graded]
        for place, version in enumerate(versions):
            exercise_queries.assign(session, class_id=classroom.id, version_id=version.id, place=place)
        return classroom.id, people, versions, graded


def hand_in_at_once(
    session: Session,
    queue: procrastinate.App,
    *,
    class_id: int,
    version_id: int,
    student_id: int,
    files: Mapping[str, bytes],
) -> int:
    """Let a student's files count without a look before, and queue their measuring; return the build's id."""
    build = build_queries.add_build(
        session, class_id=class_id, version_id=version_id, student_id=student_id, files=files
    )
    enqueue(session, queue, GRADE, build_id=build.id)
    return build.id
