"""Drafting an exercise: a draft is started, its document changed, undone and done again, and each time looked at."""

import json
from typing import Any

import procrastinate
from pydantic import ValidationError
from sqlalchemy.orm import Session

from rigid_bench.core.drawing.audit.kept_equations import KeptEquations
from rigid_bench.core.drawing.audit.report import part_report
from rigid_bench.core.drawing.audit.size_equations import audit_equations, equation_key
from rigid_bench.core.exercise.bundle import FILE, ExerciseModel, PartModel
from rigid_bench.core.formats.archive import read_zip, write_zip
from rigid_bench.core.formats.documents import document_error
from rigid_bench.core.values.errors import FormRejected
from rigid_bench.core.values.units import MM_PER_UNIT
from rigid_bench.core.wording.language import _
from rigid_bench.jobs.enqueue import DRAFT, enqueue
from rigid_bench.store.queries import draft_queries
from rigid_bench.store.tables import Draft, ExerciseVersion


def start_draft(
    session: Session, queue: procrastinate.App, *, teacher_id: int, title: str, source_name: str, source: bytes
) -> Draft:
    """Keep what a teacher wants to make an exercise of, a model, a table of values or a bundle, and look at it."""
    draft = draft_queries.add_draft(session, teacher_id=teacher_id, title=title, source_name=source_name, source=source)
    enqueue(session, queue, DRAFT, draft_id=draft.id)
    return draft


def start_draft_of_version(
    session: Session, queue: procrastinate.App, version: ExerciseVersion, *, teacher_id: int
) -> Draft:
    """Start the draft of what becomes the next version of an exercise."""
    name = f"{version.exercise}-v{version.number}.zip"
    return start_draft(
        session, queue, teacher_id=teacher_id, title=version.title, source_name=name, source=version.bundle
    )


#: Decimals of a value that is taken from what most handed in.
_ROUNDED = 4


def start_mended_draft(
    session: Session,
    queue: procrastinate.App,
    version: ExerciseVersion,
    check_id: str,
    *,
    nominal: float | None,
    teacher_id: int,
) -> Draft:
    """Start a draft of an exercise whose check asks another value; without a value, one without the check.

    Raises
    ------
    FormRejected
        The exercise has no such check.
    """
    files = dict(read_zip(version.bundle, name=version.title))
    document = json.loads(files[FILE])
    check = next((own for own in document["checks"] if own["id"] == check_id), None)
    if check is None:
        raise FormRejected(_("check"), _("the exercise has no such check"), _("Open the page again"), "check_id")
    if nominal is not None:
        check["nominal"] = round(nominal, _ROUNDED)
    else:
        document["checks"] = [own for own in document["checks"] if own["id"] != check_id]
        for stage in document.get("stages", ()):
            stage["checks"] = [name for name in stage["checks"] if name != check_id]
    files[FILE] = json.dumps(document).encode()
    name, source = f"{version.exercise}.zip", write_zip(files)
    return start_draft(session, queue, teacher_id=teacher_id, title=version.title, source_name=name, source=source)


def document_of(draft: Draft) -> dict[str, Any]:
    """Return a draft's document, to be changed.

    Raises
    ------
    FormRejected
        Nothing was made of the model yet.
    """
    if draft.document is None:
        raise FormRejected(_("draft"), _("it is still being read"), _("Wait until its checks are there"))
    return dict(draft.document)


def change_draft(session: Session, queue: procrastinate.App, draft: Draft, document: dict[str, Any]) -> None:
    """Keep a changed document as the next step of a draft, and look at it; the same document changes nothing.

    Raises
    ------
    InvalidDocument
        It is no exercise.
    """
    if document == draft.document:
        return
    try:
        ExerciseModel.model_validate(document)
    except ValidationError as exc:
        raise document_error("exercise", exc) from exc
    before = draft.document
    draft_queries.change_draft(session, draft, document)
    _look_again(session, queue, draft, before)


def _look_again(session: Session, queue: procrastinate.App, draft: Draft, before: dict[str, Any] | None) -> None:
    """Audit at once what a change touched, as far as its equations are known; a worker looks at the rest."""
    enqueue(session, queue, DRAFT, draft_id=draft.id)
    if before is None or draft.document is None or draft.examined is None:
        return  # nothing was found of it yet
    was, now = ExerciseModel.model_validate(before), ExerciseModel.model_validate(draft.document)
    models = {part.id: _model_of(part) for part in was.parts}
    audits = {
        part.id: _audit_again(draft, part.id, now) if models.get(part.id) == _model_of(part) else None
        for part in now.parts
        if models.get(part.id) != _model_of(part) or _sizes_of(was, part.id) != _sizes_of(now, part.id)
    }
    draft_queries.keep_audit(session, draft, audits)


def _model_of(part: PartModel) -> object:
    """Return all of a part on which its equations depend, beside its checks."""
    return part.file, part.origin, part.symmetric


def _sizes_of(exercise: ExerciseModel, part_id: str) -> list[object]:
    """Return all of a part's checks on which its audit depends."""
    own = (check for check in exercise.checks if check.fields.get("part") == part_id)
    return [(check.id, equation_key(check), check.fields.get("value")) for check in own]


def _audit_again(draft: Draft, part_id: str, exercise: ExerciseModel) -> dict[str, Any] | None:
    """Return the audit of a part from its equations; None where a check of it needs the model."""
    if part_id not in draft.equations:
        return None
    mm = MM_PER_UNIT[exercise.units]
    equations = KeptEquations.model_validate(draft.equations[part_id]).equations(mm)
    own = [check for check in exercise.checks if check.fields.get("part") == part_id]
    if any(equation_key(check) not in equations.said for check in own):
        return None
    return part_report(audit_equations(equations, part_id, own), mm).model_dump(mode="json")


def change_drawing(session: Session, queue: procrastinate.App, draft: Draft, document: dict[str, Any]) -> None:
    """Keep how a draft's sheets are drawn as its next step: what was found of it still holds."""
    draft_queries.move_on_sheet(session, draft, document)
    if draft.state == "waiting":  # the look at it that is under way is of the draft as it was
        enqueue(session, queue, DRAFT, draft_id=draft.id)


def undo(session: Session, queue: procrastinate.App, draft: Draft) -> None:
    """Go back to the draft before the last change; nothing where there is none."""
    before = draft.document
    if draft_queries.undo_draft(session, draft):
        _look_again(session, queue, draft, before)


def redo(session: Session, queue: procrastinate.App, draft: Draft) -> None:
    """Make the change again that was undone last; nothing where there is none."""
    before = draft.document
    if draft_queries.redo_draft(session, draft):
        _look_again(session, queue, draft, before)


def drop_draft(session: Session, draft: Draft) -> None:
    """Forget a draft."""
    draft_queries.drop_draft(session, draft)
