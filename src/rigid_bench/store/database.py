"""The connection to PostgreSQL, and the migrations that bring it up to date."""

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import psycopg
from alembic import command
from alembic.config import Config
from sqlalchemy import Engine, create_engine
from sqlalchemy.orm import Session

from rigid_bench.core.errors import RigidBenchError

_MIGRATIONS = Path(__file__).parent / "migrations"


def sqlalchemy_url(url: str) -> str:
    """Return an address in SQLAlchemy's form: it has to name the driver."""
    return url.replace("postgresql://", "postgresql+psycopg://", 1)


class Database:
    """One database, with its pool of connections."""

    def __init__(self, url: str) -> None:
        self.url = url
        # pre-ping: a connection that the server dropped (a restart) is replaced, not handed out
        self.engine: Engine = create_engine(sqlalchemy_url(url), pool_pre_ping=True, pool_size=10, max_overflow=20)

    @contextmanager
    def session(self) -> Iterator[Session]:
        """Give a session in one transaction: committed at the end, rolled back on any error."""
        with Session(self.engine, expire_on_commit=False) as session, session.begin():
            yield session

    def close(self) -> None:
        """Close all connections."""
        self.engine.dispose()


class DatabaseUnreachable(RigidBenchError):
    """There is no database at the address that the settings name."""


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
        reason = (str(exc).strip().splitlines() or ["it does not answer"])[-1].rstrip(".")
        raise DatabaseUnreachable(f"database {server}", reason, "Set RIGID_BENCH_DATABASE_URL to its address") from exc


def migrate(url: str, *, revision: str = "head") -> None:
    """Bring a database to a revision; the newest unless another is named."""
    config = Config()
    config.set_main_option("script_location", str(_MIGRATIONS))
    config.attributes["url"] = sqlalchemy_url(url)
    if revision == "base":
        command.downgrade(config, revision)
    else:
        command.upgrade(config, revision)
