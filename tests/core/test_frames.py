"""Rigid motions: they compose, undo themselves, and keep their quaternions."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from rigid_bench.core.errors import InvalidDocument
from rigid_bench.core.feature import make_frame
from rigid_bench.core.frames import Pose, angle_between, any_normal, unit

NUMBERS = st.tuples(*[st.floats(-100, 100)] * 3)
TURNS = st.tuples(*[st.floats(-3, 3)] * 3)


@given(turn=TURNS, shift=NUMBERS, point=NUMBERS)
def test_a_motion_and_its_inverse_leave_everything_in_place(
    turn: tuple[float, ...], shift: tuple[float, ...], point: tuple[float, ...]
) -> None:
    pose = Pose.from_rotation_vector(turn, shift)
    np.testing.assert_allclose((pose.inverse() @ pose).point(point), point, atol=1e-9)
    again = Pose.from_quaternion(list(shift), pose.quaternion())
    assert again.is_close(pose, mm=1e-9, rad=1e-9)


@given(turn=TURNS, angle=st.floats(1e-4, 3))
def test_is_close_knows_the_angle(turn: tuple[float, ...], angle: float) -> None:
    pose = Pose.from_rotation_vector(turn, [0, 0, 0])
    other = pose @ Pose.from_rotation_vector([0, 0, angle], [0, 0, 0])
    assert pose.is_close(other, mm=0, rad=angle * 1.001)
    assert not pose.is_close(other, mm=0, rad=angle * 0.999)


@given(vector=NUMBERS.filter(lambda v: np.linalg.norm(v) > 1e-3))
def test_a_normal_is_square(vector: tuple[float, ...]) -> None:
    direction = unit(vector)
    assert abs(any_normal(direction) @ direction) < 1e-12


def test_angles_are_exact_at_both_ends() -> None:
    """Where arccos loses half its digits."""
    tilted = unit([1, 1e-9, 0])
    assert angle_between(unit([1, 0, 0]), tilted) == pytest.approx(1e-9, rel=1e-6)
    assert angle_between(unit([-1, 0, 0]), tilted) == pytest.approx(np.pi)


def test_a_frame_without_a_zero_direction_is_refused() -> None:
    with pytest.raises(InvalidDocument, match="x, apart from z"):
        make_frame(np.zeros(3), np.array([0.0, 0, 1]), np.array([0.0, 0, 2]))
