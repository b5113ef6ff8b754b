"""What an experienced person would do next on a bench, and why: the reference's own mates in their order."""

import itertools
from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from rigid_bench.core.assembly.freedom.analysis import freedom
from rigid_bench.core.assembly.freedom.motions import Motion
from rigid_bench.core.assembly.mates.registry import KINDS
from rigid_bench.core.bench.documents import BenchFeature, BenchPart, BenchParts, BenchState, Placed
from rigid_bench.core.formats.build import Build, Mate
from rigid_bench.core.values.datums import AxisFeature, CylinderFeature, Feature, FrameFeature, PlaneFeature
from rigid_bench.core.values.tolerance import Tolerance

#: mm and unit vectors: two features of a part are one.
_SAME = 1e-3


@dataclass(frozen=True, slots=True, kw_only=True)
class Hint:
    """The next step."""

    code: Literal["add", "ground", "mate", "done", "unknown"]
    #: The part to add, by its id; or the instance to ground, or the two to mate.
    part: str = ""
    instances: tuple[str, ...] = ()
    #: Of a mate: its kind, as the bench offers it, and its features' places in their parts' lists.
    kind: str = ""
    features: tuple[int, ...] = ()
    #: What the second instance can do before it and after it, with the mates that come earlier in the reference.
    before: tuple[Motion, ...] = ()
    after: tuple[Motion, ...] = ()


def next_step(state: BenchState, parts: BenchParts, reference: Build, *, tolerance: Tolerance) -> Hint:
    """Say what comes next.

    Parameters
    ----------
    state, parts
        The bench.
    reference
        The exercise's solved build, mm; its parts have the ids of the bench's parts.
    tolerance
        For ranks and residuals.

    Returns
    -------
    Hint
        The first of: the base brought in, the base grounded, and mate by mate in the reference's order the parts
        that it joins brought in, then mated. Instances of one part are taken in the order in which they were placed;
        two instances that have as many mates with each other as the reference gives them are done. Mates whose
        features cannot be pointed at, such as an axis that no wall has, are passed over.
    """
    known = {part.id for part in parts.parts}
    base = next((instance for instance in reference.instances if instance.grounded), None)
    if base is None or any(instance.part not in known for instance in reference.instances):
        return Hint(code="unknown")
    own = _own_instances(state, reference)
    if base.id not in own:
        return Hint(code="add", part=base.part)
    if not any(placed.grounded for placed in state.placed):
        return Hint(code="ground", instances=(own[base.id].id,))
    reference = replace(reference, mates=_to_be_pointed_at(reference, parts))
    made = _made(state)
    asked: dict[frozenset[str], int] = defaultdict(int)
    for number, mate in enumerate(reference.mates):
        pair = [reference.instances[index] for index in (mate.a, mate.b)]
        missing = next((instance for instance in pair if instance.id not in own), None)
        if missing is not None:
            return Hint(code="add", part=missing.part)
        placed = [own[instance.id] for instance in pair]
        names = frozenset(instance.id for instance in placed)
        asked[names] += 1
        if made.get(names, 0) < asked[names]:
            return _mating(parts, placed, reference, mate, number, tolerance)
    return Hint(code="done")


def _to_be_pointed_at(reference: Build, parts: BenchParts) -> tuple[Mate, ...]:
    """Return the mates whose two features stand in their parts' lists."""
    models = {part.id: part for part in parts.parts}
    return tuple(
        mate
        for mate in reference.mates
        if all(
            _on(models[reference.instances[index].part], feature)
            for index, feature in ((mate.a, mate.feature_a), (mate.b, mate.feature_b))
        )
    )


def _own_instances(state: BenchState, reference: Build) -> dict[str, Placed]:
    """Return for each of the reference's instances the one on the bench that stands for it."""
    waiting: dict[str, list[Placed]] = defaultdict(list)
    for placed in state.placed:
        waiting[placed.part].append(placed)
    own = {}
    for instance in reference.instances:
        if waiting[instance.part]:
            own[instance.id] = waiting[instance.part].pop(0)
    return own


def _made(state: BenchState) -> Mapping[frozenset[str], int]:
    count: dict[frozenset[str], int] = defaultdict(int)
    for mate in state.mates:
        count[frozenset((mate.a.instance, mate.b.instance))] += 1
    return count


def _mating(
    parts: BenchParts, placed: Sequence[Placed], reference: Build, mate: Mate, number: int, tolerance: Tolerance
) -> Hint:
    """Say which mate comes next, and what it takes away of the part that comes later in the reference."""
    later = max(mate.a, mate.b)
    motions = []
    for count in (number, number + 1):
        freed = freedom(replace(reference, mates=reference.mates[:count]), tolerance=tolerance)
        motions.append(tuple(freed.motions(later)))
    models = {part.id: part for part in parts.parts}
    first, second = (models[own.part] for own in placed)
    features = min(
        itertools.product(_on(first, mate.feature_a), _on(second, mate.feature_b)),
        key=lambda pair: _misfit(first.features[pair[0]], second.features[pair[1]]),
    )
    if mate.a == later:
        placed, features = placed[::-1], features[::-1]
    return Hint(
        code="mate",
        instances=tuple(own.id for own in placed),
        kind=_offered(mate.kind),
        features=features,
        before=motions[0],
        after=motions[1],
    )


def _on(part: BenchPart, feature: Feature) -> list[int]:
    """Return the places in a part's list of the features on whose axis or plane a feature lies."""
    return [number for number, own in enumerate(part.features) if _is_on(own.feature.feature(), feature)]


def _misfit(one: BenchFeature, other: BenchFeature) -> tuple[bool, float]:
    """Return how ill two walls go with each other: a pin goes into a hole, and that is hardly wider than it."""
    radii = {
        own.is_hollow: wall.radius for own in (one, other) if isinstance(wall := own.feature.feature(), CylinderFeature)
    }
    if len(radii) < 2:
        return True, 0.0
    room = radii.get(True, 0.0) - radii.get(False, 0.0)
    return room < -_SAME, abs(room)


def _offered(kind: str) -> str:
    """Return the kind as which a bench offers what another does: between the same features, with as much taken away.

    The kind itself where it is offered, or where nothing like it is.
    """
    own = KINDS[kind]
    if own.choices:
        return kind
    taken = {(pairing, rule.removes) for pairing, rule in own.rules.items()}
    alike = (
        other.name
        for other in KINDS.values()
        if other.choices and taken & {(pairing, rule.removes) for pairing, rule in other.rules.items()}
    )
    return next(alike, kind)


def _is_on(listed: Feature, wanted: Feature) -> bool:
    match wanted:
        case PlaneFeature():
            return (
                isinstance(listed, PlaneFeature)
                and float(listed.normal @ wanted.normal) > 1 - _SAME
                and abs(float((listed.point - wanted.point) @ wanted.normal)) < _SAME
            )
        case AxisFeature() | CylinderFeature() | FrameFeature():
            if not isinstance(listed, CylinderFeature | AxisFeature):
                return False
            apart = np.cross(listed.point - wanted.point, wanted.direction)
            is_parallel = abs(float(listed.direction @ wanted.direction)) > 1 - _SAME
            return is_parallel and float(np.linalg.norm(apart)) < _SAME
    return False
