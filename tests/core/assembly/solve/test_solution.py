"""Solving: near to where it was, from far, and which mates cannot hold together."""

import json
from collections.abc import Callable, Sequence
from dataclasses import replace
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.typing import NDArray

from rigid_bench.core.assembly.freedom.analysis import freedom
from rigid_bench.core.assembly.mates.system import System
from rigid_bench.core.assembly.solve.solution import Solution, solve
from rigid_bench.core.assembly.solve.solve_report import placed_build
from rigid_bench.core.formats.build import Build, read_build
from rigid_bench.core.values.frames import Pose
from tests.support import mechanisms as m
from tests.support.shapes import TOLERANCE

MECHANISMS: list[Callable[[], Any]] = [
    m.four_bar, m.slider_crank, m.bennett, m.universal_joint, m.oldham, m.scotch_yoke, m.stewart_platform, m.rssr,
]  # fmt: skip


def placed(build: Build, solution: Solution) -> Build:
    instances = zip(build.instances, solution.poses, strict=True)
    return replace(build, instances=tuple(replace(instance, pose=pose) for instance, pose in instances))


def shaken(build: Build, seed: int, *, turn: float, shift: float) -> Build:
    random = np.random.default_rng(seed)

    def moved(pose: Pose) -> Pose:
        return Pose.from_rotation_vector(turn * random.normal(size=3), shift * random.normal(size=3)) @ pose

    return replace(
        build,
        instances=tuple(
            instance if instance.grounded else replace(instance, pose=moved(instance.pose))
            for instance in build.instances
        ),
    )


@pytest.mark.parametrize("make", MECHANISMS)
def test_a_build_that_holds_is_left_where_it_is(make: Callable[[], Any]) -> None:
    solution = solve(m.mechanism(*make(), seed=2), tolerance=TOLERANCE)
    assert (solution.satisfied, solution.moved, solution.conflict_set) == (True, (), ())


@pytest.mark.parametrize("make", MECHANISMS)
@pytest.mark.parametrize("seed", [1, 2])
def test_parts_that_are_scattered_and_turned_come_together(make: Callable[[], Any], seed: int) -> None:
    build = shaken(m.mechanism(*make(), seed=seed), seed, turn=1.5, shift=200)
    solution = solve(build, tolerance=TOLERANCE)
    assert solution.satisfied
    assert freedom(placed(build, solution), tolerance=TOLERANCE).conflicts == ()
    assert set(solution.moved) <= {instance.id for instance in build.instances if not instance.grounded}


def block(name: str, *, grounded: bool = False, position: tuple[float, float, float] = (0, 0, 0)) -> dict[str, Any]:
    pose = {"position": position, "quaternion": [1, 0, 0, 0]}
    return {"id": name, "part": "block", "grounded": grounded, "pose": pose}


def on_top(name: str, value: float = 0.0, **more: Any) -> dict[str, Any]:
    a = {"instance": "base", "plane": {"point": [0, 0, 10], "normal": [0, 0, 1]}}
    b = {"instance": "lid", "plane": {"point": [0, 0, 0], "normal": [0, 0, -1]}}
    return {"id": name, "kind": "distance", "value": value, "sense": "opposed", "a": a, "b": b, **more}


def document(*mates: dict[str, Any], units: str = "mm", **more: Any) -> bytes:
    lid = block("lid", position=(3, 4, 25))
    instances = [block("base", grounded=True), {**lid, **more}]
    build = {"format": "rigid-bench/build", "version": 1, "units": units, "parts": [], "instances": instances}
    return json.dumps({**build, "mates": list(mates), "note": "kept"}).encode()


def test_it_moves_the_least() -> None:
    """One face mate: the lid comes down square, and nothing slides."""
    data = document(on_top("down"))
    build = read_build(data, name="b")
    solution = solve(build, tolerance=TOLERANCE)
    np.testing.assert_allclose(solution.poses[1].position, [3, 4, 10], atol=1e-6)
    written = json.loads(placed_build(data, build, solution))
    assert written["note"] == "kept"
    assert written["instances"][0] == block("base", grounded=True, position=(0, 0, 0)) | {
        "pose": {"position": [0, 0, 0], "quaternion": [1, 0, 0, 0]}
    }
    np.testing.assert_allclose(written["instances"][1]["pose"]["position"], [3, 4, 10], atol=1e-6)


def test_inches_stay_inches() -> None:
    data = document(on_top("down", 1.0), units="in")
    build = read_build(data, name="b")
    written = json.loads(placed_build(data, build, solve(build, tolerance=TOLERANCE)))
    np.testing.assert_allclose(written["instances"][1]["pose"]["position"], [3, 4, 11], atol=1e-6)


def test_a_conflict_names_a_minimal_set_and_not_the_innocent() -> None:
    side = {
        "id": "side", "kind": "coincident", "sense": "aligned",
        "a": {"instance": "base", "plane": {"point": [5, 0, 0], "normal": [1, 0, 0]}},
        "b": {"instance": "lid", "plane": {"point": [5, 0, 0], "normal": [1, 0, 0]}},
    }  # fmt: skip
    build = read_build(document(on_top("two", 2.0), side, on_top("five", 5.0)), name="b")
    solution = solve(build, tolerance=TOLERANCE)
    assert (solution.satisfied, set(solution.conflict_set)) == (False, {"two", "five"})
    for name in solution.conflict_set:
        without = replace(build, mates=tuple(mate for mate in build.mates if mate.id != name))
        assert solve(without, tolerance=TOLERANCE).satisfied


def test_clashes_that_have_nothing_to_do_with_each_other_are_all_told() -> None:
    def at(name: str, x: float) -> dict[str, object]:
        return {
            "id": name, "kind": "coincident", "sense": "aligned",
            "a": {"instance": "base", "plane": {"point": [x, 0, 0], "normal": [1, 0, 0]}},
            "b": {"instance": "lid", "plane": {"point": [5, 0, 0], "normal": [1, 0, 0]}},
        }  # fmt: skip

    build = read_build(document(on_top("two", 2.0), at("left", 5), on_top("five", 5.0), at("right", 9)), name="b")
    solution = solve(build, tolerance=TOLERANCE)
    assert [set(mates) for mates in solution.conflict_sets] == [{"two", "five"}, {"left", "right"}]


def test_a_grounded_pair_that_clashes_cannot_be_put_right() -> None:
    build = read_build(document(on_top("two", 2.0), grounded=True), name="b")
    solution = solve(build, tolerance=TOLERANCE)
    assert (solution.satisfied, solution.moved, solution.conflict_set) == (False, (), ("two",))


def test_a_group_moves_as_one() -> None:
    build = read_build(document(on_top("down")), name="b")
    riding = replace(build.instances[1], id="handle", pose=Pose(np.eye(3), np.array([3.0, 4, 40])), group="g")
    grouped = replace(build, instances=(build.instances[0], replace(build.instances[1], group="g"), riding))
    solution = solve(grouped, tolerance=TOLERANCE)
    before, after = riding.pose.position - build.instances[1].pose.position, solution.poses[2].position
    np.testing.assert_allclose(after - solution.poses[1].position, before, atol=1e-6)
    assert solution.moved == ("lid", "handle")


def test_nothing_to_do() -> None:
    empty = read_build(document(), name="b")
    assert solve(empty, tolerance=TOLERANCE).satisfied


@settings(max_examples=10)
@given(seed=st.integers(0, 10**6))
def test_a_small_shake_is_put_back_near_to_where_it_was(seed: int) -> None:
    build = m.mechanism(*m.slider_crank(), seed=seed % 7)
    loose = shaken(build, seed, turn=0.01, shift=0.2)
    solution = solve(loose, tolerance=TOLERANCE)
    assert solution.satisfied
    # no farther from the shaken poses than the poses it was shaken from, which hold too
    own, before = (_way(loose, poses) for poses in (solution.poses, [instance.pose for instance in build.instances]))
    assert own <= before * 1.001 + 1e-6


def _way(start: Build, poses: Sequence[Pose]) -> float:
    """How far all instances went: the shift of their middles, and turns times their sizes."""
    system = System(start, TOLERANCE)
    ways = []
    for pose, instance, middle, length in zip(poses, start.instances, system.middles, system.lengths, strict=True):
        turn = angle_of(pose.rotation @ instance.pose.rotation.T)
        ways += [turn * length, *(pose.point(middle) - instance.pose.point(middle))]
    return float(np.linalg.norm(ways))


def angle_of(rotation: NDArray[np.float64]) -> float:
    return float(np.arccos(np.clip((np.trace(rotation) - 1) / 2, -1, 1)))
