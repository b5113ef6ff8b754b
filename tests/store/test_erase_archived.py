"""Classes are erased after their time in the archive, with all that was handed in; others and accounts stay."""

from datetime import UTC, datetime, timedelta

from sqlalchemy import func, select

from rigid_bench.store.database import Database
from rigid_bench.store.queries import build_queries, class_queries, marking_queries, plan_queries, practice_queries
from rigid_bench.store.tables import Build, Classroom, User
from tests.support.school import School

NOW = datetime(2027, 7, 1, 12, tzinfo=UTC)


def test_only_what_is_old_enough_is_erased(database: Database, school: School) -> None:
    with database.session() as session:
        teacher = session.get_one(User, school.teacher_id)
        old, young, current = (
            class_queries.add_class(session, name=name, teacher=teacher) for name in ("Old", "Young", "Current")
        )
        plan_queries.archive_class(session, old, NOW - timedelta(days=400))
        plan_queries.archive_class(session, young, NOW - timedelta(days=300))
        plan_queries.add_lessons(session, old.id, [NOW], minutes=50, room="", title="")
        build = build_queries.add_build(
            session, class_id=old.id, version_id=school.version_id, student_id=school.student_id, files={"a": b"1"}
        )
        session.flush()
        marking_queries.return_build(session, build, teacher_id=school.teacher_id, total=1.0)
        practice_queries.give_set(
            session, old.id, title="Once more", kinds=["what-is-free"], level=None, number=3, until=None,
            version_id=None, seconds=None, marks=None,
        )  # fmt: skip
        people = session.scalar(select(func.count()).select_from(User))
        kept = [young.id, current.id]
    with database.session() as session:
        assert plan_queries.erase_archived(session, NOW - timedelta(days=365)) == ["Old"]
    with database.session() as session:
        assert session.scalars(select(Classroom).where(Classroom.name == "Old")).all() == []
        assert {room.id for room in session.scalars(select(Classroom).where(Classroom.id.in_(kept)))} == set(kept)
        assert session.scalar(select(func.count()).select_from(Build)) == 0
        assert session.scalar(select(func.count()).select_from(User)) == people
    with database.session() as session:
        assert plan_queries.erase_archived(session, NOW - timedelta(days=365)) == []
