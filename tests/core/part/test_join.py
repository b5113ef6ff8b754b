"""Faces of one surface are joined, however a file splits them; those that only look alike are not."""

import math

import numpy as np
import pytest
from build123d import Axis, Box, Cone, Cylinder, Keep, Location, Plane, Pos, Rot, Solid, Sphere, Torus, fillet, split
from numpy.typing import NDArray
from OCP.BRepAlgoAPI import BRepAlgoAPI_Fuse

from rigid_bench.core.kernel.binding import solids_of
from rigid_bench.core.kernel.feature_reader import read_features
from rigid_bench.core.part.edges import Edges
from rigid_bench.core.part.faces import Cylinder as Wall
from rigid_bench.core.part.faces import Plane as Flat
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.part.join import axis_groups, join_surfaces, one_wall
from tests.support.shapes import TOLERANCE, features

X, Y, Z = np.eye(3)
ALL_ROUND = ((X, 2 * math.pi),)


def wall(
    at: float, length: float, *, radius: float = 5.0, hollow: bool = False, face: int = 0,
    axis: NDArray[np.float64] = Z, beside: float = 0.0, arcs: tuple[tuple[NDArray[np.float64], float], ...] = ALL_ROUND,
) -> Wall:  # fmt: skip
    """A round wall on the z axis, or beside it."""
    area = radius * length * sum(sweep for _, sweep in arcs)
    return Wall(faces=(face,), point=np.array([beside, 0, at]), direction=axis, radius=radius, length=length,
                is_hollow=hollow, arcs=arcs, area=area)  # fmt: skip


def joined(*walls: Wall) -> list[tuple[float, float, float]]:
    """Join walls; return from where to where each goes along z, and its radius."""
    numbered = [
        Wall(**{**{name: getattr(own, name) for name in own.__slots__}, "faces": (k,)}) for k, own in enumerate(walls)
    ]
    surfaces = join_surfaces(numbered, Edges.none(), TOLERANCE)
    result = []
    for surface in surfaces:
        assert isinstance(surface, Wall)
        low, high = sorted([float(surface.point[2]), float(surface.end[2])])
        result.append((low, high, surface.radius))
    return sorted(result)


@pytest.mark.parametrize(
    ("walls", "result"),
    [
        ([wall(0, 10), wall(10, 5)], [(0, 15, 5)]),
        ([wall(0, 10), wall(15, 5, axis=-Z)], [(0, 15, 5)]),  # drawn from the other end
        ([wall(0, 10), wall(8, 5)], [(0, 13, 5)]),  # overlap
        ([wall(0, 10), wall(11, 5)], [(0, 10, 5), (11, 16, 5)]),  # a groove between
        ([wall(0, 10), wall(10, 5, radius=5.1)], [(0, 10, 5), (10, 15, 5.1)]),  # a step
        ([wall(0, 10), wall(10, 5, hollow=True)], [(0, 10, 5), (10, 15, 5)]),  # a pin and a bore
        ([wall(0, 10), wall(10, 5, beside=0.1)], [(0, 10, 5), (10, 15, 5)]),  # not on one axis
        ([wall(20, 5), wall(0, 10), wall(10, 10)], [(0, 25, 5)]),  # in any order
    ],
)
def test_walls_on_one_axis(walls: list[Wall], result: list[tuple[float, float, float]]) -> None:
    assert joined(*walls) == [pytest.approx(own) for own in result]


def test_halves_of_a_wall_make_it_go_round() -> None:
    halves = [wall(0, 10, arcs=((side * X, math.pi),), face=k) for k, side in enumerate((1, -1))]
    whole = one_wall(*halves)
    assert whole.sweep == pytest.approx(2 * math.pi)
    assert whole.area == pytest.approx(2 * math.pi * 5 * 10)
    assert whole.faces == (0, 1)


def test_walls_are_grouped_by_axis_whichever_way_it_points() -> None:
    walls = [wall(0, 5), wall(30, 5, axis=-Z), wall(0, 5, beside=7), wall(0, 5, axis=X)]
    groups = axis_groups(walls)
    assert sorted(len(group) for group in groups) == [1, 1, 2]
    assert axis_groups([]) == []


def counts(part: PartFeatures) -> dict[str, int]:
    """Count the surfaces of each kind."""
    kinds = [type(surface).__name__ for surface in part.surfaces]
    return {kind: kinds.count(kind) for kind in kinds}


@pytest.mark.parametrize(
    ("shape", "kinds"),
    [
        (Cylinder(5, 20), {"Cylinder": 1, "Plane": 2}),
        (Cone(6, 3, 10), {"Cone": 1, "Plane": 2}),
        (Sphere(8), {"Sphere": 1}),
        (Torus(20, 4), {"Torus": 1}),
        (Box(30, 20, 10) - Cylinder(4, 30), {"Plane": 6, "Cylinder": 1}),
    ],
    ids=["cylinder", "cone", "sphere", "torus", "bored"],
)
def test_what_is_cut_and_put_together_again_has_the_same_surfaces(shape: Solid, kinds: dict[str, int]) -> None:
    """Two halves glued without being refined have each face twice."""
    assert counts(features(shape)) == kinds
    tilted = Plane(Location((0.3, 0.2, 0.1), (0, 90, 0)))
    halves = [split(shape, tilted, keep=keep).solid() for keep in Keep if keep.name in ("TOP", "BOTTOM")]
    glued = BRepAlgoAPI_Fuse(halves[0].wrapped, halves[1].wrapped).Shape()
    (solid,) = solids_of(glued)
    again = read_features(solid, tolerance=TOLERANCE)
    assert counts(again) == kinds
    assert again.area == pytest.approx(features(shape).area, rel=1e-9)


def test_a_flat_in_two_faces_has_one_middle_and_area() -> None:
    part = features(Box(30, 20, 10))
    top = next(surface for surface in part.planes if surface.normal[2] > 0.9)
    halves = [
        Flat(faces=(k,), point=top.point + side * np.array([7.5, 0, 0]), normal=top.normal, area=300.0)
        for k, side in enumerate((1, -1))
    ]
    edge = Edges(
        kinds=np.zeros(1, dtype=np.int64), starts=np.array([[0, -10.0, 5]]), middles=np.array([[0, 0, 5.0]]),
        ends=np.array([[0, 10.0, 5]]), tangents=np.array([[0, 1.0, 0]]), sides=np.array([[0, 1]]), samples={},
        angles=np.zeros(1),
    )  # fmt: skip
    (whole,) = join_surfaces(halves, edge, TOLERANCE)
    assert isinstance(whole, Flat)
    assert whole.area == 600
    assert whole.point == pytest.approx(top.point)
    kinked = Edges(**{**edge.__dict__, "angles": np.array([0.2])})
    assert len(join_surfaces(halves, kinked, TOLERANCE)) == 2


def test_roundings_of_different_corners_stay_apart() -> None:
    box = Box(30, 20, 10)
    assert counts(features(fillet(box.edges().filter_by(Axis.Z), 3)))["Cylinder"] == 4
    two = Pos(0, 0, 0) * Cylinder(3, 10) + Pos(20, 0, 0) * Cylinder(3, 10) + Pos(10, 0, -6) * Box(40, 10, 2)
    assert counts(features(Rot(10, 20, 30) * two))["Cylinder"] == 2
