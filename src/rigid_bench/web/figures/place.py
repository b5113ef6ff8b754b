"""A small picture of the place that a check is about."""

import math

from markupsafe import Markup

from rigid_bench.core.formats.pictures import PictureModel, Polyline
from rigid_bench.web.figures.svg import n, svg

_MARGIN = 8.0
_HEAD = 6.0


def place_svg(picture: PictureModel, *, label: str, size: tuple[float, float] = (190.0, 120.0)) -> Markup:
    """Draw the student's part, what is meant lit up, the right position as a ghost, and an arrow with its size.

    Parameters
    ----------
    picture
        What is seen, mm.
    label
        For those who do not see it.
    size
        Pixels that it fills at most: width and height.
    """
    (left, bottom), (right, top) = picture.box
    scale = min(
        (size[0] - 2 * _MARGIN) / max(right - left, 1e-6), (size[1] - 2 * _MARGIN - 10) / max(top - bottom, 1e-6)
    )

    def at(x: float, y: float) -> tuple[float, float]:
        return (x - left) * scale + _MARGIN, (top - y) * scale + _MARGIN

    def lines(polylines: list[Polyline], kind: str) -> Markup:
        if not polylines:
            return Markup("")
        path = "".join("M" + "L".join(f"{n(a)} {n(b)}" for a, b in (at(x, y) for x, y in line)) for line in polylines)
        return Markup('<path d="{}" class="{}"/>').format(path, kind)

    height = (top - bottom) * scale + 2 * _MARGIN + (12 if picture.label else 0)
    width = (right - left) * scale + 2 * _MARGIN
    drawn = lines(picture.hidden, "edge-hidden") + lines(picture.ghost, "edge-ghost")
    drawn += lines(picture.visible, "edge") + lines(picture.lit, "edge-lit")
    if picture.arrow:
        drawn += _arrow(at(*picture.arrow[0]), at(*picture.arrow[1]))
    if picture.label:
        drawn += Markup('<text x="{}" y="{}" class="place-label">{}</text>').format(
            n(_MARGIN), n(height - 3), picture.label
        )
    return svg(drawn, width=max(width, 90.0), height=height, label=label, kind="place")


def _arrow(start: tuple[float, float], end: tuple[float, float]) -> Markup:
    away = math.hypot(end[0] - start[0], end[1] - start[1])
    if away < 1:
        return Markup("")
    along = ((end[0] - start[0]) / away, (end[1] - start[1]) / away)
    head = min(_HEAD, away)
    back = (end[0] - head * along[0], end[1] - head * along[1])
    side = (-along[1] * head / 2.5, along[0] * head / 2.5)
    corners = " ".join(
        f"{n(x)},{n(y)}"
        for x, y in (end, (back[0] + side[0], back[1] + side[1]), (back[0] - side[0], back[1] - side[1]))
    )
    return Markup('<path d="M{} {}L{} {}" class="place-arrow"/><polygon points="{}" class="place-head"/>').format(
        n(start[0]), n(start[1]), n(back[0]), n(back[1]), corners
    )
