"""What is asked of the database about what a class got wrong, by name: small rows, not whole reports."""

from collections.abc import Sequence
from typing import Any

from sqlalchemy import select, text
from sqlalchemy.dialects.postgresql import distinct_on
from sqlalchemy.orm import Session, undefer

from rigid_bench.core.insight.attempts import Attempt, OpenCheck
from rigid_bench.core.insight.sheet_suspects import MeasuredCheck
from rigid_bench.store.tables import (
    COUNTED,
    Assignment,
    Bench,
    BenchStep,
    Build,
    BuildFile,
    Classroom,
    ClassTeacher,
    ExerciseVersion,
    Run,
    StoredFile,
)

#: Every look and every handing-in of a class, with what its newest run has open.
_ATTEMPTS = text("""
select builds.id, student_id, builds.version_id, exercise, title, handed_in_at,
       counts and state = any(:counted) as counts,
       (select open_checks from runs where build_id = builds.id and not is_trial order by id desc limit 1) as opened
from builds join exercise_versions on exercise_versions.id = builds.version_id
where class_id = :class_id and (cast(:exercise as text) is null or exercise = :exercise)
order by builds.id
""")
#: Of each student's newest measured build for an exercise: every check with its number.
_MEASURED = text("""
with newest as (
    select distinct on (student_id) builds.id, student_id from builds
    join exercise_versions on exercise_versions.id = builds.version_id
    where class_id = :class_id and exercise = :exercise and counts and state = any(:counted)
      and exists (select from runs where build_id = builds.id and not is_trial)
    order by student_id, builds.id desc
)
select student_id, c->>'id' as id, c->>'title' as title, c->>'strip' as strip, c->>'verdict' as verdict,
       c#>>'{cause,code}' as cause, c#>>'{gauge,measured}' as value, c#>>'{gauge,low}' as low,
       c#>>'{gauge,high}' as high
from newest
join lateral (
    select report from runs where build_id = newest.id and not is_trial order by id desc limit 1
) as run on true
cross join lateral jsonb_array_elements(run.report->'checks') as c
where c->>'follows' is null
""")


def attempts_of_class(session: Session, class_id: int, exercise: str | None = None) -> list[Attempt]:
    """Return every attempt of a class, at one exercise or at all, oldest first."""
    given = {"class_id": class_id, "exercise": exercise, "counted": list(COUNTED)}
    return [
        Attempt(
            build_id=row.id,
            student_id=row.student_id,
            version_id=row.version_id,
            exercise=row.exercise,
            title=row.title,
            at=row.handed_in_at,
            counts=row.counts,
            open=None if row.opened is None else tuple(_open_check(own) for own in row.opened),
        )
        for row in session.execute(_ATTEMPTS, given)
    ]


def _open_check(row: Sequence[Any]) -> OpenCheck:
    name, title, verdict, cause, follows = row
    return OpenCheck(id=name, title=title, verdict=verdict, cause=cause or "", follows=follows or "")


def measured_checks(session: Session, class_id: int, exercise: str) -> list[MeasuredCheck]:
    """Return every check of each student's newest build for an exercise, with the number that was measured."""
    given = {"class_id": class_id, "exercise": exercise, "counted": list(COUNTED)}
    return [
        MeasuredCheck(
            student_id=row.student_id,
            check=row.id,
            title=row.title,
            strip=row.strip or "parts",
            verdict=row.verdict,
            cause=row.cause or "",
            value=_number(row.value),
            low=_number(row.low),
            high=_number(row.high),
        )
        for row in session.execute(_MEASURED, given)
    ]


def _number(text: str | None) -> float | None:
    return None if text is None else float(text)


def check_of_build(session: Session, build_id: int, code: str) -> dict[str, Any] | None:
    """Return the first check of a build whose cause is a slip, as in its report; None where there is none."""
    query = select(Run.report).where(Run.build_id == build_id, Run.is_trial.is_(False)).order_by(Run.id.desc())
    report = session.scalars(query.limit(1)).first()
    if report is None:
        return None
    causes = ((check, (check.get("cause") or {}).get("code")) for check in report["checks"] if not check.get("follows"))
    own: dict[str, Any] | None = next((check for check, cause in causes if cause == code), None)
    return own


def other_classes_of(session: Session, teacher_id: int, class_id: int, exercise: str) -> Sequence[Classroom]:
    """List a teacher's other classes that worked on an exercise, the newest first: last year's among them."""
    query = (
        select(Classroom)
        .join(ClassTeacher, ClassTeacher.class_id == Classroom.id)
        .join(Assignment, Assignment.class_id == Classroom.id)
        .join(ExerciseVersion, ExerciseVersion.id == Assignment.version_id)
        .where(ClassTeacher.teacher_id == teacher_id, Classroom.id != class_id, ExerciseVersion.exercise == exercise)
    )
    return session.scalars(query.order_by(Classroom.id.desc()).distinct()).all()


def newest_files(session: Session, class_id: int, exercise: str) -> list[tuple[int, int, str, bytes]]:
    """Return the model's files of each student's newest build for an exercise: student, build, name and content."""
    newest = (
        select(Build.id)
        .join(ExerciseVersion, ExerciseVersion.id == Build.version_id)
        .where(Build.class_id == class_id, ExerciseVersion.exercise == exercise)
        .where(Build.counts, Build.state.in_(COUNTED))
        .order_by(Build.student_id, Build.id.desc())
        .ext(distinct_on(Build.student_id))
    )
    query = (
        select(Build.student_id, Build.id, BuildFile.name, StoredFile)
        .join(BuildFile, BuildFile.build_id == Build.id)
        .join(StoredFile, StoredFile.digest == BuildFile.digest)
        .options(undefer(StoredFile.content))
        .where(Build.id.in_(newest), BuildFile.is_evidence.is_(False))
        .order_by(Build.id, BuildFile.id)
    )
    return [(row[0], row[1], row[2], row[3].read()) for row in session.execute(query)]


def bench_histories(session: Session, class_id: int, version_id: int) -> dict[int, tuple[tuple[int, str], ...]]:
    """Return by student the steps on the newest bench of their own: from which step each was taken, and its words."""
    newest = (
        select(Bench.id)
        .where(Bench.class_id == class_id, Bench.version_id == version_id, Bench.build_id.is_(None))
        .order_by(Bench.student_id, Bench.id.desc())
        .ext(distinct_on(Bench.student_id))
    )
    query = (
        select(Bench.student_id, BenchStep.parent, BenchStep.words)
        .join(BenchStep, BenchStep.bench_id == Bench.id)
        .where(Bench.id.in_(newest))
        .order_by(BenchStep.bench_id, BenchStep.number)
    )
    histories: dict[int, list[tuple[int, str]]] = {}
    for student_id, parent, words in session.execute(query):
        histories.setdefault(student_id, []).append((parent, words))
    return {student_id: tuple(steps) for student_id, steps in histories.items()}
