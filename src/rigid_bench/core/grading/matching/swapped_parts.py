"""Parts that were taken for one another, and parts that were joined: what a whole build shows."""

import itertools
from collections.abc import Iterator

import numpy as np

from rigid_bench.core.formats.message import Message, phrase
from rigid_bench.core.grading.context import Context
from rigid_bench.core.grading.report.models import Cause
from rigid_bench.core.kernel.distance import moved, overlap_volume
from rigid_bench.core.values.frames import Pose

#: Share of a part's volume that must be found in a neighbour for the two to be one body.
_INSIDE = 0.98
#: As much of one that was joined in a coarse mesh.
_INSIDE_MESH = 0.9
#: Without places to compare: how near (as a share) the volume is to the sum of both.
_SAME_SUM = 1e-4
#: How far (as a share of its size) a part may stand from another's place and still be in it.
_IN_PLACE = 0.05


def swapped_names(context: Context) -> list[Message]:
    """Say which parts bear each other's names, by their shapes.

    Parameters
    ----------
    context
        The submission, matched.

    Returns
    -------
    list of Message
        One for each pair.
    """
    names = {part: context.submission.parts[k].name.lower() for part, k in context.matching.parts.items()}
    called = {part.id: {part.id.lower(), part.name.lower()} for part in context.exercise.model.parts}
    called_in_exercise = context.exercise.part_name
    return [
        phrase("names-swapped", one=called_in_exercise(a), other=called_in_exercise(b))
        for a, b in itertools.combinations(names, 2)
        if names[a] in called[b] - called[a] and names[b] in called[a] - called[b]
    ]


def swapped_places(context: Context, instance: str) -> Cause | None:
    """Say whether an instance stands in the place of another part's, and that one in its place.

    Parameters
    ----------
    context
        The submission, matched.
    instance
        A required instance.

    Returns
    -------
    Cause or None
    """
    reference = context.exercise.reference
    if reference is None or instance not in context.matching.instances:
        return None
    part = reference.instances[reference.index_of(instance)].part
    for other in reference.instances:
        if other.part == part or other.id not in context.matching.instances:
            continue
        if any(
            _in_each_others_place(context, anchor, instance, other.id) for anchor in _anchors(context, part, other.part)
        ):
            a, b = context.exercise.instance_name(instance), context.exercise.instance_name(other.id)
            return Cause(code="swapped", message=phrase("cause.swapped", a=a, b=b))
    return None


def _anchors(context: Context, *but: str) -> Iterator[str]:
    """Yield instances whose place can be trusted: those of other parts that stand in one way only."""
    assert context.exercise.reference is not None
    for instance in context.exercise.reference.instances:
        index = context.matching.instances.get(instance.id)
        if index is not None and instance.part not in but and len(context.registrations(index)) == 1:
            yield instance.id


def _in_each_others_place(context: Context, anchor: str, a: str, b: str) -> bool:
    reference = context.exercise.reference
    assert reference is not None
    world = _frame(context, anchor) @ reference.instances[reference.index_of(anchor)].pose.inverse()
    for own, other in ((a, b), (b, a)):
        index = context.matching.instances[own]
        if not context.registrations(index):
            return False
        middle = context.registrations(index)[0].reference.centroid
        pose = reference.instances[reference.index_of(other)].pose
        there = world.point(pose.point(context.references[_part(context, other)].centroid))
        size = context.registrations(index)[0].reference.size
        apart = float(np.linalg.norm(_frame(context, own).point(middle) - there))
        home = world.point(reference.instances[reference.index_of(own)].pose.point(middle))
        if apart > _IN_PLACE * size or np.linalg.norm(home - there) < 2 * _IN_PLACE * size:
            return False
    return True


def _part(context: Context, instance: str) -> str:
    return context.part_of(instance, where=instance)


def _frame(context: Context, instance: str) -> Pose:
    index = context.matching.instances[instance]
    return context.submission.instances[index].pose @ context.registrations(index)[0].pose


def merged(context: Context, part: str) -> Cause | None:
    """Say whether a part that was not found is one body with another.

    Parameters
    ----------
    context
        The submission, matched.
    part
        Id of the part that was not found; one that was is joined with none.

    Returns
    -------
    Cause or None
    """
    if part not in context.references or part in context.matching.parts:
        return None
    for other, index in context.matching.parts.items():
        if other in context.references and _holds(context, other, index, part):
            name, neighbour = context.exercise.part_name(part), context.exercise.part_name(other)
            text = phrase("cause.merged", name=name, other=neighbour)
            return Cause(code="merged", message=text)
    return None


def _holds(context: Context, other: str, index: int, part: str) -> bool:
    registered, missing = context.matching.registered[index][0], context.references[part]
    if registered.part.volume < registered.reference.volume:
        return False
    reference = context.exercise.reference
    places = {instance.part: instance.pose for instance in reference.instances} if reference else {}
    if part in places and other in places:
        there = registered.pose @ places[other].inverse() @ places[part]
        shared = overlap_volume(moved(missing.shape, there), registered.part.shape)
        return shared > (_INSIDE_MESH if registered.part.is_mesh else _INSIDE) * missing.volume
    return abs(registered.part.volume / (registered.reference.volume + missing.volume) - 1) < _SAME_SUM
