"""From where views look, and their axes: plain values, for whoever draws without the kernel."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.values.frames import any_normal

_Array = NDArray[np.float64]


@dataclass(frozen=True, slots=True, kw_only=True)
class Direction:
    """From where a view looks, and what is to its right."""

    name: str
    #: Towards the eye.
    toward: tuple[float, float, float]
    right: tuple[float, float, float]


#: Third angle or first angle is a matter of where the views are put, not of what they show.
FRONT = Direction(name="front", toward=(0, -1, 0), right=(1, 0, 0))
TOP = Direction(name="top", toward=(0, 0, 1), right=(1, 0, 0))
SIDE = Direction(name="right side", toward=(1, 0, 0), right=(0, 1, 0))
LEFT = Direction(name="left side", toward=(-1, 0, 0), right=(0, -1, 0))
BACK = Direction(name="back", toward=(0, 1, 0), right=(-1, 0, 0))
BOTTOM = Direction(name="bottom", toward=(0, 0, -1), right=(1, 0, 0))
PICTORIAL = Direction(name="pictorial", toward=(-1, -1, 0.8), right=(1, -1, 0))
VIEWS = (FRONT, TOP, SIDE, PICTORIAL)
#: What a drawing may show, the front view first.
SQUARE_VIEWS = {view.name: view for view in (FRONT, TOP, SIDE, LEFT, BACK, BOTTOM)}


def axes_of(view: Direction) -> _Array:
    """Return what is right, up and towards the eye in a view, (3, 3) rows."""
    toward = np.array(view.toward, dtype=float)
    toward /= np.linalg.norm(toward)
    right = np.array(view.right, dtype=float)
    right = right - float(right @ toward) * toward
    right = right / np.linalg.norm(right) if np.linalg.norm(right) > 0 else any_normal(toward)
    return np.array([right, np.cross(toward, right), toward])
