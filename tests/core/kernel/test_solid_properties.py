"""Volumes, centres, moments and what two solids share, by closed forms of textbooks."""

import math

import numpy as np
import pytest
from OCP.BRepPrimAPI import BRepPrimAPI_MakeBox, BRepPrimAPI_MakeCylinder, BRepPrimAPI_MakeSphere
from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt
from OCP.TopoDS import TopoDS_Shape

from rigid_bench.core.kernel.booleans import common, cut, fused
from rigid_bench.core.kernel.feature_reader import read_features
from rigid_bench.core.kernel.inertia import principal_inertia
from rigid_bench.core.kernel.mass_properties import volume_of
from rigid_bench.core.values.tolerance import Tolerance


def box(x: float, y: float, z: float, *, at: tuple[float, float, float] = (0, 0, 0)) -> TopoDS_Shape:
    return BRepPrimAPI_MakeBox(gp_Pnt(*at), x, y, z).Shape()


def cylinder(radius: float, length: float, *, along: tuple[float, float, float]) -> TopoDS_Shape:
    """About the origin, from end to end."""
    start = gp_Pnt(*(-length / 2 * way for way in along))
    return BRepPrimAPI_MakeCylinder(gp_Ax2(start, gp_Dir(*along)), radius, length).Shape()


def test_what_two_boxes_share_lose_and_make_together() -> None:
    one, other = box(10, 8, 6), box(10, 8, 6, at=(7, 5, 2))
    shared = 3 * 3 * 4
    assert volume_of(common(one, other))[0] == pytest.approx(shared)
    assert volume_of(cut(one, other))[0] == pytest.approx(480 - shared)
    volume, middle = volume_of(fused(one, other))
    assert volume == pytest.approx(960 - shared)
    assert middle == pytest.approx([8.5, 6.5, 4])  # it is symmetric about the middle of what is shared
    assert volume_of(one)[0] == pytest.approx(480)  # the shapes stay as they were


def test_two_rods_square_to_each_other_share_a_steinmetz_solid() -> None:
    """16 r^3 / 3, as Archimedes has it in The Method (from memory)."""
    rods = cylinder(5, 40, along=(1, 0, 0)), cylinder(5, 40, along=(0, 1, 0))
    volume, middle = volume_of(common(*rods))
    assert volume == pytest.approx(16 * 5**3 / 3, rel=1e-6)
    assert middle == pytest.approx([0, 0, 0], abs=1e-6)


def test_a_ball_cut_level_leaves_a_cap() -> None:
    """pi h^2 (3 r - h) / 3; its centre 3 (2 r - h)^2 / (4 (3 r - h)) from the ball's.

    Harris and Stocker, Handbook of Mathematics and Computational Science (from memory).
    """
    radius, height = 9.0, 4.0
    ball = BRepPrimAPI_MakeSphere(radius).Shape()
    cap = cut(ball, box(40, 40, 40, at=(-20, -20, radius - height - 40)))
    volume, middle = volume_of(cap)
    assert volume == pytest.approx(math.pi * height**2 * (3 * radius - height) / 3, rel=1e-7)
    away = 3 * (2 * radius - height) ** 2 / (4 * (3 * radius - height))
    assert middle == pytest.approx([0, 0, away], abs=1e-6)


@pytest.mark.parametrize(
    ("shape", "moments"),
    [
        pytest.param(box(12, 6, 3), [216 / 12 * (a**2 + b**2) for a, b in ((6, 3), (12, 3), (12, 6))], id="block"),
        pytest.param(
            cylinder(4, 20, along=(0, 0, 1)),
            [math.pi * 320 * value for value in (8, (3 * 16 + 400) / 12, (3 * 16 + 400) / 12)],
            id="rod",
        ),
        pytest.param(BRepPrimAPI_MakeSphere(5).Shape(), [4 / 3 * math.pi * 125 * 0.4 * 25] * 3, id="ball"),
    ],
)
def test_principal_moments_are_those_of_handbooks(shape: TopoDS_Shape, moments: list[float]) -> None:
    """m (a^2 + b^2) / 12, m r^2 / 2 and m (3 r^2 + l^2) / 12, 2 m r^2 / 5, at density 1.

    Meriam and Kraige, Engineering Mechanics: Dynamics, appendix of mass moments (from memory).
    """
    inertia, axes = principal_inertia(read_features(shape, tolerance=Tolerance()))
    assert inertia == pytest.approx(sorted(moments), rel=1e-6)
    assert axes.T @ axes == pytest.approx(np.eye(3), abs=1e-9)
