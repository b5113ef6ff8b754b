"""A backup is written while people work, read back elsewhere, and everything is what it was; damage is noticed."""

import hashlib
import tarfile
import threading
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import psycopg
import pytest

from rigid_bench.demo.graded import read_graded
from rigid_bench.store.backup import ENDING, BackupFailed, newest_backup, read_manifest, restore_backup, write_backup
from rigid_bench.store.database import Database, is_migrated, migrate, pending, try_migrations
from rigid_bench.store.queries import build_queries, marking_queries, work_queries
from tests.support.commands import run_command
from tests.support.program import new_database
from tests.support.school import School

#: What is written while a backup is made may be in it or not; all else is in it.
_CHANGING = {"backups", "procrastinate_periodic_defers"}


@pytest.fixture
def empty_url(cluster_url: str) -> str:
    return new_database(cluster_url)


@pytest.fixture(scope="module")
def worked(database: Database, school: School) -> School:
    sample = read_graded()[1].samples["too-wide"]
    with database.session() as session:
        build = build_queries.add_build(
            session, class_id=school.class_id, version_id=school.version_id, student_id=school.student_id,
            files=dict(sample.files), evidence={"photo.png": b"\x89PNG\0"},
        )  # fmt: skip
        session.flush()
        work_queries.finish_measuring(
            session, build.id, version_id=school.version_id, engine_version="1", report=sample.report,
            scene=sample.scene,
        )  # fmt: skip
        session.refresh(build)
        marking_queries.add_override(
            session, build, check_id="drawer.width", marks=1.5, comment="nearly", teacher_id=school.teacher_id
        )
        marking_queries.return_build(session, build, teacher_id=school.teacher_id, total=30.5)
    return school


def content(url: str, *, until: int | None = None) -> dict[str, str]:
    """Return a digest of every table, row by row in an order of their own."""
    counts = {}
    with psycopg.connect(url) as connection:
        tables = connection.execute("select tablename from pg_tables where schemaname = 'public'").fetchall()
        for (table,) in tables:
            kept = "where id <= %s" if table == "log_entries" and until is not None else ""
            rows = connection.execute(
                f'select t::text from "{table}" as t {kept} order by 1',
                (until,) if kept else None,
            ).fetchall()
            counts[table] = hashlib.sha256(repr(rows).encode()).hexdigest()
    return {table: digest for table, digest in counts.items() if table not in _CHANGING}


@pytest.fixture
def busy(database: Database) -> Iterator[list[int]]:
    """Somebody writes into the log all the while; how many lines that were."""
    stop, written = threading.Event(), [0]

    def write() -> None:
        with psycopg.connect(database.url, autocommit=True) as connection:
            while not stop.is_set():
                connection.execute("insert into log_entries (action, is_by_program) values ('joined', true)")
                written[0] += 1

    writer = threading.Thread(target=write)
    writer.start()
    yield written
    stop.set()
    writer.join()


@pytest.mark.usefixtures("worked")
def test_it_is_written_under_load_and_comes_back_equal_elsewhere(
    database: Database, empty_url: str, busy: list[int], tmp_path: Path
) -> None:
    with psycopg.connect(database.url) as connection:
        before = connection.execute("select coalesce(max(id), 0) from log_entries").fetchone()
    assert before
    expected = content(database.url, until=before[0])
    path = write_backup(database.url, tmp_path)
    assert busy[0] > 0
    assert path.name.endswith(ENDING)
    assert path.stat().st_mode & 0o777 == 0o600
    manifest = restore_backup(path, empty_url)
    assert manifest == read_manifest(path)
    assert content(empty_url, until=before[0]) == expected
    assert is_migrated(empty_url)
    with database.session() as session:
        noted = newest_backup(session)
        assert noted is not None
        assert (noted.name, noted.sha256) == (path.name, manifest.sha256)
    assert list(tmp_path.iterdir()) == [path], "nothing else is left"


def test_a_damaged_one_and_a_database_with_something_in_it_are_refused(
    database: Database, empty_url: str, tmp_path: Path
) -> None:
    path = write_backup(database.url, tmp_path / "one")
    assert read_manifest(path).size > 0
    with pytest.raises(BackupFailed, match="something in it already"):
        restore_backup(path, database.url)
    bent = bytearray(path.read_bytes())
    with tarfile.open(path) as archive:
        dump = archive.getmember("database.dump")
    bent[dump.offset_data + dump.size // 2] ^= 1
    (tmp_path / "bent").write_bytes(bytes(bent))
    (tmp_path / "cut").write_bytes(bytes(bent)[: len(bent) // 3])
    (tmp_path / "other").write_bytes(b"no backup at all")
    for name, says in (("bent", "damaged"), ("cut", "no backup|damaged"), ("other", "no backup"), ("gone", "no such")):
        with pytest.raises(BackupFailed, match=says):
            restore_backup(tmp_path / name, empty_url)
    with psycopg.connect(empty_url) as connection:
        assert connection.execute("select count(*) from pg_tables where schemaname = 'public'").fetchone() == (0,)


def test_old_ones_go_and_the_newest_stay(database: Database, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    for day in range(1, 6):
        (tmp_path / f"2026-01-0{day}T000000Z{ENDING}").touch()
    (tmp_path / "notes.txt").touch()
    newest = write_backup(database.url, tmp_path, keep=3)
    kept = sorted(path.name for path in tmp_path.iterdir())
    assert kept == [f"2026-01-04T000000Z{ENDING}", f"2026-01-05T000000Z{ENDING}", newest.name, "notes.txt"]


def test_an_older_one_is_brought_up_to_date_and_a_newer_one_refused(
    cluster_url: str, empty_url: str, tmp_path: Path
) -> None:
    old = new_database(cluster_url)
    migrate(old, revision="0018")
    with psycopg.connect(old) as connection:
        connection.execute("insert into users (login, name, role, password_hash) values ('a', 'Ada', 'teacher', '')")
    path = write_backup(old, tmp_path / "old")
    with psycopg.connect(old) as connection:
        connection.execute("update alembic_version set version_num = '9999'")
    newer = write_backup(old, tmp_path / "newer")
    with pytest.raises(BackupFailed, match="by a newer program"):
        restore_backup(newer, empty_url)
    assert "does not know" in run_command("upgrade", RIGID_BENCH_DATABASE_URL=old).stderr
    assert restore_backup(path, empty_url).revision == "0018"
    assert is_migrated(empty_url)
    with psycopg.connect(empty_url) as connection:
        assert connection.execute("select name from users").fetchall() == [("Ada",)]


def test_an_upgrade_is_tried_before_it_is_done_and_has_a_way_back(cluster_url: str, tmp_path: Path) -> None:
    url = new_database(cluster_url)
    migrate(url, revision="0018")
    with psycopg.connect(url) as connection:
        connection.execute("insert into users (login, name, role, password_hash) values ('a', 'Ada', 'teacher', '')")

    def state() -> tuple[Any, ...]:
        with psycopg.connect(url) as connection:
            row = connection.execute("select (select version_num from alembic_version), count(*) from users").fetchone()
            assert row
            return row

    assert [revision for revision, _ in pending(url)][:2] == ["0019", "0020"]
    try_migrations(url)
    assert state() == ("0018", 1)
    tried = run_command("upgrade", "--dry-run", RIGID_BENCH_DATABASE_URL=url)
    assert (tried.returncode, "nothing was changed" in tried.stdout) == (0, True), tried.stderr
    assert state() == ("0018", 1)
    done = run_command("upgrade", "--backup", str(tmp_path), RIGID_BENCH_DATABASE_URL=url)
    assert (done.returncode, done.stdout.endswith("Done.\n")) == (0, True), done.stderr
    assert is_migrated(url)
    [before] = tmp_path.iterdir()
    assert read_manifest(before).revision == "0018", "the way back"
    assert "up to date" in run_command("upgrade", RIGID_BENCH_DATABASE_URL=url).stdout


def test_the_commands_say_what_they_did_and_end_with_2_where_they_cannot(
    database: Database, empty_url: str, tmp_path: Path
) -> None:
    at = {"RIGID_BENCH_DATABASE_URL": database.url}
    written = run_command("backup", str(tmp_path / "b"), **at)
    assert (written.returncode, " MB" in written.stdout) == (0, True), written.stderr
    assert "Whole" in run_command("restore", "--check", str(tmp_path / "b"), **at).stdout
    nowhere = run_command("backup", str(tmp_path / "no" / "b"), **at)
    assert (nowhere.returncode, nowhere.stderr.count("\n")) == (2, 1)
    restored = run_command("restore", str(tmp_path / "b"), RIGID_BENCH_DATABASE_URL=empty_url)
    assert (restored.returncode, "Restored" in restored.stdout) == (0, True), restored.stderr
