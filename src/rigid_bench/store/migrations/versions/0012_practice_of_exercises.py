"""Practice made of exercises; sets with a clock, and sets that count for marks."""

import sqlalchemy as sa
from alembic import op

revision = "0012"
down_revision = "0011"


def upgrade() -> None:
    version = sa.ForeignKey("exercise_versions.id", ondelete="SET NULL")
    op.add_column("practice_sets", sa.Column("version_id", sa.Integer, version))
    op.add_column("practice_sets", sa.Column("seconds", sa.Integer))
    op.add_column("practice_sets", sa.Column("marks", sa.Float))
    op.add_column("practice_answers", sa.Column("version_id", sa.Integer, sa.ForeignKey("exercise_versions.id")))
    op.drop_constraint("practice_answers_student_id_kind_level_seed_key", "practice_answers")
    op.create_unique_constraint(
        "practice_answers_once",
        "practice_answers",
        ["student_id", "kind", "level", "seed", "version_id"],
        postgresql_nulls_not_distinct=True,
    )
    op.create_table(
        "practice_starts",
        sa.Column("student_id", sa.Integer, sa.ForeignKey("users.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("set_id", sa.Integer, sa.ForeignKey("practice_sets.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("kind", sa.String, primary_key=True),
        sa.Column("level", sa.Integer, primary_key=True),
        sa.Column("seed", sa.Integer, primary_key=True),
        sa.Column("started_at", sa.DateTime(timezone=True), nullable=False, server_default=sa.func.now()),
    )


def downgrade() -> None:
    op.drop_table("practice_starts")
    op.drop_constraint("practice_answers_once", "practice_answers")
    op.execute("delete from practice_answers where version_id is not null")
    op.create_unique_constraint(
        "practice_answers_student_id_kind_level_seed_key", "practice_answers", ["student_id", "kind", "level", "seed"]
    )
    op.drop_column("practice_answers", "version_id")
    for name in ("marks", "seconds", "version_id"):
        op.drop_column("practice_sets", name)
