"""What does not stand where it should, by what motion, and which mates put it there: on a stand with known places."""

from typing import Any

import numpy as np
import pytest

from benchmarks.stand import Stand, arm_on_base, exercise
from rigid_bench.core.grading.context import Context
from rigid_bench.core.grading.grade import grade_whole
from rigid_bench.core.grading.matching.placement import base_of, left_at_origin, mates_to_undo, misplaced, right_feature
from rigid_bench.core.values.datums import AxisFeature
from rigid_bench.core.values.frames import Pose, turn_of
from tests.support.shapes import TOLERANCE

pytestmark = pytest.mark.thorough


def context(**slips: Any) -> Context:
    """Grade a stand with slips, and return what the grading looked at."""
    return grade_whole(exercise(), Stand(**slips).files(), tolerance=TOLERANCE)[1]


def test_a_right_build_has_nothing_off_and_no_mate_to_undo() -> None:
    right = context()
    assert misplaced(right) == []
    assert left_at_origin(right) == []
    assert mates_to_undo(right, ["base-1", "post-1", "arm-1", "pin-1"]).delete == ()
    base = base_of(right)
    assert base is not None
    assert base.is_close(Pose.identity(), mm=1e-6, rad=1e-9)


def test_one_part_is_off_by_its_own_motion() -> None:
    (off,) = misplaced(context(post_up=5.0))
    assert off.instances == ("post-1",)
    assert off.motion.position == pytest.approx([0, 0, 5], abs=1e-6)
    assert np.linalg.norm(turn_of(off.motion.rotation)) < 1e-9


def test_parts_that_are_off_together_are_one_group() -> None:
    (off,) = misplaced(context(height=70.0))
    assert off.instances == ("arm-1", "pin-1")
    assert off.motion.position == pytest.approx([0, 0, 12], abs=1e-6)


def test_a_part_upside_down_is_off_by_half_a_turn() -> None:
    groups = {group.instances: group.motion for group in misplaced(context(is_upside_down=True))}
    motion = next(motion for instances, motion in groups.items() if "arm-1" in instances)
    assert np.linalg.norm(turn_of(motion.rotation)) == pytest.approx(np.pi, abs=1e-6)


def test_parts_that_were_never_put_in_place_are_left_at_the_origin() -> None:
    heap = context(is_at_origin=True)
    assert set(left_at_origin(heap)) == {"post-1", "arm-1", "pin-1"}
    assert left_at_origin(context(height=70.0)) == []


def test_without_the_base_nothing_is_known_of_places() -> None:
    lost = context(without="base")
    assert base_of(lost) is None
    assert misplaced(lost) == []
    assert mates_to_undo(lost, ["arm-1"]).delete == ()


def test_the_mate_that_holds_a_part_in_the_wrong_place_is_to_be_undone() -> None:
    wrong = context(others=(arm_on_base(),), height=0.0)
    undo = mates_to_undo(wrong, ["arm-1"])
    assert undo.delete == ("arm height",)
    assert "arm on post" in undo.keep
    assert mates_to_undo(wrong, ["post-1"]).delete == ()


def test_the_feature_that_a_wrong_mate_should_have_used_is_found() -> None:
    instead = right_feature(context(hole=40.0), "pin in arm")
    assert instead is not None
    assert isinstance(instead.used, AxisFeature)
    assert isinstance(instead.right, AxisFeature)
    assert abs(float(instead.used.point[0]) - 40) < 1e-6
    assert abs(float(instead.right.point[0]) - 30) < 1e-6


def test_a_mate_that_holds_already_names_what_it_uses() -> None:
    instead = right_feature(context(), "pin in arm")
    assert instead is not None
    assert float(instead.right.point[0]) == pytest.approx(float(instead.used.point[0]), abs=1e-6)
