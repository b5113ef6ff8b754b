"""Ways that carry parts as one body: where they lead, where a joint stops them, and what has to be followed instead."""

import math
from typing import Any

import numpy as np
import pytest

from rigid_bench.core.assembly.freedom.analysis import Freedom, freedom
from rigid_bench.core.assembly.mates.system import System
from rigid_bench.core.assembly.motion.joined import joint_of
from rigid_bench.core.assembly.motion.rigid_way import RigidWay, rigid_way
from rigid_bench.core.formats.build import Limits
from rigid_bench.core.values.tolerance import Tolerance
from tests.support.mechanisms import Joint, X, Z, mechanism

SEEDS = [None, 3, 8]


def analysed(*joints: Joint, seed: int | None = None) -> Freedom:
    return freedom(mechanism(*joints, seed=seed), tolerance=Tolerance())


def only_way(own: Freedom, index: int, *, way: int = 1, size_mm: float = 0.0) -> RigidWay | None:
    (motion,) = own.motions(index)
    return rigid_way(own, motion, index, None, way=way, size_mm=size_mm)


def crank(seed: int | None = None, **limits: Any) -> Freedom:
    """A crank about z at (10, 0, 0), and an arm that is fixed to it."""
    own = Limits(**limits) if limits else None
    return analysed(
        Joint(kind="revolute", bodies=(0, 1), at=(10.0, 0, 0), limits=own),
        Joint(kind="fixed", bodies=(1, 2), at=(10.0, 50, 0)),
        seed=seed,
    )


@pytest.mark.parametrize("seed", SEEDS)
def test_a_turn_carries_what_hangs_on_it_and_leaves_the_rest(seed: int | None) -> None:
    own = crank(seed)
    moving = {k for k in range(3) if k not in own.system.held}
    way = only_way(own, min(moving))
    assert way is not None
    assert (way.is_turn, set(way.moving)) == (True, moving)
    before, after = own.poses, way.poses(math.radians(90))
    for k in moving:
        turned = after[k].rotation @ before[k].rotation.T
        assert np.degrees(np.arccos((np.trace(turned) - 1) / 2)) == pytest.approx(90)
    (still,) = own.system.held
    assert after[still].is_close(before[still], mm=0, rad=0)


def test_it_goes_the_other_way_with_the_other_sign() -> None:
    own = crank()
    forth, back = only_way(own, 1), only_way(own, 1, way=-1)
    assert forth is not None
    assert back is not None
    assert forth.poses(0.3)[1].is_close(back.poses(-0.3)[1], mm=1e-9, rad=1e-9)


@pytest.mark.parametrize(("limits", "span"), [
    ({}, (-math.pi, math.pi)),
    ({"rotation": (-0.5, 1.2)}, (-0.5, 1.2)),
])  # fmt: skip
def test_a_turn_ends_at_its_limits(limits: dict[str, Any], span: tuple[float, float]) -> None:
    way = only_way(crank(**limits), 1)
    assert way is not None
    ends = way.span()
    # the motion may be named about the axis or against it
    assert sorted(map(abs, ends)) == pytest.approx(sorted(map(abs, span)), abs=1e-5)
    if limits:
        stopped = way.limit()
        assert stopped is not None
        assert stopped[0] == pytest.approx(ends[1], abs=1e-6)


def test_a_slide_ends_at_its_travel() -> None:
    own = analysed(Joint(kind="prismatic", bodies=(0, 1), along=X, limits=Limits(translation=(-4.0, 9.0))))
    way = only_way(own, 1, size_mm=100.0)
    assert way is not None
    assert sorted(map(abs, way.span())) == pytest.approx([4.0, 9.0], abs=1e-4)
    assert way.carried(2.0).rotation.tolist() == np.eye(3).tolist()


def test_a_screw_and_a_linkage_have_to_be_followed() -> None:
    assert only_way(analysed(Joint(kind="screw", bodies=(0, 1), pitch=2.0)), 1) is None
    four_bar = analysed(
        Joint(kind="revolute", bodies=(0, 1)),
        Joint(kind="revolute", bodies=(1, 2), at=(0.0, 30, 0)),
        Joint(kind="revolute", bodies=(2, 3), at=(80.0, 50, 0)),
        Joint(kind="revolute", bodies=(3, 0), at=(90.0, 0, 0)),
    )
    assert only_way(four_bar, 1) is None


@pytest.mark.parametrize(("kind", "more", "named"), [
    ("revolute", {}, "rotation"),
    ("prismatic", {}, "translation"),
    ("cylindrical", {}, None),
    ("screw", {"pitch": 1.5}, None),
    ("fixed", {}, None),
])  # fmt: skip
@pytest.mark.parametrize("seed", SEEDS)
def test_the_one_motion_between_two_is_their_joint(
    kind: str, more: dict[str, Any], named: str | None, seed: int | None
) -> None:
    build = mechanism(Joint(kind=kind, bodies=(0, 1), at=(5.0, 6, 7), along=Z, **more), seed=seed)
    system = System(build, Tolerance())
    motion = joint_of(system, system.poses, 0, 1)
    assert (motion.kind if motion else None) == named
    if motion is not None:
        axis = build.mates[0].feature_a.moved(system.poses[build.mates[0].a])
        assert abs(float(motion.direction @ axis.direction)) == pytest.approx(1)  # type: ignore[union-attr]
        off = np.cross(motion.point - axis.point, motion.direction)
        assert named == "translation" or np.linalg.norm(off) == pytest.approx(0, abs=1e-6)


def test_two_that_no_mate_joins_have_no_joint() -> None:
    system = System(
        mechanism(Joint(kind="revolute", bodies=(0, 1)), Joint(kind="revolute", bodies=(1, 2))), Tolerance()
    )
    assert joint_of(system, system.poses, 0, 2) is None
