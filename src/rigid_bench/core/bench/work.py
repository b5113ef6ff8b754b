"""What a student does on a bench: place, ground, mate, take away, drag, nudge. Each gives the state after it."""

import json
import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.assembly.build import Build, Instance, Sense, make_mate
from rigid_bench.core.assembly.freedom import Freedom, freedom
from rigid_bench.core.assembly.mates import check_mate
from rigid_bench.core.assembly.motions import Motion
from rigid_bench.core.assembly.solution import solve
from rigid_bench.core.assembly.solve import settle
from rigid_bench.core.assembly.states import State, state_of
from rigid_bench.core.assembly.travel import follow, is_beyond_limits
from rigid_bench.core.bench.documents import BenchMate, BenchPart, BenchParts, BenchState, Placed, side
from rigid_bench.core.errors import FormRejected
from rigid_bench.core.exercise.new_checks import DOING, as_related
from rigid_bench.core.feature import AxisFeature, Feature, PlaneFeature
from rigid_bench.core.frames import Pose
from rigid_bench.core.grading.wording import motions_words
from rigid_bench.core.tolerance import Tolerance

_Array = NDArray[np.float64]
#: mm between a part that is brought in and what stands there.
_ROOM = 10.0
#: Steps of a drag: how much of the way a point goes in one, and how many there are at most.
_PULL, _PULLS = 0.3, 30
#: mm: near enough to the hand.
_THERE_MM = 0.05
#: How far a nudge goes: rad, and mm as a share of the part's size.
_NUDGE_RAD, _NUDGE = math.radians(40), 0.35
_OPPOSITE: dict[Sense, Sense] = {"opposed": "aligned", "aligned": "opposed"}


def bench_build(state: BenchState) -> Build:
    """Return a bench as a build, without the parts' geometry.

    Raises
    ------
    FormRejected
        Nothing is placed yet.
    """
    if not state.placed:
        raise FormRejected("bench", "no part is placed yet", "Bring in the base first")
    places = {each.id: k for k, each in enumerate(state.placed)}
    return Build(
        parts=(),
        instances=tuple(
            Instance(id=each.id, part=each.part, grounded=each.grounded, pose=each.pose) for each in state.placed
        ),
        mates=tuple(make_mate(each, 1.0, places, f"bench, mate '{each.id}'") for each in state.mates),
    )


def left_over(state: BenchState, parts: BenchParts) -> dict[str, int]:
    """Return how many of each part still lie beside the bench."""
    used = [each.part for each in state.placed]
    return {each.id: max(0, each.count - used.count(each.id)) for each in parts.parts}


def place(state: BenchState, parts: BenchParts, part: str) -> BenchState:
    """Bring in a part, apart from what stands there."""
    own = next((each for each in parts.parts if each.id == part), None)
    if own is None or (left_over(state, parts)[part] == 0):
        raise FormRejected("part", "none of it is left beside the bench", "Choose another part")
    numbers = [each.id for each in state.placed]
    name = next(f"{part}-{k}" for k in range(1, len(numbers) + 2) if f"{part}-{k}" not in numbers)
    at = [0.0, 0.0, 0.0]
    if state.placed:
        at[0] = _right_end(state, parts) + _ROOM - own.box[0][0]
    return state.model_copy(update={"placed": [*state.placed, Placed(id=name, part=part, position=at)]})


def _right_end(state: BenchState, parts: BenchParts) -> float:
    """Return how far to the right what is placed reaches, mm."""
    boxes = {each.id: np.array(each.box) for each in parts.parts}
    ends = []
    for each in state.placed:
        low, high = boxes[each.part]
        corners = np.array([[x, y, z] for x in (low[0], high[0]) for y in (low[1], high[1]) for z in (low[2], high[2])])
        ends.append(float(each.pose.point(corners)[:, 0].max()))
    return max(ends)


def take_away(state: BenchState, name: str) -> BenchState:
    """Put a part back beside the bench, with its mates."""
    _known(state, name)
    mates = [each for each in state.mates if name not in (each.a.instance, each.b.instance)]
    return BenchState(placed=[each for each in state.placed if each.id != name], mates=mates)


def ground(state: BenchState, name: str) -> BenchState:
    """Make a part the base; the base itself is let go."""
    chosen = _known(state, name)
    placed = [each.model_copy(update={"grounded": each.id == name and not chosen.grounded}) for each in state.placed]
    return state.model_copy(update={"placed": placed})


def _known(state: BenchState, name: str) -> Placed:
    found = state.instance(name)
    if found is None:
        raise FormRejected("part", f"there is no '{name[:40]}' on the bench", "Choose one that is placed")
    return found


def picked(state: BenchState, parts: BenchParts, text: str) -> tuple[Placed, Feature, str]:
    """Read "instance:number": the instance, its feature in its own coordinates, and the feature's words."""
    name, _, number = text.rpartition(":")
    own = _known(state, name)
    part = _part_of(parts, own)
    if not number.isdecimal() or int(number) >= len(part.features):
        raise FormRejected("feature", "none was chosen", "Point at a face or hole of a part")
    feature = part.features[int(number)]
    return own, feature.feature.feature(), feature.words


def _part_of(parts: BenchParts, own: Placed) -> BenchPart:
    return next(each for each in parts.parts if each.id == own.part)


def can_do(state: BenchState, parts: BenchParts, a: str, b: str) -> list[str]:
    """List what two features can do, the nearest as they stand first."""
    (one, first, _), (other, second, _) = picked(state, parts, a), picked(state, parts, b)
    if one.id == other.id:
        return []
    flats = [isinstance(each, PlaneFeature) for each in (first, second)]
    if all(flats):
        against = float(_direction(one, first) @ _direction(other, second)) <= 0
        faces = ["faces meet", "faces level"] if against else ["faces level", "faces meet"]
        return [*faces, "keep a gap", "run along each other", "stand square", "at an angle"]
    if not any(flats):
        return ["share an axis", "run along each other", "touch all along", "stand square", "keep a gap", "at an angle"]
    return ["touch all along", "run along each other", "stand square", "keep a gap"]


def _direction(own: Placed, feature: Feature) -> _Array:
    assert isinstance(feature, PlaneFeature | AxisFeature)
    return own.pose.direction(feature.direction)


def mate(
    state: BenchState,
    parts: BenchParts,
    *,
    a: str,
    b: str,
    doing: str,
    value: float | None = None,
    flipped: bool = False,
    tolerance: Tolerance,
) -> BenchState:
    """Mate two features and bring the second part there; a part that is held moves only where it must.

    Parameters
    ----------
    state, parts
        The bench.
    a, b
        "instance:number", as `picked` reads them.
    doing
        One of `can_do`.
    value
        Of a gap (mm) or an angle (degrees); 0 or 90 without one.
    flipped
        The other way round.
    tolerance
        Says when mates hold.

    Raises
    ------
    FormRejected, InvalidDocument
        The two cannot do this.
    """
    (one, first, words), (other, second, other_words) = picked(state, parts, a), picked(state, parts, b)
    if doing not in can_do(state, parts, a, b):
        raise FormRejected("mate", f"these two cannot {doing}", "Choose other features, or another mate")
    kind, usual = DOING[doing]
    flats = all(isinstance(each, PlaneFeature) for each in (first, second))
    nearest: Sense = "opposed" if float(_direction(one, first) @ _direction(other, second)) < 0 else "aligned"
    sense: Sense = "aligned" if usual == "aligned" else "opposed" if flats and usual == "opposed" else "either"
    if flipped:
        sense = _OPPOSITE[sense if sense != "either" else nearest]
    if kind in ("distance", "angle") and value is None:
        value = 0.0 if kind == "distance" else 90.0
    names = {each.id for each in state.mates}
    name = next(f"m{k}" for k in range(1, len(names) + 2) if f"m{k}" not in names)
    shown = f"{doing}{f' ({value:g})' if value is not None else ''}: {other.id}, {other_words}; {one.id}, {words}"
    made = BenchMate(
        id=name, kind=kind, sense=sense, value=value, words=shown,
        a=side(one.id, as_related(first, kind)), b=side(other.id, as_related(second, kind)),
    )  # fmt: skip
    return with_mate(state, made, tolerance=tolerance)


def with_mate(state: BenchState, made: BenchMate, *, tolerance: Tolerance) -> BenchState:
    """Add a mate, and move what must move so that all hold; where they cannot, nothing moves."""
    asked = state.model_copy(update={"mates": [*state.mates, made]})
    build = bench_build(asked)
    check_mate(build.mates[-1])
    for moving in (_hangs_on(state, made.b.instance, made.a.instance), _hangs_on(state, made.a.instance, "")):
        if moving and (placed := _brought(asked, moving, tolerance)) is not None:
            return asked.model_copy(update={"placed": placed})
    found = solve(build, tolerance=tolerance)
    return _at(asked, found.poses) if found.satisfied else asked


def _brought(asked: BenchState, moving: set[str], tolerance: Tolerance) -> list[Placed] | None:
    """Move only these instances until their mates hold, all others held; None where that cannot be."""
    mates = [each for each in asked.mates if {each.a.instance, each.b.instance} & moving]
    near = moving | {end for each in mates for end in (each.a.instance, each.b.instance)}
    placed = [
        each if each.id in moving else each.model_copy(update={"grounded": True})
        for each in asked.placed
        if each.id in near
    ]
    part = BenchState(placed=placed, mates=mates)
    found = solve(bench_build(part), tolerance=tolerance)
    if not found.satisfied:
        return None
    arrived = {each.id: each for each in _at(part, found.poses).placed if each.id in moving}
    return [arrived.get(each.id, each) for each in asked.placed]


def _hangs_on(state: BenchState, start: str, without: str) -> set[str]:
    """Return the instances that are mated to one, directly or by others, not by way of a second; never the base."""
    grounded = {each.id for each in state.placed if each.grounded}
    found, waiting = set[str](), [start]
    while waiting:
        own = waiting.pop()
        if own in found or own in grounded or own == without:
            continue
        found.add(own)
        for each in state.mates:
            ends = (each.a.instance, each.b.instance)
            waiting += [end for end in ends if own in ends and end != own]
    return found


def _at(state: BenchState, poses: Sequence[Pose]) -> BenchState:
    placed = [
        each.model_copy(
            update={
                "position": np.round(pose.position, 9).tolist(),
                "quaternion": np.round(pose.quaternion(), 12).tolist(),
            }
        )
        for each, pose in zip(state.placed, poses, strict=True)
    ]
    return state.model_copy(update={"placed": placed})


def unmate(state: BenchState, name: str) -> BenchState:
    """Take a mate away; nothing moves."""
    mates = [each for each in state.mates if each.id != name]
    if len(mates) == len(state.mates):
        raise FormRejected("mate", f"there is no mate '{name[:40]}'", "Choose one of the list")
    return state.model_copy(update={"mates": mates})


@dataclass(frozen=True, slots=True, kw_only=True)
class Standing:
    """How one instance stands."""

    state: State
    #: Its independent motions relative to the ground; without a base, to the others' common rest.
    degrees: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Answer:
    """What the mates of a bench leave free."""

    found: Freedom
    mobility: int
    instances: dict[str, Standing]
    redundant: tuple[str, ...]
    clashing: tuple[str, ...]

    def motions(self, name: str) -> list[Motion]:
        """Return the motions of one instance."""
        index = next(k for k, each in enumerate(self.found.system.build.instances) if each.id == name)
        return self.found.motions(index)


def answer(state: BenchState, *, tolerance: Tolerance) -> Answer:
    """Work out what is still free on a bench."""
    build = bench_build(state)
    found = freedom(build, tolerance=tolerance)
    standings = {
        each.id: Standing(state=state_of(found, k, found.degrees(k)), degrees=found.degrees(k))
        for k, each in enumerate(build.instances)
    }
    return Answer(
        found=found,
        mobility=found.mobility,
        instances=standings,
        redundant=found.redundant_mates,
        clashing=tuple(each.mate for each in found.conflicts),
    )


def apart(state: BenchState, parts: BenchParts) -> dict[str, list[float]]:
    """Say how far each part goes, and whither, when the build is drawn apart: along its mates, the carried with it.

    Returns
    -------
    dict of str to list of float
        (3,) mm in the world, for all the way.
    """
    boxes = {each.id: np.array(each.box) for each in parts.parts}
    names = [each.id for each in state.placed]
    own = {each.id: each for each in state.placed}
    base = next((each.id for each in state.placed if each.grounded), names[0] if names else "")
    found: dict[str, _Array] = {base: np.zeros(3)} if base else {}
    waiting = [base] if base else []
    while waiting:
        carrier = waiting.pop(0)
        for each in state.mates:
            ends = (each.a, each.b) if each.a.instance == carrier else (each.b, each.a)
            if ends[0].instance != carrier or ends[1].instance in found:
                continue
            name = ends[1].instance
            way = _way_out(own[carrier], own[name], ends[0].feature(), boxes)
            size = boxes[own[name].part]
            found[name] = found[carrier] + way * 1.2 * float(
                np.abs(own[name].pose.direction(size[1] - size[0])) @ np.abs(way)
            )
            waiting.append(name)
    return {name: np.round(found.get(name, np.zeros(3)), 3).tolist() for name in names}


def _way_out(carrier: Placed, own: Placed, feature: Feature, boxes: Mapping[str, _Array]) -> _Array:
    """Return the unit way along a mate's axis or normal in which a part lies off its carrier."""
    direction = getattr(feature, "direction", np.array([0.0, 0.0, 1.0]))
    way: _Array = carrier.pose.direction(direction)
    middles = [each.pose.point(boxes[each.part].mean(axis=0)) for each in (carrier, own)]
    return way if float((middles[1] - middles[0]) @ way) >= 0 else -way


def difference_words(name: str, before: list[Motion] | None, after: list[Motion]) -> str:
    """Say what a mate did to a part, in a sentence.

    Examples
    --------
    >>> difference_words("Drawer", None, [])
    'Drawer: nothing can move.'
    """
    now = motions_words(after)
    if before is None or len(before) == len(after):
        return f"{name}: {now}."
    was = "it could move in all six ways" if len(before) == 6 else f"it {motions_words(before).replace('can', 'could')}"
    return f"{name}: {was}; now it {now}." if after else f"{name}: {was}; now nothing can move."


def drag(
    state: BenchState,
    name: str,
    *,
    start: Sequence[float],
    end: Sequence[float],
    tolerance: Tolerance,
) -> BenchState:
    """Pull a point of a part towards a place, as far as what is free and its joints' limits let it; the others follow.

    Parameters
    ----------
    state
        The bench.
    name
        The instance that is pulled.
    start, end
        (3,) mm in the world: where the point is, and where the hand is.
    tolerance
        Says when mates hold.
    """
    _known(state, name)
    build = bench_build(state)
    index = next(k for k, each in enumerate(build.instances) if each.id == name)
    found = freedom(build, tolerance=tolerance)
    if found.conflicts or found.degrees(index) == 0:
        return state
    here = build.instances[index].pose.inverse().point(start)
    aim, poses = np.array(end, dtype=float), list(found.poses)
    for _ in range(_PULLS):
        point = poses[index].point(here)
        pull = aim - point
        away = float(np.linalg.norm(pull))
        if away < _THERE_MM:
            break
        velocity = found.velocity_towards(index, point, _PULL * pull)
        arrived, error = settle(found.system, found.system.stepped(poses, velocity))
        is_nearer = float(np.linalg.norm(arrived[index].point(here) - aim)) < away - 1e-6
        if error > 1e-6 or not is_nearer or is_beyond_limits(found.system, arrived, poses):
            break
        poses = arrived
        found = found.at(poses)
    return _at(state, poses)


def nudge(state: BenchState, parts: BenchParts, name: str, motion: int, *, tolerance: Tolerance) -> list[BenchState]:
    """Play one of the motions that are left: out and back, a state for each picture."""
    found = answer(state, tolerance=tolerance)
    motions = found.motions(name)
    if not 0 <= motion < len(motions):
        raise FormRejected("motion", "it is not there any more", "Look what is free now")
    index = next(k for k, each in enumerate(state.placed) if each.id == name)
    own = motions[motion]
    box = np.array(_part_of(parts, state.placed[index]).box)
    most = _NUDGE_RAD if own.kind == "rotation" else _NUDGE * float(np.linalg.norm(box[1] - box[0]))
    out = [_at(state, poses) for poses in _along(found.found, own, index, most)]
    return [*out, *out[::-1], state]


def _along(found: Freedom, motion: Motion, index: int, most: float) -> Iterator[list[Pose]]:
    for step in follow(found, motion, index, None):
        yield step.poses
        if step.amount > most:
            return


def build_bytes(state: BenchState, parts: BenchParts, *, source: str = "") -> bytes:
    """Write the build file of what the bench holds."""
    return json.dumps(state.build_document(parts, source=source), indent=1).encode()


#: What carries a part, the kind of joint between them, and its axis (point and direction in the world, mm) or None.
Joint = tuple[str, str, tuple[_Array, _Array] | None]


def joints_of(state: BenchState, *, tolerance: Tolerance) -> dict[str, Joint]:
    """Say for each part what carries it, and by which one joint: a tree from the base on.

    A part that may do more than one thing is given as floating; so are parts that nothing carries.
    """
    found = answer(state, tolerance=tolerance).found
    names = [each.id for each in state.placed]
    base = next((each.id for each in state.placed if each.grounded), names[0])
    carried, waiting, joints = {base}, [base], dict[str, Joint]()
    while waiting:
        own = waiting.pop(0)
        for each in state.mates:
            ends = (each.a.instance, each.b.instance)
            if own not in ends or ends[0] == ends[1]:
                continue
            other = ends[1] if ends[0] == own else ends[0]
            if other in carried:
                continue
            carried.add(other)
            waiting.append(other)
            joints[other] = (own, *_joint(found.motions(names.index(other), names.index(own))))
    for name in names:
        if name not in carried:
            joints[name] = (base, "floating", None)
    return joints


def _joint(motions: Sequence[Motion]) -> tuple[str, tuple[_Array, _Array] | None]:
    if not motions:
        return "fixed", None
    if len(motions) == 1 and motions[0].kind == "rotation":
        return "continuous", (motions[0].point, motions[0].direction)
    if len(motions) == 1 and motions[0].kind == "translation":
        return "prismatic", (motions[0].point, motions[0].direction)
    return "floating", None
