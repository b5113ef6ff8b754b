"""Groups of any size in place of pairs, with who was in them when; stages of exercises in lessons."""

import sqlalchemy as sa
from alembic import op

revision = "0019"
down_revision = "0018"


def upgrade() -> None:
    op.add_column("terms", sa.Column("group_number", sa.Integer))
    op.create_table(
        "group_memberships",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("class_id", sa.Integer, sa.ForeignKey("classes.id", ondelete="CASCADE"), nullable=False),
        sa.Column("version_id", sa.Integer, sa.ForeignKey("exercise_versions.id"), nullable=False),
        sa.Column("number", sa.Integer, nullable=False),
        sa.Column("student_id", sa.Integer, sa.ForeignKey("users.id", ondelete="CASCADE"), nullable=False, index=True),
        # of pairs of before this was kept nobody knows when they began
        sa.Column("joined_at", sa.DateTime(timezone=True)),
        sa.Column("left_at", sa.DateTime(timezone=True)),
    )
    op.create_index(
        "one_group_at_a_time", "group_memberships", ["class_id", "version_id", "student_id"], unique=True,
        postgresql_where=sa.text("left_at is null"),
    )  # fmt: skip
    op.execute("""
        update terms set group_number = pairs.number from (
            select class_id, version_id, student_id, dense_rank() over (
                partition by class_id, version_id order by least(student_id, partner_id)) as number
            from terms where partner_id is not null) as pairs
        where terms.class_id = pairs.class_id and terms.version_id = pairs.version_id
            and terms.student_id = pairs.student_id
        """)
    op.execute("""
        insert into group_memberships (class_id, version_id, number, student_id)
        select class_id, version_id, group_number, student_id from terms where group_number is not null
        """)
    op.drop_column("terms", "partner_id")
    op.create_table(
        "stage_lessons",
        sa.Column("class_id", sa.Integer, sa.ForeignKey("classes.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("version_id", sa.Integer, sa.ForeignKey("exercise_versions.id"), primary_key=True),
        sa.Column("stage", sa.String, primary_key=True),
        sa.Column("lesson_id", sa.Integer, sa.ForeignKey("lessons.id", ondelete="CASCADE"), nullable=False, index=True),
    )


def downgrade() -> None:
    op.drop_table("stage_lessons")
    op.add_column("terms", sa.Column("partner_id", sa.Integer))
    op.create_foreign_key("terms_partner_id_fkey", "terms", "users", ["partner_id"], ["id"], ondelete="SET NULL")
    op.create_unique_constraint(
        "terms_class_id_version_id_partner_id_key", "terms", ["class_id", "version_id", "partner_id"]
    )
    # a pair is all that was there before: of larger groups nobody knows who would be whose partner
    op.execute("""
        update terms set partner_id = other.student_id from terms as other
        where other.class_id = terms.class_id and other.version_id = terms.version_id
            and other.group_number = terms.group_number and other.student_id <> terms.student_id
            and 2 = (select count(*) from terms as own where own.class_id = terms.class_id
                and own.version_id = terms.version_id and own.group_number = terms.group_number)
        """)
    op.drop_table("group_memberships")
    op.drop_column("terms", "group_number")
