"""Accounts that people have elsewhere, with which they sign in."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0023"
down_revision = "0022"


def upgrade() -> None:
    op.create_table(
        "outside_accounts",
        sa.Column("issuer", sa.String, primary_key=True),
        sa.Column("subject", sa.String, primary_key=True),
        sa.Column("user_id", sa.Integer, sa.ForeignKey("users.id", ondelete="CASCADE"), nullable=False, index=True),
        sa.Column("joined_at", sa.DateTime(timezone=True), nullable=False, server_default=sa.func.now()),
    )
    op.create_table(
        "outside_tries",
        sa.Column("state_hash", sa.String, primary_key=True),
        sa.Column("known", JSONB, nullable=False),
        sa.Column("expires_at", sa.DateTime(timezone=True), nullable=False),
    )
    op.add_column("sign_ins", sa.Column("issuer", sa.String, nullable=False, server_default=""))


def downgrade() -> None:
    op.drop_column("sign_ins", "issuer")
    op.drop_table("outside_tries")
    op.drop_table("outside_accounts")
