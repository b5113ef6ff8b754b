"""What a change of sizes touches in an exercise: which checks measure something else, or are no longer met."""

import json
from collections.abc import Mapping

from rigid_bench.core.exercise.bundle import FILE, Exercise, read_exercise
from rigid_bench.core.exercise.change_impact.models import TouchedCheck
from rigid_bench.core.exercise.references import read_reference
from rigid_bench.core.formats.message import UNSAID, phrase
from rigid_bench.core.grading.checks.dimension import request_of
from rigid_bench.core.grading.grade import grade
from rigid_bench.core.grading.report.models import Report
from rigid_bench.core.grading.requirement import DimensionFields, requirement_of
from rigid_bench.core.measurement.measure import MEASURES, measure
from rigid_bench.core.registration.correspond import RegisteredPart
from rigid_bench.core.values.errors import GeometryError
from rigid_bench.core.values.tolerance import Tolerance
from rigid_bench.core.wording.phrases import amount
from rigid_bench.core.wording.quantities import POWERS

#: Share of a value by which it may differ and be the same.
_SAME = 1e-7
#: Digits to which a size that follows is asked.
_DIGITS = 4


def with_new_sizes(
    before: Mapping[str, bytes], after: Mapping[str, bytes], *, tolerance: Tolerance
) -> dict[str, bytes]:
    """Return the changed files, each size that the change of the models has changed asked as it is now.

    Sizes that are worked out by an expression keep it, and so do numbers of things.
    """
    old, new = (read_exercise(files) for files in (before, after))
    was, now = (_sizes(exercise, tolerance) for exercise in (old, new))
    document = json.loads(after[FILE])
    for check in document["checks"]:
        value = now.get(check["id"])
        if value is None or isinstance(check["nominal"], str) or MEASURES[check["measure"]].gives == "count":
            continue
        if _differs(was.get(check["id"]), value):
            check["nominal"] = round(value, _DIGITS)
    return {**after, FILE: json.dumps(document, indent=1).encode()}


def touched(before: Mapping[str, bytes], after: Mapping[str, bytes], *, tolerance: Tolerance) -> list[TouchedCheck]:
    """Return the checks that a change of an exercise touches, in its order.

    Parameters
    ----------
    before, after
        Files of the exercise's bundle; each is graded by what it asks itself, with its own model.
    tolerance
        How near is equal.
    """
    old, new = (read_exercise(files) for files in (before, after))
    was, now = (_sizes(exercise, tolerance) for exercise in (old, new))
    reports = [_graded(exercise, files, tolerance) for exercise, files in ((old, before), (new, after))]
    rows = [{row.id: row for row in report.checks} if report else {} for report in reports]
    touched_checks = []
    for check in new.model.checks:
        if check.kind == "dimension":
            fields = DimensionFields.model_validate(check.fields)
            wanted = requirement_of(check, fields, new)
            values = was.get(check.id), now.get(check.id)
            words = [
                phrase("measured.not-found") if value is None else amount(value, wanted.dimension, new.model.units)
                for value in values
            ]
            is_other = _differs(*values)
            is_met = values[1] is not None and wanted.contains(values[1])
        else:
            one, other = (own.get(check.id) for own in rows)
            words = [row.measured_message if row else UNSAID for row in (one, other)]
            is_met = other is None or other.verdict == "met"
            is_other = (
                one is not None
                and other is not None
                and (one.measured_message, one.verdict) != (other.measured_message, other.verdict)
            )
        if is_other:
            touched_checks.append(
                TouchedCheck(
                    id=check.id, title=check.title, kind=check.kind, parts=sorted(_parts_of(check.fields, new)),
                    was=words[0], now=words[1], is_met=is_met,
                )
            )  # fmt: skip
    return touched_checks


def _graded(exercise: Exercise, files: Mapping[str, bytes], tolerance: Tolerance) -> Report | None:
    named = {part.file for part in exercise.model.parts if part.file} | {exercise.model.reference}
    handed_in = {name: data for name, data in files.items() if name in named}
    return grade(exercise, handed_in, tolerance=tolerance) if handed_in else None


def _sizes(exercise: Exercise, tolerance: Tolerance) -> dict[str, float | None]:
    """Measure every dimension on the exercise's own models, in its unit; None where it is not there."""
    sizes: dict[str, float | None] = {}
    for check in exercise.model.checks:
        if check.kind != "dimension":
            continue
        fields = DimensionFields.model_validate(check.fields)
        part = exercise.part(fields.part)
        if part.file is None:
            continue
        wanted = requirement_of(check, fields, exercise)
        registered = RegisteredPart.over_itself(read_reference(exercise, part, tolerance=tolerance))
        try:
            value = measure(registered, request_of(check, fields, exercise))
        except GeometryError:
            value = None
        sizes[check.id] = None if value is None else value / exercise.mm ** POWERS[wanted.dimension]
    return sizes


def _differs(one: float | None, other: float | None) -> bool:
    if one is None or other is None:
        return one is not other
    return abs(one - other) > _SAME * max(1.0, abs(one))


def _parts_of(fields: object, exercise: Exercise) -> set[str]:
    """Return the parts that a check's fields name, themselves or by their instances."""
    instances = {own.id: own.part for own in exercise.reference.instances} if exercise.reference else {}
    parts = {part.id for part in exercise.model.parts}
    if isinstance(fields, Mapping):
        return {part for value in fields.values() for part in _parts_of(value, exercise)}
    if isinstance(fields, list):
        return {part for value in fields for part in _parts_of(value, exercise)}
    if isinstance(fields, str):
        return ({fields} & parts) | ({instances[fields]} if fields in instances else set())
    return set()
