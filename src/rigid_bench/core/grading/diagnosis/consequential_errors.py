"""One slip, one message: checks that fall for the same reason are gathered under the first of them.

Those that follow keep their verdict and, by the exercise's default, their marks; they say
what they follow from.
"""

from collections.abc import Collection, Mapping, Sequence
from typing import Any, Final

from rigid_bench.core.exercise.bundle import CheckModel, ExerciseModel
from rigid_bench.core.formats.documents import CheckedFeature, nested
from rigid_bench.core.formats.message import Message, phrase
from rigid_bench.core.grading.diagnosis.causes import DIAMETERS, RADII
from rigid_bench.core.grading.diagnosis.missing_faces import ends_a_wall
from rigid_bench.core.grading.report.models import Cause, CheckResult
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.values.datums import AxisFeature, Feature
from rigid_bench.core.values.tolerance import Tolerance

#: The cause of a part that stands where it was drawn.
LEFT_AT_ORIGIN: Final = "left-at-origin"
#: Causes that, found more than once on a part, are one slip of the whole part.
_OF_THE_PART = {"inch-for-mm", "mm-for-inch", "decimal-point", "unit-of-part", "mirrored"}
#: Causes of a count that another row of the same holes tells, too.
_OF_ITS_FEATURE = {"holes-of-other-size", "wrong-count"}
#: Causes that one value gives away, without any other size of the part.
_OF_ITS_VALUE = {
    "radius-for-diameter",
    "diameter-for-radius",
    "half",
    "double",
    "through",
    "not-through",
    *_OF_THE_PART,
}
#: Causes that are no matter of one row: the code of what is to be put right.
_WHAT = {
    "unit-of-part": "root.unit",
    "merged": "root.merged",
    "part-missing": "root.missing",
    LEFT_AT_ORIGIN: "root.left-at-origin",
}
#: Causes of a part that moves more, and less, than it should: the whole build does so, too.
_MOVES_MORE = {"nothing-grounded", "placed-not-held", "mate-short", "duplicate", LEFT_AT_ORIGIN}
_MOVES_LESS = {"fixed-where-it-should-move", "mate-too-many", "over-held"}
#: Causes by which there is nothing that could earn marks.
_NOTHING_THERE = {"merged", "part-missing"}
#: Measures that every wrong size of a part changes.
_OF_THE_WHOLE = {"volume", "mass", "area", "likeness", "centre_of_mass"}
#: A flat and a wall's axis run along each other; and touch, in the exercise's unit.
_PARALLEL, _TOUCHING = 1e-6, 1e-3
#: How much of one wrong size another may be off by.
_SHARES = (1.0, 0.5, 2.0)


def mark_consequences(
    results: Sequence[CheckResult],
    exercise: ExerciseModel,
    *,
    spreading: Collection[str],
    whole: Collection[str],
    references: Mapping[str, PartFeatures],
    mm: float,
    tolerance: Tolerance,
) -> list[CheckResult]:
    """Say each slip once.

    Parameters
    ----------
    results
        In the order of the exercise.
    exercise
        Its checks, and whether those that follow lose marks.
    spreading
        Kinds of check in which a slip may be the reason for other rows of the same part.
    whole
        Kinds of check that fall with any wrong size of their part.
    references
        The parts of the exercise that have a model.
    mm
        Millimetres in the exercise's unit.
    tolerance
        Its `model_mm` is how closely one size must explain another.

    Returns
    -------
    list of CheckResult
        In the same order.
    """
    checks = {check.id: check for check in exercise.checks}
    of_whole = {check.id for check in exercise.checks if _is_of_whole(check, whole)}
    of_parts = [result for result in results if result.kind in spreading]
    roots: dict[str, str] = {}
    for result in results:
        root = _turned(result, of_parts, checks, references, mm)
        root = root or _root(result, results, of_parts, of_whole, checks, tolerance.model_mm / mm)
        while root in roots:
            root = roots[root]
        if root and root != result.id:
            roots[result.id] = root
    titles = {result.id: result.title for result in results}
    slips: dict[str, Message | str] = titles | {
        result.id: phrase(_WHAT[result.cause.code]) for result in results if result.cause and result.cause.code in _WHAT
    }
    codes = {result.id: result.cause.code if result.cause else "" for result in results}
    led = {
        root: [titles[follower] for follower, other in roots.items() if other == root] for root in set(roots.values())
    }
    return [
        _following(
            result,
            roots[result.id],
            slips[roots[result.id]],
            is_excused=_is_excused(result, codes[roots[result.id]], exercise, checks),
        )
        if result.id in roots
        else result.model_copy(update={"leads_to": led.get(result.id, [])})
        for result in results
    ]


def _following(result: CheckResult, root: str, slip: Message | str, *, is_excused: bool) -> CheckResult:
    return result.model_copy(
        update={
            "follows": root,
            "awarded": result.available if is_excused else result.awarded,
            "cause": Cause(code="follows", message=phrase("cause.follows", slip=slip), root=root),
            "next_step_message": phrase("step.put-right-first", slip=slip),
        }
    )


def _is_excused(result: CheckResult, root: str, exercise: ExerciseModel, checks: dict[str, CheckModel]) -> bool:
    """Say whether a row that follows keeps its marks: not those of a part that is missing or was never put in place.

    Nor do the sizes of one that went in another: a part that was joined with another has no sizes to earn any, and
    stands where it should all the same. `root` is the cause that it follows from.
    """
    code = result.cause.code if result.cause else ""
    is_gone = (
        root == LEFT_AT_ORIGIN
        or code in ("part-missing", LEFT_AT_ORIGIN)
        or (code == "merged" and "part" in checks[result.id].fields)
    )
    return exercise.slips == "first only" and not is_gone


def _root(
    result: CheckResult,
    results: Sequence[CheckResult],
    of_parts: Sequence[CheckResult],
    of_whole: Collection[str],
    checks: dict[str, CheckModel],
    window: float,
) -> str:
    """Return the first check that fell for the same reason, the check itself, or "" where there is none."""
    if result.verdict not in ("missed", "near"):
        return ""
    if result.cause and result.cause.root:
        return result.cause.root
    if result.cause and result.cause.code in _NOTHING_THERE:
        same = [candidate for candidate in results if candidate.cause and candidate.cause.code == result.cause.code]
        # the row of all parts tells it, where there is one
        return min(same, key=lambda known_result: known_result.kind != "parts").id
    if result.cause and result.cause.code in ("motion-too-many", "motion-too-few"):
        reasons = _MOVES_MORE if result.cause.code == "motion-too-many" else _MOVES_LESS
        return next((other.id for other in results if other.cause and other.cause.code in reasons), result.id)
    is_whole = result.id in of_whole
    before = [
        candidate
        for candidate in _same_part(result, of_parts, checks, is_whole=is_whole)
        if candidate.verdict in ("missed", "near")
    ]
    if result.cause and result.cause.code in _OF_THE_PART:
        return next(
            (candidate.id for candidate in before if candidate.cause and candidate.cause.code == result.cause.code),
            result.id,
        )
    if is_whole:
        # a wrong size first; without one, the first of the rows that see the whole part
        sizes = [candidate.id for candidate in before if candidate.id not in of_whole]
        part = checks[result.id].fields.get("part")
        alike = [
            candidate.id
            for candidate in results
            if candidate.id in of_whole and checks[candidate.id].fields.get("part") == part
        ]
        fallen = {candidate.id for candidate in results if candidate.verdict in ("missed", "near")}
        return next(iter([*sizes, *(name for name in alike if name in fallen)]), result.id)
    if result.cause and result.cause.code in _OF_ITS_FEATURE:
        return next((candidate.id for candidate in before if _is_of_its_feature(candidate, result, checks)), result.id)
    if result.cause and result.cause.code == "feature-extra":
        return next((candidate.id for candidate in before if _counts_too_many(candidate)), result.id)
    if result.cause and result.cause.code == "feature-missing":
        lacking = [other.id for other in before if _is_same_missing(other, result, checks)]
        counts = [other.id for other in before if _counts_it(other, result, checks)]
        return next(iter([*lacking, *counts]), result.id)
    if result.difference:
        # what is off by just as much has one reason, whatever else may explain it; by half or twice as much, only what
        # has no cause that its own value alone gives away
        shares = _SHARES[:1] if result.cause and result.cause.code in _OF_ITS_VALUE else _SHARES
        return next(
            (candidate.id for candidate in before if _explains(candidate, result, checks, window, shares)), result.id
        )
    return result.id


def _turned(
    result: CheckResult,
    of_parts: Sequence[CheckResult],
    checks: dict[str, CheckModel],
    references: Mapping[str, PartFeatures],
    mm: float,
) -> str:
    """Return the wrong size across by which a step or ring is missing that a row looks for; "" where there is none."""
    part = str(checks[result.id].fields.get("part"))
    if result.cause is None or result.cause.code != "feature-missing" or part not in references:
        return ""
    sought = _named(checks[result.id], mm)
    for other in _same_part(result, of_parts, checks, is_whole=True):
        walls = wrong_walls(other, checks[other.id], mm)
        if any(ends_a_wall(references[part], wall, sought, where=result.id) for wall in walls):
            return other.id
    return ""


def wrong_walls(result: CheckResult, check: CheckModel, mm: float) -> list[AxisFeature]:
    """Return the round walls of which a row says that they are too wide or too narrow."""
    is_across = check.kind == "dimension" and check.fields.get("measure") in ("diameter", "radius")
    if result.verdict != "missed" or not result.difference or not is_across:
        return []
    return [feature for feature in _named(check, mm) if isinstance(feature, AxisFeature)]


def _named(check: CheckModel, mm: float) -> list[Feature]:
    return [CheckedFeature.model_validate(feature).feature(mm=mm) for feature in _features(check)]


def _same_part(
    result: CheckResult, of_parts: Sequence[CheckResult], checks: dict[str, CheckModel], *, is_whole: bool
) -> list[CheckResult]:
    """List the dimensions of the same part that stand before a check; for the whole part, all others."""
    part = checks[result.id].fields.get("part")
    place = next((k for k, other in enumerate(of_parts) if other.id == result.id), 0)
    others = of_parts if is_whole else of_parts[:place]
    return [other for other in others if other.id != result.id and checks[other.id].fields.get("part") == part]


def _is_of_whole(check: CheckModel, whole: Collection[str]) -> bool:
    return check.kind in whole or check.fields.get("measure") in _OF_THE_WHOLE


def _is_of_its_feature(root: CheckResult, other: CheckResult, checks: dict[str, CheckModel]) -> bool:
    """Say whether a row is about the size of the holes whose number another row asks, or asks it, too."""
    is_size = checks[root.id].fields.get("measure") in (*DIAMETERS, *RADII)
    is_same = root.cause is not None and other.cause is not None and root.cause.code == other.cause.code
    return (is_size or is_same) and shared_features(checks[root.id], checks[other.id])


def _is_same_missing(root: CheckResult, other: CheckResult, checks: dict[str, CheckModel]) -> bool:
    """Say whether two rows lack one and the same hole or round wall, or one and the same face where there is none."""
    if root.cause is None or root.cause.code != "feature-missing":
        return False
    first, second = feature_keys(checks[root.id]), feature_keys(checks[other.id])
    axes = [{key for key in keys if key[0] == "axis"} for keys in (first, second)]
    return bool(axes[0] & axes[1]) if all(axes) else bool(first & second)


def _counts_too_many(root: CheckResult) -> bool:
    return root.cause is not None and root.cause.code == "wrong-count" and (root.difference or 0.0) > 0


def _counts_it(root: CheckResult, other: CheckResult, checks: dict[str, CheckModel]) -> bool:
    """Say whether a hole that is missing is one of those whose number another row found wrong."""
    if root.cause is None or root.cause.code != "wrong-count":
        return False
    own, counted = (
        [feature["cylinder"] for feature in _features(checks[row.id]) if "cylinder" in feature] for row in (other, root)
    )
    return any(
        abs(hole["radius"] - wall["radius"]) < _TOUCHING
        and abs(sum(x * y for x, y in zip(hole["direction"], wall["direction"], strict=True))) > 1 - _PARALLEL
        for hole in own
        for wall in counted
    )


def _explains(
    root: CheckResult, other: CheckResult, checks: dict[str, CheckModel], window: float, shares: Sequence[float]
) -> bool:
    """Say whether one wrong size makes another wrong by as much, or by a share of it: they share a face or axis."""
    if not root.difference or not other.difference:
        return False
    if not shared_features(checks[root.id], checks[other.id]):
        return False
    return any(abs(abs(other.difference) - share * abs(root.difference)) <= window for share in shares)


def shared_features(a: CheckModel, b: CheckModel) -> bool:
    """Say whether two checks of a part speak of a common face or axis; an overall size speaks of all.

    A flat that a round wall runs into is one of the wall's faces, too.
    """
    first, second = feature_keys(a), feature_keys(b)
    whole = any(check.fields.get("measure") == "extent" for check in (a, b))
    return whole or bool(first & second) or _is_tangent(a, b) or _is_tangent(b, a)


def _is_tangent(a: CheckModel, b: CheckModel) -> bool:
    """Say whether a flat of one check touches a round wall of another all along."""
    planes = [feature["plane"] for feature in _features(a) if "plane" in feature]
    walls = [feature["cylinder"] for feature in _features(b) if "cylinder" in feature]
    return any(_touches(plane, wall) for plane in planes for wall in walls)


def _touches(plane: dict[str, Any], wall: dict[str, Any]) -> bool:
    normal, direction = plane["normal"], wall["direction"]
    along = sum(n * d for n, d in zip(normal, direction, strict=True))
    away = sum(n * (p - q) for n, p, q in zip(normal, plane["point"], wall["point"], strict=True))
    return bool(abs(along) < _PARALLEL and abs(abs(away) - wall["radius"]) < _TOUCHING)


def same_direction(a: CheckModel, b: CheckModel) -> bool:
    """Say whether two sizes lie along one direction, or both go across what is round.

    A size without a direction of its own, such as an angle, lies along any.
    """
    one, other = _direction(a), _direction(b)
    if one is None or other is None:
        return True
    if isinstance(one, str) or isinstance(other, str):
        return one == other
    return abs(sum(x * y for x, y in zip(one, other, strict=True))) > 1 - 1e-6


def _direction(check: CheckModel) -> "str | Sequence[float] | None":
    """Return the unit direction along which a size lies, "across" for a diameter, None for what has none."""
    fields = check.fields
    if fields.get("measure") in (*DIAMETERS, *RADII):
        return "across"
    if fields.get("axis") in ("x", "y", "z"):
        return [float(name == fields["axis"]) for name in "xyz"]
    features = _features(check)
    plane = next((feature["plane"]["normal"] for feature in features if "plane" in feature), None)
    if plane is not None and fields.get("measure") != "angle":
        return [float(value) for value in plane]
    if fields.get("measure") == "depth" and features:
        return [float(value) for value in next(iter(features[0].values())).get("direction", (0, 0, 1))]
    return None


def feature_keys(check: CheckModel) -> set[tuple[object, ...]]:
    """Return the faces and axes that a check speaks of, each as rounded numbers that tell it from others."""
    return {key for feature in _features(check) if (key := feature_key(feature))}


def _features(check: CheckModel) -> list[dict[str, Any]]:
    """List the features that a check names, as it writes them."""
    fields = check.fields
    named = [*(fields.get("between") or []), *([fields["of"]] if fields.get("of") else [])]
    return [feature for feature in map(nested, named) if isinstance(feature, dict)]


def feature_key(feature: dict[str, object]) -> tuple[object, ...] | None:
    """Return rounded numbers that tell a face or axis, in its nested form, from others; None for other features."""
    for kind, way in (("plane", "normal"), ("axis", "direction"), ("cylinder", "direction")):
        given = feature.get(kind)
        if isinstance(given, dict):
            point, direction = given.get("point", [0, 0, 0]), given.get(way, [0, 0, 1])
            level = sum(p * d for p, d in zip(point, direction, strict=True))
            if kind == "plane":
                return ("plane", *(round(coordinate, 3) for coordinate in direction), round(level, 3))
            foot = [p - level * d for p, d in zip(point, direction, strict=True)]
            return (
                "axis",
                *(round(abs(coordinate), 3) for coordinate in direction),
                *(round(coordinate, 3) for coordinate in foot),
            )
    return None
