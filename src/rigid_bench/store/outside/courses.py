"""Course platforms, and which of their courses and links are which class and exercise."""

from collections.abc import Sequence
from dataclasses import dataclass

from cryptography.hazmat.primitives import serialization
from cryptography.hazmat.primitives.asymmetric import rsa
from sqlalchemy import delete, func, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from rigid_bench.core.values.errors import FormRejected, NotFound
from rigid_bench.core.wording.language import _
from rigid_bench.store.tables import (
    Assignment,
    Classroom,
    Course,
    CourseLink,
    CoursePlatform,
    ExerciseVersion,
    PlatformKey,
)

#: Any number that only this program takes: whoever makes the key holds it.
_KEY_LOCK = 7_302
#: RSA as the LTI security framework asks (1EdTech Security Framework 1.0, 7.3.2: at least 2048, from memory), bits.
_KEY_BITS = 2048


@dataclass(frozen=True, slots=True, kw_only=True)
class KeyPair:
    """The key of this program, as PEM."""

    private_pem: str
    public_pem: str


def own_key(session: Session) -> KeyPair:
    """Return the key with which this program signs what it tells course platforms; it is made when first asked for."""
    key = session.scalar(select(PlatformKey))
    if key is None:
        session.execute(select(func.pg_advisory_xact_lock(_KEY_LOCK)))
        key = session.scalar(select(PlatformKey)) or _new_key(session)
    return KeyPair(private_pem=key.private_pem, public_pem=key.public_pem)


def _new_key(session: Session) -> PlatformKey:
    made = rsa.generate_private_key(public_exponent=65_537, key_size=_KEY_BITS)
    private = made.private_bytes(
        serialization.Encoding.PEM, serialization.PrivateFormat.PKCS8, serialization.NoEncryption()
    )
    public = made.public_key().public_bytes(serialization.Encoding.PEM, serialization.PublicFormat.SubjectPublicKeyInfo)
    key = PlatformKey(private_pem=private.decode(), public_pem=public.decode())
    session.add(key)
    session.flush()
    return key


def platforms(session: Session) -> Sequence[CoursePlatform]:
    """List the course platforms, by name."""
    return session.scalars(select(CoursePlatform).order_by(CoursePlatform.name, CoursePlatform.id)).all()


def platform_of(session: Session, issuer: str, client_id: str | None) -> CoursePlatform | None:
    """Return the platform of an issuer; by what it calls this program, where an issuer has several."""
    query = select(CoursePlatform).where(CoursePlatform.issuer == issuer)
    known = session.scalars(query if client_id is None else query.where(CoursePlatform.client_id == client_id)).all()
    return known[0] if len(known) == 1 else None


def add_platform(session: Session, platform: CoursePlatform) -> None:
    """Keep a platform.

    Raises
    ------
    FormRejected
        There is one of that issuer and client already.
    """
    try:
        with session.begin_nested():
            session.add(platform)
    except IntegrityError as exc:
        problem = _("there is one of this issuer and client already")
        raise FormRejected(_("platform"), problem, _("Remove that one first"), "issuer") from exc


def remove_platform(session: Session, platform_id: int) -> str:
    """Forget a platform with its courses and links; return its name. Classes, people and marks stay here.

    Raises
    ------
    NotFound
        There is no such platform.
    """
    row = delete(CoursePlatform).where(CoursePlatform.id == platform_id).returning(CoursePlatform.name)
    name = session.scalar(row)
    if name is None:
        raise NotFound(_("platform"), _("there is no such course platform"), _("Load the page again"))
    return name


def course_of(session: Session, platform_id: int, context: str) -> Course | None:
    """Return which class a course is, or None."""
    return session.scalar(select(Course).where(Course.platform_id == platform_id, Course.context == context))


def courses_of_class(session: Session, class_id: int) -> Sequence[Course]:
    """List the courses that a class is, by title."""
    return session.scalars(select(Course).where(Course.class_id == class_id).order_by(Course.title, Course.id)).all()


def course_of_class(session: Session, course_id: int, class_id: int) -> Course:
    """Return a course that a class is.

    Raises
    ------
    NotFound
        The class is no such course.
    """
    course = session.get(Course, course_id)
    if course is None or course.class_id != class_id:
        raise NotFound(_("course"), _("the class is no such course"), _("Load the page again"))
    return course


def set_course(session: Session, *, platform_id: int, context: str, title: str, class_id: int) -> Course:
    """Let a course be a class; one that is another class already becomes this one."""
    values = {"title": title, "class_id": class_id}
    row = insert(Course).values(platform_id=platform_id, context=context, **values)
    session.execute(row.on_conflict_do_update(index_elements=["platform_id", "context"], set_=values))
    return session.scalars(
        select(Course).where(Course.platform_id == platform_id, Course.context == context)
    ).one()  # fmt: skip


def end_course(session: Session, course: Course) -> None:
    """Let a course be a class no more; the class stays, and no marks are sent from it any more."""
    session.execute(delete(Course).where(Course.id == course.id))


def set_link(session: Session, course_id: int, resource: str, *, exercise: str, line_item: str) -> None:
    """Let a link of a course lead to an exercise, with the column that its marks go to."""
    values = {"exercise": exercise, "line_item": line_item}
    row = insert(CourseLink).values(course_id=course_id, resource=resource, **values)
    session.execute(row.on_conflict_do_update(index_elements=["course_id", "resource"], set_=values))


def exercise_of_link(session: Session, course_id: int, resource: str) -> str | None:
    """Return the exercise to which a link leads, or None."""
    link = session.get(CourseLink, (course_id, resource))
    return link.exercise if link else None


def version_for(session: Session, class_id: int, exercise: str) -> ExerciseVersion | None:
    """Return the version of an exercise that a class works on: the newest, or None."""
    query = (
        select(ExerciseVersion)
        .join(Assignment, Assignment.version_id == ExerciseVersion.id)
        .where(Assignment.class_id == class_id, ExerciseVersion.exercise == exercise)
        .order_by(ExerciseVersion.number.desc())
    )
    return session.scalars(query.limit(1)).first()


@dataclass(frozen=True, slots=True, kw_only=True)
class Choosable:
    """An exercise that a class works on."""

    class_id: int
    class_name: str
    exercise: str
    title: str


def choosable(session: Session, class_ids: Sequence[int]) -> list[Choosable]:
    """List the exercises that some classes work on, by class and title, each once."""
    query = (
        select(Classroom.id, Classroom.name, ExerciseVersion.exercise, func.max(ExerciseVersion.title))
        .join(Assignment, Assignment.class_id == Classroom.id)
        .join(ExerciseVersion, ExerciseVersion.id == Assignment.version_id)
        .where(Classroom.id.in_(class_ids))
        .group_by(Classroom.id, Classroom.name, ExerciseVersion.exercise)
        .order_by(Classroom.name, Classroom.id, func.max(ExerciseVersion.title))
    )
    return [
        Choosable(class_id=class_id, class_name=name, exercise=exercise, title=title)
        for class_id, name, exercise, title in session.execute(query)
    ]
