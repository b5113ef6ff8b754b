"""A sheet as SVG: lines by kind, dashes and letters as the standards ask; alike on pages, in files and in print."""

import math
from collections import defaultdict
from collections.abc import Mapping, Sequence
from html import escape

from rigid_bench.core.drawing.layout.paper import size_of
from rigid_bench.core.drawing.lettering import CAPITAL, SIGNS, font_size, text_width
from rigid_bench.core.drawing.report import LineReport, Point, SheetReport, TextReport
from rigid_bench.core.drawing.writers.dashes import Dashes, dashed

_INK = "#17242b"
#: Half the width of an arrow over its length: about 20 degrees in all.
_ARROW = 0.18
FONT = "Barlow"
#: mm of the margin that a trimmed sheet keeps.
_TRIM = 6.0


def sheet_svg(
    sheet: SheetReport,
    *,
    label: str,
    font: bytes | None = None,
    trimmed: bool = False,
    marks: Mapping[str, str] | None = None,
    over: str = "",
) -> str:
    """Write a sheet.

    Parameters
    ----------
    sheet
        What is drawn.
    label
        What a screen reader says.
    font
        The font's file as WOFF2, for a file that stands alone; None where the page has it.
    trimmed
        On a page the margin of the paper is left out, but for what the frame's marks need.
    marks
        By check: what the audit says of it, as the class `audit-...` of its dimension.
    over
        SVG that lies over the views and under the dimensions, in the same mm.

    Returns
    -------
    str
        SVG in mm; what belongs to a dimension is a group with its checks as `data-check`.
    """
    wide, high = size_of(sheet)
    checks = {report.id: report.checks for report in sheet.dimensions}
    loose = [line for line in sheet.lines if line.dimension is None]
    body = [_by_kind(loose, high)]
    body += [_text(text, high) for text in sheet.texts if text.dimension is None]
    body.append(over)
    body += _dimensions(sheet, checks, high, marks or {})
    left, low, right, top = (0.0, 0.0, wide, high)
    if trimmed:
        left, low, right, top = (end + way * _TRIM for end, way in zip(sheet.frame, (-1, -1, 1, 1), strict=True))
    seen = f"{left:g} {high - top:g} {right - left:g} {top - low:g}"
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="{seen}" width="{right - left:g}mm" '
        f'height="{top - low:g}mm" role="img" class="drawing-sheet" aria-label="{escape(label)}">'
        f"<title>{escape(label)}</title>{_style(font)}{''.join(body)}</svg>"
    )


def _style(font: bytes | None) -> str:
    if font is None:
        return ""
    import base64

    data = base64.b64encode(font).decode()
    return f"<style>@font-face{{font-family:{FONT};font-weight:500;src:url(data:font/woff2;base64,{data})}}</style>"


def _dimensions(
    sheet: SheetReport, checks: Mapping[str, Sequence[str]], high: float, marks: Mapping[str, str]
) -> list[str]:
    lines, texts = defaultdict(list), defaultdict(list)
    for line in sheet.lines:
        if line.dimension:
            lines[line.dimension].append(line)
    for text in sheet.texts:
        if text.dimension:
            texts[text.dimension].append(text)
    dimensions = []
    for report in sheet.dimensions:
        own = _by_kind(lines[report.id], high) + "".join(_text(text, high) for text in texts[report.id])
        named = " ".join(checks[report.id])
        audit = "".join(f" audit-{mark}" for mark in sorted({marks[own] for own in checks[report.id] if own in marks}))
        dimensions.append(
            f'<g class="dimension{audit}" data-dimension="{report.id}" data-check="{escape(named)}">{own}</g>'
        )
    return dimensions


def _by_kind(lines: Sequence[LineReport], high: float) -> str:
    """Write lines of one kind and cut as one path; arrows filled, hidden lines first and outlines last."""
    groups: dict[tuple[str, float, str], list[str]] = defaultdict(list)
    for line in lines:
        if line.kind == "arrow":
            groups[line.kind, line.width, ""].append(_arrow(line, high))
            continue
        for points, dashes in dashed(line.kind, line.points):
            groups[line.kind, line.width, _cut(dashes)].append(_path(points, high))
    elements = []
    for (kind, width, cut), paths in sorted(groups.items(), key=lambda group: (group[0][1], group[0][0] == "outline")):
        if kind == "arrow":
            elements.append(f'<path d="{"".join(paths)}" fill="{_INK}"/>')
            continue
        elements.append(
            f'<path class="drawn-{kind}" d="{"".join(paths)}" fill="none" stroke="{_INK}" stroke-width="{width:g}"'
            f'{cut} stroke-linecap="{"round" if kind == "outline" else "butt"}" stroke-linejoin="round"/>'
        )
    return "".join(elements)


def _cut(dashes: Dashes | None) -> str:
    """Write how lines are cut into dashes; nothing for those that are drawn through."""
    if dashes is None:
        return ""
    offset = f' stroke-dashoffset="{dashes.offset:g}"' if dashes.offset else ""
    return f' stroke-dasharray="{" ".join(f"{part:g}" for part in dashes.pattern)}"{offset}'


def _path(points: Sequence[Point], high: float) -> str:
    return "M" + "L".join(f"{x:.2f} {high - y:.2f}" for x, y in points)


def _arrow(line: LineReport, high: float) -> str:
    """Write an arrow from its back to its tip."""
    (ax, ay), (bx, by) = line.points[0], line.points[-1]
    x, y = (by - ay) * _ARROW, (ax - bx) * _ARROW
    return _path([[bx, by], [ax + x, ay + y], [ax - x, ay - y]], high) + "Z"


def _text(text: TextReport, high: float) -> str:
    """Write a text over its box; signs that no font has are drawn."""
    (x, y), (to_x, to_y) = text.corners[0], text.corners[1]
    size = font_size(text.height)
    turn = math.degrees(math.atan2(to_y - y, to_x - x))
    pieces, at = [], 0.0
    run = ""
    for letter in [*text.text, ""]:
        if letter and letter not in SIGNS:
            run += letter
            continue
        if run:
            pieces.append(
                f'<text x="{at:.2f}" y="0" font-family="{FONT}" font-weight="500" font-size="{size:.2f}" '
                f'fill="{_INK}" textLength="{max(text_width(run, text.height), 0.01):.2f}" '
                f'lengthAdjust="spacingAndGlyphs" xml:space="preserve">{escape(run)}</text>'
            )
            at += text_width(run, text.height)
            run = ""
        if letter:
            wide = text_width(letter, text.height)
            pieces.append(_sign(letter, at, wide, text.height))
            at += wide
    turned = f" rotate({-turn:.1f})" if abs(turn) > 0.01 else ""
    return f'<g transform="translate({x:.2f} {high - y:.2f}){turned}">{"".join(pieces)}</g>'


def _sign(letter: str, at: float, wide: float, high: float) -> str:
    """Draw a sign of ISO 129-1 into a box: counterbore, countersink, depth, square."""
    left, right, middle = at + 0.12 * wide, at + 0.88 * wide, at + 0.5 * wide
    top = -high
    d = {
        "⌴": f"M{left:.2f} {top:.2f}V0H{right:.2f}V{top:.2f}",
        "⌵": f"M{left:.2f} {top:.2f}L{middle:.2f} 0L{right:.2f} {top:.2f}",
        "↧": f"M{left:.2f} {top:.2f}H{right:.2f}M{middle:.2f} {top:.2f}V0"
        f"M{middle - 0.2 * wide:.2f} {0.4 * top:.2f}L{middle:.2f} 0L{middle + 0.2 * wide:.2f} {0.4 * top:.2f}",
        "▷": f"M{left:.2f} {0.85 * top:.2f}L{right:.2f} {0.5 * top:.2f}L{left:.2f} {0.15 * top:.2f}Z",
        "□": f"M{left:.2f} {top:.2f}H{right:.2f}V0H{left:.2f}Z",
    }[letter]
    return f'<path d="{d}" fill="none" stroke="{_INK}" stroke-width="{max(0.2, high * (1 - CAPITAL) / 4):.2f}"/>'
