"""Paths of builds: how exact they are, that they close, and that all parts of a build with one motion share one."""

import math
from collections.abc import Callable

import numpy as np
import pytest

from rigid_bench.core.assembly.freedom.analysis import Freedom, freedom
from rigid_bench.core.assembly.freedom.path import Path, path_of
from rigid_bench.core.assembly.freedom.travel import follow
from rigid_bench.core.values.frames import Pose
from tests.support import mechanisms as m
from tests.support.shapes import TOLERANCE

pytestmark = pytest.mark.thorough

CLOSED = {"four-bar": m.four_bar(), "slider and crank": m.slider_crank()}
#: Of the parts' size: what leg ends and the steps between them may be off by.
AT_ENDS, BETWEEN = 1e-4, 5e-4


def off(free: Freedom, poses: list[Pose]) -> float:
    """Return how far the worst mate is off, as a share of the parts' size."""
    return float(max(free.system.residual(mate, poses).mm for mate in free.system.mates) / free.system.lengths.max())


def crank_path(free: Freedom, *, way: int = 1) -> Path:
    (turn,) = free.motions(1)
    path = path_of(free, turn, 1, None, way=way)
    number = 0
    while not path.is_closed and path.leg(number):
        number += 1
    return path


@pytest.mark.parametrize("drawn", CLOSED.values(), ids=CLOSED)
@pytest.mark.parametrize("seed", [None, 3, 11])
def test_a_crank_comes_round_and_the_mates_hold_all_the_way(drawn: list[m.Joint], seed: int | None) -> None:
    free = freedom(m.mechanism(*drawn, seed=seed), tolerance=TOLERANCE)
    path = crank_path(free)
    assert path.is_closed
    assert len(path.closed) < 40
    for leg in path.closed:
        assert off(free, leg.end.poses) < AT_ENDS
        assert max(off(free, leg.steps.poses(k)) for k in range(len(leg.shares))) < BETWEEN
    first, last = path.closed[0], path.closed[-1]
    assert all(a.is_close(b, mm=1e-9, rad=1e-9) for a, b in zip(first.start.poses, last.end.poses, strict=True))


@pytest.mark.parametrize(
    "drawn",
    [m.bennett, m.sarrus, m.universal_joint, m.oldham, m.scotch_yoke, m.rssr, m.watt_six_bar, m.stephenson_six_bar,
     m.quick_return, m.elliptic_trammel, m.pantograph, m.scissor_lift, m.spherical_five_bar, m.differential_screw,
     m.straight_line_linkage, m.double_universal_joint, m.five_bar, m.wedge, m.planar_platform],
)  # fmt: skip
def test_the_mates_of_textbook_mechanisms_hold_along_every_motion(drawn: Callable[[], tuple[m.Joint, ...]]) -> None:
    free = freedom(m.mechanism(*drawn(), seed=7), tolerance=TOLERANCE)
    last = len(free.poses) - 1
    for motion in free.motions(last):
        path = path_of(free, motion, last, None, way=1)
        legs = [leg for number in range(12) if (leg := path.leg(number))]
        assert legs or not motion.finite
        for leg in legs:
            assert off(free, leg.end.poses) < AT_ENDS
            assert max(off(free, leg.steps.poses(k)) for k in range(len(leg.shares))) < BETWEEN


def test_all_parts_of_a_build_with_one_motion_share_one_path_each_way() -> None:
    free = freedom(m.mechanism(*m.slider_crank()), tolerance=TOLERANCE)
    (turn,), (slide,) = free.motions(1), free.motions(3)
    ways = [path_of(free, motion, index, None, way=way) for motion, index in ((turn, 1), (slide, 3)) for way in (1, -1)]
    assert len({id(path) for path in ways}) == 2
    assert {path.sense for path in ways} == {1, -1}


def test_the_way_back_of_a_closed_path_is_not_worked_out_again() -> None:
    free = freedom(m.mechanism(*m.four_bar()), tolerance=TOLERANCE)
    there, back = (crank_path(free, way=way) for way in (1, -1))
    assert back.twin is there
    assert [leg.twin for leg in back.closed] == list(there.closed[::-1])
    middle, mirrored = there.closed[-1].at([0.3]).poses(0), back.closed[0].at([0.7]).poses(0)
    assert all(a.is_close(b, mm=1e-6, rad=1e-8) for a, b in zip(middle, mirrored, strict=True))


def test_a_small_crank_on_a_large_frame_is_followed_as_closely() -> None:
    """What stands still may be two metres long; the mates of what moves still hold to a share of that."""
    drawn = (
        *m.four_bar(),
        m.Joint(kind="fixed", bodies=(0, 4)),
        m.Joint(kind="fixed", bodies=(0, 4), at=(2000.0, 0.0, 0.0)),
    )
    free = freedom(m.mechanism(*drawn), tolerance=TOLERANCE)
    path = crank_path(free)
    assert path.is_closed
    worst = max(
        free.system.residual(mate, leg.steps.poses(k)).mm
        for leg in path.closed
        for k in range(len(leg.shares))
        for mate in free.system.mates
    )
    assert worst < BETWEEN * 60


def test_where_two_motions_are_free_each_has_its_own_path() -> None:
    free = freedom(m.mechanism(*m.arm(2)), tolerance=TOLERANCE)
    paths = [path_of(free, motion, 2, None, way=1) for motion in free.motions(2)]
    assert len(set(map(id, paths))) == len(paths) > 1
    assert {path.sense for path in paths} == {0}


def test_a_nut_goes_a_pitch_for_each_turn_of_its_screw() -> None:
    """Many turns: pitch times turns, by the definition of a screw's lead (ISO 5408, from memory)."""
    screw = m.Joint(kind="screw", bodies=(1, 2), along=m.Z, pitch=2.0)
    drawn = (
        m.Joint(kind="revolute", bodies=(0, 1), along=m.Z),
        screw,
        m.Joint(kind="prismatic", bodies=(0, 2), along=m.Z),
    )
    free = freedom(m.mechanism(*drawn), tolerance=TOLERANCE)
    (slide,) = free.motions(2)
    assert slide.kind == "translation"
    turned, before = 0.0, free.poses[1]
    for step in follow(free, slide, 2, None, size_mm=40.0):
        rotation = step.poses[1].rotation @ before.rotation.T
        turned += math.atan2(rotation[1, 0], rotation[0, 0])
        before = step.poses[1]
        assert abs(step.amount) == pytest.approx(abs(turned) / (2 * math.pi) * 2.0, abs=1e-3)
        if abs(step.amount) > 30:
            break
    assert abs(turned) > 14 * 2 * math.pi


def test_steps_lie_close_together_where_parts_turn() -> None:
    free = freedom(m.mechanism(*m.four_bar()), tolerance=TOLERANCE)
    (turn,) = free.motions(1)
    amounts = np.array([0.0, *(step.amount for step in follow(free, turn, 1, None))])
    assert np.all(np.diff(amounts) > 0)
    assert np.diff(amounts).max() < math.radians(3)
    assert amounts[-1] == pytest.approx(2 * math.pi)
