"""What students practise: each drill that was answered, and the sets that teachers give."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0011"
down_revision = "0010"


def upgrade() -> None:
    op.create_table(
        "practice_sets",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("class_id", sa.Integer, sa.ForeignKey("classes.id", ondelete="CASCADE"), nullable=False, index=True),
        sa.Column("title", sa.String, nullable=False),
        sa.Column("kinds", JSONB, nullable=False),
        sa.Column("level", sa.Integer),
        sa.Column("number", sa.Integer, nullable=False),
        sa.Column("until", sa.DateTime(timezone=True)),
        sa.Column("made_at", sa.DateTime(timezone=True), nullable=False, server_default=sa.func.now()),
    )
    op.create_table(
        "practice_answers",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("student_id", sa.Integer, sa.ForeignKey("users.id", ondelete="CASCADE"), nullable=False, index=True),
        sa.Column("set_id", sa.Integer, sa.ForeignKey("practice_sets.id", ondelete="SET NULL"), index=True),
        sa.Column("kind", sa.String, nullable=False),
        sa.Column("level", sa.Integer, nullable=False),
        sa.Column("seed", sa.Integer, nullable=False),
        sa.Column("is_right", sa.Boolean, nullable=False),
        sa.Column("slip", sa.String),
        sa.Column("answered_at", sa.DateTime(timezone=True), nullable=False, server_default=sa.func.now()),
        sa.UniqueConstraint("student_id", "kind", "level", "seed"),
    )


def downgrade() -> None:
    op.drop_table("practice_answers")
    op.drop_table("practice_sets")
