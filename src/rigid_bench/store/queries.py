"""Everything that is asked of the database, by name. Each function is one sentence of the program."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from types import MappingProxyType
from typing import Any

from sqlalchemy import and_, collate, delete, exists, func, or_, select, update
from sqlalchemy.dialects.postgresql import distinct_on, insert
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session, joinedload, selectinload

from rigid_bench.core.errors import FormRejected, NotAllowed, NotFound
from rigid_bench.store.class_settings import ClassSettings
from rigid_bench.store.codes import new_code
from rigid_bench.store.tables import (
    COUNTED,
    TEACHING,
    UNCOUNTED,
    Assignment,
    Build,
    BuildFile,
    Classroom,
    ClassTeacher,
    ExerciseVersion,
    Membership,
    Run,
    SentForm,
    SignIn,
    Terms,
    User,
)


@dataclass(frozen=True, slots=True, kw_only=True)
class Person:
    """Who is signed in: a plain value, so that an error page can show it after the transaction is gone."""

    id: int
    name: str
    role: str

    @property
    def is_teacher(self) -> bool:
        """Somebody who teaches: an administrator is a teacher, too."""
        return self.role in TEACHING

    @property
    def is_student(self) -> bool:
        """Somebody who hands in."""
        return self.role == "student"

    @property
    def is_administrator(self) -> bool:
        """Somebody who looks after the school's accounts."""
        return self.role == "administrator"


#: Of a class: all that its teachers may be, and those who may change its people and terms.
ANY_ROLE, TEACHES = ("owner", "teacher", "assistant"), ("owner", "teacher")
_LOOK = "Go back to your start page and follow the link there"


def user_by_login(session: Session, login: str) -> User | None:
    """Return the person with a sign-in name, or None."""
    return session.scalar(select(User).where(User.login == login))


def user_by_id(session: Session, user_id: int) -> User:
    """Return a person who is signed in, whole."""
    return session.get_one(User, user_id)


def add_user(
    session: Session, *, login: str, name: str, role: str, password_hash: str, home_teacher_id: int | None = None
) -> User:
    """Add somebody.

    Raises
    ------
    FormRejected
        Somebody has that sign-in name already, be it since a moment ago.
    """
    user = User(login=login, name=name, role=role, password_hash=password_hash, home_teacher_id=home_teacher_id)
    try:
        with session.begin_nested():
            session.add(user)
    except IntegrityError as exc:
        raise FormRejected("sign-in name", f"'{login}' is taken", "Choose another", "login") from exc
    return user


@dataclass(frozen=True, slots=True, kw_only=True)
class KnownPassword:
    """What checking a password needs."""

    user_id: int
    login: str
    name: str
    password_hash: str


def password_of(session: Session, *, login: str) -> KnownPassword | None:
    """Return what checking the password of a sign-in name needs; None where nobody with it may sign in."""
    user = user_by_login(session, login)
    if user is None or user.disabled_at:
        return None
    return KnownPassword(user_id=user.id, login=user.login, name=user.name, password_hash=user.password_hash)


def renew_hash(session: Session, *, user_id: int, password_hash: str) -> None:
    """Keep another hash of the same password."""
    session.execute(update(User).where(User.id == user_id).values(password_hash=password_hash))


def start_sign_in(session: Session, *, user_id: int, token_hash: str, hours: int) -> None:
    """Note that a person is signed in, and forget sessions that have run out."""
    session.execute(delete(SignIn).where(SignIn.expires_at < func.now()))
    session.add(SignIn(token_hash=token_hash, user_id=user_id, expires_at=datetime.now(UTC) + timedelta(hours=hours)))


def signed_in_person(session: Session, token_hash: str) -> Person | None:
    """Return who a session belongs to, or None once it has run out."""
    is_open = (SignIn.token_hash == token_hash, SignIn.expires_at > func.now(), User.disabled_at.is_(None))
    found = session.scalar(select(SignIn).join(SignIn.user).where(*is_open))
    return Person(id=found.user.id, name=found.user.name, role=found.user.role) if found else None


def end_sign_in(session: Session, token_hash: str) -> None:
    """Forget a session."""
    session.execute(delete(SignIn).where(SignIn.token_hash == token_hash))


def add_class(
    session: Session,
    *,
    name: str,
    teacher: User,
    students: Sequence[User] = (),
    settings: ClassSettings | None = None,
) -> Classroom:
    """Add a class with its owner and students."""
    own = settings.model_dump(mode="json") if settings else {}
    classroom = Classroom(name=name, code=new_code(), settings=own)
    session.add(classroom)
    session.flush()
    session.add(ClassTeacher(class_id=classroom.id, teacher_id=teacher.id, role="owner"))
    session.add_all(Membership(class_id=classroom.id, student_id=each.id) for each in students)
    return classroom


def classes_of_teacher(session: Session, teacher_id: int, *, roles: Sequence[str] = ANY_ROLE) -> Sequence[Classroom]:
    """List the classes in which a teacher has one of some roles."""
    query = select(Classroom).join(ClassTeacher, ClassTeacher.class_id == Classroom.id)
    own = (ClassTeacher.teacher_id == teacher_id, ClassTeacher.role.in_(roles))
    return session.scalars(query.where(*own).order_by(Classroom.name, Classroom.id)).all()


def class_of_teacher(
    session: Session, class_id: int, teacher_id: int, *, roles: Sequence[str] = ANY_ROLE
) -> tuple[Classroom, str]:
    """Return one of a teacher's own classes, and what the teacher is in it.

    Raises
    ------
    NotFound
        There is none, or it is another teacher's.
    NotAllowed
        The teacher has another role in it than those asked for.
    """
    query = select(Classroom, ClassTeacher.role).join(ClassTeacher, ClassTeacher.class_id == Classroom.id)
    found = session.execute(query.where(Classroom.id == class_id, ClassTeacher.teacher_id == teacher_id)).first()
    if found is None:
        raise NotFound("class", "there is no such class among yours", _LOOK)
    classroom, role = found
    if role not in roles:
        who = "its owner does" if roles == ("owner",) else "its teachers do"
        raise NotAllowed("class", f"this is not for an {role} of the class: {who} it", "Ask them")
    return classroom, role


def students_of_class(session: Session, class_id: int) -> Sequence[User]:
    """List a class's students by name, in the order of the class's language."""
    own = session.scalar(select(Classroom.settings).where(Classroom.id == class_id)) or {}
    order = collate(User.name, ClassSettings.model_validate(own).collation)
    query = select(User).join(Membership, Membership.student_id == User.id).where(Membership.class_id == class_id)
    return session.scalars(query.order_by(order, User.id)).all()


def add_version(
    session: Session, *, exercise: str, title: str, digest: str, bundle: bytes, document: Any, prepared: Any
) -> ExerciseVersion:
    """Add the next version of an exercise; the same bundle again is the version that it was."""
    same = select(ExerciseVersion).where(ExerciseVersion.exercise == exercise, ExerciseVersion.digest == digest)
    found = session.scalar(same)
    if found is not None:
        return found
    newest = session.scalar(select(func.max(ExerciseVersion.number)).where(ExerciseVersion.exercise == exercise))
    version = ExerciseVersion(
        exercise=exercise,
        number=(newest or 0) + 1,
        title=title,
        digest=digest,
        bundle=bundle,
        document=document,
        prepared=prepared,
    )
    session.add(version)
    session.flush()
    return version


def assign(session: Session, *, class_id: int, version_id: int, place: int = 0) -> Assignment:
    """Give a class an exercise to work on, at a place among its others."""
    assignment = Assignment(class_id=class_id, version_id=version_id, place=place)
    session.add(assignment)
    return assignment


def exercises_of_class(session: Session, class_id: int) -> Sequence[ExerciseVersion]:
    """List the exercise versions that a class works on."""
    query = (
        select(ExerciseVersion)
        .join(Assignment, Assignment.version_id == ExerciseVersion.id)
        .where(Assignment.class_id == class_id)
        .order_by(Assignment.place, ExerciseVersion.id)
    )
    return session.scalars(query).all()


def assigned_version(session: Session, *, class_id: int, version_id: int, user: Person) -> ExerciseVersion:
    """Return an exercise of a class, with its sheet, for one of the class's students or its teacher.

    Raises
    ------
    NotFound
        The class does not work on it, or the person is not of the class.
    """
    belongs = (
        select(ClassTeacher.class_id).where(ClassTeacher.teacher_id == user.id)
        if user.is_teacher
        else select(Membership.class_id).where(Membership.student_id == user.id)
    )
    query = (
        select(ExerciseVersion)
        .join(Assignment, Assignment.version_id == ExerciseVersion.id)
        .where(Assignment.class_id == class_id, Assignment.version_id == version_id, Assignment.class_id.in_(belongs))
    )
    found = session.scalar(query)
    if found is None:
        raise NotFound("exercise", "there is no such exercise for you", _LOOK)
    return found


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
        .where(Membership.student_id == student_id)
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


def version(session: Session, version_id: int) -> ExerciseVersion:
    """Return a version of an exercise that there is."""
    return session.get_one(ExerciseVersion, version_id)


def versions_of(session: Session, exercise: str) -> Sequence[ExerciseVersion]:
    """List the versions of an exercise, newest first."""
    query = select(ExerciseVersion).where(ExerciseVersion.exercise == exercise)
    return session.scalars(query.order_by(ExerciseVersion.number.desc())).all()


def builds_of_exercise(session: Session, class_id: int, version_id: int) -> Sequence[Build]:
    """List each student's newest build for an exercise, with all that belongs to it."""
    return _newest_builds(session, and_(Build.class_id == class_id, Build.version_id == version_id))


def ready_builds(session: Session, build: Build) -> Sequence[Build]:
    """List the other students' newest builds for the same exercise that are measured and not returned."""
    builds = builds_of_exercise(session, build.class_id, build.version_id)
    return [each for each in builds if each.id != build.id and each.state == "graded" and not each.returns]


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
    build.files = [
        BuildFile(name=name, size=len(content), content=content, is_evidence=is_evidence)
        for is_evidence, given in ((False, files), (True, evidence))
        for name, content in given.items()
    ]
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
        query = query.where(or_(Build.student_id == user.id, and_(Build.counts, _partner_of(user.id))))
    found = session.scalar(query)
    if found is None:
        raise NotFound("build", "there is no such build for you", _LOOK)
    return found


def _partner_of(student_id: int) -> Any:
    """A build of somebody who works with this student on that exercise."""
    return exists().where(
        Terms.class_id == Build.class_id,
        Terms.version_id == Build.version_id,
        Terms.student_id == student_id,
        Terms.partner_id == Build.student_id,
    )


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
    queued = {"state": "queued", "progress": "", "counts": True, "handed_in_at": func.now()}
    changed = session.execute(update(Build).where(Build.id == build.id, chosen).values(**queued).returning(Build.id))
    if changed.scalar() is not None:
        return True
    counted = {"counts": True, "handed_in_at": func.now()}
    session.execute(update(Build).where(Build.id == build.id, Build.counts.is_(False)).values(**counted))
    return False


def check_build(session: Session, build: Build) -> bool:
    """Let a build be measured without counting; False if it is already, or was refused."""
    chosen = Build.state.in_(["looking", "looked"])
    values = {"state": "queued", "progress": "", "counts": False}
    changed = session.execute(update(Build).where(Build.id == build.id, chosen).values(**values).returning(Build.id))
    return changed.scalar() is not None


def people_exist(session: Session) -> bool:
    """Say whether there is anybody yet."""
    return session.scalar(select(func.count()).select_from(User)) != 0


def keep_sent(session: Session, token: str) -> bool:
    """Note that a form was sent; False if it was before. Forms of yesterday are forgotten."""
    session.execute(delete(SentForm).where(SentForm.sent_at < func.now() - timedelta(days=1)))
    row = insert(SentForm).values(token=token).on_conflict_do_nothing().returning(SentForm.token)
    return session.scalar(row) is not None
