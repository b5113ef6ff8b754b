"""Bought-in parts: which shapes the tables have (bearings, screws, dowel pins), and sizes that no catalogue has."""

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.exercise.bundle import PartModel
from rigid_bench.core.measurement.box_frame import box_frames
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.standards.bearings import BEARINGS
from rigid_bench.core.standards.fasteners import BUTTON, COUNTERSUNK, DOWELS, HEXAGON, SOCKET
from rigid_bench.core.wording.datums import number
from rigid_bench.core.wording.language import _, series

#: mm: sizes of the tables that differ by more are others.
_TABLE = 0.02
_HEAD = 0.3


def is_standard(shape: PartFeatures) -> bool:
    """Say whether a shape is a bearing, a plain screw or a dowel pin of the tables.

    Parameters
    ----------
    shape
        A part; a screw or pin is drawn without thread and drive.
    """
    return _is_bearing(shape) or _is_screw(shape) or _is_pin(shape)


def _is_bearing(shape: PartFeatures) -> bool:
    sizes = _sizes(shape)
    bores = [2 * cylinder.radius for cylinder in shape.cylinders if cylinder.is_hollow and cylinder.goes_round]
    return any(
        np.allclose(sizes, [bearing.width, bearing.outside, bearing.outside], atol=_TABLE)
        and any(abs(bore - bearing.bore) < _TABLE for bore in bores)
        for bearing in BEARINGS.values()
    )


def _sizes(shape: PartFeatures) -> NDArray[np.float64]:
    """Return the overall sizes along the part's own faces, mm, the least first."""
    return np.sort(box_frames(shape)[0][1])


def _is_turned(shape: PartFeatures, walls: int) -> bool:
    """Only so many round walls, all outside, about one axis, and flat ends."""
    bosses = shape.bosses
    ways = [boss.direction for boss in bosses] + [plane.normal for plane in shape.planes]
    return (
        len(bosses) == len(shape.cylinders) == walls
        and not shape.others
        and all(abs(float(way @ bosses[0].direction)) > 1 - 1e-9 for way in ways)
    )


def _is_screw(shape: PartFeatures) -> bool:
    if not _is_turned(shape, 2):
        return False
    shank, head = sorted(shape.bosses, key=lambda boss: boss.radius)
    return any(
        abs(2 * shank.radius - nominal) < _TABLE
        and abs(2 * head.radius - screw.head) < _TABLE
        and abs(head.length - screw.height) < _TABLE
        for table in (SOCKET, BUTTON)
        for nominal, screw in table.items()
    )


def _is_pin(shape: PartFeatures) -> bool:
    """A plain round of a pin's diameter, longer than it is thick; longer ones are shafts, and made."""
    if not _is_turned(shape, 1):
        return False
    (wall,) = shape.bosses
    return any(abs(2 * wall.radius - size) < _TABLE for size in DOWELS) and 1 < wall.length / (2 * wall.radius) < 10


def bought_in_faults(part: PartModel, shape: PartFeatures, *, mm: float) -> Iterator[str]:
    """Yield what the tables do not have, each with what to do; the part's name says what it is.

    Parameters
    ----------
    part, shape
        A bought-in part and its reference.
    mm
        Millimetres in the exercise's unit.
    """
    name = part.name.lower()
    if "bearing" in name:
        yield from _bearing(part, shape, mm)
    elif "screw" in name or "bolt" in name:
        yield from _screw(part, shape, mm)
    elif "dowel" in name:
        yield from _dowel(part, shape, mm)


def _bearing(part: PartModel, shape: PartFeatures, mm: float) -> Iterator[str]:
    bores = [2 * cylinder.radius for cylinder in shape.cylinders if cylinder.is_hollow and cylinder.goes_round]
    if len(bores) != 1 or _is_bearing(shape):
        return
    sizes = _sizes(shape)
    said = " × ".join(f"{value / mm:.4g}" for value in (bores[0], sizes[-1], sizes[0]))
    yield _(
        "{name}: no bearing in the tables is {said}. Look the size up, or say that it is made.",
        name=part.name,
        said=said,
    )


def _screw(part: PartModel, shape: PartFeatures, mm: float) -> Iterator[str]:
    rounds = sorted(2 * boss.radius for boss in shape.bosses)
    if not rounds:
        return
    shank, widest = rounds[0], float(_sizes(shape)[-2]) if len(rounds) == 1 else rounds[-1]
    nominal = next((d for d in SOCKET if abs(d - shank) < _TABLE), None)
    if nominal is None:
        yield _(
            "{name}: no screw in the tables has a shank of {number}. Look the size up.",
            name=part.name,
            number=number(shank / mm),
        )
        return
    heads = [table[nominal].head for table in (SOCKET, BUTTON, COUNTERSUNK, HEXAGON) if nominal in table]
    if not any(abs(head - widest) < _HEAD for head in heads):
        known = series(number(head / mm) for head in sorted(set(heads)))
        yield (
            _(
                "{name}: a head of {number} on a shank of {shank} is in no table (heads there: {known}). Look "
                "the size up.",
                name=part.name,
                number=number(widest / mm),
                shank=number(shank / mm),
                known=known,
            )
        )


def _dowel(part: PartModel, shape: PartFeatures, mm: float) -> Iterator[str]:
    for boss in shape.bosses:
        if not any(abs(2 * boss.radius - size) < _TABLE for size in DOWELS):
            yield _(
                "{name}: no dowel pin in the tables is Ø{number}. Look the size up.",
                name=part.name,
                number=number(2 * boss.radius / mm),
            )
