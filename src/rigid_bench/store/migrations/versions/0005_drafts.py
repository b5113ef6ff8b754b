"""Drafts of exercises: a teacher's model or bundle, what was proposed from it, and what is found of it."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB, TIMESTAMP

revision = "0005"
down_revision = "0004"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "drafts",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("teacher_id", sa.Integer(), sa.ForeignKey("users.id", ondelete="CASCADE"), nullable=False),
        sa.Column("title", sa.String(), nullable=False),
        sa.Column("made_at", TIMESTAMP(timezone=True), nullable=False, server_default=sa.text("now()")),
        sa.Column("state", sa.String(), nullable=False, server_default="waiting"),
        sa.Column("source_name", sa.String(), nullable=False),
        sa.Column("source", sa.LargeBinary(), nullable=False),
        sa.Column("bundle", sa.LargeBinary()),
        sa.Column("document", JSONB),
        sa.Column("past", JSONB, nullable=False, server_default="[]"),
        sa.Column("examined", JSONB),
        sa.Column("error", JSONB),
        sa.CheckConstraint("state in ('waiting', 'ready', 'refused')", name="draft_state_is_known"),
    )
    op.create_index("ix_drafts_teacher_id", "drafts", ["teacher_id"])


def downgrade() -> None:
    op.drop_table("drafts")
