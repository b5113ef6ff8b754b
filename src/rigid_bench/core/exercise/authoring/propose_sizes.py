"""The dimensions that a drawing of a part needs, in the order in which people give them.

Overall sizes, diameters, places of holes, depths, steps, roundings; each only if it fixes something
that the ones before leave free.
"""

import itertools
from collections.abc import Iterator, Sequence
from typing import Any

from rigid_bench.core.drawing.audit import Span, counted_rows, rows_of, said_rows
from rigid_bench.core.drawing.drawing_rows import DrawingRows
from rigid_bench.core.exercise.bundle import CheckModel, PartModel
from rigid_bench.core.formats.documents import FeatureModel, feature_document
from rigid_bench.core.measurement.measure import measure
from rigid_bench.core.measurement.measure_request import Request
from rigid_bench.core.part.faces import Cylinder, Plane
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.part.recognition.inventory import inventory_of
from rigid_bench.core.registration.correspond import RegisteredPart
from rigid_bench.core.registration.register import Registration
from rigid_bench.core.values.datums import CylinderFeature, PlaneFeature
from rigid_bench.core.values.frames import Pose
from rigid_bench.core.values.names import slug, unique
from rigid_bench.core.values.tolerance import Tolerance
from rigid_bench.core.wording.datums import side_of

_AXES = "xyz"
#: mm: no size; and where the tables of general tolerances begin (ISO 2768-1).
_NOTHING, _LEAST_IN_TABLE = 1e-3, 0.5


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
    return _adding(part_id, part, unknowns, known, tolerance, set())


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
    found = _adding(model.id, part, unknowns, known, tolerance, {each.id for each in checks})
    return [_in_unit(each, mm) for each in found]


def _in_unit(check: dict[str, Any], mm: float) -> dict[str, Any]:
    """Write a proposed check in the exercise's unit."""
    if mm == 1.0:
        return check

    def turned(given: dict[str, Any]) -> dict[str, Any]:
        return feature_document(FeatureModel.model_validate(given).feature(), mm=mm)

    is_length = check["measure"] not in ("angle", "count")
    changed = {**check, "nominal": round(check["nominal"] / mm, 5)} if is_length else dict(check)
    if "of" in check:
        changed["of"] = turned(check["of"])
    if "between" in check:
        changed["between"] = [turned(each) for each in check["between"]]
    return changed


def _adding(
    part_id: str, part: PartFeatures, unknowns: DrawingRows, known: Span, tolerance: Tolerance, taken: set[str]
) -> list[dict[str, Any]]:
    """Return the candidates that add to what is known, in their order."""
    laid = RegisteredPart(part, part, Registration(pose=Pose.identity(), likeness=1.0))
    found: list[dict[str, Any]] = []
    for candidate in _candidates(part, unknowns, tolerance):
        if known.is_full:
            break
        words, fields = candidate
        check = {"id": "x", "title": words, "kind": "dimension", "marks": 1, "part": part_id, **fields, "nominal": 0}
        asked = CheckModel.model_validate(check)
        value = measure(laid, _request(fields))
        if value is None or abs(value) < _NOTHING:
            continue
        added = [known.add(row) for row in rows_of(unknowns, asked, 1.0) or counted_rows(unknowns, asked, 1.0)]
        if not any(added):
            continue
        if fields["measure"] == "count":
            check["tolerance"] = {"minus": 0, "plus": 0}
        elif value < _LEAST_IN_TABLE:
            check["tolerance"] = {"minus": 0.05, "plus": 0.05}
        name = unique(f"{part_id}.{slug(words)}", taken)
        found.append({**check, "id": name, "nominal": round(float(value), 4)})
    return found


def _request(fields: dict[str, Any]) -> Request:
    given = [*fields.get("between", []), *([fields["of"]] if "of" in fields else [])]
    features = tuple(FeatureModel.model_validate(each).feature(mm=1.0) for each in given)
    return Request(measure=fields["measure"], features=features, axis=fields.get("axis"), where="proposal")


def _candidates(
    part: PartFeatures, unknowns: DrawingRows, tolerance: Tolerance
) -> Iterator[tuple[str, dict[str, Any]]]:
    """Yield dimensions in the order in which people give them, each with its words."""
    flats = sorted(unknowns.flats, key=lambda each: -each.area)
    faces = [PlaneFeature(each.point, each.normal) for each in flats]
    walls = sorted((wall for _, wall in unknowns.walls), key=lambda each: -each.area)
    rounds = [CylinderFeature(each.point, each.direction, each.radius) for each in walls]
    for word, axis in zip(("Length", "Width", "Height"), _AXES, strict=True):
        yield word, {"measure": "extent", "axis": axis}
    for wall, feature in zip(walls, rounds, strict=True):
        kind = "Bore" if wall.is_hollow else "Round"
        yield f"{kind} Ø{2 * wall.radius:g}", {"measure": "diameter", "of": feature_document(feature)}
        yield f"Number of Ø{2 * wall.radius:g}", {"measure": "count", "of": feature_document(feature)}
    for wall, feature in zip(walls, rounds, strict=True):
        if wall.is_hollow and wall.goes_round:
            yield f"Hole circle of Ø{2 * wall.radius:g}", {"measure": "pitch_circle", "of": feature_document(feature)}
    for wall, feature in zip(walls, rounds, strict=True):
        # from the outside first: what lies within is then placed by its own sizes
        beside = [face for face in faces if abs(float(face.normal @ wall.direction)) < 1e-9]
        for face in sorted(beside, key=lambda each: -float(each.normal @ (each.point - part.centroid))):
            words = f"Ø{2 * wall.radius:g} from the {side_of(face)}"
            yield words, {"measure": "position", "between": [feature_document(feature), feature_document(face)]}
    for wall, feature in zip(walls, rounds, strict=True):
        if wall.is_hollow:
            yield f"Ø{2 * wall.radius:g} depth", {"measure": "depth", "of": feature_document(feature)}
    for one, other in itertools.combinations(rounds, 2):
        for axis in _AXES:
            words = f"Ø{2 * other.radius:g} from Ø{2 * one.radius:g} along {axis.upper()}"
            yield (
                words,
                {"measure": "position", "between": [feature_document(one), feature_document(other)], "axis": axis},
            )
    for k, face in enumerate(faces):
        for against in faces[:k]:
            if abs(float(face.normal @ against.normal)) > 1 - 1e-9:
                words = f"{side_of(face).capitalize()} to {side_of(against)}"
                yield words, {"measure": "length", "between": [feature_document(against), feature_document(face)]}
            else:
                words = f"Angle of the {side_of(face)}"
                yield words, {"measure": "angle", "between": [feature_document(against), feature_document(face)]}
    for chamfer in inventory_of(part, tolerance).chamfers:
        slant = part.surfaces[chamfer.surface]
        if isinstance(slant, Plane):
            of = feature_document(PlaneFeature(slant.point, slant.normal))
            yield f"Chamfer {chamfer.legs[0]:g}", {"measure": "chamfer", "of": of}
            yield "Angle of the chamfer", {"measure": "chamfer_angle", "of": of}
    for each in inventory_of(part, tolerance).fillets:
        surface = part.surfaces[each.surface]
        if isinstance(surface, Cylinder):
            feature = CylinderFeature(surface.point, surface.direction, surface.radius)
            yield f"Rounding R{each.radius:g}", {"measure": "radius", "of": feature_document(feature)}
