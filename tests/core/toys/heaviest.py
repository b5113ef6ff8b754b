"""A toy check: which part is the heaviest?"""

from rigid_bench.core.exercise.bundle import CheckModel, Exercise
from rigid_bench.core.formats.documents import Document
from rigid_bench.core.formats.message import Message, phrase
from rigid_bench.core.grading.checks.base import CheckKind, Task, known_part
from rigid_bench.core.grading.report.models import CheckResult
from rigid_bench.core.wording.sentences import SENTENCES

SENTENCES |= {
    "toy.is-largest": "{name} is the largest",
    "toy.largest": "the largest is {name}",
    "toy.make-larger": "Make it larger.",
}


class HeaviestFields(Document):
    """Its fields."""

    part: str


def _required(check: CheckModel, fields: HeaviestFields, exercise: Exercise) -> Message:
    return phrase("toy.is-largest", name=exercise.part_name(fields.part))


def _judge(task: Task[HeaviestFields]) -> CheckResult:
    parts = task.context.submission.parts
    largest = max(range(len(parts)), key=lambda index: parts[index].features.volume)
    is_met = task.context.matching.parts.get(task.fields.part) == largest
    measured = phrase("toy.largest", name=parts[largest].name)
    return task.result("met" if is_met else "missed", measured, next_step=phrase("toy.make-larger"))


KIND = CheckKind(
    name="heaviest",
    strip="parts",
    fields=HeaviestFields,
    subject="part",
    required=_required,
    judge=_judge,
    verify=lambda check, fields, exercise: known_part(check, exercise, fields.part),
)
