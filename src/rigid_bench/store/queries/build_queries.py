"""What is asked of the database about builds, by name. Each function is one sentence of the program."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from types import MappingProxyType
from typing import Any

from sqlalchemy import and_, delete, exists, func, or_, select, update
from sqlalchemy.dialects.postgresql import distinct_on
from sqlalchemy.orm import Session, aliased, joinedload, selectinload

from rigid_bench.core.values.errors import NotFound
from rigid_bench.core.wording.language import N_, _
from rigid_bench.store.files import keep_files
from rigid_bench.store.queries.people_queries import Person
from rigid_bench.store.tables import (
    COUNTED,
    UNCOUNTED,
    Assignment,
    Build,
    BuildFile,
    Classroom,
    ClassTeacher,
    ExerciseVersion,
    Membership,
    Run,
    Scene,
    Terms,
)

#: Holds the mates that a student confirmed.
CONFIRMED_FILE = "confirmed.build.json"
#: What is proposed to a student of a build that does not count yet is not kept with one that does.
_WITHOUT_PROPOSALS = Build.understood.op("-")("proposed")
_LOOK = N_("Go back to your start page and follow the link there")


@dataclass(frozen=True, slots=True, kw_only=True)
class Task:
    """One exercise of a student's class, with the student's newest build for it."""

    classroom: Classroom
    version: ExerciseVersion
    build: Build | None


def tasks_of_student(session: Session, student_id: int) -> list[Task]:
    """List a student's exercises, each with the newest build handed in for it."""
    query = (
        select(Classroom, ExerciseVersion)
        .join(Membership, Membership.class_id == Classroom.id)
        .join(Assignment, Assignment.class_id == Classroom.id)
        .join(ExerciseVersion, ExerciseVersion.id == Assignment.version_id)
        .where(Membership.student_id == student_id, Classroom.archived_at.is_(None))
        .where(or_(Assignment.opens_at.is_(None), Assignment.opens_at <= func.now()))
        .order_by(Classroom.name, Assignment.place, ExerciseVersion.id)
    )
    newest = {
        (build.class_id, build.version_id): build for build in _newest_builds(session, Build.student_id == student_id)
    }
    return [
        Task(classroom=room, version=version, build=newest.get((room.id, version.id)))
        for room, version in session.execute(query)
    ]


def newest_build_of(session: Session, class_id: int, version_id: int, student_id: int) -> Build | None:
    """Return a student's newest build for an exercise, or None."""
    own = and_(Build.class_id == class_id, Build.version_id == version_id, Build.student_id == student_id)
    return next(iter(_newest_builds(session, own)), None)


def build_before(session: Session, build: Build) -> Build | None:
    """Return what the student handed in for the same exercise before a build, with its runs; None for the first."""
    query = (
        select(Build)
        .where(
            Build.class_id == build.class_id,
            Build.version_id == build.version_id,
            Build.student_id == build.student_id,
            Build.state == "graded",
            Build.counts,
            Build.id < build.id,
        )
        .order_by(Build.id.desc())
        .limit(1)
        .options(selectinload(Build.runs))
    )
    return session.scalar(query)


def builds_of_exercise(session: Session, class_id: int, version_id: int) -> Sequence[Build]:
    """List each student's newest build for an exercise, with all that belongs to it."""
    return _newest_builds(session, and_(Build.class_id == class_id, Build.version_id == version_id))


def ready_builds(session: Session, build: Build) -> Sequence[Build]:
    """List the other students' newest builds for the same exercise that are measured and not returned."""
    builds = builds_of_exercise(session, build.class_id, build.version_id)
    return [
        candidate
        for candidate in builds
        if candidate.id != build.id and candidate.state == "graded" and not candidate.returns
    ]


def count_to_return(session: Session, class_ids: Sequence[int]) -> dict[int, int]:
    """Count the newest builds of classes whose cards are ready and not returned."""
    newest = (
        select(func.max(Build.id))
        .where(Build.class_id.in_(class_ids), Build.state.in_(COUNTED), Build.counts)
        .group_by(Build.class_id, Build.version_id, Build.student_id)
    )
    ready = Build.state.in_(["graded", "failed"])
    query = select(Build.class_id, func.count()).where(Build.id.in_(newest), ready, ~Build.returns.any())
    return {row[0]: row[1] for row in session.execute(query.group_by(Build.class_id))}


def _newest_builds(session: Session, condition: Any) -> Sequence[Build]:
    query = (
        select(Build)
        .where(condition, Build.state.in_(COUNTED), Build.counts)
        .ext(distinct_on(Build.class_id, Build.version_id, Build.student_id))
        .order_by(Build.class_id, Build.version_id, Build.student_id, Build.id.desc())
        .options(
            selectinload(Build.runs).joinedload(Run.version),
            selectinload(Build.overrides),
            selectinload(Build.returns),
            selectinload(Build.questions),
        )
    )
    return session.scalars(query).all()


def add_build(
    session: Session,
    *,
    class_id: int,
    version_id: int,
    student_id: int,
    files: Mapping[str, bytes],
    state: str = "queued",
    evidence: Mapping[str, bytes] = MappingProxyType({}),
) -> Build:
    """Keep what a student handed in, waiting to be measured; or chose, waiting to be looked at.

    What the student chose for the same exercise before, and never handed in, gives way.
    """
    session.execute(
        delete(Build).where(
            Build.class_id == class_id,
            Build.version_id == version_id,
            Build.student_id == student_id,
            or_(Build.state.in_(UNCOUNTED), and_(Build.counts.is_(False), Build.state.in_(["graded", "failed"]))),
        )
    )
    build = Build(class_id=class_id, version_id=version_id, student_id=student_id, state=state)
    build.files = [*keep_files(session, files), *keep_files(session, evidence, is_evidence=True)]
    session.add(build)
    session.flush()
    return build


def build_for(session: Session, build_id: int, user: Person) -> Build:
    """Return a build with its runs, for its student or for the class's teacher.

    Raises
    ------
    NotFound
        There is none that this person may see.
    """
    query = (
        select(Build)
        .where(Build.id == build_id)
        .options(
            joinedload(Build.version),
            joinedload(Build.student),
            selectinload(Build.files),
            selectinload(Build.runs),
            selectinload(Build.overrides),
            selectinload(Build.returns),
            selectinload(Build.questions),
        )
    )
    if user.is_teacher:
        own = select(ClassTeacher.class_id).where(ClassTeacher.teacher_id == user.id)
        query = query.where(Build.class_id.in_(own), Build.state.in_(COUNTED), Build.counts)
    else:
        query = query.where(or_(Build.student_id == user.id, and_(Build.counts, _in_group_with(user.id))))
    build = session.scalar(query)
    if build is None:
        raise NotFound(_("build"), _("there is no such build for you"), _LOOK)
    return build


def _in_group_with(student_id: int) -> Any:
    """A build of somebody who works with this student on that exercise."""
    own, other = aliased(Terms), aliased(Terms)
    return exists().where(
        own.class_id == Build.class_id,
        own.version_id == Build.version_id,
        own.student_id == student_id,
        other.class_id == Build.class_id,
        other.version_id == Build.version_id,
        other.student_id == Build.student_id,
        other.group_number == own.group_number,
    )


def size_of_class(session: Session, class_id: int) -> int:
    """Return what the files of a class's builds take, bytes."""
    query = select(func.coalesce(func.sum(BuildFile.size), 0)).join(Build, Build.id == BuildFile.build_id)
    return int(session.scalar(query.where(Build.class_id == class_id)) or 0)


def count_attempts(session: Session, *, class_id: int, version_id: int, student_id: int) -> int:
    """Count the builds that a student handed in for an exercise."""
    own = (Build.class_id == class_id, Build.version_id == version_id, Build.student_id == student_id)
    query = select(func.count()).select_from(Build).where(*own, Build.state.in_(COUNTED), Build.counts)
    return session.scalar(query) or 0


def builds_before(session: Session, build: Build) -> int:
    """Count the builds that wait or are measured before this one."""
    waiting = Build.state.in_(["looking", "queued", "measuring"])
    query = select(func.count()).select_from(Build).where(waiting, Build.id < build.id)
    return session.scalar(query) or 0


def count_build(session: Session, build: Build) -> bool:
    """Let a build count from now on; False if it counts already, or was refused.

    One that was checked before is not measured again.
    """
    chosen = Build.state.in_(["looking", "looked"])
    queued = {
        "state": "queued", "progress": "", "counts": True, "handed_in_at": func.now(), "understood": _WITHOUT_PROPOSALS
    }  # fmt: skip
    changed = session.execute(update(Build).where(Build.id == build.id, chosen).values(**queued).returning(Build.id))
    if changed.scalar() is not None:
        return True
    counted = {"counts": True, "handed_in_at": func.now()}
    session.execute(update(Build).where(Build.id == build.id, Build.counts.is_(False)).values(**counted))
    return False


def add_confirmed(session: Session, build: Build, build_file: bytes) -> bool:
    """Put a build file with confirmed mates to a build, to be looked at again; False if it is not looked at now."""
    again = {"state": "looking", "progress": "", "understood": None}
    is_looked = (Build.id == build.id, Build.state == "looked")
    if session.execute(update(Build).where(*is_looked).values(**again).returning(Build.id)).scalar() is None:
        return False
    build.files += keep_files(session, {CONFIRMED_FILE: build_file})
    return True


def check_build(session: Session, build: Build) -> bool:
    """Let a build be measured without counting; False if it is already, or was refused."""
    chosen = Build.state.in_(["looking", "looked"])
    values = {"state": "queued", "progress": "", "counts": False, "understood": _WITHOUT_PROPOSALS}
    changed = session.execute(update(Build).where(Build.id == build.id, chosen).values(**values).returning(Build.id))
    return changed.scalar() is not None


def has_scene(session: Session, build_id: int) -> bool:
    """Tell whether a build can be shown in 3D."""
    return bool(session.scalar(select(exists().where(Scene.build_id == build_id))))
