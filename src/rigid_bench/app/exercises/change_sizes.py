"""Changing sizes of a released exercise: what that touches is looked for, and drafts of new versions are made."""

from collections.abc import Sequence

import procrastinate
from sqlalchemy.orm import Session

from rigid_bench.core.exercise.change_impact.models import SizeChange
from rigid_bench.core.values.errors import FormRejected
from rigid_bench.core.wording.language import _
from rigid_bench.jobs.enqueue import CHANGE, enqueue
from rigid_bench.store.queries import draft_queries
from rigid_bench.store.tables import ChangeRequest, ExerciseVersion


def follow_sizes(
    session: Session,
    queue: procrastinate.App,
    version: ExerciseVersion,
    changes: Sequence[SizeChange],
    *,
    teacher_id: int,
) -> ChangeRequest:
    """Look at what other sizes touch; those without a new value stay as they are.

    Raises
    ------
    FormRejected
        No size has a new value.
    """
    if not changes:
        raise FormRejected(
            _("sizes"), _("none was given a new value"), _("Type one beside the size that changes"), "value"
        )
    sizes = [size_change.model_dump(mode="json") for size_change in changes]
    request = draft_queries.add_change(session, teacher_id=teacher_id, version_id=version.id, sizes=sizes)
    enqueue(session, queue, CHANGE, change_id=request.id)
    return request


def drop_change(session: Session, change: ChangeRequest) -> None:
    """Forget a change and its drafts."""
    draft_queries.drop_change(session, change)
