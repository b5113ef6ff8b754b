"""3MF: triangles with their unit, several bodies in one file."""

from rigid_bench.core.formats.content.mesh_text import check_mesh, mesh_kind
from rigid_bench.core.formats.model_format import ModelFormat

FORMAT = ModelFormat(
    name="3MF",
    extensions=(".3mf",),
    is_content=lambda data: mesh_kind(data) == "3MF",
    check=check_mesh,
    reader="rigid_bench.core.kernel.meshes.mesh_file:read_mesh",
    is_exact=False,
)
