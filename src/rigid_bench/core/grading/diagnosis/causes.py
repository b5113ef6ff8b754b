"""Likely reasons for a wrong value: the usual slips, tried one by one.

A cause is named only where it explains the value to the precision of a model, never
merely within the check's tolerance. No cause is better than a wrong one.
"""

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from rigid_bench.core.formats.message import Message, phrase
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
    """One usual slip: what the value becomes."""

    code: str
    #: The slip is possible for these measures; empty for all lengths.
    measures: tuple[str, ...]
    #: From the nominal to the value that the slip gives.
    factor: float


def _sum(value: float, factor: float, nominal: float) -> Message:
    """Write the sum that leads from the measured value back to the required one."""
    return _equation(value, "×", 1 / factor, nominal) if factor < 1 else _equation(value, "÷", factor, nominal)


_SLIPS = (
    Slip(code="radius-for-diameter", measures=DIAMETERS, factor=0.5),
    Slip(code="diameter-for-radius", measures=RADII, factor=2.0),
    Slip(code="inch-for-mm", measures=(), factor=_MM_PER_INCH),
    Slip(code="mm-for-inch", measures=(), factor=1 / _MM_PER_INCH),
    Slip(code="decimal-point", measures=(), factor=10.0),
    Slip(code="decimal-point", measures=(), factor=0.1),
    Slip(code="half", measures=(), factor=0.5),
    Slip(code="double", measures=(), factor=2.0),
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
    >>> of_dimension("diameter", 16.4, 8.2, Surroundings(), units="mm", tolerance=Tolerance()).code
    'radius-for-diameter'
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
            return Cause(code=slip.code, message=phrase(f"cause.{slip.code}", sum=_sum(value, slip.factor, nominal)))
    for wrong, cause in _sums(measure, nominal, around):
        if abs(value - wrong) <= typed:
            return cause
    return None


#: How much larger or smaller a part is than asked -> code of why.
_SCALES = {
    _MM_PER_INCH: "scale.typed-in-inches",
    1 / _MM_PER_INCH: "scale.inches-as-mm",
    10.0: "scale.in-centimetres",
    0.1: "scale.centimetres-as-mm",
}


def of_scale(scale: float) -> Cause | None:
    """Name the slip of a part that is too large or small as a whole; None for a scale of 1.

    Examples
    --------
    >>> of_scale(0.1).message.code
    'cause.part-too-small'
    """
    if scale not in _SCALES:
        return None
    said = "cause.part-too-large" if scale > 1 else "cause.part-too-small"
    message = phrase(said, times=max(scale, 1 / scale), why=phrase(_SCALES[scale]))
    return Cause(code="unit-of-part", message=message)


def set_unit() -> Message:
    """Return what to do about a part of another scale: once for all of its sizes."""
    return phrase("step.set-unit")


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
                text = phrase("cause.from-other-side", sum=_equation(other.nominal, "−", n, wrong))
                yield wrong, Cause(code="from-other-side", message=text)
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
        text = phrase("cause.neighbours-value", size=other.nominal, title=other.title)
        if is_misread(number(n), number(other.nominal)):
            text = phrase("cause.misread-digit", asked=n, measured=other.nominal, title=other.title)
            yield other.nominal, Cause(code="misread-digit", message=text)
        else:
            yield other.nominal, Cause(code="neighbours-value", message=text)
    for a, b in around.chains:
        for wrong, sign in ((a.nominal + b.nominal, "+"), (abs(a.nominal - b.nominal), "−")):
            big, small = max(a.nominal, b.nominal), min(a.nominal, b.nominal)
            text = phrase("cause.chain", a=a.title, b=b.title, sum=_equation(big, sign, small, wrong))
            yield wrong, Cause(code="chain", message=text)


def _to_edges(nominal: float, radii: Sequence[float]) -> Iterator[tuple[float, Cause]]:
    """Yield the places that come of measuring to the edges of holes."""
    steps = [(radius, "cause.to-edge") for radius in dict.fromkeys(radii)]
    if len(radii) == 2:
        steps.append((sum(radii), "cause.edge-to-edge"))
    for step, said in steps:
        for wrong, sign in ((nominal - step, "−"), (nominal + step, "+")):
            message = phrase(said, sum=_equation(nominal, sign, step, wrong))
            yield wrong, Cause(code="edge-for-centre", message=message)


def _patterns(measure: str, nominal: float, around: Surroundings) -> Iterator[tuple[float, Cause]]:
    """Yield the pitches that come of taking the pitch for a pattern's whole length, or the other way round."""
    if measure != "pitch":
        return
    for count in around.counts:
        gaps, whole = count - 1, nominal * (count - 1)
        if gaps < 2:
            continue
        text = phrase("cause.length-for-pitch", nominal=nominal, count=round(count), pitch=nominal / gaps)
        yield nominal / gaps, Cause(code="pattern-length", message=text)
        text = phrase("cause.pitch-for-length", count=round(count), nominal=nominal, whole=whole)
        yield whole, Cause(code="pattern-length", message=text)


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
            wrong = nominal + way * half
            text = phrase(
                "cause.from-mid-plane", title=other.title, nominal=nominal, sign=sign, whole=whole, result=wrong
            )
            yield abs(wrong), Cause(code="from-mid-plane", message=text)
        wrong = nominal + whole
        text = phrase("cause.built-to-wrong-side", title=other.title, sum=_equation(nominal, "+", whole, wrong))
        yield wrong, Cause(code="wrong-side", message=text)


def _walls(nominal: float, around: Surroundings) -> Iterator[tuple[float, Cause]]:
    for wall in around.others:
        if wall.measure != "thickness" or not (wall.meets and wall.along):
            continue
        for times in (1, 2):
            for sign, way in (("+", 1), ("−", -1)):
                wrong = nominal + way * times * wall.nominal
                if times == 1:
                    text = phrase("cause.one-wall", title=wall.title, sum=_equation(nominal, sign, wall.nominal, wrong))
                else:
                    text = phrase(
                        "cause.two-walls", title=wall.title, nominal=nominal, sign=sign, wall=wall.nominal, result=wrong
                    )
                yield wrong, Cause(code="wall", message=text)


def _slants(nominal: float, angle: Neighbour) -> Iterator[tuple[float, Cause]]:
    for name, share in (("cos", math.cos), ("sin", math.sin)):
        factor = share(math.radians(angle.nominal))
        if abs(factor) < 1e-6:
            continue
        for wrong, sign in ((nominal * factor, "×"), (nominal / factor, "÷")):
            text = phrase(
                "cause.along-the-slant", nominal=nominal, sign=sign, function=name, angle=angle.nominal, result=wrong
            )
            yield wrong, Cause(code="along-the-slant", message=text)


def _equation(a: float, sign: str, b: float, result: float) -> Message:
    return phrase("part.equation", a=a, sign=sign, b=b, result=result)


@dataclass(frozen=True, slots=True, kw_only=True)
class WrongSize:
    """A size of a part that is off, and by how much."""

    id: str
    title: str
    required: Message
    measured: Message
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
    message = phrase(
        "cause.size-takes-up-gap" if lost_mm > 0 else "cause.size-opens-gap",
        title=size.title, measured=size.measured, asked=size.required, mm=abs(lost_mm),
    )  # fmt: skip
    return Cause(code="wrong-size-of-part", message=message, root=size.id)
