"""Exercises that are out of the way: kept, readable, not offered."""

import sqlalchemy as sa
from alembic import op

revision = "0014"
down_revision = "0013"


def upgrade() -> None:
    op.create_table(
        "archived_exercises",
        sa.Column("exercise", sa.String, primary_key=True),
        sa.Column("archived_at", sa.DateTime(timezone=True), nullable=False, server_default=sa.func.now()),
    )


def downgrade() -> None:
    op.drop_table("archived_exercises")
