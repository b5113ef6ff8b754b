"""Sizes in a chain or from one datum: the same places, the tolerances that add up said."""

import pytest
from build123d import Align, Box, Cylinder, Pos

from rigid_bench.core.drawing.audit.part_audit import audit_part
from rigid_bench.core.exercise.authoring.dimension_order import Order, chain_sums, reordered
from rigid_bench.core.exercise.bundle import CheckModel, features_of
from rigid_bench.core.exercise.references import read_reference
from rigid_bench.core.formats.pictures import AskedSize
from rigid_bench.core.measurement.measure import measure
from rigid_bench.core.measurement.measure_request import Request
from rigid_bench.core.registration.correspond import RegisteredPart
from tests.core.drawing.drawn_parts import proposed
from tests.support.shapes import TOLERANCE


def bar() -> object:
    part = Box(120, 20, 12, align=(Align.MIN,) * 3)
    for x in (12, 38, 70):
        part -= Pos(x, 10, 0) * Cylinder(3, 60)
    return proposed(part)[0]


def along_x(checks: list[dict[str, object]]) -> list[float]:
    return [
        float(check["nominal"])  # type: ignore[arg-type]
        for check in checks
        if check.get("between") and check.get("axis", "x") == "x" and "along X" in str(check["title"])
    ]


def test_a_chain_has_each_step_and_a_datum_each_place() -> None:
    exercise = bar()
    given = [check.model_dump(mode="json") for check in exercise.model.checks]  # type: ignore[attr-defined]
    chain = reordered(given, "p", "chain")
    assert along_x(chain) == [12.0, 26.0, 32.0]
    datum = reordered(chain, "p", "datum")
    assert along_x(datum) == [12.0, 38.0, 70.0]
    assert [check["id"] for check in chain] == [check["id"] for check in given]
    # both fix the part wholly, and nothing twice
    for checks in (chain, datum):
        models = [CheckModel.model_validate(check) for check in checks]
        part = exercise.model.parts[0]  # type: ignore[attr-defined]
        audit = audit_part(read_reference(exercise, part, tolerance=TOLERANCE), part, models, mm=1.0)  # type: ignore[arg-type]
        assert audit.complete
        assert not audit.redundant


def test_a_step_and_holes_beside_each_other_are_measured_as_they_can_be() -> None:
    """A length lies between faces alone; between axes that stand askew a position says along which direction."""
    part = Box(120, 40, 12, align=(Align.MIN,) * 3) - Pos(50, 0, 6) * Box(70, 40, 6, align=(Align.MIN,) * 3)
    for x, y in ((20, 10), (80, 30)):
        part -= Pos(x, y, 0) * Cylinder(3, 60)
    exercise = proposed(part)[0]
    given = [check.model_dump(mode="json") for check in exercise.model.checks]
    orders: tuple[Order, ...] = ("chain", "datum")
    for order in orders:
        changed = reordered(given, "p", order)
        assert changed != given, order
        given = changed  # from the datum again out of the chain
        registered = RegisteredPart.over_itself(read_reference(exercise, exercise.model.parts[0], tolerance=TOLERANCE))
        for check in (CheckModel.model_validate(own) for own in changed if own.get("between")):
            fields = check.fields
            asked = Request(
                measure=fields["measure"], features=tuple(features_of(check)), axis=fields.get("axis"), where=order
            )
            assert measure(registered, asked) == pytest.approx(fields["nominal"], abs=1e-6), (order, check.title)


def test_the_tolerances_of_a_chain_add_up() -> None:
    exercise = bar()
    given = [check.model_dump(mode="json") for check in exercise.model.checks]  # type: ignore[attr-defined]
    models = [CheckModel.model_validate(check) for check in reordered(given, "p", "chain")]
    sizes = {check.id: AskedSize(nominal=1, minus=0.1, plus=0.2) for check in models}
    (along,) = [own for own in chain_sums(models, ["p"], sizes) if own.axis == "X"]
    assert (along.count, along.minus, along.plus) == (3, pytest.approx(0.3), pytest.approx(0.6))
    from_datum = [CheckModel.model_validate(check) for check in reordered(given, "p", "datum")]
    assert not [own for own in chain_sums(from_datum, ["p"], sizes) if own.axis == "X"]


def test_sizes_that_say_something_twice_are_left_as_they_are() -> None:
    exercise = bar()
    given = [check.model_dump(mode="json") for check in exercise.model.checks]  # type: ignore[attr-defined]
    lines = [check for check in given if check.get("between") and check["measure"] in ("length", "position")]
    twice = [*given, {**lines[0], "id": "again"}]
    again = reordered(twice, "p", "chain")
    assert {check["id"]: check.get("between") for check in again if check["id"] in (lines[0]["id"], "again")} == {
        lines[0]["id"]: lines[0]["between"], "again": lines[0]["between"],
    }  # fmt: skip
