"""Changes of sizes with what they touch, and the drafts that are made for one."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0020"
down_revision = "0019"


def upgrade() -> None:
    op.create_table(
        "change_requests",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("teacher_id", sa.Integer, sa.ForeignKey("users.id", ondelete="CASCADE"), nullable=False, index=True),
        sa.Column("version_id", sa.Integer, sa.ForeignKey("exercise_versions.id"), nullable=False),
        sa.Column("made_at", sa.DateTime(timezone=True), nullable=False, server_default=sa.func.now()),
        sa.Column("state", sa.String, nullable=False, server_default="waiting"),
        sa.Column("sizes", JSONB, nullable=False),
        sa.Column("found", JSONB, nullable=False, server_default="[]"),
        sa.Column("error", JSONB),
        sa.CheckConstraint("state in ('waiting', 'ready', 'refused')", name="change_state_is_known"),
    )
    op.add_column("drafts", sa.Column("change_id", sa.Integer))
    op.create_foreign_key(
        "drafts_change_id_fkey", "drafts", "change_requests", ["change_id"], ["id"], ondelete="CASCADE"
    )
    op.create_index("ix_drafts_change_id", "drafts", ["change_id"])


def downgrade() -> None:
    op.drop_column("drafts", "change_id")
    op.drop_table("change_requests")
