"""A view with its dimensions as SVG, in mm on paper, its attributes literal so that it prints anywhere."""

import math
from collections.abc import Sequence

from markupsafe import Markup

from rigid_bench.core.drawing.dimension_layout import TEXT, DrawnDimension, DrawnView
from rigid_bench.core.formats.pictures import Polyline, ViewModel
from rigid_bench.web.figures.svg import element, n

_INK, _SOFT = "#17242b", "#56606a"
#: mm on paper: widths of lines (ISO 128-2: thick twice as wide as thin), length and half width of an arrow.
_THICK, _THIN, _ARROW, _WIDE = 0.5, 0.25, 3.0, 0.55


def drawing_svg(view: ViewModel, drawn: DrawnView, *, scale: float, label: str, blanks: bool = False) -> Markup:
    """Draw a view with its dimensions.

    Parameters
    ----------
    view
        Polylines in mm, y upwards.
    drawn
        Its dimensions, mm on paper.
    scale
        mm on paper for one in nature.
    label
        What a screen reader says.
    blanks
        Rules to write on stand in the place of the values.
    """
    (left, bottom), (right, top) = view.box
    before, below, after, above = (each + 1.0 for each in drawn.reach)
    width, height = (right - left) * scale + before + after, (top - bottom) * scale + below + above

    def place(x: float, y: float) -> tuple[float, float]:
        return x + before, height - below - y

    def path(lines: Sequence[Polyline], factor: float = 1.0, x0: float = 0.0, y0: float = 0.0) -> str:
        pieces = ([place((x - x0) * factor, (y - y0) * factor) for x, y in line] for line in lines)
        return "".join("M" + "L".join(f"{n(x)} {n(y)}" for x, y in piece) for piece in pieces)

    body = [
        element("path", d=path(view.hidden, scale, left, bottom), fill="none", stroke=_SOFT, stroke_width=_THIN,
                stroke_dasharray="2 1"),
        element("path", d=path(view.visible, scale, left, bottom), fill="none", stroke=_INK, stroke_width=_THICK,
                stroke_linecap="round"),
    ]  # fmt: skip
    for each in drawn.dimensions:
        lines = element("path", d=path([each.line, *each.extensions]), fill="none", stroke=_INK, stroke_width=_THIN)
        arrows = Markup("").join(_arrow(*place(x, y), dx, -dy) for x, y, dx, dy in each.arrows)
        body.append(element("g", lines + arrows + _text(each, *place(*each.at), blanks), data_check=each.check))
    return Markup(
        '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {w} {h}" width="{w}mm" height="{h}mm" role="img" '
        'aria-label="{label}" class="drawing-view"><title>{label}</title>{body}</svg>'
    ).format(w=n(width), h=n(height), label=label, body=Markup("").join(body))


def _text(drawn: DrawnDimension, x: float, y: float, blanks: bool) -> Markup:
    turn = {"transform": f"rotate(-90 {n(x)} {n(y)})"} if drawn.upright else {}
    if blanks:
        return element("path", d=f"M{n(x - 7)} {n(y + 1)}h14", stroke=_INK, stroke_width=_THIN, **turn)
    return element(
        "text",
        str(Markup.escape(drawn.text)),
        x=x,
        y=y + TEXT * 0.35,
        font_size=TEXT,
        text_anchor="middle",
        fill=_INK,
        class_="drawing-text",
        **turn,
    )


def _arrow(x: float, y: float, dx: float, dy: float) -> Markup:
    """Draw an arrow head whose tip is at a point."""
    length = math.hypot(dx, dy) or 1.0
    ux, uy = dx / length, dy / length
    back = (x - _ARROW * ux, y - _ARROW * uy)
    corners = [(x, y), (back[0] - _WIDE * uy, back[1] + _WIDE * ux), (back[0] + _WIDE * uy, back[1] - _WIDE * ux)]
    return element("path", d="M" + "L".join(f"{n(a)} {n(b)}" for a, b in corners) + "Z", fill=_INK)
