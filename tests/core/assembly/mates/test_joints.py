"""Where a joint stands between its limits: turn and travel from the place where the frames coincide."""

import math
from typing import Any

import numpy as np
import pytest

from rigid_bench.core.assembly.mates.joints import Standing, limit_equations, standings
from rigid_bench.core.formats.build import Limits, Mate
from rigid_bench.core.values.datums import FrameFeature
from rigid_bench.core.values.frames import Pose

FRAME = FrameFeature(np.zeros(3), np.array([0.0, 0, 1]), np.array([1.0, 0, 0]))
HERE = Pose.identity()


def joint(kind: str, **limits: Any) -> Mate:
    own = Limits(**limits) if limits else None
    return Mate(id="m", kind=kind, a=0, feature_a=FRAME, b=1, feature_b=FRAME, limits=own)


def turned(degrees: float, travel: float = 0.0) -> Pose:
    pose = Pose.about(math.radians(degrees) * np.array([0.0, 0, 1]), np.zeros(3))
    return Pose(pose.rotation, np.array([0.0, 0, travel]))


@pytest.mark.parametrize(
    ("degrees", "least", "greatest", "value"),
    [
        (0, -90, 90, 0),
        (45, -90, 90, 45),
        (-45, -90, 90, -45),
        # whole turns are counted so that it is within, or as near as can be
        (10, 350, 400, 370),
        (170, -190, -100, -190),
        (100, -90, 90, 100),
    ],
)
def test_a_turn_is_counted_within_its_limits(degrees: float, least: float, greatest: float, value: float) -> None:
    limited = joint("revolute", rotation=(math.radians(least), math.radians(greatest)))
    ((standing, row),) = standings(limited, [HERE, turned(degrees)])
    assert (standing.kind, math.degrees(standing.value)) == ("rotation", pytest.approx(value))
    assert row.is_angular
    assert row.angular.tolist() == [0, 0, 1]


def test_a_travel_is_along_the_first_frames_axis_wherever_it_stands() -> None:
    over = Pose.about(np.array([0.0, math.pi / 2, 0]), np.zeros(3))  # z looks along the world's x
    limited = joint("prismatic", translation=(0.0, 20.0))
    along = Pose(over.rotation, np.array([25.0, 0, 0]))
    ((standing, row),) = standings(limited, [over, along])
    assert (standing.kind, standing.value, standing.beyond) == ("translation", pytest.approx(25), pytest.approx(5))
    assert row.linear == pytest.approx(np.array([1.0, 0, 0]), abs=1e-12)


def test_a_joint_that_turns_and_travels_has_both() -> None:
    limited = joint("cylindrical", rotation=(-1.0, 1.0), translation=(0.0, 10.0))
    kinds = [standing.kind for standing, _ in standings(limited, [HERE, turned(20, 4)])]
    assert kinds == ["rotation", "translation"]


def test_a_coordinate_that_the_kind_has_not_is_not_limited() -> None:
    assert list(standings(joint("revolute", translation=(0.0, 10.0)), [HERE, turned(20, 4)])) == []
    assert list(standings(joint("revolute"), [HERE, turned(20)])) == []


@pytest.mark.parametrize(
    ("value", "state", "beyond"),
    [(0.0, "at least", 0), (5.0, "within", 0), (10.0, "at greatest", 0), (12.0, "beyond", 2), (-3.0, "beyond", -3)],
)
def test_where_it_stands(value: float, state: str, beyond: float) -> None:
    standing = Standing(mate="m", kind="translation", value=value, least=0.0, greatest=10.0)
    assert (standing.state, standing.beyond) == (state, beyond)


@pytest.mark.parametrize(("travel", "count"), [(5.0, 0), (10.0, 0), (13.0, 1), (-1.0, 1)])
def test_only_what_is_beyond_is_brought_back(travel: float, count: int) -> None:
    limited = joint("prismatic", translation=(0.0, 10.0))
    equations = limit_equations(limited, [HERE, turned(0, travel)])
    assert len(equations) == count
    assert all(equation.residual == pytest.approx(travel - min(max(travel, 0), 10)) for equation in equations)
