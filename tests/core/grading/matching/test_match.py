"""Which part is which, by shape before name; which of equal instances is which, by where it stands."""

import json
from collections.abc import Sequence
from typing import Any

import pytest
from build123d import Box, Cylinder, Pos, scale

from rigid_bench.core.exercise.bundle import Exercise, read_exercise
from rigid_bench.core.grading.grade import grade_whole
from rigid_bench.core.grading.intake.submission import Submission
from rigid_bench.core.grading.matching.match import Matching
from rigid_bench.demo.modelling import Placed, assembly_bytes, json_bytes, step_bytes
from tests.support.shapes import TOLERANCE

PLATE = Box(60, 40, 8) - Pos(20, 10, 0) * Cylinder(3, 20) - Pos(-20, 10, 0) * Cylinder(3, 20)
LID = Box(60, 40, 5) - Pos(20, 0, 0) * Cylinder(3, 20)
PIN = Cylinder(2.9, 30) + Pos(0, 0, 15) * Cylinder(5, 3)
SHAPES = {"plate": PLATE, "lid": LID, "pin": PIN}
PLACES = {"plate-1": (0, 0, 0), "lid-1": (0, 0, 20), "pin-1": (20, 10, 0), "pin-2": (-20, 10, 0)}


def exercise() -> Exercise:
    """A plate, a lid and two pins."""
    instances = [
        {"id": name, "part": name.rsplit("-", 1)[0], "grounded": name == "plate-1",
         "pose": {"position": at, "quaternion": [1, 0, 0, 0]}}
        for name, at in PLACES.items()
    ]  # fmt: skip
    parts = [{"id": part, "name": part.title(), "file": f"{part}.step"} for part in SHAPES]
    build = {"format": "rigid-bench/build", "version": 1, "units": "mm", "parts": parts, "instances": instances,
             "mates": []}  # fmt: skip
    document = {
        "format": "rigid-bench/exercise", "version": 1, "id": "kit", "title": "Kit", "reference": "r.build.json",
        "parts": parts, "checks": [{"id": "parts", "title": "Parts", "kind": "parts", "marks": 1}],
    }  # fmt: skip
    return read_exercise({
        "exercise.json": json_bytes(document), "r.build.json": json_bytes(build),
        **{f"{part}.step": step_bytes(shape, part.title()) for part, shape in SHAPES.items()},
    })  # fmt: skip


def matched(submitted: Sequence[tuple[str, Any, tuple[float, float, float]]]) -> tuple[Submission, Matching]:
    """Hand in an assembly of named solids at their places."""
    placed = [Placed(name=name, solid=solid.solid(), position=at) for name, solid, at in submitted]
    _, context = grade_whole(exercise(), {"kit.step": assembly_bytes(placed, "Kit")}, tolerance=TOLERANCE)
    return context.submission, context.matching


RIGHT = [("Plate", PLATE, (0, 0, 0)), ("Lid", LID, (0, 0, 20)), ("Pin", PIN, (20, 10, 0)), ("Pin", PIN, (-20, 10, 0))]


def names(submission: Submission, matching: Matching) -> dict[str, str]:
    """Return what each required part was called by the student."""
    return {part: submission.parts[index].name for part, index in matching.parts.items()}


def test_everything_is_found_where_it_stands() -> None:
    submission, matching = matched(RIGHT)
    assert names(submission, matching) == {"plate": "Plate", "lid": "Lid", "pin": "Pin"}
    stands = {
        name: submission.instances[index].pose.position.round(6).tolist() for name, index in matching.instances.items()
    }
    assert stands == {name: list(map(float, at)) for name, at in PLACES.items()}
    assert len(matching.copies["pin"]) == 2
    assert all(matching.registered[index][0].registration.likeness == 1 for index in matching.parts.values())


def test_shape_outvotes_a_name_that_says_otherwise() -> None:
    swapped = [("Lid", PLATE, (0, 0, 0)), ("Plate", LID, (0, 0, 20)), *RIGHT[2:]]
    submission, matching = matched(swapped)
    assert names(submission, matching) == {"plate": "Lid", "lid": "Plate", "pin": "Pin"}


def test_a_name_decides_between_parts_of_one_shape() -> None:
    """A post that is asked for twice under two names: the shape says nothing."""
    document = {
        "format": "rigid-bench/exercise", "version": 1, "id": "posts", "title": "Posts",
        "parts": [{"id": name, "name": name.title(), "file": f"{name}.step"} for name in ("north", "south")],
        "checks": [{"id": "parts", "title": "Parts", "kind": "parts", "marks": 1}],
    }  # fmt: skip
    files = {f"{name}.step": step_bytes(PIN, name) for name in ("north", "south")}
    posts = read_exercise({"exercise.json": json_bytes(document), **files})
    handed_in = {"a.step": step_bytes(PIN, "South"), "b.step": step_bytes(PIN, "North")}
    _, context = grade_whole(posts, handed_in, tolerance=TOLERANCE)
    assert names(context.submission, context.matching) == {"north": "North", "south": "South"}


def test_what_was_not_handed_in_is_not_found_and_takes_no_others_place() -> None:
    submission, matching = matched([RIGHT[0], *RIGHT[2:]])
    assert names(submission, matching) == {"plate": "Plate", "pin": "Pin"}
    assert "lid-1" not in matching.instances


def test_a_stranger_is_nobody() -> None:
    submission, matching = matched([*RIGHT, ("Ring", Cylinder(40, 5) - Cylinder(30, 5), (0, 0, 60))])
    assert "Ring" not in names(submission, matching).values()
    assert len(matching.instances) == 4


def test_copies_that_came_as_parts_of_their_own_are_of_one_part() -> None:
    submission, matching = matched([*RIGHT[:3], ("Pin b", PIN + Pos(0, 0, 0) * Cylinder(2.9, 30), (-20, 10, 0))])
    assert len(matching.copies["pin"]) == 2
    where = submission.instances[matching.instances["pin-2"]].pose.position
    assert where == pytest.approx([-20, 10, 0], abs=1e-6)


def test_equal_pins_are_told_apart_by_the_base_wherever_the_build_stands() -> None:
    moved = [(name, solid, (at[0] + 200, at[1] - 70, at[2] + 5)) for name, solid, at in RIGHT]
    submission, matching = matched([moved[3], moved[2], *moved[:2]])
    where = submission.instances[matching.instances["pin-1"]].pose.position
    assert where == pytest.approx([220, -60, 5], abs=1e-6)


def test_a_part_in_another_unit_is_laid_at_its_scale() -> None:
    submission, matching = matched([("Plate", scale(PLATE, 25.4), (0, 0, 0)), *RIGHT[1:]])
    assert names(submission, matching)["plate"] == "Plate"
    assert matching.registered[matching.parts["plate"]][0].scale == pytest.approx(25.4)


def test_an_instance_without_geometry_goes_by_its_name() -> None:
    build = {
        "format": "rigid-bench/build", "version": 1, "units": "mm",
        "parts": [{"id": "plate", "name": "Plate", "file": "plate.step"}, {"id": "pin", "name": "Pin"}],
        "instances": [
            {"id": "plate-1", "part": "plate", "grounded": True},
            {"id": "pin-2", "part": "pin"}, {"id": "pin-1", "part": "pin"},
        ],
        "mates": [],
    }  # fmt: skip
    files = {"b.build.json": json.dumps(build).encode(), "plate.step": step_bytes(PLATE, "Plate")}
    _, context = grade_whole(exercise(), files, tolerance=TOLERANCE)
    own = {name: context.submission.instances[index].id for name, index in context.matching.instances.items()}
    assert own == {"plate-1": "plate-1", "pin-1": "pin-1", "pin-2": "pin-2"}
    assert "pin" not in context.matching.parts
