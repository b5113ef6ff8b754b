"""Sizes along one direction in a chain, or all from one datum: both fix the same places, with other tolerances."""

import itertools
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.exercise.bundle import CheckModel, features_of
from rigid_bench.core.formats.pictures import AskedSize
from rigid_bench.core.values.datums import AxisFeature, CylinderFeature, Feature, PlaneFeature
from rigid_bench.core.wording.datums import capitalized, number, side_words
from rigid_bench.core.wording.language import _

_Array = NDArray[np.float64]
Order = Literal["chain", "datum"]
_DIGITS = 4
_MEASURES = ("length", "position")
_LETTERS = "XYZ"


@dataclass(slots=True)
class _Line:
    """The sizes of a part along one of its axes, and the features between which they lie, by their levels."""

    axis: int
    checks: list[CheckModel] = field(default_factory=list)
    #: By level, in the exercise's unit: the feature there as the check gives it.
    places: dict[float, tuple[dict[str, Any], Feature]] = field(default_factory=dict)
    links: list[tuple[float, float]] = field(default_factory=list)


def reordered(checks: Sequence[dict[str, Any]], part: str, order: Order) -> list[dict[str, Any]]:
    """Return checks with a part's sizes along each axis put in a chain, or taken from the face at its end.

    Only sizes with a number of their own that hang together as a tree are put otherwise; ids, marks and tolerances stay
    with them, from the nearest to the furthest.

    Parameters
    ----------
    checks
        Of the exercise's document.
    part
        Its id.
    order
        "chain" or "datum".
    """
    models = [CheckModel.model_validate(check) for check in checks]
    changed: dict[str, dict[str, Any]] = {}
    for line in _lines(models, part):
        pairs = _pairs(line, order)
        if set(pairs) == set(line.links):
            continue
        nearest_first = sorted(zip(line.links, line.checks, strict=True), key=lambda own: (own[0][1], own[0][0]))
        for (_unused, check), (low, high) in zip(nearest_first, pairs, strict=True):
            changed[check.id] = _between(line, low, high)
    return [{**check, **changed.get(check["id"], {})} for check in checks]


def _pairs(line: _Line, order: Order) -> list[tuple[float, float]]:
    """Return between which levels sizes lie: from one to the next, or from the face at an end to each."""
    levels = sorted(line.places)
    if order == "chain":
        return list(itertools.pairwise(levels))
    faces = [level for level in (levels[0], levels[-1]) if isinstance(line.places[level][1], PlaneFeature)]
    datum = faces[0] if faces else levels[0]
    return [(min(datum, level), max(datum, level)) for level in levels if level != datum]


def _between(line: _Line, low: float, high: float) -> dict[str, Any]:
    """Return what a check says of a size between two levels: where an axis is an end, along which direction, too."""
    (first, one), (second, other) = line.places[low], line.places[high]
    letter = _LETTERS[line.axis]
    is_of_faces = isinstance(one, PlaneFeature) and isinstance(other, PlaneFeature)
    measured = {"measure": "length"} if is_of_faces else {"measure": "position", "axis": letter.lower()}
    return {
        **measured,
        "between": [first, second],
        "nominal": round(high - low, _DIGITS),
        "title": _(
            "{one} to {other} along {letter}, {high}",
            one=_name(one),
            other=_name(other),
            letter=letter,
            high=number(high),
        ),
    }


def _lines(checks: Sequence[CheckModel], part: str) -> list[_Line]:
    """Return the sizes along each axis, apart where they do not hang together, without what says something twice."""
    lines: dict[int, _Line] = {}
    for check in checks:
        if (
            check.fields.get("part") != part
            or check.kind != "dimension"
            or check.fields.get("measure") not in _MEASURES
        ):
            continue
        given, features = check.fields.get("between") or [], features_of(check)
        if len(given) != 2 or not isinstance(check.fields.get("nominal"), int | float):
            continue
        axis = _axis_of(check, features)
        if axis is None:
            continue
        line = lines.setdefault(axis, _Line(axis))
        low, high = sorted(_level(feature, axis) for feature in features)
        for document, feature in zip(given, features, strict=True):
            line.places.setdefault(_level(feature, axis), (document, feature))
        line.checks.append(check)
        line.links.append((low, high))
    return [tree for line in lines.values() for tree in _trees(line) if len(tree.checks) > 1]


def _trees(line: _Line) -> Iterator[_Line]:
    """Yield what hangs together of the sizes along an axis, without what says something twice."""
    groups = {level: {level} for level in line.places}
    for low, high in line.links:
        joined = groups[low] | groups[high]
        groups |= dict.fromkeys(joined, joined)
    for levels in {id(group): group for group in groups.values()}.values():
        own = [(link, check) for link, check in zip(line.links, line.checks, strict=True) if link[0] in levels]
        if len(own) == len(levels) - 1:
            places = {level: line.places[level] for level in levels}
            yield _Line(line.axis, [check for _, check in own], places, [link for link, _ in own])


def _level(feature: Feature, axis: int) -> float:
    return round(float(feature.point[axis]), _DIGITS)


def _axis_of(check: CheckModel, features: Sequence[Feature]) -> int | None:
    """Return along which of the part's axes a size lies; None for others."""
    named = check.fields.get("axis")
    if named in ("x", "y", "z"):
        return "xyz".index(str(named))
    flats = [feature.normal for feature in features if isinstance(feature, PlaneFeature)]
    way: _Array
    if flats:
        way = np.abs(flats[0])
    elif all(isinstance(feature, AxisFeature) for feature in features):
        way = np.abs(features[1].point - features[0].point)
        way = way / max(float(np.linalg.norm(way)), 1e-12)
    else:
        return None
    return int(way.argmax()) if way.max() > 1 - 1e-9 else None


def _name(feature: Feature) -> str:
    if isinstance(feature, CylinderFeature):
        return f"Ø{number(2 * feature.radius)}"
    return capitalized(side_words(feature)) if isinstance(feature, PlaneFeature) else _("Axis")


@dataclass(frozen=True, slots=True, kw_only=True)
class ChainSum:
    """How the tolerances of sizes in a chain add up at its end."""

    part: str
    axis: str
    count: int
    minus: float
    plus: float


def chain_sums(checks: Sequence[CheckModel], parts: Sequence[str], sizes: Mapping[str, AskedSize]) -> list[ChainSum]:
    """Return for each chain of three and more places how far its ends may be apart from what was meant.

    Parameters
    ----------
    checks
        Of the exercise.
    parts
        Ids.
    sizes
        By check, with limits in the exercise's unit.
    """
    sums = []
    for part in parts:
        for line in _lines(checks, part):
            is_chain = set(line.links) == set(_pairs(line, "chain"))
            known = [sizes[check.id] for check in line.checks if check.id in sizes]
            if is_chain and len(known) == len(line.checks):
                sums.append(
                    ChainSum(
                        part=part, axis=_LETTERS[line.axis], count=len(known),
                        minus=round(sum(size.minus for size in known), _DIGITS),
                        plus=round(sum(size.plus for size in known), _DIGITS),
                    )
                )  # fmt: skip
    return sums
