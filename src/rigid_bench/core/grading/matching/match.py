"""Which student part is which required part, and which instance is which.

Parts are told by shape first and by name where shapes do not decide; instances of one
part by where they stand relative to the base.
"""

from collections import Counter
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from difflib import SequenceMatcher

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import linear_sum_assignment

from rigid_bench.core.exercise.bundle import Exercise
from rigid_bench.core.grading.diagnosis.causes import SCALES
from rigid_bench.core.grading.intake.submission import Submission
from rigid_bench.core.grading.intake.submitted_parts import SubmittedPart
from rigid_bench.core.grading.matching.described import register_described
from rigid_bench.core.kernel.distance import scaled as resized
from rigid_bench.core.kernel.read_model import read_part
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.part.symmetry import is_same_shape
from rigid_bench.core.registration.correspond import AFTER_A_CHANGE, RegisteredPart
from rigid_bench.core.registration.register import register
from rigid_bench.core.registration.register_mesh import register_mesh
from rigid_bench.core.values.frames import Pose
from rigid_bench.core.values.tolerance import Tolerance

#: Below this share of like area (and name) two parts are not taken for one another.
_LEAST = 0.35
#: How much a like name adds to tell whether a part is there at all.
_NAME = 0.15
#: So many surfaces of like kinds tell a part, whatever their sizes.
_TELLING = 12
#: So much of the planes and walls of a part with as many surfaces tell it, however far off a size across them is.
_STANDS = 0.4
#: How much it adds between required parts: it decides where shapes do not, and cannot outvote one hole.
_TIE = 0.002
#: Parts whose overall sizes differ by more than this factor are not laid over each other at all.
_SIZE_FACTOR = 4.0
#: A part whose overall size is this near (as a share) to 25.4 or 10 times what it should be has a slipped unit.
_UNIT_SLIP = 0.1
#: Shares of volume and area by which equal parts may differ.
_EQUAL = 1e-5


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Matching:
    """Which is which. What is missing here was not found."""

    #: required part id -> index of the student's part that is measured for it.
    parts: Mapping[str, int]
    #: index of a student's part -> ways in which its reference lies over it.
    registered: Mapping[int, tuple[RegisteredPart, ...]]
    #: required instance id -> index of the student's instance.
    instances: Mapping[str, int]
    #: required part id -> indices of all the student's instances of it.
    copies: Mapping[str, tuple[int, ...]]


def match(
    exercise: Exercise, references: Mapping[str, PartFeatures], submission: Submission, *, tolerance: Tolerance
) -> Matching:
    """Find each required part and instance among what was handed in.

    Parameters
    ----------
    exercise
        Its parts and reference instances.
    references
        Features of each required part, by part id.
    submission
        What was handed in.
    tolerance
        For laying parts over each other.

    Returns
    -------
    Matching
    """
    required = [part.id for part in exercise.model.parts]

    def registered_over(part: str, submitted: PartFeatures) -> tuple[RegisteredPart, ...]:
        if part in references:
            registered = _registered(references[part], submitted, tolerance)
            return (
                tuple(replace(known_part, reach=AFTER_A_CHANGE) for known_part in registered)
                if exercise.is_changed
                else registered
            )
        return (register_described(exercise, part, submitted, tolerance),)

    columns = range(len(submission.parts))
    equal = {
        (row, column): registered
        for row, part in enumerate(required)
        for column in columns
        if part in references and _may_equal(references[part], submission.parts[column].features)
        if (registered := registered_over(part, submission.parts[column].features))
        and registered[0].registration.likeness == 1.0
    }
    # what is equal is found, and need not be laid over all the rest
    rows_found, columns_found = {row for row, _ in equal}, {column for _, column in equal}
    tried = equal | {
        (row, column): registered
        for row, part in enumerate(required)
        for column in columns
        if row not in rows_found and column not in columns_found
        if (registered := registered_over(part, submission.parts[column].features))
    }
    scores = np.zeros((len(required), len(submission.parts)))
    for (row, column), registered in tried.items():
        likeness, name = (
            registered[0].registration.likeness,
            _name_likeness(exercise, required[row], submission.parts[column]),
        )
        submitted = submission.parts[column].features
        is_like = likeness + _NAME * name > _LEAST
        if is_like or _is_made_up_alike(references.get(required[row]), submitted) or _stands_alike(registered[0]):
            scores[row, column] = likeness + _TIE * name
    pairs = _best_pairs(scores)
    return _matching(
        exercise, registered_over, submission, {required[r]: (c, tried[r, c]) for r, c in pairs.items()}, tolerance
    )


def _may_equal(reference: PartFeatures, submitted: PartFeatures) -> bool:
    def is_near(a: float, b: float) -> bool:
        return abs(a - b) <= _EQUAL * abs(a)

    return is_near(reference.volume, submitted.volume) and is_near(reference.area, submitted.area)


def _is_made_up_alike(reference: PartFeatures | None, submitted: PartFeatures) -> bool:
    """Say whether two parts have as many flats, bores, pins and so on, and many: one size may move half of them."""
    if reference is None or reference.is_mesh or submitted.is_mesh or len(reference.surfaces) < _TELLING:
        return False
    own, other = (
        Counter((type(surface), getattr(surface, "is_hollow", None)) for surface in part.surfaces)
        for part in (reference, submitted)
    )
    return own == other


def _stands_alike(registered: RegisteredPart) -> bool:
    """Say whether so many of a part's planes and walls are where another's should be that it must be meant for it."""
    if registered.reference.is_mesh or registered.part.is_mesh or len(registered.reference.surfaces) < _TELLING:
        return False
    return registered.standing() > _STANDS


def _registered(reference: PartFeatures, submitted: PartFeatures, tolerance: Tolerance) -> tuple[RegisteredPart, ...]:
    """Lay a reference over a part, made as large as it should be where its unit slipped; () where it cannot be."""
    ratio = submitted.size / max(reference.size, 1e-9)
    scale = next((scale for scale in SCALES if abs(ratio / scale - 1) < _UNIT_SLIP), 1.0)
    if scale != 1.0:
        submitted = read_part(resized(submitted.shape, 1 / scale), tolerance=tolerance)
    elif not 1 / _SIZE_FACTOR < ratio < _SIZE_FACTOR:
        return ()
    register_over = register_mesh if submitted.is_mesh else register
    return tuple(
        RegisteredPart(reference, submitted, registration, scale)
        for registration in register_over(reference, submitted, tolerance=tolerance)
    )


def _name_likeness(exercise: Exercise, part: str, submitted: SubmittedPart) -> float:
    names = (part.lower(), exercise.part_name(part).lower())
    return max(SequenceMatcher(None, name, submitted.name.lower()).ratio() for name in names)


def _best_pairs(scores: NDArray[np.float64]) -> dict[int, int]:
    if scores.size == 0:
        return {}
    rows, columns = linear_sum_assignment(-scores)
    return {int(r): int(c) for r, c in zip(rows, columns, strict=True) if scores[r, c] > 0}


def _matching(
    exercise: Exercise,
    registered_over: Callable[[str, PartFeatures], tuple[RegisteredPart, ...]],
    submission: Submission,
    chosen: Mapping[str, tuple[int, tuple[RegisteredPart, ...]]],
    tolerance: Tolerance,
) -> Matching:
    registered: dict[int, tuple[RegisteredPart, ...]] = {}
    alike: dict[str, list[int]] = {}
    taken = {index for index, _ in chosen.values()}
    for part, (index, ways) in chosen.items():
        own = submission.parts[index].features
        registered[index] = ways
        alike[part] = [index]
        # copies may come as products of their own
        for other, submitted in enumerate(submission.parts):
            if other not in taken and is_same_shape(own, submitted.features, tolerance=tolerance):
                registered[other] = registered_over(part, submitted.features)
                alike[part].append(other)
                taken.add(other)
    copies = {
        part: tuple(k for k, instance in enumerate(submission.instances) if instance.part in indices)
        for part, indices in alike.items()
    }
    instances = _match_instances(exercise, submission, registered, copies)
    parts = {part: index for part, (index, _) in chosen.items()}
    for part, indices in _by_name(exercise, submission).items():
        if not copies.get(part):
            copies[part] = indices
            instances |= _in_order(exercise, submission, part, indices)
    return Matching(parts=parts, registered=registered, instances=instances, copies=copies)


def _by_name(exercise: Exercise, submission: Submission) -> dict[str, tuple[int, ...]]:
    """Find instances that came without geometry by the name of their part: it is all there is."""
    by_name: dict[str, tuple[int, ...]] = {}
    for part in exercise.model.parts:
        names = {part.id.lower(), part.name.lower()}
        by_name[part.id] = tuple(
            k
            for k, instance in enumerate(submission.instances)
            if instance.part is None and names & {instance.name.lower(), instance.id.lower().rsplit("-", 1)[0]}
        )
    return {part: indices for part, indices in by_name.items() if indices}


def _in_order(exercise: Exercise, submission: Submission, part: str, indices: Sequence[int]) -> dict[str, int]:
    """Pair instances without geometry by their ids, and the rest in the file's order."""
    wanted = (
        [instance.id for instance in exercise.reference.instances if instance.part == part]
        if exercise.reference
        else []
    )
    own = {submission.instances[k].id: k for k in indices}
    paired = {instance: own[instance] for instance in wanted if instance in own}
    rest = [k for k in indices if k not in paired.values()]
    return paired | dict(zip([instance for instance in wanted if instance not in paired], rest, strict=False))


def _match_instances(
    exercise: Exercise,
    submission: Submission,
    registered: Mapping[int, tuple[RegisteredPart, ...]],
    copies: Mapping[str, tuple[int, ...]],
) -> dict[str, int]:
    if exercise.reference is None:
        return {}
    wanted: dict[str, list[str]] = {}
    for instance in exercise.reference.instances:
        if copies.get(instance.part):
            wanted.setdefault(instance.part, []).append(instance.id)
    match_instances = {
        ids[0]: copies[part][0] for part, ids in wanted.items() if len(ids) == 1 and len(copies[part]) == 1
    }
    base = _base(exercise, submission, registered, match_instances)
    for part, ids in wanted.items():
        if ids[0] not in match_instances:
            match_instances |= _by_place(exercise, submission, registered, ids, copies[part], base)
    return match_instances


def _frame(submission: Submission, registered: Mapping[int, tuple[RegisteredPart, ...]], index: int) -> Pose:
    """Return where the reference's frame stands in the student's world, for one of their instances."""
    instance = submission.instances[index]
    assert instance.part is not None
    return instance.pose @ registered[instance.part][0].pose


def _base(
    exercise: Exercise,
    submission: Submission,
    registered: Mapping[int, tuple[RegisteredPart, ...]],
    matched: Mapping[str, int],
) -> Pose:
    """From the reference's world to the student's, by an instance that cannot be mistaken."""
    reference = exercise.reference
    assert reference is not None

    def doubt(index: int) -> int:
        part = submission.instances[index].part
        return 0 if part is None else len(registered[part])

    known = [instance for instance in reference.instances if instance.id in matched]
    if not known:
        return Pose.identity()
    surest = min(known, key=lambda instance: (doubt(matched[instance.id]), not instance.grounded))
    return _frame(submission, registered, matched[surest.id]) @ surest.pose.inverse()


def _by_place(
    exercise: Exercise,
    submission: Submission,
    registered: Mapping[int, tuple[RegisteredPart, ...]],
    ids: Sequence[str],
    copies: Sequence[int],
    base: Pose,
) -> dict[str, int]:
    """Pair instances of one part by how near their middles stand to where they should."""
    assert exercise.reference is not None
    part = submission.instances[copies[0]].part
    assert part is not None
    middle = registered[part][0].reference.centroid
    poses = [exercise.reference.instances[exercise.reference.index_of(identifier)].pose for identifier in ids]
    wanted = [base.point(pose.point(middle)) for pose in poses]
    standing = [_frame(submission, registered, k).point(middle) for k in copies]
    away = np.array([[float(np.linalg.norm(a - b)) for b in standing] for a in wanted]).reshape(len(ids), -1)
    rows, columns = linear_sum_assignment(away)
    return {ids[int(r)]: copies[int(c)] for r, c in zip(rows, columns, strict=True)}
