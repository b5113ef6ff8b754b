"""What is asked of the database about drafts of exercises and their versions, by name."""

import json
from collections.abc import Mapping, Sequence
from types import MappingProxyType
from typing import Any

from sqlalchemy import delete, select, update
from sqlalchemy.dialects.postgresql import distinct_on
from sqlalchemy.orm import Session

from rigid_bench.core.exercise.bundle import FILE
from rigid_bench.core.formats.archive import write_zip
from rigid_bench.core.values.errors import NotFound
from rigid_bench.core.wording.language import _
from rigid_bench.store.files import keep_content
from rigid_bench.store.tables import (
    ArchivedExercise,
    Assignment,
    ChangeRequest,
    Draft,
    DraftFile,
    DraftStep,
    ExerciseVersion,
)

#: So many earlier states of a draft can be gone back to.
_MOST_PAST = 50


def add_draft(session: Session, *, teacher_id: int, title: str, source_name: str, source: bytes) -> Draft:
    """Keep what a teacher wants to make an exercise of."""
    digest = keep_content(session, source)
    draft = Draft(teacher_id=teacher_id, title=title, source_name=source_name, source_digest=digest)
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
    if is_locked:  # before it is read: what came with it from other tables would be as it was before the wait
        session.execute(select(Draft.id).where(Draft.id == draft_id).with_for_update())
    draft = session.get(Draft, draft_id, populate_existing=is_locked)
    if draft is None or draft.teacher_id != teacher_id:
        raise NotFound(_("draft"), _("there is no such draft of yours"), _("Go back to the exercises"))
    return draft


def drafts_of(session: Session, teacher_id: int) -> Sequence[Draft]:
    """List a teacher's drafts, newest first."""
    return session.scalars(select(Draft).where(Draft.teacher_id == teacher_id).order_by(Draft.id.desc())).all()


def draft_work(session: Session, draft_id: int) -> Draft | None:
    """Return a draft for the worker; None if it is gone."""
    return session.get(Draft, draft_id)


def bundle_of(draft: Draft) -> dict[str, bytes]:
    """Return the files of a draft's bundle as it stands, by name; none before an exercise was made of its source."""
    if draft.document is None:
        return {}
    document = json.dumps(draft.document, indent=1, ensure_ascii=False).encode()
    return {FILE: document, **{file.name: file.stored.read() for file in draft.files}}


def is_as_read(session: Session, draft_id: int, revision: int) -> bool:
    """Lock a draft, and say whether it is as a job read it; one that was changed meanwhile has a newer job."""
    query = select(Draft.id).where(Draft.id == draft_id, Draft.revision == revision)
    return session.scalar(query.with_for_update()) is not None


def keep_bundle(session: Session, draft: Draft, bundle: Mapping[str, bytes]) -> None:
    """Keep the exercise that was made of a draft's source: its document as the first step, its files by digest."""
    session.add_all(
        DraftFile(draft_id=draft.id, name=name, digest=keep_content(session, content))
        for name, content in bundle.items()
        if name != FILE
    )
    session.add(DraftStep(draft_id=draft.id, number=1, document=json.loads(bundle[FILE])))
    draft.at = draft.oldest = draft.newest = 1
    session.flush()
    session.expire(draft, ["files", "step"])


def keep_examined(
    session: Session, draft: Draft, examined: dict[str, Any], equations: Mapping[str, Any] = MappingProxyType({})
) -> None:
    """Keep what was found of a draft, and by part the equations of its sizes."""
    draft.examined, draft.equations, draft.state, draft.error = examined, dict(equations), "ready", None
    session.flush()


def keep_scene(session: Session, draft_id: int, *, digest: str, scene: bytes | None) -> None:
    """Keep how a draft's solved assembly looks; None where it has none."""
    session.execute(update(Draft).where(Draft.id == draft_id).values(scene=scene, scene_digest=digest))


def refuse_draft(session: Session, draft_id: int, error: dict[str, str]) -> None:
    """Keep why nothing can be made of a draft as it is."""
    session.execute(update(Draft).where(Draft.id == draft_id).values(state="refused", error=error))


def change_draft(session: Session, draft: Draft, document: dict[str, Any]) -> None:
    """Keep a changed document; the one before can be gone back to."""
    # what was undone is not taken again after this, and goes
    later = (DraftStep.draft_id == draft.id, DraftStep.number > draft.at)
    session.execute(delete(DraftStep).where(*later))
    number = draft.at + 1
    session.add(DraftStep(draft_id=draft.id, number=number, document=document))
    draft.oldest, draft.newest = max(draft.oldest, number - _MOST_PAST), number
    session.execute(delete(DraftStep).where(DraftStep.draft_id == draft.id, DraftStep.number < draft.oldest))
    _go_to(session, draft, number)


def move_on_sheet(session: Session, draft: Draft, document: dict[str, Any]) -> None:
    """Keep where dimensions stand on the sheet; what was found of the draft still holds."""
    state = draft.state
    change_draft(session, draft, document)
    draft.state = state
    session.flush()


def undo_draft(session: Session, draft: Draft) -> bool:
    """Go back to the document before; False where there is none."""
    if not draft.can_undo:
        return False
    _go_to(session, draft, draft.at - 1)
    return True


def redo_draft(session: Session, draft: Draft) -> bool:
    """Take the change again that was undone last; False where there is none."""
    if not draft.can_redo:
        return False
    _go_to(session, draft, draft.at + 1)
    return True


def _go_to(session: Session, draft: Draft, number: int) -> None:
    draft.at, draft.state, draft.revision = number, "waiting", draft.revision + 1
    session.flush()
    session.expire(draft, ["step"])
    draft.title = str((draft.document or {}).get("title", draft.title))
    session.flush()


def keep_audit(session: Session, draft: Draft, parts: Mapping[str, Any]) -> None:
    """Keep other audits of some parts in what was found of a draft; None for one that is not known any more."""
    if draft.examined is not None and parts:
        audit = draft.examined["audit"]
        known = {part: report for part, report in {**audit["parts"], **parts}.items() if report is not None}
        draft.examined = {**draft.examined, "audit": {**audit, "parts": known}}
        session.flush()


def drop_draft(session: Session, draft: Draft) -> None:
    """Forget a draft."""
    session.execute(delete(Draft).where(Draft.id == draft.id))


# --- changes of sizes ---


def add_change(session: Session, *, teacher_id: int, version_id: int, sizes: list[Any]) -> ChangeRequest:
    """Keep which sizes a teacher wants to change."""
    change = ChangeRequest(teacher_id=teacher_id, version_id=version_id, sizes=sizes, touched=[])
    session.add(change)
    session.flush()
    return change


def change_of(session: Session, change_id: int, teacher_id: int) -> ChangeRequest:
    """Return a teacher's own change of sizes.

    Raises
    ------
    NotFound
        There is none.
    """
    change_request = session.get(ChangeRequest, change_id)
    if change_request is None or change_request.teacher_id != teacher_id:
        raise NotFound(_("change"), _("there is no such change of yours"), _("Go back to the exercises"))
    return change_request


def drop_change(session: Session, change: ChangeRequest) -> None:
    """Forget a change and its drafts."""
    session.execute(delete(ChangeRequest).where(ChangeRequest.id == change.id))


def waiting_change(session: Session, change_id: int) -> ChangeRequest | None:
    """Return a change that was not looked at yet; None where there is nothing to do."""
    return session.scalar(select(ChangeRequest).where(ChangeRequest.id == change_id, ChangeRequest.state == "waiting"))


def newest_bundles(session: Session, version_id: int) -> dict[int, bytes]:
    """Return a version's bundle, and those of the newest versions of all other exercises that are not put away."""
    own = get_version(session, version_id)
    query = (
        select(ExerciseVersion.id, ExerciseVersion.bundle)
        .where(
            ExerciseVersion.exercise != own.exercise,
            ExerciseVersion.exercise.not_in(select(ArchivedExercise.exercise)),
        )
        .order_by(ExerciseVersion.exercise, ExerciseVersion.number.desc())
        .ext(distinct_on(ExerciseVersion.exercise))
    )
    others: list[tuple[int, bytes]] = [(version, bundle) for version, bundle in session.execute(query)]
    return {own.id: own.bundle, **dict(others)}


def keep_change(
    session: Session,
    change_id: int,
    *,
    touched: list[Any],
    drafts: Mapping[int, tuple[Mapping[str, bytes], dict[str, Any]]],
) -> None:
    """Keep what a change touches, and the drafts with it: files and what was found of them, by version."""
    change = session.scalar(select(ChangeRequest).where(ChangeRequest.id == change_id).with_for_update())
    if change is None or change.state != "waiting":
        return
    change.state, change.touched, change.error = "ready", touched, None
    for version_id, (files, examined) in drafts.items():
        version = get_version(session, version_id)
        draft = add_draft(
            session, teacher_id=change.teacher_id, title=version.title, source_name=f"{version.exercise}.zip",
            source=write_zip(files),
        )  # fmt: skip
        draft.change_id = change_id
        keep_bundle(session, draft, files)
        keep_examined(session, draft, examined)


def refuse_change(session: Session, change_id: int, error: dict[str, str]) -> None:
    """Keep why a change cannot be made."""
    session.execute(update(ChangeRequest).where(ChangeRequest.id == change_id).values(state="refused", error=error))


def drafts_of_change(session: Session, change_id: int) -> Sequence[Draft]:
    """List the drafts that were made for a change, in the order of what it touches."""
    return session.scalars(select(Draft).where(Draft.change_id == change_id).order_by(Draft.id)).all()


# --- versions ---


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
    version = session.get(ExerciseVersion, version_id)
    if version is None:
        raise NotFound(_("exercise"), _("there is no such version"), _("Go back to the exercises"))
    return version


def give(session: Session, class_id: int, version_id: int) -> bool:
    """Give a class a version of an exercise, as its last; False where it works on it already."""
    if session.get(Assignment, (class_id, version_id)):
        return False
    places = session.scalars(select(Assignment.place).where(Assignment.class_id == class_id)).all()
    session.add(Assignment(class_id=class_id, version_id=version_id, place=max(places, default=-1) + 1))
    return True
