"""Releasing an exercise: a draft becomes a version that never changes, with the school's classroom values in it."""

import json
from collections.abc import Mapping, Sequence
from typing import Any

from sqlalchemy.orm import Session

from rigid_bench.core.exercise.review.examined import Examined
from rigid_bench.core.values.errors import FormRejected
from rigid_bench.core.wording.language import _, series
from rigid_bench.store.log import log
from rigid_bench.store.queries import class_queries, draft_queries, exercise_queries
from rigid_bench.store.queries.people_queries import Person
from rigid_bench.store.tables import ChangeRequest, Draft, ExerciseVersion
from rigid_bench.store.versions import keep_version


def release_draft(session: Session, draft: Draft, *, teacher: Person, all_the_same: bool) -> ExerciseVersion:
    """Release a draft as the next version of its exercise; it goes on as that, and is a draft no more.

    Parameters
    ----------
    all_the_same
        It is released although something of it is not sound.

    Raises
    ------
    FormRejected
        It is still being looked at, cannot be used, or is not sound.
    """
    if draft.state == "waiting":
        raise FormRejected(
            _("draft"), _("it is still being looked at"), _("Go back, and release it once its foot says what it is")
        )
    if draft.state != "ready" or draft.examined is None:
        raise FormRejected(_("draft"), _("it cannot be released as it is"), _("Put right what is said of it first"))
    if not all_the_same and not Examined.model_validate(draft.examined).is_sound:
        raise FormRejected(
            _("draft"), _("something on its sheet is missing or wrong"), _("Look at it, or release it all the same")
        )
    return _release(session, draft, teacher)


def release_change(session: Session, change: ChangeRequest, *, teacher: Person, all_the_same: bool) -> None:
    """Release the next versions of all exercises that a change of sizes touches, together.

    Raises
    ------
    FormRejected
        One of them is still being looked at, cannot be used, or is not sound.
    """
    drafts = draft_queries.drafts_of_change(session, change.id)
    if change.state != "ready" or any(draft.state == "waiting" for draft in drafts):
        raise FormRejected(_("change"), _("it is still being looked at"), _("Wait a moment, and press it again"))
    broken = next((draft for draft in drafts if draft.state != "ready" or draft.examined is None), None)
    if broken is not None:
        raise FormRejected(
            broken.title, _("it cannot be released as it is"), _("Put right what is said of its draft first")
        )
    unsound = _unsound(drafts)
    if unsound and not all_the_same:
        problem = _("something of it is missing, wrong, or missed by its own model")
        raise FormRejected(series(unsound), problem, _("Look at its draft, or release all the same"), "all_the_same")
    for draft in drafts:
        _release(session, draft, teacher)


def _unsound(drafts: Sequence[Draft]) -> list[str]:
    return [draft.title for draft in drafts if not Examined.model_validate(draft.examined).is_sound]


def _release(session: Session, draft: Draft, teacher: Person) -> ExerciseVersion:
    assert draft.examined is not None
    files = with_allowances(draft_queries.bundle_of(draft), class_queries.allowances(session))
    version = keep_version(session, files, draft.examined["prepared"])
    draft_queries.drop_draft(session, draft)  # from the version a new draft can be started
    about: dict[str, Any] = {"title": version.title, "number": version.number}
    log(session, "exercise-released", who_id=teacher.id, class_id=None, **about)
    return version


def with_allowances(
    files: Mapping[str, bytes], school: Mapping[str, Mapping[str, tuple[float, float]]]
) -> dict[str, bytes]:
    """Write the school's classroom values into an exercise, which may have its own: a version never changes."""
    if not school:
        return dict(files)
    document = json.loads(files["exercise.json"])
    own = document.get("allowances", {})
    document["allowances"] = {process: {**dict(school[process]), **own.get(process, {})} for process in school} | {
        process: values for process, values in own.items() if process not in school
    }
    return {**files, "exercise.json": json.dumps(document, indent=1).encode()}


def archive_exercise(session: Session, exercise: str, *, is_back: bool) -> None:
    """Put an exercise out of the way, or take it back; classes that work on it go on."""
    if is_back:
        exercise_queries.take_out_of_archive(session, exercise)
    else:
        exercise_queries.archive(session, exercise)
