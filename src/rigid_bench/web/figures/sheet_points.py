"""What can be pointed at in the views of a drawn sheet: the edges of each feature, in the paper's mm."""

from collections.abc import Mapping, Sequence

import numpy as np
from markupsafe import Markup
from numpy.typing import NDArray

from rigid_bench.core.drawing.layout.paper import size_of
from rigid_bench.core.drawing.report import SheetReport, ViewReport, view_name
from rigid_bench.core.formats.pointing import Pointable
from rigid_bench.core.part.directions import PICTORIAL, SQUARE_VIEWS, axes_of

_Array = NDArray[np.float64]


def sheet_points(sheet: SheetReport, points: Mapping[str, Sequence[Pointable]]) -> str:
    """Draw the edges by which features are pointed at; each carries its feature's number.

    Parameters
    ----------
    sheet
        What is drawn.
    points
        By part: what can be pointed at, the largest first: small ones lie on top.

    Returns
    -------
    str
        SVG paths in mm, y downwards, as `sheet_svg` writes them.
    """
    _, height = size_of(sheet)
    markups = []
    for view in sheet.views:
        name = PICTORIAL.name if view.kind == "pictorial" else view_name(view)
        if view.part is None or name is None or view.form == "broken":
            continue
        turn = _onto_paper(view, name)
        for number, feature in enumerate(points.get(view.part, ())):
            lines = feature.lines.get(name)
            if lines:
                path = "".join(_path(np.array(line) @ turn.T + view.origin, height) for line in lines)
                markups.append(
                    Markup('<path d="{}" class="point" data-feature="{}"><title>{}</title></path>').format(
                        path, number, feature.words
                    )
                )
    return "".join(markups)


def _onto_paper(view: ViewReport, name: str) -> _Array:
    """Return what takes mm of the view as it is seen to mm on paper: its scale, and how it is turned, (2, 2)."""
    seen = axes_of(PICTORIAL if name == PICTORIAL.name else SQUARE_VIEWS[name])[:2]
    paper, model = map(float, view.scale.split(":"))
    return np.array([view.right, view.up]) @ seen.T * (paper / model)


def _path(points: _Array, height: float) -> str:
    return "M" + "L".join(f"{x:.2f} {height - y:.2f}" for x, y in points.tolist())
