"""Read a mesh into named surfaces and its mass properties."""

from functools import partial

import numpy as np
from trimesh import Trimesh

from rigid_bench.core.kernel.meshes.chords import read_chords
from rigid_bench.core.kernel.meshes.mesh_body import encloses
from rigid_bench.core.kernel.meshes.mesh_curved import name_pieces
from rigid_bench.core.kernel.meshes.mesh_edges import edges_between
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.values.errors import GeometryError
from rigid_bench.core.wording.language import _

#: A mesh of less volume, as a share of its size cubed, encloses nothing.
_FLAT = 1e-10


def read_mesh_part(mesh: Trimesh) -> PartFeatures:
    """Read a mesh as `read_features` reads a solid.

    Raises
    ------
    GeometryError
        It encloses nothing.
    """
    box = np.asarray(mesh.bounds, dtype=float)
    if abs(float(mesh.volume)) < _FLAT * float(np.linalg.norm(box[1] - box[0])) ** 3:
        raise GeometryError(_("part"), _("its triangles enclose no volume"), _("Close the body, then export it again"))
    chords = read_chords(mesh)
    surfaces = tuple(name_pieces(chords))
    return PartFeatures(
        shape=mesh,
        is_mesh=True,
        is_inside=partial(encloses, mesh),
        surfaces=surfaces,
        edges=edges_between(mesh, surfaces),
        closed=bool(mesh.is_watertight),
        volume=abs(float(mesh.volume)),
        area=float(mesh.area),
        centroid=np.asarray(mesh.center_mass, dtype=float),
        box=box,
    )
