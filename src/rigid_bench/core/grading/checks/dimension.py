"""Is a required size there? Measured on the student's part, wherever it stands."""

from dataclasses import dataclass
from typing import Annotated, Any, Literal

from pydantic import Field

from rigid_bench.core.documents import Document, FeatureModel
from rigid_bench.core.errors import InvalidDocument
from rigid_bench.core.exercise.exercise import FILE, CheckModel, Exercise
from rigid_bench.core.geometry.feature_measures import edge_differences
from rigid_bench.core.geometry.measure import MEASURES, measure
from rigid_bench.core.geometry.measure_request import Request
from rigid_bench.core.grading import causes
from rigid_bench.core.grading.checks.base import CheckKind, Task, known_part
from rigid_bench.core.grading.one_slip import feature_keys
from rigid_bench.core.grading.report import Cause, CheckResult, Gauge
from rigid_bench.core.grading.wording import POWERS, band, number, quantity, sum_words, unit_of
from rigid_bench.core.standards.fits import limits as fit_limits
from rigid_bench.core.standards.general_tolerances import angle_tolerance, linear_tolerance, radius_tolerance
from rigid_bench.core.standards.materials import DENSITIES
from rigid_bench.core.units import MM_PER_UNIT, evaluate

_NonNegative = Annotated[float, Field(ge=0, allow_inf_nan=False)]
#: mm: the shorter leg of an angle is not known, so the widest range of the general tolerance counts.
_SHORT_LEG = 10.0
#: Rounding of a double, so that a value on the limit is within it.
_DUST = 1e-6


class LimitsModel(Document):
    """How far a size may be below and above its nominal, in the exercise's unit."""

    minus: _NonNegative
    plus: _NonNegative


class NearModel(Document):
    """Marks for a value that is near: a share of them up to so many times the tolerance."""

    factor: Annotated[float, Field(gt=1, le=100)] = 2.0
    share: Annotated[float, Field(gt=0, lt=1)] = 0.5


class DimensionFields(Document):
    """Fields of a check of kind `dimension`."""

    part: str
    measure: str
    of: FeatureModel | None = None
    between: Annotated[list[FeatureModel], Field(min_length=2, max_length=2)] | None = None
    axis: Literal["x", "y", "z"] | None = None
    density: Annotated[float, Field(gt=0, le=100)] | None = None
    #: Of a mass: a material of the table, instead of a density.
    material: str | None = None
    nominal: float | str
    #: Limits, a class ("ISO 2768-m"), a fit ("H7"), or "as modelled"; without one, the exercise's.
    tolerance: LimitsModel | str | None = None
    near: NearModel | None = None
    #: Free values are shown and never marked; optional ones may be left out.
    value: Literal["required", "free", "optional", "assumed", "calculated"] = "required"


@dataclass(frozen=True, slots=True, kw_only=True)
class Asked:
    """What a dimension check asks for, in the exercise's unit."""

    dimension: str
    nominal: float
    minus: float
    plus: float

    def contains(self, value: float) -> bool:
        """Say whether a value is within the tolerance; a fit may lie wholly to one side of the nominal."""
        return self.nominal - self.minus - _DUST <= value <= self.nominal + self.plus + _DUST


def asked(check: CheckModel, fields: DimensionFields, exercise: Exercise) -> Asked:
    """Work out nominal and limits of a check.

    Raises
    ------
    InvalidDocument
        The expression cannot be read, names an unknown value or itself, or the tolerance
        class is not known.
    """
    dimension = _dimension(check, fields)
    units = exercise.model.units
    nominal = _nominal(check, fields, exercise, dimension, seen=(check.id,))
    minus, plus = _limits(check, fields, exercise, dimension, nominal * MM_PER_UNIT[units] ** POWERS[dimension])
    return Asked(dimension=dimension, nominal=nominal, minus=minus, plus=plus)


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
        raise InvalidDocument(where, f"'{name}' is a tolerance for lengths", 'Give {"minus": ..., "plus": ...}')
    if name.startswith("ISO 2768"):
        is_round = fields.measure in ("radius", "chamfer")
        either = (radius_tolerance if is_round else linear_tolerance)(nominal_mm, name) / mm
        return either, either
    found = fit_limits(name, nominal_mm)
    return -found.lower / mm, found.upper / mm


def _dimension(check: CheckModel, fields: DimensionFields) -> str:
    if fields.measure not in MEASURES:
        known = ", ".join(sorted(MEASURES))
        where = f"{FILE}, check '{check.id}'"
        raise InvalidDocument(where, f"there is no measure '{fields.measure}'", f"The measures are: {known}")
    return MEASURES[fields.measure][0]


def _nominal(
    check: CheckModel, fields: DimensionFields, exercise: Exercise, dimension: str, seen: tuple[str, ...]
) -> float:
    if not isinstance(fields.nominal, str):
        return fields.nominal
    units = exercise.model.units
    names = {
        other.id: _nominal(other, DimensionFields.model_validate(other.fields), exercise, "length", (*seen, other.id))
        * MM_PER_UNIT[units]
        for other in exercise.model.checks
        if other.kind == "dimension" and other.id not in seen and other.id in fields.nominal
    }
    try:
        value = evaluate(fields.nominal, names=names, unit=units if POWERS[dimension] == 1 else "mm")
    except InvalidDocument as exc:
        raise InvalidDocument(f"{FILE}, check '{check.id}', {exc.where}", exc.problem, exc.next_step) from exc
    return value / (MM_PER_UNIT[units] if POWERS[dimension] == 1 else 1.0)


def _required(check: CheckModel, fields: DimensionFields, exercise: Exercise) -> str:
    if fields.value == "free":
        return "free: make it your own"
    wanted = asked(check, fields, exercise)
    text = band(wanted.nominal, wanted.minus, wanted.plus, wanted.dimension, exercise.model.units)
    text = f"{text} ({sum_words(fields.nominal)})" if isinstance(fields.nominal, str) else text
    return f"{text}, {fields.value}" if fields.value in ("optional", "assumed") else text


def _request(task: Task[DimensionFields]) -> Request:
    models = [*(task.fields.between or []), *([task.fields.of] if task.fields.of else [])]
    return Request(
        measure=task.fields.measure,
        features=tuple(model.feature(mm=task.context.exercise.mm) for model in models),
        axis=task.fields.axis,
        density=_density(task.check, task.fields),
        where=task.where,
    )


def _density(check: CheckModel, fields: DimensionFields) -> float | None:
    """Return the density that a mass is worked out with, g/cm3."""
    if fields.material is None or fields.density is not None:
        return fields.density
    if fields.material not in DENSITIES:
        where = f"{FILE}, check '{check.id}'"
        known = ", ".join(sorted(DENSITIES))
        raise InvalidDocument(where, f"there is no material '{fields.material}'", f"Name one of: {known}")
    return DENSITIES[fields.material]


def _judge(task: Task[DimensionFields]) -> CheckResult:
    wanted = asked(task.check, task.fields, task.context.exercise)
    laid = task.context.laid(task.fields.part, where=task.where)
    if laid is None:
        return task.missing_part(task.fields.part)
    found = measure(laid, _request(task))
    if found is None and task.fields.value == "optional":
        step = "It may be left out; say in your note why you left it out."
        return task.result("unchecked", "left out", next_step=step, awarded=task.check.marks)
    if found is None:
        return task.result(
            "missed",
            "not found",
            cause=Cause(code="feature-missing", text="The part has no such face or hole where it should be."),
            next_step=f"Add it to {task.context.exercise.part_name(task.fields.part)} and hand in again.",
            gauge=_gauge(task, wanted, None),
        )
    power = POWERS[wanted.dimension]
    value = found * laid.scale ** (3 if wanted.dimension == "mass" else power) / task.context.exercise.mm**power
    if task.fields.value == "free":
        shown = f"{quantity(value, wanted.dimension, task.context.exercise.model.units)} (free)"
        return task.result("met", shown).model_copy(update={"awarded": 0.0, "available": 0.0})
    return _compared(task, wanted, value, laid.scale)


def _compared(task: Task[DimensionFields], wanted: Asked, value: float, scale: float = 1.0) -> CheckResult:
    units = task.context.exercise.model.units
    more: dict[str, Any] = {"difference": round(value - wanted.nominal, 6), "gauge": _gauge(task, wanted, value)}
    measured = quantity(value, wanted.dimension, units)
    if wanted.contains(value):
        return task.result("met", measured, **more)
    cause = (
        causes.of_scale(scale)
        or _edges(task)
        or causes.of_dimension(
            task.fields.measure, wanted.nominal, value, _around(task), units=units, tolerance=task.context.tolerance
        )
    )
    near = task.fields.near
    if near and cause is None and _is_near(wanted, value, near.factor):
        step = f"Nearly right: change it to {quantity(wanted.nominal, wanted.dimension, units)}."
        return task.result("near", measured, next_step=step, awarded=task.check.marks * near.share, **more)
    step = _next_step(wanted, value, units, has_cause=cause is not None)
    return task.result("missed", measured, cause=cause, next_step=step, **more)


def _edges(task: Task[DimensionFields]) -> Cause | None:
    """Name the rounded or chamfered edges that are missing or too many."""
    laid = task.context.laid(task.fields.part, where=task.where)
    if task.fields.measure not in ("fillets", "chamfers") or laid is None:
        return None
    mm = task.context.exercise.mm
    missing, extra = edge_differences(laid, task.fields.measure, tolerance=task.context.tolerance)
    said = [
        f"{text} at {', '.join(number(each / mm, 1) for each in place)} {word}"
        for word, found in (("is missing", missing), ("is too many", extra))
        for text, place in found
    ]
    return Cause(code="edges", text=f"{'; '.join(said[:6])}.") if said else None


def _is_near(wanted: Asked, value: float, factor: float) -> bool:
    below, above = wanted.nominal - factor * wanted.minus, wanted.nominal + factor * wanted.plus
    return below - _DUST <= value <= above + _DUST


def _next_step(wanted: Asked, value: float, units: str, *, has_cause: bool) -> str:
    off = value - wanted.nominal
    nominal = quantity(wanted.nominal, wanted.dimension, units)
    if wanted.dimension == "count":
        return f"There {'are' if value != 1 else 'is'} {number(value)}; make it {nominal} and hand in again."
    if has_cause:
        return f"Change it to {nominal} and hand in again."
    way = "too large" if off > 0 else "too small"
    return f"It is {quantity(abs(off), wanted.dimension, units)} {way}. Change it to {nominal} and hand in again."


def _gauge(task: Task[DimensionFields], wanted: Asked, value: float | None) -> Gauge:
    return Gauge(
        low=wanted.nominal - wanted.minus,
        high=wanted.nominal + wanted.plus,
        measured=value,
        unit=unit_of(wanted.dimension, task.context.exercise.model.units),
    )


def _around(task: Task[DimensionFields]) -> causes.Surroundings:
    """Gather the other sizes that are asked of the same part, and which of them meet."""
    exercise = task.context.exercise
    found: list[tuple[CheckModel, causes.Neighbour]] = []
    for other in exercise.model.checks:
        if other.kind != "dimension" or other.id == task.check.id:
            continue
        fields = DimensionFields.model_validate(other.fields)
        if fields.part == task.fields.part and _dimension(other, fields) in ("length", "angle"):
            neighbour = causes.Neighbour(
                title=other.title,
                nominal=asked(other, fields, exercise).nominal,
                measure=fields.measure,
                meets=bool(feature_keys(task.check) & feature_keys(other)),
            )
            found.append((other, neighbour))
    return causes.Surroundings(
        others=[neighbour for _, neighbour in found],
        radius=_radius(task),
        chains=[
            (a, b)
            for k, (first, a) in enumerate(found)
            for second, b in found[k + 1 :]
            if a.measure == b.measure == "length" and (a.meets or b.meets)
            if feature_keys(first) & feature_keys(second)
        ],
    )


def _radius(task: Task[DimensionFields]) -> float:
    """Return the radius of the round wall that a check speaks of, in the exercise's unit; 0 without one."""
    models = [*(task.fields.between or []), *([task.fields.of] if task.fields.of else [])]
    return next((each.cylinder.radius for each in models if each.cylinder), 0.0)


def _verify(check: CheckModel, fields: DimensionFields, exercise: Exercise) -> None:
    known_part(check, exercise, fields.part)
    _density(check, fields)
    asked(check, fields, exercise)


KIND = CheckKind(
    name="dimension", strip="parts", fields=DimensionFields, required=_required, judge=_judge, verify=_verify
)
