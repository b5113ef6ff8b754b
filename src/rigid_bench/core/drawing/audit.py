"""Do the dimensions fix the part? What is still free is missing from the sheet; what adds nothing is given twice.

The offsets, positions, radii and slants of a part's features are unknowns; each dimension is one
equation among their small changes. By the rules of drawing, what is drawn square, parallel,
tangent, on one axis or in one plane is so without a dimension (ISO 129-1; from memory), and so
are equal roundings and chamfers, drill tips, and what the exercise says is symmetric.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.drawing.drawing_rows import DrawingRows
from rigid_bench.core.drawing.unknowns import Row, Unknown
from rigid_bench.core.exercise.bundle import CheckModel, PartModel, features_of
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.values.datums import PlaneFeature

_Array = NDArray[np.float64]
#: A row that is nearer to the others' span than this share of its length adds nothing.
_NOTHING = 1e-7
#: Values that fix no size.
_FIXES_NOTHING = ("assumed", "auxiliary")
#: Measures that are notes on a drawing and no sizes: how many walls a hole goes through.
_NOTES = ("pierces",)


@dataclass(frozen=True, slots=True, kw_only=True)
class Missing:
    """A size or place that no dimension gives."""

    unknown: Unknown
    #: (3,) the way in which the feature is free.
    direction: _Array


@dataclass(frozen=True, slots=True, kw_only=True)
class PartAudit:
    """What the dimensions of one part fix."""

    missing: tuple[Missing, ...]
    #: Ids of checks that say again what others say already.
    redundant: tuple[str, ...]
    #: Ids of checks whose measure ties no single feature, such as a volume.
    without_tie: tuple[str, ...]

    @property
    def complete(self) -> bool:
        """Every size and position follows from the dimensions."""
        return not self.missing


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
    unknowns = DrawingRows(part)
    known = Span(unknowns.gauge)
    for row in [*unknowns.tangencies(), *_symmetries(unknowns, model, mm)]:
        known.add(row)
    redundant, without = [], []
    own = [check for check in checks if check.fields.get("part") == model.id]
    for check in own:
        if check.kind != "dimension" or check.fields.get("value") in _FIXES_NOTHING:
            continue
        added = [known.add(row) for row in rows_of(unknowns, check, mm)]
        if not added and check.fields.get("measure") not in _NOTES:
            without.append(check.id)
        elif added and not any(added) and not _says_through(unknowns, check, mm):
            redundant.append(check.id)
    for row in _said_beside(unknowns, own, mm):
        known.add(row)
    return PartAudit(missing=tuple(_missing(unknowns, known)), redundant=tuple(redundant), without_tie=tuple(without))


def _says_through(unknowns: DrawingRows, check: CheckModel, mm: float) -> bool:
    return check.fields.get("measure") == "depth" and any(map(unknowns.is_through, features_of(check, mm)))


def said_rows(unknowns: DrawingRows, model: PartModel, checks: Sequence[CheckModel], mm: float) -> Iterator[Row]:
    """Yield all that an exercise says of a part: what is drawn so, its dimensions, and what they say beside."""
    own = [check for check in checks if check.fields.get("part") == model.id]
    yield from unknowns.tangencies()
    yield from _symmetries(unknowns, model, mm)
    for check in own:
        if check.kind == "dimension" and check.fields.get("value") not in _FIXES_NOTHING:
            yield from rows_of(unknowns, check, mm)
    yield from _said_beside(unknowns, own, mm)


def _said_beside(unknowns: DrawingRows, own: Sequence[CheckModel], mm: float) -> Iterator[Row]:
    """Yield what counts, hole tables and equal roundings say without being dimensions of one feature."""
    for check in own:
        yield from counted_rows(unknowns, check, mm)
        yield from _tabled(unknowns, check, mm)
        yield from _threaded(unknowns, check, mm)
    yield from unknowns.equal_treatments()


class Span:
    """The span of the rows so far, within what moves no feature against another."""

    def __init__(self, gauge: _Array) -> None:
        # columns of the gauge that are no motion of any feature are dropped
        keep = np.abs(gauge).sum(axis=0) > 0
        self.gauge = np.linalg.qr(gauge[:, keep])[0]
        self.basis = np.zeros((gauge.shape[0], 0))

    def add(self, row: Row) -> bool:
        """Take a row in; say whether it adds anything."""
        rest = row - self.gauge @ (self.gauge.T @ row)
        length = float(np.linalg.norm(row))
        if length == 0:
            return False
        for _ in range(2):  # twice is enough (W. Kahan, by B. Parlett, The Symmetric Eigenvalue Problem, 6.9)
            rest = rest - self.basis @ (self.basis.T @ rest)
        left = float(np.linalg.norm(rest))
        if left < _NOTHING * length:
            return False
        self.basis = np.column_stack([self.basis, rest / left])
        return True

    @property
    def is_full(self) -> bool:
        """Nothing is free any more."""
        return bool(self.gauge.shape[1] + self.basis.shape[1] == self.gauge.shape[0])

    def free(self) -> _Array:
        """Return the projection onto what is still free, (n, n)."""
        fixed = np.column_stack([self.gauge, self.basis])
        projection: _Array = np.eye(len(fixed)) - fixed @ fixed.T
        return projection


def _missing(unknowns: DrawingRows, known: Span) -> list[Missing]:
    """Name one unknown for each way that is left free: the one that goes most with it, the smallest feature first."""
    missing: list[Missing] = []
    free = known.free()
    for _ in range(round(float(np.trace(free)))):
        share = np.sqrt(np.maximum(np.diag(free), 0.0))
        best = max(range(len(share)), key=lambda k: (round(float(share[k]), 3), -unknowns.all[k].area))
        unknown = unknowns.all[best]
        missing.append(Missing(unknown=unknown, direction=unknown.direction))
        way = free[:, best] / share[best]
        free = free - np.outer(way, way)
    return missing


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
