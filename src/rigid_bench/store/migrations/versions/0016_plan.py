"""A class's plan: lessons with their exercises, what opens when and after what; its calendar; its archive."""

import sqlalchemy as sa
from alembic import op

revision = "0016"
down_revision = "0015"


def upgrade() -> None:
    op.add_column("classes", sa.Column("archived_at", sa.DateTime(timezone=True)))
    op.add_column("classes", sa.Column("calendar_key", sa.String, unique=True))
    op.create_table(
        "lessons",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("class_id", sa.Integer, sa.ForeignKey("classes.id", ondelete="CASCADE"), nullable=False, index=True),
        sa.Column("starts_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("minutes", sa.Integer, nullable=False),
        sa.Column("room", sa.String, nullable=False, server_default=""),
        sa.Column("title", sa.String, nullable=False, server_default=""),
    )
    op.add_column("assignments", sa.Column("lesson_id", sa.Integer))
    op.create_foreign_key(
        "assignments_lesson_id_fkey", "assignments", "lessons", ["lesson_id"], ["id"], ondelete="SET NULL"
    )
    op.create_index("ix_assignments_lesson_id", "assignments", ["lesson_id"])
    op.add_column("assignments", sa.Column("opens_at", sa.DateTime(timezone=True)))
    op.add_column("assignments", sa.Column("after", sa.String, nullable=False, server_default=""))


def downgrade() -> None:
    op.drop_column("assignments", "after")
    op.drop_column("assignments", "opens_at")
    op.drop_column("assignments", "lesson_id")
    op.drop_table("lessons")
    op.drop_column("classes", "calendar_key")
    op.drop_column("classes", "archived_at")
