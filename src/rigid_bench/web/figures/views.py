"""Hidden-line views as SVG: seen edges whole, hidden ones dashed."""

from collections.abc import Mapping, Sequence
from typing import Any

from markupsafe import Markup

from rigid_bench.core.formats.pictures import Polyline, ViewModel
from rigid_bench.core.formats.pointing import Pointable
from rigid_bench.core.part.directions import PICTORIAL
from rigid_bench.web.figures.svg import n, svg

_MARGIN = 6.0
#: Pixels of a thumbnail.
_THUMBNAIL = 60.0


def pointing_svg(view: ViewModel, features: Sequence[Pointable], *, scale: float, label: str) -> Markup:
    """Draw one view with the edges by which features are pointed at; each carries its feature's number.

    Parameters are those of `view_svg`, and what can be pointed at, the largest first: small ones lie on top.
    """
    points = Markup("").join(
        Markup('<path d="{}" class="point" data-feature="{}"><title>{}</title></path>').format(
            _path(lines, view, scale), number, feature.words
        )
        for number, feature in enumerate(features)
        if (lines := feature.lines.get(view.name))
    )
    return view_svg(view, scale=scale, label=label, over=points)


def view_svg(view: ViewModel, *, scale: float, label: str, over: Markup = Markup("")) -> Markup:
    """Draw one view.

    Parameters
    ----------
    view
        Polylines in mm, y upwards.
    scale
        Pixels per mm: the same for views that belong together.
    label
        What a screen reader says.
    over
        Drawn over it, in the same pixels.

    Returns
    -------
    Markup
    """
    (left, bottom), (right, top) = view.box
    width, height = (right - left) * scale + 2 * _MARGIN, (top - bottom) * scale + 2 * _MARGIN

    hidden = (
        Markup('<path d="{}" class="edge-hidden" fill="none" stroke="#56606a" stroke-dasharray="4 2.5"/>').format(
            _path(view.hidden, view, scale)
        )
        if view.hidden
        else Markup("")
    )
    seen = Markup('<path d="{}" class="edge" fill="none" stroke="#17242b"/>').format(_path(view.visible, view, scale))
    return svg(hidden + seen + over, width=width, height=height, label=label, kind="view")


def _path(lines: Sequence[Polyline], view: ViewModel, scale: float) -> str:
    (left, _), (_, top) = view.box
    return "".join(
        "M" + "L".join(f"{n((x - left) * scale + _MARGIN)} {n((top - y) * scale + _MARGIN)}" for x, y in line)
        for line in lines
    )


def thumbnail(view: Mapping[str, Any], pixels: float = _THUMBNAIL) -> Markup:
    """Draw a view small, only what is seen.

    Parameters
    ----------
    view
        A `ViewModel` as JSON.
    pixels
        Of its longer side.
    """
    seen = ViewModel.model_validate({**view, "hidden": []})
    (left, low), (right, high) = seen.box
    return view_svg(seen, scale=pixels / max(right - left, high - low, 1e-9), label="")


def thumbnails(prepared: Mapping[str, Any]) -> dict[str, Markup]:
    """Draw each part of an exercise small, in its pictorial view; empty for what was prepared without pictures.

    Parameters
    ----------
    prepared
        `Prepared` as it is kept: not read as a whole, for this alone.
    """
    pictures = {}
    for part, own in prepared.get("sheet", {}).get("parts", {}).items():
        views = own["views"] if isinstance(own, dict) else own
        seen = next((view for view in views if view["name"] == PICTORIAL.name), None)
        if seen is not None:
            pictures[part] = thumbnail(seen)
    return pictures
