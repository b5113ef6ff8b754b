"""Likely reasons for a wrong value: the usual slips, tried one by one.

A cause is named only where it explains the value to the precision of a model, never
merely within the check's tolerance. No cause is better than a wrong one.
"""

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from rigid_bench.core.grading.report.models import Cause
from rigid_bench.core.values.tolerance import Tolerance
from rigid_bench.core.values.units import MM_PER_UNIT
from rigid_bench.core.wording.quantities import number

_MM_PER_INCH = MM_PER_UNIT["in"]
#: Measures that go across what is round, and from its middle.
DIAMETERS = ("diameter", "sphere_diameter", "countersink_diameter", "pitch_circle")
RADII = ("radius", "tube_radius")


@dataclass(frozen=True, slots=True, kw_only=True)
class Neighbour:
    """Another size that is asked of the same part, in the exercise's unit; angles in degrees."""

    title: str
    nominal: float
    measure: str = "length"
    #: It has a face or axis in common with the size that is judged.
    meets: bool = False
    #: It lies along the same direction, or both go across what is round.
    along: bool = True


@dataclass(frozen=True, slots=True, kw_only=True)
class Surroundings:
    """What is asked of a part beside the size that is judged."""

    others: Sequence[Neighbour] = ()
    #: How many members the patterns of the part have, as asked.
    counts: Sequence[float] = ()
    #: Of the round walls that the size speaks of.
    radii: Sequence[float] = ()
    #: Pairs of lengths that meet each other, one of which meets the size that is judged.
    chains: Sequence[tuple[Neighbour, Neighbour]] = ()

    @property
    def lengths(self) -> list[Neighbour]:
        """The other sizes that are lengths."""
        return [other for other in self.others if other.measure in LENGTHS]


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
        measures=DIAMETERS,
        factor=0.5,
        text="It looks as if the radius was typed where the diameter was asked",
    ),
    Slip(
        code="diameter-for-radius",
        measures=RADII,
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
#: Measures that are a length along or across a part.
LENGTHS = (
    "length",
    "thickness",
    *DIAMETERS,
    *RADII,
    "depth",
    "position",
    "extent",
    "edge_distance",
    "edge_length",
    "across_flats",
    "chamfer",
    "pitch",
    "corner",
)
#: Measures that say where something is, and those of blocks that can be built to either side.
_PLACED, _EXTRUDED = ("position", "length", "depth", "edge_distance"), ("length", "thickness", "extent", "depth")
#: Measures whose numbers are taken for those of another feature of the same sort, wherever it stands.
_OF_A_SORT = (*DIAMETERS, *RADII, "thickness")
#: mm: how exactly a number that was typed comes back; far below the precision of a model, because
#: among many sizes some sum is near any value.
_TYPED_MM = 0.002


def of_dimension(
    measure: str, nominal: float, value: float, around: Surroundings, *, units: str, tolerance: Tolerance
) -> Cause | None:
    """Name the slip that explains a wrong length, if one does.

    Parameters
    ----------
    measure
        Name of the measure.
    nominal, value
        Required and measured, in the exercise's unit.
    around
        What else is asked of the part.
    units
        "mm" or "in".
    tolerance
        Its `model_mm` is how closely a slip must explain the value.

    Returns
    -------
    Cause or None

    Examples
    --------
    >>> of_dimension("diameter", 16.4, 8.2, Surroundings(), units="mm", tolerance=Tolerance()).text
    'It looks as if the radius was typed where the diameter was asked: 8.2 × 2 = 16.4.'
    >>> of_dimension("diameter", 16.4, 8.25, Surroundings(), units="mm", tolerance=Tolerance()) is None
    True
    """
    if measure not in LENGTHS:
        return None
    window = tolerance.model_mm / MM_PER_UNIT[units]
    typed = _TYPED_MM / MM_PER_UNIT[units]
    for wrong, cause in _patterns(measure, nominal, around):
        if abs(value - wrong) <= window:
            return cause
    for slip in _SLIPS:
        is_possible = not slip.measures or measure in slip.measures
        if is_possible and abs(value - slip.factor * nominal) <= window:
            return Cause(code=slip.code, text=f"{slip.text}: {_sum(value, slip.factor, nominal)}.")
    for wrong, cause in _sums(measure, nominal, around):
        if abs(value - wrong) <= typed:
            return cause
    return None


#: How much larger or smaller a part is than asked -> why.
_SCALES = {
    _MM_PER_INCH: "the numbers were typed in a file that is in inches",
    1 / _MM_PER_INCH: "the numbers are inches, in a file that is in millimetres",
    10.0: "the file is in centimetres",
    0.1: "the numbers are centimetres, in a file that is in millimetres",
}


def of_scale(scale: float) -> Cause | None:
    """Name the slip of a part that is too large or small as a whole; None for a scale of 1.

    Examples
    --------
    >>> of_scale(0.1).text
    'The whole part is 10 times too small: the numbers are centimetres, in a file that is in millimetres.'
    """
    if scale not in _SCALES:
        return None
    times = f"{number(max(scale, 1 / scale))} times too {'large' if scale > 1 else 'small'}"
    return Cause(code="unit-of-part", text=f"The whole part is {times}: {_SCALES[scale]}.")


#: What to do about a part of another scale: once for all of its sizes.
SET_UNIT = "Set the unit of the file, or scale the whole part, and hand in again."
#: The scales of `of_scale`.
SCALES = tuple(_SCALES)


def _sums(measure: str, nominal: float, around: Surroundings) -> Iterator[tuple[float, Cause]]:
    """Yield the values that slips with another size give, the likeliest first."""
    n = nominal
    if measure == "position":
        yield from _to_edges(n, around.radii)
    if measure in _PLACED:
        for other in around.lengths:
            if other.meets and other.along and other.nominal > n:
                wrong = other.nominal - n
                text = "It looks as if it was measured from the other side"
                yield wrong, Cause(code="from-other-side", text=f"{text}: {_s(other.nominal, '−', n, wrong)}.")
    yield from _walls(n, around)
    if measure in _PLACED:
        yield from _built_elsewhere(n, around)
    for other in around.others:
        if other.measure == "angle" and other.meets and 0 < other.nominal < 180 and other.nominal != 90:
            yield from _slants(n, other)
    for other in around.lengths:
        # never a number that does not stand near on the drawing
        if not (other.measure == measure in _OF_A_SORT or (other.along and other.meets)):
            continue
        text = f"{number(other.nominal)} is the size asked for {other.title}; it may have been read from there."
        if is_misread(number(n), number(other.nominal)):
            text = f"{number(n)} seems to have been read as {number(other.nominal)}, the size asked for {other.title}."
            yield other.nominal, Cause(code="misread-digit", text=text)
        else:
            yield other.nominal, Cause(code="neighbours-value", text=text)
    for a, b in around.chains:
        for wrong, sign in ((a.nominal + b.nominal, "+"), (abs(a.nominal - b.nominal), "−")):
            big, small = max(a.nominal, b.nominal), min(a.nominal, b.nominal)
            text = f"It looks as if {a.title} and {b.title} were put together: {_s(big, sign, small, wrong)}."
            yield wrong, Cause(code="chain", text=text)


def _to_edges(nominal: float, radii: Sequence[float]) -> Iterator[tuple[float, Cause]]:
    """Yield the places that come of measuring to the edges of holes."""
    text = "It looks as if it was measured to the edge of the hole and not to its middle"
    steps = [(radius, text) for radius in dict.fromkeys(radii)]
    if len(radii) == 2:
        steps.append(
            (sum(radii), "It looks as if it was measured from edge to edge of the holes and not between middles")
        )
    for step, said in steps:
        for wrong, sign in ((nominal - step, "−"), (nominal + step, "+")):
            yield wrong, Cause(code="edge-for-centre", text=f"{said}: {_s(nominal, sign, step, wrong)}.")


def _patterns(measure: str, nominal: float, around: Surroundings) -> Iterator[tuple[float, Cause]]:
    """Yield the pitches that come of taking the pitch for a pattern's whole length, or the other way round."""
    if measure != "pitch":
        return
    for count in around.counts:
        gaps, whole = count - 1, nominal * (count - 1)
        if gaps < 2:
            continue
        text = f"It looks as if {number(nominal)} was taken for the whole length of the {number(count)}"
        sum_shown = f"{number(nominal)} ÷ ({number(count)} − 1) = {number(nominal / gaps)}"
        yield nominal / gaps, Cause(code="pattern-length", text=f"{text}: {sum_shown}.")
        text = f"It looks as if the whole length of the {number(count)} was taken for the distance from one to the next"
        sum_shown = f"{number(nominal)} × ({number(count)} − 1) = {number(whole)}"
        yield whole, Cause(code="pattern-length", text=f"{text}: {sum_shown}.")


def is_misread(asked: str, measured: str) -> bool:
    """Say whether two numbers of several digits differ by one, or by two that changed places.

    Examples
    --------
    >>> is_misread("58", "53"), is_misread("86", "68"), is_misread("58", "61")
    (True, True, False)
    """
    if len(asked) != len(measured) or len(asked) < 2:
        return False
    off = [k for k, (a, b) in enumerate(zip(asked, measured, strict=True)) if a != b]
    is_swapped = len(off) == 2 and off[1] == off[0] + 1 and asked[off[0]] == measured[off[1]]
    return len(off) == 1 or (is_swapped and asked[off[1]] == measured[off[0]])


def _built_elsewhere(nominal: float, around: Surroundings) -> Iterator[tuple[float, Cause]]:
    """Yield what comes of a block that was built from its middle, or to the wrong side."""
    for other in around.lengths:
        if not (other.meets and other.along and other.measure in _EXTRUDED):
            continue
        half, whole = other.nominal / 2, other.nominal
        for way, sign in ((-1, "−"), (1, "+")):
            text = f"It looks as if {other.title} was built from its middle: "
            wrong = nominal + way * half
            shown = f"{number(nominal)} {sign} {number(whole)} ÷ 2 = {number(wrong)}"
            yield abs(wrong), Cause(code="from-mid-plane", text=f"{text}{shown}.")
        wrong = nominal + whole
        text = f"It looks as if {other.title} was built to the wrong side: {_s(nominal, '+', whole, wrong)}."
        yield wrong, Cause(code="wrong-side", text=text)


def _walls(nominal: float, around: Surroundings) -> Iterator[tuple[float, Cause]]:
    for wall in around.others:
        if wall.measure != "thickness" or not (wall.meets and wall.along):
            continue
        for times in (1, 2):
            for sign, way in (("+", 1), ("−", -1)):
                wrong = nominal + way * times * wall.nominal
                part = number(wall.nominal) if times == 1 else f"2 × {number(wall.nominal)}"
                text = (
                    f"It is off by {'one wall' if times == 1 else 'two walls'} ({wall.title}): "
                    f"{number(nominal)} {sign} {part} = {number(wrong)}."
                )
                yield wrong, Cause(code="wall", text=text)


def _slants(nominal: float, angle: Neighbour) -> Iterator[tuple[float, Cause]]:
    for name, share in (("cos", math.cos), ("sin", math.sin)):
        factor = share(math.radians(angle.nominal))
        if abs(factor) < 1e-6:
            continue
        for wrong, sign in ((nominal * factor, "×"), (nominal / factor, "÷")):
            text = (
                "It looks as if it was measured along the slant and not along the axis, or the other way round: "
                f"{number(nominal)} {sign} {name} {number(angle.nominal)}° = {number(wrong)}."
            )
            yield wrong, Cause(code="along-the-slant", text=text)


def _s(a: float, sign: str, b: float, result: float) -> str:
    return f"{number(a)} {sign} {number(b)} = {number(result)}"


@dataclass(frozen=True, slots=True, kw_only=True)
class WrongSize:
    """A size of a part that is off, and by how much."""

    id: str
    title: str
    required: str
    measured: str
    off_mm: float


#: How much of a wrong size a gap may take up: all of it on one side, or half on each.
_SHARES = (1.0, 0.5)


def of_gap(
    lost_mm: float, sizes: Sequence[WrongSize], *, is_used_up: bool = False, tolerance: Tolerance
) -> Cause | None:
    """Name the wrong size of a part that uses up a gap.

    Parameters
    ----------
    lost_mm
        How much smaller the gap is than in the reference; negative where it is larger.
    sizes
        Sizes of the two parts that are off.
    is_used_up
        The parts touch or overlap: how much more room is missing does not show.
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
        if any(
            abs(abs(lost_mm) - share * abs(size.off_mm)) <= tolerance.model_mm
            or (is_used_up and lost_mm <= share * abs(size.off_mm))
            for share in _SHARES
        )
    ]
    if len(fitting) != 1:
        return None
    size = fitting[0]
    takes = "takes up" if lost_mm > 0 else "opens"
    text = (
        f"{size.title} measures {size.measured} where {size.required} was asked, "
        f"and that {takes} {number(abs(lost_mm))} mm here. Put the size right, then the gap is right."
    )
    return Cause(code="wrong-size-of-part", text=text, root=size.id)
