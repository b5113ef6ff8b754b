"""Limits of joints: kept by solving, met along a motion, reported."""

import json
import math
from dataclasses import replace

import numpy as np
import pytest

from rigid_bench.core.assembly.freedom.analysis import freedom
from rigid_bench.core.assembly.freedom.freedom_report import freedom_report
from rigid_bench.core.assembly.freedom.travel import reach
from rigid_bench.core.assembly.solve.solution import solve
from rigid_bench.core.assembly.solve.solve_report import solve_report
from rigid_bench.core.formats.build import Build, Limits, read_build
from rigid_bench.core.values.errors import InvalidDocument
from rigid_bench.core.values.frames import Pose
from tests.support import mechanisms as m
from tests.support.shapes import TOLERANCE

TURN = Limits(rotation=(-math.pi / 6, math.pi / 2))


def slide(limits: Limits, *, seed: int | None = None) -> Build:
    return m.mechanism(m.Joint(kind="prismatic", bodies=(0, 1), along=m.X, limits=limits), seed=seed)


def moved(build: Build, index: int, pose: Pose) -> Build:
    instances = list(build.instances)
    instances[index] = replace(instances[index], pose=pose)
    return replace(build, instances=tuple(instances))


def test_a_slide_carries_on_to_its_limits() -> None:
    free = freedom(slide(Limits(translation=(-10.0, 35.0))), tolerance=TOLERANCE)
    (motion,) = free.motions(1)
    back, forward = (reach(free, motion, 1, None, way=way) for way in (-1, 1))
    assert (back.stopped_by, forward.stopped_by) == ("m0", "m0")
    assert (back.amount, forward.amount) == (pytest.approx(10), pytest.approx(35))


def test_what_floats_goes_along_as_one_and_no_joint_stops_it() -> None:
    """Without a ground the slide takes its rail along, however far; seen from the rail it still has its limits."""
    build = slide(Limits(translation=(-10.0, 35.0)))
    build = replace(build, instances=tuple(replace(instance, grounded=False) for instance in build.instances))
    free = freedom(build, tolerance=TOLERANCE)
    for motion in free.motions(1):
        for way in (-1, 1):
            carried = reach(free, motion, 1, None, way=way)
            assert carried.stopped_by is None
            assert carried.amount == pytest.approx(2 * math.pi if motion.kind == "rotation" else 0.02 * 45 * 250)
    (own,) = free.motions(1, 0)
    stops = [reach(free, own, 1, 0, way=way) for way in (-1, 1)]
    assert [(stop.stopped_by, round(stop.amount)) for stop in stops] == [("m0", 10), ("m0", 35)]


def test_a_limit_of_another_mechanism_stops_nothing() -> None:
    """Two slides that have nothing to do with each other; one has limits."""
    limited = m.Joint(kind="prismatic", bodies=(0, 1), along=m.X, limits=Limits(translation=(-10.0, 35.0)))
    free = m.Joint(kind="prismatic", bodies=(0, 2), along=m.X)
    left = freedom(m.mechanism(limited, free), tolerance=TOLERANCE)
    (motion,) = left.motions(2)
    assert [reach(left, motion, 2, None, way=way).stopped_by for way in (-1, 1)] == [None, None]


@pytest.mark.parametrize("seed", [None, 3])
def test_a_turn_carries_on_to_its_limits(seed: int | None) -> None:
    free = freedom(m.mechanism(m.Joint(kind="revolute", bodies=(0, 1), limits=TURN), seed=seed), tolerance=TOLERANCE)
    (motion,) = free.motions(1)
    ways = sorted(reach(free, motion, 1, None, way=way).amount for way in (-1, 1))
    assert ways == [pytest.approx(math.pi / 6, abs=1e-6), pytest.approx(math.pi / 2, abs=1e-6)]


def test_a_crank_stops_where_its_slider_meets_the_limit() -> None:
    """Slider-crank in closed form: x = r cos a + sqrt(l² - r² sin² a)."""
    *crank, slider = m.slider_crank()
    free = freedom(m.mechanism(*crank, replace(slider, limits=Limits(translation=(-5.0, 100.0)))), tolerance=TOLERANCE)
    (turn,) = free.motions(1)
    r, rod = math.hypot(10, 20), math.hypot(60, 20)
    start = math.atan2(20, 10)
    stops = [reach(free, turn, 1, None, way=way) for way in (-1, 1)]
    assert any(stop.stopped_by == "m3" for stop in stops)
    for way, stop in zip((-1, 1), stops, strict=True):
        angle = start + way * stop.amount * float(turn.direction[2])
        x = r * math.cos(angle) + math.sqrt(rod**2 - (r * math.sin(angle)) ** 2)
        assert x == pytest.approx(65, abs=1e-4)


def test_solving_keeps_to_the_limits_and_says_which_it_met() -> None:
    build = moved(slide(Limits(translation=(-10.0, 35.0))), 1, Pose(np.eye(3), np.array([50.0, 3, 4])))
    solution = solve(build, tolerance=TOLERANCE)
    assert solution.satisfied
    np.testing.assert_allclose(solution.poses[1].position, [35, 0, 0], atol=1e-6)
    (joint,) = solve_report(solution).limits
    assert (joint.kind, joint.value, joint.least, joint.greatest) == ("translation", pytest.approx(35), -10, 35)
    assert joint.state == "at greatest"


def test_limits_that_cannot_be_kept_are_part_of_the_clash() -> None:
    far = m.Joint(kind="spherical", bodies=(0, 1), at=(0, 0, 0))
    build = m.mechanism(m.Joint(kind="prismatic", bodies=(0, 1), along=m.X, limits=Limits(translation=(5.0, 9.0))), far)
    solution = solve(build, tolerance=TOLERANCE)
    assert (solution.satisfied, set(solution.conflict_set)) == (False, {"m0", "m1"})


def test_the_report_says_where_joints_stand_and_how_far_motions_carry_on() -> None:
    build = slide(Limits(translation=(0.0, 35.0)))
    report = freedom_report(build, tolerance=TOLERANCE)
    assert report.limits[0].state == "at least"
    (motion,) = report.instances["body-1"].motions
    assert motion.range
    assert (motion.range.back, motion.range.forward) == (pytest.approx(0, abs=1e-3), pytest.approx(35))
    assert freedom_report(m.mechanism(*m.four_bar()), tolerance=TOLERANCE).limits == []


def test_limits_are_read_in_the_files_unit_and_wrong_ones_are_refused() -> None:
    feature = {"frame": {"origin": [0, 0, 0], "z": [0, 0, 1], "x": [1, 0, 0]}}
    mate = {"id": "j", "kind": "cylindrical", "a": {"instance": "a", **feature}, "b": {"instance": "b", **feature}}
    limits = {"rotation": [-90, 45], "translation": [0, 2]}
    instances = [{"id": "a", "part": "p", "grounded": True}, {"id": "b", "part": "p"}]
    document = {"format": "rigid-bench/build", "version": 1, "units": "in", "instances": instances}

    def read(limits: object) -> Build:
        return read_build(json.dumps({**document, "mates": [{**mate, "limits": limits}]}).encode(), name="b")

    own = read(limits).mates[0].limits
    assert own
    assert own.rotation == (pytest.approx(-math.pi / 2), pytest.approx(math.pi / 4))
    assert own.translation == (0, pytest.approx(50.8))
    with pytest.raises(InvalidDocument, match="the least, 45, is above the greatest, -90"):
        read({"rotation": [45, -90]})


def test_a_joint_that_stands_at_its_limit_and_does_not_move_stops_nothing() -> None:
    """Bennett's linkage, one of whose hinges might slide but for a collar, and stands at the end of its travel."""
    first, hinge, *others = m.bennett()
    pin = replace(hinge, kind="cylindrical", limits=Limits(translation=(0.0, 5.0)))
    free = freedom(m.mechanism(first, pin, replace(hinge, kind="planar"), *others, seed=4), tolerance=TOLERANCE)
    (turn,) = free.motions(1)
    carried = reach(free, turn, 1, None, way=1)
    assert carried.stopped_by is None
    assert carried.amount == pytest.approx(2 * math.pi, rel=1e-3)
