"""Builds that are graded already, for tests that need no measuring."""

from collections.abc import Mapping
from datetime import UTC, datetime, timedelta
from typing import Any

from sqlalchemy.orm import Session

from rigid_bench.core.grading.report.models import ENGINE_VERSION
from rigid_bench.demo.graded import read_graded
from rigid_bench.store.database import Database
from rigid_bench.store.queries import build_queries, work_queries
from rigid_bench.store.tables import Build
from tests.support.school import School


def row(name: str, verdict: str, awarded: float, **other: object) -> dict[str, Any]:
    made = {"id": name, "title": name.title(), "kind": "dimension", "verdict": verdict, "awarded": awarded}
    return {**made, "available": 2, "required": "16.4 ±0.1 mm", "measured": "8.2 mm", **other}


def hand_in(
    database: Database, school: School, version_id: int, student_id: int, rows: list[dict[str, Any]], *, ago: float = 0
) -> int:
    report = {"exercise": "e", "awarded": 0, "available": 0, "percent": 0, "stage": "", "checks": rows}
    with database.session() as session:
        given: dict[str, Any] = {"class_id": school.class_id, "version_id": version_id, "student_id": student_id}
        build = build_queries.add_build(session, **given, files={"a": b""})
        build.handed_in_at = datetime.now(UTC) - timedelta(hours=ago)
        session.flush()
        work_queries.finish_measuring(session, build.id, version_id=version_id, engine_version="1", report=report)
        return build.id


def hand_in_sample(
    session: Session,
    school: School,
    name: str,
    *,
    student_id: int | None = None,
    ago: timedelta = timedelta(),
    evidence: Mapping[str, bytes] | None = None,
) -> Build:
    """Keep a shipped sample of the seed drawer, with its report, as a build of the school's student or of another."""
    sample = read_graded()[1].samples[name]
    given: dict[str, Any] = {"class_id": school.class_id, "version_id": school.version_id}
    build = build_queries.add_build(
        session, **given, student_id=student_id or school.student_id, files=sample.files, evidence=evidence or {}
    )
    build.handed_in_at = datetime.now(UTC) - ago
    session.flush()
    work_queries.finish_measuring(
        session,
        build.id,
        version_id=school.version_id,
        engine_version=ENGINE_VERSION,
        report=sample.report,
        scene=sample.scene,
    )
    session.refresh(build)
    return build
