"""Pockets, prismatic bosses, polygons, slots, keyways and part-round walls, measured back as they were modelled."""

import math
import random
from typing import Any

import pytest
from build123d import Axis, Box, Cylinder, Pos, RegularPolygon, Rot, chamfer, extrude, fillet
from hypothesis import given, settings
from hypothesis import strategies as st

from rigid_bench.core.part.recognition.inventory import Inventory, take_inventory
from rigid_bench.core.part.recognition.outline import greatest_deviation, room_inside
from tests.core.part.recognition.random_parts import split_faces
from tests.support.shapes import TOLERANCE, features, slotted_plate

BLOCK = Box(60, 40, 20)
SHAFT = Rot(0, 90, 0) * Cylinder(10, 60)


def inventory_of(shape: Any) -> Inventory:
    return take_inventory(features(Pos(3, 4, 5) * Rot(12, 34, 56) * shape), tolerance=TOLERANCE)


def obround(length: float, width: float, depth: float) -> Any:
    straight = length - width
    ends = [Pos(side * straight / 2, 0, 0) * Cylinder(width / 2, depth) for side in (-1, 1)]
    return Box(straight, width, depth) + ends


def prism(sides: int, radius: float, height: float) -> Any:
    return extrude(RegularPolygon(radius, sides), height)


def pocket(length: float, width: float, depth: float, corner: float = 0.0) -> Any:
    tool = Box(length, width, 2 * depth)
    return Pos(0, 0, 10) * (fillet(tool.edges().filter_by(Axis.Z), corner) if corner else tool)


def treated_pocket() -> Any:
    """Rounded at the floor, chamfered at the rim."""
    block = BLOCK - pocket(20, 12, 7, 3)
    floor = block.faces().filter_by(Axis.Z).sort_by(Axis.Z)[1]
    block = fillet(floor.edges(), 1)
    return chamfer(block.faces().sort_by(Axis.Z)[-1].inner_wires()[0].edges(), 0.5)


@pytest.mark.parametrize(
    ("shape", "sizes"),
    [
        (BLOCK - pocket(20, 12, 7), (20, 12, 0, 7, False)),
        (BLOCK - pocket(20, 12, 7, 3), (20, 12, 3, 7, False)),
        (BLOCK - Box(20, 12, 60), (20, 12, 0, 20, True)),
        (treated_pocket(), (20, 12, 3, 7, False)),
    ],
)
def test_a_rectangular_pocket_has_its_sizes(shape: Any, sizes: tuple[float, ...]) -> None:
    (hollow,) = inventory_of(shape).pockets
    assert hollow.outline.rectangle
    assert (*hollow.outline.rectangle, hollow.depth, hollow.through) == (
        *(pytest.approx(size, abs=1e-6) for size in sizes[:4]),
        sizes[4],
    )


@pytest.mark.parametrize("sides", [3, 4, 5, 6, 8])
@pytest.mark.parametrize("is_socket", [True, False])
def test_regular_polygons(sides: int, is_socket: bool) -> None:
    """Across flats is D cos(pi / n) for even n, D / 2 (1 + cos(pi / n)) for odd n (plane geometry)."""
    tool = Pos(0, 0, 4) * prism(sides, 8, 20)
    polygons = inventory_of(BLOCK - tool if is_socket else BLOCK + tool).polygons
    if sides == 4 and not is_socket:
        assert polygons == ()  # a square block is a rectangle like any other
        return
    (polygon,) = polygons
    across = 16 * math.cos(math.pi / sides) if sides % 2 == 0 else 8 * (1 + math.cos(math.pi / sides))
    assert (polygon.outline.sides, polygon.is_hollow) == (sides, is_socket)
    assert (polygon.outline.across_flats, polygon.depth) == (
        pytest.approx(across),
        pytest.approx(6 if is_socket else 14),
    )


def test_the_sides_of_a_hexagon_bar_are_no_chamfers() -> None:
    bar = inventory_of(prism(6, 8, 30))
    assert (bar.chamfers, [polygon.outline.sides for polygon in bar.polygons]) == ((), [6])


@pytest.mark.parametrize(
    ("shape", "sizes", "ends", "keyway", "to_axis"),
    [
        (BLOCK - obround(26, 6, 60), (26, 6, 20), ("round", "round"), "", 0),
        (BLOCK - Pos(0, 0, 10) * obround(26, 6, 10), (26, 6, 5), ("round", "round"), "", 0),
        (BLOCK - Pos(0, 0, 8) * Box(100, 7, 10), (60, 7, 7), ("open", "open"), "", 0),
        (BLOCK - (Pos(20, 0, 0) * Box(40, 8, 60) + Cylinder(4, 60)), (34, 8, 20), ("round", "open"), "", 0),
        (BLOCK - Pos(0, 0, 8) * (Pos(20, 0, 0) * Box(40, 8, 10)), (30, 8, 7), ("square", "open"), "", 0),
        (SHAFT - Pos(0, 0, 12) * obround(26, 6, 10), (26, 6, 3), ("round", "round"), "shaft", 7),
        (SHAFT - Pos(0, 0, 12) * Box(20, 6, 10), (20, 6, 3), ("square", "square"), "shaft", 7),
        (SHAFT - Pos(0, 0, 12) * (Pos(20, 0, 0) * Box(40, 6, 10)), (30, 6, 3), ("square", "open"), "shaft", 7),
        (Cylinder(20, 10) - Cylinder(10, 20) - Pos(10, 0, 0) * Box(6, 6, 20), (10, 6, 3), ("open", "open"), "bore", 13),
    ],
)
def test_slots_grooves_and_keyways(
    shape: Any, sizes: tuple[float, ...], ends: tuple[str, str], keyway: str, to_axis: float
) -> None:
    (slot,) = inventory_of(shape).slots
    assert (slot.length, slot.width, slot.depth) == pytest.approx(sizes, abs=1e-6)
    assert (slot.ends, slot.keyway_in) == (ends, keyway)
    assert slot.floor_to_axis == pytest.approx(to_axis, abs=1e-6)


def test_a_hollow_inside_is_no_slot() -> None:
    assert inventory_of(BLOCK - Box(20, 10, 6)).slots == ()


def test_a_t_slot_is_one_slot_by_its_neck() -> None:
    """ISO 299: a T-slot is known by the width of its neck; the head behind it is wider."""
    (slot,) = inventory_of(BLOCK - Pos(0, 0, 7) * Box(100, 8, 6) - Pos(0, 0, 2) * Box(100, 16, 6)).slots
    assert (slot.length, slot.width, slot.depth) == pytest.approx((60, 8, 11))
    assert (slot.head_width, slot.head_height, slot.ends) == (pytest.approx(16), pytest.approx(6), ("open", "open"))


def test_the_space_between_the_members_of_a_frame_is_no_slot() -> None:
    frame = Pos(0, 130, 0) * Box(400, 40, 40) + Pos(0, -130, 0) * Box(400, 40, 40) + Box(40, 300, 40)
    assert inventory_of(frame).slots == ()


def test_a_keyway_does_not_hide_its_bore() -> None:
    hub = inventory_of(Cylinder(20, 10) - Cylinder(10, 20) - Pos(10, 0, 0) * Box(6, 6, 20))
    assert ([2 * hole.cylinder.radius for hole in hub.holes], hub.pockets) == ([pytest.approx(20)], ())


def test_a_curved_slot_has_width_path_and_angle() -> None:
    quarter = (Cylinder(23, 60) - Cylinder(17, 80)) & Pos(50, 50, 0) * Box(100, 100, 100)
    ends = [Pos(20, 0, 0) * Cylinder(3, 60), Pos(0, 20, 0) * Cylinder(3, 60)]
    (pocket,) = inventory_of(Box(80, 80, 10) - (quarter + ends)).pockets
    assert pocket.outline.curved_slot == (pytest.approx(6), pytest.approx(20), pytest.approx(math.pi / 2))


@pytest.mark.parametrize(
    ("shape", "radius", "sweep", "is_hollow", "tangent"),
    [
        (slotted_plate(), 5, 180, True, 0),  # a half bore in the edge
        (Box(60, 20, 5) + Pos(30, 0, 0) * Cylinder(10, 5), 10, 180, False, 2),  # a full-round end
        (BLOCK - Pos(0, 0, 15) * Rot(0, 90, 0) * Cylinder(8, 100), 8, math.degrees(2 * math.acos(5 / 8)), True, 0),
    ],
)
def test_part_round_walls(shape: Any, radius: float, sweep: float, is_hollow: bool, tangent: int) -> None:
    (round_wall,) = inventory_of(shape).round_walls
    assert (round_wall.wall.radius, math.degrees(round_wall.wall.sweep)) == (
        pytest.approx(radius),
        pytest.approx(sweep),
    )
    assert (round_wall.wall.is_hollow, round_wall.tangent) == (is_hollow, tangent)


def test_shafts_have_steps_and_flats() -> None:
    bar = Cylinder(10, 30) + Pos(0, 0, 20) * Cylinder(6, 10) - Pos(0, 15, 20) * Box(40, 20, 10)
    (shaft,) = inventory_of(bar - Pos(0, -15, 20) * Box(40, 20, 10)).shafts
    assert [(2 * step.radius, step.length) for step in shaft.steps] in (
        [(pytest.approx(20), pytest.approx(30)), (pytest.approx(12), pytest.approx(10))],
        [(pytest.approx(12), pytest.approx(10)), (pytest.approx(20), pytest.approx(30))],
    )
    assert [(flat.to_axis, flat.across, flat.length) for flat in shaft.flats] == [
        (pytest.approx(5), pytest.approx(10), pytest.approx(10))
    ] * 2


def test_holes_may_slant_and_cross_round_walls() -> None:
    slanted = inventory_of(BLOCK - Rot(0, 30, 0) * Cylinder(3, 100)).holes
    assert [(math.degrees(hole.slant), hole.through) for hole in slanted] == [(pytest.approx(30), True)]
    # from corner to corner of the hole, seen along its axis: t / cos + D tan
    assert slanted[0].depth == pytest.approx(20 / math.cos(math.pi / 6) + 6 * math.tan(math.pi / 6), abs=1e-3)
    crossing = inventory_of(SHAFT - Cylinder(3, 60)).holes
    assert [(2 * hole.cylinder.radius, hole.depth, hole.through) for hole in crossing] == [
        (pytest.approx(6), pytest.approx(20, abs=1e-3), True)
    ]


@settings(max_examples=10)
@given(length=st.floats(8, 20), width=st.floats(3, 7), seed=st.integers(0, 99))
def test_outlines_are_compared_wherever_they_lie(length: float, width: float, seed: int) -> None:
    block, peg = BLOCK - pocket(length, width, 5), Box(length - 0.8, width - 0.8, 9) + Pos(0, 0, -8) * BLOCK
    (hole,), (pin,) = inventory_of(split_faces(block, random.Random(seed))).pockets, inventory_of(peg).prismatic_bosses
    (other,) = inventory_of(BLOCK - Pos(4, 3, 0) * Rot(0, 0, 37) * pocket(length, width + 1, 5)).pockets
    assert greatest_deviation(hole.outline, hole.outline) == pytest.approx(0, abs=1e-9)
    assert greatest_deviation(other.outline, hole.outline) == pytest.approx(0.5, abs=1e-6)
    assert room_inside(pin.outline, hole.outline) == pytest.approx(0.4, abs=1e-6)
    assert room_inside(hole.outline, pin.outline) < 0
