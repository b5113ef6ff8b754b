"""Every migration runs, both ways, and ends at the tables that the code has."""

import psycopg
from alembic.autogenerate import compare_metadata
from alembic.migration import MigrationContext

from rigid_bench.store.database import Database, migrate
from rigid_bench.store.tables import Base


def test_the_migrations_make_the_tables_of_the_code(database: Database) -> None:
    with database.engine.connect() as connection:
        context = MigrationContext.configure(
            connection,
            opts={"include_name": lambda name, kind, _: not (kind == "table" and name.startswith("procrastinate_"))},
        )
        assert compare_metadata(context, Base.metadata) == []


def test_down_to_nothing_and_up_again(cluster_url: str) -> None:
    with psycopg.connect(cluster_url, autocommit=True) as connection:
        connection.execute("create database up_and_down")
    url = cluster_url.rsplit("/", 1)[0] + "/up_and_down"
    migrate(url)
    migrate(url, revision="base")
    with psycopg.connect(url) as connection:
        left = connection.execute("select tablename from pg_tables where schemaname = 'public'").fetchall()
    assert left == [("alembic_version",)]
    migrate(url)
