"""What is asked of the database about exercises and where they are set, by name."""

from collections.abc import Collection, Sequence
from typing import Any

from sqlalchemy import cast, delete, func, or_, select, text
from sqlalchemy.dialects.postgresql import JSONPATH, insert
from sqlalchemy.orm import Session

from rigid_bench.core.planning.estimate import Extent
from rigid_bench.core.values.errors import NotFound
from rigid_bench.core.wording.language import N_, _
from rigid_bench.store.queries.people_queries import Person
from rigid_bench.store.tables import (
    ArchivedExercise,
    Assignment,
    ClassTeacher,
    ExerciseVersion,
    Membership,
)

_LOOK = N_("Go back to your start page and follow the link there")


def add_version(
    session: Session, *, exercise: str, title: str, digest: str, bundle: bytes, document: Any, prepared: Any
) -> ExerciseVersion:
    """Add the next version of an exercise; the same bundle again is the version that it was."""
    same = select(ExerciseVersion).where(ExerciseVersion.exercise == exercise, ExerciseVersion.digest == digest)
    known = session.scalar(same)
    if known is not None:
        return known
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
    if not user.is_teacher:
        query = query.where(or_(Assignment.opens_at.is_(None), Assignment.opens_at <= func.now()))
    version = session.scalar(query)
    if version is None:
        raise NotFound(_("exercise"), _("there is no such exercise for you"), _LOOK)
    return version


def version(session: Session, version_id: int) -> ExerciseVersion:
    """Return a version of an exercise that there is."""
    return session.get_one(ExerciseVersion, version_id)


def pictures_of_versions(session: Session, version_ids: Sequence[int]) -> dict[int, Any]:
    """Return by version how its assembly or first part looks: a `ViewModel` as JSON; none for what has no model."""
    ways = (
        "$.sheet.assembly.view",
        "$.sheet.assembly ? (exists(@.visible))",  # as older versions keep it
        '$.sheet.parts.*.views[*] ? (@.name == "pictorial")',
    )
    seen = func.coalesce(*(func.jsonb_path_query_first(ExerciseVersion.prepared, cast(way, JSONPATH)) for way in ways))
    result = session.execute(select(ExerciseVersion.id, seen).where(ExerciseVersion.id.in_(version_ids)))
    return {version_id: view for version_id, view in result if view is not None}


def classes_of_exercise(session: Session, exercise: str, class_ids: Collection[int]) -> set[int]:
    """Return which of some classes work on a version of an exercise."""
    query = (
        select(Assignment.class_id)
        .join(ExerciseVersion, ExerciseVersion.id == Assignment.version_id)
        .where(ExerciseVersion.exercise == exercise, Assignment.class_id.in_(class_ids))
    )
    return set(session.scalars(query))


def classes_of_versions(session: Session, class_ids: Sequence[int]) -> dict[int, list[int]]:
    """Return by version which of these classes work on it."""
    classes: dict[int, list[int]] = {}
    query = select(Assignment.version_id, Assignment.class_id).where(Assignment.class_id.in_(class_ids))
    for version_id, class_id in session.execute(query.order_by(Assignment.class_id)):
        classes.setdefault(version_id, []).append(class_id)
    return classes


def checks_of_version(session: Session, version_id: int) -> list[tuple[str, str]]:
    """Return id and title of each check of a version, in its order."""
    query = text("""
        select c->>'id', c->>'title' from exercise_versions,
               jsonb_array_elements(document->'checks') with ordinality as each(c, place)
        where id = :version_id order by place
    """)
    return [(name, title) for name, title in session.execute(query, {"version_id": version_id})]


def archived(session: Session) -> set[str]:
    """Return the exercises that are out of the way."""
    return set(session.scalars(select(ArchivedExercise.exercise)))


def archive(session: Session, exercise: str) -> None:
    """Put an exercise out of the way; a second time changes nothing."""
    session.execute(insert(ArchivedExercise).values(exercise=exercise).on_conflict_do_nothing())


def take_out_of_archive(session: Session, exercise: str) -> None:
    """Offer an exercise again."""
    session.execute(delete(ArchivedExercise).where(ArchivedExercise.exercise == exercise))


def versions_of(session: Session, exercise: str) -> Sequence[ExerciseVersion]:
    """List the versions of an exercise, newest first."""
    query = select(ExerciseVersion).where(ExerciseVersion.exercise == exercise)
    return session.scalars(query.order_by(ExerciseVersion.number.desc())).all()


def extents_of_versions(session: Session, version_ids: Sequence[int]) -> dict[int, Extent]:
    """Return how much there is to do in each version: parts, checks of one part, checks of several."""
    query = text("""
        select id, jsonb_array_length(document->'parts'),
               (select count(*) from jsonb_array_elements(document->'checks') as c where c ? 'part'),
               (select count(*) from jsonb_array_elements(document->'checks') as c where not c ? 'part')
        from exercise_versions where id = any(:ids)
    """)
    return {
        version_id: Extent(parts=parts, sizes=sizes, relations=relations)
        for version_id, parts, sizes, relations in session.execute(query, {"ids": list(version_ids)})
    }
