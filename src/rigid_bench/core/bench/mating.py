"""Mating two features on a bench: what they can do, and bringing the second part to the first."""

import math
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.assembly.freedom.analysis import freedom
from rigid_bench.core.assembly.mates.kind import Choice, MateKind, as_related, surfaces_pair
from rigid_bench.core.assembly.mates.registry import check_mate, choices
from rigid_bench.core.assembly.solve.solution import solve
from rigid_bench.core.bench.documents import BenchMate, BenchParts, BenchState, Placed, labels, side
from rigid_bench.core.bench.work import at_poses, bench_build, known, part_of
from rigid_bench.core.formats.build import Sense
from rigid_bench.core.values.datums import AxisFeature, Feature, PlaneFeature, make_frame
from rigid_bench.core.values.errors import FormRejected
from rigid_bench.core.values.frames import Pose, any_normal, unit
from rigid_bench.core.values.tolerance import Tolerance
from rigid_bench.core.wording.language import _, series, translated

_Array = NDArray[np.float64]
_OPPOSITE: dict[Sense, Sense] = {"opposed": "aligned", "aligned": "opposed"}
_QUARTER = math.pi / 2


@dataclass(frozen=True, slots=True, kw_only=True)
class MateRequest:
    """Two features, and what they are to do."""

    #: "instance:number", as `picked` reads them; the second comes to the first.
    a: str
    b: str
    #: The id of one of `applicable_mates`.
    doing: str
    #: Of a gap (mm), an angle (degrees), the place along a joint's axis or a pitch (mm).
    value: float | None = None
    #: The other way round.
    is_flipped: bool = False
    #: Quarter turns about the first feature's axis or normal, before they are mated.
    quarters: int = 0
    #: Least and greatest of a joint's turn (degrees) or travel (mm).
    limits: tuple[float, float] | None = None


def picked(state: BenchState, parts: BenchParts, text: str) -> tuple[Placed, Feature, str]:
    """Read "instance:number": the instance, its feature in its own coordinates, and the feature's words.

    Raises
    ------
    FormRejected
        There is no such feature.
    """
    name, _unused, number = text.rpartition(":")
    own = known(state, name)
    part = part_of(parts, own)
    if not number.isdecimal() or int(number) >= len(part.features):
        raise FormRejected(_("feature"), _("none was chosen"), _("Point at a face or hole of a part"))
    feature = part.features[int(number)]
    return own, feature.feature.feature(), feature.words


def applicable_mates(state: BenchState, parts: BenchParts, a: str, b: str) -> list[tuple[Choice, MateKind]]:
    """List what two features can do, the nearest as they stand first."""
    (one, first, _), (other, second, _) = picked(state, parts, a), picked(state, parts, b)
    if one.id == other.id:
        return []
    pair = surfaces_pair(first, second)
    near = _nearest(one, other, first, second)

    able = [(choice, kind) for choice, kind in choices().values() if pair in choice.places]
    # of two ways round, first the one that is nearer as the parts stand
    return sorted(able, key=lambda offered: (offered[0].places[pair], offered[0].sense != near))


def mate(state: BenchState, parts: BenchParts, request: MateRequest, *, tolerance: Tolerance) -> BenchState:
    """Mate two features and bring the second part there; a part that is held moves only where it must.

    Parameters
    ----------
    state, parts
        The bench.
    request
        The features, and what they are to do.
    tolerance
        Says when mates hold.

    Raises
    ------
    FormRejected, InvalidDocument
        The two cannot do this.
    """
    (one, first, words), (other, second, other_words) = picked(state, parts, request.a), picked(state, parts, request.b)
    able = {choice.id: (choice, kind) for choice, kind in applicable_mates(state, parts, request.a, request.b)}
    if request.doing not in able:
        known_choice = choices().get(request.doing)
        doing = f"'{translated(known_choice[0].words)}'" if known_choice else _("do that")
        raise FormRejected(
            _("mate"), _("these two cannot {doing}", doing=doing), _("Choose other features, or another mate")
        )
    choice, kind = able[request.doing]
    if request.limits is not None and not choice.limited:
        limited = series(translated(other.words) for other, _unused in choices().values() if other.limited)
        raise FormRejected(
            _("limits"),
            _("'{words}' has none", words=translated(choice.words)),
            _("Give them to: {limited}", limited=limited),
        )
    start = _turned(state, one, other, first, second, request)
    moved = start.instance(other.id) or other
    fields = _joint if choice.is_joint else _relation
    own = fields(choice, kind, one, moved, first, second, request)
    name = next_id(state)
    called = labels(state, parts)
    value = f" ({request.value:g})" if request.value is not None else ""
    shown = f"{translated(choice.words)}{value}: {called[other.id]}, {other_words}; {called[one.id]}, {words}"
    return with_mate(state, BenchMate(id=name, words=shown, **own), start=start, tolerance=tolerance)


def next_id(state: BenchState) -> str:
    """Return an id for one more mate."""
    taken = {mate.id for mate in state.mates}
    return next(f"m{k}" for k in range(1, len(taken) + 2) if f"m{k}" not in taken)


def _direction(own: Placed, feature: Feature) -> _Array:
    assert isinstance(feature, PlaneFeature | AxisFeature)
    return own.pose.direction(feature.direction)


def _nearest(one: Placed, other: Placed, first: Feature, second: Feature) -> Sense:
    return "opposed" if float(_direction(one, first) @ _direction(other, second)) < 0 else "aligned"


def _relation(
    choice: Choice, kind: MateKind, one: Placed, other: Placed, first: Feature, second: Feature, request: MateRequest
) -> dict[str, Any]:
    """Return the fields of a mate between two surfaces."""
    sense: Sense = choice.sense if surfaces_pair(first, second) == "flat-flat" else "either"
    if request.is_flipped:
        sense = _OPPOSITE[sense if sense != "either" else _nearest(one, other, first, second)]
    usual = {"": None, "mm": 0.0, "deg": 90.0}[kind.value_unit]
    return {
        "kind": kind.name, "sense": sense,
        "value": usual if request.value is None or usual is None else request.value,
        "a": side(one.id, as_related(first, kind)), "b": side(other.id, as_related(second, kind)),
    }  # fmt: skip


def _joint(
    choice: Choice, kind: MateKind, one: Placed, other: Placed, first: Feature, second: Feature, request: MateRequest
) -> dict[str, Any]:
    """Return the fields of a joint: its frames lie in the features, turned towards each other as the parts stand."""
    assert isinstance(first, PlaneFeature | AxisFeature)
    frame = make_frame(first.point, first.direction, any_normal(first.direction))
    sense = _nearest(one, other, first, second)
    if request.is_flipped and kind.name != "fixed":
        sense = _OPPOSITE[sense]
    # the least turn that brings the second's axis onto the first's, about the second's own point
    there = other.pose
    if kind.name != "fixed":
        z = _direction(one, first) * (1.0 if sense == "aligned" else -1.0)
        turn = _least_turn(_direction(other, second), z)
        there = Pose.about(turn, other.pose.point(second.point)) @ other.pose
    seen = there.inverse() @ one.pose
    x = seen.direction(frame.x)
    if kind.name == "fixed" or isinstance(first, PlaneFeature):
        # as they stand: the same place, seen from the other part
        other_frame = make_frame(seen.point(frame.point), seen.direction(frame.direction), x)
        sense = "aligned"
    else:
        other_frame = make_frame(second.point, second.direction, x)  # type: ignore[union-attr]  # an axis
    own: dict[str, Any] = {"kind": kind.name, "sense": sense}
    if kind.name == "revolute":
        along = float(_direction(one, first) @ (other.pose.point(second.point) - one.pose.point(first.point)))
        own["offset"] = round(along, 9) if request.value is None else request.value
    elif kind.name == "screw":
        if not request.value:
            raise FormRejected(
                _("pitch"), _("a screw needs one, mm in a turn"), _("Write it into the value: 0.8 for an M5")
            )
        own["pitch"] = request.value
    if request.limits is not None:
        own["limits"] = {choice.limited: list(request.limits)}
    return {**own, "a": side(one.id, frame), "b": side(other.id, other_frame)}


def _least_turn(start: _Array, end: _Array) -> _Array:
    """Return the least turn (3,) rad that brings one unit direction onto another."""
    axis = np.cross(start, end)
    size = float(np.linalg.norm(axis))
    angle = math.atan2(size, float(start @ end))
    turn: _Array = angle * (unit(axis) if size > 1e-12 else any_normal(start))
    return turn


def _turned(
    state: BenchState, one: Placed, other: Placed, first: Feature, second: Feature, request: MateRequest
) -> BenchState:
    """Turn the second part and what hangs on it by quarters, and over where it is fixed the other way round."""
    turns = [request.quarters % 4 * _QUARTER * _direction(one, first)]
    if request.is_flipped and request.doing == "fix-together":
        turns.append(math.pi * any_normal(_direction(one, first)))
    moving = _hangs_on(state, other.id, one.id)
    motion = Pose.identity()
    for turn in turns:
        motion = Pose.about(turn, other.pose.point(second.point)) @ motion
    poses = [motion @ instance.pose if instance.id in moving else instance.pose for instance in state.placed]
    return at_poses(state, poses) if moving else state


def with_mate(
    state: BenchState, made: BenchMate, *, tolerance: Tolerance, start: BenchState | None = None
) -> BenchState:
    """Add a mate, and move what must move so that all hold; where they cannot, nothing moves.

    Parameters
    ----------
    state
        The bench.
    made
        The mate, on instances that are placed.
    tolerance
        Says when mates hold.
    start
        The bench from which parts set out, if some were turned beforehand.

    Raises
    ------
    InvalidDocument
        The mate cannot be meant.
    """
    mates = [*state.mates, made]
    asked = (start or state).model_copy(update={"mates": mates})
    build = bench_build(asked)
    check_mate(build.mates[-1])
    for moving in (_hangs_on(state, made.b.instance, made.a.instance), _hangs_on(state, made.a.instance, "")):
        if moving and (placed := _brought(asked, moving, tolerance)) is not None:
            return asked.model_copy(update={"placed": placed})
    solution = solve(build, is_quick=True, tolerance=tolerance)
    return at_poses(asked, solution.poses) if solution.satisfied else state.model_copy(update={"mates": mates})


def _brought(asked: BenchState, moving: set[str], tolerance: Tolerance) -> list[Placed] | None:
    """Move only these instances until their mates hold, all others held; None where that cannot be."""
    mates = [mate for mate in asked.mates if {mate.a.instance, mate.b.instance} & moving]
    near = moving | {end for mate in mates for end in (mate.a.instance, mate.b.instance)}
    placed = [
        instance if instance.id in moving else instance.model_copy(update={"grounded": True})
        for instance in asked.placed
        if instance.id in near
    ]
    part = BenchState(placed=placed, mates=mates)
    solution = solve(bench_build(part), is_quick=True, tolerance=tolerance)
    if not solution.satisfied:
        return None
    arrived = {instance.id: instance for instance in at_poses(part, solution.poses).placed if instance.id in moving}
    return [arrived.get(instance.id, instance) for instance in asked.placed]


def conflicting_mates(state: BenchState, mate: BenchMate, *, tolerance: Tolerance) -> list[str]:
    """List the fewest mates of its two parts that a mate clashes with, or that hold already what it would.

    Parameters
    ----------
    state
        A bench on which the mate is the last one, and clashes or is redundant.
    mate
        The mate.
    tolerance
        Says when mates hold.
    """
    ends = {mate.a.instance, mate.b.instance}
    near = [
        candidate
        for candidate in state.mates
        if {candidate.a.instance, candidate.b.instance} & ends and candidate.id != mate.id
    ]
    placed = [
        instance.model_copy(update={"grounded": instance.grounded or instance.id not in ends})
        for instance in state.placed
    ]

    def is_met(others: list[BenchMate]) -> bool:
        build = bench_build(BenchState(placed=placed, mates=[*others, mate]))
        state = freedom(build, tolerance=tolerance)
        if mate.id in {conflict.mate for conflict in state.conflicts}:
            return not solve(build, is_quick=True, tolerance=tolerance).satisfied
        return mate.id in state.redundant_mates

    for known_mate in near[::-1]:  # leaving out one after the other, the last made first
        without = [own for own in near if own is not known_mate]
        if is_met(without):
            near = without
    return [known_mate.id for known_mate in near]


def _hangs_on(state: BenchState, start: str, without: str) -> set[str]:
    """Return the instances that are mated to one, directly or by others, not by way of a second; never the base."""
    grounded = {instance.id for instance in state.placed if instance.grounded}
    hanging, waiting = set[str](), [start]
    while waiting:
        own = waiting.pop()
        if own in hanging or own in grounded or own == without:
            continue
        hanging.add(own)
        for mate in state.mates:
            ends = (mate.a.instance, mate.b.instance)
            waiting += [end for end in ends if own in ends and end != own]
    return hanging
