"""What was undone of a draft, so that it can be done again."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0006"
down_revision = "0005"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("drafts", sa.Column("undone", JSONB, nullable=False, server_default="[]"))


def downgrade() -> None:
    op.drop_column("drafts", "undone")
