"""AMF (ISO/ASTM 52915): triangles with their unit, several bodies in one file."""

from rigid_bench.core.formats.content.mesh_text import check_mesh, mesh_kind
from rigid_bench.core.formats.model_format import ModelFormat

FORMAT = ModelFormat(
    name="AMF",
    extensions=(".amf",),
    is_content=lambda data: mesh_kind(data) == "AMF",
    check=check_mesh,
    reader="rigid_bench.core.kernel.meshes.mesh_file:read_mesh",
    is_exact=False,
)
