"""Is a part's shape that of the reference, wherever it stands: nothing missing, nothing besides, not mirrored?

For supplied parts, which must come back unaltered, and for made ones whose extras are forbidden.
"""

from rigid_bench.core.exercise.bundle import CheckModel, Exercise
from rigid_bench.core.formats.documents import Document
from rigid_bench.core.formats.message import Message, phrase
from rigid_bench.core.grading.checks.base import CheckKind, Task, known_part
from rigid_bench.core.grading.diagnosis import causes
from rigid_bench.core.grading.diagnosis.feature_differences import feature_differences
from rigid_bench.core.grading.report.models import Cause, CheckResult
from rigid_bench.core.kernel.distance import mirrored
from rigid_bench.core.kernel.read_model import read_part
from rigid_bench.core.part.symmetry import is_same_shape
from rigid_bench.core.registration.correspond import RegisteredPart
from rigid_bench.core.values.tolerance import Tolerance
from rigid_bench.core.wording.phrases import listed

#: Equal volumes, as a share.
_SAME = 1e-6


class ShapeFields(Document):
    """Fields of a check of kind `shape`."""

    part: str


def _required(check: CheckModel, fields: ShapeFields, exercise: Exercise) -> Message:
    part = next(part for part in exercise.model.parts if part.id == fields.part)
    return (
        phrase("asks.as-given", name=part.name) if part.origin != "made" else phrase("asks.as-on-sheet", name=part.name)
    )


def _judge(task: Task[ShapeFields]) -> CheckResult:
    registered = task.context.registered(task.fields.part, where=task.where)
    if registered is None:
        return task.missing_part(task.fields.part)
    registered.need_solid(where=task.where)
    tolerance = task.context.tolerance
    if registered.scale == 1 and is_same_shape(registered.reference, registered.part, tolerance=tolerance):
        return task.result("met", phrase("measured.same-shape"))
    name = task.context.exercise.part_name(task.fields.part)
    if scaled := causes.of_scale(registered.scale):
        return task.result("missed", phrase("measured.another-size"), cause=scaled, next_step=causes.set_unit())
    reflection = read_part(mirrored(registered.reference.shape), tolerance=tolerance)
    if is_same_shape(reflection, registered.part, tolerance=tolerance):
        cause = Cause(code="mirrored", message=phrase("cause.mirror-image-of", name=name))
        return task.result(
            "missed", phrase("measured.mirrored"), cause=cause, next_step=phrase("step.make-it-other-hand-again")
        )
    return task.result(
        "missed",
        phrase("measured.another-shape"),
        cause=_cause(registered, tolerance),
        next_step=phrase("step.compare-with-sheet", name=name),
    )


def _cause(registered: RegisteredPart, tolerance: Tolerance) -> Cause:
    """Name the features that differ; a part that has only other sizes says so, and follows the checks of them."""
    differences = feature_differences(registered, tolerance)
    said = [
        *(phrase("part.is-missing", what=feature) for feature in differences.missing),
        *(phrase("part.should-not-be-there", what=feature) for feature in differences.extra),
        *(phrase("part.is-of-another-size", what=feature) for feature in differences.changed),
    ]
    if said:
        return Cause(code="other-shape", message=phrase("cause.differences", what=listed(said)))
    own, asked = registered.part.volume, registered.reference.volume
    if abs(own / asked - 1) < _SAME:
        return Cause(code="other-shape", message=phrase("cause.stands-elsewhere"))
    text = phrase("cause.volume-differs", measured=own, asked=asked)
    return Cause(code="other-shape", message=text)


def _verify(check: CheckModel, fields: ShapeFields, exercise: Exercise) -> None:
    known_part(check, exercise, fields.part)


KIND = CheckKind(
    name="shape",
    subject="part",
    follows_sizes=True,
    outlives_change=False,
    strip="parts",
    fields=ShapeFields,
    required=_required,
    judge=_judge,
    verify=_verify,
)
