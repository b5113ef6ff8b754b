"""Slots, grooves and keyways: two flat walls that face each other, and what joins them.

A slot with two round ends closes to a ring; others are open at one end or both, and are
known by the end or floor between the two walls.
"""

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.part.edges import LINE, SMOOTH
from rigid_bench.core.part.faces import Cylinder, Plane, Surface
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.part.recognition.prisms import Prism

_Array = NDArray[np.float64]
_ROUND_END = math.radians(175)
#: Two walls that so many others join leave no opening.
_ALL_ROUND = 4
#: mm: what is shorter or narrower is no slot.
_LEAST = 1e-3
#: A space that takes more than this share of the material is no slot but lies between members of a frame.
_MOST_AIR = 0.5


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Slot:
    """A slot, groove or keyway."""

    #: mm: between the walls; overall along them; from the opening to the floor, or through.
    width: float
    length: float
    depth: float
    through: bool
    #: What closes the two ends: "round", "square" or "open", the more closed first.
    ends: tuple[str, str]
    #: (3,) mm, in the middle of the opening.
    position: _Array
    #: (3,) unit, out of the opening, and along the slot.
    direction: _Array
    along: _Array
    #: "shaft" or "bore" where it is a keyway in one, else "".
    keyway_in: str
    #: mm, from the axis of that shaft or bore to the floor; 0 for other slots.
    floor_to_axis: float
    #: Its walls, ends and floor, as places in the part's surfaces.
    surfaces: tuple[int, ...]
    #: mm, of the wider space behind the walls of a T-slot: between its walls, and how high it is; 0 for other slots.
    head_width: float = 0.0
    head_height: float = 0.0


@dataclass(frozen=True, slots=True, eq=False)
class _Joint:
    """A surface between two facing walls."""

    surface: int
    #: (3,) unit, along the edges that it shares with the walls.
    direction: _Array


def find_slots(part: PartFeatures, prisms: Sequence[Prism]) -> list[Slot]:
    """Find all slots of a part.

    Parameters
    ----------
    part
        Its surfaces and edges.
    prisms
        Its rings of walls, as `find_prisms` returns them.

    Returns
    -------
    list of Slot
        Closed ones with round ends, then the open ones. A rectangular pocket is a slot only
        where it is a keyway.
    """
    closed = [slot for prism in prisms if prism.is_hollow and (slot := _closed_slot(part, prism))]
    in_rings = [set(prism.walls) for prism in prisms if prism.is_hollow]
    opened = []
    for pair, joints in _facing_walls(part).items():
        if len(joints) >= _ALL_ROUND:
            continue  # closed on all sides: a hollow inside the part
        slot = _open_slot(part, *pair, joints)
        if slot.length < _LEAST or slot.width * slot.length * slot.depth > _MOST_AIR * part.volume:
            continue  # walls that only pass each other; members of a frame with more air than material between them
        # within the ring of a pocket such a pair is part of its outline, but for the keyway of a bore
        if slot.keyway_in == "bore" or not any(set(pair) <= ring for ring in in_rings):
            opened.append(slot)
    return [*closed, *_with_necks(part, opened)]


def _with_necks(part: PartFeatures, slots: Sequence[Slot]) -> list[Slot]:
    """Return slots, a T-slot as one: by its neck, and not by its head and the undercuts beside it."""
    tees = {place: tee for place, slot in enumerate(slots) if not slot.through and (tee := _tee(part, slot))}
    heads = {number for tee in tees.values() for number in tee.surfaces}
    return [
        tees.get(place, slot) for place, slot in enumerate(slots) if place in tees or not set(slot.surfaces) <= heads
    ]


def _tee(part: PartFeatures, head: Slot) -> Slot | None:
    """Return the T-slot that a slot is the head of: its walls meet ceilings, and these the walls of a neck."""
    sides = [_neck_wall(part, wall, head.direction) for wall in head.surfaces[:2]]
    if None in sides:
        return None
    (ceiling_a, a), (ceiling_b, b) = (side for side in sides if side is not None)
    one, two = part.surfaces[a], part.surfaces[b]
    assert isinstance(one, Plane)
    assert isinstance(two, Plane)
    width = float((two.point - one.point) @ one.normal)
    if width < _LEAST or float(one.normal @ two.normal) > -1 + 1e-9:
        return None
    floor = float(head.position @ head.direction) - head.depth
    top = _shared(part, a, b, head.direction)[1]
    middle = float(one.point @ one.normal) + width / 2
    return replace(
        head,
        width=width,
        depth=top - floor,
        position=head.position
        + (top - float(head.position @ head.direction)) * head.direction
        + (middle - float(head.position @ one.normal)) * one.normal,
        surfaces=(a, b, ceiling_a, ceiling_b, *head.surfaces),
        head_width=head.width,
        head_height=head.depth,
    )


def _neck_wall(part: PartFeatures, wall: int, out: _Array) -> tuple[int, int] | None:
    """Return the ceiling that a head's wall ends at, and the wall of the neck beyond it; None where there is none."""
    for _, ceiling in part.edges.neighbours(wall):
        surface = part.surfaces[ceiling]
        if not (isinstance(surface, Plane) and float(surface.normal @ out) < -1 + 1e-9):
            continue
        for edge, further in part.edges.neighbours(ceiling):
            neck = part.surfaces[further]
            is_outside = part.edges.angles[edge] < -SMOOTH and further != wall
            if is_outside and isinstance(neck, Plane) and abs(float(neck.normal @ _normal_of(part, wall))) > 1 - 1e-9:
                return ceiling, further
    return None


def _normal_of(part: PartFeatures, number: int) -> _Array:
    surface = part.surfaces[number]
    assert isinstance(surface, Plane)
    return surface.normal


def _closed_slot(part: PartFeatures, prism: Prism) -> Slot | None:
    floor = prism.position - prism.depth * prism.direction
    keyway, to_axis, depth = _keyway(part, prism.walls, prism.direction, floor) or ("", 0.0, prism.depth)
    if sizes := prism.outline.slot:
        ends = ("round", "round")
    elif keyway == "shaft" and prism.outline.rectangle:
        sizes, ends = prism.outline.rectangle[:2], ("square", "square")
    else:
        return None
    return Slot(
        width=sizes[1],
        length=sizes[0],
        depth=depth,
        through=prism.through,
        ends=ends,
        position=prism.position,
        direction=prism.direction,
        along=prism.along,
        keyway_in=keyway,
        floor_to_axis=to_axis,
        surfaces=(*prism.walls, *prism.ground),
    )


def _keyway(part: PartFeatures, walls: Sequence[int], out: _Array, floor: _Array) -> tuple[str, float, float] | None:
    """Return in what round wall a slot is cut, how far its floor is from that axis and from its crown (mm)."""
    for wall in walls:
        for edge, other in part.edges.neighbours(wall):
            surface = part.surfaces[other]
            if float(part.edges.angles[edge]) > -SMOOTH or part.edges.kinds[edge] != LINE:
                continue
            if isinstance(surface, Cylinder) and surface.goes_round and abs(surface.direction @ out) < 1e-6:
                to_axis = abs(float((floor - surface.point) @ out))
                return "bore" if surface.is_hollow else "shaft", to_axis, abs(surface.radius - to_axis)
    return None


def _facing_walls(part: PartFeatures) -> dict[tuple[int, int], list[_Joint]]:
    """Find pairs of flat walls that face each other across air, with the surfaces between them."""
    facing_walls: dict[tuple[int, int], list[_Joint]] = {}
    for number, surface in enumerate(part.surfaces):
        if isinstance(surface, Plane) or (isinstance(surface, Cylinder) and _is_round_end(surface)):
            for a, b, direction in _walls_beside(part, number):
                facing_walls.setdefault((a, b), []).append(_Joint(number, direction))
    return facing_walls


def _is_round_end(wall: Cylinder) -> bool:
    return wall.is_hollow and _ROUND_END < wall.sweep < math.pi + SMOOTH


def _walls_beside(part: PartFeatures, number: int) -> Iterator[tuple[int, int, _Array]]:
    """Yield pairs of facing walls that a surface joins, and the direction of the edges between."""
    beside = list(_inside_corners(part, number))
    for k, (a, first) in enumerate(beside):
        for b, second in beside[k + 1 :]:
            one, two = part.surfaces[a], part.surfaces[b]
            assert isinstance(one, Plane)
            assert isinstance(two, Plane)
            faces = one.normal @ two.normal < -1 + 1e-9 and (two.point - one.point) @ one.normal > 1e-6
            if faces and abs(float(first @ second)) > 1 - 1e-6:
                yield min(a, b), max(a, b), first


def _inside_corners(part: PartFeatures, number: int) -> Iterator[tuple[int, _Array]]:
    """Yield the flat walls that a surface meets in inside corners, sharp or rounded, or runs into."""
    edges = part.edges
    is_flat = isinstance(part.surfaces[number], Plane)
    for edge, other in edges.neighbours(number):
        if edges.kinds[edge] != LINE:
            continue
        surface = part.surfaces[other]
        if isinstance(surface, Plane) and (edges.angles[edge] > SMOOTH or (not is_flat and edges.is_smooth(edge))):
            yield other, edges.tangents[edge]
        elif is_flat and edges.is_smooth(edge) and _is_inside_fillet(surface):
            for further, third in edges.neighbours(other):
                if third != number and edges.is_smooth(further) and isinstance(part.surfaces[third], Plane):
                    yield third, edges.tangents[edge]


def _is_inside_fillet(surface: Surface) -> bool:
    return isinstance(surface, Cylinder) and surface.is_hollow and surface.sweep < _ROUND_END


def _open_slot(part: PartFeatures, a: int, b: int, joints: list[_Joint]) -> Slot:
    one, two = part.surfaces[a], part.surfaces[b]
    assert isinstance(one, Plane)
    assert isinstance(two, Plane)
    width = float((two.point - one.point) @ one.normal)
    rounds = [joint for joint in joints if isinstance(part.surfaces[joint.surface], Cylinder)]
    flats = sorted(
        (joint for joint in joints if joint not in rounds), key=lambda joint: -part.surfaces[joint.surface].area
    )
    if rounds:
        axis = rounds[0].direction  # the slot runs at right angles to the round end's axis
        floor = next((flat for flat in flats if abs(_normal_of(part, flat.surface) @ axis) > 1 - 1e-6), None)
        out = _normal_of(part, floor.surface) if floor else axis
        ends = [*("round" for _ in rounds), *("square" for flat in flats if flat is not floor)]
    else:
        floor, out = flats[0], _normal_of(part, flats[0].surface)
        ends = ["square" for _ in flats[1:]]
    along = np.cross(out, one.normal)
    low, high = _shared(part, a, b, along)
    bottom, top = _shared(part, a, b, out)
    low, high = _with_ends(part, joints, along, (low, high), floor)
    if floor:
        surface = part.surfaces[floor.surface]
        assert isinstance(surface, Plane)
        bottom = float(surface.point @ out)
    across = float(one.point @ one.normal) + width / 2
    position = across * one.normal + (low + high) / 2 * along + top * out
    key_slot = _keyway(part, (a, b), out, position - (top - bottom) * out)
    keyway, to_axis, depth = key_slot or ("", 0.0, top - bottom)
    first, second = [*ends, "open", "open"][:2]
    return Slot(
        width=width,
        length=high - low,
        depth=depth,
        through=floor is None,
        ends=(first, second),
        position=position,
        direction=out,
        along=along,
        keyway_in=keyway,
        floor_to_axis=to_axis,
        surfaces=(a, b, *(joint.surface for joint in joints)),
    )


def _shared(part: PartFeatures, a: int, b: int, direction: _Array) -> tuple[float, float]:
    """Return where both walls reach along a direction, mm."""
    (low, high), (other_low, other_high) = part.edges.extent(a, direction), part.edges.extent(b, direction)
    return max(low, other_low), min(high, other_high)


def _with_ends(
    part: PartFeatures, joints: list[_Joint], along: _Array, reach: tuple[float, float], floor: _Joint | None
) -> tuple[float, float]:
    """Add the round ends to the reach of the walls along a slot."""
    low, high = reach
    for joint in joints:
        surface = part.surfaces[joint.surface]
        if joint is not floor and isinstance(surface, Cylinder):
            centre = float(surface.point @ along)
            if float(surface.arcs[0][0] @ along) > 0:
                high = max(high, centre + surface.radius)
            else:
                low = min(low, centre - surface.radius)
    return low, high
