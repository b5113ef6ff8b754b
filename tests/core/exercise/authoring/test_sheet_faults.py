"""What is written on a sheet and cannot be meant; what a process makes badly; what no catalogue has."""

from typing import Any

import pytest
from build123d import Align, Box, Cylinder, Pos, RegularPolygon, extrude

from rigid_bench.core.exercise.authoring.differences import differences
from rigid_bench.core.exercise.authoring.faults import find_faults
from rigid_bench.core.exercise.authoring.sheet_faults import find_sheet_faults
from rigid_bench.core.exercise.bundle import ExerciseModel, read_exercise
from rigid_bench.demo import seed_drawer
from rigid_bench.demo.modelling import json_bytes, plane, step_bytes
from tests.support.samples import bundle_of
from tests.support.shapes import TOLERANCE

FOOT = (Align.CENTER, Align.CENTER, Align.MIN)
A, B, C = plane((0, 0, 0), (-1, 0, 0)), plane((30, 0, 0), (1, 0, 0)), plane((50, 0, 0), (1, 0, 0))


def said(checks: list[tuple[str, str, float, dict[str, Any]]], units: str = "mm") -> list[str]:
    written = [
        {"id": name, "title": name, "kind": "dimension", "marks": 1, "part": "p", "measure": measure, "nominal": value,
         **more}
        for name, measure, value, more in checks
    ]  # fmt: skip
    document = {"format": "rigid-bench/exercise", "version": 1, "id": "e", "title": "E", "units": units}
    document |= {"parts": [{"id": "p", "name": "Plate"}], "checks": written}
    exercise = read_exercise({"exercise.json": json_bytes(document)})
    return find_sheet_faults(exercise, {name: value for name, _, value, _ in checks})


@pytest.mark.parametrize(
    ("checks", "units", "says"),
    [
        ([("a", "length", 30, {"between": [A, B]}), ("b", "length", 50, {"between": [A, C]})], "mm", None),
        ([("leg", "chamfer", 4, {}), ("wall", "thickness", 3, {"between": [A, B]})], "mm", "takes away all of wall"),
        ([("leg", "chamfer", 1, {}), ("wall", "thickness", 3, {"between": [A, B]})], "mm", None),
        (
            [("whole", "length", 50, {"between": [A, C]}), ("wall", "thickness", 30, {"between": [A, B]})],
            "mm",
            "leave nothing of whole",
        ),
        (
            [
                ("a", "length", 30, {"between": [A, B]}),
                ("b", "length", 20, {"between": [B, C]}),
                ("c", "length", 51, {"between": [A, C]}),
            ],
            "mm",
            "the sum does not close",
        ),
        (
            [
                ("a", "length", 30, {"between": [A, B]}),
                ("b", "length", 20, {"between": [B, C]}),
                ("c", "length", 50, {"between": [A, C]}),
            ],
            "mm",
            None,
        ),
        ([("a", "diameter", 0.787, {})], "in", "looks like 20 mm, rounded"),
        ([("a", "diameter", 0.75, {})], "in", None),
        ([("a", "diameter", 19.06, {})], "mm", "looks like 0.75 in, rounded"),
        ([("a", "diameter", 19.1, {})], "mm", None),
        ([("a", "length", -2, {})], "mm", "which no part can have"),
    ],
)
def test_sizes_that_cannot_be_meant_are_said(checks: list[Any], units: str, says: str | None) -> None:
    reported = said(checks, units)
    assert len(reported) == (1 if says else 0), reported
    assert not says or says in reported[0]


def faults(shape: Any, name: str = "Block", *, checks: tuple[dict[str, Any], ...] = (), **part: Any) -> list[str]:
    document = {"format": "rigid-bench/exercise", "version": 1, "id": "e", "title": "E", "checks": checks}
    document["parts"] = [{"id": "p", "name": name, "file": "p.step", **part}]
    bundle = {"exercise.json": json_bytes(document), "p.step": step_bytes(shape, name)}
    return find_faults(read_exercise(bundle), tolerance=TOLERANCE)


def pocket(wall: float = 5.0) -> Any:
    return Box(60, 40, 20, align=FOOT) - Pos(0, 0, wall) * Box(50, 30, 40, align=FOOT)


def screw(head: float, shank: float) -> Any:
    return Cylinder(head / 2, 5, align=FOOT) + Pos(0, 0, -16) * Cylinder(shank / 2, 16, align=FOOT)


@pytest.mark.parametrize(
    ("given", "says"),
    [
        ({"shape": pocket(), "process": "milled"}, "4 inside corners are sharp"),
        ({"shape": pocket()}, None),
        ({"shape": Box(60, 40, 20, align=FOOT), "process": "milled"}, None),
        ({"shape": Box(600, 40, 20, align=FOOT), "process": "printed"}, "is larger than what is usually printed"),
        ({"shape": Box(60, 40, 3.4, align=FOOT), "process": "laser cut"}, "no sheet is 3.4 thick"),
        ({"shape": Box(60, 40, 3, align=FOOT), "process": "laser cut"}, None),
        ({"shape": pocket(1.2), "process": "vacuum formed"}, "its walls run from 1.2 to 5 mm"),
        ({"shape": screw(8.5, 5), "name": "Screw M5", "origin": "bought"}, None),
        ({"shape": screw(9.5, 5), "name": "Screw M5", "origin": "bought"}, None),
        (
            {"shape": screw(14, 5), "name": "Screw M5", "origin": "bought"},
            "a head of 14 on a shank of 5 is in no table",
        ),
        ({"shape": screw(8.5, 5.2), "name": "Screw M5", "origin": "bought"}, "has a shank of 5.2"),
        ({"shape": Cylinder(3.1, 20), "name": "Dowel", "origin": "bought"}, "no dowel pin in the tables is Ø6.2"),
        ({"shape": Cylinder(3, 20), "name": "Dowel", "origin": "bought"}, None),
    ],
)
def test_what_a_process_or_a_catalogue_does_not_give_is_said(given: dict[str, Any], says: str | None) -> None:
    """Heads of ISO 4762 and ISO 7380-1, pins of ISO 2338: the same tables as in the program, from memory."""
    reported = faults(**given)
    assert len(reported) == (1 if says else 0), reported
    assert not says or says in reported[0]


def test_the_width_of_a_hexagon_says_across_what() -> None:
    nut = extrude(RegularPolygon(5, 6, major_radius=False), 4)
    ends = [plane((0, 5, 2), (0, 1, 0)), plane((0, -5, 2), (0, -1, 0))]
    size = {
        "id": "w",
        "kind": "dimension",
        "marks": 1,
        "part": "p",
        "measure": "length",
        "nominal": 10,
        "between": ends,
    }
    flats = [face for face in nut.faces() if abs(face.normal_at().Y) > 0.9]
    assert len(flats) == 2, "the hexagon lies with two flats across y"
    (reported,) = faults(nut, checks=({**size, "title": "Width"},))
    assert "does not say across what" in reported
    assert faults(nut, checks=({**size, "title": "Across flats"},)) == []


def test_versions_are_compared_in_words() -> None:
    before = ExerciseModel.model_validate(
        {**read_exercise(bundle_of(seed_drawer)).model.model_dump(mode="json"), "stages": []}
    )
    document = before.model_dump(mode="json")
    gone, changed, *rest = document["checks"]
    after = {
        **document,
        "checks": [{**changed, "nominal": 61, "marks": 4}, *rest, {**gone, "id": "new", "title": "New"}],
    }
    after["parts"][0]["name"] = "Case"
    changes = differences(before, ExerciseModel.model_validate(after))
    assert changes == [
        "Case, name: Housing → Case",
        "new check: New, 2 marks",
        "check gone: Drawer length",
        "Drawer width, marks: 3 → 4",
        "Drawer width, nominal: 66.8 - 2*3 - 2*0.4 → 61",
    ]
