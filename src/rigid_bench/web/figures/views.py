"""Hidden-line views as SVG: seen edges whole, hidden ones dashed."""

from markupsafe import Markup

from rigid_bench.core.exercise.pictures import Polyline, ViewModel
from rigid_bench.web.figures.svg import n, svg

_MARGIN = 6.0


def view_svg(view: ViewModel, *, scale: float, label: str) -> Markup:
    """Draw one view.

    Parameters
    ----------
    view
        Polylines in mm, y upwards.
    scale
        Pixels per mm: the same for views that belong together.
    label
        What a screen reader says.

    Returns
    -------
    Markup
    """
    (left, bottom), (right, top) = view.box
    width, height = (right - left) * scale + 2 * _MARGIN, (top - bottom) * scale + 2 * _MARGIN

    def path(lines: list[Polyline]) -> str:
        return "".join(
            "M" + "L".join(f"{n((x - left) * scale + _MARGIN)} {n((top - y) * scale + _MARGIN)}" for x, y in line)
            for line in lines
        )

    hidden = Markup('<path d="{}" class="edge-hidden"/>').format(path(view.hidden)) if view.hidden else Markup("")
    seen = Markup('<path d="{}" class="edge"/>').format(path(view.visible))
    return svg(hidden + seen, width=width, height=height, label=label, kind="view")
