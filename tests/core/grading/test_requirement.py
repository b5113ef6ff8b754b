"""What a dimension asks: limits against the tables of ISO 2768-1 and ISO 286-2, sums, circles, bands."""

from typing import Any

import pytest

from rigid_bench.core.exercise.bundle import Exercise, ExerciseModel
from rigid_bench.core.grading.requirement import DimensionFields, Requirement, requirement_of
from rigid_bench.core.values.errors import InvalidDocument


def exercise(*checks: dict[str, Any], **more: Any) -> Exercise:
    document = {
        "format": "rigid-bench/exercise", "version": 1, "id": "e", "title": "E", "units": "mm",
        "tolerance": "ISO 2768-m",
        "parts": [{"id": "p", "name": "P", "file": "p.step"}],
        "checks": [{"title": own["id"], "kind": "dimension", "marks": 1, "part": "p", "measure": "length", **own}
                   for own in checks],
    }  # fmt: skip
    return Exercise(model=ExerciseModel.model_validate({**document, **more}), part_files={}, reference=None)


def asked(own: Exercise, name: str) -> Requirement:
    check = next(check for check in own.model.checks if check.id == name)
    return requirement_of(check, DimensionFields.model_validate(check.fields), own)


@pytest.mark.parametrize(
    ("grade", "nominal", "limit"),
    [
        ("ISO 2768-f", 10, 0.1), ("ISO 2768-m", 5, 0.1), ("ISO 2768-m", 10, 0.2), ("ISO 2768-m", 100, 0.3),
        ("ISO 2768-m", 300, 0.5), ("ISO 2768-c", 20, 0.5), ("ISO 2768-c", 100, 0.8), ("ISO 2768-v", 20, 1.0),
    ],
)  # fmt: skip
def test_general_tolerances_are_those_of_the_table(grade: str, nominal: float, limit: float) -> None:
    """ISO 2768-1, table 1."""
    requirement = asked(exercise({"id": "a", "nominal": nominal, "tolerance": grade}), "a")
    assert (requirement.minus, requirement.plus) == (limit, limit)


@pytest.mark.parametrize(
    ("fit", "nominal", "low", "high"),
    [("H7", 6, 0, 0.012), ("H7", 20, 0, 0.021), ("h6", 8, -0.009, 0), ("g6", 20, -0.020, -0.007)],
)
def test_fits_are_those_of_the_table_and_may_lie_to_one_side(fit: str, nominal: float, low: float, high: float) -> None:
    """ISO 286-2, tables 2 and following."""
    requirement = asked(exercise({"id": "a", "nominal": nominal, "tolerance": fit}), "a")
    assert (-requirement.minus, requirement.plus) == pytest.approx((low, high), abs=1e-9)
    assert requirement.contains(nominal + (low + high) / 2)
    assert not requirement.contains(nominal + high + 0.001)


def test_a_sum_takes_other_sizes_by_their_names_and_units() -> None:
    own = exercise(
        {"id": "outside", "nominal": 66.8}, {"id": "wall", "nominal": 3},
        {"id": "inside", "nominal": "outside - 2*wall"},
        {"id": "inch", "nominal": "1 in + 0.6"},
    )  # fmt: skip
    assert asked(own, "inside").nominal == pytest.approx(60.8)
    assert asked(own, "inch").nominal == pytest.approx(26)


def test_sums_that_go_round_in_a_circle_are_told_with_the_circle() -> None:
    own = exercise({"id": "a", "nominal": "b + 1"}, {"id": "b", "nominal": "c"}, {"id": "c", "nominal": "a - 1"})
    with pytest.raises(InvalidDocument, match="a → b → c → a"):
        asked(own, "a")


def test_exercises_in_inches_have_their_limits_in_inches() -> None:
    own = exercise({"id": "a", "nominal": 0.5, "tolerance": "ISO 2768-m"}, units="in")
    assert asked(own, "a").plus == pytest.approx(0.2 / 25.4)


def test_as_modelled_is_exact_for_counts_and_a_share_for_volumes() -> None:
    own = exercise(
        {"id": "n", "measure": "count", "nominal": 4}, {"id": "v", "measure": "volume", "nominal": 2000},
        tolerance="as modelled", as_modelled=0.01,
    )  # fmt: skip
    assert (asked(own, "n").minus, asked(own, "n").plus) == (0, 0)
    assert asked(own, "v").plus == pytest.approx(0.2)


def test_a_length_class_for_an_area_and_a_measure_that_there_is_not_are_refused() -> None:
    with pytest.raises(InvalidDocument, match="is a tolerance for lengths"):
        asked(exercise({"id": "a", "measure": "area", "nominal": 100}), "a")
    with pytest.raises(InvalidDocument, match="there is no measure 'girth'"):
        asked(exercise({"id": "a", "measure": "girth", "nominal": 100}), "a")


def test_ranges_and_bands_about_a_size() -> None:
    requirement = Requirement(dimension="length", nominal=10, minus=0.1, plus=0.2)
    assert requirement.contains(10.2)
    assert not requirement.contains(10.21)
    assert requirement.meets_range(10.15, 11)
    assert not requirement.meets_range(10.3, 11)
    assert requirement.is_near(10.39, 2)
    assert not requirement.is_near(9.7, 2)
