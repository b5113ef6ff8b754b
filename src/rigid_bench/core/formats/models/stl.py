"""STL, as text or binary: triangles without a unit."""

from rigid_bench.core.formats.content.mesh_text import check_mesh, mesh_kind
from rigid_bench.core.formats.model_format import ModelFormat

FORMAT = ModelFormat(
    name="STL",
    extensions=(".stl",),
    is_content=lambda data: mesh_kind(data) == "STL",
    check=check_mesh,
    reader="rigid_bench.core.kernel.meshes.mesh_file:read_mesh",
    is_exact=False,
)
