"""Keeps a small database of this version, as its own backup: every later version must bring it up to date.

Run before a version is tagged: `.venv/bin/python -m scripts.keep_version`. It writes tests/store/versions.
"""

import tempfile
from datetime import timedelta
from importlib.metadata import version
from pathlib import Path

from rigid_bench.app.builds.return_cards import return_builds
from rigid_bench.store.backup import ENDING, write_backup
from rigid_bench.store.cluster import Cluster
from rigid_bench.store.database import Database, migrate
from rigid_bench.store.log import log
from rigid_bench.store.queries import build_queries, people_queries, work_queries
from rigid_bench.store.rules import rules_of_class
from rigid_bench.store.tables import Build
from tests.support.school import School, make_school

FOLDER = Path(__file__).parents[1] / "tests" / "store" / "versions"
_ROW = {
    "id": "knob.pilot", "title": "Pilot", "kind": "dimension", "verdict": "missed", "awarded": 0, "available": 2,
    "required": "8.4 mm", "measured": "4.2 mm",
}  # fmt: skip
_REPORT = {"exercise": "e", "awarded": 0, "available": 2, "percent": 0, "stage": "", "checks": [_ROW]}


def main() -> None:
    """Write the backup of this version."""
    path = FOLDER / f"v{version('rigid-bench')}{ENDING}"
    path.parent.mkdir(exist_ok=True)
    with tempfile.TemporaryDirectory() as folder:
        cluster = Cluster(Path(folder), is_lasting=False)
        try:
            url = cluster.start()
            migrate(url)
            database = Database(url)
            _fill(database, make_school(database))
            database.close()
            write_backup(url, path)
        finally:
            cluster.destroy()
    path.chmod(0o644)
    print(f"{path.relative_to(FOLDER.parents[2])}: {path.stat().st_size} bytes")


def _fill(database: Database, school: School) -> None:
    """Hand in a build, grade it and return its card."""
    with database.session() as session:
        build_id = build_queries.add_build(
            session, class_id=school.class_id, version_id=school.version_id, student_id=school.student_id,
            files={"box.step": b"ISO-10303-21;\n"},
        ).id  # fmt: skip
        work_queries.finish_measuring(
            session, build_id, version_id=school.version_id, engine_version="1", report=_REPORT
        )
        people_queries.start_sign_in(
            session, user_id=school.student_id, token_hash="0" * 64, lasts=timedelta(days=36_500)
        )
        log(session, "signed-in", who_id=school.student_id, class_id=None)
    with database.session() as session:
        rules = rules_of_class(session, school.class_id)
        builds = [session.get_one(Build, build_id)]
        return_builds(session, builds, rules, teacher_id=school.teacher_id, batch="first")
        log(session, "card-returned", who_id=school.teacher_id, class_id=school.class_id, build=build_id)


if __name__ == "__main__":
    main()
