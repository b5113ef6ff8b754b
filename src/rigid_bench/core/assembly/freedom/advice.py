"""What to do about a missed freedom: which motion is too many and what would take it away, or which mate to drop."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.assembly.freedom.analysis import Freedom, freedom
from rigid_bench.core.assembly.freedom.motions import Motion
from rigid_bench.core.assembly.freedom.spaces import complement, holds_space, is_same_space, scaled_span, space_of
from rigid_bench.core.assembly.mates.kind import MateKind
from rigid_bench.core.assembly.mates.registry import KINDS, equations, joins
from rigid_bench.core.formats.build import Build, Mate, Sense
from rigid_bench.core.values.datums import AxisFeature, Feature, FrameFeature, PlaneFeature, make_frame
from rigid_bench.core.values.errors import RigidBenchError
from rigid_bench.core.values.frames import any_normal

_Array = NDArray[np.float64]


def _advised() -> list[MateKind]:
    """List what is tried to take a motion away, the simplest first."""
    return sorted((kind for kind in KINDS.values() if kind.advised), key=lambda kind: kind.advised)


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Advice:
    """What is wrong with an instance's freedom, and one step that puts it right."""

    #: Motions that it has and should not have, and those that it lacks.
    too_many: tuple[Motion, ...]
    missing: tuple[Motion, ...]
    #: A mate that holds as the build stands and takes away what is too many.
    add: Mate | None = None
    #: The mate without which the freedom is right.
    drop: str | None = None
    #: The mate to replace, and by what kind.
    loosen: tuple[str, str] | None = None
    #: The build with that step taken.
    build: Build | None = None


def advise(
    freedom: Freedom,
    index: int,
    to: int | None,
    wanted: Sequence[Motion],
    *,
    features: tuple[Sequence[Feature], Sequence[Feature]] = ((), ()),
) -> Advice:
    """Say how an instance's freedom differs from what is wanted, and what would put it right.

    Parameters
    ----------
    freedom
        What the build leaves free where it stands.
    index, to
        Places of the instance and of the one it is judged to; None is the ground.
    wanted
        Motions in the world's coordinates.
    features
        Features of the instance and of the other, in the world's coordinates, that a mate may use besides those that
        mates use already.

    Returns
    -------
    Advice
        At most one of `add`, `drop` and `loosen`; none where no single step does.
    """
    length = float(freedom.system.lengths[index])
    seen = freedom.motions(index, to)
    too_many, missing = complement(seen, wanted, length), complement(wanted, seen, length)
    advice = Advice(too_many=tuple(too_many), missing=tuple(missing))
    if missing:
        return _given_back(freedom, index, to, wanted, advice)
    other = to if to is not None else next(iter(freedom.system.held), None)
    if not too_many or other is None or other == index:
        return advice
    add = _taking_away(freedom, index, other, wanted, features)
    if add is None:
        return advice
    build = freedom.system.build
    return replace(advice, add=add, build=replace(build, mates=(*build.mates, add)))


# --- a motion too many ---------------------------------------------------------------------


def _taking_away(
    freedom: Freedom,
    index: int,
    other: int,
    wanted: Sequence[Motion],
    features: tuple[Sequence[Feature], Sequence[Feature]],
) -> Mate | None:
    """Choose the mate that leaves just what is wanted; else the one that comes nearest without taking what is.

    Of several that do, one of features that meet comes first: faces on each other, holes in line.
    """
    length = float(freedom.system.lengths[index])
    twists, goal = freedom.relative_twists(index, other), space_of(wanted, length)
    best: tuple[int, bool, int, int] | None = None
    chosen = None
    for rank, mate in (*_candidates(freedom, index, other, features), *_screws(freedom, index, other, wanted)):
        rows = _rows(freedom, mate)
        left = scaled_span(twists @ _null(rows @ twists), length)
        if left.shape[1] == twists.shape[1] or not holds_space(left, goal):
            continue
        meets = mate.kind == "coaxial" or (mate.kind == "coincident" and mate.sense == "opposed")
        cost = (left.shape[1], not meets, len(rows), rank)
        if best is None or cost < best:
            best, chosen = cost, mate
    return chosen


def _candidates(
    freedom: Freedom, index: int, other: int, features: tuple[Sequence[Feature], Sequence[Feature]]
) -> Iterator[tuple[int, Mate]]:
    """Yield mates between existing features that hold as the build stands, with the place of their kind."""
    own, theirs = _used(freedom, index) + list(features[0]), _used(freedom, other) + list(features[1])
    for b in own:
        for a in theirs:
            for rank, kind in enumerate(_advised()):
                if not joins(kind.name, a, b):
                    continue
                mate = Mate(
                    id="proposed",
                    kind=kind.name,
                    a=other,
                    feature_a=a.moved(freedom.poses[other].inverse()),
                    b=index,
                    feature_b=b.moved(freedom.poses[index].inverse()),
                    value=kind.as_placed(a, b),
                    sense=_sense(a, b),
                )
                if _holds(freedom, mate):
                    yield rank, mate


def _screws(freedom: Freedom, index: int, other: int, wanted: Sequence[Motion]) -> Iterator[tuple[int, Mate]]:
    """Yield the screw joint about the axis of each screw motion that is wanted, as the two parts stand."""
    for motion in wanted:
        if motion.kind != "screw":
            continue
        frame = make_frame(motion.point, motion.direction, any_normal(motion.direction))
        yield (
            len(KINDS),
            Mate(
                id="proposed",
                kind="screw",
                a=other,
                feature_a=frame.moved(freedom.poses[other].inverse()),
                b=index,
                feature_b=frame.moved(freedom.poses[index].inverse()),
                pitch=motion.pitch,
            ),
        )


def _used(freedom: Freedom, index: int) -> list[Feature]:
    """List the features of an instance that mates use, in the world; a frame serves as its axis and its plane."""
    own: list[Feature] = []
    for mate in freedom.system.mates:
        for instance, feature in ((mate.a, mate.feature_a), (mate.b, mate.feature_b)):
            if instance != index:
                continue
            placed = feature.moved(freedom.poses[index])
            if isinstance(placed, FrameFeature):
                own += [AxisFeature(placed.point, placed.direction), PlaneFeature(placed.point, placed.direction)]
                own.append(PlaneFeature(placed.point, placed.x))
            else:
                own.append(placed)
    return own


def _sense(a: Feature, b: Feature) -> Sense:
    if isinstance(a, PlaneFeature) and isinstance(b, PlaneFeature):
        return "aligned" if a.normal @ b.normal > 0 else "opposed"
    return "either"


def _holds(freedom: Freedom, mate: Mate) -> bool:
    try:
        return freedom.system.residual(mate, freedom.poses).holds(freedom.system.tolerance)
    except RigidBenchError:  # this kind does not join these features
        return False


def _rows(freedom: Freedom, mate: Mate) -> _Array:
    """Return a mate's rows on the twist of b less that of a, about the world's origin, (k, 6)."""
    a, b = mate.feature_a.moved(freedom.poses[mate.a]), mate.feature_b.moved(freedom.poses[mate.b])
    lever = float(freedom.system.lengths[mate.b])
    return np.array(
        [
            np.concatenate([equation.angular * lever, np.zeros(3)])
            if equation.is_angular
            else np.concatenate([equation.angular + np.cross(equation.point, equation.linear), equation.linear])
            for equation in equations(mate, a, b)
        ]
    )


def _null(rows: _Array) -> _Array:
    _, sizes, right = np.linalg.svd(rows, full_matrices=True)
    free: _Array = right[int(np.sum(sizes > 1e-6)) :].T
    return free


# --- a motion too few ----------------------------------------------------------------------


def _given_back(freedom: Freedom, index: int, to: int | None, wanted: Sequence[Motion], advice: Advice) -> Advice:
    """Find the one mate to drop, or to loosen, so that the freedom is right."""
    build = freedom.system.build
    own = [mate for mate in build.mates if index in (mate.a, mate.b)]
    for mate in [*own, *(mate for mate in build.mates if mate not in own)]:
        without = replace(build, mates=tuple(candidate for candidate in build.mates if candidate is not mate))
        if _is_right(freedom, index, to, wanted, without):
            return replace(advice, drop=mate.id, build=without)
    for mate in own:
        for looser in _loosened(freedom, mate, wanted):
            loosened = replace(
                build, mates=tuple(looser if known_mate is mate else known_mate for known_mate in build.mates)
            )
            if _is_right(freedom, index, to, wanted, loosened):
                return replace(advice, loosen=(mate.id, looser.kind), build=loosened)
    return advice


def _is_right(free: Freedom, index: int, to: int | None, wanted: Sequence[Motion], build: Build) -> bool:
    other = freedom(build, tolerance=free.system.tolerance)
    length = float(free.system.lengths[index])
    return is_same_space(scaled_span(other.relative_twists(index, to), length), space_of(wanted, length))


def _loosened(freedom: Freedom, mate: Mate, wanted: Sequence[Motion]) -> Iterator[Mate]:
    """Yield looser kinds of a mate; joints turn about, or slide along, what is wanted."""
    for kind in KINDS[mate.kind].looser:
        if not joins(kind, mate.feature_a, mate.feature_b):
            continue
        yield replace(mate, kind=kind, value=None, offset=0.0, limits=None)
        if isinstance(mate.feature_a, FrameFeature):
            for motion in wanted:
                point = motion.point if motion.kind == "rotation" else freedom.poses[mate.a].position
                frame = make_frame(point, motion.direction, any_normal(motion.direction))
                a, b = (frame.moved(freedom.poses[k].inverse()) for k in (mate.a, mate.b))
                yield replace(mate, kind=kind, feature_a=a, feature_b=b, value=None, offset=0.0, sense="aligned")
