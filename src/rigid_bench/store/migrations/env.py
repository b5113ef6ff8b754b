"""Alembic's entry: run the migrations on the database that `migrate` names."""

from alembic import context
from sqlalchemy import Connection, create_engine

from rigid_bench.store.tables import Base


def run_on(connection: Connection) -> None:
    # of the queue's own tables Alembic knows nothing: the queue brings its schema
    context.configure(
        connection=connection,
        target_metadata=Base.metadata,
        include_name=lambda name, kind, parents: not (kind == "table" and (name or "").startswith("procrastinate_")),
    )
    with context.begin_transaction():
        context.run_migrations()


# a trial has a transaction of its own, which is rolled back
own = context.config.attributes.get("connection")
if own is not None:
    run_on(own)
else:
    engine = create_engine(context.config.attributes["url"])
    with engine.connect() as connection:
        run_on(connection)
    engine.dispose()
