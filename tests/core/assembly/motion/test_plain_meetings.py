"""Where plain parts first meet, told by their faces alone: against trigonometry, and against the kernel."""

import math
from typing import Any

import numpy as np
import pytest
from build123d import Box, Cone, Cylinder, Plane, Pos, Rot, Sphere, fillet

from rigid_bench.core.assembly.contact.clearance import PlacedSolid, fine_mesh, interference, place
from rigid_bench.core.assembly.motion.first_meeting import first_meeting
from rigid_bench.core.assembly.motion.flat_meeting import flat_meeting
from rigid_bench.core.assembly.motion.wall_meeting import wall_meeting
from rigid_bench.core.kernel.feature_reader import read_features
from rigid_bench.core.kernel.meshes.swept_contact import straight_contacts, turning_contacts
from rigid_bench.core.values.frames import Pose
from rigid_bench.core.values.tolerance import Tolerance

pytestmark = pytest.mark.thorough

TOLERANCE = Tolerance()
X, Z, ORIGIN = np.array([1.0, 0, 0]), np.array([0, 0, 1.0]), np.zeros(3)
#: Somewhere askew in the world.
ASKEW = Pose.from_rotation_vector([0.4, -0.7, 0.2], [30, -50, 20])


def solid(shape: Any, pose: Pose | None = None) -> PlacedSolid:
    """Return a shape where it stands."""
    part = read_features(shape.solids()[0].wrapped, tolerance=TOLERANCE)
    return place("part", part, pose or Pose.identity())


def by_triangles(moving: PlacedSolid, other: PlacedSolid, *, is_turn: bool) -> float:
    """Return the same as the two under test, by triangles and the kernel's common volumes."""
    meshes = [fine_mesh(part.part, part.pose) for part in (moving, other)]
    contacts = (
        turning_contacts(meshes[0], meshes[1], ORIGIN, Z) if is_turn else straight_contacts(meshes[0], meshes[1], X)
    )
    lever = float(np.linalg.norm(moving.part.corners[:, :2], axis=1).max()) if is_turn else 1.0
    amount = first_meeting(
        moving,
        other,
        contacts,
        lambda gone: Pose.about(gone * Z, ORIGIN) if is_turn else Pose(np.eye(3), gone * X),
        until=math.inf,
        lever=lever,
        tolerance=TOLERANCE,
    )
    assert amount is not None
    return amount


ARM = Pos(20, 0, 0) * Box(60, 10, 8)
POST = Rot(0, 0, 120) * Pos(40, 0, 0) * Cylinder(4, 30)
#: What turns about z, what it meets, and after how much (rad), by hand.
TURNS = [
    # the arm's side stands 5 off its middle line, the post's skin 4 off its middle, which is 40 off the axis
    (ARM, POST, math.radians(120) - math.asin(9 / 40)),
    (fillet(ARM.edges(), 2), POST, math.radians(120) - math.asin(9 / 40)),
    # its side meets the nearer corner of a block that stands square on the y axis, 20 off the axis and 5 off it
    (Box(80, 10, 8), Pos(0, 30, 0) * Box(10, 20, 8), math.atan2(20, 5) - math.asin(5 / math.hypot(20, 5))),
    # the other stands outside the peg's circle
    (Pos(20, 0, 0) * Cylinder(3, 10), Pos(0, 60, 0) * Cylinder(5, 10), math.inf),
    # two pegs of one circle
    (Pos(20, 0, 0) * Cylinder(3, 10), Pos(0, 20, 0) * Cylinder(5, 10), math.pi / 2 - 2 * math.asin(4 / 20)),
    # above the peg's circle
    (Pos(20, 0, 0) * Cylinder(3, 10), Pos(0, 20, 20) * Cylinder(5, 10), math.inf),
]


@pytest.mark.parametrize(("moving", "other", "amount"), TURNS, ids=range(len(TURNS)))
def test_walls_along_the_axis_say_where_a_turn_ends(moving: Any, other: Any, amount: float) -> None:
    one, two = solid(moving), solid(other)
    assert wall_meeting(one, two, ORIGIN, Z) == pytest.approx(amount, abs=1e-6)
    assert by_triangles(one, two, is_turn=True) == pytest.approx(amount, abs=2e-3)
    one, two = (solid(shape, ASKEW) for shape in (moving, other))
    assert wall_meeting(one, two, ASKEW.point(ORIGIN), ASKEW.direction(Z)) == pytest.approx(amount, abs=1e-6)
    one, two = (solid(shape.mirror(Plane.XZ)) for shape in (moving, other))
    assert wall_meeting(one, two, ORIGIN, -Z) == pytest.approx(amount, abs=1e-6)


FRONT = Box(20, 10, 10)
#: What slides along x, what it meets, and after how much (mm), by hand.
SLIDES = [
    (FRONT, Pos(40, 0, 0) * Box(10, 10, 10), 25.0),
    (fillet(FRONT.edges(), 2), Pos(40, 0, 0) * Box(10, 10, 10), 25.0),
    # bars that cross: no corner of one lies over the other
    (Box(20, 40, 4), Pos(40, 0, 0) * Box(10, 4, 40), 25.0),
    # past it, beside it
    (FRONT, Pos(40, 11, 0) * Box(10, 10, 10), math.inf),
    # behind it
    (FRONT, Pos(-40, 0, 0) * Box(10, 10, 10), math.inf),
    # over a rod, up to its collar
    (
        FRONT - Rot(0, 90, 0) * Cylinder(3.1, 40),
        Rot(0, 90, 0) * (Cylinder(3, 200) + Pos(0, 0, 50) * Cylinder(4, 10)),
        35.0,
    ),
    # it touches already
    (FRONT, Pos(15, 0, 0) * Box(10, 10, 10), 0.0),
]


@pytest.mark.parametrize(("moving", "other", "amount"), SLIDES, ids=range(len(SLIDES)))
def test_flat_faces_square_to_the_way_say_where_a_slide_ends(moving: Any, other: Any, amount: float) -> None:
    one, two = solid(moving), solid(other)
    assert flat_meeting(one, two, X) == pytest.approx(amount, abs=1e-6)
    assert by_triangles(one, two, is_turn=False) == pytest.approx(amount, abs=2e-3)
    one, two = (solid(shape, ASKEW) for shape in (moving, other))
    assert flat_meeting(one, two, ASKEW.direction(X)) == pytest.approx(amount, abs=1e-6)


@pytest.mark.parametrize("past", [0.0, 1e-7, 4e-6, 2e-5])
def test_parts_that_are_in_contact_stay_so_however_their_places_are_rounded(past: float) -> None:
    """Past each other by so little that no volume tells it."""
    front, stop = solid(Box(4, 4, 4)), solid(Pos(7 - past, 0, 0) * Box(10, 4, 4))
    assert interference(front, stop, tolerance=TOLERANCE) == 0
    assert flat_meeting(front, stop, X) == pytest.approx(0, abs=1e-9)
    assert flat_meeting(front, stop, -X) == math.inf
    arm, post = solid(Pos(20, 0, 0) * Box(4, 4, 4)), solid(Pos(20, 4 - past, 0) * Box(4, 4, 4))
    assert wall_meeting(arm, post, ORIGIN, Z) == pytest.approx(0, abs=1e-9)
    back = wall_meeting(arm, post, ORIGIN, -Z)
    assert back is not None
    assert back > 3  # nearly once round


@pytest.mark.parametrize("turn", [0, 37, 90, 200])
@pytest.mark.parametrize("beside", [0.0, 5.0, 7.9, 8.9])
def test_the_edge_of_a_round_end_in_the_way_is_not_overlooked(turn: float, beside: float) -> None:
    """Wherever the seam of the round end lies: no corner of either face may lie over the other."""
    peg = Rot(turn, 0, 0) * Pos(40, 0, 0) * Rot(0, 90, 0) * Cylinder(4, 10)
    moving, other = solid(FRONT), solid(Pos(0, beside, 0) * peg)
    assert flat_meeting(moving, other, X) in (None, pytest.approx(25.0, abs=1e-6))
    assert by_triangles(moving, other, is_turn=False) == pytest.approx(25.0, abs=0.01)
    assert flat_meeting(moving, solid(Pos(0, 9.1, 0) * peg), X) == math.inf


@pytest.mark.parametrize("nose", [Pos(12, 0, 0) * Sphere(4), Pos(12, 0, 0) * Rot(0, 90, 0) * Cone(4, 1, 8)])
def test_a_nose_that_is_not_flat_is_left_to_triangles(nose: Any) -> None:
    moving, other = solid(FRONT + nose), solid(Pos(40, 0, 0) * Box(10, 10, 10))
    assert flat_meeting(moving, other, X) in (None, pytest.approx(19.0, abs=1e-6))
    assert by_triangles(moving, other, is_turn=False) == pytest.approx(19.0, abs=0.01)


@pytest.mark.parametrize("tip", [Pos(20, 0, 0) * Sphere(4), Pos(20, 0, 0) * Cone(4, 1, 8)])
def test_a_tip_that_is_no_wall_is_left_to_triangles(tip: Any) -> None:
    assert wall_meeting(solid(Box(50, 4, 4) + tip), solid(Pos(0, 20, 0) * Cylinder(4, 20)), ORIGIN, Z) is None


def test_a_ball_above_the_other_is_not_met() -> None:
    ball, post = solid(Pos(20, 0, 0) * Sphere(4)), solid(Pos(0, 20, 30) * Cylinder(4, 20))
    assert wall_meeting(ball, post, ORIGIN, Z) == math.inf


def test_random_pegs_and_blocks_meet_where_triangles_say() -> None:
    random = np.random.default_rng(7)
    compared = 0
    for _ in range(25):
        shapes = []
        for angle in (0.0, random.uniform(40, 300)):
            body = Box(*random.uniform(4, 12, 2), 10) if random.random() < 0.5 else Cylinder(random.uniform(2, 5), 10)
            shapes.append(
                Rot(0, 0, angle) * Pos(random.uniform(15, 25), 0, 0) * Rot(0, 0, random.uniform(0, 90)) * body
            )
        one, two = (solid(shape) for shape in shapes)
        if interference(one, two, tolerance=TOLERANCE):
            continue
        own = wall_meeting(one, two, ORIGIN, Z)
        if own is None:
            continue
        other = by_triangles(one, two, is_turn=True)
        if math.isfinite(own):
            assert own == pytest.approx(other, abs=2e-3)
            compared += 1
        else:
            assert not math.isfinite(other)
    assert compared > 15
