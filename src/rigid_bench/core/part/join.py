"""Join the faces that carry on in each other to surfaces, however the file splits them."""

import math
from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.part.edges import SMOOTH, Edges
from rigid_bench.core.part.faces import Cone, Cylinder, Plane, Sphere, Surface, Torus, joined_arcs
from rigid_bench.core.part.nearby import Points, connected
from rigid_bench.core.values.tolerance import Tolerance

_Array = NDArray[np.float64]
#: Axes are one when their feet differ by less than this (mm), and their directions by a
#: thousandth of it (rad).
_SAME_AXIS, _AXIS_WEIGHT = 1e-3, 1e3


def join_surfaces(surfaces: Sequence[Surface], edges: Edges, tolerance: Tolerance) -> list[Surface]:
    """Join faces of one surface.

    Parameters
    ----------
    surfaces
        One for each face, in order.
    edges
        Between faces, with angles.
    tolerance
        Its `surface_mm` says how near two faces are one surface.

    Returns
    -------
    list of Surface
        In the order of their first faces.
    """
    groups = _groups(surfaces, edges, tolerance)
    joined = [_joined([surfaces[face] for face in group]) for group in groups]
    walls = [cylinder for cylinder in joined if isinstance(cylinder, Cylinder)]
    rest: list[Surface] = [face for face in joined if not isinstance(face, Cylinder)]
    return sorted([*rest, *_merge(walls, tolerance)], key=lambda face: face.faces)


def _groups(surfaces: Sequence[Surface], edges: Edges, tolerance: Tolerance) -> list[list[int]]:
    """Group faces across edges without a kink whose surfaces are one; walls are joined by axis instead."""
    smooth = (np.abs(edges.angles) < SMOOTH) & (edges.sides[:, 1] >= 0) & (edges.sides[:, 0] != edges.sides[:, 1])
    pairs = [(a, b) for a, b in edges.sides[smooth].tolist() if _is_one(surfaces[a], surfaces[b], tolerance)]
    return connected(len(surfaces), pairs)


def _is_one(a: Surface, b: Surface, tolerance: Tolerance) -> bool:
    near = tolerance.surface_mm
    match a, b:
        case Plane(), Plane():
            return float(a.normal @ b.normal) > 1 - 1e-9 and abs(float((a.point - b.point) @ a.normal)) < near
        case Cone(), Cone():
            same_way = float(a.direction @ b.direction) > 1 - 1e-9
            return same_way and _is_close(a.apex, b.apex, near) and abs(a.half_angle - b.half_angle) < 1e-6
        case Sphere(), Sphere():
            return _is_close(a.point, b.point, near) and abs(a.radius - b.radius) < near
        case Torus(), Torus():
            same_size = abs(a.major - b.major) < near and abs(a.minor - b.minor) < near
            return same_size and _is_close(a.point, b.point, near) and abs(float(a.direction @ b.direction)) > 1 - 1e-9
    return False


def _is_close(a: _Array, b: _Array, near: float) -> bool:
    return float(np.linalg.norm(a - b)) < near


def _joined(group: Sequence[Surface]) -> Surface:
    """Return one surface for the faces of a group, which are of one kind."""
    first = group[0]
    if len(group) == 1:
        return first
    faces = tuple(sorted(face for surface in group for face in surface.faces))
    area = sum(surface.area for surface in group)
    match first:
        case Plane():
            point = sum((plane.area / area * plane.point for plane in group if isinstance(plane, Plane)), np.zeros(3))
            return Plane(faces=faces, point=point, normal=first.normal, area=area)
        case Cone():
            cones = [cone for cone in group if isinstance(cone, Cone)]
            near, far = min(cone.near for cone in cones), max(cone.far for cone in cones)
            whole = math.pi * math.tan(first.half_angle) / math.cos(first.half_angle) * (far**2 - near**2)
            return Cone(
                faces=faces,
                apex=first.apex,
                direction=first.direction,
                near=near,
                far=far,
                half_angle=first.half_angle,
                is_hollow=first.is_hollow,
                sweep=2 * math.pi * min(1.0, area / whole),
                area=area,
            )
        case Torus():
            tori = [torus for torus in group if isinstance(torus, Torus)]
            around = all(abs(torus.tube_sweep - first.tube_sweep) < 1e-6 for torus in tori)
            return Torus(
                faces=faces,
                point=first.point,
                direction=first.direction,
                major=first.major,
                minor=first.minor,
                is_hollow=first.is_hollow,
                sweep=min(2 * math.pi, sum(torus.sweep for torus in tori)) if around else first.sweep,
                tube_sweep=first.tube_sweep if around else min(2 * math.pi, sum(torus.tube_sweep for torus in tori)),
                area=area,
            )
        case Sphere():
            return Sphere(faces=faces, point=first.point, radius=first.radius, is_hollow=first.is_hollow, area=area)
    raise AssertionError(type(first))


def within_edges(number: int, surface: Surface, edges: Edges) -> Surface:
    """Return a round wall or cone from where its edges begin to where they end.

    The kernel's own bounds of a face reach too far where an edge is neither line nor circle.
    """
    beyond = edges.neighbours(number)
    is_exact = len(surface.faces) == 1 and not any(edge in edges.samples for edge, _ in beyond)
    if is_exact or not beyond:
        return surface
    match surface:
        case Cylinder():
            low, high = edges.extent(number, surface.direction)
            start = low - float(surface.point @ surface.direction)
            return replace(surface, point=surface.point + start * surface.direction, length=high - low)
        case Cone():
            low, high = edges.extent(number, surface.direction)
            apex = float(surface.apex @ surface.direction)
            near = 0.0 if surface.near < 1e-6 * surface.far else low - apex
            return replace(surface, near=near, far=high - apex)
    return surface


def _merge(walls: Sequence[Cylinder], tolerance: Tolerance) -> list[Cylinder]:
    """Join cylinder faces of one axis, radius and side that meet along or around the axis."""
    merged: list[Cylinder] = []
    for group in axis_groups(walls):
        along = group[0].direction
        for like in _by_radius(group, tolerance.surface_mm):
            merged += _merged_along(like, along, tolerance)
    return merged


def _by_radius(walls: Sequence[Cylinder], near: float) -> list[list[Cylinder]]:
    """Group walls of one side whose radii follow each other within a distance (mm)."""
    groups: list[list[Cylinder]] = []
    for wall in sorted(walls, key=lambda wall: (wall.is_hollow, wall.radius)):
        last = groups[-1][-1] if groups else None
        if last is not None and last.is_hollow == wall.is_hollow and wall.radius - last.radius <= near:
            groups[-1].append(wall)
        else:
            groups.append([wall])
    return groups


def _merged_along(walls: Sequence[Cylinder], along: _Array, tolerance: Tolerance) -> list[Cylinder]:
    """Join walls in order along their axis, each with those that have not ended before it begins."""
    reach = {wall.faces: sorted((float(wall.point @ along), float(wall.end @ along))) for wall in walls}
    done: list[Cylinder] = []
    open_walls: list[tuple[float, Cylinder]] = []
    for wall in sorted(walls, key=lambda wall: reach[wall.faces]):
        low, high = reach[wall.faces]
        done += [cylinder for end, cylinder in open_walls if end < low - tolerance.surface_mm]
        open_walls = [(end, cylinder) for end, cylinder in open_walls if end >= low - tolerance.surface_mm]
        for place, (end, other) in enumerate(open_walls):
            if _is_one_wall(wall, other, tolerance):
                open_walls[place] = max(end, high), one_wall(other, wall)
                break
        else:
            open_walls.append((high, wall))
    return [*done, *(cylinder for _, cylinder in open_walls)]


def axis_groups(walls: Sequence[Cylinder]) -> list[list[Cylinder]]:
    """Group walls by their axes, in time about linear in their number.

    Parameters
    ----------
    walls
        In any order.

    Returns
    -------
    list of list of Cylinder
        Walls whose axes agree within about 1e-3 mm near the part, in the order given.
    """
    if not walls:
        return []
    directions = np.array([wall.direction for wall in walls])
    # an axis has no sign: let its first sizeable entry be positive
    first = directions[np.arange(len(walls)), np.argmax(np.abs(directions) > 0.1, axis=1)]
    directions = directions * np.sign(first)[:, None]
    points = np.array([wall.point for wall in walls])
    feet = points - directions * np.einsum("ij,ij->i", points, directions)[:, None]
    places = np.hstack([directions * _AXIS_WEIGHT, feet])
    groups = connected(len(walls), Points(places).pairs_within(_SAME_AXIS))
    return [[walls[place] for place in group] for group in groups]


def _is_one_wall(a: Cylinder, b: Cylinder, tolerance: Tolerance) -> bool:
    if a.is_hollow != b.is_hollow or abs(a.radius - b.radius) > tolerance.surface_mm:
        return False
    if np.linalg.norm(np.cross(a.direction, b.direction)) > 1e-6:
        return False
    offset = b.point - a.point
    if np.linalg.norm(np.cross(offset, a.direction)) > tolerance.surface_mm:
        return False
    ends = sorted([float(offset @ a.direction), float((b.end - a.point) @ a.direction)])
    return ends[0] <= a.length + tolerance.surface_mm and ends[1] >= -tolerance.surface_mm


def one_wall(a: Cylinder, b: Cylinder) -> Cylinder:
    """Return the wall that two walls of one axis and radius make up, from the first's beginning to the last's end."""
    ends = [0.0, a.length, *(float((end - a.point) @ a.direction) for end in (b.point, b.end))]
    return Cylinder(
        faces=tuple(sorted((*a.faces, *b.faces))),
        point=a.point + min(ends) * a.direction,
        direction=a.direction,
        radius=a.radius,
        length=max(ends) - min(ends),
        is_hollow=a.is_hollow,
        arcs=joined_arcs((*a.arcs, *b.arcs), a.direction),
        area=a.area + b.area,
    )
