"""The solved assembly of a draft, to be pointed at."""

import sqlalchemy as sa
from alembic import op

revision = "0015"
down_revision = "0014"


def upgrade() -> None:
    op.add_column("drafts", sa.Column("scene", sa.LargeBinary))
    op.add_column("drafts", sa.Column("scene_digest", sa.String, nullable=False, server_default=""))


def downgrade() -> None:
    op.drop_column("drafts", "scene_digest")
    op.drop_column("drafts", "scene")
