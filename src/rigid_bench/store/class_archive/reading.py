"""A class is read back from its zip, as one that is in the archive."""

from collections.abc import Iterator, Mapping, Sequence
from datetime import datetime
from typing import Any

from pydantic import ValidationError
from sqlalchemy import select
from sqlalchemy.exc import DataError, IntegrityError
from sqlalchemy.orm import Session

from rigid_bench.core.formats.archive import read_zip
from rigid_bench.core.formats.documents import document_error
from rigid_bench.core.grading.report.models import Prepared, Report
from rigid_bench.core.values.errors import UnreadableFile
from rigid_bench.core.wording.language import N_, _
from rigid_bench.store.class_archive.documents import FILE, BuildRow, ClassDocument, ExerciseRow, GroupRow, TermsRow
from rigid_bench.store.class_archive.writing import OVERRIDE, QUESTION, RETURN
from rigid_bench.store.class_settings import ClassSettings
from rigid_bench.store.codes import new_code
from rigid_bench.store.files import keep_files
from rigid_bench.store.queries import account_queries, people_queries
from rigid_bench.store.queries.people_queries import Person
from rigid_bench.store.queries.work_queries import open_checks
from rigid_bench.store.tables import (
    Assignment,
    Build,
    Classroom,
    ClassTeacher,
    ExerciseVersion,
    GroupMembership,
    Lesson,
    Membership,
    Override,
    Question,
    Return,
    Run,
    StageLesson,
    Terms,
    User,
    Withdrawal,
)
from rigid_bench.store.versions import keep_version

#: A school's largest class for a year, with all that was handed in.
_MOST_FILES, _MOST_BYTES = 50_000, 2_000_000_000
_NEXT = N_("Choose a zip that was written by “The whole class as a zip”")
#: No password has this hash: who is made anew gets one from the teacher.
_NO_PASSWORD = "!"


def read_class(session: Session, data: bytes, *, name: str, reader: Person, now: datetime) -> Classroom:
    """Make a class from its zip: in the archive, with the reader as its owner.

    Parameters
    ----------
    session
        To write with.
    data, name
        The zip, and what it is called.
    reader
        Who reads it. Students whose accounts the reader answers for, by sign-in name and name, are the same; all
        others are made anew, without a password.
    now
        Since when it is in the archive.

    Raises
    ------
    UnreadableFile
        It is no such zip, or something in it does not fit.
    """
    files = read_zip(data, name=name, most_files=_MOST_FILES, most_bytes=_MOST_BYTES)
    document = _document(files, name)
    try:
        return _Reading(session, files, reader).make(document, now)
    except (KeyError, IndexError, ValueError, TypeError, IntegrityError, DataError) as exc:
        raise UnreadableFile(
            name, _("something in it is missing or does not fit ({name__})", name__=type(exc).__name__), _NEXT
        ) from exc


def _document(files: Mapping[str, bytes], name: str) -> ClassDocument:
    if FILE not in files:
        raise UnreadableFile(name, _("there is no {file} in it", file=FILE), _NEXT)
    try:
        return ClassDocument.model_validate_json(files[FILE])
    except ValidationError as exc:
        raise document_error(FILE, exc) from exc


class _Reading:
    """What is made, by what the document calls it."""

    def __init__(self, session: Session, files: Mapping[str, bytes], reader: Person) -> None:
        self._session, self._files, self._reader = session, files, reader
        self._teachers = {user.login: user.id for user in session.scalars(select(User).where(User.role != "student"))}
        self._versions: list[ExerciseVersion] = []
        self._students: dict[str, User] = {}

    def make(self, document: ClassDocument, now: datetime) -> Classroom:
        settings = ClassSettings.model_validate(document.settings)
        room = Classroom(
            name=document.name, code=new_code(), settings=settings.model_dump(mode="json"), archived_at=now
        )
        self._session.add(room)
        self._session.flush()
        self._session.add(ClassTeacher(class_id=room.id, teacher_id=self._reader.id, role="owner"))
        self._versions = [self._exercise(row) for row in document.exercises]
        for row in document.students:
            self._students[row.login] = self._student(row.login, row.name)
            if row.is_member:
                self._session.add(Membership(class_id=room.id, student_id=self._students[row.login].id))
        self._plan(room, document)
        for own in document.withdrawals:
            fields = own.model_dump(exclude={"teacher"})
            self._session.add(Withdrawal(class_id=room.id, teacher_id=self._teacher(own.teacher), **fields))
        for build in document.builds:
            self._build(room, build)
        self._session.flush()
        return room

    def _exercise(self, row: ExerciseRow) -> ExerciseVersion:
        bundle = read_zip(self._files[row.bundle], name=row.bundle)
        prepared = Prepared.model_validate_json(self._files[row.prepared])
        return keep_version(self._session, bundle, prepared.model_dump(mode="json"))

    def _student(self, login: str, name: str) -> User:
        known = people_queries.user_by_login(self._session, login)
        is_same = known is not None and known.role == "student" and known.name == name
        if known and is_same and account_queries.may_manage(self._reader, known):
            return known
        free = login
        for number in range(2, 10_000):
            if people_queries.user_by_login(self._session, free) is None:
                break
            free = f"{login}-{number}"
        return people_queries.add_user(
            self._session,
            login=free,
            name=name,
            role="student",
            password_hash=_NO_PASSWORD,
            home_teacher_id=self._reader.id,
        )

    def _teacher(self, login: str) -> int:
        """Return the teacher of a sign-in name; where there is none here, whoever reads it stands for them."""
        return self._teachers.get(login, self._reader.id)

    def _plan(self, room: Classroom, document: ClassDocument) -> None:
        lessons = [Lesson(class_id=room.id, **row.model_dump()) for row in document.lessons]
        self._session.add_all(lessons)
        self._session.flush()
        for given in document.assignments:
            fields = given.model_dump(exclude={"exercise", "lesson"})
            lesson_id = None if given.lesson is None else lessons[given.lesson].id
            version_id = self._versions[given.exercise].id
            self._session.add(Assignment(class_id=room.id, version_id=version_id, lesson_id=lesson_id, **fields))
        for stage in document.stages:
            self._session.add(
                StageLesson(
                    class_id=room.id,
                    version_id=self._versions[stage.exercise].id,
                    stage=stage.stage,
                    lesson_id=lessons[stage.lesson].id,
                )
            )
        self._session.flush()
        groups = document.groups or list(_pairs(document.terms))
        numbers = {(own.student, own.exercise): own.number for own in groups if own.left_at is None}
        for own in groups:
            self._session.add(
                GroupMembership(
                    class_id=room.id,
                    version_id=self._versions[own.exercise].id,
                    student_id=self._students[own.student].id,
                    **own.model_dump(include={"number", "joined_at", "left_at"}),
                )
            )
        for agreed in document.terms:
            self._session.add(
                Terms(
                    class_id=room.id,
                    version_id=self._versions[agreed.exercise].id,
                    student_id=self._students[agreed.student].id,
                    due_at=agreed.due_at,
                    is_absent=agreed.is_absent,
                    group_number=numbers.get((agreed.student, agreed.exercise)),
                )
            )

    def _build(self, room: Classroom, row: BuildRow) -> None:
        build = Build(
            class_id=room.id,
            version_id=self._versions[row.exercise].id,
            student_id=self._students[row.student].id,
            handed_in_at=row.handed_in_at,
            # what waited to be measured then is not measured now
            state="graded" if row.runs else "failed",
            counts=row.counts,
            error=row.error,
        )
        self._session.add(build)
        self._session.flush()
        for file in row.files:
            contents = {file.name: self._files[file.path]}
            build.files += keep_files(self._session, contents, is_evidence=file.is_evidence)
        for run in row.runs:
            report = Report.model_validate_json(self._files[run.report]).model_dump(mode="json")
            self._session.add(
                Run(
                    build_id=build.id,
                    version_id=self._versions[run.exercise].id,
                    engine_version=run.engine_version,
                    made_at=run.made_at,
                    is_trial=run.is_trial,
                    report=report,
                    open_checks=open_checks(report),
                )
            )
        for kind, rows, names in ((Override, row.overrides, OVERRIDE), (Return, row.returns, RETURN)):
            for own in rows:
                fields = {**_values(own, names), "teacher_id": self._teacher(str(own["teacher"]))}
                self._session.add(kind(build_id=build.id, **fields))
        for own in row.questions:
            self._session.add(Question(build_id=build.id, **_values(own, QUESTION)))


def _pairs(terms: Sequence[TermsRow]) -> Iterator[GroupRow]:
    """Give the pairs of a zip of before there were groups, as groups."""
    with_partner = [own for own in terms if own.partner is not None]
    pairs = sorted({(own.exercise, *sorted((own.student, str(own.partner)))) for own in with_partner})
    for own in with_partner:
        number = pairs.index((own.exercise, *sorted((own.student, str(own.partner))))) + 1
        yield GroupRow(student=own.student, exercise=own.exercise, number=number, joined_at=None, left_at=None)


def _values(row: Mapping[str, Any], names: Sequence[str]) -> dict[str, Any]:
    """Return the named fields; those that are times, as times."""
    return {
        name: datetime.fromisoformat(row[name]) if name.endswith("_at") and row[name] is not None else row[name]
        for name in names
    }
