"""Whose fault is an overlap: the part's or the place's? The parts are tried where they should stand."""

from collections.abc import Sequence

from rigid_bench.core.assembly.contact.clearance import Clearance, clearance, place
from rigid_bench.core.formats.message import phrase
from rigid_bench.core.grading.context import Context
from rigid_bench.core.grading.matching.placement import base_of
from rigid_bench.core.grading.report.models import Cause
from rigid_bench.core.values.frames import Pose

#: Kinds of check that say how parts stand.
_OF_PLACE = ("relation", "step", "gap")


def of_overlaps(context: Context, overlaps: Sequence[Clearance]) -> Cause | None:
    """Say whether overlaps stay when the student's own parts stand where they should.

    Parameters
    ----------
    context
        The submission, matched, with the checks that are done.
    overlaps
        Pairs that pass through each other.

    Returns
    -------
    Cause or None
        Named only where it explains all of them: a wrong size of a part, or a part that is off its place.
    """
    stays = [_stays(context, int(overlap.a), int(overlap.b)) for overlap in overlaps]
    if not overlaps or None in stays:
        return None
    indices = {int(index) for overlap in overlaps for index in (overlap.a, overlap.b)}
    if all(stays):
        return _wrong_size(context, indices)
    if any(stays):
        return None
    names = [context.name_of(index) for index in sorted(indices)]
    told = _first(context, indices, _OF_PLACE)
    text = phrase("cause.out-of-place", names=names)
    return Cause(code="out-of-place", message=text, root=told)


def _wrong_size(context: Context, indices: set[int]) -> Cause | None:
    root = _first(context, indices, ("dimension", "holes"))
    if not root:
        return None
    size = next(result for result in context.done if result.id == root)
    text = phrase(
        "cause.overlap-by-size", title=size.title, measured=size.measured_message, asked=size.required_message
    )
    return Cause(code="wrong-size-of-part", message=text, root=root)


def _first(context: Context, indices: set[int], kinds: Sequence[str]) -> str:
    """Return the first check of some kinds that is missed and speaks of these instances or their parts; "" for none."""
    names = {name for name, index in context.matching.instances.items() if index in indices}
    parts = {context.part_of(name, where=name) for name in names}
    fields = {check.id: check.fields for check in context.exercise.model.checks}
    for result in context.done:
        if result.verdict not in ("near", "missed") or result.kind not in kinds:
            continue
        own = fields[result.id]
        named = {value["instance"] if isinstance(value, dict) else value for value in (own.get("a"), own.get("b"))}
        if own.get("part") in parts or named & names:
            return result.id
    return ""


def _stays(context: Context, a: int, b: int) -> bool | None:
    """Say whether two parts overlap where they should stand; None where it is not known where that is."""
    poses = [_wanted(context, instance) for instance in (a, b)]
    if poses[0] is None or poses[1] is None:
        return None
    one, two = (
        place(str(index), context.solids[index].part, pose)
        for index, pose in zip((a, b), poses, strict=True)
        if pose is not None
    )
    return clearance(one, two, tolerance=context.tolerance).state == "interfering"


def _wanted(context: Context, index: int) -> Pose | None:
    world, reference = base_of(context), context.exercise.reference
    name = next((required for required, own in context.matching.instances.items() if own == index), None)
    if world is None or reference is None or name is None or not context.registrations(index):
        return None
    return world @ reference.instances[reference.index_of(name)].pose @ context.registrations(index)[0].pose.inverse()
