"""A part as plain values: its surfaces, edges and mass properties."""

import itertools
from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.part.edges import Edges
from rigid_bench.core.part.faces import Cone, Cylinder, OtherFace, Plane, Sphere, Surface, Torus
from rigid_bench.core.part.model import Body


@dataclass(frozen=True, eq=False)
class PartFeatures:
    """What one part is made of, in its own coordinates."""

    #: Only `core/kernel` looks inside.
    shape: Body
    #: It came as triangles: what these show is known, and not that something is missing.
    is_mesh: bool
    #: Says whether there is material at a point, (3,) mm.
    is_inside: Callable[[NDArray[np.float64]], bool]
    #: Faces that carry on in each other, as one; `edges.sides` counts in this list.
    surfaces: tuple[Surface, ...]
    edges: Edges
    #: Every shell is closed.
    closed: bool
    #: mm3, mm2
    volume: float
    area: float
    #: (3,) mm
    centroid: NDArray[np.float64]
    #: (2, 3) mm, least and greatest corner of the tight box along the part's axes.
    box: NDArray[np.float64]

    @cached_property
    def planes(self) -> tuple[Plane, ...]:
        """Flat surfaces."""
        return tuple(surface for surface in self.surfaces if isinstance(surface, Plane))

    @cached_property
    def cylinders(self) -> tuple[Cylinder, ...]:
        """Round walls."""
        return tuple(surface for surface in self.surfaces if isinstance(surface, Cylinder))

    @cached_property
    def cones(self) -> tuple[Cone, ...]:
        """Conical surfaces."""
        return tuple(surface for surface in self.surfaces if isinstance(surface, Cone))

    @cached_property
    def others(self) -> tuple[Sphere | Torus | OtherFace, ...]:
        """The rest."""
        return tuple(surface for surface in self.surfaces if isinstance(surface, Sphere | Torus | OtherFace))

    @cached_property
    def numbers(self) -> dict[tuple[int, ...], int]:
        """The faces of a surface -> its place in `surfaces`."""
        return {surface.faces: number for number, surface in enumerate(self.surfaces)}

    @property
    def is_curved(self) -> bool:
        """It is a solid with faces that are not flat."""
        return not self.is_mesh and any(not isinstance(surface, Plane) for surface in self.surfaces)

    @cached_property
    def corners(self) -> NDArray[np.float64]:
        """(8, 3) mm, of the tight box along the part's axes."""
        return np.array(list(itertools.product(*self.box.T)))

    @property
    def extents(self) -> NDArray[np.float64]:
        """(3,) mm, the sizes of the tight box."""
        sizes: NDArray[np.float64] = self.box[1] - self.box[0]
        return sizes

    @property
    def size(self) -> float:
        """mm, the diagonal of the tight box."""
        return float(np.linalg.norm(self.extents))

    @cached_property
    def plane_arrays(self) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        """Normals and points of the flat faces, (n, 3) each."""
        normals = np.array([plane.normal for plane in self.planes]).reshape(-1, 3)
        return normals, np.array([plane.point for plane in self.planes]).reshape(-1, 3)

    @cached_property
    def bosses(self) -> tuple[Cylinder, ...]:
        """Round walls with the material inside."""
        return tuple(cylinder for cylinder in self.cylinders if not cylinder.is_hollow and cylinder.goes_round)
