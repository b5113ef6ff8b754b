"""Parts off their place: which slip, said once for a sub-build, and which mates to undo."""

import json
from typing import Any

import numpy as np
import pytest
from build123d import Axis, Box, Cylinder, Pos, Rot
from scipy.spatial.transform import Rotation

from rigid_bench.core.exercise.bundle import read_exercise
from rigid_bench.core.formats.build import Mate
from rigid_bench.core.grading.diagnosis.place_causes import Side, of_placing
from rigid_bench.core.grading.grade import grade
from rigid_bench.core.grading.report.models import CheckResult
from rigid_bench.core.values.datums import PlaneFeature
from rigid_bench.core.values.frames import Pose
from rigid_bench.core.wording.saying import say
from rigid_bench.demo.modelling import axis, json_bytes, plane, step_bytes
from tests.support.shapes import TOLERANCE, features

pytestmark = pytest.mark.thorough

Place = tuple[float, float, float]
UP, DOWN, RIGHT = (0, 0, 1), (0, 0, -1), (1, 0, 0)


def base() -> Any:
    """A plate of 90 x 50 x 8 with two bores, one of them sunk 3 deep, and a stop."""
    plate = Pos(0, 0, 4) * Box(90, 50, 8) - [Pos(x, 0, 0) * Cylinder(r, 50) for x, r in ((-25, 4), (5, 3))]
    return plate - Pos(5, 0, 6.5) * Cylinder(6, 3) + Pos(40, 0, 13) * Box(10, 50, 10)


def peg() -> Any:
    return Cylinder(2.9, 6) + Pos(0, 0, 8) * Box(10, 8, 10)


def cap() -> Any:
    return Box(14, 12, 4) + Pos(3, 1, 3) * Box(2, 3, 2)


SHAPES = {"base": base(), "peg": peg(), "cap": cap()}
#: The peg's shoulder (z = 3 of its own) on the floor of the sunk bore, the cap on the peg.
PLACES: dict[str, Place] = {"base": (0.0, 0.0, 0.0), "peg": (5.0, 0.0, 2.0), "cap": (5.0, 0.0, 17.0)}
NAMES = {"base": "Base", "peg": "Peg", "cap": "Cap"}


def on(part: str, feature: dict[str, Any]) -> dict[str, Any]:
    return {"instance": f"{part}-1", **feature}


BORE, SHOULDER = axis((5, 0, 0), UP), plane((4, 3, 3), DOWN)
RELATIONS: dict[str, dict[str, Any]] = {
    "bore": {"relation": "coaxial", "a": on("base", BORE), "b": on("peg", axis((0, 0, 0), UP))},
    "seat": {
        "relation": "coincident", "sense": "opposed",
        "a": on("base", plane((5, 4.5, 5), UP)), "b": on("peg", SHOULDER),
    },
    "stop": {
        "relation": "distance", "value": 25.0, "sense": "opposed",
        "a": on("base", plane((35, 0, 13), (-1, 0, 0))), "b": on("peg", plane((5, 0, 8), RIGHT)),
    },
    "cap": {
        "relation": "coincident", "sense": "opposed",
        "a": on("peg", plane((0, 0, 13), UP)), "b": on("cap", plane((0, 0, -2), DOWN)),
    },
    "cap above": {
        "relation": "distance", "value": 11.0, "sense": "aligned",
        "a": on("base", plane((-30, 0, 8), UP)), "b": on("cap", plane((-5, 0, 2), UP)),
    },
}  # fmt: skip


def bundle() -> dict[str, bytes]:
    parts = [{"id": part, "name": name, "file": f"{part}.step"} for part, name in NAMES.items()]
    document = {"format": "rigid-bench/exercise", "version": 1, "id": "e", "title": "E", "reference": "r.build.json"}
    checks = [
        {"id": name, "title": name, "kind": "relation", "marks": 1, **relation} for name, relation in RELATIONS.items()
    ]
    return {
        "exercise.json": json_bytes({**document, "parts": parts, "checks": checks}),
        "r.build.json": json_bytes({**build(PLACES, []), "parts": parts}),
        **{f"{part}.step": step_bytes(shape, NAMES[part]) for part, shape in SHAPES.items()},
    }


def build(places: dict[str, Place], mates: list[dict[str, Any]]) -> dict[str, Any]:
    instances = [
        {
            "id": f"{part}-1",
            "part": part,
            "grounded": part == "base",
            "pose": {"position": at, "quaternion": [1, 0, 0, 0]},
        }
        for part, at in places.items()
    ]
    return {"format": "rigid-bench/build", "version": 1, "units": "mm", "instances": instances, "mates": mates}


def moved(place: Place, by: Place) -> Place:
    return place[0] + by[0], place[1] + by[1], place[2] + by[2]


def graded(
    peg: Place = (0, 0, 0),
    cap: Place | None = None,
    mates: list[dict[str, Any]] | None = None,
    *,
    at: Place | None = None,
) -> dict[str, CheckResult]:
    """Judge a build whose peg is off by so much, and its cap by as much, or by its own."""
    places = {
        "base": PLACES["base"],
        "peg": at or moved(PLACES["peg"], peg),
        "cap": moved(PLACES["cap"], peg if cap is None else cap),
    }
    parts = [{"id": part, "name": NAMES[part], "file": f"{part}.step"} for part in NAMES]
    files = {f"{part}.step": step_bytes(shape, NAMES[part]) for part, shape in SHAPES.items()}
    files["b.build.json"] = json_bytes({**build(places, mates or []), "parts": parts})
    return {check.id: check for check in grade(read_exercise(bundle()), files, tolerance=TOLERANCE).checks}


def causes(rows: dict[str, CheckResult]) -> dict[str, str | None]:
    return {
        result.id: result.cause.code if result.cause else None for result in rows.values() if result.verdict != "met"
    }


def test_the_right_build_is_right() -> None:
    assert causes(graded()) == {}


@pytest.mark.parametrize(
    ("peg", "check", "code", "says"),
    [
        ((-30, 0, 0), "bore", "wrong-hole", "Another hole of Base was used: the Ø8 one, 30 mm from the right one"),
        (
            (0, 0, 3),
            "seat",
            "wrong-rim",
            "The other rim of the Ø12 hole of Base was used: it is off by its depth, 3 mm",
        ),
        ((0, 0, -5), "seat", "far-side", "The far side of Base was used: it is off by its thickness there, 5 mm"),
        ((25, 0, 0), "stop", "offset-forgotten", "The offset of 25 mm was forgotten"),
        ((50, 0, 0), "stop", "offset-sign", "off by twice 25 mm"),
    ],
)
def test_the_slip_that_put_a_part_off_its_place_is_named(peg: Place, check: str, code: str, says: str) -> None:
    rows = graded(peg, (0, 0, 0))
    cause = rows[check].cause
    assert cause
    assert (cause.code, says in cause.text) == (code, True), cause.text


@pytest.mark.parametrize("is_round", [True, False], ids=["cone", "slant"])
def test_the_rim_of_a_chamfer_is_told_from_another_face(is_round: bool) -> None:
    """A stud (or post) with a chamfer of 1.5: its lower rim was used where its top was asked."""
    shape = Cylinder(6, 20) if is_round else Box(12, 10, 20)
    solid = shape.chamfer(1.5, None, shape.edges().filter_by_position(Axis.Z, 9.9, 10.1))
    top = PlaneFeature(np.array([0.0, 0, 10]), np.array([0, 0, 1.0]))
    side = Side(name="Stud", part=features(solid), pose=Pose.identity(), feature=top)
    on_top = PlaneFeature(np.array([0, 0, 8.5]), np.array([0, 0, -1.0]))
    other = Side(name="Cap", part=features(Pos(0, 0, 10.5) * Box(4, 4, 4)), pose=Pose.identity(), feature=on_top)
    meet = Mate(id="m", kind="coincident", a=0, b=1, feature_a=top, feature_b=on_top, sense="opposed")
    cause = of_placing(meet, side, other, units="mm")
    assert cause
    assert (cause.code, "off by its leg, 1.5 mm" in say(cause.message)) == ("chamfer-rim", True)


def test_the_far_side_of_the_second_part_is_found_through_an_offset() -> None:
    """The underside of the cap is 11 mm above the base, where its top should be."""
    cause = graded(cap=(0, 0, 4))["cap above"].cause
    assert cause
    assert (cause.code, "The far side of Cap was used" in cause.text) == ("far-side", True), cause.text


def test_a_sub_build_off_its_seat_is_said_once() -> None:
    rows = graded((3.3, 7.7, 0.9))
    assert causes(rows)["bore"] == "group-move"
    assert "Peg and Cap are off together, by 8.426 mm" in (rows["bore"].cause.text if rows["bore"].cause else "")
    assert rows["seat"].follows == "bore"
    assert rows["cap above"].follows == "bore"
    assert rows["cap"].verdict == "met"  # within the sub-build all is right


def test_a_part_left_where_it_was_drawn_is_named() -> None:
    assert causes(graded(cap=(0, 0, 0), at=(0, 0, 0)))["bore"] == "left-at-origin"


def test_the_mates_to_undo_are_named_and_the_right_ones_kept() -> None:
    mates = [
        {"id": "turns in it", "kind": "coaxial", "a": on("base", BORE), "b": on("peg", axis((0, 0, 0), UP))},
        {"id": "sits on it", "kind": "coincident", "a": on("base", plane((0, 20, 8), UP)), "b": on("peg", SHOULDER)},
    ]
    rows = graded((0, 0, 3), (0, 0, 3), mates)
    assert (
        rows["seat"].next_step == "Keep 'turns in it'; delete 'sits on it' and mate again: Peg and Base: faces meet. "
        "'sits on it' should use the face at (5, 0, 5) that looks along +Z of Base, not the face at (0, 20, 8) that "
        "looks along +Z."
    )


def test_a_turned_build_is_judged_alike() -> None:
    """The whole build elsewhere: places are relative to the base."""
    world = Rotation.from_rotvec([0.4, -0.2, 1.0])
    shift = np.array([40.0, 7, -9])
    document = build(PLACES, [])
    for instance in document["instances"]:
        pose = instance["pose"]
        pose["position"] = (world.apply(pose["position"]) + shift).tolist()
        x, y, z, w = world.as_quat()
        pose["quaternion"] = [w, x, y, z]
    files = {f"{part}.step": step_bytes(Rot(0, 0, 0) * shape, NAMES[part]) for part, shape in SHAPES.items()}
    parts = [{"id": part, "name": NAMES[part], "file": f"{part}.step"} for part in NAMES]
    files["b.build.json"] = json.dumps({**document, "parts": parts}).encode()
    report = grade(read_exercise(bundle()), files, tolerance=TOLERANCE)
    assert {check.verdict for check in report.checks} == {"met"}
