"""Is a required size there? Measured on the student's part, wherever it stands."""

from typing import Any

from rigid_bench.core.exercise.bundle import FILE, CheckModel, Exercise
from rigid_bench.core.formats.message import Message, phrase
from rigid_bench.core.grading.checks.base import CheckKind, Task, known_part
from rigid_bench.core.grading.diagnosis import causes, part_causes
from rigid_bench.core.grading.diagnosis.consequential_errors import feature_keys, same_direction
from rigid_bench.core.grading.diagnosis.dual_units import excuse
from rigid_bench.core.grading.diagnosis.extras import without_extras
from rigid_bench.core.grading.diagnosis.material import stated_material, wrong_material
from rigid_bench.core.grading.diagnosis.missing_faces import are_of_one_feature
from rigid_bench.core.grading.intake.statements import stated_number
from rigid_bench.core.grading.matching.described import NAMELESS, measure_described
from rigid_bench.core.grading.report.models import Cause, CheckResult, Gauge
from rigid_bench.core.grading.requirement import DimensionFields, Requirement, dimension_of, requirement_of
from rigid_bench.core.measurement.measure import MEASURES, measure
from rigid_bench.core.measurement.measure_request import Request
from rigid_bench.core.registration.correspond import RegisteredPart
from rigid_bench.core.standards.materials import DENSITIES
from rigid_bench.core.values.errors import InvalidDocument
from rigid_bench.core.values.units import MM_PER_UNIT
from rigid_bench.core.wording.language import _, series
from rigid_bench.core.wording.phrases import amount, tolerance_band, walls_through
from rigid_bench.core.wording.quantities import POWERS, unit_of

#: Measures that extra features change, and are measured without them where a part may have some.
_OF_THE_WHOLE = ("volume", "mass", "likeness")
_Task = Task[DimensionFields]


def _required(check: CheckModel, fields: DimensionFields, exercise: Exercise) -> Message:
    if fields.value == "free":
        return phrase("asks.free")
    wanted = requirement_of(check, fields, exercise)
    if fields.value == "assumed":
        low, high = _sane(fields, wanted)
        return phrase("asks.yours", low=low, high=amount(high, wanted.dimension, exercise.model.units))
    if fields.measure == "pierces":
        text = walls_through(wanted.nominal)
    else:
        text = tolerance_band(wanted.nominal, wanted.minus, wanted.plus, wanted.dimension, exercise.model.units)
    if isinstance(fields.nominal, str):
        text = phrase("asks.size-by-sum", size=text, sum=phrase("expression", sum=fields.nominal))
    return phrase("asks.optional", size=text) if fields.value == "optional" else text


def _sane(fields: DimensionFields, wanted: Requirement) -> tuple[float, float]:
    """Return what an assumed value may be, in the exercise's unit."""
    return (fields.sane.min, fields.sane.max) if fields.sane else (wanted.nominal / 2, wanted.nominal * 2)


def _request(task: _Task) -> Request:
    return request_of(task.check, task.fields, task.context.exercise)


def request_of(check: CheckModel, fields: DimensionFields, exercise: Exercise) -> Request:
    """Return what a dimension check measures.

    Raises
    ------
    InvalidDocument
        Its material has no density in the table.
    """
    models = [*(fields.between or []), *([fields.of] if fields.of else [])]
    return Request(
        measure=fields.measure,
        features=tuple(model.feature(mm=exercise.mm) for model in models),
        axis=fields.axis,
        density=_density(check, fields),
        where=f"{FILE}, check '{check.id}'",
    )


def _density(check: CheckModel, fields: DimensionFields) -> float | None:
    """Return the density that a mass is worked out with, g/cm3."""
    if fields.material is None or fields.density is not None:
        return fields.density
    if fields.material not in DENSITIES:
        where = f"{FILE}, check '{check.id}'"
        known = series(sorted(DENSITIES))
        raise InvalidDocument(
            where,
            _("there is no material '{material}'", material=fields.material),
            _("Name one of: {known}", known=known),
        )
    return DENSITIES[fields.material]


def _judge(task: _Task) -> CheckResult:
    wanted = requirement_of(task.check, task.fields, task.context.exercise)
    registered = task.context.registered(task.fields.part, where=task.where)
    if registered is None:
        return task.missing_part(task.fields.part)
    if task.fields.material and (result := _of_material(task, registered)):
        return result
    size = _measured(task, registered)
    if size is None:
        return _not_found(task, registered, wanted)
    power = POWERS[wanted.dimension]
    value = size * registered.scale ** (3 if wanted.dimension == "mass" else power) / task.context.exercise.mm**power
    if task.fields.value == "free":
        return _free(task, amount(value, wanted.dimension, task.context.exercise.model.units))
    if task.fields.value == "assumed" and (result := _assumed(task, wanted, value)):
        return result
    return _compared(task, wanted, value, registered)


def _of_material(task: _Task, registered: RegisteredPart) -> CheckResult | None:
    """Judge a mass whose material is another than asked, or is not said where it must be."""
    fields, asked_for = task.fields, task.fields.material or ""
    stated = stated_material(task.context, fields.part, task.check.id)
    if not stated and not fields.declared:
        return None
    cause = wrong_material(stated, asked_for, registered.part.volume * registered.scale**3)
    if cause is None:
        return None
    step = phrase("step.set-material", material=asked_for)
    measured = phrase("as-said", text=stated) if stated else phrase("measured.no-material")
    return task.result("missed", measured, cause=cause, next_step=step)


def _measured(task: _Task, registered: RegisteredPart) -> float | None:
    """Measure on the student's part, in mm; extras that the exercise allows are left out of volume and mass."""
    part = task.context.exercise.part(task.fields.part)
    if part.file is None:
        return measure_described(
            task.check, task.fields.measure, registered, task.context.exercise, request=_request(task)
        )
    if task.fields.measure in _OF_THE_WHOLE and part.extras != "forbidden":
        registered = without_extras(registered, task.context.tolerance)
    return measure(registered, _request(task))


def _not_found(task: _Task, registered: RegisteredPart, wanted: Requirement) -> CheckResult:
    name = task.context.exercise.part_name(task.fields.part)
    if task.fields.value == "free":
        return _free(task, phrase("measured.none"))
    if task.fields.value == "optional":
        if task.context.submission.statements.get(task.check.id):
            return task.result("met", phrase("measured.left-out-noted"))
        step = phrase("step.say-why-left-out")
        return task.result("unchecked", phrase("measured.left-out"), next_step=step)
    text = phrase("cause.no-such-face")
    cause = Cause(code="feature-missing", message=text, root=_missing_too(task, registered))
    step = phrase("step.add-to", name=name)
    if part_causes.is_mirrored(registered, task.context.tolerance):
        cause, step = part_causes.mirrored_part(), phrase("step.other-hand", name=name)
    return task.result(
        "missed", phrase("measured.not-found"), cause=cause, next_step=step, gauge=_gauge(task, wanted, None)
    )


def _missing_too(task: _Task, registered: RegisteredPart) -> str:
    """Return the row before this one that looks for another face of the feature that is missing; "" for none."""
    asked, exercise = {check.id: check for check in task.context.exercise.model.checks}, task.context.exercise
    for done in task.context.done:
        is_missing = done.kind == "dimension" and done.cause and done.cause.code == "feature-missing"
        if not is_missing or asked[done.id].fields.get("part") != task.fields.part:
            continue
        other = request_of(asked[done.id], DimensionFields.model_validate(asked[done.id].fields), exercise)
        if are_of_one_feature(registered, _request(task).features, other.features, where=task.where):
            return done.id
    return ""


def _free(task: _Task, shown: Message) -> CheckResult:
    return task.result("met", phrase("measured.free", size=shown)).model_copy(update={"awarded": 0.0, "available": 0.0})


def _assumed(task: _Task, wanted: Requirement, value: float) -> CheckResult | None:
    """Judge a size that the sheet leaves open: any sane value passes that the student states; None without a note."""
    units = task.context.exercise.model.units
    note = task.context.submission.statements.get(task.check.id, "")
    stated = stated_number(note, unit=units if POWERS[wanted.dimension] == 1 else None)
    if stated is None:
        return None
    low, high = _sane(task.fields, wanted)
    measured, said = (amount(size, wanted.dimension, units) for size in (value, stated))
    exact = task.context.tolerance.model_mm / MM_PER_UNIT[units]
    if abs(value - stated) > exact:
        cause = Cause(code="not-as-stated", message=phrase("cause.not-as-stated", stated=said, measured=measured))
        step = phrase("step.let-agree")
        return task.result("missed", measured, cause=cause, next_step=step)
    if not low <= value <= high:
        step = phrase("step.assume-between", low=low, high=amount(high, wanted.dimension, units))
        return task.result("missed", phrase("measured.as-stated", measured=measured), next_step=step)
    return task.result("met", phrase("measured.as-stated", measured=measured))


def _compared(task: _Task, wanted: Requirement, value: float, registered: RegisteredPart) -> CheckResult:
    units = task.context.exercise.model.units
    more: dict[str, Any] = {"difference": round(value - wanted.nominal, 6), "gauge": _gauge(task, wanted, value)}
    is_through = task.fields.measure == "pierces"
    measured = walls_through(value) if is_through else amount(value, wanted.dimension, units)
    facets = part_causes.of_facets(registered, _request(task), value, units)
    if facets:
        measured = phrase("part.with-remark", measured=measured, remark=facets.message)
    if wanted.contains(value) or (facets and wanted.meets_range(value - facets.allowance, value)):
        return task.result("met", measured, **more)
    excused = excuse(wanted.nominal, value, units) if wanted.dimension == "length" else None
    if excused:
        return task.result("met", phrase("part.excused", measured=measured, why=excused), **more)
    cause = _cause(task, wanted, value, registered)
    band_of = _band(task.fields, wanted, value) if cause is None else None
    if band_of is not None:
        step = phrase("step.nearly", size=amount(wanted.nominal, wanted.dimension, units))
        return task.result("near", measured, next_step=step, awarded=task.check.marks * band_of, **more)
    step = _next_step(task.fields.measure, wanted, value, units, cause)
    if task.fields.value == "assumed":
        step = phrase("step.say-what-you-took", measured=measured)
    return task.result("missed", measured, cause=cause, next_step=step, **more)


def _cause(task: _Task, wanted: Requirement, value: float, registered: RegisteredPart) -> Cause | None:
    exercise, measure_name = task.context.exercise, task.fields.measure
    if scaled := causes.of_scale(registered.scale):
        return scaled
    is_described = exercise.part(task.fields.part).file is None
    if not is_described and (
        shown := part_causes.of_part(registered, _request(task), task.context.tolerance, exercise.mm)
    ):
        return shown
    return causes.of_dimension(
        measure_name,
        wanted.nominal,
        value,
        _around(task),
        units=exercise.model.units,
        tolerance=task.context.tolerance,
    )


def _band(fields: DimensionFields, wanted: Requirement, value: float) -> float | None:
    """Return the share of the marks that a near value gets; None beyond all bands."""
    bands = fields.near if isinstance(fields.near, list) else [fields.near] if fields.near else []
    inside = [band for band in bands if wanted.is_near(value, band.factor)]
    return min(inside, key=lambda near: near.factor).share if inside else None


def _next_step(measure: str, wanted: Requirement, value: float, units: str, cause: Cause | None) -> Message:
    if cause and cause.code == "unit-of-part":
        return causes.set_unit()
    off = value - wanted.nominal
    nominal = amount(wanted.nominal, wanted.dimension, units)
    if cause and cause.code == "holes-of-other-size":
        return phrase("step.give-size-asked")
    if measure == "pierces":
        return phrase("step.make-it-go", measured=walls_through(value), asked=walls_through(wanted.nominal))
    if wanted.dimension == "count":
        return phrase("step.make-it-so-many", count=round(value), asked=nominal)
    if cause:
        return phrase("step.change-to", nominal=nominal)
    size = amount(abs(off), wanted.dimension, units)
    if off > 0:
        return phrase("step.too-large", size=size, nominal=nominal)
    return phrase("step.too-small", size=size, nominal=nominal)


def _gauge(task: _Task, wanted: Requirement, value: float | None) -> Gauge | None:
    if wanted.dimension == "count":
        return None  # what is counted has no band
    if task.fields.value == "assumed":
        low, high = _sane(task.fields, wanted)
        return Gauge(
            low=low, high=high, measured=value, unit=unit_of(wanted.dimension, task.context.exercise.model.units)
        )
    return Gauge(
        low=wanted.nominal - wanted.minus,
        high=wanted.nominal + wanted.plus,
        measured=value,
        unit=unit_of(wanted.dimension, task.context.exercise.model.units),
    )


def _around(task: _Task) -> causes.Surroundings:
    """Gather the other sizes that are asked of the same part, and which of them meet."""
    exercise = task.context.exercise
    neighbours: list[tuple[CheckModel, causes.Neighbour]] = []
    counts: list[float] = []
    for other in exercise.model.checks:
        if other.kind != "dimension" or other.id == task.check.id or other.is_shown:
            continue  # what fills the sheet up is near any value by chance
        fields = DimensionFields.model_validate(other.fields)
        if fields.part != task.fields.part:
            continue
        if fields.measure in ("count", "pattern_count"):
            counts.append(requirement_of(other, fields, exercise).nominal)
        elif dimension_of(other, fields) in ("length", "angle"):
            neighbour = causes.Neighbour(
                title=other.title,
                nominal=requirement_of(other, fields, exercise).nominal,
                measure=fields.measure,
                meets=bool(feature_keys(task.check) & feature_keys(other)),
                along=same_direction(task.check, other),
            )
            neighbours.append((other, neighbour))
    return causes.Surroundings(
        others=[neighbour for _, neighbour in neighbours],
        counts=counts,
        radii=_radii(task),
        chains=[
            (a, b)
            for k, (first, a) in enumerate(neighbours)
            for second, b in neighbours[k + 1 :]
            if a.measure == b.measure == "length" and (a.meets or b.meets) and a.along and b.along
            if feature_keys(first) & feature_keys(second)
        ],
    )


def _radii(task: _Task) -> list[float]:
    """Return the radii of the round walls that a check speaks of, in the exercise's unit."""
    models = [*(task.fields.between or []), *([task.fields.of] if task.fields.of else [])]
    return [model.cylinder.radius for model in models if model.cylinder]


def _verify(check: CheckModel, fields: DimensionFields, exercise: Exercise) -> None:
    known_part(check, exercise, fields.part, described=True)
    _density(check, fields)
    requirement_of(check, fields, exercise)
    is_described = exercise.part(fields.part).file is None
    if not is_described and fields.value != "shown":
        MEASURES[fields.measure].check(request_of(check, fields, exercise))
    if is_described and (fields.of or fields.between or fields.measure not in NAMELESS):
        where = f"{FILE}, check '{check.id}'"
        problem = _("part '{part}' has no reference model to find this on", part=fields.part)
        raise InvalidDocument(
            where, problem, _("Name its file, or ask one of: {nameless}", nameless=series(sorted(NAMELESS)))
        )


KIND = CheckKind(
    name="dimension",
    subject="part",
    spreads=True,
    strip="parts",
    fields=DimensionFields,
    required=_required,
    judge=_judge,
    verify=_verify,
)
