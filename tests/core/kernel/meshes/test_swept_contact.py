"""Where bodies on their way meet, against closed formulas and against small steps with a collision library."""

import math
from itertools import islice

import fcl
import numpy as np
import pytest
import trimesh

from rigid_bench.core.kernel.meshes.mesh_body import carried, hierarchy
from rigid_bench.core.kernel.meshes.swept_contact import Passing, straight_contacts, turning_contacts
from rigid_bench.core.values.frames import Pose, unit

X, Z = np.eye(3)[0], np.eye(3)[2]


def at(mesh: trimesh.Trimesh, *position: float) -> trimesh.Trimesh:
    return carried(mesh, Pose(np.eye(3), np.array(position)))


def first(contacts: object) -> float:
    return next(iter(contacts), math.inf)  # type: ignore[call-overload]


def stepped(moving: trimesh.Trimesh, other: trimesh.Trimesh, carry: object, step: float, end: float) -> float:
    """Return the first of many small steps at which a collision library says that two meshes meet."""
    still = fcl.CollisionObject(hierarchy(other), fcl.Transform())
    model = hierarchy(moving)
    for amount in np.arange(step, end, step):
        pose = carry(amount)  # type: ignore[operator]
        moved = fcl.CollisionObject(model, fcl.Transform(pose.rotation, pose.position))
        if fcl.collide(moved, still, fcl.CollisionRequest(), fcl.CollisionResult()):
            return float(amount)
    return math.inf


def test_a_box_goes_to_the_wall_and_a_box_beside_is_passed() -> None:
    box, wall = trimesh.creation.box((10, 10, 10)), at(trimesh.creation.box((2, 40, 40)), 50, 0, 0)
    assert first(straight_contacts(box, wall, X)) == pytest.approx(44)
    assert first(straight_contacts(box, wall, -X)) == math.inf
    assert first(straight_contacts(box, at(box, 30, 10.001, 0), X)) == math.inf
    assert first(straight_contacts(box, at(box, 30, 9.99, 0), X)) == pytest.approx(20)


@pytest.mark.parametrize("seed", range(6))
def test_straight_ways_of_bodies_that_lie_askew_end_where_small_steps_meet(seed: int) -> None:
    random = np.random.default_rng(seed)
    body = trimesh.creation.icosphere(subdivisions=2, radius=6)
    post = carried(
        trimesh.creation.cylinder(3, 50, sections=24),
        Pose.from_rotation_vector(random.normal(size=3), [30, *random.uniform(-4, 4, 2)]),
    )
    direction = unit([1.0, *random.uniform(-0.1, 0.1, 2)])
    ours = first(straight_contacts(body, post, direction))
    expected = stepped(body, post, lambda amount: Pose(np.eye(3), amount * direction), 0.01, 60)
    assert ours == pytest.approx(expected, abs=0.011)


@pytest.mark.parametrize("seed", range(6))
def test_turns_of_bodies_that_lie_askew_end_where_small_steps_meet(seed: int) -> None:
    random = np.random.default_rng(seed)
    arm = at(trimesh.creation.box((60, 8, 6)), 25, 0, 0)
    angle = random.uniform(0.5, 3.0)
    post = carried(
        trimesh.creation.cylinder(3, 60, sections=24),
        Pose.from_rotation_vector(
            0.4 * random.normal(size=3), [35 * math.cos(angle), 35 * math.sin(angle), random.uniform(-4, 4)]
        ),
    )
    axis = unit([*random.uniform(-0.1, 0.1, 2), 1.0])
    point = random.uniform(-3, 3, 3)
    ours = first(turning_contacts(arm, post, point, axis))
    expected = stepped(arm, post, lambda amount: Pose.about(amount * axis, point), 2e-4, 2 * math.pi)
    assert ours == pytest.approx(expected, abs=8e-4)


def test_a_turn_passes_the_walls_of_its_own_bearing_and_comes_round() -> None:
    pin, ring = trimesh.creation.cylinder(5, 30, sections=64), trimesh.creation.annulus(5.05, 9, 8, sections=64)
    assert first(turning_contacts(ring, pin, np.zeros(3), Z)) == math.inf
    arm, stop = at(trimesh.creation.box((20, 4, 4)), 15, 0, 0), at(trimesh.creation.box((4, 4, 4)), 20, 0, 0.1)
    later = list(islice(turning_contacts(at(arm, 0, 0, 0), at(stop, 0, -4.5, 0), np.zeros(3), Z), 1))
    assert later[0] > math.radians(330)


def test_what_is_passed_is_told_with_how_near_and_where() -> None:
    box = trimesh.creation.box((10, 10, 10))
    passing = Passing(box, at(box, 40, 10.5, 0), X)
    (nearest, amount), *_ = passing.nearer_than(1.0, (-100, 100))
    assert nearest == pytest.approx(0.5)
    assert 30 <= amount <= 50
    assert passing.nearer_than(0.4, (-100, 100)) == []
    assert passing.nearer_than(1.0, (-100, 20)) == []
    disc = at(trimesh.creation.cylinder(4, 6, sections=48), 30, 0, 0)
    turned = Passing(disc, at(trimesh.creation.cylinder(3, 6, sections=48), 0, 38, 0), Z, np.zeros(3))
    (nearest, amount), *_ = turned.nearer_than(2.0, (-math.pi, math.pi))
    assert nearest == pytest.approx(1.0, abs=turned.off_mm)
    assert amount == pytest.approx(math.pi / 2, abs=0.2)
