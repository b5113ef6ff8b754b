"""Least steps and putting mates right, against a dense least-squares solution and closed formulas."""

import math
from dataclasses import replace

import numpy as np
import pytest

from rigid_bench.core.assembly.mates import linearised
from rigid_bench.core.assembly.mates.linearised import linearise
from rigid_bench.core.assembly.mates.relax import relax
from rigid_bench.core.assembly.mates.system import System
from rigid_bench.core.formats.build import Limits
from rigid_bench.core.values.datums import PointFeature
from rigid_bench.core.values.frames import Pose
from tests.support import mechanisms as m
from tests.support.shapes import TOLERANCE


def chain(count: int) -> System:
    joints = [
        m.Joint(kind="revolute", bodies=(k, k + 1), at=(20.0 * k, 3.0 * (k % 3), 0), along=m.Z if k % 2 else m.X)
        for k in range(count)
    ]
    return System(m.mechanism(*joints), TOLERANCE)


def shaken(system: System, size: float) -> list[Pose]:
    random = np.random.default_rng(1)
    return [
        pose if index in system.held else Pose.from_rotation_vector(
            size / 30 * random.normal(size=3), pose.position + size * random.normal(size=3)
        )
        for index, pose in enumerate(system.poses)
    ]  # fmt: skip


@pytest.mark.parametrize("count", [4, 60])
def test_a_step_is_the_least_one_that_meets_what_is_asked(count: int) -> None:
    """The pseudo-inverse gives the same; sixty links are many enough for the sparse factors."""
    system = chain(count)
    linear = linearise(system, shaken(system, 0.3))
    free = system.free_columns
    assert (free.sum() > linearised.DENSE) == (count == 60)
    expected = np.zeros(len(free))
    expected[free] = np.linalg.lstsq(linear.dense[:, free], -linear.residuals, rcond=1e-10)[0]
    step = linear.meeting(-linear.residuals)
    assert step == pytest.approx(expected, abs=1e-6)
    assert not step[~free].any()


@pytest.mark.parametrize("count", [4, 60])
def test_what_is_left_free_of_a_step_moves_no_mate(count: int) -> None:
    system = chain(count)
    linearised = linearise(system, system.poses)
    wish = np.random.default_rng(2).normal(size=len(system.free_columns))
    left = linearised.left_free(wish)
    assert np.abs(linearised.dense @ left).max() < 1e-6
    assert linearised.left_free(left) == pytest.approx(left, abs=1e-6)


def test_mates_that_nearly_hold_are_put_right_to_rounding() -> None:
    system = chain(8)
    poses, error, _ = relax(system, shaken(system, 0.5))
    assert error < 1e-8
    assert all(system.residual(mate, poses).holds(TOLERANCE) for mate in system.mates)


def test_ground_stays_and_the_nearest_place_is_taken() -> None:
    """A part on a slide that is lifted off it comes straight back; along the slide it stays."""
    system = System(m.mechanism(m.Joint(kind="prismatic", bodies=(0, 1), along=m.X)), TOLERANCE)
    poses, error, _ = relax(system, [Pose.identity(), Pose(np.eye(3), np.array([12.0, 1.0, -2.0]))])
    assert error < 1e-9
    assert poses[0].position == pytest.approx([0, 0, 0])
    assert poses[1].position == pytest.approx([12, 0, 0], abs=1e-8)


def test_limits_bring_a_joint_back_only_when_they_are_asked_for() -> None:
    joint = m.Joint(kind="prismatic", bodies=(0, 1), along=m.X, limits=Limits(translation=(-5.0, 5.0)))
    system = System(m.mechanism(joint), TOLERANCE)
    start = [Pose.identity(), Pose(np.eye(3), np.array([9.0, 0, 0]))]
    assert relax(system, start)[0][1].position[0] == pytest.approx(9)
    assert relax(system, start, limits=True)[0][1].position[0] == pytest.approx(5, abs=1e-6)


def test_what_cannot_hold_ends_with_the_error_that_is_left() -> None:
    """Two pins 40 apart for two holes 41 apart: half a millimetre at each, all told 1 / sqrt 2."""
    build = m.mechanism(*(m.Joint(kind="spherical", bodies=(0, 1), at=(x, 0, 0)) for x in (0, 40)))
    feature = build.mates[1].feature_b
    assert isinstance(feature, PointFeature)
    far = PointFeature(feature.point + np.array([1.0, 0, 0]))
    wrong = System(replace(build, mates=(build.mates[0], replace(build.mates[1], feature_b=far))), TOLERANCE)
    error = relax(wrong, [Pose.identity(), Pose.identity()]).error
    assert error == pytest.approx(1 / math.sqrt(2), abs=1e-6)


def test_among_holds_all_others_and_keeps_their_places() -> None:
    system = chain(5)
    few = system.among(frozenset({2, 3}))
    assert few.held == [0, 1, 4, 5]
    assert {mate.id for mate in few.mates} == {"m1", "m2", "m3"}
    assert system.mates_of(2) == frozenset({"m1", "m2"})
