"""Sessions that can be listed and ended, backups that were written."""

import sqlalchemy as sa
from alembic import op

revision = "0021"
down_revision = "0020"


def upgrade() -> None:
    op.add_column("sign_ins", sa.Column("number", sa.Integer, sa.Identity(), nullable=False, unique=True))
    for name in ("started_at", "used_at"):
        op.add_column(
            "sign_ins", sa.Column(name, sa.DateTime(timezone=True), nullable=False, server_default=sa.func.now())
        )
    op.create_table(
        "backups",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("made_at", sa.DateTime(timezone=True), nullable=False, server_default=sa.func.now()),
        sa.Column("name", sa.String, nullable=False),
        sa.Column("size", sa.BigInteger, nullable=False),
        sa.Column("sha256", sa.String, nullable=False),
    )
    op.create_index("log_entries_by_action", "log_entries", ["action", "id"])


def downgrade() -> None:
    op.drop_index("log_entries_by_action", "log_entries")
    op.drop_table("backups")
    for name in ("used_at", "started_at", "number"):
        op.drop_column("sign_ins", name)
