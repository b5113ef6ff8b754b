"""Rigid motions: they compose, undo themselves, and keep their quaternions."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.spatial.transform import Rotation

from rigid_bench.core.values.datums import make_frame
from rigid_bench.core.values.errors import InvalidDocument
from rigid_bench.core.values.frames import Pose, angle_between, any_normal, rotation_by, turn_of, unit

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


@given(
    st.tuples(*[st.floats(-1, 1)] * 3).filter(lambda way: max(map(abs, way)) > 0.1),
    st.one_of(
        st.floats(0, np.pi), st.sampled_from([0.0, 1e-12, 1e-9, 1e-6, 1e-4, 1.1e-3, np.pi / 2, np.pi - 1e-9, np.pi])
    ),
)
def test_turns_and_rotations_are_those_of_scipy(way: tuple[float, float, float], angle: float) -> None:
    turn = angle * np.array(way) / np.linalg.norm(way)
    theirs = Rotation.from_rotvec(turn)
    np.testing.assert_allclose(rotation_by(turn), theirs.as_matrix(), atol=1e-14)
    back = turn_of(theirs.as_matrix())
    if angle < np.pi - 1e-6:
        np.testing.assert_allclose(back, turn, atol=1e-9, rtol=1e-12)
    else:  # half a turn has two vectors
        np.testing.assert_allclose(rotation_by(back), theirs.as_matrix(), atol=1e-9)
    own = np.array(Pose(theirs.as_matrix(), np.zeros(3)).quaternion())
    wanted = np.roll(theirs.as_quat(), 1)  # theirs has w last
    assert min(np.abs(own - wanted).max(), np.abs(own + wanted).max()) < 1e-12
    assert own[0] >= 0
