"""A whole class at a glance, in few queries: exercises, students, and where each newest build stands."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sqlalchemy import String, cast, func, select, text
from sqlalchemy.orm import Session

from rigid_bench.store.tables import Assignment, ExerciseVersion, Withdrawal

#: The newest build of each student and exercise, with what the table needs of its newest report: no more.
_BUILDS = text("""
with counted as (
    select id, student_id, version_id, state, handed_in_at,
           row_number() over newest as place, count(*) over (partition by version_id, student_id) as attempts
    from builds
    where class_id = :class_id and counts and state in ('queued', 'measuring', 'graded', 'failed')
      and (cast(:version_id as int) is null or version_id = :version_id)
    window newest as (partition by version_id, student_id order by id desc)
)
select counted.id, student_id, version_id, state, handed_in_at, attempts,
       run.measured_by, run.stages, run.parts, run.notices, run.checks,
       exists (select from returns where build_id = counted.id and taken_back_at is null) as is_returned,
       array(select check_id from questions where build_id = counted.id and answer is null) as questions,
       (select jsonb_object_agg(check_id, marks) from (
            select distinct on (check_id) check_id, marks from overrides
            where build_id = counted.id and marks is not null and undone_at is null
            order by check_id, id desc) as given) as marks
from counted
left join lateral (
    select runs.version_id as measured_by, jsonb_path_query_array(report, '$.notices[*].code') as notices,
           (select jsonb_agg(jsonb_build_array(stage->'name', stage->'checks') order by place)
            from exercise_versions, jsonb_array_elements(document->'stages') with ordinality as each(stage, place)
            where exercise_versions.id = runs.version_id and jsonb_typeof(document->'stages') = 'array') as stages,
           (select jsonb_agg(jsonb_build_array(part->'part', part->'likeness'))
            from jsonb_array_elements(report->'parts') as part) as parts,
           (select jsonb_agg(jsonb_build_array(c->'id', c->'title', c->'verdict', c->'awarded', c->'available',
                                               c->'follows', coalesce(c->'levels', '[]') <> '[]',
                                               c->'caps_at') order by place)
            from jsonb_array_elements(report->'checks') with ordinality as each(c, place)) as checks
    from runs where build_id = counted.id and not is_trial order by id desc limit 1
) as run on true
where counted.place = 1
""")


@dataclass(frozen=True, slots=True, kw_only=True)
class GridBuild:
    """The newest build of a student for an exercise, as far as a table shows it."""

    id: int
    student_id: int
    version_id: int
    state: str
    handed_in_at: datetime
    attempts: int
    is_returned: bool
    #: The version that it was measured by; None before it was.
    measured_by: int | None
    #: Each stage's name and checks.
    stages: Sequence[tuple[str, Sequence[str]]]
    #: Each part's required part (None for one that was not asked for) and likeness.
    parts: Sequence[tuple[str | None, float | None]]
    #: Codes of what the grader noticed.
    notices: Sequence[str]
    #: id, title, verdict, awarded, available, follows, whether a person marks it, its cap; None before it was measured.
    checks: Sequence[Sequence[Any]] | None
    #: Checks with a question that waits.
    questions: Sequence[str]
    marks: Mapping[str, float]


@dataclass(frozen=True, slots=True, kw_only=True)
class GridExercise:
    """An exercise of the class, with how the class works on it."""

    version: ExerciseVersion
    assignment: Assignment
    #: Withdrawn checks and the reasons.
    withdrawn: Mapping[str, str]


def grid_exercises(session: Session, class_id: int, version_id: int | None = None) -> list[GridExercise]:
    """List a class's exercises in their order, or one of them."""
    withdrawn = (
        select(func.jsonb_object_agg(Withdrawal.check_id, cast(Withdrawal.reason, String)))
        .where(Withdrawal.class_id == class_id, Withdrawal.exercise == ExerciseVersion.exercise)
        .correlate(ExerciseVersion)
        .scalar_subquery()
    )
    query = (
        select(ExerciseVersion, Assignment, withdrawn)
        .join(Assignment, Assignment.version_id == ExerciseVersion.id)
        .where(Assignment.class_id == class_id, *([] if version_id is None else [ExerciseVersion.id == version_id]))
        .order_by(Assignment.place, ExerciseVersion.id)
    )
    return [
        GridExercise(version=version, assignment=assignment, withdrawn=gone or {})
        for version, assignment, gone in session.execute(query)
    ]


def grid_builds(session: Session, class_id: int, version_id: int | None = None) -> dict[tuple[int, int], GridBuild]:
    """Return the newest build of every student and exercise version of a class, or of one version."""
    builds = {}
    for row in session.execute(_BUILDS, {"class_id": class_id, "version_id": version_id}):
        builds[row.student_id, row.version_id] = GridBuild(
            id=row.id,
            student_id=row.student_id,
            version_id=row.version_id,
            state=row.state,
            handed_in_at=row.handed_in_at,
            attempts=row.attempts,
            is_returned=row.is_returned,
            measured_by=row.measured_by,
            stages=row.stages or (),
            parts=row.parts or (),
            notices=row.notices or (),
            checks=(row.checks or ()) if row.measured_by is not None else None,
            questions=row.questions,
            marks=row.marks or {},
        )
    return builds
