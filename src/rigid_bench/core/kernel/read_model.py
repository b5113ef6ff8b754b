"""Read any file of parts, and any part of it, whichever reader it needs."""

from OCP.TopoDS import TopoDS_Shape

from rigid_bench.core.formats.mesh_text import is_mesh
from rigid_bench.core.kernel.feature_reader import read_features
from rigid_bench.core.kernel.step_file import read_step
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.part.model import Body, Model
from rigid_bench.core.values.tolerance import Tolerance


def read_model(data: bytes, *, name: str) -> Model:
    """Read the parts and instances of a STEP, STL or 3MF file.

    Raises
    ------
    UnreadableFile
        The data is none of these, is cut off or broken, or holds no body.
    """
    if not is_mesh(name, data):
        return read_step(data, name=name)
    from rigid_bench.core.kernel.meshes.mesh_file import read_mesh  # the mesh libraries only where a mesh comes

    return read_mesh(data, name=name)


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
    if isinstance(body, TopoDS_Shape):
        return read_features(body, tolerance=tolerance)
    from rigid_bench.core.kernel.meshes.mesh_part import read_mesh_part

    return read_mesh_part(body)
