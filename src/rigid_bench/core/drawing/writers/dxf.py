"""A sheet as DXF, 1:1 on paper: layers by kind of line, sizes as real dimensions, so that a class can go on with it."""

import io
import math
from collections import defaultdict
from collections.abc import Sequence
from typing import TYPE_CHECKING

from rigid_bench.core.drawing.report import LineReport, Point, SheetReport, TextReport
from rigid_bench.core.standards.scales import scale_of

if TYPE_CHECKING:
    from ezdxf.document import Drawing
    from ezdxf.layouts.layout import Modelspace

#: Line types of the DXF library by kind; all others are continuous.
_TYPES = {
    "hidden": "DASHED", "centre": "CENTER", "pitch": "CENTER", "cutting": "DASHDOT", "phantom": "PHANTOM",
    "trail": "CENTER",
}  # fmt: skip
_STYLE, _FONT = "SHEET", "Barlow-Medium.ttf"
_LEVEL = 1e-6


def sheet_dxf(sheet: SheetReport) -> bytes:
    """Write a sheet as DXF, mm."""
    from ezdxf import units
    from ezdxf.filemanagement import new

    document = new("R2010", setup=True)
    document.units = units.MM
    document.styles.add(_STYLE, font=_FONT)
    for kind in sorted({line.kind for line in sheet.lines} | {"text"}):
        layer = document.layers.add(kind.upper(), linetype=_TYPES.get(kind, "CONTINUOUS"))
        layer.dxf.lineweight = 50 if kind in ("outline", "frame") else 25
    space = document.modelspace()
    real = _put_dimensions(document, space, sheet)
    for line in sheet.lines:
        if line.dimension not in real or line.kind == "centre":
            space.add_lwpolyline(line.points, dxfattribs={"layer": line.kind.upper()})
    for text in sheet.texts:
        if text.dimension not in real:
            _put_text(space, text)
    written = io.StringIO()
    document.write(written)
    return written.getvalue().encode()


def _put_text(space: "Modelspace", text: TextReport) -> None:
    (x, y), (to_x, to_y) = text.corners[0], text.corners[1]
    turn = math.degrees(math.atan2(to_y - y, to_x - x))
    attributes = {"layer": "TEXT", "style": _STYLE, "height": text.height, "rotation": turn}
    space.add_text(text.text, dxfattribs=attributes).set_placement((x, y))


def _put_dimensions(document: "Drawing", space: "Modelspace", sheet: SheetReport) -> set[str]:
    """Write sizes along a line as dimensions; return the ids of those that were."""
    scales = {view.id: scale_of(view.scale) for view in sheet.views}
    lines: dict[str, list[LineReport]] = defaultdict(list)
    for line in sheet.lines:
        if line.dimension:
            lines[line.dimension].append(line)
    done = set()
    for report in sheet.dimensions:
        own = lines[report.id]
        arrows = [line.points[-1] for line in own if line.kind == "arrow"]
        if len(arrows) != 2 or not any(line.kind == "dimension" for line in own) or report.view is None:
            continue
        is_level = abs(arrows[0][1] - arrows[1][1]) < _LEVEL
        feet = [_foot(tip, own, is_level=is_level) for tip in arrows]
        text = next(text for text in sheet.texts if text.dimension == report.id)
        space.add_linear_dim(
            base=arrows[0], p1=feet[0], p2=feet[1], angle=0 if is_level else 90, text=report.text,
            location=_middle(text.corners),
            dxfattribs={"layer": "DIMENSION"},
            override={
                "dimtxt": text.height, "dimasz": 3.0, "dimexe": 2.0, "dimexo": 1.0, "dimtxsty": _STYLE, "dimtmove": 2,
                "dimlfac": 1 / scales[report.view],
            },
        ).render()  # fmt: skip
        done.add(report.id)
    return done


def _middle(corners: Sequence[Point]) -> tuple[float, float]:
    return sum(x for x, _ in corners) / 4, sum(y for _, y in corners) / 4


def _foot(tip: Point, lines: Sequence[LineReport], *, is_level: bool) -> tuple[float, float]:
    """Return where the extension line of an arrow begins at the part."""
    k = 0 if is_level else 1
    own = [line for line in lines if line.kind in ("extension", "centre") and abs(line.points[0][k] - tip[k]) < 1e-3]
    points = [point for line in own for point in line.points]
    far = max(points, key=lambda point: math.dist(point, tip), default=tip)
    return far[0], far[1]
