"""Administrators, home teachers, roles in a class; logs by id; what is done twice counts once; returns taken back."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB, TIMESTAMP

revision = "0009"
down_revision = "0008"
branch_labels = None
depends_on = None

_NOW = sa.text("now()")
_TIME = TIMESTAMP(timezone=True)


def upgrade() -> None:
    _people()
    _classes()
    _log()
    _marking()
    op.create_table(
        "start_codes",
        sa.Column("code_hash", sa.String(), primary_key=True),
        sa.Column("made_at", _TIME, nullable=False, server_default=_NOW),
    )
    op.create_table(
        "sent_forms",
        sa.Column("token", sa.String(), primary_key=True),
        sa.Column("sent_at", _TIME, nullable=False, server_default=_NOW, index=True),
    )
    op.create_table(
        "student_lists",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column(
            "class_id", sa.Integer(), sa.ForeignKey("classes.id", ondelete="CASCADE"), nullable=False, index=True
        ),
        sa.Column("teacher_id", sa.Integer(), sa.ForeignKey("users.id", ondelete="CASCADE"), nullable=False),
        sa.Column("made_at", _TIME, nullable=False, server_default=_NOW),
        sa.Column("content", sa.String(), nullable=False),
    )
    op.create_table(
        "sign_in_cards",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("maker_id", sa.Integer(), sa.ForeignKey("users.id", ondelete="CASCADE"), nullable=False, index=True),
        sa.Column("class_id", sa.Integer(), sa.ForeignKey("classes.id", ondelete="CASCADE")),
        sa.Column("made_at", _TIME, nullable=False, server_default=_NOW),
        sa.Column("sealed", sa.LargeBinary(), nullable=False),
    )
    op.create_table(
        "printouts",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column(
            "class_id", sa.Integer(), sa.ForeignKey("classes.id", ondelete="CASCADE"), nullable=False, index=True
        ),
        sa.Column("version_id", sa.Integer(), sa.ForeignKey("exercise_versions.id"), nullable=False),
        sa.Column("maker_id", sa.Integer(), sa.ForeignKey("users.id", ondelete="CASCADE"), nullable=False),
        sa.Column("made_at", _TIME, nullable=False, server_default=_NOW),
        sa.Column("state", sa.String(), nullable=False, server_default="waiting"),
        sa.Column("done", sa.Integer(), nullable=False, server_default="0"),
        sa.Column("total", sa.Integer(), nullable=False, server_default="0"),
        sa.Column("content", sa.LargeBinary()),
        sa.Column("error", JSONB),
        sa.CheckConstraint("state in ('waiting', 'ready', 'refused')", name="printout_state_is_known"),
    )


def _people() -> None:
    op.add_column(
        "users", sa.Column("home_teacher_id", sa.Integer(), sa.ForeignKey("users.id", ondelete="SET NULL"), index=True)
    )
    op.add_column("users", sa.Column("disabled_at", _TIME))
    op.drop_constraint("role_is_known", "users")
    op.create_check_constraint("role_is_known", "users", "role in ('administrator', 'teacher', 'student')")
    op.execute("update users set role = 'administrator' where id = (select min(id) from users where role = 'teacher')")


def _classes() -> None:
    op.add_column("class_teachers", sa.Column("role", sa.String(), nullable=False, server_default="teacher"))
    op.create_check_constraint("class_role_is_known", "class_teachers", "role in ('owner', 'teacher', 'assistant')")
    # who made a class was not kept; the teacher who is longest in the school is the likeliest
    op.execute("""
        update class_teachers set role = 'owner'
        where (class_id, teacher_id) in (select class_id, min(teacher_id) from class_teachers group by class_id)
    """)
    op.create_index(
        "one_owner_a_class", "class_teachers", ["class_id"], unique=True, postgresql_where=sa.text("role = 'owner'")
    )
    # a student of one teacher's classes is that teacher's; whoever is in several teachers' is the administrator's
    op.execute("""
        update users set home_teacher_id = known.teacher_id from (
            select student_id, min(teacher_id) as teacher_id from memberships
            join class_teachers using (class_id) where class_teachers.role = 'owner'
            group by student_id having count(distinct teacher_id) = 1) as known
        where users.id = known.student_id
    """)
    # of a partner that does not say the same, nothing is left
    op.execute("""
        update terms set partner_id = null where partner_id is not null and not exists (
            select from terms as other where other.class_id = terms.class_id and other.version_id = terms.version_id
            and other.student_id = terms.partner_id and other.partner_id = terms.student_id)
    """)
    op.create_unique_constraint(
        "terms_class_id_version_id_partner_id_key", "terms", ["class_id", "version_id", "partner_id"]
    )


def _log() -> None:
    """Find the people that old entries name; what names one that is not found any more loses the words."""
    for name in ("who_id", "person_id"):
        column = sa.Column(name, sa.Integer(), sa.ForeignKey("users.id", ondelete="SET NULL"), index=True)
        op.add_column("log_entries", column)
    op.add_column("log_entries", sa.Column("is_by_program", sa.Boolean(), nullable=False, server_default="false"))
    op.add_column("log_entries", sa.Column("params", JSONB, nullable=False, server_default="{}"))
    op.execute("update log_entries set is_by_program = true where who = 'set time'")
    op.execute("""
        update log_entries set who_id = known.id
        from (select name, min(id) as id from users group by name having count(*) = 1) as known
        where known.name = log_entries.who
    """)
    op.execute("""
        update log_entries set person_id = known.id,
            subject = case when position(', build ' in subject) > 0
                           then substr(subject, position(', build ' in subject) + 2) else '' end
        from (select name, min(id) as id from users group by name having count(*) = 1) as known
        where known.name = split_part(subject, ', build ', 1)
    """)
    op.execute("""
        update log_entries set subject = ''
        where action like 'added%' or exists (select from users where position(users.name in subject) > 0)
    """)
    op.execute("""
        update log_entries set action = 'changed what is agreed for' where action like 'changed what is agreed with %'
    """)
    op.execute("""
        update log_entries set params = jsonb_build_object('text', trim(action || ' ' || subject)), action = 'earlier'
    """)
    op.drop_column("log_entries", "who")
    op.drop_column("log_entries", "subject")


def _marking() -> None:
    op.add_column("returns", sa.Column("number", sa.Integer(), nullable=False, server_default="1"))
    op.add_column("returns", sa.Column("batch", sa.String(), index=True))
    op.add_column("returns", sa.Column("seen_at", _TIME))
    op.add_column("returns", sa.Column("taken_back_at", _TIME))
    op.execute("""
        update returns set number = counted.number
        from (select id, row_number() over (partition by build_id order by id) as number from returns) as counted
        where counted.id = returns.id
    """)
    op.create_unique_constraint("returns_build_id_number_key", "returns", ["build_id", "number"])
    of_return = sa.Column("return_id", sa.Integer(), sa.ForeignKey("returns.id", ondelete="CASCADE"), index=True)
    op.add_column("notices", of_return)
    op.execute("""
        delete from questions using questions as first
        where first.build_id = questions.build_id and first.check_id = questions.check_id
          and first.text = questions.text and first.id < questions.id
    """)
    op.create_index("one_question_once", "questions", ["build_id", "check_id", sa.text("md5(text)")], unique=True)


def downgrade() -> None:
    for name in ("printouts", "sign_in_cards", "student_lists", "sent_forms", "start_codes"):
        op.drop_table(name)
    op.drop_index("one_question_once", "questions")
    op.drop_column("notices", "return_id")
    op.drop_constraint("returns_build_id_number_key", "returns")
    for name in ("number", "batch", "seen_at", "taken_back_at"):
        op.drop_column("returns", name)
    op.add_column("log_entries", sa.Column("who", sa.String(), nullable=False, server_default=""))
    op.add_column("log_entries", sa.Column("subject", sa.String(), nullable=False, server_default=""))
    for name in ("who_id", "person_id", "is_by_program", "params"):
        op.drop_column("log_entries", name)
    op.drop_constraint("terms_class_id_version_id_partner_id_key", "terms")
    op.drop_index("one_owner_a_class", "class_teachers")
    op.drop_column("class_teachers", "role")
    op.execute("update users set role = 'teacher' where role = 'administrator'")
    op.drop_constraint("role_is_known", "users")
    op.create_check_constraint("role_is_known", "users", "role in ('teacher', 'student')")
    op.drop_column("users", "home_teacher_id")
    op.drop_column("users", "disabled_at")
