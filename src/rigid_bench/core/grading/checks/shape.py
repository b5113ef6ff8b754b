"""Is a part's shape that of the reference, wherever it stands: nothing missing, nothing besides, not mirrored?

For supplied parts, which must come back unaltered, and for made ones whose extras are forbidden.
"""

from rigid_bench.core.exercise.bundle import CheckModel, Exercise
from rigid_bench.core.formats.documents import Document
from rigid_bench.core.grading.checks.base import CheckKind, Task, known_part
from rigid_bench.core.grading.diagnosis import causes
from rigid_bench.core.grading.diagnosis.feature_differences import feature_differences
from rigid_bench.core.grading.report.models import Cause, CheckResult
from rigid_bench.core.kernel.distance import mirrored
from rigid_bench.core.kernel.read_model import read_part
from rigid_bench.core.part.symmetry import is_same_shape
from rigid_bench.core.registration.correspond import RegisteredPart
from rigid_bench.core.values.tolerance import Tolerance
from rigid_bench.core.wording.quantities import listed, number

#: Equal volumes, as a share.
_SAME = 1e-6


class ShapeFields(Document):
    """Fields of a check of kind `shape`."""

    part: str


def _required(check: CheckModel, fields: ShapeFields, exercise: Exercise) -> str:
    part = next(part for part in exercise.model.parts if part.id == fields.part)
    return f"{part.name} as it was given" if part.origin != "made" else f"{part.name} as on the sheet, nothing besides"


def _judge(task: Task[ShapeFields]) -> CheckResult:
    laid = task.context.laid(task.fields.part, where=task.where)
    if laid is None:
        return task.missing_part(task.fields.part)
    laid.need_solid(where=task.where)
    tolerance = task.context.tolerance
    if laid.scale == 1 and is_same_shape(laid.reference, laid.part, tolerance=tolerance):
        return task.result("met", "the same shape")
    name = task.context.exercise.part_name(task.fields.part)
    if scaled := causes.of_scale(laid.scale):
        return task.result("missed", "another size", cause=scaled, next_step=causes.SET_UNIT)
    reflection = read_part(mirrored(laid.reference.shape), tolerance=tolerance)
    if is_same_shape(reflection, laid.part, tolerance=tolerance):
        cause = Cause(code="mirrored", text=f"It is the mirror image of {name}: left and right have changed places.")
        return task.result("missed", "mirrored", cause=cause, next_step="Make it for the other hand and hand in again.")
    return task.result(
        "missed", "another shape", cause=_cause(laid, tolerance), next_step=f"Compare it with the sheet of {name}."
    )


def _cause(laid: RegisteredPart, tolerance: Tolerance) -> Cause:
    """Name the features that differ; a part that has only other sizes says so, and follows the checks of them."""
    differences = feature_differences(laid, tolerance)
    said = [
        *(f"{feature} is missing" for feature in differences.missing),
        *(f"{feature} should not be there" for feature in differences.extra),
        *(f"{feature} is of another size than asked" for feature in differences.changed),
    ]
    if said:
        return Cause(code="other-shape", text=f"{listed(said)}.")
    own, asked = laid.part.volume, laid.reference.volume
    if abs(own / asked - 1) < _SAME:
        return Cause(code="other-shape", text="Something stands in another place than on the sheet.")
    volumes = f"{number(own)} mm³ where {number(asked)} mm³ was asked"
    return Cause(code="other-shape", text=f"A size differs: its volume is {volumes}.")


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
