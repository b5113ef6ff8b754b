"""What is likely done next on a bench: the axes that two parts could share besides, and the same in all like holes."""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.bench.documents import BenchMate, BenchParts, BenchState, Placed, labels
from rigid_bench.core.bench.mating import next_id
from rigid_bench.core.bench.work import answer, known, left_over, part_of, place
from rigid_bench.core.formats.build import OperandModel
from rigid_bench.core.formats.documents import FeatureModel, feature_document
from rigid_bench.core.values.datums import AxisFeature, CylinderFeature, FrameFeature
from rigid_bench.core.values.errors import FormRejected
from rigid_bench.core.values.frames import Pose
from rigid_bench.core.values.tolerance import Tolerance
from rigid_bench.core.wording.language import _

_Array = NDArray[np.float64]
#: mm of difference in radius at which a round part may be meant for a hole (common practice, no source).
_NEAR_MM = 0.5
#: mm and rad: in line, parallel.
_SAME_MM, _SAME_RAD = 1e-4, 1e-6
#: Axes that are offered at most.
_MOST = 6


@dataclass(frozen=True, slots=True, kw_only=True)
class LikelyMate:
    """Two round features that would share an axis: "instance:number" of each."""

    a: str
    b: str
    words: str


def likely_axes(
    state: BenchState, parts: BenchParts, one: str, other: str, *, tolerance: Tolerance
) -> list[LikelyMate]:
    """List the axes that two parts could share where they stand, those of the nearest sizes first.

    Parameters
    ----------
    state, parts
        The bench.
    one, other
        Two of its instances; the second would come to the first.
    tolerance
        For what is free.

    Returns
    -------
    list of LikelyMate
        Of parallel round walls of nearly one size that are not yet in line, no round in a smaller hole; empty where
        nothing is free between the two.
    """
    first, second = known(state, one), known(state, other)
    freedom = answer(state, tolerance=tolerance).freedom
    places = {own.id: k for k, own in enumerate(state.placed)}
    if not freedom.relative_twists(places[other], places[one]).shape[1]:
        return []
    offered = []
    called = labels(state, parts)
    for a, wall, words, is_hollow in _round(parts, first):
        for b, other_wall, other_words, is_other_hollow in _round(parts, second):
            across = _across(wall, other_wall)
            room = (wall.radius - other_wall.radius) * (1 if is_hollow else -1)
            is_fit = is_hollow != is_other_hollow
            if across is None or across < _SAME_MM or abs(room) > _NEAR_MM or (is_fit and room < -_SAME_MM):
                continue
            if not (is_hollow or is_other_hollow):
                continue  # two that stand out are hardly put in line
            text = f"{called[other]}, {other_words}; {called[one]}, {words}"
            near = (not is_fit, round(abs(room), 6), round(across, 6))
            offered.append((near, LikelyMate(a=f"{one}:{a}", b=f"{other}:{b}", words=text)))
    return [mate for _, mate in sorted(offered, key=lambda pair: pair[0])][:_MOST]


def _round(parts: BenchParts, own: Placed) -> Iterator[tuple[int, CylinderFeature, str, bool | None]]:
    """Yield the round walls of an instance in the world, each with its number, words and whether it opens inwards."""
    for number, feature in enumerate(part_of(parts, own).features):
        wall = feature.feature.feature()
        if isinstance(wall, CylinderFeature):
            yield number, wall.moved(own.pose), feature.words, feature.is_hollow


def _across(one: CylinderFeature, other: CylinderFeature) -> float | None:
    """Return how far two axes are apart, mm; None where they are not parallel."""
    if float(np.linalg.norm(np.cross(one.direction, other.direction))) > _SAME_RAD:
        return None
    return float(np.linalg.norm(np.cross(other.point - one.point, one.direction)))


def like_places(state: BenchState, parts: BenchParts, name: str) -> list[_Array]:
    """Return by how much copies of an instance would be moved to stand in like holes, (3,) mm in the world each.

    A like hole is a round wall of the same part, of the same size and level and parallel to the one that the instance
    shares its axis with, in which nothing stands yet.
    """
    own = known(state, name)
    mates = [mate for mate in state.mates if name in (mate.a.instance, mate.b.instance)]
    holders = {mate.a.instance if mate.b.instance == name else mate.b.instance for mate in mates}
    if len(holders) != 1 or not left_over(state, parts).get(own.part):
        return []
    holder = known(state, holders.pop())
    walls = [wall for _, wall, _, _ in _round(parts, holder)]
    used = _axis_in_use(state, mates, holder)
    if used is None:
        return []
    mine = min((wall for wall in walls if _is_in_line(wall, used)), key=lambda wall: wall.radius, default=None)
    if mine is None:
        return []
    taken = [other.pose.position for other in state.placed if other.part == own.part]
    shifts = [wall.point - mine.point for wall in walls if wall is not mine and _is_alike(wall, mine)]
    free = [shift for shift in shifts if not any(_is_near(own.pose.position + shift, place) for place in taken)]
    return free[: left_over(state, parts)[own.part]]


def _axis_in_use(state: BenchState, mates: list[BenchMate], holder: Placed) -> CylinderFeature | None:
    """Return the holder's axis, in the world, that a mate has put in line with one of the instance's."""
    for mate in mates:
        ours, theirs = (mate.b, mate.a) if mate.a.instance == holder.id else (mate.a, mate.b)
        one, other = _axis_of(state, theirs), _axis_of(state, ours)
        if one is not None and other is not None and _is_in_line(one, other):
            return one
    return None


def _axis_of(state: BenchState, side: OperandModel) -> CylinderFeature | None:
    """Return the axis of one side of a mate in the world; None where it has none."""
    feature = FeatureModel.model_validate(side.model_dump(exclude={"instance"})).feature()
    if not isinstance(feature, AxisFeature | CylinderFeature | FrameFeature):
        return None
    return CylinderFeature(feature.point, feature.direction, 1.0).moved(known(state, side.instance).pose)


def _is_in_line(wall: CylinderFeature, axis: CylinderFeature) -> bool:
    across = _across(wall, axis)
    return across is not None and across < _SAME_MM


def _is_alike(wall: CylinderFeature, mine: CylinderFeature) -> bool:
    """Say whether a wall is as large as another, parallel to it, level with it and beside it."""
    across = _across(wall, mine)
    level = abs(float((wall.point - mine.point) @ mine.direction))
    return across is not None and across > _SAME_MM and abs(wall.radius - mine.radius) < _SAME_MM and level < _SAME_MM


def _is_near(place: _Array, other: _Array) -> bool:
    return bool(np.linalg.norm(place - other) < _SAME_MM)


def likewise(state: BenchState, parts: BenchParts, name: str) -> BenchState:
    """Put copies of an instance into all like holes, mated as it is.

    Raises
    ------
    FormRejected
        There is no like hole, or no copy is left.
    """
    own = known(state, name)
    shifts = like_places(state, parts, name)
    if not shifts:
        raise FormRejected(_("part"), _("there is no like hole left, or no more of it"), _("Bring it in and mate it"))
    mates = [mate for mate in state.mates if name in (mate.a.instance, mate.b.instance)]
    for shift in shifts:
        state = place(state, parts, own.part)
        new = state.placed[-1].model_copy(
            update={"position": (own.pose.position + shift).tolist(), "quaternion": own.quaternion}
        )
        state = state.model_copy(update={"placed": [*state.placed[:-1], new]})
        for mate in mates:
            made = _moved(state, mate, name, new.id, shift).model_copy(update={"id": next_id(state)})
            state = state.model_copy(update={"mates": [*state.mates, made]})
    return state


def _moved(state: BenchState, mate: BenchMate, name: str, copy: str, shift: _Array) -> BenchMate:
    """Return a mate of an instance as its copy has it: on the other part it is moved along."""
    sides = {}
    for key in ("a", "b"):
        side = getattr(mate, key)
        if side.instance == name:
            sides[key] = side.model_copy(update={"instance": copy})
            continue
        holder = known(state, side.instance)
        within = holder.pose.inverse().direction(shift)
        sides[key] = side.model_copy(update=_shifted(side.model_dump(exclude={"instance"}, exclude_none=True), within))
    return mate.model_copy(update={**sides, "words": _("{words} (likewise)", words=mate.words)})


def _shifted(feature: dict[str, dict[str, list[float]]], shift: _Array) -> dict[str, FeatureModel]:
    """Return the fields of a feature moved in its part's coordinates."""
    moved = FeatureModel.model_validate(feature).feature().moved(Pose(np.eye(3), shift))
    model = FeatureModel.model_validate(feature_document(moved))
    return {name: value for name in type(model).model_fields if (value := getattr(model, name)) is not None}
