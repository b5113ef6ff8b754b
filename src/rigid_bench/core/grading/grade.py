"""Exercise and submission in, report out: the main road."""

from collections.abc import Callable, Mapping

from rigid_bench.core.exercise.bundle import CheckModel, Exercise
from rigid_bench.core.formats.message import phrase
from rigid_bench.core.formats.pictures import AskedSize
from rigid_bench.core.grading.caps import with_caps
from rigid_bench.core.grading.checks import KINDS, kind_of
from rigid_bench.core.grading.checks.base import Task
from rigid_bench.core.grading.context import Context
from rigid_bench.core.grading.diagnosis.clashes import clashing_mates
from rigid_bench.core.grading.diagnosis.consequential_errors import mark_consequences
from rigid_bench.core.grading.diagnosis.repairs import follow_repairs
from rigid_bench.core.grading.intake.submission import Submission
from rigid_bench.core.grading.matched_submission import MatchedSubmission, match_submission
from rigid_bench.core.grading.matching.match import Matching
from rigid_bench.core.grading.matching.swapped_parts import swapped_names
from rigid_bench.core.grading.reference_faults import reference_faults
from rigid_bench.core.grading.report.in_words import in_words
from rigid_bench.core.grading.report.models import CheckResult, CheckText, Report, add_up
from rigid_bench.core.grading.requirement import DimensionFields, requirement_of
from rigid_bench.core.values.errors import MeshCannotAnswer
from rigid_bench.core.values.tolerance import Tolerance
from rigid_bench.core.wording.notices import said
from rigid_bench.core.wording.saying import say


def grade(
    exercise: Exercise,
    files: Mapping[str, bytes],
    *,
    tolerance: Tolerance,
    progress: Callable[[str], None] = lambda text: None,
) -> Report:
    """Grade a submission.

    Parameters
    ----------
    exercise
        What is asked, with its reference files.
    files
        What was handed in, by name.
    tolerance
        How near is equal.
    progress
        Told in a few words what is being done.

    Returns
    -------
    Report

    Raises
    ------
    UnreadableFile, InvalidDocument, NotSupported, GeometryError
        The exercise or the submission cannot be used.
    """
    return grade_whole(exercise, files, tolerance=tolerance, progress=progress)[0]


def grade_whole(
    exercise: Exercise,
    files: Mapping[str, bytes],
    *,
    tolerance: Tolerance,
    progress: Callable[[str], None] = lambda text: None,
    matched: MatchedSubmission | None = None,
) -> tuple[Report, Context]:
    """Grade a submission as `grade` does, and return with the report what it was found from.

    `matched` is what `match_submission` returned for these files, where that is at hand.
    """
    describe(exercise)  # refuses what cannot be meant, before anything is measured
    matched = matched or match_submission(exercise, files, tolerance=tolerance, progress=progress)
    submission, matching = matched.submission, matched.matching
    done: list[CheckResult] = []
    context = Context(
        exercise=exercise,
        references=matched.references,
        submission=submission,
        matching=matching,
        tolerance=tolerance,
        done=done,
        progress=progress,
        regrade=lambda other, changed: grade(other, changed, tolerance=tolerance, progress=progress),
    )
    for check in (check for check in exercise.model.checks if not check.is_shown):
        progress(f"Checking: {check.title}")
        done.append(_judged(context, check.id))
    parts = _matched(exercise, submission, matching)
    mended = {name for name, kind in KINDS.items() if kind.mended_by_mates}
    told = mark_consequences(
        follow_repairs(context, done, _judged, mended_by_mates=mended),
        exercise.model,
        spreading={name for name, kind in KINDS.items() if kind.spreads},
        whole={name for name, kind in KINDS.items() if kind.follows_sizes},
        references=context.references,
        mm=exercise.mm,
        tolerance=tolerance,
    )
    noticed = [*submission.notices, *swapped_names(context), *clashing_mates(context), *reference_faults(context, told)]
    notices = said(noticed)
    results = [in_words(result) for result in with_caps(told, exercise.model.caps)]
    return add_up(exercise.model, results, parts=parts, notices=notices), context


def _judged(context: Context, check_id: str) -> CheckResult:
    check = next(check for check in context.exercise.model.checks if check.id == check_id)
    kind = kind_of(check)
    task = Task(kind=kind, check=check, fields=kind.read(check), context=context)
    try:
        return kind.judge(task)
    except MeshCannotAnswer as exc:
        measured = phrase("as-said", text=exc.problem)
        return task.result("unchecked", measured, next_step=phrase("step.of-error", step=exc.next_step))


def describe(exercise: Exercise) -> list[CheckText]:
    """Say what each check asks, and refuse an exercise that cannot be meant.

    Raises
    ------
    InvalidDocument, NotSupported
        A check is of an unknown kind, or a field of it is wrong.
    """
    read = [(check, kind_of(check), kind_of(check).read(check)) for check in exercise.model.checks]
    for check, kind, fields in read:
        kind.verify(check, fields, exercise)
    return [
        CheckText(
            id=check.id,
            title=check.title,
            kind=check.kind,
            strip=kind.strip,
            part=getattr(fields, "part", None),
            required=say(asked := kind.required(check, fields, exercise)),
            required_message=asked,
            size=_asked_size(check, fields, exercise) if isinstance(fields, DimensionFields) else None,
            marks=0.0 if getattr(fields, "value", "") in ("free", "shown", "auxiliary") else check.marks,
            hint=check.hint,
            takes_note=getattr(fields, "value", "") in ("assumed", "optional") or getattr(fields, "declared", False),
        )
        for check, kind, fields in read
    ]


def _asked_size(check: CheckModel, fields: DimensionFields, exercise: Exercise) -> AskedSize:
    wanted = requirement_of(check, fields, exercise)
    return AskedSize(nominal=wanted.nominal, minus=wanted.minus, plus=wanted.plus)


def _matched(exercise: Exercise, submission: Submission, matching: Matching) -> list[dict[str, object]]:
    taken = {index: part for part, indices in matching.copies.items() for index in indices}
    return [
        {
            "instance": instance.id,
            "name": instance.name,
            "part": taken.get(index),
            "part_name": exercise.part_name(taken[index]) if index in taken else None,
            # how alike the two are: 1 for equal shapes; low where it is doubtful
            "likeness": round(matching.registered[instance.part][0].registration.likeness, 3)
            if index in taken and instance.part is not None and instance.part in matching.registered
            else None,
        }
        for index, instance in enumerate(submission.instances)
    ]
