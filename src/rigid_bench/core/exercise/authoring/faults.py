"""Faults of a sheet that no drawing rule finds: what cannot be made, or will not work. Advice, before release.

Values of the trade are common practice, no source.
"""

from collections.abc import Iterator, Sequence

from rigid_bench.core.assembly.contact.clearance import clearances, place
from rigid_bench.core.assembly.contact.contacts import find_contacts
from rigid_bench.core.drawing.audit.unknowns import is_one
from rigid_bench.core.exercise.authoring.bought_in import bought_in_faults
from rigid_bench.core.exercise.authoring.process_advice import process_advice
from rigid_bench.core.exercise.bundle import CheckModel, Exercise, PartModel, features_of
from rigid_bench.core.exercise.references import read_reference
from rigid_bench.core.measurement.feature_measures import edge_distance
from rigid_bench.core.measurement.measure_request import Request
from rigid_bench.core.part.faces import Plane
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.part.recognition.inventory import inventory_of
from rigid_bench.core.registration.correspond import RegisteredPart
from rigid_bench.core.values.datums import CylinderFeature, PlaneFeature
from rigid_bench.core.values.tolerance import Tolerance
from rigid_bench.core.wording.language import _

#: mm, the thinnest wall that a process makes.
LEAST_WALL = {"printed": 1.2, "vacuum formed": 1.0, "milled": 2.0, "turned": 2.0, "sawn": 2.0}
#: A hole's middle stays so many diameters from an edge.
EDGE = 1.5
#: Processes in which parts of equal sizes do not go together: they need a gap.
_NEED_A_GAP = ("printed", "sawn", "laser cut")
#: mm: less is no gap.
_NO_GAP = 1e-3


def find_faults(exercise: Exercise, *, tolerance: Tolerance) -> list[str]:
    """Return what is likely to be wrong with an exercise, each with what to do.

    Parameters
    ----------
    exercise
        With its reference models.
    tolerance
        For reading features and contacts.
    """
    parts = {part.id: part for part in exercise.model.parts if part.file}
    shapes = {name: read_reference(exercise, part, tolerance=tolerance) for name, part in parts.items()}
    faults = [fault for name, part in parts.items() for fault in _of_part(part, shapes[name], exercise, tolerance)]
    return faults + _of_fits(exercise, parts, shapes, tolerance)


def _of_part(part: PartModel, shape: PartFeatures, exercise: Exercise, tolerance: Tolerance) -> list[str]:
    mm, checks = exercise.mm, exercise.model.checks
    if part.origin == "bought":
        return list(bought_in_faults(part, shape, mm=mm))
    if part.origin != "made":
        return []
    faults = [*process_advice(part, shape, mm=mm, tolerance=tolerance), *_unsaid(part, shape, checks, mm, tolerance)]
    least = LEAST_WALL.get(part.process or "", 0.0)
    wall = inventory_of(shape, tolerance).least_wall
    if wall is not None and wall.thickness < least - _NO_GAP:
        faults.append(
            _(
                "{name}: a wall of {thickness:.3g} is thinner than what is {process} ({least:.3g} at least). Make it "
                "thicker, or choose another process.",
                name=part.name,
                thickness=wall.thickness / mm,
                process=part.process,
                least=least / mm,
            )
        )
    registered = RegisteredPart.over_itself(shape)
    for hole in inventory_of(shape, tolerance).holes:
        own = hole.cylinder
        feature = CylinderFeature(own.point, own.direction, own.radius)
        away = edge_distance(registered, Request(measure="edge_distance", features=(feature,), where=part.id))
        if away is not None and away < 2 * EDGE * own.radius - _NO_GAP:
            faults.append(
                _(
                    "{name}: the hole Ø{diameter:.4g} is {away:.3g} from an edge; {usual:.3g} is usual, {ratio:g} "
                    "diameters. Move it in, or make it smaller.",
                    name=part.name,
                    diameter=2 * own.radius / mm,
                    away=away / mm,
                    usual=2 * EDGE * own.radius / mm,
                    ratio=EDGE,
                )
            )
    return faults


def _unsaid(
    part: PartModel, shape: PartFeatures, checks: Sequence[CheckModel], mm: float, tolerance: Tolerance
) -> Iterator[str]:
    """A width of a regular polygon says that it is across its flats."""
    sides = {k for polygon in inventory_of(shape, tolerance).polygons for k in polygon.walls}
    flats = [surface for k, surface in enumerate(shape.surfaces) if k in sides and isinstance(surface, Plane)]
    for check in checks:
        if check.fields.get("part") != part.id or check.fields.get("measure") != "length":
            continue
        ends = features_of(check, mm)
        on_sides = [any(is_one(end, PlaneFeature(flat.point, flat.normal)) for flat in flats) for end in ends]
        if on_sides and all(on_sides) and "flat" not in check.title.lower():
            yield (
                _(
                    "{name}: {title} is the width of a regular polygon and does not say across what. Call it "
                    "across flats, or ask the measure across_flats.",
                    name=part.name,
                    title=check.title,
                )
            )


def _of_fits(
    exercise: Exercise, parts: dict[str, PartModel], shapes: dict[str, PartFeatures], tolerance: Tolerance
) -> list[str]:
    """Round parts in holes of their own size, where the process needs a gap; and overlaps that nobody declared."""
    reference = exercise.reference
    if reference is None:
        return []
    placed = [instance for instance in reference.instances if instance.part in shapes]
    faults = []
    for contact in find_contacts([(shapes[instance.part], instance.pose) for instance in placed], tolerance=tolerance):
        sides = [parts[placed[index].part] for index in (contact.a, contact.b)]
        needy = [side for side in sides if side.process in _NEED_A_GAP]
        if contact.kind == "seated" and abs(contact.gap_mm) < _NO_GAP and needy:
            names = " and ".join(side.name for side in sides)
            faults.append(
                _(
                    "{names}: a hole and a round part of one size; {process} parts need a gap. Give one of them some.",
                    names=names,
                    process=needy[0].process,
                )
            )
    declared = {
        frozenset((expected_pair["a"], expected_pair["b"]))
        for check in exercise.model.checks
        if check.kind == "interference"
        for expected_pair in check.fields.get("expected") or []
    }
    solids = [place(instance.id, shapes[instance.part], instance.pose) for instance in placed]
    for pair in clearances(solids, tolerance=tolerance):
        if pair.state == "interfering" and frozenset((pair.a, pair.b)) not in declared:
            names = " and ".join(exercise.instance_name(instance) for instance in (pair.a, pair.b))
            faults.append(
                _(
                    "{names} overlap in the model by {overlap_mm3:.3g} mm³. Move them, or declare it as meant.",
                    names=names,
                    overlap_mm3=pair.overlap_mm3,
                )
            )
    return list(dict.fromkeys(faults))
