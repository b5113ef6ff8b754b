"""Faults of what is written on a sheet: sizes that cannot be, sums that do not close, figures that are rounded."""

import itertools
from collections.abc import Iterator, Sequence

from rigid_bench.core.exercise.bundle import CheckModel, Exercise, features_of
from rigid_bench.core.values.datums import Feature, PlaneFeature
from rigid_bench.core.wording.datums import number
from rigid_bench.core.wording.language import _

#: mm: sizes that differ by less are one.
_SAME = 1e-3
#: mm: how far cutting an inch size off after three places can lead astray.
_CUT_OFF = 0.0255
#: mm and inches: what sizes are usually multiples of.
_STEPS_MM, _STEPS_IN = 0.5, 1 / 16
_LENGTHS = ("length", "thickness", "position", "across_flats")


def find_sheet_faults(exercise: Exercise, nominals: dict[str, float]) -> list[str]:
    """Return what the dimensions of a sheet say that cannot be meant, each with what to do.

    Parameters
    ----------
    exercise
        With its checks.
    nominals
        By dimension: what it asks, in the exercise's unit.
    """
    faults: list[str] = []
    for part in exercise.model.parts:
        own = [check for check in exercise.model.checks if check.id in nominals and check.fields.get("part") == part.id]
        faults += _impossible(part.name, own, nominals)
        faults += _open_sums(part.name, own, nominals)
        faults += _rounded(part.name, own, nominals, exercise)
    return list(dict.fromkeys(faults))


def _impossible(name: str, own: Sequence[CheckModel], nominals: dict[str, float]) -> Iterator[str]:
    walls = [check for check in own if check.fields.get("measure") == "thickness"]
    for check in own:
        measure, value = check.fields.get("measure"), nominals[check.id]
        if measure not in ("angle", "count", "pattern_count") and value <= 0:
            yield _(
                "{name}: {title} is {value}, which no part can have. Give a size above 0.",
                name=name,
                title=check.title,
                value=number(value),
            )
        if measure == "chamfer":
            for wall in walls:
                if value > nominals[wall.id] - _SAME:
                    yield (
                        _(
                            "{name}: {title}, {value}, takes away all of {wall}, {thickness}. Make the chamfer "
                            "smaller, or the wall thicker.",
                            name=name,
                            title=check.title,
                            value=number(value),
                            wall=wall.title,
                            thickness=number(nominals[wall.id]),
                        )
                    )
    for wall, whole in itertools.product(walls, own):
        is_shell = whole.fields.get("measure") in ("length", "extent") and _shares_one(wall, whole)
        if is_shell and 2 * nominals[wall.id] > nominals[whole.id] - _SAME:
            yield (
                _(
                    "{name}: two walls of {wall}, 2 × {thickness}, leave nothing of {whole}, {size}. Make "
                    "the wall thinner.",
                    name=name,
                    wall=wall.title,
                    thickness=number(nominals[wall.id]),
                    whole=whole.title,
                    size=number(nominals[whole.id]),
                )
            )


def _shares_one(a: CheckModel, b: CheckModel) -> bool:
    """Say whether two lengths begin or end at one face, and run the same way."""
    if b.fields.get("measure") == "extent":
        return False
    first, second = features_of(a), features_of(b)
    return len(first) == len(second) == 2 and sum(_is_one(x, y) for x in first for y in second) == 1


def _open_sums(name: str, own: Sequence[CheckModel], nominals: dict[str, float]) -> Iterator[str]:
    """Of three lengths between three faces the largest is the sum of the others."""
    lengths = [check for check in own if check.fields.get("measure") in _LENGTHS and len(features_of(check)) == 2]
    for three in itertools.combinations(lengths, 3):
        ends = [features_of(check) for check in three]
        if not all(_touch(ends[k], ends[m]) for k, m in ((0, 1), (1, 2), (0, 2))) or not _are_three(ends):
            continue
        small, middle, large = sorted(three, key=lambda check: nominals[check.id])
        total = nominals[small.id] + nominals[middle.id]
        if abs(total - nominals[large.id]) > _SAME:
            yield (
                _(
                    "{name}: {one} and {other} make {total}, and {whole} is {size}: the sum does not "
                    "close. Change one, or leave one out.",
                    name=name,
                    one=small.title,
                    other=middle.title,
                    total=number(total),
                    whole=large.title,
                    size=number(nominals[large.id]),
                )
            )


def _touch(a: Sequence[Feature], b: Sequence[Feature]) -> bool:
    return sum(_is_one(x, y) for x in a for y in b) == 1


def _are_three(ends: Sequence[Sequence[Feature]]) -> bool:
    """Three lengths close a ring of three faces, and do not all begin at one."""
    return not any(all(any(_is_one(end, other) for other in pair) for pair in ends) for end in ends[0])


def _is_one(a: Feature, b: Feature) -> bool:
    """Say whether two flat faces are at one level, whichever way they look."""
    if not isinstance(a, PlaneFeature) or not isinstance(b, PlaneFeature):
        return False
    is_along = abs(float(a.normal @ b.normal)) > 1 - 1e-6
    return is_along and abs(float((a.point - b.point) @ a.normal)) < _SAME


def _rounded(name: str, own: Sequence[CheckModel], nominals: dict[str, float], exercise: Exercise) -> Iterator[str]:
    """A size that is nearly round in the other unit was rounded, or cut off, on the way."""
    for check in own:
        if check.fields.get("measure") not in (*_LENGTHS, "diameter", "radius", "depth", "extent"):
            continue
        value, mm = nominals[check.id], nominals[check.id] * exercise.mm
        step = _STEPS_MM if exercise.model.units == "in" else _STEPS_IN * 25.4
        own_step = _STEPS_IN * 25.4 if exercise.model.units == "in" else 0.1
        meant = round(mm / step) * step
        is_round = abs(mm / own_step - round(mm / own_step)) < 1e-6
        if not is_round and meant and _SAME / 10 < abs(mm - meant) < _CUT_OFF:
            other = f"{number(meant)} mm" if exercise.model.units == "in" else f"{meant / 25.4:g} in"
            yield (
                _(
                    "{name}: {title}, {value:g} {units}, looks like {other}, rounded: it is off by {off:.3f} mm. "
                    "Type {other} as the nominal; the sum is kept and shown.",
                    name=name,
                    title=check.title,
                    value=value,
                    units=exercise.model.units,
                    other=other,
                    off=abs(mm - meant),
                )
            )
