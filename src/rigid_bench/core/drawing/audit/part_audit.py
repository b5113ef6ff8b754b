"""Do the dimensions fix the part? What is still free is missing from the sheet; what adds nothing is given twice.

The offsets, positions, radii and slants of a part's features are unknowns; each dimension is one
equation among their small changes. By the rules of drawing, what is drawn square, parallel,
tangent, on one axis or in one plane is so without a dimension (ISO 129-1; from memory), and so
are equal roundings and chamfers, drill tips, and what the exercise says is symmetric.
"""

from collections.abc import Iterator, Sequence

import numpy as np

from rigid_bench.core.drawing.audit.drawing_rows import DrawingRows
from rigid_bench.core.drawing.audit.size_equations import (
    FIXES_NOTHING,
    CheckEquations,
    PartAudit,
    PartEquations,
    Row,
    audit_equations,
    equation_key,
)
from rigid_bench.core.exercise.bundle import CheckModel, PartModel, features_of
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.values.datums import PlaneFeature


def audit_part(part: PartFeatures, model: PartModel, checks: Sequence[CheckModel], *, mm: float) -> PartAudit:
    """Say whether the dimensions of a part fix every size and position of it.

    Parameters
    ----------
    part
        The reference.
    model
        Its entry in the exercise.
    checks
        All checks of the exercise; those of other parts are passed over. A value that is *assumed* is not on
        the sheet, an *auxiliary* one follows from others: they fix nothing; one that is *free* needs no dimension.
    mm
        Millimetres in the exercise's unit.

    Returns
    -------
    PartAudit
    """
    return audit_equations(equations_of(part, model, checks, mm=mm), model.id, checks)


def equations_of(part: PartFeatures, model: PartModel, checks: Sequence[CheckModel], *, mm: float) -> PartEquations:
    """Return what an audit of a part needs of its model: unknowns, and what the drawing and each check say of them.

    Parameters are those of `audit_part`.
    """
    unknowns = DrawingRows(part)
    own = [check for check in checks if check.fields.get("part") == model.id]
    return PartEquations(
        unknowns=tuple(unknowns.all),
        gauge=unknowns.gauge,
        drawn=(*unknowns.tangencies(), *_symmetries(unknowns, model, mm)),
        alike=tuple(unknowns.equal_treatments()),
        said={
            equation_key(check): CheckEquations(
                rows=tuple(rows_of(unknowns, check, mm)) if check.kind == "dimension" else (),
                beside=tuple(_said_beside(unknowns, [check], mm)),
                is_through=_says_through(unknowns, check, mm),
            )
            for check in own
        },
    )


def _says_through(unknowns: DrawingRows, check: CheckModel, mm: float) -> bool:
    return check.fields.get("measure") == "depth" and any(map(unknowns.is_through, features_of(check, mm)))


def said_rows(unknowns: DrawingRows, model: PartModel, checks: Sequence[CheckModel], mm: float) -> Iterator[Row]:
    """Yield all that an exercise says of a part: what is drawn so, its dimensions, and what they say beside."""
    own = [check for check in checks if check.fields.get("part") == model.id]
    yield from unknowns.tangencies()
    yield from _symmetries(unknowns, model, mm)
    for check in own:
        if check.kind == "dimension" and check.fields.get("value") not in FIXES_NOTHING:
            yield from rows_of(unknowns, check, mm)
    yield from _said_beside(unknowns, own, mm)
    yield from unknowns.equal_treatments()


def _said_beside(unknowns: DrawingRows, own: Sequence[CheckModel], mm: float) -> Iterator[Row]:
    """Yield what counts, hole tables and threads say without being dimensions of one feature."""
    for check in own:
        yield from counted_rows(unknowns, check, mm)
        yield from _tabled(unknowns, check, mm)
        yield from _threaded(unknowns, check, mm)


def rows_of(unknowns: DrawingRows, check: CheckModel, mm: float) -> list[Row]:
    """Return the equations of one dimension; empty where its measure ties no single feature."""
    measure, axis = check.fields.get("measure"), check.fields.get("axis")
    features = features_of(check, mm)
    if measure == "extent":
        return _known(unknowns.extent("xyz".index(str(axis)))) if axis in ("x", "y", "z") else []
    if measure in ("diameter", "radius") and len(features) == 1:
        return _known(unknowns.radius(features[0]))
    if measure == "depth" and len(features) == 1:
        return _known(unknowns.depth(features[0]))
    if measure in ("pitch_circle", "pitch") and len(features) == 1:
        return unknowns.pattern(features[0], is_circle=measure == "pitch_circle")
    if measure in ("chamfer", "chamfers", "fillets") and len(features) == 1:
        return _known(unknowns.treatment(features[0]))
    if measure == "chamfer_angle" and len(features) == 1:
        return _known(unknowns.treatment(features[0], is_angle=True))
    if measure in ("sphere_diameter", "tube_radius", "cone_angle") and len(features) == 1:
        return _known(unknowns.round_size(features[0]))
    if measure in ("countersink_diameter", "countersink_angle") and len(features) == 1:
        return _known(unknowns.countersink(features[0], is_angle=measure == "countersink_angle"))
    if measure == "edge_distance" and len(features) == 1:
        return _known(unknowns.edge_distance(features[0]))
    if measure == "across_flats" and len(features) == 1:
        return unknowns.polygon(features[0])
    if len(features) != 2:
        return []
    if measure == "corner":
        return _known(unknowns.corner_distance(*features))
    if measure == "angle":
        return _known(unknowns.angle(*features))
    if measure in ("length", "thickness", "depth", "position", "across_flats"):
        return _known(unknowns.distance(*features, axis=str(axis) if axis else None))
    return []


def _known(row: Row | None) -> list[Row]:
    return [] if row is None or not np.any(row) else [row]


def counted_rows(unknowns: DrawingRows, check: CheckModel, mm: float) -> list[Row]:
    """Return the rows of "4 x": holes that are counted by their diameter have one diameter."""
    features = features_of(check, mm)
    if check.kind != "dimension" or check.fields.get("measure") not in ("count", "pattern_count") or not features:
        return []
    return unknowns.same_holes(features[0])


def _tabled(unknowns: DrawingRows, check: CheckModel, mm: float) -> list[Row]:
    """Return the rows of a hole table: diameter, depth and place of each of its holes."""
    if check.kind != "holes":
        return []
    rows: list[Row] = []
    for hole in check.fields.get("holes") or []:
        if isinstance(hole, dict) and isinstance(hole.get("diameter"), int | float):
            rows += unknowns.holes_of(float(hole["diameter"]) * mm)
    return rows


def _threaded(unknowns: DrawingRows, check: CheckModel, mm: float) -> list[Row]:
    """Return the rows of a thread: its designation says the diameter of the wall, its depth the least of the hole."""
    if check.kind != "thread":
        return []
    (feature,) = features_of(check, mm)
    return _known(unknowns.radius(feature))


def _symmetries(unknowns: DrawingRows, model: PartModel, mm: float) -> list[Row]:
    rows: list[Row] = []
    for feature in model.symmetric:
        plane = feature.feature(mm=mm)
        if isinstance(plane, PlaneFeature):
            rows += unknowns.mirrored(plane)
    return rows
