"""What is asked of the database about drafts of exercises and their versions, by name."""

import json
from collections.abc import Mapping, Sequence
from typing import Any

from sqlalchemy import delete, select, update
from sqlalchemy.orm import Session, undefer

from rigid_bench.core.exercise.bundle import FILE
from rigid_bench.core.formats.archive import read_zip, write_zip
from rigid_bench.core.values.errors import NotFound
from rigid_bench.store.tables import Assignment, Draft, ExerciseVersion

#: So many earlier states of a draft can be gone back to.
_MOST_PAST = 50


def add_draft(session: Session, *, teacher_id: int, title: str, source_name: str, source: bytes) -> Draft:
    """Keep what a teacher wants to make an exercise of."""
    draft = Draft(teacher_id=teacher_id, title=title, source_name=source_name, source=source, past=[], undone=[])
    session.add(draft)
    session.flush()
    return draft


def draft_of(session: Session, draft_id: int, teacher_id: int, *, is_locked: bool = False) -> Draft:
    """Return a teacher's own draft; locked, nobody else changes it until this transaction ends.

    Raises
    ------
    NotFound
        There is none.
    """
    found = session.get(Draft, draft_id, with_for_update=True if is_locked else None)
    if found is None or found.teacher_id != teacher_id:
        raise NotFound("draft", "there is no such draft of yours", "Go back to the exercises")
    return found


def drafts_of(session: Session, teacher_id: int) -> Sequence[Draft]:
    """List a teacher's drafts, newest first."""
    return session.scalars(select(Draft).where(Draft.teacher_id == teacher_id).order_by(Draft.id.desc())).all()


def draft_work(session: Session, draft_id: int) -> Draft | None:
    """Return a draft with its files for the worker; None if it is gone."""
    query = select(Draft).where(Draft.id == draft_id).options(undefer(Draft.source), undefer(Draft.bundle))
    return session.scalar(query)


def is_as_read(session: Session, draft_id: int, bundle: bytes | None) -> bool:
    """Lock a draft, and say whether it is as a job read it; one that was changed meanwhile has a newer job."""
    query = select(Draft.id).where(Draft.id == draft_id, Draft.bundle.is_not_distinct_from(bundle))
    return session.scalar(query.with_for_update()) is not None


def keep_examined(session: Session, draft_id: int, *, bundle: Mapping[str, bytes], examined: dict[str, Any]) -> None:
    """Keep a draft's bundle and what was found of it."""
    values = {
        "bundle": write_zip(bundle),
        "document": json.loads(bundle[FILE]),
        "examined": examined,
        "state": "ready",
        "error": None,
    }
    session.execute(update(Draft).where(Draft.id == draft_id).values(**values))


def keep_scene(session: Session, draft_id: int, *, digest: str, scene: bytes | None) -> None:
    """Keep how a draft's solved assembly looks; None where it has none."""
    session.execute(update(Draft).where(Draft.id == draft_id).values(scene=scene, scene_digest=digest))


def refuse_draft(session: Session, draft_id: int, error: dict[str, str]) -> None:
    """Keep why nothing can be made of a draft as it is."""
    session.execute(update(Draft).where(Draft.id == draft_id).values(state="refused", error=error))


def change_draft(session: Session, draft: Draft, document: dict[str, Any]) -> None:
    """Keep a changed document; the one before can be gone back to."""
    draft.past, draft.undone = [*draft.past, draft.document][-_MOST_PAST:], []
    _put(session, draft, document)


def move_on_sheet(session: Session, draft: Draft, document: dict[str, Any]) -> None:
    """Keep where dimensions stand on the sheet; what was found of the draft still holds."""
    state = draft.state
    change_draft(session, draft, document)
    draft.state = state
    session.flush()


def undo_draft(session: Session, draft: Draft) -> bool:
    """Go back to the document before; False where there is none."""
    if not draft.past:
        return False
    *past, document = draft.past
    draft.past, draft.undone = past, [*draft.undone, draft.document]
    _put(session, draft, document)
    return True


def redo_draft(session: Session, draft: Draft) -> bool:
    """Take the change again that was undone last; False where there is none."""
    if not draft.undone:
        return False
    *undone, document = draft.undone
    draft.past, draft.undone = [*draft.past, draft.document], undone
    _put(session, draft, document)
    return True


def _put(session: Session, draft: Draft, document: dict[str, Any]) -> None:
    files = dict(read_zip(draft.bundle or b"", name="draft"))
    files[FILE] = json.dumps(document, indent=1, ensure_ascii=False).encode()
    draft.bundle, draft.document, draft.title = write_zip(files), document, str(document.get("title", draft.title))
    draft.state = "waiting"
    session.flush()


def drop_draft(session: Session, draft: Draft) -> None:
    """Forget a draft."""
    session.execute(delete(Draft).where(Draft.id == draft.id))


def all_versions(session: Session) -> Sequence[ExerciseVersion]:
    """List all released versions, by exercise, newest first."""
    query = select(ExerciseVersion).order_by(ExerciseVersion.exercise, ExerciseVersion.number.desc())
    return session.scalars(query).all()


def newest_version(session: Session, exercise: str) -> ExerciseVersion | None:
    """Return the newest released version of an exercise, by the exercise's id."""
    query = select(ExerciseVersion).where(ExerciseVersion.exercise == exercise)
    return session.scalars(query.order_by(ExerciseVersion.number.desc()).limit(1)).first()


def get_version(session: Session, version_id: int) -> ExerciseVersion:
    """Return a released version.

    Raises
    ------
    NotFound
        There is none.
    """
    found = session.get(ExerciseVersion, version_id)
    if found is None:
        raise NotFound("exercise", "there is no such version", "Go back to the exercises")
    return found


def give(session: Session, class_id: int, version_id: int) -> bool:
    """Give a class a version of an exercise, as its last; False where it works on it already."""
    if session.get(Assignment, (class_id, version_id)):
        return False
    places = session.scalars(select(Assignment.place).where(Assignment.class_id == class_id)).all()
    session.add(Assignment(class_id=class_id, version_id=version_id, place=max(places, default=-1) + 1))
    return True
