"""Counts faults of drawings from their report alone: what lies on what, what is missing."""

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass, fields

import shapely

from rigid_bench.core.drawing.report import DrawingReport, LineReport, SheetReport

#: Kinds of line that a text must keep clear of.
_INK = {"outline", "hidden", "centre", "pitch", "dimension", "extension", "leader", "arrow", "hatching", "cutting",
        "frame", "table", "balloon"}  # fmt: skip
#: mm by which a text's box is drawn in before it is asked: its letters do not fill it.
_SLACK = 0.15


@dataclass(slots=True)
class Faults:
    """What is wrong with drawings, and how much there is of them."""

    dimensions: int = 0
    texts_on_lines: int = 0
    texts_on_texts: int = 0
    leaders_crossing: int = 0
    holes_without_centre: int = 0
    checks_not_shown: int = 0
    twice: int = 0
    crossings: int = 0

    def __add__(self, other: "Faults") -> "Faults":
        return Faults(*(getattr(self, own.name) + getattr(other, own.name) for own in fields(self)))


def faults_of(report: DrawingReport, required: Sequence[str]) -> Faults:
    """Count the faults of all sheets.

    Parameters
    ----------
    report
        What is drawn.
    required
        Ids of the checks that must stand on a sheet.
    """
    faults = Faults()
    for sheet in report.sheets:
        faults += _faults(sheet)
    shown = [check for sheet in report.sheets for own in sheet.dimensions for check in own.checks]
    faults.checks_not_shown = len(set(required) - set(shown))
    faults.twice = sum(shown.count(check) > 1 for check in set(shown))
    return faults


def _faults(sheet: SheetReport) -> Faults:
    lines = [(line, shapely.LineString(line.points)) for line in sheet.lines if line.kind in _INK]
    tree = shapely.STRtree([geometry for _, geometry in lines])
    boxes = [shapely.Polygon(text.corners).buffer(-_SLACK) for text in sheet.texts]
    faults = Faults(dimensions=len(sheet.dimensions))
    for text, box in zip(sheet.texts, boxes, strict=True):
        met = [lines[k][0] for k in tree.query(box, predicate="intersects")]
        faults.texts_on_lines += any(not (text.role == "balloon" and line.kind == "balloon") for line in met)
    faults.texts_on_texts = sum(a.intersects(b) for a, b in itertools.combinations(boxes, 2))
    leaders = [pair for pair in lines if pair[0].kind == "leader"]
    faults.leaders_crossing = sum(
        one.crosses(two) for (a, one), (b, two) in itertools.combinations(leaders, 2) if a.dimension != b.dimension
    )
    faults.crossings = _crossings(lines)
    faults.holes_without_centre = sum(
        not _has_centre(feature.centre, sheet, feature.view) for feature in sheet.features if feature.kind == "hole"
    )
    return faults


def _crossings(lines: Sequence[tuple[LineReport, shapely.LineString]]) -> int:
    sizes = [pair for pair in lines if pair[0].kind == "dimension"]
    beside = [pair for pair in lines if pair[0].kind == "extension"]
    return sum(
        one.crosses(two) for (a, one), (b, two) in itertools.product(sizes, beside) if a.dimension != b.dimension
    )


def _has_centre(centre: Sequence[float], sheet: SheetReport, view: str) -> bool:
    point = shapely.Point(centre)
    return any(
        line.kind == "centre" and line.view == view and shapely.LineString(line.points).distance(point) < 0.1
        for line in sheet.lines
    )


def share_in_use(sheet: SheetReport) -> float:
    """Return the share of the frame's area that boxes of views with all that belongs to them, and the block, take."""
    left, low, right, high = sheet.frame
    frame = shapely.box(left, low, right, high)
    taken = []
    for view in sheet.views:
        points = [point for line in sheet.lines if line.view == view.id for point in line.points]
        points += [corner for text in sheet.texts if text.view == view.id for corner in text.corners]
        taken.append(shapely.box(*shapely.MultiPoint(points).buffer(3.0).bounds))
    own = [line.points for line in sheet.lines if line.view is None and line.kind == "table"]
    if own:
        taken.append(shapely.MultiPoint([point for line in own for point in line]).envelope.buffer(1.0))
    return float(shapely.union_all(taken).intersection(frame).area / frame.area) if taken else math.nan
