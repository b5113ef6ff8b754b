"""The box of a part, from how it is seen."""

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.formats.pictures import PartPictures
from rigid_bench.core.part.directions import SQUARE_VIEWS, axes_of

_Array = NDArray[np.float64]


def box_of(pictures: PartPictures) -> _Array:
    """Return a part's least and greatest corner, (2, 3) mm, from its views."""
    box = np.zeros((2, 3))
    for view in pictures.views:
        if view.name not in SQUARE_VIEWS:
            continue
        axes = axes_of(SQUARE_VIEWS[view.name])
        for k in (0, 1):
            axis = int(np.abs(axes[k]).argmax())
            ends = sorted(float(axes[k][axis]) * view.box[side][k] for side in (0, 1))
            box[:, axis] = ends
    return box
