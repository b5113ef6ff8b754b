"""Everything that a part is made of, found once: the features that reports, checks and pages speak of."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.part.faces import Cylinder
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.part.join import axis_groups
from rigid_bench.core.part.recognition.drafts import Draft, find_drafts
from rigid_bench.core.part.recognition.edge_treatments import (
    Chamfer,
    Fillet,
    VaryingFillet,
    find_chamfers,
    find_fillets,
    find_varying_fillets,
)
from rigid_bench.core.part.recognition.holes import Hole, find_holes
from rigid_bench.core.part.recognition.patterns import Pattern, find_patterns, find_radial
from rigid_bench.core.part.recognition.prisms import Prism, find_prisms
from rigid_bench.core.part.recognition.round_surfaces import name_round_surfaces
from rigid_bench.core.part.recognition.round_walls import RoundWall, find_round_walls
from rigid_bench.core.part.recognition.shafts import Shaft, find_shafts
from rigid_bench.core.part.recognition.slots import Slot, find_slots
from rigid_bench.core.part.recognition.threads import HelicalThread, find_threads
from rigid_bench.core.part.symmetry import Symmetry, alike_under, find_symmetry
from rigid_bench.core.part.walls import Wall, least_wall
from rigid_bench.core.values.tolerance import Tolerance

_Array = NDArray[np.float64]


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class FoundPattern:
    """A pattern, and of what."""

    #: "hole", "boss", "slot" or "pocket"; `members` count in the list of these.
    of: str
    pattern: Pattern


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Inventory:
    """The features of one part."""

    holes: tuple[Hole, ...]
    bosses: tuple[Cylinder, ...]
    shafts: tuple[Shaft, ...]
    slots: tuple[Slot, ...]
    #: Rings of walls with air inside that are no slots.
    pockets: tuple[Prism, ...]
    #: Rings of walls with material inside that stand on something.
    prismatic_bosses: tuple[Prism, ...]
    #: Rings that are regular polygons, of pockets, bosses or the whole body; squares only as pockets.
    polygons: tuple[Prism, ...]
    fillets: tuple[Fillet, ...]
    varying_fillets: tuple[VaryingFillet, ...]
    chamfers: tuple[Chamfer, ...]
    round_walls: tuple[RoundWall, ...]
    drafts: tuple[Draft, ...]
    #: Modelled ones; a thread that is only noted is a plain wall.
    threads: tuple[HelicalThread, ...]
    #: What each cone, ball and ring is, by its place in the part's surfaces.
    round_surfaces: Mapping[int, str]
    patterns: tuple[FoundPattern, ...]
    least_wall: Wall | None
    symmetry: Symmetry
    #: Places in `holes` that the part's own motions take to each other.
    interchangeable_holes: tuple[tuple[int, ...], ...]


def take_inventory(part: PartFeatures, *, tolerance: Tolerance) -> Inventory:
    """Find all features of a part.

    Parameters
    ----------
    part
        Its surfaces and edges.
    tolerance
        For its symmetries.

    Returns
    -------
    Inventory

    Raises
    ------
    GeometryError
        The kernel cannot answer on one of its faces.
    """
    holes = find_holes(part)
    prisms = find_prisms(part)
    slots = find_slots(part, prisms)
    rings = [prism for prism in prisms if not _runs_round(part, prism)]  # a bore with its keyway is a hole and a keyway
    in_slots = {number for slot in slots for number in slot.surfaces}
    pockets = [ring for ring in rings if ring.is_hollow and not set(ring.walls) <= in_slots]
    polygons = [ring for ring in rings if ring.outline.sides and (ring.outline.sides != 4 or ring.is_hollow)]
    fillets = find_fillets(part)
    sides = {number for polygon in polygons for number in polygon.walls}
    known = {
        *in_slots,
        *(fillet.surface for fillet in fillets),
        *(number for pocket in pockets for number in pocket.walls),
    }
    symmetry = find_symmetry(part, tolerance=tolerance)
    middles = np.array([(hole.cylinder.point + hole.cylinder.end) / 2 for hole in holes]).reshape(-1, 3)
    chamfers = tuple(chamfer for chamfer in find_chamfers(part) if chamfer.surface not in sides)
    return Inventory(
        holes=tuple(holes),
        bosses=part.bosses,
        shafts=tuple(find_shafts(part)),
        slots=tuple(slots),
        pockets=tuple(pockets),
        prismatic_bosses=tuple(ring for ring in rings if not ring.is_hollow and not ring.through),
        polygons=tuple(polygons),
        fillets=tuple(fillets),
        varying_fillets=tuple(find_varying_fillets(part)),
        chamfers=chamfers,
        round_walls=tuple(find_round_walls(part, without=known)),
        drafts=tuple(find_drafts(part)),
        threads=tuple(find_threads(part)),
        round_surfaces=name_round_surfaces(
            part,
            holes,
            chamfers={chamfer.surface for chamfer in chamfers},
            fillets={fillet.surface for fillet in fillets},
        ),
        patterns=tuple(_patterns(part, holes, slots, pockets)),
        least_wall=least_wall(part),
        symmetry=symmetry,
        interchangeable_holes=tuple(
            tuple(group) for group in alike_under(symmetry.motions, middles, tolerance=tolerance)
        ),
    )


@lru_cache(maxsize=32)
def inventory_of(part: PartFeatures, tolerance: Tolerance) -> Inventory:
    """Return the features of a part, found once however often they are asked for."""
    return take_inventory(part, tolerance=tolerance)


def _runs_round(part: PartFeatures, ring: Prism) -> bool:
    return any(isinstance(wall := part.surfaces[known_wall], Cylinder) and wall.goes_round for known_wall in ring.walls)


def _patterns(
    part: PartFeatures, holes: Sequence[Hole], slots: Sequence[Slot], pockets: Sequence[Prism]
) -> list[FoundPattern]:
    """Find the patterns of like holes, bosses, slots and pockets."""
    sorts: list[tuple[str, list[tuple[tuple[object, ...], _Array, _Array]]]] = [
        ("hole", [(_hole_kind(hole), hole.cylinder.point, hole.cylinder.direction) for hole in holes]),
        ("boss", [(_size(2 * boss.radius, boss.length), boss.point, boss.direction) for boss in part.bosses]),
        ("slot", [(_size(slot.width, slot.length, slot.depth), slot.position, slot.direction) for slot in slots]),
        (
            "pocket",
            [(_size(pocket.outline.area, pocket.depth), pocket.position, pocket.direction) for pocket in pockets],
        ),
    ]
    round_axes = [wall for wall in part.cylinders if wall.goes_round]
    rows = []
    for of, features in sorts:
        for group in _alike(features):
            direction = features[group[0]][2]
            positions = np.array([features[k][1] for k in group])
            parallel = [
                round_axis for round_axis in round_axes if abs(float(round_axis.direction @ direction)) > 1 - 1e-9
            ]
            patterns = find_patterns(positions, direction, _likely_centres(parallel, positions, direction))
            rows += [FoundPattern(of=of, pattern=pattern.renamed(group)) for pattern in patterns]
    return [*rows, *_radial(part, holes)]


def _radial(part: PartFeatures, holes: Sequence[Hole]) -> Iterator[FoundPattern]:
    """Yield the patterns of like holes that point at the axis of a round wall from all round it."""
    kinds: dict[tuple[object, ...], list[int]] = {}
    for number, hole in enumerate(holes):
        kinds.setdefault(_hole_kind(hole), []).append(number)
    groups = [group for group in kinds.values() if len(group) >= 3]
    if not groups:
        return
    taken: set[tuple[int, ...]] = set()
    for walls in axis_groups([wall for wall in part.cylinders if wall.goes_round]):
        for group in groups:
            own = [holes[number].cylinder for number in group]
            middles = np.array([(wall.point + wall.end) / 2 for wall in own])
            directions = np.array([wall.direction for wall in own])
            for pattern in find_radial(middles, directions, (walls[0].point, walls[0].direction)):
                members = tuple(sorted(group[k] for k in pattern.members))
                if members not in taken:
                    taken.add(members)
                    yield FoundPattern(of="hole", pattern=pattern.renamed(group))


def _hole_kind(hole: Hole) -> tuple[object, ...]:
    return (*_size(2 * hole.cylinder.radius, hole.depth), hole.entry, hole.through)


def _size(*sizes: float) -> tuple[object, ...]:
    return tuple(round(size, 3) for size in sizes)


def _alike(features: Sequence[tuple[tuple[object, ...], _Array, _Array]]) -> list[list[int]]:
    """Group features of one kind and size with parallel axes, three and more."""
    groups: dict[tuple[object, ...], list[list[int]]] = {}
    for number, (kind, _, direction) in enumerate(features):
        for group in (same := groups.setdefault(kind, [])):
            if abs(float(features[group[0]][2] @ direction)) > 1 - 1e-9:
                group.append(number)
                break
        else:
            same.append([number])
    return [group for same in groups.values() for group in same if len(group) >= 3]


def _likely_centres(walls: Sequence[Cylinder], positions: _Array, direction: _Array) -> list[_Array]:
    """Return points of the axes about which a pattern may lie: next to its middle, and the largest walls."""
    if not walls:
        return []
    offsets = np.array([wall.point for wall in walls]) - positions.mean(axis=0)
    away = np.linalg.norm(offsets - np.outer(offsets @ direction, direction), axis=1)
    areas = np.array([wall.area for wall in walls])
    feet: dict[tuple[float, ...], _Array] = {}
    for wall in (walls[k] for k in (*np.argsort(away, kind="stable")[:2], *np.argsort(-areas, kind="stable")[:3])):
        foot = wall.point - float(wall.point @ direction) * direction
        feet.setdefault(tuple(np.round(foot, 2).tolist()), wall.point)
    return list(feet.values())
