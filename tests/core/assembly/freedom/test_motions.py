"""Names of motions: a space of twists is named back to what it was made of."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from rigid_bench.core.assembly.freedom.motions import Motion, name_motions, span
from rigid_bench.core.values.frames import Pose, unit

AXIS = st.tuples(*[st.floats(-1, 1)] * 3).filter(lambda v: np.linalg.norm(v) > 0.1)
POINT = st.tuples(*[st.floats(-50, 50)] * 3)


def basis_of(*motions: Motion) -> np.ndarray:
    return span(np.array([motion.twist for motion in motions]).T, rank=1e-9, length=20.0)


def turn(point: tuple[float, ...], axis: tuple[float, ...], pitch: float = 0.0) -> Motion:
    kind = "screw" if pitch else "rotation"
    return Motion(kind=kind, direction=unit(axis), point=np.array(point), pitch=pitch)  # type: ignore[arg-type]  # either


def slide(axis: tuple[float, ...]) -> Motion:
    return Motion(kind="translation", direction=unit(axis), point=np.zeros(3))


@given(point=POINT, axis=AXIS)
def test_one_turn_is_named_by_its_axis(point: tuple[float, ...], axis: tuple[float, ...]) -> None:
    (motion,) = name_motions(basis_of(turn(point, axis)), length=20.0)
    assert motion.kind == "rotation"
    assert abs(motion.direction @ unit(axis)) == pytest.approx(1)
    assert np.linalg.norm(np.cross(np.array(point) - motion.point, motion.direction)) < 1e-6


@given(point=POINT, axis=AXIS, pitch=st.floats(0.5, 30))
def test_a_screw_keeps_its_pitch(point: tuple[float, ...], axis: tuple[float, ...], pitch: float) -> None:
    (motion,) = name_motions(basis_of(turn(point, axis, pitch)), length=20.0)
    assert (motion.kind, motion.pitch) == ("screw", pytest.approx(pitch))


@given(first=POINT, axis=AXIS, other=AXIS)
def test_two_crossing_turns_are_two_rotations(
    first: tuple[float, ...], axis: tuple[float, ...], other: tuple[float, ...]
) -> None:
    if np.linalg.norm(np.cross(unit(axis), unit(other))) < 0.05:
        return
    motions = name_motions(basis_of(turn(first, axis), turn(first, other)), length=20.0)
    assert [motion.kind for motion in motions] == ["rotation", "rotation"]
    assert np.linalg.matrix_rank(np.hstack([basis_of(*motions), basis_of(turn(first, axis))]), tol=1e-6) == 2


@pytest.mark.parametrize(
    ("motions", "kinds"),
    [
        ([slide((1, 0, 0)), slide((0, 1, 0)), turn((3, 4, 0), (0, 0, 1))], ["rotation", "translation", "translation"]),
        ([slide((0, 0, 1)), turn((3, 4, 0), (0, 0, 1), 7.0)], ["rotation", "translation"]),
        ([turn((1, 2, 3), axis) for axis in ((1, 0, 0), (0, 1, 0), (0, 0, 1))], ["rotation"] * 3),
        ([turn((0, 0, 0), (0, 0, 1)), turn((9, 0, 0), (0, 0, 1))], ["rotation", "translation"]),
        ([slide((0, 1, 1))], ["translation"]),
        ([], []),
    ],
    ids=["on a plane", "turn and slide on one axis", "ball", "two parallel axes", "slant", "nothing"],
)
def test_spaces_have_their_usual_names(motions: list[Motion], kinds: list[str]) -> None:
    twists = np.array([motion.twist for motion in motions]).T.reshape(6, -1)
    assert [motion.kind for motion in name_motions(span(twists, rank=1e-9, length=20.0), length=20.0)] == kinds


def test_two_skew_turns_that_hold_no_third_are_found_again() -> None:
    """Two lines that do not meet: the only rotations of their cylindroid are the two themselves."""
    one, two = turn((0, 0, 0), (1, 0, 0)), turn((0, 0, 10), (0, 1, 0))
    motions = name_motions(basis_of(one, two), length=20.0)
    assert [motion.kind for motion in motions] == ["rotation", "rotation"]
    places = sorted(round(float(motion.point[2]), 6) for motion in motions)
    assert places == [0, 10]


def test_a_motion_moves_with_the_world() -> None:
    pose = Pose.from_rotation_vector([0, 0, np.pi / 2], [1, 2, 3])
    moved = turn((5, 0, 0), (1, 0, 0)).moved(pose)
    np.testing.assert_allclose(moved.direction, [0, 1, 0], atol=1e-12)
    np.testing.assert_allclose(moved.point, [1, 7, 3], atol=1e-12)
