"""Worked examples of dimensioning, drawn again and compared point by point.

The figures for chain, parallel and running dimensioning of ISO 129-1 show features at 150, 420 and 640 from one edge;
what they show is told from memory.
"""

import itertools
import json
import math
from functools import cache

import pytest
from build123d import Align, Box, Cylinder, Pos

from rigid_bench.core.drawing.report import LineReport, SheetReport
from rigid_bench.core.exercise.authoring.dimension_order import reordered
from rigid_bench.core.exercise.authoring.propose import propose
from rigid_bench.core.standards.scales import scale_of
from rigid_bench.demo.modelling import json_bytes, step_bytes
from tests.core.drawing.drawn_parts import read, sheets
from tests.support.shapes import TOLERANCE

PLACES = (150.0, 420.0, 640.0)


@cache
def sheet(how: str) -> SheetReport:
    """Draw a plate with its holes given from the left edge: "parallel", "running" or in a "chain"."""
    plate = Box(700, 120, 10, align=(Align.MIN,) * 3)
    for place in PLACES:
        plate -= Pos(place, 60, 0) * Cylinder(20, 60)
    files = propose(step_bytes(plate, "P"), name="p.step", title="P", tolerance=TOLERANCE)
    document = json.loads(files["exercise.json"])
    for check in document["checks"]:
        hole, face = check.get("between", ({}, {}))
        if abs(face.get("plane", {"normal": [0]})["normal"][0]) == 1:
            face["plane"] = {"point": [0, 60, 5], "normal": [-1, 0, 0]}
            check["nominal"] = hole["cylinder"]["point"][0]
    if how == "chain":
        document["checks"] = reordered(document["checks"], "p", "chain")
    else:
        document["drawing"] = {"arrangement": how}
    return sheets(read({**files, "exercise.json": json_bytes(document)}))[0]


def lines(drawn: SheetReport, text: str, kind: str) -> list[LineReport]:
    """List the lines of a kind that belong to the dimension with a text."""
    (own,) = [dimension.id for dimension in drawn.dimensions if dimension.text == text]
    return [line for line in drawn.lines if line.dimension == own and line.kind == kind]


def at(drawn: SheetReport, place: float) -> float:
    """Return where a place of the plate lies across the paper, mm."""
    return drawn.views[0].origin[0] + place * scale_of(drawn.scale)


def spans(drawn: SheetReport, texts: list[str]) -> list[tuple[float, float, float]]:
    """Return the left end, the right end and the level of each dimension line, between its arrows' tips."""
    differing = []
    for text in texts:
        tips = [arrow.points[-1] for arrow in lines(drawn, text, "arrow")]
        assert len({round(y, 3) for _, y in tips}) == 1
        differing.append((min(x for x, _ in tips), max(x for x, _ in tips), tips[0][1]))
    return differing


def test_parallel_dimensioning_has_a_line_each_from_one_datum_the_shorter_inside() -> None:
    drawn = sheet("parallel")
    own = spans(drawn, ["150", "420", "640", "700"])
    for (left, right, _), place in zip(own, (*PLACES, 700.0), strict=True):
        assert (left, right) == pytest.approx((at(drawn, 0), at(drawn, place)), abs=0.01)
    for side in (1, -1):
        box = drawn.views[0].box
        off = [side * (level - box[3 if side == 1 else 1]) for *_, level in own]
        beside = [distance for distance in off if distance > 0]
        assert beside == sorted(beside)
        assert all(b - a >= 7 for a, b in itertools.pairwise(beside))


def test_running_dimensioning_has_one_line_an_origin_and_an_arrow_for_each() -> None:
    drawn = sheet("running")
    levels = set()
    for text, place in zip(("150", "420", "640"), PLACES, strict=True):
        (arrow,) = lines(drawn, text, "arrow")
        assert arrow.points[-1][0] == pytest.approx(at(drawn, place), abs=0.01)
        assert arrow.points[0][0] < arrow.points[-1][0]  # away from the origin
        levels.add(round(arrow.points[-1][1], 3))
        (written,) = [own for own in drawn.texts if own.text == text]
        middle = sum(x for x, _ in written.corners) / 4
        assert abs(middle - at(drawn, place)) < 15  # near its arrow
    assert len(levels) == 1
    rings = [ring for text in ("150", "420", "640") for ring in lines(drawn, text, "symbol")]
    (ring,) = rings
    centre = [sum(point[k] for point in ring.points[:-1]) / (len(ring.points) - 1) for k in (0, 1)]
    assert centre == pytest.approx([at(drawn, 0), levels.pop()], abs=0.01)
    assert all(math.dist(point, centre) == pytest.approx(1.0, abs=0.01) for point in ring.points)


def test_chain_dimensioning_joins_end_to_end_on_one_line() -> None:
    drawn = sheet("chain")
    own = spans(drawn, ["150", "270", "220"])
    places = (0.0, *PLACES)
    for (left, right, _), ends in zip(own, itertools.pairwise(places), strict=True):
        assert (left, right) == pytest.approx([at(drawn, end) for end in ends], abs=0.01)
    assert len({round(level, 3) for *_, level in own}) == 1


@pytest.mark.parametrize("how", ["parallel", "running", "chain"])
def test_holes_on_one_line_share_their_centre_line_which_passes_the_outline(how: str) -> None:
    """ISO 128-2: chain narrow, a little past what it belongs to; an extension line goes on from it."""
    drawn = sheet(how)
    left, low, _, high = drawn.views[0].box
    level = (low + high) / 2
    along = [
        line for line in drawn.lines
        if line.kind == "centre" and all(abs(y - level) < 0.01 for _, y in line.points)
    ]  # fmt: skip
    ends = [x for line in along for x, _ in line.points]
    for place in PLACES:
        reach = 20 * scale_of(drawn.scale)
        assert any(
            min(x for x, _ in line.points) < at(drawn, place) - reach
            and max(x for x, _ in line.points) > at(drawn, place) + reach
            for line in along
        )
    assert min(ends) >= left - 5
