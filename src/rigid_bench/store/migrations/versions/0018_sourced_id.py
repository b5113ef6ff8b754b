"""The identifier that the school's own system has for a person."""

import sqlalchemy as sa
from alembic import op

revision = "0018"
down_revision = "0017"


def upgrade() -> None:
    op.add_column("users", sa.Column("sourced_id", sa.String, nullable=False, server_default=""))


def downgrade() -> None:
    op.drop_column("users", "sourced_id")
