"""The connection to PostgreSQL, and the migrations that bring it up to date."""

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import psycopg
from alembic import command
from alembic.config import Config
from alembic.script import ScriptDirectory
from sqlalchemy import Engine, create_engine
from sqlalchemy.orm import Session

from rigid_bench.core.values.errors import RigidBenchError
from rigid_bench.core.wording.language import _

_MIGRATIONS = Path(__file__).parent / "migrations"


def sqlalchemy_url(url: str) -> str:
    """Return an address in SQLAlchemy's form: it has to name the driver."""
    return url.replace("postgresql://", "postgresql+psycopg://", 1)


#: A process holds so many connections at most, and keeps so many of them open.
CONNECTIONS, _KEPT = 30, 10


class Database:
    """One database, with its pool of connections."""

    def __init__(self, url: str, *, objects: object = None) -> None:
        """Know a database.

        Parameters
        ----------
        objects
            Where contents of files lie that are not in the database (`store/files.py`); None for nowhere.
        """
        self.url, self._info = url, {"objects": objects}
        # pre-ping: a connection that the server dropped (a restart) is replaced, not handed out
        # what people wrote and the hashes of passwords stay out of every message
        self.engine: Engine = create_engine(
            sqlalchemy_url(url),
            pool_pre_ping=True,
            pool_size=_KEPT,
            max_overflow=CONNECTIONS - _KEPT,
            hide_parameters=True,
        )

    @contextmanager
    def session(self) -> Iterator[Session]:
        """Give a session in one transaction: committed at the end, rolled back on any error."""
        with Session(self.engine, expire_on_commit=False, info=dict(self._info)) as session, session.begin():
            yield session

    def close(self) -> None:
        """Close all connections."""
        self.engine.dispose()


class DatabaseUnreachable(RigidBenchError):
    """There is no database at the address that the settings name."""


class DatabaseTooNew(RigidBenchError):
    """A newer version of the program has brought the database up to date."""


def check_database(url: str) -> None:
    """Refuse to start without a database.

    Raises
    ------
    DatabaseUnreachable
        It does not answer; the message leaves the password out.
    """
    try:
        with psycopg.connect(url, connect_timeout=5):
            return
    except psycopg.Error as exc:
        server = url.rsplit("@", 1)[-1]
        reason = (str(exc).strip().splitlines() or [_("it does not answer")])[-1].rstrip(".")
        raise DatabaseUnreachable(
            _("database {server}", server=server), reason, _("Set RIGID_BENCH_DATABASE_URL to its address")
        ) from exc


#: Any number that only this program takes: whoever migrates a database holds it.
_MIGRATION_LOCK = 7_300


def migrate(url: str, *, revision: str = "head") -> None:
    """Bring a database to a revision; the newest unless another is named, "-1" for the one before its own.

    Of several programs that start at once one does it, and the others wait until it is done.
    """
    config = _config(url)
    with psycopg.connect(url, autocommit=True) as connection:
        # held by this connection, so that it ends with it, however this ends
        connection.execute("select pg_advisory_lock(%s)", (_MIGRATION_LOCK,))
        if revision == "base" or revision.startswith("-"):
            command.downgrade(config, revision)
        else:
            command.upgrade(config, revision)


def is_migrated(url: str) -> bool:
    """Say whether a database is at the newest revision that this program knows."""
    newest = migrations().get_current_head()
    if is_empty(url):
        return False
    with psycopg.connect(url) as connection:
        return connection.execute("select version_num from alembic_version").fetchall() == [(newest,)]


def is_empty(url: str) -> bool:
    """Say whether nothing was ever put into a database."""
    with psycopg.connect(url) as connection:
        return connection.execute("select to_regclass('alembic_version')").fetchone() == (None,)


def migrations() -> ScriptDirectory:
    """Return the migrations that this program knows."""
    return ScriptDirectory.from_config(_config(""))


def pending(url: str) -> list[tuple[str, str]]:
    """List the migrations that a database lacks, the first first: revision, and what it is about."""
    with psycopg.connect(url) as connection:
        revision = None if is_empty(url) else connection.execute("select version_num from alembic_version").fetchone()
    now = revision[0] if revision else "base"
    known = {script.revision for script in migrations().walk_revisions()}
    if now not in {*known, "base"}:
        problem = _("it is at revision {now}, which this program does not know", now=now)
        raise DatabaseTooNew(_("database"), problem, _("Install the newer version of the program, or restore a backup"))
    scripts = [script for script in migrations().iterate_revisions("head", now) if script.revision != now]
    return [(script.revision, script.doc) for script in reversed(scripts)]


def try_migrations(url: str) -> None:
    """Run the migrations that a database lacks, and take them back: it stays as it is.

    It is locked meanwhile. Whatever would stop an upgrade is raised here.
    """
    engine = create_engine(sqlalchemy_url(url))
    try:
        with engine.connect() as connection, connection.begin() as transaction:
            config = _config(url)
            config.attributes["connection"] = connection
            command.upgrade(config, "head")
            transaction.rollback()
    finally:
        engine.dispose()


def _config(url: str) -> Config:
    config = Config()
    config.set_main_option("script_location", str(_MIGRATIONS))
    config.attributes["url"] = sqlalchemy_url(url)
    return config
