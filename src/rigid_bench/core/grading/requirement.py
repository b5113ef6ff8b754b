"""What a dimension check asks: its fields, its nominal and its limits."""

from dataclasses import dataclass
from typing import Annotated, Literal

from pydantic import Field

from rigid_bench.core.exercise.bundle import FILE, CheckModel, Exercise
from rigid_bench.core.formats.documents import Document, NestedFeature
from rigid_bench.core.measurement.measure import MEASURES
from rigid_bench.core.standards.fits import limits as fit_limits
from rigid_bench.core.standards.general_tolerances import angle_tolerance, linear_tolerance, radius_tolerance
from rigid_bench.core.values.errors import InvalidDocument
from rigid_bench.core.values.units import MM_PER_UNIT, evaluate, names_in
from rigid_bench.core.wording.language import _, series
from rigid_bench.core.wording.quantities import POWERS

_NonNegative = Annotated[float, Field(ge=0, allow_inf_nan=False)]
#: mm: the shorter leg of an angle is not known, so the widest range of the general tolerance counts.
_SHORT_LEG = 10.0
#: Rounding of a double, so that a value on the limit is within it.
DUST = 1e-6


class LimitsModel(Document):
    """How far a size may be below and above its nominal, in the exercise's unit."""

    minus: _NonNegative
    plus: _NonNegative


class NearModel(Document):
    """A band of marks for a value that is near: a share of them up to so many times the tolerance."""

    factor: Annotated[float, Field(gt=1, le=100)] = 2.0
    share: Annotated[float, Field(gt=0, lt=1)] = 0.5


class RangeModel(Document):
    """Least and greatest value, in the exercise's unit."""

    min: Annotated[float, Field(ge=-1e6, le=1e6, allow_inf_nan=False)]
    max: Annotated[float, Field(ge=-1e6, le=1e6, allow_inf_nan=False)]


class DimensionFields(Document):
    """Fields of a check of kind `dimension`."""

    part: str
    measure: str
    of: NestedFeature | None = None
    between: Annotated[list[NestedFeature], Field(min_length=2, max_length=2)] | None = None
    axis: Literal["x", "y", "z"] | None = None
    density: Annotated[float, Field(gt=0, le=100)] | None = None
    #: Of a mass: a material of the table, instead of a density.
    material: str | None = None
    #: The student must say the material, in the build file or in a note.
    declared: bool = False
    nominal: float | str
    #: Limits, a class ("ISO 2768-m"), a fit ("H7"), or "as modelled"; without one, the exercise's.
    tolerance: LimitsModel | str | None = None
    #: One band, or several: the narrowest that holds the value counts.
    near: NearModel | Annotated[list[NearModel], Field(max_length=10)] | None = None
    #: Free values are measured and never marked; optional ones may be left out; shown ones stand on the sheet
    #: so that nothing is missing from it, and are not checked.
    value: Literal["required", "free", "optional", "assumed", "calculated", "shown", "auxiliary"] = "required"
    #: What an assumed value may be when it is stated; from half to twice the nominal without it.
    sane: RangeModel | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Requirement:
    """What a dimension check asks for, in the exercise's unit."""

    dimension: str
    nominal: float
    minus: float
    plus: float

    def contains(self, value: float) -> bool:
        """Say whether a value is within the tolerance; a fit may lie wholly to one side of the nominal."""
        return self.nominal - self.minus - DUST <= value <= self.nominal + self.plus + DUST

    def meets_range(self, low: float, high: float) -> bool:
        """Say whether some value from low to high is within the tolerance."""
        return low <= self.nominal + self.plus + DUST and high >= self.nominal - self.minus - DUST

    def is_near(self, value: float, factor: float) -> bool:
        """Say whether a value is within so many times the tolerance."""
        below, above = self.nominal - factor * self.minus, self.nominal + factor * self.plus
        return below - DUST <= value <= above + DUST


def requirement_of(check: CheckModel, fields: DimensionFields, exercise: Exercise) -> Requirement:
    """Work out nominal and limits of a check.

    Raises
    ------
    InvalidDocument
        The expression cannot be read, names an unknown value or itself, or the tolerance
        class is not known.
    """
    dimension = dimension_of(check, fields)
    units = exercise.model.units
    nominal = _nominal(check, fields, exercise, dimension, seen=(check.id,))
    minus, plus = _limits(check, fields, exercise, dimension, nominal * MM_PER_UNIT[units] ** POWERS[dimension])
    return Requirement(dimension=dimension, nominal=nominal, minus=minus, plus=plus)


def _limits(
    check: CheckModel, fields: DimensionFields, exercise: Exercise, dimension: str, nominal_mm: float
) -> tuple[float, float]:
    """Return how far a size may be below and above its nominal, in the exercise's unit."""
    if isinstance(fields.tolerance, LimitsModel):
        return fields.tolerance.minus, fields.tolerance.plus
    name = fields.tolerance or exercise.model.tolerance
    if name == "as modelled":
        # of an area, volume or mass so much of a hundredth
        size = abs(nominal_mm) / 100 if POWERS[dimension] > 1 or dimension == "mass" else 1.0
        exact = 0.0 if dimension == "count" else exercise.model.as_modelled * size
        return exact, exact
    mm = MM_PER_UNIT[exercise.model.units]
    if dimension == "angle" and name.startswith("ISO 2768"):
        either = angle_tolerance(_SHORT_LEG, name)
        return either, either
    if POWERS[dimension] != 1:
        where = f"{FILE}, check '{check.id}'"
        raise InvalidDocument(
            where, _("'{name}' is a tolerance for lengths", name=name), _('Give {"minus": ..., "plus": ...}')
        )
    if name.startswith("ISO 2768"):
        is_round = fields.measure in ("radius", "chamfer")
        either = (radius_tolerance if is_round else linear_tolerance)(nominal_mm, name) / mm
        return either, either
    limits = fit_limits(name, nominal_mm)
    return -limits.lower / mm, limits.upper / mm


def dimension_of(check: CheckModel, fields: DimensionFields) -> str:
    """Return what a measure gives: "length", "angle", "area", "volume", "mass", "count" or "share".

    Raises
    ------
    InvalidDocument
        There is no such measure; the message says which there are.
    """
    if fields.measure not in MEASURES:
        known = series(sorted(MEASURES))
        where = f"{FILE}, check '{check.id}'"
        raise InvalidDocument(
            where,
            _("there is no measure '{measure}'", measure=fields.measure),
            _("The measures are: {known}", known=known),
        )
    return MEASURES[fields.measure].gives


def _nominal(
    check: CheckModel, fields: DimensionFields, exercise: Exercise, dimension: str, seen: tuple[str, ...]
) -> float:
    if not isinstance(fields.nominal, str):
        return fields.nominal
    units, named = exercise.model.units, names_in(fields.nominal)
    if named & set(seen):
        first = next(name for name in seen if name in named)
        circle = " → ".join([*seen[seen.index(first) :], first])
        step = _("Give one of them its value as a number")
        raise InvalidDocument(
            _("{file}, check '{id}'", file=FILE, id=check.id),
            _("the sums go round in a circle: {circle}", circle=circle),
            step,
        )
    names = {
        other.id: _nominal(other, DimensionFields.model_validate(other.fields), exercise, "length", (*seen, other.id))
        * MM_PER_UNIT[units]
        for other in exercise.model.checks
        if other.kind == "dimension" and other.id in named
    }
    try:
        value = evaluate(fields.nominal, names=names, unit=units if POWERS[dimension] == 1 else "mm")
    except InvalidDocument as exc:
        raise InvalidDocument(
            _("{file}, check '{id}', {where}", file=FILE, id=check.id, where=exc.where), exc.problem, exc.next_step
        ) from exc
    return value / (MM_PER_UNIT[units] if POWERS[dimension] == 1 else 1.0)
