"""Of a bench: the build that it is for, what contacts are found by, how it comes apart, its STEP file."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0008"
down_revision = "0007"
branch_labels = None
depends_on = None


def upgrade() -> None:
    build = sa.Column("build_id", sa.Integer(), sa.ForeignKey("builds.id", ondelete="CASCADE"))
    op.add_column("benches", build)
    op.create_index(op.f("ix_benches_build_id"), "benches", ["build_id"])
    op.add_column("benches", sa.Column("skins", sa.LargeBinary()))
    op.add_column("benches", sa.Column("ways", JSONB))
    op.add_column("benches", sa.Column("ways_at", sa.Integer(), nullable=False, server_default="-1"))
    op.add_column("benches", sa.Column("step_file", sa.LargeBinary()))
    op.add_column("benches", sa.Column("step_error", JSONB))
    op.add_column("benches", sa.Column("step_at", sa.Integer(), nullable=False, server_default="-1"))


def downgrade() -> None:
    for name in ("build_id", "skins", "ways", "ways_at", "step_file", "step_error", "step_at"):
        op.drop_column("benches", name)
