"""Builds that may have one origin, asked of the class's teacher alone: never a verdict, never a mark."""

import json
from collections import defaultdict
from collections.abc import Hashable, Iterator, Mapping
from typing import Annotated, Any

from fastapi import Query, Request
from fastapi.responses import Response
from sqlalchemy.orm import Session

from rigid_bench.core.formats.archive import read_zip
from rigid_bench.core.insight.likeness.questions import Work, questions
from rigid_bench.core.insight.likeness.step_print import is_step, step_print
from rigid_bench.core.values.errors import RigidBenchError
from rigid_bench.store.queries import class_queries, exercise_queries, group_queries, insight_queries
from rigid_bench.store.tables import ExerciseVersion
from rigid_bench.web.likeness_words import sign_words
from rigid_bench.web.render import page
from rigid_bench.web.routing import page_router
from rigid_bench.web.security.access import DbSession, TaughtClass

router = page_router("/classes/{class_id}/insight")


@router.get("/likeness", name="likeness")
def likeness(
    request: Request, classroom: TaughtClass, session: DbSession,
    version_id: Annotated[int, Query(ge=0, le=2**31 - 1)] = 0,
) -> Response:  # fmt: skip
    """Show which builds of an exercise a teacher may want to ask about."""
    versions = exercise_queries.exercises_of_class(session, classroom.id)
    version = next((own for own in versions if own.id == version_id), next(iter(versions), None))
    works = _works(session, classroom.id, version) if version else []
    asked = questions(works, supplied=_supplied(version) if version else ())
    names = {student.id: student.name for student in class_queries.students_of_class(session, classroom.id)}
    return page(
        request,
        "likeness.html",
        classroom=classroom,
        versions=versions,
        version=version,
        compared=len(works),
        asked=[own for own in asked if all(work.student_id in names for work in own.works)],
        names=names,
        sign_words=sign_words,
    )


def _supplied(version: ExerciseVersion) -> set[str]:
    """Return the digests of the exercise's own files: those that students were given are among them."""
    return {step_print(content).digest for content in read_zip(version.bundle, name=version.title).values()}


def _works(session: Session, class_id: int, version: ExerciseVersion) -> list[Work]:
    files: dict[tuple[int, int], list[bytes]] = defaultdict(list)
    for student_id, build_id, name, content in insight_queries.newest_files(session, class_id, version.exercise):
        files[student_id, build_id] += _unpacked(name, content)
    groups = group_queries.groups_of(class_queries.terms_of_class(session, class_id))
    wrong: dict[int, dict[str, float]] = defaultdict(dict)
    for check in insight_queries.measured_checks(session, class_id, version.exercise):
        if check.verdict == "missed" and not check.cause and check.value is not None:
            wrong[check.student_id][check.title] = check.value
    histories = insight_queries.bench_histories(session, class_id, version.id)
    return [
        Work(
            student_id=student_id,
            build_id=build_id,
            prints=tuple(step_print(content) for content in contents if is_step(content)),
            wrong=wrong[student_id],
            mates=tuple(mate for content in contents if not is_step(content) for mate in _mates(content)),
            history=histories.get(student_id, ()),
            partners=frozenset(
                other for (student, _), others in groups.items() if student == student_id for other in others
            ),
        )
        for (student_id, build_id), contents in files.items()
    ]


def _unpacked(name: str, content: bytes) -> list[bytes]:
    if not name.lower().endswith(".zip"):
        return [content]
    try:
        return list(read_zip(content, name=name).values())
    except RigidBenchError:
        return [content]


def _mates(content: bytes) -> Iterator[Hashable]:
    """List the mates of a build file in their order, without names: of anything else, none."""
    try:
        document = json.loads(content)
    except ValueError:
        return
    mates = document.get("mates") if isinstance(document, dict) else None
    for mate in mates if isinstance(mates, list) else ():
        yield json.dumps(_without_names(mate), sort_keys=True)


def _without_names(mate: Any) -> Any:
    if not isinstance(mate, Mapping):
        return mate
    return {key: _without_names(value) for key, value in mate.items() if key not in ("id", "name", "instance")}
