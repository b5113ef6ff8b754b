"""Files of builds and drafts, each kept once by the digest of its content: in the database, or in an object store.

Of every file the database knows digest and size; where an object store is set, new contents go there, and those that
lie in the database stay there. Whoever reads a file does not see the difference.
"""

import hashlib
from collections.abc import Mapping
from datetime import timedelta
from urllib.parse import urlsplit

from obstore.exceptions import BaseError
from obstore.store import S3Store
from sqlalchemy import delete, func, or_, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from rigid_bench.core.values.errors import RigidBenchError
from rigid_bench.core.wording.language import _
from rigid_bench.settings import Settings
from rigid_bench.store.tables import BuildFile, Draft, DraftFile, StoredFile

#: Where a session finds the object store (`Session.info`).
OBJECTS = "objects"
#: A content to which nothing belongs any more goes after so long: somebody may be handing in the same one just now.
_KEPT_UNUSED = timedelta(hours=1)
_SWEPT_AT_ONCE = 500


class FileStoreSilent(RigidBenchError):
    """The store of files does not answer, or has no such file."""


class ObjectStore:
    """An S3-compatible store: contents by their digest."""

    def __init__(self, settings: Settings) -> None:
        address = urlsplit(settings.file_store)
        self._store = S3Store(
            address.netloc,
            prefix=address.path.strip("/") or None,
            endpoint=settings.file_store_endpoint or None,
            region=settings.file_store_region,
            access_key_id=settings.file_store_key,
            secret_access_key=settings.file_store_secret,
            virtual_hosted_style_request=False,
            client_options={"allow_http": settings.file_store_endpoint.startswith("http://"), "timeout": "30s"},
            retry_config={"max_retries": 2, "retry_timeout": timedelta(seconds=30)},
        )

    def put(self, digest: str, content: bytes) -> None:
        """Keep a content; the same once more changes nothing.

        Raises
        ------
        FileStoreSilent
            The store does not take it.
        """
        try:
            self._store.put(_path(digest), content)
        except BaseError as exc:
            raise _silent(exc) from exc

    def read(self, digest: str) -> bytes:
        """Return a content.

        Raises
        ------
        FileStoreSilent
            The store does not have it, has another in its place, or does not answer.
        """
        try:
            content = bytes(self._store.get(_path(digest)).bytes())
        except (BaseError, FileNotFoundError) as exc:
            raise _silent(exc) from exc
        if digest_of_file(content) != digest:
            raise FileStoreSilent(
                _("files"), _("what is kept is not what was handed in"), _("Tell whoever runs the program")
            )
        return content

    def delete(self, digest: str) -> None:
        """Forget a content; one that is not there is forgotten already."""
        try:
            self._store.delete(_path(digest))
        except FileNotFoundError:
            return
        except BaseError as exc:
            raise _silent(exc) from exc


def object_store(settings: Settings) -> ObjectStore | None:
    """Return the object store that the settings name; None for the database."""
    return ObjectStore(settings) if settings.file_store else None


def digest_of_file(content: bytes) -> str:
    """Return by what a content is known."""
    return hashlib.sha256(content).hexdigest()


def keep_files(session: Session, files: Mapping[str, bytes], *, is_evidence: bool = False) -> list[BuildFile]:
    """Keep files of a build by their contents, and return their rows, which are to be added to one.

    Raises
    ------
    FileStoreSilent
        The object store does not take one.
    """
    return [
        BuildFile(name=name, size=len(content), digest=keep_content(session, content), is_evidence=is_evidence)
        for name, content in files.items()
    ]


def keep_content(session: Session, content: bytes) -> str:
    """Keep a content, and return its digest; the same once more is that which is there.

    In an object store a content lies before the transaction is done: taken back, it stays there until somebody hands
    in the same, or for good.

    Raises
    ------
    FileStoreSilent
        The object store does not take it.
    """
    digest, objects = digest_of_file(content), session.info.get(OBJECTS)
    if objects is not None:
        objects.put(digest, content)
    row = insert(StoredFile).values(digest=digest, size=len(content), content=None if objects is not None else content)
    # whoever sweeps sees that it is wanted again
    session.execute(row.on_conflict_do_update(index_elements=["digest"], set_={"kept_at": func.now()}))
    return digest


def sweep_files(session: Session) -> int:
    """Forget contents to which no build and no draft belongs any more; return how many."""
    is_used = or_(
        *(select(1).where(used == StoredFile.digest).exists() for used in (
            BuildFile.digest, DraftFile.digest, Draft.source_digest,
        ))
    )  # fmt: skip
    unused = select(StoredFile.digest).where(~is_used, StoredFile.kept_at < func.now() - _KEPT_UNUSED)
    locked = unused.limit(_SWEPT_AT_ONCE).with_for_update(skip_locked=True)
    row = (
        delete(StoredFile)
        .where(StoredFile.digest.in_(locked))
        .returning(StoredFile.digest, StoredFile.content.is_(None))
    )
    swept = session.execute(row).all()
    for digest, is_elsewhere in swept:
        if is_elsewhere and session.info.get(OBJECTS) is not None:
            session.info[OBJECTS].delete(digest)
    return len(swept)


def _path(digest: str) -> str:
    return f"{digest[:2]}/{digest}"


def _silent(exc: Exception) -> FileStoreSilent:
    problem = _("their store does not answer as it should ({name__})", name__=type(exc).__name__)
    return FileStoreSilent(_("files"), problem, _("Try again in a moment; nothing of yours is lost"))
