"""How far parts go, and the least gap along the way, on the sample builds."""

import json
from typing import Any

import pytest

from rigid_bench.core.exercise.bundle import read_exercise
from rigid_bench.core.grading.grade import grade
from rigid_bench.core.grading.report.models import CheckResult
from rigid_bench.demo import pedal_bin, seed_drawer
from tests.support.samples import bundle_of, files_of
from tests.support.shapes import TOLERANCE

pytestmark = pytest.mark.thorough

DRAWERS = {sample.name: sample for sample in seed_drawer.SAMPLES}
BINS = {sample.name: sample for sample in pedal_bin.SAMPLES}
SLIDE = {"kind": "translation", "direction": [1, 0, 0]}
TURN = {"kind": "rotation", "axis": {"point": [0, 0, 0], "direction": [0, 0, 1]}}


def graded(module: Any, sample: Any, check: dict[str, Any]) -> CheckResult:
    bundle = bundle_of(module)
    document = json.loads(bundle["exercise.json"])
    document |= {"checks": [{"id": "x", "title": "X", "marks": 1, **check}], "stages": []}
    exercise = read_exercise({**bundle, "exercise.json": json.dumps(document).encode()})
    return grade(exercise, files_of(sample), tolerance=TOLERANCE).checks[0]


@pytest.mark.parametrize(
    ("sample", "verdict", "says"),
    [("right", "met", "meets"), ("fixed", "missed", "cannot move so")],
)
def test_a_drawer_runs_out_and_in_until_it_meets_the_back(sample: str, verdict: str, says: str) -> None:
    check = {"kind": "travel", "instance": "drawer-1", "to": "housing-1", "motion": SLIDE, "min": 60}
    result = graded(seed_drawer, DRAWERS[sample], check)
    assert (result.verdict, says in result.measured) == (verdict, True), result.measured
    if verdict == "met":
        assert "Housing meets Drawer" in result.measured


def test_a_gap_is_looked_for_all_along_a_motion() -> None:
    """The pedal turns on its pin with 0.1 mm all round, wherever it stands."""
    check = {"kind": "gap", "a": "plate-1", "b": "pedal-1", "min": 0.09, "max": 0.11}
    through = {"instance": "pedal-1", "to": "plate-1", "motion": TURN}
    result = graded(pedal_bin, BINS["bin-right"], {**check, "through": through})
    assert (result.verdict, result.required) == ("met", "0.09 to 0.11 mm, all the way")


def test_the_pedal_swings_as_far_as_the_rod_lets_it() -> None:
    """A rocker of a four-bar: it stops short of all round."""
    check = {"kind": "travel", "instance": "pedal-1", "to": "plate-1", "motion": TURN, "min": 20, "max": 300}
    result = graded(pedal_bin, BINS["bin-right"], check)
    assert result.verdict == "met"


@pytest.mark.parametrize(
    ("end", "within", "verdict"), [("along", 0.1, "missed"), ("along", 1000.0, "met"), ("against", 0.1, "missed")]
)
def test_an_end_position_is_where_something_stops_the_travel(end: str, within: float, verdict: str) -> None:
    """Along X the back of the housing stops the drawer; towards the front nothing does."""
    check = {"kind": "end_position", "instance": "drawer-1", "to": "housing-1", "motion": SLIDE, "end": end}
    result = graded(seed_drawer, DRAWERS["right"], {**check, "within": within})
    assert result.verdict == verdict
    if end == "along" and verdict == "missed":
        travel = graded(
            seed_drawer,
            DRAWERS["right"],
            {"kind": "gap", "a": "housing-1", "b": "drawer-1", "along": [1, 0, 0], "min": 0},
        )
        assert result.measured == f"{travel.measured} short of the end"
    if end == "against":
        assert result.cause
        assert result.cause.code == "no-stop"


@pytest.mark.parametrize(
    ("along", "measured"),
    [([0, 1, 0], "0.4 mm"), ([0, -1, 0], "0.4 mm"), ([0, 0, -1], "0 mm"), ([-1, 0, 0], "nothing in the way")],
)
def test_a_gap_may_be_asked_in_a_direction(along: list[float], measured: str) -> None:
    check = {"kind": "gap", "a": "housing-1", "b": "drawer-1", "along": along, "min": 0}
    assert graded(seed_drawer, DRAWERS["right"], check).measured == measured


def test_a_gap_along_a_direction_is_exact_between_round_walls() -> None:
    """A bore of Ø8.2 on a pin of Ø8: 0.1 mm whichever way it is pushed."""
    check = {"kind": "gap", "a": "plate-1", "b": "pedal-1", "along": [0.6, 0.8, 0], "min": 0.099, "max": 0.101}
    assert graded(pedal_bin, BINS["bin-right"], check).verdict == "met"


@pytest.mark.parametrize("instance", ["knob-1", "drawer-1", "housing-1"])
def test_every_part_of_the_drawer_has_a_way_in(instance: str) -> None:
    result = graded(seed_drawer, DRAWERS["right"], {"kind": "way_in", "instance": instance, "how": "straight"})
    assert result.verdict == "met"
    if instance == "drawer-1":
        assert result.measured == "straight along +X"
