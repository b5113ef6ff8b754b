"""Benches, with every step that is taken on them."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB, TIMESTAMP

revision = "0007"
down_revision = "0006"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "benches",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("class_id", sa.Integer(), sa.ForeignKey("classes.id", ondelete="CASCADE"), nullable=False),
        sa.Column("version_id", sa.Integer(), sa.ForeignKey("exercise_versions.id"), nullable=False),
        sa.Column("student_id", sa.Integer(), sa.ForeignKey("users.id", ondelete="CASCADE"), nullable=False),
        sa.Column("made_at", TIMESTAMP(timezone=True), nullable=False, server_default=sa.text("now()")),
        sa.Column("state", sa.String(), nullable=False, server_default="waiting"),
        sa.Column("error", JSONB),
        sa.Column("files", sa.LargeBinary()),
        sa.Column("parts", JSONB),
        sa.Column("drawn", sa.LargeBinary()),
        sa.Column("apart", JSONB),
        sa.Column("apart_at", sa.Integer(), nullable=False, server_default="0"),
        sa.Column("notes", JSONB, nullable=False, server_default="{}"),
        sa.Column("at", sa.Integer(), nullable=False, server_default="0"),
        sa.CheckConstraint("state in ('waiting', 'ready', 'refused')", name="bench_state_is_known"),
    )
    op.create_index("benches_by_student", "benches", ["class_id", "version_id", "student_id", "id"])
    op.create_table(
        "bench_steps",
        sa.Column("bench_id", sa.Integer(), sa.ForeignKey("benches.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("number", sa.Integer(), primary_key=True),
        sa.Column("parent", sa.Integer(), nullable=False),
        sa.Column("made_at", TIMESTAMP(timezone=True), nullable=False, server_default=sa.text("now()")),
        sa.Column("who", sa.String(), nullable=False),
        sa.Column("words", sa.String(), nullable=False),
        sa.Column("document", JSONB, nullable=False),
    )


def downgrade() -> None:
    op.drop_table("bench_steps")
    op.drop_table("benches")
