"""Each kind's rows are the slopes of its residuals: small moves of one part by finite differences, the other still."""

import itertools
from typing import Any

import numpy as np
import pytest
from scipy.spatial.transform import Rotation

from rigid_bench.core.assembly.mates.kind import MateKind
from rigid_bench.core.assembly.mates.kinds import (
    angle,
    coaxial,
    coincident,
    cylindrical,
    distance,
    fixed,
    parallel,
    perpendicular,
    planar,
    prismatic,
    revolute,
    screw,
    spherical,
    tangent,
)
from rigid_bench.core.assembly.mates.registry import KINDS, equations
from rigid_bench.core.formats.build import Mate, read_build
from rigid_bench.core.values.frames import Pose
from tests.core.assembly.mates.test_kinds import TABLE, build_with

MODULES = (
    angle, coaxial, coincident, cylindrical, distance, fixed, parallel, perpendicular, planar, prismatic, revolute,
    screw, spherical, tangent,
)  # fmt: skip
#: rad and mm of a small move; how near the slope is then.
STEP, NEAR = 1e-6, 1e-3
#: What is off across an axis is told along two directions across it, which may turn as the axis does: by their length.
FREE_BASE = ("coincident", "perpendicular")
#: Twists: turns and shifts along the axes, and two that are slanted.
TWISTS = [*np.eye(6), np.array([0.3, -0.5, 0.2, 1.0, 2, -1]), np.array([-0.1, 0.4, 0.7, -2.0, 0.5, 3])]


def mate_of(kind: str, a: dict[str, Any], b: dict[str, Any], more: dict[str, Any]) -> Mate:
    (mate,) = read_build(build_with(kind, a, b, **more), name="b").mates
    return mate


def moved(twist: np.ndarray, by: float) -> Pose:
    """A small motion of the world: turned about its origin, and shifted."""
    return Pose(Rotation.from_rotvec(by * twist[:3]).as_matrix(), by * twist[3:])


def residuals(mate: Mate, a: Pose, b: Pose) -> np.ndarray:
    return np.array([own.residual for own in equations(mate, mate.feature_a.moved(a), mate.feature_b.moved(b))])


def slopes(mate: Mate, twist: np.ndarray) -> np.ndarray:
    """What the rows say of a twist of b less that of a: (k,)."""
    rows = equations(mate, mate.feature_a, mate.feature_b)
    return np.array(
        [
            float(row.angular @ twist[:3] + row.linear @ (twist[3:] + np.cross(twist[:3], row.point)))
            for row in rows
        ]
    )  # fmt: skip


def test_the_registry_has_just_these() -> None:
    own: list[MateKind] = [module.KIND for module in MODULES]
    assert {kind.name: kind for kind in own} == dict(KINDS)


@pytest.mark.parametrize(("kind", "a", "b", "more", "removes"), TABLE)
@pytest.mark.parametrize("is_swapped", [False, True])
def test_rows_are_slopes(
    kind: str, a: dict[str, Any], b: dict[str, Any], more: dict[str, Any], removes: int, is_swapped: bool
) -> None:
    first, second = (b, a) if is_swapped else (a, b)
    own = mate_of(kind, first, second, more)
    still = Pose.identity()
    if any(row.is_singular for row in equations(own, own.feature_a, own.feature_b)):
        pytest.skip("its row could point anywhere here")
    for twist, sign in itertools.product(TWISTS, (1, -1)):
        there, back = (residuals(own, still, moved(twist, way * sign * STEP)) for way in (1, -1))
        numeric, wanted = (there - back) / (2 * sign * STEP), slopes(own, twist)
        if kind in FREE_BASE:
            numeric, wanted = (np.array([np.linalg.norm(own_slopes)]) for own_slopes in (numeric, wanted))
        assert numeric == pytest.approx(wanted, abs=NEAR), kind


@pytest.mark.parametrize(("kind", "a", "b", "more", "removes"), TABLE)
def test_a_move_of_both_changes_nothing(
    kind: str, a: dict[str, Any], b: dict[str, Any], more: dict[str, Any], removes: int
) -> None:
    own = mate_of(kind, a, b, more)
    anywhere = Pose(Rotation.from_rotvec([0.4, -1.1, 0.3]).as_matrix(), np.array([30.0, -12, 5]))
    assert residuals(own, anywhere, anywhere) == pytest.approx(
        residuals(own, Pose.identity(), Pose.identity()), abs=1e-9
    )


@pytest.mark.parametrize(("kind", "a", "b", "more", "removes"), TABLE)
def test_so_many_rows_are_independent(
    kind: str, a: dict[str, Any], b: dict[str, Any], more: dict[str, Any], removes: int
) -> None:
    own = mate_of(kind, a, b, more)
    rows = np.array([slopes(own, twist) for twist in np.eye(6)]).T
    assert np.linalg.matrix_rank(rows, tol=1e-9) == removes
