"""What was understood of a build before it counts."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0003"
down_revision = "0002"
branch_labels = None
depends_on = None

_COUNTED = "'queued', 'measuring', 'graded', 'failed'"
_UNCOUNTED = "'looking', 'looked', 'refused'"


def upgrade() -> None:
    op.add_column("builds", sa.Column("understood", JSONB))
    op.drop_constraint("state_is_known", "builds")
    op.create_check_constraint("state_is_known", "builds", f"state in ({_UNCOUNTED}, {_COUNTED})")


def downgrade() -> None:
    op.execute(f"delete from builds where state in ({_UNCOUNTED})")
    op.drop_constraint("state_is_known", "builds")
    op.create_check_constraint("state_is_known", "builds", f"state in ({_COUNTED})")
    op.drop_column("builds", "understood")
