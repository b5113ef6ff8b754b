"""Builds that are graded already, for tests that need no measuring."""

from datetime import UTC, datetime, timedelta
from typing import Any

from rigid_bench.store.database import Database
from rigid_bench.store.queries import build_queries, work_queries
from tests.school import School


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
