"""Every kind of mate of the published format: what it removes, its senses, its refusals."""

import json
from typing import Any

import pytest

from rigid_bench.core.assembly.freedom.analysis import freedom
from rigid_bench.core.assembly.mates.registry import KINDS
from rigid_bench.core.formats.build import read_build
from rigid_bench.core.values.errors import RigidBenchError
from rigid_bench.core.values.tolerance import Tolerance

POINT: dict[str, Any] = {"point": [1, 2, 3]}
AXIS: dict[str, Any] = {"axis": {"point": [1, 2, 3], "direction": [0, 0, 1]}}
CYLINDER: dict[str, Any] = {"cylinder": {"point": [1, 2, 3], "direction": [0, 0, 1], "radius": 4}}
UP: dict[str, Any] = {"plane": {"point": [1, 2, 3], "normal": [0, 0, 1]}}
ACROSS: dict[str, Any] = {"plane": {"point": [1, 2, 3], "normal": [1, 0, 0]}}
FRAME: dict[str, Any] = {"frame": {"origin": [1, 2, 3], "z": [0, 0, 1], "x": [1, 0, 0]}}
TILTED: dict[str, Any] = {"axis": {"point": [1, 2, 3], "direction": [0, 1, 1]}}
AWAY: dict[str, Any] = {"axis": {"point": [4, 2, 3], "direction": [0, 0, 1]}}
AWAY_POINT: dict[str, Any] = {"point": [4, 2, 3]}
AWAY_PLANE: dict[str, Any] = {"plane": {"point": [0, 0, 5], "normal": [0, 0, -1]}}
TOUCHED: dict[str, Any] = {"plane": {"point": [5, 0, 0], "normal": [1, 0, 0]}}
BESIDE: dict[str, Any] = {"cylinder": {"point": [7, 2, 0], "direction": [0, 0, 1], "radius": 2}}

#: kind, a, b, more fields, removes: the table of the published format, row by row.
TABLE = [
    ("coincident", UP, UP, {}, 3),
    ("coincident", AXIS, ACROSS, {}, 2),
    ("coincident", POINT, UP, {}, 1),
    ("coincident", AXIS, POINT, {}, 2),
    ("coincident", POINT, POINT, {}, 3),
    ("distance", UP, AWAY_PLANE, {"value": 2}, 3),
    ("distance", ACROSS, AWAY, {"value": 3}, 2),
    ("distance", AXIS, AWAY, {"value": 3}, 3),
    ("distance", UP, {"point": [0, 0, 7]}, {"value": 4}, 1),
    ("distance", AXIS, AWAY_POINT, {"value": 3}, 1),
    ("distance", POINT, AWAY_POINT, {"value": 3}, 1),
    ("distance", AXIS, AXIS, {"value": 0}, 4),
    ("distance", POINT, POINT, {"value": 0}, 3),
    ("coaxial", AXIS, AXIS, {}, 4),
    ("coaxial", CYLINDER, AXIS, {}, 4),
    ("parallel", UP, UP, {}, 2),
    ("parallel", AXIS, AWAY, {}, 2),
    ("parallel", AXIS, ACROSS, {}, 1),
    ("perpendicular", UP, ACROSS, {}, 1),
    ("perpendicular", AXIS, {"axis": {"point": [0, 0, 0], "direction": [1, 0, 0]}}, {}, 1),
    ("perpendicular", AXIS, UP, {}, 2),
    ("angle", UP, {"plane": {"point": [0, 0, 0], "normal": [0, 1, 1]}}, {"value": 45}, 1),
    ("angle", AXIS, TILTED, {"value": 45}, 1),
    ("tangent", CYLINDER, TOUCHED, {}, 2),
    ("tangent", CYLINDER, BESIDE, {}, 3),
    ("fixed", FRAME, FRAME, {}, 6),
    ("revolute", FRAME, FRAME, {}, 5),
    ("prismatic", FRAME, FRAME, {}, 5),
    ("screw", FRAME, FRAME, {"pitch": 1.5}, 5),
    ("cylindrical", FRAME, FRAME, {}, 4),
    ("cylindrical", AXIS, AXIS, {}, 4),
    ("planar", FRAME, FRAME, {}, 3),
    ("planar", UP, UP, {}, 3),
    ("spherical", POINT, POINT, {}, 3),
]


def build_with(kind: str, a: dict[str, Any], b: dict[str, Any], units: str = "mm", **more: Any) -> bytes:
    mate = {"id": "m", "kind": kind, "a": {"instance": "one", **a}, "b": {"instance": "two", **b}, **more}
    instances = [{"id": "one", "part": "p", "grounded": True}, {"id": "two", "part": "p"}]
    document = {"format": "rigid-bench/build", "version": 1, "units": units, "instances": instances, "mates": [mate]}
    return json.dumps(document).encode()


@pytest.mark.parametrize(("kind", "a", "b", "more", "removes"), TABLE)
@pytest.mark.parametrize("is_swapped", [False, True])
def test_each_pairing_removes_what_the_format_says(
    kind: str, a: dict[str, Any], b: dict[str, Any], more: dict[str, Any], removes: int, is_swapped: bool
) -> None:
    first, second = (b, a) if is_swapped else (a, b)
    # a signed distance between two planes changes its sign with the operand that it starts from
    free = freedom(read_build(build_with(kind, first, second, **more), name="b"), tolerance=Tolerance())
    assert (free.mobility, free.equations) == (6 - removes, 6 + removes)
    assert [conflict.residual.mm for conflict in free.conflicts] == []


def test_every_kind_of_the_registry_is_in_the_table() -> None:
    assert {row[0] for row in TABLE} == set(KINDS)


@pytest.mark.parametrize(("sense", "degrees"), [("aligned", 0), ("opposed", 180), ("either", 0)])
def test_a_violated_sense_is_off_by_half_a_turn(sense: str, degrees: float) -> None:
    free = freedom(read_build(build_with("coincident", UP, UP, sense=sense), name="b"), tolerance=Tolerance())
    assert [round(conflict.residual.rad * 57.29578) for conflict in free.conflicts] == ([degrees] if degrees else [])


def test_a_plane_distance_runs_along_the_normal_of_a() -> None:
    for value, holds in ((2, True), (-2, False)):
        free = freedom(read_build(build_with("distance", UP, AWAY_PLANE, value=value), name="b"), tolerance=Tolerance())
        assert bool(free.conflicts) is not holds


def test_inches_are_read_as_inches() -> None:
    """A gap of 2 in is 50.8 mm: the same file in inches holds as it does in mm."""
    free = freedom(
        read_build(build_with("distance", UP, AWAY_PLANE, units="in", value=2), name="b"), tolerance=Tolerance()
    )
    assert not free.conflicts
    assert free.system.mates[0].value == 50.8


@pytest.mark.parametrize(
    ("data", "says"),
    [
        (build_with("weld", UP, UP), "there is no kind of mate 'weld'"),
        (build_with("coaxial", UP, AXIS), "does not join plane-axis"),
        (build_with("angle", UP, UP, value=0), "parallel"),
        (build_with("distance", UP, UP), "needs a value"),
        (build_with("screw", FRAME, FRAME), "needs a pitch"),
        (build_with("coaxial", AXIS, {"axis": {"point": [0, 0, 0], "direction": [0, 0, 0]}}), "length zero"),
        (build_with("coaxial", AXIS, {"axis": {"point": [0, 0], "direction": [0, 0, 1]}}), "mates[0].b.axis.point"),
        (build_with("coaxial", AXIS, {**AXIS, **POINT}), "exactly one of"),
        (build_with("coaxial", AXIS, AXIS).replace(b'"two"', b'"three"', 1), "no instance 'two'"),
        (b"{", "line 1 column 2"),
        (b'{"format": "other"}', "not a build file"),
        (b"\xff\xfe", "UTF-8"),
        (b"[" * 100_000, "deep"),
        (
            build_with("coaxial", AXIS, AXIS).replace(b"[1, 2, 3]", b"[1e400, 2, 3]"),
            "finite",
        ),
        (b'{"format": "rigid-bench/build", "instances": []}', "instances"),
    ],
)
def test_what_cannot_be_meant_is_refused_in_one_line(data: bytes, says: str) -> None:
    with pytest.raises(RigidBenchError) as caught:
        freedom(read_build(data, name="b.json"), tolerance=Tolerance())
    assert says in str(caught.value)
    assert "\n" not in str(caught.value)
