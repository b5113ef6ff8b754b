"""A second step of signing in, for who wants it."""

import sqlalchemy as sa
from alembic import op

revision = "0022"
down_revision = "0021"


def upgrade() -> None:
    op.add_column("users", sa.Column("totp_secret", sa.String))
    op.add_column("users", sa.Column("totp_step", sa.Integer, nullable=False, server_default="0"))
    op.add_column("sign_ins", sa.Column("awaits_code", sa.Boolean, nullable=False, server_default="false"))


def downgrade() -> None:
    op.drop_column("sign_ins", "awaits_code")
    op.drop_column("users", "totp_step")
    op.drop_column("users", "totp_secret")
