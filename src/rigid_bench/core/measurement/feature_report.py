"""One part of the measure report: its features in the published format."""

import math
from collections import Counter
from collections.abc import Iterable

from rigid_bench.core.formats.features import (
    AxisReport,
    BossReport,
    ChamferReport,
    ConeReport,
    DraftReport,
    FeatureReport,
    FilletReport,
    FlatReport,
    HelicalThreadReport,
    HoleReport,
    PatternReport,
    PlaneReport,
    PolygonReport,
    PrismReport,
    RoundWallReport,
    SegmentReport,
    ShaftReport,
    SlotReport,
    SphereReport,
    StepReport,
    SymmetryReport,
    ThreadReport,
    TorusReport,
    TurnReport,
    VaryingFilletReport,
    WallReport,
)
from rigid_bench.core.part.faces import Cone, Cylinder, Plane, Sphere, Surface, Torus
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.part.recognition.facets import allowance
from rigid_bench.core.part.recognition.holes import Hole
from rigid_bench.core.part.recognition.inventory import FoundPattern, Inventory
from rigid_bench.core.part.recognition.outline import Segment
from rigid_bench.core.part.recognition.prisms import Prism
from rigid_bench.core.part.recognition.round_walls import RoundWall
from rigid_bench.core.part.recognition.shafts import Shaft
from rigid_bench.core.part.recognition.slots import Slot
from rigid_bench.core.part.recognition.threads import HelicalThread
from rigid_bench.core.part.symmetry import Symmetry
from rigid_bench.core.part.walls import Wall
from rigid_bench.core.standards.threads import match_diameter

#: mm, mm2, mm3: below this a number is nothing but rounding.
_DUST = 1e-9
#: Bands are given to a millionth of a millimetre.
_STEPS_PER_MM = 1e6


def feature_report(part: PartFeatures, inventory: Inventory) -> FeatureReport:
    """Write a part's features as the measure report does: mm, degrees, mm2."""
    surfaces, named = part.surfaces, inventory.round_surfaces.items()
    fillets = Counter(fillet.radius for fillet in inventory.fillets)
    chamfers = Counter((chamfer.legs, chamfer.angle) for chamfer in inventory.chamfers)
    return FeatureReport(
        holes=[_hole(hole) for hole in inventory.holes],
        bosses=[_boss(boss) for boss in inventory.bosses],
        shafts=[_shaft(shaft) for shaft in inventory.shafts],
        slots=[_slot(slot) for slot in inventory.slots],
        pockets=[_prism(pocket) for pocket in inventory.pockets],
        prismatic_bosses=[_prism(prismatic_boss) for prismatic_boss in inventory.prismatic_bosses],
        polygons=[_polygon(polygon) for polygon in inventory.polygons],
        fillets=[FilletReport(radius=radius, count=count) for radius, count in fillets.items()],
        varying_fillets=[
            VaryingFilletReport(radii=listed(varying_fillet.radii)) for varying_fillet in inventory.varying_fillets
        ],
        chamfers=[
            ChamferReport(legs=list(legs), angle=_degrees(angle), count=count)
            for (legs, angle), count in chamfers.items()
        ],
        round_walls=[_round_wall(round_wall) for round_wall in inventory.round_walls],
        cones=[_cone(surfaces[k], name) for k, name in named if isinstance(surfaces[k], Cone)],
        spheres=[_sphere(surfaces[k], name) for k, name in named if isinstance(surfaces[k], Sphere)],
        tori=[_torus(surfaces[k], name) for k, name in named if isinstance(surfaces[k], Torus)],
        drafts=[
            DraftReport(angle=_degrees(draft.angle), direction=listed(draft.pull), count=len(draft.surfaces))
            for draft in inventory.drafts
        ],
        helical_threads=[_helical_thread(thread) for thread in inventory.threads],
        planes=[_plane(plane) for plane in part.planes],
        patterns=[_pattern(pattern) for pattern in inventory.patterns],
        least_wall=_wall(inventory.least_wall) if inventory.least_wall else None,
        symmetry=_symmetry(inventory.symmetry, inventory.interchangeable_holes),
    )


def _threads(diameter: float, *, is_hole: bool) -> list[ThreadReport] | None:
    threads = match_diameter(diameter, is_hole=is_hole)
    return [ThreadReport(designation=thread.designation, size=thread.size) for thread in threads] or None


def _hole(hole: Hole) -> HoleReport:
    wall = hole.cylinder
    return HoleReport(
        diameter=rounded(2 * wall.radius),
        depth=rounded(hole.depth),
        through=hole.through,
        entry=hole.entry,
        position=listed(wall.point),
        direction=listed(wall.direction),
        tip=rounded(hole.tip) or None,
        entry_diameter=rounded(hole.entry_diameter) or None,
        entry_depth=rounded(hole.entry_depth) or None,
        entry_angle=_degrees(hole.entry_angle) or None,
        diameter_band=_band(wall),
        slant=_degrees(hole.slant) or None,
        threads=_threads(2 * wall.radius, is_hole=True),
    )


def _boss(wall: Cylinder) -> BossReport:
    return BossReport(
        diameter=rounded(2 * wall.radius),
        height=rounded(wall.length),
        position=listed(wall.point),
        direction=listed(wall.direction),
        diameter_band=_band(wall),
        threads=_threads(2 * wall.radius, is_hole=False),
    )


def _band(wall: Cylinder, share: float = 1.0) -> list[float] | None:
    """Return a diameter across flats and across corners, mm, rounded outwards; a `share` of 0.5 for a radius."""
    if not wall.facets:
        return None
    across = 2 * wall.radius
    low, high = (share * value * _STEPS_PER_MM for value in (across - allowance(wall), across))
    # what is a whole step but for floating point stays that step
    return [math.floor(low + _DUST) / _STEPS_PER_MM, math.ceil(high - _DUST) / _STEPS_PER_MM]


def _shaft(shaft: Shaft) -> ShaftReport:
    first = shaft.steps[0]
    begin = min(first.point, first.end, key=lambda coordinate: float(coordinate @ shaft.direction))
    return ShaftReport(
        steps=[StepReport(diameter=rounded(2 * step.radius), length=rounded(step.length)) for step in shaft.steps],
        flats=[
            FlatReport(to_axis=rounded(flat.to_axis), across=rounded(flat.across), length=rounded(flat.length))
            for flat in shaft.flats
        ],
        position=listed(begin),
        direction=listed(shaft.direction),
    )


def _slot(slot: Slot) -> SlotReport:
    return SlotReport(
        width=rounded(slot.width),
        length=rounded(slot.length),
        depth=rounded(slot.depth),
        through=slot.through,
        ends=list(slot.ends),
        position=listed(slot.position),
        direction=listed(slot.direction),
        along=listed(slot.along),
        keyway_in=slot.keyway_in or None,
        floor_to_axis=rounded(slot.floor_to_axis) if slot.keyway_in else None,
        head_width=rounded(slot.head_width) or None,
        head_height=rounded(slot.head_height) or None,
    )


def _prism(prism: Prism) -> PrismReport:
    outline = prism.outline
    rectangle, curved = outline.rectangle, outline.curved_slot
    # the smallest rectangle is laid round chords of the arcs: to the micrometre
    length, width = rectangle[:2] if rectangle else map(_measured, outline.box)
    form = "rectangle" if rectangle else "polygon" if outline.sides else "curved slot" if curved else "outline"
    return PrismReport(
        form=form,
        depth=rounded(prism.depth),
        through=prism.through,
        position=listed(prism.position),
        direction=listed(prism.direction),
        along=listed(prism.along),
        area=rounded(outline.area),
        perimeter=rounded(outline.perimeter),
        length=None if curved else rounded(length),
        width=rounded(curved[0] if curved else width),
        corner_radius=rounded(rectangle[2]) if rectangle else None,
        path_radius=rounded(curved[1]) if curved else None,
        path_angle=_degrees(curved[2]) if curved else None,
        outline=[_segment(segment) for segment in outline.segments],
    )


def _segment(segment: Segment) -> SegmentReport:
    is_arc = segment.centre is not None
    return SegmentReport(
        start=listed(segment.start),
        end=listed(segment.end),
        centre=listed(segment.centre) if segment.centre is not None else None,
        radius=rounded(segment.radius) if is_arc else None,
        turn=_degrees(segment.turn) if is_arc else None,
        tangent=segment.is_tangent,
    )


def _polygon(prism: Prism) -> PolygonReport:
    return PolygonReport(
        sides=prism.outline.sides,
        across_flats=rounded(prism.outline.across_flats),
        depth=rounded(prism.depth),
        hollow=prism.is_hollow,
        position=listed(prism.position),
        direction=listed(prism.direction),
    )


def _round_wall(rounding: RoundWall) -> RoundWallReport:
    wall = rounding.wall
    return RoundWallReport(
        radius=rounded(wall.radius),
        length=rounded(wall.length),
        sweep=_degrees(wall.sweep),
        hollow=wall.is_hollow,
        tangent=rounding.tangent,
        centre=listed((wall.point + wall.end) / 2),
        direction=listed(wall.direction),
        radius_band=_band(wall, 0.5),
    )


def _cone(cone: Surface, name: str) -> ConeReport:
    assert isinstance(cone, Cone)
    return ConeReport(
        name=name,
        half_angle=_degrees(cone.half_angle),
        diameters=[rounded(2 * cone.radius_at(along)) for along in (cone.near, cone.far)],
        length=rounded(cone.far - cone.near),
        hollow=cone.is_hollow,
        apex=listed(cone.apex),
        direction=listed(cone.direction),
    )


def _sphere(sphere: Surface, name: str) -> SphereReport:
    assert isinstance(sphere, Sphere)
    return SphereReport(
        name=name, diameter=rounded(2 * sphere.radius), hollow=sphere.is_hollow, centre=listed(sphere.point)
    )


def _torus(torus: Surface, name: str) -> TorusReport:
    assert isinstance(torus, Torus)
    return TorusReport(
        name=name,
        ring_diameter=rounded(2 * torus.major),
        tube_diameter=rounded(2 * torus.minor),
        hollow=torus.is_hollow,
        centre=listed(torus.point),
        direction=listed(torus.direction),
    )


def _helical_thread(thread: HelicalThread) -> HelicalThreadReport:
    return HelicalThreadReport(
        pitch=_measured(thread.pitch),
        major_diameter=_measured(thread.major_diameter),
        minor_diameter=_measured(thread.minor_diameter),
        length=_measured(thread.length),
        hand="right" if thread.is_right_handed else "left",
        internal=thread.is_internal,
        position=listed(thread.position),
        direction=listed(thread.direction),
    )


def _measured(value: float) -> float:
    """Round what is read off a free-form wall to the micrometre: its maker was no nearer."""
    return round(value, 3)


def _plane(plane: Plane) -> PlaneReport:
    return PlaneReport(point=listed(plane.point), normal=listed(plane.normal), area=rounded(plane.area))


def _pattern(repeated: FoundPattern) -> PatternReport:
    pattern = repeated.pattern
    return PatternReport(
        kind=pattern.kind,
        of=repeated.of,
        count=len(pattern.members),
        counts=list(pattern.counts),
        pitches=listed(pattern.pitches),
        pitch_circle=rounded(pattern.pitch_circle) or None,
        step=_degrees(pattern.step) or None,
        centre=listed(pattern.centre),
        direction=listed(pattern.direction),
        members=list(pattern.members),
    )


def _wall(wall: Wall) -> WallReport:
    return WallReport(thickness=rounded(wall.thickness), at=listed(wall.at))


def _symmetry(symmetry: Symmetry, holes: Iterable[tuple[int, ...]]) -> SymmetryReport:
    centre = listed(symmetry.centre)
    return SymmetryReport(
        spin=None if symmetry.spin is None else AxisReport(point=centre, direction=listed(symmetry.spin)),
        ball=symmetry.is_ball,
        turns=[
            TurnReport(axis=AxisReport(point=centre, direction=listed(turn.direction)), order=turn.order)
            for turn in symmetry.turns
        ],
        ways=len(symmetry.motions),
        interchangeable_holes=[list(hole) for hole in holes],
    )


def _degrees(angle: float) -> float:
    return rounded(math.degrees(angle))


def rounded(value: float) -> float:
    """Drop the dust of floating point: a millionth of a millimetre, or the seventh digit of what is smaller than one.

    Examples
    --------
    >>> rounded(12.00000004), rounded(0.0412345678), rounded(-1e-15)
    (12.0, 0.04123457, 0.0)
    """
    number = float(value)
    if abs(number) < _DUST:
        return 0.0
    return round(number, max(6, 6 - math.floor(math.log10(abs(number))))) + 0.0


def listed(vector: Iterable[float]) -> list[float]:
    """Write a vector as a list of numbers."""
    return [rounded(value) for value in vector]
