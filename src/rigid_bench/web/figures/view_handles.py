"""Where a view of a drawn sheet is taken hold of to move it on the paper."""

from collections.abc import Mapping

from markupsafe import Markup

from rigid_bench.core.drawing.layout.paper import size_of
from rigid_bench.core.drawing.report import SheetReport, view_name
from rigid_bench.core.wording.datums import capitalized
from rigid_bench.core.wording.language import _, translated

#: mm by which a handle reaches beyond its view.
_BEYOND = 1.5


def view_handles(sheet: SheetReport, names: Mapping[str, str]) -> str:
    """Draw the box of each view that can be moved, with its part and its name.

    Parameters
    ----------
    sheet
        What is drawn.
    names
        By part: what it is called.

    Returns
    -------
    str
        SVG rectangles in mm, y downwards, as `sheet_svg` writes them.
    """
    height = size_of(sheet)[1]
    handles = []
    for view in sheet.views:
        name = view_name(view)
        if view.part is None or name is None:
            continue
        left, low, right, top = view.box
        part = names.get(view.part, view.part)
        handles.append(
            Markup(
                '<rect class="view-handle" data-part="{}" data-view="{}" tabindex="0" role="button" '
                'aria-label="{}" x="{:.2f}" y="{:.2f}" width="{:.2f}" height="{:.2f}"/>'
            ).format(
                view.part,
                name,
                _(
                    "{view} view of {part}: drag it, or use the arrow keys",
                    view=capitalized(translated(name)),
                    part=part,
                ),
                left - _BEYOND,
                height - top - _BEYOND,
                right - left + 2 * _BEYOND,
                top - low + 2 * _BEYOND,
            )
        )
    return "".join(handles)
