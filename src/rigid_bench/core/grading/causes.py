"""Likely reasons for a wrong value: the usual slips, tried one by one.

A cause is named only where it explains the value to the precision of a model, never
merely within the check's tolerance. No cause is better than a wrong one.
"""

from collections.abc import Sequence
from dataclasses import dataclass

from rigid_bench.core.grading.report import Cause
from rigid_bench.core.grading.wording import number
from rigid_bench.core.tolerance import Tolerance
from rigid_bench.core.units import MM_PER_UNIT

_MM_PER_INCH = MM_PER_UNIT["in"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Neighbour:
    """Another length that is asked of the same part, in the exercise's unit."""

    title: str
    nominal: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Slip:
    """One usual slip: what the value becomes, and how to say it."""

    code: str
    #: The slip is possible for these measures; empty for all lengths.
    measures: tuple[str, ...]
    #: From the nominal to the value that the slip gives.
    factor: float
    text: str


def _sum(value: float, factor: float, nominal: float) -> str:
    """Write the sum that leads from the measured value back to the required one."""
    if factor < 1:
        return f"{number(value)} × {number(1 / factor)} = {number(nominal)}"
    return f"{number(value)} ÷ {number(factor)} = {number(nominal)}"


_SLIPS = (
    Slip(
        code="radius-for-diameter",
        measures=("diameter",),
        factor=0.5,
        text="It looks as if the radius was typed where the diameter was asked",
    ),
    Slip(
        code="diameter-for-radius",
        measures=("radius",),
        factor=2.0,
        text="It looks as if the diameter was typed where the radius was asked",
    ),
    Slip(
        code="inch-for-mm",
        measures=(),
        factor=_MM_PER_INCH,
        text="It looks as if inches were used where millimetres were asked",
    ),
    Slip(
        code="mm-for-inch",
        measures=(),
        factor=1 / _MM_PER_INCH,
        text="It looks as if millimetres were used where inches were asked",
    ),
    Slip(code="decimal-point", measures=(), factor=10.0, text="It looks as if the decimal point slipped"),
    Slip(code="decimal-point", measures=(), factor=0.1, text="It looks as if the decimal point slipped"),
    Slip(code="half", measures=(), factor=0.5, text="It is exactly half of what was asked"),
    Slip(code="double", measures=(), factor=2.0, text="It is exactly twice what was asked"),
)
_LENGTHS = ("length", "thickness", "diameter", "radius", "depth", "position", "extent")


def of_dimension(
    measure: str, nominal: float, value: float, others: Sequence[Neighbour], *, units: str, tolerance: Tolerance
) -> Cause | None:
    """Name the slip that explains a wrong length, if one does.

    Parameters
    ----------
    measure
        Name of the measure.
    nominal, value
        Required and measured, in the exercise's unit.
    others
        The other lengths of the part: a value that is exactly one of them was read from
        the wrong place.
    units
        "mm" or "in".
    tolerance
        Its `model_mm` is how closely a slip must explain the value.

    Returns
    -------
    Cause or None

    Examples
    --------
    >>> of_dimension("diameter", 16.4, 8.2, [], units="mm", tolerance=Tolerance()).text
    'It looks as if the radius was typed where the diameter was asked: 8.2 × 2 = 16.4.'
    >>> of_dimension("diameter", 16.4, 8.25, [], units="mm", tolerance=Tolerance()) is None
    True
    """
    if measure not in _LENGTHS:
        return None
    window = tolerance.model_mm / MM_PER_UNIT[units]
    for slip in _SLIPS:
        is_possible = not slip.measures or measure in slip.measures
        if is_possible and abs(value - slip.factor * nominal) <= window:
            return Cause(code=slip.code, text=f"{slip.text}: {_sum(value, slip.factor, nominal)}.")
    for other in others:
        if abs(value - other.nominal) <= window:
            text = f"{number(value)} is the size asked for {other.title}; it may have been read from there."
            return Cause(code="neighbours-value", text=text)
    return None


@dataclass(frozen=True, slots=True, kw_only=True)
class WrongSize:
    """A size of a part that is off, and by how much."""

    title: str
    required: str
    measured: str
    off_mm: float


#: How much of a wrong size a gap may take up: all of it on one side, or half on each.
_SHARES = (1.0, 0.5)


def of_gap(lost_mm: float, sizes: Sequence[WrongSize], *, tolerance: Tolerance) -> Cause | None:
    """Name the wrong size of a part that uses up a gap.

    Parameters
    ----------
    lost_mm
        How much smaller the gap is than in the reference; negative where it is larger.
    sizes
        Sizes of the two parts that are off.
    tolerance
        Its `model_mm` is how closely a size must explain the gap.

    Returns
    -------
    Cause or None
        None where no size, or more than one, explains it.
    """
    fitting = [
        size
        for size in sizes
        if any(abs(abs(lost_mm) - share * abs(size.off_mm)) <= tolerance.model_mm for share in _SHARES)
    ]
    if len(fitting) != 1:
        return None
    size = fitting[0]
    takes = "takes up" if lost_mm > 0 else "opens"
    text = (
        f"{size.title} measures {size.measured} where {size.required} was asked, "
        f"and that {takes} {number(abs(lost_mm))} mm here. Put the size right, then the gap is right."
    )
    return Cause(code="wrong-size-of-part", text=text)
