"""What was understood of a submission, said before it counts: parts, counts, units, what is missing."""

from collections.abc import Callable, Mapping, Sequence

import numpy as np

from rigid_bench.core.assembly.contact.contacts import Contact, find_contacts
from rigid_bench.core.exercise.bundle import Exercise
from rigid_bench.core.formats.message import Message, alike, phrase
from rigid_bench.core.formats.pictures import ViewModel
from rigid_bench.core.formats.preview import Doubt, PartUnderstood, Preview
from rigid_bench.core.grading.intake.submission import Submission
from rigid_bench.core.grading.intake.submitted_parts import SubmittedPart
from rigid_bench.core.grading.matched_submission import MatchedSubmission, match_submission
from rigid_bench.core.grading.matching.match import Matching
from rigid_bench.core.grading.report.proposals import propose
from rigid_bench.core.kernel.views import draw_view
from rigid_bench.core.measurement.feature_report import feature_report
from rigid_bench.core.part.directions import PICTORIAL
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.part.recognition.inventory import take_inventory
from rigid_bench.core.values.tolerance import Tolerance
from rigid_bench.core.wording.contacts import contact_message
from rigid_bench.core.wording.features import feature_lines
from rigid_bench.core.wording.notices import said

#: So many relations are said at most.
_MOST_RELATIONS = 60


def preview_submission(
    exercise: Exercise,
    files: Mapping[str, bytes],
    *,
    tolerance: Tolerance,
    progress: Callable[[str], None] = lambda text: None,
    matched: MatchedSubmission | None = None,
) -> tuple[Preview, Submission]:
    """Say what a submission holds, and what of the exercise is missing in it.

    Parameters
    ----------
    exercise
        What was asked.
    files
        What was handed in, by name.
    tolerance
        For reading features and matching parts.
    progress
        Told what is being done.
    matched
        What `match_submission` returned for these files, where that is at hand.

    Returns
    -------
    Preview and Submission
        What was understood, and what it was understood from: in the unit it was found to be in.

    Raises
    ------
    UnreadableFile, InvalidDocument, GeometryError
        A file cannot be used.
    """
    matched = matched or match_submission(exercise, files, tolerance=tolerance, progress=progress)
    submission, matching = matched.submission, matched.matching
    build, notices = submission.build, said(submission.notices)
    contacts = _contacts(submission, tolerance)
    preview = Preview(
        units=list(submission.units),
        parts=_parts(exercise, submission, matching, tolerance),
        instances=len(submission.instances),
        missing=_missing(exercise, matching),
        mates=len(build.mates) if build else None,
        grounded=[instance.name for instance in submission.instances if instance.grounded],
        relations=_relations(submission, contacts),
        has_moved=bool(submission.moved),
        warnings=[message.text for message in notices],
        notices=notices,
        doubt=_doubt(exercise, submission, matching),
        proposed=propose(exercise, submission, matching, contacts, tolerance=tolerance),
    )
    return preview, submission


def _doubt(exercise: Exercise, submission: Submission, matching: Matching) -> Doubt | None:
    """Say what a student would want to know before all else: another exercise's files, another unit, a part alone."""
    asked = sum(part.count for part in exercise.model.parts)
    placed = [instance.part for instance in submission.instances if instance.part is not None]
    if not any(matching.copies.values()):
        return Doubt(code="other-exercise", number=asked)
    scales = {matching.registered[part][0].scale for part in placed if part in matching.registered}
    if len(scales) == 1 and scales != {1.0}:
        return Doubt(code="other-unit", number=scales.pop())
    if asked > 1 and len(submission.instances) == 1 and submission.build is None:
        return Doubt(code="lone-part", number=asked)
    return None


def _contacts(submission: Submission, tolerance: Tolerance) -> list[Contact]:
    """Find what the instances that have a shape show of their relations."""
    shapes = [
        (submission.parts[instance.part].features, instance.pose)
        for instance in submission.instances
        if instance.part is not None
    ]
    return find_contacts(shapes, tolerance=tolerance)


def _relations(submission: Submission, contacts: Sequence[Contact]) -> list[Message]:
    placed = [instance for instance in submission.instances if instance.part is not None]
    shown = [contact_message(contact, placed[contact.a].name, placed[contact.b].name) for contact in contacts]
    most_common = sorted(alike(shown), key=lambda counted: -counted[1])[:_MOST_RELATIONS]
    return [
        phrase("part.so-often", what=relation, count=count) if count > 1 else relation
        for relation, count in most_common
    ]


def _parts(
    exercise: Exercise, submission: Submission, matching: Matching, tolerance: Tolerance
) -> list[PartUnderstood]:
    wanted = {part.id: part.count for part in exercise.model.parts}
    parts = []
    taken: set[int] = set()
    for part, copies in matching.copies.items():
        own = [submission.instances[k] for k in copies]
        index = next((instance.part for instance in own if instance.part is not None), None)
        submitted = None if index is None else submission.parts[index]
        name = submitted.name if submitted else own[0].name if own else part
        parts.append(_part(name, submitted, exercise.part_name(part), len(own), wanted[part], tolerance))
        taken |= set(copies)
    for index, submitted in enumerate(submission.parts):
        rest = [k for k, instance in enumerate(submission.instances) if instance.part == index and k not in taken]
        if rest:
            parts.append(_part(submitted.name, submitted, None, len(rest), None, tolerance))
    return parts


def _part(
    name: str,
    submitted: SubmittedPart | None,
    taken_for: str | None,
    count: int,
    wanted: int | None,
    tolerance: Tolerance,
) -> PartUnderstood:
    part = submitted.features if submitted else None
    sizes = [round(float(size), 3) for size in part.extents] if part else []
    lines = feature_lines(feature_report(part, take_inventory(part, tolerance=tolerance)), sizes) if part else []
    return PartUnderstood(
        name=name,
        taken_for=taken_for,
        count=count,
        wanted=wanted,
        sizes=sizes,
        features=lines,
        is_mesh=bool(part and part.is_mesh),
        picture=_picture(part) if part and not part.is_mesh else None,
    )


def _picture(part: PartFeatures) -> ViewModel:
    """Draw a part as it was handed in, only what is seen."""
    view = draw_view([part.shape], PICTORIAL, size=part.size)
    return ViewModel(
        name=view.name,
        visible=[np.round(line, 2).tolist() for line in view.visible],
        hidden=[],
        box=np.round(view.box, 2).tolist(),
    )


def _missing(exercise: Exercise, matching: Matching) -> dict[str, int]:
    short = {part.id: part.count - len(matching.copies.get(part.id, ())) for part in exercise.model.parts}
    return {exercise.part_name(part): count for part, count in short.items() if count > 0}
