"""Is a part's shape that of the reference, wherever it stands: nothing missing, nothing besides, not mirrored?

For supplied parts, which must come back unaltered, and for made ones whose extras are forbidden.
"""

from collections import Counter

from rigid_bench.core.exercise.bundle import CheckModel, Exercise
from rigid_bench.core.formats.documents import Document
from rigid_bench.core.grading.checks.base import CheckKind, Task, known_part
from rigid_bench.core.grading.report.models import Cause, CheckResult
from rigid_bench.core.kernel.distance import mirrored
from rigid_bench.core.kernel.read_model import read_part
from rigid_bench.core.measurement.feature_report import feature_report
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.part.recognition.inventory import inventory_of
from rigid_bench.core.part.symmetry import is_same_shape
from rigid_bench.core.registration.correspond import RegisteredPart
from rigid_bench.core.values.tolerance import Tolerance
from rigid_bench.core.wording.features import feature_list
from rigid_bench.core.wording.quantities import listed, number


class ShapeFields(Document):
    """Fields of a check of kind `shape`."""

    part: str


def _required(check: CheckModel, fields: ShapeFields, exercise: Exercise) -> str:
    part = next(each for each in exercise.model.parts if each.id == fields.part)
    return f"{part.name} as it was given" if part.origin != "made" else f"{part.name} as on the sheet, nothing besides"


def _judge(task: Task[ShapeFields]) -> CheckResult:
    laid = task.context.laid(task.fields.part, where=task.where)
    if laid is None:
        return task.missing_part(task.fields.part)
    laid.need_round_walls(where=task.where)
    tolerance = task.context.tolerance
    if laid.scale == 1 and is_same_shape(laid.reference, laid.part, tolerance=tolerance):
        return task.result("met", "the same shape")
    name = task.context.exercise.part_name(task.fields.part)
    reflection = read_part(mirrored(laid.reference.shape), tolerance=tolerance)
    if is_same_shape(reflection, laid.part, tolerance=tolerance):
        cause = Cause(code="mirrored", text=f"It is the mirror image of {name}: left and right have changed places.")
        return task.result("missed", "mirrored", cause=cause, next_step="Make it for the other hand and hand in again.")
    missing, extra = differences(laid, tolerance)
    said = [*(f"{each} is missing" for each in missing), *(f"{each} should not be there" for each in extra)]
    volumes = f"{number(laid.part.volume)} mm³ where {number(laid.reference.volume)} mm³ was asked"
    cause = Cause(code="other-shape", text=f"{listed(said)}." if said else f"A size differs: its volume is {volumes}.")
    return task.result("missed", "another shape", cause=cause, next_step=f"Compare it with the sheet of {name}.")


def differences(laid: RegisteredPart, tolerance: Tolerance) -> tuple[list[str], list[str]]:
    """Return the features that a part lacks and those that it has besides, in words, like ones together."""
    wanted, found = (_counted(part, tolerance) for part in (laid.reference, laid.part))
    return _said(wanted - found), _said(found - wanted)


def _counted(part: PartFeatures, tolerance: Tolerance) -> Counter[str]:
    return Counter(feature_list(feature_report(part, inventory_of(part, tolerance))))


def _said(features: Counter[str]) -> list[str]:
    return [f"{count} × {text}" if count > 1 else text for text, count in features.items()]


def _verify(check: CheckModel, fields: ShapeFields, exercise: Exercise) -> None:
    known_part(check, exercise, fields.part)


KIND = CheckKind(
    name="shape",
    subject="part",
    outlives_change=False,
    strip="parts",
    fields=ShapeFields,
    required=_required,
    judge=_judge,
    verify=_verify,
)
