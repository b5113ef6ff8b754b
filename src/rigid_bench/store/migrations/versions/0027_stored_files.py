"""Files of builds by the digest of their content, each once."""

import sqlalchemy as sa
from alembic import op

revision = "0027"
down_revision = "0026"


def upgrade() -> None:
    op.create_table(
        "stored_files",
        sa.Column("digest", sa.String, primary_key=True),
        sa.Column("size", sa.Integer, nullable=False),
        sa.Column("content", sa.LargeBinary),
        sa.Column("kept_at", sa.DateTime(timezone=True), nullable=False, server_default=sa.func.now()),
    )
    op.add_column("build_files", sa.Column("digest", sa.String))
    op.execute("update build_files set digest = encode(sha256(content), 'hex')")
    op.execute(
        "insert into stored_files (digest, size, content) "
        "select distinct on (digest) digest, size, content from build_files order by digest, id"
    )
    op.alter_column("build_files", "digest", nullable=False)
    op.create_foreign_key("build_files_digest_fkey", "build_files", "stored_files", ["digest"], ["digest"])
    op.create_index("ix_build_files_digest", "build_files", ["digest"])
    op.drop_column("build_files", "content")


def downgrade() -> None:
    op.add_column("build_files", sa.Column("content", sa.LargeBinary))
    op.execute("update build_files f set content = s.content from stored_files s where s.digest = f.digest")
    op.alter_column("build_files", "content", nullable=False)
    op.drop_index("ix_build_files_digest", "build_files")
    op.drop_column("build_files", "digest")
    op.drop_table("stored_files")
