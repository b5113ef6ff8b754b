"""A size is changed in an exercise: model, build and checks go along, and what it touches is said."""

import json
from typing import Any

import pytest

from rigid_bench.core.exercise.bundle import FILE, read_exercise
from rigid_bench.core.exercise.change_impact.change_sizes import change_sizes, joined_parts, with_changed_part
from rigid_bench.core.exercise.change_impact.models import SizeChange, can_change
from rigid_bench.core.exercise.change_impact.touched_checks import touched, with_new_sizes
from rigid_bench.core.grading.grade import grade
from rigid_bench.core.values.errors import InvalidDocument
from rigid_bench.core.values.tolerance import Tolerance
from rigid_bench.core.wording.saying import say
from rigid_bench.demo.graded import read_graded

pytestmark = pytest.mark.thorough

TOLERANCE = Tolerance()
JIG, DRAWER, BIN, MAST = range(4)
Files = dict[str, bytes]


def bundle(place: int) -> Files:
    return dict(read_graded()[place].bundle)


def changed(files: Files, **sizes: float) -> tuple[Files, dict[str, Any]]:
    """Change sizes, whose ids are given with _ for a dot; return the files after it, and what it touches by check."""
    changes = [SizeChange(check=name.replace("_", "."), value=value) for name, value in sizes.items()]
    changed_exercise = change_sizes(files, changes, tolerance=TOLERANCE)
    after = with_new_sizes(files, changed_exercise.files, tolerance=TOLERANCE)
    return after, {check.id: check for check in touched(files, after, tolerance=TOLERANCE)}


def own_marks(files: Files) -> dict[str, str]:
    exercise = read_exercise(files)
    return {row.id: row.verdict for row in grade(exercise, files_of_models(files), tolerance=TOLERANCE).checks}


def files_of_models(files: Files) -> Files:
    return {name: data for name, data in files.items() if name != FILE}


def test_a_thicker_plate_takes_the_depths_of_its_holes_along_and_its_own_model_meets_all() -> None:
    after, change = changed(bundle(JIG), jig_thickness=12.0)
    assert {name: (say(check.was), say(check.now)) for name, check in change.items()} == {
        "jig.thickness": ("10 mm", "12 mm"),
        "jig.sink.depth": ("6.5 mm", "8.5 mm"),
        "jig.guide.depth": ("10 mm", "12 mm"),
        "jig.11-depth": ("6.5 mm", "8.5 mm"),
    }
    assert all(check.is_met for check in change.values())
    before = own_marks(bundle(JIG))
    assert own_marks(after) == before
    assert set(before.values()) == {"met"}


def test_a_pin_too_thick_for_its_bore_touches_the_other_part_until_that_is_changed_too() -> None:
    files = bundle(DRAWER)
    _, alone = changed(files, knob_spigot=9.0)
    assert set(alone) == {"knob.spigot", "overlap"}
    assert not alone["overlap"].is_met
    changed_exercise = change_sizes(files, [SizeChange(check="knob.spigot", value=9.0)], tolerance=TOLERANCE)
    assert joined_parts(files, changed_exercise.parts) == ["drawer"]
    after, both = changed(files, knob_spigot=9.0, drawer_hole=9.4)
    assert {name: check.is_met for name, check in both.items()} == {"drawer.hole": True, "knob.spigot": True}
    assert set(own_marks(after).values()) == {"met"}


def test_what_a_sum_makes_of_a_size_changes_with_it() -> None:
    files = bundle(BIN)
    document = json.loads(files[FILE])
    for check in document["checks"]:
        if check["id"] == "arm.bore":
            check["nominal"] = "pedal.bore"
    files[FILE] = json.dumps(document).encode()
    _, change = changed(files, pedal_bore=8.4)
    assert (say(change["pedal.bore"].now), say(change["arm.bore"].now)) == ("8.4 mm", "8.4 mm")
    assert change["arm.bore"].is_met


def test_holes_that_are_alike_change_together_and_those_of_another_size_do_not() -> None:
    after, change = changed(bundle(JIG), jig_guide=5.5)
    assert set(change) == {"jig.guide"}
    marks = own_marks(after)
    assert {marks["jig.guide.count"], marks["jig.dowel"], marks["jig.guide"]} == {"met"}


def test_another_exercise_takes_the_changed_part_with_all_that_is_named_on_it() -> None:
    files, other = bundle(DRAWER), bundle(DRAWER)
    document = json.loads(other[FILE])
    document["id"], document["title"] = "seed-drawer-two", "Seed drawer, second half"
    next(part for part in document["parts"] if part["id"] == "drawer")["id"] = "tray"
    text = json.dumps(document).replace('"part": "drawer"', '"part": "tray"')
    other[FILE] = text.encode()
    build = json.loads(other[document["reference"]])
    for row in (*build["parts"], *build["instances"]):
        row.update({key: "tray" for key in ("id", "part") if row.get(key) == "drawer"})
    other[document["reference"]] = json.dumps(build).encode()
    part = change_sizes(files, [SizeChange(check="drawer.hole", value=9.0)], tolerance=TOLERANCE).parts["drawer"]
    assert part.before == other["drawer.step"]
    after = with_new_sizes(other, with_changed_part(other, "tray", part, tolerance=TOLERANCE), tolerance=TOLERANCE)
    touched_checks = touched(other, after, tolerance=TOLERANCE)
    assert [(check.id, say(check.was), say(check.now), check.is_met) for check in touched_checks] == [
        ("drawer.hole", "8.4 mm", "9 mm", True)
    ]


@pytest.mark.parametrize(
    ("place", "check", "value", "says"),
    [
        (DRAWER, "no.such", 3.0, "the exercise has no such size"),
        (BIN, "rod.length", 170.0, "diameters, radii and distances between flat faces"),
        (JIG, "jig.guide", 60.0, "another feature of the part crosses"),
    ],
)
def test_what_the_program_cannot_change_is_said(place: int, check: str, value: float, says: str) -> None:
    with pytest.raises(InvalidDocument, match=says):
        change_sizes(bundle(place), [SizeChange(check=check, value=value)], tolerance=TOLERANCE)


def test_which_checks_can_be_changed() -> None:
    checks = {check["id"]: check for place in range(4) for check in json.loads(bundle(place)[FILE])["checks"]}
    able = {name for name, check in checks.items() if can_change(check)}
    assert {"jig.thickness", "jig.dowel", "drawer.length", "knob.pilot", "vane.bore", "mast.height"} <= able
    assert not {"jig.guide.pitch", "rod.length", "drawer.corners", "overlap", "jig.chip", "parts"} & able
