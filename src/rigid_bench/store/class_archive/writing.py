"""A class is written as a zip."""

import json
from collections.abc import Callable, Sequence
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session, selectinload

from rigid_bench.core.formats.archive import write_zip
from rigid_bench.store.class_archive.documents import (
    FILE,
    AssignmentRow,
    BuildRow,
    ClassDocument,
    ExerciseRow,
    FileRow,
    GroupRow,
    LessonRow,
    RunRow,
    StageRow,
    StudentRow,
    TermsRow,
    WithdrawalRow,
)
from rigid_bench.store.queries import class_queries
from rigid_bench.store.tables import (
    COUNTED,
    Assignment,
    Build,
    BuildFile,
    Classroom,
    ExerciseVersion,
    GroupMembership,
    Lesson,
    Override,
    Return,
    StageLesson,
    StoredFile,
    Terms,
    User,
    Withdrawal,
)

#: Of decisions, returns and questions: what is kept of each.
OVERRIDE = ("check_id", "marks", "comment", "made_at", "batch", "undone_at")
RETURN = ("returned_at", "total", "number", "batch", "seen_at", "taken_back_at")
QUESTION = ("check_id", "text", "asked_at", "answer", "answered_at")


def write_class(session: Session, classroom: Classroom) -> bytes:
    """Return a class as a zip: `class.json`, and beside it bundles, files and reports. No passwords, no addresses."""
    files: dict[str, bytes] = {}
    builds = _builds(session, classroom.id)
    versions = _versions(session, classroom.id, builds)
    place = {version.id: number for number, version in enumerate(versions)}
    lessons = list(session.scalars(select(Lesson).where(Lesson.class_id == classroom.id).order_by(Lesson.id)))
    members = {own.id for own in class_queries.students_of_class(session, classroom.id)}
    terms = session.scalars(select(Terms).where(Terms.class_id == classroom.id)).all()
    groups = session.scalars(
        select(GroupMembership).where(GroupMembership.class_id == classroom.id).order_by(GroupMembership.id)
    ).all()
    worked = {own.student_id for rows in (builds, terms, groups) for own in rows}
    people = _people(session, members | worked)
    teachers = {user.id: user.login for user in session.scalars(select(User).where(User.role != "student"))}
    document = ClassDocument(
        format="rigid-bench/class",
        version=1,
        name=classroom.name,
        settings=classroom.settings,
        students=[StudentRow(login=own.login, name=own.name, is_member=own.id in members) for own in people.values()],
        lessons=[LessonRow(**_fields(own, ("starts_at", "minutes", "room", "title"))) for own in lessons],
        exercises=[_exercise(number, version, files) for number, version in enumerate(versions)],
        assignments=_assignments(session, classroom.id, place, [own.id for own in lessons]),
        terms=[
            TermsRow(
                student=people[own.student_id].login,
                exercise=place[own.version_id],
                **_fields(own, ("due_at", "is_absent")),
            )
            for own in terms
            if own.version_id in place
        ],
        groups=_groups(groups, people, place),
        stages=_stages(session, classroom.id, place, [own.id for own in lessons]),
        withdrawals=_withdrawals(session, classroom.id, teachers),
        builds=[_build(own, people, place, teachers, files) for own in builds],
    )
    files[FILE] = document.model_dump_json(indent=1).encode()
    return write_zip(files)


def _builds(session: Session, class_id: int) -> list[Build]:
    query = (
        select(Build)
        .where(Build.class_id == class_id, Build.state.in_(COUNTED))
        .options(
            selectinload(Build.files).joinedload(BuildFile.stored).undefer(StoredFile.content),
            selectinload(Build.runs),
            selectinload(Build.overrides),
            selectinload(Build.questions),
        )
        .order_by(Build.id)
    )
    return list(session.scalars(query))


def _versions(session: Session, class_id: int, builds: list[Build]) -> list[ExerciseVersion]:
    """List the versions that the class works on or worked on, those it works on first."""
    given = session.scalars(
        select(Assignment.version_id).where(Assignment.class_id == class_id).order_by(Assignment.place)
    )
    used = [run.version_id for build in builds for run in build.runs] + [build.version_id for build in builds]
    return [session.get_one(ExerciseVersion, own) for own in dict.fromkeys([*given, *used])]


def _people(session: Session, ids: set[int]) -> dict[int, User]:
    return {user.id: user for user in session.scalars(select(User).where(User.id.in_(ids)).order_by(User.id))}


def _exercise(number: int, version: ExerciseVersion, files: dict[str, bytes]) -> ExerciseRow:
    row = ExerciseRow(bundle=f"exercise-{number}.zip", prepared=f"exercise-{number}.json")
    files[row.bundle] = version.bundle
    files[row.prepared] = json.dumps(version.prepared).encode()
    return row


def _assignments(session: Session, class_id: int, place: dict[int, int], lessons: list[int]) -> list[AssignmentRow]:
    kept = ("place", "due_at", "shows", "attempts", "late", "late_percent", "return_at", "opens_at", "after")
    return [
        AssignmentRow(
            exercise=place[own.version_id],
            lesson=lessons.index(own.lesson_id) if own.lesson_id in lessons else None,
            **_fields(own, kept),
        )
        for own in session.scalars(select(Assignment).where(Assignment.class_id == class_id))
    ]


def _groups(memberships: Sequence[GroupMembership], people: dict[int, User], place: dict[int, int]) -> list[GroupRow]:
    return [
        GroupRow(
            student=people[own.student_id].login,
            exercise=place[own.version_id],
            **_fields(own, ("number", "joined_at", "left_at")),
        )
        for own in memberships
        if own.version_id in place
    ]


def _stages(session: Session, class_id: int, place: dict[int, int], lessons: list[int]) -> list[StageRow]:
    return [
        StageRow(exercise=place[own.version_id], stage=own.stage, lesson=lessons.index(own.lesson_id))
        for own in session.scalars(select(StageLesson).where(StageLesson.class_id == class_id))
        if own.version_id in place
    ]


def _withdrawals(session: Session, class_id: int, teachers: dict[int, str]) -> list[WithdrawalRow]:
    return [
        WithdrawalRow(
            teacher=teachers.get(own.teacher_id, ""), **_fields(own, ("exercise", "check_id", "reason", "made_at"))
        )
        for own in session.scalars(select(Withdrawal).where(Withdrawal.class_id == class_id))
    ]


def _build(
    build: Build, people: dict[int, User], place: dict[int, int], teachers: dict[int, str], files: dict[str, bytes]
) -> BuildRow:
    kept_files, runs = [], []
    for number, file in enumerate(build.files):
        path = f"build-{build.id}-file-{number}"
        files[path] = file.content
        kept_files.append(FileRow(name=file.name, is_evidence=file.is_evidence, path=path))
    for number, run in enumerate(build.runs):
        path = f"build-{build.id}-report-{number}.json"
        files[path] = json.dumps(run.report).encode()
        kept = _fields(run, ("engine_version", "made_at", "is_trial"))
        runs.append(RunRow(exercise=place[run.version_id], report=path, **kept))
    return BuildRow(
        student=people[build.student_id].login,
        exercise=place[build.version_id],
        files=kept_files,
        runs=runs,
        overrides=[_said(own, OVERRIDE, lambda row: teachers.get(row.teacher_id, "")) for own in build.overrides],
        returns=[_said(own, RETURN, lambda row: teachers.get(row.teacher_id, "")) for own in _returns(build)],
        questions=[_fields(own, QUESTION) for own in build.questions],
        **_fields(build, ("handed_in_at", "state", "counts", "error")),
    )


def _returns(build: Build) -> list[Return]:
    """List all returns, those too that were taken back."""
    session = Session.object_session(build)
    assert session is not None
    return list(session.scalars(select(Return).where(Return.build_id == build.id).order_by(Return.id)))


def _said(row: Override | Return, names: tuple[str, ...], teacher: Callable[[Any], str]) -> dict[str, Any]:
    return {**_fields(row, names), "teacher": teacher(row)}


def _fields(row: Any, names: tuple[str, ...]) -> dict[str, Any]:
    return {name: getattr(row, name) for name in names}
