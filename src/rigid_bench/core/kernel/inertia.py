"""Moments of inertia of a body."""

import numpy as np
from numpy.typing import NDArray
from OCP.BRepGProp import BRepGProp
from OCP.GProp import GProp_GProps

from rigid_bench.core.kernel.binding import kernel
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.wording.language import _

_Array = NDArray[np.float64]


def principal_inertia(part: PartFeatures) -> tuple[_Array, _Array]:
    """Return the principal moments about the centre of mass, (3,) mm5 ascending, and their axes as columns, (3, 3).

    Raises
    ------
    GeometryError
        The kernel cannot integrate over the solid.
    """
    if part.is_mesh:
        matrix = np.asarray(part.shape.moment_inertia)
    else:
        props = GProp_GProps()
        with kernel(_("working out moments of inertia")):
            BRepGProp.VolumeProperties_s(part.shape, props, False, False, False)
            inertia = props.MatrixOfInertia()
        matrix = np.array([[inertia.Value(row, column) for column in range(1, 4)] for row in range(1, 4)])
    moments, axes = np.linalg.eigh(matrix)
    return moments, axes
