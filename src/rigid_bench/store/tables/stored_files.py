"""The contents of files, each once."""

from datetime import datetime

from sqlalchemy import LargeBinary, func
from sqlalchemy.orm import Mapped, mapped_column, object_session

from rigid_bench.store.tables.base import Base


class StoredFile(Base):
    """The content of a file, once for all builds and drafts that have it; `store/files.py` keeps and reads."""

    __tablename__ = "stored_files"

    #: SHA-256 of the content.
    digest: Mapped[str] = mapped_column(primary_key=True)
    size: Mapped[int]
    #: None where it lies in the object store.
    content: Mapped[bytes | None] = mapped_column(LargeBinary, deferred=True)
    #: When somebody kept it last.
    kept_at: Mapped[datetime] = mapped_column(server_default=func.now())

    def read(self) -> bytes:
        """Return the content, from where it lies."""
        if self.content is not None:
            return self.content
        session = object_session(self)
        assert session is not None, "it is read within its session"
        content: bytes = session.info["objects"].read(self.digest)
        return content
