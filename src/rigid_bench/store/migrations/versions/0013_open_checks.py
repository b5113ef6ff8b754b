"""What of a run is not met, beside its report: what a class got wrong is read without all of its reports."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0013"
down_revision = "0012"


def upgrade() -> None:
    op.add_column("runs", sa.Column("open_checks", JSONB, nullable=False, server_default="[]"))
    op.execute("""
        update runs set open_checks = coalesce((
            select jsonb_agg(jsonb_build_array(c->'id', c->'title', c->'verdict', c#>'{cause,code}', c->'follows')
                             order by place)
            from jsonb_array_elements(report->'checks') with ordinality as each(c, place)
            where c->>'verdict' <> 'met'), '[]')
    """)


def downgrade() -> None:
    op.drop_column("runs", "open_checks")
