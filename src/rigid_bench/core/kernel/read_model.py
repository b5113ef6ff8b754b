"""Read any file of parts, and any part of it, whichever reader it needs."""

from functools import partial

import numpy as np
from trimesh import Trimesh

from rigid_bench.core.formats.mesh_text import is_mesh
from rigid_bench.core.kernel.feature_reader import read_features
from rigid_bench.core.kernel.meshes.mesh_body import encloses, flat_surfaces
from rigid_bench.core.kernel.meshes.mesh_file import read_mesh
from rigid_bench.core.kernel.step_file import read_step
from rigid_bench.core.part.edges import Edges
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.part.model import Body, Model
from rigid_bench.core.values.errors import GeometryError
from rigid_bench.core.values.tolerance import Tolerance

#: A mesh of less volume, as a share of its size cubed, encloses nothing.
_FLAT = 1e-10


def read_model(data: bytes, *, name: str) -> Model:
    """Read the parts and instances of a STEP, STL or 3MF file.

    Raises
    ------
    UnreadableFile
        The data is none of these, is cut off or broken, or holds no body.
    """
    return read_mesh(data, name=name) if is_mesh(name, data) else read_step(data, name=name)


def read_part(body: Body, *, tolerance: Tolerance) -> PartFeatures:
    """Read a body into named surfaces and its mass properties.

    Parameters
    ----------
    body
        A solid, or a mesh: of a mesh only flat surfaces are named.
    tolerance
        For joining faces.

    Raises
    ------
    GeometryError
        The kernel cannot read a face, or the body encloses nothing.
    """
    return read_mesh_part(body) if isinstance(body, Trimesh) else read_features(body, tolerance=tolerance)


def read_mesh_part(mesh: Trimesh) -> PartFeatures:
    """Read a mesh as `read_features` reads a solid.

    Raises
    ------
    GeometryError
        It encloses nothing.
    """
    box = np.asarray(mesh.bounds, dtype=float)
    if abs(float(mesh.volume)) < _FLAT * float(np.linalg.norm(box[1] - box[0])) ** 3:
        raise GeometryError("part", "its triangles enclose no volume", "Close the body, then export it again")
    return PartFeatures(
        shape=mesh,
        is_mesh=True,
        is_inside=partial(encloses, mesh),
        surfaces=tuple(flat_surfaces(mesh)),
        edges=Edges.none(),
        closed=bool(mesh.is_watertight),
        volume=abs(float(mesh.volume)),
        area=float(mesh.area),
        centroid=np.asarray(mesh.center_mass, dtype=float),
        box=box,
    )
