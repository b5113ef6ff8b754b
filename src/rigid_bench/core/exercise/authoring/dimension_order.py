"""Sizes along one direction in a chain, or all from one datum: both fix the same places, with other tolerances."""

import itertools
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.exercise.bundle import CheckModel, features_of
from rigid_bench.core.formats.pictures import AskedSize
from rigid_bench.core.values.datums import AxisFeature, CylinderFeature, Feature, PlaneFeature
from rigid_bench.core.wording.datums import number, side_of

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
    """Return checks with a part's sizes along each axis put in a chain, or taken from the datum at its lower end.

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
        levels = sorted(line.places)
        pairs = _pairs(levels, order)
        if {tuple(sorted(pair)) for pair in pairs} == {tuple(sorted(pair)) for pair in line.links}:
            continue
        own = sorted(line.checks, key=lambda check: _span(line, check))
        for check, (low, high) in zip(own, pairs, strict=True):
            changed[check.id] = {
                "between": [line.places[low][0], line.places[high][0]],
                "nominal": round(high - low, _DIGITS),
                "title": f"{_name(line.places[low][1])} to {_name(line.places[high][1])} along "
                f"{_LETTERS[line.axis]}, {number(high)}",
            }
    return [{**check, **changed.get(check["id"], {})} for check in checks]


def _pairs(levels: Sequence[float], order: Order) -> list[tuple[float, float]]:
    return list(itertools.pairwise(levels)) if order == "chain" else [(levels[0], level) for level in levels[1:]]


def _span(line: _Line, check: CheckModel) -> float:
    low, high = line.links[line.checks.index(check)]
    return high + low / 1e6


def _lines(checks: Sequence[CheckModel], part: str) -> list[_Line]:
    """Return the sizes along each axis that hang together and say nothing twice."""
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
    return [line for line in lines.values() if len(line.checks) > 1 and _is_tree(line)]


def _is_tree(line: _Line) -> bool:
    groups = {level: level for level in line.places}

    def top(level: float) -> float:
        while groups[level] != level:
            level = groups[level]
        return level

    for low, high in line.links:
        a, b = top(low), top(high)
        if a == b:
            return False
        groups[b] = a
    return len(line.links) == len(line.places) - 1


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
    return side_of(feature).capitalize() if isinstance(feature, PlaneFeature) else "Axis"


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
    found = []
    for part in parts:
        for line in _lines(checks, part):
            is_chain = set(line.links) == set(_pairs(sorted(line.places), "chain"))
            known = [sizes[check.id] for check in line.checks if check.id in sizes]
            if is_chain and len(known) == len(line.checks):
                found.append(
                    ChainSum(
                        part=part, axis=_LETTERS[line.axis], count=len(known),
                        minus=round(sum(size.minus for size in known), _DIGITS),
                        plus=round(sum(size.plus for size in known), _DIGITS),
                    )
                )  # fmt: skip
    return found
