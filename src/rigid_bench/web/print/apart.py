"""A build drawn apart on paper: at a standard scale, with trails, numbers and a list of its parts."""

from collections.abc import Mapping

from markupsafe import Markup

from rigid_bench.core.bench.documents import Exploded
from rigid_bench.core.standards.scales import largest_scale, scale_text
from rigid_bench.web.figures.svg import element, n
from rigid_bench.web.print.cards import to_pdf
from rigid_bench.web.render import templates

_INK, _SOFT = "#17242b", "#56606a"
#: mm: room for the view on A4 upright, room beside it for the numbers, their height.
_ROOM, _BESIDE, _TEXT = (165.0, 175.0), 14.0, 3.5


def apart_svg(found: Exploded) -> tuple[Markup, str]:
    """Draw it, mm on paper, and say at which scale (ISO 5455)."""
    (left, bottom), (right, top) = found.view.box
    scale = largest_scale(right - left, top - bottom, paper=(_ROOM[0] - _BESIDE, _ROOM[1]))
    width, height = (right - left) * scale + _BESIDE + 2, (top - bottom) * scale + 2 + _TEXT

    def place(point: list[float]) -> str:
        return f"{n((point[0] - left) * scale + 1)} {n((top - point[1]) * scale + 1 + _TEXT / 2)}"

    def path(lines: list[list[list[float]]]) -> str:
        return "".join("M" + "L".join(place(point) for point in line) for line in lines)

    body = [
        element("path", d=path(found.trails), fill="none", stroke=_SOFT, stroke_width=0.25, stroke_dasharray="4 1 1 1"),
        element("path", d=path(found.view.visible), fill="none", stroke=_INK, stroke_width=0.35),
    ]
    level = -_TEXT
    for each in sorted(found.balloons, key=lambda own: -own.at[1]):
        x, y = (float(value) for value in place(each.at).split())
        level = max(level + _TEXT + 1.5, y)  # numbers stand below each other at the right, none on another
        end = width - _BESIDE + 4
        body.append(
            element("path", d=f"M{n(x)} {n(y)}L{n(end)} {n(level)}", fill="none", stroke=_INK, stroke_width=0.18)
        )
        body.append(element("text", str(each.number), x=end + 1.5, y=level + 1.2, font_size=_TEXT, fill=_INK))
    height = max(height, level + _TEXT)
    return Markup(
        '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {w} {h}" width="{w}mm" height="{h}mm" role="img" '
        'aria-label="The build drawn apart"><title>The build drawn apart</title>{body}</svg>'
    ).format(w=n(width), h=n(height), body=Markup("").join(body)), scale_text(scale)


def apart_pdf(found: Exploded, *, title: str, name: str, called: Mapping[str, str]) -> bytes:
    """Return it as PDF with a title block and the order in which the parts come, each as it is called."""
    drawing, scale = apart_svg(found)
    text = templates.env.get_template("print_apart.html").render(
        drawing=drawing, scale=scale, title=title, name=name, found=found, called=called
    )
    return to_pdf(text)
