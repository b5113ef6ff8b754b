"""Classes are made, shared, put away and begun anew; each stands in the log."""

from datetime import UTC, datetime

import pytest
from sqlalchemy.orm import Session

from rigid_bench.app.builds import ask
from rigid_bench.app.classes import classes
from rigid_bench.core.grading.report.models import CheckResult
from rigid_bench.core.values.errors import FormRejected, NotAllowed, NotFound
from rigid_bench.store.class_settings import ClassSettings
from rigid_bench.store.database import Database
from rigid_bench.store.log import log_of_class
from rigid_bench.store.queries import class_queries, exercise_queries, marking_queries
from rigid_bench.store.queries.people_queries import Person
from rigid_bench.store.tables import Build, Classroom, User
from tests.support import school as people
from tests.support.graded_builds import hand_in, row
from tests.support.school import School

NOW = datetime(2026, 7, 20, 12, tzinfo=UTC)
OWNERS_ALONE = ("owner",)


def actions(session: Session, classroom: Classroom) -> list[str]:
    session.flush()
    return [entry.action for entry in log_of_class(session, classroom.id)]


def test_a_class_is_its_teachers_with_settings_of_its_own(session: Session, teacher: Person) -> None:
    made = classes.make_class(session, "Bench 7", teacher=teacher, settings=ClassSettings(mate_word="joint"))
    session.flush()
    assert class_queries.class_of_teacher(session, made.id, teacher.id, roles=OWNERS_ALONE)[0].name == "Bench 7"
    changed = ClassSettings(mate_word="bond", decimal="comma")
    classes.change_settings(session, made, name="Bench 8", settings=changed, teacher=teacher)
    assert (made.name, ClassSettings.model_validate(made.settings)) == ("Bench 8", changed)
    assert actions(session, made) == ["settings-changed", "class-made"]


def test_a_new_code_ends_the_old_one(session: Session, classroom: Classroom, teacher: Person) -> None:
    before = classroom.code
    classes.change_code(session, classroom, teacher=teacher)
    assert classroom.code != before


def test_a_class_is_shared_and_left_again(
    session: Session, classroom: Classroom, teacher: Person, school: School
) -> None:
    classes.share_class(session, classroom, people.OTHER_TEACHER.login, role="teacher", teacher=teacher)
    session.flush()
    other = Person(id=school.other_teacher_id, name=people.OTHER_TEACHER.name, role="teacher")
    assert class_queries.class_of_teacher(session, classroom.id, other.id)
    with pytest.raises(NotAllowed, match="only its owner does this"):
        classes.unshare_class(session, classroom, teacher.id, teacher=other)
    classes.unshare_class(session, classroom, other.id, teacher=other)
    session.flush()
    with pytest.raises(NotFound):
        class_queries.class_of_teacher(session, classroom.id, other.id)


def test_the_owner_does_not_leave_and_nobody_unknown_comes_in(
    session: Session, classroom: Classroom, teacher: Person
) -> None:
    with pytest.raises(FormRejected, match="does not leave"):
        classes.unshare_class(session, classroom, teacher.id, teacher=teacher)
    for login in ("nobody", people.STUDENT.login):
        with pytest.raises(FormRejected):
            classes.share_class(session, classroom, login, role="assistant", teacher=teacher)


def test_a_class_goes_into_the_archive_and_comes_out(session: Session, classroom: Classroom, teacher: Person) -> None:
    classes.archive_class(session, classroom, teacher=teacher, now=NOW)
    assert classroom.archived_at == NOW
    classes.take_out_of_archive(session, classroom, teacher=teacher)
    assert classroom.archived_at is None
    assert actions(session, classroom)[:2] == ["class-unarchived", "class-archived"]


@pytest.mark.parametrize("with_students", [True, False])
def test_next_years_class_has_the_exercises_and_perhaps_the_students(
    session: Session, classroom: Classroom, teacher: Person, school: School, with_students: bool
) -> None:
    following = classes.roll_over(
        session, classroom, name="Class One, next", days=364, with_students=with_students, teacher=teacher
    )
    session.flush()
    own = [version.id for version in exercise_queries.exercises_of_class(session, following.id)]
    assert own == [version.id for version in exercise_queries.exercises_of_class(session, classroom.id)]
    students = {student.id for student in class_queries.students_of_class(session, following.id)}
    assert students == ({school.student_id, school.classmate_id} if with_students else set())
    assert actions(session, following) == ["class-made"]


def test_a_class_that_was_taken_out_is_read_in_again(session: Session, classroom: Classroom, teacher: Person) -> None:
    content = classes.take_class(session, classroom, teacher=teacher)
    back = classes.read_class(session, content, name="class.zip", teacher=teacher, now=NOW)
    session.flush()
    assert (back.id != classroom.id, back.archived_at) == (True, NOW)
    assert len(class_queries.students_of_class(session, back.id)) == 2


@pytest.fixture
def build(database: Database, session: Session, school: School) -> Build:
    build_id = hand_in(database, school, school.version_id, school.student_id, [row("knob.pilot", "missed", 0)])
    return session.get_one(Build, build_id)


CHECK = CheckResult.model_validate(row("knob.pilot", "missed", 0))


def test_a_question_without_words_is_refused_and_one_with_them_asked_once(
    session: Session, classroom: Classroom, build: Build, student: Person
) -> None:
    with pytest.raises(FormRejected, match="no words"):
        ask.ask_question(session, build, CHECK, "  \n", student=student)
    for _ in range(2):
        ask.ask_question(session, build, CHECK, " Is it not 4? ", student=student)
        session.flush()
        session.expire(build)
    assert [(question.check_id, question.text) for question in build.questions] == [("knob.pilot", "Is it not 4?")]
    assert actions(session, classroom).count("questioned") == 1


def test_a_hand_goes_up_and_down(
    session: Session, classroom: Classroom, build: Build, student: Person, teacher: Person
) -> None:
    ask.raise_hand(session, build, CHECK, student=student)
    session.flush()
    assert [hand.student_id for hand in marking_queries.hands_up(session, classroom.id)] == [student.id]
    classes.lower_hand(session, classroom, session.get_one(User, student.id), teacher=teacher)
    session.flush()
    assert list(marking_queries.hands_up(session, classroom.id)) == []
    assert actions(session, classroom)[0] == "hand-lowered"
