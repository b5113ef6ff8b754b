"""Rounded and chamfered edges, counted as they were modelled."""

from collections import Counter
from typing import Any

import pytest
from build123d import Axis, Box, Cylinder, Pos, Rot, Solid, chamfer, fillet
from hypothesis import given, settings
from hypothesis import strategies as st
from OCP.BRepFilletAPI import BRepFilletAPI_MakeFillet

from rigid_bench.core.part.recognition.edge_treatments import find_chamfers, find_fillets, find_varying_fillets
from tests.support.shapes import features, plate_with_four_holes, slotted_plate


def treatments_of(shape: Any) -> tuple[dict[float, int], dict[tuple[float, ...], int]]:
    part = features(Pos(3, -4, 5) * Rot(15, 25, 35) * shape)
    fillets, chamfers = find_fillets(part), find_chamfers(part)
    return (
        dict(Counter(round(fillet.radius, 4) for fillet in fillets)),
        dict(Counter(tuple(round(leg, 4) for leg in chamfer.legs) for chamfer in chamfers)),
    )


def upright(block: Any) -> Any:
    return block.edges().filter_by(Axis.Z)


def rim(cylinder: Any) -> Any:
    return cylinder.edges().sort_by(Axis.Z)[-1]


@pytest.mark.parametrize(
    ("shape", "fillets", "chamfers"),
    [
        (Box(30, 20, 10), {}, {}),
        (fillet(upright(Box(30, 20, 10)), 2), {2: 4}, {}),
        (fillet(Box(30, 20, 10).edges(), 2), {2: 12}, {}),
        (fillet(rim(Cylinder(8, 20)), 1.5), {1.5: 1}, {}),
        (chamfer(upright(Box(30, 20, 10)), 3), {}, {(3, 3): 4}),
        (chamfer(upright(Box(30, 20, 10))[0], 2, 4), {}, {(2, 4): 1}),
        (chamfer(rim(Cylinder(8, 20)), 1), {}, {(1, 1): 1}),
        (fillet(chamfer(upright(Box(30, 20, 10))[:2], 3).edges().filter_by(Axis.X), 1), {1: 4}, {(3, 3): 2}),
        # neither a slot's round ends nor a half bore is a fillet; a wedge's slope is no chamfer
        (slotted_plate(), {}, {}),
        (plate_with_four_holes(), {}, {}),
        (Box(40, 40, 20) - Pos(0, 0, 20) * Rot(0, 30, 0) * Box(200, 200, 20), {}, {}),
        # the slant in an inside corner is a rib
        (Box(30, 20, 4) + Pos(-13, 0, 10) * Box(4, 20, 20), {}, {}),
    ],
)
def test_treatments_are_counted(
    shape: Any, fillets: dict[float, int], chamfers: dict[tuple[float, float], int]
) -> None:
    assert treatments_of(shape) == (fillets, chamfers)


def test_an_inside_fillet_counts_as_one() -> None:
    corner = Box(30, 20, 4) + Pos(-13, 0, 10) * Box(4, 20, 20)
    inside = min(
        corner.edges().filter_by(Axis.Y), key=lambda edge: abs(edge.center().X + 11) + abs(edge.center().Z - 2)
    )
    assert treatments_of(fillet(inside, 3)) == ({3: 1}, {})


@settings(max_examples=12)
@given(radius=st.floats(0.5, 4), leg=st.floats(0.5, 3), count=st.integers(1, 3))
def test_sizes_are_measured_back(radius: float, leg: float, count: int) -> None:
    block = fillet(upright(Box(40, 30, 12))[:count], radius)
    at_corner = [e for e in upright(block) if (round(abs(e.center().X), 6), round(abs(e.center().Y), 6)) == (20, 15)]
    part = features(chamfer(at_corner[0], leg))
    fillets, chamfers = find_fillets(part), find_chamfers(part)
    assert [fillet.radius for fillet in fillets] == [pytest.approx(radius, abs=1e-5)] * count
    assert [chamfer.legs for chamfer in chamfers] == [(pytest.approx(leg, abs=1e-5), pytest.approx(leg, abs=1e-5))]


@pytest.mark.parametrize("radii", [(2, 5), (5, 2), (1, 1.5)])
def test_a_rounded_edge_of_changing_radius_has_both(radii: tuple[float, float]) -> None:
    block = Box(40, 30, 20)
    made = BRepFilletAPI_MakeFillet(block.solid().wrapped)
    made.Add(*radii, block.edges().filter_by(Axis.X).sort_by(Axis.Z)[-1].wrapped)
    made.Build()
    part = features(Rot(15, 25, 35) * Solid(made.Shape()))
    assert [varying_fillet.radii for varying_fillet in find_varying_fillets(part)] == [
        pytest.approx(sorted(radii), abs=1e-4)
    ]
    assert find_fillets(part) == []
    assert find_varying_fillets(features(fillet(block.edges(), 2))) == []
