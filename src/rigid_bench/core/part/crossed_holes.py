"""Holes that others cross: the pieces of a wall on both sides of the crossing hole are one wall."""

import itertools
import math
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.part.edges import Edges
from rigid_bench.core.part.faces import Cylinder, Surface
from rigid_bench.core.part.join import axis_groups, one_wall
from rigid_bench.core.values.tolerance import Tolerance

#: Axes at a smaller angle (rad) run along each other and do not cross.
_ALONG = math.radians(10)


def join_crossed(surfaces: Sequence[Surface], edges: Edges, tolerance: Tolerance) -> list[Surface]:
    """Join the pieces of holes that are cut in two by a hole across them.

    Two pieces belong together where the crossing hole's wall alone lies between them, and where more
    material is drilled than air: the two walls of a tube are two holes.

    Parameters
    ----------
    surfaces
        Joined faces, each from where its edges begin to where they end.
    edges
        Between these surfaces.
    tolerance
        Its `surface_mm` says how near two radii are one.

    Returns
    -------
    list of Surface
        In the order of their first faces; the same ones where nothing is crossed.
    """
    walls = {
        number: surface
        for number, surface in enumerate(surfaces)
        if isinstance(surface, Cylinder) and surface.is_hollow and surface.goes_round
    }
    numbers = {wall.faces: number for number, wall in walls.items()}
    joined: list[Surface] = []
    gone: set[tuple[int, ...]] = set()
    for group in axis_groups(list(walls.values())):
        along = group[0].direction
        pieces = sorted(group, key=lambda wall: float((wall.point + wall.end) @ along))
        whole = pieces[0]
        for before, after in itertools.pairwise(pieces):
            if _is_crossed(before, after, surfaces, numbers, edges, tolerance):
                gone |= {before.faces, after.faces}
                whole = one_wall(whole, after)
                continue
            if whole is not before:
                joined.append(whole)
            whole = after
        if whole is not pieces[-1]:
            joined.append(whole)
    kept = [surface for surface in surfaces if surface.faces not in gone]
    return sorted([*kept, *joined], key=lambda surface: surface.faces)


def _is_crossed(
    a: Cylinder,
    b: Cylinder,
    surfaces: Sequence[Surface],
    numbers: dict[tuple[int, ...], int],
    edges: Edges,
    tolerance: Tolerance,
) -> bool:
    """Say whether one wall carries on in another beyond a hole that crosses both."""
    if abs(a.radius - b.radius) > tolerance.surface_mm:
        return False
    if _gap(a, b) > max(a.length, b.length):
        return False
    towards = (b.point + b.end - a.point - a.end) / 2
    beyond_a = _beyond(numbers[a.faces], a, towards, edges)
    beyond_b = _beyond(numbers[b.faces], b, -towards, edges)
    if len(beyond_a) != 1 or beyond_a != beyond_b:
        return False
    crossing = surfaces[beyond_a.pop()]
    return (
        isinstance(crossing, Cylinder)
        and crossing.is_hollow
        and float(np.linalg.norm(np.cross(crossing.direction, a.direction))) > math.sin(_ALONG)
    )


def _gap(a: Cylinder, b: Cylinder) -> float:
    """Return how far two walls on one axis are apart, mm; below 0 where one reaches past the other's end."""
    middles = abs(float((b.point + b.end - a.point - a.end) @ a.direction)) / 2
    return middles - (a.length + b.length) / 2


def _beyond(number: int, wall: Cylinder, towards: NDArray[np.float64], edges: Edges) -> set[int]:
    """List the surfaces beyond a wall's edges on the half that looks towards a direction."""
    middle = (wall.point + wall.end) / 2
    return {other for edge, other in edges.neighbours(number) if float((edges.middles[edge] - middle) @ towards) > 0}
