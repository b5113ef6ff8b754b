"""A kind of mate, a kind of check and a file format, each added from one module and used from end to end."""

import json

import numpy as np
import pytest

from rigid_bench.core.assembly.freedom.freedom_report import freedom_report
from rigid_bench.core.assembly.mates.registry import KINDS as MATES
from rigid_bench.core.assembly.mates.registry import equations
from rigid_bench.core.assembly.solve.solution import solve
from rigid_bench.core.bench import mating
from rigid_bench.core.exercise.authoring.check_factory import Picked, PlacedInstance, relation
from rigid_bench.core.exercise.authoring.kind_form import FormField, answers, form_of
from rigid_bench.core.exercise.bundle import read_exercise
from rigid_bench.core.exercise.review.examine import examine
from rigid_bench.core.formats.build import Mate, read_build
from rigid_bench.core.formats.documents import AxisModel, FeatureModel
from rigid_bench.core.formats.model_formats import FORMATS, extensions, format_names
from rigid_bench.core.grading.checks import KINDS as CHECKS
from rigid_bench.core.grading.grade import grade
from rigid_bench.core.grading.intake.files import check_files
from rigid_bench.core.kernel.read_model import read_model
from rigid_bench.core.values.datums import AxisFeature, CylinderFeature, Feature, PlaneFeature, PointFeature, make_frame
from rigid_bench.core.values.errors import FormRejected, InvalidDocument, NotSupported, UnreadableFile
from rigid_bench.core.values.tolerance import Tolerance
from tests.core.bench.mast import assembled, at, loose
from tests.core.toys import blocks, crossing, heaviest

TOLERANCE = Tolerance()
AXIS: dict[str, list[float]] = {"point": [0, 0, 0], "direction": [0, 0, 1]}
BUILD = {
    "format": "rigid-bench/build", "version": 1, "units": "mm", "parts": [{"id": "rod", "name": "Rod"}],
    "instances": [
        {"id": "one", "part": "rod", "grounded": True},
        {"id": "two", "part": "rod", "pose": {"position": [0, 5, 0], "quaternion": [0.70710678, 0, 0.70710678, 0]}},
    ],
    "mates": [{"id": "m", "kind": "crossing", "a": {"instance": "one", "axis": AXIS},
               "b": {"instance": "two", "axis": AXIS}}],
}  # fmt: skip


@pytest.fixture
def with_toys(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setitem(MATES, crossing.KIND.name, crossing.KIND)
    monkeypatch.setitem(CHECKS, heaviest.KIND.name, heaviest.KIND)
    monkeypatch.setitem(FORMATS, blocks.FORMAT.name, blocks.FORMAT)


def bundle(*checks: dict[str, object]) -> dict[str, bytes]:
    """Two blocks, and what is asked of them."""
    made = {
        "format": "rigid-bench/exercise", "version": 1, "id": "blocks", "title": "Blocks", "units": "mm",
        "parts": [{"id": name, "name": name.title(), "file": f"{name}.blocks"} for name in ("bar", "cube")],
        "checks": list(checks),
    }  # fmt: skip
    return {
        "exercise.json": json.dumps(made).encode(),
        "bar.blocks": b"BLOCK Bar 60 10 10",
        "cube.blocks": b"BLOCK Cube 20 20 20",
    }


def test_without_the_module_the_kind_is_not_known() -> None:
    with pytest.raises(NotSupported, match="there is no kind of mate 'crossing'"):
        freedom_report(read_build(json.dumps(BUILD).encode(), name="b"), tolerance=TOLERANCE)
    with pytest.raises(UnreadableFile):
        read_model(b"BLOCK Bar 60 10 10", name="bar.blocks")


@pytest.mark.usefixtures("with_toys")
def test_a_mate_from_one_module_is_read_counted_solved_chosen_and_asked() -> None:
    build = read_build(json.dumps(BUILD).encode(), name="b")
    before = freedom_report(build, tolerance=TOLERANCE)
    assert (before.mobility, before.satisfied, before.conflicts[0].residual_mm) == (5, False, pytest.approx(5))
    solution = solve(build, tolerance=TOLERANCE)
    assert (solution.satisfied, solution.poses[1].position[1]) == (True, pytest.approx(0, abs=1e-9))
    state, parts = assembled(), loose()
    round_ones = at(parts, "base-1", "Ø4 hole, x = 22, y = 0"), at(parts, "mast-1", "Ø20 round, x = 0, y = 0")
    choice, kind = mating.applicable_mates(state, parts, *round_ones)[0]
    assert (choice.words, kind.name) == ("cross each other", "crossing")
    places = {name: PlacedInstance(part="rod", name=name.title(), position=[0, 0, 0], quaternion=[1, 0, 0, 0])
              for name in ("one", "two")}  # fmt: skip
    one, two = (
        Picked(instance=name, feature=FeatureModel(axis=AxisModel(point=AXIS["point"], direction=AXIS["direction"])))
        for name in places
    )
    asked = relation("cross", one, two, places)
    assert (asked["relation"], asked["title"]) == ("crossing", "Two and One: cross each other")


@pytest.mark.usefixtures("with_toys")
def test_a_check_from_one_module_is_asked_by_a_form_judged_and_examined() -> None:
    fields = form_of(heaviest.HeaviestFields)
    assert fields == [FormField(name="part", input="part", is_required=True)]
    with pytest.raises(FormRejected, match="missing"):
        answers(fields, {}, features={}, places={})
    given = answers(fields, {"part": ["cube"]}, features={}, places={})
    check = {"id": "h", "title": "Largest", "kind": "heaviest", "marks": 2, **given}
    exercise = read_exercise(bundle(check))
    assert "heaviest" in examine(exercise, bundle(check), tolerance=TOLERANCE).forms
    files = {"bar.blocks": b"BLOCK Bar 60 10 10", "cube.blocks": b"BLOCK Cube 20 20 20"}
    report = grade(exercise, files, tolerance=TOLERANCE)
    assert (report.checks[0].verdict, report.awarded) == ("met", 2)
    files["bar.blocks"] = b"BLOCK Bar 60 20 10"
    missed = grade(exercise, files, tolerance=TOLERANCE).checks[0]
    assert (missed.verdict, missed.measured, missed.required) == ("missed", "the largest is Bar", "Cube is the largest")
    with pytest.raises(InvalidDocument, match="no part 'ball'"):
        grade(read_exercise(bundle({**check, "part": "ball"})), files, tolerance=TOLERANCE)


@pytest.mark.usefixtures("with_toys")
def test_a_format_from_one_module_is_offered_sorted_refused_and_measured() -> None:
    assert ".blocks" in extensions()
    assert "BLOCKS" in format_names()
    check_files({"bar.blocks": b"BLOCK Bar 60 10 10"})
    with pytest.raises(UnreadableFile, match="line 1 has no three sizes"):
        check_files({"bar.blocks": b"BLOCK Bar 60"})
    model = read_model(b"BLOCK Bar 60 10 10\nBLOCK Cube 20 20 20", name="two.blocks")
    assert ([part.id for part in model.parts], model.schema) == (["Bar", "Cube"], "BLOCKS")


FEATURES: dict[str, Feature] = {
    "plane": PlaneFeature(np.zeros(3), np.array([0, 0, 1.0])),
    "axis": AxisFeature(np.array([3.0, 1, 0]), np.array([0, 0.6, 0.8])),
    "point": PointFeature(np.array([2.0, 5, 9])),
    "frame": make_frame(np.array([1.0, 2, 3]), np.array([0, 0, 1.0]), np.array([1.0, 0, 0])),
    "cylinder": CylinderFeature(np.array([3.0, 1, 7]), np.array([1.0, 0, 0]), 2.0),
}


@pytest.mark.parametrize("name", MATES)
def test_every_kind_of_mate_counts_as_many_equations_as_it_says(name: str) -> None:
    for (one, other), rule in MATES[name].rules.items():
        value = {"mm": 4.0, "deg": 30.0}.get(MATES[name].value_unit)
        mate = Mate(
            id="m", kind=name, a=0, feature_a=FEATURES[one], b=1, feature_b=FEATURES[other], value=value, pitch=2.0
        )
        assert len(equations(mate, mate.feature_a, mate.feature_b)) == rule.removes


@pytest.mark.parametrize("name", CHECKS)
def test_every_kind_of_check_has_a_form(name: str) -> None:
    fields = form_of(CHECKS[name].fields)
    wanted = {field for field, info in CHECKS[name].fields.model_fields.items() if info.is_required()}
    assert wanted <= {field.name.partition(".")[0] for field in fields}
    assert not [field for field in fields if field.input == "choice" and not field.options]
