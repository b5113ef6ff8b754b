"""Notices by e-mail: to which address, of what, and which were sent."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import ARRAY

revision = "0017"
down_revision = "0016"


def upgrade() -> None:
    op.add_column("users", sa.Column("email", sa.String, nullable=False, server_default=""))
    op.add_column("users", sa.Column("mail_of", ARRAY(sa.String), nullable=False, server_default="{}"))
    op.add_column("notices", sa.Column("kind", sa.String, nullable=False, server_default="changed"))
    op.add_column("notices", sa.Column("mailed_at", sa.DateTime(timezone=True)))


def downgrade() -> None:
    op.drop_column("notices", "mailed_at")
    op.drop_column("notices", "kind")
    op.drop_column("users", "mail_of")
    op.drop_column("users", "email")
