"""Course platforms, the courses and links that are classes and exercises, and the marks that were sent there."""

import sqlalchemy as sa
from alembic import op

revision = "0024"
down_revision = "0023"


def _text(name: str, default: str | None = None) -> sa.Column[str]:
    return sa.Column(name, sa.String, nullable=False, server_default=default)


def _reference(name: str, target: str, *, is_key: bool = False, index: bool = False) -> sa.Column[int]:
    return sa.Column(
        name, sa.Integer, sa.ForeignKey(target, ondelete="CASCADE"), nullable=False, primary_key=is_key, index=index
    )


def upgrade() -> None:
    op.create_table(
        "course_platforms",
        sa.Column("id", sa.Integer, primary_key=True),
        *map(_text, ("name", "issuer", "client_id", "sign_in_url", "token_url", "keys_url")),
        sa.Column("deployments", sa.ARRAY(sa.String), nullable=False),
        sa.UniqueConstraint("issuer", "client_id"),
    )
    op.create_table(
        "platform_keys",
        sa.Column("id", sa.Integer, primary_key=True),
        *map(_text, ("private_pem", "public_pem")),
    )
    op.create_table(
        "courses",
        sa.Column("id", sa.Integer, primary_key=True),
        _reference("platform_id", "course_platforms.id"),
        *map(_text, ("context", "title")),
        _reference("class_id", "classes.id", index=True),
        _text("members_url", ""),
        sa.Column("looked_to_entry", sa.Integer, nullable=False, server_default="0"),
        sa.Column("looked_at", sa.DateTime(timezone=True)),
        sa.UniqueConstraint("platform_id", "context"),
    )
    op.create_table(
        "course_links",
        _reference("course_id", "courses.id", is_key=True),
        sa.Column("resource", sa.String, primary_key=True),
        _text("exercise"),
        _text("line_item", ""),
    )
    op.create_table(
        "sent_marks",
        _reference("course_id", "courses.id", is_key=True),
        sa.Column("exercise", sa.String, primary_key=True),
        _reference("student_id", "users.id", is_key=True),
        sa.Column("awarded", sa.Float),
        sa.Column("available", sa.Float),
        sa.Column("sent_at", sa.DateTime(timezone=True)),
        sa.Column("tries", sa.Integer, nullable=False, server_default="0"),
        sa.Column("refused_with", sa.Integer),
        sa.Column("try_again_at", sa.DateTime(timezone=True)),
    )


def downgrade() -> None:
    for name in ("sent_marks", "course_links", "courses", "platform_keys", "course_platforms"):
        op.drop_table(name)
