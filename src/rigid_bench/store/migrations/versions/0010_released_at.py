"""When a version of an exercise was released: the date in the title block of its sheets; unknown for older ones."""

import sqlalchemy as sa
from alembic import op

revision = "0010"
down_revision = "0009"


def upgrade() -> None:
    op.add_column("exercise_versions", sa.Column("released_at", sa.DateTime(timezone=True)))
    op.alter_column("exercise_versions", "released_at", server_default=sa.func.now())


def downgrade() -> None:
    op.drop_column("exercise_versions", "released_at")
