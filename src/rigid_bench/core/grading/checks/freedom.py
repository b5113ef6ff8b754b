"""Does a part keep exactly the motions asked, relative to the part that is named?"""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.assembly.freedom import Freedom
from rigid_bench.core.assembly.freedom_report import MotionReport, motion_report
from rigid_bench.core.assembly.ladder import ladder
from rigid_bench.core.assembly.motions import Motion, span
from rigid_bench.core.documents import Document
from rigid_bench.core.errors import InvalidDocument
from rigid_bench.core.exercise.exercise import FILE, CheckModel, Exercise
from rigid_bench.core.frames import Pose, unit
from rigid_bench.core.geometry.features import PartFeatures
from rigid_bench.core.grading.checks.base import HAND_IN_BUILD, CheckKind, Task, known_instances
from rigid_bench.core.grading.report import Cause, CheckResult, RoseModel, RungModel, State
from rigid_bench.core.grading.wording import motions_words

_Array = NDArray[np.float64]
_GROUND = "ground"
#: Two motion spaces agree when they differ by less than this (rad, or mm per mm of the build).
_SAME = 1e-3


class FreedomFields(Document):
    """Fields of a check of kind `freedom`."""

    instance: str
    to: str = _GROUND
    motions: list[MotionReport]


def _motion(model: MotionReport, mm: float, where: str) -> Motion:
    direction = model.direction if model.kind == "translation" else model.axis and model.axis.direction
    if not direction or not np.linalg.norm(direction):
        field = "direction" if model.kind == "translation" else "axis.direction"
        raise InvalidDocument(where, f"a {model.kind} needs a {field}", "Give three numbers, such as [1, 0, 0]")
    return Motion(
        kind=model.kind,
        direction=unit(direction),
        point=mm * np.array(model.axis.point if model.axis else [0.0, 0.0, 0.0]),
        pitch=mm * (model.pitch or 0.0),
    )


def _wanted(check: CheckModel, fields: FreedomFields, exercise: Exercise) -> list[Motion]:
    where = f"{FILE}, check '{check.id}', at motions"
    return [_motion(each, exercise.mm, where) for each in fields.motions]


def _required(check: CheckModel, fields: FreedomFields, exercise: Exercise) -> str:
    return f"{motions_words(_wanted(check, fields, exercise))} (relative to {_to_name(fields, exercise)})"


def _to_name(fields: FreedomFields, exercise: Exercise) -> str:
    return "ground" if fields.to == _GROUND else exercise.instance_name(fields.to)


def _judge(task: Task[FreedomFields]) -> CheckResult:
    context, fields = task.context, task.fields
    for instance in (fields.instance, *(() if fields.to == _GROUND else (fields.to,))):
        if context.student_index(instance, where=task.where) is None:
            return task.missing_part(context.part_of(instance, where=task.where))
    found = context.freedom
    if found is None:
        return task.result("unchecked", "mates are not in a STEP file", next_step=f"{HAND_IN_BUILD}.")
    index = context.matching.instances[fields.instance]
    to = _ground(task) if fields.to == _GROUND else context.matching.instances[fields.to]
    if max(index, -1 if to is None else to) >= len(found.poses):
        return task.result(
            "missed", "not in the build file", next_step="Write a build file that has all the parts, with their mates."
        )
    return _compared(task, found, index, to)


def _compared(task: Task[FreedomFields], found: Freedom, index: int, to: int | None) -> CheckResult:
    wanted = _wanted(task.check, task.fields, task.context.exercise)
    own, idle = found.motions(index, to), _idle_spin(task, found, index)
    length = float(found.system.lengths[index])
    ways = []
    for frame in _frames(task, found, to):
        back = frame.inverse()  # from the world to the coordinates in which motions are asked
        seen = [each.moved(back) for each in own]
        spin = [each.moved(back) for each in idle]
        ways.append((_agree(seen, wanted, spin, length), seen))
    fits, seen = max(ways, key=lambda way: way[0])
    rose = _rose(seen, wanted, found, index)
    if fits:
        return task.result("met", motions_words(seen), rose=rose)
    cause, step = _explain(task, seen, wanted, found, index)
    return task.result("missed", motions_words(seen), cause=cause, next_step=step, rose=rose)


def _frames(task: Task[FreedomFields], found: Freedom, to: int | None) -> list[Pose]:
    """List where the reference's coordinates stand in the student's world, one per symmetry.

    Motions relative to ground are asked in the world of the reference build; the student's
    world is laid over it by the base.
    """
    context = task.context
    if to is not None and task.fields.to != _GROUND:
        return [found.poses[to] @ laid.pose for laid in context.lays(to)] or [found.poses[to]]
    base = _base(task)
    if base is None:
        return [Pose.identity()]
    index, reference = base
    return [found.poses[index] @ laid.pose @ reference.inverse() for laid in context.lays(index)] or [Pose.identity()]


def _base(task: Task[FreedomFields]) -> tuple[int, Pose] | None:
    """Return the student's instance of the reference's base, and the base's pose in the reference."""
    reference = task.context.exercise.reference
    for each in reference.instances if reference else ():
        index = task.context.matching.instances.get(each.id)
        if each.grounded and index is not None:
            return index, each.pose
    return None


def _ground(task: Task[FreedomFields]) -> int | None:
    """Return what stands for the ground: the base, where the exercise lets it be fixed undeclared."""
    base = _base(task)
    is_declared = any(each.grounded for each in task.context.submission.instances)
    if base is None or is_declared or set(task.context.exercise.model.grounding) == {"declared"}:
        return None
    return base[0]


def _space(motions: Sequence[Motion], length: float) -> _Array:
    """Return an orthonormal basis of motions in the scaled measure, (6, d)."""
    scale = np.array([length] * 3 + [1.0] * 3)[:, None]
    twists = np.array([each.twist for each in motions]).T.reshape(6, -1)
    basis: _Array = np.linalg.qr(scale * span(twists, rank=1e-9, length=length))[0] if twists.size else twists
    return basis


def _agree(seen: Sequence[Motion], wanted: Sequence[Motion], spin: Sequence[Motion], length: float) -> bool:
    """Say whether the motions span what is asked, an idle spin of a round part excused."""
    return any(_same_space(_space(seen, length), _space([*wanted, *excused], length)) for excused in ([], list(spin)))


def _same_space(a: _Array, b: _Array) -> bool:
    if a.shape[1] != b.shape[1]:
        return False
    return bool(np.linalg.norm(b - a @ (a.T @ b)) < _SAME) if a.shape[1] else True


def _idle_spin(task: Task[FreedomFields], found: Freedom, index: int) -> list[Motion]:
    """Return the spin of a round part about its own axis, in the world, if it is round."""
    part = task.context.submission.instances[index].part
    if part is None:
        return []
    axis = spin_axis(task.context.submission.parts[part].features)
    if axis is None:
        return []
    point, direction = axis
    return [Motion(kind="rotation", direction=direction, point=point).moved(found.poses[index])]


def spin_axis(part: PartFeatures) -> tuple[_Array, _Array] | None:
    """Return the axis about which a part may spin and look the same, or None.

    Parameters
    ----------
    part
        Features of a solid.

    Returns
    -------
    (point, direction) : (3,) float, mm and (3,) float, unit
        None where a face is not of a solid of revolution about one axis.
    """
    if not part.cylinders or part.others:
        return None
    first = part.cylinders[0]
    point, direction = first.point, first.direction

    def is_on_axis(other: _Array) -> bool:
        return bool(np.linalg.norm(np.cross(other - point, direction)) < 1e-3)

    def is_along(other: _Array) -> bool:
        return abs(float(other @ direction)) > 1 - 1e-9

    walls = all(is_on_axis(each.point) and is_along(each.direction) and each.sweep > 6.28 for each in part.cylinders)
    ends = all(is_along(each.normal) and is_on_axis(each.point) for each in part.planes)
    cones = all(is_on_axis(each.apex) and is_along(each.direction) for each in part.cones)
    return (point, direction) if walls and ends and cones else None


def _rose(seen: Sequence[Motion], wanted: Sequence[Motion], found: Freedom, index: int) -> RoseModel:
    slides, turns = _petals(seen, found.system.lengths[index])
    required_slides, required_turns = _petals(wanted, found.system.lengths[index])
    return RoseModel(
        state=_state(seen, found, index),
        slides=slides,
        turns=turns,
        required_slides=required_slides,
        required_turns=required_turns,
        words=motions_words(seen),
        motions=[motion_report(each) for each in seen],
        ladder=[
            RungModel(mate=each.mate, before=each.before, after=each.after)
            for each in ladder(found)
            if each.instance == index
        ],
    )


def _petals(motions: Sequence[Motion], length: float) -> tuple[list[bool], list[bool]]:
    """Say which slides along, and turns about lines along, the three axes are open."""
    space = _space(motions, length)
    if space.shape[1] == 0:
        return [False] * 3, [False] * 3
    slides = [float(np.linalg.norm(space.T @ np.concatenate([np.zeros(3), axis]))) > 1 - 1e-6 for axis in np.eye(3)]
    angular = np.linalg.svd(space[:3], full_matrices=False)
    basis = angular[0][:, angular[1] > 1e-6]
    turns = [float(np.linalg.norm(basis.T @ axis)) > 1 - 1e-6 for axis in np.eye(3)]
    return slides, turns


def _state(seen: Sequence[Motion], found: Freedom, index: int) -> State:
    own = [mate for mate in found.system.mates if index in (mate.a, mate.b)]
    if any(conflict.mate == mate.id for conflict in found.conflicts for mate in own):
        return "clashing"
    if not seen:
        return "over-held" if any(mate.id in found.redundant_mates for mate in own) else "held"
    return "loose" if len(seen) > 2 else "guided"


def _explain(
    task: Task[FreedomFields], seen: Sequence[Motion], wanted: Sequence[Motion], found: Freedom, index: int
) -> tuple[Cause | None, str]:
    exercise = task.context.exercise
    name, to = exercise.instance_name(task.fields.instance), _to_name(task.fields, exercise)
    own = [mate for mate in found.system.mates if index in (mate.a, mate.b)]
    if not own:
        text = f"{name} is placed, but nothing holds it: it would drag away."
        return Cause(code="placed-not-held", text=text), f"Mate {name} to {to}."
    if len(seen) < len(wanted):
        fixing = next((mate.id for mate in own if mate.kind == "fixed"), None)
        lost = motions_words(wanted).removeprefix("can ")
        if fixing:
            text = f"The mate '{fixing}' fixes {name}, but it should {lost}."
            return Cause(code="fixed-where-it-should-move", text=text), f"Take out '{fixing}' and let {name} {lost}."
        return None, f"One mate too many holds {name}; it should {lost}."
    if len(seen) > len(wanted):
        text = f"{name} {motions_words(seen)}; {motions_words(wanted)} was asked."
        return Cause(
            code="mate-short", text=text
        ), f"Add a mate between {name} and {to} that takes away what is too much."
    return None, f"{name} moves another way than asked; check which faces its mates use."


def _verify(check: CheckModel, fields: FreedomFields, exercise: Exercise) -> None:
    known_instances(check, exercise, fields.instance, *(() if fields.to == _GROUND else (fields.to,)))
    _wanted(check, fields, exercise)


KIND = CheckKind(
    name="freedom", strip="assembly", fields=FreedomFields, required=_required, judge=_judge, verify=_verify
)
