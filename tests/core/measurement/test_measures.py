"""Every measure by name, on a part of its own, wherever it stands."""

from functools import cache
from typing import Any

import numpy as np
import pytest
from build123d import Axis, Box, Cylinder, Pos, RegularPolygon, Rot, chamfer, extrude, fillet

from rigid_bench.core.measurement.measure import MEASURES, measure
from rigid_bench.core.measurement.measure_request import Request
from rigid_bench.core.registration.correspond import RegisteredPart
from rigid_bench.core.registration.register import register
from rigid_bench.core.values.datums import CylinderFeature, Feature, PlaneFeature, PointFeature
from rigid_bench.core.values.errors import InvalidDocument
from tests.support.shapes import TOLERANCE, features


@cache
def sample(pitch: float = 15, leg: float = 2, hole: float = 6, round_edge: float = 3, shift: float = 0) -> Any:
    """A block with a row of three holes, a hexagon socket, a chamfer, rounded corners, and a hole off its middle."""
    block = Box(80, 50, 12)
    uprights = block.edges().filter_by(Axis.Z)
    block = fillet([edge for edge in uprights if edge.center().X < 0], round_edge)
    block = chamfer(block.edges().filter_by(Axis.Y).group_by(Axis.X)[-1].sort_by(Axis.Z)[-1:], leg)
    row = [Pos(-25 + pitch * k, 15, 0) * Cylinder(2, 30) for k in range(3)]
    socket = Pos(-20, -12, 2) * extrude(RegularPolygon(5, 6), 20)
    return block - row - socket - Pos(20, shift, 0) * Cylinder(hole / 2, 30)


def plane(point: tuple[float, float, float], normal: tuple[float, float, float]) -> PlaneFeature:
    return PlaneFeature(np.array(point), np.array(normal))


def hole(x: float, y: float, radius: float) -> CylinderFeature:
    return CylinderFeature(np.array([x, y, 0.0]), np.array([0.0, 0, 1]), radius)


TOP, RIGHT, FRONT, BACK = (
    plane((0, 0, 6), (0, 0, 1)),
    plane((40, 0, 0), (1, 0, 0)),
    plane((0, -25, 0), (0, -1, 0)),
    plane((0, 25, 0), (0, 1, 0)),
)
ROW, MIDDLE, FLOOR = hole(-25, 15, 2), hole(20, 0, 3), plane((-20, -12, 2), (0, 0, 1))


@pytest.mark.parametrize(
    ("name", "wanted", "more", "own", "value"),
    [
        ("pitch", (ROW,), {}, sample(pitch=16), 16),
        ("pattern_count", (ROW,), {}, sample(), 3),
        ("pierces", (MIDDLE,), {}, sample(), 1),
        ("edge_distance", (MIDDLE,), {}, sample(), 20),
        ("off_centre", (FRONT, BACK, MIDDLE), {}, sample(shift=0.5), 0.5),
        ("fillets", (), {}, sample(), 2),
        ("chamfers", (), {}, sample(), 1),
        ("across_flats", (FLOOR,), {}, sample(), 5 * 3**0.5),
        ("edge_length", (RIGHT, FRONT), {}, sample(leg=3), 9),
        ("corner", (PointFeature(np.array([40.0, -25, -6])), TOP), {}, sample(), 12),
        ("corner", (PointFeature(np.array([40.0, -25, -6])), PointFeature(np.array([40.0, 25, -6]))), {}, sample(), 50),
        ("least_wall", (), {}, sample(), 8),
        ("greatest_wall", (), {}, sample(), 80),
        ("wall_spread", (), {}, sample(), 72),
        ("closed", (), {}, sample(), 1),
        ("likeness", (), {}, sample(), 100),
        ("centre_of_mass", (), {"axis": "y"}, sample(), None),
        ("diameter", (MIDDLE,), {}, sample(hole=7), 7),
        ("radius", (MIDDLE,), {}, sample(hole=7), 3.5),
        ("extent", (), {"axis": "x"}, sample(), 80),
        ("count", (ROW,), {}, sample(), 3),
    ],
)  # fmt: skip
def test_each_measure(name: str, wanted: tuple[Feature, ...], more: dict[str, str], own: Any, value: float) -> None:
    reference, part = features(sample()), features(Pos(5, 6, 7) * Rot(10, 20, 30) * own)
    registered = RegisteredPart(reference, part, register(reference, part, tolerance=TOLERANCE)[0])
    measured = measure(registered, Request(measure=name, features=wanted, **more))  # type: ignore[arg-type]  # names of fields
    assert measured == pytest.approx(reference.centroid[1] if value is None else value, abs=1e-4)


def test_pitch_circles_and_chamfers() -> None:
    def flange(circle: float) -> Any:
        holes = [Rot(0, 0, 60 * k) * Pos(circle / 2, 0, 0) * Cylinder(3, 30) for k in range(6)]
        return Cylinder(40, 8) - holes - Cylinder(10, 30)

    reference, part = features(flange(50)), features(Rot(10, 20, 30) * flange(52))
    registered = RegisteredPart(reference, part, register(reference, part, tolerance=TOLERANCE)[0])
    assert measure(registered, Request(measure="pitch_circle", features=(hole(25, 0, 3),))) == pytest.approx(52)
    slanted = plane((39, 0, 5), (2**-0.5, 0, 2**-0.5))
    reference, part = features(sample()), features(sample(leg=2.5))
    registered = RegisteredPart(reference, part, register(reference, part, tolerance=TOLERANCE)[0])
    assert measure(registered, Request(measure="chamfer", features=(slanted,))) == pytest.approx(2.5)
    assert measure(registered, Request(measure="chamfer_angle", features=(slanted,))) == pytest.approx(45)


@pytest.mark.parametrize("name", sorted(MEASURES))
def test_a_measure_without_what_it_needs_says_so(name: str) -> None:
    part = features(sample())
    registered = RegisteredPart(part, part, register(part, part, tolerance=TOLERANCE)[0])
    whole = {
        "area",
        "volume",
        "fillets",
        "chamfers",
        "least_wall",
        "greatest_wall",
        "wall_spread",
        "closed",
        "likeness",
    }
    if name in whole:
        assert measure(registered, Request(measure=name)) is not None
    else:
        with pytest.raises(InvalidDocument):
            measure(registered, Request(measure=name))
