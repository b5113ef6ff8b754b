"""Which ball, ring or cone an exercise names: surfaces made by hand."""

import math
from typing import Any

import numpy as np
import pytest

from rigid_bench.core.part.faces import Cone, Sphere, Torus
from rigid_bench.core.registration.rounds import is_named, middle_of
from rigid_bench.core.values.datums import ConeFeature, SphereFeature, TorusFeature

AT, UP = np.array([1.0, 2, 3]), np.array([0.0, 0, 1])


def off(x: float, y: float, z: float) -> np.ndarray:
    """A place beside `AT`."""
    place: np.ndarray = AT + np.array([x, y, z])
    return place


BALL = Sphere(faces=(0,), point=AT, radius=6.0, is_hollow=False, area=4 * math.pi * 36)
RING = Torus(
    faces=(0,),
    point=AT,
    direction=UP,
    major=15.0,
    minor=2.0,
    sweep=2 * math.pi,
    tube_sweep=2 * math.pi,
    is_hollow=True,
    area=4 * math.pi**2 * 30,
)
CONE = Cone(
    faces=(0,), apex=AT, direction=UP, near=3.0, far=7.0, half_angle=math.pi / 4, is_hollow=True, sweep=2 * math.pi,
    area=math.pi * math.sqrt(2) * (49 - 9),
)  # fmt: skip


def test_the_middle_of_each() -> None:
    assert middle_of(BALL).tolist() == middle_of(RING).tolist() == AT.tolist()
    assert middle_of(CONE) == pytest.approx(off(0, 0, 5))


@pytest.mark.parametrize(
    ("surface", "feature", "named"),
    [
        (BALL, SphereFeature(AT, 6.0), True),
        (BALL, SphereFeature(off(0.009, 0, 0), 6.0), True),
        (BALL, SphereFeature(off(0.02, 0, 0), 6.0), False),
        (BALL, SphereFeature(AT, 6.02), False),
        (RING, TorusFeature(AT, UP, 15.0, 2.0), True),
        (RING, TorusFeature(AT, -UP, 15.0, 2.0), True),
        (RING, TorusFeature(AT, np.array([1.0, 0, 0]), 15.0, 2.0), False),
        (RING, TorusFeature(AT, UP, 15.0, 2.5), False),
        # any point of its axis names a cone, with its whole angle
        (CONE, ConeFeature(off(0, 0, 40), -UP, math.pi / 2), True),
        (CONE, ConeFeature(off(1, 0, 40), UP, math.pi / 2), False),
        (CONE, ConeFeature(AT, UP, math.radians(89.9)), False),
        (CONE, SphereFeature(AT, 6.0), False),
        (BALL, TorusFeature(AT, UP, 15.0, 2.0), False),
    ],
)
def test_a_feature_names_just_its_surface(surface: Any, feature: Any, named: bool) -> None:
    assert is_named(surface, feature) is named
