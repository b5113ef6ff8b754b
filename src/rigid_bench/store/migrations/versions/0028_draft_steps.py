"""Drafts as documents with steps, and files by digest."""

import hashlib
import json
from typing import Any

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

from rigid_bench.core.formats.archive import read_zip, write_zip

revision = "0028"
down_revision = "0027"
_DOCUMENT = "exercise.json"
_STEP = sa.text("insert into draft_steps (draft_id, number, document) values (:draft, :number, :document)").bindparams(
    sa.bindparam("document", type_=JSONB)
)


def upgrade() -> None:
    op.create_table(
        "draft_steps",
        sa.Column("draft_id", sa.Integer, sa.ForeignKey("drafts.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("number", sa.Integer, primary_key=True),
        sa.Column("made_at", sa.DateTime(timezone=True), nullable=False, server_default=sa.func.now()),
        sa.Column("document", JSONB, nullable=False),
    )
    op.create_table(
        "draft_files",
        sa.Column("draft_id", sa.Integer, sa.ForeignKey("drafts.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("name", sa.String, primary_key=True),
        sa.Column("digest", sa.String, sa.ForeignKey("stored_files.digest"), nullable=False, index=True),
    )
    op.add_column("drafts", sa.Column("source_digest", sa.String))
    for name in ("at", "oldest", "newest", "revision"):
        op.add_column("drafts", sa.Column(name, sa.Integer, nullable=False, server_default="0"))
    op.add_column("drafts", sa.Column("equations", JSONB, nullable=False, server_default="{}"))
    connection = op.get_bind()
    for draft in connection.execute(sa.text("select id from drafts order by id")).scalars().all():
        _upgrade_draft(connection, draft)
    op.alter_column("drafts", "source_digest", nullable=False)
    op.create_foreign_key("drafts_source_digest_fkey", "drafts", "stored_files", ["source_digest"], ["digest"])
    op.create_index("ix_drafts_source_digest", "drafts", ["source_digest"])
    for name in ("source", "bundle", "document", "past", "undone"):
        op.drop_column("drafts", name)


def _upgrade_draft(connection: sa.Connection, draft: int) -> None:
    query = sa.text("select source, bundle, document, past, undone from drafts where id = :draft")
    source, bundle, document, past, undone = connection.execute(query, {"draft": draft}).one()
    values = {"draft": draft, "source": _keep(connection, bytes(source)), "at": 0, "oldest": 0, "newest": 0}
    if bundle is not None and document is not None:
        steps = [*past, document, *reversed(undone)]
        connection.execute(
            _STEP, [{"draft": draft, "number": number, "document": step} for number, step in enumerate(steps, 1)]
        )
        values |= {"at": len(past) + 1, "oldest": 1, "newest": len(steps)}
        add = sa.text("insert into draft_files (draft_id, name, digest) values (:draft, :name, :digest)")
        for name, content in read_zip(bytes(bundle), name="draft").items():
            if name != _DOCUMENT:
                connection.execute(add, {"draft": draft, "name": name, "digest": _keep(connection, content)})
    set_ = "update drafts set source_digest = :source, at = :at, oldest = :oldest, newest = :newest where id = :draft"
    connection.execute(sa.text(set_), values)


def _keep(connection: sa.Connection, content: bytes) -> str:
    digest = hashlib.sha256(content).hexdigest()
    row = sa.text(
        "insert into stored_files (digest, size, content) values (:digest, :size, :content) on conflict do nothing"
    )
    connection.execute(row, {"digest": digest, "size": len(content), "content": content})
    return digest


def downgrade() -> None:
    op.add_column("drafts", sa.Column("source", sa.LargeBinary))
    op.add_column("drafts", sa.Column("bundle", sa.LargeBinary))
    op.add_column("drafts", sa.Column("document", JSONB))
    op.add_column("drafts", sa.Column("past", JSONB, nullable=False, server_default="[]"))
    op.add_column("drafts", sa.Column("undone", JSONB, nullable=False, server_default="[]"))
    op.execute("update drafts d set source = s.content from stored_files s where s.digest = d.source_digest")
    connection = op.get_bind()
    for draft, at in connection.execute(sa.text("select id, at from drafts where at > 0")).all():
        _downgrade_draft(connection, draft, at)
    op.alter_column("drafts", "source", nullable=False)
    for name in ("source_digest", "at", "oldest", "newest", "revision", "equations"):
        op.drop_column("drafts", name)
    op.drop_table("draft_files")
    op.drop_table("draft_steps")


def _downgrade_draft(connection: sa.Connection, draft: int, at: int) -> None:
    of_draft = {"draft": draft}
    steps: list[tuple[int, Any]] = [
        (number, document)
        for number, document in connection.execute(
            sa.text("select number, document from draft_steps where draft_id = :draft order by number"), of_draft
        )
    ]
    document = dict(steps)[at]
    files = {_DOCUMENT: json.dumps(document, indent=1, ensure_ascii=False).encode()}
    contents = sa.text("select f.name, s.content from draft_files f join stored_files s using (digest) "
                       "where draft_id = :draft")  # fmt: skip
    files |= {name: bytes(content) for name, content in connection.execute(contents, of_draft)}
    set_ = sa.text(
        "update drafts set bundle = :bundle, document = :document, past = :past, undone = :undone where id = :draft"
    ).bindparams(*(sa.bindparam(name, type_=JSONB) for name in ("document", "past", "undone")))
    values = {
        "bundle": write_zip(files),
        "document": document,
        "past": [step for number, step in steps if number < at],
        "undone": [step for number, step in reversed(steps) if number > at],
    }
    connection.execute(set_, {**of_draft, **values})
