"""glTF 2.0, binary or with its data inside: triangles in metres with y up."""

from rigid_bench.core.formats.content.mesh_text import check_mesh, mesh_kind
from rigid_bench.core.formats.model_format import ModelFormat

FORMAT = ModelFormat(
    name="glTF",
    extensions=(".glb", ".gltf"),
    is_content=lambda data: mesh_kind(data) == "glTF",
    check=check_mesh,
    reader="rigid_bench.core.kernel.meshes.mesh_file:read_mesh",
    is_exact=False,
)
