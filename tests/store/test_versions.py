"""A database of each version that was released is brought up to date, and nothing in it is lost."""

import re
import subprocess
import tarfile
from pathlib import Path
from typing import Any

import psycopg
import pytest

from rigid_bench.store.backup import ENDING, restore_backup
from rigid_bench.store.cluster import binaries
from rigid_bench.store.database import Database
from rigid_bench.store.queries import people_queries
from rigid_bench.store.returned_totals import returned_totals
from tests.support.program import new_database

VERSIONS = sorted(Path(__file__).with_name("versions").glob(f"*{ENDING}"))
#: Where a later version has what was in a column: table, column -> what it is now.
_OF_DRAFT = "from draft_steps s where s.draft_id = drafts.id and s.number"
MOVED = {
    ("build_files", "content"): "(select content from stored_files s where s.digest = build_files.digest)",
    ("drafts", "source"): "(select content from stored_files s where s.digest = drafts.source_digest)",
    ("drafts", "document"): f"(select document {_OF_DRAFT} = drafts.at)",
    ("drafts", "past"): f"(select coalesce(jsonb_agg(document order by number), '[]') {_OF_DRAFT} < drafts.at)",
    ("drafts", "undone"): f"(select coalesce(jsonb_agg(document order by number desc), '[]') {_OF_DRAFT} > drafts.at)",
    # a zip, which is not put together again byte for byte
    ("drafts", "bundle"): "drafts.at > 0",
}
#: What is there of these columns before it is moved, as far as it can be compared.
BEFORE = {("drafts", "bundle"): "bundle is not null"}


def test_each_released_version_has_its_database() -> None:
    """Since the first one that could write backups."""
    changelog = (Path(__file__).parents[2] / "CHANGELOG.md").read_text()
    released = set(re.findall(r"^## \[(\d+\.\d+\.\d+)\]", changelog, re.MULTILINE))
    wanted = {name for name in released if tuple(map(int, name.split("."))) >= (0, 9, 0)}
    assert {path.name.removeprefix("v").removesuffix(ENDING) for path in VERSIONS} == wanted, (
        "run scripts.keep_version before a version is tagged"
    )


def contents(url: str, columns: dict[str, list[str]] | None = None) -> dict[str, tuple[list[str], list[Any]]]:
    """Return the rows of each table, in the order of all their columns, or of those that are named."""
    with psycopg.connect(url) as connection:
        tables = connection.execute("select tablename from pg_tables where schemaname = 'public' order by 1").fetchall()
        rows = {}
        for (table,) in tables:
            if table == "alembic_version" or table.startswith("procrastinate"):
                continue
            known = connection.execute(
                "select column_name from information_schema.columns where table_name = %s order by 1", (table,)
            ).fetchall()
            names = columns.get(table, []) if columns is not None else [name for (name,) in known]
            if names:
                there = {name for (name,) in known}
                listed = ", ".join(
                    BEFORE.get((table, name), f'"{name}"') if name in there else MOVED[table, name] for name in names
                )
                stored = connection.execute(f'select {listed} from "{table}"').fetchall()
                rows[table] = (names, sorted(map(repr, stored)))
        return rows


@pytest.mark.parametrize("path", VERSIONS, ids=lambda path: path.name.removesuffix(ENDING))
def test_it_is_brought_up_to_date_with_all_that_is_in_it(path: Path, cluster_url: str, tmp_path: Path) -> None:
    before, after = new_database(cluster_url), new_database(cluster_url)
    with tarfile.open(path) as archive:
        archive.extract("database.dump", tmp_path, filter="data")
    restore = [str(binaries() / "pg_restore"), "--no-owner", "--no-privileges", f"--dbname={before}"]
    subprocess.run([*restore, str(tmp_path / "database.dump")], check=True)
    restore_backup(path, after)
    then = contents(before)
    now = contents(after, {table: names for table, (names, _) in then.items()})
    assert sum(len(rows) for _, rows in then.values()) > 20
    for table, known in then.items():
        assert now[table] == known, table


@pytest.mark.parametrize("path", VERSIONS, ids=lambda path: path.name.removesuffix(ENDING))
def test_people_of_then_have_their_marks_and_sessions_now(path: Path, cluster_url: str) -> None:
    url = new_database(cluster_url)
    restore_backup(path, url)
    database = Database(url)
    with database.session() as session:
        student = people_queries.user_by_login(session, "sam")
        assert student is not None
        assert people_queries.signed_in_person(session, "0" * 64) is not None
        total = returned_totals(session, 1, 1)[student.id]
        assert (total.awarded, total.available) == (0, 2)
    database.close()
