"""Features that are named on a face that moved, or on a wall of another radius, are named where they are now."""

from typing import Any

import numpy as np
import pytest

from rigid_bench.core.exercise.change_impact.moved_features import ChangedWall, MovedFace, repointed

TOP = MovedFace(point=np.array([0.0, 0, 20]), normal=np.array([0.0, 0, 1]), by=5.0)
BORE = ChangedWall(point=np.array([10.0, 0, 0]), direction=np.array([0.0, 0, 1]), before=4.0, radius=6.0)


AXIS = {"axis": {"point": [10, 0, 33], "direction": [0, 0, 1]}}


def plane(*point: float, normal: tuple[float, float, float] = (0, 0, 1)) -> dict[str, Any]:
    return {"plane": {"point": list(point), "normal": list(normal)}}


def cylinder(x: float, radius: float) -> dict[str, Any]:
    return {"cylinder": {"point": [x, 0, 7], "direction": [0, 0, -1], "radius": radius}}


@pytest.mark.parametrize(
    ("feature", "mm", "now"),
    [
        (plane(3, 4, 20), 1.0, plane(3, 4, 25)),
        (plane(3, 4, 20, normal=(0, 0, -2)), 1.0, plane(3, 4, 25, normal=(0, 0, -2))),
        (plane(3, 4, 19), 1.0, plane(3, 4, 19)),
        (plane(3, 4, 20, normal=(0, 1, 0)), 1.0, plane(3, 4, 20, normal=(0, 1, 0))),
        (plane(0, 0, 20 / 25.4), 25.4, plane(0, 0, round(25 / 25.4, 9))),
        ({"point": [0, 0, 20]}, 1.0, {"point": [0, 0, 20]}),
    ],
)
def test_a_face_that_moved(feature: dict[str, Any], mm: float, now: dict[str, Any]) -> None:
    assert TOP.applied(feature, mm) == now


@pytest.mark.parametrize(
    ("feature", "now"),
    [
        (cylinder(10, 4), cylinder(10, 6)),
        (cylinder(10, 5), cylinder(10, 5)),
        (cylinder(11, 4), cylinder(11, 4)),
        (
            {"axis": {"point": [10, 0, 0], "direction": [0, 0, 1]}},
            {"axis": {"point": [10, 0, 0], "direction": [0, 0, 1]}},
        ),
    ],
)
def test_a_wall_of_another_radius(feature: dict[str, Any], now: dict[str, Any]) -> None:
    assert BORE.applied(feature, 1.0) == now


def test_an_axis_of_the_wall_names_it_whatever_its_radius() -> None:
    assert BORE.is_named_by(AXIS, 1.0)
    assert not BORE.is_named_by(plane(10, 0, 0), 1.0)


def test_only_features_of_the_part_are_named_anew() -> None:
    mates = [
        {
            "kind": "coincident",
            "a": {"instance": "lid-1", **plane(0, 0, 20)},
            "b": {"instance": "box-1", **plane(0, 0, 20)},
        }
    ]
    (mate,) = repointed(mates, part="lid", moves=[TOP], part_of=lambda name: name.split("-")[0], mm=1.0)
    assert (mate["a"]["plane"]["point"], mate["b"]["plane"]["point"]) == ([0, 0, 25], [0, 0, 20])


def test_a_check_names_its_own_part_and_features_one_after_another() -> None:
    check = {"part": "lid", "between": [plane(0, 0, 20), plane(0, 0, 0)], "tolerance": 0.1}
    now = repointed(check, part="lid", moves=[TOP, BORE], part_of=str, mm=1.0)
    assert [own["plane"]["point"][2] for own in now["between"]] == [25, 0]
    assert repointed(check, part="box", moves=[TOP], part_of=str, mm=1.0) == check
