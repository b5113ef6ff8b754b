"""Tries of passwords and codes, counted for all web processes together."""

import sqlalchemy as sa
from alembic import op

revision = "0026"
down_revision = "0025"


def upgrade() -> None:
    op.create_table(
        "tries",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("limit", sa.String, nullable=False),
        sa.Column("who", sa.String, nullable=False),
        sa.Column(
            "made_at", sa.DateTime(timezone=True), nullable=False, server_default=sa.func.clock_timestamp(), index=True
        ),
    )
    op.create_index("tries_of", "tries", ["limit", "who", "made_at"])


def downgrade() -> None:
    op.drop_table("tries")
