"""Dragging and nudging: what follows, what stays, and what stops a part."""

import math
from typing import Any

import numpy as np
import pytest

from rigid_bench.core.bench import moving, work
from rigid_bench.core.bench.documents import BenchMate, BenchState
from rigid_bench.core.bench.parts import handed_parts
from rigid_bench.core.formats.build import LimitsModel, OperandModel
from rigid_bench.core.values.errors import FormRejected
from rigid_bench.demo import pedal_bin, weather_mast
from tests.core.bench.mast import assembled, loose
from tests.support.samples import files_of
from tests.support.shapes import TOLERANCE

pytestmark = pytest.mark.thorough


def test_a_drag_turns_the_vane_and_slides_the_collar_and_moves_nothing_else() -> None:
    state = assembled()
    vane = state.instance("vane-1")
    assert vane
    tip = vane.pose.point([90, 0, 7.5])
    pulled = moving.drag(state, "vane-1", start=tip.tolist(), end=[0, 90, float(tip[2])], tolerance=TOLERANCE)
    assert all(not work.answer(state, tolerance=TOLERANCE).clashing for state in pulled.states)  # at every picture
    moved = pulled.states[-1]
    turned = moved.instance("vane-1")
    assert turned
    assert np.hypot(*turned.pose.point([90, 0, 7.5])[:2] - [0, 90]) < 2
    for name in ("base-1", "mast-1"):
        assert moved.instance(name) == state.instance(name)
    assert not work.answer(moved, tolerance=TOLERANCE).clashing
    stuck = moving.drag(state, "mast-1", start=[0, 0, 100], end=[50, 0, 100], tolerance=TOLERANCE)
    assert stuck.states == [state]


def test_a_joints_limit_stops_a_drag() -> None:
    state = assembled()
    tip = state.instance("vane-1")
    assert tip
    start = tip.pose.point([90, 0, 7.5])
    axis = {"origin": [0, 0, 0], "z": [0, 0, 1], "x": [1, 0, 0]}
    hinge = BenchMate(
        id="hinge",
        kind="revolute",
        sense="aligned",
        offset=0.0,
        limits=LimitsModel(rotation=[-5, 30]),
        a=OperandModel.model_validate({"instance": "collar-1", "frame": {**axis, "origin": [0, 0, 20]}}),
        b=OperandModel.model_validate({"instance": "vane-1", "frame": axis}),
    )
    held = state.model_copy(update={"mates": [*state.mates[:4], hinge]})
    placed = [
        instance.model_copy(update={"grounded": instance.id in ("base-1", "collar-1")}) for instance in held.placed
    ]
    held = held.model_copy(update={"placed": placed})

    def angle(moved: moving.Moved) -> float:
        vane = moved.states[-1].instance("vane-1")
        assert vane
        turned = vane.pose.direction([1, 0, 0])
        return math.degrees(math.atan2(turned[1], turned[0]))

    where: Any = {"start": start.tolist(), "end": [0.0, 90.0, float(start[2])], "tolerance": TOLERANCE}
    far = moving.drag(held, "vane-1", **where)
    assert 0 < angle(far) <= 30.01
    assert far.limit == "hinge"
    free = moving.drag(held, "vane-1", has_limits=False, **where)
    assert angle(free) > 60
    assert free.limit is None


def test_a_nudge_goes_out_and_comes_back_with_all_mates_holding() -> None:
    state, parts = assembled(), loose()
    frames = moving.nudge(state, parts, "vane-1", 0, tolerance=TOLERANCE).states
    assert frames[-1] == state
    assert len(frames) > 4
    assert all(not work.answer(frame, tolerance=TOLERANCE).clashing for frame in frames)
    with pytest.raises(FormRejected):
        moving.nudge(state, parts, "mast-1", 0, tolerance=TOLERANCE)


def test_driving_the_linkage_moves_all_its_links_and_every_mate_holds() -> None:
    files = files_of(pedal_bin.SAMPLES[0])
    parts = handed_parts(files, tolerance=TOLERANCE).parts
    state = BenchState(placed=parts.placed, mates=parts.mates)
    answer = work.answer(state, tolerance=TOLERANCE)
    assert answer.mobility == 1
    pedal = next(instance for instance in state.placed if instance.part == "pedal")
    frames = moving.nudge(state, parts, pedal.id, 0, tolerance=TOLERANCE).states
    for frame in frames[:: max(1, len(frames) // 6)]:
        assert not work.answer(frame, tolerance=TOLERANCE).clashing
    far = frames[len(frames) // 2 - 1]
    went = [a.pose.is_close(b.pose, mm=0.01, rad=1e-4) for a, b in zip(far.placed, state.placed, strict=True)]
    assert went.count(False) == 3


def test_a_loose_part_comes_along_straight_wherever_it_is_held() -> None:
    state = work.place(assembled(), loose(), "rotor")
    rotor = state.instance("rotor-1")
    assert rotor
    start, way = rotor.pose.point([60, 0, 10]), np.array([0, 30, 40])
    moved = moving.drag(state, "rotor-1", start=start.tolist(), end=(start + way).tolist(), tolerance=TOLERANCE)
    after = moved.states[-1].instance("rotor-1")
    assert after
    assert after.pose.rotation == pytest.approx(np.eye(3), abs=1e-9)
    assert after.position == pytest.approx((np.array(rotor.position) + way).tolist(), abs=0.1)


def test_a_drag_turns_the_rotor_of_the_whole_mast_and_nothing_else_by_a_hair() -> None:
    sample = weather_mast.SAMPLES[0]
    parts = handed_parts(files_of(sample), tolerance=TOLERANCE).parts
    state = BenchState(placed=parts.placed, mates=parts.mates)
    rotor = state.instance("rotor-1")
    assert rotor
    start, end = rotor.pose.point([60, 0, 10]), rotor.pose.point([42, 42, 10])
    moved = moving.drag(state, "rotor-1", start=start.tolist(), end=end.tolist(), tolerance=TOLERANCE).states[-1]
    assert [instance.id for instance, was in zip(moved.placed, state.placed, strict=True) if instance != was] == [
        "rotor-1"
    ]
    # at its axis it cannot be pulled
    held = moving.drag(state, "rotor-1", start=rotor.position, end=[30, 0, rotor.position[2]], tolerance=TOLERANCE)
    assert held.states == [state]
