"""Classes with several teachers and terms; what marking adds: questions, hands, comments, notices, a log."""

from datetime import datetime

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB, TIMESTAMP

revision = "0004"
down_revision = "0003"
branch_labels = None
depends_on = None

_NOW = sa.text("now()")
_TABLES = (
    "class_teachers",
    "terms",
    "questions",
    "hands",
    "bank_comments",
    "withdrawals",
    "notices",
    "log_entries",
    "allowances",
    "scenes",
)


def _time(name: str, *, is_now: bool = False) -> "sa.Column[datetime]":
    return sa.Column(name, TIMESTAMP(timezone=True), nullable=not is_now, server_default=_NOW if is_now else None)


def _refers(
    name: str, table: str, *, gone: str | None = "CASCADE", key: bool = False, null: bool = False
) -> "sa.Column[int]":
    foreign = sa.ForeignKey(f"{table}.id", ondelete=gone)
    return sa.Column(name, sa.Integer(), foreign, primary_key=key, nullable=null)


def upgrade() -> None:
    op.create_table(
        "class_teachers",
        _refers("class_id", "classes", key=True),
        _refers("teacher_id", "users", key=True),
    )
    op.create_index("ix_class_teachers_teacher_id", "class_teachers", ["teacher_id"])
    op.execute("insert into class_teachers select id, teacher_id from classes")
    op.drop_column("classes", "teacher_id")
    op.add_column("classes", sa.Column("code", sa.String(), nullable=True))
    op.execute("update classes set code = upper(substr(md5(random()::text), 1, 6)) || id")
    op.alter_column("classes", "code", nullable=False)
    op.create_unique_constraint("classes_code_key", "classes", ["code"])
    op.add_column("classes", sa.Column("settings", JSONB, nullable=False, server_default="{}"))
    for column in (
        _time("due_at"),
        sa.Column("shows", sa.String(), nullable=False, server_default="full"),
        sa.Column("attempts", sa.Integer()),
        sa.Column("late", sa.String(), nullable=False, server_default="taken"),
        sa.Column("late_percent", sa.Float(), nullable=False, server_default="0"),
        _time("return_at"),
    ):
        op.add_column("assignments", column)
    op.add_column("builds", sa.Column("counts", sa.Boolean(), nullable=False, server_default="true"))
    op.add_column("build_files", sa.Column("is_evidence", sa.Boolean(), nullable=False, server_default="false"))
    op.add_column("runs", sa.Column("is_trial", sa.Boolean(), nullable=False, server_default="false"))
    op.add_column("returns", sa.Column("total", sa.Float()))
    op.alter_column("overrides", "marks", nullable=True)
    op.add_column("overrides", sa.Column("batch", sa.String()))
    op.create_index("ix_overrides_batch", "overrides", ["batch"])
    op.add_column("overrides", _time("undone_at"))
    _tables_of_terms()
    _tables_of_marking()


def _tables_of_terms() -> None:
    op.create_table(
        "terms",
        _refers("class_id", "classes", key=True),
        _refers("version_id", "exercise_versions", gone=None, key=True),
        _refers("student_id", "users", key=True),
        _time("due_at"),
        sa.Column("is_absent", sa.Boolean(), nullable=False, server_default="false"),
        _refers("partner_id", "users", gone="SET NULL", null=True),
    )
    op.create_table(
        "notices",
        sa.Column("id", sa.Integer(), primary_key=True),
        _refers("user_id", "users"),
        _refers("build_id", "builds", null=True),
        sa.Column("text", sa.String(), nullable=False),
        _time("made_at", is_now=True),
        _time("seen_at"),
    )
    op.create_index("ix_notices_user_id", "notices", ["user_id"])
    op.create_table(
        "log_entries",
        sa.Column("id", sa.Integer(), primary_key=True),
        _refers("class_id", "classes", null=True),
        _time("made_at", is_now=True),
        sa.Column("who", sa.String(), nullable=False),
        sa.Column("action", sa.String(), nullable=False),
        sa.Column("subject", sa.String(), nullable=False),
    )
    op.create_index("ix_log_entries_class_id", "log_entries", ["class_id"])
    op.create_table(
        "allowances",
        sa.Column("process", sa.String(), primary_key=True),
        sa.Column("action", sa.String(), primary_key=True),
        sa.Column("least", sa.Float(), nullable=False),
        sa.Column("most", sa.Float(), nullable=False),
    )


def _tables_of_marking() -> None:
    op.create_table(
        "questions",
        sa.Column("id", sa.Integer(), primary_key=True),
        _refers("build_id", "builds"),
        sa.Column("check_id", sa.String(), nullable=False),
        sa.Column("text", sa.String(), nullable=False),
        _time("asked_at", is_now=True),
        sa.Column("answer", sa.String()),
        _time("answered_at"),
    )
    op.create_index("ix_questions_build_id", "questions", ["build_id"])
    op.create_table(
        "hands",
        sa.Column("id", sa.Integer(), primary_key=True),
        _refers("class_id", "classes"),
        _refers("build_id", "builds"),
        _refers("student_id", "users"),
        sa.Column("check_id", sa.String(), nullable=False),
        _time("raised_at", is_now=True),
        _time("lowered_at"),
    )
    op.create_index("ix_hands_class_id", "hands", ["class_id"])
    op.create_table(
        "bank_comments",
        sa.Column("id", sa.Integer(), primary_key=True),
        _refers("teacher_id", "users"),
        sa.Column("text", sa.String(), nullable=False),
        sa.Column("code", sa.String(), nullable=False, server_default=""),
        sa.Column("used", sa.Integer(), nullable=False, server_default="1"),
        sa.UniqueConstraint("teacher_id", "text"),
    )
    op.create_table(
        "scenes",
        _refers("build_id", "builds", key=True),
        sa.Column("content", sa.LargeBinary(), nullable=False),
    )
    op.create_table(
        "withdrawals",
        _refers("class_id", "classes", key=True),
        sa.Column("exercise", sa.String(), primary_key=True),
        sa.Column("check_id", sa.String(), primary_key=True),
        sa.Column("reason", sa.String(), nullable=False),
        _refers("teacher_id", "users", gone=None),
        _time("made_at", is_now=True),
    )


def downgrade() -> None:
    op.add_column("classes", sa.Column("teacher_id", sa.Integer(), sa.ForeignKey("users.id")))
    op.execute(
        "update classes set teacher_id = (select min(teacher_id) from class_teachers where class_id = classes.id)"
    )
    op.execute("delete from classes where teacher_id is null")
    op.alter_column("classes", "teacher_id", nullable=False)
    for table in reversed(_TABLES):
        op.drop_table(table)
    op.execute("delete from overrides where marks is null or undone_at is not null")
    op.execute("delete from builds where not counts")
    op.execute("delete from runs where is_trial")
    op.execute("delete from build_files where is_evidence")
    op.alter_column("overrides", "marks", nullable=False)
    for table, columns in {
        "classes": ("code", "settings"),
        "assignments": ("due_at", "shows", "attempts", "late", "late_percent", "return_at"),
        "builds": ("counts",),
        "build_files": ("is_evidence",),
        "runs": ("is_trial",),
        "returns": ("total",),
        "overrides": ("batch", "undone_at"),
    }.items():
        for column in columns:
            op.drop_column(table, column)
