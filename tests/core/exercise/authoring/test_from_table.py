"""An exercise from a table of values, and the way of marking taken from another."""

import json
from typing import Any

import pytest

from rigid_bench.core.drawing.scheme import with_scheme
from rigid_bench.core.exercise.authoring.from_table import from_table
from rigid_bench.core.exercise.bundle import read_exercise
from rigid_bench.core.grading.grade import describe
from rigid_bench.core.values.errors import UnreadableFile

HEAD = "part,title,measure,nominal,tolerance,axis\n"


def made(text: str) -> dict[str, Any]:
    document: dict[str, Any] = json.loads(from_table(text.encode(), name="t.csv", title="Pins")["exercise.json"])
    return document


def test_each_part_comes_once_and_each_line_is_a_dimension() -> None:
    document = made(HEAD + "Pin,Length,extent,30,±0.2,z\nPin,Across,diameter,6,h6,\nRing,Across,diameter,2*6,,\n")
    assert [part["id"] for part in document["parts"]] == ["pin", "ring"]
    assert [check["id"] for check in document["checks"]] == ["pin.length", "pin.across", "ring.across"]
    length, across, ring = document["checks"]
    assert (length["tolerance"], length["axis"]) == ({"minus": 0.2, "plus": 0.2}, "z")
    assert (across["tolerance"], ring["nominal"]) == ("h6", "2*6")
    exercise = read_exercise({"exercise.json": json.dumps(document).encode()})
    assert next(check.required for check in describe(exercise)) == "30 ±0.2 mm"


def test_semicolons_bring_decimal_commas_and_a_mark_of_bytes_is_left_out() -> None:
    exercise = made("\ufeffpart;title;measure;nominal;tolerance\nPin;Across;diameter;6,35;0,05\n;;;;\n")
    (only,) = exercise["checks"]
    assert (only["nominal"], only["tolerance"]) == (6.35, {"minus": 0.05, "plus": 0.05})


@pytest.mark.parametrize(
    ("data", "says"),
    [
        (b"", "it lacks a column"),
        (b"part,title\nPin,Across\n", "it lacks a column"),
        (HEAD.encode(), "it holds no sizes"),
        (HEAD.encode() + b"Pin,Across,diameter,,,\n", "its nominal is empty"),
        (HEAD.encode() + b",Across,diameter,6,,\n", "its part is empty"),
        (b"\xff\xfe\x00", "it is not UTF-8 text"),
        (HEAD.encode() + 501 * b"Pin,Across,diameter,6,,\n", "more than 500 sizes"),
    ],
)
def test_what_is_no_such_table_is_refused_with_its_place(data: bytes, says: str) -> None:
    with pytest.raises(UnreadableFile, match=says):
        from_table(data, name="t.csv", title="Pins")


def test_marks_bands_and_rules_come_from_the_other_exercise() -> None:
    near = {"factor": 2, "share": 0.5}
    other = {
        "tolerance": "ISO 2768-f",
        "slips": "all",
        "checks": [
            {"kind": "dimension", "measure": "diameter", "marks": 3, "near": near},
            {"kind": "dimension", "measure": "diameter", "marks": 3},
            {"kind": "dimension", "measure": "diameter", "marks": 1},
            {"kind": "dimension", "measure": "length", "marks": 9, "value": "shown"},
            {"kind": "parts", "marks": 5},
        ],
    }
    own = {
        "title": "Own",
        "checks": [
            {"kind": "dimension", "measure": "diameter", "marks": 1},
            {"kind": "dimension", "measure": "length", "marks": 1},
            {"kind": "parts", "marks": 1},
            {"kind": "gap", "marks": 7},
        ],
    }
    exercise = with_scheme(own, other)
    assert [check["marks"] for check in exercise["checks"]] == [3, 3, 5, 7]
    assert exercise["checks"][0]["near"] == near
    assert (exercise["title"], exercise["tolerance"], exercise["slips"]) == ("Own", "ISO 2768-f", "all")
    assert own["checks"][0] == {"kind": "dimension", "measure": "diameter", "marks": 1}
