"""Backups: the whole database, files and all, as one file with what is needed to trust it; and back from one.

PostgreSQL's own programs write and read it, from one snapshot: people may go on working meanwhile.
"""

import hashlib
import os
import shutil
import subprocess
import tarfile
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import UTC, datetime
from importlib.metadata import version
from pathlib import Path
from typing import Literal

import psycopg
from psycopg.conninfo import conninfo_to_dict
from pydantic import ValidationError
from sqlalchemy import select
from sqlalchemy.orm import Session

from rigid_bench.core.formats.documents import Document
from rigid_bench.core.values.errors import RigidBenchError
from rigid_bench.core.wording.language import _
from rigid_bench.store.cluster import ClusterFailed, binaries
from rigid_bench.store.database import Database, check_database, migrate, migrations
from rigid_bench.store.tables import Backup

ENDING = ".rigid-bench-backup"
_MANIFEST, _DUMP = "manifest.json", "database.dump"
_PIECE = 1 << 20


class BackupFailed(RigidBenchError):
    """A backup could not be written, or cannot be read back."""


class Manifest(Document):
    """What a backup says of itself."""

    format: Literal["rigid-bench/backup"] = "rigid-bench/backup"
    version: Literal[1] = 1
    #: The program's version, and the revision of its database.
    program: str
    revision: str
    made_at: datetime
    #: Of the dump.
    sha256: str
    size: int


def write_backup(url: str, to: Path, *, keep: int = 0) -> Path:
    """Write a backup of a database that may be in use.

    Parameters
    ----------
    url
        The database.
    to
        A folder, in which the file is named after the time; or the file.
    keep
        In a folder: so many of the newest backups stay, older ones are deleted; 0 keeps all.

    Raises
    ------
    BackupFailed
        There is no database, no place for it, or PostgreSQL's program fails; nothing is left half written.
    """
    check_database(url)
    now = datetime.now(UTC)
    path = to / f"{now:%Y-%m-%dT%H%M%SZ}{ENDING}" if to.is_dir() else to
    if not path.parent.is_dir():
        raise BackupFailed(str(path.parent), _("there is no such folder"), _("Make it, or name another"))
    with tempfile.TemporaryDirectory(prefix=".rigid-bench-", dir=path.parent) as folder:
        dump = Path(folder) / _DUMP
        _run("pg_dump", ["--format=custom", "--no-owner", "--no-privileges", f"--file={dump}"], url)
        manifest = Manifest(
            program=version("rigid-bench"), revision=_revision(url), made_at=now, sha256=_sha256(dump),
            size=dump.stat().st_size,
        )  # fmt: skip
        (Path(folder) / _MANIFEST).write_text(manifest.model_dump_json(indent=1), encoding="utf-8")
        whole = Path(folder) / "whole"
        with tarfile.open(whole, "w") as archive:
            for name in (_MANIFEST, _DUMP):
                archive.add(Path(folder) / name, arcname=name)
        # it holds everybody's work: for who wrote it alone
        whole.chmod(0o600)
        os.replace(whole, path)
    _note(url, path, manifest)
    if keep and to.is_dir():
        for old in sorted(to.glob(f"*{ENDING}"))[:-keep]:
            old.unlink()
    return path


def read_manifest(path: Path) -> Manifest:
    """Return what a backup says of itself, once its dump is what it was.

    Raises
    ------
    BackupFailed
        It is no backup, or it was damaged.
    """
    with _unpacked(path) as (manifest, _):
        return manifest


def restore_backup(path: Path, url: str) -> Manifest:
    """Read a backup into an empty database, and bring it up to date.

    Raises
    ------
    BackupFailed
        It is no backup or damaged, of a newer program, or the database is not empty; then nothing is changed.
    """
    check_database(url)
    with psycopg.connect(url) as connection:
        has_tables = connection.execute("select exists (select from pg_tables where schemaname = 'public')").fetchone()
    if has_tables == (True,):
        raise BackupFailed(
            _("database"), _("there is something in it already"), _("Restore into a new, empty database")
        )
    with _unpacked(path) as (manifest, dump):
        known = {script.revision for script in migrations().walk_revisions()}
        if manifest.revision not in known:
            problem = _("it was written by a newer program, {program}", program=manifest.program)
            raise BackupFailed(path.name, problem, _("Install that version, and restore with it"))
        options = ["--no-owner", "--no-privileges", "--exit-on-error", "--single-transaction"]
        _run("pg_restore", [*options, str(dump)], url)
    migrate(url)
    return manifest


def newest_backup(session: Session) -> Backup | None:
    """Return the backup that was written last; None before the first."""
    return session.scalars(select(Backup).order_by(Backup.id.desc()).limit(1)).first()


@contextmanager
def _unpacked(path: Path) -> Iterator[tuple[Manifest, Path]]:
    next_step = _("Take another backup")
    with tempfile.TemporaryDirectory(prefix="rigid-bench-") as folder:
        try:
            with tarfile.open(path) as archive:
                for name in (_MANIFEST, _DUMP):
                    archive.extract(name, folder, filter="data")
            manifest = Manifest.model_validate_json((Path(folder) / _MANIFEST).read_bytes())
        except FileNotFoundError as exc:
            raise BackupFailed(str(path), _("there is no such file"), _("Check the path")) from exc
        except (tarfile.TarError, KeyError, OSError, ValidationError) as exc:
            raise BackupFailed(
                path.name, _("this is no backup ({name__})", name__=type(exc).__name__), next_step
            ) from exc
        dump = Path(folder) / _DUMP
        if _sha256(dump) != manifest.sha256:
            raise BackupFailed(path.name, _("it was damaged: its content is not what was written"), next_step)
        yield manifest, dump


def _note(url: str, path: Path, manifest: Manifest) -> None:
    """Note that it was written, for the administrators' page: in a database that knows of backups already."""
    with psycopg.connect(url) as connection:
        if connection.execute("select to_regclass('backups')").fetchone() == (None,):
            return
    database = Database(url)
    try:
        with database.session() as session:
            session.add(Backup(name=path.name, size=path.stat().st_size, sha256=manifest.sha256))
    finally:
        database.close()


def _revision(url: str) -> str:
    with psycopg.connect(url) as connection:
        row = connection.execute("select version_num from alembic_version").fetchone()
    if row is None:
        raise BackupFailed(_("database"), _("nothing is in it yet"), _("Start the program once"))
    return str(row[0])


def _sha256(path: Path) -> str:
    digest = hashlib.sha256()
    with path.open("rb") as file:
        while piece := file.read(_PIECE):
            digest.update(piece)
    return digest.hexdigest()


def _run(program: str, options: list[str], url: str) -> None:
    """Run one of PostgreSQL's programs on a database; the password stands in no argument."""
    parts = conninfo_to_dict(url)
    given = {"host": parts.get("host"), "port": parts.get("port"), "username": parts.get("user")}
    where = [f"--{name}={value}" for name, value in given.items() if value] + [f"--dbname={parts.get('dbname')}"]
    try:
        path = str(binaries() / program)
    except ClusterFailed:  # no server on this machine, and its client's programs elsewhere
        path = shutil.which(program) or program
    environment = {**os.environ, "PGPASSWORD": str(parts.get("password") or "")}
    done = subprocess.run(
        [path, *where, *options],
        env=environment,
        stdin=subprocess.DEVNULL,
        capture_output=True,
        text=True,
        check=False,
    )
    if done.returncode:
        reason = (done.stderr.strip().splitlines() or [_("it ended with {code}", code=done.returncode)])[-1]
        raise BackupFailed(
            program, reason.removeprefix(f"{program}: "), _("See whether the database and the disk are well")
        )
