"""Alembic's entry: run the migrations on the database that `migrate` names."""

from alembic import context
from sqlalchemy import create_engine

from rigid_bench.store.tables import Base

engine = create_engine(context.config.attributes["url"])
with engine.connect() as connection:
    # of the queue's own tables Alembic knows nothing: the queue brings its schema
    context.configure(
        connection=connection,
        target_metadata=Base.metadata,
        include_name=lambda name, kind, parents: not (kind == "table" and (name or "").startswith("procrastinate_")),
    )
    with context.begin_transaction():
        context.run_migrations()
engine.dispose()
