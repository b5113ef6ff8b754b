"""Are all required parts there, each in the right number, and nothing besides?"""

import itertools
import math

from rigid_bench.core.exercise.bundle import CheckModel, Exercise
from rigid_bench.core.formats.documents import Document
from rigid_bench.core.formats.message import Message, phrase
from rigid_bench.core.grading.checks.base import CheckKind, Task
from rigid_bench.core.grading.diagnosis.part_causes import is_mirrored
from rigid_bench.core.grading.matching.swapped_parts import merged
from rigid_bench.core.grading.report.models import Cause, CheckResult
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.part.recognition.facets import LEAST_FACETS
from rigid_bench.core.registration.correspond import RegisteredPart
from rigid_bench.core.values.datums import CylinderFeature
from rigid_bench.core.wording.phrases import amount, listed, quoted

#: mm: two instances that are nearer stand in one place.
_ONE_PLACE_MM = 0.01
#: mm: sizes of a bought-in part that differ by more are those of another one.
_BOUGHT_MM = 0.05


class PartsFields(Document):
    """Fields of a check of kind `parts`."""

    #: Each part must be a part of its own in the file, not one body of several in one part.
    components: bool = False


def _required(check: CheckModel, fields: PartsFields, exercise: Exercise) -> Message:
    parts = [_counted(part.count, part.name) for part in exercise.model.parts]
    return phrase("asks.parts-of-their-own", parts=parts) if fields.components else listed(parts)


def _counted(count: int, name: str) -> Message:
    return phrase("part.times", count=count, what=name)


def _judge(task: Task[PartsFields]) -> CheckResult:
    exercise, copies = task.context.exercise, task.context.matching.copies
    off = [
        (part.name, len(copies.get(part.id, ())) - part.count)
        for part in exercise.model.parts
        if len(copies.get(part.id, ())) != part.count
    ]
    placed = {index for indices in copies.values() for index in indices}
    extra = [instance.name for k, instance in enumerate(task.context.submission.instances) if k not in placed]
    counted = [_counted(len(copies[part.id]), part.name) for part in exercise.model.parts if copies.get(part.id)]
    there = counted + [phrase("part.something-else", name=name) for name in extra]
    measured = listed(there) if there else phrase("measured.no-part-asked")
    if not off and not extra:
        wrong = _mirrored(task) or _wrong_size(task) or (_as_bodies(task) if task.fields.components else None)
        if wrong is None:
            return task.result("met", measured)
        return task.result("missed", measured, cause=wrong[0], next_step=wrong[1])
    missing = [_counted(-by, name) for name, by in off if by < 0]
    too_many = [_counted(by, name) for name, by in off if by > 0] + quoted(extra)
    code = "part-missing" if missing else "part-extra"
    joined = [
        cause for part in exercise.model.parts if not copies.get(part.id) and (cause := merged(task.context, part.id))
    ]
    if joined:
        step = phrase("step.model-each")
        return task.result("missed", measured, cause=joined[0], next_step=step)
    twice = _twice_in_place(task)
    if twice and not missing:
        cause = Cause(code="duplicate", message=phrase("cause.twice-in-one-place", parts=twice))
        step = phrase("step.delete-second", parts=twice)
        return task.result("missed", measured, cause=cause, next_step=step)
    wrong_counts = [
        phrase(said, parts=parts)
        for said, parts in (("cause.parts-missing", missing), ("cause.parts-too-many", too_many))
        if parts
    ]
    cause = Cause(code=code, message=phrase("together", items=wrong_counts))
    step = phrase("step.add-parts", parts=missing) if missing else phrase("step.take-out-parts", parts=too_many)
    return task.result("missed", measured, cause=cause, next_step=step)


def _mirrored(task: Task[PartsFields]) -> tuple[Cause, Message] | None:
    """Find a part that is the mirror image of the one asked: a left one for a right one."""
    context = task.context
    for part, index in context.matching.parts.items():
        registered = context.matching.registered[index][0]
        is_equal = part not in context.references or registered.registration.likeness == 1.0
        if not is_equal and is_mirrored(registered, context.tolerance):
            name = context.exercise.part_name(part)
            told = next((result.id for result in context.done if result.cause and result.cause.code == "mirrored"), "")
            text = phrase("cause.mirrored-part", name=name)
            return Cause(code="mirrored", message=text, root=told), phrase("step.other-hand-again", name=name)
    return None


def _wrong_size(task: Task[PartsFields]) -> tuple[Cause, Message] | None:
    """Find a bought-in part of another size; its thread, drive or edges may be drawn as one likes."""
    exercise, matching = task.context.exercise, task.context.matching
    for part in exercise.model.parts:
        if part.origin != "bought" or part.id not in matching.parts or part.id not in task.context.references:
            continue
        registered = matching.registered[matching.parts[part.id]][0]
        sizes = zip(sorted(registered.reference.extents), sorted(registered.part.extents), strict=True)
        narrower = 1 - math.cos(math.pi / _fewest_facets(registered.part)) if registered.part.is_mesh else 0.0
        wrong = [
            (asked, own) for asked, own in sizes if not asked * (1 - narrower) - _BOUGHT_MM <= own <= asked + _BOUGHT_MM
        ] or _other_bores(registered)
        if wrong:
            asked, own = (amount(size / exercise.mm, "length", exercise.model.units) for size in wrong[0])
            text = phrase("cause.bought-wrong-size", name=part.name, measured=own, asked=asked)
            return Cause(code="bought-wrong-size", message=text), phrase("step.bring-in-size", name=part.name)
    return None


def _fewest_facets(mesh: PartFeatures) -> int:
    """Return how many chords stand in for a round at least; so few as can be told from a prism where none is known."""
    return min((wall.facets for wall in mesh.cylinders if wall.facets), default=LEAST_FACETS)


def _other_bores(registered: RegisteredPart) -> list[tuple[float, float]]:
    """List asked and found diameters of a part's round walls that differ, mm."""
    if registered.part.is_mesh:
        return []
    walls = [cylinder for cylinder in registered.reference.cylinders if cylinder.goes_round]
    pairs = [
        (wall, registered.feature(CylinderFeature(wall.point, wall.direction, wall.radius), where="")) for wall in walls
    ]
    return [
        (2 * wall.radius, 2 * own.radius)
        for wall, own in pairs
        if isinstance(own, CylinderFeature) and abs(wall.radius - own.radius) > _BOUGHT_MM
    ]


def _as_bodies(task: Task[PartsFields]) -> tuple[Cause, Message] | None:
    """Find parts that came as bodies of one part."""
    exercise, matching = task.context.exercise, task.context.matching
    products: dict[str, list[str]] = {}
    for part, index in matching.parts.items():
        product = task.context.submission.parts[index].product
        products.setdefault(product, []).append(exercise.part_name(part))
    together = next((names for names in products.values() if len(names) > 1), None)
    if together is None:
        return None
    text = phrase("cause.bodies-for-parts", parts=together)
    return Cause(code="bodies-for-parts", message=text), phrase("step.make-parts", parts=together)


def _twice_in_place(task: Task[PartsFields]) -> list[str]:
    """Name the parts of which two instances stand in one place: one hides the other."""
    context, names = task.context, []
    own = context.submission.instances
    for part, indices in context.matching.copies.items():
        pairs = itertools.combinations(indices, 2)
        if any(own[a].pose.is_close(own[b].pose, mm=_ONE_PLACE_MM, rad=1e-4) for a, b in pairs):
            names.append(context.exercise.part_name(part))
    return names


KIND = CheckKind(name="parts", strip="assembly", fields=PartsFields, required=_required, judge=_judge)
