"""The dimensions that a drawing of a part needs, in the order in which people give them.

Overall sizes, diameters, places of holes, depths, steps, roundings; each only if it fixes something
that the ones before leave free.
"""

import itertools
import math
from collections.abc import Collection, Iterable, Iterator, Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.drawing.audit.drawing_rows import DrawingRows
from rigid_bench.core.drawing.audit.part_audit import counted_rows, rows_of, said_rows
from rigid_bench.core.drawing.audit.size_equations import Span
from rigid_bench.core.drawing.audit.unknowns import cone_feature
from rigid_bench.core.exercise.bundle import CheckModel, PartModel
from rigid_bench.core.formats.documents import CheckedFeature, feature_document
from rigid_bench.core.kernel.distance import extreme
from rigid_bench.core.measurement.measure import MEASURES, measure
from rigid_bench.core.measurement.measure_request import Request
from rigid_bench.core.part.faces import Cone, Cylinder, Plane, Sphere, Torus
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.part.recognition.holes import find_holes
from rigid_bench.core.part.recognition.inventory import Inventory, inventory_of
from rigid_bench.core.registration.correspond import RegisteredPart
from rigid_bench.core.values.datums import (
    CountersinkFeature,
    CylinderFeature,
    PlaneFeature,
    SphereFeature,
    TorusFeature,
)
from rigid_bench.core.values.names import slug, unique
from rigid_bench.core.values.tolerance import Tolerance
from rigid_bench.core.wording.datums import between_words, side_of, side_words
from rigid_bench.core.wording.language import N_, _

_AXES = "xyz"
#: mm: no size; and where the tables of general tolerances begin (ISO 2768-1).
_NOTHING, _LEAST_IN_TABLE = 1e-3, 0.5
#: A plate is thinner than this share of its width.
_THIN = 0.4
#: A face looks along an axis where its normal's share of it is greater.
_SLANTED = 0.7
#: A part with more flat faces than a box may have the sides of a polygon among them.
_MOST_BOX = 6
#: Sides of what is said by its length and width.
_MOST_SQUARE = 4
#: Nearer to an edge than this share of the part, a feature stands at it.
_THIRD = 0.4


def dimensions(part_id: str, part: PartFeatures, tolerance: Tolerance) -> list[dict[str, Any]]:
    """Propose the dimensions that a drawing of a part needs: they fix it, and none says again what others say.

    Returns
    -------
    list of dict
        Checks of kind `dimension`, their nominals as measured, in mm.
    """
    unknowns = DrawingRows(part)
    known = Span(unknowns.gauge)
    for row in [*unknowns.tangencies(), *unknowns.equal_treatments()]:  # one radius says all roundings of that size
        known.add(row)
    taken: set[str] = set()
    return [*_adding(part_id, part, unknowns, known, tolerance, taken), *_through_holes(part_id, part, taken)]


def missing_dimensions(
    model: PartModel, part: PartFeatures, checks: Sequence[CheckModel], *, mm: float, tolerance: Tolerance
) -> list[dict[str, Any]]:
    """Propose the dimensions that the sheet of a part still lacks; nominals in the exercise's unit.

    Parameters
    ----------
    model, part
        The part and its reference.
    checks
        All checks of the exercise.
    mm
        Millimetres in the exercise's unit.
    tolerance
        For reading features.
    """
    unknowns = DrawingRows(part)
    known = Span(unknowns.gauge)
    for row in said_rows(unknowns, model, checks, mm):
        known.add(row)
    added = _adding(model.id, part, unknowns, known, tolerance, {check.id for check in checks})
    return [_in_unit(check, mm) for check in added]


def _in_unit(check: dict[str, Any], mm: float) -> dict[str, Any]:
    """Write a proposed check in the exercise's unit."""
    if mm == 1.0:
        return check

    def turned(given: dict[str, Any]) -> dict[str, Any]:
        return feature_document(CheckedFeature.model_validate(given).feature(), mm=mm)

    is_length = MEASURES[check["measure"]].gives == "length"
    changed = {**check, "nominal": round(check["nominal"] / mm, 5)} if is_length else dict(check)
    if "of" in check:
        changed["of"] = turned(check["of"])
    if "between" in check:
        changed["between"] = [turned(feature) for feature in check["between"]]
    return changed


def _adding(
    part_id: str, part: PartFeatures, unknowns: DrawingRows, known: Span, tolerance: Tolerance, taken: set[str]
) -> list[dict[str, Any]]:
    """Return the candidates that add to what is known, in their order."""
    registered = RegisteredPart.over_itself(part)
    sizes: list[dict[str, Any]] = []
    for candidate in _candidates(part, unknowns, tolerance):
        if known.is_full:
            break
        words, fields = candidate
        check = {"id": "x", "title": words, "kind": "dimension", "marks": 1, "part": part_id, **fields, "nominal": 0}
        asked = CheckModel.model_validate(check)
        value = measure(registered, _request(fields))
        if value is None or abs(value) < _NOTHING:
            continue
        added = [known.add(row) for row in rows_of(unknowns, asked, 1.0) or counted_rows(unknowns, asked, 1.0)]
        if not any(added):
            continue
        if fields["measure"] == "count":
            check["tolerance"] = {"minus": 0, "plus": 0}
        elif value < _LEAST_IN_TABLE:
            check["tolerance"] = {"minus": 0.05, "plus": 0.05}
        title = _title(words, fields, part, {known_check["title"] for known_check in sizes})
        name = unique(f"{part_id}.{slug(title)}", taken)
        sizes.append({**check, "title": title, "id": name, "nominal": round(float(value), 4)})
    return sizes


def _through_holes(part_id: str, part: PartFeatures, taken: set[str]) -> Iterator[dict[str, Any]]:
    """Yield a check for each size of holes that go right through: a note on the drawing, and no size."""
    registered, told = RegisteredPart.over_itself(part), set[float]()
    for hole in find_holes(part):
        wall = hole.cylinder
        title = _("Ø{diameter:g} through", diameter=2 * wall.radius)
        if hole.through and round(wall.radius, 6) not in told:
            told.add(round(wall.radius, 6))
            of = feature_document(CylinderFeature(wall.point, wall.direction, wall.radius))
            fields = {"measure": "pierces", "of": of}
            name = unique(f"{part_id}.{slug(title)}", taken)
            yield {
                "id": name, "title": title, "kind": "dimension", "marks": 1, "part": part_id, **fields,
                "tolerance": {"minus": 0, "plus": 0}, "nominal": measure(registered, _request(fields)),
            }  # fmt: skip


def _title(words: str, fields: dict[str, Any], part: PartFeatures, taken: Collection[str]) -> str:
    """Return a title that no other size of the part has: where the feature stands, if the words alone are taken."""
    if words not in taken:
        return words
    features = _request(fields).features
    place = _corner_words(features[0].point, part) if features else ""
    told = f"{words}, {place}" if place else words
    return next(title for title in (told, *(f"{told} ({k})" for k in range(2, 1000))) if title not in taken)


def _corner_words(point: NDArray[np.float64], part: PartFeatures) -> str:
    """Say in which corner of the part a place is: "front left"; "" for the middle."""
    shares = (point - part.box[0]) / np.maximum(part.extents, _NOTHING)
    names = (("left", "right"), ("front", "back"), ("bottom", "top"))
    said = [
        pair[0] if share < _THIRD else pair[1] if share > 1 - _THIRD else ""
        for share, pair in zip(shares, names, strict=True)
    ]
    return " ".join(filter(None, (said[1], said[0])))


def _request(fields: dict[str, Any]) -> Request:
    given = [*fields.get("between", []), *([fields["of"]] if "of" in fields else [])]
    features = tuple(CheckedFeature.model_validate(feature).feature(mm=1.0) for feature in given)
    return Request(measure=fields["measure"], features=features, axis=fields.get("axis"), where="proposal")


#: A dimension in words, with the fields of its check.
_Candidate = tuple[str, dict[str, Any]]
#: Round walls, each with the feature by which a check names it.
_Walls = Sequence[tuple[Cylinder, CylinderFeature]]


def _candidates(part: PartFeatures, unknowns: DrawingRows, tolerance: Tolerance) -> Iterator[_Candidate]:
    """Yield dimensions in the order in which people give them, each with its words."""
    flats = sorted(unknowns.flats, key=lambda flat: -flat.area)
    faces = [PlaneFeature(flat.point, flat.normal) for flat in flats]
    sized = sorted((wall for _, wall in unknowns.walls), key=lambda wall: -wall.area)
    walls = [(wall, CylinderFeature(wall.point, wall.direction, wall.radius)) for wall in sized]
    inventory = inventory_of(part, tolerance)
    outer = [face for face in faces if _is_outer(part, face)]
    overall, to_round_ends = _overall_sizes(part, outer)
    for face in faces:
        if len(faces) > _MOST_BOX and len(unknowns.polygon(face)) > _MOST_SQUARE:
            yield _("Across flats"), {"measure": "across_flats", "of": feature_document(face)}
    yield from overall
    yield from _diameters(walls, inventory)
    through = {hole.cylinder.faces for hole in inventory.holes if hole.through}
    yield from _depths((wall, feature) for wall, feature in walls if wall.goes_round and wall.faces not in through)
    yield from _slot_widths(part, inventory)
    yield from _steps(part, faces, outer)
    yield from _places_of_walls(part, walls, outer)
    yield from _between(walls, faces)
    yield from _places_of_walls(part, walls, faces)
    yield from _depths(walls)
    yield from _corners(part, faces)
    yield from _edge_sizes(part, inventory)
    yield from _rounds(part)
    yield from to_round_ends


def _is_outer(part: PartFeatures, face: PlaneFeature) -> bool:
    """Say whether the whole part lies behind a face: sizes are given from such."""
    return extreme(part, tuple(face.normal.tolist())) <= float(face.point @ face.normal) + _NOTHING


def _overall_sizes(part: PartFeatures, outer: Sequence[PlaneFeature]) -> tuple[list[_Candidate], list[_Candidate]]:
    """Return the overall sizes between flat faces; and the others, which diameters say, mostly."""
    between_flats: list[_Candidate] = []
    others: list[_Candidate] = []
    for word, axis, way in zip(_overall_words(part.extents), _AXES, np.eye(3), strict=True):
        is_flat = {1, -1} <= {round(float(face.normal @ way), 9) for face in outer}
        (between_flats if is_flat else others).append((word, {"measure": "extent", "axis": axis}))
    return between_flats, others


def _diameters(walls: _Walls, inventory: Inventory) -> Iterator[_Candidate]:
    """Yield diameters with their numbers, and hole circles."""
    narrow = {hole.cylinder.faces for hole in inventory.holes}
    # a hole with its number first: that ties the mouths of all of them
    for wall, feature in sorted(walls, key=lambda pair: pair[0].is_hollow + _is_mouth(pair[0], narrow)):
        size = 2 * wall.radius
        title = N_("Bore Ø{diameter:g}") if wall.is_hollow else N_("Round Ø{diameter:g}")
        title = N_("Counterbore Ø{diameter:g}") if _is_mouth(wall, narrow) else title
        yield _(title, diameter=size), {"measure": "diameter", "of": feature_document(feature)}
        yield _("Number of Ø{diameter:g}", diameter=size), {"measure": "count", "of": feature_document(feature)}
    circular = {
        round(inventory.holes[k].cylinder.radius, 6)
        for pattern in inventory.patterns
        if pattern.of == "hole" and pattern.pattern.pitch_circle
        for k in pattern.pattern.members
    }
    for wall, feature in walls:
        if wall.is_hollow and wall.goes_round and round(wall.radius, 6) in circular:
            yield (
                _("Hole circle of Ø{radius:g}", radius=2 * wall.radius),
                {"measure": "pitch_circle", "of": feature_document(feature)},
            )


def _places_of_walls(part: PartFeatures, walls: _Walls, faces: Sequence[PlaneFeature]) -> Iterator[_Candidate]:
    """Yield where round walls stand."""
    for wall, feature in walls:
        # from the outside first: what lies within is then placed by its own sizes
        beside = [face for face in faces if abs(float(face.normal @ wall.direction)) < 1e-9]
        for face in sorted(
            beside, key=lambda plane_feature: -float(plane_feature.normal @ (plane_feature.point - part.centroid))
        ):
            words = _("Ø{diameter:g} from the {face}", diameter=2 * wall.radius, face=side_words(face))
            yield words, {"measure": "position", "between": [feature_document(feature), feature_document(face)]}


def _slot_widths(part: PartFeatures, inventory: Inventory) -> Iterator[_Candidate]:
    """Yield how wide slots and keyways are."""
    for slot in inventory.slots:
        sides = [surface for number in slot.surfaces if isinstance(surface := part.surfaces[number], Plane)]
        for one, other in itertools.combinations(sides, 2):
            is_across = float(one.normal @ other.normal) < -1 + 1e-9
            if is_across and abs(float((other.point - one.point) @ one.normal) - slot.width) < _NOTHING:
                between = [feature_document(PlaneFeature(side.point, side.normal)) for side in (one, other)]
                title = _("Keyway width") if slot.keyway_in else _("Slot width")
                yield title, {"measure": "length", "between": between}
                break


def _steps(part: PartFeatures, faces: Sequence[PlaneFeature], outer: Sequence[PlaneFeature]) -> Iterator[_Candidate]:
    """Yield where inner faces stand, from an outer one: the thickness of a wall, or else a step."""
    inner = [face for face in faces if all(face is not other for other in outer)]
    pairs = [pair for pair in itertools.product(inner, outer) if abs(float(pair[0].normal @ pair[1].normal)) > 1 - 1e-9]
    walls = [pair for pair in pairs if _is_wall(part, *pair)]
    steps = [pair for pair in pairs if all(pair is not wall for wall in walls)]
    for title, flats in ((N_("Thickness at the {face}"), walls), (N_("Step from the {face}"), steps)):
        for face, datum in flats:
            between = [feature_document(face), feature_document(datum)]
            yield _(title, face=side_words(datum)), {"measure": "length", "between": between}


def _is_wall(part: PartFeatures, face: PlaneFeature, datum: PlaneFeature) -> bool:
    """Say whether two faces look away from each other and are near, for the part's size beside them."""
    beside = part.extents[np.abs(datum.normal) < _SLANTED]
    away = abs(float((face.point - datum.point) @ datum.normal))
    return float(face.normal @ datum.normal) < 0 and away < _THIN * float(beside.min(initial=np.inf))


def _depths(walls: Iterable[tuple[Cylinder, CylinderFeature]]) -> Iterator[_Candidate]:
    """Yield how deep holes and counterbores go."""
    for wall, feature in walls:
        if wall.is_hollow:
            yield (
                _("Ø{diameter:g} depth", diameter=2 * wall.radius),
                {"measure": "depth", "of": feature_document(feature)},
            )


def _between(walls: _Walls, faces: Sequence[PlaneFeature]) -> Iterator[_Candidate]:
    """Yield distances between axes, and distances and angles between faces."""
    for (_one, one), (_other, other) in itertools.combinations(walls, 2):
        for axis in _AXES:
            sizes = {"other": 2 * other.radius, "one": 2 * one.radius}
            words = _("Ø{other:g} from Ø{one:g} along {axis}", axis=axis.upper(), **sizes)
            between = [feature_document(one), feature_document(other)]
            yield words, {"measure": "position", "between": between, "axis": axis}
    for k, face in enumerate(faces):
        for against in faces[:k]:
            between = [feature_document(against), feature_document(face)]
            if abs(float(face.normal @ against.normal)) > 1 - 1e-9:
                yield between_words(face, against), {"measure": "length", "between": between}
            else:
                yield _("Angle of the {face}", face=side_words(face)), {"measure": "angle", "between": between}


def _edge_sizes(part: PartFeatures, inventory: Inventory) -> Iterator[_Candidate]:
    """Yield the sizes of chamfered and rounded edges."""
    for chamfer in inventory.chamfers:
        slant = part.surfaces[chamfer.surface]
        named = PlaneFeature(slant.point, slant.normal) if isinstance(slant, Plane) else None
        feature = cone_feature(slant) if isinstance(slant, Cone) else named
        assert feature
        yield _("Chamfer {leg:g}", leg=chamfer.legs[0]), {"measure": "chamfer", "of": feature_document(feature)}
        yield _("Angle of the chamfer"), {"measure": "chamfer_angle", "of": feature_document(feature)}
    for fillet in inventory.fillets:
        surface, title = part.surfaces[fillet.surface], _("Rounding R{radius:g}", radius=fillet.radius)
        if isinstance(surface, Cylinder):
            wall = CylinderFeature(surface.point, surface.direction, surface.radius)
            yield title, {"measure": "radius", "of": feature_document(wall)}
        elif isinstance(surface, Torus):
            ring = TorusFeature(surface.point, surface.direction, surface.major, surface.minor)
            yield title, {"measure": "tube_radius", "of": feature_document(ring)}


def _is_mouth(wall: Cylinder, narrow: Collection[tuple[int, ...]]) -> bool:
    """Say whether a wall that goes round is the counterbore of a hole, and no hole of its own."""
    return wall.is_hollow and wall.goes_round and wall.faces not in narrow


def _corners(part: PartFeatures, faces: Sequence[PlaneFeature]) -> Iterator[_Candidate]:
    """Yield how far the ends of slanted faces stand from the straight ones."""
    straight = [face for face in faces if side_of(face) != "slant"]
    for surface, plane in enumerate(part.surfaces):
        if not isinstance(plane, Plane) or side_of(PlaneFeature(plane.point, plane.normal)) != "slant":
            continue
        ends = np.unique(np.round(part.edges.polylines(surface)[0], 6), axis=0)
        for corner, face in itertools.product(ends, straight):
            yield (
                _("End of the slant from the {face}", face=side_words(face)),
                {"measure": "corner", "between": [{"point": corner.tolist()}, feature_document(face)]},
            )


def _overall_words(extents: NDArray[np.float64]) -> list[str]:
    """Name the overall sizes along x, y and z: the longest is the length; the least of a plate its thickness."""
    order = np.argsort(-extents, kind="stable")
    last = _("Thickness") if extents[order[2]] < _THIN * extents[order[1]] else _("Height")
    return [(_("Length"), _("Width"), last)[int(np.flatnonzero(order == axis)[0])] for axis in range(3)]


def _rounds(part: PartFeatures) -> Iterator[_Candidate]:
    """Yield the sizes of balls, tapers and countersinks."""
    for hole in find_holes(part):
        if hole.entry == "countersink":
            wall = hole.cylinder
            of = feature_document(CountersinkFeature(wall.point, wall.direction))
            yield (
                _("Countersink Ø{diameter:g}", diameter=hole.entry_diameter),
                {"measure": "countersink_diameter", "of": of},
            )
            yield _("Angle of the countersink"), {"measure": "countersink_angle", "of": of}
    for surface in part.surfaces:
        if isinstance(surface, Sphere):
            of = feature_document(SphereFeature(surface.point, surface.radius))
            yield _("Ball SØ{diameter:g}", diameter=2 * surface.radius), {"measure": "sphere_diameter", "of": of}
        elif isinstance(surface, Torus):
            ring = TorusFeature(surface.point, surface.direction, surface.major, surface.minor)
            yield _("Ring R{radius:g}", radius=surface.minor), {"measure": "tube_radius", "of": feature_document(ring)}
        elif isinstance(surface, Cone):
            of = feature_document(cone_feature(surface))
            yield (
                _("Cone of {angle:g}°", angle=math.degrees(2 * surface.half_angle)),
                {"measure": "cone_angle", "of": of},
            )
