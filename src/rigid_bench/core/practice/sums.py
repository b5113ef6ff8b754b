"""Drills whose answer is a sum: told as an expression over named values, with the numbers that usual slips give."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from rigid_bench.core.practice.drill import Drill, Near
from rigid_bench.core.practice.unfit import Unfit
from rigid_bench.core.values.units import evaluate
from rigid_bench.core.wording.quantities import number

#: What an answer may be off: half of the last digit that is shown.
_TOLERANCE = 0.005
#: A near miss that lies nearer to the answer tells no slip.
_TOLD_APART = 3 * _TOLERANCE


@dataclass(frozen=True, slots=True, kw_only=True)
class Sum:
    """One question and its sum."""

    question: str
    #: In the notation of an exercise's nominals; names are lengths in mm.
    expression: str
    values: Mapping[str, float]
    #: The sum of a usual slip, and what it did.
    near: Sequence[tuple[str, str]] = ()
    unit: str = "mm"
    why: str
    slip: str | None = None


def drill_of_sum(own: Sum, level: int) -> Drill:
    """Make the drill of a sum.

    Raises
    ------
    Unfit
        Its value is nothing that is made, or a slip gives the same.
    """
    value = round(evaluate(own.expression, names=own.values), 4)
    if value <= 0:
        raise Unfit
    near = []
    for expression, text in own.near:
        wrong = round(evaluate(expression, names=own.values), 4)
        if abs(wrong - value) < _TOLD_APART:
            raise Unfit
        near.append(Near(value=wrong, text=text))
    return Drill(
        kind="", seed=0, level=level, question=own.question,
        given={"expression": own.expression, "values": dict(own.values)},
        form="number", answer=[value], unit=own.unit, tolerance=_TOLERANCE, near=near,
        explanation=f"{own.why} {written(own)} = {number(value, 4)}{_sign(own.unit)}.", slip=own.slip,
    )  # fmt: skip


def written(own: Sum) -> str:
    """Return the sum with its values put in.

    Examples
    --------
    >>> written(Sum(question="", expression="outside - 2 * wall", values={"outside": 86, "wall": 3}, why=""))
    '86 − 2 × 3'
    """
    text = own.expression
    for name in sorted(own.values, key=len, reverse=True):
        text = text.replace(name, number(own.values[name], 4))
    return text.replace("*", "×").replace("-", "−")


def _sign(unit: str) -> str:
    return "°" if unit == "deg" else f" {unit}"
