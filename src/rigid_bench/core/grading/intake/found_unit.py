"""The unit of meshes that do not say theirs: that in which they are as large as the exercise asks."""

from collections.abc import Mapping
from dataclasses import replace

from rigid_bench.core.formats.message import phrase
from rigid_bench.core.grading.intake.submission import Submission
from rigid_bench.core.kernel.distance import scaled
from rigid_bench.core.kernel.read_model import read_part
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.values.frames import Pose
from rigid_bench.core.values.tolerance import Tolerance

#: mm in each unit that is tried; the first wins where two fit as well.
_UNITS = {"millimetres": 1.0, "inches": 25.4, "centimetres": 10.0, "metres": 1000.0}
#: Share by which a part's overall size may differ from what is asked.
_NEAR = 0.1


def in_found_unit(
    submission: Submission, references: Mapping[str, PartFeatures], *, tolerance: Tolerance
) -> Submission:
    """Return a submission whose parts without a unit are as large as the exercise asks.

    Parameters
    ----------
    submission
        As it was read: such parts in mm.
    references
        Features of each required part.
    tolerance
        For reading features.

    Returns
    -------
    Submission
        The same where mm fits as well as any; else all such parts in one other unit, with a notice. Where they stand
        is in that unit, too, unless a build file says it.
    """
    without = [k for k, part in enumerate(submission.parts) if not part.has_unit]
    if not without:
        return submission

    def fitting(mm: float) -> int:
        """Count the parts that have a required part of about their size."""
        sizes = [submission.parts[k].features.size * mm for k in without]
        return sum(any(abs(size / wanted.size - 1) < _NEAR for wanted in references.values()) for size in sizes)

    unit, mm = max(_UNITS.items(), key=lambda known: fitting(known[1]))
    if mm == 1.0 or not fitting(mm):
        return submission
    parts = list(submission.parts)
    for k in without:
        features = read_part(scaled(parts[k].features.shape, mm), tolerance=tolerance)
        parts[k] = replace(parts[k], features=features, has_unit=True)
    instances, moved = list(submission.instances), list(submission.moved)
    for k, instance in enumerate(submission.instances):
        if instance.part not in without:
            continue
        if submission.build is None:
            instances[k] = replace(instance, pose=_scaled(instance.pose, mm))
        if moved and (pose := moved[k]):
            moved[k] = _scaled(pose, mm)
    kept = [message for message in submission.notices if message.code != "mesh-unit"]
    return replace(
        submission,
        parts=tuple(parts),
        instances=tuple(instances),
        moved=tuple(moved),
        notices=(*kept, phrase("mesh-unit-found", unit=unit)),
    )


def _scaled(pose: Pose, mm: float) -> Pose:
    return Pose(pose.rotation, pose.position * mm)
